"""Moments as people read them."""

from __future__ import annotations

import datetime as dt


def local_time(moment: dt.datetime) -> str:
    """A moment to the minute, by the clock of this machine: 2026-12-01 10:40."""
    return f"{moment.astimezone():%Y-%m-%d %H:%M}"
