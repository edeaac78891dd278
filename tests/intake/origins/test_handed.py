"""Lines handed from one process to another come out as they went in."""

from __future__ import annotations

import random
from pathlib import Path

import polars as pl

from oat_tide.core.user_error import Progress
from oat_tide.intake.origins.subprocess_reader import read_apart
from oat_tide.intake.origins.transfer import hand_over, taken_over
from oat_tide.intake.source import Source, made
from oat_tide.intake.table import FILE, ROW, TORN, Table
from tests.helpers import FolderCase

_TEXTS = ["Oats", "Bran", "", "é", "x" * 300, "2024-01-01", "12.5", "\N{PILCROW SIGN}"]


def frame(seed: int) -> pl.DataFrame:
    """Lines with columns of few values and of many, some empty, and rows numbered or with gaps."""
    rng = random.Random(seed)
    lines = rng.choice((0, 1, 2, 3, 50, 400, 70_000))
    rows = (
        list(range(1, lines + 1))
        if rng.random() < 0.5
        else sorted(rng.sample(range(1, 4 * lines + 2), lines))
    )

    def cells(values: list[str], empty: float) -> pl.Series:
        return pl.Series(
            [None if rng.random() < empty else rng.choice(values) for _ in range(lines)], dtype=pl.String
        )

    many = [str(number) for number in range(rng.choice((1, 255, 256, 257, 66_000)))]
    columns = {
        ROW: pl.Series(rows, dtype=pl.Int64),
        TORN: cells(["torn, line"], rng.choice((0.5, 1.0))).cast(pl.Categorical),
        FILE: pl.Series([0] * lines, dtype=pl.UInt16),
        "few": cells(_TEXTS, rng.choice((0.0, 0.3, 1.0))).cast(pl.Categorical),
        "plain": cells(_TEXTS, 0.2),
        "many": cells(many, rng.choice((0.0, 0.1))).cast(pl.Categorical),
    }
    return pl.DataFrame(
        {name: columns[name] for name in (*list(columns)[:3], *rng.sample(list(columns)[3:], 3))}
    )


def told(seed: int, progress: Progress) -> Source:
    """A reader for the other process."""
    return made("lines", "made", frame(seed), b"")


class Handed(FolderCase):
    def test_all_columns_come_out_as_they_went_in(self) -> None:
        for seed in range(40):
            lines = frame(seed)
            folder = Path(self.folder / str(seed))
            folder.mkdir()
            hand_over(Table.of(lines), folder)
            with self.subTest(seed=seed, lines=lines.height):
                self.assertEqual(taken_over(folder).frame.schema, lines.schema)
                self.assertTrue(taken_over(folder).frame.equals(lines))

    def test_texts_that_the_process_knows_by_other_numbers(self) -> None:
        held = pl.Series(["told before", "12.5", "Bran"]).cast(pl.Categorical)
        for seed in range(8):
            found = read_apart("lines", told, seed)
            with self.subTest(seed):
                self.assertTrue(found.frame.equals(made("lines", "made", frame(seed), b"").frame))
        self.assertEqual(held.to_list()[0], "told before")
