"""The window and weights of Smooth."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Meta

from oat_tide.plan.parts.part import Part, unit

Weight = Annotated[float, Meta(ge=0, le=1000)]
LONGEST_WINDOW = 730


class Smooth(Part, frozen=True):
    """The averages of Smooth.

    Attributes:
        weights: of the weighted average, the newest first; empty means n, n - 1, ... 1.
    """

    window: Annotated[
        int, Meta(ge=2, le=LONGEST_WINDOW, title="Window", extra_json_schema=unit("periods"))
    ] = 6
    weights: Annotated[tuple[Weight, ...], Meta(max_length=LONGEST_WINDOW, title="Weights")] = ()
    drawn: Annotated[Literal["newest last", "newest first"], Meta(title="Weights drawn")] = "newest last"

    def __post_init__(self) -> None:
        if self.weights and sum(self.weights) <= 0:
            raise ValueError("one weight must be above zero")
