"""How Seasons takes a history apart, and what is set by hand of it."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from msgspec import Meta

from oat_tide.plan.options import option
from oat_tide.plan.parts.part import Pairs, Part, unit

Note = Annotated[str, Meta(max_length=500)]
Additive = Literal["additive", "multiplicative"]
LONGEST_CYCLE = 731
LEAST_SPAN = 7
"""Periods that local regression smooths a trend over at the least."""


def _check_place(place: int, cycle: int) -> None:
    """Raises ValueError for a season that a cycle does not have."""
    if place >= cycle:
        raise ValueError(f"a cycle of {cycle} has no season {place + 1}")


class ManualIndex(Part, frozen=True):
    """An index that is set by hand.

    Attributes:
        where: the series, as in `Plan.where`; it alone is meant.
        cycle: how many seasons there are.
        season: the kind of index: one of another kind means something else.
        place: the season, from 0.
        value: the index.
        note: why, in the user's words.
    """

    where: Pairs
    cycle: int
    season: Additive
    place: Annotated[int, Meta(ge=0, lt=LONGEST_CYCLE)]
    value: float
    note: Note = ""

    def __post_init__(self) -> None:
        _check_place(self.place, self.cycle)


class LeftOutRatio(Part, frozen=True):
    """A year's ratio that is left out of the index of its season.

    Attributes:
        where: the series; it alone is meant.
        cycle: how many seasons there are.
        year: the fiscal year.
        place: the season, from 0.
        note: why, in the user's words.
    """

    where: Pairs
    cycle: int
    year: int
    place: Annotated[int, Meta(ge=0, lt=LONGEST_CYCLE)]
    note: Note = ""

    def __post_init__(self) -> None:
        _check_place(self.place, self.cycle)


class Holiday(Part, frozen=True):
    """A day of every year that one does not sell on.

    Attributes:
        name: what it is called.
        month: of a fixed one; 0 for one that is counted from Easter.
        day: of the month.
        from_easter: days after Easter Sunday, below 0 before it.
    """

    name: Annotated[str, Meta(max_length=200)]
    month: Annotated[int, Meta(ge=0, le=12)] = 0
    day: Annotated[int, Meta(ge=0, le=31)] = 0
    from_easter: Annotated[int, Meta(ge=-100, le=100)] = 0


class Moving(Part, frozen=True):
    """What sells before a moving holiday, over what would have sold without it.

    Attributes:
        name: what it is called.
        from_easter: the holiday, in days after Easter Sunday.
        days: over how many days before it one sells more.
        percent: by how much of a usual period, spread evenly over those days.
    """

    name: Annotated[str, Meta(max_length=200)]
    from_easter: Annotated[int, Meta(ge=-100, le=100)] = 0
    days: Annotated[int, Meta(ge=1, le=60)] = 14
    percent: Annotated[float, Meta(gt=-100, le=300)] = 0.0


class Seasons(Part, frozen=True):
    """How Seasons takes a history apart.

    Attributes:
        season: how a season counts; "suggested" for what the history says.
        cycle: periods in a cycle; 0 for that of the kind of period.
        seasonal: years that local regression smooths a season over.
        span: periods that it smooths the trend over; 0 for the span that goes with the other two.
        weekdays: on which one sells, 0 Monday to 6 Sunday; none for those that the lines tell.
        holidays: on which one does not sell.
        moving: moving holidays before which one sells more.
        through: what is laid through the deseasonalised series.
    """

    COMMAND: ClassVar[str] = (
        "Decompose every series of a source into trend, season and remainder. One row per series and period; "
        "with --what indices one row per series and season."
    )
    EXAMPLE: ClassVar[str] = "seasons sales.csv --by product --period month --what indices"

    arrangement: Annotated[
        Literal["parts", "indices", "deseasonalised", "spread"], Meta(title="Arrangement")
    ] = "indices"
    what: Annotated[
        Literal["indices", "parts"],
        Meta(
            title="Written",
            extra_json_schema=option(
                "what",
                "what is written: one row per season with its index, or one row per period with its parts",
            ),
        ),
    ] = "parts"
    method: Annotated[
        Literal["simple", "classical", "loess"],
        Meta(title="Method", extra_json_schema=option("indices", "how seasonal indices are taken")),
    ] = "classical"
    season: Annotated[
        Literal["suggested", "additive", "multiplicative"],
        Meta(title="Season is", extra_json_schema=option("season", "how a season counts")),
    ] = "suggested"
    joined: Annotated[
        Literal["mean", "median", "trimmed"],
        Meta(
            title="Ratios averaged by",
            extra_json_schema=option("joined", "how the ratios of a season are joined"),
        ),
    ] = "mean"
    cycle: Annotated[
        int,
        Meta(
            ge=0,
            le=LONGEST_CYCLE,
            title="Cycle",
            extra_json_schema=unit("periods")
            | option("cycle", "periods in a cycle; 0 for that of the kind of period", "PERIODS"),
        ),
    ] = 0
    seasonal: Annotated[
        int,
        Meta(
            ge=7,
            le=99,
            title="Seasonal smoothing",
            extra_json_schema=unit("cycles")
            | option("season-span", "loess: cycles that a season is smoothed over, odd, from 7", "CYCLES"),
        ),
    ] = 7
    span: Annotated[
        int,
        Meta(
            ge=0,
            le=2001,
            title="Trend smoothing",
            extra_json_schema=unit("periods")
            | option("span", "loess: periods that the trend is smoothed over; 0 for what suits", "PERIODS"),
        ),
    ] = 0
    robust: Annotated[
        bool,
        Meta(
            title="Robust: outliers get less weight",
            extra_json_schema=option("robust", "loess: outliers get less weight"),
        ),
    ] = False
    per: Annotated[
        Literal["period", "selling day"],
        Meta(
            title="Basis",
            extra_json_schema=option("per", "what is decomposed: period totals, or figures per selling day"),
        ),
    ] = "period"
    weekdays: Annotated[tuple[Annotated[int, Meta(ge=0, le=6)], ...], Meta(title="Selling weekdays")] = ()
    holidays: Annotated[
        tuple[Holiday, ...],
        Meta(title="Holidays", max_length=100, extra_json_schema={"one": "Holiday"}),
    ] = ()
    moving: Annotated[
        tuple[Moving, ...],
        Meta(title="Moving holidays", max_length=6, extra_json_schema={"one": "Moving holiday"}),
    ] = ()
    by_hand: Annotated[tuple[ManualIndex, ...], Meta(title="Indices by hand")] = ()
    left_out: Annotated[tuple[LeftOutRatio, ...], Meta(title="Ratios left out")] = ()
    through: Annotated[Literal["line", "growth"], Meta(title="Line through the deseasonalised series")] = (
        "line"
    )
    over: Annotated[bool, Meta(title="Deseasonalised over actual")] = False

    def __post_init__(self) -> None:
        if self.seasonal % 2 == 0:
            raise ValueError("an odd number of cycles: 7, 9, 11 and so on")
        if self.span and (self.span % 2 == 0 or self.span < LEAST_SPAN):
            raise ValueError(f"an odd number of periods from {LEAST_SPAN} on, or 0 for what suits")
        if self.cycle == 1:
            raise ValueError("a cycle has two periods or more; 0 for that of the kind of period")
