"""Numbers as text, in the marks of the reader's locale."""

from __future__ import annotations

import math
import re
from decimal import Decimal

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.periods.named import plain_digits

MINUS = "\N{MINUS SIGN}"
_FEW = 64
_LONG, _SHORT = 1e18, 1e-15
"""From and below these, figures are told by their power of ten: of their digits few would be known."""
_SURE = 15
"""So many digits of any number are free of noise."""
_marks = {"decimal": ".", "group": ","}
_RAISED = str.maketrans("-0123456789", "⁻⁰¹²³⁴⁵⁶⁷⁸⁹")
_LOWERED = {raised: chr(plain) for plain, raised in _RAISED.items()}
_swap = str.maketrans({",": ",", ".": "."})


def set_marks(decimal: str, group: str) -> None:
    """Choose the decimal and the grouping mark; done once, when a process starts."""
    _marks.update(decimal=decimal, group=group)
    _swap.update(str.maketrans({",": group, ".": decimal}))


def marks() -> tuple[str, str]:
    """The decimal and the grouping mark, for a process that is started from this one."""
    return _marks["decimal"], _marks["group"]


def fixed(value: float, decimals: int = 0, *, plus: bool = False) -> str:
    """A number with grouped thousands and so many decimals; a real minus sign; empty for NaN."""
    if math.isnan(value):
        return ""
    if math.isinf(value):
        return ("" if value > 0 else MINUS) + "\N{INFINITY}"
    if abs(value) >= _LONG:
        return ("+" if plus and value > 0 else "") + full(float(f"{value:.{_SURE}g}"))
    digits = f"{abs(value):,.{decimals}f}"
    zero = not digits.strip("0.,")
    sign = "" if zero else MINUS if value < 0 else "+" if plus else ""
    return sign + digits.translate(_swap)


def significant(value: float, digits: int = 4, *, plus: bool = False) -> str:
    """A number to so many significant figures; whole numbers are never cut short of their unit."""
    if not math.isfinite(value) or value == 0:
        return fixed(value)
    if abs(value) < _SHORT:
        return ("+" if plus and value > 0 else "") + scientific(value, digits)
    return fixed(value, max(0, digits - 1 - exponent(value, digits)), plus=plus)


def compact(value: float) -> str:
    """A number for where room is short: by M and bn for millions and thousands of them, or a power of ten."""
    if abs(value) >= _LONG and math.isfinite(value):
        return scientific(value, 4)
    for size, mark in ((1e9, "bn"), (1e6, "M")):
        if abs(value) >= size:
            return f"{significant(value / size)} {mark}"
    return fixed(value) if float(value).is_integer() else significant(value)


def scientific(value: float, digits: int = 2) -> str:
    """A number to so many digits by its power of ten: 6.6 × 10⁻⁷."""
    return _by_power(f"{value:.{digits - 1}e}")


def _by_power(written: str) -> str:
    """What is written as 6.6e-07, as people write it."""
    digits, _, power = written.replace("-", MINUS, written.startswith("-")).partition("e")
    return f"{digits.translate(_swap)} × 10{str(int(power)).translate(_RAISED)}"


def exponent(value: float, digits: int) -> int:
    """The power of ten of the leading digit once the value is rounded to so many digits."""
    return int(f"{abs(value):.{digits - 1}e}".partition("e")[2])


def trimmed(value: float, decimals: int) -> str:
    """A number with at most so many decimals, without closing zeros."""
    text = fixed(value, decimals)
    mark = _marks["decimal"]
    return text.rstrip("0").rstrip(mark) if decimals and mark in text else text


def full(value: float) -> str:
    """A number with every digit that it has, grouped thousands and no closing zeros."""
    if not math.isfinite(value):
        return fixed(value)
    # Its shortest digits as they are: rounding the value to so many anew could change the last of them.
    exact = abs(Decimal(repr(float(value))))
    sign = MINUS if value < 0 else ""
    if abs(value) >= _LONG or 0 < abs(value) < _SHORT:
        return sign + _by_power(f"{exact.normalize():e}")
    whole, _, after = format(exact, ",f").partition(".")
    after = after.rstrip("0")
    digits = f"{whole}.{after}" if after else whole
    return sign + digits.translate(_swap)


def number_of(text: str) -> float | None:
    """A number as a reader of this locale types it or `full` writes it; None for anything else.

    Digits may be of any script. Where the marks of the locale make no number of it, a single point is taken
    for the decimal mark: 8.5 is no number of a locale with a comma.
    """
    bare = plain_digits("".join(text.replace(MINUS, "-").replace("٫", _marks["decimal"]).split()))
    bare = bare.replace("٬", _marks["group"])
    own = _with_marks(bare, _marks["decimal"], _marks["group"])
    return own if own is not None else _with_marks(bare, ".", "")


def _with_marks(bare: str, decimal: str, grouping: str) -> float | None:
    group, mark = re.escape(grouping), re.escape(decimal)
    grouped = rf"\d{{1,3}}(?:{group}\d{{3}})+|" if grouping else ""
    found = re.fullmatch(
        rf"([+-]?(?:{grouped}\d+)(?:{mark}\d+)?)(?:×10(⁻?[⁰¹²³⁴⁵⁶⁷⁸⁹]{{1,3}}))?", bare, re.ASCII
    )
    if found is None:
        return None
    digits = (found[1].replace(grouping, "") if grouping else found[1]).replace(decimal, ".")
    return float(f"{digits}e{(found[2] or '⁰').translate(_LOWERED)}")


def row_decimals(values: NDArray[np.float64], digits: int = 4) -> int:
    """The decimals that suit a whole row: none for whole numbers, else what the largest value needs."""
    decimals = decimals_for(values, digits)
    return 0 if decimals and all_whole(values) else decimals


def decimals_for(values: NDArray[np.float64], digits: int = 4) -> int:
    """The decimals that show the largest value to so many digits."""
    return decimals_of(float(np.fmax.reduce(np.abs(values), axis=None, initial=0.0)), digits)


def decimals_of(largest: float, digits: int = 4) -> int:
    """The decimals that show a value to so many digits."""
    if largest == 0 or math.isinf(largest):
        return 0
    return min(max(0, digits - 1 - exponent(largest, digits)), 6)


def all_whole(values: NDArray[np.float64]) -> bool:
    """Whether every known value is a whole number."""
    # Averages and shares are told apart by their first few already, projections by their last.
    return _whole(values[..., -_FEW:]) and _whole(values[..., :_FEW]) and _whole(values)


def _whole(values: NDArray[np.float64]) -> bool:
    # What is not known is no more than its floor, nor is it less.
    return not (values > np.floor(values)).any()
