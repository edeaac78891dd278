"""Lists of what was done to a plan, and of what differs between two of them."""

from __future__ import annotations

from collections.abc import Sequence

from oat_tide.core.language import counted, phrase
from oat_tide.plan.differences import differences, remade
from oat_tide.plan.edits import name_of
from oat_tide.plan.log import Entry
from oat_tide.plan.plan import Plan
from oat_tide.plan.undo import said_at
from oat_tide.stages.deck import Column, Listing, in_memory
from oat_tide.system.clock import local_time

LOG = phrase("Log")
"""What the list of what was done is called."""
_STEPS = {"did": "done", "took back": "undone", "made again": "redone"}
"""What became of a step, by how the log of a plan has it."""


def logged(entries: Sequence[Entry], tab: str = LOG, note: str = "") -> Listing:
    """What was done, the latest first; it can be searched and sorted."""
    columns = (
        Column("when"),
        Column("who"),
        Column("what"),
        Column("step", choices=tuple(_STEPS.values())),
        Column("reason"),
    )
    rows = [
        (local_time(each.at), each.who or "–", each.what, _STEPS[each.act], each.reason)
        for each in reversed(entries)
    ]
    return in_memory(
        phrase("What was done: {rows}", rows=counted(len(rows), "step")), columns, rows, note=note, tab=tab
    )


def differing(one: Plan, other: Plan, called: str, other_called: str) -> Listing:
    """What differs between two plans, a row a setting."""
    rows, plan = [], one
    for edit in differences(one, other):
        new = remade(plan, (edit,))
        if edit.act == "put":
            rows.append((name_of(edit, plan), said_at(plan, edit.path), said_at(new, edit.path)))
        else:
            rows.append((name_of(edit, plan), *(("–", "there") if edit.act == "add" else ("there", "–"))))
        plan = new
    title = phrase("What differs: {rows}", rows=counted(len(rows), "setting"))
    return in_memory(
        title, (Column("setting"), Column(called), Column(other_called)), rows, tab=phrase("What differs")
    )
