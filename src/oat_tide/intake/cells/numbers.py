"""Numbers out of text: the decimal mark told by what can be read in one way only."""

from __future__ import annotations

import functools
import re
from dataclasses import dataclass

import numpy as np
import polars as pl
from numpy.typing import NDArray

LARGEST = 1e290
"""Figures below this can be read, and their sums stay finite."""
TYPED = "\N{WORD JOINER}"
"""Stands behind a number that was typed as one: its mark is a point, whatever the text beside it uses."""


def _body(groups: tuple[str, ...], mark: str) -> str:
    """A figure with its thousands grouped in one of some ways, and a decimal mark."""
    grouped = "|".join(groups)
    return rf"^[+-]?(?:(?:[1-9][0-9]{{0,2}}(?:{grouped})|[0-9]+)(?:{mark}[0-9]+)?|{mark}[0-9]+)$"


_POINT = _body((r"(?:,[0-9]{3})+", r"(?:'[0-9]{3})+", r"(?: [0-9]{3})+", r"(?:,[0-9]{2})+,[0-9]{3}"), r"\.")
_COMMA = _body((r"(?:\.[0-9]{3})+", r"(?:'[0-9]{3})+", r"(?: [0-9]{3})+"), ",")
_POWER = r"^[+-]?[0-9]+(?:[.,][0-9]+)?[eE][+-]?[0-9]{1,3}$"
_PLAIN = r"^[+-]?[0-9' ]+$"
"""No mark that could be one of two."""

_MONEY = (
    r"(?:[$£€¥₹]|(?:AUD|BRL|CAD|CHF|CNY|CZK|DKK|EUR|GBP|HUF|INR|ISK|JPY|KRW|MXN|NOK|NZD|PLN|RON|SEK|SGD|TRY"
    r"|USD|ZAR)\b)"
)
"""Signs and ISO 4217 codes; not any three letters, for those may well be a product's code."""
_TIDY = (
    ("[\N{NO-BREAK SPACE}\N{NARROW NO-BREAK SPACE}\N{THIN SPACE}]", " ", ""),
    (TYPED, "", ""),
    ("\N{RIGHT SINGLE QUOTATION MARK}", "'", ""),
    ("[−–]", "-", ""),
    (r"^\s+|\s+$", "", ""),
    # A currency sign or code before or after the figure, outside or inside its sign or brackets.
    (rf"^([(+-]*)\s*{_MONEY}\s*([(+-]*)", "", "12"),
    (rf"\s*(?:{_MONEY}|%)\s*([)-]?)$", "", "1"),
    # Brackets, and a minus behind, say less than zero.
    (r"^\(\s*([^()-]+?)\s*\)$", "-", "1"),
    (r"^([^()-]*[0-9])\s*-$", "-", "1"),
    (r"^([+-])\s+", "", "1"),
)
"""Pattern, what is put before, and the groups that are kept behind it."""
_TIDIED = tuple(
    (re.compile(pattern), before + "".join(rf"\g<{group}>" for group in groups))
    for pattern, before, groups in _TIDY
)
_BARE = re.compile(r"[0-9.-]*[0-9.]\Z")
"""Nothing to tidy."""
_PERCENT = r"%\s*\)?-?\s*$"


def plain(column: str) -> pl.Expr:
    """The text of a column without outer space, hard spaces made soft and the real minus made plain."""
    text = pl.col(column).str.replace_all("\N{NO-BREAK SPACE}", " ").str.replace_all(TYPED, "", literal=True)
    return text.str.replace_all("−", "-").str.strip_chars()


def shown(column: pl.Expr) -> pl.Expr:
    """Cells as people see them."""
    return column.cast(pl.String).str.replace_all(TYPED, "", literal=True)


def _tidied(column: str) -> pl.Expr:
    """The bare figure: no currency, brackets, percent sign or minus behind it."""
    text = pl.col(column)
    for pattern, before, groups in _TIDY:
        kept = before + "".join(f"${{{group}}}" for group in groups)
        text = text.str.replace_all(pattern, kept)
    return text


def _tidy(cell: str) -> str:
    for pattern, kept in _TIDIED:
        cell = pattern.sub(kept, cell)
    return cell


@functools.lru_cache(1 << 14)
def is_number(cell: str) -> bool:
    """Whether one cell is written as a number, in either style."""
    bare = cell if _BARE.match(cell) else _tidy(cell)
    return any(re.match(pattern, bare) for pattern in (_POINT, _COMMA, _POWER))


def is_blank(column: str) -> pl.Expr:
    """Whether each cell is empty, or a dash that stands for nothing."""
    return plain(column).fill_null("").str.contains("^[-–—]*$")


@dataclass(frozen=True, slots=True)
class Evidence:
    """What the texts of a column say of its decimal mark.

    Attributes:
        point: lines whose figure can only be read with a point, typed numbers left out.
        comma: lines whose figure can only be read with a comma.
        open: lines whose figure can be read in two ways.
        open_text: the first of them.
        bare: lines of figures without any mark.
        sure_text: a figure with a mark that can be read in one way, typed ones included.
    """

    point: int
    comma: int
    open: int
    open_text: str
    bare: int
    sure_text: str

    @property
    def likely_comma(self) -> bool:
        """Which mark is the likelier where nothing is sure.

        Figures that all have three decimals, or none at all, are rather whole ones with thousands grouped.
        Without any bare one a point is taken for the decimal mark.
        """
        return bool(self.bare) and "," not in self.open_text


def evidence(frame: pl.DataFrame, column: str, counts: NDArray[np.int64] | None = None) -> Evidence:
    """Look at the distinct texts of a column.

    Args:
        counts: how many lines hold each; one when left out.
    """
    many = pl.Series(counts if counts is not None else np.ones(frame.height, np.int64))
    text, typed = _tidied(column), _typed(column)
    point, comma, bare = (text.str.contains(each) for each in (_POINT, _COMMA, _PLAIN))
    told = frame.select(
        point=point & ~comma & ~typed,
        comma=comma & ~point & ~typed,
        open=point & comma & ~bare & ~typed,
        bare=bare,
        sure=(point != comma) | (point & typed & ~bare),
        text=shown(pl.col(column)),
    )

    def lines(name: str) -> int:
        return int((told[name].fill_null(False).cast(pl.Int64) * many).sum())

    def first(name: str) -> str:
        return str(next(iter(told.filter(pl.col(name))["text"].head(1)), ""))

    return Evidence(
        lines("point"),
        lines("comma"),
        lines("open"),
        first("open"),
        lines("bare"),
        first("sure"),
    )


def _typed(column: str) -> pl.Expr:
    return pl.col(column).str.ends_with(TYPED).fill_null(False)


def _by_comma(column: str, comma: bool) -> pl.Expr:
    """Return which cells have a decimal comma: where it is certain, else as in the rest of the column."""
    text = _tidied(column)
    point = text.str.contains(_POINT)
    return text.str.contains(_COMMA) & (pl.lit(comma) | ~point) & ~(_typed(column) & point)


def number(column: str, comma: bool) -> pl.Expr:
    """The column as Float64; null where it is no number. An overflow is infinite, and 5 % is 0.05.

    Args:
        comma: whether the mark of figures that can be read in two ways is a comma.
    """
    bare = bare_figure(column, comma)
    value = bare.cast(pl.Float64, strict=False)
    return pl.when(is_percent(column)).then(value / 100).otherwise(value)


def bare_figure(column: str, comma: bool) -> pl.Expr:
    """The figures as a program writes them, such as -1234.5 or 1.5e3; null where there is none."""
    text = _tidied(column)
    by_comma = text.str.replace_all("[.' ]", "").str.replace(",", ".", literal=True)
    by_point = text.str.replace_all("[,' ]", "")
    return (
        pl.when(_by_comma(column, comma))
        .then(by_comma)
        .when(text.str.contains(_POINT))
        .then(by_point)
        .when(text.str.contains(_POWER))
        .then(text.str.replace(",", ".", literal=True))
    )


def is_percent(column: str) -> pl.Expr:
    """Whether each figure is written as a percentage."""
    return pl.col(column).str.contains(_PERCENT).fill_null(False)


def decimals(column: str, comma: bool) -> pl.Expr:
    """The decimals that each cell needs; null where it is no number."""
    bare = bare_figure(column, comma)
    digits = (
        bare.str.extract(r"\.([0-9]+)").str.strip_chars_end("0").str.len_chars().fill_null(0).cast(pl.Int32)
    )
    power = bare.str.extract(r"[eE]([+-]?[0-9]+)$").cast(pl.Int32, strict=False).fill_null(0)
    percent = pl.when(is_percent(column)).then(2).otherwise(0)
    needed = pl.max_horizontal(digits - power + percent, 0)
    return pl.when(bare.is_not_null()).then(needed)
