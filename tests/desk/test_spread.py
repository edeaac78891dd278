"""A total spread by mouse and keys: typed, locked, packed, spread anew, brought down, copied, kept."""

from __future__ import annotations

import datetime as dt

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLineEdit

from oat_tide.desk.look.plain import Text
from oat_tide.plan.edits import edit
from oat_tide.plan.parts.project import Project
from oat_tide.plan.parts.seasons import Seasons
from oat_tide.plan.paths import P
from tests.desk.case import DeskCase
from tests.stages.test_examples import QUARTERS

TWO = "quarter,product,cases\n" + "".join(
    f"{2020 + i // 4}-{3 * (i % 4) + 1:02d}-01,{product},{value * times}\n"
    for i, value in enumerate(QUARTERS)
    for product, times in (("Granola", 1), ("Oat flour", 3))
)
"""C of the worked examples once, and three times over."""


class Spreading(DeskCase):
    def setUp(self) -> None:
        super().setUp()
        self.open(self.file(TWO))
        self.window.do(edit(P.seasons, Seasons(season="multiplicative")))
        self.window.do(edit(P.project, Project("line-season", horizon=4)))
        self.stage("seasons")
        self.click(self.button(self.window.deck, "Total spread"))

    def line(self, title: str) -> QLineEdit:
        """The line of the side sheet that such a text is written in, by its accessible name."""
        self.window.sheet.finish()
        found = [
            each for each in self.window.sheet._page.findChildren(QLineEdit) if each.accessibleName() == title
        ]
        self.assertTrue(found, f"no line {title!r}")
        return found[0]

    def type_into(self, title: str, text: str) -> None:
        line = self.line(title)
        line.setFocus()
        line.selectAll()
        QTest.keyClicks(line, text)
        QTest.keyClick(line, Qt.Key.Key_Return)
        self.settle()

    def write(self, column: int, text: str) -> None:
        """Type into a cell of the row of locks."""
        tide = self.window.deck.tide
        middle = tide.cell_rect(self.row("locked"), column).center()
        self.click(tide, middle.x(), middle.y())
        QTest.keyClick(tide, Qt.Key.Key_F2)
        tide.editor.selectAll()
        QTest.keyClicks(tide.editor, text)
        QTest.keyClick(tide.editor, Qt.Key.Key_Return)
        self.settle()

    def notes(self) -> str:
        self.window.sheet.finish()
        return " ".join(each.text() for each in self.window.sheet._page.findChildren(Text))

    def parts(self) -> list[float]:
        """What the year got, as the table has it."""
        return [float(self.cell_text("spread", column).replace(",", "")) for column in range(12, 16)]

    def test_a_total_is_typed_and_what_cannot_be_is_refused(self) -> None:
        self.assertEqual(self.window.deck.headline.title, "All: nothing spread over 2023 yet")
        self.type_into("Total", "4000")
        # 795.98, 1,092.578, 1,289.581 and 821.861: the three largest remainders go up.
        self.assertEqual(self.parts(), [796, 1092, 1290, 822])
        self.assertEqual(self.window.deck.headline.title, "All: 4,000 cases over 2023")
        self.assertIn("The total is 75.8 % above the projection.", self.notes())
        self.assertIn("4,000 over 2023\n+75.8 % on projection", self.window.rail.findings["seasons"].text())
        for text, said in (("0", "write one above zero"), ("many", "is no figure"), ("0.5", "whole cases")):
            self.type_into("Total", text)
            self.assertIn(said, self.said())
            self.assertEqual(self.parts(), [796, 1092, 1290, 822])

    def test_locks_and_packs(self) -> None:
        self.type_into("Total", "4000")
        self.write(13, "1000")
        self.assertEqual(self.cell_text("locked", 13), "1,000")
        # 3,000 are left for 0.795980, 1.289581 and 0.821861 of 2.907422: 821.3, 1,330.6 and 848.0.
        self.assertEqual(self.parts(), [821, 1000, 1331, 848])
        self.write(12, "3500")
        self.assertIn("What is fixed comes to 4,500, more than the total of 4,000", self.said())
        self.assertEqual(self.parts(), [821, 1000, 1331, 848])
        self.window.do(edit(P.spread.rounded, "packs"))
        self.settle()
        # 250 packs of 12 in 3,000: 68, 111 and 71.
        self.assertEqual(self.parts(), [816, 1000, 1332, 852])
        self.click(self.button(self.window.sheet, "Free all"))
        self.assertEqual(self.cell_text("locked", 13), "")
        self.ctrl("Z")
        self.assertEqual(self.cell_text("locked", 13), "1,000")

    def test_what_has_sold_is_locked_and_the_rest_spread_anew(self) -> None:
        self.window.do(edit(P.as_of, dt.date(2022, 6, 30)))
        self.window.do(edit(P.spread.over, "2022"))
        self.settle()
        self.type_into("Total", "2400")
        self.assertIn("952 cases have sold; 724 per quarter are needed from now on.", self.notes())
        self.click(self.button(self.window.sheet, "Fix what has sold"))
        locked = [self.cell_text("locked", column) for column in range(8, 12)]
        self.assertEqual(locked, ["392", "560", "", ""])
        spread = self.window.session.deck("spread").figures["spread"].values[0, 8:12]
        self.assertEqual((spread[:2].tolist(), spread.sum()), ([392, 560], 2400))

    def test_down_to_children_copied_and_kept(self) -> None:
        self.type_into("Total", "4000")
        self.window.do(edit(P.spread.children, "product"))
        self.settle()
        # A quarter of each goes to Granola, and rows, columns and the total are whole figures.
        children = np.array(
            [
                [float(self.cell_text(f"child_{child}", column).replace(",", "")) for column in range(12, 16)]
                for child in range(2)
            ]
        )
        self.assertEqual(children.sum(0).tolist(), [796, 1092, 1290, 822])
        self.assertEqual(children.sum(1).tolist(), [1000, 3000])
        tide = self.window.deck.tide
        tide.setFocus()
        QTest.keyClick(tide, Qt.Key.Key_Home)
        for column in range(16):
            QTest.keyClick(tide, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier if column else NONE)
        QTest.keyClick(tide, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
        rows = QGuiApplication.clipboard().text().splitlines()
        self.assertTrue(any(row.startswith("Spread\t") and row.endswith("1290\t822") for row in rows), rows)
        self.type_into("A name", "Plan of the board")
        (kept,) = self.plan.spread.kept
        self.assertEqual((kept.name, kept.figures), ("Plan of the board", (796, 1092, 1290, 822)))
        self.assertEqual(kept.members, ("Granola", "Oat flour"))
        self.assertEqual(np.sum(kept.parts), 4000)
        self.assertIn("Plan of the board: All, 4,000 over 4 quarters", self.notes())
        asked, path = self.plan.spread, self.folder / "mill.oattide"
        with self.answer_save(path):
            self.ctrl("S")
        self.open(path)
        self.assertEqual(self.plan.spread, asked)
        self.assertEqual(self.window.deck.headline.title, "All: 4,000 cases over 2023")
        self.click(self.button(self.window.sheet, "Take out"))
        self.assertEqual(self.plan.spread.kept, ())

    def test_another_stretch_and_a_projection_that_ends_before_it(self) -> None:
        self.type_into("2027-03..2027-08", "2023-H2")
        self.assertEqual(self.plan.spread.over, "2023-H2")
        self.type_into("2027-03..2027-08", "next spring")
        self.assertIn("is no range of periods", self.said())
        self.assertEqual(self.plan.spread.over, "2023-H2")
        self.window.do(edit(P.project.horizon, 2))
        self.type_into("Total", "2000")
        self.assertIn("The projection covers 2 quarters", self.notes())
        self.click(self.button(self.window.sheet, "Project 4 quarters ahead"))
        self.assertEqual(self.plan.project.horizon, 4)
        self.assertIn("the projection.", self.notes())

    def test_a_total_is_of_its_series_alone(self) -> None:
        self.type_into("Total", "4000")
        self.window.do(edit(P.where, (("product", "Granola"),)))
        self.settle()
        self.assertEqual(self.window.deck.headline.title, "Granola: nothing spread over 2023 yet")
        self.type_into("Total", "900")
        self.window.do(edit(P.where, ()))
        self.settle()
        self.assertEqual(self.parts(), [796, 1092, 1290, 822])


NONE = Qt.KeyboardModifier.NoModifier
