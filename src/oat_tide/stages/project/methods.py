"""Which method is laid by what, and which are offered first."""

from __future__ import annotations

from collections.abc import Callable

from oat_tide.core.methods import METHODS
from oat_tide.plan.parts.project import Project
from oat_tide.plan.plan import Plan
from oat_tide.stages.project.bent import bent
from oat_tide.stages.project.carried import carried
from oat_tide.stages.project.ground import BY_SEASONS, Ground, asks_for
from oat_tide.stages.project.laid import Laid
from oat_tide.stages.project.linear import linear
from oat_tide.stages.project.smoothed import smoothed, why_not_on
from oat_tide.stages.project.straight import straight

FIRST = 6
"""Methods that are listed before one asks for more."""
MOST_SEASONS = 60
"""Seasons that have a coefficient each at the most."""
_LAID: dict[str, Callable[[Ground, str, str, bool], Laid]] = {
    **dict.fromkeys(("line", "growth", *BY_SEASONS), straight),
    **dict.fromkeys(
        ("quadratic", "logarithmic", "power", "weighted-line", "indicators", "harmonics"), linear
    ),
    **dict.fromkeys(
        (
            "last", "drift", "same-period", "same-period-growth", "same-period-drift", "mean", "compound",
            "rate",
        ),
        carried,
    ),
    "smoothed": smoothed,
    **dict.fromkeys(("huber", "theil-sen", "growth-direct", "logistic"), bent),
}  # fmt: skip


def by_seasons(plan: Plan) -> bool:
    """Whether a plan asks for a method that Seasons has a part in."""
    without = by_smooth(plan) and plan.smooth.of == "deseasonalised"
    return without or bool(BY_SEASONS & {plan.project.method, *plan.project.over})


def by_smooth(plan: Plan) -> bool:
    """Whether a plan asks for the smoother of Smooth."""
    return asks_for("smoothed", plan.project)


def lay(g: Ground, name: str, prefix: str = "", shown: bool = True) -> Laid:
    """A method laid on a history."""
    return _LAID[name](g, name, prefix, shown)


def why_not(g: Ground, name: str) -> str:
    """Why a method can not be laid on these periods at all; empty where it can."""
    if name == "smoothed":
        return why_not_on(g)
    if not METHODS[name].with_season:
        return ""
    if not g.how.back and name.startswith("same-period"):
        return f"A {g.grid.kind} has no like one last year."
    if not (g.cycle.length or g.how.back):
        return f"A {g.grid.kind} has no seasons."
    if name == "indicators" and g.cycle.length > MOST_SEASONS:
        return f"{g.cycle.length} seasons are too many for a coefficient each. Take harmonic terms."
    if name in ("indicators", *BY_SEASONS) and not g.cycle.length:
        return f"A {g.grid.kind} has no seasons. Set a cycle in Seasons."
    if name == "harmonics" and not g.how.back:
        return f"A {g.grid.kind} has no waves within a year."
    return ""


def offered(g: Ground, ask: Project) -> tuple[str, ...]:
    """The methods that are listed: those that suit most, and those in use; or all."""
    fits = [name for name in METHODS if not why_not(g, name)]
    if ask.every:
        return tuple(fits)
    first = fits[:FIRST]
    used = [name for name in (ask.method, *ask.over) if name not in first]
    return (*first, *used)
