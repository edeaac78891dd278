"""Formulas: reckoned on arrays, told cell by cell and written into a sheet, all three the same."""

from __future__ import annotations

import itertools
import math
import unittest
from dataclasses import dataclass

import numpy as np
from hypothesis import given as generated
from hypothesis import settings
from hypothesis import strategies as st

from oat_tide.core.working import formula as f
from oat_tide.core.working.formula import Formula, beside, choose, either, given, mean, only, total
from oat_tide.core.working.rendering import evaluate, sheet
from oat_tide.core.working.terms import Source, Term, known, same_place, weighted_mean
from oat_tide.core.working.tree import Cell, Op, Ref, Run, leaves
from tests.sheets import read_aloud, sheet_value

NAN = math.nan


@dataclass
class Plain:
    """A figure made of its values alone."""

    values: np.ndarray
    name: str
    label: str = "A"

    @property
    def fact(self) -> bool:
        return self.values.shape[1] == 1


_names = (f"figure {number}" for number in itertools.count())


def term(*rows: list[float], name: str = "", **more: object) -> Term:
    """A figure of the stage s as a term; without a name it gets one of its own."""
    return Term(Source("s", Plain(np.array(rows), name or next(_names)), **more))  # type: ignore[arg-type]


def values(formula: Formula, columns: int) -> list[list[float]]:
    with np.errstate(all="ignore"):
        return np.atleast_2d(formula.compute(slice(0, columns))).tolist()  # type: ignore[no-any-return]


class FormulaCase(unittest.TestCase):
    def agree(self, formula: Formula, wanted: list[list[float]]) -> None:
        """The values are these, and every known one is told and written as the same."""
        found = values(formula, len(wanted[0]))
        np.testing.assert_allclose(found, wanted, rtol=1e-12)
        for series, column in np.ndindex(*np.shape(wanted)):
            if not math.isnan(found[series][column]):
                working = formula.bind(series, column)
                for read in (evaluate, read_aloud, sheet_value):
                    self.assertAlmostEqual(float(read(working)), wanted[series][column], 9, read.__name__)


class Terms(FormulaCase):
    def setUp(self) -> None:
        self.a = term([12, 15, 11, 18], [1, 2, NAN, 4])

    def test_own_column_and_the_one_before(self) -> None:
        self.agree(self.a - self.a.shift(-1), [[NAN, 3, -4, 7], [NAN, 1, NAN, NAN]])

    def test_a_trailing_stretch_is_known_where_it_is_full_and_known(self) -> None:
        self.agree(mean(self.a.over(-1, 0)), [[NAN, 13.5, 13, 14.5], [NAN, 1.5, NAN, NAN]])

    def test_of_a_stretch_those_that_are_known(self) -> None:
        self.agree(mean(known(self.a.over(-1, 0))), [[12, 13.5, 13, 14.5], [1, 1.5, 2, 4]])

    def test_a_stretch_by_bounds_that_differ_by_series_and_column(self) -> None:
        first = np.array([[0, 0, 2, 2], [0, 1, 1, 3]])
        stretch = self.a.between(first, np.arange(4)[None])
        self.agree(total(stretch), [[12, 27, 11, 29], [1, 2, NAN, 4]])

    def test_a_stretch_that_ends_before_it_starts_is_empty_and_one_beyond_the_figure_not_known(self) -> None:
        bounds = np.array([[2, 1, -1, 3]]), np.array([[1, 1, 1, 4]])
        self.agree(total(self.a.between(*bounds)), [[0, 15, NAN, NAN], [0, 2, NAN, NAN]])

    def test_one_stretch_for_all_columns_makes_one_value_a_series(self) -> None:
        whole = total(known(self.a.between(0, 3)))
        self.assertTrue(whole.fact)
        self.agree(whole, [[56], [7]])

    def test_the_like_column_of_another_axis(self) -> None:
        self.agree(self.a.like(np.array([3, -1, 0])), [[18, NAN, 12], [4, NAN, 1]])

    def test_all_columns_at_the_same_place(self) -> None:
        alike = self.a.likes(same_place(np.array([0, 1, 0, 1])))
        self.agree(mean(known(alike)), [[11.5, 16.5, 11.5, 16.5], [1, 3, 1, 3]])
        cells = [leaf.ref.column for leaf in leaves(mean(known(alike)).bind(1, 0)) if isinstance(leaf, Cell)]
        self.assertEqual(cells, [0])

    def test_one_value_a_series_and_those_that_a_mask_picks(self) -> None:
        self.agree(self.a.at(np.array([2, -1])) + 0.0, [[11], [NAN]])
        mask = np.array([[True, False, False, True]])
        self.agree(total(self.a.among(mask)), [[30], [5]])

    def test_a_fact_meets_every_column(self) -> None:
        self.agree(self.a / term([2], [4]), [[6, 7.5, 5.5, 9], [0.25, 0.5, NAN, 1]])

    def test_what_may_not_be_seen_is_not_known_and_the_original_is_cited(self) -> None:
        seen = np.array([[True, True, False], [True, False, True]])
        hidden = term([12, 15, 11, 18], [1, 2, NAN, 4], seen=seen)
        self.agree(hidden + 0.0, [[12, 15, NAN, NAN], [1, NAN, NAN, NAN]])
        # A stretch that leaves out what may not be seen is cited in parts.
        sums = total(known(hidden.between(np.array([[0]]), np.array([[3]]))))
        self.agree(sums, [[27], [1]])
        self.assertEqual([leaf.ref.column for leaf in leaves(sums.bind(1, 0)) if isinstance(leaf, Run)], [0])

    def test_another_series_figure_such_as_the_parent_of_each(self) -> None:
        parent = term([10, 20], [100, 200], name="a", rows=np.array([1, 1, 0]))
        child = term([1, 2], [3, 4], [5, 6])
        self.agree(100 * child / parent, [[1, 1], [3, 2], [50, 30]])
        self.assertEqual(parent.bind(0, 1), Cell(200.0, Ref("s", "a", 1, 1)))

    def test_a_row_of_weights_the_newest_first(self) -> None:
        self.agree(weighted_mean(self.a, (3, 2, 1)), [[NAN, NAN, 12.5, 91 / 6], [NAN] * 4])

    def test_constants_tell_why_by_series(self) -> None:
        row = given(np.array([[1.0, 2], [3, 4]]), lambda series: f"of {series}")
        self.agree(row * 2, [[2, 4], [6, 8]])
        self.assertEqual([leaf.why for leaf in leaves((row * 2).bind(1, 0))], ["of 1", ""])  # type: ignore[union-attr]


class Functions(FormulaCase):
    def test_what_gathers_and_what_does_not(self) -> None:
        a, b = term([3, -4, NAN]), term([5, 4, 1])
        for formula, wanted in (
            (total(a, b), [8, 0, NAN]),
            (mean(known(beside(a, b))), [4, 0, 1]),
            (f.median(a, b, term([10, 11, 12])), [5, 4, NAN]),
            (f.lowest(a, b), [3, -4, NAN]),
            (f.highest(a, b), [5, 4, NAN]),
            (f.count(beside(a, b)), [2, 2, 1]),
            (f.size(a), [3, 4, NAN]),
            (f.sign(a), [1, -1, NAN]),
            (f.rounded_to(a / 8, 1), [0.4, -0.5, NAN]),
            (f.sqrt(b), [math.sqrt(5), 2, 1]),
            (f.exp(f.ln(b)), [5, 4, 1]),
            (b**2 - a**2, [16, 0, NAN]),
            (f.percent(a, b), [60, -100, NAN]),
            (f.percent(b, a), [500 / 3, NAN, NAN]),
            (choose(a > 0, b, -1.0), [5, -1, NAN]),
            (choose(a < b, a, b), [3, -4, NAN]),
            (only(a > 0, b), [5, NAN, NAN]),
            (only(a, b), [5, 4, NAN]),
            (either(np.array([[True, False, False]]), a, b), [3, 4, 1]),
        ):
            with self.subTest(str(formula.bind(0, 0))):
                self.agree(formula, [wanted])

    def test_halves_are_rounded_away_from_zero_as_sheets_do(self) -> None:
        self.agree(f.rounded_to(term([0.5, 2.5, -2.5, 1.25]), 0), [[1, 3, -3, 1]])

    def test_tails_and_quantiles_against_printed_tables(self) -> None:
        """Tables of Abramowitz and Stegun, 26.7 to 26.10, in their digits."""
        one = given(1.0)
        for formula, printed, digits in (
            (f.t_quantile(given(0.95), given(10.0)), 2.228, 3),
            (f.t_tail(given(-2.228), given(10.0)), 0.05, 3),
            (f.f_quantile(given(0.05), given(3.0), given(10.0)), 3.71, 2),
            (f.f_tail(given(3.708), given(3.0), given(10.0)), 0.05, 3),
            (f.chi_quantile(given(0.05), given(4.0)), 9.48773, 5),
            (f.chi_tail(given(9.48773), given(4.0)), 0.05, 5),
            (f.normal_quantile(given(0.025)), 1.95996, 5),
            (f.normal_tail(one), 0.15866, 5),
        ):
            working = formula.bind(0, 0)
            with self.subTest(working.sign):  # type: ignore[union-attr]
                value = float(formula.compute(slice(0, 1)))
                self.assertAlmostEqual(value, printed, digits)
                self.assertAlmostEqual(sheet_value(working), value, 9)

    def test_weights_leave_out_what_is_not_known_in_a_sheet_too(self) -> None:
        """Deviations from 4 squared, of 2 and 6: 4 + 4; the blank one is no deviation of 16."""
        z, used = term([2, NAN, 6]), term([1, 0, 1])
        squares = f.sum_of_products(used.between(0, 2), (z.between(0, 2) - 4.0) ** 2)
        self.agree(squares, [[8]])

    def test_a_comparison_with_what_is_not_known_is_neither(self) -> None:
        self.assertTrue(math.isnan(values(term([NAN]) > 0, 1)[0][0]))
        with self.assertRaises(TypeError):
            bool(term([1.0]) > 0)


class Sheets(unittest.TestCase):
    def test_brackets_round_negatives_powers_and_differences(self) -> None:
        a, b = term([-2.0, 3], name="a"), term([4.0, 5], name="b")

        def written(formula: Formula) -> str:
            return sheet(formula.bind(0, 0), lambda ref, upto: ref.figure)

        for formula, text in (
            ((a - (b - 1)) ** 2, "(a-(b-1))^2"),
            (given(-2.0) ** 2, "(-2)^2"),
            (a**b**2, "a^(b^2)"),
            (a / (b * 2), "a/(b*2)"),
            (1e-7 * a, "1E-07*a"),
            (total(a.between(0, 1) ** 2), "SUMPRODUCT(a^2)"),
            (choose(a > b, a, -1.0), "IF(a>b,a,-1)"),
            (total(a.between(1, 0)) + 1, "SUM(0)+1"),
        ):
            with self.subTest(text):
                self.assertEqual(written(formula), text)

    def test_more_terms_than_a_function_takes_are_nested_or_refused(self) -> None:
        cells = tuple(Cell(float(n), Ref("s", "a", 0, n)) for n in range(600))
        self.assertEqual(sheet_value(Op("sum", cells)), sum(range(600)))
        self.assertAlmostEqual(sheet_value(Op("mean", cells)), 299.5)
        self.assertEqual(sheet_value(Op("highest", cells)), 599)
        with self.assertRaisesRegex(ValueError, "600 single cells"):
            sheet(Op("median", cells), lambda ref, upto: "A1")
        squares = Op("^", (Run(np.ones(3), Ref("s", "a", 0, 0), 2), cells[2]))
        with self.assertRaisesRegex(ValueError, "many values"):
            sheet(Op("mean", (squares,)), lambda ref, upto: "A1")


NUMBERS = st.one_of(
    st.just(NAN), st.integers(-9, 9).map(float), st.floats(-100, 100).map(lambda v: round(v, 3))
)
ROWS = st.integers(1, 7).flatmap(
    lambda columns: st.lists(st.lists(NUMBERS, min_size=columns, max_size=columns), min_size=1, max_size=3)
)


class AgainstAPlainRule(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @generated(ROWS, st.integers(-3, 0), st.integers(0, 3), st.booleans())
    def test_a_stretch_along_the_columns(self, rows: list, before: int, ahead: int, skips: bool) -> None:  # type: ignore[type-arg]
        a = term(*rows)
        stretch = a.over(before, ahead)
        found = values(total(known(stretch) if skips else stretch), len(rows[0]))
        for series, row in enumerate(rows):
            for column in range(len(row)):
                at = range(column + before, column + ahead + 1)
                held = [row[c] if 0 <= c < len(row) else NAN for c in at]
                if skips:
                    held = [each for each in held if not math.isnan(each)]
                np.testing.assert_allclose(found[series][column], sum(held), atol=1e-9)

    @settings(max_examples=60, deadline=None)
    @generated(ROWS, st.data())
    def test_any_formula_says_of_a_cell_what_it_reckons(self, rows: list, data: st.DataObject) -> None:  # type: ignore[type-arg]
        a = term(*rows)
        parts: list[Formula] = [
            a,
            a.shift(-1),
            mean(known(a.over(-1, 1))),
            given(2.5),
            total(a.between(0, 0)),
        ]
        formula = data.draw(st.sampled_from(parts))
        for _ in range(data.draw(st.integers(1, 4))):
            other = data.draw(st.sampled_from(parts))
            formula = data.draw(
                st.sampled_from(
                    (formula + other, formula - other, formula * other, other - formula, formula**2)
                )
            )
        found = np.broadcast_to(values(formula, len(rows[0])), np.shape(rows))
        for series, column in np.ndindex(*np.shape(rows)):
            if not math.isnan(found[series, column]):
                working = formula.bind(series, column)
                for read in (evaluate, read_aloud):
                    np.testing.assert_allclose(read(working), found[series, column], rtol=1e-9, atol=1e-9)
