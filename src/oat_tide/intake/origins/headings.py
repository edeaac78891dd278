"""Which row is the header, what its columns are called, and what stands above it."""

from __future__ import annotations

import polars as pl

from oat_tide.core.language import phrase
from oat_tide.core.user_error import UserError
from oat_tide.intake.cells.dates import YEAR, is_month_name, quarter_of, written_as
from oat_tide.intake.cells.numbers import TYPED, is_number
from oat_tide.intake.source import MOST_COLUMNS
from oat_tide.intake.table import MARKS, ROW, TORN

LOOKED_AT = 200
"""Rows that are looked at for the header."""
_LONGEST_NAME = 200
Row = tuple[int, list[str]]
"""Row number and cells."""


def header_row(rows: list[Row]) -> Row:
    """The row and cells of the header: the first row as wide as most that is not mostly empty.

    What stands above it, such as a title and the day of the report, is narrower, or padded.
    """
    widths = [len(cells) for _, cells in rows]
    usual = max(set(widths), key=widths.count)
    for place, (row, cells) in enumerate(rows):
        filled = sum(bool(cell.strip()) for cell in cells)
        if len(cells) >= usual and 5 * filled >= 3 * len(cells):
            return row, _with_years(cells, rows[:place])
    return rows[0]


def _with_years(cells: list[str], above: list[Row]) -> list[str]:
    """Names of months or quarters with the years in the row above, each over the first of its own."""
    years = next((own for _, own in reversed(above) if any(map(_is_year, own))), None)
    within = [bool(is_month_name(cell) or quarter_of(cell)) for cell in cells]
    if years is None or sum(within) < _FEWEST_WITHIN:
        return cells
    told, year = [], ""
    for place, (cell, named) in enumerate(zip(cells, within, strict=True)):
        own = years[place].strip() if place < len(years) else ""
        year = own if _is_year(own) else year
        told.append(f"{cell.strip()} {year}" if named and year else cell)
    return told


def _is_year(cell: str) -> bool:
    return written_as(cell) == YEAR


_FEWEST_WITHIN = 4
"""Months or quarters below a row of years."""


def header(file: str, first: list[str]) -> tuple[list[str], bool]:
    """Distinct names of the columns, and whether the row is a header at all.

    Dates in a header are no data where all else in it is words: a wide table has a column a month, and
    perhaps one heading in many that is mistyped.
    """
    check_width(file, len(first))
    dated = sum(bool(written_as(cell)) or is_month_name(cell) for cell in first)
    strange = sum(is_number(cell) and not written_as(cell) for cell in first)
    begins = bool(is_number(first[0]) or written_as(first[0]))
    wide = dated >= 2 and (not strange or (dated >= 3 * strange and not begins))
    data = not wide and any(is_number(cell) or written_as(cell) for cell in first)
    return told_apart(first if not data else [""] * len(first)), not data


def check_width(file: str, columns: int) -> None:
    """Raises UserError for more columns than can be read."""
    if columns > MOST_COLUMNS:
        raise UserError(
            "{file} has {columns:,} columns; at most {most_columns:,} can be read. Leave out "
            "those that are not needed.",
            file=file,
            columns=columns,
            most_columns=MOST_COLUMNS,
        )


def told_apart(cells: list[str]) -> list[str]:
    """Distinct names of columns; what is blank, or a pattern to the engine, is named by its place."""
    names: list[str] = []
    for place, cell in enumerate(cells, 1):
        plain = " ".join(cell.replace(TYPED, "").split())[:_LONGEST_NAME]
        pattern = plain == "*" or (plain.startswith("^") and plain.endswith("$"))
        plain = phrase("column {place}", place=place) if pattern or not plain else plain
        copies, unique = 2, plain
        while unique in (*names, *MARKS):
            unique, copies = f"{plain} ({copies})", copies + 1
        names.append(unique)
    return names


def below(frame: pl.DataFrame, row: int, has_header: bool) -> pl.DataFrame:
    """The lines without the header; those above it are torn, whatever their width."""
    if has_header:
        frame = frame.filter(pl.col(ROW) != row)
    if not (frame[ROW] < row).any():
        return frame
    above, cells = pl.col(ROW) < row, frame.columns[2:]
    torn = pl.col(TORN).cast(pl.String)
    whole = pl.concat_str([pl.col(name).cast(pl.String).fill_null("") for name in cells], separator=" | ")
    return frame.with_columns(
        pl.when(above).then(pl.coalesce(torn, whole)).otherwise(torn).cast(pl.Categorical).alias(TORN),
        *(pl.when(~above).then(pl.col(name)).alias(name) for name in cells),
    )


def named(file: str, rows: pl.DataFrame, width: int) -> tuple[pl.DataFrame, bool]:
    """A grid of text with its header found: ROW, TORN and columns by name, and whether it had a header.

    Args:
        rows: ROW and `width` columns of text, without empty rows.

    Raises:
        UserError: there is nothing in it.
    """
    head = [(int(row), [cell or "" for cell in cells]) for row, *cells in rows.head(LOOKED_AT).rows()]
    if not head:
        raise UserError("{file} is empty. Choose one with a header and sales lines below it.", file=file)
    row, first = header_row(head)
    names, has_header = header(file, first)
    frame = rows.select(ROW, pl.lit(None, pl.Categorical).alias(TORN), *rows.columns[1 : width + 1])
    frame = below(frame, row, has_header)
    if not frame.height:
        raise UserError(
            "{file} holds a header and no lines below it. Choose one with sales lines.", file=file
        )
    return frame.rename(dict(zip(frame.columns[2:], names, strict=True))), has_header
