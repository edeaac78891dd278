"""Additive or multiplicative: likelihoods by hand, and how often they err on series made either way."""

from __future__ import annotations

import math
import unittest

import numpy as np

from oat_tide.core.seasons.swing import CLOSE, judged, likelihoods
from oat_tide.core.seasons.trend import trend_beside

NAN = math.nan


class Trend(unittest.TestCase):
    def test_what_bends_by_two_powers_beside_levels_is_found_exactly(self) -> None:
        t = np.linspace(-1, 1, 16)
        seasons = np.tile([3.0, -1, 0, -2], 4)
        row = 50 + 7 * t - 4 * t**2
        known = np.ones((1, 16), np.bool_)
        np.testing.assert_allclose(trend_beside((row + seasons)[None], known, np.arange(16) % 4, 4)[0], row)
        # What is not known is not looked at.
        gone = row + seasons
        gone[[2, 9]] = 1e6
        known[0, [2, 9]] = False
        np.testing.assert_allclose(trend_beside(gone[None], known, np.arange(16) % 4, 4)[0], row, rtol=1e-6)


class Forms(unittest.TestCase):
    def made(self, products: bool, in_proportion: bool, past: int, growth: float) -> np.ndarray:
        rng = np.random.default_rng(past)
        t = np.arange(past)
        level, shape = 100 * (1 + growth) ** (t / 12), 0.2 * np.sin(2 * np.pi * t / 12)
        mean = level * (1 + shape) if products else level + 100 * shape
        noise = rng.normal(0, 0.06, (600, past))
        made: np.ndarray = mean + (mean * noise if in_proportion else 100 * noise)
        return made

    def test_they_are_rarely_wrong_and_say_where_they_are_close(self) -> None:
        for past, most_wrong, most_close in ((48, 15, 52), (60, 10, 32), (120, 7, 10)):
            wrong, close = [], []
            for products in (False, True):
                for in_proportion in (False, True):
                    values = self.made(products, in_proportion, past, 0.1)
                    ahead = judged(values, np.arange(past) % 12, 12).ahead * (1 if products else -1)
                    wrong.append((ahead < -CLOSE).mean())
                    close.append((np.abs(ahead) < CLOSE).mean())
            self.assertLessEqual(100 * max(wrong), most_wrong)
            # Two points more than wanted of many, for 600 series.
            self.assertLessEqual(100 * float(np.mean(close)), most_close)

    def test_too_close_is_taken_as_a_factor_and_zero_never_is(self) -> None:
        place = np.arange(36) % 12
        level = self.made(True, False, 36, 0.0)[:20]
        found = judged(level, place, 12)
        self.assertTrue((np.abs(found.ahead) < CLOSE).all() and found.multiplies.all())
        level[:, 5] = 0
        found = judged(level, place, 12)
        self.assertTrue(np.isnan(found.ahead).all() and not found.multiplies.any())
        # Two cycles tell neither; they are taken alike.
        short = judged(self.made(True, False, 36, 0.0)[:2, :24], place[:24], 12)
        self.assertTrue(np.isnan(short.ahead).all() and short.multiplies.all())

    def test_units_change_no_difference(self) -> None:
        values, place = self.made(True, True, 60, 0.05)[:5], np.arange(60) % 12
        one, other = (likelihoods(values * by, place, 12) for by in (1.0, 1000.0))
        np.testing.assert_allclose(one - one[:, :1], other - other[:, :1], atol=1e-6)
