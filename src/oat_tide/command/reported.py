"""What a command says beside its rows: what was left of a source, and why a series has none."""

from __future__ import annotations

import sys
from typing import Any

import numpy as np

from oat_tide.core.language import counted, noun, nouns, phrase
from oat_tide.core.series.reading import ABOVE, TOTAL
from oat_tide.core.working.number_format import full
from oat_tide.session import Session
from oat_tide.stages.common import listed
from oat_tide.stages.deck import Deck
from oat_tide.stages.intake.periods import gaps_of
from oat_tide.stages.record import Record


def gaps_taken(session: Session) -> str:
    """What periods without a line were taken for; empty where there are none."""
    kind = session.grid.kind
    taken = zip(gaps_of(session.panel), ("nothing sold", "not known"), strict=True)
    return "; ".join(
        phrase(
            "{many:,} series-{kind} without a line taken as {words}",
            many=many,
            kind=noun(kind) if many == 1 else nouns(kind),
            words=phrase(words),
        )
        for many, words in taken
        if many
    )


def what_else_is_there(session: Session) -> str:
    """What the source holds that is no reason to refuse: columns in no series, and totals that differ."""
    reading, parts = session.reading, []
    if reading.filled:
        parts.append(phrase("blank cells of {filled} taken for the one above", filled=listed(reading.filled)))
    parts += [
        phrase("{lines} without {name} under “(blank)”", lines=counted(lines, "line"), name=name)
        for name, lines in reading.blank
    ]
    for each in reading.figures_in("no series"):
        parts.append(phrase("{name} in no series ({full})", name=each.name, full=full(float(each.amount))))
    for own in reading.own_totals:
        if own.more:
            side = phrase("more") if own.more > 0 else phrase("less")
            parts.append(
                phrase(
                    "the file's own total, {name}, is {full} {side}",
                    name=own.name,
                    full=full(float(abs(own.more))),
                    side=side,
                )
            )
    return "; ".join(parts)


def what_was_left(session: Session) -> str:
    """What was set aside of a source and what nothing settles; empty where there is nothing."""
    reading, parts = session.reading, []
    for each in reading.figures_in("asked"):
        sums = phrase("{full} in {cells}", full=full(float(each.amount)), cells=counted(each.cells, "cell"))
        parts.append(
            phrase(
                "“{name}” may be a period and is not read: {sums} are in no series", name=each.name, sums=sums
            )
        )
    # What stands above the header is a title, and no reason to refuse.
    asides = [each for each in reading.asides if each.reason not in (TOTAL, ABOVE)]
    if asides:
        reasons = ", ".join(f"{each.count:,} {each.reason}" for each in asides)
        count = sum(each.count for each in asides)
        parts.append(
            phrase(
                "{count:,} of {read:,} lines set aside ({reasons})",
                count=count,
                read=reading.read,
                reasons=reasons,
            )
        )
    if reading.totals:
        parts.append(phrase("{totals} not added", totals=counted(reading.totals, "total row")))
    if reading.beside:
        parts.append(phrase("{beside} of other scenarios not added", beside=counted(reading.beside, "line")))
    if reading.unread:
        unknown = int(((session.panel.unread > 0) & np.isnan(session.panel.values)).sum())
        parts.append(
            phrase(
                "{unknown} of series not known, for lines without a figure",
                unknown=counted(unknown, "period"),
            )
        )
    if reading.mark.asks:
        mark = reading.mark
        parts.append(
            phrase(
                "“{text}” is read as {full} and nothing in the source decides it: give --decimal "
                "point or --decimal comma",
                text=mark.text,
                full=full(mark.value),
            )
        )
    if reading.unsettled:
        parts.append(
            phrase(
                "{unsettled:,} dates could have day and month swapped; read day first",
                unsettled=reading.unsettled,
            )
        )
    return "; ".join(parts)


def why_none(deck: Deck, series: int) -> str:
    """Why a series has no row."""
    cautions = deck.cautions(series)
    return cautions[0].text if cautions else phrase("No figure of it is known.")


def warn_of_none(deck: Deck, ask: Any, kept: Record) -> None:
    """Say which series have no row, and why."""
    names = kept.kinds or kept.beside(ask).values()
    if not any(name in deck.figures for name in names):
        return
    figures = [deck.figures[name] for name in names if name in deck.figures]
    there = [~np.isnan(figure.values).all(axis=1) for figure in figures]
    for series in np.flatnonzero(~np.any(there, axis=0)).tolist():
        named = ", ".join(str(member) for member in deck.keys[series]) or phrase("the series")
        say_of_one(kept, ask, deck, f"{named}: {why_none(deck, series)}")


def say_of_one(kept: Record, ask: Any, deck: Deck, text: str) -> None:
    """Say something of one thing that is asked for, named where several are asked for at once."""
    said = "".join(f"{words}: " for words in kept.said(ask, deck.grid).values())
    print(phrase("oat-tide: {said}{text}", said=said, text=text), file=sys.stderr)
