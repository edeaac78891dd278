"""A line on the logarithm of time, and a power of time, which is one on the scale of logarithms."""

from __future__ import annotations

from functools import partial

import numpy as np

from oat_tide.core.language import phrase
from oat_tide.core.methods.table import METHODS
from oat_tide.core.working.formula import Formula, ln
from oat_tide.core.working.number_format import significant
from oat_tide.core.working.terms import Term
from oat_tide.stages.methods.ground import Ground
from oat_tide.stages.methods.linear import Linear, linear, more
from oat_tide.stages.methods.room import Room


def _labels(g: Ground) -> dict[str, str]:
    return {"slope": phrase("slope of ln t")}


def _curve(g: Ground, found: dict[str, Term], t: Term) -> Formula:
    return found["intercept"] + found["slope"] * ln(t)


def _logarithmic(g: Ground, found: dict[str, float]) -> str:
    return f"{significant(found['intercept'], 5)} {more(found['slope'], 'ln t')}"


def _power(g: Ground, found: dict[str, float]) -> str:
    at_1 = significant(float(np.exp(found["intercept"])), 5)
    return f"{at_1} × t^{significant(found['slope'], 4)}"


_LOGARITHMIC = Linear(METHODS["logarithmic"], _curve, _logarithmic, _labels)
_POWER = Linear(METHODS["power"], _curve, _power, _labels)
ROOMS = (
    Room(_LOGARITHMIC.method, partial(linear, _LOGARITHMIC)),
    Room(_POWER.method, partial(linear, _POWER), refusal=phrase("A fit on logarithms")),
)
