"""Roles, verdicts, mended cells, spellings, levels, scenarios and copies; the tie-out always holds."""

from __future__ import annotations

import random
import unittest
from dataclasses import replace

import msgspec
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from oat_tide.core.series.tie_out import tie_out
from oat_tide.core.user_error import UserError
from oat_tide.documents import open_document
from oat_tide.intake.meaning.keys import levels_from
from oat_tide.intake.totals import sales
from oat_tide.plan.edits import edit
from oat_tide.plan.parts.intake import CellEdit, Level, Rename, Verdict
from oat_tide.plan.paths import P
from oat_tide.session import Session
from tests.helpers import FolderCase, daily, wavy
from tests.intake.test_awkward import session_of


def reasons(session: Session) -> dict[str, int]:
    """Lines set aside by reason."""
    return {each.reason: each.count for each in session.reading.asides}


class Verdicts(unittest.TestCase):
    def test_a_date_is_taken_from_the_line_above_and_a_bare_week_lies_in_its_year(self) -> None:
        session = session_of("weeks-unnamed.csv")
        ways = tuple(
            Verdict(reason=reason, outcome="date of the line above")
            for reason in ("no date", "date cannot be read")
        )
        session.do(edit(P.intake.verdicts, ways))
        self.assertEqual(reasons(session), {})
        session.do(edit(P.periods.kind, "day"))
        panel = session.panel
        told = {panel.grid.label(panel.first + c): v for c, v in enumerate(panel.values[0]) if v}
        # "wk 23" of 2024 begins on 3 June; the line without a date takes that of the last one dated.
        self.assertEqual(told, {"3 Jun 2024": 10.0, "4 Jun 2024": 6.0, "5 Jun 2024": 1.0})

    def test_what_is_no_number_counts_as_0_and_totals_can_be_used(self) -> None:
        session = session_of("bars-and-dashes.txt")
        session.do(edit(P.intake.verdicts, (Verdict(reason="number cannot be read", outcome="count as 0"),)))
        self.assertEqual(reasons(session), {"no number": 1})
        session = session_of("wide-months.csv")
        session.do(edit(P.intake.verdicts, (Verdict(reason="a total, not a sale", outcome="use"),)))
        self.assertEqual(session.reading.total_used, 110)

    def test_copies_are_pointed_out_kept_and_left_out_when_asked(self) -> None:
        session = session_of("copies.csv")
        self.assertEqual((session.reading.copies, session.reading.used), (1, 4))
        copy = "an exact copy of another line"
        session.do(edit(P.intake.verdicts, (Verdict(reason=copy, outcome="leave copies out"),)))
        self.assertEqual((session.reading.total_used, reasons(session)), (7, {copy: 1}))


class Mends(FolderCase):
    def test_a_cell_and_a_torn_line_are_written_anew(self) -> None:
        rows = ["date,product,cases", "2024-01-02,Bran,n/a", "2024-01-03,Bran,4", "2024-01-04,Bran,5,late"]
        session = self.opened("\n".join([*rows, "2024-01-05,Bran,1", "2024-01-06,Oats,1"]))
        self.assertEqual(session.reading.used, 3)
        mends = (
            CellEdit(file="sales.csv", row=2, column="cases", text="3"),
            CellEdit(file="sales.csv", row=4, column="", text="2024-01-04,Bran,5"),
        )
        session.do(edit(P.intake.mends, mends))
        self.assertEqual((session.reading.used, session.reading.total_used), (5, 14))
        session.undo()
        self.assertEqual(session.reading.used, 3)

    def test_a_mend_that_is_no_better_stays_set_aside(self) -> None:
        session = self.opened("date,cases\n2024-01-02,3\n2024-01-03\n")
        session.do(edit(P.intake.mends, (CellEdit(file="sales.csv", row=3, column="", text="still torn"),)))
        self.assertEqual(session.reading.list_aside(0, 5)[0][3], "still torn")
        session.do(edit(P.intake.mends, (CellEdit(file="other.csv", row=3, column="", text="2024-01-03,1"),)))
        self.assertEqual(session.reading.used, 1)


class Roles(FolderCase):
    def test_one_column_times_another_is_exact(self) -> None:
        session = self.opened("date,cases,price\n2024-01-02,3,1.10\n2024-02-03,-1,2.25\n2024-02-04,7,0.1\n")
        session.do(edit(P.intake.times, "price"))
        self.assertEqual(session.reading.unit, "cases × price")
        self.assertEqual(round(session.reading.total_used * 10_000), 33_000 - 22_500 + 7_000)

    def test_a_column_kept_beside_stands_in_rows_of_its_own(self) -> None:
        session = self.opened(
            "date,cases,money\n2024-01-02,3,10\n2024-01-09,1,5\n2024-02-03,2,7.5\n2024-03-01,1,1\n"
        )
        session.do(edit(P.intake.also, ("money",)))
        figures = session.deck("intake").figures
        self.assertEqual(figures["beside_0"].label, "money")
        self.assertEqual(figures["beside_0"].values[0, :2].tolist(), [15.0, 7.5])
        self.assertEqual(session.reading.total_used, 7)

    def test_scenarios_are_never_added_together(self) -> None:
        session = session_of("scenario.csv")
        self.assertEqual((session.plan.intake.scenario, session.plan.intake.actual), ("scenario", "Actual"))
        figures = session.deck("intake").figures
        self.assertEqual(figures["actual"].values[0, :3].tolist(), [10, 12, 13])
        budget = figures["beside_0"]
        self.assertEqual((budget.label, budget.values[0].tolist()), ("Budget", [11, 11, 12, 12]))
        self.assertTrue(np.isnan(figures["actual"].values[0, 3]))
        self.assertEqual(session.grid.label(session.as_of), "Mar 2024")
        session.do(edit(P.intake.actual, "Budget"))
        self.assertEqual(session.reading.total_used, 46)

    def test_roles_that_cannot_be_are_refused_by_name(self) -> None:
        session = session_of("scenario.csv")
        for wrong in (
            edit(P.intake.value, "date"), edit(P.intake.date, ""), edit(P.intake.times, "gone"),
            edit(P.intake.actual, "Nothing"),
        ):  # fmt: skip
            session.do(wrong)
            with self.subTest(wrong.path), self.assertRaises(UserError) as caught:
                session.prepare()
            self.assertIn("scenario.csv", str(caught.exception))
            session.undo()


class Names(FolderCase):
    def test_spellings_are_pointed_out_but_not_sizes(self) -> None:
        alike = session_of("spellings.csv").reading.alike
        pairs = {(each.old, each.new) for each in alike}
        self.assertIn(("oat drink", "Oat drink"), pairs)
        self.assertIn(("Oat drnk", "Oat drink"), pairs)
        self.assertFalse(any("Granola" in old for old, _ in pairs))

    def test_a_member_taken_for_another_is_one_series(self) -> None:
        session = session_of("spellings.csv")
        before = session.reading.total_used
        renames = tuple(
            Rename(of="product", old=old, new="Oat drink") for old in ("oat drink", "Oat Drink", "Oat drnk")
        )
        session.do(edit(P.intake.renames, renames))
        self.assertEqual(session.reading.members[0], ("Granola 500", "Granola 750", "Oat drink"))
        self.assertEqual(session.reading.total_used, before)
        self.assertTrue(session.tie.ties)
        self.assertEqual(session.reading.alike, ())

    def test_renames_in_a_ring_come_to_an_end(self) -> None:
        session = session_of("spellings.csv")
        ring = (
            Rename(of="product", old="Oat drink", new="oat drink"),
            Rename(of="product", old="oat drink", new="Oat drink"),
        )
        session.do(edit(P.intake.renames, ring))
        self.assertEqual(session.reading.total_used, 28)

    def test_a_file_of_attributes_becomes_a_level(self) -> None:
        session = self.opened(daily(40, wavy))
        path = self.file(
            "code;name;family\n1;Oat drink;drinks\n2;Bran;dry\n3;Oat flour;dry\n", "families.csv"
        )
        levels = levels_from(path, "product", ("Bran", "Oat drink"))
        family = next(level for level in levels if level.name == "family")
        session.do(edit(P.intake, replace_intake(session, family)))
        self.assertEqual(session.reading.dimensions[-1], "family")
        self.assertTrue(session.tie.ties)
        session.do(edit(P.where, (("family", "drinks"),)))
        drinks = session.sight().past.values.sum() + np.nansum(session.sight().later.values)
        session.do(edit(P.where, (("product", "Oat drink"),)))
        self.assertEqual(drinks, session.sight().past.values.sum() + np.nansum(session.sight().later.values))

    def test_a_level_is_neither_date_nor_measure(self) -> None:
        session = self.opened(daily(40, wavy))
        family = Level(name="family", of="product", pairs=(("Bran", "dry"),))
        ask = msgspec.structs.replace(session.plan.intake, levels=(family,))
        roles = {
            "date": "family",
            "value": "family",
            "times": "family",
            "scenario": "family",
            "also": ("family",),
        }
        for role, name in roles.items():
            with self.subTest(role), self.assertRaises(UserError) as caught:
                sales.read(session.source, msgspec.structs.replace(ask, **{role: name}))
            self.assertIn("no column “family”", str(caught.exception))

    def test_a_level_of_a_column_without_a_name_is_refused(self) -> None:
        session = self.opened(daily(40, wavy))
        ask = session.plan.intake
        family = Level(name="family", of="", pairs=())
        for by in (ask.by, (*ask.by, "family")):
            with self.subTest(by), self.assertRaises(UserError) as caught:
                sales.read(session.source, msgspec.structs.replace(ask, levels=(family,), by=by))
            self.assertIn("no column “”", str(caught.exception))

    def test_attribute_files_that_do_not_fit_are_refused(self) -> None:
        for text, word in (
            ("a,b\nx,y\n", "no column holds the members"),
            ("product,family\nBran,dry\nBran,wet\nOat drink,wet\n", "row 3"),
            ("product\nBran\nOat drink\n", "puts the members"),
        ):
            path = self.file(text, "families.csv")
            with self.subTest(word), self.assertRaises(UserError) as caught:
                levels_from(path, "product", ("Bran", "Oat drink"))
            self.assertIn(word, str(caught.exception))
            self.assertIn("families.csv", str(caught.exception))


def replace_intake(session: Session, family: Level) -> object:
    """The roles with a level among them."""
    ask = session.plan.intake
    return msgspec.structs.replace(ask, levels=(family,), by=(*ask.by, "family"))


class TieOut(FolderCase):
    @settings(max_examples=40, deadline=None)
    @given(st.integers(0, 10_000))
    def test_it_holds_whatever_stands_in_the_file(self, seed: int) -> None:
        """Generated files with every kind of dirt, some of it mutated byte by byte."""
        rng = random.Random(seed)
        rows = ["date,product,area,cases"]
        for _ in range(rng.randint(3, 60)):
            day = rng.choice(
                ["2024-01-%02d", "%02d/02/2024", "2023-12-%02d", "wk %d", "Mar-24 %d"]
            ) % rng.randint(1, 28)
            cells = [
                day,
                rng.choice(["Oats", "oats", "Bran", ""]),
                rng.choice("NS"),
                rng.choice(["3", "-2.5", "1,000.25", "n/a", "", "(4)"]),
            ]
            rows.append(",".join(f'"{cell}"' if "," in cell else cell for cell in cells))
        rows += ["2024-01-01,Oats,N,5", "2024-01-02,Oats,N,6"]
        data = bytearray("\n".join(rows).encode())
        for _ in range(rng.choice([0, 0, 3])):
            data[rng.randrange(30, len(data))] = rng.choice(b'\n,"\x00\xff;9 ')
        try:
            session = open_document(self.file(bytes(data))).session
        except UserError as error:
            self.assertIn("sales.csv", str(error))
            return
        reading = session.reading
        self.assertEqual(reading.read, reading.used + reading.beside + reading.aside)
        self.assertEqual(len(reading.list_aside(0, 10_000)), reading.aside)
        for kind in ("day", "month", "quarter"):
            if not session.kinds()[kind]:  # type: ignore[index]
                session.do(edit(P.periods.kind, kind))
                self.assertTrue(session.tie.ties)

    def test_a_panel_that_lost_a_case_is_found_out(self) -> None:
        session = self.opened(daily(100, wavy))
        reading, panel = session.reading, session.panel
        self.assertTrue(tie_out(reading, panel).ties)
        values = panel.values.copy()
        values[1, 2] -= 1
        worse = type(panel)(
            "worse", panel.grid, panel.first, panel.keys, values, panel.lines, panel.flags.copy()
        )
        found = tie_out(reading, worse)
        self.assertFalse(found.ties)
        self.assertEqual(found.gap, -1)
        file = reading.files[0]
        for lost in (
            replace(file, used=replace(file.used, lines=file.used.lines - 1)),
            replace(file, read=replace(file.read, amount=file.read.amount + 1)),
        ):
            self.assertFalse(tie_out(replace(reading, files=(lost,)), panel).ties)
