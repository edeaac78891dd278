"""How a figure came about: a small tree, one level deep.

A leaf is a constant or ruling (Given), another figure (Cell), a stretch of one (Run) or sales lines
(Lines); an Op joins them. Every sign stands once in SIGNS, with all that is ever asked of it.
"""

from __future__ import annotations

import functools
import math
import operator
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.numerals import fixed, trimmed
from oat_tide.core.panel import Key

FACT = -1
"""The column of a figure that has one value a series."""


@dataclass(frozen=True, slots=True)
class Ref:
    """The address of a figure's value: stage, figure, series and column (FACT for a fact)."""

    stage: str
    figure: str
    series: int
    column: int = FACT


@dataclass(frozen=True, slots=True)
class Given:
    """A constant, or what the user has ruled."""

    value: float
    why: str = ""


@dataclass(frozen=True, slots=True)
class Cell:
    """The value of another figure."""

    value: float
    ref: Ref


@dataclass(frozen=True, slots=True, eq=False)
class Run:
    """A stretch of one figure, from the column of `ref` to the column `upto`, both included."""

    values: Values
    ref: Ref
    upto: int


@dataclass(frozen=True, slots=True)
class Lines:
    """The sum of the sales lines of a series in a period."""

    value: float
    key: Key
    period: int
    count: int


@dataclass(frozen=True, slots=True, eq=False)
class Op:
    """Terms joined by a sign of SIGNS."""

    sign: str
    terms: tuple[Working, ...]


Working = Given | Cell | Run | Lines | Op
Leaf = Given | Cell | Run | Lines


@dataclass(frozen=True, slots=True)
class Sign:
    """Attributes: how it is reckoned, what is written between or before terms, how closely it binds."""

    reckon: Callable[..., Any]
    text: str
    binds: int


_CALL = 9


def _quantile(level: float, freedom: float) -> float:
    from oat_tide.core.regression import t_quantile

    return float(t_quantile(level, np.array(freedom)))


SIGNS: dict[str, Sign] = {
    "+": Sign(lambda *terms: functools.reduce(operator.add, terms), " + ", 1),
    "-": Sign(operator.sub, " − ", 1),
    "*": Sign(lambda *terms: functools.reduce(operator.mul, terms), " × ", 2),
    "/": Sign(operator.truediv, " ÷ ", 2),
    "^": Sign(operator.pow, "^", 3),
    "sum": Sign(lambda *terms: float(np.nansum(np.hstack(terms))), "sum of ", _CALL),
    "mean": Sign(lambda *terms: float(np.nanmean(np.hstack(terms))), "mean of ", _CALL),
    "median": Sign(lambda *terms: float(np.nanmedian(np.hstack(terms))), "median of ", _CALL),
    "size": Sign(np.abs, "size of ", _CALL),
    "sqrt": Sign(np.sqrt, "√", _CALL),
    "exp": Sign(np.exp, "e^", _CALL),
    "ln": Sign(np.log, "ln ", _CALL),
    "t": Sign(_quantile, "t ", _CALL),
}


def leaves(working: Working) -> Iterator[Leaf]:
    """The leaves, from left to right."""
    if isinstance(working, Op):
        for term in working.terms:
            yield from leaves(term)
    else:
        yield working


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
    if sign.binds == _CALL:
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
