"""Columns of figures beside columns of periods: totals of these, and such as may be a period unread."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.exact import Values
from oat_tide.intake.cells import dates, month_words
from oat_tide.intake.meaning import names, samples
from oat_tide.intake.source import Source
from oat_tide.plan.parts.intake import Intake

_FEWEST_ADDED = 2
_YEAR = re.compile(r"(?<!\d)(?:19|20)\d{2}(?!\d)")
_TWICE = re.compile(r" \(\d+\)$")
"""What tells a heading from an earlier one that is the same."""
_WORDS = re.compile(month_words.WORD)


@dataclass(frozen=True, slots=True)
class TotalColumn:
    """A column that adds up others.

    Attributes:
        name: of the column.
        of: the columns that it adds up.
        adds_up: whether it does so in the first lines; else only its name says so.
    """

    name: str
    of: tuple[str, ...]
    adds_up: bool


@dataclass(frozen=True, slots=True)
class MayBe:
    """A column of figures that may be a period.

    Attributes:
        name: of the column.
        meant: what its heading may have been meant for, as headings; the likeliest first.
    """

    name: str
    meant: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Beside:
    """What stands beside columns of periods."""

    totals: tuple[TotalColumn, ...] = ()
    asked: tuple[MayBe, ...] = ()


def as_told(ask: Intake) -> dict[str, str]:
    """What headings stand for where the plan says so; empty for no period."""
    return {each.column: each.means for each in ask.headings}


def beside(source: Source, across: Mapping[str, str], ask: Intake, spent: tuple[str, ...] = ()) -> Beside:
    """Split what else holds figures: totals of the columns across, and such as may be periods.

    Args:
        across: the columns of periods, each with the heading that it is read by.
        spent: columns that are no figures for all that, such as that of the years.
    """
    told, columns = as_told(ask), source.columns
    places = [place for place, name in enumerate(columns) if name in across]
    others = [
        name
        for name in columns
        if name not in across and name not in spent and samples.holds_figures(source, name)
    ]
    totals = {each.name: each for each in own_totals(source, others, tuple(across))}
    asked = tuple(
        MayBe(name, _meant(name, columns, across))
        for name in others
        if name not in totals
        and told.get(name) != ""
        and (places[0] < columns.index(name) < places[-1] or _like_a_period(name, across))
    )
    return Beside(tuple(totals.values()), asked)


def without_sums(source: Source, across: Mapping[str, str]) -> tuple[dict[str, str], tuple[TotalColumn, ...]]:
    """The columns of periods without the longer ones that are their sums, such as 2024 after its months."""
    lengths = {name: dates.written_as(heading) or 0 for name, heading in across.items()}
    usual = max(set(lengths.values()), key=list(lengths.values()).count)
    short = [name for name, length in lengths.items() if length <= usual]
    longer = [name for name, length in lengths.items() if length > usual]
    sums = tuple(each for each in own_totals(source, longer, short) if each.adds_up)
    named = {each.name for each in sums}
    return {name: heading for name, heading in across.items() if name not in named}, sums


def own_totals(source: Source, candidates: Sequence[str], added: Sequence[str]) -> tuple[TotalColumn, ...]:
    """Columns that are called a total, or are one: to the last digit the sum of columns on their left."""
    if not candidates:
        return ()
    columns = source.columns
    order = sorted(added, key=columns.index)
    place = {name: columns.index(name) for name in (*order, *candidates)}
    found: list[TotalColumn] = []
    for comma in (False, True):
        sums = np.cumsum(samples.figures(source, order, comma), axis=1)
        sums = np.concatenate((np.zeros((len(sums), 1)), sums), axis=1)
        own = samples.figures(source, candidates, comma)
        for at, name in enumerate(candidates):
            before = sum(place[each] < place[name] for each in order)
            run = _adds_up(own[:, at], sums, before)
            if run is not None and all(each.name != name for each in found):
                found.append(TotalColumn(name, tuple(order[slice(*run)]), True))
    by_sum = {each.name for each in found}
    for name in candidates:
        if name not in by_sum and names.is_total(name):
            found.append(TotalColumn(name, _named_for(name, order, place), False))
    return tuple(sorted(found, key=lambda each: place[each.name]))


def _adds_up(own: NDArray[np.float64], sums: Values, before: int) -> tuple[int, int] | None:
    """The run of columns, from one to before another, that a column is the sum of in every line."""
    lines = np.count_nonzero(own)
    if not lines:
        return None
    size = np.abs(own).max() * 1e-9
    telling = [int(np.abs(own).argmax())]
    for stop in dict.fromkeys((before, sums.shape[1] - 1)):
        starts = np.arange(stop + 1)
        # Most columns are told from a sum by their largest figure alone.
        for lines_looked_at in (telling, slice(None)):
            some, figures = sums[lines_looked_at], own[lines_looked_at]
            off = np.abs(some[:, [stop]] - some[:, starts] - figures[:, None])
            starts = starts[(off <= size).all(0)]
        # Blanks may stand before a run. What one or two columns come to in a line or two may be chance.
        long = [int(start) for start in starts if stop - start >= _FEWEST_ADDED]
        if long and (lines >= 3 or stop - max(long) >= 4) and lines * (stop - max(long)) >= 6:
            return min(long), stop
    return None


def _named_for(name: str, order: list[str], place: Mapping[str, int]) -> tuple[str, ...]:
    """The columns that a total is called for: those of its year, those on its left, or all."""
    year = _YEAR.search(name)
    of_year = tuple(each for each in order if year and year[0] in each)
    left = tuple(each for each in order if place[each] < place[name])
    return of_year or left or tuple(order)


def _like_a_period(name: str, across: Mapping[str, str]) -> bool:
    """Whether a heading is written as a period is, but for a letter or a digit, or stands there twice."""
    if _YEAR.search(name) or _TWICE.sub("", name) in across.values():
        return True
    shapes = {_drawn(heading) for heading in across.values()}
    words = _WORDS.findall(name)
    if len(words) > 1:
        return False
    if words and _drawn(name) in shapes:
        return bool(month_words.months_meant(words[0], _language(across)))
    if not words:
        digits = _drawn(name)
        return any(digits in (shape, shape[:-1], shape + "9") for shape in shapes if len(shape) > 2)
    bare = name.strip().rstrip(".")
    return any(map(dates.is_month_name, across.values())) and (
        bare == words[0] and bool(month_words.months_meant(bare, _language(across)))
    )


def _drawn(name: str) -> str:
    """A heading with a 9 for each digit and one letter for each word."""
    return re.sub(r"[^\W\d_]+\.?", "a", re.sub(r"\d", "9", name.strip()))


def _language(across: Mapping[str, str]) -> str:
    return month_words.language_of(
        word for heading in across.values() for word in _WORDS.findall(heading)[:1]
    )


def _meant(name: str, columns: list[str], across: Mapping[str, str]) -> tuple[str, ...]:
    """What a heading may have been meant for: a period missing where it stands, or nearly named by it."""
    language, months = _language(across), month_words.months_of(across.values())
    periods = {each: _period(heading, language, months) for each, heading in across.items()}
    place = columns.index(name)
    left = [periods[each] for each in columns[:place] if each in periods]
    right = [periods[each] for each in columns[place:] if each in periods]
    step = 12 // _a_year(across)
    near = [left[-1] + step] if left and left[-1] is not None else []
    near += [right[0] - step] if right and right[0] is not None else []
    words = _WORDS.findall(name)
    year = _YEAR.search(name)
    for month in month_words.months_meant(words[0], language) if words else ():
        near.append((int(year[0]) * 12 if year else 0) + month - 1)
    there = set(periods.values())
    free = [each for each in dict.fromkeys(near) if each not in there]
    # What both the place and the letters speak for comes first.
    free.sort(key=lambda each: -near.count(each))
    return tuple(filter(None, (_heading(each, across) for each in free)))[:2]


def _a_year(across: Mapping[str, str]) -> int:
    """How many of the periods across there are in a year."""
    told = {dates.written_as(heading) for heading in across.values()}
    if dates.YEAR in told:
        return 1
    return 4 if dates.QUARTER in told or any(map(dates.quarter_of, across.values())) else 12


def _period(heading: str, language: str, months: Mapping[str, int]) -> int | None:
    """A month, quarter or year by the number of its first month, from 0 without a year; None for others."""
    if quarter := dates.quarter_of(heading):
        return 3 * quarter - 3
    month = months.get(heading) or month_words.month_agreed_on(heading)
    if month:
        return month - 1
    return dates.month_number(heading, language)


def _heading(period: int, across: Mapping[str, str]) -> str:
    """A period as a heading that is read as it; empty where there is none."""
    yearless = any(dates.is_month_name(heading) or dates.quarter_of(heading) for heading in across.values())
    if yearless and not 0 <= period < 12:
        return ""
    year, month = divmod(period, 12)
    if not yearless and not dates.EARLIEST <= year <= dates.LATEST:
        return ""
    count = _a_year(across)
    if count == 1:
        return str(year)
    if count == 4:
        return f"Q{month // 3 + 1}" if yearless else f"{year} Q{month // 3 + 1}"
    return (
        month_words.name_of(month + 1, _language(across)).capitalize()
        if yearless
        else f"{year}-{month + 1:02d}"
    )
