"""The side sheet of Smooth: smoothers as cards, which errs least, and what they say of the next period."""

from __future__ import annotations

from functools import partial

from msgspec.structs import replace

from oat_tide.core.language import counted, nouns, phrase
from oat_tide.core.working.number_format import compact, significant
from oat_tide.plan.edits import Edit, edit
from oat_tide.plan.parts.part import LONGEST_WINDOW
from oat_tide.plan.parts.smooth import MOST_SMOOTHERS, Smooth, Smoother
from oat_tide.plan.paths import P
from oat_tide.stages.common import titled
from oat_tide.stages.deck import Button, Card, Cards, Choice, Curve, Inset, InsetMark, Item, Note, control
from oat_tide.stages.reach import (
    is_spencer,
    is_window,
    size_of,
    spans,
    weights_of,
    why_no_forecast,
    why_no_span,
)
from oat_tide.stages.smooth import words
from oat_tide.stages.smooth.curve import ErrorCurve
from oat_tide.stages.smooth.exponential import Fitted
from oat_tide.stages.smooth.ground import Ground
from oat_tide.stages.smooth.made import Made

_KIND_NAMES = (
    phrase("rolling average"),
    phrase("rolling median"),
    phrase("rolling total"),
    phrase("rolling minimum"),
    phrase("rolling maximum"),
    phrase("trimmed average"),
    phrase("weighted average"),
    phrase("simple exponential smoothing"),
    phrase("exponential smoothing with trend"),
    phrase("exponential smoothing with damped trend"),
)
_ADDED = {
    phrase("average"): Smoother(),
    phrase("weighted"): Smoother(kind="weighted", window=3),
    phrase("median"): Smoother(kind="median", window=5),
    phrase("exponential"): Smoother(kind="level"),
    phrase("with trend"): Smoother(kind="trend"),
    phrase("centred"): Smoother(place="around", window=12),
    phrase("total"): Smoother(kind="total", window=12),
}
_UNITS = ("period", "day", "week", "month", "quarter", "year")


def curve_of(ground: Ground, place: int) -> Curve:
    """The curve of a smoother: the one in hand is the strongest."""
    label = ground.labels[place]
    return Curve(
        f"smoothed_{place}", "smoothed", label=label, dash=place, shade=1.0 if place == ground.hand else 0.75
    )


def sheet(ground: Ground, told: ErrorCurve | None, made: dict[int, Made]) -> tuple[Item, ...]:
    """Return the items of the side sheet, in order."""
    ask = ground.ask
    full = len(ask.smoothers) >= MOST_SMOOTHERS
    cards = tuple(_card(ground, place, made.get(place)) for place in range(len(ask.smoothers)))
    items: list[Item] = [
        control(
            P.smooth.of,
            ask,
            names=(phrase("actual"), phrase("deseasonalised")),
            why_nots=("", ground.no_season),
        ),
        Cards("smoothers", cards, ground.hand, lambda place: edit(P.smooth.hand, place)),
        Note(
            phrase(
                "{most_smoothers} smoothers are as many as can be distinguished.",
                most_smoothers=MOST_SMOOTHERS,
            ),
            "small",
        )
        if full
        else Choice(phrase("Add"), "", tuple((name, _with(ask, added)) for name, added in _ADDED.items())),
    ]
    if ground.hand < 0:
        said = phrase("A smoother shows the level without the noise, and forecasts the next period.")
        items.append(Note(said, "small"))
    else:
        items += _errors(ground, told)
        items += _next(ground)
    return (*items, control(P.smooth.faded, ask))


def _with(ask: Smooth, added: Smoother) -> Edit:
    return edit(P.smooth, replace(ask, smoothers=(*ask.smoothers, added), hand=len(ask.smoothers)))


def _card(ground: Ground, place: int, smoother: Made | None) -> Card:
    label = ground.labels[place]
    return Card(
        titled(label),
        words.told(ground, smoother, 0),
        _controls(ground, place, smoother) if place == ground.hand else (),
        _acts(ground.ask, place, ground.hand),
        curve_of(ground, place),
    )


def _acts(ask: Smooth, place: int, hand: int) -> tuple[tuple[str, Button], ...]:
    """What can be done to a smoother as a whole: the one in hand stays so, and can be moved."""
    smoothers = ask.smoothers

    def keeping(others: tuple[Smoother, ...], in_hand: int) -> Edit:
        return edit(P.smooth, replace(ask, smoothers=others, hand=max(in_hand, 0)))

    moved = (*smoothers[: place - 1], smoothers[place], smoothers[place - 1], *smoothers[place + 1 :])
    up = None
    if place:
        up = keeping(moved, {place: place - 1, place - 1: place}.get(hand, hand))
    left = (*smoothers[:place], *smoothers[place + 1 :])
    shown = smoothers[place].shown
    acts = (
        ("↑", Button(phrase("Move up"), up, "" if place else phrase("It is the first."))),
        (
            "◉" if shown else "○",
            Button(
                phrase("Hide it") if shown else phrase("Show it"),
                edit(P.smooth.smoothers[place].shown, not shown),
            ),
        ),
        ("×", Button(phrase("Take it out"), keeping(left, hand - (hand > place or hand == len(left))))),
    )
    return acts if place == hand else acts[1:]


def _controls(ground: Ground, place: int, smoother: Made | None) -> tuple[Item, ...]:
    """The controls and figures of the smoother in hand."""
    ask, where = ground.smoother(place), P.smooth.smoothers[place]
    kind = control(where.kind, ask, names=_KIND_NAMES)
    fitted = None if smoother is None else smoother.fitted
    controls = _window(ground, place) if is_window(ask) else _constants(ground, place, fitted)
    why = why_no_forecast(ask)
    said = words.in_words(ground, smoother, 0)
    told = "begun_level", "begun_trend", "calm", "lag", "mae", "half", "nine"
    return (
        kind,
        *controls,
        Note(f"{said}." if said else ""),
        *((Note(why, "small"),) if why else ()),
        *_details(ground, place, told),
    )


def _details(ground: Ground, place: int, told: tuple[str, ...]) -> tuple[Item, ...]:
    """The facts of a smoother, folded."""
    facts = ground.d.facts(*(f"{name}_{place}" for name in told))
    if not facts:
        return ()
    return (Cards(f"details of {place}", (Card(phrase("Lag and errors"), "", tuple(facts)),), folds=True),)


def _window(ground: Ground, place: int) -> tuple[Item, ...]:
    """Length, place, weights, and what stands at ends and over gaps."""
    ask, where, grid = ground.smoother(place), P.smooth.smoothers[place], ground.grid
    spencer, own = is_spencer(ask), ask.kind == "weighted" and isinstance(ask.weights, tuple)
    unit = ask.told_in if spans(ask, grid) else grid.kind
    items: list[Item] = []
    if ask.place == "from-to" and not spencer:
        most = max(2 * grid.cycle, ask.back, ask.ahead, 12)
        items += (
            control(where.back, ask, unit=phrase("{kinds} back", kinds=nouns(grid.kind)), slides_to=most),
            control(where.ahead, ask, unit=phrase("{kinds} ahead", kinds=nouns(grid.kind)), slides_to=most),
        )
    else:
        fixed = (
            phrase("Spencer's window has 15 terms.")
            if spencer
            else phrase("As many as there are weights.")
            if own
            else ""
        )
        most = max(min(ground.d.past, LONGEST_WINDOW), ask.window, 12)
        items.append(
            control(
                where.window,
                ask,
                now=size_of(ask),
                lo=1 if spans(ask, grid) else 2,
                unit=nouns(unit),
                slides_to=most,
                why_not=fixed,
            )
        )
        if (
            ask.kind != "weighted"
            and ask.place == "before"
            and grid.kind in ("day", "week", "month", "quarter")
        ):
            fits = tuple(
                each
                for each in _UNITS
                if each not in (grid.kind, ask.told_in) and not why_no_span(each, grid)
            )
            choices = tuple(each for each in _UNITS if each in (*fits, ask.told_in))
            names = tuple(nouns(grid.kind if each == "period" else each) for each in choices)
            items.append(control(where.told_in, ask, choices=choices, names=names))
    stays = phrase("Spencer's window is centred.") if spencer else ""
    items.append(
        control(
            where.place, ask, names=(phrase("trailing"), phrase("centred"), phrase("custom")), why_not=stays
        )
    )
    if ask.kind == "weighted":
        items += _weights(ground, place)
    if ask.kind == "trimmed":
        items.append(control(where.trim, ask, slides_to=max(3, ask.trim)))
    items.append(control(where.ends, ask, names=(phrase("blank"), phrase("shorter window"))))
    items.append(control(where.gaps, ask, names=(phrase("blank"), phrase("skipped"))))
    return tuple(items)


def _weights(ground: Ground, place: int) -> tuple[Item, ...]:
    ask, where = ground.smoother(place), P.smooth.smoothers[place]
    weights = weights_of(ask)
    choices = ("rising", "equal", "halving", "spencer", weights)
    names = (
        phrase("rising by one"),
        phrase("equal"),
        phrase("halving"),
        phrase("Spencer's 15, centred"),
        phrase("own"),
    )
    total = sum(weights)
    shares = " ".join(significant(100 * weight / total, 2) for weight in weights[:12])
    more = " …" if len(weights) > 12 else ""
    fixed = phrase("Spencer's weights are what they are.") if is_spencer(ask) else ""
    wanted = size_of(ask) if ask.place == "from-to" else 0
    return (
        control(
            where.weights,
            ask,
            kind="pick",
            choices=choices,
            names=names,
            title=phrase("Shape of the weights"),
        ),
        control(
            where.weights,
            ask,
            kind="weights",
            now=weights,
            choices=(ground.ask.drawn,),
            lo=wanted,
            why_not=fixed,
        ),
        Note(
            phrase(
                "Weights in % of their sum ({total}), newest first: {shares}{more}.",
                total=compact(total),
                shares=shares,
                more=more,
            ),
            "small",
        ),
        control(P.smooth.drawn, ground.ask),
    )


def _constants(ground: Ground, place: int, fitted: Fitted | None) -> tuple[Item, ...]:
    """The smoothing constants, fitted or set, with the form and the start."""
    ask, where = ground.smoother(place), P.smooth.smoothers[place]
    found = fitted.constants if fitted else None
    fixed = (
        phrase("Fitted: the least sum of squared one-step errors. Choose “set” to set it.")
        if ask.constants == "fitted"
        else ""
    )
    names = {"level": ("alpha",), "trend": ("alpha", "beta"), "damped": ("alpha", "beta", "phi")}[ask.kind]

    def now(name: str) -> float:
        return getattr(ask, name) if found is None else float(getattr(found, name)[0])

    if ask.begins == "fitted":
        start = phrase("the least error over the whole history")
    elif ask.kind == "level":
        start = phrase("the first known period")
    else:
        start = phrase("the fifth known period, its trend as the mean change up to there")
    ahead = {"level": "l", "trend": phrase("(l + b)"), "damped": phrase("(l + φ b)")}[ask.kind]
    return (
        control(where.constants, ask, names=(phrase("fitted"), phrase("set"))),
        *(control(getattr(where, name), ask, now=now(name), why_not=fixed) for name in names),
        control(where.begins, ask, names=(phrase("by rule"), phrase("fitted"))),
        Note(
            phrase(
                "l = α × actual + (1 − α) × {ahead} of the period before. It starts at {start}.",
                ahead=ahead,
                start=start,
            ),
            "small",
        ),
    )


def _errors(ground: Ground, told: ErrorCurve | None) -> list[Item]:
    """Which window errs least."""
    ask = ground.ask
    by = phrase("constant") if told is not None and told.axis == "constants" else phrase("length")
    items: list[Item] = [
        Note(phrase("Which {by} has the smallest error?", by=by), "head"), control(P.smooth.measure, ask)
    ]  # fmt: skip
    if told is None:
        return [*items, Note(partial(words.curve_note, ground, None), "small")]
    unit = ground.grid.kind
    items.append(
        Note(
            phrase(
                "{measure} of the one-step forecast by {by}, on the same {targets}",
                measure=ask.measure,
                by=by,
                targets=counted(told.targets, unit),
            ),
            "small",
        )
    )
    roles = {"curve_mean": "smoothed", "curve_weighted": "weighted", "curve_level": "smoothed"}
    drawn = [Curve(name, roles[name]) for name in told.names]  # type: ignore[arg-type]
    if told.year is not None:
        drawn.insert(0, Curve("curve_year", "average", label=phrase("same {unit} last year", unit=unit)))
    marks = partial(_marks, ground, told, len(drawn) - 1)
    items.append(
        Inset(phrase("Error by ") + by, told.axis, tuple(drawn), partial(_pick, ground, told), told.at, marks)
    )
    items.append(Note(partial(words.curve_note, ground, told), "small"))
    items += ground.d.facts("error_year", "chance")
    if told.axis == "lengths":
        history = ground.values.shape[1]
        now = ask.longest or len(told.steps)
        items.append(
            control(
                P.smooth.longest,
                ask,
                now=now,
                lo=2,
                hi=min(LONGEST_WINDOW, max(history - 4, 2)),
                unit=nouns(unit),
            )
        )
    return items


def _marks(ground: Ground, told: ErrorCurve, curve: int) -> tuple[InsetMark, ...]:
    """The choice in hand and the least error, on a curve."""
    values = told.curve()[0]

    def mark(column: int, words: str, kind: str) -> InsetMark:
        said = f"{words}: {told.steps[column]:g} · {significant(float(values[column]), 3)}"
        return InsetMark(column, curve, said, kind)

    found = [mark(told.at, phrase("selected"), "now")] if told.at >= 0 else []
    if told.least not in (-1, told.at):
        found.append(mark(told.least, phrase("smallest"), "least"))
    return tuple(found)


def _pick(ground: Ground, told: ErrorCurve, column: int) -> Edit | None:
    """The length or constant clicked becomes that of the smoother in hand."""
    place, ask = ground.hand, ground.smoother(ground.hand)
    if told.axis == "constants":
        return edit(P.smooth.smoothers[place], replace(ask, constants="set", alpha=told.steps[column]))
    length = int(told.steps[column])
    if length < 2:
        return None
    weights = ask.weights if not isinstance(ask.weights, tuple) and not is_spencer(ask) else "rising"
    return edit(
        P.smooth.smoothers[place],
        replace(ask, window=length, place="before", told_in="period", weights=weights),
    )


def _next(ground: Ground) -> list[Item]:
    """What every smoother forecasts for the next period, side by side, with what sold where that is known."""
    d = ground.d
    every = range(len(ground.ask.smoothers))
    rows = d.facts(*(f"{name}_{place}" for place in every for name in ("next_back", "next")))
    items: list[Item] = [
        Note(phrase("Forecasts for {first}", first=ground.grid.named(d.first + d.past)), "head")
    ]
    if not rows:
        items.append(Note(phrase("No smoother forecasts anything."), "small"))
    items += (*rows, *d.facts("sold"))
    on = control(P.smooth.on, ground.ask, unit=nouns(d.grid.kind), slides_to=max(12, ground.ask.on))
    return [*items, on] if rows else items
