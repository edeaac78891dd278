"""Edits that Intake offers: roles of columns, verdicts on lines, rulings on periods, mended cells."""

from __future__ import annotations

import datetime as dt

import msgspec

from oat_tide.core.periods.calendar import KINDS, Grid, date_of, day_number, spoken
from oat_tide.core.series.coded import Key
from oat_tide.core.series.panel import Sight
from oat_tide.core.series.reading import Reading
from oat_tide.core.user_error import UserError
from oat_tide.core.working.number_format import fixed, number_of
from oat_tide.plan.edits import Edit, edit
from oat_tide.plan.parts.evened import Evened, Ruled
from oat_tide.plan.parts.intake import CellEdit, Heading, Intake, Outcome, Rename, Verdict
from oat_tide.plan.parts.part import Pairs
from oat_tide.plan.paths import P
from oat_tide.stages.common import where_of

ROLES = ("date", "measure", "times", "beside", "series", "scenario", "left out")
FOREVER = dt.date(9999, 12, 31)


def with_role(ask: Intake, reading: Reading, column: str, role: str) -> Edit:
    """Give a column a role; one that had the role and can only stand once is left out."""
    new = msgspec.structs.replace(
        ask,
        by=tuple(name for name in ask.by if name != column),
        also=tuple(name for name in ask.also if name != column),
        times="" if ask.times == column else ask.times,
        scenario="" if ask.scenario == column else ask.scenario,
    )
    if role == "series":
        new = msgspec.structs.replace(new, by=(*new.by, column))
    elif role == "beside":
        new = msgspec.structs.replace(new, also=(*new.also, column))
    elif role == "scenario":
        members = next((c.members for c in reading.columns if c.name == column), ())
        actual = next((each for each in members if each.lower().startswith("act")), (*members, "")[0])
        new = msgspec.structs.replace(new, scenario=column, actual=actual)
    elif role in ("date", "measure", "times"):
        field = "value" if role == "measure" else role
        new = msgspec.structs.replace(new, **{field: column})
    return edit(P.intake, new)


def with_verdict(ask: Intake, reason: str, outcome: Outcome | None) -> Edit:
    """Say what becomes of the lines of a reason; None takes the verdict back."""
    others = tuple(each for each in ask.verdicts if each.reason != reason)
    new = others if outcome is None else (*others, Verdict(reason=reason, outcome=outcome))
    return edit(P.intake.verdicts, new)


def with_rename(ask: Intake, of: str, old: str, new: str) -> Edit:
    """Take one member for another."""
    others = tuple(each for each in ask.renames if (each.of, each.old) != (of, old))
    return edit(P.intake.renames, (*others, Rename(of=of, old=old, new=new)))


def renamed(ask: Intake, reading: Reading, text: str) -> Edit:
    """Take one member for another, written as "old = new".

    Raises:
        UserError: it is not written so, or no dimension has the old name.
    """
    old, mark, new = (part.strip() for part in text.partition("="))
    if not (old and mark and new):
        raise UserError(
            "“{text}”: write the old name, =, and the new one, as in Oat milk = Oat drink.", text=text
        )
    for dimension, members in zip(reading.dimensions, reading.members, strict=True):
        if old in members:
            return with_rename(ask, dimension, old, new)
    raise UserError(
        "There is no “{old}” among {dimensions}. Write it as the source has it.",
        old=old,
        dimensions=", ".join(reading.dimensions),
    )


def with_mend(ask: Intake, file: str, row: int, column: str, text: str) -> Edit:
    """Write a cell, or a torn line, anew."""
    others = tuple(each for each in ask.mends if (each.file, each.row, each.column) != (file, row, column))
    return edit(P.intake.mends, (*others, CellEdit(file=file, row=row, column=column, text=text)))


def with_heading(ask: Intake, column: str, means: str) -> Edit:
    """Say what the heading of a column among periods stands for; empty for no period."""
    others = tuple(each for each in ask.headings if each.column != column)
    return edit(P.intake.headings, (*others, Heading(column=column, means=means)))


def without_heading(ask: Intake, column: str) -> Edit:
    """Take back what a heading was said to stand for."""
    return edit(P.intake.headings, tuple(each for each in ask.headings if each.column != column))


def heading_words(text: str) -> str:
    """A heading that names a period, as periods are written."""
    try:
        first, last = map(day_number, spoken(text.replace(" ", "")))
    except ValueError:
        return text
    grids = (Grid(kind) for kind in KINDS if kind != "block")
    grid = next(each for each in grids if each.last_day(each.period(first)) == last)
    return grid.label(grid.period(first))


def heading_typed(ask: Intake, column: str, text: str) -> Edit:
    """Say what a heading stands for, as it was typed.

    Raises:
        UserError: it names no period.
    """
    typed = " ".join(text.split())
    if not typed:
        raise UserError(
            "“{column}”: write its period, as in 2026-03, or Mar where years are in another column.",
            column=column,
        )
    return with_heading(ask, column, typed)


def pairs(reading: Reading, key: Key) -> Pairs:
    """A series as the plan names it."""
    return where_of(reading.dimensions, key)


def days_of(sight: Sight, column: int) -> tuple[dt.date, dt.date]:
    """The first and last day of a column."""
    grid, period = sight.past.grid, sight.past.first + column
    return date_of(grid.first_day(period)), date_of(grid.last_day(period))


def with_ruling(ask: Evened, ruling: Ruled) -> Edit:
    """Rule on some days of a series; an earlier ruling on the same days gives way."""
    return edit(P.evened.rulings, (*_others(ask, ruling), ruling))


def without_ruling(ask: Evened, ruling: Ruled) -> Edit:
    """Take a ruling back."""
    return edit(P.evened.rulings, _others(ask, ruling))


def _others(ask: Evened, ruling: Ruled) -> tuple[Ruled, ...]:
    same = (ruling.where, ruling.first, ruling.last)
    return tuple(each for each in ask.rulings if (each.where, each.first, each.last) != same)


def noted(ask: Evened, ruling: Ruled, text: str) -> Edit:
    """Write the note of a ruling; one without any other effect is a plain note."""
    return with_ruling(ask, msgspec.structs.replace(ruling, note=text.strip()))


def expected(ask: Evened, ruling: Ruled, text: str) -> Edit:
    """Put an expected figure in the place of the actual.

    Raises:
        UserError: the text is no number.
    """
    value = number_of(text)
    if value is None:
        raise UserError(
            "Expected figure: “{text}” is no number here. Write one such as {fixed}.",
            text=text,
            fixed=fixed(1250.5, 1),
        )
    return with_ruling(ask, msgspec.structs.replace(ruling, act="expected", value=value))
