"""Sums that are exact: whole minor units are added as such, and what they leave of a figure beside them.

Whole numbers below 2**53 are held and added without error (Goldberg, What every computer scientist should
know about floating-point arithmetic, 1991).
"""

from __future__ import annotations

import math
from typing import overload

import numpy as np
from numpy.typing import NDArray

Values = NDArray[np.float64]
Sums = tuple[Values, Values | None]
"""Whole minor units, and what they leave; None for nothing."""


@overload
def known(value: float) -> bool: ...
@overload
def known(value: Values) -> NDArray[np.bool_]: ...
def known(value: float | Values) -> bool | NDArray[np.bool_]:
    """Whether a figure, or each of many, is known: NaN is "not known"."""
    if isinstance(value, np.ndarray):
        return ~np.isnan(value)
    return not math.isnan(value)


def parted(values: Values, scale: float) -> Sums:
    """Whole minor units, and what they leave of the values, in minor units; None where they leave nothing.

    Args:
        values: any shape, none of them NaN.
        scale: minor units in one unit; the sum of all minor units stays below 2**53.
    """
    whole = np.rint(values * scale)
    rest = values - whole / scale
    return whole, rest * scale if rest.any() else None


def added(values: Values, scale: float, axis: int) -> Values:
    """The sum along an axis, none of the values NaN."""
    whole, rest = parted(values, scale)
    total: Values = whole.sum(axis)
    return (total if rest is None else total + rest.sum(axis)) / scale


NEAR = 1 << 15
"""Values reckoned at a time: what one pass leaves is still near the processor for the next."""


def running_sums(values: Values, scale: float) -> Sums:
    """Running sums along the last axis of what `parted` gives: (..., periods + 1), beginning with 0.

    Args:
        values: any shape, none of them NaN.
    """
    periods = values.shape[-1]
    rows = values.reshape(math.prod(values.shape[:-1]), periods)
    whole, rest = np.zeros((len(rows), periods + 1)), None
    many, long = max(NEAR // max(periods, 1), 1), min(max(periods, 1), NEAR)
    buffers = np.empty(NEAR), np.empty(NEAR)
    for at in range(0, len(rows), many):
        for start in range(0, periods, long):
            part = rows[at : at + many, start : start + long]
            units, left = (each[: part.size].reshape(part.shape) for each in buffers)
            np.rint(np.multiply(part, scale, out=units), out=units)
            np.subtract(part, np.divide(units, scale, out=left), out=left)
            _carry_on(whole[at : at + many, start : start + long + 1], units)
            if left.any():
                rest = np.zeros_like(whole) if rest is None else rest
                _carry_on(rest[at : at + many, start : start + long + 1], left * scale)
            elif rest is not None:
                _carry_on(rest[at : at + many, start : start + long + 1], left)
    shape = (*values.shape[:-1], periods + 1)
    return whole.reshape(shape), None if rest is None else rest.reshape(shape)


def _carry_on(sums: Values, values: Values) -> None:
    """Running sums of a stretch, on from the one that its first column holds."""
    np.cumsum(values, axis=1, out=sums[:, 1:])
    sums[:, 1:] += sums[:, :1]


def between(sums: Sums, low: NDArray[np.integer], high: NDArray[np.integer]) -> Values:
    """The sums from `low` to before `high` on the last axis, in minor units."""
    whole, rest = sums
    total = whole[..., high] - whole[..., low]
    return total if rest is None else total + (rest[..., high] - rest[..., low])
