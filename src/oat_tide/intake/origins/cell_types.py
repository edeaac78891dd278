"""Which cells of a workbook's sheet are numbers and which are text, as the file itself says."""

from __future__ import annotations

import functools
import re
import zipfile
from collections.abc import Iterator
from decimal import Decimal
from xml.etree import ElementTree

import numpy as np
import polars as pl

from oat_tide.intake.cells.numbers import TYPED
from oat_tide.intake.table import ROW

OFFICE = "{urn:oasis:names:tc:opendocument:xmlns:table:1.0}"
REPEATED, _ROWS_REPEATED = f"{OFFICE}number-columns-repeated", f"{OFFICE}number-rows-repeated"
_KIND = "{urn:oasis:names:tc:opendocument:xmlns:office:1.0}value-type"
_CELL = re.compile(rb'<c r="[A-Z]{1,3}(\d{1,7})"[^>]*>(?!\s*</c>)')
_COLUMN = re.compile(rb'<c r="([A-Z]{1,3})\d{1,7}"[^>]*>(?!\s*</c>)')
_ERROR = re.compile(rb'<c r="([A-Z]{1,3})(\d{1,7})"[^>]*\bt="e"[^>]*>.*?<v>([^<]*)</v>', re.S)
_TEXT = re.compile(rb'<c r="([A-Z]{1,3})(\d{1,7})"[^>]*\bt="(?:s|str|inlineStr)"')
_INLINE = re.compile(rb'\bt="(?:str|inlineStr)"')
_LIKE_NUMBER = re.compile(rb"<t(?: [^>]*)?>[^<]*\d[.,]\d[^<]*</t>")
_LIKE_NUMBER_ODS = re.compile(rb'value-type="string"[^>]*>\s*<text:p[^>]*>[^<]*\d[.,]\d')
_PREFIX, _PREFIXED, _HEAD = re.compile(rb"<(/?)\w+:"), re.compile(rb"<\w+:worksheet\b"), 4096
_DIGITS = 15
"""Significant digits of a number cell, as workbooks show them; what they store beyond is noise."""
Place = tuple[int, int]
"""Row from 1 and column from 0, in the sheet."""


class Corner:
    """The place and the kinds of a sheet's cells; the reader begins at the first used one and tells none.

    Attributes:
        row: the first used row, from 1.
        left: the first used column, from 0.
        errors: error cells as they are shown.
        texts: the cells that hold text; None where no text looks like a number.
    """

    def __init__(self, row: int, left: int, errors: dict[Place, str], texts: set[Place] | None) -> None:
        self.row, self.left, self.errors, self.texts = row, left, errors, texts

    def typed(self, frame: pl.DataFrame) -> pl.DataFrame:
        """The cells, those with decimals that are numbers told from text: columns by their place, as text."""
        for name in frame.columns:
            if name == ROW:
                continue
            cells = frame[name]
            numbers = cells.str.contains(r"^-?\d+\.\d+$").fill_null(False)
            if numbers.any() and self.texts is not None:
                column = int(name) + self.left
                rows = np.flatnonzero(numbers.to_numpy())
                held = [(int(row) + self.row, column) not in self.texts for row in rows]
                numbers = pl.Series(np.bincount(rows[held], minlength=len(cells)) > 0)
            if numbers.any():
                frame = frame.with_columns(_marked(cells, numbers).alias(name))
        return frame


def _marked(cells: pl.Series, numbers: pl.Series) -> pl.Series:
    """The cells with a mark behind the numbers among them, to the digits that workbooks show."""
    long = cells.filter(numbers & (cells.str.len_bytes() > _DIGITS + 1)).unique().to_list()
    rounded = {text: format(Decimal(f"{float(text):.{_DIGITS}g}").normalize(), "f") for text in long}
    told = cells.replace(rounded) if rounded else cells
    return pl.select(pl.when(numbers).then(pl.concat_str(told, pl.lit(TYPED))).otherwise(told)).to_series()


def corner(archive: zipfile.ZipFile, name: str) -> Corner:
    """Look at a sheet of a workbook, by its name."""
    if "xl/workbook.xml" not in archive.namelist():
        return _corner_of_ods(archive, name)
    data = sheet_data(archive, parts_of(archive)[name])
    row = min((int(found) for found in _CELL.findall(data)), default=1)
    left = min((column_of(letters) for letters in set(_COLUMN.findall(data))), default=0)
    errors = {
        (int(number), column_of(letters)): text.decode() for letters, number, text in _ERROR.findall(data)
    }
    texts = None
    if _shared_like_numbers(archive) or _INLINE.search(data):
        texts = {(int(number), column_of(letters)) for letters, number in _TEXT.findall(data)}
    return Corner(row, left, errors, texts)


def _shared_like_numbers(archive: zipfile.ZipFile) -> bool:
    shared = "xl/sharedStrings.xml"
    return shared in archive.namelist() and bool(_LIKE_NUMBER.search(archive.read(shared)))


@functools.cache
def column_of(letters: bytes) -> int:
    """The place of a column by its letters in the file, from 0."""
    number = 0
    for letter in letters:
        number = 26 * number + letter - 64
    return number - 1


def letters_of(place: int) -> bytes:
    """The letters of a column by its place, from 0."""
    letters, place = b"", place + 1
    while place:
        place, rest = divmod(place - 1, 26)
        letters = bytes([65 + rest]) + letters
    return letters


def sheet_data(archive: zipfile.ZipFile, part: str) -> bytes:
    """A part of an XLSX file, its elements without the prefix that some writers give them."""
    data = archive.read(part)
    return _PREFIX.sub(rb"<\1", data) if _PREFIXED.search(data[:_HEAD]) else data


def parts_of(archive: zipfile.ZipFile) -> dict[str, str]:
    """The part of an XLSX file that holds each sheet, by its name."""
    book = ElementTree.fromstring(archive.read("xl/workbook.xml"))
    ties = ElementTree.fromstring(archive.read("xl/_rels/workbook.xml.rels"))
    targets = {tie.get("Id"): tie.get("Target", "") for tie in ties}
    found: dict[str, str] = {}
    for sheet in book.iter():
        if sheet.tag.endswith("}sheet"):
            tie = next((value for key, value in sheet.attrib.items() if key.endswith("}id")), None)
            target = targets.get(tie, "")
            part = target.removeprefix("/") if target.startswith("/") else f"xl/{target}"
            if part in archive.namelist():
                found.setdefault(sheet.get("name", ""), part)
    return found


def _corner_of_ods(archive: zipfile.ZipFile, name: str) -> Corner:
    like_numbers = bool(_LIKE_NUMBER_ODS.search(archive.read("content.xml")))
    first, left, texts = 0, 1 << 20, set()
    with archive.open("content.xml") as content:
        for row, column, cell in _cells_of_ods(content, name):
            first, left = first or row, min(left, column)
            if not like_numbers:
                break
            if cell.get(_KIND) == "string":
                texts.add((row, column))
    return Corner(first or 1, 0 if left == 1 << 20 else left, {}, texts if like_numbers else None)


def _cells_of_ods(content: object, name: str) -> Iterator[tuple[int, int, ElementTree.Element]]:
    """The filled cells of a sheet with their places."""
    for _, table in ElementTree.iterparse(content):  # type: ignore[call-overload]
        if table.tag != f"{OFFICE}table":
            continue
        if table.get(f"{OFFICE}name") == name:
            yield from filled_of_ods(table)
            return
        table.clear()


def filled_of_ods(table: ElementTree.Element) -> Iterator[tuple[int, int, ElementTree.Element]]:
    """Row from 1, column from 0 and element of the filled cells of a sheet, a repeated one at each place."""
    row = 1
    for line in table.iter(f"{OFFICE}table-row"):
        rows = int(line.get(_ROWS_REPEATED, 1))
        filled, column = [], 0
        for cell in line:
            columns = int(cell.get(REPEATED, 1))
            if cell.text or len(cell):
                filled.append((range(column, column + columns), cell))
            column += columns
        for own in range(row, row + rows) if filled else ():
            yield from ((own, at, cell) for places, cell in filled for at in places)
        row += rows
