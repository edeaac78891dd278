"""The terms of regressions on time: powers of time, its logarithm, seasons as indicators or harmonics."""

from __future__ import annotations

import math

import numpy as np

from oat_tide.core.alike import Mask
from oat_tide.core.exact import Values
from oat_tide.core.methods.least_squares import Design
from oat_tide.core.periods.calendar import Days


def time(first: int, columns: int) -> Values:
    """(columns,) the number of each period, 1 at the first of the fit."""
    found: Values = np.arange(columns, dtype=float) - first + 1
    return found


def powers(first: int, used: Mask, columns: int, degree: int, year0: float = np.nan) -> Design:
    """1, t, t² and so on to a degree, on time centred and scaled; t may be the calendar year."""
    t = time(first, columns) if np.isnan(year0) else np.arange(columns, dtype=float) + year0
    return powers_of(np.asarray(t), used, degree)


def powers_of(t: Values, used: Mask, degree: int) -> Design:
    """The powers of any variable up to a degree.

    Args:
        t: (columns,) the variable.
        used: (periods,) where it is fitted, no longer than t.
    """
    middle, spread = _centred(t[: len(used)][used])
    u = (t - middle) / spread
    x = np.column_stack([u**power for power in range(degree + 1)])
    # ((t - m) / s)^j is the sum over k of C(j, k) (-m)^(j - k) t^k, over s^j.
    back = np.array(
        [
            [math.comb(j, k) * (-middle) ** (j - k) / spread**j if j >= k else 0.0 for j in range(degree + 1)]
            for k in range(degree + 1)
        ]
    )
    names = ("intercept", "slope", *(f"t{power}" for power in range(2, degree + 1)))[: degree + 1]
    return Design(names, x, back, np.eye(degree + 1)[0])


def logarithm(first: int, used: Mask, columns: int) -> Design:
    """1 and ln t, which is counted from 1."""
    with np.errstate(invalid="ignore", divide="ignore"):
        return powers_of(np.log(np.maximum(time(first, columns), 0.5)), used, 1)


def indicators(first: int, used: Mask, place: Days, cycle: int) -> Design:
    """A level of every season, and the slope."""
    t = time(first, len(place))
    middle, spread = _centred(t[: len(used)][used])
    seasons = (place[:, None] == np.arange(cycle)).astype(float)
    x = np.column_stack(((t - middle) / spread, seasons))
    back = np.eye(cycle + 1)
    back[0, 0], back[1:, 0] = 1 / spread, -middle / spread
    return Design(("slope", *(f"season{each}" for each in range(cycle))), x, back, np.r_[0.0, np.ones(cycle)])


def harmonics(first: int, used: Mask, phase: Values, pairs: int, weekday: Days | None) -> Design:
    """1, t, and sine and cosine of so many waves a year; of days a level of every weekday in place of 1.

    Args:
        phase: (columns,) how much of its year has gone, from 0 to 1.
        weekday: (columns,) the weekday of days; None for other periods.
    """
    t = time(first, len(phase))
    middle, spread = _centred(t[: len(used)][used])
    angle = 2 * np.pi * phase[:, None] * np.arange(1, pairs + 1)
    waves = np.stack((np.sin(angle), np.cos(angle)), axis=2).reshape(len(phase), -1)
    levels = np.ones((len(phase), 1)) if weekday is None else (weekday[:, None] == np.arange(7)).astype(float)
    many = levels.shape[1]
    x = np.column_stack(((t - middle) / spread, levels, waves))
    back = np.eye(x.shape[1])
    back[0, 0], back[1 : many + 1, 0] = 1 / spread, -middle / spread
    heads = ("intercept",) if weekday is None else tuple(f"weekday{each}" for each in range(7))
    names = ("slope", *heads, *(f"{wave}{k}" for k in range(1, pairs + 1) for wave in ("sin", "cos")))
    return Design(names, x, back, np.r_[0.0, np.ones(many), np.zeros(2 * pairs)])


def _centred(t: Values) -> tuple[float, float]:
    """The middle and half of the spread of what is fitted; 1 where it does not vary."""
    middle = float(t.mean())
    return middle, float(np.abs(t - middle).max()) or 1.0
