"""One history in the arrangements and languages of many offices: what comes of each, to the last digit."""

from __future__ import annotations

import csv
import re
import tempfile
import unittest
from decimal import Decimal
from pathlib import Path

from hypothesis import given, reject, settings
from hypothesis import strategies as st

from oat_tide.core.series.reading import Reading
from oat_tide.core.user_error import UserError
from oat_tide.documents import open_document
from oat_tide.session import Session
from oat_tide.stages.deck import Choice
from tests.helpers import FolderCase
from tests.test_cli import run

FOLDER = Path(__file__).parents[1] / "offices" / "arranged"
AREAS, GOODS, MONTHS = 2, 3, 24
MISTYPED = {
    "months-across-de-mistyped.csv": ("Mrc 2022", 2, 1),
    "months-across-fr-mistyped.csv": ("jiul.-23", 18, 1),
    "years-down-es-mistyped.csv": ("stet", 8, 2),
}
"""The heading, the first month that it stands for, and how many it stands for."""
IN_NO_SERIES = {"codes-en.csv": ("turnover",)}
SERIES = dict.fromkeys(
    ("columns-sv", "whole-member-da", "sums-within-pt", "budget-beside-fi", "scenarios-cs"), 3
)


def cents(area: int, goods: int, month: int) -> int:
    """The figure of a month in hundredths: what every file of the folder holds."""
    return 100 * (40 + 11 * area + 7 * goods + month) + 25 * ((3 * area + 5 * goods + 7 * month) % 4)


def of_month(month: int) -> Decimal:
    """What all series come to in a month."""
    return Decimal(sum(cents(a, p, month) for a in range(AREAS) for p in range(GOODS))) / 100


WHOLE = [of_month(month) for month in range(MONTHS)]


def session_of(name: str) -> Session:
    """A plan on one of the files."""
    return open_document(FOLDER / name).session


def held(session: Session) -> list[Decimal]:
    """What all series come to by period; a period that is not known is 0."""
    values = session.panel.total(tuple(None for _ in session.reading.dimensions)).values[0]
    return [Decimal(str(round(float(value), 4))) if value == value else Decimal(0) for value in values]


def by_period(kind: str) -> list[Decimal]:
    """The truth by months or quarters."""
    step = 3 if kind == "quarter" else 1
    return [sum(WHOLE[at : at + step], Decimal(0)) for at in range(0, MONTHS, step)]


class Arranged(unittest.TestCase):
    def test_each_comes_to_the_same_history(self) -> None:
        for path in sorted(FOLDER.iterdir()):
            if path.name in MISTYPED:
                continue
            with self.subTest(path.name):
                session = session_of(path.name)
                reading = session.reading
                self.assertEqual(held(session), by_period(session.grid.kind))
                self.assertEqual(session.grid.label(session.panel.first)[-4:], "2022")
                self.assertEqual(len(session.panel.keys), SERIES.get(path.stem, AREAS * GOODS))
                self.assertEqual(reading.total_used, float(sum(WHOLE)))
                self.assertTrue(session.tie.ties and not reading.asks)
                self.assertTrue(session.deck("intake").title(0).count(", and tie"))
                names = tuple(each.name for each in reading.figures_in("no series"))
                self.assertEqual(names, IN_NO_SERIES.get(path.name, ()))
                self.assertEqual([each for each in reading.own_totals if each.more], [])

    def test_the_command_line_without_columns_for_series_comes_to_it_too(self) -> None:
        for path in sorted(FOLDER.iterdir()):
            if path.name in MISTYPED or path.name.startswith("quarters"):
                continue
            with self.subTest(path.name):
                code, out, _ = run("smooth", path, "--window", 2)
                self.assertEqual(code, 0)
                rows = [row for row in csv.DictReader(out.splitlines()) if row["actual"]]
                self.assertEqual([Decimal(row["actual"]) for row in rows], WHOLE)

    def test_a_mistyped_heading_is_asked_for_first_with_its_sum_and_nothing_ties_until_then(self) -> None:
        for name, (heading, first, many) in MISTYPED.items():
            with self.subTest(name):
                session = session_of(name)
                (asked,) = session.reading.figures_in("asked")
                lost = sum((of_month(first + 12 * year) for year in range(many)), Decimal(0))
                self.assertEqual(asked.name, heading)
                # A total row of its own counts in the sum of the column, as it stands there.
                self.assertIn(asked.amount, (lost, 2 * lost))
                deck = session.deck("intake")
                said = f"{deck.title(0)} {deck.finding(0)}"
                self.assertIn(heading, deck.title(0))
                self.assertIsNone(re.search(r"\bties?\b", said), said)
                own = max(session.reading.own_totals, key=lambda each: each.more)
                self.assertEqual(own.more, lost)
                choices = [item for item in deck.sheet() if isinstance(item, Choice)]
                self.assertIn(heading, choices[0].text)
                # The periods that it may be are not known: never nothing sold.
                missing = [month for month, figure in enumerate(held(session)) if not figure]
                self.assertEqual(missing, [first + 12 * year for year in range(many)])
                words, settle = choices[0].outcomes[0]
                assert settle is not None
                session.do(settle)
                self.assertTrue(words.startswith("It is "))
                self.assertEqual(held(session), WHOLE)
                self.assertTrue(session.tie.ties and not session.reading.asks)
                self.assertEqual([each for each in session.reading.own_totals if each.more], [])
                self.assertIn(", and tie", session.deck("intake").title(0))

    def test_a_heading_that_is_no_period_is_in_no_series_and_named(self) -> None:
        session = session_of("months-across-de-mistyped.csv")
        choice = next(item for item in session.deck("intake").sheet() if isinstance(item, Choice))
        no_period = dict(choice.outcomes)["It is no period"]
        assert no_period is not None
        session.do(no_period)
        self.assertIn("and tie; in no series: Mrc 2022 659.5", session.deck("intake").title(0))

    def test_the_command_line_names_it_in_one_line_and_strict_refuses(self) -> None:
        for name, (heading, *_) in MISTYPED.items():
            with self.subTest(name):
                code, out, err = run("smooth", FOLDER / name, "--window", 2)
                self.assertEqual((code, bool(out), err.count("\n")), (0, True, 1))
                self.assertIn(f"“{heading}” may be a period and is not read", err)
                self.assertEqual(run("smooth", FOLDER / name, "--window", 2, "--strict")[:2], (3, ""))

    def test_titles_above_the_header_are_no_reason_to_refuse(self) -> None:
        text = "Sales of the mill\nmonth,cases\n2024-01,1\n2024-02,2\n2024-03,4\n2024-04,4\n"
        path = Path(self.enterContext(tempfile.TemporaryDirectory())) / "titled.csv"
        path.write_text(text)
        self.assertEqual(run("smooth", path, "--window", 2, "--strict")[0], 0)

    def test_codes_tell_series_apart_and_what_comes_once_does_not(self) -> None:
        reading = session_of("codes-en.csv").reading
        self.assertEqual(reading.dimensions, ("item",))
        self.assertEqual([(each.name, each.values) for each in reading.left_out], [("invoice", 144)])

    def test_a_column_left_out_is_taken_by_a_click_on_its_words(self) -> None:
        session = session_of("codes-en.csv")
        word = next(each for each in session.deck("intake").sentence if each.text == "invoice, 144 values")
        assert word.edit is not None
        session.do(word.edit)
        self.assertEqual(session.reading.dimensions, ("item", "invoice"))

    def test_what_was_filled_down_is_said(self) -> None:
        both = "gebied, product"
        for name, columns in (
            ("outline-it.csv", "zona"),
            ("outline-long-nl.csv", both),
            ("outline-codes-nl.csv", both),
        ):
            session = session_of(name)
            said = " ".join(word.text for word in session.deck("intake").sentence)
            self.assertIn(f"blank cells of {columns} taken for the one above", said)
            self.assertNotIn("(blank)", str(session.panel.keys))

    def test_a_figure_that_leads_the_line_and_is_often_blank_is_not_filled_down(self) -> None:
        rows = [f"{7 * m if m % 3 == 0 else ''};{m + 1:02d}.2025;{100 + m}" for m in range(12)]
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "returns.csv"
            path.write_text("\n".join(["returns;month;cases", *rows]) + "\n", "utf-8")
            reading = open_document(path).session.reading
        self.assertEqual((reading.dimensions, reading.filled), ((), ()))

    def test_the_command_line_says_what_was_filled_down_and_what_stands_under_no_name(self) -> None:
        code, _, said = run("smooth", FOLDER / "outline-codes-nl.csv", "--by", "gebied", "--by", "product")
        self.assertEqual(code, 0)
        self.assertIn("blank cells of gebied, product taken for the one above", said)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "gaps.csv"
            lines = (f"{'Drink' if m != 4 else ''};2025-{m + 1:02d}-01;{100 + m}" for m in range(12))
            path.write_text("\n".join(["product;day;cases", *lines]) + "\n", "utf-8")
            _, _, said = run("smooth", path, "--by", "product")
        self.assertIn("1 line without product under “(blank)”", said)

    def test_a_budget_beside_the_actual_is_kept_beside_and_a_price_is_said_to_be_one(self) -> None:
        session = session_of("budget-beside-fi.csv")
        self.assertEqual(session.plan.intake.also, ("budget",))
        uses = {each.name: each.use for each in session.reading.figures}
        self.assertEqual(uses, {"actual": "used", "budget": "beside", "price": "beside"})


NUMBER = re.compile(r"-?\d+(\.\d+)?")


def slow_sum(rows: list[list[str]]) -> Decimal:
    """All cells below the header that hold a figure, added up by the plainest rule."""
    return sum(
        (Decimal(cell) for row in rows[1:] for cell in row if NUMBER.fullmatch(cell.strip())), Decimal(0)
    )


def whole(reading: Reading) -> Decimal:
    """The same, as the reading tells it: used or set aside, beside, keys, in no series, not settled."""
    return sum((each.amount for each in reading.figures), Decimal(0))


FIGURES = st.one_of(
    st.integers(-9, 99_999).map(str), st.sampled_from(["", "n/a", "12.5", "-3.25", "0", "7.75"])
)


class EveryFigure(FolderCase):
    """For any table the sum of all cells that hold figures is that of what they are said to be."""

    @settings(max_examples=60, deadline=None)
    @given(st.data())
    def test_of_a_long_table(self, data: st.DataObject) -> None:
        extra = data.draw(
            st.lists(st.sampled_from(["turnover", "price", "budget", "item", "Total", "note"]), unique=True)
        )
        header = ["month", "product", "cases", *extra]
        rows = [header]
        for at in range(data.draw(st.integers(6, 20))):
            goods = data.draw(st.sampled_from(["Oats", "Bran", "Total", "7"]))
            cases = data.draw(st.integers(0, 999).map(str))
            rows.append([f"2024-{at % 12 + 1:02d}", goods, cases, *(data.draw(FIGURES) for _ in extra)])
        self.assert_whole(rows)

    @settings(max_examples=60, deadline=None)
    @given(st.data())
    def test_of_a_wide_table(self, data: st.DataObject) -> None:
        months = [f"2024-{month:02d}" for month in range(1, data.draw(st.integers(4, 12)))]
        strange = data.draw(st.sampled_from(["", "2024-0x", "Mrc 2024", "Price", "Total", "2024", "item"]))
        place = data.draw(st.integers(0, len(months)))
        header = ["product", *months[:place], *([strange] if strange else []), *months[place:]]
        rows = [header]
        for goods in data.draw(st.lists(st.sampled_from(["Oats", "Bran", "Total", "Grits"]), min_size=2)):
            rows.append([goods, *(data.draw(st.integers(0, 9999).map(str)) for _ in header[1:])])
        self.assert_whole(rows)

    def assert_whole(self, rows: list[list[str]]) -> None:
        """All that holds a figure is told, and what the lines hold once more by what became of them."""
        text = "\n".join(",".join(row) for row in rows) + "\n"
        try:
            session = self.opened(text)
        except UserError:
            reject()
        reading = session.reading
        self.assertEqual(whole(reading), slow_sum(rows), text)
        used = sum((each.amount for each in reading.figures_in("used")), Decimal(0))
        lines = sum((reading.added(what) for what in ("used", "beside", "aside", "totals")), Decimal(0))
        self.assertEqual(used, lines, text)
        self.assertEqual(reading.added("read"), lines, text)
