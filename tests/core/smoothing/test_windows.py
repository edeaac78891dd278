"""Which periods a window takes in, and rolling totals and means, against plain rules."""

from __future__ import annotations

import datetime as dt
import math
import unittest
from fractions import Fraction

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from oat_tide.core.periods.calendar import Grid, Kind, day_number
from oat_tide.core.smoothing import ranks, sums
from oat_tide.core.smoothing.windows import Window, centred, held, holds, placed, spanning, trailing

CENTS = st.lists(st.one_of(st.none(), st.integers(-(10**7), 10**7)), min_size=1, max_size=60)
BACK, AHEAD = st.integers(0, 9), st.integers(0, 4)
NAN = math.nan


def known(cents: list[int | None]) -> np.ndarray:
    return np.array([NAN if each is None else each / 100 for each in cents])


def inside(values: np.ndarray, window: Window, column: int) -> list[float]:
    """What is known in the window of a column, the plain way."""
    low, high = max(int(window.first[column]), 0), int(window.last[column])
    return [float(v) for v in values[low : high + 1] if not math.isnan(v)]


class Places(unittest.TestCase):
    def test_worked_examples(self) -> None:
        window = trailing(3, 5)
        self.assertEqual((window.first.tolist(), window.last.tolist()), ([-2, -1, 0, 1, 2], [0, 1, 2, 3, 4]))
        (odd,) = centred(5, 4)
        self.assertEqual((odd.first.tolist(), odd.last.tolist()), ([-2, -1, 0, 1], [2, 3, 4, 5]))
        early, late = centred(4, 4)
        self.assertEqual((early.first[3], early.last[3], late.first[3], late.last[3]), (1, 4, 2, 5))

    def test_six_months_on_days_end_with_the_day_and_begin_after_the_same_day(self) -> None:
        def begins(day: str, kind: Kind, length: int) -> str:
            grid, at = Grid("day"), day_number(dt.date.fromisoformat(day))
            first = spanning(grid, at, 1, kind, length).first[0] + at
            return (dt.date(1970, 1, 1) + dt.timedelta(days=int(first))).isoformat()

        self.assertEqual(begins("2026-09-30", "month", 6), "2026-03-31")
        # 30 February is the last of February.
        self.assertEqual(begins("2026-08-30", "month", 6), "2026-03-01")
        self.assertEqual(begins("2024-02-29", "month", 1), "2024-01-30")
        self.assertEqual(begins("2024-03-31", "quarter", 1), "2024-01-01")
        self.assertEqual(begins("2024-12-31", "year", 1), "2024-01-01")
        self.assertEqual(begins("2026-01-10", "week", 13), "2025-10-12")
        self.assertEqual(begins("2026-01-10", "day", 90), "2025-10-13")

    def test_months_on_weeks_take_in_whole_weeks_alone(self) -> None:
        grid = Grid("week")
        last = grid.period(day_number(dt.date(2026, 3, 31)))
        window = spanning(grid, last, 1, "month", 1)
        # The week ends on Sunday 5 April, the month begins on 6 March: the first whole week on the 9th.
        first = int(window.first[0]) + last
        self.assertEqual(grid.first_day(first), day_number(dt.date(2026, 3, 9)))

    def test_what_a_window_holds(self) -> None:
        values = np.array([[NAN, 5, NAN, 7, 9]])
        found = holds(values, trailing(3, 5))
        self.assertEqual(found.known[0].tolist(), [0, 1, 1, 2, 2])
        # Nothing lies before the first known period: the gap is the third.
        self.assertEqual(found.full[0].tolist(), [False, False, False, True, True])
        self.assertEqual(found.gaps[0].tolist(), [0, 0, 1, 1, 1])
        self.assertEqual(found.counts(False, False)[0].tolist(), [False] * 5)
        self.assertEqual(found.counts(True, False)[0].tolist(), [False, True, False, False, False])
        self.assertEqual(found.counts(False, True)[0].tolist(), [False, False, False, True, True])

    @settings(deadline=None)
    @given(CENTS, BACK, AHEAD)
    def test_how_many_are_held_is_counted(self, cents: list[int | None], back: int, ahead: int) -> None:
        values = known(cents)
        window = placed(back, ahead, len(values))
        count = held(~np.isnan(values), window)
        self.assertEqual(count.tolist(), [len(inside(values, window, at)) for at in range(len(values))])


class Rolled(unittest.TestCase):
    """Every kind over any window is the plain rule over what is known in it."""

    @settings(max_examples=150, deadline=None)
    @given(CENTS, BACK, AHEAD, st.integers(1, 3))
    def test_it_is_the_plain_rule(self, cents: list[int | None], back: int, ahead: int, trim: int) -> None:
        values = known(cents)
        window = placed(back, ahead, len(values))
        kernels = {
            "total": (sums.window_total(values, window, 100.0), math.fsum),
            "mean": (sums.window_mean(values, window, 100.0), lambda each: math.fsum(each) / len(each)),
            "median": (ranks.window_median(values, window, True), lambda each: float(np.median(each))),
            "lowest": (ranks.window_lowest(values, window, True), min),
            "highest": (ranks.window_highest(values, window, True), max),
            "trimmed": (
                ranks.window_trimmed(values, window, trim, True),
                lambda each: math.fsum(sorted(each)[trim:-trim]) / (len(each) - 2 * trim),
            ),
        }
        for name, (found, rule) in kernels.items():
            for at in range(len(values)):
                held_there = inside(values, window, at)
                least = 2 * trim + 1 if name == "trimmed" else 0 if name == "total" else 1
                if len(held_there) < least:
                    self.assertTrue(math.isnan(found[at]), name)
                else:
                    self.assertAlmostEqual(found[at], rule(held_there), delta=1e-6, msg=f"{name} {at}")

    @settings(deadline=None)
    @given(CENTS, st.integers(1, 9))
    def test_many_series_are_the_same_call_as_one(self, cents: list[int | None], length: int) -> None:
        one = known(cents)
        many = np.stack([one, one * 2, np.zeros_like(one)])
        window = trailing(length, len(one))
        for kernel in (sums.window_mean, ranks.window_median, ranks.window_lowest):
            np.testing.assert_array_equal(kernel(many, window)[0], kernel(one, window))

    @settings(deadline=None)
    @given(CENTS, st.integers(1, 12))
    def test_centred_is_trailing_moved(self, cents: list[int | None], length: int) -> None:
        values = known(cents)
        trailed = sums.window_mean(values, trailing(length, len(values)), 100.0)
        parts = [sums.window_mean(values, each, 100.0) for each in centred(length, len(values))]
        around = parts[0] if length % 2 else (parts[0] + parts[1]) / 2
        half = length // 2
        for at in range(half, len(values) - half):
            # Odd: moved by half; even: the mean of two neighbours.
            ends = (at + half,) if length % 2 else (at + half - 1, at + half)
            if all(end >= length - 1 for end in ends):
                np.testing.assert_allclose(around[at], np.mean([trailed[end] for end in ends]), atol=1e-9)

    @settings(deadline=None)
    @given(CENTS, st.integers(1, 9), st.integers(-50, 50))
    def test_a_mean_moves_and_grows_with_its_series_and_lies_within_it(
        self, cents: list[int | None], length: int, by: int
    ) -> None:
        values = known(cents)
        window = trailing(length, len(values))
        for kernel in (sums.window_mean, ranks.window_median, ranks.window_lowest):
            found = kernel(values, window)
            np.testing.assert_allclose(kernel(values + by, window), found + by, atol=1e-6)
            np.testing.assert_allclose(kernel(values * 3, window), found * 3, atol=1e-6)
        mean, low, high = (
            kernel(values, window) for kernel in (sums.window_mean, ranks.window_lowest, ranks.window_highest)
        )
        self.assertFalse((mean < low - 1e-6).any() or (mean > high + 1e-6).any())

    @settings(deadline=None)
    @given(CENTS)
    def test_a_window_of_one_is_the_series(self, cents: list[int | None]) -> None:
        values = known(cents)
        window = trailing(1, len(values))
        np.testing.assert_array_equal(sums.window_mean(values, window, 100.0), values)
        for kernel in (ranks.window_median, ranks.window_lowest, ranks.window_highest):
            np.testing.assert_array_equal(kernel(values, window), values)


class RollingMean(unittest.TestCase):
    def test_worked_example(self) -> None:
        # (10 + 20 + 60) / 3 = 30, (20 + 60 + 40) / 3 = 40
        found = sums.rolling_mean(np.array([10.0, 20, 60, 40]), 3)
        np.testing.assert_array_equal(found, [NAN, NAN, 30, 40])

    @settings(deadline=None)
    @given(CENTS, st.integers(1, 60))
    def test_it_is_the_window_where_that_is_full_and_known(
        self, cents: list[int | None], length: int
    ) -> None:
        values = known(cents)
        window = trailing(length, len(values))
        whole = (window.first >= 0) & (held(np.isnan(values), window) == 0)
        expected = np.where(whole, sums.window_mean(values, window, 100.0), NAN)
        np.testing.assert_array_equal(sums.rolling_mean(values, length, 100.0), expected)

    def test_a_million_points_are_exact(self) -> None:
        cents = np.random.default_rng(4).integers(-(10**6), 10**6, 1_000_000)
        cents[::7] *= 1000
        for length in (7, 30, 365):
            found = sums.rolling_mean(cents / 100, length, 100.0)
            for end in (length - 1, 123_456, 654_321, 999_999):
                exact = Fraction(int(cents[end - length + 1 : end + 1].sum()), 100 * length)
                self.assertEqual(found[end], float(exact))

    def test_no_drift_after_a_huge_value(self) -> None:
        # In plain floats 1e15 leaves its rounding in every later running sum; in minor units it does not.
        values = np.concatenate(([1e13], np.full(999, 0.1)))
        self.assertEqual(sums.rolling_mean(values, 10, 10.0)[-1], 0.1)

    def test_a_window_longer_than_the_series_is_never_full(self) -> None:
        self.assertTrue(np.isnan(sums.rolling_mean(np.ones(5), 6)).all())
