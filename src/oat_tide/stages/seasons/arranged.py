"""The arrangements of Seasons, the spread of a total among them."""

from __future__ import annotations

from oat_tide.core.language import phrase
from oat_tide.plan.parts.seasons import Seasons
from oat_tide.plan.paths import P
from oat_tide.stages.deck import Control, control

ARRANGEMENTS = {
    "parts": phrase("Decomposition"),
    "indices": phrase("Indices"),
    "deseasonalised": phrase("Deseasonalised"),
    "spread": phrase("Total spread"),
}


def arrangements(ask: Seasons) -> Control:
    """The control that they are picked by."""
    return control(
        P.seasons.arrangement, ask, choices=tuple(ARRANGEMENTS), names=tuple(ARRANGEMENTS.values())
    )
