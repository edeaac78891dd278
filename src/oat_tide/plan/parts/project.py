"""What Project fits, and how far it reaches."""

from __future__ import annotations

import datetime as dt
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from msgspec import Meta

from oat_tide.core.methods import ROOMS
from oat_tide.plan.options import option
from oat_tide.plan.parts.part import Part, unit

Probability = Annotated[float, Meta(ge=1, le=99.99)]
if TYPE_CHECKING:
    Name = str
else:
    Name = Literal[tuple(ROOMS)]
"""The methods, in the order that they are offered."""


class Project(Part, frozen=True):
    """What Project fits, and how far it reaches.

    Attributes:
        method: the one that is chosen.
        over: those laid over it.
        every: whether all methods are listed, not only those that suit most.
        numbered: the t of yearly series, where the fit is the same: of polynomials and exponentials.
        since: where the fit span begins; None is the first period.
        until: where it ends; None is the as-of.
        intervals: the probabilities of the prediction intervals, in percent.
        sure: that of the limits of coefficients, in percent.
        last: periods in the mean of the last; 0 for a year of them, or three.
        rate: growth a year by hand, in percent.
        ceiling: what saturating growth comes up to; 0 for one that is fitted.
        half: periods after which a weighted line counts a period half; 0 for two years of them.
        pairs: waves a year of harmonic terms.
        residuals: whether what is missed stands below the chart.
        positive: whether nothing below zero is projected of a series that never was.
    """

    COMMAND: ClassVar[str] = (
        "Fit and project every series of a source. One row per series, period and method: the fitted or the "
        "projected figure, with its prediction intervals."
    )
    EXAMPLE: ClassVar[str] = "project sales.csv --by product --period month --method line-season --horizon 12"
    COMMANDS: ClassVar[dict[str, str]] = {
        "fit": "Fit every series of a source and write its regression table. One row per series and "
        "coefficient, and one per figure of the fit as a whole."
    }
    ALSO: ClassVar[tuple[tuple[str, str, str, str], ...]] = (
        ("indices", "how seasonal indices are taken, for methods with season", "seasons", "method"),
        ("season", "how a season counts, for methods with season", "seasons", "season"),
        ("smoother", "what the extended smoother takes", "smooth", "smoothers.0.kind"),
        ("window", "the periods that it takes in", "smooth", "smoothers.0.window"),
    )

    method: Annotated[
        Name,
        Meta(
            title="Method",
            extra_json_schema=option("method", "what is fitted; several are written one after another")
            | {"rest": "over"},
        ),
    ] = "line"
    over: Annotated[tuple[Name, ...], Meta(max_length=len(ROOMS) - 1, title="Shown on the chart")] = ()
    every: Annotated[bool, Meta(title="All methods")] = False
    reach: Annotated[Literal["periods", "end of fiscal year"], Meta(title="Project to")] = "periods"
    horizon: Annotated[
        int,
        Meta(
            ge=0,
            le=3660,
            title="Horizon",
            extra_json_schema=unit("periods", zero="a year")
            | option("horizon", "periods ahead to project, up to ten years; 0 for one year", "PERIODS"),
        ),
    ] = 0
    numbered: Annotated[
        Literal["counter", "calendar"],
        Meta(
            title="Years numbered",
            extra_json_schema=option(
                "numbered",
                "how the years of yearly series are numbered in a fit: from 1, or by calendar year",
            ),
        ),
    ] = "counter"
    since: Annotated[dt.date | None, Meta(title="Fit from", extra_json_schema=unit("first day"))] = None
    until: Annotated[dt.date | None, Meta(title="Fit to", extra_json_schema=unit("last day"))] = None
    mean: Annotated[
        bool,
        Meta(
            title="Project the mean, not the median",
            extra_json_schema=option(
                "mean", "project the mean of growth fitted on logarithms, not its median"
            ),
        ),
    ] = False
    intervals: Annotated[
        tuple[Probability, ...],
        Meta(
            min_length=1,
            max_length=6,
            title="Prediction intervals",
            extra_json_schema=unit("%")
            | option("interval", "a prediction interval, 1 to 99.99 %", "PERCENT"),
        ),
    ] = (80.0, 95.0)
    sure: Annotated[
        float,
        Meta(
            ge=1,
            le=99.99,
            title="Confidence level of the coefficients",
            extra_json_schema=unit("%")
            | option("confidence", "confidence level of the coefficients", "PERCENT"),
        ),
    ] = 95.0
    last: Annotated[
        int,
        Meta(
            ge=0,
            le=3660,
            title="Periods in the mean",
            extra_json_schema=unit("periods")
            | option("last", "periods in the mean of the last periods, 0 for a year of them", "PERIODS"),
        ),
    ] = 0
    rate: Annotated[
        float,
        Meta(
            gt=-100,
            le=1000,
            title="Growth per year",
            extra_json_schema=unit("%")
            | option("rate", "growth per year, for growth by a set rate", "PERCENT"),
        ),
    ] = 0.0
    ceiling: Annotated[
        float,
        Meta(
            ge=0,
            title="Ceiling",
            extra_json_schema=option(
                "ceiling", "ceiling of saturating growth, 0 for one that is fitted", "FIGURE"
            ),
        ),
    ] = 0.0
    half: Annotated[
        int,
        Meta(
            ge=0,
            le=3660,
            title="Half-life of the weights",
            extra_json_schema=unit("periods")
            | option("half", "half-life of the weights of a weighted line, 0 for two years", "PERIODS"),
        ),
    ] = 0
    pairs: Annotated[
        int,
        Meta(ge=1, le=6, title="Harmonics", extra_json_schema=option("waves", "number of harmonics", "N")),
    ] = 3
    residuals: Annotated[bool, Meta(title="Residuals below the chart")] = False
    positive: Annotated[
        bool,
        Meta(
            title="Not below zero",
            extra_json_schema=option("below-zero", "project below zero where no history is, too"),
        ),
    ] = True
