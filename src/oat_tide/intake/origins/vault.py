"""Passwords of servers: held in memory for as long as the program runs, and written nowhere."""

from __future__ import annotations

import os
from typing import TYPE_CHECKING

from oat_tide.core.trouble import Trouble

if TYPE_CHECKING:
    import sqlalchemy as sa

_KEPT: dict[str, str] = {}
FROM_ENVIRONMENT = "OAT_TIDE_PASSWORD"


def is_address(place: str) -> bool:
    """Whether a place is the address of a server."""
    return "://" in place


def bare(address: str) -> str:
    """The address without its password, which is kept for this run of the program.

    Raises:
        Trouble: it is no address.
    """
    url = _url(address)
    place = url._replace(password=None).render_as_string()
    if url.password:
        _KEPT[place] = str(url.password)
    return place


def keep(place: str, password: str) -> None:
    """Keep the password of a server for this run of the program."""
    _KEPT[place] = password


def full(place: str) -> sa.URL:
    """The address with the password that was given or stands in the environment, and a driver."""
    url = _url(place)
    password = _KEPT.get(place) or os.environ.get(FROM_ENVIRONMENT)
    if password:
        url = url.set(password=password)
    if url.drivername in ("postgresql", "postgres"):
        url = url.set(drivername="postgresql+psycopg")
    return url


def scrubbed(place: str, text: str) -> str:
    """A message of a server or driver without the password."""
    for password in (_KEPT.get(place), os.environ.get(FROM_ENVIRONMENT)):
        if password:
            text = text.replace(password, "…")
    return text


def _url(address: str) -> sa.URL:
    # It loads slowly, and only databases need it.
    import sqlalchemy as sa

    try:
        return sa.make_url(address)
    except (sa.exc.ArgumentError, ValueError) as error:
        # The message of the library would quote the address, password and all.
        raise Trouble(
            "This is no address of a database. Write it as in postgresql://user@server/database."
        ) from error
