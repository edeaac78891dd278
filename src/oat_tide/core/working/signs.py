"""The signs that join the terms of a working: each stands once, with all that is ever asked of it.

NaN is "not known" and spoils whatever it enters; only what gathers many values may be told to leave it out.
Tails and quantiles: Abramowitz and Stegun, Handbook of Mathematical Functions (1964), chapter 26.
"""

from __future__ import annotations

import functools
import operator
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.regression import t_quantile

CALL = 9
"""How closely a function binds what stands in its brackets."""


@dataclass(frozen=True, slots=True)
class Sign:
    """One sign.

    Attributes:
        reckon: on numbers or arrays.
        text: what is written between or before terms.
        binds: how closely it binds; CALL for a function.
        sheet: in the formula of a sheet, a mark between terms, the name of a function, or a pattern of one.
        gather: for what joins many values, ((..., values) with NaN to be left out, how many count) -> (...).
    """

    compute: Callable[..., Any]
    text: str
    binds: int
    sheet: str
    gather: Callable[[Values, Values], Values] | None = None


def _all(fold: Callable[[Any, Any], Any]) -> Callable[..., Any]:
    return lambda *terms: functools.reduce(fold, terms)


def _divide(value: Any, by: Any) -> Any:
    """Divide numbers or rows of them; division by 0 gives infinity or NaN."""
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.asarray(value) / by


def _raise(value: Any, power: Any) -> Any:
    """Raise numbers or rows of them to a power; what is too large becomes infinite."""
    with np.errstate(over="ignore", divide="ignore", invalid="ignore"):
        return np.asarray(value) ** power


def _weigh(weight: Any, *terms: Any) -> Any:
    """The product; what a weight of 0 stands by counts 0, known or not."""
    return np.where(np.equal(weight, 0), 0.0, weight * functools.reduce(operator.mul, terms))


def _test(compare: Callable[[Any, Any], Any]) -> Callable[[Any, Any], Any]:
    """1 where it holds and 0 where not; NaN > 0 would be no."""
    return lambda one, two: np.where(np.isnan(one) | np.isnan(two), np.nan, compare(one, two))


def _choose(test: Any, so: Any, otherwise: Any) -> Any:
    return np.where(np.isnan(test), np.nan, np.where(test == 0, otherwise, so))


def _round(value: Any, decimals: Any) -> Any:
    """Halves away from zero, as sheets do."""
    size = 10.0**decimals
    return np.sign(value) * np.floor(np.abs(value) * size + 0.5) / size


def _at_share(share: float) -> Callable[[Values, Values], Values]:
    """What a share of many stay within, between two in proportion (Hyndman and Fan, 1996, type 7)."""

    def gather(values: Values, count: Values) -> Values:
        place = share * (np.maximum(count, 1) - 1)
        low = np.floor(place).astype(np.int64)
        if values.size == values.shape[-1] and values.size:
            # Of one row no more need be in order than the two values looked for.
            at = int(low.ravel()[0])
            ordered = np.partition(values, (at, min(at + 1, values.size - 1)), axis=-1)
        else:
            ordered = np.sort(values, axis=-1)  # what is left out comes last
        below, above = (
            np.take_along_axis(ordered, each[..., None], -1)[..., 0]
            for each in (low, np.minimum(low + 1, np.maximum(count, 1) - 1))
        )
        found: Values = below + (place - low) * (above - below)
        return found

    return gather


def _special(name: str) -> Callable[..., Any]:
    def compute(*terms: Any) -> Any:
        from scipy import special  # loads slowly, and only projections need it

        return getattr(special, name)(*terms)

    return compute


def _t_tail(t: Any, freedom: Any) -> Any:
    return 2 * _special("stdtr")(freedom, -np.abs(t))


def _f_quantile(probability: Any, above: Any, below: Any) -> Any:
    return _special("fdtri")(above, below, 1 - np.asarray(probability))


def _joined(gather: Callable[[Values, Values], Values]) -> Callable[..., float]:
    """What gathers, on the terms of one cell."""

    def compute(*terms: Any) -> float:
        values = np.hstack(terms).astype(np.float64)
        return float(gather(values, (~np.isnan(values)).sum()))

    return compute


def _gathers(gather: Callable[[Values, Values], Values], text: str, sheet: str) -> Sign:
    return Sign(_joined(gather), text, CALL, sheet, gather)


SIGNS: dict[str, Sign] = {
    ">": Sign(_test(operator.gt), " > ", 0, ">"),
    "<": Sign(_test(operator.lt), " < ", 0, "<"),
    "+": Sign(_all(operator.add), " + ", 1, "+"),
    "-": Sign(operator.sub, " − ", 1, "-"),
    "*": Sign(_all(operator.mul), " × ", 2, "*"),
    "weigh": Sign(_weigh, " × ", 2, "*"),
    "/": Sign(_divide, " ÷ ", 2, "/"),
    "^": Sign(_raise, "^", 3, "^"),
    "size": Sign(np.abs, phrase("absolute value of "), CALL, "ABS"),
    "sign": Sign(np.sign, phrase("sign of "), CALL, "SIGN"),
    "round": Sign(_round, phrase("round "), CALL, "ROUND"),
    "down": Sign(np.floor, phrase("rounded down "), CALL, "INT"),
    "sqrt": Sign(np.sqrt, "√", CALL, "SQRT"),
    "exp": Sign(np.exp, "e^", CALL, "EXP"),
    "ln": Sign(np.log, "ln ", CALL, "LN"),
    "if": Sign(_choose, phrase("if "), CALL, "IF"),
    "sum": _gathers(lambda values, count: np.nansum(values, -1), phrase("sum of "), "SUM"),
    "mean": _gathers(lambda values, count: np.nansum(values, -1) / count, phrase("mean of "), "AVERAGE"),
    "median": _gathers(_at_share(0.5), phrase("median of "), "MEDIAN"),
    "nine tenths": _gathers(_at_share(0.9), phrase("90th percentile of "), "PERCENTILE({0},0.9)"),
    "lowest": _gathers(lambda values, count: np.fmin.reduce(values, -1), phrase("lowest of "), "MIN"),
    "highest": _gathers(lambda values, count: np.fmax.reduce(values, -1), phrase("highest of "), "MAX"),
    "count": _gathers(lambda values, count: np.asarray(count, np.float64), phrase("count of "), "COUNT"),
    # A level between two tails, and right tails: what any sheet program knows.
    # t and F by the beta distribution, for sheets cut the degrees of freedom of their own to whole ones.
    "t": Sign(t_quantile, "t ", CALL, "SQRT(({1})*(1/BETAINV(1-({0}),({1})/2,1/2)-1))"),
    "t tail": Sign(_t_tail, phrase("two-sided p of t "), CALL, "BETADIST(({1})/(({1})+({0})^2),({1})/2,1/2)"),
    "F tail": Sign(
        lambda f, a, b: _special("fdtrc")(a, b, f),
        phrase("upper tail of F "),
        CALL,
        "BETADIST(({2})/(({2})+({1})*({0})),({2})/2,({1})/2)",
    ),
    "F": Sign(_f_quantile, "F ", CALL, "FINV({0},{1},{2})"),
    "chi tail": Sign(
        lambda x, n: _special("chdtrc")(n, x), phrase("upper tail of χ² "), CALL, "CHIDIST({0},{1})"
    ),
    "chi": Sign(lambda p, n: _special("chdtri")(n, p), "χ² ", CALL, "CHIINV({0},{1})"),
    "normal tail": Sign(
        lambda z: _special("ndtr")(-z), phrase("upper tail of the normal "), CALL, "(1-NORMSDIST({0}))"
    ),
    "normal": Sign(lambda p: -_special("ndtri")(p), "normal ", CALL, "NORMSINV(1-{0})"),
}
