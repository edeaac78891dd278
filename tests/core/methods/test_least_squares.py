"""Least squares: certified values, the worked examples, and plain rules."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from oat_tide.core.methods import designs, regression
from oat_tide.core.methods.least_squares import Regression, regress
from oat_tide.core.methods.shape import How
from oat_tide.core.methods.table import METHODS
from oat_tide.core.regression import t_quantile
from tests.core.test_regression import CERTIFIED, NORRIS


def fit(name: str, values: np.ndarray, weights: np.ndarray, horizon: int, how: How) -> Regression:
    """The regression of a method."""
    terms = METHODS[name].regression
    assert terms is not None
    return regression.fit(terms, values, weights, horizon, how)


B = np.array([[210.0, 225, 232, 248, 310, 268, 275, 291]])


def of(x: np.ndarray, y: np.ndarray, degree: int) -> Regression:
    """A polynomial through pairs."""
    names = tuple(f"b{power}" for power in range(degree + 1))
    return regress(
        y[None], np.ones((1, len(y))), len(y), lambda first, used: designs.powers_of(x, used, degree), names
    )


class CertifiedValues(unittest.TestCase):
    """US National Institute of Standards and Technology, Statistical Reference Datasets."""

    def near(self, found: float, certified: float, digits: int = 9) -> None:
        self.assertLess(abs(found / certified - 1), 10.0**-digits)

    def test_norris(self) -> None:
        pairs = np.array(NORRIS.split(), float).reshape(-1, 2)
        found = of(pairs[:, 1], pairs[:, 0], 1)
        self.near(found.coefficients[0, 0], CERTIFIED["intercept"])
        self.near(found.coefficients[0, 1], CERTIFIED["slope"], 11)
        self.near(found.s[0], CERTIFIED["s"], 11)
        self.near(found.r2[0], CERTIFIED["r2"], 11)
        self.near(found.standard_errors[0, 0], 0.232818234301152)
        self.near(found.standard_errors[0, 1], CERTIFIED["slope_error"], 11)
        self.near(found.f[0], 5436385.54079785, 8)

    def test_wampler_1(self) -> None:
        # y = 1 + x + x² + x³ + x⁴ + x⁵ at x = 0 ... 20: every coefficient 1, and nothing is missed.
        x = np.arange(21.0)
        found = of(x, sum(x**power for power in range(6)), 5)  # type: ignore[arg-type]
        for coefficient in found.coefficients[0]:
            self.near(coefficient, 1.0)
        self.near(found.r2[0], 1.0)

    def test_wampler_2(self) -> None:
        # The same with coefficients 1, 0.1, 0.01 and so on.
        x = np.arange(21.0)
        found = of(x, sum((x / 10) ** power for power in range(6)), 5)  # type: ignore[arg-type]
        for power, coefficient in enumerate(found.coefficients[0]):
            self.near(coefficient, 10.0**-power)

    def test_wampler_4(self) -> None:
        # Wampler 1 with errors of tens of thousands: every coefficient still 1, as they are made so.
        x = np.arange(21.0)
        off = [75901, -204794, 204863, -204436, 253665, -200894, 214131, -185192, 221249, -138370, 315911]
        off += [-27644, 455253, 197434, 783995, 608816, 1370781, 1303798, 2205519, 2408860, 3444321]
        found = of(x, np.array(off, float), 5)
        for coefficient in found.coefficients[0]:
            self.near(coefficient, 1.0, 8)
        self.near(found.s[0], 236014.502379268)
        self.near(found.standard_errors[0, 0], 215232.624678170)


class WorkedExamples(unittest.TestCase):
    def test_a_line_with_all_that_judges_it(self) -> None:
        # B: 204.5 + 11.75 t; the figures are those of the worked examples of the design.
        found = fit("line", B, np.ones_like(B), 1, How())
        for value, expected in (
            (found.coefficients[0, 0], 204.5),
            (found.coefficients[0, 1], 11.75),
            (found.r2[0], 0.694623),
            (found.s[0], 20.612496),
            (found.standard_errors[0, 1], 3.180577),
            (found.durbin_watson[0], 2.159826),
            (found.leverage[0, 4], 0.130952),
            (found.cooks_distance[0, 4], 0.445963),
            (found.curve[0, 8], 310.25),
            (found.half_width(t_quantile(0.95, found.freedom))[0, 8], 63.940519),
            # F is t squared; adjusted R² = 1 - (1 - R²) 7 / 6; AICc = 8 ln(SSE / 8) + 6 + 24 / 4.
            (found.f[0], (11.75 / 3.1805772) ** 2),
            (found.adjusted_r2[0], 1 - (1 - 0.69462288) * 7 / 6),
            (found.aicc[0], 8 * np.log(2549.25 / 8) + 12),
        ):
            self.assertAlmostEqual(value, expected, delta=5e-6 * abs(expected))

    def test_one_left_out_keeps_the_numbers_of_the_others(self) -> None:
        weights = np.ones_like(B)
        weights[0, 4] = 0
        found = fit("line", B, weights, 1, How())
        self.assertAlmostEqual(found.coefficients[0, 1], 11.109589, places=6)
        self.assertAlmostEqual(found.curve[0, 8], 300.643836, places=6)
        # Durbin and Watson's neighbours are those side by side: five pairs of seven periods, for six.
        e = found.residual[0]
        pairs = [(3, 2), (2, 1), (1, 0), (6, 5), (7, 6)]
        expected = sum((e[a] - e[b]) ** 2 for a, b in pairs) / np.nansum(e**2) * 6 / 5
        self.assertAlmostEqual(found.durbin_watson[0], expected, places=12)

    def test_growth_on_logs(self) -> None:
        found = fit("growth", B, np.ones_like(B), 1, How())
        self.assertAlmostEqual(np.exp(found.coefficients[0, 1]) - 1, 0.04805658, places=8)
        self.assertAlmostEqual(np.exp(found.curve[0, 8]), 315.401848, places=6)
        self.assertAlmostEqual(np.exp(found.curve[0, 8] + found.s[0] ** 2 / 2), 316.304261, places=6)
        self.assertAlmostEqual(found.r2[0], 0.729650, places=6)

    def test_indicators_are_the_means_of_seasons_about_a_slope(self) -> None:
        # Three years of two halves on the line 10 + 2 t, the first 3 above it and the second 3 below.
        y = np.array([[10 + 2 * t + (3 if t % 2 else -3) for t in range(1, 7)]], float)
        found = fit("indicators", y, np.ones_like(y), 2, How(cycle=2, place=np.arange(8) % 2))
        np.testing.assert_allclose(found.coefficients[0], [2, 13, 7], rtol=1e-12)
        np.testing.assert_allclose(found.curve[0, 6:], [27, 23], rtol=1e-12)

    def test_weights_count_some_more_and_make_none_less_sure(self) -> None:
        # y = 1, 2, 4 with weights 1/4, 1/2, 1: slope and level by hand, sums of w 7/4, of w t 17/4.
        y, w = np.array([1.0, 2, 4]), np.array([0.25, 0.5, 1])
        t = np.arange(1, 4)
        found = fit("weighted-line", y[None], np.ones((1, 3)), 0, How(half=1.0))
        tm, ym = (w * t).sum() / w.sum(), (w * y).sum() / w.sum()
        slope = (w * (t - tm) * (y - ym)).sum() / (w * (t - tm) ** 2).sum()
        self.assertAlmostEqual(found.coefficients[0, 1], slope, places=12)
        # Each coefficient is a sum of figures times what they pull: its variance that of the sum.
        x = np.column_stack((np.ones(3), t))
        pull = np.linalg.inv(x.T @ (w[:, None] * x)) @ (x.T * w)
        np.testing.assert_allclose(found.unscaled[0], pull @ pull.T, rtol=1e-10)
        self.assertAlmostEqual(found.left[0], w.sum() - np.trace(x @ pull * w[:, None]), places=10)


class Rules(unittest.TestCase):
    @settings(deadline=None, max_examples=60)
    @given(
        st.integers(4, 30),
        st.sampled_from(["line", "quadratic", "logarithmic", "weighted-line", "indicators"]),
        st.integers(0, 2**32 - 1),
    )
    def test_as_the_normal_equations_say(self, periods: int, method: str, seed: int) -> None:
        rng = np.random.default_rng(seed)
        y = rng.normal(50, 10, (3, periods))
        weights = (rng.random((3, periods)) < 0.8).astype(float)
        how = How(cycle=3, place=np.arange(periods + 2) % 3, half=5.0)
        found = fit(method, y, weights, 2, how)
        for row in range(3):
            own = weights[row] > 0
            if np.isnan(found.coefficients[row]).any():
                self.assertTrue(own.sum() <= found.terms or method == "indicators")
                continue
            t = np.arange(periods) - own.argmax() + 1.0
            x = {
                "line": np.column_stack((t**0, t)),
                "weighted-line": np.column_stack((t**0, t)),
                "quadratic": np.column_stack((t**0, t, t**2)),
                "logarithmic": np.column_stack((t**0, np.log(np.maximum(t, 0.5)))),
                "indicators": np.column_stack((t, np.eye(3)[np.arange(periods) % 3])),
            }[method]
            w = 0.5 ** (np.arange(periods)[::-1] / 5) if method == "weighted-line" else np.ones(periods)
            x, z, w = x[own], y[row][own], w[own]
            expected = np.linalg.solve(x.T @ (w[:, None] * x), x.T @ (w * z))
            np.testing.assert_allclose(found.coefficients[row], expected, rtol=1e-6, atol=1e-6)
            np.testing.assert_allclose(
                found.sse[row], (w * (z - x @ expected) ** 2).sum(), rtol=1e-6, atol=1e-9
            )

    def test_size_does_not_matter(self) -> None:
        plain = fit("quadratic", B, np.ones_like(B), 2, How())
        for size in (1e15, 1e-9):
            found = fit("quadratic", B * size, np.ones_like(B), 2, How())
            np.testing.assert_allclose(found.curve, plain.curve * size, rtol=1e-12)
            np.testing.assert_allclose(found.r2, plain.r2, rtol=1e-10)

    def test_one_series_is_fitted_as_among_many(self) -> None:
        rng = np.random.default_rng(3)
        y, weights = rng.normal(9, 1, (6, 20)), (rng.random((6, 20)) < 0.9).astype(float)
        weights[2:5] = weights[2]
        many = fit("quadratic", y, weights, 3, How())
        for row in range(6):
            alone = fit("quadratic", y[row : row + 1], weights[row : row + 1], 3, How())
            np.testing.assert_allclose(alone.curve[0], many.curve[row], rtol=1e-12)
            np.testing.assert_allclose(alone.leverage[0], many.leverage[row], rtol=1e-12)

    def test_too_few_periods_have_no_fit(self) -> None:
        for periods, method in ((2, "line"), (3, "quadratic"), (0, "line"), (1, "growth")):
            y = np.arange(1.0, periods + 1)[None]
            found = fit(method, y, np.ones_like(y), 2, How())
            self.assertTrue(np.isnan(found.curve).all(), method)
            self.assertTrue(np.isnan(found.s).all(), method)

    def test_what_no_logarithm_takes_has_no_fit(self) -> None:
        y = np.array([[3.0, 0, 4, 5], [3, 1, 4, 5]])
        found = fit("growth", y, np.ones_like(y), 1, How())
        self.assertTrue(np.isnan(found.curve[0]).all())
        self.assertFalse(np.isnan(found.curve[1]).any())


if __name__ == "__main__":
    unittest.main()
