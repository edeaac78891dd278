"""Budgets and other scenarios beside the history: as rows, as curves, and the actual against them."""

from __future__ import annotations

from functools import partial

import numpy as np

from oat_tide.core.language import phrase
from oat_tide.core.working.formula import percent
from oat_tide.core.working.terms import Term
from oat_tide.stages.deck import Curve, Deck
from oat_tide.stages.deck.draft import Draft
from oat_tide.stages.published import actuals_of


def borrow_scenarios(d: Draft, lines: Deck) -> tuple[Curve, ...]:
    """Show the scenarios in another deck; gives their curves, named where they end."""
    figures = [each.source.figure for each in actuals_of(lines).scenarios]
    for figure in figures:
        d.borrow(lines, figure.name)
    return tuple(Curve(figure.name, "scenario", label=figure.label) for figure in figures)


def against_scenarios(d: Draft, lines: Deck, held: Term) -> None:
    """Two rows a scenario: how far a row lies from it, and the row as % of it."""
    label, actuals = held.source.figure.label, actuals_of(lines)
    for scenario in actuals.scenarios:
        name, said = scenario.source.figure.name, scenario.source.figure.label
        row = partial(d.define, sees_later=True)
        why = partial(_why_not, held, scenario, said)
        less = held - scenario
        row(
            f"less_{name}",
            phrase("{label} less {said}", label=label, said=said),
            less,
            unit=actuals.unit,
            signed=True,
            adds_up=actuals.adds_up,
            blank=why,
        )
        row(f"of_{name}", phrase("% of {said}", said=said), percent(held, scenario), unit="%", blank=why)


def _why_not(held: Term, scenario: Term, said: str, series: int, column: int) -> str:
    """Why a period is not held against a scenario."""
    values = scenario.values
    if column >= values.shape[1] or np.isnan(values[series, column]):
        return phrase("There is no {said} for the period.", said=said)
    if column >= held.values.shape[1] or np.isnan(held.values[series, column]):
        return phrase("The period is part, not known, or not in the row.")
    return phrase("{said} is not above zero: a share of it means nothing.", said=said)
