"""Measures of forecast errors on worked examples."""

from __future__ import annotations

import math
import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from oat_tide.core.accuracy.errors import Measure, loss, measured, no_better

ACTUAL = np.array([100.0, 0, 80, 120, 60])
PROJECTED = np.array([90.0, 10, 100, 110, 75])


def measure(name: Measure) -> float:
    return float(measured(loss(ACTUAL - PROJECTED, ACTUAL, name), ACTUAL, name))


class Measures(unittest.TestCase):
    def test_worked_example(self) -> None:
        # Errors 10, -10, -20, 10, -15: 65 in size, 925 in squares, of actuals that add up to 360.
        self.assertEqual(measure("MAE"), 13)
        self.assertEqual(measure("RMSE"), math.sqrt(185))
        self.assertAlmostEqual(measure("WAPE"), 100 * 65 / 360, places=12)
        # The actual of zero is left out: 10 %, 25 %, 8 1/3 % and 25 %.
        self.assertAlmostEqual(measure("MAPE"), 17.083333, places=6)

    def test_of_nothing_there_is_no_measure(self) -> None:
        none = np.full((2, 3), np.nan)
        for name in ("MAE", "RMSE", "MAPE", "WAPE"):
            self.assertTrue(np.isnan(measured(none, none, name)).all())  # type: ignore[arg-type]
        self.assertTrue(np.isnan(measured(np.ones(2), np.zeros(2), "WAPE")))


class NoBetter(unittest.TestCase):
    def test_worked_example(self) -> None:
        # Differences 3.5, -1, -2, 3; t = 0.6295 on 3 degrees of freedom, whose distribution is elementary.
        p = no_better(np.array([5.5, 3, 4, 6]), np.array([2.0, 4, 6, 3]))
        angle = math.atan(0.875 / math.sqrt(23.1875 / 3 / 4) / math.sqrt(3))
        self.assertAlmostEqual(p, 1 - 2 / math.pi * (angle + math.sin(angle) * math.cos(angle)), places=12)

    def test_nothing_is_said_of_too_few_or_of_no_difference(self) -> None:
        self.assertTrue(math.isnan(no_better(np.array([1.0, 2]), np.array([2.0, 5]))))
        self.assertTrue(math.isnan(no_better(np.arange(5.0), np.arange(5.0))))

    @given(st.lists(st.floats(0, 100), min_size=3, max_size=30))
    def test_it_is_the_same_either_way_round(self, losses: list[float]) -> None:
        one, other = np.array(losses), np.array(losses)[::-1]
        np.testing.assert_equal(no_better(one, other), no_better(other, one))
