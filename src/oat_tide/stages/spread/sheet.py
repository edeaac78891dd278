"""The side sheet of a spread."""

from __future__ import annotations

from functools import partial

import numpy as np
from msgspec.structs import replace

from oat_tide.core.language import noun, phrase
from oat_tide.core.periods.calendar import date_of
from oat_tide.core.working.number_format import full
from oat_tide.plan.edits import Edit, edit, remove
from oat_tide.plan.parts.spread import SavedSpread
from oat_tide.plan.paths import P
from oat_tide.stages.common import where_of
from oat_tide.stages.deck import Button, Choice, Entry, Item, Note, control
from oat_tide.stages.spread import words
from oat_tide.stages.spread.children import Children, open_dimensions
from oat_tide.stages.spread.ground import Ground, Outcome
from oat_tide.stages.spread.made import Beside, Going, Parted
from oat_tide.stages.spread.stretch import offered
from oat_tide.stages.spread.weights import NAMES, no_index, no_last_year
from oat_tide.stages.spread.written import kept_as, over_written, sold_locked, total_written, unlocked

_FACTS = (
    "locked_total",
    "left",
    "last_total",
    "on_last_total",
    "baseline_total",
    "gap_total",
    "gap_total_share",
)
_GOING = "sold", "to_go", "rate_sold", "rate_needed"


def sheet(
    g: Ground, outcome: Outcome, parted: Parted | None, beside: Beside, children: Children | None
) -> tuple[Item, ...]:
    """What is spread, by what, against what; what is locked, the children, and what is kept."""
    ask, asked = g.ask, g.asked[0]
    written, names = offered(g.grid, g.d.first + g.sight.home, ask.over)
    now = full(asked.total) if asked.total else ""
    return (
        Note(phrase("What is spread"), "head"),
        Choice(
            phrase("A total of {unit} over {over}", unit=g.unit, over=g.over),
            "",
            (),
            (Entry(phrase("Total"), now, partial(total_written, g, 0)),),
        ),
        control(P.spread.over, ask, kind="pick", choices=written, names=names),
        Choice(phrase("Other period"), entries=(Entry("2027-03..2027-08", "", partial(over_written, g)),)),
        *_how(g, parted),
        Note("", "cautions"),
        Note(phrase("Against the projection"), "head"),
        Note(partial(words.asks_for, g, outcome, beside)),
        *g.d.facts(*_FACTS, known=True),
        *_going(g, beside.going),
        *_children(g, children is None and outcome.parts[0] is not None),
        *_kept(g, outcome, children),
    )


def _how(g: Ground, parted: Parted | None) -> list[Item]:
    """Return the controls of how it is spread, and of the packs that figures come in."""
    ask, without = g.ask, no_index(g)
    items: list[Item] = [
        control(
            P.spread.by, ask, names=tuple(NAMES.values()), why_nots=(without, without, no_last_year(g), "")
        ),
        control(
            P.spread.rounded, ask, names=(phrase("whole figures"), phrase("packs"), phrase("hundredths"))
        ),
    ]
    if ask.rounded == "packs":
        left = np.nan if parted is None else float(parted.left.values[0, 0])
        most = 1_000_000 if np.isnan(left) or left < 1 else int(left)
        items.append(control(P.spread.pack, ask, hi=max(most, ask.pack), slides_to=max(48, ask.pack)))
        free = [place for place in range(g.first, g.last + 1) if np.isnan(g.locked[0, place])]
        days = tuple(date_of(g.grid.first_day(g.d.first + place)) for place in free)
        items.append(
            control(
                P.spread.rest, ask, kind="pick", now=ask.rest if ask.rest in days else None,
                choices=(None, *days), names=(phrase("the last that is free"), *map(g.label, free)),
            )
        )  # fmt: skip
    return items


def _going(g: Ground, going: Going | None) -> list[Item]:
    """What has sold of it, and what is locked."""
    lock, why_not = sold_locked(g, 0)
    items: list[Item] = [Note(phrase("Progress"), "head")]
    if going is not None and not np.isnan(going.sold.values[0, 0]):
        items += [Note(partial(words.goes, g, going)), *g.d.facts(*_GOING, known=True)]
    free = unlocked(g, 0)
    return [
        *items,
        Button(phrase("Fix what has sold"), lock, why_not),
        Button(phrase("Free all"), free, "" if free else phrase("Nothing is fixed.")),
        Note(
            phrase(
                "Write a figure into a {kind} of “Fixed at” to fix it; Delete frees it again.",
                kind=noun(g.grid.kind),
            ),
            "small",
        ),
    ]


def _children(g: Ground, waits: bool) -> list[Item]:
    """How far down it goes; that their parts are still reckoned where they are waited for."""
    names, ask = open_dimensions(g), g.ask
    if not names:
        return []
    now = ask.children if ask.children in names else ""
    items: list[Item] = [
        Note(phrase("Detail"), "head"),
        control(
            P.spread.children, ask, kind="pick", now=now, choices=("", *names), names=(phrase("none"), *names)
        ),
    ]  # fmt: skip
    if now:
        items.append(
            control(
                P.spread.child_by, ask, names=(phrase("share of last year"), phrase("share and own season"))
            )
        )
        if waits:
            items.append(Note(phrase("The figures of the detail are being computed.")))
    return items


def _kept(g: Ground, outcome: Outcome, children: Children | None) -> list[Item]:
    """Spreads under their names, and a line to keep this one."""
    ask = g.ask
    members = () if children is None or children.why else children.down.members
    parts = np.zeros((0, 0)) if not members or children is None else children.down.parts
    items: list[Item] = [
        Note(phrase("Kept"), "head"),
        Choice(
            phrase("Keep this spread"),
            "",
            (),
            (Entry(phrase("A name"), "", partial(kept_as, g, outcome, members, parts)),),
        ),
    ]
    for place, each in enumerate(ask.kept):
        where = ", ".join(member for _, member in each.asked.where) or phrase("All")
        said = phrase(
            "{name}: {where}, {full} over {figures} {kind}s",
            name=each.name,
            where=where,
            full=full(round(sum(each.figures), 6)),
            figures=len(each.figures),
            kind=each.kind,
        )
        outcomes = (
            (phrase("Take up again"), _taken_up(g, each)),
            (phrase("Take out"), remove(P.spread.kept[place])),
        )
        items.append(Choice(said, "ruled", outcomes))
    return items


def _taken_up(g: Ground, kept: SavedSpread) -> Edit | None:
    """What was asked of it asked again; None where it is what is in sight."""
    ask = replace(g.ask, over=kept.asked.over, by=kept.by)
    again = replace(ask, asked=ask.with_asked(kept.asked))
    mine = dict(where_of(g.dimensions, g.d.keys[0]))
    return None if again == g.ask or dict(kept.asked.where) != mine else edit(P.spread, again)
