"""Moving averages against plain rules."""

from __future__ import annotations

import math
import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from oat_tide.core.smoothing.windows import less_change, rising_weights, rolling_mean, weighted_mean

CENTS = st.lists(st.one_of(st.none(), st.integers(-(10**7), 10**7)), min_size=1, max_size=60)


def slow_mean(values: list[float], window: int) -> list[float]:
    """The plain rule: add the window up and divide."""
    out = []
    for i in range(len(values)):
        inside = values[max(i - window + 1, 0) : i + 1]
        full = i >= window - 1 and not any(math.isnan(v) for v in inside)
        out.append(math.fsum(inside) / window if full else math.nan)
    return out


def slow_weighted(values: list[float], weights: list[float]) -> list[float]:
    out = []
    for i in range(len(values)):
        terms = (
            [weights[age] * values[i - age] for age in range(len(weights))] if i >= len(weights) - 1 else []
        )
        out.append(math.fsum(terms) / math.fsum(weights) if terms else math.nan)
    return out


def known(cents: list[int | None]) -> list[float]:
    return [math.nan if each is None else each / 100 for each in cents]


class RollingMean(unittest.TestCase):
    def test_worked_example(self) -> None:
        # (10 + 20 + 60) / 3 = 30, (20 + 60 + 40) / 3 = 40
        np.testing.assert_array_equal(rolling_mean(np.array([10.0, 20, 60, 40]), 3), [np.nan, np.nan, 30, 40])

    @given(CENTS, st.integers(1, 60))
    def test_it_is_the_plain_rule(self, cents: list[int | None], window: int) -> None:
        values = known(cents)
        np.testing.assert_allclose(
            rolling_mean(np.array(values), window, 100.0), slow_mean(values, window), rtol=1e-13, atol=1e-13
        )

    @given(CENTS, st.integers(2, 12))
    def test_one_series_is_the_same_call_as_many(self, cents: list[int | None], window: int) -> None:
        one = np.array(known(cents))
        many = np.stack([one, one * 2, np.zeros_like(one)])
        np.testing.assert_array_equal(rolling_mean(many, window, 100.0)[0], rolling_mean(one, window, 100.0))

    def test_no_drift_after_a_huge_value(self) -> None:
        # In plain floats 1e15 leaves its rounding in every later running sum; in minor units it does not.
        values = np.concatenate(([1e13], np.full(999, 0.1)))
        self.assertEqual(rolling_mean(values, 10, 10.0)[-1], 0.1)

    def test_a_window_longer_than_the_series_is_never_full(self) -> None:
        self.assertTrue(np.isnan(rolling_mean(np.ones(5), 6)).all())


class WeightedMean(unittest.TestCase):
    def test_worked_example_newest_first(self) -> None:
        # (3 x 30 + 2 x 20 + 1 x 10) / 6 = 140 / 6
        out = weighted_mean(np.array([10.0, 20, 30]), (3, 2, 1))
        self.assertAlmostEqual(out[-1], 140 / 6, places=14)

    def test_rising_weights_are_given_newest_first(self) -> None:
        self.assertEqual(rising_weights(4), (4.0, 3.0, 2.0, 1.0))

    @given(CENTS, st.lists(st.integers(0, 50), min_size=1, max_size=12).filter(lambda w: sum(w) > 0))
    def test_it_is_the_plain_rule(self, cents: list[int | None], weights: list[int]) -> None:
        values = known(cents)
        expected = slow_weighted(values, [float(w) for w in weights])
        np.testing.assert_allclose(weighted_mean(np.array(values), weights), expected, rtol=1e-11, atol=1e-9)

    @given(CENTS, st.integers(1, 20))
    def test_equal_weights_are_the_rolling_mean(self, cents: list[int | None], window: int) -> None:
        values = np.array(known(cents))
        np.testing.assert_allclose(
            weighted_mean(values, (1.0,) * window), rolling_mean(values, window, 100.0), rtol=1e-11, atol=1e-9
        )

    def test_weights_that_add_up_to_nothing_are_refused(self) -> None:
        for weights in ((), (0.0, 0.0), (2.0, -1.0)):
            with self.subTest(weights), self.assertRaises(ValueError):
                weighted_mean(np.ones(4), weights)


class Wobble(unittest.TestCase):
    def test_worked_example(self) -> None:
        # Changes of the smoothed: 1, 1. Of the actual on the same periods: 4, 4. 1 - 1/4 = 75 %.
        actual = np.array([[9.0, 0, 4, 8]])
        smoothed = np.array([[np.nan, 1, 2, 3]])
        self.assertEqual(less_change(actual, smoothed)[0, 0], 0.75)

    def test_a_series_that_never_changes_has_no_change_to_lessen(self) -> None:
        flat = np.ones((1, 6))
        self.assertTrue(np.isnan(less_change(flat, flat)[0, 0]))
