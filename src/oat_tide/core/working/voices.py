"""What a working says: its value, its text, and its text in numbers that can be recomputed."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import numpy as np

from oat_tide.core.working.numerals import fixed, trimmed
from oat_tide.core.working.signs import CALL, SIGNS
from oat_tide.core.working.tree import Leaf, Op, Run, Working


def evaluate(working: Working, leaf: Callable[[Any], Any] = lambda value: value) -> Any:
    """What the working comes to: a float, or an array where it is a stretch.

    Args:
        leaf: applied to each leaf's value or values first, such as a rounding.
    """
    if isinstance(working, Op):
        return SIGNS[working.sign].reckon(*(evaluate(term, leaf) for term in working.terms))
    return leaf(working.values if isinstance(working, Run) else working.value)


def spell(working: Working, say: Callable[[Leaf], str], above: float = 0.0) -> str:
    """The working as one line of text.

    Args:
        say: what is written for a leaf.
        above: how closely the sign around this part binds.
    """
    if not isinstance(working, Op):
        return _bracketed(say(working), above)
    sign = SIGNS[working.sign]
    if sign.binds == CALL:
        inner = "; ".join(spell(term, say) for term in working.terms)
        return f"{sign.text}({inner})"
    parts = [
        spell(term, say, sign.binds + _tighter(working.sign, place))
        for place, term in enumerate(working.terms)
    ]
    text = sign.text.join(parts)
    return f"({text})" if sign.binds < above else text


def _tighter(sign: str, place: int) -> float:
    return 0.5 if sign == "^" or (place and sign in "-/") else 0.0


def _bracketed(said: str, above: float) -> str:
    return f"({said})" if above and said.startswith("−") else said


def rounded(value: Any, digits: int) -> Any:
    """Rounded to so many significant digits, never left of the decimal mark. Scalars or arrays."""
    if isinstance(value, np.ndarray):
        return np.array([rounded(float(v), digits) for v in value])
    if not math.isfinite(value) or value == int(value):
        return value
    return round(value, max(0, digits - 1 - _power(value)))


LONGEST_RUN = 14
"""A stretch of more periods than this is named and not spelled out."""


def in_numbers(working: Working, decimals: int, name_run: Callable[[Run], str]) -> tuple[str, str]:
    """The working in numbers, and its result.

    Digits are added until the numbers, recomputed as they are shown, give the result that is shown.

    Args:
        decimals: of the result.
        name_run: what is written for a stretch too long to spell out.
    """
    value = float(evaluate(working))
    result = trimmed(value, decimals)
    digits = 4
    while digits < 17 and trimmed(float(_recomputed(working, digits)), decimals) != result:
        digits += 1

    def number(value: float) -> str:
        if not math.isfinite(value):
            return fixed(value) or "–"
        shown = rounded(value, digits)
        return trimmed(shown, max(0, digits - 1 - _power(shown)))

    def say(leaf: Leaf) -> str:
        if isinstance(leaf, Run):
            if len(leaf.values) > LONGEST_RUN:
                return name_run(leaf)
            return "; ".join(number(float(v)) for v in leaf.values if v == v)
        return number(leaf.value)

    return spell(working, say), result


def _power(value: float) -> int:
    return math.floor(math.log10(abs(value))) if value else 0


def _recomputed(working: Working, digits: int) -> Any:
    def leaf(value: Any) -> Any:
        long = isinstance(value, np.ndarray) and len(value) > LONGEST_RUN
        return value if long else rounded(value, digits)

    return evaluate(working, leaf)
