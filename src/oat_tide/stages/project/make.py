"""Project: what comes next? A straight line or a growth curve on the fit span, carried over the horizon."""

from __future__ import annotations

from typing import Any

import numpy as np

from oat_tide.core.comparison.change import share
from oat_tide.core.exact import Values
from oat_tide.core.regression import t_quantile
from oat_tide.core.series.panel import PART, Sight
from oat_tide.core.working.tree import Given, Op, Working
from oat_tide.plan.edits import P
from oat_tide.plan.parts.project import Project
from oat_tide.stages.common import as_known_now, named
from oat_tide.stages.deck import Band, Curve, Deck, Explain, Fact, Item, Note, knob
from oat_tide.stages.deck.draft import Draft, cell
from oat_tide.stages.lines import base
from oat_tide.stages.project import words
from oat_tide.stages.project.fit import MOST_YEARS, Fit, fit, horizon_of
from oat_tide.stages.project.handles import handles

NAME = "project"
LEVELS = (80.0, 95.0)
"""The levels of the prediction intervals that are always shown, in percent."""


def make(
    sight: Sight, ask: Project, needs: tuple[Any, ...], late: Any, levels: tuple[float, ...] = LEVELS
) -> Deck:
    """The deck of Project.

    Args:
        levels: of the prediction intervals, in percent.
    """
    (intake,) = needs
    horizon, past = horizon_of(ask, sight), sight.past.columns
    d = Draft(NAME, sight, past + horizon)
    for name in {"actual", base(intake)}:
        d.borrow(intake, name)
    got = fit(sight, ask, d.columns)
    _inputs(d, intake, got)
    _line(d, got)
    _curve(d, got, ask, past, past + horizon)
    for level in levels:
        _interval(d, got, level, past)
    _differences(d, intake, sight)
    _facts(d, got)
    unit = intake.figures["actual"].unit
    return d.deck(
        bands=(
            Band(
                unit,
                (
                    *(
                        Curve(f"lower_{level:g}", "interval", f"upper_{level:g}")
                        for level in reversed(levels)
                    ),
                    Curve("fitted", "fitted", label="fitted"),
                    Curve("projected", "projected", label="projected"),
                    Curve("actual", "actual", label="actual"),
                ),
            ),
        ),
        sheet=lambda: _sheet(d, sight, ask, got, horizon, unit),
        handles=handles(d, sight, got, horizon),
        marks=intake.marks,
        title=lambda s: f"{named(d.keys[s])}: {words.title(d, past, horizon)}",
        subtitle=lambda s: words.subtitle(d, got, s, unit, levels) + as_known_now(sight),
        finding=lambda s: words.finding(d, got, s, past + horizon - 1),
        cautions=lambda s: words.cautions(d, sight, ask, got, s, horizon),
    )


def _inputs(d: Draft, intake: Deck, got: Fit) -> None:
    """The hidden figures that the fit is reckoned from."""
    scale = "logarithm of actual, in the fit" if got.growth else "actual in the fit"

    def taken(series: int, column: int) -> Working:
        own = cell(intake, base(intake), series, column)
        return Op("ln", (own,)) if got.growth else own

    def first(series: int) -> str:
        return d.grid.label(d.first + int(got.start[series, 0]))

    d.add(
        "t",
        "period number",
        np.where(np.isnan(got.line.slope), np.nan, got.t),
        lambda s, c: Given(float(got.t[s, c]), f"counted from {first(s)} = 1"),
        shown=False,
    )
    d.add(
        "used",
        "in the fit",
        got.used,
        lambda s, c: Given(float(got.used[s, c]), "1 in the fit, 0 not"),
        shown=False,
    )
    d.add("z", scale, got.z, taken, shown=False)


def _line(d: Draft, got: Fit) -> None:
    """The fit itself: hidden facts, each reckoned from the inputs."""
    line, last = got.line, d.past - 1

    def over(name: str, series: int) -> Working:
        return d.run(name, series, 0, last)

    def hidden(name: str, label: str, values: Values, working: Any) -> None:
        d.add(name, label, values, lambda s, c: working(s), fact=True, shown=False)

    def deviation(s: int) -> Working:
        return Op("*", (over("used", s), Op("-", (over("t", s), d.cell("t_mean", s)))))

    def from_mean(s: int) -> Working:
        return Op("-", (over("z", s), d.cell("z_mean", s)))

    hidden("n", "periods in the fit", line.n, lambda s: Op("sum", (over("used", s),)))
    hidden(
        "t_mean",
        "mean period number",
        line.t_mean,
        lambda s: Op("/", (Op("sum", (Op("*", (over("used", s), over("t", s))),)), d.cell("n", s))),
    )
    hidden(
        "z_mean",
        f"mean of {d.figures['z'].label}",
        line.z_mean,
        lambda s: Op("/", (Op("sum", (over("z", s),)), d.cell("n", s))),
    )
    hidden(
        "sxx",
        "squared spread of period numbers",
        line.sxx,
        lambda s: Op("sum", (Op("^", (deviation(s), Given(2.0))),)),
    )
    d.add(
        "slope",
        "slope of ln" if got.growth else f"slope {d.grid.a_period}",
        line.slope,
        lambda s, c: Op("/", (Op("sum", (Op("*", (deviation(s), from_mean(s))),)), d.cell("sxx", s))),
        fact=True,
        signed=True,
    )
    d.add(
        "intercept",
        "intercept of ln" if got.growth else "intercept",
        line.intercept,
        lambda s, c: Op("-", (d.cell("z_mean", s), Op("*", (d.cell("slope", s), d.cell("t_mean", s))))),
        fact=True,
    )
    d.add(
        "residual",
        "residual" + (" of ln" if got.growth else ""),
        got.z - line.at(got.t),
        lambda s, c: Op(
            "-",
            (
                d.cell("z", s, c),
                Op("+", (d.cell("intercept", s), Op("*", (d.cell("slope", s), d.cell("t", s, c))))),
            ),
        ),
        shown=False,
    )
    hidden(
        "sse",
        "sum of squared residuals",
        line.sse,
        lambda s: Op("sum", (Op("^", (over("residual", s), Given(2.0))),)),
    )
    hidden(
        "sst",
        "sum of squared deviations",
        line.sst,
        lambda s: Op("sum", (Op("^", (from_mean(s), Given(2.0))),)),
    )
    d.add(
        "s",
        "one-step error" + (" of ln" if got.growth else ""),
        line.s,
        lambda s, c: Op("sqrt", (Op("/", (d.cell("sse", s), Op("-", (d.cell("n", s), Given(2.0))))),)),
        fact=True,
    )
    d.add(
        "r2",
        "R² on the log scale" if got.growth else "R²",
        line.r2,
        lambda s, c: Op("-", (Given(1.0), Op("/", (d.cell("sse", s), d.cell("sst", s))))),
        fact=True,
    )


def _curve(d: Draft, got: Fit, ask: Project, past: int, stop: int) -> None:
    """Fitted and projected: two rows, for a fit is not a record."""
    place = np.arange(d.columns)[None]
    on_line = got.line.at(got.t)
    mean = got.growth and ask.mean
    unit = d.figures["actual"].unit

    def raised(series: int, column: int) -> Working:
        line = Op(
            "+",
            (d.cell("intercept", series), Op("*", (d.cell("slope", series), d.cell("t", series, column)))),
        )
        if not got.growth:
            return line
        curve = Op("exp", (line,))
        if not mean:
            return curve
        half_variance = Op("/", (Op("^", (d.cell("s", series), Given(2.0))), Given(2.0)))
        return Op("*", (curve, Op("exp", (half_variance,))))

    values = np.exp(on_line) if got.growth else on_line
    if mean:
        values = values * np.exp(got.line.s**2 / 2)
    ahead = (place >= past) & (place < stop)
    d.add(
        "fitted",
        "Fitted",
        np.where((place >= got.start) & (place <= got.end), values, np.nan),
        raised,
        adds_up=True,
        unit=unit,
        why_blank=lambda s, c: "It lies outside the fit span.",
    )
    d.add(
        "projected",
        "Projected",
        np.where(ahead, values, np.nan),
        raised,
        adds_up=True,
        unit=unit,
        why_blank=lambda s, c: "Only periods after the as-of are projected.",
    )


def _interval(d: Draft, got: Fit, level: float, past: int) -> None:
    """A prediction interval for single periods."""
    line, name = got.line, f"{level:g}"
    quantile = t_quantile(level / 100, line.n - 2)
    quantile = np.where(np.isnan(line.slope), np.nan, quantile)
    ahead = ~np.isnan(d.figures["projected"].values)
    on_line = np.where(ahead, line.at(got.t), np.nan)
    half = np.where(ahead, line.half_width(got.t, quantile), np.nan)

    def width(s: int, c: int) -> Working:
        away = Op("^", (Op("-", (d.cell("t", s, c), d.cell("t_mean", s))), Given(2.0)))
        inner = Op(
            "+", (Given(1.0), Op("/", (Given(1.0), d.cell("n", s))), Op("/", (away, d.cell("sxx", s))))
        )
        return Op("*", (d.cell(f"t_{name}", s), d.cell("s", s), Op("sqrt", (inner,))))

    def centre(s: int, c: int) -> Working:
        if not got.growth:
            return d.cell("projected", s, c)
        return Op("+", (d.cell("intercept", s), Op("*", (d.cell("slope", s), d.cell("t", s, c)))))

    def edge(sign: str) -> Any:
        def working(s: int, c: int) -> Working:
            bound = Op(sign, (centre(s, c), d.cell(f"half_{name}", s, c)))
            return Op("exp", (bound,)) if got.growth else bound

        return working

    d.add(
        f"t_{name}",
        f"t for {name} %",
        quantile,
        lambda s, c: Op("t", (Given(level / 100, "level"), Op("-", (d.cell("n", s), Given(2.0))))),
        fact=True,
        shown=False,
    )
    d.add(
        f"half_{name}",
        f"half of the {name} % interval" + (" of ln" if got.growth else ""),
        half,
        width,
        shown=False,
    )
    for side, sign, value, to in (
        ("lower", "-", on_line - half, "from"),
        ("upper", "+", on_line + half, "to"),
    ):
        d.add(
            f"{side}_{name}",
            f"{name} % {to}",
            np.exp(value) if got.growth else value,
            edge(sign),
            unit=d.figures["projected"].unit,
            why_blank=lambda s, c: "Only projected periods have an interval.",
        )


def _differences(d: Draft, intake: Deck, sight: Sight) -> None:
    """Actual minus projected, where whole periods have sold since."""
    whole = np.full(d.flags.shape, np.nan)
    whole[:, : sight.columns] = np.where(sight.all("flags").astype(int) & PART, np.nan, sight.all("values"))
    projected = d.figures["projected"].values
    difference = whole - projected

    def why_not(series: int, column: int) -> str:
        if column < d.past:
            return "Only periods after the as-of are projected."
        return (
            "It has not sold as a whole period yet."
            if np.isnan(difference[series, column])
            else ("The projected figure is not above zero: a share of it means nothing.")
        )

    unit = intake.figures["actual"].unit
    d.add(
        "difference",
        "Difference",
        difference,
        lambda s, c: Op("-", (cell(intake, "actual", s, c), d.cell("projected", s, c))),
        unit=unit,
        sees_later=True,
        signed=True,
        adds_up=True,
        why_blank=why_not,
    )
    d.add(
        "difference_share",
        "% of projected",
        share(difference, projected),
        lambda s, c: Op(
            "/", (Op("*", (Given(100.0), d.cell("difference", s, c))), d.cell("projected", s, c))
        ),
        unit="%",
        sees_later=True,
        signed=True,
        why_blank=why_not,
    )


def _facts(d: Draft, got: Fit) -> None:
    """Facts beside the fit: growth in percent, the interval of the slope, R² on the original scale."""
    line = got.line
    spread = np.where(np.isnan(line.slope), np.nan, t_quantile(0.95, line.n - 2)) * line.slope_error()

    def margin(s: int) -> Working:
        quantile = Op("t", (Given(0.95, "level"), Op("-", (d.cell("n", s), Given(2.0)))))
        return Op("*", (quantile, Op("/", (d.cell("s", s), Op("sqrt", (d.cell("sxx", s),))))))

    def bound(sign: str) -> Explain:
        return lambda s, c: Op(sign, (d.cell("slope", s), margin(s)))

    for name, sign, value in (("from", "-", line.slope - spread), ("to", "+", line.slope + spread)):
        d.add(f"slope_{name}", f"slope, 95 % {name}", value, bound(sign), fact=True, signed=True)
    if not got.growth:
        return
    d.add(
        "growth",
        f"growth {d.grid.a_period}",
        100 * (np.exp(line.slope) - 1),
        lambda s, c: Op("*", (Given(100.0), Op("-", (Op("exp", (d.cell("slope", s),)), Given(1.0))))),
        fact=True,
        unit="%",
        signed=True,
    )
    _original_r2(d, got)


def _original_r2(d: Draft, got: Fit) -> None:
    own = d.figures.get("settled", d.figures["actual"])
    actual = np.where(got.used > 0, own.values, np.nan)
    last = d.past - 1

    def run(name: str, s: int) -> Working:
        return d.run(name, s, 0, last)

    def squares(name: str, s: int) -> Working:
        return Op("sum", (Op("^", (run(name, s), Given(2.0))),))

    with np.errstate(invalid="ignore", divide="ignore"):
        n = np.where(np.isnan(got.line.slope), np.nan, got.line.n)
        mean = np.nansum(actual, axis=1, keepdims=True) / n
        miss, off = actual - d.figures["fitted"].values, actual - mean
        sse, sst = (np.nansum(each**2, axis=1, keepdims=True) for each in (miss, off))
        r2 = np.where((sst > 0) & ~np.isnan(mean), 1 - sse / sst, np.nan)
    d.add("y", "actual in the fit", actual, lambda s, c: Op("exp", (d.cell("z", s, c),)), shown=False)
    d.add(
        "y_mean",
        "mean of actual in the fit",
        mean,
        lambda s, c: Op("/", (Op("sum", (run("y", s),)), d.cell("n", s))),
        fact=True,
        shown=False,
    )
    d.add(
        "miss",
        "actual minus fitted",
        miss,
        lambda s, c: Op("-", (d.cell("y", s, c), d.cell("fitted", s, c))),
        shown=False,
    )
    d.add(
        "off",
        "actual minus its mean",
        off,
        lambda s, c: Op("-", (d.cell("y", s, c), d.cell("y_mean", s))),
        shown=False,
    )
    d.add(
        "r2_original",
        "R² on the original scale",
        r2,
        lambda s, c: Op("-", (Given(1.0), Op("/", (squares("miss", s), squares("off", s))))),
        fact=True,
    )


def _sheet(d: Draft, sight: Sight, ask: Project, got: Fit, horizon: int, unit: str) -> tuple[Item, ...]:
    kind = d.grid.kind
    to_year_end = "the end of the fiscal year sets it" if ask.reach != "periods" else ""
    begin, end = d.grid.first_day(d.first), d.grid.last_day(d.first + sight.columns - 1)
    median = "" if got.growth else "only a growth curve has a median apart from its mean"
    return (
        knob(P.project.method, ask, names=("straight line", "growth curve")),
        knob(P.project.reach, ask, names=("so many periods", "fiscal year end")),
        knob(
            P.project.horizon,
            ask,
            now=horizon,
            hi=MOST_YEARS * d.grid.cycle,
            slides_to=max(2 * d.grid.cycle, horizon),
            unit=f"{kind}s",
            why_not=to_year_end,
        ),
        knob(P.project.since, ask, lo=begin, hi=end),
        knob(P.project.until, ask, lo=begin, hi=end),
        knob(P.project.mean, ask, why_not=median),
        Note(lambda s: "The fitted curve" if got.growth else "The fitted line", "head"),
        Note(lambda s: words.equation(d, got, s, unit)),
        Note(lambda s: words.first_period(d, got, s), "small"),
        *(
            Fact(name)
            for name in ("growth", "r2", "r2_original", "slope", "slope_from", "slope_to", "s")
            if name in d.figures
        ),
    )
