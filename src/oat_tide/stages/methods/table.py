"""Every method as a stage has it, by name, in the order that they are offered."""

from __future__ import annotations

from importlib import import_module

from oat_tide.core.methods import ROOMS as MODULES
from oat_tide.plan.parts.project import Project
from oat_tide.plan.plan import Plan
from oat_tide.stages.methods.ground import Ground
from oat_tide.stages.methods.room import Room

FIRST = 6
"""Methods that are listed before one asks for more."""


def _room(name: str, module: str) -> Room:
    rooms: tuple[Room, ...] = import_module(f"oat_tide.stages.methods.{module}").ROOMS
    return next(each for each in rooms if each.method.name == name)


ROOMS: dict[str, Room] = {name: _room(name, module) for name, module in MODULES.items()}


def stands_on(plan: Plan, stage: str) -> bool:
    """Whether a method that a plan asks for takes figures from the deck of a stage."""
    return any(stage in ROOMS[name].stands_on(plan) for name in (plan.project.method, *plan.project.over))


def why_not(g: Ground, name: str) -> str:
    """Why a method can not be laid on these periods at all; empty where it can."""
    return ROOMS[name].why_not(g)


def offered(g: Ground, ask: Project) -> tuple[str, ...]:
    """The methods that are listed: those that suit most, and those in use; or all."""
    fits = [name for name in ROOMS if not why_not(g, name)]
    if ask.every:
        return tuple(fits)
    first = fits[:FIRST]
    used = [name for name in (ask.method, *ask.over) if name not in first]
    return (*first, *used)
