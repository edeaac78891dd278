"""Weighted means, the shapes of weights, and what they do to a series."""

from __future__ import annotations

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from oat_tide.core.smoothing.sums import rolling_mean
from oat_tide.core.smoothing.weights import (
    SPENCER,
    halving_weights,
    lag,
    left_of_cycle,
    less_change,
    rising_weights,
    weighted_known,
    weighted_mean,
)
from tests.core.smoothing.test_windows import CENTS, known

A = np.array([12.0, 15, 11, 18, 20, 16, 22, 25])
WEIGHTS = st.lists(st.integers(0, 50), min_size=1, max_size=12).filter(lambda weights: sum(weights) > 0)


class WeightedMean(unittest.TestCase):
    def test_worked_example_newest_first(self) -> None:
        # (3 x 11 + 2 x 15 + 1 x 12) / 6 = 12.5; reversed it would be 73 / 6.
        found = weighted_mean(A, (3, 2, 1))
        np.testing.assert_allclose(found[2:], [12.5, 91 / 6, 107 / 6, 106 / 6, 118 / 6, 22.5])

    def test_some_ahead(self) -> None:
        # Centred on the second: (1 x 12 + 2 x 15 + 1 x 11) / 4.
        self.assertEqual(weighted_mean(A, (1, 2, 1), ahead=1)[1], 13.25)
        self.assertTrue(np.isnan(weighted_mean(A, (1, 2, 1), ahead=1)[[0, -1]]).all())

    @settings(deadline=None)
    @given(CENTS, WEIGHTS, st.integers(0, 3))
    def test_it_is_the_plain_rule(self, cents: list[int | None], weights: list[int], ahead: int) -> None:
        values = known(cents)
        strict, lenient = weighted_mean(values, weights, ahead), weighted_known(values, weights, ahead)
        for at in range(len(values)):
            terms = [(w, at + ahead - age) for age, w in enumerate(weights)]
            there = [(w, values[c]) for w, c in terms if 0 <= c < len(values) and not math.isnan(values[c])]
            share = sum(w for w, _ in there)
            if len(there) == len(weights):
                self.assertAlmostEqual(strict[at], math.fsum(w * v for w, v in there) / share, delta=1e-6)
            else:
                self.assertTrue(math.isnan(strict[at]))
            if share:
                self.assertAlmostEqual(lenient[at], math.fsum(w * v for w, v in there) / share, delta=1e-6)
            else:
                self.assertTrue(math.isnan(lenient[at]))

    @settings(deadline=None)
    @given(CENTS, st.integers(1, 20))
    def test_equal_weights_are_the_rolling_mean(self, cents: list[int | None], window: int) -> None:
        values = known(cents)
        np.testing.assert_allclose(
            weighted_mean(values, (1.0,) * window), rolling_mean(values, window, 100.0), rtol=1e-11, atol=1e-9
        )

    def test_weights_that_add_up_to_nothing_are_refused(self) -> None:
        for weights in ((), (0.0, 0.0), (1.0, -2.0)):
            with self.subTest(weights), self.assertRaises(ValueError):
                weighted_mean(np.ones(4), weights)


class Shapes(unittest.TestCase):
    def test_they_are_given_newest_first(self) -> None:
        self.assertEqual(rising_weights(4), (4.0, 3.0, 2.0, 1.0))
        self.assertEqual(halving_weights(3), (4.0, 2.0, 1.0))
        self.assertEqual((halving_weights(20)[0], halving_weights(20)[11]), (1024.0, 0.5))

    def test_spencer_keeps_a_cubic_as_it_is(self) -> None:
        t = np.arange(40.0)
        cubic = 3 - t + 0.5 * t**2 - 0.01 * t**3
        np.testing.assert_allclose(weighted_mean(cubic, SPENCER, ahead=7)[7:-7], cubic[7:-7])
        self.assertEqual(sum(SPENCER), 320)
        # It takes a cycle of five or four periods out altogether (Spencer, 1904).
        for cycle in (4, 5):
            self.assertAlmostEqual(left_of_cycle(SPENCER, cycle), 0.0, places=12)


class WhatTheyDo(unittest.TestCase):
    def test_lag(self) -> None:
        self.assertEqual(lag((1.0,) * 6), 2.5)
        self.assertAlmostEqual(lag((3.0, 2.0, 1.0)), 2 / 3)
        self.assertEqual(lag((1.0, 1.0, 1.0), ahead=1), 0.0)
        self.assertAlmostEqual(lag(SPENCER, ahead=7), 0.0)

    def test_what_is_left_of_a_yearly_sine_in_months(self) -> None:
        for length, left in ((3, 0.911), (6, 0.644), (12, 0.0), (24, 0.0)):
            self.assertAlmostEqual(left_of_cycle((1.0,) * length, 12), left, places=3)

    @settings(deadline=None)
    @given(st.integers(2, 30), st.integers(3, 30))
    def test_a_sine_keeps_as_much_as_is_said(self, length: int, cycle: int) -> None:
        turn = 2 * math.pi / cycle * np.arange(20 * cycle + length)
        waves = [rolling_mean(wave, length)[length - 1 :] for wave in (np.cos(turn), np.sin(turn))]
        np.testing.assert_allclose(np.hypot(*waves), left_of_cycle((1.0,) * length, cycle), atol=1e-6)

    def test_less_change(self) -> None:
        # Changes of the smoothed: 1, 1. Of the actual on the same periods: 4, 4. 1 - 1/4 = 75 %.
        actual = np.array([[9.0, 0, 4, 8]])
        smoothed = np.array([[np.nan, 1, 2, 3]])
        self.assertEqual(less_change(actual, smoothed)[0, 0], 0.75)
        flat = np.ones((1, 5))
        self.assertTrue(np.isnan(less_change(flat, flat)[0, 0]))
        self.assertAlmostEqual(
            less_change(A[None], weighted_mean(A, (3, 2, 1))[None])[0, 0], 0.530303, places=6
        )
