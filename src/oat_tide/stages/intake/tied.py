"""What the tie-out comes to, in words: what ties, what is in no series, and the source's own totals."""

from __future__ import annotations

from collections.abc import Iterator
from decimal import Decimal

from oat_tide.core.series.reading import Figures, OwnTotal, Reading
from oat_tide.core.series.tie_out import TieOut
from oat_tide.core.working.number_format import full
from oat_tide.stages.common import counted, listed
from oat_tide.stages.deck import Item, Note

MOST_NAMED = 3


def outcome(reading: Reading, tie: TieOut) -> str:
    """The end of the title: whether all ties, and what is in no series, each column with its sum."""
    if not tie.ties:
        return ", and do not tie"
    if asked := reading.figures_in("asked"):
        return f"; not settled: {_with_sums(asked)}"
    parts = ["; the decimal mark is not settled" if reading.mark.asks else ", and tie"]
    if in_none := reading.figures_in("no series"):
        parts.append(f"in no series: {_with_sums(in_none)}")
    parts += [f"the file's own total is {_off(each)}" for each in reading.own_totals if each.more][:1]
    return "; ".join(parts)


def _with_sums(columns: tuple[Figures, ...]) -> str:
    return listed([f"{each.name} {money(each.amount)}" for each in columns], MOST_NAMED)


def _off(total: OwnTotal) -> str:
    return f"{money(abs(total.more))} {'more' if total.more > 0 else 'less'}"


def money(amount: Decimal) -> str:
    """An exact sum as it is written."""
    return full(float(amount))


def own_totals(reading: Reading) -> Iterator[Item]:
    """The totals that the source holds itself, against the series."""
    agreeing = [each for each in reading.own_totals if not each.more]
    for each in reading.own_totals:
        if each.more:
            at = f", first in row {each.row:,}" if each.row else ""
            yield Note(
                f"The file's own total, {each.name}{at}, is {_off(each)} than the series hold: "
                f"{money(each.amount)} against {money(each.against)}.",
                "small",
            )
    if agreeing:
        names = listed([each.name for each in agreeing], MOST_NAMED)
        count = sum(each.cells for each in agreeing)
        yield Note(
            f"The file's own totals agree with the series: {names} ({counted(count, 'figure')}).", "small"
        )
