"""Seasonal-trend decomposition by local regression, against plain regressions and known parts."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from oat_tide.core.seasons.loess import decompose, decompose_products, loess, next_odd, trend_span

T = np.arange(72.0)
SPANS = st.sampled_from([3, 5, 7, 11, 13])


def slow(values: np.ndarray, weights: np.ndarray, span: int, at: float) -> float:
    """One local regression the plain way: weigh the nearest points and fit a line."""
    order = sorted(range(len(values)), key=lambda x: (abs(x - at), x))[: min(span, len(values))]
    far = max(abs(x - at) for x in order) + max(span - len(values), 0) // 2
    w = np.array([weights[x] * (1 - min(abs(x - at) / far, 1.0) ** 3) ** 3 for x in order])
    x, y = np.array(order, float), values[order]
    if not w.sum() > 0:
        return float("nan")
    middle = (w * x).sum() / w.sum()
    spread = (w * (x - middle) ** 2).sum()
    level = (w * y).sum() / w.sum()
    if np.sqrt(spread / w.sum()) <= 0.001 * (len(values) - 1):
        return float(level)
    return float(level + (w * (x - middle) * y).sum() / spread * (at - middle))


class Loess(unittest.TestCase):
    @settings(deadline=None)
    @given(
        st.lists(st.integers(0, 99), min_size=6, max_size=30), st.sampled_from([3, 5, 7, 11, 13]), st.data()
    )
    def test_it_is_the_plain_regression(self, values: list[int], span: int, data: st.DataObject) -> None:
        own = np.array([values], float)
        at = np.arange(-1, len(values) + 1)
        found = loess(own, np.ones(own.shape), span, -1, len(values) + 2)[0]
        unlike = data.draw(st.lists(st.floats(0.1, 1), min_size=len(values), max_size=len(values)))
        weighed = loess(own, np.array([unlike]), span, -1, len(values) + 2)[0]
        np.testing.assert_allclose(
            weighed, [slow(own[0], np.array(unlike), span, float(each)) for each in at], atol=1e-6
        )
        # Points as far as the farthest have no weight, so that it matters not which of two is taken.
        expected = [slow(own[0], np.ones(len(values)), span, float(each)) for each in at]
        np.testing.assert_allclose(found, expected, atol=1e-8)

    def test_a_line_is_kept_and_carried_beyond_its_ends(self) -> None:
        line = 3 + 2 * np.arange(10.0)[None]
        found = loess(line, np.ones(line.shape), 7, -1, 12)
        np.testing.assert_allclose(found[0], 3 + 2 * np.arange(-1.0, 11))

    def test_what_has_no_weight_is_not_looked_at(self) -> None:
        line, weights = 3 + 2 * np.arange(10.0)[None], np.ones((1, 10))
        line[0, 4], weights[0, 4] = 1e9, 0.0
        np.testing.assert_allclose(loess(line, weights, 5)[0], 3 + 2 * np.arange(10.0))


class Decomposition(unittest.TestCase):
    def test_spans_go_by_the_paper(self) -> None:
        self.assertEqual((next_odd(12), next_odd(13), next_odd(12.2)), (13, 13, 13))
        # 1.5 x 12 / (1 - 1.5 / 7) = 22.9; the least odd number that is not less.
        self.assertEqual(trend_span(12, 7), 23)

    def test_known_parts_are_given_back(self) -> None:
        season = np.tile([5.0, -2, -3, 0, 4, -4, 1, 2, -3, 6, -1, -5], 6)
        values = 100 + 0.5 * T + season
        found = decompose(values[None], 12)
        np.testing.assert_allclose(found.season[0], season, atol=1e-6)
        np.testing.assert_allclose(found.trend[0], 100 + 0.5 * T, atol=1e-6)

    def test_the_parts_add_up_to_the_series(self) -> None:
        values = np.random.default_rng(1).normal(100, 10, (3, 60))
        values[1, 7] = np.nan
        for robust in (False, True):
            found = decompose(values, 12, robust=robust)
            np.testing.assert_allclose(found.trend + found.season + found.remainder, values, rtol=1e-12)
            self.assertFalse(np.isnan(found.trend).any() or np.isnan(found.season).any())

    def test_many_series_are_the_same_call_as_one(self) -> None:
        values = np.random.default_rng(2).normal(100, 10, (4, 48))
        many = decompose(values, 12, robust=True)
        for row, each in enumerate(values):
            one = decompose(each[None], 12, robust=True)
            np.testing.assert_allclose(many.trend[row], one.trend[0], rtol=1e-12)

    def test_the_robust_one_ignores_a_wild_period(self) -> None:
        season = np.tile([5.0, -2, -3, 0, 4, -4, 1, 2, -3, 6, -1, -5], 6)
        calm = 100 + 0.5 * T + season + np.random.default_rng(3).normal(0, 0.3, 72)
        wild = calm.copy()
        wild[40] += 80
        plain, robust, unhurt = (
            decompose(each[None], 12, robust=way) for each, way in ((wild, False), (wild, True), (calm, True))
        )
        self.assertLess(np.abs(robust.trend - unhurt.trend).max(), 0.3)
        self.assertGreater(np.abs(plain.trend - unhurt.trend).max(), 2)
        self.assertEqual(robust.weights[0, 40], 0)

    @settings(max_examples=30, deadline=None)
    @given(st.lists(st.integers(20, 900), min_size=12, max_size=40), st.booleans())
    def test_parts_that_multiply_give_the_series_and_seasons_average_one(
        self, values: list[int], robust: bool
    ) -> None:
        own = np.array([values], float)
        parts = decompose_products(own, 4, robust=robust)
        np.testing.assert_allclose(parts.trend * parts.season * parts.remainder, own, rtol=1e-10)
        whole = len(values) // 4 * 4
        np.testing.assert_allclose(parts.season[0, :whole].reshape(-1, 4).mean(1), 1, rtol=1e-12)

    def test_known_parts_that_multiply_are_given_back(self) -> None:
        season = np.tile([0.8, 1.1, 1.3, 0.8], 8)
        parts = decompose_products(200 * season[None], 4)
        np.testing.assert_allclose(parts.trend, 200, rtol=1e-9)
        np.testing.assert_allclose(parts.season[0], season, rtol=1e-9)

    def test_fewer_than_two_cycles_are_refused(self) -> None:
        with self.assertRaises(ValueError):
            decompose(np.ones((1, 23)), 12)
