"""Spread as a command."""

from __future__ import annotations

from msgspec.structs import replace

from oat_tide.core.language import noun, phrase
from oat_tide.core.periods.calendar import Grid, day_number
from oat_tide.core.user_error import UserError
from oat_tide.plan.parts.spread import Spread
from oat_tide.plan.plan import Plan
from oat_tide.stages.record import Record
from oat_tide.stages.spread.stretch import stretch

_ONE = "asked.0."
_AS = {
    "day": phrase("a day as in 2027-01-31"),
    "week": phrase("a week as in 2027-W09"),
    "month": phrase("a month as in 2027-01"),
    "quarter": phrase("a quarter as in 2027Q1"),
    "year": phrase("a year as in 2027"),
    "block": phrase("the first day of a block"),
}
"""How a period is written."""
RECORD = Record(
    beside=lambda ask: {
        "spread": "spread", "fixed": "locked", "last_year": "last_year", "baseline": "baseline",
    },
    main="spread",
)  # fmt: skip


def alone(plan: Plan, given: frozenset[str]) -> Spread:
    """One total, that of the plan in sight or the one given; a pack that is given has packs spread."""
    ask = plan.spread
    kept = ask.asked_of(plan.where)
    if _ONE + "total" not in given and not kept.total:
        raise UserError("--total: give what is to be spread, as in --total 148000.")
    rounded = "packs" if "pack" in given else ask.rounded
    return replace(ask, asked=(kept,), rounded=rounded)


def misfit(ask: Spread, grid: Grid) -> tuple[str, str] | None:
    """A total, stretch or lock that is none."""
    (one,) = ask.asked[:1]
    if not one.total > 0:
        return _ONE + "total", phrase("only a total above zero can be spread.")
    try:
        stretch(one.over, grid, grid.period(0))
    except UserError as error:
        if "years ahead" not in str(error):
            return _ONE + "over", str(error)
    for lock in one.locks:
        first = grid.period(day_number(lock.first))
        if (grid.first_day(first), grid.last_day(first)) != (day_number(lock.first), day_number(lock.last)):
            return (
                _ONE + "locks",
                phrase(
                    "no {kind} begins on {first} and ends on {last}. Write {value}.",
                    kind=noun(grid.kind),
                    first=lock.first,
                    last=lock.last,
                    value=_AS[grid.kind],
                ),
            )
    return None


def prepared(plan: Plan, grid: Grid, home: int) -> Plan:
    """The stretch in sight, and a projection that reaches to its end."""
    (one,) = plan.spread.asked[:1]
    _, last = stretch(one.over, grid, home)
    decimals = abs(one.total - round(one.total)) > 1e-9 or any(
        abs(each.figure - round(each.figure)) > 1e-9 for each in one.locks
    )
    rounded = "decimals" if decimals and plan.spread.rounded == "whole" else plan.spread.rounded
    return replace(
        plan,
        spread=replace(plan.spread, over=one.over, rounded=rounded),
        project=replace(plan.project, horizon=max(last - home, 1)),
    )
