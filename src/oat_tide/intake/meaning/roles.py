"""Which column holds the date, which the measure, which tell series apart: found by content."""

from __future__ import annotations

import itertools
import math
from collections import Counter
from dataclasses import dataclass
from weakref import WeakKeyDictionary

import polars as pl

from oat_tide.core.language import phrase
from oat_tide.core.series.reading import Column, LeftOut
from oat_tide.core.user_error import UserError
from oat_tide.intake.cells import dates, numbers
from oat_tide.intake.meaning import names
from oat_tide.intake.meaning.lasting import lasting
from oat_tide.intake.meaning.outline import outline
from oat_tide.intake.meaning.shapes import Shaped, shaped
from oat_tide.intake.source import Source
from oat_tide.plan.parts.intake import Intake, Shape

_SAMPLE = 4000
_MOST_LOOKED_AT = 500
_LOOKED_AT = 20_000
ENOUGH = 0.6
"""The share of filled cells that must be readable before a column is taken for dates or numbers."""
_FEW_MEMBERS = 20
"""Members that no question is asked of."""
_MOST_SERIES_PERIODS = 20_000_000
"""Series times periods that a plan begins with at most."""


@dataclass(frozen=True, slots=True)
class Look:
    """What a sample of a column shows: shares of the filled cells, and the members among them.

    Attributes:
        counts_up: whether they number the lines.
        codes: whether they are whole numbers of one length that repeat.
        padded: whether some begin with 0.
        whole: whether they are whole numbers.
    """

    name: str
    filled: float
    dates: float
    bare_years: float
    numbers: float
    distinct: int
    cells: int
    example: str
    counts_up: bool
    codes: bool
    padded: bool
    whole: bool
    members: tuple[str, ...] = ()


_SEEN: WeakKeyDictionary[Source, tuple[Look, ...]] = WeakKeyDictionary()


def look(source: Source) -> tuple[Look, ...]:
    """Look at a sample of every column."""
    if source not in _SEEN:
        _SEEN[source] = _looked(source)
    return _SEEN[source]


def _looked(source: Source) -> tuple[Look, ...]:
    table = (source.sample or source).table
    some = table.whole_lines(slice(None, None, max(1, table.whole // _SAMPLE)))
    sample = some.with_columns(pl.col(pl.Categorical).cast(pl.String))
    return tuple(_look(sample, name) for name in source.columns)


def _look(sample: pl.DataFrame, name: str) -> Look:
    cells_shown = sample.select(numbers.shown(pl.col(name)).str.strip_chars()).to_series()
    texts = [text for text in cells_shown.to_list() if text]
    members = Counter(texts)
    cells = len(texts)
    seen = members.most_common(_MOST_LOOKED_AT)
    looked = max(sum(copies for _, copies in seen), 1)
    serial = names.is_dated(name) and all(dates.is_serial(text) for text, _ in seen)
    found = {text: dates.DAY if serial else dates.written_as(text) for text, _ in seen}
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
        len(members) == cells > 2 and _counts_up(texts),
        _are_codes(members),
        _are_padded(members),
        bool(members) and all(text.isdecimal() for text in members),
        tuple(text for text, _ in seen[:8]),
    )


_LONGEST_NUMBER = 18
"""Digits of what can be a number of a line."""


def _counts_up(texts: list[str]) -> bool:
    """Whether these are whole numbers, each above the one before and most of them the very next."""
    if not all(text.isdecimal() and len(text) <= _LONGEST_NUMBER for text in texts):
        return False
    values = [int(text) for text in texts]
    return all(a < b for a, b in itertools.pairwise(values)) and values[-1] - values[0] < 2 * len(values)


_LEAST_COPIES = 3
_CODE_DIGITS, _CODE_COPIES = 4, 10


def _are_padded(members: Counter[str]) -> bool:
    """Whether these are whole numbers filled up with zeros, which no figure is."""
    alike = len({len(text) for text in members}) == 1 and len(next(iter(members))) > 1
    return alike and all(text.isdecimal() for text in members) and any(text[0] == "0" for text in members)


def _are_codes(members: Counter[str]) -> bool:
    """Whether these are whole numbers of one length that repeat, such as article numbers."""
    cells = members.total()
    if not members or not all(text.isdecimal() for text in members):
        return False
    lengths = {len(text) for text in members}
    repeat = cells >= _LEAST_COPIES * len(members)
    return len(lengths) == 1 and repeat and lengths.pop() >= 3


def guess(source: Source, shape_asked: Shape = "by content") -> Intake:
    """The roles that the content speaks for, in the shape that the table is brought to.

    Raises:
        UserError: no column holds dates, or none numbers.
    """
    filled = () if shape_asked == "as it stands" else outline(source).taken
    shape = shaped(source, Intake(shape=shape_asked, filled=filled))
    looks = look(shape.source)
    date = shape.date or _date(source.name, looks)
    left = [each for each in looks if each.name != date and each.name not in shape.spent]
    value = shape.figure or _measure(source.name, left)
    scenario, actual = _scenario(left)
    free = [each for each in left if each.name not in (value, scenario)]
    return Intake(
        shape=shape_asked,
        filled=filled,
        date=date,
        value=value,
        also=_beside_it(free, value, scenario),
        by=_series_by(shape.source, free, date),
        scenario=scenario,
        actual=actual,
        totalled=names.suited(value),
    )


def _beside_it(looks: list[Look], value: str, scenario: str) -> tuple[str, ...]:
    """Columns of figures that are a budget or the like, beside a measure that is none.

    Of what a command wrote, the actual beside what is fitted and projected.
    """
    if scenario:
        return tuple(each.name for each in looks if scenario == "kind" and each.name == "actual")
    if names.is_scenario(value):
        return ()
    return tuple(
        each.name
        for each in looks
        if each.numbers >= ENOUGH and names.is_scenario(each.name) and not each.codes
    )


def _series_by(source: Source, looks: list[Look], date: str) -> tuple[str, ...]:
    """The columns that tell series apart, as long as the series are not too many to keep."""
    found = [each for each in looks if _names_something(each) and _goes_on(source, each, date)]
    texts = [each for each in found if not _is_number_code(each)]
    found = [each for each in found if each in texts or _tells_more(source, each, texts)]
    # Of too many, what tells the most apart is named as left out rather than that nothing opens.
    while found and _most_series(found, source.lines) > _MOST_SERIES_PERIODS // _PERIODS:
        found.remove(max(found, key=lambda each: each.distinct))
    return tuple(each.name for each in found)


_PERIODS = 72


def _most_series(found: list[Look], lines: int) -> int:
    return min(math.prod(each.distinct for each in found), lines)


def _is_number_code(each: Look) -> bool:
    """Whether a column holds whole numbers that are named as the codes of items are."""
    return each.numbers >= ENOUGH and not each.padded


def _names_something(each: Look) -> bool:
    """Whether a column of text or of codes could tell series apart."""
    if each.filled < 0.5 or each.distinct < 2 or each.dates >= ENOUGH or each.counts_up:
        return False
    return each.numbers < ENOUGH or each.padded or (each.whole and names.is_item(each.name))


def _goes_on(source: Source, each: Look, date: str) -> bool:
    """Whether the values of a column come period after period, and not once like the numbers of invoices."""
    if each.distinct <= _FEW_MEMBERS:
        return True
    share = lasting(source, each.name, date, each.distinct)
    # Within a single period nothing tells; what comes line after line is no series.
    return each.distinct <= each.cells // 5 if math.isnan(share) else share > 0.5


def _tells_more(source: Source, each: Look, texts: list[Look]) -> bool:
    """Whether codes tell more apart than the names beside them, one of which each of them may have."""
    lines = source.table.whole_lines(slice(_LOOKED_AT), (each.name, *(other.name for other in texts)))
    codes = lines[each.name].n_unique()
    return all(
        lines.select(each.name, other.name).n_unique() != codes or lines[other.name].n_unique() != codes
        for other in texts
    )


def left_out(
    source: Source, looks: tuple[Look, ...], ask: Intake, shape: Shaped, lines: int
) -> tuple[LeftOut, ...]:
    """The columns of text and of codes that tell no series apart, each with how many values it has.

    Args:
        source: its lines, or a sample of them.
        lines: how many there are in all.
    """
    sampled = lines > source.lines
    roles = {ask.date, ask.value, ask.times, ask.scenario, *ask.also, *ask.by, *shape.spent}
    roles |= {each.name for each in shape.beside.totals} | {each.name for each in shape.beside.asked}
    roles |= {level.of for level in ask.levels if level.name in ask.by}
    return tuple(
        LeftOut(
            each.name,
            source.table[each.name].drop_nulls().n_unique(),
            sampled and each.distinct > _FEW_MEMBERS,
        )
        for each in looks
        if each.name not in roles and each.cells and each.dates < ENOUGH and is_text_or_code(each)
    )


def is_text_or_code(each: Look) -> bool:
    """Whether a column holds text, or numbers that name something."""
    code = each.whole and (names.is_code(each.name) or names.is_item(each.name))
    # By their digits alone they must repeat often, and be longer than figures that do.
    alike = each.codes and not names.is_measure(each.name) and len(each.example) >= _CODE_DIGITS
    often = each.cells >= _CODE_COPIES * each.distinct
    return each.numbers < ENOUGH or each.padded or each.counts_up or code or (alike and often)


def _scenario(looks: list[Look]) -> tuple[str, str]:
    """The column that tells actuals from budgets and forecasts, and what actuals are called."""
    for each in looks:
        if each.name == "kind" and each.members and set(each.members) <= set(names.KINDS):
            return each.name, next(kind for kind in names.KINDS if kind in each.members)
        words = {member for member in each.members if names.SCENARIOS.search(member)}
        actual = [member for member in each.members if names.ACTUALS.search(member)]
        if 2 <= each.distinct <= 8 and actual and len(words) >= each.distinct - 1:
            return each.name, actual[0]
    return "", ""


def _date(name: str, looks: tuple[Look, ...]) -> str:
    found = [each for each in looks if each.dates >= ENOUGH and each.filled >= 0.5]
    if not found:
        raise UserError(
            "{name}: no column holds dates. Columns: {examples}. Write the date of each line as "
            "in 2026-03-31 and open the file again.",
            name=name,
            examples=_examples(looks),
        )
    # Of several dates a line the one of the sale comes first: it is what demand goes by.
    return max(
        found, key=lambda each: each.dates - 0.5 * each.bare_years + 0.3 * names.is_of_sale(each.name)
    ).name


def _measure(name: str, looks: list[Look]) -> str:
    found = [each for each in looks if each.numbers >= ENOUGH and each.filled >= 0.5]
    if not found:
        raise UserError(
            "{name}: no column holds numbers to add up. Columns: {examples}. Add the cases, "
            "units or money of each line and open the file again.",
            name=name,
            examples=_examples(tuple(looks)),
        )

    def score(each: Look) -> float:
        if names.is_code(each.name):
            named = -2.5
        elif names.suited(each.name) != "sum":
            named = -1.0
        else:
            named = 2.0 * names.is_measure(each.name)
        named -= 1.5 * each.codes + 3.0 * (each.padded and each.distinct > 1)
        if names.SCENARIOS.search(each.name):
            # Of a budget and an actual side by side, the actual makes the history.
            named += 1.5 if names.ACTUALS.search(each.name) else -1.5
        return named - 3.0 * each.counts_up - 1.0 * (each.distinct == 1) + each.numbers

    return max(found, key=score).name


def _examples(looks: tuple[Look, ...]) -> str:
    if not looks:
        return phrase("none besides")
    return ", ".join(
        phrase("{name} (such as “{example}”)", name=each.name, example=each.example[:24])
        for each in looks[:6]
    )


def columns(looks: tuple[Look, ...], ask: Intake) -> tuple[Column, ...]:
    """Every column with the role it has and what speaks for it."""
    return tuple(
        Column(each.name, _role(each.name, ask), _why(each), each.dates, each.numbers, each.members)
        for each in looks
    )


def _role(name: str, ask: Intake) -> str:
    roles = {ask.date: "date", ask.value: "measure", ask.times: "times", ask.scenario: "scenario"}
    if name in roles:
        return roles[name]
    if name in ask.also:
        return "beside"
    return "series" if name in ask.by else "left out"


def _why(each: Look) -> str:
    if not each.cells:
        return "empty"
    if each.dates >= ENOUGH:
        return phrase("{dates:.0f} % dates, such as {example}", dates=100 * each.dates, example=each.example)
    if each.numbers >= ENOUGH:
        return phrase(
            "{numbers:.0f} % figures, such as {example}", numbers=100 * each.numbers, example=each.example
        )
    return phrase("{distinct} values, such as {example}", distinct=each.distinct, example=each.example[:40])
