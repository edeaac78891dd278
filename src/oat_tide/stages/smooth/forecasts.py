"""What a smoother forecasts: one step ahead, its errors, and how far past ones lay."""

from __future__ import annotations

from functools import partial

import numpy as np

from oat_tide.core.language import phrase
from oat_tide.core.smoothing.exponential import carried
from oat_tide.core.working.formula import Formula, count, either, given, mean, median, nine_tenths, only, size
from oat_tide.core.working.terms import Columns, Like, Term, known
from oat_tide.stages.common import titled
from oat_tide.stages.deck.called import WhyBlank
from oat_tide.stages.published import Smoothed
from oat_tide.stages.smooth import exponential, rolled
from oat_tide.stages.smooth.exponential import Fitted
from oat_tide.stages.smooth.ground import Ground
from oat_tide.stages.smooth.made import Forecasting

FEWEST_ERRORS = 10
"""Errors that it takes to say what nine tenths of them lie within."""


def forecast_rows(
    ground: Ground, place: int, smoothed: Term, trend: Term | None, fitted: Fitted | None
) -> Forecasting:
    """The one-step forecast of every period, beyond the as-of as far as asked, and its errors."""
    d, label = ground.d, ground.labels[place]
    said = titled(label)
    columns = np.arange(d.columns)
    made_of = np.clip(columns - 1, -1, d.past - 1)
    last = smoothed.like(np.where(columns < d.past + ground.ask.on, made_of, -1))
    reach, body = ground.reaches[place], _body(ground, place, last, made_of, trend, fitted)
    # It is the smoothed row moved by one.
    kernel = None if reach is None else lambda: last.values
    forecast = d.define(
        f"forecast_{place}",
        phrase("{said}, one-step forecast", said=said),
        body,
        values=kernel,
        where=last,
        unit=ground.unit,
        brief=phrase("forecast, {said}", said=said),
        blank=_why_none(ground),
    )
    row = partial(d.define, unit=ground.unit)
    error = row(
        f"error_{place}",
        phrase("{said}, error", said=said),
        ground.actual - forecast,
        brief=phrase("error, {said}", said=said),
        signed=True,
        blank=phrase("There is no forecast for it, or its actual is not known yet."),
    )
    miss = row(f"miss_{place}", phrase("{said}, absolute error", said=said), size(error), shown=False)
    misses = known(miss.between(0, max(d.past - 1, 0)))
    why = phrase("There are no errors yet.")
    row(f"mae_{place}", phrase("mean absolute error, all forecasts"), mean(misses), blank=why)
    row(f"half_{place}", phrase("median absolute error"), median(misses), blank=why)
    row(
        f"nine_{place}",
        phrase("90th percentile of absolute errors"),
        only(count(misses) > FEWEST_ERRORS - 1, nine_tenths(misses)),
        blank=phrase("It takes {fewest_errors} errors.", fewest_errors=FEWEST_ERRORS),
    )
    back, next_back, at = None, None, np.full(len(d.keys), d.past)
    nothing = phrase("It forecasts nothing yet.")
    if ground.season is not None:
        back = d.define(
            f"back_{place}",
            phrase("{said}, forecast back in season", said=said),
            ground.season.back(forecast, d.columns),
            where=forecast,
            unit=ground.unit,
            brief=phrase("back in season"),
            blank=_why_none(ground),
        )
        next_back = row(
            f"next_back_{place}", phrase("{label}, back in season", label=label), back.at(at), blank=nothing
        )
        label = phrase("{label}, deseasonalised", label=label)
    following = row(f"next_{place}", label, forecast.at(at), blank=nothing)
    damped = exponential.damping(ground, ground.smoother(place), fitted)
    published = Smoothed(smoothed, trend, damped, forecast, back)
    return Forecasting(published, following if next_back is None else next_back)


def _body(
    ground: Ground, place: int, last: Like, made_of: Columns, trend: Term | None, fitted: Fitted | None
) -> Formula:
    """One step ahead of what lies before; where a window runs on, what it gave last."""
    d, ask, reach = ground.d, ground.smoother(place), ground.reaches[place]
    if reach is not None:
        one_step = rolled.formula(ask, reach, ground.actual, d.columns, on=1)
        runs_on = np.arange(d.columns)[None] > d.past
        return either(runs_on, last, one_step) if runs_on.any() else one_step
    if trend is None or fitted is None:
        return last
    return last + _steps(ground, place, fitted) * trend.like(made_of)


def _steps(ground: Ground, place: int, fitted: Fitted) -> Formula:
    """What the trend counts: phi one step ahead, and phi + phi² + ... where forecasts run on."""
    d = ground.d
    ask = ground.smoother(place)
    if fitted.constants is None:
        return given(np.full((len(d.keys), d.columns), np.nan), phrase("still looked for"))
    damped, phi = ask.kind == "damped", exponential.damping(ground, ask, fitted)
    sums = carried(phi, max(d.columns - d.past, 1))
    counts = np.repeat(phi[:, None], d.columns, axis=1)
    counts[:, d.past :] = sums[:, : d.columns - d.past]
    return given(
        counts,
        phrase("of the trend: φ + φ² + … for so many steps") if damped else phrase("steps of the trend"),
    )


def _why_none(ground: Ground) -> WhyBlank:
    past, on = ground.d.past, ground.ask.on

    def reason(series: int, column: int) -> str:
        if column >= past + on:
            return phrase("The horizon is {on}. Make it longer in the side sheet.", on=on)
        if column == 0:
            return phrase("Nothing lies before it.")
        return phrase("The periods before it give no smoothed figure to forecast by.")

    return reason
