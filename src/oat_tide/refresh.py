"""Sources read again: what is new and what changed, before it is taken; and first figures that are kept."""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.exact import Values, known
from oat_tide.core.language import counted, nouns, phrase
from oat_tide.core.periods.calendar import date_of
from oat_tide.core.series.coded import Key
from oat_tide.core.series.panel import INCOMPLETE, PROVISIONAL, Panel
from oat_tide.core.user_error import Progress, UserError, no_progress
from oat_tide.intake.origins.places import fetch
from oat_tide.intake.totals import evened, sales
from oat_tide.news import OUTSIDE, Change, News, listing, news
from oat_tide.plan.edits import Edit, edit, put
from oat_tide.plan.parts.evened import FirstPublished
from oat_tide.plan.parts.sources import Sources
from oat_tide.plan.paths import P
from oat_tide.session import Session
from oat_tide.stages.deck import Listing

_GESTURE = phrase("take what is new")


@dataclass(frozen=True, eq=False, slots=True)
class Again:
    """What the sources hold now.

    Attributes:
        session: on the sources as they are now.
        changes: figures that are new or other, the largest difference first.
        new: how many of them are new.
        other: how many changed.
        found: what is new of each series, the most telling first.
        edits: what takes them, as one step.
    """

    session: Session
    changes: tuple[Change, ...]
    new: int
    other: int
    found: tuple[News, ...]
    edits: tuple[Edit, ...]

    @property
    def said(self) -> str:
        """What is new, in words."""
        if not self.changes and not self.found:
            return phrase("The sources hold what the plan holds.")
        changed = phrase(
            "{other:,} {which} changed",
            other=self.other,
            which=phrase("has") if self.other == 1 else phrase("have"),
        )
        said = phrase(
            "{new} {which} new and {changed}.",
            new=counted(self.new, "figure"),
            which=phrase("is") if self.new == 1 else phrase("are"),
            changed=changed,
        )
        outside = sum(each.what == OUTSIDE for each in self.found)
        return said + (
            phrase(
                " {outside:,} lie{which} outside what was projected.",
                outside=outside,
                which="s" if outside == 1 else "",
            )
            if outside
            else ""
        )

    def listing(self) -> Listing:
        """What is new, series by series, as a list."""
        return listing(self.found, self.session, self.said)


def look_again(session: Session, progress: Progress = no_progress) -> Again:
    """Read the sources anew and hold them against what the plan stands on; nothing is changed yet.

    Raises:
        what reading raises; UserError for figures that were typed.
    """
    plan = session.plan
    if plan.sources.typed:
        raise UserError(
            "These figures were typed: there is no source to read again. Open them again by "
            "“Figures typed or pasted”."
        )
    taken = edit(P.sources.taken, plan.sources.taken + 1, _GESTURE)
    other = Session(None, put(plan, taken.path, taken.value))
    other.prepare(progress)
    changes = _changes(session.panel, other.panel)
    new = sum(not known(each.before) for each in changes)
    firsts = _firsts(session)
    edits = (taken, edit(P.evened.firsts, firsts, _GESTURE)) if firsts != plan.evened.firsts else (taken,)
    return Again(other, changes, new, len(changes) - new, news(session, other, changes), edits)


def take(session: Session, again: Again) -> None:
    """Let the session stand on what the sources hold now; one undo takes it back."""
    session.share(again.session)
    for each in again.edits:
        session.do(each)
    session.rest()


def _changes(old: Panel, new: Panel) -> tuple[Change, ...]:
    keys = sorted({*old.keys, *new.keys}, key=str)
    first = min(old.first, new.first)
    width = max(old.first + old.columns, new.first + new.columns) - first
    before, now = (_laid_out(panel, keys, first, width) for panel in (old, new))
    same = (before == now) | (np.isnan(before) & np.isnan(now))
    rows, columns = np.nonzero(~same)
    size = np.abs(np.nan_to_num(now[rows, columns]) - np.nan_to_num(before[rows, columns]))
    order = np.argsort(-size, kind="stable").tolist()
    return tuple(
        Change(keys[row], first + int(column), float(before[row, column]), float(now[row, column]))
        for row, column in ((int(rows[at]), columns[at]) for at in order)
    )


def _laid_out(panel: Panel, keys: list[Key], first: int, width: int) -> Values:
    """The values of a panel over more series and periods, NaN where it has none."""
    out = np.full((len(keys), width), np.nan)
    place = {key: row for row, key in enumerate(keys)}
    start = panel.first - first
    out[[place[key] for key in panel.keys], start : start + panel.columns] = panel.values
    return out


def _firsts(session: Session) -> tuple[FirstPublished, ...]:
    """The first figures there are, and those of periods that are provisional now."""
    kept = session.plan.evened.firsts
    panel, reading = session.panel, session.reading
    open_ = (panel.flags & PROVISIONAL > 0) & (panel.flags & INCOMPLETE == 0) & ~np.isnan(panel.values)
    return _with(kept, panel, reading.dimensions, open_, lambda last: date_of(reading.upto))


def _with(
    kept: tuple[FirstPublished, ...],
    panel: Panel,
    dimensions: tuple[str, ...],
    which: NDArray[np.bool_],
    known: Callable[[dt.date], dt.date],
) -> tuple[FirstPublished, ...]:
    """More first figures: those of the panel that are marked, and not kept yet."""
    have = {(each.where, each.first, each.last) for each in kept}
    found = list(kept)
    for row, column in zip(*np.nonzero(which), strict=True):
        period = panel.first + int(column)
        first, last = (date_of(day) for day in (panel.grid.first_day(period), panel.grid.last_day(period)))
        where = tuple((name, str(member)) for name, member in zip(dimensions, panel.keys[row], strict=True))
        if (where, first, last) not in have:
            value = float(panel.values[row, column])
            found.append(FirstPublished(where=where, first=first, last=last, value=value, known=known(last)))
    return tuple(found)


def firsts_from(session: Session, path: Path, progress: Progress = no_progress) -> Edit:
    """First figures out of a file with the columns of the source, as they were known at each period's end.

    Raises:
        UserError: the file cannot be read with the roles in use.
    """
    source = fetch(Sources(places=(str(path),)), progress)
    read = sales.read(source, session.plan.intake)
    panel = evened.panel(read, session.grid)
    whole = ~np.isnan(panel.values) & (panel.flags & INCOMPLETE == 0)

    def known(last: dt.date) -> dt.date:
        return last

    found = _with(session.plan.evened.firsts, panel, session.reading.dimensions, whole, known)
    if found == session.plan.evened.firsts:
        raise UserError(
            "{name} holds no first figures of whole {kinds} that are not known yet. Choose "
            "another file, or total by other periods.",
            name=path.name,
            kinds=nouns(session.grid.kind),
        )
    return edit(P.evened.firsts, found)
