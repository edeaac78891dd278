"""Smooth: what is under the noise, and what it forecasts. Up to six smoothers, one of them in hand."""

from __future__ import annotations

from collections.abc import Container, Iterable
from dataclasses import dataclass
from functools import partial

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.series.panel import Sight
from oat_tide.core.smoothing.weights import less_change
from oat_tide.core.working.formula import Formula, added_up, given, mean, only, size
from oat_tide.core.working.terms import Term, known, wide
from oat_tide.plan.parts.part import LONGEST_WINDOW
from oat_tide.plan.parts.seasons import Seasons
from oat_tide.plan.parts.smooth import Smooth
from oat_tide.plan.paths import P, steps
from oat_tide.stages.common import as_known_now, as_of_handle, titled
from oat_tide.stages.cycle import cycle_of, no_season
from oat_tide.stages.deck import Band, Curve, Deck, Handle, LateWork, Word
from oat_tide.stages.deck.draft import Draft
from oat_tide.stages.lines import borrow_actual
from oat_tide.stages.needs import need
from oat_tide.stages.presence import presence_of
from oat_tide.stages.published import actuals_of
from oat_tide.stages.reach import (
    Reach,
    forecasts,
    is_spencer,
    is_window,
    labels,
    reach_of,
    spans,
    window_words,
)
from oat_tide.stages.scenarios import against_scenarios, borrow_scenarios
from oat_tide.stages.smooth import NAME, exponential, rolled, words
from oat_tide.stages.smooth.cautions import cautions
from oat_tide.stages.smooth.curve import error_curve
from oat_tide.stages.smooth.forecasts import forecast_rows
from oat_tide.stages.smooth.ground import Ground
from oat_tide.stages.smooth.made import Made
from oat_tide.stages.smooth.season import SeasonOut, season_out
from oat_tide.stages.smooth.sheet import curve_of, sheet

_WRITTEN_OUT = 60
"""Weights whose mean age is told weight by weight."""


@dataclass(frozen=True, eq=False, slots=True)
class Needs:
    """What the stage stands on."""

    lines: Deck = need("lines")
    seasons: Deck | None = need("seasons", when=lambda plan: plan.smooth.of == "deseasonalised")


def make(sight: Sight, asked: tuple[Smooth, Seasons], needs: Needs, late: LateWork) -> Deck:
    """The deck of Smooth."""
    lines, (ask, how) = needs.lines, asked
    d = Draft(NAME, sight, sight.past.columns + ask.on)
    borrow_actual(d, lines)
    budgets = borrow_scenarios(d, lines)
    actual = actuals_of(lines).actual.seeing(sight.whole)
    against_scenarios(d, lines, actual)
    ground = _ground(d, sight, lines, ask, how, late, season_out(d, sight, lines, needs.seasons, how))
    made = {place: _smoother(ground, place) for place, each in enumerate(ask.smoothers) if each.shown}
    forecasting = {
        place: each.forecasting.published for place, each in made.items() if each.forecasting is not None
    }
    alone = len(d.keys) == 1 and ground.hand in made
    told = error_curve(ground, ground.hand, made[ground.hand].fitted) if alone else None
    if sight.moved_back and sight.columns > d.past:
        d.define(
            "sold",
            phrase("actual, {first}", first=d.grid.label(d.first + d.past)),
            actual.at(np.full(len(d.keys), d.past)),
            unit=ground.unit,
            sees_later=True,
            blank=phrase("It is not known as a complete period."),
        )
    curves = (
        *budgets,
        *_rolled_scenarios(ground),
        Curve(
            "actual",
            "actual",
            label=ground.actuals.label.lower(),
            shade=0.4 if ask.faded or ground.season else 1.0,
        ),
        *([Curve("deseasonalised", "year", label=phrase("deseasonalised"))] if ground.season else []),
        *_curves(ground, made, forecasting),
    )
    return d.deck(
        bands=(Band(ground.unit, curves),),
        sheet=lambda: sheet(ground, told, made),
        sentence=_elsewhere(ground),
        handles=(as_of_handle(sight), *_window_handle(ground)),
        marks=lines.marks,
        title=partial(words.title, ground, made),
        subtitle=lambda series: words.subtitle(ground, made, series) + as_known_now(sight),
        finding=partial(words.finding, ground, made),
        cautions=partial(cautions, ground, made),
        published=forecasting,
    )


def _elsewhere(ground: Ground) -> tuple[Word, ...]:
    """A total in hand leads to where totals stand with their averages."""
    if ground.hand < 0 or ground.smoother(ground.hand).kind != "total":
        return ()
    return Word(phrase("Totals with their averages and the year before are")), Word(
        phrase("in History"), steps(P.history.arrangement)
    )


def _ground(
    d: Draft,
    sight: Sight,
    lines: Deck,
    ask: Smooth,
    how: Seasons,
    late: LateWork,
    season: SeasonOut | None,
) -> Ground:
    """What all smoothers stand on."""
    past = sight.past if season is None else season.panel
    actual = actuals_of(lines).adjusted.seeing(past.whole) if season is None else season.without
    names = labels(ask.smoothers, d.grid)
    reaches = tuple(
        reach_of(each, d.grid, d.first, d.past) if is_window(each) else None for each in ask.smoothers
    )
    values = actual.values[:, : past.columns]
    presence = presence_of(sight.past, how, cycle_of(how, d.grid, d.first, sight.past.columns), late)
    return Ground(
        d, sight, lines, past, ask, late, actual, values, names, reaches, season, no_season(d.grid, how),
        presence,
    )  # fmt: skip


def _smoother(ground: Ground, place: int) -> Made:
    """Define all figures of a smoother."""
    ask = ground.smoother(place)
    fitted = trend = alpha = None
    if is_window(ask):
        smoothed = _rolled(ground, place)
    else:
        fitted = exponential.fit(ground, ask)
        rows = exponential.rows(ground, place, fitted)
        smoothed, trend, alpha = rows.level, rows.trend, rows.alpha
    calm = _calm(ground, place, smoothed)
    lag = _lag(ground, place, alpha)
    ahead = forecast_rows(ground, place, smoothed, trend, fitted) if forecasts(ask) else None
    return Made(smoothed, calm, lag, alpha, fitted, ahead)


def _rolled(ground: Ground, place: int) -> Term:
    """The row of a window."""
    d, ask, reach = ground.d, ground.smoother(place), ground.reaches[place]
    label = ground.labels[place]
    said = titled(label) + (phrase(", smoothed") if forecasts(ask) else "")
    if reach is None:
        nothing = given(np.full((1, d.columns), np.nan), "")
        why = phrase("Its window cannot be counted in this kind of period.")
        return d.define(f"smoothed_{place}", said, nothing, unit=ground.unit, blank=why)
    held = rolled.holds_of(reach, ground.values)
    return d.define(
        f"smoothed_{place}",
        said,
        rolled.formula(ask, reach, ground.actual, d.columns),
        values=rolled.kernel(ask, reach, ground.values, ground.panel.scale),
        where=wide(rolled.where(ask, reach, held), d.columns, False),
        unit=ground.unit,
        brief=titled(label),
        blank=rolled.why_blank(ask, reach, held, d.grid.kind, d.past),
        remark=rolled.short_windows(ask, reach, held, d.grid.kind),
    )


def _calm(ground: Ground, place: int, smoothed: Term) -> Term:
    """How much less it varies from period to period; the steps that lead to it are hidden figures."""
    d, actual, last, label = ground.d, ground.actual, max(ground.d.past - 1, 0), ground.labels[place]
    hidden = partial(d.define, shown=False)
    change: Formula = smoothed - smoothed.shift(-1)
    lengths = _lengths(ground, place)
    if lengths is not None:
        change = smoothed / given(lengths, phrase("periods in it")) - smoothed.shift(-1) / given(
            np.concatenate((lengths[:, :1], lengths[:, :-1]), axis=1), phrase("periods in it")
        )
    own = size(actual - actual.shift(-1))
    moves = hidden(f"steps_{place}", phrase("change of {label}", label=label), size(change), where=own)
    raw = hidden(f"raw_steps_{place}", phrase("change of actual"), own, where=moves)
    smooth, rough = (mean(known(each.between(0, last))) for each in (moves, raw))

    def kernel() -> Values:
        rows = smoothed.values[:, : last + 1]
        scaled = rows if lengths is None else rows / lengths[:, : last + 1]
        return 100 * less_change(ground_values[:, : last + 1], scaled)

    ground_values = ground.values
    return d.define(
        f"calm_{place}",
        phrase("period-to-period variation, reduced by"),
        only(rough > 0, 100 * (1 - smooth / rough)),
        values=kernel,
        unit="%",
        blank=phrase("Nothing can be compared, or the actual does not change."),
    )


def _lengths(ground: Ground, place: int) -> Values | None:
    """(1, columns) the periods of each window of a total, which is divided by them; None of anything else."""
    reach = ground.reaches[place]
    if ground.smoother(place).kind != "total" or reach is None:
        return None
    return wide(reach.windows[0].lengths[None].astype(float), ground.d.columns, np.nan)


def _lag(ground: Ground, place: int, alpha: Term | None) -> Term | None:
    """How far a smoothed figure lies behind: the mean age of its weights; None where it has no fixed ones."""
    d, ask, reach = ground.d, ground.smoother(place), ground.reaches[place]
    blank = phrase("It has no fixed weights.")
    row = partial(
        d.define, f"lag_{place}", phrase("lag, mean age of the weights"), unit=f"{d.grid.kind}s", blank=blank
    )
    if ask.kind == "level" and alpha is not None:
        return row((1 - alpha) / alpha)
    if reach is not None and reach.weights:
        return row(_mean_age(reach))
    if reach is not None and reach.offsets == () and ask.kind in ("mean", "total") and d.past:
        return row(
            (given(float(reach.windows[0].lengths[-1]), phrase("periods in the latest window")) - 1) / 2
        )
    return None


def _mean_age(reach: Reach) -> Formula:
    """Sum of age x weight over the sum of the weights."""
    weights, total = reach.weights, given(sum(reach.weights), phrase("sum of the weights"))
    if len(set(weights)) == 1 or len(weights) > _WRITTEN_OUT:
        whole = sum((age - reach.ahead) * weight for age, weight in enumerate(weights))
        return given(whole, phrase("sum of age × weight")) / total
    ages = (
        given(float(age - reach.ahead), "age") * given(weight, "weight") for age, weight in enumerate(weights)
    )
    return added_up(tuple(ages)) / total


def _rolled_scenarios(ground: Ground) -> tuple[Curve, ...]:
    """Each scenario through the window in hand, beside the history."""
    place = ground.hand
    reach = ground.reaches[place] if place >= 0 and ground.smoother(place).shown else None
    if reach is None:
        return ()
    d, ask = ground.d, ground.smoother(place)
    curves = []
    for scenario in ground.actuals.scenarios:
        # It reaches as far as the scenario does, and sees nothing but that.
        name, label = scenario.source.figure.name, scenario.source.figure.label
        far = reach_of(ask, d.grid, d.first, scenario.values.shape[1])
        assert far is not None
        held = rolled.holds_of(far, scenario.values)
        d.define(
            f"smoothed_{name}",
            f"{label}, {ground.labels[place]}",
            rolled.formula(ask, far, scenario, d.columns),
            values=rolled.kernel(ask, far, scenario.values, ground.sight.past.scale),
            where=wide(rolled.where(ask, far, held), d.columns, False),
            unit=ground.unit,
            sees_later=True,
            blank=phrase("The window is not full, or holds a period without {label}.", label=label),
        )
        curves.append(Curve(f"smoothed_{name}", "average", label=phrase("{label}, smoothed", label=label)))
    return tuple(curves)


def _curves(ground: Ground, shown: Iterable[int], forecasting: Container[int]) -> tuple[Curve, ...]:
    """Every smoothed row, the one in hand on top, and what each says of periods to come, ending in a dot."""
    order = sorted(shown, key=lambda place: place == ground.hand)
    # With its season out, what it says of periods to come is drawn with it put back.
    dot = "back" if ground.season else "forecast"
    ahead = [place for place in order if place in forecasting]
    return (
        *(curve_of(ground, place) for place in order),
        *(
            Curve(
                f"{dot}_{place}", "forecast", label=phrase("next") if place == ground.hand else "", ahead=True
            )
            for place in ahead
        ),
    )


def _window_handle(ground: Ground) -> tuple[Handle, ...]:
    """The window over the newest periods that fill it, to be dragged at its far edge."""
    place, last = ground.hand, ground.d.past - 1
    reach = ground.reaches[place] if place >= 0 else None
    if reach is None or not ground.smoother(place).shown or not ground.d.past:
        return ()
    ask = ground.smoother(place)
    windows = reach.windows

    def reaches(column: int) -> tuple[int, int]:
        ends = [window.of(column) for window in windows]
        return min(first for first, _ in ends), max(last for _, last in ends)

    first, end = reaches(last)
    rest = max(last - max(end - last, 0), 0)
    own = ask.kind == "weighted" and isinstance(ask.weights, tuple)
    free = ask.place == "before" and not spans(ask, ground.grid) and not own and not is_spencer(ask)
    start = rest - (last - first)
    field = P.smooth.smoothers[place].window
    return (
        Handle(
            steps(field),
            "window",
            start,
            last - LONGEST_WINDOW + 1 if free else start,
            last - 1 if free else start,
            lambda column: last - column + 1,
            upto=rest,
            weights=reach.weights if ask.kind == "weighted" or len(windows) > 1 else (),
            says=window_words(ask, ground.grid),
            reach=reaches,
        ),
    )
