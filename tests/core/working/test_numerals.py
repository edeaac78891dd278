"""Numbers as they are written for people."""

from __future__ import annotations

import unittest

from hypothesis import given
from hypothesis import strategies as st

from oat_tide.core.working.numerals import compact, full, number_of, set_marks


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


class Full(unittest.TestCase):
    def tearDown(self) -> None:
        set_marks(".", ",")

    def test_every_decimal_is_written_and_no_noise(self) -> None:
        for value, written in (
            (1234567.0, "1,234,567"),
            (0.1 + 0.2, "0.30000000000000004"),
            (-1234.5678901, "−1,234.5678901"),
            (1e-9, "0.000000001"),
            (float("nan"), ""),
        ):
            self.assertEqual(full(value), written)

    @given(st.floats(-1e12, 1e12))
    def test_what_is_written_is_read_back(self, value: float) -> None:
        for marks in ((".", ","), (",", "."), (",", "\N{NARROW NO-BREAK SPACE}")):
            set_marks(*marks)
            self.assertEqual(number_of(full(value)), value)

    def test_a_figure_typed_in_another_way_is_none_rather_than_another_figure(self) -> None:
        set_marks(".", ",")
        for text in ("12,5", "1.234,5", "1,23", "12.5.1", "six", ""):
            self.assertIsNone(number_of(text), text)
        set_marks(",", ".")
        self.assertEqual([number_of(text) for text in ("12,5", "1.234,5", "12.5")], [12.5, 1234.5, None])
