"""The straight line: certified values and plain rules."""

from __future__ import annotations

import math
import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from oat_tide.core.regression import fit_line, t_quantile

# Norris, an ozone monitor calibration: US National Institute of Standards and Technology, Statistical
# Reference Datasets, linear regression, lower level of difficulty. Pairs of y and x.
NORRIS = """
0.1 0.2 338.8 337.4 118.1 118.2 888.0 884.6 9.2 10.1 228.1 226.5 668.5 666.3 998.5 996.3 449.1 448.6
778.9 777.0 559.2 558.2 0.3 0.4 0.1 0.6 778.1 775.5 668.8 666.9 339.3 338.0 448.9 447.5 10.8 11.6
557.7 556.0 228.3 228.1 998.0 995.8 888.8 887.6 119.6 120.2 0.3 0.3 0.6 0.3 557.6 556.8 339.3 339.1
888.0 887.2 998.5 999.0 778.9 779.0 10.2 11.1 117.6 118.3 228.9 229.2 668.4 669.1 449.2 448.9 0.2 0.5
"""
CERTIFIED = {
    "intercept": -0.262323073774029,
    "slope": 1.00211681802045,
    "s": 0.884796396144373,
    "r2": 0.999993745883712,
    "slope_error": 0.429796848199937e-03,
}


class CertifiedValues(unittest.TestCase):
    def test_norris(self) -> None:
        pairs = np.array(NORRIS.split(), float).reshape(-1, 2)
        y, x = pairs[:, 0][None], pairs[:, 1][None]
        fit = fit_line(x, y, np.ones_like(y))
        self.assertEqual(fit.n[0, 0], 36)
        for name in ("intercept", "slope", "s", "r2"):
            with self.subTest(name):
                self.assertAlmostEqual(getattr(fit, name)[0, 0] / CERTIFIED[name], 1, places=11)
        slope_error = fit.s / np.sqrt(fit.sxx)
        self.assertAlmostEqual(slope_error[0, 0] / CERTIFIED["slope_error"], 1, places=11)


class WorkedExamples(unittest.TestCase):
    def test_by_hand(self) -> None:
        # t = 1 2 3 4, z = 2 4 5 9: mean 2.5 and 5, sxx = 5, sxz = 11, slope 2.2, intercept -0.5.
        # Fitted 1.7 3.9 6.1 8.3, residuals .3 .1 -1.1 .7, SSE 1.8, SST 26, s = sqrt(1.8 / 2).
        fit = fit_line(np.array([[1.0, 2, 3, 4]]), np.array([[2.0, 4, 5, 9]]), np.ones((1, 4)))
        self.assertAlmostEqual(fit.slope[0, 0], 2.2, places=14)
        self.assertAlmostEqual(fit.intercept[0, 0], -0.5, places=14)
        self.assertAlmostEqual(fit.r2[0, 0], 1 - 1.8 / 26, places=14)
        self.assertAlmostEqual(fit.s[0, 0], math.sqrt(0.9), places=14)

    def test_t_quantiles_of_the_tables(self) -> None:
        for level, freedom, value in (
            (0.95, 10, 2.228),
            (0.8, 10, 1.372),
            (0.95, 1, 12.706),
            (0.99, 30, 2.750),
        ):
            with self.subTest(level=level, freedom=freedom):
                self.assertAlmostEqual(float(t_quantile(level, np.array(float(freedom)))), value, places=3)

    def test_a_left_out_period_uses_up_its_number(self) -> None:
        t = np.arange(1.0, 6)[None]
        z = 10 + 3 * t
        weights = np.array([[1.0, 1, 0, 1, 1]])
        spoilt = np.where(weights > 0, z, np.nan)
        fit = fit_line(t, spoilt, weights)
        self.assertAlmostEqual(fit.slope[0, 0], 3, places=13)
        self.assertAlmostEqual(fit.intercept[0, 0], 10, places=12)

    def test_too_few_periods_give_no_fit(self) -> None:
        t = np.arange(1.0, 4)[None]
        for weights in ([[0.0, 0, 0]], [[1.0, 0, 0]], [[1.0, 1, 0]]):
            with self.subTest(weights):
                fit = fit_line(t, t, np.array(weights))
                self.assertTrue(np.isnan(fit.slope[0, 0]) and np.isnan(fit.s[0, 0]))

    def test_a_flat_series_has_no_r2(self) -> None:
        fit = fit_line(np.arange(1.0, 6)[None], np.full((1, 5), 7.0), np.ones((1, 5)))
        self.assertEqual(fit.slope[0, 0], 0)
        self.assertTrue(np.isnan(fit.r2[0, 0]))


class Properties(unittest.TestCase):
    @given(st.lists(st.integers(-10_000, 10_000), min_size=3, max_size=40))
    def test_it_is_the_plain_rule(self, z: list[int]) -> None:
        n = len(z)
        t = range(1, n + 1)
        t_mean, z_mean = sum(t) / n, sum(z) / n
        sxx = math.fsum((a - t_mean) ** 2 for a in t)
        slope = math.fsum((a - t_mean) * (b - z_mean) for a, b in zip(t, z, strict=True)) / sxx
        fit = fit_line(np.arange(1.0, n + 1)[None], np.array([z], float), np.ones((1, n)))
        self.assertAlmostEqual(fit.slope[0, 0], slope, delta=1e-9 * max(1, abs(slope)))
        self.assertAlmostEqual(fit.intercept[0, 0], z_mean - slope * t_mean, delta=1e-8)

    @given(st.lists(st.integers(0, 1000), min_size=3, max_size=30), st.floats(0.1, 100))
    def test_a_larger_unit_gives_a_larger_line(self, z: list[int], unit: float) -> None:
        t, values, ones = np.arange(1.0, len(z) + 1)[None], np.array([z], float), np.ones((1, len(z)))
        one, other = fit_line(t, values, ones), fit_line(t, values * unit, ones)
        np.testing.assert_allclose(other.slope, one.slope * unit, rtol=1e-9, atol=1e-9)
        np.testing.assert_allclose(other.s, one.s * unit, rtol=1e-7, atol=1e-7)

    def test_ten_series_in_one_call_are_ten_calls(self) -> None:
        rng = np.random.default_rng(5)
        z = rng.normal(100, 9, (10, 36))
        weights = (rng.random((10, 36)) > 0.2).astype(float)
        t = np.arange(1.0, 37)[None]
        many = fit_line(t, z, weights)
        for i in range(10):
            one = fit_line(t, z[i : i + 1], weights[i : i + 1])
            self.assertAlmostEqual(many.slope[i, 0], one.slope[0, 0], places=13)
