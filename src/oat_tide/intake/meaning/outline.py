"""Reports in outline: what stands only on the first line of each block."""

from __future__ import annotations

from dataclasses import dataclass
from weakref import WeakKeyDictionary

import polars as pl

from oat_tide.intake.cells.dates import written_as
from oat_tide.intake.cells.numbers import is_number
from oat_tide.intake.meaning.samples import ENOUGH_NUMBERS, share
from oat_tide.intake.source import Source
from oat_tide.intake.table import COUNT, MARKS

_LOOKED_AT = 5_000
_FEWEST_BLANK, _FEWEST_DATES_BLANK = 0.2, 0.5
"""Of fewer blank cells it is likelier that they are missing, a date above all."""
_MOST_UNTOLD = 0.1


@dataclass(frozen=True, slots=True)
class Outline:
    """Columns with blank cells that may stand for the one above.

    Attributes:
        taken: those that can be nothing else: they lead the line, and each block is named once.
        offered: others that may be filled down.
    """

    taken: tuple[str, ...] = ()
    offered: tuple[str, ...] = ()


_SEEN: WeakKeyDictionary[Source, Outline] = WeakKeyDictionary()


def outline(source: Source) -> Outline:
    """The columns that look like those of a report in outline; each source is looked at once."""
    if source not in _SEEN:
        _SEEN[source] = _outlined(source)
    return _SEEN[source]


def _outlined(source: Source) -> Outline:
    if source.tables or COUNT in source.table.columns:
        return Outline()
    lines = source.table.whole_lines(slice(_LOOKED_AT), tuple(source.columns))
    texts = lines.select(pl.all().exclude(MARKS).cast(pl.String).str.strip_chars())
    texts = texts.select(pl.when(pl.all() != "").then(pl.all()))
    texts = texts.filter(~pl.all_horizontal(pl.all().is_null()))
    taken: list[str] = []
    offered: list[str] = []
    filled: list[pl.Series] = []
    leads = True
    for cells in texts:
        known = cells.drop_nulls()
        if not len(known):
            continue
        codes = _is_numbers(known)
        if codes and not (leads and _may_be_codes(cells, texts)):
            leads = False
            continue
        dated = share(known.head(1000).to_list(), written_as) >= ENOUGH_NUMBERS
        fewest = _FEWEST_DATES_BLANK if dated or codes else _FEWEST_BLANK
        down = cells.forward_fill()
        blocks = pl.DataFrame([*filled, down]).filter(cells.is_not_null())
        if not cells.null_count():
            filled.append(down)
        elif cells[0] is not None and cells.null_count() >= fewest * len(cells):
            if leads and blocks.height == blocks.n_unique():
                taken.append(cells.name)
                filled.append(down)
            elif not codes and not bool((known == known.shift()).any()):
                offered.append(cells.name)
    return Outline(tuple(taken), tuple(offered))


def _is_numbers(known: pl.Series) -> bool:
    return share(known.head(1000).to_list(), is_number) >= ENOUGH_NUMBERS


def _may_be_codes(cells: pl.Series, texts: pl.DataFrame) -> bool:
    """Whether numbers may be item codes: whole ones before what every line tells and comes again with others.

    In an outline the dates come again with each item; beside a column of few figures they do not.
    """
    later = texts[:, texts.columns.index(cells.name) + 1 :]
    told = [each for each in later if each.null_count() <= _MOST_UNTOLD * len(each)]
    return (
        bool(cells.drop_nulls().str.contains(r"^\d+$").all())
        and any(_is_numbers(each.drop_nulls()) for each in told)
        and any(each.n_unique() < len(each) and not _is_numbers(each.drop_nulls()) for each in told)
    )
