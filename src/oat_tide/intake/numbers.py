"""Numbers out of text, kept as whole minor units so that sums are exact."""

from __future__ import annotations

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


def plain(column: str) -> pl.Expr:
    """The text of a column without outer space, hard spaces made soft and the real minus made plain."""
    return (
        pl.col(column).str.replace_all("\N{NO-BREAK SPACE}", " ").str.replace_all("−", "-").str.strip_chars()
    )


def is_number(cell: str) -> bool:
    """Whether one cell is written as a number, in either style."""
    return any(re.match(pattern, cell.strip()) for pattern in (_POINT, _COMMA, _POWER))


def uses_comma(frame: pl.DataFrame, column: str) -> bool:
    """Whether the decimal mark is a comma, by the cells that can be read in one way only."""
    text = plain(column)
    sure = frame.select(
        comma=text.str.contains(_SURE_COMMA).sum(),
        point=text.str.contains(_SURE_POINT).sum(),
    ).row(0)
    return int(sure[0] or 0) > int(sure[1] or 0)


def number(column: str, comma: bool) -> pl.Expr:
    """The column as Float64; null where it is no number. An overflow is infinite."""
    text = plain(column)
    group, mark = ("[.' ]", ",") if comma else ("[,' ]", ".")
    bare = text.str.replace_all(group, "").str.replace(mark, ".", literal=True)
    written = text.str.contains(_COMMA if comma else _POINT)
    return (
        pl.when(written).then(bare).when(text.str.contains(_POWER)).then(text).cast(pl.Float64, strict=False)
    )


def decimals(column: str, comma: bool) -> pl.Expr:
    """The decimals that each cell is written with."""
    text = plain(column)
    after = text.str.extract(",([0-9]+)$" if comma else r"\.([0-9]+)$").str.strip_chars_end("0")
    power = text.str.contains("[eE]") & (number(column, comma) % 1 != 0)
    return pl.when(power).then(MOST_DECIMALS).otherwise(after.str.len_chars().fill_null(0))
