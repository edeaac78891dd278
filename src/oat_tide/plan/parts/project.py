"""What Project fits, and how far it reaches."""

from __future__ import annotations

import datetime as dt
from typing import Annotated, ClassVar, Literal

from msgspec import Meta

from oat_tide.plan.options import option
from oat_tide.plan.parts.part import Part, unit

Probability = Annotated[float, Meta(ge=1, le=99.99)]


class Project(Part, frozen=True):
    """What Project fits, and how far it reaches.

    Attributes:
        since: where the fit span begins; None is the first period.
        until: where it ends; None is the as-of.
        intervals: the probabilities of the prediction intervals, in percent.
    """

    COMMAND: ClassVar[str] = "Fit and project every series of a source."

    method: Annotated[
        Literal["line", "growth"],
        Meta(title="Method", extra_json_schema=option("method", "what is fitted")),
    ] = "line"
    reach: Annotated[Literal["periods", "end of fiscal year"], Meta(title="Project to")] = "periods"
    horizon: Annotated[
        int,
        Meta(
            ge=1,
            le=3660,
            title="Periods ahead",
            extra_json_schema=unit("periods")
            | option("horizon", "periods ahead, up to ten years", "PERIODS"),
        ),
    ] = 6
    since: Annotated[dt.date | None, Meta(title="Fit from", extra_json_schema=unit("first day"))] = None
    until: Annotated[dt.date | None, Meta(title="Fit to", extra_json_schema=unit("last day"))] = None
    mean: Annotated[bool, Meta(title="Project the mean, not the median")] = False
    intervals: Annotated[
        tuple[Probability, ...],
        Meta(
            min_length=1,
            max_length=6,
            title="Prediction intervals",
            extra_json_schema=unit("%") | option("level", "of a prediction interval, 1 to 99.99", "PERCENT"),
        ),
    ] = (80.0, 95.0)
