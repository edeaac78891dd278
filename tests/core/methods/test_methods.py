"""Every method: worked examples by hand, parameters found again, and nothing of what is later."""

from __future__ import annotations

import unittest
from unittest import mock

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from oat_tide.core.accuracy.rolling import from_starts
from oat_tide.core.methods.growth_direct import fit_growth
from oat_tide.core.methods.huber import huber_weights
from oat_tide.core.methods.logistic import fit_logistic
from oat_tide.core.methods.shape import How, SeasonBy
from oat_tide.core.methods.steps import on
from oat_tide.core.methods.table import METHODS
from oat_tide.core.methods.theil_sen import middle_slopes
from oat_tide.core.smoothing.running import Exponential, Smoother, Windowed
from oat_tide.core.smoothing.windows import trailing

# Three years of quarters; the worked examples of the design have its figures.
C = np.array([[80.0, 110, 140, 90, 92, 128, 150, 100, 98, 140, 172, 110]])


def how(columns: int, cycle: int = 4, **more: object) -> How:
    """Cycles from the first column on."""
    at = np.arange(columns)
    return How(
        cycle=cycle,
        place=at % cycle,
        years=at // cycle,
        phase=(at % cycle) / cycle,
        year=cycle,
        back=cycle,
        **more,  # type: ignore[arg-type]
    )


def project(name: str, values: np.ndarray, horizon: int = 4, **more: object) -> np.ndarray:
    """What a method projects from the end of a history of quarters."""
    past = values.shape[1]
    asked = how(past + horizon, **more)
    found = METHODS[name].kernel(values, np.ones_like(values), np.array([past]), horizon, asked)
    ahead: np.ndarray = found.ahead[0, 0]
    return ahead


class WorkedExamples(unittest.TestCase):
    def test_carried_forward(self) -> None:
        # The last year of C is 98, 140, 172, 110 = 520, the year before 92, 128, 150, 100 = 470.
        for name, expected in (
            ("last", [110, 110, 110, 110, 110]),
            # (110 - 80) / 11 a quarter.
            ("drift", [110 + 30 / 11 * step for step in range(1, 6)]),
            ("same-period", [98, 140, 172, 110, 98]),
            # Times 520 / 470, and once more for the year after.
            ("same-period-growth", [each * 52 / 47 for each in (98, 140, 172, 110, 98 * 52 / 47)]),
            # 50 / 4 more a year.
            ("same-period-drift", [110.5, 152.5, 184.5, 122.5, 123]),
        ):
            with self.subTest(name):
                np.testing.assert_allclose(project(name, C, 5), expected, rtol=1e-12)
        np.testing.assert_allclose(project("mean", C, 2, last=4), [130, 130])
        # 80 to 110 in eleven quarters.
        np.testing.assert_allclose(project("compound", C, 2), 110 * (110 / 80) ** (np.array([1, 2]) / 11))
        np.testing.assert_allclose(project("rate", C, 4, rate=0.04)[3], 110 * 1.04)

    def test_one_step_of_what_is_carried_forward(self) -> None:
        asked = how(12)
        for name, column, expected in (
            ("last", 5, 92.0),
            ("same-period", 5, 110.0),
            # 92 and (92 - 80) / 4.
            ("drift", 5, 95.0),
            # 98 of two years before is 92: times (92 + 128 + 150 + 100) / (80 + 110 + 140 + 90).
            ("same-period-growth", 8, 92 * 470 / 420),
            ("same-period-drift", 8, 92 + 50 / 4),
        ):
            with self.subTest(name):
                found = METHODS[name].kernel(C, np.ones_like(C), np.array([12]), 0, asked)
                self.assertAlmostEqual(found.fitted()[0, column], expected)

    def test_a_line_with_season(self) -> None:
        # The classical indices and the line of the worked examples: 97.291474 + 3.089213 t.
        expected = [109.408461, 153.551468, 185.222045, 120.582521]
        np.testing.assert_allclose(
            project("line-season", C, season=SeasonBy(counts="multiplicative")), expected, rtol=1e-8
        )

    def test_a_period_not_known_keeps_its_place(self) -> None:
        values = np.array([[10.0, 12, np.nan, 16, 18, np.nan]])
        np.testing.assert_allclose(project("line", values, 2), [22, 24])
        # The last known is 18, two quarters before the first that is projected; 2 a quarter.
        np.testing.assert_allclose(project("drift", values, 2), [22, 24])
        self.assertTrue(np.isnan(project("mean", values, 1, last=2)).all())

    def test_the_median_of_slopes(self) -> None:
        # 1, 3, 2, 9 at 1 ... 4: slopes 2, -1, 7, 1/2, 3, 8/3, their median 7/3; of y - 7/3 t the middle two
        # of -4/3, -5/3, -5, -1/3.
        found = middle_slopes(np.array([[1.0, 3, 2, 9]]), np.arange(1.0, 5))
        self.assertAlmostEqual(found[1][0], 7 / 3)
        self.assertAlmostEqual(found[0][0], -(4 / 3 + 5 / 3) / 2)

    def test_one_odd_period_bends_no_robust_line(self) -> None:
        values = 5 + 2 * np.arange(1, 13.0)[None]
        values[0, 6] += 500
        for name in ("huber", "theil-sen"):
            with self.subTest(name):
                np.testing.assert_allclose(project(name, values, 2), [31, 33], rtol=1e-9)

    def test_hubers_line_weighs_what_is_far_off_less(self) -> None:
        rng = np.random.default_rng(4)
        t = np.arange(1.0, 41)
        z = 3 + 0.5 * t + rng.normal(0, 1, 40)
        z[9] += 30
        intercept, slope, weights = huber_weights(z[None], t)
        off = z - intercept[0] - slope[0] * t
        scale = 1.345 * np.median(np.abs(off)) / 0.6745
        np.testing.assert_allclose(weights[0], np.minimum(1, scale / np.abs(off)), rtol=1e-6)
        w = weights[0]
        tm, zm = (w * t).sum() / w.sum(), (w * z).sum() / w.sum()
        self.assertAlmostEqual(
            slope[0], (w * (t - tm) * (z - zm)).sum() / (w * (t - tm) ** 2).sum(), places=9
        )


class FoundAgain(unittest.TestCase):
    """Parameters that series are made from are found again."""

    t = np.arange(1.0, 41)

    def test_growth_on_the_original_scale(self) -> None:
        for size in (1.0, 1e15, 1e-9):
            values = size * 3 * np.exp(0.05 * self.t)[None]
            parameters, _ = fit_growth(values, np.ones_like(values))
            np.testing.assert_allclose(parameters[0], [np.log(3 * size), 0.05], rtol=1e-7)

    def test_saturating_growth(self) -> None:
        values = 100 / (1 + np.exp(3 - 0.2 * self.t))[None]
        parameters, _ = fit_logistic(values, np.ones_like(values), np.nan)
        np.testing.assert_allclose(parameters[0], [-3, 0.2, np.log(100)], rtol=1e-6)
        np.testing.assert_allclose(
            project("logistic", values, 2), 100 / (1 + np.exp(3 - 0.2 * np.array([41, 42]))), rtol=1e-6
        )
        found, _ = fit_logistic(values, np.ones_like(values), 120.0)
        self.assertAlmostEqual(float(np.exp(found[0, 2])), 120.0)

    def test_where_there_is_no_period_to_fit_nothing_is_sought(self) -> None:
        for values in (np.empty((2, 0)), np.full((1, 9), np.nan)):
            with mock.patch.object(np.linalg, "solve") as solve:
                found = (
                    fit_logistic(values, np.ones_like(values), np.nan)[0],
                    fit_growth(values, np.ones_like(values))[0],
                )
            self.assertTrue(all(np.isnan(each).all() for each in found))
            solve.assert_not_called()

    def test_least_squares_are_least(self) -> None:
        rng = np.random.default_rng(5)
        values = 100 / (1 + np.exp(3 - 0.2 * self.t)) + rng.normal(0, 3, (4, 40))
        found, first = fit_logistic(values, np.ones_like(values), np.nan)
        t = on(first, 40)

        def sse(parameters: np.ndarray) -> np.ndarray:
            off = values - np.exp(parameters[:, 2:]) / (
                1 + np.exp(-parameters[:, :1] - parameters[:, 1:2] * t)
            )
            squares: np.ndarray = (off**2).sum(1)
            return squares

        for place in range(3):
            for step in (1e-4, -1e-4):
                moved = found.copy()
                moved[:, place] += step
                self.assertTrue((sse(moved) >= sse(found)).all())

    def test_a_ceiling_below_the_data_or_none_in_sight_has_no_fit(self) -> None:
        values = 100 / (1 + np.exp(3 - 0.2 * self.t))[None]
        self.assertTrue(np.isnan(project("logistic", values, 2, ceiling=60.0)).all())
        self.assertTrue(np.isnan(project("logistic", np.exp(0.05 * self.t)[None], 2)).all())

    def test_seasons_as_indicators_and_as_waves(self) -> None:
        t = np.arange(1.0, 33)
        values = (100 + 2 * t + np.array([5, -10, 8, -3])[(np.arange(32)) % 4])[None]
        expected = 100 + 2 * np.arange(33.0, 37) + np.array([5, -10, 8, -3])
        np.testing.assert_allclose(project("indicators", values), expected, rtol=1e-10)
        wave = (100 + 2 * t + 6 * np.sin(2 * np.pi * (np.arange(32) % 4) / 4))[None]
        ahead = 100 + 2 * np.arange(33.0, 37) + 6 * np.sin(2 * np.pi * np.arange(4) / 4)
        np.testing.assert_allclose(project("harmonics", wave, pairs=1), ahead, rtol=1e-10)


class NothingLater(unittest.TestCase):
    def test_a_smoother_runs_on(self) -> None:
        # 3-2-1 on 98, 140, 172, 110: (3 x 110 + 2 x 172 + 140) / 6.
        weighted = Smoother(Windowed("weighted", trailing(3, 16), (3.0, 2.0, 1.0)))
        np.testing.assert_allclose(project("smoothed", C, smoother=weighted), [814 / 6] * 4)
        # Level and trend from the fifth on: 92 and (92 - 80) / 4 = 3; then 95 is forecast and 128 comes.
        steady = Smoother(Exponential("trend", constants=(0.5, 0.4, 1.0)))
        level, trend = 92.0, 3.0
        for value in C[0, 5:]:
            before = level
            level = 0.5 * value + 0.5 * (level + trend)
            trend = 0.4 * (level - before) + 0.6 * trend
        found = project("smoothed", C, smoother=steady)
        np.testing.assert_allclose(found, [level + each * trend for each in range(1, 5)])

    def test_a_smoother_without_its_season_is_put_back_in_it(self) -> None:
        mean = Smoother(Windowed("mean", trailing(4, 16)), deseasonalised=True)
        ahead = project("smoothed", C, season=SeasonBy(counts="multiplicative"), smoother=mean)
        # The mean of the last year without its season, times the index of each quarter.
        index = np.array([0.795980, 1.092578, 1.289581, 0.821861])
        np.testing.assert_allclose(ahead, np.mean(C[0, 8:] / index) * index, rtol=1e-6)

    def test_what_is_later_changes_no_start(self) -> None:
        rng = np.random.default_rng(6)
        values = 50 + rng.gamma(4, 5, (3, 40)) + 10 * np.sin(np.arange(40) * np.pi / 2)
        starts, asked = np.array([12, 20, 31]), how(46)
        later = values.copy()
        later[:, 31:] = rng.gamma(4, 500, (3, 9))
        smoothers = (
            Smoother(Windowed("median", trailing(5, 46)), deseasonalised=True),
            Smoother(Exponential("damped")),
            Smoother(Exponential("trend", "fitted")),
        )
        tried = [(METHODS["smoothed"], how(46, smoother=each)) for each in smoothers]
        for method, asked in (*((each, asked) for each in METHODS.values()), *tried):
            with self.subTest(method.name):
                plain = method.kernel(values, np.ones_like(values), starts, 6, asked).ahead
                scrambled = method.kernel(later, np.ones_like(values), starts, 6, asked).ahead
                np.testing.assert_array_equal(plain, scrambled)
                # One start alone is the same as among several.
                alone = method.kernel(values, np.ones_like(values), starts[1:2], 6, asked).ahead
                np.testing.assert_array_equal(plain[1:2], alone)

    @settings(deadline=None, max_examples=40)
    @given(st.integers(0, 14), st.sampled_from(sorted(METHODS)), st.integers(0, 2**32 - 1))
    def test_no_history_is_too_odd(self, periods: int, name: str, seed: int) -> None:
        rng = np.random.default_rng(seed)
        kinds = (
            np.zeros(periods),
            np.full(periods, 7.0),
            np.where(np.arange(periods) == 2, 1e15, 1.0),
            np.where(np.arange(periods) == 1, 5.0, np.nan),
            rng.normal(0, 1, periods) * 1e-9,
            rng.integers(0, 3, periods).astype(float),
        )
        values = np.stack(kinds)
        by = (Windowed("trimmed", trailing(3, periods + 3), short=True), Exponential("damped", "fitted"))
        asked = how(periods + 3, smoother=Smoother(by[seed % 2], deseasonalised=seed % 3 == 0))
        with np.errstate(all="ignore"):
            found = METHODS[name].kernel(values, np.ones_like(values), np.array([periods]), 3, asked)
        self.assertEqual(found.ahead.shape, (1, 6, 3))
        self.assertEqual(found.fitted().shape, values.shape)
        self.assertFalse(np.isinf(found.ahead).any())


class PastStarts(unittest.TestCase):
    def test_what_was_projected_and_what_came_by_lead(self) -> None:
        # The last value of 1, 2, 4, 7: from 2 known 4 - 2 and 7 - 2, from 3 known 7 - 4.
        values = np.array([[1.0, 2, 4, 7]])
        starts = np.array([2, 3])
        ahead, came = from_starts(METHODS["last"].kernel, values, np.ones_like(values), starts, 2, how(6))
        np.testing.assert_array_equal(ahead[:, 0], [[2, 2], [4, 4]])
        np.testing.assert_array_equal((came - ahead)[:, 0], [[2, 5], [3, np.nan]])
        # What is not in the fit is not known.
        weights = np.array([[1.0, 1, 1, 0]])
        _, came = from_starts(METHODS["last"].kernel, values, weights, starts, 2, how(6))
        np.testing.assert_array_equal(came[:, 0], [[4, np.nan], [np.nan, np.nan]])
