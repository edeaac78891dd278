"""The signs that join the terms of a working: each stands once, with all that is ever asked of it."""

from __future__ import annotations

import functools
import operator
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np


@dataclass(frozen=True, slots=True)
class Sign:
    """Attributes: how it is reckoned, what is written between or before terms, how closely it binds."""

    reckon: Callable[..., Any]
    text: str
    binds: int


CALL = 9


def _quantile(level: float, freedom: float) -> float:
    from oat_tide.core.regression import t_quantile

    return float(t_quantile(level, np.array(freedom)))


SIGNS: dict[str, Sign] = {
    "+": Sign(lambda *terms: functools.reduce(operator.add, terms), " + ", 1),
    "-": Sign(operator.sub, " − ", 1),
    "*": Sign(lambda *terms: functools.reduce(operator.mul, terms), " × ", 2),
    "/": Sign(operator.truediv, " ÷ ", 2),
    "^": Sign(operator.pow, "^", 3),
    "sum": Sign(lambda *terms: float(np.nansum(np.hstack(terms))), "sum of ", CALL),
    "mean": Sign(lambda *terms: float(np.nanmean(np.hstack(terms))), "mean of ", CALL),
    "median": Sign(lambda *terms: float(np.nanmedian(np.hstack(terms))), "median of ", CALL),
    "size": Sign(np.abs, "size of ", CALL),
    "sqrt": Sign(np.sqrt, "√", CALL),
    "exp": Sign(np.exp, "e^", CALL),
    "ln": Sign(np.log, "ln ", CALL),
    "t": Sign(_quantile, "t ", CALL),
}
