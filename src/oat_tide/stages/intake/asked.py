"""The parts of the plan that Intake shows."""

from __future__ import annotations

from dataclasses import dataclass, replace

import msgspec

from oat_tide.core.series.reading import Reading
from oat_tide.plan.parts.evened import Evened
from oat_tide.plan.parts.intake import Intake
from oat_tide.plan.parts.periods import Periods
from oat_tide.plan.parts.sources import Sources


@dataclass(frozen=True, slots=True)
class IntakeParts:
    """The parts of the plan that Intake shows."""

    sources: Sources
    intake: Intake
    evened: Evened
    periods: Periods

    def fitted(self, reading: Reading) -> IntakeParts:
        """Return the request with the roles that are in force for the table's shape."""
        roles = {"date": reading.date, "value": reading.value, "by": reading.dimensions}
        return replace(self, intake=msgspec.structs.replace(self.intake, **roles))
