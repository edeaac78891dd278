"""Like weekdays: the last Tuesdays, say, each against the one 52 weeks earlier."""

from __future__ import annotations

from typing import Any

import numpy as np

from oat_tide.core.comparison.change import share
from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import MONTHS, WEEKDAYS, date_of, day_number
from oat_tide.core.series.panel import Panel, Sight
from oat_tide.core.working.numerals import compact
from oat_tide.core.working.tree import Given, Op
from oat_tide.plan.edits import P
from oat_tide.plan.parts.history import History
from oat_tide.stages.common import as_known_now, named
from oat_tide.stages.deck import Axis, Band, Curve, Deck, Fact, Knob, Note, knob
from oat_tide.stages.deck.draft import Draft, cell
from oat_tide.stages.history.years import NAME, whole


def same_weekday(sight: Sight, ask: History, lines: Deck, leaves: Panel, reading: Any, ways: Knob) -> Deck:
    """The last like weekdays up to the as-of day or a day picked, each against 52 weeks earlier."""
    past = sight.past
    last = past.first + past.columns - 1
    day = min(day_number(ask.weekday), last) if ask.weekday else last
    days = np.array([day - 7 * back for back in range(ask.likes - 1, -1, -1)])
    columns = days - past.first
    values = whole(sight)

    def at(which: Any) -> Values:
        there = (which >= 0) & (which < past.columns)
        return np.where(there, values[:, np.clip(which, 0, max(past.columns - 1, 0))], np.nan)

    full = [f"{WEEKDAYS[(d_ + 3) % 7][:3]} {past.grid.label(int(d_))}" for d_ in days.tolist()]
    short = [f"{date_of(int(d_)).day} {MONTHS[date_of(int(d_)).month - 1]}" for d_ in days.tolist()]
    d = Draft.of_axis(NAME, sight, Axis(tuple(short), tuple(short), tuple(full)))
    unit = lines.figures["actual"].unit
    name = WEEKDAYS[(day + 3) % 7]
    unknown = lambda s, c: "The day is not known, or lies before the data."  # noqa: E731
    d.add(
        "own",
        f"{name}s",
        at(columns),
        lambda s, c: cell(lines, "actual", s, int(columns[c])),
        unit=unit,
        why_blank=unknown,
    )
    d.add(
        "before",
        "52 weeks earlier",
        at(columns - 364),
        lambda s, c: cell(lines, "actual", s, int(columns[c]) - 364),
        unit=unit,
        why_blank=unknown,
    )
    own, before = d.figures["own"].values, d.figures["before"].values
    d.add(
        "difference",
        "Difference",
        own - before,
        lambda s, c: Op("-", (d.cell("own", s, c), d.cell("before", s, c))),
        unit=unit,
        signed=True,
        why_blank=unknown,
    )
    d.add(
        "difference_share",
        "% of 52 weeks earlier",
        share(own - before, before),
        lambda s, c: Op("/", (Op("*", (Given(100.0), d.cell("difference", s, c))), d.cell("before", s, c))),
        unit="%",
        signed=True,
        why_blank=lambda s, c: "One of the two days is not known, or nothing sold 52 weeks earlier.",
    )
    known = ~np.isnan(own)
    with np.errstate(invalid="ignore", divide="ignore"):
        mean = np.where(known.any(1), np.nansum(own, axis=1) / known.sum(1), np.nan)[:, None]
    d.add(
        "mean",
        f"mean of the {name}s",
        mean,
        lambda s, c: Op("mean", tuple(d.cell("own", s, at_) for at_ in np.flatnonzero(known[s]).tolist())),
        fact=True,
        unit=unit,
    )
    return d.deck(
        bands=(
            Band(
                unit,
                (Curve("before", "average", label="52 weeks earlier"), Curve("own", "actual", label=name)),
            ),
        ),
        sheet=lambda: (
            knob(P.history.likes, ask, slides_to=max(60, ask.likes)),
            knob(P.history.weekday, ask, lo=past.first, hi=last),
            Note(lambda s: f"The last {ask.likes} {name}s", "head"),
            Fact("mean"),
        ),
        ways=ways,
        title=lambda s: f"{named(d.keys[s])}, the last {ask.likes} {name}s",
        subtitle=lambda s: f"{unit} a day · up to {past.grid.label(day)}{as_known_now(sight)}",
        finding=lambda s: (
            f"{ask.likes} {name}s\nmean {compact(float(mean[s, 0]))}"
            if mean[s, 0] == mean[s, 0]
            else f"no {name}\nis known"
        ),
    )
