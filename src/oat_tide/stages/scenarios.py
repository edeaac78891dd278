"""Budgets and other scenarios beside the history: as rows, as curves, and the actual against them."""

from __future__ import annotations

from functools import partial

import numpy as np

from oat_tide.core.working.formula import percent
from oat_tide.core.working.terms import Term
from oat_tide.stages.deck import Curve, Deck
from oat_tide.stages.deck.draft import Draft, of

_MOST = 3
"""Scenarios that are shown; more would hide the history."""


def scenarios(lines: Deck) -> tuple[str, ...]:
    """The figures of the lines that are other scenarios of the measure that makes the history."""
    unit = lines.figures["actual"].unit
    beside = (name for name in lines.figures if name.startswith("beside_"))
    return tuple(name for name in beside if lines.figures[name].unit == unit)[:_MOST]


def borrow_scenarios(d: Draft, lines: Deck) -> tuple[Curve, ...]:
    """Show the scenarios in another deck; gives their curves, named where they end."""
    names = scenarios(lines)
    for name in names:
        d.borrow(lines, name)
    return tuple(Curve(name, "scenario", label=lines.figures[name].label) for name in names)


def against_scenarios(d: Draft, lines: Deck, held: Term) -> None:
    """Two rows a scenario: how far a row lies from it, and the row as % of it."""
    label = held.source.figure.label
    for name in scenarios(lines):
        scenario, said = of(lines, name), lines.figures[name].label
        row = partial(d.define, sees_later=True)
        why = partial(_why_not, held, scenario, said)
        less = held - scenario
        row(f"less_{name}", f"{label} less {said}", less, unit=d.figures["actual"].unit, signed=True,
            adds_up=d.figures["actual"].adds_up, blank=why)  # fmt: skip
        row(f"of_{name}", f"% of {said}", percent(held, scenario), unit="%", blank=why)


def _why_not(held: Term, scenario: Term, said: str, series: int, column: int) -> str:
    """Why a period is not held against a scenario."""
    values = scenario.values
    if column >= values.shape[1] or np.isnan(values[series, column]):
        return f"There is no {said} for the period."
    if column >= held.values.shape[1] or np.isnan(held.values[series, column]):
        return "The period is part, not known, or not in the row."
    return f"{said} is not above zero: a share of it means nothing."
