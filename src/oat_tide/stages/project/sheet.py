"""The side sheet of Project."""

from __future__ import annotations

from functools import partial

from msgspec.structs import replace

from oat_tide.core.methods import METHODS
from oat_tide.core.working.numerals import number_of, significant
from oat_tide.plan.edits import Edit, edit
from oat_tide.plan.paths import P
from oat_tide.stages.deck import Act, Card, Cards, Curve, Fact, Item, Note, knob
from oat_tide.stages.project import words
from oat_tide.stages.project.ground import BY_YEAR, MOST_YEARS, Ground
from oat_tide.stages.project.insets import insets
from oat_tide.stages.project.judged import TABLE
from oat_tide.stages.project.laid import Laid
from oat_tide.stages.project.later import told_of_later
from oat_tide.stages.project.methods import offered
from oat_tide.stages.project.together import limits_if_true, limits_of

_MOST_OVER = 6
_GROWTH = "ahead_growth", "ahead_compound", "ahead_a_year"
_OWN = {
    "mean": ("last",),
    "rate": ("rate",),
    "logistic": ("ceiling",),
    "weighted-line": ("half",),
    "harmonics": ("pairs",),
}
"""The settings of a method."""


def sheet(g: Ground, laid: Laid, refused: str) -> tuple[Item, ...]:
    """The methods, how far they reach, and the fit as an equation with its facts."""
    ask, d, kind = g.ask, g.d, g.grid.kind
    to_year_end = "the end of the fiscal year sets it" if ask.reach != "periods" else ""
    begin, end = d.grid.first_day(d.first), d.grid.last_day(d.first + g.sight.columns - 1)
    names = offered(g, ask)
    hand = names.index(ask.method) if ask.method in names else -1
    logs = laid.regressed is not None and laid.regressed.logs
    median = "" if logs else "only a fit on logarithms has a median apart from its mean"
    return (
        Cards("methods", tuple(_card(g, laid, name) for name in names), hand, partial(_chosen, g, names)),
        knob(P.project.every, ask),
        *((Note(refused, "small"),) if refused else ()),
        Note("", "cautions"),
        knob(P.project.reach, ask, names=("so many periods", "fiscal year end")),
        knob(
            P.project.horizon,
            ask,
            now=g.horizon,
            hi=MOST_YEARS * d.grid.cycle,
            slides_to=max(2 * d.grid.cycle, g.horizon),
            unit=f"{kind}s",
            why_not=to_year_end,
        ),
        knob(P.project.since, ask, lo=begin, hi=end),
        knob(P.project.until, ask, lo=begin, hi=end),
        *(
            (knob(P.project.numbered, ask, names=("from 1", "by calendar year")),)
            if kind == "year" and ask.method in BY_YEAR
            else ()
        ),
        knob(P.project.mean, ask, why_not=median),
        *((Note(partial(words.mean_said, g, laid), "small"),) if ask.mean and logs else ()),
        knob(P.project.positive, ask),
        Note("What is fitted", "head"),
        Note(laid.equation),
        Note(f"Source: {METHODS[laid.name].source}.", "small"),
        Note(partial(words.first_period, g, laid), "small"),
        *(Fact(name) for name in ("growth", "ahead_total", *limits_of(ask), *_GROWTH) if name in d.figures),
        *_if_true(g, laid),
        *told_of_later(g),
        *_table(g, laid),
        knob(P.project.residuals, ask),
        *insets(g),
    )


def _if_true(g: Ground, laid: Laid) -> tuple[Item, ...]:
    """The interval of a regression beside that from past starts."""
    if laid.regressed is None or not g.horizon:
        return ()
    return (
        Note("If the curve is true and errors are independent", "head"),
        Note(partial(words.if_true, g), "small"),
        *(Fact(name) for name in limits_if_true(g.ask) if name in g.d.figures),
    )


def _chosen(g: Ground, names: tuple[str, ...], place: int) -> Edit:
    """Another method is chosen; one that was laid over it is so no more."""
    name = names[place]
    over = tuple(each for each in g.ask.over if each != name)
    return edit(P.project, replace(g.ask, method=name, over=over))


def _card(g: Ground, laid: Laid, name: str) -> Card:
    method, ask = METHODS[name], g.ask
    chosen = name == ask.method
    laid_over = name in ask.over
    others = tuple(each for each in ask.over if each != name)
    full = len(ask.over) >= _MOST_OVER and not laid_over
    act = Act(
        "Take it off the chart" if laid_over else "Lay it over the chart",
        None if full else edit(P.project.over, others if laid_over else (*ask.over, name)),
        f"{_MOST_OVER} are as many as can be told apart." if full else "",
    )
    own = tuple(_setting(g, field) for field in _OWN.get(name, ())) if chosen else ()
    line = Curve("projected", "projected") if chosen else None
    if laid_over and f"projected_{name}" in g.d.figures:
        line = Curve(f"projected_{name}", "laid", dash=ask.over.index(name) + 1, shade=0.8)
    acts = () if chosen else (("◉" if laid_over else "○", act),)
    said = _latest(g, "projected" if chosen else f"projected_{name}")
    shown = None if chosen or laid_over else edit(P.project.over, (*ask.over[: _MOST_OVER - 1], name))
    return Card(method.title, said, own, acts, line, shown)


def _latest(g: Ground, name: str) -> str:
    """The last figure that a method on the chart projects."""
    if name not in g.d.figures or not g.horizon:
        return ""
    column = g.past + g.horizon - 1
    said = words.in_short(g.d.figures[name], 0, column)
    return f"{g.grid.label(g.d.first + column)}: {said}" if said else "nothing is projected"


def _setting(g: Ground, field: str) -> Item:
    where = getattr(P.project, field)
    if field not in ("last", "half"):
        return knob(where, g.ask)
    now = g.how.last if field == "last" else round(g.how.half)
    return knob(where, g.ask, now=now, lo=1, slides_to=max(2 * g.grid.cycle, now), unit=f"{g.grid.kind}s")


def _table(g: Ground, laid: Laid) -> tuple[Item, ...]:
    """The coefficients with how sure they are, and the fit as a whole."""
    if laid.regressed is None:
        return tuple(Fact(name) for name in laid.facts if name in g.d.figures)
    items: list[Item] = [Note("Coefficients", "head"), knob(P.project.sure, g.ask)]
    for name in laid.facts:
        items.append(Fact(name))
        items.append(Note(partial(_sureness, g, name), "small"))
    items.append(Note("The fit as a whole", "head"))
    return (*items, *(Fact(name) for name in (*TABLE, "r2_original") if name in g.d.figures))


def _sureness(g: Ground, name: str, series: int) -> str:
    """The standard error, t, p and limits of a coefficient in a line."""

    def told(part: str) -> str:
        return significant(g.d.fact(f"{name}_{part}", series), 3)

    return (
        f"standard error {told('error')} · t {told('t')} · p {_of_chance(told('p'))} · "
        f"{g.ask.sure:g} %: {told('from')} to {told('to')}"
    )


def _of_chance(p: str) -> str:
    """A p as tables have it: those below a thousandth are all alike."""
    return "below 0.001" if p and number_of(p) is not None and (number_of(p) or 0) < 0.001 else p
