"""Many series, a block of them at a time: from lines to what a command writes.

What is decided over all series is decided once (`facts`): calendar, as-of, part periods, gaps, decimals, how
errors go with the lead. What is made of a block stands on that and on the series of the block alone, so that
it is the same whatever the blocks are, and memory holds one of them.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from oat_tide.core.series.panel import Panel, sight
from oat_tide.decks import Decks
from oat_tide.intake.totals import sales
from oat_tide.plan.edits import put
from oat_tide.plan.plan import Plan
from oat_tide.plan_state import PlanState, plan_state_of
from oat_tide.stages.answers import Inline
from oat_tide.stages.deck import Deck

SIZE = 2_000
"""Series in a block."""


@dataclass(frozen=True, eq=False, slots=True)
class Facts:
    """What is decided over all series.

    Attributes:
        standing: what the plan stands on, every series at hand.
        ruled: every series by period, adjusted.
    """

    standing: PlanState
    ruled: Panel

    @property
    def many(self) -> int:
        """How many series there are."""
        return len(self.ruled.keys)


def facts(plan: Plan, read: sales.Sales, panel: Panel) -> Facts:
    """Decide over all series what a plan asks for.

    Args:
        read: the lines understood.
        panel: every series by period.
    """
    standing = plan_state_of(plan, read, panel, every=True)
    return Facts(standing, standing.leaves)


def blocks(known: Facts, size: int = SIZE) -> Iterator[slice]:
    """The rows of each block in turn."""
    for start in range(0, max(known.many, 1), size):
        yield slice(start, min(start + size, known.many))


def deck(known: Facts, rows: slice, stage: str, ask: object) -> Deck:
    """The deck of a stage for a block of series.

    Args:
        ask: the part of the plan that the stage goes by.

    Raises:
        UserError: it cannot be made.
    """
    own = sight(known.ruled.block(rows.start, rows.stop), known.standing.as_of, known.standing.home)
    plan = put(known.standing.plan, (stage,), ask)
    return Decks(Inline()).deck(replace(known.standing, plan=plan, sight=own), stage)
