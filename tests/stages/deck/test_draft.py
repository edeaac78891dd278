"""A deck in the making: what is defined, when it is reckoned, and what is said where that fails."""

from __future__ import annotations

import math
from unittest import mock

import numpy as np

from oat_tide.core.working.formula import Formula, given, total
from oat_tide.core.working.rendering import evaluate
from oat_tide.core.working.terms import Term
from oat_tide.stages.deck.draft import Draft, of
from tests.helpers import FolderCase, monthly


def preferring(kernels: bool) -> mock._patch[object]:
    """Have figures reckoned by their kernels, or by their formulas."""
    return mock.patch.object(Draft, "preferred", staticmethod(lambda kernel: kernel if kernels else None))


class Defining(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        session = self.opened(monthly([3, 5, 4, 8]))
        self.lines = session.deck("lines")
        self.draft = Draft("history", session.sight())
        self.actual = of(self.lines, "actual")

    def test_values_are_reckoned_when_first_asked_for_and_once(self) -> None:
        kernel = mock.Mock(return_value=np.array([[6.0, 10, 8, 16]]))
        self.draft.define("double", "Double", self.actual * 2, values=kernel)
        kernel.assert_not_called()
        for _ in range(2):
            self.assertEqual(self.draft.figures["double"].values.tolist(), [[6, 10, 8, 16]])
        kernel.assert_called_once_with()

    def test_where_holds_for_kernels_as_for_formulas(self) -> None:
        where = np.array([[True, False, True, True]])
        for by_kernel in (True, False):
            with mock.patch.object(
                Draft, "preferred", staticmethod(lambda kernel, by=by_kernel: kernel if by else None)
            ):
                self.draft.define(
                    "double", "Double", self.actual * 2, values=np.full((1, 4), 9.0), where=where
                )
                figure = self.draft.figures["double"]
                self.assertEqual(np.isnan(figure.values).tolist(), (~where).tolist())
                self.assertIsNone(figure.explain(0, 1))
                self.assertEqual(figure.values[0, 0], 9 if by_kernel else 6)

    def test_a_comparison_or_another_figure_can_say_where(self) -> None:
        large = self.draft.define("large", "Large", self.actual + 0, where=self.actual > 4)
        self.draft.define("next", "Next", self.actual.shift(1), where=large)
        np.testing.assert_array_equal(large.values, [[np.nan, 5, np.nan, 8]])
        np.testing.assert_array_equal(self.draft.figures["next"].values, [[np.nan, 4, np.nan, np.nan]])

    def test_what_is_larger_than_any_figure_is_none_and_says_so(self) -> None:
        """Of -10 × 10^299, -10 × 10^300 and -10 × 10^399 only the first is a figure."""
        for by_kernel in (True, False):
            with mock.patch.object(
                Draft, "preferred", staticmethod(lambda kernel, by=by_kernel: kernel if by else None)
            ):
                power = given(np.array([[300.0, 301.0, np.nan, 400.0]]))
                grown = self.draft.define(
                    "grown", "Grown", given(-10.0) * given(10.0) ** (power - 1), blank="Not given."
                )
                figure = self.draft.figures["grown"]
                self.assertEqual(np.isnan(grown.values).tolist(), [[False, True, True, True]])
                self.assertIsNone(figure.explain(0, 1))
                reasons = [figure.why_blank(0, column) for column in (1, 2, 3)]
                self.assertEqual(
                    reasons,
                    ["It lies beyond 10³⁰⁰: no such figure is computed.", "Not given.", reasons[0]],
                )
                total_of = self.draft.define("total", "Total", total(grown.between(0, 1)))
                self.assertTrue(math.isnan(total_of.values[0, 0]))

    def test_nothing_is_reckoned_where_it_is_not_wanted(self) -> None:
        asked: list[slice] = []

        class Watched(Formula):
            fact = False

            def compute(self, at: slice) -> np.ndarray:
                asked.append(at)
                return np.zeros((1, at.stop - at.start))

        where = np.array([[False, True, True, False]])
        self.assertEqual(self.draft.define("seen", "Seen", Watched(), where=where).values[0, 1], 0)
        self.assertEqual(asked, [slice(1, 3)])

    def test_a_figure_can_go_on_from_its_own_column_before(self) -> None:
        """Level = half the actual and half the level before: 3, 4, 4, 6."""

        def halves(level: Term) -> Formula:
            return self.actual / 2 + level.shift(-1) / 2

        level = self.draft.define("level", "Level", halves, values=np.array([[3.0, 4, 4, 6]]))
        for column in (1, 2, 3):
            working = self.draft.figures["level"].explain(0, column)
            self.assertEqual(evaluate(working), level.values[0, column])  # type: ignore[arg-type]

    def test_one_value_a_series_makes_a_fact_and_a_narrow_kernel_is_widened(self) -> None:
        whole = self.draft.define("whole", "Whole", total(self.actual.between(0, 3)))
        self.assertTrue(self.draft.figures["whole"].fact)
        self.assertEqual(whole.values.tolist(), [[20]])
        short = self.draft.define("short", "Short", self.actual + 0, values=np.array([[3.0, 5]]))
        self.assertEqual([math.isnan(v) for v in short.values[0]], [False, False, True, True])

    def test_an_error_names_its_figure(self) -> None:
        def broken() -> np.ndarray:
            raise ValueError("no such month")

        self.draft.define("usual", "Usual", self.actual * 2, values=broken)
        with self.assertRaisesRegex(RuntimeError, "“usual” could not be computed: no such month"):
            self.draft.figures["usual"].values  # noqa: B018

    def test_what_is_borrowed_cites_the_deck_it_came_from(self) -> None:
        self.draft.borrow(self.lines, "actual")
        mine, theirs = self.draft.figures["actual"], self.lines.figures["actual"]
        self.assertEqual(mine.explain(0, 2), theirs.explain(0, 2))
        self.assertFalse(mine.values.flags.writeable)
