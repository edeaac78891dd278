"""The rows of the indices: a year's ratios at each season, those left out standing apart."""

from __future__ import annotations

from collections.abc import Callable
from functools import cache, partial

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.seasons.indices import by_year
from oat_tide.core.working.formula import Formula, Mask, mean
from oat_tide.core.working.terms import Columns, Term, known
from oat_tide.stages.deck.called import Remark, WhyBlank
from oat_tide.stages.seasons.by_hand import LeftOut, left_out, mend_ratio, state_of_ratio
from oat_tide.stages.seasons.ground import AXIS, Ground
from oat_tide.stages.seasons.taken import Taken


def year_name(year: int) -> str:
    """The name of the figure of a year's ratios."""
    return f"ratios_{year}"


def year_rows(ground: Ground, taken: Taken) -> tuple[str, ...]:
    """A row a year; of seasons that come several times a year the mean of their ratios."""
    d, loess = ground.d, ground.ask.method == "loess"
    # Local regression goes by every period: a ratio that is left out counts.
    gone = left_out(ground) if not loess else tuple({} for _ in d.keys)
    of = taken.found
    there: Mask = np.any(~np.isnan(of.values), axis=0)
    stretches = [each.tolist() for each in ground.cycle.stretches(ground.past)]
    means = cache(lambda: _means(ground, of))
    rows = []
    for number, (year, begin, end) in enumerate(zip(*stretches, strict=True)):
        if not there[begin:end].any():
            # A year at the end of the history that has no ratio is no row.
            continue
        held = ground.cycle.in_stretch(begin, end)
        several = held.shape[1] > 1
        what: Formula = mean(known(of.likes(partial(_at, held)))) if several else of.like(_single(held))
        many = phrase(", mean of up to {shape}", shape=held.shape[1]) if several else ""
        row = d.define(
            year_name(year),
            f"{d.grid.year_label(year)}{many}",
            what,
            values=partial(_of_year, means, number),
            axis=AXIS,
            unit=ground.index_unit,
            signed=not ground.multiplies.any(),
            blank=_why_none(ground),
            mend=None if loess else mend_ratio(ground, year),
            state=state_of_ratio(year, gone),
            remark=_note(year, gone),
        )
        rows.append(row.source.figure.name)
    return tuple(rows)


def _means(ground: Ground, of: Term) -> Values:
    """(series, years, seasons) the mean of the ratios of all years at once."""
    past, cycle = ground.past, ground.cycle
    years = cycle.stretches(past)[0]
    return by_year(of.values[:, :past], cycle.place[:past], cycle.length, cycle.years[:past], years)


def _of_year(means: Callable[[], Values], number: int) -> Values:
    return means()[:, number]


def _single(held: Columns) -> Columns:
    return held[:, 0] if held.shape[1] else np.full(len(held), -1)


def _at(held: Columns, columns: Columns) -> Columns:
    return held[columns]


def _why_none(ground: Ground) -> WhyBlank:
    def why(series: int, column: int) -> str:
        if ground.why_none[series]:
            return ground.why_none[series]
        if ground.ask.method == "simple":
            return phrase("The year is incomplete: simple averages use complete years only.")
        return phrase("The period is not known, part or left out, or it has no centred average.")

    return why


def _note(year: int, gone: LeftOut) -> Remark:
    """The note of a ratio left out."""

    def remark(series: int, column: int) -> str:
        here = gone[series].get((year, column))
        if here is None:
            return ""
        return phrase(
            "Left out of the index{value}. Delete restores it.", value=f": {here.note}" if here.note else ""
        )

    return remark
