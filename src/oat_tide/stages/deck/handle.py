"""What can be dragged on the time axis."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from oat_tide.plan.edits import Edit
from oat_tide.plan.paths import FieldSteps


@dataclass(frozen=True, eq=False, slots=True)
class Handle:
    """Something on the time axis that can be dragged from column to column.

    Attributes:
        path: the field of the plan.
        role: "as_of", "fit_from", "fit_to", "horizon" or "window".
        at: the column it stands on; a handle acts on the far edge of it, a fit_from on the near one.
        lo: the first column it can be dragged to.
        hi: the last one.
        value: the column as a value of the plan.
        upto: for a window, the column whose window is shown at rest.
        weights: for a window, the weight of each period, the newest first; empty for equal ones.
        reach: for a window, the first and last column that the window of a column takes in.
        says: what it is, for people.
    """

    path: FieldSteps
    role: str
    at: int
    lo: int
    hi: int
    value: Callable[[int], object]
    upto: int = 0
    weights: tuple[float, ...] = ()
    says: str = ""
    reach: Callable[[int], tuple[int, int]] | None = None

    def edit(self, column: int) -> Edit:
        """The edit that puts the handle on a column, or on the nearest it can reach."""
        where = min(max(column, self.lo), self.hi)
        return Edit(self.path, self.value(where), "drag " + ".".join(map(str, self.path)))
