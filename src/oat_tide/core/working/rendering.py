"""What a working says: its value, its text, its text in numbers, and the formula of a sheet."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import numpy as np

from oat_tide.core.exact import known
from oat_tide.core.working.number_format import full, trimmed
from oat_tide.core.working.signs import CALL, SIGNS
from oat_tide.core.working.tree import Cell, Leaf, Op, Ref, Run, Working


def evaluate(working: Working, leaf: Callable[[Any], Any] = lambda value: value) -> Any:
    """What the working comes to: a float, or an array where it is a stretch.

    Args:
        leaf: applied to each leaf's value or values first, such as a rounding.
    """
    if isinstance(working, Op):
        return SIGNS[working.sign].compute(*(evaluate(term, leaf) for term in working.terms))
    return leaf(working.values if isinstance(working, Run) else working.value)


def as_text(working: Working, say: Callable[[Leaf], str], above: float = 0.0) -> str:
    """The working as one line of text.

    Args:
        say: what is written for a leaf.
        above: how closely the sign around this part binds.
    """
    if not isinstance(working, Op):
        return _bracketed(say(working), above)
    sign = SIGNS[working.sign]
    if sign.binds == CALL:
        inner = "; ".join(as_text(term, say) for term in working.terms)
        return f"{sign.text}({inner})"
    parts = [
        as_text(term, say, sign.binds + _tighter(working.sign, place))
        for place, term in enumerate(working.terms)
    ]
    text = sign.text.join(parts)
    return f"({text})" if sign.binds < above else text


def _tighter(sign: str, place: int) -> float:
    return 0.5 if sign == "^" or (place and sign in "-/") else 0.0


def _bracketed(said: str, above: float) -> str:
    """A leaf in brackets where what it says holds a sign of its own: −3, or 6.6 × 10⁻⁷."""
    signed = (above and said.startswith("−")) or (above >= SIGNS["*"].binds and " × 10" in said)
    return f"({said})" if signed else said


_MOST_ARGUMENTS = 255
"""What a function of a sheet takes at the most."""


def sheet(working: Working, name: Callable[[Ref, int], str], above: float = 0.0) -> str:
    """The working as a formula of a sheet, in the grammar of Office Open XML (ISO 29500-1, 18.17).

    Cells that are not known must stand empty in the sheet: sums of products break on text.

    Args:
        name: what a stretch is called there, by its first cell and its last column; a cell is one of its own.
        above: how closely the sign around this part binds.

    Raises:
        ValueError: a function would take more terms than a sheet allows, or many values where it takes one.
    """
    if isinstance(working, Run):
        return name(working.ref, working.upto) if len(working.values) else "0"
    if isinstance(working, Cell):
        return name(working.ref, working.ref.column)
    if not isinstance(working, Op):
        text = repr(float(working.value)).removesuffix(".0").upper()
        return f"({text})" if above and working.value < 0 else text
    sign = SIGNS[working.sign]
    if sign.binds == CALL:
        return _function(working, name)
    parts = [
        sheet(term, name, sign.binds + _tighter(working.sign, place))
        for place, term in enumerate(working.terms)
    ]
    text = sign.sheet.join(parts)
    return f"({text})" if sign.binds < above else text


def _function(working: Op, name: Callable[[Ref, int], str]) -> str:
    function = SIGNS[working.sign].sheet
    terms = [sheet(term, name) for term in working.terms]
    if "{" in function:
        return function.format(*terms)
    if len(working.terms) == 1 and SIGNS[working.sign].gather and isinstance(working.terms[0], Op):
        if working.sign != "sum":
            raise ValueError(f"{function} of an expression over many values is no formula of a sheet")
        return f"SUMPRODUCT({terms[0]})"
    if len(terms) <= _MOST_ARGUMENTS:
        return f"{function}({','.join(terms)})"
    if working.sign == "mean":
        return f"({_nested('SUM', terms)}/{len(terms)})"
    if working.sign in ("sum", "lowest", "highest"):
        return _nested(function, terms)
    raise ValueError(f"{function} of {len(terms)} single cells is more than a sheet takes")


def _nested(function: str, terms: list[str]) -> str:
    """A function of many terms as one of several, each of no more than a sheet takes."""
    parts = [terms[at : at + _MOST_ARGUMENTS] for at in range(0, len(terms), _MOST_ARGUMENTS)]
    within = [f"{function}({','.join(part)})" for part in parts]
    return f"{function}({','.join(within)})"


def rounded(value: Any, digits: int) -> Any:
    """Rounded to so many significant digits, never left of the decimal mark. Scalars or arrays."""
    if isinstance(value, np.ndarray):
        return np.array([rounded(float(v), digits) for v in value])
    if not math.isfinite(value) or value == int(value):
        return value
    return round(value, max(0, digits - 1 - _power(value)))


LONGEST_RUN = 14
"""A stretch of more periods than this is named and not spelled out."""


def with_numbers(working: Working, decimals: int, name_run: Callable[[Run], str]) -> tuple[str, str]:
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
        return full(rounded(value, digits)) or "–"

    def say(leaf: Leaf) -> str:
        if isinstance(leaf, Run):
            if len(leaf.values) > LONGEST_RUN:
                return name_run(leaf)
            return "; ".join(number(float(v)) for v in leaf.values if known(v))
        return number(leaf.value)

    return as_text(working, say), result


def _power(value: float) -> int:
    return math.floor(math.log10(abs(value))) if value else 0


def _recomputed(working: Working, digits: int) -> Any:
    def leaf(value: Any) -> Any:
        long = isinstance(value, np.ndarray) and len(value) > LONGEST_RUN
        return value if long else rounded(value, digits)

    return evaluate(working, leaf)
