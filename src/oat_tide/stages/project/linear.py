"""Any other regression linear in its coefficients, each a sum of what the periods pull on it."""

from __future__ import annotations

import functools
from collections.abc import Callable, Sequence
from functools import partial

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.methods import regression
from oat_tide.core.methods.least_squares import Regression, joint, pulls
from oat_tide.core.methods.regression import ON_LOGS
from oat_tide.core.periods.calendar import Days
from oat_tide.core.working.formula import (
    Formula,
    added_up,
    either,
    given,
    ln,
    only,
    rounded_to,
    sqrt,
    sum_of_products,
    total,
)
from oat_tide.core.working.numerals import MINUS, significant
from oat_tide.core.working.terms import Term, wide
from oat_tide.stages.places import season_names
from oat_tide.stages.project.ground import Ground
from oat_tide.stages.project.laid import Laid, Regressed, raised
from oat_tide.stages.reckoned import Reckoned

_WEEKDAYS = "Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"


def linear(g: Ground, name: str, prefix: str = "", shown: bool = True) -> Laid:
    """A regression by least squares; its coefficients are shown as facts."""
    d, logs = g.d, name in ON_LOGS
    fit = regression.fit(name, g.values, g.span.used[:, : g.past], d.columns - g.past, g.how)
    there = ~np.isnan(fit.coefficients[:, :1])
    hidden = partial(d.define, shown=False)
    counts = hidden(
        f"{prefix}used",
        "in the fit" if name != "weighted-line" else "weight in the fit",
        given(wide(np.where(there, fit.weights, 0.0), d.columns, 0.0), "0 out of the fit"),
    )
    z = hidden(
        f"{prefix}z",
        _scale(name),
        only(counts > 0, ln(g.actual) if logs else g.actual),
        where=wide(fit.weights * there > 0, d.columns, False),
    )
    coefficients, squares = _coefficients(g, name, fit, z, prefix, shown)
    # Before the fit begins there is no logarithm of the period's number.
    line = hidden(
        f"{prefix}line",
        "curve" if not logs else "curve of ln",
        _curve(g, name, fit, prefix, coefficients),
        values=fit.curve,
        where=g.numbers(name) > 0,
    )
    residual = hidden(f"{prefix}residual", "residual", z - line)
    s, freedom = _missed(g, name, fit, (counts, z, residual), prefix, shown)
    leverage = hidden(
        f"{prefix}leverage", "leverage", Reckoned(lambda: fit.leverage, "x (X'X)⁻¹ x' of its terms")
    )
    whole = raised(line) if logs else line
    raise_by = raised(s**2 / 2) if logs and g.ask.mean else None
    if raise_by is not None:
        whole = whole * raise_by
    kept: Formula = 1 - leverage
    if name == "weighted-line":
        why = "1 - 2 h + c, h how much a period pulls its own fitted figure and c its leverage"
        kept = Reckoned(lambda: wide(fit.kept, d.columns, np.nan), why)
    return Laid(
        name,
        whole,
        whole,
        partial(_why_none, g, name, fit),
        partial(_equation, g, name, fit),
        tuple(prefix + short for short in fit.names),
        Regressed(
            z, residual, counts, coefficients, squares, leverage, partial(_joint, g, name, fit), freedom,
            given(0.0, "no indices"), kept, s, logs,
        ),
        line,
        raise_by=raise_by,
    )  # fmt: skip


def _joint(g: Ground, name: str, fit: Regression, gain: Term) -> Formula:
    design_of = regression.design_of(name, g.d.columns, g.how)
    return Reckoned(
        lambda: joint(fit, design_of, gain.values)[:, None],
        "w (X'X)⁻¹ w', w the sum of the terms of the periods ahead",
        True,
    )


def _scale(name: str) -> str:
    """What is fitted."""
    return "logarithm of actual, in the fit" if name in ON_LOGS else "actual in the fit"


def _coefficients(
    g: Ground, name: str, fit: Regression, z: Term, prefix: str, shown: bool
) -> tuple[tuple[Term, ...], tuple[Formula, ...]]:
    """Each coefficient, a sum of figures times what they pull; the squares of these are how unsure it is."""
    d, last, there = g.d, max(g.past - 1, 0), ~np.isnan(fit.coefficients[:, :1])
    pulled = functools.cache(lambda: pulls(fit, regression.design_of(name, d.columns, g.how)))
    coefficients, squares = [], []
    for place, (short, label) in enumerate(zip(fit.names, _labels(g, name, fit), strict=True)):
        row = Reckoned(
            partial(_of_term, pulled, place, d.columns), "its row of (X'WX)⁻¹ X'W; 0 out of the fit"
        )
        pull = d.define(f"{prefix}pull_{short}", f"pull on the {label}", row, where=there, shown=False)
        every = pull.between(0, last)
        coefficients.append(
            d.define(
                prefix + short,
                label,
                sum_of_products(every, z.between(0, last)),
                values=fit.coefficients[:, place : place + 1],
                where=there,
                signed=True,
                shown=shown,
            )
        )
        squares.append(total(every**2))
    return tuple(coefficients), tuple(squares)


def _missed(
    g: Ground, name: str, fit: Regression, rows: tuple[Term, Term, Term], prefix: str, shown: bool
) -> tuple[Term, Formula]:
    """How many periods are fitted and how much is missed: the residual standard error, and what is free."""
    counts, z, residual = rows
    d, last, there = g.d, max(g.past - 1, 0), ~np.isnan(fit.coefficients[:, :1])
    hidden, every = partial(d.define, shown=False), counts.between(0, last)
    many = total(every)
    if name == "weighted-line":
        many = given(fit.n[:, None], "periods of a weight above 0")
    n = hidden(f"{prefix}n", "periods in the fit", many, where=there)
    squared = sum_of_products(every, residual.between(0, last) ** 2)
    sse = hidden(f"{prefix}sse", "sum of squared residuals", squared, values=fit.sse[:, None], where=there)
    middle = sum_of_products(every, z.between(0, last)) / total(every)
    z_mean = hidden(f"{prefix}z_mean", f"mean of {_scale(name)}", middle, where=there)
    around = sum_of_products(every, (z.between(0, last) - z_mean) ** 2)
    hidden(f"{prefix}sst", "sum of squared deviations", around, values=fit.sst[:, None], where=there)
    left: Formula = n - float(fit.terms)
    freedom: Formula = left
    if name == "weighted-line":
        left = given(fit.left[:, None], "the sum of weights, less the trace of (X'WX)⁻¹ X'W²X")
        # Rounded down, as tables of t, and sheets, have whole degrees of freedom.
        many_alike = total(every) ** 2 / total(counts.between(0, last) ** 2)
        freedom = rounded_to(many_alike - (fit.terms + 0.5), 0)
    of_ln = " of ln" if name in ON_LOGS else ""
    said = f"residual standard error{of_ln}"
    return d.define(f"{prefix}s", said, sqrt(sse / left), values=fit.s[:, None], shown=shown), freedom


def _of_term(pulled: Callable[[], Values], place: int, columns: int) -> Values:
    return wide(pulled()[:, place], columns, 0.0)


def _labels(g: Ground, name: str, fit: Regression) -> tuple[str, ...]:
    """The coefficients for people."""
    a_period = g.grid.a_period
    named = {
        "intercept": "intercept",
        "slope": "slope of ln t" if name in ("logarithmic", "power") else f"slope {a_period}",
        "t2": "coefficient of t²",
    }
    if name == "indicators":
        full = season_names(g.grid, g.cycle.length)[2]
        named |= {f"season{place}": f"level of {each}" for place, each in enumerate(full)}
    named |= {f"weekday{place}": f"level of {each}" for place, each in enumerate(_WEEKDAYS)}
    for pair in range(1, g.how.pairs + 1):
        named |= {f"sin{pair}": f"sine of wave {pair}", f"cos{pair}": f"cosine of wave {pair}"}
    return tuple(named[each] for each in fit.names)


def _curve(g: Ground, name: str, fit: Regression, prefix: str, coefficients: Sequence[Term]) -> Formula:
    """The terms of a method times their coefficients, added up."""
    d, by_name = g.d, dict(zip(fit.names, coefficients, strict=True))
    t = d.define(
        f"{prefix}t", "period number", given(g.numbers(name), g.first_number),
        where=~np.isnan(fit.coefficients[:, :1]), shown=False,
    )  # fmt: skip
    slope = by_name["slope"]
    if name in ("logarithmic", "power"):
        return by_name["intercept"] + slope * ln(t)
    if name == "indicators":
        return _level(by_name, "season", g.how.place[: d.columns], g.cycle.length) + slope * t
    if name != "harmonics":
        line = by_name["intercept"] + slope * t
        return line + by_name["t2"] * t**2 if "t2" in by_name else line
    level: Formula = by_name.get("intercept", slope)
    if g.how.weekday is not None:
        level = _level(by_name, "weekday", g.how.weekday[: d.columns], 7)
    waves = []
    for pair in range(1, g.how.pairs + 1):
        angle = 2 * np.pi * pair * g.how.phase[: d.columns]
        for short, said, values in (("sin", "sine", np.sin(angle)), ("cos", "cosine", np.cos(angle))):
            why = f"{said} of {pair} × 2π times the part of its year that has gone"
            waves.append(by_name[f"{short}{pair}"] * given(values[None], why))
    return added_up((level + slope * t, *waves))


def _level(by_name: dict[str, Term], stem: str, place: Days, many: int) -> Formula:
    """The level of the season, or weekday, that each column stands at."""
    level: Formula = by_name[f"{stem}{many - 1}"]
    for each in range(many - 1):
        level = either((place == each)[None], by_name[f"{stem}{each}"], level)
    return level


def _equation(g: Ground, name: str, fit: Regression, series: int) -> str:
    """The fit with its numbers."""
    if np.isnan(fit.sse[series]):
        return "no fit"
    found = dict(zip(fit.names, fit.coefficients[series].tolist(), strict=True))

    def more(value: float, of: str) -> str:
        return f"{MINUS if value < 0 else '+'} {significant(abs(value), 4)} × {of}"

    slope, unit = found["slope"], g.unit
    if name == "power":
        return f"{unit} = {significant(float(np.exp(found['intercept'])), 5)} × t^{significant(slope, 4)}"
    if name == "logarithmic":
        return f"{unit} = {significant(found['intercept'], 5)} {more(slope, 'ln t')}"
    if name == "indicators":
        return f"{unit} = level of the season {more(slope, 't')}"
    if name == "harmonics":
        level = "level of the weekday" if g.how.weekday is not None else significant(found["intercept"], 5)
        waves = "a wave" if g.how.pairs == 1 else f"{g.how.pairs} waves"
        return f"{unit} = {level} {more(slope, 't')} + {waves} a year"
    bent = f" {more(found['t2'], 't²')}" if "t2" in found else ""
    return f"{unit} = {significant(found['intercept'], 5)} {more(slope, 't')}{bent}"


def _why_none(g: Ground, name: str, fit: Regression, series: int) -> str:
    """Why a series has no fit, where that is not told by its periods alone."""
    if not np.isnan(fit.sse[series]):
        return ""
    n = int((g.span.used[series] > 0).sum())
    if n > fit.terms:
        return f"{fit.terms} coefficients cannot be told apart by these {n} {g.grid.kind}s: some are alike."
    return (
        f"{fit.terms} coefficients take {fit.terms + 1} {g.grid.kind}s, and {n} lie in the fit span. "
        "Take a method with fewer, or widen the fit span."
    )
