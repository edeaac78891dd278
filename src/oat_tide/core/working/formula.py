"""A figure's formula: reckoned on whole arrays, and told cell by cell as a working one level deep.

`reckon` gives the values of all series and columns, `bind` the working of one cell; both go by the same
terms and the same SIGNS. NaN is "not known" and spoils what it enters, with three exceptions that are
named: `known` (of many values, those that are known), `weigh` (terms of weight 0) and `only` (where a test
does not hold there is no figure).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.working.signs import SIGNS
from oat_tide.core.working.tree import Given, Op, Working

Mask = NDArray[np.bool_]
_COMPARES: dict[str, Callable[[Any, Any], Mask]] = {">": np.greater, "<": np.less}
_CHAINS = {"+", "*"}


class Cells:
    """The cells that have something.

    Attributes:
        mask: (series, columns), either may be 1.
    """

    __slots__ = ("_extent", "mask")

    def __init__(self, mask: Mask) -> None:
        self.mask = mask
        self._extent: tuple[int, int] | None = None

    @property
    def extent(self) -> tuple[int, int]:
        """The first column where any series has it, and the one after the last; (0, 0) for none."""
        if self._extent is None:
            row: Mask = self.mask[0] if len(self.mask) == 1 else np.any(self.mask, axis=0)
            self._extent = (int(row.argmax()), len(row) - int(row[::-1].argmax())) if row.any() else (0, 0)
        return self._extent


class Formula:
    """What a figure is made of.

    Attributes:
        fact: whether it has one value a series.
        many: whether it stands for many values in each cell, along a last axis of their own.
        skips: of many, whether those not known are left out.
    """

    fact: bool
    many: bool = False
    skips: bool = False

    def compute(self, at: slice) -> Any:
        """Compute its values in some columns.

        Returns:
            (series, columns), either may be 1; of several terms (series, columns, terms).
        """
        raise NotImplementedError

    def bind(self, series: int, column: int) -> Working:
        """The working of a cell whose value is known."""
        raise NotImplementedError

    def inside(self, at: slice) -> Mask | None:
        """Return which of several terms belong to each cell; None for all."""
        return None

    def bound(self, series: int, column: int) -> tuple[Working, ...]:
        """Return the workings of those terms that belong to a cell."""
        return (self.bind(series, column),)

    def cells(self, at: slice) -> Cells:
        """The cells that have it: where it is known; of a comparison, where it is true."""
        return Cells(~np.isnan(np.atleast_2d(self.compute(at))))

    def __bool__(self) -> bool:
        raise TypeError("a formula is neither true nor false: use only() or choose()")

    def __add__(self, other: Formula | float) -> Formula:
        return _joined("+", self, other)

    def __radd__(self, other: float) -> Formula:
        return _joined("+", other, self)

    def __sub__(self, other: Formula | float) -> Formula:
        return _joined("-", self, other)

    def __rsub__(self, other: float) -> Formula:
        return _joined("-", other, self)

    def __mul__(self, other: Formula | float) -> Formula:
        return _joined("*", self, other)

    def __rmul__(self, other: float) -> Formula:
        return _joined("*", other, self)

    def __truediv__(self, other: Formula | float) -> Formula:
        return _joined("/", self, other)

    def __rtruediv__(self, other: float) -> Formula:
        return _joined("/", other, self)

    def __pow__(self, other: Formula | float) -> Formula:
        return _joined("^", self, other)

    def __gt__(self, other: Formula | float) -> Formula:
        return _joined(">", self, other)

    def __lt__(self, other: Formula | float) -> Formula:
        return _joined("<", self, other)


class Constant(Formula):
    """A number with its reason, or one for every cell; the reason may differ by series."""

    __slots__ = ("fact", "value", "why")

    def __init__(self, value: float | Values, why: str | Callable[[int], str] = "") -> None:
        self.value, self.why = value, why
        self.fact = not isinstance(value, np.ndarray) or value.shape[1] == 1

    def compute(self, at: slice) -> Any:
        return self.value if self.fact else self.value[:, at]  # type: ignore[index]

    def bind(self, series: int, column: int) -> Working:
        why = self.why if isinstance(self.why, str) else self.why(series)
        return Given(pick(self.value, series, column), why)


class Call(Formula):
    """Terms joined by a sign; one that gathers has a single term, of many values."""

    __slots__ = ("fact", "gather", "many", "sign", "terms")

    def __init__(self, sign: str, terms: tuple[Formula, ...]) -> None:
        self.sign, self.terms = sign, terms
        self.gather = SIGNS[sign].gather
        # A plain loop: a deck has dozens of calls, and is made at every step of a drag.
        fact, many = True, False
        for each in terms:
            fact, many = fact and each.fact, many or each.many
        self.fact, self.many = fact, many and self.gather is None

    def compute(self, at: slice) -> Any:
        if self.gather is not None:
            return self._gathered(self.gather, at)
        terms = [each.compute(at) for each in self.terms]
        if self.many:
            terms = [_deep(value, each) for value, each in zip(terms, self.terms, strict=True)]
        return SIGNS[self.sign].compute(*terms)

    def _gathered(self, gather: Callable[[Values, Values], Values], at: slice) -> Values:
        (stretch,) = self.terms
        values, inside = stretch.compute(at), stretch.inside(at)
        known = ~np.isnan(values)
        held = known if inside is None else known & inside
        out = gather(values if inside is None else np.where(held, values, np.nan), held.sum(-1))
        if stretch.skips or self.sign == "count":
            return out
        gone = ~known if inside is None else ~known & inside
        return np.where(gone.any(-1), np.nan, out)

    def inside(self, at: slice) -> Mask | None:
        return next((found for each in self.terms if (found := each.inside(at)) is not None), None)

    def cells(self, at: slice) -> Cells:
        if self.sign not in _COMPARES:
            return Formula.cells(self, at)
        # What is not known is neither more nor less.
        return Cells(np.atleast_2d(_COMPARES[self.sign](*(each.compute(at) for each in self.terms))))

    def bind(self, series: int, column: int) -> Working:
        if self.gather is not None:
            terms = self.terms[0].bound(series, column)
            # Of none there is a sum and a count, and nothing to write them by.
            return Op(self.sign, terms) if terms else Given(0.0, phrase("there is none"))
        return Op(self.sign, tuple(each.bind(series, column) for each in self.terms))


@dataclass(eq=False, slots=True)
class Only(Formula):
    """A formula where a test holds. The test is not told: where it does not, there is nothing to explain."""

    test: Formula | Mask
    body: Formula

    @property
    def fact(self) -> bool:  # type: ignore[override]
        return self.body.fact

    def compute(self, at: slice) -> Any:
        cells = self._cells(at)
        if cells.mask.shape[1] == 1:
            return np.where(cells.mask, self.body.compute(at), np.nan)
        # What no series has need not be reckoned.
        low, high = cells.extent
        if low == high:
            return np.full(cells.mask.shape, np.nan)
        body = np.atleast_2d(self.body.compute(slice(at.start + low, at.start + high)))
        out = np.full((max(len(cells.mask), len(body)), cells.mask.shape[1]), np.nan)
        np.copyto(out[:, low:high], body, where=cells.mask[:, low:high])
        return out

    def _cells(self, at: slice) -> Cells:
        if isinstance(self.test, Formula):
            return self.test.cells(at)
        return Cells(self.test if self.test.shape[1] == 1 else self.test[:, at])

    def bind(self, series: int, column: int) -> Working:
        return self.body.bind(series, column)


@dataclass(eq=False, slots=True)
class Either(Formula):
    """One formula in some cells and another in the rest, such as a total after the months of a year."""

    mask: Mask
    one: Formula
    other: Formula
    fact: bool = False

    def compute(self, at: slice) -> Any:
        return np.where(self.mask[:, at], self.one.compute(at), self.other.compute(at))

    def bind(self, series: int, column: int) -> Working:
        holds = self.mask[series if len(self.mask) > 1 else 0, column]
        return (self.one if holds else self.other).bind(series, column)


@dataclass(eq=False, slots=True)
class NotBelowZero(Formula):
    """A formula that is never below zero; only where it would be, its working says so."""

    body: Formula
    why: str
    fact: bool = False

    def compute(self, at: slice) -> Any:
        cells = self.body.compute(at)
        return np.where(cells < 0, 0.0, cells)

    def bind(self, series: int, column: int) -> Working:
        at = slice(0, 1) if self.body.fact else slice(column, column + 1)
        below = pick(np.atleast_2d(self.body.compute(at)), series, 0) < 0
        return Given(0.0, self.why) if below else self.body.bind(series, column)


@dataclass(eq=False, slots=True)
class Beside(Formula):
    """Several formulas side by side, as many values of each cell."""

    terms: tuple[Formula, ...]
    skips: bool = False
    many: bool = True

    @property
    def fact(self) -> bool:  # type: ignore[override]
        return all(each.fact for each in self.terms)

    def compute(self, at: slice) -> Any:
        values = [np.atleast_2d(each.compute(at)) for each in self.terms]
        return np.stack(np.broadcast_arrays(*values), axis=-1)

    def bound(self, series: int, column: int) -> tuple[Working, ...]:
        one = slice(column, column + 1)
        return tuple(
            each.bind(series, column)
            for each in self.terms
            if not np.isnan(pick(np.atleast_2d(each.compute(slice(0, 1) if each.fact else one)), series, 0))
        )


def _joined(sign: str, one: Formula | float, two: Formula | float) -> Formula:
    """Two terms joined; a chain of sums or products is one."""
    first, second = _formula(one), _formula(two)
    if type(first) is Call and first.sign == sign and sign in _CHAINS:
        return Call(sign, (*first.terms, second))
    return Call(sign, (first, second))


def _formula(value: Formula | float) -> Formula:
    return value if isinstance(value, Formula) else Constant(float(value))


def _deep(value: Any, term: Formula) -> Any:
    """The value of a term, so that it meets many values of each cell."""
    return value[..., None] if np.ndim(value) == 2 and not term.many else value


def pick(value: float | Values, series: int, column: int) -> float:
    """The value of a cell; what is one for all series, or for all columns, is one for each."""
    if not isinstance(value, np.ndarray):
        return float(value)
    return float(value[series if len(value) > 1 else 0, column if value.shape[1] > 1 else 0])


# The functions of the textbook.


def given(value: float | Values, why: str | Callable[[int], str] = "") -> Formula:
    """A constant or ruling with its reason; arrays are (series, columns), either may be 1."""
    return Constant(value, why)


def only(test: Formula | Mask, body: Formula) -> Formula:
    """A formula where a comparison is true, another is known, or a mask is set; nothing elsewhere."""
    return Only(test, body)


def either(cells: Mask, one: Formula, other: Formula) -> Formula:
    """One formula in the cells of a mask (series or 1, columns), another in the rest; which is not told."""
    return Either(cells, one, other)


def beside(*terms: Formula) -> Formula:
    """Several formulas as many values of each cell; those not known are not told."""
    return Beside(terms)


def choose(test: Formula, so: Formula | float, otherwise: Formula | float) -> Formula:
    """One formula where a comparison is true and another where it is not."""
    return Call("if", (test, _formula(so), _formula(otherwise)))


def not_below_zero(body: Formula, why: str) -> Formula:
    """A formula that is never below zero."""
    return NotBelowZero(body, why, body.fact)


def _call(sign: str, *terms: Formula | float) -> Formula:
    return Call(sign, tuple(_formula(each) for each in terms))


def _gather(sign: str, terms: tuple[Formula, ...]) -> Formula:
    return Call(sign, terms if len(terms) == 1 and terms[0].many else (beside(*terms),))


def total(*terms: Formula) -> Formula:
    """The sum of many values, or of several formulas; of none it is 0."""
    return _gather("sum", terms)


def mean(*terms: Formula) -> Formula:
    """Their arithmetic mean."""
    return _gather("mean", terms)


def median(*terms: Formula) -> Formula:
    """Their median; of an even number the mean of the middle two."""
    return _gather("median", terms)


def nine_tenths(*terms: Formula) -> Formula:
    """What nine tenths of them stay within: their 90th percentile."""
    return _gather("nine tenths", terms)


def lowest(*terms: Formula) -> Formula:
    """The least of them."""
    return _gather("lowest", terms)


def highest(*terms: Formula) -> Formula:
    """The greatest of them."""
    return _gather("highest", terms)


def count(*terms: Formula) -> Formula:
    """How many of them are known."""
    return _gather("count", terms)


def added_up(terms: Sequence[Formula]) -> Formula:
    """Formulas joined by plus; at least one."""
    return Call("+", tuple(terms)) if len(terms) > 1 else terms[0]


def weigh(weight: Formula, *terms: Formula) -> Formula:
    """A product; what the weight 0 stands by counts 0, known or not."""
    return _call("weigh", weight, *terms)


def sum_of_products(weight: Formula, *terms: Formula) -> Formula:
    """The sum of the products of many weights and terms."""
    return total(weigh(weight, *terms))


def size(of: Formula) -> Formula:
    """The absolute value."""
    return _call("size", of)


def sign(of: Formula) -> Formula:
    """-1, 0 or 1."""
    return _call("sign", of)


def rounded_to(of: Formula, decimals: float) -> Formula:
    """Rounded to so many decimals, halves away from zero."""
    return _call("round", of, decimals)


def rounded_down(of: Formula) -> Formula:
    """The whole number at or below."""
    return _call("down", of)


def sqrt(of: Formula) -> Formula:
    """The square root."""
    return _call("sqrt", of)


def exp(of: Formula) -> Formula:
    """e to the power."""
    return _call("exp", of)


def ln(of: Formula) -> Formula:
    """The natural logarithm."""
    return _call("ln", of)


def t_quantile(level: Formula, freedom: Formula) -> Formula:
    """What |t| stays below with a probability."""
    return _call("t", level, freedom)


def t_tail(t: Formula, freedom: Formula) -> Formula:
    """The probability that |t| is larger: both tails."""
    return _call("t tail", t, freedom)


def f_quantile(tail: Formula, above: Formula, below: Formula) -> Formula:
    """What F exceeds with a probability, with the degrees of freedom above and below the line."""
    return _call("F", tail, above, below)


def f_tail(f: Formula, above: Formula, below: Formula) -> Formula:
    """The probability that F is larger: the right tail."""
    return _call("F tail", f, above, below)


def chi_quantile(tail: Formula, freedom: Formula) -> Formula:
    """What chi-square exceeds with a probability."""
    return _call("chi", tail, freedom)


def chi_tail(square: Formula, freedom: Formula) -> Formula:
    """The probability that chi-square is larger: the right tail."""
    return _call("chi tail", square, freedom)


def normal_quantile(tail: Formula) -> Formula:
    """What a standard normal value exceeds with a probability."""
    return _call("normal", tail)


def normal_tail(z: Formula) -> Formula:
    """The probability that a standard normal value is larger: the right tail."""
    return _call("normal tail", z)


def percent(part: Formula, whole: Formula) -> Formula:
    """100 × part ÷ whole, where the whole is above zero."""
    return only(whole > 0, 100 * part / whole)
