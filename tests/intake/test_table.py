"""Lines kept by codes are those that they were made of, whole, in part and by their distinct texts."""

from __future__ import annotations

import unittest
from unittest import mock

import numpy as np
import polars as pl

from oat_tide.documents import open_document
from oat_tide.intake.cells.columns import Coder
from oat_tide.intake.origins.transfer import folded
from oat_tide.intake.table import TORN, Table
from tests.helpers import FolderCase
from tests.intake.origins.test_handed import frame

SEEDS = range(40)


class Tables(unittest.TestCase):
    def test_columns_are_unfolded_one_by_one_and_all_together(self) -> None:
        for seed in SEEDS:
            lines = frame(seed)
            table = folded(Table.of(lines))
            self.assertIn("few", table.codes)
            for name in lines.columns:
                self.assertTrue(table[name].equals(lines[name]), (seed, name))
            self.assertEqual(table.frame.schema, lines.schema)
            self.assertTrue(table.frame.equals(lines), seed)

    def test_some_lines(self) -> None:
        for seed in SEEDS:
            lines = frame(seed)
            table = folded(Table.of(lines))
            at = np.random.default_rng(seed).integers(0, max(lines.height, 1), min(lines.height, 30))
            self.assertTrue(table.lines(at).equals(lines[at]), seed)
            self.assertEqual(table.lines(at, ("few", "plain")).columns, ["few", "plain"])
            whole = lines.filter(pl.col(TORN).is_null())
            self.assertEqual(table.whole, whole.height)
            for some in (slice(7), slice(None, None, 3), slice(0)):
                self.assertTrue(table.whole_lines(some).equals(whole[some]), (seed, some))

    def test_distinct_texts_are_those_of_the_columns(self) -> None:
        for seed in SEEDS:
            lines = frame(seed)
            plain, by_codes = Coder(Table.of(lines)), Coder(folded(Table.of(lines)))
            for name in ("few", "many", "plain"):
                wanted = dict(lines.group_by(pl.col(name).cast(pl.String)).len().rows())
                for coder in (plain, by_codes):
                    cells = coder(name)
                    counts = dict(zip(cells.texts.to_list(), cells.counts.tolist(), strict=True))
                    self.assertEqual(counts, wanted, (seed, name))
                    spread = cells.spread(np.arange(len(counts)))
                    texts = cells.texts.to_list()
                    self.assertEqual(
                        [texts[place] for place in spread], lines[name].cast(pl.String).to_list()
                    )

    def test_marks_that_are_not_kept(self) -> None:
        table = Table(
            ("\N{PILCROW SIGN}row", TORN, "\N{PILCROW SIGN}file", "name"),
            3,
            {"name": pl.Series(["a", "b", "c"])},
        )
        self.assertEqual(table.frame.rows(), [(1, None, 0, "a"), (2, None, 0, "b"), (3, None, 0, "c")])
        self.assertEqual(table.lines(np.array([2])).rows(), [(3, None, 0, "c")])
        self.assertIsNone(table.torn)


class Wide(FolderCase):
    def test_each_column_is_looked_at_by_itself(self) -> None:
        """What is asked of one column takes no cells of the others: thousands of columns stay quick."""
        columns = 400
        path = self.folder / "wide.csv"
        rows = [f"2024-{month:02d}-01," + ",".join(["7"] * columns) for month in range(1, 13)]
        path.write_text("\n".join((",".join(["day", *(f"c{at}" for at in range(columns))]), *rows)))
        with mock.patch.object(Table, "_cells", autospec=True, side_effect=Table._cells) as cells:
            open_document(path)
        self.assertLess(cells.call_count, 20 * columns)
