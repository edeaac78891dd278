"""The plain facts of a source that was understood, for the stages."""

from __future__ import annotations

import itertools
import math
import re
from concurrent.futures import Future
from dataclasses import dataclass, replace
from decimal import Context, Decimal, localcontext
from functools import partial

import numpy as np
import polars as pl
from numpy.typing import NDArray

from oat_tide.core.language import phrase
from oat_tide.core.periods.calendar import Days, Grid, day_number
from oat_tide.core.series.reading import COPY, Aside, Figures, FileTie, Held, Offers, OwnTotal, Reading
from oat_tide.intake.cells.columns import Exact, Much, When
from oat_tide.intake.cells.numbers import shown
from oat_tide.intake.meaning import judged, roles
from oat_tide.intake.meaning.keys import BLANK, Keyed
from oat_tide.intake.meaning.names import TOTAL_WITHIN, is_scenario, suited
from oat_tide.intake.meaning.outline import outline
from oat_tide.intake.meaning.rhythm import Rhythm, rhythm
from oat_tide.intake.meaning.shapes import UNTOLD_YEAR, Shaped, series_across
from oat_tide.intake.pace.runs import runs
from oat_tide.intake.pace.stretches import at_hand, counted
from oat_tide.intake.source import Source
from oat_tide.intake.table import FILE, ROW, TORN, Table
from oat_tide.intake.totals.sums import LineArrays, Totals
from oat_tide.intake.totals.whole import Cells, Rows, own_totals, row_totals, total_runs
from oat_tide.plan.parts.intake import Intake

_PREVIEWED = 60
_FEW_SCENARIOS = 12
_MOST_RUNNING = 200_000
"""Lines beyond which figures are no totals to date: there would be one a period and series."""


@dataclass(frozen=True, eq=False, slots=True)
class Facts:
    """What understanding a source came to, in the order in which `sales.read` makes it."""

    source: Source
    whole: Cells
    shape: Shaped
    ask: Intake
    dated: When
    figures: Much
    judgement: judged.Judged
    found: Keyed
    lines: LineArrays
    days: Totals
    unread: Totals | None
    status: NDArray[np.int8]
    scale: float
    exact: bool
    members: frozenset[str]
    every_figure: Future[tuple[Figures, ...]]


def reading_of(facts: Facts, amounts: Exact, copies: int) -> Reading:
    """Gather the facts for the stages.

    Args:
        amounts: the figures of the source, to be added up as its texts do.
        copies: lines that repeat an earlier one.
    """
    source, shape, ask, lines = facts.source, facts.shape, facts.ask, facts.lines
    dated, figures = facts.dated, facts.figures
    starts, _ = runs(facts.days.day)
    selling = facts.days.day[starts].astype(np.int64)
    beat = rhythm(selling, facts.judgement.usual)
    since, upto = _covered(selling, beat)
    looks = roles.look(source)
    looks_of_shape = roles.look(shape.source) if shape.said else looks
    outlined = outline(source)
    notes = _notes(source, shape, ask, dated, looks)
    why, reasons = _reasons(facts)
    files = [file.name for file in source.files]
    return Reading(
        source=source.name,
        files=_ties(facts, amounts),
        columns=roles.columns(looks_of_shape, ask),
        preview=_preview(shape.source),
        date=ask.date,
        value=ask.value,
        dimensions=ask.by,
        members=tuple(tuple(sorted({str(key[i]) for key in facts.found.keys})) for i in range(len(ask.by))),
        alike=facts.found.alike,
        unit=_unit(ask),
        scale=facts.scale,
        kind=beat.kind,
        grid=beat.grid,
        since=since,
        upto=day_number(ask.upto) if ask.upto else upto,
        selling=selling,
        patterns=dated.patterns,
        unsettled=dated.order.open if ask.order == "by evidence" and dated.order.day_first is None else 0,
        totalled=ask.totalled,
        suited="sum" if ask.times else suited(ask.value),
        mark=figures.mark,
        exact=facts.exact,
        decimals=figures.places,
        unread=int(facts.unread.count.sum()) if facts.unread else 0,
        copies=copies,
        asides=_asides(shape.source.table, why, reasons, lines.counts, files),
        list_aside=partial(_list_aside, shape.source.table, why, reasons, files),
        years=_by_year(facts.days, starts, facts.scale),
        scenarios=_scenarios(shape.source.table, ask)[:_FEW_SCENARIOS],
        history=ask.actual if ask.scenario else "",
        asks_year=shape.asks_year,
        may_run_on=not ask.running and _runs_on(lines),
        offers=_offers(source, shape, ask),
        figures=facts.every_figure.result(),
        own_totals=_own_totals(facts),
        left_out=roles.left_out(source.sample or shape.source, looks_of_shape, ask, shape, source.lines),
        blank=_blank(facts),
        filled=tuple(name for name in ask.filled if name in source.columns),
        may_fill=tuple(name for name in outlined.offered if name not in ask.filled),
        notes=(*notes, f"{beat.said.capitalize()}.") if beat.said else notes,
    )


def _blank(facts: Facts) -> tuple[tuple[str, int], ...]:
    """(dimension, lines) of lines that name no member of it."""
    if not any(BLANK in key for key in facts.found.keys):
        return ()
    lines = np.bincount(facts.days.key, facts.days.count, len(facts.found.keys))
    counted_ = (
        (
            name,
            int(sum(many for key, many in zip(facts.found.keys, lines, strict=True) if key[place] == BLANK)),
        )
        for place, name in enumerate(facts.ask.by)
    )
    return tuple((name, many) for name, many in counted_ if many)


def _own_totals(facts: Facts) -> tuple[OwnTotal, ...]:
    """The totals that the source holds itself, where its figures are added up as they stand."""
    table, lines = facts.shape.source.table, facts.lines
    if facts.ask.totalled != "sum" or facts.ask.running or facts.ask.times or lines.counts is not None:
        return ()
    if not (facts.status == TOTAL_ROW).any():
        return own_totals(facts.whole, facts.shape, frozenset())
    known = facts.figures.spread(np.isfinite(facts.figures.number))
    mask = (facts.status == TOTAL_ROW) & known
    places = table.lines(np.flatnonzero(facts.status == TOTAL_ROW), (FILE, ROW))
    file, row = table[FILE].to_numpy(), table[ROW].to_numpy()
    figure = np.nan_to_num(facts.figures.spread(facts.figures.number), posinf=0.0, neginf=0.0)
    dated = not facts.shape.across or facts.shape.date == ""
    columns = own_totals(facts.whole, facts.shape, frozenset(places.rows()))
    if not mask.any():
        return columns
    within = np.zeros(len(figure), np.int64)
    rows = Rows(file, row, at_hand(lines.day), figure, mask, lines.good, dated, within)
    called = _called(facts, rows)
    return (*columns, *row_totals(replace(rows, within=_within(facts, called)), called))


def _within(facts: Facts, called: list[str]) -> NDArray[np.int64]:
    """Return for each line its values in the columns that never name a total."""
    table, names = facts.shape.source.table, set(called)
    cells = [table[name].cast(pl.String).fill_null("") for name in facts.ask.by if name in table.columns]
    kept = [each for each in cells if not each.is_in(list(names)).any()]
    if not kept:
        return np.zeros(table.height, np.int64)
    told = pl.DataFrame([each.alias(str(place)) for place, each in enumerate(kept)])
    return told.select(pl.struct(pl.all()).rank("dense").cast(pl.Int64)).to_series().to_numpy()


def _called(facts: Facts, rows: Rows) -> list[str]:
    """What each total row is called: the cell with the word, else its first text."""
    table = facts.shape.source.table
    names = [each.name for each in roles.look(facts.shape.source) if each.numbers < roles.ENOUGH]
    # What names a period is no name, but where the word stands in it.
    names = [*(name for name in names if name != facts.ask.date), facts.ask.date]
    firsts = np.array([first for first, _ in total_runs(rows)], np.int64)
    cells = (
        table.lines(firsts, names).select(pl.all().cast(pl.String).str.strip_chars()).rows() if names else []
    )
    found = []
    for row in cells or [()] * len(firsts):
        texts = [text for text in row if text]
        told = (text for text in texts if text in facts.members or re.search(TOTAL_WITHIN, text))
        found.append(next(told, texts[0] if len(texts) > 1 else "total"))
    return found


def _covered(selling: Days, beat: Rhythm) -> tuple[int, int]:
    """The first and the last day that the source covers: of one row a period, whole periods."""
    since, upto = int(selling[0]), int(selling[-1])
    if not beat.said:
        return since, upto
    grid = Grid(beat.kind, beat.grid.week_start, beat.grid.year_start)
    return grid.first_day(grid.period(since)), grid.last_day(grid.period(upto))


def _reasons(facts: Facts) -> tuple[NDArray[np.int8], tuple[str, ...]]:
    """Why each line is not used, and the reasons; copies that are left out have one of their own."""
    why, reasons, good = facts.judgement.why, facts.judgement.reasons, facts.lines.good
    if good.all() or np.count_nonzero(good) == np.count_nonzero(why == 0):
        return why, reasons
    return np.where((why == 0) & ~good, len(reasons), why), (*reasons, COPY)


def _list_aside(
    table: Table,
    why: NDArray[np.int8],
    reasons: tuple[str, ...],
    files: list[str],
    start: int,
    stop: int,
) -> list[tuple[str, int, str, str]]:
    """Lines set aside: file, row, reason and text, from one place among them to before another."""
    at = np.flatnonzero(why)[start:stop]
    return [
        (files[file], row, reasons[why[place]], text)
        for place, (file, row, text) in zip(at, _texts(table, at), strict=True)
    ]


def _scenarios(table: Table, ask: Intake) -> tuple[str, ...]:
    """The members of the scenario column; without one, columns kept beside that are a scenario."""
    if not ask.scenario:
        return tuple(name for name in ask.also if is_scenario(name))
    return tuple(sorted({" ".join(str(t).split()) for t in table[ask.scenario].unique().drop_nulls()}))


def _unit(ask: Intake) -> str:
    """The measure, and how it is totalled where it is not added up."""
    unit = f"{ask.value} × {ask.times}" if ask.times else ask.value
    return {"sum": unit, "mean": phrase("mean {unit}", unit=unit), "last": phrase("last {unit}", unit=unit)}[
        ask.totalled
    ]


def _offers(source: Source, shape: Shaped, ask: Intake) -> Offers:
    """What else the source holds, and what its table could be brought to."""
    across: tuple[str, ...] = ()
    if shape.source is source or ask.shape == "a column a series":
        # Of a few lines the figures of a growing series count up as well.
        codes = {
            each.name for each in roles.look(source) if roles.is_text_or_code(each) and not each.counts_up
        }
        across = tuple(name for name in series_across(source, False) if name not in codes)
    shapes = ("by content", "as it stands", *(("a column a series",) if across else ()))
    left = across if ask.shape == "by content" and len(across) > 1 else ()
    return Offers(source.sheets, source.hidden, source.tables, left, shapes)


def _by_year(days: Totals, starts: NDArray[np.int64], scale: float) -> tuple[tuple[int, Decimal], ...]:
    """What the lines used come to by calendar year.

    Args:
        starts: where the sums of each day begin.
    """
    units = np.add.reduceat(days.units, starts)
    rest = np.zeros(len(starts)) if days.rest is None else np.add.reduceat(days.rest, starts)
    years = Grid("year").at(days.day[starts].astype(np.int64))
    edges = (*np.flatnonzero(np.diff(years, prepend=years[0] - 1)).tolist(), len(years))
    return tuple(
        (int(years[a]) + 1970, _amount(int(units[a:b].sum()), float(rest[a:b].sum()), scale))
        for a, b in itertools.pairwise(edges)
    )


def _amount(units: int, rest: float, scale: float) -> Decimal:
    """Whole minor units, and what they leave, in units."""
    with localcontext(Context(prec=400)):
        return Decimal(units).scaleb(-round(math.log10(scale))) + Decimal(rest)


USED, BESIDE, ASIDE, TOTAL_ROW = range(4)
"""What became of a line."""
_KINDS = 4


def _ties(facts: Facts, amounts: Exact) -> tuple[FileTie, ...]:
    """What each file holds: its lines and figures by what became of them, each added up on its own."""
    lines, status, files = facts.lines, facts.status, facts.source.files
    size = _KINDS * len(files)
    if len(files) == 1 and not status.any():
        groups, exact = None, [*amounts(None, 1), *[Decimal(0)] * (_KINDS - 1)]
    else:
        groups = facts.shape.source.table[FILE].to_numpy().astype(np.int32) * _KINDS + status
        exact = amounts(groups, size)
    many = _many(lines, groups, size)
    used = _used(facts, groups, size)
    tied = []
    for place, file in enumerate(files):
        some = slice(_KINDS * place, _KINDS * (place + 1))
        kinds = [Held(*each) for each in zip(many[some], exact[some], strict=True)]
        read = Held(sum(many[some]) if facts.shape.said else file.lines, sum(exact[some], Decimal(0)))
        tied.append(FileTie(file.name, file.form, read, Held(kinds[0].lines, used[some.start]), *kinds[1:]))
    return tuple(tied)


def _many(lines: LineArrays, groups: NDArray[np.int32] | None, size: int) -> list[int]:
    """How many lines each group has."""
    if groups is None:
        whole = len(lines.used) if lines.counts is None else int(lines.counts.sum())
        return [whole, *[0] * (size - 1)]
    if lines.counts is None:
        return [int(each) for each in counted(groups, size)]
    return [int(each) for each in np.rint(np.bincount(groups, lines.counts, size))]


def _used(facts: Facts, groups: NDArray[np.int32] | None, size: int) -> list[Decimal]:
    """What the whole minor units of each group come to, and what they leave."""
    lines, rest = facts.lines, [0.0] * size
    if groups is None:
        units = [int(facts.days.units.sum()), *[0] * (size - 1)]
        if lines.rest is not None:
            rest[0] = math.fsum(lines.rest.tolist())
    else:
        # Whole units that add up below 2**53 are exact in doubles.
        units = np.rint(np.bincount(groups, at_hand(lines.units), size)).astype(np.int64).tolist()
        if lines.rest is not None:
            rest = np.bincount(groups, lines.rest, size).tolist()
    return [_amount(whole, left, facts.scale) for whole, left in zip(units, rest, strict=True)]


def _texts(table: Table, at: NDArray[np.int64]) -> list[tuple[int, int, str]]:
    """File, row and the whole text of some lines."""
    some = table.lines(at)
    names = [name for name in some.columns if not name.startswith("\N{PILCROW SIGN}")]
    cells = pl.concat_str([shown(pl.col(name)).fill_null("") for name in names], separator=" | ")
    return some.select(FILE, ROW, text=pl.coalesce(pl.col(TORN).cast(pl.String), cells)).rows()


def _asides(
    table: Table,
    why: NDArray[np.int8],
    reasons: tuple[str, ...],
    counts: NDArray[np.int64] | None,
    files: list[str],
) -> tuple[Aside, ...]:
    found = []
    for place in range(1, len(reasons)):
        at = np.flatnonzero(why == place)
        if at.size:
            file, row, text = _texts(table, at[:1])[0]
            many = at.size if counts is None else int(counts[at].sum())
            found.append(Aside(reasons[place], many, files[file], row, text, judged.outcomes(reasons[place])))
    return tuple(sorted(found, key=lambda each: -each.count))


def _preview(source: Source) -> tuple[tuple[str, ...], ...]:
    whole = (source.sample or source).table.whole_lines(slice(_PREVIEWED), source.columns)
    return tuple(tuple(cell or "" for cell in row) for row in whole.select(shown(pl.all())).rows())


def _notes(
    source: Source, shape: Shaped, ask: Intake, dated: When, looks: tuple[roles.Look, ...]
) -> tuple[str, ...]:
    notes = []
    if shape.said:
        notes.append(phrase("Understood as {said}.", said=shape.said))
    if shape.asks_year:
        notes.append(
            phrase(
                "The first year is not in the source; it is taken for {first_year}.",
                first_year=ask.first_year or UNTOLD_YEAR,
            )
        )
    order = dated.order
    if ask.order == "by evidence" and order.day_first is not None:
        sure, first = (order.days, phrase("day")) if order.day_first else (order.months, phrase("month"))
        notes.append(
            phrase(
                "Dates like 05/03/2024 are read {first} first: {sure:,} of those written can only be "
                "read so.",
                first=first,
                sure=sure,
            )
        )
    elif ask.order == "by evidence" and 2 * order.open > source.table.height:
        notes.append(
            phrase(
                "Nothing settles whether day or month comes first in {date}; read day first.", date=ask.date
            )
        )
    if any("zone" in pattern.shown for pattern in dated.patterns):
        notes.append(phrase("Times with a zone count for the day that is written."))
    if dated.fiscal:
        notes.append(
            phrase("FY24 is read as the year 2024: a fiscal year is named by the year that it begins in.")
        )
    dates = [look.name for look in looks if look.dates >= 0.6]
    if len(dates) > 1 and ask.date in dates:
        others = ", ".join(name for name in dates if name != ask.date)
        notes.append(
            phrase("Several dates a line: {date} is taken, not {others}.", date=ask.date, others=others)
        )
    if source.hidden:
        notes.append(phrase("Hidden sheets: {hidden}.", hidden=", ".join(source.hidden[:6])))
    return tuple(notes)


def _runs_on(lines: LineArrays) -> bool:
    """Whether figures only rise within each year and start again with the next, for two years or more."""
    if not 12 <= np.count_nonzero(lines.used) <= _MOST_RUNNING:
        return False
    at = np.flatnonzero(lines.used)
    day, key = at_hand(lines.day).astype(np.int64), at_hand(lines.key)
    at = at[np.lexsort((day[at], key[at]))]
    same = key[at][1:] == key[at][:-1]
    if len(np.unique(Grid("year").at(day[at]))) < 2:
        return False
    if (np.diff(day[at])[same] <= 0).any():
        return False
    of_year = Grid("year").at(day[at])
    turns = np.diff(of_year) > 0
    falls = np.diff(lines.units[at]) < 0
    within = same & ~turns
    over = same & turns
    return bool(within.sum() >= 6 and not falls[within].any() and over.any() and falls[over].all())
