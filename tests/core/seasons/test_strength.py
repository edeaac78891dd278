"""Whether there is a season, beside what chance reaches, and whether its swing grows with the level."""

from __future__ import annotations

import unittest

import numpy as np

from oat_tide.core.seasons.strength import autocorrelation, by_chance, rank_test, strength
from oat_tide.core.seasons.swing import ranked

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
