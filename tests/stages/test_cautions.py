"""What Project warns of: each caution with its evidence, and a way out that mends it."""

from __future__ import annotations

import math

import numpy as np

from oat_tide.plan.edits import Edit, edit
from oat_tide.plan.parts.project import Project
from oat_tide.plan.paths import P
from oat_tide.session import Session
from oat_tide.stages.deck import Caution
from tests.helpers import FolderCase, monthly

NOISE = np.random.default_rng(1964).normal(0, 1, 80)


class Cautions(FolderCase):
    def of(self, values: list[float], *edits: Edit) -> tuple[Session, tuple[Caution, ...]]:
        session = self.opened(monthly(values), f"{abs(hash(tuple(values)))}.csv")
        for each in edits:
            session.do(each)
        return session, session.deck("project").cautions(0)

    def find(self, cautions: tuple[Caution, ...], words: str) -> Caution:
        found = [each for each in cautions if words in each.text]
        self.assertTrue(found, f"{words!r} not in {[each.text for each in cautions]}")
        return found[0]

    def mended(self, session: Session, caution: Caution, words: str) -> None:
        """Its way out leaves nothing of the kind to say."""
        assert caution.way_out is not None
        session.do(caution.way_out)
        after = [each.text for each in session.deck("project").cautions(0)]
        self.assertFalse([each for each in after if words in each], after)

    def test_nothing_is_said_of_a_history_as_the_method_has_it(self) -> None:
        _, said = self.of([200 + 3 * i + 4 * NOISE[i] for i in range(48)])
        self.assertEqual([each.text for each in said], [])

    def test_a_line_through_a_season(self) -> None:
        values = [(200 + i) * (1 + 0.4 * math.sin(math.pi * i / 6)) + NOISE[i] for i in range(60)]
        session, said = self.of(values)
        found = self.find(said, "The history has a season and this method has none")
        self.assertRegex(
            found.text, r"(April|October) was (above|below) the fit in every year, by \d+ % on average"
        )
        self.assertTrue(found.evidence)
        self.mended(session, found, "The history has a season")
        self.assertEqual(session.plan.project.method, "line-season")

    def test_a_bend(self) -> None:
        values = [200 + 0.1 * i * i + 4 * NOISE[i] for i in range(48)]
        session, said = self.of(values)
        self.mended(session, self.find(said, "The trend curves upwards"), "curves")
        self.assertEqual(session.plan.project.method, "quadratic")

    def test_a_level_that_stepped(self) -> None:
        values = [(200 if i < 30 else 320) + 6 * NOISE[i] for i in range(48)]
        session, said = self.of(values, edit(P.project.method, "quadratic"))
        found = self.find(said, "seems to have stepped in Jul 2022")
        self.mended(session, found, "stepped in Jul 2022")
        self.assertIsNotNone(session.plan.project.since)

    def test_one_period_that_pulls_the_line(self) -> None:
        values = [200 + 3 * i + 4 * NOISE[i] for i in range(24)]
        values[22] += 400
        session, said = self.of(values)
        found = self.find(said, "and pulls it: without it the slope is")
        self.assertIn("Nov 2021", found.text)
        self.mended(session, found, "pulls it")
        self.assertEqual(session.plan.evened.rulings[0].act, "leave out")

    def test_residuals_that_hang_together(self) -> None:
        level, values = 0.0, []
        for i in range(72):
            level = 0.85 * level + 8 * NOISE[i]
            values.append(300 + 2 * i + level)
        _, said = self.of(values, edit(P.project.method, "quadratic"))
        self.assertIn("from past starts counts that", self.find(said, "are autocorrelated").text)

    def test_a_long_horizon_and_few_periods(self) -> None:
        values = [200 + 3 * i + 4 * NOISE[i] for i in range(14)]
        session, said = self.of(values, edit(P.project.horizon, 12))
        self.mended(session, self.find(said, "is far for a fit on 14"), "is far")
        session.do(edit(P.project, Project("harmonics", pairs=3, horizon=2)))
        said = session.deck("project").cautions(0)
        self.mended(session, self.find(said, "are too few for 8 coefficients"), "are too few")

    def test_only_an_interval_below_zero(self) -> None:
        values = [max(0.0, 14 + 9 * NOISE[i]) for i in range(36)]
        session, said = self.of(values, edit(P.project.positive, False))
        self.assertGreater(np.nanmin(session.deck("project").figures["projected"].values[0]), 0)
        self.mended(session, self.find(said, "interval reaches below zero from"), "below zero")

    def test_a_projection_below_zero(self) -> None:
        values = [max(0.0, 40 - i + 9 * NOISE[i]) for i in range(36)]
        quiet, said = self.of(values)
        self.assertEqual(np.nanmin(quiet.deck("project").figures["projected"].values), 0.0)
        self.assertFalse([each for each in said if "below zero" in each.text])
        session, said = self.of(values, edit(P.project.positive, False))
        self.mended(session, self.find(said, "The projection falls below zero from"), "below zero")
        lower = session.deck("project").figures["lower_95"].values[0]
        self.assertEqual(np.nanmin(lower), 0.0)

    def test_too_few_for_a_fit_says_how_many(self) -> None:
        for values, method, words in (
            ([5.0, 6], "line", "three complete periods"),
            ([5.0, 6, 7], "quadratic", "3 coefficients take 4 months, and 3 lie in the fit span"),
            ([5.0, 0, 7, 8], "power", "needs values above zero"),
            ([5.0, 6, 7, 8, 9], "line-season", "two full cycles"),
        ):
            with self.subTest(method):
                session, said = self.of(values, edit(P.project.method, method))
                self.find(said, words)
                self.assertTrue(np.isnan(session.deck("project").figures["projected"].values).all())
