"""Which window errs least: the one-step error of every length, or of every smoothing constant."""

from __future__ import annotations

import functools
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial

import numpy as np

from oat_tide.core.accuracy.errors import Measure, no_better
from oat_tide.core.exact import Values
from oat_tide.core.language import counted, noun, phrase
from oat_tide.core.periods.calendar import Days, Grid
from oat_tide.core.series.panel import Panel
from oat_tide.core.smoothing import curves, exponential
from oat_tide.core.smoothing.windows import Mask
from oat_tide.core.user_error import Progress
from oat_tide.core.working.formula import (
    Formula,
    count,
    given,
    mean,
    only,
    percent,
    size,
    sqrt,
    t_tail,
    total,
)
from oat_tide.core.working.terms import Between, Term, known, wide
from oat_tide.plan.parts.smooth import Smoother
from oat_tide.stages.by_kernel import ByKernel
from oat_tide.stages.common import year_before
from oat_tide.stages.deck import Axis
from oat_tide.stages.deck.axis import Names
from oat_tide.stages.reach import is_window, size_of, spans
from oat_tide.stages.smooth.exponential import Fitted
from oat_tide.stages.smooth.ground import Ground
from oat_tide.stages.smooth.missed import Held, Missed, Row, Stretches

ALPHAS = tuple(round(0.05 * step, 2) for step in range(1, 20))
_USUAL = {"day": 60, "week": 60, "month": 24, "quarter": 12, "year": 20}
"""Lengths that are looked at where nothing else is asked."""
_SOON = 60 * 4000
"""Lengths times periods that are reckoned within a frame."""
BETTER = 0.05
"""What less of an error counts as less; nearer is a tie (as for the choice of a method)."""
_FEWEST = 4
_CHANCE = phrase("p-value of the difference")


@dataclass(frozen=True, eq=False)
class ErrorCurve:
    """What is told of the errors by length or by constant; what is not looked at is not reckoned.

    Attributes:
        targets: how many periods every one is held against.
        axis: of the deck, by name.
        names: the figures drawn, the one that the present choice lies on last.
        steps: the length or constant of each column.
        at: the column of the present choice; below 0 where it is none of them.
        curve: gives (series, steps) the errors of that figure.
        losses: of a column, what its single errors count; None where they are not told apart.
        year: the error of the same period of the year before; None where that is not held beside it.
    """

    targets: int
    axis: str
    names: tuple[str, ...]
    steps: tuple[float, ...]
    at: int
    curve: Callable[[], Values]
    losses: Callable[[int], Values] | None
    year: Term | None = None

    @functools.cached_property
    def least(self) -> int:
        """The column with the least error, of the first series; below 0 for none."""
        row = self.curve()[0]
        return -1 if np.isnan(row).all() else int(np.nanargmin(row))

    @functools.cached_property
    def tie(self) -> bool:
        """Whether the least error is no better than the present choice."""
        if self.at < 0 or self.least in (self.at, -1):
            return False
        now, best = (float(self.curve()[0, column]) for column in (self.at, self.least))
        if self.losses is None:
            return best > (1 - BETTER) * now
        return is_tie(now, best, *(self.losses(column) for column in (self.at, self.least)))

    def chance(self) -> float:
        """The p-value of so large a difference; NaN where there is none."""
        if self.losses is None or self.at < 0 or self.least in (self.at, -1):
            return float("nan")
        return no_better(*(self.losses(column) for column in (self.at, self.least)))


def longest_of(ground: Ground, ask: Smoother) -> int:
    """The longest window whose error is looked at: as asked, else so that half of the history is left."""
    history = int((~np.isnan(ground.values)).sum(1).max(initial=0))
    if ground.ask.longest:
        return min(ground.ask.longest, max(history - _FEWEST, 0))
    usual = _USUAL.get(ground.grid.kind, 2 * ground.grid.cycle)
    own = size_of(ask) if is_window(ask) and not spans(ask, ground.grid) else 0
    return min(max(usual, own), history // 2)


@dataclass(frozen=True, eq=False)
class _Targets:
    """The periods that every length or constant is held against: (series, past columns) of `ready`."""

    ground: Ground
    ready: Mask

    @functools.cached_property
    def _sizes(self) -> Term:
        """What a WAPE is a share of."""
        d, actual = self.ground.d, self.ground.actual
        there = wide(self.ready, d.columns, False)
        return d.define(
            "target_size",
            phrase("absolute actual, where it is forecast"),
            size(actual),
            where=there,
            shown=False,
        )

    def measure(self, counts: Between | Stretches) -> Formula:
        """The measure asked for of what many errors count."""
        measure = self.ground.ask.measure
        if measure == "RMSE":
            return sqrt(mean(counts))
        if measure != "WAPE":
            return mean(counts)
        return percent(total(counts), total(known(self._sizes.between(0, self.ground.d.past - 1))))


def error_curve(ground: Ground, place: int, fitted: Fitted | None) -> ErrorCurve | None:
    """Define the figures of the inset for the smoother in hand; None where nothing can be held against."""
    ask = ground.smoother(place)
    longest = longest_of(ground, ask)
    if longest < 2:
        return None
    before = year_before(ground.grid, ground.d.first, ground.sight.columns)[: ground.d.past]
    yearly = ground.grid.kind != "year"
    ready = curves.targets(ground.values, longest, before if yearly else None)
    if yearly and ready.sum() < _FEWEST:
        yearly, ready = False, curves.targets(ground.values, longest)
    if ready.sum() < _FEWEST:
        return None
    targets = _Targets(ground, ready)
    if is_window(ask):
        told = _by_length(targets, ask, longest, yearly)
    elif fitted is not None and fitted.constants is not None:
        told = _by_constant(ground, ask, ready, fitted.constants)
    else:
        return None
    if yearly:
        return replace(told, year=_same_period(targets, before, told))
    none = given(np.full((1, 1), np.nan))
    why = phrase("The history is too short to compare it with the others.")
    ground.d.define("error_year", _said_of_year(ground), none, unit=_unit(ground), blank=why)
    return told


def _said_of_year(ground: Ground) -> str:
    return phrase(
        "{measure} of the same {kind} last year", measure=ground.ask.measure, kind=noun(ground.grid.kind)
    )


def _length_axis(longest: int, kind: str) -> Axis:
    short = tuple(str(n) for n in range(1, longest + 1))
    return Axis(short, short, tuple(counted(n, kind) for n in range(1, longest + 1)), kind)


_ALPHA_NAMES = tuple(f"{alpha:g}" for alpha in ALPHAS)
_ALPHA_AXIS = Axis(_ALPHA_NAMES, _ALPHA_NAMES, tuple(f"α {name}" for name in _ALPHA_NAMES))


def curves_of(
    panel: Panel, longest: int, measure: Measure, yearly: bool, progress: Progress
) -> tuple[Values, ...]:
    """The error curves of plain and weighted means, of every series; takes its time."""
    values = panel.judged
    before = year_before(panel.grid, panel.first, panel.columns) if yearly else None
    ready = curves.targets(values, longest, before)
    found = []
    for rising in (False, True):
        progress(0.5 * rising)
        found.append(curves.window_curve(values, ready, longest, measure, rising))
    return tuple(found)


def _by_length(targets: _Targets, ask: Smoother, longest: int, yearly: bool) -> ErrorCurve:
    ground, ready = targets.ground, targets.ready
    ground.d.lay("lengths", _length_axis(longest, ground.grid.kind))
    curve_of = _curves(ground, longest, ready, yearly)
    helds = [Held(ground.values, ready, ground.ask.measure, rising) for rising in (False, True)]
    missed = [_length_figure(targets, held, longest, partial(curve_of, held.rising)) for held in helds]
    rising = ask.kind == "weighted" and ask.weights == "rising"
    names = ("curve_mean", "curve_weighted") if rising else ("curve_weighted", "curve_mean")
    own = helds[rising]
    told = ErrorCurve(
        int(ready[0].sum()),
        "lengths",
        names,
        tuple(float(n) for n in range(1, longest + 1)),
        _present(ask, ground, longest),
        partial(curve_of, rising),
        lambda column: own.losses(column + 1)[0],
    )
    _chance(ground, missed[rising], told)
    return told


def _curves(ground: Ground, longest: int, ready: Mask, yearly: bool) -> Callable[[bool], Values]:
    """What gives the curve of plain or rising weights: at once, or later where there is much to reckon."""
    values, measure = ground.values, ground.ask.measure
    if longest * values.size > _SOON:
        answer = ground.late(curves_of, ground.panel, longest, measure, yearly)
        none = np.full((len(values), longest), np.nan)
        return lambda rising: none if answer is None else answer[rising]
    return functools.cache(lambda rising: curves.window_curve(values, ready, longest, measure, rising))


def _present(ask: Smoother, ground: Ground, longest: int) -> int:
    """The column of the window in hand; below 0 where it is none of those that are looked at."""
    alike = ask.kind == "mean" or (ask.kind == "weighted" and ask.weights in ("rising", "equal"))
    fits = alike and ask.place == "before" and not spans(ask, ground.grid)
    return size_of(ask) - 1 if fits and size_of(ask) <= longest else -1


def is_tie(now: float, best: float, losses_now: Values, losses_best: Values) -> bool:
    """Whether less is noise: not 5 % less, or not less at more than half of the periods."""
    both = ~np.isnan(losses_now) & ~np.isnan(losses_best)
    wins = int((losses_best[both] < losses_now[both]).sum())
    return best > (1 - BETTER) * now or wins * 2 <= int(both.sum())


def _length_figure(targets: _Targets, held: Held, longest: int, values: Callable[[], Values]) -> Term:
    """The error by length, and hidden behind it what every single error counts, given."""
    ground = targets.ground
    d, past = ground.d, ground.d.past
    kind_of = "weighted" if held.rising else "mean"
    said = phrase("weighted average") if held.rising else phrase("plain average")
    d.lay(
        f"missed_{kind_of}", Axis(*(Names(longest * past, partial(_miss_name, d.grid, d.first, past)),) * 3)
    )
    miss = d.define(
        f"missed_{kind_of}",
        f"{_COUNTS[held.measure]}, {said}",
        Missed(ground.actual, held, longest),
        shown=False,
        axis=f"missed_{kind_of}",
    )
    d.define(
        f"curve_{kind_of}",
        phrase("{measure} of the {said}", measure=held.measure, said=said),
        targets.measure(Stretches(miss.source, past)),
        values=values,
        axis="lengths",
        unit=_unit(ground),
        shown=False,
        blank=phrase("Still being computed, or no error can be taken."),
    )
    return miss


_COUNTS: dict[Measure, str] = {
    "MAE": phrase("absolute one-step error"),
    "RMSE": phrase("squared one-step error"),
    "MAPE": phrase("absolute one-step error in %"),
    "WAPE": phrase("absolute one-step error"),
}


def _miss_name(grid: Grid, first: int, past: int, column: int) -> str:
    length, period = divmod(column, past)
    return f"{counted(length + 1, grid.kind)}, {grid.label(first + period)}"


def _unit(ground: Ground) -> str:
    return "%" if ground.ask.measure in ("MAPE", "WAPE") else ground.unit


def _chance(ground: Ground, miss: Term, told: ErrorCurve) -> None:
    """The p-value of the least error against the one in hand, with what it is made of."""
    d, past = ground.d, ground.d.past
    hidden = partial(d.define, shown=False)
    now, best = Row(miss.source, past, lambda: told.at), Row(miss.source, past, lambda: told.least)
    gap = hidden("gap", phrase("error of the selected window less that of the smallest"), now - best)
    gaps = known(gap.between(0, past - 1))
    n = hidden("gap_count", phrase("periods compared"), count(gaps))
    middle = hidden("gap_mean", phrase("mean of what it misses by more"), mean(gaps))
    off = hidden("gap_off", phrase("off that mean"), gap - middle)
    square = hidden("gap_square", phrase("square of that"), off**2)
    squares = total(known(square.between(0, past - 1)))
    spread = hidden("gap_spread", phrase("standard deviation"), sqrt(squares / (n - 1)))
    d.define(
        "chance",
        phrase("p-value of the difference"),
        only(spread > 0, t_tail(middle / (spread / sqrt(n)), n - 1)),
        values=lambda: np.array([[told.chance()]]),
        blank=phrase("The selected one has the smallest error, or is none of these lengths."),
    )


def _same_period(targets: _Targets, before: Days, told: ErrorCurve) -> Term:
    """The error of taking the same period of the year before, as a line across."""
    ground, ready = targets.ground, targets.ready
    d, measure, past = ground.d, ground.ask.measure, ground.d.past
    year = ground.actual.like(np.concatenate((before, np.full(d.columns - past, -1))))
    error = ground.actual - year
    counts = {"RMSE": error**2, "MAPE": only(size(ground.actual) > 0, 100 * size(error / ground.actual))}.get(
        measure, size(error)
    )
    missed = d.define(
        "missed_year",
        phrase("{counts}, same {kind} last year", counts=_COUNTS[measure], kind=noun(d.grid.kind)),
        counts,
        where=wide(ready, d.columns, False),
        shown=False,
    )
    formula = targets.measure(known(missed.between(0, past - 1)))
    said = _said_of_year(ground)
    of_year = d.define("error_year", said, formula, unit=_unit(ground))
    across = of_year + given(np.zeros((1, len(told.steps))), phrase("the same for all"))
    d.define("curve_year", said, across, axis=told.axis, shown=False, unit=_unit(ground))
    return of_year


def _by_constant(ground: Ground, ask: Smoother, ready: Mask, constants: exponential.Constants) -> ErrorCurve:
    """The error by the constant of the level, those of trend and damping held."""
    d, measure = ground.d, ground.ask.measure
    d.lay("constants", _ALPHA_AXIS)
    kind: exponential.Kind = ask.kind  # type: ignore[assignment]
    others = float(constants.beta[0]), float(constants.phi[0])
    values = ground.values

    @functools.cache
    def curve_of() -> Values:
        return curves.constant_curve(values, ready, kind, ALPHAS, others, measure, ask.begins)

    why = phrase("the errors of smoothing by this constant: take it to see them one by one")
    d.define(
        "curve_level",
        phrase("{measure} by α", measure=measure),
        ByKernel(curve_of, why),
        axis="constants",
        shown=False,
        unit=_unit(ground),
    )
    now = round(float(constants.alpha[0]), 2)
    at = ALPHAS.index(now) if now in ALPHAS else -1
    targets = int(ready[0].sum())
    return ErrorCurve(targets, "constants", ("curve_level",), ALPHAS, at, curve_of, None)
