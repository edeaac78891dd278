"""The table of methods, and what is told of it."""

from __future__ import annotations

import typing
import unittest
from pathlib import Path

from oat_tide.core.methods import ROOMS as MODULES
from oat_tide.core.methods.table import METHODS
from oat_tide.plan.parts.project import Name
from oat_tide.stages.methods.table import ROOMS

_TOP = Path(__file__).parent.parent.parent.parent


class Table(unittest.TestCase):
    def test_every_method_has_both_halves_of_its_room_and_can_be_chosen(self) -> None:
        for table in (METHODS, ROOMS, dict.fromkeys(typing.get_args(Name))):
            self.assertEqual(list(table), list(MODULES))
        for name, room in ROOMS.items():
            self.assertIs(room.method, METHODS[name])
            self.assertTrue(room.method.source and room.method.title)

    def test_their_number_is_told(self) -> None:
        self.assertIn(f"any of {len(METHODS)} methods", (_TOP / "README.md").read_text().replace("\n", " "))
