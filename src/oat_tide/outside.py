"""What is taken into a plan from outside: levels of members, days closed or without stock."""

from __future__ import annotations

import re
from pathlib import Path

from msgspec.structs import replace

from oat_tide.core.language import phrase
from oat_tide.core.periods.calendar import spoken
from oat_tide.core.user_error import Progress, UserError
from oat_tide.plan.edits import Edit, edit
from oat_tide.plan.parts.evened import Ruled, RulingKind
from oat_tide.plan.paths import P
from oat_tide.session import Session

_DAYS = re.compile(r"^\s*(\d{4}[-\dQW]*)\s*(?:(?:–|to|\.\.| - )\s*(\d{4}[-\dQW]*))?\s*[,;:]?\s*(.*)$")


def levels(session: Session, path: Path, progress: Progress) -> Edit:
    """The edit that puts members into groups as a file tells, such as products into families.

    Raises:
        UserError: no column of it holds the members of a dimension.
    """
    from oat_tide.intake.meaning.keys import levels_from

    reading, ask = session.reading, session.plan.intake
    own = {level.name for level in ask.levels}
    troubles: list[UserError] = []
    for dimension, members in zip(reading.dimensions, reading.members, strict=True):
        if dimension in own:
            continue
        try:
            found = levels_from(path, dimension, members)
        except UserError as error:
            troubles.append(error)
            continue
        names = {level.name for level in found}
        kept = tuple(level for level in ask.levels if level.name not in names)
        by = (*ask.by, *(level.name for level in found if level.name not in ask.by))
        return edit(P.intake, replace(ask, levels=(*kept, *found), by=by))
    raise troubles[0] if troubles else UserError("Choose columns under “Series by” first.")


def days_of(session: Session, path: Path, progress: Progress) -> Edit:
    """The edit that rules the days of a file closed. Raises UserError, which names the row."""
    return days(session, "closed", path.read_text(encoding="utf-8", errors="replace"), path.name)


def days(session: Session, act: RulingKind, text: str, file: str = "") -> Edit:
    """The edit that rules the days of a text, for the series in sight: a stretch a line, with a note.

    Args:
        file: where the text is from; its first row may be a heading.

    Raises:
        UserError: a line is no stretch of days; its message names the line.
    """
    found = list(session.plan.evened.rulings)
    for row, line in enumerate(text.splitlines(), 1):
        if not line.strip():
            continue
        where = phrase("{file}, row {row}", file=file, row=row) if file else phrase("Line {row}", row=row)
        match = _DAYS.match(line)
        try:
            if not match:
                raise ValueError(f"“{line.strip()[:40]}” does not begin with a date")
            first = spoken(match[1].strip("-"))[0]
            last = spoken((match[2] or match[1]).strip("-"))[1]
            if last < first:
                raise ValueError("the last day lies before the first")
        except ValueError as error:
            if file and row == 1:
                continue
            raise UserError(
                "{where}: {error}. Write it as in 2025-02-10 – 2025-02-18 storm.",
                where=where,
                error=error,
            ) from error
        found.append(Ruled(session.plan.where, first, last, act, note=match[3].strip()[:500]))
    return edit(P.evened.rulings, tuple(found))
