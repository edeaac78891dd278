"""What is made of a spread, as its words and sheet take it."""

from __future__ import annotations

from dataclasses import dataclass

from oat_tide.core.working.terms import Term


@dataclass(frozen=True, eq=False, slots=True)
class Parted:
    """A total in parts.

    Attributes:
        raw: what periods weigh, below zero too.
        spread: what each gets.
        total: what is spread.
        left: what is left of it beside what is locked.
    """

    raw: Term
    spread: Term
    total: Term
    left: Term


@dataclass(frozen=True, eq=False, slots=True)
class Going:
    """How far it has come: sold so far, still to go, and the rate needed; None where no period is left."""

    sold: Term
    to_go: Term
    rate_needed: Term | None


@dataclass(frozen=True, eq=False, slots=True)
class Beside:
    """What a spread is held against.

    Attributes:
        baseline: what has sold, and then what is projected.
        gap: the total less that, in %; None where nothing is spread.
        going: None where nothing is spread, or nothing of it has begun.
    """

    baseline: Term
    gap: Term | None = None
    going: Going | None = None
