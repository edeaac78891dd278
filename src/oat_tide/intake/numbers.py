"""Numbers out of text, kept as whole minor units so that sums are exact."""

from __future__ import annotations

import functools
import re

import polars as pl

MOST_DECIMALS = 6
LARGEST = 2.0**52
"""Minor units beyond this cannot be added exactly."""

_BODY = r"^[+-]?(?:\d{{1,3}}(?:{group}\d{{3}})+|\d+)(?:{mark}\d+)?$"
_POINT = _BODY.format(group="[,' ]", mark=r"\.")
_COMMA = _BODY.format(group="[.' ]", mark=",")
_POWER = r"^[+-]?\d+(?:\.\d+)?[eE][+-]?\d{1,3}$"
_SURE_COMMA = r"^[+-]?(?:\d+,(?:\d{1,2}|\d{4,})|\d{1,3}(?:\.\d{3})+(?:,\d+)?|\d{1,3}(?:\.\d{3}){2,})$"
_SURE_POINT = r"^[+-]?(?:\d+\.(?:\d{1,2}|\d{4,})|\d{1,3}(?:,\d{3})+(?:\.\d+)?|0\.\d+)$"

_MONEY = (
    r"(?:[$£€¥₹]|(?:AUD|BRL|CAD|CHF|CNY|CZK|DKK|EUR|GBP|HUF|INR|ISK|JPY|KRW|MXN|NOK|NZD|PLN|RON|SEK|SGD|TRY"
    r"|USD|ZAR)\b)"
)
"""Signs and ISO 4217 codes; not any three letters, for those may well be a product's code."""
_TIDY = (
    ("[\N{NO-BREAK SPACE}\N{NARROW NO-BREAK SPACE}]", " ", ""),
    ("[−–]", "-", ""),
    (r"^\s+|\s+$", "", ""),
    # A currency sign or code before or after the figure, outside or inside its sign or brackets.
    (rf"^([(+-]*)\s*{_MONEY}\s*([(+-]*)", "", "12"),
    (rf"\s*(?:{_MONEY}|%)\s*([)-]?)$", "", "1"),
    # Brackets, and a minus behind, say less than zero.
    (r"^\(\s*([^()-]+?)\s*\)$", "-", "1"),
    (r"^([^()-]*\d)\s*-$", "-", "1"),
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
    return (
        pl.col(column).str.replace_all("\N{NO-BREAK SPACE}", " ").str.replace_all("−", "-").str.strip_chars()
    )


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


def uses_comma(frame: pl.DataFrame, column: str) -> bool:
    """Whether the decimal mark is a comma, by the cells that can be read in one way only."""
    text = _tidied(column)
    sure = frame.select(
        comma=text.str.contains(_SURE_COMMA).sum(),
        point=text.str.contains(_SURE_POINT).sum(),
    ).row(0)
    return int(sure[0] or 0) > int(sure[1] or 0)


def number(column: str, comma: bool) -> pl.Expr:
    """The column as Float64; null where it is no number. An overflow is infinite, and 5 % is 0.05."""
    text = _tidied(column)
    group, mark = ("[.' ]", ",") if comma else ("[,' ]", ".")
    bare = text.str.replace_all(group, "").str.replace(mark, ".", literal=True)
    written = text.str.contains(_COMMA if comma else _POINT)
    value = (
        pl.when(written).then(bare).when(text.str.contains(_POWER)).then(text).cast(pl.Float64, strict=False)
    )
    return pl.when(pl.col(column).str.contains(_PERCENT)).then(value / 100).otherwise(value)


def decimals(column: str, comma: bool) -> pl.Expr:
    """The decimals that each cell needs."""
    text = _tidied(column)
    after = text.str.extract(",([0-9]+)$" if comma else r"\.([0-9]+)$").str.strip_chars_end("0")
    power = text.str.contains("[eE]") & (number(column, comma) % 1 != 0)
    percent = pl.when(pl.col(column).str.contains(_PERCENT)).then(2).otherwise(0)
    return pl.when(power).then(MOST_DECIMALS).otherwise(after.str.len_chars().fill_null(0) + percent)
