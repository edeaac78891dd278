"""What Project says in words: titles, the finding, and where its periods begin to count."""

from __future__ import annotations

import math

import numpy as np

from oat_tide.core.language import counted, phrase
from oat_tide.core.working.number_format import compact, fixed, row_decimals
from oat_tide.core.working.terms import Term
from oat_tide.stages.deck.figure import BEYOND
from oat_tide.stages.methods.ground import Ground
from oat_tide.stages.project.projection import Limits, Projection, value

_IN_MILLIONS = 1e6
"""From which on figures are told in millions."""


def title(g: Ground, made: Projection, series: int) -> str:
    """What all periods ahead come to, and their growth on the year before."""
    if not g.past:
        return phrase("nothing to project from")
    whole = math.nan if made.ahead is None else value(made.ahead.total, series)
    if not math.isnan(whole):
        found = phrase(
            "{total} {unit} over the next {horizon}",
            total=compact(whole),
            unit=g.unit,
            horizon=counted(g.horizon, g.grid.kind),
        )
        growth = growth_said(g, made, series)
        return f"{found}, {growth}" if growth else found
    return phrase(
        "{horizon} projected from {first}",
        horizon=counted(g.horizon, g.grid.kind),
        first=g.grid.named(g.d.first + g.past - 1),
    )


def growth_said(g: Ground, made: Projection, series: int) -> str:
    """The growth of all periods ahead on the year before; empty where there is none."""
    growth = math.nan if made.ahead is None else value(made.ahead.growth[0], series)
    return (
        ""
        if math.isnan(growth)
        else phrase("{growth} % on the year before", growth=fixed(growth, 1, plus=True))
    )


def interval_said(g: Ground, made: Projection, series: int) -> str:
    """The narrowest interval of all periods ahead together."""
    if made.ahead is None or not made.ahead.limits:
        return ""
    limits = made.ahead.limits[0]
    low, high = (value(each, series) for each in limits.both)
    if math.isnan(low) or math.isnan(high):
        return ""
    return phrase(
        "{level:g} %: {low} to {high} in total", level=limits.level, low=compact(low), high=compact(high)
    )


def over_said(made: Projection, series: int) -> str:
    """How many other methods are drawn."""
    return phrase("{many} on the chart", many=len(made.over))


def fit_said(g: Ground, made: Projection, series: int) -> str:
    """How much of the variation the fit explains; of what is no regression, what it misses."""
    if made.judged is not None:
        r2 = next((each for each in made.judged.whole if each.source.figure.name == "r2"), None)
        share = math.nan if r2 is None else value(r2, series)
        if not math.isnan(share):
            return phrase("R² {share}", share=fixed(share, 2))
    left = made.remains.values[series]
    known = left[~np.isnan(left)]
    if not known.size:
        return ""
    return phrase("misses {mean} {unit} on average", mean=compact(float(np.abs(known).mean())), unit=g.unit)


def subtitle(g: Ground, made: Projection, series: int) -> str:
    """What was fitted on which span, and what the shade means."""
    unit, laid = f"{g.unit} {g.grid.per_period}", made.laid
    if not made.has_fit(series):
        return phrase("{unit} · no fit", unit=unit)
    shade = phrase(" and ").join(f"{probability:g} %" for probability in g.ask.intervals)
    below = "" if g.ask.positive else phrase(" · below zero, too")
    how_fitted = (
        phrase("{label}, extended,", label=laid.label)
        if laid.label
        else phrase("{title} fitted", title=laid.method.title.lower())
    )
    fitted = f"{how_fitted} {_span(g, series)}"
    many = phrase("intervals") if len(g.ask.intervals) > 1 else phrase("interval")
    return phrase(
        "{unit} · {fitted} · shaded: {shade} {many} from past starts{below}",
        unit=unit,
        fitted=fitted,
        shade=shade,
        many=many,
        below=below,
    )


def span_said(g: Ground) -> str:
    """The fit span of the first series."""
    return _span(g, 0) if g.past else ""


def _span(g: Ground, series: int) -> str:
    start = g.d.first + int(g.span.start[series, 0])
    return f"{g.grid.label(start)} – {g.grid.label(g.d.first + g.span.end)}"


def if_true(g: Ground, limits: tuple[Limits, ...], series: int) -> str:
    """The limits of the last period ahead by the curve's own error."""
    column = g.past + g.horizon - 1
    parts = []
    for each in limits:
        low, high = (in_short(g, edge, series, column) for edge in each.both)
        if low and high:
            parts.append(phrase("{level:g} % {low} to {high}", level=each.level, low=low, high=high))
    return f"{g.grid.label(g.d.first + column)}: {', '.join(parts)}." if parts else phrase("It has no fit.")


def mean_said(g: Ground, made: Projection, series: int) -> str:
    """Say by how much the mean lies above the median, and how far that is biased after a short fit.

    Of errors normal in logarithms e^(s²/2) and e to the fitted line are taken of what is only estimated: with
    v degrees of freedom and the leverage h of the first period ahead their expectation is e^(h s²/2) times
    (1 - s²/v)^(-v/2) instead of e^(s²/2) (Finney, 1941; Bradu and Mundlak, 1970).
    """
    told = made.laid.regressed
    if not g.ask.mean or told is None or not told.logs or not made.has_fit(series):
        return ""
    s2 = float(told.s.source.values[series, 0]) ** 2
    v = float(np.broadcast_to(told.freedom.compute(slice(0, 1)), (len(g.d.keys), 1))[series, 0])
    h = float(told.leverage.source.values[series, g.past])
    if not s2 < v:
        return ""
    over = math.exp(h * s2 / 2 - s2 / 2) * (1 - s2 / v) ** (-v / 2) - 1
    return phrase(
        "The mean is the median times e^(s²/2), {factor}. Of a fit on so few periods that "
        "overshoots by about {over} %.",
        factor=fixed(math.exp(s2 / 2), 4),
        over=fixed(100 * over, 2),
    )


def first_period(g: Ground, made: Projection, beside: str, series: int) -> str:
    """The period of t = 1 and what the fit rests on, and a sentence beside it."""
    if not made.has_fit(series):
        return ""
    n = counted(int((g.span.used[series] > 0).sum()), g.grid.kind)
    start = g.grid.when(g.d.first + int(g.span.start[series, 0]))
    counts = phrase("t = 1 {start}; ", start=start) if made.laid.through_time else ""
    if g.by_year:
        counts = phrase("t is the calendar year; ")
    return phrase("{counts}{n} in the fit. {beside}", counts=counts, n=n, beside=beside).rstrip()


def in_short(g: Ground, term: Term, series: int, column: int) -> str:
    """A figure where room is short, or that it lies beyond any; empty where there is none."""
    figure = g.d.figures[term.source.figure.name]
    if figure.is_beyond(series, column):
        return BEYOND
    return compact(float(figure.values[series, column]))


def finding(g: Ground, made: Projection, short: str, series: int) -> str:
    """The method, and the last projected period with its narrowest interval where there is room.

    Args:
        short: what the method is called where room is short; empty for its title, without the interval.
    """
    if not made.has_fit(series):
        return phrase("no fit:\nsee the cautions")
    last = g.past + g.horizon - 1
    period, value = g.grid.label(g.d.first + last), in_short(g, made.projected, series, last)
    if not short:
        return f"{made.laid.label or made.laid.method.title.lower()}\n{period} {value}"
    limits = made.limits[0]
    edges = [float(each.values[series, last]) for each in limits.both]
    if np.isnan(edges).any():
        return f"{short}: {period} {value}"
    if max(map(abs, edges)) >= _IN_MILLIONS:
        low, high = map(compact, edges)
        if low.partition(" ")[2] == high.partition(" ")[2]:
            # The mark of millions is said once.
            low = low.partition(" ")[0]
    else:
        # A figure and its interval have the same decimals.
        figures = np.array([float(made.projected.values[series, last]), *edges])
        value, low, high = (fixed(each, row_decimals(figures)) for each in figures)
    return phrase(
        "{short}: {period} {value}\n{level:g} %: {low} to {high}",
        short=short,
        period=period,
        value=value,
        level=limits.level,
        low=low,
        high=high,
    )
