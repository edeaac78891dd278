"""The smoothers of Smooth, and what is told of them."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from msgspec import Meta

from oat_tide.core.user_error import UserError
from oat_tide.plan.options import first_of, option
from oat_tide.plan.parts.part import LONGEST_WINDOW, Part, unit

Weight = Annotated[float, Meta(ge=0, le=1000)]
Own = Annotated[tuple[Weight, ...], Meta(min_length=1, max_length=LONGEST_WINDOW)]
MOST_SMOOTHERS = 6
SPENCER_TERMS = 15

Kind = Literal[
    "mean", "median", "total", "lowest", "highest", "trimmed", "weighted", "level", "trend", "damped"
]
EXPONENTIAL = ("level", "trend", "damped")
_TYPED = {"lowest": "minimum", "highest": "maximum"}


def weights_typed(text: str) -> str | tuple[float, ...]:
    """Weights, or the name of their shape, as they are typed; with blanks, commas or semicolons between.

    Raises:
        UserError: something is no number.
    """
    if text in ("rising", "equal", "halving", "spencer"):
        return text
    try:
        return tuple(float(word) for word in text.replace(";", " ").replace(",", " ").split())
    except ValueError as error:
        raise UserError(f"--weights: “{text}” holds what is no number. Write them as in 3,2,1.") from error


class Smoother(Part, frozen=True):
    """One smoother: a window with what is taken of it, or exponential smoothing.

    Attributes:
        kind: what is taken of the window; "level", "trend" and "damped" are exponential smoothing of a level,
            of a level and trend, and of a level and a damped trend.
        told_in: the kind of period that the window is told in; "period" is the one in sight.
        back: of a window from - to, periods before its own.
        ahead: of the same, periods after its own.
        weights: the shape of those of a weighted mean, or the weights entered, the newest first; then the
            window is as long as they are many.
        trim: how many of the lowest, and of the highest, a trimmed mean goes without.
        ends: what stands where the window is not full.
        gaps: what stands where it holds a period that is not known.
        constants: whether the smoothing constants are those with the least one-step error.
        begins: whether level and trend begin by the rule, or fitted to the whole history.
        shown: whether it has its rows and its curve.
    """

    kind: Annotated[
        Kind,
        Meta(title="Method", extra_json_schema=option("kind", "what is taken of the window", words=_TYPED)),
    ] = "mean"
    window: Annotated[
        int,
        Meta(
            ge=1,
            le=LONGEST_WINDOW,
            title="Window length",
            extra_json_schema=unit("periods")
            | option("window", "length of the window, 2 to 730 (with --unit from 1)", "LENGTH"),
        ),
    ] = 6
    told_in: Annotated[
        Literal["period", "day", "week", "month", "quarter", "year"],
        Meta(
            title="Window in",
            extra_json_schema=option("unit", "unit of the window length, where periods are finer"),
        ),
    ] = "period"
    place: Annotated[
        Literal["before", "around", "from-to"],
        Meta(
            title="Window",
            extra_json_schema=option(
                "place",
                "position of the window: trailing, centred, or custom with --back and --ahead",
                words={"before": "trailing", "around": "centred", "from-to": "custom"},
            ),
        ),
    ] = "before"
    back: Annotated[
        int,
        Meta(
            ge=0,
            le=LONGEST_WINDOW,
            title="From",
            extra_json_schema=unit("back")
            | option("back", "periods back that a custom window begins", "PERIODS"),
        ),
    ] = 3
    ahead: Annotated[
        int,
        Meta(
            ge=0,
            le=LONGEST_WINDOW,
            title="To",
            extra_json_schema=unit("ahead")
            | option("ahead", "periods ahead that a custom window ends", "PERIODS"),
        ),
    ] = 1
    weights: Annotated[
        Literal["rising", "equal", "halving", "spencer"] | Own,
        Meta(
            title="Weights",
            extra_json_schema=option(
                "weights",
                "weights of a weighted mean, newest first, as in 3,2,1",
                "LIST",
                reads=weights_typed,
            ),
        ),
    ] = "rising"
    trim: Annotated[
        int,
        Meta(
            ge=1,
            le=50,
            title="Trimmed",
            extra_json_schema=unit("at each end")
            | option("trim", "values trimmed at each end by a trimmed mean", "MANY"),
        ),
    ] = 1
    ends: Annotated[
        Literal["blank", "short"],
        Meta(
            title="Incomplete window",
            extra_json_schema=option(
                "ends", "what an incomplete window gives: nothing, or that of a shorter one"
            ),
        ),
    ] = "blank"
    gaps: Annotated[
        Literal["blank", "skip"],
        Meta(
            title="Missing periods",
            extra_json_schema=option(
                "gaps", "what a missing period does to a window: leaves it blank, or is skipped"
            ),
        ),
    ] = "blank"
    constants: Annotated[Literal["fitted", "set"], Meta(title="Smoothing constants")] = "fitted"
    begins: Annotated[Literal["by rule", "fitted"], Meta(title="Start")] = "by rule"
    alpha: Annotated[
        float,
        Meta(
            ge=0.01,
            le=0.99,
            title="α, of the level",
            extra_json_schema={"step": 0.01}
            | option("alpha", "smoothing constant of the level, 0.01 to 0.99 (turns fitting off)", "A"),
        ),
    ] = 0.3
    beta: Annotated[
        float,
        Meta(
            ge=0.01,
            le=0.99,
            title="β*, of the trend",
            extra_json_schema={"step": 0.01}
            | option("beta", "smoothing constant of the trend, 0.01 to 0.99 (turns fitting off)", "B"),
        ),
    ] = 0.1
    phi: Annotated[
        float,
        Meta(
            ge=0.8,
            le=0.98,
            title="φ, of the damping",
            extra_json_schema={"step": 0.01}
            | option("phi", "damping of the trend, 0.80 to 0.98 (turns fitting off)", "PHI"),
        ),
    ] = 0.9
    shown: Annotated[bool, Meta(title="In sight")] = True

    def __post_init__(self) -> None:
        if isinstance(self.weights, tuple) and not sum(self.weights) > 0:
            raise ValueError("the weights must add up to more than zero")


class Smooth(Part, frozen=True):
    """What Smooth is asked.

    Attributes:
        of: what is smoothed: the series, or what Seasons leaves of it without its season.
        hand: the place of the smoother whose controls are open.
        on: how many periods forecasts run on beyond the as-of.
        measure: of the one-step errors.
        longest: the longest window whose error is looked at; 0 for as many as the history bears.
    """

    COMMAND: ClassVar[str] = (
        "Smooth every series of a source, and forecast the next period. One row per series and period: the "
        "smoothed figure, the one-step forecast and its error."
    )
    EXAMPLE: ClassVar[str] = "smooth sales.csv --by product --period month --kind mean --window 6"

    smoothers: Annotated[
        tuple[Smoother, ...],
        Meta(
            max_length=MOST_SMOOTHERS,
            title="Smoothers",
            extra_json_schema={"one": "Smoother"} | first_of(),
        ),
    ] = (Smoother(), Smoother(kind="weighted", window=3))
    of: Annotated[Literal["actual", "deseasonalised"], Meta(title="Smooth")] = "actual"
    hand: Annotated[int, Meta(ge=0, lt=MOST_SMOOTHERS, title="Selected smoother")] = 0
    on: Annotated[
        int,
        Meta(
            ge=1,
            le=366,
            title="Horizon",
            extra_json_schema=unit("periods") | option("horizon", "periods ahead to forecast", "PERIODS"),
        ),
    ] = 1
    measure: Annotated[Literal["MAE", "RMSE", "MAPE", "WAPE"], Meta(title="Error by")] = "MAE"
    longest: Annotated[
        int, Meta(ge=0, le=LONGEST_WINDOW, title="Lengths up to", extra_json_schema=unit("periods"))
    ] = 0
    drawn: Annotated[Literal["newest last", "newest first"], Meta(title="Weights drawn")] = "newest last"
    faded: Annotated[bool, Meta(title="Fade the actual")] = False
