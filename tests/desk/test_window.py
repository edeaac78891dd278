"""The window driven from opening a file to a saved plan."""

from __future__ import annotations

import csv
import datetime as dt
import io
import sys
import threading
from contextlib import redirect_stderr
from dataclasses import replace
from unittest import mock

from PyQt6.QtCore import QEvent, QMimeData, QObject, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent, QImage
from PyQt6.QtTest import QTest

from oat_tide import journal
from oat_tide.core.working.tree import Ref
from oat_tide.desk.chart.bands import BandView
from oat_tide.desk.look import palette, style
from oat_tide.desk.sheet.control_widgets import ManyControl, PickControl
from oat_tide.desk.sheet.sheet import _Page
from oat_tide.desk.work.faults import catch_all
from oat_tide.documents import open_document
from oat_tide.intake.origins import path_permission
from oat_tide.plan.edits import edit
from oat_tide.plan.paths import P
from oat_tide.stages import ON_RAIL
from oat_tide.system import log
from tests.desk.case import LEFT, DeskCase, activate
from tests.helpers import daily, monthly, wavy

HOME = Qt.Key.Key_Home


class Opening(DeskCase):
    def test_without_a_plan_the_window_says_what_to_do(self) -> None:
        self.assertIs(self.window.pages.currentWidget(), self.window.welcome)
        self.assertFalse(self.window.header.series.isVisible())
        self.assertFalse(self.window.commands.named["save"].isEnabled())
        self.ctrl("Home")
        self.ctrl("Z")

    def test_a_sales_file_opens_on_intake_with_findings_on_the_rail(self) -> None:
        self.open(self.file(daily(500, wavy) + "wk 9,Bran,North,7\n"))
        self.assertEqual(self.window.stage, "intake")
        self.assertIn("1,500 lines make 17 months of 3 series, and tie", self.window.deck.headline.title)
        findings = {name: label.text() for name, label in self.window.rail.findings.items()}
        self.assertEqual(findings["intake"], "1,500 lines tie\n1 set aside")
        self.assertTrue(all(findings.values()), findings)
        model = self.window.deck.listing.model()
        self.assertEqual(model.index(0, 2).data(), "wk 9 | Bran | North | 7")

    def test_the_demo_plan_opens_from_the_welcome_page(self) -> None:
        self.click(self.window.welcome.ways["demo"])
        self.assertEqual(self.window.windowTitle(), "Mill plan 2026 – Oat Tide")
        self.assertIn("saved", self.window.header.plan.text())
        self.assertEqual(self.window.header.series.toolTip(), "All › Oat drink › North shore")

    def test_a_file_can_be_dropped(self) -> None:
        data = QMimeData()
        data.setUrls([QUrl.fromLocalFile(str(self.file(monthly([1, 2, 3, 4]))))])
        self.window.dropEvent(
            QDropEvent(QPointF(9, 9), Qt.DropAction.CopyAction, data, LEFT, Qt.KeyboardModifier.NoModifier)
        )
        self.settle()
        self.assertIsNotNone(self.window.session)

    def test_what_cannot_be_opened_is_said_and_the_open_plan_stays(self) -> None:
        self.open(self.file(monthly([1, 2, 3, 4])))
        session = self.window.session
        for data, name, word in (
            (b"", "empty.csv", "is empty"),
            (b"date,cases\n", "head.csv", "no lines below it"),
            (b"a,b\nx,y\nz,w\n", "words.csv", "no column holds dates"),
            (b"\x7fELF\x00\x00", "program.csv", "not a text file"),
            (b"PK\x05\x06" + bytes(18), "cut.oattide", "plan.json"),
        ):
            with self.subTest(name):
                self.open(self.file(data, name))
                self.assertIn(name, self.said())
                self.assertIn(word, self.said())
                self.assertIs(self.window.session, session)
                self.key("Escape")
                self.assertEqual(self.said(), "")


class Columns(DeskCase):
    def setUp(self) -> None:
        super().setUp()
        rows = [line + f",{i % 5 + 1}" for i, line in enumerate(daily(200, wavy).strip().split("\n"))]
        rows[0] = "date,product,area,cases,pallets"
        self.open(self.file("\n".join(rows)))

    def test_series_columns_are_ticked_and_unticked(self) -> None:
        control = self.window.sheet.control(("intake", "by"))
        assert isinstance(control, ManyControl)
        area = next(check for check in control.checks if check.text().startswith("area"))
        QTest.mouseClick(area, LEFT, pos=QPoint(6, area.height() // 2))
        self.settle()
        self.assertEqual(self.plan.intake.by, ("product",))
        self.assertEqual(self.window.session.panel.keys, (("Bran",), ("Oat drink",)))
        self.ctrl("Z")
        self.assertEqual(self.plan.intake.by, ("product", "area"))

    def test_the_data_to_date_can_be_set(self) -> None:
        self.assertEqual(self.window.session.grid.label(self.window.session.home), "Jun 2024")
        line = self.window.sheet.control(("intake", "upto")).line
        QTest.keyClicks(line, "2024-07")
        QTest.keyClick(line, Qt.Key.Key_Return)
        self.settle()
        self.assertEqual(self.plan.intake.upto, dt.date(2024, 7, 31))
        self.assertEqual(self.window.session.grid.label(self.window.session.home), "Jul 2024")

    def test_another_measure_can_be_chosen(self) -> None:
        control = self.window.sheet.control(("intake", "value"))
        assert isinstance(control, PickControl)
        self.click(self.button(control, "pallets"))
        self.assertEqual(self.window.session.reading.unit, "pallets")
        self.assertEqual(self.window.header.unit.text(), "pallets")

    def test_a_choice_that_cannot_be_read_is_said_and_taken_back(self) -> None:
        self.window.do(edit(P.intake.by, ("area",)))
        self.settle()
        before = self.plan
        self.window.do(edit(P.intake.value, "product"))
        self.settle()
        self.assertIn("none of its 600 lines can be used", self.said())
        self.assertEqual(self.plan, before)


class Turns(DeskCase):
    """Long work of the interface itself is cut into turns, between which keys and clicks are heard."""

    def setUp(self) -> None:
        super().setUp()
        self.open(self.file(daily(500, wavy)))

    def said(self) -> list[str]:
        """What stands on the side sheet, from top to bottom."""
        page = self.window.sheet._page
        return [f"{type(each).__name__} {each.accessibleName()}" for each in page.parts]

    def test_the_side_sheet_is_made_a_few_controls_a_turn_and_edits_in_between_are_heard(self) -> None:
        sheet = self.window.sheet
        whole = self.said()
        sheet._pages.clear()
        sheet._page = _Page("")
        with mock.patch("oat_tide.desk.sheet.sheet._SLICE", 0.0):
            self.window.show_stage("smooth")
            self.window.show_stage("intake")
            self.assertEqual(self.said(), [])
            sheet._make_some()
            sheet._make_some()
            self.assertEqual(self.said(), whole[:2])
            self.window.do(edit(P.evened.gaps, "not known"))
            self.assertEqual(self.said(), whole[:2])
            self.wait(lambda: not sheet._making.isActive())
        self.settle()
        self.assertEqual(self.said(), whole)
        gaps = sheet.control(("evened", "gaps"))
        self.assertEqual(gaps.control.now, "not known")
        # It is folded away until it is looked for.
        sheet.reveal(("evened", "gaps"))
        self.assertTrue(gaps.isVisible())

    def test_the_side_sheet_is_never_painted_squeezed(self) -> None:
        """Whatever is painted has nearly the height that it asks for: part of the last may come later."""
        seen: list[tuple[int, int]] = []

        class Noted(QObject):
            def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:  # noqa: N802
                if event is not None and event.type() == QEvent.Type.Paint and isinstance(watched, _Page):
                    seen.append((watched.height(), watched.heightForWidth(watched.width())))
                return False

        noted = Noted()
        self.app.installEventFilter(noted)
        self.addCleanup(self.app.removeEventFilter, noted)
        for stage in ("smooth", "seasons", "project", "smooth", "intake"):
            self.window.show_stage(stage)
            self.settle()
        self.assertGreater(len(seen), 8)
        self.assertEqual([each for each in seen if each[0] < 0.8 * each[1]], [])

    def test_another_page_of_controls_is_painted_after_the_chart(self) -> None:
        painted: list[str] = []

        class Noted(QObject):
            def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:  # noqa: N802
                if event is not None and event.type() == QEvent.Type.Paint:
                    painted.append("page" if isinstance(watched, _Page) else type(watched).__name__)
                return False

        noted = Noted()
        self.app.installEventFilter(noted)
        self.addCleanup(self.app.removeEventFilter, noted)
        self.window.show_stage("smooth")
        while "TideTable" not in painted:
            self.app.processEvents()
        self.assertNotIn("page", painted)
        self.settle()
        self.assertIn("page", painted)
        # A drag has both in one paint: nothing of what it changes comes later.
        painted.clear()
        self.window.do(edit(P.smooth.smoothers[0].window, 9))
        while "TideTable" not in painted:
            self.app.processEvents()
        self.assertIn("page", painted)

    def test_what_takes_turns_in_the_foot_has_its_place_at_once(self) -> None:
        foot = self.window.deck.foot
        for stage in ("smooth", "intake"):
            self.window.show_stage(stage)
            self.settle()
        listed, working = foot.tabs["Columns"], foot.tabs["Working"]
        heights = []
        for button in (working, listed, working, self.window.rail.buttons["smooth"]):
            QTest.mouseClick(button, LEFT)
            self.assertEqual(foot.height(), foot.sizeHint().height())
            heights.append(foot.height())
        # With nothing to take turns with, the card needs less.
        self.assertEqual(heights[:3], [heights[0]] * 3)
        self.assertGreater(heights[0], heights[3])

    def test_another_stage_lays_the_chart_out_once(self) -> None:
        stages = "history", "intake", "smooth", "intake"
        for stage in stages:
            # At first sight all finds its place.
            self.window.show_stage(stage)
            self.settle()
        for stage in stages:
            with mock.patch.object(BandView, "paint", autospec=True, side_effect=BandView.paint) as paint:
                self.window.show_stage(stage)
                self.settle()
            self.assertLessEqual(paint.call_count, 3, stage)

    def test_the_card_has_room_for_what_a_deck_still_waits_for(self) -> None:
        self.stage("history")
        card, deck = self.window.deck.card, self.window.deck.deck
        assert deck is not None
        room = card.room
        self.assertGreater(room, 0)
        card.release()
        card._shape = None
        list(card.reserve(replace(deck, waits=True), 0))
        card.room = 0
        list(card.reserve(deck, 0))
        self.assertEqual(card.room, room)

    def test_a_number_on_the_rail_stands_on_one_line_with_its_mark(self) -> None:
        self.window.rail.show_finding("history", "12 months: 2.500 M\nMay 2026 1.2 bn, March")
        said = self.window.rail.findings["history"].text()
        self.assertEqual(said, "12 months: 2.500\u00a0M\nMay 2026 1.2\u00a0bn, March")

    def test_findings_are_told_one_stage_a_turn(self) -> None:
        window = self.window
        with mock.patch.object(window.rail, "show_finding") as told:
            window.refresh()
            window._findings.stop()
            for count in range(1, len(ON_RAIL) + 1):
                window._show_findings()
                self.assertEqual(told.call_count, count)
        self.assertEqual([call.args[0] for call in told.call_args_list], list(ON_RAIL))
        self.settle()


class Header(DeskCase):
    def setUp(self) -> None:
        super().setUp()
        self.open(self.file(daily(700, wavy)))

    def test_periods(self) -> None:
        for kind, label in (
            ("week", "W48 2025"),
            ("day", "30 Nov 2025"),
            ("quarter", "Q3 2025"),
            ("year", "2024"),
        ):
            self.click(self.window.header.kinds[kind])
            self.assertEqual(self.window.session.grid.kind, kind)
            self.assertIn(label, self.window.header.as_of.text())

    def test_periods_that_the_source_cannot_tell_are_not_offered_and_say_why(self) -> None:
        self.open(self.file(monthly([1, 2, 3, 4, 5]), "months.csv"))
        day = self.window.header.kinds["day"]
        self.assertFalse(day.isEnabled())
        self.assertIn("one row per month", day.toolTip())

    def test_a_series_is_chosen_from_the_lists(self) -> None:
        self.click(self.window.header.series)
        lists = self.window.header.places.lists
        self.assertEqual([each.dimension for each in lists], ["product", "area"])
        model = lists[0].model
        self.assertEqual([model.data(model.index(i, 0)) for i in range(3)], ["All", "Bran", "Oat drink"])
        place = lists[0].members.visualRect(lists[0].model.index(2, 0)).center()
        QTest.mouseClick(lists[0].members.viewport(), LEFT, pos=place)
        QTest.keyClick(lists[1].members, Qt.Key.Key_Down)
        self.settle()
        self.assertEqual(dict(self.plan.where), {"product": "Oat drink", "area": "North"})
        self.assertIn("Oat drink › North", self.window.header.series.text())
        self.assertIn("Oat drink, North", self.window.deck.headline.subtitle)
        self.window.header.places.close()

    def test_long_names_are_shortened_with_the_whole_in_the_tip(self) -> None:
        long = "A very long name of a product that nobody would ever read to its end at all"
        rows = [f"2024-01-{d:02d},{p},{d}" for d in range(1, 29) for p in (long, "short")]
        self.open(self.file("\n".join(["date,product,cases", *rows]), "long.csv"))
        self.window.do(edit(P.where, (("product", long),)))
        self.settle()
        self.assertIn("…", self.window.header.series.text())
        self.assertIn(long, self.window.header.series.toolTip())
        self.assertLessEqual(self.window.width(), 1280)


class SavingAndUndoing(DeskCase):
    def setUp(self) -> None:
        super().setUp()
        self.open(self.file(daily(500, wavy)))

    def test_everything_can_be_undone_and_done_again(self) -> None:
        start = self.plan
        self.stage("project")
        self.click(self.card("Growth curve"))
        self.click(self.window.header.kinds["week"])
        self.click(self.window.header.earlier)
        self.assertEqual(len(self.window.session.history.back), 3)
        self.assertEqual(self.window.commands.named["undo"].text(), "Undo As of")
        end = self.plan
        for _ in range(3):
            self.ctrl("Z")
        self.assertEqual(self.plan, start)
        self.assertFalse(self.window.commands.named["undo"].isEnabled())
        for _ in range(3):
            self.ctrl("Y")
        self.assertEqual(self.plan, end)

    def test_the_plan_is_renamed_in_its_menu(self) -> None:
        title = self.window.commands.title
        self.assertEqual(title.text(), "sales")
        self.window.commands.plan_menu.popup(QPoint(0, 0))
        self.settle()
        title.selectAll()
        QTest.keyClicks(title, "Mill plan 2027")
        QTest.keyClick(title, Qt.Key.Key_Return)
        self.settle()
        self.assertEqual(self.plan.title, "Mill plan 2027")
        self.assertIn("Mill plan 2027", self.window.header.plan.text())
        self.assertFalse(self.window.commands.plan_menu.isVisible())
        activate(self.window)
        self.window.deck.tide.setFocus()
        self.ctrl("Z")
        self.assertEqual((self.plan.title, title.text()), ("sales", "sales"))

    def test_save_and_open_again_exactly_as_it_was(self) -> None:
        self.stage("smooth")
        self.window.do(edit(P.smooth.smoothers[0].window, 9))
        self.window.do(edit(P.as_of, dt.date(2024, 12, 31)))
        title, plan = self.window.deck.headline.title, self.plan
        path = self.folder / "kept"
        with self.answer_save(path):
            self.ctrl("S")
        self.assertIn("saved", self.window.header.plan.text())
        self.assertFalse(self.window.changed)
        self.window.do(edit(P.smooth.smoothers[0].window, 12))
        self.assertIn("changed", self.window.header.plan.text())
        self.ctrl("S")
        self.ctrl("Z")
        self.ctrl("S")
        (self.folder / "sales.csv").unlink()
        self.open(self.folder / "kept.oattide")
        self.assertEqual((self.plan, self.window.stage), (plan, "smooth"))
        self.assertEqual(self.window.deck.headline.title, title)
        self.assertEqual(str(self.window.header.property("moved")), "True")

    def test_files_that_only_a_plan_names_are_read_when_the_user_says_so(self) -> None:
        (self.folder / "plans").mkdir()
        path = self.folder / "plans" / "mill.oattide"
        with self.answer_save(path):
            self.ctrl("S")
        self.addCleanup(path_permission._NAMED.clear)
        # It comes from elsewhere: nobody has chosen its sources.
        path_permission._CHOSEN.clear()
        self.open(path)
        self.window.source_dialogs.look_again()
        self.settle()
        self.assertIn("The plan names what lies outside its folder", self.said())
        self.assertIn("sales.csv", self.said())
        self.click(self.button(self.window.strip, "Read them"))
        self.settle()
        self.assertNotIn("outside its folder", self.said())
        self.window.source_dialogs.look_again()
        self.settle()
        self.assertNotIn("outside its folder", self.said())

    def test_saving_where_it_cannot_be_is_said_and_loses_nothing(self) -> None:
        with self.answer_save(self.folder / "none" / "plan.oattide"):
            self.ctrl("S")
        self.assertIn("was not written", self.said())
        self.assertIsNotNone(self.window.session)

    def test_closing_a_changed_plan_asks_first(self) -> None:
        with self.answer_save(self.folder / "kept.oattide"):
            self.ctrl("S")
        self.window.do(edit(P.smooth.smoothers[0].window, 12))
        self.window.close()
        self.assertTrue(self.window.isVisible())
        self.assertIn("not saved", self.said())
        self.click(self.button(self.window.strip, "Save and close"))
        self.assertFalse(self.window.isVisible())
        self.assertEqual(
            open_document(self.folder / "kept.oattide").session.plan.smooth.smoothers[0].window, 12
        )

    def test_a_plan_that_was_never_saved_is_not_lost_either(self) -> None:
        self.window.do(edit(P.smooth.smoothers[0].window, 12))
        self.window.close()
        self.assertTrue(self.window.isVisible())
        self.assertIn("not saved", self.said())

    def test_opening_over_a_changed_plan_asks_first(self) -> None:
        with self.answer_save(self.folder / "kept.oattide"):
            self.ctrl("S")
        self.window.do(edit(P.smooth.smoothers[0].window, 12))
        other = self.file(monthly([1, 2, 3, 4]), "other.csv")
        self.open(other)
        self.assertIn("not saved", self.said())
        self.assertEqual(self.window.session.source.name, "sales.csv")
        self.click(self.button(self.window.strip, "Open without"))
        self.assertEqual(self.window.session.source.name, "other.csv")


class Publishing(DeskCase):
    def setUp(self) -> None:
        super().setUp()
        self.open(self.file(daily(500, wavy)))
        self.stage("smooth")

    def read(self) -> list[dict[str, str]]:
        return list(csv.DictReader((self.folder / "out.csv").open()))

    def test_the_figures_of_the_view_are_written_at_full_precision(self) -> None:
        with self.answer_save(self.folder / "out.csv"):
            self.ctrl("E")
        rows = self.read()
        deck = self.window.session.deck("smooth")
        self.assertEqual(len(rows), deck.columns)
        for column, row in enumerate(rows):
            self.assertEqual(row["period"], str(dt.date(2024 + column // 12, column % 12 + 1, 1)))
            value = deck.figures["smoothed_1"].values[0, column]
            cell = row["Weighted 3-2-1, smoothed (cases)"]
            # To fifteen digits, all that a double holds for certain: 34.38, not 34.379999999999995.
            self.assertTrue(float(cell) == float(f"{value:.15g}") if cell else value != value)
        self.assertEqual([row["part"] for row in rows[-2:]], ["", "part"])
        self.assertIn("out.csv is written", self.said())

    def test_with_the_as_of_moved_back_it_asks(self) -> None:
        self.ctrl("Left")
        with self.answer_save(self.folder / "out.csv"):
            self.ctrl("E")
            self.assertFalse((self.folder / "out.csv").exists())
            self.assertIn("as-of is Mar 2025", self.said())
            self.click(self.button(self.window.strip, "Publish as of Mar 2025"))
            self.assertEqual({row["as of"] for row in self.read()}, {"2025-03-31"})
            self.ctrl("E")
            self.click(self.button(self.window.strip, "Go to the latest"))
        self.assertEqual({row["as of"] for row in self.read()}, {"2025-04-30"})
        self.assertIsNone(self.plan.as_of)


class Trouble(DeskCase):
    def test_an_unexpected_error_is_logged_told_and_the_plan_is_safe(self) -> None:
        log.start()
        self.open(self.file(monthly([1, 2, 3, 4])))
        self.window.do(edit(P.project.horizon, 9))
        for hooks in (sys, threading):
            self.addCleanup(setattr, hooks, "excepthook", hooks.excepthook)
        catch_all(self.window.fault)
        try:
            raise KeyError("unheard of")
        except KeyError as error:
            sys.excepthook(type(error), error, error.__traceback__)
        self.assertIn("KeyError", self.said())
        self.assertNotIn("Traceback", self.said())
        self.assertIn("unheard of", log.path().read_text())
        self.assertIn("The plan is safe", self.said())
        # What is not saved was written down at that moment.
        [place] = journal._folder().glob("*.jsonl")
        self.assertIn('"Horizon, a year → 9"', place.read_text())

    def test_an_unexpected_error_beside_the_window_is_logged_without_a_word(self) -> None:
        log.start()
        for hooks in (sys, threading):
            self.addCleanup(setattr, hooks, "excepthook", hooks.excepthook)
        catch_all(self.window.fault)
        with redirect_stderr(io.StringIO()) as shown:
            beside = threading.Thread(target=[].pop)
            beside.start()
            beside.join()
        self.assertEqual(shown.getvalue(), "")
        self.assertIn("pop from empty list", log.path().read_text())

    def test_an_error_while_reading_is_told_too(self) -> None:
        with mock.patch("oat_tide.desk.window.window.open_document", side_effect=ZeroDivisionError):
            self.window.open(self.folder / "any.csv")
            self.settle()
        self.assertIn("ZeroDivisionError", self.said())


class Scheme(DeskCase):
    def test_light_and_dark_paint_the_same_plan(self) -> None:
        self.open(self.file(daily(200, wavy)))
        light = self.window.grab().toImage()
        self.window.switch_scheme()
        self.settle()
        self.assertIs(palette.palette(), palette.DARK)
        dark = self.window.grab().toImage()
        for spot in (QPoint(60, 700), QPoint(700, 70), QPoint(1010, 760)):
            self.assertGreater(light.pixelColor(spot).lightness(), 180)
            self.assertLess(dark.pixelColor(spot).lightness(), 90)

    def test_a_kept_working_is_painted_anew_though_the_plan_has_gone_on(self) -> None:
        self.open(self.file(daily(200, wavy)))
        self.stage("smooth")
        row = next(row for row in self.window.deck.deck.rows if row.name == "smoothed_0")
        column = self.window.session.as_of
        self.window.deck.card.keep(Ref("smooth", row.name, 0, column))
        said = self.window.deck.card.follow.text()
        self.assertIn(palette.LIGHT.kelp, said)
        # The window is not told yet.
        self.window.session.do(edit(P.smooth.smoothers, ()))
        self.window.switch_scheme()
        self.assertEqual(
            self.window.deck.card.follow.text(), said.replace(palette.LIGHT.kelp, palette.DARK.kelp)
        )
        self.window.refresh()
        self.settle()
        self.assertEqual(self.said(), "")

    def switch(self) -> None:
        """Switch, and let what is out of sight follow."""
        self.window.switch_scheme()
        self.settle()

    def painted(self) -> list[QImage]:
        """Every stage, and a menu, as they are painted."""
        made: list[QImage] = []
        for name in ON_RAIL:
            self.stage(name)
            made.append(self.window.grab().toImage())
        return [*made, self.window.commands.plan_menu.grab().toImage()]

    def test_a_switch_paints_every_stage_as_if_it_had_been_styled_so_from_the_start(self) -> None:
        self.app.setCursorFlashTime(0)
        self.open(self.file(daily(200, wavy)))
        # What is found of each stage is told once it has been seen.
        self.painted()
        light = self.painted()
        self.switch()
        dark = self.painted()
        self.app.setStyleSheet(self.app.styleSheet() + " ")
        self.settle()
        anew = self.painted()
        self.switch()
        for before, switched, styled, back in zip(light, dark, anew, self.painted(), strict=True):
            self.assertFalse(switched == before)
            self.assertTrue(switched == styled)
            self.assertTrue(back == before)

    def seen(self, *kinds: QEvent.Type) -> list[tuple[str, str]]:
        """Which widgets have such events from now on: (name of the kind, name of the class)."""
        watch = Watch(kinds)
        self.app.installEventFilter(watch)
        self.addCleanup(self.app.removeEventFilter, watch)
        return watch.seen

    def test_a_switch_has_nothing_laid_out_anew(self) -> None:
        self.open(self.file(daily(200, wavy)))
        anew = self.seen(QEvent.Type.StyleChange)
        self.switch()
        self.assertEqual(anew, [])
        self.app.setStyleSheet(self.app.styleSheet() + " ")
        self.assertGreater(len(anew), 100)

    def test_a_paint_that_comes_due_amid_a_switch_is_made_when_it_is_done(self) -> None:
        self.open(self.file(daily(200, wavy)))
        seen = self.seen(QEvent.Type.Paint)
        self.window.update()
        self.window.switch_scheme()
        self.wait(lambda: ("Paint", "AxisStrip") in seen)

    def test_a_stage_come_to_amid_a_switch_is_styled_before_it_is_painted(self) -> None:
        self.open(self.file(daily(200, wavy)))
        for name in (*ON_RAIL, "intake"):
            self.stage(name)
        self.window.switch_scheme()
        self.wait(self.window.updatesEnabled)
        self.assertFalse(style.is_whole())
        seen = self.seen(QEvent.Type.Paint, QEvent.Type.UpdateLater)
        self.click(self.window.rail.buttons["smooth"])
        self.settle()
        # What is styled asks to be painted.
        kinds = [kind for kind, name in seen if name == "WholeSpin"]
        self.assertEqual(set(kinds), {"Paint", "UpdateLater"})
        self.assertNotIn("UpdateLater", kinds[kinds.index("Paint") :])


class Watch(QObject):
    """Which widgets have events of some kinds."""

    def __init__(self, kinds: tuple[QEvent.Type, ...]) -> None:
        super().__init__()
        self._kinds = kinds
        self.seen: list[tuple[str, str]] = []

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:  # noqa: N802
        """Note them; nothing is held up."""
        if event is not None and event.type() in self._kinds:
            self.seen.append((event.type().name, type(watched).__name__))
        return False
