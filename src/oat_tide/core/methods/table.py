"""Every method by name, in the order that they are offered.

Each is (values, weights, starts, horizon, how) -> what each start projects (`shape`), so that a projection is
one start, a record on past starts is many, and neither is written twice.
"""

from __future__ import annotations

from importlib import import_module

from oat_tide.core.methods import ROOMS
from oat_tide.core.methods.shape import Method


def _method(name: str, room: str) -> Method:
    methods: tuple[Method, ...] = import_module(f"oat_tide.core.methods.{room}").METHODS
    return next(each for each in methods if each.name == name)


METHODS: dict[str, Method] = {name: _method(name, room) for name, room in ROOMS.items()}
