"""The rows of a command, a block of series at a time, as they are made."""

from __future__ import annotations

import sys
from collections import Counter
from collections.abc import Iterator
from functools import partial
from typing import Any

import polars as pl

from oat_tide import bulk
from oat_tide.command.reported import say_of_one, warn_of_none, why_none
from oat_tide.core.language import phrase
from oat_tide.core.user_error import UserError
from oat_tide.plan.edits import put
from oat_tide.publish.record import aligned, record, schema_of
from oat_tide.session import Session
from oat_tide.stages import Stage
from oat_tide.stages.deck import Deck
from oat_tide.stages.record import Record

_MANY = 1000
"""Series from which it is said how far the work has come."""


def written(session: Session, stage: Stage, kept: Record) -> Iterator[pl.DataFrame]:
    """The rows of all that is asked for, one after another: a block of series at a time, as they are made.

    Raises:
        UserError: there is nothing to write; it says why.
    """

    # What takes all series together is no stage of blocks.
    known = None if stage.together else bulk.facts(session.plan, *session.loaded.found(session.plan))
    every = kept.each(getattr(session.plan, stage.name))
    why: list[str] = []
    runs = [_rows_of(session, known, stage, kept, ask, why, many=len(every)) for ask in every]
    # Which columns there are is told by the first rows of each.
    firsts = [(first, run) for run in runs if (first := next(run, None)) is not None]
    if not firsts:
        raise UserError(
            "{source}: there is nothing to write. {why}",
            source=session.reading.source,
            why=next(iter(why), ""),
        )
    schema = schema_of([first for first, _ in firsts])

    def blocks() -> Iterator[pl.DataFrame]:
        for place, (first, run) in enumerate(firsts):
            if len(session.panel.keys) >= _MANY and len(firsts) > 1:
                print(
                    phrase("oat-tide: {place} of {firsts} ...", place=place + 1, firsts=len(firsts)),
                    file=sys.stderr,
                )
            yield aligned(first, schema)
            for rows in run:
                yield aligned(rows, schema)

    return blocks()


def _rows_of(
    session: Session,
    known: bulk.Facts | None,
    stage: Stage,
    kept: Record,
    ask: Any,
    why: list[str],
    many: int,
) -> Iterator[pl.DataFrame]:
    """The rows of one thing that is asked for, block by block.

    Args:
        known: what is decided over all series; None of a stage that takes them together.
        why: gathers why there is none.
        many: how many things are asked for at once.
    """

    dimensions, counts, last = session.reading.dimensions, Counter[str](), None
    for deck in _decks_of(session, known, stage, ask):
        if deck.instead:
            # What was not asked for is not written under its name.
            why.append(deck.instead)
            if many > 1:
                say_of_one(kept, ask, deck, deck.instead)
            return
        found = record(deck, ask, kept, dimensions, partial(_projected_children, session))
        if found.is_empty():
            why.append(kept.why_none or why_none(deck, 0))
            continue
        warn_of_none(deck, ask, kept)
        counts, last = counts + kept.counts(ask, deck), deck
        yield found
    if last is not None and (understood := kept.echo(ask, last, counts)):
        print(phrase("oat-tide: {understood}.", understood=understood), file=sys.stderr)


def _decks_of(session: Session, known: bulk.Facts | None, stage: Stage, ask: Any) -> Iterator[Deck]:
    """The decks of a stage: of every block of series, or of all of them where it takes them together."""
    if known is None:
        session.begin(put(session.plan, (stage.name,), ask))
        yield session.deck(stage.name)
        return
    for rows in bulk.blocks(known):
        yield bulk.deck(known, rows, stage.name, ask)


def _projected_children(session: Session) -> tuple[Deck, int]:
    """The projection of the children that a total is spread over, and where their members stand in a key."""
    at = session.reading.dimensions.index(session.plan.spread.children)
    return session.deck("project", "children"), at
