"""How figures are written where room is short: wider steps, millions, decimals of their size."""

from __future__ import annotations

import numpy as np

from oat_tide.core.periods.calendar import Grid
from oat_tide.desk.chart.steps import steps_over
from oat_tide.desk.look.measured import advance
from oat_tide.desk.look.palette import SMALL, TEXT
from oat_tide.desk.sheet.fact import _LINE, FactRow
from oat_tide.plan.edits import edit
from oat_tide.plan.paths import P
from oat_tide.stages import ON_RAIL
from tests.desk.case import DeskCase
from tests.helpers import monthly


def revenue(months: int) -> str:
    rows = (f"{2020 + m // 12}-{m % 12 + 1:02d}-01,{150 + m}000000.25" for m in range(months))
    return "month,revenue\n" + "\n".join(rows) + "\n"


class FiguresCase(DeskCase):
    def open_text(self, text: str) -> None:
        """Open a file of this text."""
        path = self.folder / "sales.csv"
        path.write_text(text)
        self.open(path)


class FieldSteps(FiguresCase):
    def setUp(self) -> None:
        super().setUp()
        self.values = [100 + month for month in range(44)]
        self.open_text(monthly(self.values))
        self.window.show_stage("history")
        self.window.deck.scale.all()
        self.settle()

    def test_narrow_months_are_added_up_by_year_and_the_axis_says_so(self) -> None:
        tide = self.window.deck.tide
        self.window.resize(1280, 800)
        steps = tide.steps()
        assert steps is not None
        self.assertIn(steps.kind, ("quarter", "year"))
        self.assertIs(self.window.deck.axis.steps(), steps)
        sums, held, _ = steps.sums(tide.rows[0].values[0])
        edges = steps.edges
        for place in range(len(sums)):
            self.assertEqual(sums[place], sum(self.values[edges[place] : edges[place + 1]]))
        self.assertEqual(held.sum(), 44)
        # The last step is not over: it says of how many months it is the sum.
        self.assertLess(held[-1], steps.full[-1])

    def test_wide_columns_are_not_added_up(self) -> None:
        self.window.deck.scale.look(20.0, 12.0)
        self.assertIsNone(self.window.deck.tide.steps())

    def test_averages_and_shares_are_never_added_up(self) -> None:
        adding = {row.name for row in self.window.deck.tide.rows if row.adds_up}
        self.assertEqual(adding, {"actual", "on_year"})
        self.window.show_stage("smooth")
        self.assertEqual({row.name for row in self.window.deck.tide.rows if row.adds_up}, {"actual"})

    def test_days_go_by_months_quarters_and_years_never_by_weeks_or_blocks(self) -> None:
        days = Grid("day")
        start = days.period(18262)  # 1 January 2020
        month = steps_over(days, start, "month", 0, 60, 400)
        assert month is not None
        self.assertEqual(month.names, ("Jan", "Feb"))
        self.assertEqual(month.edges.tolist(), [0, 31, 60])
        year = steps_over(days, start, "year", 0, 400, 400)
        assert year is not None
        self.assertEqual((year.names, year.edges.tolist()), (("2020", "2021"), [0, 366, 400]))
        self.assertEqual(year.full.tolist(), [366, 365])


class Sizes(FiguresCase):
    def test_hundreds_of_millions_are_told_in_millions_and_fourteen_have_room(self) -> None:
        self.open_text(revenue(60))
        self.window.show_stage("project")
        self.settle()
        deck = self.window.deck
        self.assertEqual(deck.tide.sizes[deck.deck.figures["actual"].unit], 1e6)
        self.assertEqual(self.cell_text("actual", 0), "150.0")
        self.assertEqual(deck.tide.full_text(self.row("actual"), 0), "150,000,000.25")
        room = deck.scale.across // deck.tide.room
        self.assertGreaterEqual(room, 14)
        self.assertEqual(deck.bands.plots[0].values.told_in, 1e6)
        self.assertEqual(deck.bands.plots[0].values.tickStrings([150e6, 200e6], 1.0, 50e6), ["150", "200"])

    def test_rows_of_one_unit_have_one_number_of_decimals(self) -> None:
        self.open_text(monthly([100, 107, 112] * 8))
        self.window.do(edit(P.history.arrangement, "trailing"))
        self.window.show_stage("history")
        self.settle()
        self.assertEqual(self.cell_text("trailing", 23), "1,276")
        self.assertEqual(self.cell_text("trailing_mean", 23), "106")

    def test_of_six_years_the_latest_are_in_sight_with_their_projection(self) -> None:
        self.open_text("year,cases\n" + "".join(f"{2018 + i},{210 + 9 * i}\n" for i in range(6)))
        self.window.show_stage("project")
        self.settle()
        scale = self.window.deck.scale
        # The as-of line lies no further right than three fifths.
        self.assertEqual((scale.start, scale.count), (2.0, 7.0))

    def test_large_figures_are_cut_neither_on_the_rail_nor_on_the_side_sheet(self) -> None:
        rows = (f"{2021 + m // 12}-{m % 12 + 1:02d}-01,{123456789012.25 + 3e9 * m}" for m in range(60))
        self.open_text("month,revenue\n" + "\n".join(rows) + "\n")
        rail, two_lines = self.window.rail, 0
        for stage in ON_RAIL:
            self.stage(stage)
            for finding in rail.findings.values():
                self.assertGreaterEqual(finding.height(), finding.heightForWidth(finding.width()))
                widest = max(finding.text().split(), key=lambda word: advance(word, SMALL))
                self.assertGreater(finding.width(), advance(widest, SMALL))
            for fact in self.window.sheet._page.findChildren(FactRow):
                if fact.isVisible() and fact.figure is not None:
                    words, figure = advance(fact.figure.label, TEXT), advance(fact.text, TEXT)
                    needed = words + figure if fact.height() == _LINE else max(words, figure)
                    two_lines += fact.height() > _LINE
                    self.assertLess(needed, fact.width(), fact.accessibleName())
        self.assertGreater(two_lines, 0)
        self.assertGreater(max(button.height() for button in rail.buttons.values()), 68)

    def test_the_overview_shows_what_the_chart_does(self) -> None:
        self.open_text(monthly([100 + month for month in range(60)]))
        self.window.show_stage("project")
        self.settle()
        overview = self.window.deck.overview
        self.assertTrue(overview.isVisible())
        self.assertGreaterEqual(overview.height(), 50)
        overview.grab()
        drawn = {figure for figure, *_ in overview._kept}
        self.assertEqual(drawn, {"actual", "fitted", "projected", "lower_80", "lower_95"})
        self.assertTrue(np.isfinite(overview._extent(self.window.deck.deck.bands[0].curves)).all())
