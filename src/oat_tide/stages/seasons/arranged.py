"""The arrangements of Seasons, the spread of a total among them."""

from __future__ import annotations

from oat_tide.plan.parts.seasons import Seasons
from oat_tide.plan.paths import P
from oat_tide.stages.deck import Control, control

ARRANGEMENTS = {
    "parts": "Decomposition",
    "indices": "Indices",
    "deseasonalised": "Deseasonalised",
    "spread": "Total spread",
}


def arrangements(ask: Seasons) -> Control:
    """The control that they are picked by."""
    return control(
        P.seasons.arrangement, ask, choices=tuple(ARRANGEMENTS), names=tuple(ARRANGEMENTS.values())
    )
