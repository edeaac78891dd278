"""The one-step error by length, against a plain rule, and the direction of a smoothed series."""

from __future__ import annotations

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from oat_tide.core.accuracy.errors import Measure, loss, measured
from oat_tide.core.smoothing import exponential
from oat_tide.core.smoothing.curves import constant_curve, targets, window_curve
from oat_tide.core.smoothing.direction import deseasonalised_changes, direction, wobble
from tests.core.smoothing.test_windows import CENTS, known

A = np.array([[12.0, 15, 11, 18, 20, 16, 22, 25]])


def slow(values: np.ndarray, ready: np.ndarray, length: int, measure: Measure, rising: bool) -> float:
    losses, actual = [], []
    for at in np.flatnonzero(ready):
        terms = [
            (length - age if rising else 1, values[at - 1 - age])
            for age in range(length)
            if not math.isnan(values[at - 1 - age])
        ]
        forecast = sum(w * v for w, v in terms) / sum(w for w, _ in terms)
        losses.append(float(loss(np.array(values[at] - forecast), np.array(values[at]), measure)))
        actual.append(values[at])
    return float(measured(np.array(losses), np.array(actual), measure))


class ByLength(unittest.TestCase):
    def test_worked_example_on_the_same_periods(self) -> None:
        ready = targets(A, 4)
        self.assertEqual(np.flatnonzero(ready[0]).tolist(), [4, 5, 6, 7])
        # Each length on periods of its own would give 4.142857, 4.333333, 4.133333, 4.4375.
        np.testing.assert_allclose(
            window_curve(A, ready, 4, "MAE")[0], [3.75, 4.625, 3.833333, 4.4375], rtol=1e-6
        )

    def test_the_like_period_of_the_year_before_must_be_known(self) -> None:
        before = np.array([-1, -1, -1, -1, 0, 1, 2, 3])
        values = A.copy()
        values[0, 1] = np.nan
        # The fifth has the first; the sixth, whose like is not known, is no target.
        self.assertEqual(np.flatnonzero(targets(values, 2, before)[0]).tolist(), [4, 6, 7])

    @settings(max_examples=100, deadline=None)
    @given(CENTS, st.integers(1, 8), st.sampled_from(["MAE", "RMSE", "MAPE", "WAPE"]), st.booleans())
    def test_it_is_the_plain_rule(
        self, cents: list[int | None], longest: int, measure: Measure, rising: bool
    ) -> None:
        values = known(cents)[None]
        ready = targets(values, longest)
        found = window_curve(
            np.repeat(values, 3, axis=0), np.repeat(ready, 3, axis=0), longest, measure, rising
        )
        if not ready.any():
            self.assertTrue(np.isnan(found).all())
            return
        expected = [slow(values[0], ready[0], n, measure, rising) for n in range(1, longest + 1)]
        for each in found:
            np.testing.assert_allclose(each, expected, rtol=1e-9, atol=1e-6)

    def test_by_constant(self) -> None:
        ready = targets(A, 2)
        found = constant_curve(A, ready, "level", (0.5,), (0.0, 0.0), "MAE")
        forecast = exponential.smooth(
            A, exponential.same(0.5, 0, 0, 1), exponential.begin(A, "level")
        ).forecast
        self.assertAlmostEqual(found[0, 0], np.abs(A - forecast)[0, 2:].mean())


class Direction(unittest.TestCase):
    def test_the_last_turn_without_noise(self) -> None:
        rows = np.array(
            [
                [1.0, 2, 5, 4, 3, 3],
                [np.nan, 9, 4, 4, 6, np.nan],
                [1, 2, 3, 4, 5, 6],
                [7, 7, 7, 7, 7, 7],
                [np.nan] * 6,
            ]
        )
        way, since = direction(rows, np.zeros(5), 2)
        self.assertEqual(way.tolist(), [-1, 1, 1, 0, 0])
        # The peak; the last of the flat lowest; never, so the first; the one before; nothing.
        self.assertEqual(since.tolist(), [2, 3, 0, 4, -1])

    def test_one_step_back_amid_noise_is_no_turn(self) -> None:
        # s 1 and n 4: the limit is 2 x (2 / 4) ^ 0.5 = 1.414, and the last step is a fall of 1.
        rising = np.array([[10.0, 9, 8, 9.5, 11, 12.5, 14, 13]])
        way, since = direction(rising, np.ones(1), 4)
        self.assertEqual((way.tolist(), since.tolist()), ([1], [2]))
        # A fall of 2 is one; but over 4 periods it stands higher, and has risen from 9.5.
        turned = np.array([[10.0, 9, 8, 9.5, 11, 12.5, 14, 12]])
        way, since = direction(turned, np.ones(1), 4)
        self.assertEqual((way.tolist(), since.tolist()), ([1], [3]))

    def test_changes_that_the_season_brings_are_no_wobble(self) -> None:
        year = [10.0, 30, 20, 15]
        values = np.array([year * 4])
        place = np.tile(np.arange(4), 4)
        np.testing.assert_allclose(deseasonalised_changes(values, place), 0, atol=1e-12)
        self.assertAlmostEqual(wobble(values, place)[0], 0)
        # Alternating by 2 and no season: changes +2, -2, ..., standard deviation near 2, over root 2.
        saw = np.array([[0.0, 2] * 8])
        none = np.zeros(16, np.int64)
        self.assertAlmostEqual(wobble(saw, none)[0], np.std(np.diff(saw[0]), ddof=1) / math.sqrt(2))

    def test_level_within_two_standard_errors(self) -> None:
        smoothed = np.array([[10.0, 10, 10, 11], [10.0, 10, 10, 15]])
        # 2 x 1 x (2 / 2) ^ 0.5 = 2: one has moved by 1 in two periods, the other by 5.
        self.assertEqual(direction(smoothed, np.array([1.0, 1.0]), 2)[0].tolist(), [0, 1])
