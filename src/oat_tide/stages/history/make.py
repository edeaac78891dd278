"""History: what happened? Each question of change over time has its arrangement of the same deck."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial

from oat_tide.core.language import noun, phrase
from oat_tide.core.series.panel import Panel, Sight
from oat_tide.core.series.reading import Reading
from oat_tide.plan.parts.history import History
from oat_tide.plan.paths import P
from oat_tide.stages.common import named, titled
from oat_tide.stages.deck import Deck, LateWork, control
from oat_tide.stages.history import earlier, sequence, shares, sums, usual, weekday, years
from oat_tide.stages.history.context import HistoryContext
from oat_tide.stages.needs import LEAVES, READING, need

Make = Callable[[HistoryContext], Deck]
ARRANGEMENTS: dict[str, tuple[str, Make]] = {
    "sequence": (phrase("In sequence"), sequence.make),
    "overlaid": (phrase("Years overlaid"), years.overlaid),
    "running": (phrase("Running total"), sums.running_total),
    "trailing": (phrase("Trailing"), sums.trailing),
    "earlier": (phrase("Earlier years"), earlier.earlier),
    "usual": (phrase("Average"), usual.on_usual),
    "weekday": (phrase("Same weekday"), weekday.same_weekday),
    "shares": (phrase("Shares"), shares.shares),
}


@dataclass(frozen=True, eq=False, slots=True)
class Needs:
    """What the stage stands on."""

    lines: Deck = need("lines")
    leaves: Panel = need(LEAVES)
    reading: Reading = need(READING)


def make(sight: Sight, ask: History, needs: Needs, late: LateWork) -> Deck:
    """The deck of History in the arrangement asked for, or in sequence where that makes no sense."""
    lines, leaves, reading = needs.lines, needs.leaves, needs.reading
    reasons = why_not(sight, reading.dimensions, leaves)
    # Before the first period there is nothing to arrange.
    fits = sight.past.columns and not reasons[ask.arrangement]
    chosen = ask.arrangement if fits else "sequence"
    arrangements = control(
        P.history.arrangement,
        ask,
        now=chosen,
        choices=tuple(ARRANGEMENTS),
        names=tuple(title for title, _ in ARRANGEMENTS.values()),
        why_nots=tuple(reasons[name] for name in ARRANGEMENTS),
    )
    deck = ARRANGEMENTS[chosen][1](HistoryContext(sight, ask, lines, leaves, reading, arrangements, late))
    return replace(deck, title=partial(_title, deck), subtitle=partial(_subtitle, deck))


def _title(deck: Deck, series: int) -> str:
    """What the arrangement finds, of which series."""
    found = " ".join(deck.finding(series).splitlines())
    return phrase("{name}: {found}", name=named(deck.keys[series]), found=found)


def _subtitle(deck: Deck, series: int) -> str:
    """How the past is arranged, and what its figures are."""
    return f"{titled(deck.title(series))} · {deck.subtitle(series)}"


def why_not(sight: Sight, dimensions: tuple[str, ...], leaves: Panel) -> dict[str, str]:
    """Why an arrangement makes no sense with the present periods and series; empty where it does."""
    kind = sight.past.grid.kind
    reasons = dict.fromkeys(ARRANGEMENTS, "")
    if kind == "year":
        one = phrase("A year is one period: there are no periods of it to lay over each other.")
        reasons |= {"overlaid": one, "earlier": one}
        reasons["usual"] = phrase(
            "The average year is the mean of all years: with yearly periods every year would be "
            "compared with the same figure."
        )
    if kind == "block":
        none = phrase("Blocks of days have no place in the year.")
        reasons |= {"overlaid": none, "earlier": none, "usual": none}
    if sight.past.totalled != "sum":
        none = phrase("These figures are not added up: a sum over periods or parts would mean nothing.")
        reasons |= dict.fromkeys(("overlaid", "running", "trailing", "earlier", "shares"), none)
    if kind != "day":
        reasons["weekday"] = phrase("A {kind} has no weekday. Choose Day.", kind=noun(kind))
    open_ = [i for i, member in enumerate(sight.past.keys[0]) if member is None] if dimensions else []
    if not reasons["shares"] and (len(sight.past.keys) != 1 or not open_):
        reasons["shares"] = phrase("The series in sight has no parts: it is narrowed in every dimension.")
    return reasons
