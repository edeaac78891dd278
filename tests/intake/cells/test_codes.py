"""Columns kept by the codes of their values, against the values themselves."""

from __future__ import annotations

import unittest
from collections import Counter
from concurrent.futures import ThreadPoolExecutor
from unittest import mock

import numpy as np
import polars as pl
from hypothesis import given, settings
from hypothesis import strategies as st

from oat_tide.intake.cells import books, codes
from oat_tide.intake.cells.books import is_the_last
from oat_tide.intake.cells.codes import Coding
from oat_tide.intake.cells.columns import Coder
from oat_tide.intake.cells.gathering import Gathering

TEXTS = st.one_of(
    st.none(), st.sampled_from(["", " ", "Oats", "oats", "Oät", "12", "x" * 40]), st.text(max_size=3)
)
RUNS = st.lists(st.tuples(TEXTS, st.integers(1, 30)), max_size=12).map(
    lambda runs: [text for text, length in runs for _ in range(length)]
)


_TOLD = {name: pl.col(name).cast(pl.String) for name in ("name", "number")}


def coded(code: Coding, frame: pl.DataFrame) -> pl.DataFrame:
    """The lines by their codes, and back as text."""
    gathering = Gathering(code)
    gathering.add(code.codes(frame), frame.drop(code.columns))
    table = gathering.table({name: name for name in frame.columns})
    return pl.DataFrame([table[name] for name in frame.columns])


def told(column: pl.Series) -> list[str | None]:
    return column.cast(pl.String).to_list()


class Codes(unittest.TestCase):
    @given(
        st.lists(st.one_of(RUNS, st.lists(TEXTS, max_size=40)), min_size=1, max_size=6),
        st.sampled_from((1, 4, 20)),
    )
    @settings(deadline=None, max_examples=150)
    def test_every_text_comes_back_from_pieces_read_at_once(
        self, pieces: list[list[str | None]], bits: int
    ) -> None:
        # With two slots nearly all texts share one and are found by their place among the sorted hashes.
        with mock.patch.object(books, "_MOST_BITS", bits):
            code = Coding(pl.DataFrame({"name": ["Oats"] * 5}), {"name": pl.col("name")})
            frames = [pl.DataFrame({"name": pl.Series(texts, dtype=pl.String)}) for texts in pieces]
            with ThreadPoolExecutor(4) as both:
                pieces_of_codes = list(both.map(code.codes, frames))
        for frame, texts in zip(frames, pieces, strict=True):
            self.assertEqual(told(coded(code, frame)["name"]), texts)
        gathering = Gathering(code)
        for each in pieces_of_codes:
            gathering.add(each, pl.DataFrame())
        whole = gathering.table({"name": "called"})["called"]
        self.assertEqual(whole.dtype, pl.Categorical)
        self.assertEqual(told(whole), [text for texts in pieces for text in texts])

    @given(st.lists(st.one_of(st.none(), st.floats(), st.sampled_from([0.0, -0.0, 2.0])), max_size=60))
    @settings(deadline=None)
    def test_values_that_are_no_text_are_told_once_each(self, values: list[float | None]) -> None:
        progress = pl.when(pl.col("x").is_finite()).then(pl.col("x").round(1).cast(pl.String))
        code = Coding(pl.DataFrame({"x": [1.0] * 5}), {"x": progress})
        frame = pl.DataFrame({"x": pl.Series(values, dtype=pl.Float64)})
        wanted = [
            text and text.removeprefix("-") if text == "-0.0" else text
            for text in told(frame.select(progress)["x"])
        ]
        found = [
            text and text.removeprefix("-") if text == "-0.0" else text
            for text in told(coded(code, frame)["x"])
        ]
        self.assertEqual(found, wanted)

    @given(st.lists(st.lists(st.tuples(TEXTS, TEXTS, TEXTS), max_size=40), min_size=1, max_size=5), st.data())
    @settings(deadline=None, max_examples=100)
    def test_columns_coded_together_come_back_while_they_are_and_after(
        self, pieces: list[list[tuple[str | None, str | None, str | None]]], data: st.DataObject
    ) -> None:
        names = ["product", "route", "area"]
        sample = pl.DataFrame({name: [f"{name} {at % 2}" for at in range(4000)] for name in names})
        sample = sample.with_columns(pl.all().shuffle(1))
        frames = [pl.DataFrame(rows, dict.fromkeys(names, pl.String), orient="row") for rows in pieces]
        # With room for so few combinations, coding together ends with the first piece, or later.
        most = data.draw(st.sampled_from((1, 4, 4000)))
        with mock.patch.multiple(codes, _MOST_TOGETHER=8, _SPARE_TOGETHER=most):
            code = Coding(sample, {name: pl.col(name) for name in names})
            self.assertEqual(set(code.parts[0]), set(names))
            with ThreadPoolExecutor(4) as both:
                some = list(both.map(code.codes, frames))
        gathering = Gathering(code, sum(map(len, pieces)) if data.draw(st.booleans()) else 0)
        for each in some:
            gathering.add(each, pl.DataFrame())
        table = gathering.table({name: name.title() for name in names})
        wanted = [row for rows in pieces for row in rows]
        self.assertEqual(
            [told(table[name.title()]) for name in names],
            [[*x] for x in zip(*wanted, strict=True)] or [[]] * 3,
        )
        at = np.arange(0, len(wanted), 3)
        self.assertEqual(table.lines(at, ("Route",))["Route"].to_list(), [row[1] for row in wanted[::3]])
        cells = Coder(table)("Area")
        self.assertEqual(dict(zip(cells.texts, cells.counts, strict=True)), Counter(row[2] for row in wanted))
        half = np.arange(len(wanted)) % 2
        for group, counts in enumerate(cells.counted(half, 2)):
            kept = Counter(row[2] for row in wanted[group::2])
            self.assertEqual({t: n for t, n in zip(cells.texts, counts, strict=True) if n}, kept)

    def test_only_columns_of_few_values_are_coded(self) -> None:
        sample = pl.DataFrame(
            {"few": ["a", "b"] * 50, "many": [str(i) for i in range(100)], "untold": ["a"] * 100}
        )
        code = Coding(sample, {"few": pl.col("few"), "many": pl.col("many")})
        self.assertEqual(code.columns, ("few",))
        self.assertEqual(coded(code, sample).dtypes, [pl.Categorical, pl.String, pl.String])

    def test_codes_live_on_when_no_other_column_has_them(self) -> None:
        code = Coding(pl.DataFrame({"name": ["Oats"] * 5}), {"name": pl.col("name")})
        for text in ("Bran", "Flour"):
            self.assertEqual(
                told(coded(code, pl.DataFrame({"name": [text, "Oats"]}))["name"]), [text, "Oats"]
            )

    def test_codes_that_outgrow_sixteen_bits(self) -> None:
        many = 987_654_000  # a number, and below texts, that nothing else in this process has told yet
        first = pl.DataFrame({"name": ["Oats", "Bran", None, "Oats"], "number": [4, 4, 5, 4]})
        code = Coding(pl.DataFrame({"name": ["Oats"] * 5, "number": [4] * 5}), told=_TOLD)
        before = code.codes(first)
        # The engine's codes of what comes from now on do not fit into 16 bits.
        held = pl.Series([f"held {at}" for at in range(70_000)]).cast(pl.Categorical)
        later = pl.DataFrame({"name": ["new 1", "Bran", None, "new 2"], "number": [many, 4, many + 1, 4]})
        after = code.codes(later)
        self.assertEqual(len(held), 70_000)
        for name in ("name", "number"):
            self.assertGreater(after[name,].max(), 70_000)
            self.assertEqual(
                told(coded(code, first)[name]), [None if x is None else str(x) for x in first[name]]
            )
            self.assertEqual(
                told(coded(code, later)[name]), [None if x is None else str(x) for x in later[name]]
            )
        self.assertEqual(before["name",].dtype, "uint16")
        empty = [[bool(each) for each in is_the_last(codes)] for codes in (before["name",], after["name",])]
        self.assertEqual(empty, [[False, False, True, False]] * 2)
