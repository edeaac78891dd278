"""What several tests need: small sales files and sessions on them."""

from __future__ import annotations

import datetime as dt
import shutil
import tempfile
import unittest
import zipfile
from collections.abc import Callable
from pathlib import Path

import numpy as np

from oat_tide.documents import open_document
from oat_tide.plan.edits import put
from oat_tide.plan.parts.project import Project
from oat_tide.session import Session

HEAD = "date,product,area,cases"


class FolderCase(unittest.TestCase):
    """A test with a folder of its own."""

    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp(prefix="oat-tide-"))
        self.addCleanup(shutil.rmtree, self.folder, ignore_errors=True)

    def file(self, text: str | bytes, name: str = "sales.csv") -> Path:
        """A file with this in it."""
        path = self.folder / name
        path.write_bytes(text if isinstance(text, bytes) else text.encode())
        return path

    def opened(self, text: str, name: str = "sales.csv") -> Session:
        """A session on a sales file with this in it, which projects as `plain` has it."""
        return plain(open_document(self.file(text, name)).session)


def plain(session: Session) -> Session:
    """The session as if it had begun with a straight line, six ahead: what can be reckoned by hand."""
    session.begin(put(session.plan, ("project",), Project("line", horizon=6)))
    return session


def monthly(values: list[float], start: str = "2020-01-01", header: str = "month,cases") -> str:
    """A file of month totals, dated the first of each month."""
    first = dt.date.fromisoformat(start)
    months = [np.datetime64(first, "M") + i for i in range(len(values))]
    rows = [f"{month}-01,{value:g}" for month, value in zip(months, values, strict=True)]
    return "\n".join([header, *rows]) + "\n"


def daily(days: int, level: Callable[[int, dt.date], int], start: str = "2024-01-01") -> str:
    """A file of a line a day and product, in two products and two areas."""
    first = dt.date.fromisoformat(start)
    rows = [HEAD]
    for i in range(days):
        date = first + dt.timedelta(days=i)
        for n, (product, area) in enumerate(
            (("Oat drink", "North"), ("Oat drink", "South"), ("Bran", "North"))
        ):
            rows.append(f"{date},{product},{area},{level(i, date) + n}")
    return "\n".join(rows) + "\n"


def wavy(i: int, date: dt.date) -> int:
    """A level that grows and swings, with weekdays."""
    return int(40 + i / 20 + 8 * np.sin(i / 30) + date.weekday())


ODS = """<?xml version="1.0" encoding="UTF-8"?>
<office:document-content xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0"
 xmlns:table="urn:oasis:names:tc:opendocument:xmlns:table:1.0"
 xmlns:text="urn:oasis:names:tc:opendocument:xmlns:text:1.0"><office:body><office:spreadsheet>
<table:table table:name="Sheet one">{rows}</table:table></office:spreadsheet></office:body>
</office:document-content>"""
EMPTY_ROWS = '<table:table-row table:number-rows-repeated="3"><table:table-cell/></table:table-row>'


def ods(path: Path, rows: list[list[object]]) -> Path:
    """A small ODS file with three empty rows above its cells."""

    def cell(value: object) -> str:
        if isinstance(value, dt.date):
            kind = f'office:value-type="date" office:date-value="{value}"'
        elif isinstance(value, float | int):
            kind = f'office:value-type="float" office:value="{value}"'
        else:
            kind = 'office:value-type="string"'
        return f"<table:table-cell {kind}><text:p>{value}</text:p></table:table-cell>"

    lines = "".join(f"<table:table-row>{''.join(map(cell, row))}</table:table-row>" for row in rows)
    with zipfile.ZipFile(path, "w") as archive:
        archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        archive.writestr("content.xml", ODS.format(rows=EMPTY_ROWS + lines))
        archive.writestr("META-INF/manifest.xml", "<manifest/>")
    return path
