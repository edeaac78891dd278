"""Numbers as they are written for people."""

from __future__ import annotations

import math
import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from oat_tide.core.periods.named import month_named, use_names
from oat_tide.core.working.number_format import (
    all_whole,
    compact,
    decimals_for,
    exponent,
    fixed,
    full,
    marks,
    number_of,
    row_decimals,
    scientific,
    set_marks,
    significant,
)  # fmt: skip
from oat_tide.stages.seasons.typed import holiday, raised


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
            # 2**-24 lies halfway between two of its shortest form.
            (2.0**-24, "0.00000005960464477539063"),
            (-0.0, "0"),
            (float("nan"), ""),
        ):
            self.assertEqual(full(value), written)

    def test_what_is_beyond_all_digits_is_told_by_its_power_of_ten(self) -> None:
        for value, written in (
            (999e15, "999,000,000,000,000,000"),
            (1e18, "1 × 10¹⁸"),
            (-1.25e207, "−1.25 × 10²⁰⁷"),
            (1e-15, "0.000000000000001"),
            (2.5e-16, "2.5 × 10⁻¹⁶"),
        ):
            self.assertEqual(full(value), written)
        self.assertEqual(
            (fixed(1.25e207, 2, plus=True), compact(1.25e207)), ("+1.25 × 10²⁰⁷", "1.250 × 10²⁰⁷")
        )
        self.assertEqual(
            (significant(-2.5e-16), significant(2.5e-16, plus=True)), ("−2.500 × 10⁻¹⁶", "+2.500 × 10⁻¹⁶")
        )

    @given(st.floats(allow_nan=False, allow_infinity=False))
    def test_no_figure_is_longer_than_a_line(self, value: float) -> None:
        for written in (full(value), fixed(value, 2), significant(value), compact(value)):
            self.assertLessEqual(len(written), 40)

    @given(st.floats(allow_nan=False, allow_infinity=False))
    def test_what_is_written_is_read_back(self, value: float) -> None:
        for both in ((".", ","), (",", "."), (",", "\N{NARROW NO-BREAK SPACE}")):
            set_marks(*both)
            self.assertEqual(number_of(full(value)), value)

    def test_a_figure_typed_in_another_way_is_none_rather_than_another_figure(self) -> None:
        set_marks(".", ",")
        for text in ("12,5", "1.234,5", "1,23", "12.5.1", "six", ""):
            self.assertIsNone(number_of(text), text)
        set_marks(",", ".")
        self.assertEqual([number_of(text) for text in ("12,5", "1.234,5", "12.5")], [12.5, 1234.5, 12.5])


class Rows(unittest.TestCase):
    def test_a_whole_row_has_the_decimals_that_its_largest_value_needs(self) -> None:
        """Four digits of the largest: 12.34 has two decimals, 0.0123 five, 99,999 none; six at the most."""
        for row, decimals in (
            ([12.34, 5.0], 2),
            ([1234.5, 0.25], 0),
            ([0.0123, -0.001], 5),
            ([99_999.5], 0),
            ([9.9996], 2),
            ([3.0, 400.0], 0),
            ([0.0], 0),
            ([math.nan], 0),
            ([math.inf], 0),
            ([1e-9], 6),
        ):
            with self.subTest(row):
                self.assertEqual(row_decimals(np.array(row)), decimals)

    def test_the_digits_of_whole_numbers_are_counted_before_they_are_cut(self) -> None:
        whole = np.array([3.0, 5.0, math.nan])
        self.assertEqual((decimals_for(whole), row_decimals(whole)), (3, 0))
        self.assertTrue(all_whole(whole))
        self.assertFalse(all_whole(np.array([3.0, 5.5])))

    def test_the_leading_power_is_told_once_rounded(self) -> None:
        self.assertEqual([exponent(v, 4) for v in (9.9994, 9.9996, 0.0123, 1234.0)], [0, 1, -2, 3])


class Marks(unittest.TestCase):
    def tearDown(self) -> None:
        set_marks(".", ",")

    def test_they_can_be_handed_to_another_process(self) -> None:
        set_marks(",", ".")
        self.assertEqual((marks(), fixed(1234.5, 1)), ((",", "."), "1.234,5"))


class Scientific(unittest.TestCase):
    def test_tiny_figures_are_told_by_their_power_of_ten(self) -> None:
        for value, text in ((6.609e-7, "6.6 × 10⁻⁷"), (-1.96e-5, "−2.0 × 10⁻⁵"), (9.96e-6, "1.0 × 10⁻⁵")):
            self.assertEqual(scientific(value), text)


class Typed(unittest.TestCase):
    def test_the_point_is_read_in_every_locale_where_it_can_be_nothing_else(self) -> None:
        self.addCleanup(set_marks, *marks())
        set_marks(",", ".")
        for text, value in {"8,5": 8.5, "8.5": 8.5, "1.500": 1500, "1.500,25": 1500.25, "1,500": 1.5}.items():
            self.assertEqual(number_of(text), value, text)
        for text in ("1,5,5", "8.5.1", "eight", ""):
            self.assertIsNone(number_of(text), text)

    def test_digits_of_any_script_are_digits(self) -> None:
        self.assertEqual(number_of("١٢٫٥"), 12.5)
        self.assertEqual(number_of("۷"), 7)

    def test_months_are_known_in_english_and_in_the_language_of_the_desktop(self) -> None:
        german = ["Januar", "Februar", "März", "April", "Mai", "Juni", "Juli", "August", "September"]
        german += ["Oktober", "November", "Dezember"]
        self.addCleanup(use_names, ())
        self.assertEqual((month_named("Dec"), month_named("Dezember"), month_named("Ma")), (12, 0, 0))
        use_names(german)
        self.assertEqual((month_named("Dez."), month_named("MARZ"), month_named("Oct")), (12, 3, 10))

    def test_a_share_before_a_moving_holiday_is_typed_with_a_comma_too(self) -> None:
        for text in ("Easter 14 days 8,5 %", "Easter 14 days 8.5 %", "Easter ١٤ days ٨٫٥ %"):
            self.assertEqual(raised(text).percent, 8.5, text)
        self.assertEqual(holiday("25. december Christmas").month, 12)
