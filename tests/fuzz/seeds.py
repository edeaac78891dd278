"""Small honest files of every kind, to be broken."""

from __future__ import annotations

import datetime as dt
import sqlite3
from pathlib import Path
from typing import Any

import polars as pl
import xlsxwriter

from oat_tide.core.user_error import UserError
from oat_tide.documents import open_document, save_document
from oat_tide.outside import days
from oat_tide.plan.edits import edit, insert
from oat_tide.plan.parts.intake import Rename
from oat_tide.plan.parts.spread import SpreadRequest
from oat_tide.plan.paths import P
from tests.helpers import daily, monthly, ods, wavy

_HERE = Path(__file__).parent.parent
_TOO_LARGE = 60_000


def seeds(folder: Path) -> list[Path]:
    """Files of every kind that is read, those of the other tests among them, and plans on some of them."""
    texts = [each for each in (*_files("awkward"), *_files("offices")) if each.stat().st_size < _TOO_LARGE]
    (folder / "months.csv").write_text(monthly([120 + 3 * i + 20 * (i % 12) for i in range(40)]))
    (folder / "days.csv").write_text(daily(60, wavy))
    made = [
        _workbook(folder),
        ods(folder / "sheet.ods", [["day", "product", "cases"], *map(list, _lines())]),
        _parquet(folder),
        _sqlite(folder),
    ]
    own = [folder / "months.csv", folder / "days.csv", *made]
    return [*texts, *own, *_plans(folder, own)]


def _files(name: str) -> list[Path]:
    return sorted(each for each in (_HERE / name).iterdir() if each.is_file())


def _lines() -> list[tuple[dt.date, str, int]]:
    first = dt.date(2024, 1, 1)
    return [
        (first + dt.timedelta(days=7 * week), product, 10 + week % 9)
        for week in range(40)
        for product in ("Oat drink", "Bran")
    ]


def _workbook(folder: Path) -> Path:
    path = folder / "book.xlsx"
    book: Any = xlsxwriter.Workbook(path)
    dated = book.add_format({"num_format": "yyyy-mm-dd"})
    for name in ("2024", "Notes"):
        sheet = book.add_worksheet(name)
        sheet.write_row(1, 1, ["day", "product", "cases"])
        for row, (day, product, cases) in enumerate(_lines(), 2):
            sheet.write_datetime(row, 1, dt.datetime.combine(day, dt.time()), dated)
            sheet.write(row, 2, product)
            sheet.write(row, 3, cases)
    book.close()
    return path


def _parquet(folder: Path) -> Path:
    path = folder / "lines.parquet"
    days, products, cases = zip(*_lines(), strict=True)
    pl.DataFrame(
        {
            "day": days,
            "at": [dt.datetime.combine(day, dt.time(3)) for day in days],
            "product": pl.Series(products).cast(pl.Categorical),
            "cases": [float(each) for each in cases],
            "price": pl.Series(["3.10"] * len(days)).cast(pl.Decimal(10, 2)),
        }
    ).write_parquet(path)
    return path


def _sqlite(folder: Path) -> Path:
    path = folder / "till.sqlite"
    with sqlite3.connect(path) as line:
        line.execute("CREATE TABLE sales (day TEXT, product TEXT, cases INTEGER)")
        line.executemany("INSERT INTO sales VALUES (?, ?, ?)", [(str(d), p, c) for d, p, c in _lines()])
        line.execute("CREATE VIEW large AS SELECT * FROM sales WHERE cases > 12")
    line.close()
    return path


def _plans(folder: Path, sources: list[Path]) -> list[Path]:
    """Plans with something in every part, on each of the files."""
    made = []
    for source in sources:
        session = open_document(source).session
        later = (
            insert(P.smooth.smoothers[0], session.plan.smooth.smoothers[0]),
            edit(P.as_of, dt.date(2024, 7, 31)),
            days(session, "closed", "2024-02-05 – 2024-02-06 storm"),
            edit(P.project.over, ("mean", "drift")),
            edit(P.spread.asked, (SpreadRequest(over="2025", total=1200.0),)),
            session.noted(session.home - 1, session.home, "a note"),
        )
        for change in later:
            session.do(change)
        if "product" in session.reading.dimensions:
            session.do(edit(P.intake.renames, (Rename("product", "Bran", "Oat bran"),)))
        session.do(session.keep("a trial", b"PAR1 of a kind PAR1", "by hand"))
        path = folder / f"{source.stem}.oattide"
        try:
            session.prepare()
            save_document(session, "smooth", path)
        except UserError as error:
            raise AssertionError(f"{source.name} gives no plan") from error
        made.append(path)
    return made
