"""The classical decomposition, simple averages, and indices set by hand, on figures worked out by hand."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from oat_tide.core.seasons.classical import (
    centred_average,
    classical,
    remainder_of,
    season_of,
    simple,
    without_season,
)
from oat_tide.core.seasons.indices import (
    against_the_others,
    drift,
    in_use,
    joined,
    scaled,
    standard_errors,
)

C = np.array([[80.0, 110, 140, 90, 92, 128, 150, 100, 98, 140, 172, 110]])
"""Twelve quarters."""
PLACE = np.arange(12) % 4
NAN = np.nan
SERIES = st.lists(st.integers(1, 999), min_size=12, max_size=48)


class Classical(unittest.TestCase):
    def test_worked_example_of_twelve_quarters(self) -> None:
        found = classical(C, PLACE, 4, multiplicative=True)
        trend = [106.5, 110.25, 113.75, 116.25, 118.25, 120.5, 124.75, 128.75]
        # (80/2 + 110 + 140 + 90 + 92/2) / 4 = 106.5; none for the first and the last half cycle.
        np.testing.assert_array_equal(found.trend[0], [NAN, NAN, *trend, NAN, NAN])
        np.testing.assert_allclose(found.ratios[0, 2:10], C[0, 2:10] / trend)
        np.testing.assert_allclose(found.joined[0], [0.797181, 1.094227, 1.291526, 0.823101], atol=5e-7)
        self.assertEqual(found.counts[0].tolist(), [2, 2, 2, 2])
        self.assertAlmostEqual(found.factor[0, 0], 0.998493, places=6)
        np.testing.assert_allclose(found.indices[0], [0.795980, 1.092578, 1.289581, 0.821861], atol=5e-7)

    def test_an_odd_cycle_needs_one_window(self) -> None:
        np.testing.assert_array_equal(centred_average(C[:, :5], 3)[0], [NAN, 110, 340 / 3, 322 / 3, NAN])

    def test_additive_indices_are_shifted_to_average_nothing(self) -> None:
        found = classical(C, PLACE, 4, multiplicative=False)
        np.testing.assert_allclose(found.ratios[0, 2:4], [33.5, -20.25])
        self.assertAlmostEqual(found.indices[0].sum(), 0, places=12)

    def test_a_period_left_out_has_no_ratio_and_leaves_no_hole_in_the_trend(self) -> None:
        values = 100 * np.tile([0.8, 1.1, 1.3, 0.8], 4)[None] * 1.0
        gone = values.copy()
        gone[0, 6] = NAN
        found = classical(gone, np.arange(16) % 4, 4, multiplicative=True)
        # Filled with its level and index it is what it was, for nothing but season was there.
        np.testing.assert_allclose(found.filled, values)
        self.assertEqual(found.counts[0].tolist(), [3, 3, 2, 3])
        self.assertTrue(np.isnan(found.ratios[0, 6]))
        np.testing.assert_allclose(found.indices[0], [0.8, 1.1, 1.3, 0.8])

    def test_a_year_s_ratio_can_be_left_out(self) -> None:
        counted = np.ones((1, 12), np.bool_)
        counted[0, 2] = False
        found = classical(C, PLACE, 4, multiplicative=True, counted=counted)
        self.assertEqual(found.counts[0].tolist(), [2, 2, 1, 2])
        self.assertAlmostEqual(found.joined[0, 2], 150 / 118.25)

    @settings(deadline=None)
    @given(SERIES, st.sampled_from([3, 4, 6]), st.booleans(), st.sampled_from(["mean", "median", "trimmed"]))
    def test_the_parts_give_the_actual_and_indices_average_one_or_nothing(
        self, values: list[int], cycle: int, multiplicative: bool, how: str
    ) -> None:
        own = np.array([values, values[::-1]], float)
        place = np.arange(len(values)) % cycle
        found = classical(own, place, cycle, multiplicative, how)  # type: ignore[arg-type]
        season = season_of(found.indices, place)
        rest = remainder_of(own, found.trend, season, multiplicative)
        known = ~np.isnan(rest)
        back = found.trend * season * rest if multiplicative else found.trend + season + rest
        np.testing.assert_allclose(back[known], own[known], rtol=1e-10)
        taken_out = without_season(own, season, multiplicative)
        again = taken_out * season if multiplicative else taken_out + season
        np.testing.assert_allclose(again[known], own[known], rtol=1e-10)
        if not np.isnan(found.indices).any():
            np.testing.assert_allclose(found.indices.mean(1), float(multiplicative), atol=1e-9)

    @settings(deadline=None)
    @given(st.lists(st.floats(0.5, 1.5), min_size=4, max_size=4), st.floats(10, 500))
    def test_a_series_made_of_a_level_and_a_season_gives_them_back(
        self, season: list[float], level: float
    ) -> None:
        indices = np.array(season) / np.mean(season)
        place = np.arange(20) % 4
        found = classical(level * indices[place][None], place, 4, multiplicative=True)
        np.testing.assert_allclose(found.indices[0], indices, rtol=1e-9)
        np.testing.assert_allclose(found.trend[0, 2:-2], level, rtol=1e-9)


class SimpleAverages(unittest.TestCase):
    def test_worked_example(self) -> None:
        parts = simple(C, PLACE, 4, np.arange(12) // 4, multiplicative=True)
        found, counts = parts.indices, parts.counts
        # The first quarters average 90, all quarters 117.5.
        np.testing.assert_allclose(found[0], [0.765957, 1.072340, 1.310638, 0.851064], atol=5e-7)
        self.assertEqual(counts[0].tolist(), [3, 3, 3, 3])

    def test_only_whole_years_count(self) -> None:
        values = C.copy()
        values[0, 5] = NAN
        parts = simple(values, PLACE, 4, np.arange(12) // 4, multiplicative=False)
        found, counts = parts.indices, parts.counts
        self.assertEqual(counts[0].tolist(), [2, 2, 2, 2])
        # (80 + 98) / 2 less the mean of 80, 110, 140, 90, 98, 140, 172, 110.
        self.assertAlmostEqual(found[0, 0], 89 - 117.5)


class Indices(unittest.TestCase):
    def test_the_others_are_scaled_around_one_set_by_hand(self) -> None:
        indices = classical(C, PLACE, 4, multiplicative=True).indices
        found, factor = in_use(indices, np.array([[NAN, NAN, 1.30, NAN]]), multiplicative=True)
        np.testing.assert_allclose(found[0], [0.792920, 1.088378, 1.30, 0.818702], atol=5e-7)
        self.assertAlmostEqual(factor[0, 0], 0.996156, places=6)
        none, kept = in_use(indices, np.full((1, 4), NAN), multiplicative=True)
        np.testing.assert_array_equal(none, indices)
        self.assertEqual(kept[0, 0], 1.0)

    def test_additive_ones_are_shifted(self) -> None:
        found, shift = in_use(np.array([[-3.0, 1, 2]]), np.array([[NAN, NAN, 5.0]]), multiplicative=False)
        # The others come to -2 and are to come to -5: each is shifted by -1.5.
        self.assertEqual(found[0].tolist(), [-4.5, -0.5, 5.0])
        self.assertEqual(shift[0, 0], -1.5)

    def test_what_cannot_average_one_is_refused(self) -> None:
        indices = np.array([[0.9, 1.1]])
        for hand in ([1.2, 1.0], [2.5, NAN]):
            with self.subTest(hand), self.assertRaises(ValueError):
                in_use(indices, np.array([hand]), multiplicative=True)
        found, _ = in_use(indices, np.array([[0.7, 1.3]]), multiplicative=True)
        self.assertEqual(found[0].tolist(), [0.7, 1.3])

    def test_joined_by_mean_median_or_without_the_ends(self) -> None:
        ratios = np.array([[1.0, 9, 2, 8, 3, 7, 10, 6]])
        place = np.arange(8) % 2
        for how, wanted in (("mean", [4, 7.5]), ("median", [2.5, 7.5]), ("trimmed", [2.5, 7.5])):
            found, count = joined(ratios, place, 2, how)  # type: ignore[arg-type]
            self.assertEqual((found[0].tolist(), count[0].tolist()), (wanted, [4, 4]))

    def test_a_season_without_a_ratio_has_no_index(self) -> None:
        joint, count = joined(np.array([[1.2, NAN, 0.9]]), np.arange(3), 3)
        self.assertEqual(count[0].tolist(), [1, 0, 1])
        found = scaled(joint, multiplicative=True)[0]
        self.assertTrue(np.isnan(found[1]))
        self.assertAlmostEqual(found[0] + found[2], 2)

    def test_how_sure_an_index_is(self) -> None:
        # 1, 2, 3: standard deviation 1 over root 3; of one ratio nothing is known.
        found = standard_errors(np.array([[1.0, 5, 2, NAN, 3, NAN]]), np.arange(6) % 2, 2)
        np.testing.assert_allclose(found[0], [1 / np.sqrt(3), NAN])


class AgainstTheOthers(unittest.TestCase):
    def test_by_hand(self) -> None:
        # Two seasons of five: 1 2 3 4 15 and 0 0 0 0 5, the last each 12.5 and 5 off the mean of the others.
        ratios = np.array([1.0, 0, 2, 0, 3, 0, 4, 0, 15, 5])
        found = against_the_others(ratios, np.arange(10) % 2, 2)
        off = np.array([-5.0, -1.25, -3.75, -1.25, -2.5, -1.25, -1.25, -1.25, 12.5, 5]) / np.sqrt(1 + 1 / 4)
        np.testing.assert_allclose(found, off / (1.4826 * np.median(np.abs(off))))

    def test_four_are_too_few_and_what_is_all_alike_has_no_spread(self) -> None:
        self.assertTrue(np.isnan(against_the_others(np.arange(8.0), np.arange(8) % 2, 2)).all())
        self.assertTrue(np.isnan(against_the_others(np.ones(10), np.arange(10) % 2, 2)).all())


class Drift(unittest.TestCase):
    @settings(deadline=None)
    @given(st.lists(st.integers(1, 999), min_size=12, max_size=40), st.sampled_from([3, 4]))
    def test_it_is_the_regression_of_each_season_by_itself(self, values: list[int], cycle: int) -> None:
        place = np.arange(len(values)) % cycle
        years = 2020 + np.arange(len(values)) // cycle
        slope, p = drift(np.array([values], float), place, cycle, years)
        for season in range(cycle):
            own = np.array(values, float)[place == season]
            x = years[place == season].astype(float)
            found = stats.linregress(x, own)
            self.assertAlmostEqual(slope[0, season], found.slope, places=6)
            if len(own) > 2 and abs(found.rvalue) < 0.999999 and np.ptp(own) > 0:
                self.assertAlmostEqual(p[0, season], found.pvalue, places=6)

    def test_one_year_tells_nothing(self) -> None:
        slope, p = drift(np.array([[1.0, 2, 3, 4]]), np.arange(4), 4, np.full(4, 2020))
        self.assertTrue(np.isnan(slope).all() and np.isnan(p).all())
