"""Sales lines: read out of a source, set aside where they cannot be used, totalled into panels."""

from __future__ import annotations

from collections.abc import Hashable
from dataclasses import dataclass
from typing import cast

import msgspec
import numpy as np
import polars as pl

from oat_tide.core.calendar import (
    Days,
    Grid,
    begun_whole,
    day_number,
    expected_weekdays,
    last_complete,
)
from oat_tide.core.panel import FILLED, PART, Key, Panel, fits_key
from oat_tide.core.reading import Aside, Reading
from oat_tide.core.trouble import Tell, Trouble, unheard
from oat_tide.intake import dates, numbers, recognise
from oat_tide.intake.rhythm import rhythm
from oat_tide.intake.source import ROW, TORN, Source
from oat_tide.plan.plan import Intake

_BLANK = "(blank)"
_TOTAL = r"(?i)^(?:grand |sub-?)?(?:total|sum)s?:?(?: \d{4})?:?$"
"""A cell that says no more than this makes its line a total."""
_PRECISION = {
    dates.DAY: "a day",
    dates.WEEK: "a week",
    dates.MONTH: "a month",
    dates.QUARTER: "a quarter",
    dates.YEAR: "a year",
}


@dataclass(frozen=True, eq=False)
class Sales:
    """A source understood.

    Attributes:
        stamp: the recipe: the content and how it was read.
        reading: the plain facts.
        keys: the series, sorted.
        lines: the lines used: ROW, day (Date), key (place in `keys`), units (whole minor units).
        days: the same by day and key: day (day number), key, units, count.
        aside: the lines set aside: ROW, reason, text.
        scale: minor units in one unit.
    """

    stamp: Hashable
    reading: Reading
    keys: tuple[Key, ...]
    lines: pl.DataFrame
    days: pl.DataFrame
    aside: pl.DataFrame
    scale: float


def read(source: Source, ask: Intake, tell: Tell = unheard) -> Sales:
    """Understand a source by the roles asked for.

    Raises:
        Trouble: a column is not there, or no line can be used.
    """
    # A column chosen for the date or the measure no longer tells series apart.
    by = tuple(name for name in ask.by if name not in (ask.date, ask.value))
    recipe, ask = (source.stamp, ask), msgspec.structs.replace(ask, by=by)
    _check_roles(source, ask)
    when = _distinct(source, ask.date)
    order = dates.order_of(when, ask.date)
    day_first, notes = _day_first(source, ask, order)
    when = when.select(
        ask.date,
        day=dates.day(ask.date, day_first),
        either=dates.day(ask.date, True),
        precision=dates.precision(ask.date),
        no_date=numbers.plain(ask.date).fill_null("") == "",
    )
    tell(0.2)
    much = _distinct(source, ask.value)
    comma = numbers.uses_comma(much, ask.value)
    much = much.select(
        ask.value,
        number=numbers.number(ask.value, comma),
        decimals=numbers.decimals(ask.value, comma),
        no_number=numbers.is_blank(ask.value),
    )
    torn = pl.col(TORN).is_not_null()
    cells = source.frame.select(
        ROW,
        ask.date,
        ask.value,
        torn=torn,
        above=torn & (pl.col(ROW) < pl.col(ROW).filter(~torn).min()),
        total=pl.any_horizontal(
            numbers.plain(name).fill_null("").str.contains(_TOTAL) for name in (ask.date, *ask.by)
        ),
    )
    for found in (when, much):
        cells = cells.join(found, on=found.columns[0], how="left", nulls_equal=True, maintain_order="left")
    cells = cells.drop(ask.date, ask.value)
    tell(0.5)
    usual = _usual_precision(source, ask, cells)
    good = cells.filter(pl.col("number").is_finite() & pl.col("day").is_not_null())
    places = min(int(cast(int, good["decimals"].max() or 0)), numbers.MOST_DECIMALS)
    scale = 10.0**places
    judged = cells.with_columns(reason=_reason(usual, scale))
    used = judged.filter(pl.col("reason").is_null())
    if not used.height:
        worst = judged["reason"].value_counts(sort=True).row(0)
        raise Trouble(
            f"{source.name}: none of its {source.frame.height:,} lines can be used; most often: {worst[0]}. "
            f"Choose other columns than {ask.date} for the date and {ask.value} for the measure."
        )
    keys, lines = _lines(source, ask, used, scale)
    tell(0.8)
    days = lines.group_by("day", "key").agg(units=pl.col("units").sum(), count=pl.len()).sort("day", "key")
    days = days.with_columns(day=pl.col("day").to_physical().cast(pl.Int64))
    aside = _aside(source, judged)
    reading = _reading(source, ask, days, keys, aside, usual, scale, notes)
    tell(1.0)
    return Sales(recipe, reading, keys, lines, days, aside, scale)


def _distinct(source: Source, column: str) -> pl.DataFrame:
    """The distinct cells of a column: they are few, and only they are worth understanding."""
    return source.frame.select(pl.col(column).unique())


def _check_roles(source: Source, ask: Intake) -> None:
    for name in (ask.date, ask.value, *ask.by):
        if name not in source.columns:
            raise Trouble(
                f"{source.name} has no column {name!r}. Its columns: {', '.join(source.columns[:20])}."
            )
    if ask.date == ask.value or len(set(ask.by)) < len(ask.by):
        raise Trouble(f"{source.name}: date, measure and series must be different columns. Choose them anew.")


def _day_first(source: Source, ask: Intake, order: dates.Order) -> tuple[bool | None, tuple[str, ...]]:
    if ask.order != "by evidence":
        return ask.order == "day first", ()
    if order.day_first is not None:
        sure, first = (order.days, "day") if order.day_first else (order.months, "month")
        return order.day_first, (
            f"Dates like 05/03/2024 are read {first} first: {sure:,} of those written can only be read so.",
        )
    if not order.open:
        return None, ()
    if 2 * order.open > source.frame.height:
        return True, (f"Nothing settles whether day or month comes first in {ask.date}; read day first.",)
    return None, ()


def _usual_precision(source: Source, ask: Intake, cells: pl.DataFrame) -> int:
    found = cells.filter(pl.col("day").is_not_null())["precision"].value_counts(sort=True)
    if not found.height:
        raise Trouble(
            f"{source.name}: the column {ask.date!r} holds no dates. "
            "Choose the column that says when each line was sold."
        )
    return int(found["precision"][0])


def _reason(usual: int, scale: float) -> pl.Expr:
    """Why a line cannot be used; null where it can."""
    other = pl.col("precision").replace_strict(_PRECISION, default=None, return_dtype=pl.String)
    swapped = pl.col("day").is_null() & pl.col("either").is_not_null()
    too_large = pl.col("number").abs() * scale >= numbers.LARGEST
    return (
        pl.when("above")
        .then(pl.lit("above the header"))
        .when("torn")
        .then(pl.lit("not as many fields as the header"))
        .when("total")
        .then(pl.lit("a total, not a sale"))
        .when("no_date")
        .then(pl.lit("no date"))
        .when(swapped)
        .then(pl.lit("day and month could be swapped"))
        .when(pl.col("day").is_null())
        .then(pl.lit("date cannot be read"))
        .when(pl.col("precision") != usual)
        .then(pl.concat_str(pl.lit("names "), other, pl.lit(f" where others name {_PRECISION[usual]}")))
        .when("no_number")
        .then(pl.lit("no number"))
        .when(pl.col("number").is_null())
        .then(pl.lit("number cannot be read"))
        .when(too_large | pl.col("number").is_infinite())
        .then(pl.lit("number too large to add exactly"))
    )


def _lines(
    source: Source, ask: Intake, used: pl.DataFrame, scale: float
) -> tuple[tuple[Key, ...], pl.DataFrame]:
    units = (pl.col("number") * scale).round().cast(pl.Int64)
    lines = used.select(ROW, "day", units=units)
    if not ask.by:
        return ((),), lines.with_columns(key=pl.lit(0, pl.Int32))
    members = source.frame.select(ROW, *(_member(name).alias(f"by {i}") for i, name in enumerate(ask.by)))
    names = members.columns[1:]
    lines = lines.join(members, on=ROW, how="left", maintain_order="left")
    keys = lines.select(names).unique().sort(names).with_row_index("key")
    lines = lines.join(keys, on=names, how="left", maintain_order="left")
    return tuple(keys.select(names).rows()), lines.select(ROW, "day", pl.col("key").cast(pl.Int32), "units")


def _member(name: str) -> pl.Expr:
    text = pl.col(name).str.strip_chars().fill_null("")
    return pl.when(text == "").then(pl.lit(_BLANK)).otherwise(text)


def _aside(source: Source, judged: pl.DataFrame) -> pl.DataFrame:
    bad = judged.filter(pl.col("reason").is_not_null()).select(
        ROW, pl.col("reason").alias("\N{PILCROW SIGN}reason")
    )
    whole = bad.join(source.frame, on=ROW, how="left", maintain_order="left")
    cells = pl.concat_str([pl.col(name).fill_null("") for name in source.columns], separator=" | ")
    return whole.select(ROW, "\N{PILCROW SIGN}reason", text=pl.coalesce(TORN, cells)).rename(
        {"\N{PILCROW SIGN}reason": "reason"}
    )


def _reading(
    source: Source,
    ask: Intake,
    days: pl.DataFrame,
    keys: tuple[Key, ...],
    aside: pl.DataFrame,
    usual: int,
    scale: float,
    notes: tuple[str, ...],
) -> Reading:
    selling = days["day"].unique().sort().to_numpy()
    beat = rhythm(selling, usual)
    since, upto = int(selling[0]), int(selling[-1])
    if beat.said:
        beat_grid = Grid(beat.kind, beat.grid.week_start, beat.grid.year_start)
        since, upto = beat_grid.first_day(beat_grid.period(since)), beat_grid.last_day(beat_grid.period(upto))
        notes = (*notes, f"{beat.said.capitalize()}.")
    by_reason = aside.group_by("reason", maintain_order=True).agg(
        pl.len().alias("count"), pl.col(ROW).first(), pl.col("text").first()
    )
    asides = tuple(Aside(*row) for row in by_reason.sort("count", descending=True).rows())

    def list_aside(start: int, stop: int) -> list[tuple[str, ...]]:
        return [(f"{row:,}", reason, text) for row, reason, text in aside[start:stop].rows()]

    members = tuple(tuple(sorted({str(key[i]) for key in keys})) for i in range(len(ask.by)))
    return Reading(
        source=source.name,
        form=source.form,
        columns=recognise.columns(recognise.look(source), ask),
        dimensions=ask.by,
        members=members,
        unit=ask.value,
        kind=beat.kind,
        grid=beat.grid,
        since=since,
        upto=day_number(ask.upto) if ask.upto else upto,
        selling=selling,
        read=source.frame.height,
        used=source.frame.height - aside.height,
        asides=asides,
        list_aside=list_aside,
        total_in_source=int(days["units"].sum()) / scale,
        notes=notes,
    )


def panel(sales: Sales, grid: Grid) -> Panel:
    """The leaf panel: every series by period.

    From a series' first line on, a period without lines is 0; before it, not known. Periods that are not
    complete on the data-to date, or begun before the data do, are part.
    """
    reading = sales.reading
    periods = grid.at(sales.days["day"].to_numpy())
    first = min(int(periods.min()), grid.period(reading.since))
    width = max(int(periods.max()), grid.period(reading.upto)) - first + 1
    place = (sales.days["key"].to_numpy(), periods - first)
    units = np.zeros((len(sales.keys), width), np.int64)
    lines = np.zeros_like(units)
    np.add.at(units, place, sales.days["units"].to_numpy())
    np.add.at(lines, place, sales.days["count"].to_numpy().astype(np.int64))
    unborn = np.cumsum(lines, axis=1) == 0
    values = np.where(unborn, np.nan, units / sales.scale)
    flags = np.where(~unborn & (lines == 0), FILLED, 0).astype(np.uint8)
    flags[:, _part(reading, grid, first, width)] |= PART
    return Panel((sales.stamp, grid), grid, first, sales.keys, values, lines, flags, sales.scale)


def _part(reading: Reading, grid: Grid, first: int, width: int) -> Days:
    """The columns of part periods."""
    expected = expected_weekdays(reading.selling, reading.upto)
    columns = np.arange(width)
    part = columns + first > last_complete(grid, reading.upto, expected)
    start = grid.period(reading.since)
    # The first year says what was sold on at the start: later lines decide nothing there.
    at_start = expected_weekdays(reading.selling, min(reading.since + 363, reading.upto))
    if not begun_whole(grid, start, reading.since, at_start):
        part |= columns + first <= start
    return np.flatnonzero(part)


def lines_of(sales: Sales, grid: Grid, key: Key, period: int) -> pl.DataFrame:
    """The lines behind one figure: ROW, day, key and value, in the order of the source."""
    fits = [i for i, own in enumerate(sales.keys) if fits_key(own, key)]
    found = sales.lines.filter(
        pl.col("day").to_physical().is_between(grid.first_day(period), grid.last_day(period))
        & pl.col("key").is_in(fits)
    )
    return found.select(ROW, "day", "key", value=pl.col("units") / sales.scale)
