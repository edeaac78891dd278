"""Numbers as they are written for people."""

from __future__ import annotations

import unittest

from hypothesis import given
from hypothesis import strategies as st

from oat_tide.core.numerals import compact, set_marks


class Compact(unittest.TestCase):
    def setUp(self) -> None:
        set_marks(".", ",")

    def test_millions_and_thousands_of_millions_have_a_mark(self) -> None:
        for value, written in (
            (10264.0, "10,264"),
            (999_999.0, "999,999"),
            (1_000_000.0, "1.000 M"),
            (2_516_863.0, "2.517 M"),
            (-2_516_863.0, "−2.517 M"),
            (30_040_000.0, "30.04 M"),
            (1.2345e9, "1.234 bn"),
        ):
            with self.subTest(value):
                self.assertEqual(compact(value), written)

    @given(st.floats(0.01, 9e11), st.booleans())
    def test_it_has_room_on_the_rail_and_four_digits_are_right(self, size: float, below: bool) -> None:
        value = -size if below else size
        written = compact(value)
        self.assertLessEqual(len(written), 9)
        figure, _, mark = written.replace("−", "-").replace(",", "").partition(" ")
        found = float(figure) * {"": 1.0, "M": 1e6, "bn": 1e9}[mark]
        self.assertLessEqual(abs(found - value), 0.0005001 * size)
