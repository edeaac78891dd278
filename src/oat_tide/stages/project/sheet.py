"""The side sheet of Project."""

from __future__ import annotations

import math
from functools import partial

from msgspec.structs import replace

from oat_tide.core.language import nouns, phrase
from oat_tide.core.methods.table import METHODS
from oat_tide.core.working.number_format import number_of, significant
from oat_tide.core.working.terms import Term
from oat_tide.plan.edits import Edit, edit
from oat_tide.plan.paths import P
from oat_tide.stages.deck import Button, Card, Cards, Curve, Fact, Item, Note, control
from oat_tide.stages.methods.ground import MOST_YEARS, Ground
from oat_tide.stages.methods.room import Room
from oat_tide.stages.methods.table import ROOMS, offered
from oat_tide.stages.project import words
from oat_tide.stages.project.insets import insets
from oat_tide.stages.project.later import told_of_later
from oat_tide.stages.project.projection import Ahead, Coefficient, Projection, names, value

_MOST_OVER = 6


def sheet(g: Ground, made: Projection, room: Room, refused: str) -> tuple[Item, ...]:
    """The methods, how far they reach, and the fit as an equation with its facts.

    Args:
        room: the method that is laid.
        refused: why it stands in the place of what was asked for.
    """
    ask, d, kind = g.ask, g.d, g.grid.kind
    to_year_end = phrase("the end of the fiscal year sets it") if ask.reach != "periods" else ""
    methods = offered(g, ask)
    hand = methods.index(ask.method) if ask.method in methods else -1
    first = made.ahead.limits[0].both if made.ahead is not None and made.ahead.limits else ()
    main = () if made.ahead is None else (made.ahead.total, *first, made.ahead.growth[0])
    return (
        Cards("methods", tuple(_card(g, made, name) for name in methods), hand, partial(_chosen, g, methods)),
        control(P.project.every, ask),
        *((Note(refused, "small"),) if refused else ()),
        control(
            P.project.horizon,
            ask,
            now=g.horizon,
            hi=MOST_YEARS * d.grid.cycle,
            slides_to=max(2 * d.grid.cycle, g.horizon),
            unit=nouns(kind),
            why_not=to_year_end,
        ),
        Note("", "cautions"),
        *(Fact(name) for name in names(main)),
        *told_of_later(g, made),
        Cards("project", _folds(g, made, room, names(main)), folds=True),
    )


def _folds(g: Ground, made: Projection, room: Room, stands: tuple[str, ...]) -> tuple[Card, ...]:
    """What folds away, each under a head with its main figure; what it would hold nothing of is left out.

    Args:
        stands: facts that stand above.
    """
    laid = made.laid
    equation = Note(laid.equation), Note(partial(words.first_period, g, made, room.beside), "small")
    source = Note(phrase("Source: {source}.", source=laid.method.source), "small")
    fitted: tuple[Item, ...] = (*equation, *(Fact(name) for name in laid.beside), source)
    together = tuple(each for each in _together(made.ahead) if each.figure not in stands)
    found = (
        Card(phrase("Span and options"), words.span_said(g), _options(g, made)),
        Card(phrase("What is fitted"), "", fitted),
        Card(phrase("All periods ahead"), "", together),
        Card(phrase("If the curve is true"), "", _if_true(g, made)),
        Card(phrase("Coefficients"), _slope(made), _coefficients(g, made)),
        Card(phrase("Fit"), words.fit_said(g, made, 0), _as_a_whole(made)),
        Card(
            phrase("Residuals"),
            _autocorrelation(made),
            (control(P.project.residuals, g.ask), *(insets(g) if made.charts else ())),
        ),
    )
    return tuple(card for card in found if card.items)


def _options(g: Ground, made: Projection) -> tuple[Item, ...]:
    """What is fitted, how far it is projected, and how."""
    ask, d = g.ask, g.d
    begin, end = d.grid.first_day(d.first), d.grid.last_day(d.first + g.sight.columns - 1)
    logs = made.laid.regressed is not None and made.laid.regressed.logs
    median = "" if logs else phrase("only a fit on logarithms has a median apart from its mean")
    by_year = d.grid.kind == "year" and METHODS[ask.method].by_year
    numbered = control(P.project.numbered, ask, names=(phrase("from 1"), phrase("by calendar year")))
    return (
        control(P.project.reach, ask, names=(phrase("number of periods"), phrase("fiscal year end"))),
        control(P.project.since, ask, lo=begin, hi=end),
        control(P.project.until, ask, lo=begin, hi=end),
        *((numbered,) if by_year else ()),
        control(P.project.mean, ask, why_not=median),
        *((Note(partial(words.mean_said, g, made), "small"),) if ask.mean and logs else ()),
        control(P.project.positive, ask),
    )


def _slope(made: Projection) -> str:
    """The last coefficient, and what it is of."""
    if made.judged is None or not made.judged.coefficients:
        return ""
    own = made.judged.coefficients[-1].value
    found = value(own, 0)
    return "" if math.isnan(found) else f"{own.source.figure.label} {significant(found, 4)}"


def _autocorrelation(made: Projection) -> str:
    """The Durbin-Watson figure of the residuals."""
    found = math.nan if made.judged is None else value(made.judged.durbin_watson, 0)
    return "" if math.isnan(found) else phrase("Durbin-Watson {found}", found=significant(found, 3))


def _together(ahead: Ahead | None) -> tuple[Fact, ...]:
    """The total of all periods ahead, with its limits and growth."""
    if ahead is None:
        return ()
    limits = (edge for each in ahead.limits for edge in each.both)
    return tuple(Fact(name) for name in names((ahead.total, *limits, *ahead.growth)))


def _if_true(g: Ground, made: Projection) -> tuple[Item, ...]:
    """The interval of a regression beside that from past starts."""
    if made.if_true is None or not g.horizon:
        return ()
    limits = made.ahead.if_true if made.ahead is not None else ()
    return (
        Note(partial(words.if_true, g, made.if_true.limits), "small"),
        *(Fact(name) for each in limits for name in names(each.both)),
    )


def _chosen(g: Ground, methods: tuple[str, ...], place: int) -> Edit:
    """Another method is chosen; one that was laid over it is so no more."""
    name = methods[place]
    over = tuple(each for each in g.ask.over if each != name)
    return edit(P.project, replace(g.ask, method=name, over=over))


def _card(g: Ground, made: Projection, name: str) -> Card:
    room, ask = ROOMS[name], g.ask
    chosen = name == ask.method
    laid_over = name in ask.over
    others = tuple(each for each in ask.over if each != name)
    full = len(ask.over) >= _MOST_OVER and not laid_over
    act = Button(
        phrase("Hide from the chart") if laid_over else phrase("Show on the chart"),
        None if full else edit(P.project.over, others if laid_over else (*ask.over, name)),
        phrase("{most_over} are as many as can be distinguished.", most_over=_MOST_OVER) if full else "",
    )
    own = tuple(_setting(g, field) for field in room.settings) if chosen else ()
    line = Curve("projected", "projected") if chosen else None
    if name in made.over:
        line = Curve(f"projected_{name}", "laid", dash=ask.over.index(name) + 1, shade=0.8)
    acts = () if chosen else (("☑" if laid_over else "☐", act),)
    said = _latest(g, made.projected if chosen else made.over.get(name))
    shown = None if chosen or laid_over else edit(P.project.over, (*ask.over[: _MOST_OVER - 1], name))
    return Card(room.method.title, said, own, acts, line, shown)


def _latest(g: Ground, projected: Term | None) -> str:
    """The last figure that a method on the chart projects."""
    if projected is None or not g.horizon:
        return ""
    column = g.past + g.horizon - 1
    said = words.in_short(g, projected, 0, column)
    return f"{g.grid.label(g.d.first + column)}: {said}" if said else phrase("nothing is projected")


def _setting(g: Ground, field: str) -> Item:
    where = getattr(P.project, field)
    if field not in ("last", "half"):
        return control(where, g.ask)
    now = g.how.last if field == "last" else round(g.how.half)
    return control(where, g.ask, now=now, lo=1, slides_to=max(2 * g.grid.cycle, now), unit=nouns(g.grid.kind))


def _coefficients(g: Ground, made: Projection) -> tuple[Item, ...]:
    """The coefficients with how sure they are; of what is no regression the facts that it has."""
    if made.judged is None:
        return tuple(Fact(name) for name in made.laid.facts)
    items: list[Item] = [control(P.project.sure, g.ask)]
    for each in made.judged.coefficients:
        items += [Fact(name) for name in names((each.value,))]
        items.append(Note(partial(_sureness, each), "small"))
    return tuple(items)


def _as_a_whole(made: Projection) -> tuple[Item, ...]:
    """The figures of the fit as a whole."""
    return () if made.judged is None else tuple(Fact(name) for name in names(made.judged.whole))


def _sureness(own: Coefficient, series: int) -> str:
    """The standard error, t, p and limits of a coefficient in a line."""
    low, high = own.limits.both
    if math.isnan(value(own.error, series)):
        return phrase("no standard error: the fit leaves no degrees of freedom")
    if math.isnan(value(own.t, series)):
        return phrase("standard error 0: the fit goes through every point")
    error, t, p, lower, upper = (
        significant(value(each, series), 3) for each in (own.error, own.t, own.p, low, high)
    )
    return phrase(
        "standard error {error} · t {t} · p {of_chance} · {level:g} %: {lower} to {upper}",
        error=error,
        t=t,
        of_chance=_of_chance(p),
        level=own.limits.level,
        lower=lower,
        upper=upper,
    )


def _of_chance(p: str) -> str:
    """A p as tables have it: those below a thousandth are all alike."""
    return phrase("below 0.001") if p and number_of(p) is not None and (number_of(p) or 0) < 0.001 else p
