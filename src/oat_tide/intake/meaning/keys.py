"""What tells series apart: members of dimensions, spellings that may be one, and levels told by a member."""

from __future__ import annotations

import itertools
import math
from collections import defaultdict
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np
import polars as pl
from numpy.typing import NDArray

from oat_tide.core.language import phrase
from oat_tide.core.series.coded import Key
from oat_tide.core.series.reading import Alike
from oat_tide.core.user_error import UserError
from oat_tide.intake.cells.columns import Coded, Coder
from oat_tide.intake.cells.numbers import TYPED
from oat_tide.intake.pace.stretches import Numbers, Spread, at_hand, counted, gathered
from oat_tide.plan.parts.intake import Intake, Level
from oat_tide.plan.parts.sources import Sources

BLANK = "(blank)"
UNTOLD = phrase("(not told)")
"""The member of a level where its file says nothing."""
_MOST_COMPARED = 4000
_MOST_AT_ONCE = 30_000_000


@dataclass(frozen=True, eq=False, slots=True)
class Keyed:
    """The lines told apart by series.

    Attributes:
        keys: the series, sorted.
        key: of each line, its place in `keys`, -1 where not used.
        alike: members that may be one.
    """

    keys: tuple[Key, ...]
    key: Numbers
    alike: tuple[Alike, ...]


def keyed(coder: Coder, ask: Intake, by: tuple[str, ...], used: NDArray[np.bool_]) -> Keyed:
    """The series that the lines in use belong to.

    Args:
        by: dimensions in order, each a column or a level.
        used: the lines that count.
    """
    if not by:
        return Keyed(((),), np.where(used, 0, -1).astype(np.int32), ())
    levels = {level.name: level for level in ask.levels}
    dimensions: list[_Dimension] = []
    alike: list[Alike] = []
    kept: dict[str, tuple[Coded, NDArray[np.object_]]] = {}
    whole = bool(used.all())
    for name in by:
        column = levels[name].of if name in levels else name
        if column not in kept:
            cells = coder(column)
            kept[column] = cells, _spelled(cells, ask, column)
        cells, texts = kept[column]
        if name in levels:
            pairs = dict(levels[name].pairs)
            texts = np.array([pairs.get(text, UNTOLD) for text in texts], object)
        elif used.any():
            place = np.arange(len(texts))
            counts = cells.counts if whole else np.bincount(cells.spread(place)[used], minlength=len(texts))
            alike += _alike(name, texts, counts)
        distinct, place = np.unique(texts, return_inverse=True)
        dimensions.append(_Dimension(distinct, cells, place))
    return Keyed(*_combined(dimensions, used), tuple(alike))


@dataclass(frozen=True, eq=False, slots=True)
class _Dimension:
    """One dimension of the lines.

    Attributes:
        members: sorted.
        cells: the texts of the lines.
        place: of each text among the members.
    """

    members: NDArray[np.object_]
    cells: Coded
    place: NDArray[np.intp]


def _spelled(cells: Coded, ask: Intake, column: str) -> NDArray[np.object_]:
    """The distinct texts of a column as members: without outer space, and renamed as asked."""
    renames = {each.old: each.new for each in ask.renames if each.of == column}

    def member(text: str | None) -> str:
        name = " ".join((text or "").replace(TYPED, "").split()) or BLANK
        seen = {name}
        while name in renames and renames[name] not in seen:
            name = renames[name]
            seen.add(name)
        return name

    return np.array([member(text) for text in cells.texts], object)


def _combined(dimensions: list[_Dimension], used: NDArray[np.bool_]) -> tuple[tuple[Key, ...], Numbers]:
    """Keys in order, and the place of each line's."""
    combined = _Combined(np.zeros((1, 0), np.intp), [], [])
    for each in dimensions:
        if combined.sizes and combined.room * len(each.members) > _MOST_AT_ONCE:
            places, key = _packed(combined, used)
            combined = _Combined(
                places, [], [Spread(np.arange(len(places)), at_hand(key), np.ones(len(places), bool))]
            )
        combined.sizes.append(len(each.members))
        combined.looked_up.append(each.cells.later(each.place))
    places, key = _packed(combined, used)
    columns = [each.members[places[:, place]].tolist() for place, each in enumerate(dimensions)]
    if not used.all():
        key = np.where(used, at_hand(key), -1).astype(np.int32)
    return tuple(zip(*columns, strict=True)), key


@dataclass(frozen=True, eq=False, slots=True)
class _Combined:
    """Dimensions put together.

    Attributes:
        places: the member in each of the first dimensions, of each combination that is there.
        sizes: of the dimensions after those.
        looked_up: their members; first that of the combinations, if any.
    """

    places: NDArray[np.intp]
    sizes: list[int]
    looked_up: list[Spread]

    @property
    def room(self) -> int:
        """How many combinations there could be."""
        return len(self.places) * math.prod(self.sizes)


def _packed(combined: _Combined, used: NDArray[np.bool_]) -> tuple[NDArray[np.intp], Numbers]:
    """Only the combinations that lines in use have, in order, and the place of each line's among them."""
    room, step = combined.room, 1
    steps: dict[int, Spread] = {}
    sizes = reversed((len(combined.places), *combined.sizes))
    for each, size in zip(reversed(combined.looked_up), sizes, strict=False):
        # Dimensions that are kept together are looked up as one.
        before = steps[id(each.marks)].table if id(each.marks) in steps else 0
        steps[id(each.marks)] = replace(each, table=before + each.table * step)
        step *= size
    first, *others = steps.values()
    if not others and used.all():
        found, place = np.unique(first.table[first.held], return_inverse=True)
        table = np.zeros(len(first.table), np.int32)
        table[first.held] = place
        key: Numbers = Spread(table, first.marks, first.held)
    elif room <= _MOST_AT_ONCE:
        whole = gathered(*((each.table.astype(np.int32), each.marks) for each in steps.values()))
        there = counted(whole if used.all() else whole[used], room) > 0
        found = np.flatnonzero(there)
        key = gathered((np.cumsum(there, dtype=np.int32) - 1, whole), out=whole)
    else:
        whole = gathered(*((each.table, each.marks) for each in steps.values()))
        found, inverse = np.unique(whole[used], return_inverse=True)
        key = placed = np.zeros(len(whole), np.int32)
        placed[used] = inverse
    earlier, *later = np.unravel_index(found, (len(combined.places), *combined.sizes))
    return np.column_stack((combined.places[earlier], *later)), key


def _alike(name: str, texts: NDArray[np.object_], counts: NDArray[np.int64]) -> list[Alike]:
    """Members that differ by case, spaces, marks or one letter; the rarer one is the old."""
    total: dict[str, int] = defaultdict(int)
    for text, count in zip(texts.tolist(), counts.tolist(), strict=True):
        total[text] += count
    seen = [text for text, count in total.items() if count and text != BLANK]
    if len(seen) > _MOST_COMPARED:
        return []
    groups: dict[str, set[str]] = defaultdict(set)
    for text in seen:
        plain = "".join(mark for mark in text.casefold() if mark.isalnum())
        groups[plain].add(text)
        if len(plain) >= 5:
            for place in range(len(plain)):
                groups[f"{plain[:place]}?{plain[place + 1 :]}"].add(text)
                groups[f"-{plain[:place]}{plain[place + 1 :]}"].add(text)
            groups[f"-{plain}"].add(text)
    found: dict[tuple[str, str], Alike] = {}
    for group in groups.values():
        for one, other in itertools.combinations(sorted(group), 2):
            old, new = sorted((one, other), key=lambda text: (total[text], text))
            if (old, new) not in found and _one_letter(old.casefold(), new.casefold()):
                found[old, new] = Alike(name, old, new, total[old])
    return sorted(found.values(), key=lambda each: -each.lines)


def _one_letter(one: str, other: str) -> bool:
    """Whether what differs is letters, spaces and marks: sizes and codes differ by a digit and are two."""
    digits = ["".join(mark for mark in text if mark.isdigit()) for text in (one, other)]
    plain = ["".join(mark for mark in text if mark.isalnum()) for text in (one, other)]
    if digits[0] != digits[1] or abs(len(plain[0]) - len(plain[1])) > 1:
        return False
    if len(plain[0]) == len(plain[1]):
        return sum(1 for a, b in zip(*plain, strict=True) if a != b) <= 1
    short, long = sorted(plain, key=len)
    return any(long[:place] + long[place + 1 :] == short for place in range(len(long)))


def levels_from(path: Path, of: str, members: tuple[str, ...]) -> tuple[Level, ...]:
    """The levels that a file tells of the members of a dimension, such as the family of each product.

    Args:
        of: the dimension; members: those it has.

    Raises:
        UserError: the file cannot be read, no column names the members, or one member stands in two groups.
    """
    from oat_tide.intake.origins.places import fetch

    source = fetch(Sources(places=(str(path),)))
    cells = {name: source.frame[name].cast(pl.String).fill_null("").to_list() for name in source.columns}
    tidy = {name: [" ".join(text.split()) for text in column] for name, column in cells.items()}
    known = set(members)
    hits = {name: len(known & set(column)) for name, column in tidy.items()}
    key = max(hits, key=lambda name: hits[name])
    if not hits[key]:
        raise UserError(
            "{name}: no column holds the members of {of}, such as {examples}. Choose a file with "
            "one of them in each row.",
            name=path.name,
            of=of,
            examples=", ".join(sorted(known)[:3]),
        )
    levels = []
    for name, column in tidy.items():
        if name == key:
            continue
        pairs: dict[str, str] = {}
        for place, (member, group) in enumerate(zip(tidy[key], column, strict=True)):
            if not member or not group:
                continue
            if pairs.setdefault(member, group) != group:
                row = source.frame[place, "\N{PILCROW SIGN}row"]
                raise UserError(
                    "{name}, row {row:,}: {member} is of {level} {group} here and of {other} above. "
                    "Leave one of the two rows.",
                    name=path.name,
                    row=row,
                    member=member,
                    level=name,
                    group=group,
                    other=pairs[member],
                )
        if 1 <= len(set(pairs.values())) < max(len(pairs), 2):
            levels.append(Level(name=name, of=of, pairs=tuple(sorted(pairs.items()))))
    if not levels:
        raise UserError(
            "{name}: no column puts the members of {of} into groups. Choose another file.",
            name=path.name,
            of=of,
        )
    return tuple(levels)
