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


def running_sums(values: Values, scale: float) -> Sums:
    """Running sums along the last axis of what `parted` gives: (..., periods + 1), beginning with 0."""
    whole, rest = parted(values, scale)
    return _summed(whole), None if rest is None else _summed(rest)


def between(sums: Sums, low: NDArray[np.integer], high: NDArray[np.integer]) -> Values:
    """The sums from `low` to before `high` on the last axis, in minor units."""
    whole, rest = sums
    total = whole[..., high] - whole[..., low]
    return total if rest is None else total + (rest[..., high] - rest[..., low])


def _summed(values: Values) -> Values:
    out = np.zeros((*values.shape[:-1], values.shape[-1] + 1))
    np.cumsum(values, axis=-1, out=out[..., 1:])
    return out
