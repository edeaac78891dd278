"""Copies found by short marks, group by group of dates, are those of a plain count."""

import unittest
from collections import Counter
from unittest import mock

import numpy as np
import polars as pl
from hypothesis import given, settings
from hypothesis import strategies as st

from oat_tide.intake.origins.transfer import folded
from oat_tide.intake.table import Table
from oat_tide.intake.totals import copies

ROWS = st.tuples(
    st.integers(1, 30), st.sampled_from(["Bran", "Oats", None]), st.sampled_from(["a", "b", "c"])
)


def table(rows: list[tuple[int, str | None, str]]) -> Table:
    """Two columns by codes, and one of text."""
    date, product, note = zip(*rows, strict=True)
    frame = pl.DataFrame({"date": [f"2024-01-{day:02}" for day in date], "product": product, "note": note})
    return folded(Table.of(frame.with_columns(pl.col("date", "product").cast(pl.Categorical))))


def counted(rows: list[tuple[int, str | None, str]]) -> int:
    """Lines that are like an earlier one, by a plain count."""
    return sum(count - 1 for count in Counter(rows).values())


class Copies(unittest.TestCase):
    @settings(deadline=None)
    @given(st.lists(ROWS, min_size=1, max_size=60), st.booleans(), st.sampled_from([1, 3, 1 << 14]))
    def test_they_are_those_of_a_plain_count(
        self, rows: list[tuple[int, str | None, str]], in_order: bool, few: int
    ) -> None:
        rows = sorted(rows, key=lambda row: row[0]) if in_order else rows
        with mock.patch.object(copies, "_FEW", few):
            self.assertEqual(copies.copies(table(rows)).result(), counted(rows))

    @settings(deadline=None, max_examples=30)
    @given(st.lists(ROWS, min_size=1, max_size=60))
    def test_lines_that_share_a_short_mark_are_looked_at_in_full(
        self, rows: list[tuple[int, str | None, str]]
    ) -> None:
        short = copies.Marks.short
        with mock.patch.object(copies.Marks, "short", lambda self, some: short(self, some) % 3):
            self.assertEqual(copies.copies(table(rows)).result(), counted(rows))

    def test_among_many_lines_of_one_day(self) -> None:
        rng = np.random.default_rng(3)
        rows = [
            (1, ["Bran", "Oats", None][product], str(note))
            for product, note in zip(rng.integers(0, 3, 40_000), rng.integers(0, 20_000, 40_000), strict=True)
        ]
        self.assertEqual(copies.copies(table(rows)).result(), counted(rows))
