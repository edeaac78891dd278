"""What is concluded from a history, held against histories whose truth is known."""

from __future__ import annotations

import math

import numpy as np

from oat_tide.core.methods.least_squares import regress
from oat_tide.core.methods.line import design
from oat_tide.core.methods.logistic import fit_logistic
from oat_tide.core.methods.shape import How, SeasonBy
from oat_tide.core.methods.table import METHODS
from oat_tide.documents import open_document
from oat_tide.plan.edits import edit
from oat_tide.plan.parts.project import Project
from oat_tide.plan.parts.seasons import Seasons
from oat_tide.plan.paths import P
from oat_tide.session import Session
from tests.helpers import FolderCase, monthly
from tests.stages.test_intervals import projected

RNG = np.random.default_rng(35)
NOISE = RNG.normal(0, 1, 80)


class Tests(FolderCase):
    def test_indices_count_where_a_line_is_judged_that_goes_through_what_they_leave(self) -> None:
        for past in (36, 60):
            t = np.arange(past + 1)
            values = 300 + 60 * np.sin(2 * np.pi * t / 12) + RNG.normal(0, 10, (1000, past + 1))
            figures = projected(values, past, 1, "line-season", Seasons(season="additive")).figures
            np.testing.assert_array_equal(figures["free"].values, past - 2 - 11)
            # Of 1,000 series 5 in 100 come to between 3.5 and 6.5.
            share = 100 * (figures["slope_p"].values[:, 0] < 0.05).mean()
            self.assertTrue(3 <= share <= 6.5, share)

    def test_the_watson_statistic_stays_at_two_by_chance_where_periods_are_missing(self) -> None:
        z = RNG.normal(size=(500, 60))
        weights = np.ones_like(z)
        for row in weights:
            row[RNG.choice(60, 25, replace=False)] = 0
        found = regress(z, weights, 60, design(60, How()), ("intercept", "slope"))
        self.assertTrue(1.9 <= found.durbin_watson.mean() <= 2.1, found.durbin_watson.mean())

    def test_residuals_of_a_weighted_fit_vary_by_one_and_it_has_no_criterion(self) -> None:
        weights = np.tile(0.5 ** (np.arange(40)[::-1] / 8), (4000, 1))
        z = RNG.normal(size=(4000, 40))
        found = regress(z, weights, 40, design(40, How()), ("intercept", "slope"))
        size = (found.standardised**2).mean(0)
        # Each within five standard errors of a mean square of 4,000, where s is not sure, too.
        self.assertLess(np.abs(size / size.mean() - 1).max(), 5 * math.sqrt(2 / 4000) + 0.02)
        self.assertTrue(np.isnan(found.aicc).all())
        plain = regress(z[:2], np.ones((2, 40)), 40, design(40, How()), ("intercept", "slope"))
        self.assertFalse(np.isnan(plain.aicc).any())
        np.testing.assert_allclose(plain.hat[0], plain.leverage[0])

    def test_saturating_growth_is_no_spike_no_fall_and_no_negative_year(self) -> None:
        t = np.arange(1.0, 25)
        rows = np.array([
            np.where(t == 20, 500.0, 10.0),
            500 / (1 + np.exp(t / 3 - 4)),
            np.where(t < 12, 10.0, 400.0),
            500 / (1 + np.exp(4 - t / 3)) - 30,
            500 / (1 + np.exp(4 - t / 3)),
        ])  # fmt: skip
        found, _ = fit_logistic(rows, np.ones_like(rows), math.nan)
        self.assertEqual(np.isnan(found[:, 0]).tolist(), [True, True, True, True, False])


class Seasonal(FolderCase):
    def test_a_constant_is_projected_as_it_is_by_every_method_with_season(self) -> None:
        session = self.opened(monthly([40] * 48))
        for method in ("line-season", "growth-season", "same-period", "same-period-drift"):
            session.do(edit(P.project, Project(method, horizon=12)))  # type: ignore[arg-type]
            ahead = session.deck("project").figures["projected"].values[0, 48:]
            np.testing.assert_allclose(ahead, 40, err_msg=method)
        self.assertEqual(session.deck("seasons").figures["index"].values[0].tolist(), [1.0] * 12)

    def test_a_method_with_season_on_a_series_without_one_says_so(self) -> None:
        session = self.opened(monthly([200 + 4 * NOISE[i] for i in range(60)]))
        session.do(edit(P.project, Project("line-season", horizon=12)))
        said = next(
            each for each in session.deck("project").cautions(0) if "no season beyond chance" in each.text
        )
        assert said.way_out is not None
        session.do(said.way_out)
        self.assertEqual(session.plan.project.method, "line")
        self.assertIn("no season\nbeyond", session.deck("seasons").finding(0))

    def test_local_regression_carries_its_latest_year_in_a_record_too(self) -> None:
        t = np.arange(72)
        # The swing doubles over six years.
        values = 300 + (20 + t) * np.sin(2 * np.pi * t / 12) + 2 * NOISE[:72]
        session = self.opened(monthly(values.tolist()))
        session.do(edit(P.seasons, Seasons(method="loess", season="additive")))
        session.do(edit(P.project, Project("line-season", horizon=12)))
        deck = session.deck("project").figures["projected"].values[0, 72:]
        how = How(
            cycle=12, place=np.arange(84) % 12, years=np.arange(84) // 12, back=12, year=12,
            season=SeasonBy("loess", "additive"),
        )  # fmt: skip
        kernel = METHODS["line-season"].kernel
        own = kernel(values[None].round(12), np.ones((1, 72)), np.array([72]), 12, how).ahead[0, 0]
        np.testing.assert_allclose(deck, own, rtol=1e-5)


class Starts(FolderCase):
    def begun(self, values: list[float], name: str) -> Session:
        return open_document(self.file(monthly(values), name)).session

    def test_a_plan_starts_with_a_method_that_suits_a_year_ahead(self) -> None:
        wave = [(200 + i) * (1 + 0.3 * math.sin(i * math.pi / 6)) + NOISE[i] for i in range(60)]
        for name, values, method in (
            ("season.csv", wave, "same-period-growth"),
            ("below.csv", [each - 180 for each in wave], "same-period-drift"),
            ("rises.csv", [200 + 2 * i + 4 * NOISE[i] for i in range(60)], "line"),
            ("level.csv", [200 + 4 * NOISE[i] for i in range(60)], "mean"),
            ("walk.csv", (500 + 10 * np.random.default_rng(3).normal(size=60).cumsum()).tolist(), "last"),
            ("short.csv", [200.0, 190, 204, 199], "last"),
        ):
            session = self.begun(values, name)
            with self.subTest(name):
                self.assertEqual(session.plan.project.method, method)
                ahead = session.deck("project").figures["projected"].values[0, len(values) :]
                self.assertEqual((~np.isnan(ahead)).sum(), 12)
        session.do(edit(P.periods.kind, "quarter"))
        self.assertIn("over the next 4 quarters", session.deck("project").title(0))

    def test_nothing_falls_below_zero_that_never_was_below(self) -> None:
        falls = self.begun([300.0 - 12 * i for i in range(24)], "falls.csv")
        falls.do(edit(P.project, Project("line", horizon=12)))
        figures = falls.deck("project").figures
        self.assertEqual(np.nanmin(figures["lower_95"].values), 0)
        # Where the floor does nothing no working tells of it.
        working = figures["projected"].explain(0, 24)
        assert working is not None
        self.assertNotIn("if", repr(working)[:40])
        falls.do(edit(P.project.positive, False))
        self.assertLess(np.nanmin(falls.deck("project").figures["projected"].values), 0)
