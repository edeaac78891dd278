"""What Smooth says in words: titles, the direction, and what is told of each smoother."""

from __future__ import annotations

import functools
from functools import partial

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import counted, noun, nouns, phrase
from oat_tide.core.series.like import like_places
from oat_tide.core.series.panel import Panel
from oat_tide.core.smoothing.direction import direction as way_of
from oat_tide.core.smoothing.direction import wobble
from oat_tide.core.working.number_format import compact, fixed, significant
from oat_tide.stages.common import named
from oat_tide.stages.reach import is_window, size_of, spans
from oat_tide.stages.smooth.curve import ErrorCurve
from oat_tide.stages.smooth.ground import Ground
from oat_tide.stages.smooth.made import Made, fact_of

Smoothers = dict[int, Made]
"""Those in sight, by their place."""


def title(ground: Ground, made: Smoothers, series: int) -> str:
    """What the smoother in hand says of the next period, or what is smoothed by what."""
    name, place = named(ground.d.keys[series]), ground.hand
    if place < 0:
        return phrase("{name}, no smoother yet", name=name)
    label, value = ground.labels[place], following(made, place, series)
    if np.isnan(value):
        return f"{name}: {label}"
    period = ground.grid.named(ground.d.first + ground.d.past)
    without = phrase(", deseasonalised") if ground.season else ""
    by = phrase("the {label}", label=label) if is_window(ground.smoother(place)) else label
    return phrase(
        "{name}: {value} forecast for {period}, by {by}{without}",
        name=name,
        value=compact(value),
        period=period,
        by=by,
        without=without,
    )


def following(made: Smoothers, place: int, series: int) -> float:
    """What a smoother says of the next period, with its season where that was taken out before."""
    found = made[place].forecasting if place in made else None
    return fact_of(None if found is None else found.following, series)


def subtitle(ground: Ground, made: Smoothers, series: int) -> str:
    """The unit, and which way the smoothed line goes."""
    parts = [f"{ground.unit} {ground.grid.per_period}"]
    if ground.season:
        parts.append(phrase("forecasts put back in season"))
    if ground.hand in made:
        parts.append(direction(ground, made[ground.hand], series))
    return " · ".join(filter(None, parts))


def direction(ground: Ground, smoother: Made, series: int) -> str:
    """Which way a smoothed line goes and since when; and where the actual tells another story, that."""
    if not ground.d.past:
        return ""
    values = smoother.level.values[series : series + 1, : ground.d.past]
    known = np.flatnonzero(~np.isnan(values[0]))
    if known.size < 2:
        return ""
    noise = _wobble(ground.panel)[series : series + 1]
    (way,), (since,) = way_of(values, noise, _length(ground, smoother, series))
    grid, first = ground.grid, ground.d.first
    if not way:
        return phrase("the smoothed line is level, within what chance does")
    said = phrase(
        "the smoothed line has {which} since {first}",
        which=phrase("risen") if way > 0 else phrase("fallen"),
        first=grid.named(first + int(since)),
    )
    return said + _other_story(ground, series, int(way), int(known[-1]))


def _other_story(ground: Ground, series: int, way: int, end: int) -> str:
    """Say where the actual moved in the other direction in its last period."""
    row = ground.values[series]
    last = row.size - 1
    if not way or last < 1 or np.isnan(row[last]) or np.isnan(row[last - 1]):
        return ""
    change = float(row[last] - row[last - 1])
    if change * way >= 0:
        return ""
    verb, before = phrase("rose") if change > 0 else phrase("fell"), float(row[last - 1])
    by = f"{significant(100 * abs(change) / before, 2)} %" if before > 0 else compact(abs(change))
    return phrase(
        ", while the actual {verb} by {by} {when}",
        verb=verb,
        by=by,
        when=ground.grid.when(ground.d.first + last),
    )


@functools.lru_cache(8)
def _wobble(past: Panel) -> Values:
    """(series,) the noise of each: it stays while a window slides."""
    return wobble(past.judged, like_places(past.grid, past.first, past.columns))


def _length(ground: Ground, smoother: Made, series: int) -> float:
    """The periods that a smoothed figure is spread over; of exponential smoothing, those of the same lag."""
    ask, reach = ground.smoother(ground.hand), ground.reaches[ground.hand]
    if reach is not None:
        return float(reach.windows[0].lengths[-1]) if reach.windows[0].lengths.size else size_of(ask)
    alpha = fact_of(smoother.alpha, series)
    return 2 / alpha - 1 if alpha > 0 else 1.0


def told(ground: Ground, smoother: Made | None, series: int) -> str:
    """What is said of a smoother beside its name."""
    if smoother is None:
        return phrase("not in sight")
    calm, lag = (fact_of(each, series) for each in (smoother.calm, smoother.lag))
    parts = [each for each in (_varies(calm), _lag(ground, lag)) if each]
    return ", ".join(parts) or phrase("no value")


def in_words(ground: Ground, smoother: Made | None, series: int) -> str:
    """How much less it changes and how far behind it is, as a sentence."""
    if smoother is None:
        return ""
    calm, lag = (fact_of(each, series) for each in (smoother.calm, smoother.lag))
    if np.isnan(calm):
        return ""
    change = phrase("less") if calm >= 0 else phrase("more")
    said = phrase("{calm} % {change} period-to-period variation", calm=fixed(abs(calm)), change=change)
    if np.isnan(lag):
        return said
    unit = noun(ground.grid.kind) if lag == 1 else nouns(ground.grid.kind)
    behind = (
        phrase("not behind")
        if not lag
        else phrase("{periods} {unit} behind", periods=_periods(lag), unit=unit)
        if lag > 0
        else phrase("{periods} {unit} ahead", periods=_periods(-lag), unit=unit)
    )
    return f"{said}, {behind}"


def finding(ground: Ground, made: Smoothers, series: int) -> str:
    """The smoother in hand: its latest figure and how calm it is."""
    place = ground.hand
    if place < 0:
        return phrase("no smoother yet")
    label = ground.labels[place]
    smoother = made.get(place)
    row = np.empty(0) if smoother is None else smoother.level.values[series, : ground.d.past]
    known = row[~np.isnan(row)]
    if smoother is None or not known.size:
        return f"{label}\n{_lacks(ground, place, series)}"
    calm, lag = (fact_of(each, series) for each in (smoother.calm, smoother.lag))
    said = filter(None, (_varies(calm), _lag(ground, lag)))
    return f"{label} {compact(float(known[-1]))}\n" + ", ".join(said)


def _lacks(ground: Ground, place: int, series: int) -> str:
    """Why a smoother in sight has no figure."""
    ask, known = ground.smoother(place), int((~np.isnan(ground.values[series])).sum())
    if not is_window(ask) or spans(ask, ground.grid) or known >= size_of(ask):
        return phrase("no figure yet")
    return phrase(
        "needs {size_of}, {known} {which} known",
        size_of=counted(size_of(ask), ground.grid.kind),
        known=known,
        which=phrase("is") if known == 1 else phrase("are"),
    )


def _varies(calm: float) -> str:
    """How much less a smoothed line varies from period to period; empty where that is not known."""
    if np.isnan(calm):
        return ""
    return phrase(
        "varies {calm} % {which}",
        calm=fixed(abs(calm), 0),
        which=phrase("less") if calm >= 0 else phrase("more"),
    )


def _periods(lag: float) -> str:
    """So many periods in two digits."""
    return significant(lag, 2).removesuffix(".0")


def _lag(ground: Ground, lag: float) -> str:
    """How many periods it is behind; empty where that is not known."""
    if np.isnan(lag):
        return ""
    unit = noun(ground.grid.kind) if lag == 1 else nouns(ground.grid.kind)
    return phrase("lag {periods} {unit}", periods=_periods(lag), unit=unit) if lag else phrase("no lag")


def curve_note(ground: Ground, told: ErrorCurve | None, series: int) -> str:
    """Which length has the smallest error, by more than chance or not, and what last year's periods give."""
    if told is None:
        return phrase("The history is too short to compare lengths.")
    if told.least < 0:
        return phrase("The errors are still being computed.")
    name = partial(_step, ground, told)
    best = float(told.curve()[0, told.least])
    said = phrase("Smallest: {name}, {best}", name=name(told.least), best=significant(best, 3))
    if told.at == told.least:
        said += phrase(", the one selected.")
    elif told.at >= 0 and told.tie:
        said += phrase(
            ", a tie with {name}: less by under 5 %, or not in most {kinds}.",
            name=name(told.at),
            kinds=nouns(ground.grid.kind),
        )
    elif told.at >= 0:
        now = float(told.curve()[0, told.at])
        said += phrase("; selected: {name}, {now}.", name=name(told.at), now=significant(now, 3))
    else:
        said += "."
    year = fact_of(told.year, 0)
    if not np.isnan(year):
        if year < best:
            said += phrase(
                " The same {kind} last year has a lower {measure}, {year}, than every window: the "
                "season is stronger than a window can follow.",
                kind=noun(ground.grid.kind),
                measure=ground.ask.measure,
                year=significant(year, 3),
            ) + ("" if ground.season or ground.no_season else phrase(" Smooth it deseasonalised."))
        else:
            said += phrase(
                " The same {kind} last year: {year}.", kind=noun(ground.grid.kind), year=significant(year, 3)
            )
    return said + phrase(" The smallest of many errors is too good by chance; expect a larger one.")


def _step(ground: Ground, told: ErrorCurve, column: int) -> str:
    """A length or constant in words."""
    step = told.steps[column]
    return f"α {step:g}" if told.axis == "constants" else counted(int(step), ground.grid.kind)
