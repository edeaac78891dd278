"""Months and quarters as people write them: a column is read whole in one language."""

from __future__ import annotations

import datetime as dt
import unittest

from oat_tide.documents import open_document
from oat_tide.intake.cells import dates
from oat_tide.intake.cells.month_words import MONTH_NAMES, folded, is_month, months_of
from oat_tide.plan.edits import edit
from oat_tide.plan.paths import P
from tests.helpers import FolderCase
from tests.intake.cells.test_cells import read_dates


class Months(unittest.TestCase):
    def test_every_name_of_every_language_is_its_month(self) -> None:
        for language, months in MONTH_NAMES.items():
            words = [name for names in months for name in names.split()]
            found = months_of(words)
            for month, names in enumerate(months, 1):
                for name in names.split():
                    with self.subTest(language, name=name):
                        self.assertEqual(found[name], month)
                        self.assertTrue(is_month(name.upper()))

    def test_a_column_is_read_in_the_language_that_reads_the_most(self) -> None:
        # Listopad is November in Polish and October in Croatian.
        self.assertEqual(months_of(["listopad", "grudzień"])["listopad"], 11)
        self.assertEqual(months_of(["listopad", "studeni", "prosinac"])["listopad"], 10)
        self.assertEqual(months_of(["juil", "juin"]), {"juil": 7, "juin": 6})
        self.assertEqual(months_of(["Hopper", "Sieve"]), {})

    def test_accents_case_and_closing_marks_do_not_matter(self) -> None:
        self.assertEqual({folded(word) for word in ("Août", "AOUT", "aout.")}, {"aout"})
        self.assertEqual(set(months_of(["Août", "AOUT", "aout", "févr."]).values()), {8, 2})

    def test_words_that_only_begin_like_a_month_are_none(self) -> None:
        for word in ("Marzipan", "Decor", "Ma", "Octane", "T1"):
            self.assertFalse(is_month(word), word)
        self.assertEqual(read_dates(["Marzipan 2024"]), [None])


class Written(unittest.TestCase):
    def test_days_and_months(self) -> None:
        for cells, date in (
            (["5. März 2024", "05.03.2024"], "2024-03-05"),
            (["5 mars 2024", "1er mars 2024"], "2024-03-05"),
            (["5 de marzo de 2024"], "2024-03-05"),
            (["5 marzo 2024"], "2024-03-05"),
            (["Okt 2023", "Oktober 2023"], "2023-10-01"),
            (["enero 2024", "enero de 2024"], "2024-01-01"),
            (["03/2024", "3/2024", "2024M03", "2024M3", "03.2024"], "2024-03-01"),
        ):
            with self.subTest(cells):
                found = read_dates(list(cells), True)
                self.assertEqual(found[0], dt.date.fromisoformat(date))
                self.assertNotIn(None, found)

    def test_quarters(self) -> None:
        for cell in (
            "T2 2024", "2024 T2", "2024-T2", "2T24", "K2 2024", "2e trim. 2024", "2ème trimestre 2024",
            "2º trimestre 2024", "2.º trim. 2024", "2. Quartal 2024", "2nd quarter 2024", "2. kvartal 2024",
            "2:a kvartalet 2024", "2e kwartaal 2024", "2024 2. Quartal", "FY24 Q2", "Q2 FY24",
            "II kw. 2024", "II kwartał 2024", "2024. II. negyedév", "trim. II 2024", "Quarter 2 2024",
        ):  # fmt: skip
            with self.subTest(cell):
                self.assertEqual(dates.written_as(cell), dates.QUARTER)
                self.assertEqual(read_dates([cell]), [dt.date(2024, 4, 1)])

    def test_what_is_none_of_them(self) -> None:
        for cell in (
            "13/2024", "2024M13", "FY24 P13", "T5 2024", "5e trim. 2024", "trim. 2024", "V kw. 2024",
            "14.2024",
        ):  # fmt: skip
            with self.subTest(cell):
                self.assertEqual(read_dates([cell]), [None])


class InFiles(FolderCase):
    def test_quarters_and_months_without_a_year_start_anew(self) -> None:
        text = "trimestre;ventes\n" + "\n".join(
            f"{q}{'er' if q == 1 else 'e'} trim.;{10 * y + q}" for y in range(3) for q in range(1, 5)
        )
        session = self.opened(text)
        self.assertEqual((session.grid.kind, session.reading.asks_year), ("quarter", True))
        self.assertEqual(
            session.panel.values[0].tolist(), [10 * y + q for y in range(3) for q in range(1, 5)]
        )
        text = "Monat;Umsatz\n" + "\n".join(
            f"{m};{i}" for i, m in enumerate(2 * ["Jan", "Feb", "Mär", "Apr"])
        )
        self.assertEqual(self.opened(text).reading.grid.kind, "month")

    def test_years_written_with_the_one_that_follows_are_fiscal_years(self) -> None:
        session = self.opened("year,cases\n2009/10,1\n2010/11,2\n2011/12,3\n2012/13,4\n")
        self.assertEqual((session.grid.kind, session.panel.values[0].tolist()), ("year", [1, 2, 3, 4]))
        self.assertEqual(session.reading.patterns[0].text, "2009/10")
        # Where one of them is none, they are months.
        months = self.opened("month,cases\n2009/10,1\n2009/11,2\n2009/12,3\n")
        self.assertEqual(months.grid.kind, "month")

    def test_numbered_quarters_beside_their_year(self) -> None:
        for name in ("quarter", "trimestre", "Quartal"):
            text = f"year,{name},cases\n" + "\n".join(
                f"{y},{q},{q}" for y in (2022, 2023) for q in (1, 2, 3, 4)
            )
            session = self.opened(text)
            self.assertEqual(
                (session.grid.kind, session.panel.values[0].tolist()), ("quarter", [1, 2, 3, 4] * 2)
            )

    def test_fiscal_periods_count_from_the_start_of_the_fiscal_year(self) -> None:
        session = open_document(
            self.file("period,cases\nFY24 P01,1\nFY24 P02,2\nFY24 P12,3\nFY25 P01,4\n")
        ).session
        self.assertEqual(session.grid.label(session.panel.first), "Jan 2024")
        self.assertIn("FY24 is read as the year 2024", " ".join(session.reading.notes))
        session.do(edit(P.periods.year_start, 4))
        self.assertEqual(session.grid.label(session.panel.first), "Apr 2024")
        self.assertEqual(session.panel.values[0, [0, 1, 11, 12]].tolist(), [1, 2, 3, 4])
        session.undo()
        self.assertEqual(session.grid.label(session.panel.first), "Jan 2024")
