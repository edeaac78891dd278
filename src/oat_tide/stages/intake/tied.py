"""What the tie-out comes to, in words: what ties, what is in no series, and the source's own totals."""

from __future__ import annotations

from collections.abc import Iterator
from decimal import Decimal

from oat_tide.core.language import counted, phrase
from oat_tide.core.series.reading import Figures, OwnTotal, Reading
from oat_tide.core.series.tie_out import TieOut
from oat_tide.core.working.number_format import full
from oat_tide.stages.common import listed
from oat_tide.stages.deck import Item, Note

MOST_NAMED = 3


def outcome(reading: Reading, tie: TieOut) -> str:
    """The end of the title: whether all ties, and what is in no series, each column with its sum."""
    if not tie.ties:
        return phrase(", and do not tie")
    if asked := reading.figures_in("asked"):
        return phrase("; not settled: {with_sums}", with_sums=_with_sums(asked))
    parts = [phrase("; the decimal mark is not settled") if reading.mark.asks else phrase(", and tie")]
    if in_none := reading.figures_in("no series"):
        parts.append(phrase("in no series: {with_sums}", with_sums=_with_sums(in_none)))
    parts += [
        phrase("the file's own total is {off}", off=_off(each)) for each in reading.own_totals if each.more
    ][:1]
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
            at = phrase(", first in row {row:,}", row=each.row) if each.row else ""
            yield Note(
                phrase(
                    "The file's own total, {name}{at}, is {off} than the series hold: {money} against "
                    "{against}.",
                    name=each.name,
                    at=at,
                    off=_off(each),
                    money=money(each.amount),
                    against=money(each.against),
                ),
                "small",
            )
    if agreeing:
        names = listed([each.name for each in agreeing], MOST_NAMED)
        count = sum(each.cells for each in agreeing)
        yield Note(
            phrase(
                "The file's own totals agree with the series: {names} ({count}).",
                names=names,
                count=counted(count, "figure"),
            ),
            "small",
        )
