"""Whether there is a season, beside what chance reaches, and whether its swing grows with the level."""

from __future__ import annotations

import unittest

import numpy as np

from oat_tide.core.seasons.strength import autocorrelation, by_chance, rank_test, strength
from oat_tide.core.seasons.swing import grows, ranked, swing_by_level

NAN = np.nan


class Strength(unittest.TestCase):
    def test_worked_example(self) -> None:
        # Season 2, -2, 2, -2: with the remainder 3, -3, 1, -1. Variances 4/3 and 20/3: 1 - 1/5.
        season, rest = np.array([[2.0, -2, 2, -2]]), np.array([[1.0, -1, -1, 1]])
        self.assertAlmostEqual(strength(season, rest)[0], 0.8)
        # A remainder that undoes the season leaves nothing.
        self.assertEqual(strength(season, -season * 3)[0], 0.0)
        self.assertTrue(np.isnan(strength(np.zeros((1, 4)), np.zeros((1, 4)))[0]))

    def test_what_chance_reaches_in_months(self) -> None:
        for years, level in ((3, 0.74), (5, 0.41), (8, 0.24)):
            self.assertAlmostEqual(by_chance(12 * years, 12), level, places=2)

    def test_there_is_none_of_a_history_without_ratios(self) -> None:
        self.assertTrue(np.isnan(by_chance(12, 12)))


class RankTest(unittest.TestCase):
    def test_worked_example(self) -> None:
        # Ranks 1, 3 and 2, 4: sums 4 and 6. 12 / 20 x (16 / 2 + 36 / 2) - 15 = 0.6, on one degree of freedom.
        h, freedom, p = rank_test(np.array([[10.0, 20, 30, 40]]), np.array([0, 1, 0, 1]), 2)
        self.assertAlmostEqual(h[0], 0.6)
        self.assertEqual(freedom[0], 1)
        # The tail of chi-square at 0.6 is that of the normal at root 0.6, both ways.
        self.assertAlmostEqual(p[0], 0.438578, places=6)

    def test_ties_share_their_ranks(self) -> None:
        self.assertEqual(ranked(np.array([5.0, 1, 5, 2])).tolist(), [3.5, 1, 3.5, 2])
        h, _, _ = rank_test(np.array([[1.0, 1, 2, 2]]), np.array([0, 0, 1, 1]), 2)
        # Ranks 1.5 and 3.5: 0.6 x (9 / 2 + 49 / 2) - 15 = 2.4, over 1 - 12 / 60.
        self.assertAlmostEqual(h[0], 3.0)

    def test_nothing_is_said_where_all_are_alike(self) -> None:
        h, _, p = rank_test(np.array([[4.0, 4, 4, 4], [NAN, NAN, NAN, 1]]), np.array([0, 1, 0, 1]), 2)
        self.assertTrue(np.isnan(h).all() and np.isnan(p).all())


class Autocorrelation(unittest.TestCase):
    def test_worked_example(self) -> None:
        # 1, -1, 1, -1: products at lag 2 are 1 and 1, squares 4.
        found, limit = autocorrelation(np.array([[1.0, -1, 1, -1]]), 2)
        self.assertEqual((found[0], limit[0]), (0.5, 1.645 / 2))
        self.assertTrue(np.isnan(autocorrelation(np.array([[3.0, 3, 3, 3]]), 1)[0][0]))


class Swing(unittest.TestCase):
    def test_it_grows_with_the_level_where_it_does(self) -> None:
        years = np.repeat([2021, 2022, 2023, 2024], 4)
        level = np.repeat([100.0, 200, 300, 400], 4)[None]
        shape = np.tile([0.1, -0.1, 0.2, -0.2], 4)[None]
        levels, swings, found = swing_by_level(level * (1 + shape), level, years)
        self.assertEqual(found.tolist(), [2021, 2022, 2023, 2024])
        np.testing.assert_allclose(swings[0], np.sqrt(0.025) * np.array([100, 200, 300, 400]))
        self.assertAlmostEqual(grows(levels, swings)[0], 1.0)
        # Of one size in every year: nothing to rank.
        levels, swings, _ = swing_by_level(level + 20 * shape, level, years)
        self.assertTrue(np.isnan(grows(levels, swings)[0]))

    def test_a_year_half_unknown_and_too_few_years_say_nothing(self) -> None:
        values = np.array([[1.0, NAN, NAN, NAN, 5, 6, 7, 8]])
        levels, swings, _ = swing_by_level(values, np.full((1, 8), 4.0), np.repeat([1, 2], 4))
        self.assertTrue(np.isnan(levels[0, 0]) and not np.isnan(levels[0, 1]))
        self.assertTrue(np.isnan(grows(levels, swings)[0]))
