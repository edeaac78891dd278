"""Files as offices have them: what must come of each to the last digit, without a window and in it."""

from __future__ import annotations

import csv
import io
import math
import unittest
from dataclasses import dataclass
from decimal import Decimal, InvalidOperation
from pathlib import Path

from oat_tide.documents import open_document
from oat_tide.plan.edits import edit
from oat_tide.plan.paths import P
from oat_tide.session import Session
from tests.desk.case import DeskCase
from tests.test_cli import run

FOLDER = Path(__file__).parents[1] / "offices"
AWKWARD = FOLDER.with_name("awkward")
NONE = math.nan


@dataclass
class Comes:
    """What must come of a file.

    Attributes:
        figures: of all series together, period by period; NaN where it is not known.
        first: the first period; measure: what is added up, and the decimal mark of its cells.
        unit: the measure as it is said; by: what tells series apart.
        says: words on standard error; takes: what gaps were taken for, which is no reason to refuse.
        settles: what is still to be asked, in words.
        withheld, aside, totals: what is in no period though its lines are used, what is set aside, and what
            total rows hold.
    """

    figures: list[float]
    first: str
    measure: str | tuple[str, ...]
    mark: str = "."
    unit: str = ""
    by: tuple[str, ...] = ()
    says: tuple[str, ...] = ()
    takes: str = ""
    settles: tuple[str, ...] = ()
    delimiter: str = ","
    encoding: str = "utf-8"
    withheld: str = "0"
    aside: str = "0"
    totals: str = "0"


FILES = {
    "weights-point.csv": Comes([174.896, 188.591, 187.63, 190], "Jan 2024", "kg", delimiter=";"),
    "weights-comma.csv": Comes([14.763, 15.2, 15.204, 14.9], "Jan 2024", "kg", ",", delimiter=";"),
    "unsettled.txt": Comes(
        [14.763, 15.204, 13.88, 16.005], "Jan 2024", "cases", delimiter="\t",
        says=("“14.763” is read as 14.763 and nothing in the source decides it",),
        settles=("“14.763” read as 14.763",),
    ),
    "beside-a-price.csv": Comes([1234, 1180, 1302, 1275], "Jan 2024", "Menge", ",", delimiter="\t"),
    "umsatz.csv": Comes(
        [1234.5, 1310.25, 2045, 998.75, 1001, 1120.4], "Oct 2023", "Umsatz", ",", delimiter=";",
        encoding="latin-1", says=("1 total row not added",), totals="7709.9",
    ),
    "trimestres.csv": Comes([410, 455, 390, 520, 430, 470], "Q1 2023", "ventes", delimiter=";"),
    "enero.csv": Comes([120, 118, 131, 127, 140], "Jan 2024", "ventas", delimiter=";"),
    "other-forms.csv": Comes([12, 14, 13, 17], "Jan 2024", "cases"),
    "month-first.csv": Comes([12, 14, 13, 17], "Jan 2024", "cases"),
    "fiscal-periods.csv": Comes([100, 110, 105, 120, 118], "Jan 2024", "cases"),
    "codes-beside.csv": Comes([166, 171, 153, 204, 209, 191], "Jan 2024", "quantity", by=("goods",)),
    # 23 industries side by side, as it were: a column each, and one of them without its May.
    "industries.csv": Comes(
        [471, 472, 473, 474, NONE, 476, 477, 478, 479, 480, 481, 482], "Jan 2023",
        ("Bakeries", "Cafés", "Grocers", "Schools"), unit="figure", by=("column",),
        says=("1 of 48 lines set aside (1 no number)", "1 period of series not known"),
        settles=("1 line of a known day without a figure",), withheld="415",
    ),
    "blanks.csv": Comes(
        [201, 401, 601, NONE, 1001, 1201, 1401, 1601, NONE, 2001, 2201, 2401], "Jan 2024", "cases",
        by=("product",), says=("1 no number, 1 number cannot be read", "2 periods of series not known"),
        settles=("2 lines of a known day without a figure",), withheld="1301",
    ),
    "rows-with-gaps.csv": Comes(
        [NONE if m in (7, 15) else 200 + 5 * m for m in range(24)], "Jan 2022", "cases",
        takes="2 series-months without a line taken as not known",
    ),
    "no-zero-months.csv": Comes(
        [sum(n + m for n, k in ((3, 1), (9, 3), (4, 5)) if m % k == 0) for m in range(24)], "Jan 2022",
        "pieces", by=("part",),
    ),
    "prices.csv": Comes([3.72, 3.82, 3.92, 4.02], "Jan 2024", "price", unit="mean price", by=("product",)),
    "stock.csv": Comes(
        [1544, 1488, 1432, 1376], "Jan 2024", "stock", unit="last stock", by=("product",),
        withheld=str(sum(b - m * d for m in range(1, 5) for d in (7, 14, 21) for b in (900, 700))),
    ),
    "on-the-25th.csv": Comes([400 + 10.0 * m for m in range(1, 11)], "Jan 2024", "cases"),
    "totals-within.csv": Comes(
        [15, 17, NONE], "Jan 2024", "cases", by=("product",), totals="64", aside="4", withheld="19",
        says=("2 of 11 lines set aside (1 no date, 1 number cannot be read)", "3 total rows not added"),
        settles=("1 line of a known day without a figure",),
    ),
}  # fmt: skip


def slow_sum(path: Path, comes: Comes) -> Decimal:
    """Every figure of the raw cells that can be read, added up by the plainest rule there is."""
    names = (comes.measure,) if isinstance(comes.measure, str) else comes.measure
    total = Decimal(0)
    with path.open(encoding=comes.encoding) as file:
        for row in csv.DictReader(file, delimiter=comes.delimiter):
            for name in names:
                cell = row[name].strip()
                cell = cell.replace(".", "").replace(",", ".") if comes.mark == "," else cell
                try:
                    total += Decimal(cell)
                except InvalidOperation:
                    continue
    return total


def session_of(name: str) -> Session:
    """A plan on one of the files."""
    return open_document(FOLDER / name).session


class Reading(unittest.TestCase):
    def test_every_file_of_the_folder_has_its_expectation(self) -> None:
        self.assertEqual({path.name for path in FOLDER.iterdir() if path.is_file()}, set(FILES))

    def assert_same(self, found: list[float], wanted: list[float]) -> None:
        self.assertEqual(len(found), len(wanted))
        for one, other in zip(found, wanted, strict=True):
            self.assertTrue(
                one == other or (one != one and other != other) or abs(one - other) < 1e-12, found
            )

    def test_the_plan_holds_what_must_come(self) -> None:
        for name, comes in FILES.items():
            with self.subTest(name):
                session = session_of(name)
                self.assertEqual(session.grid.label(session.panel.first), comes.first)
                self.assertEqual(session.reading.dimensions, comes.by)
                self.assertEqual(session.reading.unit, comes.unit or comes.measure)
                self.assert_same(session.sight().values[0].tolist(), comes.figures)

    def test_the_tie_out_starts_at_the_raw_cells(self) -> None:
        for name, comes in FILES.items():
            with self.subTest(name):
                tie = session_of(name).tie
                self.assertTrue(tie.ties)
                self.assertEqual(tie.source, slow_sum(FOLDER / name, comes))
                self.assertEqual(tie.source, tie.used + tie.beside + tie.aside + tie.totals)
                self.assertEqual(tie.used, tie.series + tie.withheld)
                self.assertEqual((tie.aside, tie.totals), (Decimal(comes.aside), Decimal(comes.totals)))
                # A level withholds all of a period in which one line cannot be read.
                level = session_of(name).panel.total(tuple(None for _ in comes.by))
                self.assertEqual(Decimal(float(level.withheld.sum())), Decimal(comes.withheld))

    def test_every_file_ties_by_every_period_however_it_is_totalled(self) -> None:
        folders = FOLDER, AWKWARD, FOLDER / "arranged"
        for path in (path for folder in folders for path in folder.iterdir() if path.is_file()):
            for totalled in ("sum", "mean", "last"):
                session = open_document(path).session
                session.do(edit(P.intake.totalled, totalled))
                for kind, why_not in session.kinds().items():
                    if not why_not:
                        session.do(edit(P.periods.kind, kind))
                        with self.subTest(path.name, totalled=totalled, kind=kind):
                            self.assertTrue(session.tie.ties, session.tie.gap)

    def test_the_command_line_gives_the_same_and_says_what_it_left(self) -> None:
        for name, comes in FILES.items():
            with self.subTest(name):
                code, out, err = run("project", FOLDER / name, "--horizon", 1, "--method", "line")
                for words in (*comes.says, comes.takes):
                    self.assertIn(words, err)
                if name == "totals-within.csv":
                    # Of its three months one is known: nothing can be fitted, and a second line says so.
                    self.assertEqual(code, 2)
                    continue
                self.assertEqual(err.count("\n"), 1 if comes.says or comes.takes else 0, err)
                rows = [row for row in csv.DictReader(io.StringIO(out)) if row["kind"] == "fitted"]
                self.assert_same([float(row["actual"] or NONE) for row in rows], comes.figures)

    def test_strict_writes_nothing_where_anything_was_left_or_is_not_settled(self) -> None:
        for name, comes in FILES.items():
            with self.subTest(name):
                code, out, _ = run("project", FOLDER / name, "--horizon", 1, "--method", "line", "--strict")
                self.assertEqual((code, bool(out)), (3, False) if comes.says else (0, True))


class InTheWindow(DeskCase):
    def test_the_table_shows_them_and_what_is_to_settle_stands_first(self) -> None:
        for name, comes in FILES.items():
            with self.subTest(name):
                self.window._saved = self.window._opened = None
                self.window.session = None
                self.open(FOLDER / name)
                tide = self.window.deck.tide
                number_style = tide.model.number_styles[self.row("actual")]
                for column, figure in enumerate(comes.figures):
                    self.assertEqual(self.cell_text("actual", column), number_style.text(figure))
                asked = [
                    part.choice.text
                    for part in self.window.sheet._page.parts[:14]
                    if getattr(part, "choice", None) is not None
                ]
                for words in comes.settles:
                    self.assertTrue(any(words in each for each in asked), asked)
                title = self.window.deck.headline.title
                self.assertEqual("tie" in title, "unsettled" not in name, title)
