"""The row of a window: what is taken of the periods that it takes in."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import counted, phrase
from oat_tide.core.smoothing import running
from oat_tide.core.smoothing.windows import Holds, Mask, Window, holds
from oat_tide.core.working.formula import Formula, highest, lowest, mean, median, total
from oat_tide.core.working.terms import Between, Over, Term, known, trimmed
from oat_tide.core.working.terms import weighted_mean as weighted_formula
from oat_tide.plan.parts.smooth import Smoother
from oat_tide.stages.deck.called import Remark, WhyBlank
from oat_tide.stages.reach import Reach, weights_of

_GATHER: dict[str, Callable[..., Formula]] = {
    "mean": mean,
    "median": median,
    "total": total,
    "lowest": lowest,
    "highest": highest,
}


def formula(ask: Smoother, reach: Reach, actual: Term, columns: int, on: int = 0) -> Formula:
    """What a window gives, as a formula; over two windows their mean.

    Args:
        columns: of the deck.
        on: how many columns later it stands: 1 for what is forecast of it.
    """
    parts = []
    for place, window in enumerate(reach.windows):
        if ask.kind == "weighted":
            ahead = reach.offsets[place][1] - on
            parts.append(weighted_formula(actual, weights_of(ask), ahead, _lenient(ask)))
            continue
        inside = known(_stretch(reach, place, window, actual, columns, on))
        parts.append(mean(trimmed(inside, ask.trim)) if ask.kind == "trimmed" else _GATHER[ask.kind](inside))
    return parts[0] if len(parts) == 1 else (parts[0] + parts[1]) / 2


def _lenient(ask: Smoother) -> bool:
    """Whether a window that lacks something is taken of what there is."""
    return ask.gaps == "skip" or ask.ends == "short"


def _stretch(reach: Reach, place: int, window: Window, actual: Term, columns: int, on: int) -> Over | Between:
    if reach.offsets:
        first, last = reach.offsets[place]
        return actual.over(first - on, last - on)
    # What has no window has an empty one.
    later = np.full((1, columns), 0), np.full((1, columns), -1)
    for out, ends in zip(later, (window.first, window.last), strict=True):
        out[0, on : len(ends) + on] = ends[: columns - on]
    return actual.between(*later)


def kernel(ask: Smoother, reach: Reach, values: Values, scale: float) -> Callable[[], Values]:
    """What gives the values of a window, over what is known in it.

    Args:
        values: (series, past columns).
        scale: minor units in one unit.
    """

    def over(window: Window) -> Values:
        return running.taken(_taken(ask), values, window, weights_of(ask), ask.trim, _lenient(ask), scale)

    def compute() -> Values:
        parts = [over(window) for window in reach.windows]
        return parts[0] if len(parts) == 1 else (parts[0] + parts[1]) / 2

    return compute


def _taken(ask: Smoother) -> running.Taken:
    return ask.kind  # type: ignore[return-value]


def where(ask: Smoother, reach: Reach, held: tuple[Holds, ...]) -> Mask:
    """(series, past columns) the windows that have a figure, by what is asked of ends and gaps."""
    short, skips = ask.ends == "short", ask.gaps == "skip"
    masks = [running.has_figure(each, _taken(ask), ask.trim, short, skips) for each in held]
    mask: Mask = np.logical_and.reduce(masks)
    return mask


def holds_of(reach: Reach, values: Values) -> tuple[Holds, ...]:
    """What the windows hold."""
    return tuple(holds(values, window) for window in reach.windows)


def why_blank(ask: Smoother, reach: Reach, held: tuple[Holds, ...], kind: str, ends_at: int) -> WhyBlank:
    """The reason for a blank cell.

    Args:
        kind: of the periods.
        ends_at: the columns of the past.
    """

    def reason(series: int, column: int) -> str:
        if column >= ends_at:
            return phrase("After the as-of.")
        if any(window.last[column] >= ends_at for window in reach.windows) and ask.ends == "blank":
            return phrase("The window reaches beyond the as-of.")
        if not all(each.full[series, column] for each in held) and ask.ends == "blank":
            return phrase(
                "The window of {lengths} is not full yet.",
                lengths=counted(int(reach.windows[0].lengths[column]), kind),
            )
        if any(each.gaps[series, column] for each in held) and ask.gaps == "blank":
            return phrase("The window holds a period that is part, not known or left out.")
        if ask.kind == "trimmed":
            return phrase("Nothing is left without the {trim} lowest and the {trim} highest.", trim=ask.trim)
        return phrase("The window holds no period that is known.")

    return reason


def short_windows(ask: Smoother, reach: Reach, held: tuple[Holds, ...], kind: str) -> Remark:
    """What is to be said of a window that is not full, or that goes without a period."""

    def remark(series: int, column: int) -> str:
        if column >= held[0].full.shape[1]:
            return ""
        each, window = held[0], reach.windows[0]
        count, size = int(each.known[series, column]), int(window.lengths[column])
        if count == size or not count:
            return ""
        of = phrase("{count} of {size}", count=count, size=counted(size, kind))
        if each.gaps[series, column]:
            return phrase("A period in it is not known: it is taken of {of}.", of=of)
        return phrase("The window is not full: it is taken of {of}.", of=of)

    return remark
