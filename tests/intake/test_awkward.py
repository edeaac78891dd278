"""A folder of small awkward files, and what must come of each."""

from __future__ import annotations

import unittest
from dataclasses import dataclass, field
from pathlib import Path

from oat_tide.documents import open_document
from oat_tide.session import Session

FOLDER = Path(__file__).parents[1] / "awkward"


@dataclass
class Comes:
    """What must come of a file: lines used, their sum, first period, and what stands against other lines."""

    used: int
    total: float
    first: str
    by: tuple[str, ...] = ()
    beside: int = 0
    says: tuple[str, ...] = ()
    form: str = "UTF-8"
    aside: dict[str, int] = field(default_factory=dict)


FILES = {
    "bare-months.csv": Comes(24, 516, "Jan 2020", says=("months without a year", "taken for 2020")),
    "bars-and-dashes.txt": Comes(
        3, 985.25, "Jan 2024", form="UTF-8, separated by bars",
        aside={"no number": 1, "number cannot be read": 1},
    ),
    "copies.csv": Comes(4, 10, "Jan 2024", ("product",)),
    "day-numbers.csv": Comes(3, 12, "Mar 2024"),
    "day-or-month.csv": Comes(3, 12, "Mar 2024", says=("Nothing settles whether day or month",)),
    "decimal-comma.csv": Comes(3, 1219.06, "Mar 2024", form="UTF-8, separated by semicolons"),
    "far-dates-and-figures.csv": Comes(
        2, 11, "Jan 2024",
        aside={"date cannot be read": 2, "number cannot be read": 2, "number too large": 1},
    ),
    "fiscal-years.csv": Comes(3, 350, "2022", says=("FY24 is read as the year 2024",)),
    "mixed-encodings.csv": Comes(
        3, 12, "Jan 2024", ("product",), form="UTF-8 with 1 lines in Windows-1252, the first in row 3"
    ),
    "names-twice.csv": Comes(2, 4, "Jan 2024", ("column 4",)),
    "numbered-years.csv": Comes(6, 785, "2020", says=("year 1 is taken for 2020",)),
    "one-line-no-end.csv": Comes(1, 3, "Jan 2024"),
    "padded.csv": Comes(2, 7, "Jan 2024"),
    "quarters-across.csv": Comes(16, 248, "Q1 2022", ("goods",), says=("quarters across",)),
    "scenario.csv": Comes(3, 35, "Jan 2024", beside=4),
    "several-dates.csv": Comes(3, 11, "Jan 2024"),
    "spellings.csv": Comes(7, 28, "Jan 2024", ("product",)),
    "stamps.csv": Comes(3, 12, "Jan 2024"),
    "stray-quote.csv": Comes(3, 11, "Jan 2024", ("product",)),
    "title-and-total.csv": Comes(
        3, 1188, "Jan 2024", aside={"above the header": 2, "a total, not a sale": 1},
        form="UTF-8, separated by semicolons",
    ),
    "to-date.csv": Comes(24, 1638, "Jan 2022"),
    "unclosed-quote.csv": Comes(3, 11, "Jan 2024", ("product",)),
    "utf-16-without-mark.csv": Comes(2, 7.75, "Jan 2024", form="UTF-16 LE"),
    "weeks-unnamed.csv": Comes(3, 8, "Jun 2024", aside={"date cannot be read": 1, "no date": 1}),
    "wide-months.csv": Comes(
        7, 55, "Jan 2024", ("product", "area"), says=("a column a month, 4 of them",),
        aside={"a total, not a sale": 4, "no number": 1},
    ),
    "windows-1252.csv": Comes(2, 7, "Jan 2024", ("product",), form="Windows-1252"),
    "year-month.csv": Comes(4, 26, "Nov 2022", says=("two columns, year and month",)),
    "year-quarter.csv": Comes(6, 740, "Q1 2022", says=("two columns, Year and Quarter",)),
    "years-down.csv": Comes(27, 180, "Jan 2022", says=("years down and months across",)),
    "years.csv": Comes(6, 785, "2019"),
    "zero-byte.csv": Comes(2, 8, "Jan 2024", aside={"not as many fields as the header": 1}),
    "zones.csv": Comes(3, 8, "Mar 2024", says=("Times with a zone count for the day that is written",)),
}  # fmt: skip


def session_of(name: str) -> Session:
    """A plan on one of the files."""
    return open_document(FOLDER / name).session


class Awkward(unittest.TestCase):
    def test_every_file_of_the_folder_has_its_expectation(self) -> None:
        self.assertEqual({path.name for path in FOLDER.iterdir()}, set(FILES))

    def test_what_comes_of_each(self) -> None:
        for name, comes in FILES.items():
            with self.subTest(name):
                session = session_of(name)
                reading = session.reading
                self.assertEqual((reading.used, reading.beside), (comes.used, comes.beside))
                self.assertAlmostEqual(reading.total_used, comes.total)
                self.assertEqual(session.grid.label(session.panel.first), comes.first)
                self.assertEqual(reading.dimensions, comes.by)
                self.assertEqual({each.reason: each.count for each in reading.asides}, comes.aside)
                self.assertTrue(reading.files[0].form.startswith(comes.form), reading.files[0].form)
                for words in comes.says:
                    self.assertIn(words, " ".join(reading.notes))

    def test_every_line_is_accounted_for(self) -> None:
        for name in FILES:
            with self.subTest(name):
                reading = session_of(name).reading
                self.assertEqual(reading.read, reading.used + reading.beside + reading.aside + reading.totals)
                self.assertEqual(reading.aside + reading.totals, len(reading.list_aside(0, 10_000)))
