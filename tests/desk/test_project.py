"""Project by mouse and keys: choosing, laying over, previewing, leaving the odd year out by its caution."""

from __future__ import annotations

import datetime as dt
import sys
from functools import partial
from unittest import mock

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QEnterEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QCheckBox

from oat_tide.core.methods.table import METHODS
from oat_tide.desk.look.plain import Text
from oat_tide.desk.sheet.cards import CardHead, CardsView, FoldHead
from oat_tide.plan.edits import edit
from oat_tide.plan.parts.project import Project
from oat_tide.plan.parts.seasons import Seasons
from oat_tide.plan.paths import P
from tests.desk.case import DeskCase
from tests.helpers import monthly, plain

YEARS = [210, 225, 232, 248, 310, 268, 275, 291]
WAVY = [round(200 + 3 * i + 60 * np.sin(np.pi * i / 6)) for i in range(60)]


class ProjectCase(DeskCase):
    text = monthly(WAVY)  # type: ignore[arg-type]

    def setUp(self) -> None:
        super().setUp()
        self.open(self.file(self.text))
        # As if it had begun so: it is not a step, and nothing is changed.
        plain(self.window.session)
        self.window.refresh()
        self.stage("project")

    def notes(self) -> str:
        self.window.sheet.finish()
        return " ".join(each.text() for each in self.window.sheet._page.findChildren(Text))

    def figure(self, name: str) -> np.ndarray:
        found: np.ndarray = self.window.session.deck("project").figures[name].values[0]
        return found

    def curves(self) -> list[str]:
        """What the chart draws."""
        deck = self.window.deck.bands.deck
        return [curve.figure for band in deck.bands for curve in band.curves]

    def over(self, head: CardHead) -> None:
        """Press the button that lays a method over the chart, or takes it off."""
        cards = next(each for each in self.window.sheet._page.findChildren(CardsView) if head in each.heads)
        self.click(cards.acts[cards.heads.index(head)].buttons[0])


class BeyondAnyFigure(ProjectCase):
    """A thousand million times more every month: ten months ahead of 10²⁰⁷ no figure is left."""

    text = "month,product,cases\n" + "".join(
        f"{2023 + i // 12}-{i % 12 + 1:02d},Porridge oats,{10 ** (9 * i)}\n" for i in range(24)
    )

    def test_growth_without_end_ends_in_words(self) -> None:
        self.window.do(edit(P.project.horizon, 120))
        self.window.do(edit(P.project.method, "compound"))
        self.window.do(edit(P.project.over, ("rate", "line", "logistic")))
        self.settle()
        card = self.card("Compound growth")
        self.assertEqual(card.card.said, "Dec 2034: beyond 10³⁰⁰")
        finding = self.window.rail.findings["project"].text()
        self.assertEqual(finding, "compound growth\nDec 2034 beyond 10³⁰⁰")
        # 10²⁰⁷ × (10⁹)^10 = 10²⁹⁷ is the last.
        np.testing.assert_allclose(self.figure("projected")[33], 1e297, rtol=1e-9)
        self.assertTrue(np.isnan(self.figure("projected")[34:]).all())
        self.window.see_all()
        QTest.mouseMove(self.window.deck.tide, self.point("projected", 40))
        self.settle()
        card = self.window.deck.card
        self.assertIn(", May 2026: no figure", card.title.text())
        self.assertIn("It lies beyond 10³⁰⁰", card.numbers.text())

    def test_every_method_and_stage_is_shown(self) -> None:
        self.window.do(edit(P.project.horizon, 120))
        shown = [partial(self.window.do, edit(P.project.method, method)) for method in METHODS]
        shown += [partial(self.stage, stage) for stage in self.window.rail.buttons]
        for show in shown:
            # What goes wrong in a paint or a later turn comes here and nowhere else.
            with self.subTest(show.args), mock.patch.object(sys, "excepthook") as gone_wrong:
                show()
                self.settle()
                gone_wrong.assert_not_called()
                self.assertEqual(self.window.width(), 1280)


class Methods(ProjectCase):
    def test_one_is_chosen_and_others_are_laid_over_it(self) -> None:
        self.click(self.card("Line with season"))
        self.assertEqual(self.plan.project.method, "line-season")
        self.assertIn("line with season", self.window.deck.headline.subtitle)
        # The trend times its index: close to the wave it was made of.
        ahead = [200 + 3 * i + 60 * np.sin(np.pi * i / 6) for i in range(60, 66)]
        np.testing.assert_allclose(self.figure("projected")[60:], ahead, rtol=0.05)
        self.over(self.card("Straight line"))
        self.assertEqual(self.plan.project.over, ("line",))
        self.assertIn("projected_line", self.curves())
        # Its row stands under a head that opens.
        self.window.deck.tide.folded.emit("project.over")
        self.settle()
        self.assertTrue(self.cell_text("projected_line", 62))
        self.over(self.card("Straight line"))
        self.assertEqual(self.plan.project.over, ())

    def test_none_makes_the_sheet_wider_than_its_window(self) -> None:
        sheet = self.window.sheet
        for method in METHODS:
            with self.subTest(method):
                self.window.do(edit(P.project, Project(method=method)))
                self.settle()
                sheet.finish()
                self.assertLessEqual(sheet._page.minimumSizeHint().width(), sheet.viewport().width())

    def test_a_chosen_one_is_laid_over_no_more(self) -> None:
        self.over(self.card("Growth curve"))
        self.click(self.card("Growth curve"))
        self.assertEqual((self.plan.project.method, self.plan.project.over), ("growth", ()))

    def test_the_smoother_in_hand_runs_on(self) -> None:
        self.window.sheet.control(("project", "every")).findChild(QCheckBox).click()
        self.settle()
        self.click(self.card("Smoother, extended"))
        # The mean of the last six months, for every month to come.
        np.testing.assert_allclose(self.figure("projected")[60:], np.mean(WAVY[-6:]))
        self.assertIn("6-month average, extended", self.window.deck.headline.subtitle)
        self.window.do(edit(P.smooth.hand, 1))
        self.assertIn("weighted 3-2-1, extended", self.window.deck.headline.subtitle)
        # What forecasts nothing gives way to a line, and says so.
        self.window.do(edit(P.smooth.smoothers[1].kind, "highest"))
        self.settle()
        self.assertIn("A rolling maximum forecasts nothing", self.notes())
        self.assertIn("straight line", self.window.deck.headline.subtitle)

    def test_pointing_at_a_method_previews_it(self) -> None:
        before = self.plan
        head = self.card("Same period last year")
        QApplication.sendEvent(head, QEnterEvent(QPointF(5, 5), QPointF(5, 5), QPointF(5, 5)))
        self.settle()
        self.assertIn("projected_same-period", self.curves())
        self.assertEqual(self.plan, before)
        head.pointed.emit(False)
        self.settle()
        self.assertNotIn("projected_same-period", self.curves())

    def test_the_list_opens_on_six_and_has_the_rest(self) -> None:
        def titles() -> list[str]:
            self.window.sheet.finish()
            heads = self.window.sheet._page.findChildren(CardHead)
            return [each.card.title for each in heads if not isinstance(each, FoldHead)]

        self.assertEqual(len(titles()), 6)
        self.window.sheet.control(("project", "every")).findChild(QCheckBox).click()
        self.settle()
        self.assertEqual(len(titles()), 23)
        self.click(self.card("Saturating growth"))
        self.assertEqual(self.plan.project.method, "logistic")
        self.assertTrue(self.window.sheet.control(("project", "ceiling")).isVisibleTo(self.window))

    def test_years_are_offered_what_has_no_season(self) -> None:
        self.window.choose_kind("year")
        self.settle()
        self.window.sheet.finish()
        heads = self.window.sheet._page.findChildren(CardHead)
        titles = [each.card.title for each in heads if each.isVisibleTo(self.window.sheet)]
        self.assertNotIn("Line with season", titles)
        self.assertIn("Compound growth", titles)

    def test_a_method_that_periods_cannot_have_is_said(self) -> None:
        self.click(self.card("Line with season"))
        self.window.choose_kind("year")
        self.settle()
        self.assertIn("A year has no", self.notes() + " ".join(self.cautions()))
        self.assertFalse(np.isnan(self.figure("projected")).all())

    def cautions(self) -> list[str]:
        return [each.text for each in self.window.session.deck("project").cautions(0)]

    def test_moved_back_it_says_how_it_has_done(self) -> None:
        self.window.do(edit(P.as_of, dt.date(2024, 6, 30)))
        self.settle()
        said = self.notes()
        self.assertIn("Of 6 months sold since: mean absolute error", said)
        self.assertIn("of projected", said)

    def test_residuals_stand_below_the_chart(self) -> None:
        self.window.do(edit(P.project, Project("line", residuals=True)))
        self.settle()
        self.assertIn("remains", self.curves())
        heads = [each.card.title for each in self.window.sheet._page.findChildren(FoldHead)]
        for said in ("Coefficients", "Fit", "Residuals"):
            self.assertIn(said, heads)
        self.assertIn("Autocorrelation by lag in months", self.notes())


class Falls(ProjectCase):
    text = monthly([300 - 12 * i for i in range(24)])

    def test_nothing_below_zero(self) -> None:
        self.window.do(edit(P.project, Project("line", horizon=12)))
        self.settle()
        self.assertEqual(np.nanmin(self.figure("projected")), 0)
        self.window.do(edit(P.project.positive, False))
        self.settle()
        self.assertLess(np.nanmin(self.figure("projected")), 0)
        self.assertIn("below zero, too", self.window.deck.headline.subtitle)


class FallsOn(ProjectCase):
    text = monthly([300 - 14 * i for i in range(24)])

    def test_what_was_below_zero_may_be_so_again(self) -> None:
        self.assertTrue(self.plan.project.positive)
        self.assertLess(np.nanmin(self.figure("projected")), 0)


class TheOddYear(ProjectCase):
    text = "year,cases\n" + "\n".join(f"{2018 + i},{value}" for i, value in enumerate(YEARS)) + "\n"

    def test_it_is_left_out_by_its_caution(self) -> None:
        said = [each.text for each in self.window.session.deck("project").cautions(0)]
        # Left out with its number kept the slope is 11.109589.
        self.assertTrue(any("2022" in each and "11.11, not 11.75" in each for each in said), said)
        self.click(self.button(self.window.sheet, "Leave it out"))
        self.assertAlmostEqual(self.figure("slope")[0], 11.109589, places=6)
        self.assertAlmostEqual(self.figure("projected")[8], 300.643836, places=6)
        self.ctrl("Z")
        self.assertAlmostEqual(self.figure("slope")[0], 11.75)


class InSeason(ProjectCase):
    def test_a_line_through_a_season_is_pointed_at(self) -> None:
        said = [each.text for each in self.window.session.deck("project").cautions(0)]
        self.assertIn("The history has a season and this method has none", said[0])
        self.click(self.button(self.window.sheet, "Take a method with season"))
        self.assertEqual(self.plan.project.method, "line-season")

    def test_an_index_by_hand_is_heeded(self) -> None:
        self.window.do(edit(P.seasons, Seasons(season="multiplicative")))
        self.window.do(edit(P.project.method, "line-season"))
        self.settle()
        before = self.figure("projected")[60:66].copy()
        self.stage("seasons")
        self.window.do(edit(P.seasons.arrangement, "indices"))
        self.settle()
        tide = self.window.deck.tide
        row = [each.name for each in tide.rows].index("hand")
        middle = tide.cell_rect(row, 0).center()
        self.click(tide, middle.x(), middle.y())
        QTest.keyClick(tide, Qt.Key.Key_F2)
        tide.editor.selectAll()
        QTest.keyClicks(tide.editor, "1.4")
        QTest.keyClick(tide.editor, Qt.Key.Key_Return)
        self.settle()
        self.stage("project")
        after = self.figure("projected")[60:66]
        self.assertGreater(after[0], before[0])
        self.assertAlmostEqual(self.figure("season")[60], 1.4)
