"""Figures typed or pasted: two columns of a clipboard, or a short list, as a source of their own."""

from __future__ import annotations

import re

import polars as pl

from oat_tide.core.language import phrase
from oat_tide.core.user_error import UserError
from oat_tide.intake.cells.dates import is_month_name, written_as
from oat_tide.intake.cells.numbers import is_number
from oat_tide.intake.origins import headings
from oat_tide.intake.source import Source, made, thinned
from oat_tide.intake.table import ROW

NAME = phrase("typed figures")
_CUTS = ("\t", ";", "|")
_MOST, _LONGEST = 200_000, 2_000_000


def open_typed(text: str) -> Source:
    """A source of what was typed: a line each, or all in one line.

    `2019 1200, 2020 1340` is a list of periods with their figures; `1200 1340 1290` figures alone, that
    count up as periods 1, 2, 3.

    Raises:
        UserError: no figures can be made out.
    """
    if len(text) > _LONGEST:
        raise UserError(
            "{text:,} characters were pasted; at most {longest:,}. Save them as a CSV file instead.",
            text=len(text),
            longest=_LONGEST,
        )
    lines = text.replace("\r\n", "\n").replace("\r", "\n").split("\n")
    filled = [(row, line.strip()) for row, line in enumerate(lines, 1) if line.strip()]
    if not filled:
        raise UserError("Nothing was typed. Write a period and its figure on each line, such as 2024 1,250.")
    if len(filled) > _MOST:
        raise UserError(
            "{filled:,} lines were pasted; at most {most:,}. Save them as a CSV file instead.",
            filled=len(filled),
            most=_MOST,
        )
    if len(filled) == 1:
        parts = [part.strip() for part in re.split(r"[;,]\s+|\t", filled[0][1]) if part.strip()]
        parts = parts if len(parts) > 1 else filled[0][1].split()
        filled = [(1, part) for part in parts]
    rows = [(row, _cells(line)) for row, line in filled]
    usual = max({len(cells) for _, cells in rows}, key=[len(cells) for _, cells in rows].count)
    if usual == 1:
        rows = [(row, [str(place), *cells]) for place, (row, cells) in enumerate(rows, 1)]
        rows.insert(0, (0, ["period", "figure"]))
        usual = 2
    elif not any(_is_name(cell) for cell in rows[0][1]) and usual == 2:
        rows.insert(0, (0, ["period", "figure"]))
    width = max(len(cells) for _, cells in rows)
    schema = {ROW: pl.Int64} | {str(place): pl.String for place in range(width)}
    wide = [(row, *(cell or None for cell in cells), *[None] * (width - len(cells))) for row, cells in rows]
    frame, has_header = headings.named(NAME, pl.DataFrame(wide, schema=schema, orient="row"), width)
    form = phrase("typed or pasted") + ("" if has_header else phrase(", no header"))
    return made(NAME, form, thinned(frame), text.encode())


def _cells(line: str) -> list[str]:
    """The cells of a line: by tabs, semicolons or bars, else what precedes the last space and the rest."""
    for mark in _CUTS:
        if mark in line:
            return [cell.strip() for cell in line.split(mark)]
    for pattern in (r"^(.*\S)\s*[:=]\s*(\S+)$", r"^(.*\S)\s+(\S+)$", r"^([^,]+),\s*([^,]+)$"):
        # A period with what is no figure is a line all the same: its figure cannot be read.
        if (found := re.match(pattern, line)) and (is_number(found[2]) or written_as(found[1])):
            return [found[1], found[2]]
    return [line] if is_number(line) else [cell.strip() for cell in line.split(",")]


def _is_name(cell: str) -> bool:
    return bool(cell) and not is_number(cell) and not written_as(cell) and not is_month_name(cell)
