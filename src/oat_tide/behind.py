"""The sales lines behind a figure, as a list that is sorted and searched where it lies."""

from __future__ import annotations

from typing import Any

import polars as pl

from oat_tide.core.exact import added
from oat_tide.core.language import phrase
from oat_tide.core.periods.calendar import Grid
from oat_tide.core.working.tree import SalesLines
from oat_tide.intake.table import FILE, ROW
from oat_tide.intake.totals import sales
from oat_tide.stages.deck import Column, Listing, ListQuery


def lines_behind(read: sales.Sales, grid: Grid, files: list[str], found: SalesLines) -> Listing:
    """The lines that a working is the sum of; what they add up to ties to it.

    Args:
        files: the name of each file; shown where there are several.
    """
    frame = _told(sales.lines_of(read, grid, found.key, found.period), read, files)
    dates = Column("date", "date")
    rows, unit = Column("row", "count"), Column(read.reading.unit, "number")
    names = (*([Column("file")] if len(files) > 1 else []), rows, dates)
    columns = (*names, *map(Column, read.reading.dimensions), unit)
    title = phrase("Lines of {period}", period=grid.label(found.period))

    def arranged(wish: ListQuery) -> Listing:
        some = _searched(frame, wish.text)
        if 0 <= wish.by < len(columns):
            by = frame.columns[wish.by]
            some = some.sort(by, descending=wish.falling, nulls_last=True, maintain_order=True)
        return listed(
            some,
            phrase("{title} with “{text}”", title=title, text=wish.text.strip())
            if wish.text.strip()
            else title,
        )

    def listed(some: pl.DataFrame, title: str) -> Listing:
        return Listing(
            title,
            columns,
            some.height,
            lambda start, stop: some.slice(start, stop - start).rows(),
            total=float(added(some[_VALUE].to_numpy(), read.scale, 0)) if some.height else 0.0,
            arrange=arranged,
        )

    return listed(frame, title)


_VALUE = "value"


def _told(frame: pl.DataFrame, read: sales.Sales, files: list[str]) -> pl.DataFrame:
    """The lines with the names of their file and members, in the order that they are shown in."""
    own = [phrase("member {place}", place=place) for place in range(len(read.reading.dimensions))]
    members = [[str(key[place]) for key in read.keys] for place in range(len(own))]
    told: list[Any] = [
        pl.col("key").replace_strict(range(len(names)), names, return_dtype=pl.String).alias(name)
        for name, names in zip(own, members, strict=True)
    ]
    if len(files) > 1:
        told.insert(
            0, pl.col(FILE).replace_strict(range(len(files)), files, return_dtype=pl.String).alias("in")
        )
    first = ["in"] if len(files) > 1 else []
    return frame.with_columns(told).select(*first, ROW, "day", *own, _VALUE)


def _searched(frame: pl.DataFrame, text: str) -> pl.DataFrame:
    """The lines that hold every word, in any cell and case; a number also as it is written here."""
    words = text.casefold().replace(",", "").split()
    if not words:
        return frame
    told = pl.concat_str(
        [pl.col(name).cast(pl.String).fill_null("") for name in frame.columns], separator=" "
    )
    lower = told.str.to_lowercase().str.replace_all(",", "", literal=True)
    return frame.filter(pl.all_horizontal([lower.str.contains(word, literal=True) for word in words]))
