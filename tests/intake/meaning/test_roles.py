"""Which column is the measure: told from codes, prices, stocks and columns that are a series each."""

from __future__ import annotations

from collections.abc import Callable

from oat_tide.intake.meaning.names import is_code, is_measure, suited
from oat_tide.intake.meaning.roles import guess
from oat_tide.intake.origins.delimited import open_delimited
from oat_tide.plan.parts.intake import Intake
from tests.helpers import FolderCase


def _boxes(i: int) -> int:
    return i * 7 % 23


class Measures(FolderCase):
    def guessed(self, header: str, *cells: Callable[[int], object]) -> Intake:
        """The roles of a table of 60 lines, the cells told by the number of the line."""
        days = [f"2024-{i // 28 + 1:02d}-{i % 28 + 1:02d}" for i in range(60)]
        rows = [",".join((day, *(str(cell(i)) for cell in cells))) for i, day in enumerate(days)]
        return guess(open_delimited(self.file("\n".join([f"date,{header}", *rows]))))

    def test_codes_are_no_measure_by_name_or_content(self) -> None:
        for header, code in (
            ("ArticleNumber,boxes", lambda i: 4711 + i % 5),
            ("product_code,boxes", lambda i: 471100 + i % 5),
            ("art,boxes", lambda i: 4711 + i % 5),
            ("till,boxes", lambda i: f"{i % 3:04d}"),
            ("customerId,boxes", lambda i: 100 + i),
        ):
            with self.subTest(header):
                self.assertEqual(self.guessed(header, code, _boxes).value, "boxes")

    def test_a_rising_measure_is_one_for_all_that(self) -> None:
        def rising(i: int) -> int:
            return 200 + 9 * i

        self.assertEqual(self.guessed("line,cases", lambda i: i + 1, rising).value, "cases")
        self.assertEqual(self.guessed("index,boxes", lambda i: i % 4, rising).value, "boxes")

    def test_prices_and_stocks_say_how_they_are_totalled(self) -> None:
        for header, way in (
            ("unit price", "mean"), ("Preis", "mean"), ("growth rate", "mean"), ("share %", "mean"),
            ("stock on hand", "last"), ("closing balance", "last"), ("Lagerbestand", "last"),
            ("cases", "sum"), ("Umsatz", "sum"),
        ):  # fmt: skip
            with self.subTest(header):
                found = self.guessed(header, lambda i: f"{_boxes(i)}.5")
                self.assertEqual((found.value, found.totalled), (header, way))
        self.assertEqual(self.guessed("unit price,boxes", lambda i: f"{i % 5}.50", _boxes).value, "boxes")

    def test_of_a_budget_and_an_actual_side_by_side_the_actual_makes_the_history(self) -> None:
        found = self.guessed("budget,actual", lambda i: 100 + i % 7, _boxes)
        self.assertEqual(found.value, "actual")

    def test_codes_filled_up_with_zeros_tell_series_apart(self) -> None:
        found = self.guessed("item,boxes", lambda i: f"{i % 3 + 1:03d}", _boxes)
        self.assertEqual((found.value, found.by), ("boxes", ("item",)))

    def test_names(self) -> None:
        self.assertTrue(is_code("store_nr") and is_code("postCode") and not is_code("notes"))
        self.assertTrue(is_measure("netSales") and not is_measure("Country"))
        self.assertEqual((suited("Price list"), suited("Priceless")), ("mean", "sum"))


ROWS = "2024-01,1,20,3\n2024-02,2,21,4\n2024-03,3,22,5\n"


class ColumnsSideBySide(FolderCase):
    def test_three_of_one_kind_and_nothing_else_are_a_series_each(self) -> None:
        session = self.opened(
            "month,Bakeries,Grocers,Schools\n2024-01,1,20,3\n2024-02,2,21,4\n2024-03,3,22,5\n"
        )
        reading = session.reading
        self.assertEqual(
            (reading.dimensions, reading.members), (("column",), (("Bakeries", "Grocers", "Schools"),))
        )
        self.assertIn("a column a series, 3 of them", " ".join(reading.notes))

    def test_a_total_beside_them_is_told_apart(self) -> None:
        session = self.opened(
            "month,Bakeries,Grocers,Schools,Total\n2024-01,1,20,3,24\n2024-02,2,21,4,27\n2024-03,3,22,5,30\n"
        )
        self.assertEqual(session.panel.values.sum(), 81)
        (own,) = session.reading.own_totals
        self.assertEqual((own.name, own.cells, own.amount, own.more), ("column “Total”", 3, 81, 0))
        self.assertTrue(session.tie.ties)
        self.assertEqual([each.use for each in session.reading.figures], ["used", "used", "used", "beside"])

    def test_measures_of_several_kinds_are_none(self) -> None:
        for header in ("cases,revenue,cost", "opening stock,receipts,closing stock", "id,code,number"):
            with self.subTest(header):
                session = self.opened(f"month,{header}\n{ROWS}")
                self.assertEqual(session.reading.dimensions, ())

    def test_beside_a_dimension_they_are_offered(self) -> None:
        session = self.opened(
            "month,area,Oats,Bran\n2024-01,N,1,20\n2024-01,S,2,21\n2024-02,N,3,22\n2024-02,S,4,23\n"
        )
        self.assertEqual(session.reading.offers.across, ("Oats", "Bran"))
