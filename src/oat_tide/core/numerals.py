"""Numbers as text, in the marks of the reader's locale."""

from __future__ import annotations

import math
from collections.abc import Iterable

MINUS = "\N{MINUS SIGN}"
_marks = {"decimal": ".", "group": ","}


def set_marks(decimal: str, group: str) -> None:
    """Choose the decimal and the grouping mark; done once, when a program starts."""
    _marks.update(decimal=decimal, group=group)


def fixed(value: float, decimals: int = 0, *, plus: bool = False) -> str:
    """A number with grouped thousands and so many decimals; a real minus sign; empty for NaN."""
    if math.isnan(value):
        return ""
    if math.isinf(value):
        return ("" if value > 0 else MINUS) + "\N{INFINITY}"
    digits = f"{abs(value):,.{decimals}f}"
    zero = not digits.strip("0.,")
    sign = "" if zero else MINUS if value < 0 else "+" if plus else ""
    swapped = {",": _marks["group"], ".": _marks["decimal"]}
    return sign + "".join(swapped.get(mark, mark) for mark in digits)


def significant(value: float, digits: int = 4, *, plus: bool = False) -> str:
    """A number to so many significant figures; whole numbers are never cut short of their unit."""
    if not math.isfinite(value) or value == 0:
        return fixed(value)
    return fixed(value, max(0, digits - 1 - exponent(value, digits)), plus=plus)


def exponent(value: float, digits: int) -> int:
    """The power of ten of the leading digit once the value is rounded to so many digits."""
    return int(f"{abs(value):.{digits - 1}e}".partition("e")[2])


def trimmed(value: float, decimals: int) -> str:
    """A number with at most so many decimals, without closing zeros."""
    text = fixed(value, decimals)
    mark = _marks["decimal"]
    return text.rstrip("0").rstrip(mark) if decimals and mark in text else text


def row_decimals(values: Iterable[float], digits: int = 4) -> int:
    """The decimals that suit a whole row: none for whole numbers, else what the largest value needs."""
    known = [abs(v) for v in values if math.isfinite(v)]
    largest = max(known, default=0.0)
    if largest == 0 or all(v == int(v) for v in known):
        return 0
    return min(max(0, digits - 1 - exponent(largest, digits)), 6)
