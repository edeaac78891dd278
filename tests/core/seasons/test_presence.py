"""Is there a season: how often chance is taken for one, and one for chance."""

from __future__ import annotations

import unittest

import numpy as np

from oat_tide.core.seasons.presence import RHOS, limit_of, limits, progress, whole_halves

MANY = 1000


def echoes(rng: np.random.Generator, past: int, rho: float) -> np.ndarray:
    """Errors that keep so much of the one before; a walk at 1."""
    errors = rng.normal(size=(MANY, past))
    if rho < 1:
        errors[:, 0] /= np.sqrt(1 - rho**2)
    for at in range(1, past):
        errors[:, at] += rho * errors[:, at - 1]
    return errors


class Presence(unittest.TestCase):
    def share(self, values: np.ndarray) -> float:
        """The share of series that are said to have a season, in percent."""
        past = values.shape[1]
        told = progress(values, np.arange(past) % 12, 12)
        return 100 * float(np.nanmean(told.f > limit_of(told, limits(whole_halves(past, 12), 12))))

    def test_chance_is_rarely_taken_for_a_season(self) -> None:
        rng = np.random.default_rng(7)
        for past in (36, 60):
            t = np.arange(past)
            # Two points more than wanted of many, for 1,000 series.
            self.assertLess(self.share(rng.normal(size=(MANY, past))), 6 + 2)
            self.assertLess(self.share(echoes(rng, past, 1.0)), 8 + 2)
            self.assertLess(self.share(echoes(rng, past, 0.7) + 0.1 * t), 8 + 2)

    def test_a_lone_peak_is_found(self) -> None:
        rng = np.random.default_rng(8)
        for past, least in ((60, 95), (36, 80)):
            peak = 3.6 * (np.arange(past) % 12 == 11)
            self.assertGreater(self.share(rng.normal(size=(MANY, past)) + peak), least)
            slope = 0.2 * np.arange(past) + 1.5 * np.sin(2 * np.pi * np.arange(past) / 12)
            self.assertGreater(self.share(rng.normal(size=(MANY, past)) + slope), least)

    def test_gaps_and_series_that_never_vary(self) -> None:
        values = np.random.default_rng(9).normal(size=(3, 60))
        values[1, 20:29] = np.nan
        values[2] = 5.0
        told = progress(values, np.arange(60) % 12, 12)
        self.assertFalse(np.isnan(told.f[:2]).any())
        # Nine periods less, and as many terms.
        self.assertEqual(told.left[0] - told.left[1], 9)
        self.assertTrue(np.isnan(told.f[2]))

    def test_one_series_is_told_as_among_others(self) -> None:
        values = echoes(np.random.default_rng(10), 48, 0.6)[:6]
        values[3, :7] = np.nan
        place = np.arange(48) % 12
        every = progress(values, place, 12)
        for row in range(6):
            np.testing.assert_allclose(progress(values[row : row + 1], place, 12).f[0], every.f[row])
        self.assertTrue(np.isin(every.rho, RHOS).all())
