"""How a screen shares its room: past and future, chart and table, rows under heads, names and totals."""

from __future__ import annotations

import itertools
import unittest
import zlib

import numpy as np
from PyQt6.QtCore import QPoint, QPointF, QRectF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QPushButton

from oat_tide.desk.chart.names import LINE
from oat_tide.desk.chart.scale import GUTTER
from oat_tide.desk.look.palette import DARK, LIGHT, Palette
from oat_tide.documents import open_document, save_document
from oat_tide.plan.edits import edit
from oat_tide.plan.parts.project import Project
from oat_tide.plan.paths import P
from tests.desk.case import DeskCase
from tests.helpers import daily, monthly, wavy

_WAVY = [200 + 3 * i + 60 * np.sin(np.pi * i / 6) for i in range(60)]


class InProject(DeskCase):
    def setUp(self) -> None:
        super().setUp()
        self.open(self.file(monthly(_WAVY)))
        self.project()

    def project(self, **more: object) -> None:
        """Bring Project in sight, by a line with season."""
        self.window.do(edit(P.project, Project("line-season", **more)))  # type: ignore[arg-type]
        self.window.show_stage("project")
        self.settle()

    def heads(self) -> dict[str, bool]:
        """The heads of groups, and whether each is opened."""
        model = self.window.deck.tide.model
        assert model is not None
        return {head.title: head.opened for head in model.heads}

    def rows(self) -> list[str]:
        """The rows that are shown."""
        return [row.name for row in self.window.deck.tide.rows]


class PastAndFuture(InProject):
    def test_any_horizon_opens_beside_the_past_that_it_comes_from(self) -> None:
        for horizon in (2, 6, 12, 24, 40):
            with self.subTest(horizon):
                self.window.deck.scale.settled = False
                self.project(horizon=horizon)
                scale, deck = self.window.deck.scale, self.window.session.shown("project")
                behind = deck.past - scale.start
                self.assertEqual(scale.start + scale.count, deck.columns)
                self.assertGreaterEqual(behind, min(12, horizon / 2))
                if horizon > 2:
                    self.assertLessEqual(behind / scale.count, 0.6)

    def test_a_wider_window_shows_more(self) -> None:
        before = self.window.deck.scale.count
        self.window.resize(1920, 1080)
        self.settle()
        self.assertGreater(self.window.deck.scale.count, before)
        self.window.resize(1280, 800)
        self.settle()
        self.assertEqual(self.window.deck.scale.count, before)

    def test_sums_of_wider_steps_stay_on_their_side_of_the_as_of_line(self) -> None:
        self.project(horizon=40)
        tide, scale = self.window.deck.tide, self.window.deck.scale
        self.assertIsNotNone(tide.steps())
        past = self.window.session.shown("project").past
        for row, sums in tide._cells.summed.items():
            for first, stop in sums.spans.tolist():
                name = tide.rows[row].name
                self.assertFalse(first < past < stop and name in ("actual", "projected"), (name, first, stop))
        self.assertGreater(scale.count, 40)


class ChartAndTable(InProject):
    def test_the_chart_has_its_share_of_the_height_in_every_stage(self) -> None:
        deck = self.window.deck
        for stage in ("history", "smooth", "seasons", "project"):
            self.window.show_stage(stage)
            self.settle()
            overview = deck.overview.height() if deck.overview.isVisible() else 0
            self.assertGreaterEqual(deck.bands.height() + overview, 0.45 * deck.height() - 2, stage)

    def test_the_bar_moves_the_split_and_the_plan_keeps_it(self) -> None:
        deck = self.window.deck
        before, bar = deck.bands.height(), deck.split
        middle = QPointF(bar.width() / 2, 4)
        self.drag(bar, middle, middle + QPointF(0, 60))
        self.assertGreater(deck.bands.height(), before + 30)
        kept = self.plan.layout.split("project")
        assert kept is not None
        path = self.folder / "kept.oattide"
        save_document(self.window.session, "project", path)
        self.assertEqual(open_document(path).session.plan.layout.split("project"), kept)
        self.assertIsNone(self.plan.layout.split("history"))
        QTest.mouseDClick(bar, Qt.MouseButton.LeftButton)
        self.settle()
        self.assertIsNone(self.plan.layout.split("project"))
        self.assertEqual(deck.bands.height(), before)

    def test_the_bar_is_moved_by_keys_too(self) -> None:
        before = self.window.deck.bands.height()
        QTest.keyClick(self.window.deck.split, Qt.Key.Key_Down)
        self.settle()
        self.assertGreater(self.window.deck.bands.height(), before)
        self.assertIsNotNone(self.plan.layout.split("project"))

    def test_the_wheel_scrolls_rows_that_have_no_room_and_zooms_with_ctrl(self) -> None:
        for name in ("interval", "fit", "growth"):
            self.window.deck.tide.folded.emit(f"project.{name}")
            self.settle()
        rows, scale = self.window.deck.rows, self.window.deck.scale
        bar = rows.verticalScrollBar()
        self.assertGreater(bar.maximum(), 0)
        self.assertEqual(self.window.deck.tide.width(), self.window.deck.bands.width())
        count = scale.count
        self.turn(Qt.KeyboardModifier.NoModifier)
        self.assertGreater(bar.value(), 0)
        self.assertEqual(scale.count, count)
        self.turn(Qt.KeyboardModifier.ControlModifier)
        self.assertNotEqual(scale.count, count)

    def turn(self, keys: Qt.KeyboardModifier) -> None:
        """Turn the wheel over the table."""
        over = self.window.deck.tide
        place = QPointF(over.width() * 0.6, 30)
        event = QWheelEvent(
            place, over.mapToGlobal(place), QPoint(0, 0), QPoint(0, -120), Qt.MouseButton.NoButton,
            keys, Qt.ScrollPhase.NoScrollPhase, False,
        )  # fmt: skip
        QApplication.sendEvent(over, event)
        if not event.isAccepted():
            QApplication.sendEvent(self.window.deck.rows.viewport(), event)
        self.settle()


class RowsUnderHeads(InProject):
    def test_a_click_opens_a_head_and_undo_folds_it(self) -> None:
        self.assertEqual(self.heads(), {"Interval": False, "How it fits": False, "Growth": False})
        self.assertEqual(self.rows(), ["actual", "projected", "year_base", "on_base"])
        tide = self.window.deck.tide
        place = next(top for top, head in zip(tide._cells.head_tops, tide.model.heads, strict=True)
                     if head.title == "Interval")  # fmt: skip
        QTest.mouseClick(tide, Qt.MouseButton.LeftButton, pos=QPoint(60, place + 8))
        self.settle()
        self.assertTrue(self.heads()["Interval"])
        self.assertIn("lower_80", self.rows())
        self.assertEqual(self.plan.layout.turned, ("project.interval",))
        self.ctrl("Z")
        self.assertNotIn("lower_80", self.rows())

    def test_heads_say_their_main_figure(self) -> None:
        said = {head.title: head.said for head in self.window.deck.tide.model.heads}
        self.assertRegex(said["Interval"], r"^80 %: [\d,]+ to [\d,]+ in total$")
        self.assertRegex(said["Growth"], r"^\+[\d.]+ % on the year before$")
        self.assertRegex(said["How it fits"], r"^R² [01]\.\d\d$")

    def test_hidden_rows_are_kept_by_the_plan(self) -> None:
        menu = self.window.deck.rows_menu
        menu.aboutToShow.emit()
        next(each for each in menu.actions() if each.text() == "Projected less last year").setChecked(False)
        self.settle()
        self.assertNotIn("on_base", self.rows())
        self.assertEqual(self.plan.layout.hidden, ("project.on_base",))

    def test_rows_without_a_figure_are_not_shown(self) -> None:
        self.assertNotIn("Sold since", self.heads())
        self.window.step_as_of(-6)
        self.settle()
        self.assertIn("Sold since", self.heads())
        self.assertIn("difference", self.rows())

    def test_totals_at_the_right_are_those_of_the_rows(self) -> None:
        tide, deck = self.window.deck.tide, self.window.session.shown("project")
        self.assertEqual(tide.totalled(), (deck.past, deck.columns))
        ahead = deck.figures["projected"].values[0, deck.past :].sum()
        row = self.rows().index("projected")
        said = tide.model.total(row, *tide.totalled())
        self.assertAlmostEqual(float(said.replace(",", "")), ahead, delta=0.05)
        self.window.show_stage("history")
        self.settle()
        first, stop = tide.totalled()
        self.assertEqual(stop, self.window.session.shown("history").past)
        sold = self.window.session.shown("history").figures["actual"].values[0, first:stop].sum()
        self.assertAlmostEqual(float(tide.model.total(0, first, stop).replace(",", "")), sold, delta=0.05)


class Names(InProject):
    def test_none_lies_over_the_columns_or_over_another(self) -> None:
        self.project(over=("line", "growth", "same-period", "same-period-growth"))
        over, scale = self.window.deck.bands.over, self.window.deck.scale
        over.grab()
        self.assertGreaterEqual(len(over._placed), 8)
        for place, name, _ in over._placed:
            self.assertGreaterEqual(place.left(), scale.end)
            self.assertLessEqual(place.right(), over.width())
            self.assertLessEqual(place.height(), 2 * LINE)
            self.assertTrue(name.lines)
        for (one, *_), (two, *_) in itertools.combinations(over._placed, 2):
            self.assertFalse(one.intersects(two))

    def test_pointing_at_one_lifts_its_curve_and_says_it_in_full(self) -> None:
        over = self.window.deck.bands.over
        before = _mark(over.grab().toImage())
        place = next(place for place, name, _ in over._placed if name.full == "projected")
        QTest.mouseMove(over, place.center().toPoint())
        self.settle()
        self.assertEqual(over.toolTip(), "projected")
        self.assertNotEqual(_mark(over.grab().toImage()), before)

    def test_long_names_never_widen_the_window(self) -> None:
        name = "A product with a name of sixty characters, as offices have it"
        lines = daily(500, wavy).replace("Bran", f'"{name}"')
        self.open(self.file(lines, "long.csv"))
        self.window.do(edit(P.title, name))
        self.window.do(edit(P.where, (("product", name),)))
        for stage in ("history", "smooth", "seasons", "project"):
            self.window.show_stage(stage)
            self.settle()
            self.assertLessEqual(self.window.minimumSizeHint().width(), 1024, stage)
        self.window.resize(1024, 700)
        self.settle()
        self.assertEqual(self.window.width(), 1024)
        self.assertEqual(self.window.rail.width(), 56)
        self.assertGreater(self.window.deck.scale.across, 250)
        self.window.resize(1280, 800)
        self.settle()
        self.assertEqual(self.window.rail.width(), 150)


class OneScreen(InProject):
    def test_the_sheet_of_project_is_one_screen(self) -> None:
        self.window.sheet.finish()
        self.settle()
        page = self.window.sheet._page
        self.assertLessEqual(page.heightForWidth(page.width()), self.window.sheet.viewport().height())

    def test_cautions_after_the_first_are_a_line_that_opens(self) -> None:
        self.window.do(edit(P.project, Project("line", horizon=100)))
        self.settle()
        many = len(self.window.session.shown("project").cautions(0))
        self.assertGreater(many, 1)
        frames = [
            each for each in self.window.sheet._page.findChildren(type(self.window.sheet._page)) if each
        ]
        self.assertEqual(frames, [])
        buttons = self.window.sheet._page.findChildren(QPushButton)
        rest = next(each for each in buttons if each.text() == f"{many - 1} more ⌄")
        rest.click()
        self.settle()
        self.assertFalse(rest.isVisible())


class HowDoI(InProject):
    def test_a_task_of_the_help_leads_to_where_it_is_done(self) -> None:
        self.key("F1")
        self.settle()
        links = {each.text(): each for each in self.window.help.findChildren(QPushButton)}
        links["compare the years month by month ›"].click()
        self.settle()
        self.assertFalse(self.window.help.isVisible())
        self.assertEqual((self.window.stage, self.plan.history.arrangement), ("history", "overlaid"))
        self.key("F1")
        links["compare a projection with what sold ›"].click()
        self.settle()
        self.assertEqual(self.window.stage, "project")
        self.assertTrue(self.window.session.moved_back)

    def test_it_closes_by_a_button(self) -> None:
        self.key("F1")
        self.settle()
        next(each for each in self.window.help.findChildren(QPushButton) if each.text() == "Close").click()
        self.assertFalse(self.window.help.isVisible())


class AtTheEdge(InProject):
    def test_the_as_of_line_out_of_sight_is_brought_back_by_a_button(self) -> None:
        scale, over = self.window.deck.scale, self.window.deck.bands.over
        scale.settled = True
        scale.look(0, 12)
        over.grab()
        self.assertFalse(over._edge.isNull())
        self.click(over, over._edge.center().x(), over._edge.center().y())
        past = self.window.session.shown("project").past
        self.assertTrue(scale.start < past < scale.start + scale.count)
        over.grab()
        self.assertTrue(over._edge.isNull())


class ReadAloud(InProject):
    def test_a_table_of_items_says_rows_columns_values_and_marks(self) -> None:
        tide, deck = self.window.deck.tide, self.window.session.shown("project")
        reader = tide.reader
        self.assertEqual((reader.rows.rowCount(), reader.rows.columnCount()), (len(tide.rows), deck.columns))
        row, column = self.rows().index("projected"), deck.past
        index = reader.rows.index(row, column)
        spoken = index.data(Qt.ItemDataRole.AccessibleTextRole)
        self.assertEqual(spoken, f"Projected, {deck.label(column)}: {index.data()}")
        self.assertEqual(reader.rows.headerData(column, Qt.Orientation.Horizontal), deck.label(column))
        self.assertEqual(reader.rows.headerData(row, Qt.Orientation.Vertical), "Projected")
        first = reader.rows.index(self.rows().index("year_base"), 0)
        self.assertTrue(first.data(Qt.ItemDataRole.AccessibleTextRole).endswith("no figure"))

    def test_its_current_cell_is_where_the_keys_stand(self) -> None:
        tide = self.window.deck.tide
        tide.setFocus()
        for key in (Qt.Key.Key_Down, Qt.Key.Key_Left):
            QTest.keyClick(tide, key)
        current = tide.reader.currentIndex()
        self.assertEqual((current.row(), current.column()), tide.standing)


class Contrast(unittest.TestCase):
    def test_text_can_be_read_on_what_it_stands_on(self) -> None:
        for palette in (LIGHT, DARK):
            for text in ("ink", "quiet"):
                for ground in ("paper", "mist", "sheet", "card", "caution"):
                    self.assertGreaterEqual(_ratio(palette, text, ground), 4.5, (text, ground))
            for text in ("kelp", "ochre_text", "heather", "rust"):
                for ground in ("paper", "sheet", "card", "caution"):
                    self.assertGreaterEqual(_ratio(palette, text, ground), 4.5, (text, ground))
            self.assertGreaterEqual(_ratio(palette, "head_text", "head"), 4.5)
            self.assertGreaterEqual(_ratio(palette, "head_text", "head_moved"), 4.5)

    def test_lines_can_be_seen(self) -> None:
        for palette in (LIGHT, DARK):
            for line in ("ink", "veil", "kelp", "ochre", "heather", "rust"):
                self.assertGreaterEqual(_ratio(palette, line, "paper"), 3.0, line)


def _ratio(palette: Palette, one: str, two: str) -> float:
    """The contrast of two colours (WCAG 2.2, relative luminance)."""
    high, low = sorted((_light(palette, each) for each in (one, two)), reverse=True)
    return (high + 0.05) / (low + 0.05)


def _light(palette: Palette, name: str) -> float:
    color = palette.color(name)
    parts = [each / 12.92 if each <= 0.04045 else ((each + 0.055) / 1.055) ** 2.4
             for each in (color.redF(), color.greenF(), color.blueF())]  # fmt: skip
    return float(np.dot(parts, (0.2126, 0.7152, 0.0722)))


def _mark(image: object) -> int:
    bits = image.constBits()  # type: ignore[attr-defined]
    bits.setsize(image.sizeInBytes())  # type: ignore[attr-defined]
    return zlib.crc32(bytes(bits))


class Hovered(InProject):
    def test_beside_the_columns_no_period_is_pointed_at(self) -> None:
        scale = self.window.deck.scale
        for x in (GUTTER - 5, scale.end + 5):
            QTest.mouseMove(self.window.deck.bands.over, QPointF(x, 90).toPoint())
            self.assertEqual(scale.hovered, -1)
        self.assertTrue(QRectF(self.window.deck.tide.rect()).contains(QPointF(scale.end, 10)))
