"""Which column holds the date, which the measure, which tell series apart: found by content."""

from __future__ import annotations

import itertools
import re
from collections import Counter
from dataclasses import dataclass

import polars as pl

from oat_tide.core.reading import Column
from oat_tide.core.trouble import Trouble
from oat_tide.intake import dates, numbers
from oat_tide.intake.source import Source
from oat_tide.plan.plan import Intake

_SAMPLE = 4000
_MOST_LOOKED_AT = 500
_ENOUGH = 0.6
"""The share of filled cells that must be readable before a column is taken for dates or numbers."""
_MOST_MEMBERS = 500
_MEASURES = re.compile(
    r"case|unit|qty|quantit|sale|sold|volume|amount|value|demand|revenue|turnover|piece|litre|kilo|count",
    re.I,
)
_NO_MEASURES = re.compile(
    r"\b(id|nr|no|num|number|code|key|row|index|post\w*|zip|year|month|week|day|phone)\b|price|rate|%|percent",
    re.I,
)


@dataclass(frozen=True, slots=True)
class Look:
    """What a sample of a column shows: shares of the filled cells, and the members among them."""

    name: str
    filled: float
    dates: float
    bare_years: float
    numbers: float
    distinct: int
    cells: int
    example: str
    counts_up: bool


def look(source: Source) -> tuple[Look, ...]:
    """Look at a sample of every column."""
    frame = source.frame
    step = max(1, frame.height // _SAMPLE)
    sample = frame.gather_every(step)
    return tuple(_look(sample, name) for name in source.columns)


def _look(sample: pl.DataFrame, name: str) -> Look:
    texts = [text for text in sample[name].str.strip_chars().to_list() if text]
    members = Counter(texts)
    cells = len(texts)
    seen = members.most_common(_MOST_LOOKED_AT)
    looked = max(sum(copies for _, copies in seen), 1)
    found = {text: dates.written_as(text) for text, _ in seen}
    days = sum(copies for text, copies in seen if found[text])
    years = sum(copies for text, copies in seen if found[text] == dates.YEAR)
    figures = sum(copies for text, copies in seen if numbers.is_number(text))
    return Look(
        name,
        cells / max(sample.height, 1),
        days / looked,
        years / looked,
        figures / looked,
        len(members),
        cells,
        texts[0] if texts else "",
        len(members) == cells > 2 and _rises(texts),
    )


def _rises(texts: list[str]) -> bool:
    """Whether these are whole numbers, each above the one before."""
    if not all(text.isdecimal() for text in texts):
        return False
    values = [int(text) for text in texts]
    return all(a < b for a, b in itertools.pairwise(values))


def guess(source: Source) -> Intake:
    """The roles that the content speaks for.

    Raises:
        Trouble: no column holds dates, or none numbers.
    """
    looks = look(source)
    date = _date(source.name, looks)
    value = _measure(source.name, [each for each in looks if each.name != date])
    by = tuple(each.name for each in looks if each.name not in (date, value) and _tells_series_apart(each))
    return Intake(date=date, value=value, by=by)


def _date(name: str, looks: tuple[Look, ...]) -> str:
    found = [each for each in looks if each.dates >= _ENOUGH and each.filled >= 0.5]
    if not found:
        raise Trouble(
            f"{name}: no column holds dates. Columns: {_examples(looks)}. "
            "Write the date of each line as in 2026-03-31 and open the file again."
        )
    return max(found, key=lambda each: each.dates - 0.5 * each.bare_years).name


def _measure(name: str, looks: list[Look]) -> str:
    found = [each for each in looks if each.numbers >= _ENOUGH and each.filled >= 0.5]
    if not found:
        raise Trouble(
            f"{name}: no column holds numbers to add up. Columns: {_examples(tuple(looks))}. "
            "Add the cases, units or money of each line and open the file again."
        )

    def score(each: Look) -> float:
        named = 2.0 * bool(_MEASURES.search(each.name)) - 2.0 * bool(_NO_MEASURES.search(each.name))
        return named - 3.0 * each.counts_up - 1.0 * (each.distinct == 1) + each.numbers

    return max(found, key=score).name


def _tells_series_apart(each: Look) -> bool:
    few = 1 < each.distinct <= min(_MOST_MEMBERS, max(20, each.cells // 5))
    return each.filled >= 0.5 and few and each.numbers < _ENOUGH and each.dates < _ENOUGH


def _examples(looks: tuple[Look, ...]) -> str:
    return ", ".join(f"{each.name} (such as {each.example[:24]!r})" for each in looks[:6])


def columns(looks: tuple[Look, ...], ask: Intake) -> tuple[Column, ...]:
    """Every column with the role it has and what speaks for it."""
    return tuple(
        Column(each.name, _role(each.name, ask), _why(each), each.dates, each.numbers) for each in looks
    )


def _role(name: str, ask: Intake) -> str:
    if name == ask.date:
        return "date"
    if name == ask.value:
        return "value"
    return "series" if name in ask.by else "left out"


def _why(each: Look) -> str:
    if not each.cells:
        return "empty"
    if each.dates >= _ENOUGH:
        return f"{each.dates:.0%} dates, such as {each.example}"
    if each.numbers >= _ENOUGH:
        return f"{each.numbers:.0%} numbers, such as {each.example}"
    return f"{each.distinct} values, such as {each.example[:40]}"
