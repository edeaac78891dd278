"""Plan, data and stages together; opening and saving."""

from __future__ import annotations

import datetime as dt
import gc
import tempfile
import weakref
from pathlib import Path
from unittest import mock

import numpy as np

from oat_tide import documents
from oat_tide.core.series.reading import Reading
from oat_tide.core.user_error import UserError
from oat_tide.core.working.tree import Ref, SalesLines
from oat_tide.documents import Document, open_document, rehearse, save_document
from oat_tide.plan.edits import edit
from oat_tide.plan.paths import P
from oat_tide.stages import STAGES
from tests.helpers import FolderCase, daily, monthly, wavy


class Caching(FolderCase):
    def test_only_decks_whose_inputs_changed_are_made_again(self) -> None:
        session = self.opened(daily(200, wavy))
        before = {name: session.deck(name) for name in STAGES}
        session.do(edit(P.smooth.smoothers[0].window, 9))
        after = {name: session.deck(name) for name in STAGES}
        self.assertEqual([name for name in STAGES if before[name] is not after[name]], ["smooth"])
        session.undo()
        session.do(edit(P.as_of, dt.date(2024, 4, 30)))
        self.assertTrue(all(session.deck(name) is not before[name] for name in STAGES))

    def test_undo_of_other_columns_reads_nothing_anew(self) -> None:
        session = self.opened(daily(200, wavy))
        session.do(edit(P.intake.by, ("product",)))
        self.assertFalse(session.ready)
        session.prepare()
        self.assertEqual(session.panel.keys, (("Bran",), ("Oat drink",)))
        session.undo()
        self.assertTrue(session.ready)

    def test_what_is_kept_of_plans_as_they_were_has_bounds(self) -> None:
        session = self.opened(daily(60, wavy))
        first, readings = session.panel.values.copy(), list[weakref.ref[Reading]]()
        for day in range(2, 30):
            session.do(edit(P.evened.final_to, dt.date(2024, 1, day)))
            session.do(edit(P.intake.upto, dt.date(2024, 3, day)))
            session.prepare()
            readings.append(weakref.ref(session.reading))
        self.assertLessEqual(len(session.loaded._panels._held), 8)
        self.assertLessEqual(len(session.loaded._sales._held), 3)
        self.assertTrue(session.ready)
        # Nothing else holds a reading with its lines, such as a cache of what it has told.
        gc.collect()
        self.assertLessEqual(sum(reading() is not None for reading in readings), 3 + 4)
        while session.history.back:
            session.undo()
        self.assertFalse(session.ready)
        np.testing.assert_array_equal(session.panel.values, first)


class AsOf(FolderCase):
    def test_home_is_the_last_complete_period_and_survives_a_change_of_kind(self) -> None:
        session = self.opened(daily(600, wavy))
        self.assertEqual(session.grid.label(session.home), "Jul 2025")
        session.do(edit(P.as_of, dt.date(2025, 3, 31)))
        self.assertTrue(session.moved_back)
        for kind, label in (
            ("week", "W13 2025"),
            ("quarter", "Q1 2025"),
            ("year", "2024"),
            ("month", "Mar 2025"),
        ):
            session.do(edit(P.periods.kind, kind))
            self.assertEqual(session.grid.label(session.as_of), label)

    def test_it_stays_within_the_data(self) -> None:
        session = self.opened(monthly(list(range(1, 20))))
        session.do(edit(P.as_of, dt.date(2050, 1, 1)))
        self.assertEqual(session.as_of, session.home)
        session.do(edit(P.as_of, dt.date(1950, 1, 1)))
        self.assertEqual(session.as_of, session.panel.first)
        self.assertIsNone(session.as_of_at(session.home))

    def test_a_source_of_month_totals_offers_no_days(self) -> None:
        session = self.opened(monthly(list(range(1, 20))))
        self.assertEqual(session.grid.kind, "month")
        self.assertIn("one row per month", session.kinds()["day"])
        self.assertEqual(session.kinds()["quarter"], "")
        session.do(edit(P.periods.kind, "day"))
        self.assertEqual(session.grid.kind, "month")


class FollowedLines(FolderCase):
    def test_a_figure_can_be_followed_to_lines_that_tie_to_it(self) -> None:
        session = self.opened(daily(100, wavy))
        working = session.explain(Ref("intake", "actual", 0, 1))
        self.assertIsInstance(working, SalesLines)
        listing = session.lines(working)  # type: ignore[arg-type]
        self.assertEqual(
            [column.name for column in listing.columns], ["row", "date", "product", "area", "cases"]
        )
        rows = listing.fetch(0, listing.count)
        self.assertEqual(len(rows), working.count)  # type: ignore[union-attr]
        self.assertEqual(sum(row[-1] for row in rows), working.value)  # type: ignore[misc,union-attr]


class Documents(FolderCase):
    def test_a_rehearsal_leaves_nothing_behind_and_is_silent_where_there_is_no_room(self) -> None:
        kept: list[int] = []

        def opened(path: Path) -> Document:
            document = open_document(path)
            kept.append(document.session.reading.used)
            return document

        with (
            mock.patch.object(tempfile, "tempdir", str(self.folder)),
            mock.patch.object(documents, "open_document", opened),
        ):
            rehearse()
        self.assertEqual((kept, list(self.folder.iterdir())), ([90], []))
        with mock.patch.object(tempfile, "tempdir", str(self.folder / "not there")):
            rehearse()

    def test_a_plan_opens_exactly_as_it_was_saved(self) -> None:
        session = self.opened(daily(500, wavy) + "wk 9,Bran,North,7\n2025-01-01,Bran\n")
        for change in (
            edit(P.where, (("product", "Bran"),)),
            edit(P.as_of, dt.date(2025, 1, 31)),
            edit(P.smooth.smoothers[1].weights, (4.0, 2.0, 1.0)),
            edit(P.project.method, "growth"),
        ):
            session.do(change)
        path = self.folder / "plan.oattide"
        save_document(session, "smooth", path)
        (self.folder / "sales.csv").unlink()
        again = open_document(path)
        self.assertEqual((again.session.plan, again.stage, again.path), (session.plan, "smooth", path))
        for name in STAGES:
            one, two = session.deck(name), again.session.deck(name)
            self.assertEqual(one.finding(0), two.finding(0))
            for figure in one.figures.every():
                np.testing.assert_array_equal(figure.values, two.figures[figure.name].values)
        self.assertEqual(again.session.deck("intake").listings[0].count, 2)

    def test_the_panel_in_the_file_can_be_read_by_others(self) -> None:
        import io
        import zipfile

        import polars as pl

        session = self.opened(daily(100, wavy))
        save_document(session, "intake", self.folder / "p.oattide")
        with zipfile.ZipFile(self.folder / "p.oattide") as archive:
            frame = pl.read_parquet(io.BytesIO(archive.read("panel.parquet")))
        self.assertEqual(frame["value"].sum(), session.reading.total_used)
        self.assertEqual(frame.columns[:3], ["by product", "by area", "period"])

    def test_a_plan_is_known_by_what_is_in_it_and_not_by_its_name(self) -> None:
        session = self.opened(monthly([1, 2, 3, 4]))
        save_document(session, "history", self.folder / "p.oattide")
        odd = (self.folder / "p.oattide").rename(self.folder / "plan.zip")
        self.assertEqual(open_document(odd).stage, "history")

    def test_a_folder_and_a_workbook_are_refused_in_words(self) -> None:
        with self.assertRaises(UserError) as caught:
            open_document(self.folder)
        self.assertIn("holds no sales files", str(caught.exception))
        with self.assertRaises(UserError) as caught:
            open_document(self.file(b"PK\x03\x04 workbook", "sales.xlsx"))
        self.assertIn("damaged", str(caught.exception))
