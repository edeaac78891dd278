"""Intake in the window: coverage, choices, roles on columns, mended lines, other sources, newer figures."""

from __future__ import annotations

import datetime as dt
from pathlib import Path
from unittest import mock

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QComboBox, QMenu

from oat_tide.desk.card.listings import LinesView
from oat_tide.desk.sheet.choice import ChoiceView
from oat_tide.intake.origins import passwords
from oat_tide.plan.edits import edit
from oat_tide.plan.paths import P
from oat_tide.stages.deck import Column, Listing
from tests.desk.case import LEFT, DeskCase
from tests.helpers import HEAD, daily, monthly, wavy
from tests.postgres import PASSWORD, server

DIRTY = daily(500, wavy) + "wk 9,Bran,North,7\n2025-05-15,bran,North,3\n2025-05-16,Bran,North,n/a\n"


class IntakeCase(DeskCase):
    def choices(self) -> dict[str, ChoiceView]:
        """The choices on the side sheet by what they say."""
        self.window.sheet.finish()
        views = [w for w in self.window.sheet._page.parts if isinstance(w, ChoiceView) and w.choice]
        return {view.choice.text: view for view in views if view.choice}

    def choose(self, says: str, way: str) -> None:
        """Take a way out of the choice that says this."""
        view = next(view for text, view in self.choices().items() if says in text)
        self.click(self.button(view, way))

    def menu(self, text: str, menu: QMenu | None = None) -> None:
        """Choose from the menu of the plan."""
        menu = menu or self.window.commands.plan_menu
        for action in menu.actions():
            if action.text().startswith(text):
                action.trigger()
                self.settle()
                return
            if action.menu():
                inside = [each.text() for each in action.menu().actions()]
                if any(each.startswith(text) for each in inside):
                    self.menu(text, action.menu())
                    return
        self.fail(text)

    def write(self, text: str, answer: str) -> None:
        """Write into the strip and choose an answer."""
        strip = self.window.strip
        if strip.tall.isVisible():
            strip.tall.setPlainText(text)
        else:
            strip.line.setFocus()
            QTest.keyClicks(strip.line, text)
        self.click(self.button(strip, answer))


class Coverage(IntakeCase):
    def setUp(self) -> None:
        super().setUp()
        rows = [f"2023-{m:02d}-{d:02d},Porridge,N,5" for m in range(1, 13) for d in (1, 9, 28)]
        rows += [f"2023-{m:02d}-04,Oatcakes,N,2" for m in (4, 5, 8)]
        self.open(self.file("\n".join([HEAD, *rows])))

    def test_series_stand_by_size_with_their_start_and_end(self) -> None:
        view = self.window.deck.coverage
        self.assertTrue(view.isVisible())
        self.assertEqual(view.held.names, ("Porridge", "Oatcakes"))
        self.assertEqual(view.held.said[1], ((3, "since Apr 2023"), (7, "last sold Aug 2023")))
        self.assertEqual(view.words(1, 5), "Oatcakes · Jun 2023 · no lines, taken as nothing sold")
        self.assertEqual(view.words(1, 0), "Oatcakes · Jan 2023 · not known")

    def test_a_cell_leads_to_its_series_and_lines(self) -> None:
        view, card = self.window.deck.coverage, self.window.deck.card
        place = view.cell_rect(1, 4).center()
        QTest.mouseMove(view, place.toPoint())
        self.settle()
        self.assertIn("Oatcakes · May 2023 · 1 line", self.window.deck.foot.hint.text())
        self.click(view, place.x(), place.y())
        self.assertEqual(self.plan.where, (("product", "Oatcakes"),))
        self.assertEqual(self.window.deck.foot.tab, "Working")
        self.assertIn("Actual, May 2023 = 2", card.title.text())
        card.follow_term(0)
        self.assertEqual(card.lines.model().rowCount(), 1)

    def test_it_works_from_the_keyboard(self) -> None:
        view = self.window.deck.coverage
        view.setFocus()
        for key in ("Down", "Right", "Right", "Right", "Return"):
            QTest.keyClick(view, getattr(Qt.Key, f"Key_{key}"))
        self.settle()
        self.assertEqual(self.plan.where, (("product", "Oatcakes"),))
        self.assertIn("Apr 2023", view.accessibleDescription())

    def test_holes_and_an_early_end_are_ruled_on_the_sheet(self) -> None:
        self.window.do(edit(P.where, (("product", "Oatcakes"),)))
        self.settle()
        self.choose("2 months without a line: nothing sold", "Not known")
        self.assertIn("not known", self.window.deck.coverage.words(1, 5))
        self.choose("No line since Aug 2023", "Withdrawn")
        self.assertIn("withdrawn after Aug 2023", str(self.window.deck.coverage.held.said))
        self.assertEqual(len(self.plan.evened.rulings), 2)
        self.ctrl("Z")
        self.ctrl("Z")
        self.assertEqual(self.plan.evened.rulings, ())

    def test_many_series_are_scrolled_to(self) -> None:
        rows = [f"2024-01-{1 + i % 28:02d},Product {i % 60:02d},N,{i % 60}" for i in range(600)]
        self.open(self.file("\n".join([HEAD, *rows]), "many.csv"))
        self.click(self.button(self.window.strip, "Open without")) if self.said() else None
        view = self.window.deck.coverage
        last = 2 + len(view._rows()) * 17 + 5
        self.click(view, 60, last)
        self.assertGreater(view.top, 0)
        QTest.keyClick(view, Qt.Key.Key_PageDown)
        self.assertFalse(view.grab().isNull())


class Choices(IntakeCase):
    def setUp(self) -> None:
        super().setUp()
        self.open(self.file(DIRTY))

    def test_lines_set_aside_are_ruled_on_in_bulk_and_mended_in_place(self) -> None:
        self.assertEqual(self.window.rail.findings["intake"].text(), "1,501 lines tie\n2 set aside")
        self.choose("number cannot be read", "Count as 0")
        self.assertEqual(self.window.rail.findings["intake"].text(), "1,502 lines tie\n1 set aside")
        self.window.deck.foot.choose("Set aside")
        model = self.window.deck.listing.model()
        cell = model.index(0, 2)
        self.assertTrue(model.flags(cell) & Qt.ItemFlag.ItemIsEditable)
        self.assertFalse(model.flags(model.index(0, 1)) & Qt.ItemFlag.ItemIsEditable)
        self.assertTrue(model.setData(cell, "2025-05-14 | Bran | North | 7"))
        self.settle()
        self.assertEqual(self.window.rail.findings["intake"].text(), "1,503 lines tie\nnone set aside")
        self.assertEqual(self.plan.intake.mends[0].column, "date")
        self.ctrl("Z")
        self.assertIn("1 set aside", self.window.rail.findings["intake"].text())

    def test_spellings_become_one_and_names_another(self) -> None:
        self.choose("bran (1 line) may be Bran", "Take as one")
        self.assertEqual(self.window.session.reading.members[0], ("Bran", "Oat drink"))
        view = next(view for text, view in self.choices().items() if "became another" in text)
        view.entries[0].setText("nothing = else")
        view.entries[0].editingFinished.emit()
        self.settle()
        self.assertIn("no “nothing”", self.said())
        view.entries[0].setText("Oat drink = Oat milk")
        view.entries[0].editingFinished.emit()
        self.settle()
        self.assertEqual(self.window.session.reading.members[0], ("Bran", "Oat milk"))
        self.choose("Oat drink is taken for Oat milk", "Remove")
        self.assertEqual(self.window.session.reading.members[0], ("Bran", "Oat drink"))

    def test_roles_are_changed_on_the_column_itself(self) -> None:
        self.window.deck.foot.choose("Columns")
        self.settle()
        listing = self.window.deck.listing
        combos = [listing.indexWidget(listing.model().index(0, c)) for c in range(4)]
        self.assertEqual([combo.currentText() for combo in combos], ["date", "series", "series", "measure"])
        self.assertEqual(listing.model().index(1, 1).data(), "Oat drink")
        area = combos[2]
        assert isinstance(area, QComboBox)
        area.setCurrentText("left out")
        area.textActivated.emit("left out")
        self.settle()
        self.assertEqual(self.window.session.reading.dimensions, ("product",))
        self.ctrl("Z")
        self.assertEqual(self.window.session.reading.dimensions, ("product", "area"))

    def test_boxes_for_roles_are_made_for_columns_in_sight_and_stay(self) -> None:
        heads = ",".join(f"note {place}" for place in range(119))
        rows = [f"2024-{month:02d}-01,7,{','.join(['as usual'] * 119)}" for month in range(1, 13)]
        self.open(self.file("\n".join((f"day,cases,{heads}", *rows))))
        self.window.deck.foot.choose("Columns")
        listing = self.window.deck.listing
        self.settle()
        few = listing.viewport().width() // 110 + 1
        self.assertEqual(sorted(listing.roles.boxes), list(range(few)))
        bar = listing.horizontalScrollBar()
        bar.setValue(bar.maximum())
        self.settle()
        self.assertIn(120, listing.roles.boxes)
        self.assertLessEqual(len(listing.roles.boxes), 2 * few + 1)
        last = listing.roles.boxes[120]
        self.assertEqual(last.accessibleName(), "Role of note 118")
        now = last.currentText()
        other = "left out" if now == "series" else "series"
        last.setCurrentText(other)
        last.textActivated.emit(other)
        self.settle()
        self.assertIs(listing.roles.boxes[120], last)
        self.assertEqual(bar.value(), bar.maximum())
        self.ctrl("Z")
        self.assertEqual(last.currentText(), now)

    def test_a_note_that_has_no_room_shows_that_it_goes_on(self) -> None:
        heads = ",".join(f"note {place}" for place in range(40))
        self.open(self.file(f"day,cases,{heads}\n" + f"2024-01-01,7,{','.join(['as usual'] * 40)}\n" * 20))
        self.window.deck.foot.choose("Columns")
        note = self.window.deck.foot.note
        self.assertTrue(note.text().endswith("…"))
        self.assertLess(note.fontMetrics().horizontalAdvance(note.text()), note.width() + 1)
        self.assertIn("note 39", note.toolTip())

    def test_a_list_without_lines_has_room_for_its_headings(self) -> None:
        view = LinesView()
        view.take(Listing("rows", (Column("how many in all"), Column("what")), 0, lambda start, stop: []))
        header = view.horizontalHeader()
        self.assertGreater(header.sectionSize(0), header.fontMetrics().horizontalAdvance("how many in all"))

    def test_to_look_at_a_list_fetches_its_lines_once(self) -> None:
        asked: list[int] = []
        rows = [(f"row {each}", each) for each in range(300)]
        columns = Column("what"), Column("how many", "count", mended=True)

        def fetch(start: int, stop: int) -> list[tuple[str, int]]:
            asked.append(start)
            return rows[start:stop]

        view = LinesView()
        view.take(Listing("rows", columns, len(rows), fetch))
        view.resize(300, 200)
        view.grab()
        self.assertEqual(asked, [0])
        editable = Qt.ItemFlag.ItemIsEditable
        flags = [view.model().flags(view.model().index(2, column)) for column in (0, 1)]
        self.assertEqual([bool(each & editable) for each in flags], [False, True])
        view.scrollToBottom()
        view.grab()
        self.assertEqual(asked, [0, 200])

    def test_the_tie_out_stands_by_file_and_year(self) -> None:
        self.window.deck.foot.choose("Tie-out")
        model = self.window.deck.listing.model()
        rows = [[model.index(r, c).data() for c in range(8)] for r in range(model.rowCount())]
        self.assertEqual([row[0] for row in rows], ["sales.csv", "2024", "2025", "all"])
        self.assertEqual({row[7] for row in rows}, {"ties"})
        self.assertEqual(rows[1][2], rows[1][6])


class NothingLeftOut(IntakeCase):
    """What stands in no series is said, asked for, and settled with the mouse and the keys."""

    def wide(self, heading: str) -> Path:
        months = [f"{2023 + m // 12}-{m % 12 + 1:02d}" for m in range(24)]
        heads = [heading if month == "2023-03" else month for month in months]
        rows = [["product", "price", *heads, "Total"]]
        for at, product in enumerate(("Oats", "Bran", "Granola")):
            cases = [100 * (at + 1) + 7 * m % 23 + m for m in range(24)]
            rows.append([product, "4.50", *map(str, cases), str(sum(cases))])
        return self.file("\n".join(",".join(row) for row in rows), "wide.csv")

    def test_a_column_that_may_be_a_period_is_asked_for_and_settled_by_a_click(self) -> None:
        self.open(self.wide("2023-0e"))
        lost = sum(100 * (at + 1) + 7 * 2 % 23 + 2 for at in range(3))
        title = self.window.deck.headline.title
        self.assertIn(f"not settled: 2023-0e {lost}", title)
        self.assertNotIn("tie", title)
        self.assertIn("“2023-0e”?", self.window.rail.findings["intake"].text())
        self.choose("“2023-0e” is among the periods", "It is Mar 2023")
        self.assertIn(", and tie", self.window.deck.headline.title)
        self.assertEqual(self.window.session.reading.figures_in("asked"), ())
        self.choose("“2023-0e” is read as Mar 2023", "Remove")
        self.assertNotIn("tie", self.window.deck.headline.title)

    def test_it_is_settled_by_typing_and_what_is_no_period_is_asked_for_again(self) -> None:
        self.open(self.wide("2023-0e"))
        for text, asks in (("soon", True), ("2023-03", False)):
            view = next(each for words, each in self.choices().items() if "is among the periods" in words)
            view.entries[0].setFocus()
            QTest.keyClicks(view.entries[0], text)
            QTest.keyClick(view.entries[0], Qt.Key.Key_Return)
            self.settle()
            self.assertEqual(self.window.session.reading.asks, asks)
        self.assertIn(", and tie", self.window.deck.headline.title)

    def test_what_is_in_no_series_stands_in_the_title_and_every_figure_in_a_list(self) -> None:
        rows = [f"2024-{m:02d}-0{d},Oats,{m + d},{3 * m}.50" for m in range(1, 10) for d in (1, 5)]
        self.open(self.file("\n".join(["date,product,cases,turnover", *rows]), "two.csv"))
        self.assertIn("and tie; in no series: turnover 279", self.window.deck.headline.title)
        self.assertIn("turnover in no series", self.window.rail.findings["intake"].text())
        listings = {each.tab: each for each in self.window.deck.deck.listings}
        told = listings["Figures"].texts(0, 9)
        self.assertEqual(told[0], ("cases", "in the series, or set aside with their lines", "18", "144"))
        self.assertEqual(told[1], ("turnover", "in no series", "18", "279"))

    def test_a_column_left_out_is_taken_by_a_click_on_its_words(self) -> None:
        rows = [
            f"2024-{m:02d}-0{d},Oats,{70000 + 9 * m + d},{m + d}" for m in range(1, 10) for d in (1, 5, 7)
        ]
        self.open(self.file("\n".join(["date,product,invoice,cases", *rows])))
        sentence = self.window.deck.sentence
        place = next(at for at, word in enumerate(sentence.words) if word.text == "invoice, 27 values")
        sentence.linkActivated.emit(str(place))
        self.settle()
        self.assertIn("invoice", self.window.session.reading.dimensions)
        self.ctrl("Z")
        self.assertNotIn("invoice", self.window.session.reading.dimensions)

    def test_a_month_of_a_few_days_is_asked_about_again_before_it_counts_as_complete(self) -> None:
        self.open(self.file(daily(40, wavy)))
        home = self.window.session.home
        view = next(each for words, each in self.choices().items() if "Feb 2024 is incomplete" in words)
        self.click(view.links[0])
        self.assertEqual(self.plan.evened.rulings, ())
        self.assertIn("Only 9 of 29 days are there", view.links[0].text())
        self.click(view.links[0])
        self.assertEqual(self.window.session.home, home + 1)
        self.assertEqual(self.plan.evened.rulings[0].act, "whole")


class OddPeriods(IntakeCase):
    def setUp(self) -> None:
        super().setUp()
        values = [100.0 + (m % 12) * 3 + (m % 5) for m in range(60)]
        values[37] = 40
        self.open(self.file(monthly(values)))

    def test_an_odd_period_is_named_explained_and_ruled(self) -> None:
        self.assertEqual([mark.text for mark in self.window.deck.deck.marks(0)], ["62 % low"])
        self.choose("Feb 2023 is 62 % under", "Working")
        self.assertIn("Off what was expected, Feb 2023", self.window.deck.card.title.text())
        self.choose("Feb 2023 is", "Leave out")
        self.assertEqual([mark.text for mark in self.window.deck.deck.marks(0)], ["62 % low, left out"])
        note = next(view for text, view in self.choices().items() if "left out of averages" in text)
        note.entries[0].setText("storm")
        note.entries[0].editingFinished.emit()
        self.settle()
        self.assertEqual(self.plan.evened.rulings[0].note, "storm")
        self.window.do(edit(P.project.method, "line"))
        self.stage("project")
        self.assertEqual(self.window.session.deck("project").figures["n"].values[0, 0], 59)
        self.ctrl("Z")
        self.stage("intake")
        self.choose("left out of averages and fits – storm", "Remove")
        self.assertEqual(self.plan.evened.rulings, ())

    def test_an_expected_figure_is_put_and_written_over(self) -> None:
        self.choose("Feb 2023 is", "Replace by")
        view = next(view for text, view in self.choices().items() if "counts as expected" in text)
        view.entries[1].setText("many")
        view.entries[1].editingFinished.emit()
        self.settle()
        self.assertIn("“many” is no number", self.said())
        self.key("Escape")
        view.entries[1].setText("111.5")
        view.entries[1].editingFinished.emit()
        self.settle()
        self.assertEqual(self.plan.evened.rulings[0].value, 111.5)
        self.assertEqual(self.window.session.deck("smooth").figures["settled"].values[0, 37], 111.5)

    def test_days_closed_are_written_or_read_from_a_file(self) -> None:
        self.menu("Days closed")
        self.write("2023-02-10 – 2023-02-18 storm\n2024-12-24 holiday", "Closed")
        rulings = self.plan.evened.rulings
        self.assertEqual((rulings[0].last, rulings[0].note), (dt.date(2023, 2, 18), "storm"))
        self.menu("Days closed")
        self.write("next week", "No stock")
        self.assertIn("Line 1: “next week” does not begin with a date", self.said())
        path = self.file("day;why\n2024-03-01;stocktaking\n", "days.csv")
        self.menu("Days closed")
        with mock.patch(
            "oat_tide.desk.opening.source_dialogs.QFileDialog.getOpenFileName", return_value=(str(path), "")
        ):
            self.click(self.button(self.window.strip, "From a file"))
        self.assertEqual(len(self.plan.evened.rulings), 3)


class Sources(IntakeCase):
    def test_typed_figures_become_a_plan(self) -> None:
        QGuiApplication.clipboard().setText("2021\t1200\n2022\t1340\n2023\t1500")
        self.menu("Figures typed")
        # Empty, whatever was copied or written before: a paste is there once.
        self.assertEqual(self.window.strip.tall.toPlainText(), "")
        self.window.strip.tall.paste()
        self.click(self.button(self.window.strip, "Make a series"))
        self.assertEqual(self.window.session.reading.total_used, 4040)
        self.assertEqual(self.window.session.grid.kind, "year")

    def test_a_folder_and_several_files(self) -> None:
        inside = self.folder / "years"
        inside.mkdir()
        for year in (2023, 2024):
            (inside / f"{year}.csv").write_text(daily(40, wavy, start=f"{year}-01-01"))
        with mock.patch(
            "oat_tide.desk.opening.source_dialogs.QFileDialog.getExistingDirectory", return_value=str(inside)
        ):
            self.menu("A folder of files")
        self.assertEqual(len(self.window.session.reading.files), 2)
        names = [str(inside / "2023.csv"), str(inside / "2024.csv")]
        with mock.patch(
            "oat_tide.desk.opening.source_dialogs.QFileDialog.getOpenFileNames", return_value=(names, "")
        ):
            self.menu("Several files")
        self.assertEqual(self.window.session.reading.source, "2 files")

    def test_a_database_asks_for_its_password_and_forgets_it(self) -> None:
        postgres = server()
        postgres.sql(
            "DROP TABLE IF EXISTS sales CASCADE; CREATE TABLE sales AS "
            "SELECT date '2024-01-01' + i AS sold_on, i % 7 AS cases FROM generate_series(0, 90) AS i; "
            "GRANT SELECT ON sales TO analyst"
        )
        passwords._KEPT.clear()
        self.menu("A database by its address")
        self.write(postgres.address, "Open")
        self.wait(lambda: "password" in self.said())
        self.write(PASSWORD, "Try again")
        self.wait(lambda: self.window.session is not None)
        self.settle()
        self.assertEqual(self.window.session.reading.read, 91)
        self.assertEqual(self.window.strip.line.text(), "")
        self.assertTrue(self.window.commands.named["query"].isVisible())
        self.menu("Query the database")
        self.write("SELECT sold_on, cases FROM sales WHERE cases > 3", "Run")
        self.assertEqual(self.window.session.reading.read, 39)
        self.menu("Query the database")
        self.write("DROP TABLE sales", "Run")
        self.assertIn("does more than read", self.said())
        self.assertEqual(self.window.session.reading.read, 39)

    def test_levels_come_from_a_file(self) -> None:
        self.open(self.file(daily(40, wavy)))
        path = self.file("name;family\nOat drink;drinks\nBran;dry\nOat flour;dry\n", "families.csv")
        with mock.patch(
            "oat_tide.desk.opening.source_dialogs.QFileDialog.getOpenFileName", return_value=(str(path), "")
        ):
            self.menu("Hierarchy from a file")
        self.assertEqual(self.window.session.reading.dimensions, ("product", "area", "family"))
        self.ctrl("Z")
        self.assertEqual(self.window.session.reading.dimensions, ("product", "area"))

    def test_ways_of_reading_are_controls(self) -> None:
        self.open(self.file("day;cases\n05/03/2024;3\n06/04/2024;4\n07/05/2024;4\n"))
        self.assertIn("5 Mar and not 3 May", self.window.session.deck("intake").cautions(0)[0].text)
        self.click(self.button(self.window.sheet, "Read month first"))
        self.assertEqual(self.window.session.grid.label(self.window.session.panel.first), "May 2024")
        control = self.window.sheet.control(("sources", "delimiter"))
        control.combo.setCurrentIndex(1)
        control.combo.activated.emit(1)
        self.settle()
        self.assertTrue(self.said())
        self.assertEqual(self.plan.sources.delimiter, "by content")


class Newer(IntakeCase):
    def changed(self) -> Path:
        path = self.file(daily(100, wavy))
        self.open(path)
        path.write_text(daily(103, wavy))
        return path

    def test_what_is_new_is_shown_taken_and_taken_back(self) -> None:
        self.changed()
        used = self.window.session.reading.used
        self.menu("Refresh from sources")
        self.assertIn("0 figures are new and 3 have changed", self.said())
        self.assertEqual(self.window.deck.foot.tab, "What is new")
        self.assertEqual(self.window.session.reading.used, used)
        self.click(self.button(self.window.strip, "Take them"))
        self.assertEqual(self.window.session.reading.used, used + 9)
        self.assertNotIn("What is new", self.window.deck.foot.tabs)
        self.ctrl("Z")
        self.assertEqual(self.window.session.reading.used, used)

    def test_it_is_offered_when_the_file_changes(self) -> None:
        self.changed()
        self.wait(lambda: "has changed since it was read" in self.said())
        self.click(self.button(self.window.strip, "Look at what is new"))
        self.settle()
        self.click(self.button(self.window.strip, "Leave them"))
        self.assertEqual(self.window.session.reading.used, 300)

    def test_a_file_that_is_gone_is_named(self) -> None:
        self.changed().unlink()
        self.key("F5")
        self.settle()
        self.assertIn("sales.csv does not exist", self.said())
        self.assertEqual(self.window.session.reading.used, 300)


class Looks(IntakeCase):
    def test_the_band_holds_at_every_zoom(self) -> None:
        self.open(self.file(DIRTY))
        for kind in ("day", "week", "month", "quarter"):
            self.click(self.window.header.kinds[kind])
            for _ in range(3):
                self.window.deck.scale.zoom(3.0, 600)
                self.settle()
                self.assertFalse(self.window.deck.coverage.grab().isNull())
        QTest.mouseMove(self.window.deck.coverage, QPoint(400, 10))
        QTest.mouseClick(self.window.deck.coverage, LEFT, pos=QPoint(20, 10))
