"""Budgets beside the history: rows, curves, and what is held against them."""

from __future__ import annotations

import numpy as np

from oat_tide.core.working.rendering import evaluate
from oat_tide.plan.edits import edit
from oat_tide.plan.paths import P
from tests.helpers import FolderCase
from tests.stages.test_examples import arranged

ACTUALS = [40, 50, 60, 44, 52, 66]
BUDGETS = [44, 50, 50, 44, 55, 60, 70, 80]
"""Two months further."""


def scenarios(actual: str = "Actual", other: str = "Budget") -> str:
    rows = [f"2024-{m + 1:02d}-01,{actual},{value}" for m, value in enumerate(ACTUALS)]
    rows += [f"2024-{m + 1:02d}-01,{other},{value}" for m, value in enumerate(BUDGETS)]
    return "\n".join(["month,scenario,cases", *rows]) + "\n"


class Scenarios(FolderCase):
    def test_history_holds_the_actual_against_the_budget(self) -> None:
        figures = self.opened(scenarios()).deck("history").figures
        self.assertEqual(figures["beside_0"].label, "Budget")
        self.assertEqual(figures["beside_0"].values[0].tolist(), BUDGETS)
        # 40 - 44, 50 - 50, 60 - 50, 44 - 44, 52 - 55, 66 - 60; 100 x 40 / 44 and on.
        self.assertEqual(figures["less_beside_0"].label, "Actual less Budget")
        self.assertEqual(figures["less_beside_0"].values[0, :6].tolist(), [-4, 0, 10, 0, -3, 6])
        share = [100 * a / b for a, b in zip(ACTUALS, BUDGETS, strict=False)]
        np.testing.assert_allclose(figures["of_beside_0"].values[0, :6], share)
        self.assertTrue(np.isnan(figures["less_beside_0"].values[0, 6:]).all())
        self.assertIn("part, not known", figures["less_beside_0"].why_blank(0, 7))

    def test_each_is_a_curve_named_at_its_end(self) -> None:
        session = self.opened(scenarios())
        for stage in ("history", "smooth", "project"):
            labels = {c.figure: c.label for band in session.deck(stage).bands for c in band.curves}
            self.assertEqual(labels["beside_0"], "Budget", stage)

    def test_both_are_rolled_side_by_side(self) -> None:
        session = self.opened(scenarios())
        session.do(edit(P.smooth.smoothers[0].window, 2))
        figures = session.deck("smooth").figures
        self.assertEqual(figures["smoothed_0"].values[0, 1:6].tolist(), [45, 55, 52, 48, 59])
        self.assertEqual(
            figures["smoothed_beside_0"].values[0, 1:].tolist(), [47, 50, 47, 49.5, 57.5, 65, 75]
        )
        session.do(arranged("trailing", back=1))
        figures = session.deck("history").figures
        self.assertEqual(figures["trailing"].values[0, 1:6].tolist(), [90, 110, 104, 96, 118])
        # The budget goes on past the as-of.
        self.assertEqual(
            figures["trailing_beside_0"].values[0, 1:].tolist(), [94, 100, 94, 99, 115, 130, 150]
        )

    def test_a_budget_so_far_goes_on_past_the_as_of_and_the_history_is_held_against_it(self) -> None:
        session = self.opened(scenarios())
        session.do(arranged("running"))
        figures = session.deck("history").figures
        self.assertEqual(figures["running"].values[0, :6].tolist(), [40, 90, 150, 194, 246, 312])
        self.assertEqual(
            figures["running_beside_0"].values[0].tolist(), [44, 94, 144, 188, 243, 303, 373, 453]
        )
        self.assertEqual(figures["running_less_beside_0"].values[0, :6].tolist(), [-4, -4, 6, 6, 3, 9])
        self.assertEqual(figures["running_less_beside_0"].label, "Running total less Budget")
        self.assertIn("is not known", figures["running_less_beside_0"].why_blank(0, 7))
        for figure in (figures["running_beside_0"], figures["running_less_beside_0"]):
            for column, value in enumerate(figure.values[0]):
                if value == value:
                    self.assertEqual(evaluate(figure.explain(0, column)), value)  # type: ignore[arg-type]

    def test_a_column_of_budgets_is_a_scenario_of_the_measure(self) -> None:
        text = "month,actual,budget\n" + "".join(f"2024-{m:02d}-01,{m},{m + 1}\n" for m in range(1, 7))
        figures = self.opened(text).deck("history").figures
        self.assertEqual((figures["beside_0"].label, figures["beside_0"].unit), ("budget", "actual"))

    def test_the_projection_is_held_against_the_budget(self) -> None:
        figures = self.opened(scenarios()).deck("project").figures
        projected = figures["projected"].values[0, 6:8]
        self.assertEqual(figures["less_beside_0"].label, "Projected less Budget")
        np.testing.assert_allclose(figures["less_beside_0"].values[0, 6:8], projected - [70, 80])
        np.testing.assert_allclose(figures["of_beside_0"].values[0, 6:8], 100 * projected / [70, 80])

    def test_a_row_of_budgets_is_never_called_actual(self) -> None:
        session = self.opened(scenarios())
        self.assertEqual(session.reading.history, "Actual")
        session.do(edit(P.intake.actual, "Budget"))
        figures = session.deck("history").figures
        self.assertEqual((figures["actual"].label, figures["beside_0"].label), ("Budget", "Actual"))
        self.assertEqual(figures["less_beside_0"].label, "Budget less Actual")
        self.assertEqual(session.reading.history, "Budget")

    def test_budgets_have_short_windows_where_these_are_shown(self) -> None:
        session = self.opened(scenarios())
        session.do(arranged("trailing", back=1, short=True))
        figures = session.deck("history").figures
        self.assertEqual(figures["trailing_beside_0"].values[0, :6].tolist(), [44, 94, 100, 94, 99, 115])

    def test_every_working_comes_to_its_figure(self) -> None:
        session = self.opened(scenarios())
        for arrangement in ("sequence", "trailing"):
            session.do(arranged(arrangement))
            for stage in ("history", "smooth", "project"):
                for figure in session.deck(stage).figures.every():
                    for column, value in enumerate(figure.values[0]):
                        working = figure.explain(0, column)
                        self.assertEqual(working is None, bool(np.isnan(value)), figure.name)
                        if working is not None:
                            self.assertAlmostEqual(float(evaluate(working)), value, 9, figure.name)

    def test_a_further_measure_is_no_scenario(self) -> None:
        text = "month,cases,money\n" + "".join(f"2024-{m:02d}-01,{m},{m * 2.5}\n" for m in range(1, 7))
        session = self.opened(text)
        session.do(edit(P.intake.value, "cases"))
        session.do(edit(P.intake.also, ("money",)))
        lines = session.deck("lines").figures
        self.assertEqual(lines["beside_0"].unit, "money")
        self.assertNotIn("beside_0", session.deck("history").figures)
