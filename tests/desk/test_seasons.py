"""Seasons by mouse and keys: arrangements, an index written in, a year left out, what cannot be."""

from __future__ import annotations

import datetime as dt

import numpy as np
from PyQt6.QtCore import QPoint, QPointF, QRect, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLineEdit

from oat_tide.core.working.tree import Ref
from oat_tide.desk.look.plain import Text
from oat_tide.plan.edits import edit
from oat_tide.plan.parts.evened import Ruled
from oat_tide.plan.parts.seasons import LeftOutRatio, Seasons
from oat_tide.plan.paths import P
from tests.desk.case import DeskCase
from tests.helpers import monthly
from tests.stages.test_examples import QUARTERS, quarters

SWING = [12, 20, 31, 12]


class SeasonsCase(DeskCase):
    text = quarters(QUARTERS)  # type: ignore[arg-type]

    def setUp(self) -> None:
        super().setUp()
        self.open(self.file(self.text))
        self.stage("seasons")

    def do(self, asked: Seasons) -> None:
        self.window.do(edit(P.seasons, asked))
        self.settle()

    @property
    def tide(self):  # type: ignore[no-untyped-def]
        return self.window.deck.tide

    def figure(self, name: str) -> np.ndarray:
        found: np.ndarray = self.window.session.deck("seasons").figures[name].values[0]
        return found

    def labels(self) -> list[str]:
        return [row.label for row in self.tide.rows]

    def row_of(self, name: str) -> int:
        return [row.name for row in self.tide.rows].index(name)

    def stand(self, name: str, column: int) -> None:
        """Click a cell of the table."""
        middle = self.tide.cell_rect(self.row_of(name), column).center()
        self.click(self.tide, middle.x(), middle.y())

    def write(self, text: str) -> None:
        """Type into the cell that the keys stand on, words included."""
        QTest.keyClick(self.tide, Qt.Key.Key_F2)
        self.tide.editor.selectAll()
        QTest.keyClicks(self.tide.editor, text)
        QTest.keyClick(self.tide.editor, Qt.Key.Key_Return)
        self.settle()

    def notes(self) -> str:
        self.window.sheet.finish()
        return " ".join(each.text() for each in self.window.sheet._page.findChildren(Text))

    def said(self) -> str:
        return " ".join(each.text() for each in self.window.strip.findChildren(Text))

    @property
    def title(self) -> str:
        title: str = self.window.deck.headline.title
        return title


class Indices(SeasonsCase):
    def setUp(self) -> None:
        super().setUp()
        self.do(Seasons(season="multiplicative"))

    def test_the_rail_says_what_it_finds(self) -> None:
        self.assertEqual(self.plan_stages(), ["intake", "history", "smooth", "seasons", "project"])
        self.assertIn("Q3 1.29 · Q1 0.80", self.window.rail.findings["seasons"].text())
        self.assertEqual(
            self.title, "The series sells most in Q3, 1.29 times its trend, and least in Q1, 0.80"
        )
        self.ctrl("2")
        self.ctrl("4")
        self.assertEqual(self.window.stage, "seasons")

    def plan_stages(self) -> list[str]:
        return list(self.window.rail.buttons)

    def test_the_index_in_use_stands_above_what_it_is_made_of(self) -> None:
        self.assertEqual(
            self.labels(),
            ["index in use", "by hand", "2020", "2021", "2022", "how many ratios", "mean of ratios", "scaled",
             "standard error"],
        )  # fmt: skip
        texts = [self.tide.text(self.row_of("index"), place) for place in range(4)]
        self.assertEqual(texts, ["0.80", "1.09", "1.29", "0.82"])
        self.assertEqual(self.window.deck.axis.deck.label(2), "Q3")
        self.assertEqual(self.tide.text(self.row_of("ratios_2020"), 0), "")

    def test_an_index_is_written_in_with_a_note_and_taken_back(self) -> None:
        self.stand("hand", 2)
        self.write("1.30 listed anew")
        (hand,) = self.window.session.plan.seasons.by_hand
        self.assertEqual((hand.place, hand.value, hand.note), (2, 1.30, "listed anew"))
        np.testing.assert_allclose(self.figure("index"), [0.792920, 1.088378, 1.30, 0.818702], atol=1e-6)
        self.assertIn("Q3 is 1.30, listed anew", self.notes())
        self.window.deck.keep(Ref("seasons", "index", 0, 0))
        self.assertIn("0.7959801 × 0.9961558 = 0.7929202", self.window.deck.card.numbers.text())
        self.click(self.button(self.window.sheet, "Remove"))
        self.assertEqual(self.window.session.plan.seasons.by_hand, ())
        self.ctrl("Z")
        self.assertEqual(len(self.window.session.plan.seasons.by_hand), 1)
        self.stand("hand", 2)
        QTest.keyClick(self.tide, Qt.Key.Key_Delete)
        self.settle()
        self.assertEqual(self.window.session.plan.seasons.by_hand, ())

    def test_what_cannot_stand_is_said_and_changes_nothing(self) -> None:
        before = self.figure("index").copy()
        self.stand("hand", 1)
        for text, words in (
            ("soon", "does not begin with a figure"),
            ("-1", "above zero"),
            ("4.5", "leave nothing for the others"),
        ):
            self.write(text)
            self.assertIn(words, self.said())
            self.assertIn("Nothing was written", self.said())
            np.testing.assert_array_equal(self.figure("index"), before)

    def test_a_years_ratio_is_left_out_and_taken_back(self) -> None:
        self.stand("ratios_2021", 0)
        QTest.keyClick(self.tide, Qt.Key.Key_Delete)
        self.settle()
        self.assertEqual(self.figure("many").tolist(), [1, 2, 2, 2])
        self.assertAlmostEqual(self.figure("joined")[0], 98 / 124.75)
        # It stays in sight, struck through.
        row = self.tide.rows[self.row_of("ratios_2021")]
        self.assertEqual((row.state(0, 0), self.tide.text(self.row_of("ratios_2021"), 0)), ("out", "0.81"))
        self.write("storm closure")
        self.assertIn("Q1 2021 is left out, storm closure", self.notes())
        self.write("0.9")
        self.assertIn("A ratio is what the lines come to", self.said())
        QTest.keyClick(self.tide, Qt.Key.Key_Delete)
        self.settle()
        self.assertEqual(self.figure("many").tolist(), [2, 2, 2, 2])

    def test_local_regression_says_that_a_ratio_left_out_counts(self) -> None:
        self.do(Seasons(method="loess", left_out=(LeftOutRatio((), 4, 2021, 0),)))
        self.assertIn("The ratio left out counts here", self.notes())
        row = self.tide.rows[self.row_of("ratios_2021")]
        self.assertEqual((row.state(0, 0), row.mend), ("", None))

    def test_left_out_and_written_are_saved_with_the_plan(self) -> None:
        self.stand("hand", 2)
        self.write("1.30 listed anew")
        self.stand("ratios_2021", 0)
        self.write("storm")
        asked, path = self.window.session.plan.seasons, self.folder / "mill.oattide"
        with self.answer_save(path):
            self.ctrl("S")
        self.open(path)
        self.assertEqual(self.window.session.plan.seasons, asked)


class OfOneSeries(SeasonsCase):
    text = "quarter,product,cases\n" + "".join(
        f"{2020 + i // 4}-{3 * (i % 4) + 1:02d}-01,{product},{value * times}\n"
        for i, value in enumerate(QUARTERS)
        for product, times in (("Granola", 1), ("Oat flour", 3))
    )

    def test_they_belong_to_the_series_that_they_were_written_for(self) -> None:
        self.do(Seasons(season="multiplicative"))
        self.stand("hand", 2)
        self.write("1.4")
        self.assertEqual(self.figure("index")[2], 1.4)
        self.window.do(edit(P.where, (("product", "Granola"),)))
        self.settle()
        self.assertTrue(np.isnan(self.figure("hand")).all())
        self.assertAlmostEqual(self.figure("index")[2], 1.289581, places=6)


class Parts(SeasonsCase):
    def test_bands_share_the_size_of_a_unit(self) -> None:
        self.do(Seasons(arrangement="parts", season="multiplicative"))
        bands = self.window.deck.bands
        titles = [band.title for band in self.window.deck.deck.bands]
        self.assertEqual(titles, ["cases", "season", "remainder"])
        self.settle()
        by_pixel = [
            (plot.sees[1][1] - plot.sees[1][0]) / bands.frame_of(plot).height() for plot in bands.plots[:3]
        ]
        np.testing.assert_allclose(by_pixel, by_pixel[0])
        self.assertEqual(self.labels(), ["Actual", "Trend", "Season", "Remainder", "Deseasonalised"])
        whole = self.figure("season_units") + self.figure("remainder_units") + self.figure("trend")
        known = ~np.isnan(whole)
        self.assertEqual(int(known.sum()), 8)
        np.testing.assert_allclose(whole[known], np.array(QUARTERS)[known])
        self.assertIn("centred average takes 2 quarters on either side", self.why_blank("trend", 0))

    def why_blank(self, name: str, column: int) -> str:
        return self.window.session.deck("seasons").figures[name].why_blank(0, column)

    def test_they_follow_the_as_of(self) -> None:
        self.do(Seasons(arrangement="parts", season="additive"))
        scale, over = self.window.deck.scale, self.window.deck.bands.over
        start = QPointF(scale.edge(12), over.height() - 20)
        self.drag(over, start, QPointF(scale.edge(10), over.height() - 20))
        self.assertEqual(self.window.session.plan.as_of, dt.date(2022, 6, 30))
        self.assertEqual(int((~np.isnan(self.figure("trend"))).sum()), 6)
        self.assertTrue(np.isnan(self.figure("deseasonalised")[10:]).all())

    def test_too_short_a_history_says_how_much_is_missing(self) -> None:
        self.window.do(edit(P.as_of, dt.date(2021, 3, 31)))
        self.settle()
        self.assertIn("it is too early to find a season", self.title)
        self.assertIn(
            "A season takes two full cycles, 8 quarters; 5 are known and 3 more are needed", self.notes()
        )
        self.assertEqual(self.labels(), ["Actual"])
        self.ctrl("Z")
        self.assertIn("sells most", self.title)

    def test_deseasonalised_is_laid_over_on_request(self) -> None:
        self.do(Seasons(arrangement="parts"))
        box = self.window.sheet.control(("seasons", "over"))
        self.click(box.check if hasattr(box, "check") else box)
        curves = [curve.figure for curve in self.window.deck.deck.bands[0].curves]
        self.assertIn("deseasonalised", curves)


class Deseasonalised(SeasonsCase):
    def test_next_year_is_put_back_in_season(self) -> None:
        self.do(Seasons(season="multiplicative"))
        self.click(self.window.deck.arrangements.buttons["deseasonalised"])
        self.assertEqual(self.window.deck.deck.columns, 16)
        self.assertIn("y = 97.2915 + 3.0892 t", self.notes())
        np.testing.assert_allclose(
            self.figure("back")[12:], [109.408461, 153.551468, 185.222045, 120.582521], rtol=1e-6
        )
        self.window.deck.keep(Ref("seasons", "back", 0, 12))
        self.assertIn("137.45", self.window.deck.card.numbers.text())
        self.click(self.button(self.window.sheet.control(("seasons", "through")), "growth curve"))
        self.assertIn("e^(", self.notes())


class Awkward(SeasonsCase):
    text = monthly([SWING[month % 4] * (month % 7 != 3) for month in range(40)])

    def test_what_is_not_above_zero_cannot_be_multiplied(self) -> None:
        self.do(Seasons(cycle=4))
        control = self.window.sheet.control(("seasons", "season"))
        self.assertIn("not above zero", " ".join(control.control.why_nots))
        self.do(Seasons(cycle=4, season="multiplicative"))
        self.assertIn("A season that multiplies needs figures above zero: Apr 2020", self.notes())
        self.click(self.button(self.window.sheet, "Take it as additive"))
        self.assertEqual(self.window.session.plan.seasons.season, "additive")
        self.assertIn("sells most", self.title)

    def test_no_season_is_drawn_from_noise(self) -> None:
        self.do(Seasons(cycle=5, arrangement="parts"))
        # What 95 % limit by chance is reckoned in another process.
        self.wait(lambda: "no season beyond chance" in self.title)
        self.settle()
        self.assertEqual([band.title for band in self.window.deck.deck.bands], ["cases", "remainder"])
        self.assertIn(
            "No season beyond chance: the place in 5 months explains no more than chance", self.notes()
        )

    def test_a_period_left_out_is_filled_and_said(self) -> None:
        gone = Ruled((), dt.date(2021, 8, 1), dt.date(2021, 8, 31), "leave out", note="storm")
        self.window.do(edit(P.evened.rulings, (gone,)))
        self.do(Seasons(cycle=4, arrangement="parts"))
        self.assertIn("1 month not known or left out, filled with level × index", self.notes())
        self.assertFalse(np.isnan(self.figure("trend")[19]))

    def test_holidays_are_typed(self) -> None:
        self.do(Seasons(cycle=4, per="selling day", arrangement="parts"))
        self.window.sheet.finish()
        for title, text in (
            ("25 Dec Christmas", "25 Dec Christmas"),
            ("Easter 14 days 8 %", "Easter 10 days 5 %"),
        ):
            line = next(
                each for each in self.window.sheet._page.findChildren(type(self.entry(title)))
                if each.accessibleName() == self.entry(title).accessibleName()
            )  # fmt: skip
            line.setText(text)
            QTest.keyClick(line, Qt.Key.Key_Return)
            self.settle()
        asked = self.window.session.plan.seasons
        self.assertEqual([(each.month, each.day) for each in asked.holidays], [(12, 25)])
        self.assertEqual([(each.days, each.percent) for each in asked.moving], [(10, 5.0)])
        self.assertIn("Raised by moving holidays", self.labels())

    def entry(self, title: str):  # type: ignore[no-untyped-def]
        self.window.sheet.finish()
        return next(
            each
            for each in self.window.sheet._page.findChildren(QLineEdit)
            if title in (each.placeholderText() + each.accessibleName())
        )


class Taken(SeasonsCase):
    def test_smooth_takes_up_the_deseasonalised_series(self) -> None:
        self.do(Seasons(season="multiplicative"))
        self.stage("smooth")
        self.click(self.button(self.window.sheet.control(("smooth", "of")), "deseasonalised"))
        self.assertEqual(self.window.session.plan.smooth.of, "deseasonalised")
        self.assertIn(", by the 6-quarter average, deseasonalised", self.title)
        # What stands first is the forecast with its season.
        back = self.window.session.deck("smooth").figures["next_back_0"].values[0, 0]
        self.assertIn(f"{back:.4g} forecast", self.title)
        self.assertIn("Deseasonalised", self.labels())
        self.assertIn("6-quarter average, forecast back in season", self.labels())
        self.ctrl("Z")
        self.assertNotIn("Deseasonalised", self.labels())

    def test_by_selling_day_smooth_says_why_not(self) -> None:
        self.do(Seasons(per="selling day"))
        self.stage("smooth")
        control = self.window.sheet.control(("smooth", "of"))
        self.assertIn("by selling day", " ".join(control.control.why_nots))


class OnTheScreen(SeasonsCase):
    """Only what has changed is painted: the screen shows what the window would paint anew."""

    text = monthly([200.0 + 30 * (i % 12) + i * i % 7 for i in range(60)], "2021-01-01")

    def seen(self) -> None:
        QApplication.processEvents()
        window = self.window
        screen = window.screen()
        assert screen is not None
        # The window first: to grab it anew paints it, but into a picture of its own.
        shown = screen.grabWindow(window.winId()).toImage().convertToFormat(QImage.Format.Format_RGB32)
        whole = window.grab().toImage().convertToFormat(QImage.Format.Format_RGB32)
        self.assertEqual(shown.size(), whole.size())
        for widget in (window.deck.bands, window.deck.tide, window.deck.axis, window.header):
            at = QRect(widget.mapTo(window, QPoint(0, 0)), widget.size())
            self.assertTrue(shown.copy(at) == whole.copy(at), type(widget).__name__)

    def test_what_is_painted_in_part_is_as_if_painted_whole(self) -> None:
        for stage, drawn in (
            ("seasons", "indices"),
            ("seasons", "parts"),
            ("seasons", "deseasonalised"),
            ("smooth", ""),
            ("project", ""),
            ("history", "overlaid"),
        ):
            with self.subTest(f"{stage} {drawn}"):
                self.stage(stage)
                if drawn:
                    self.window.do(edit(getattr(P, stage).arrangement, drawn))
                self.settle()
                self.seen()
                for back in (1, 2, 3, 9):
                    self.window.do(edit(P.as_of, dt.date(2025, 12 - back, 28), "drag"))
                    self.seen()
                self.window.do(edit(P.as_of, None))

    def test_an_index_written_in_and_taken_back_is_painted(self) -> None:
        self.stand("hand", 1)
        self.write("1.5")
        self.seen()
        self.ctrl("Z")
        self.seen()
        year = next(row.name for row in self.tide.rows if row.name.startswith("ratios_"))
        self.stand(year, 7)
        QTest.keyClick(self.tide, Qt.Key.Key_Delete)
        self.settle()
        self.seen()
