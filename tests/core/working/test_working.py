"""Workings: they evaluate, and what they say can be recomputed as it is said."""

from __future__ import annotations

import re
import unittest
from collections.abc import Iterator

import numpy as np
from hypothesis import assume, given
from hypothesis import strategies as st

from oat_tide.core.working.number_format import fixed, significant, trimmed
from oat_tide.core.working.rendering import as_text, evaluate, rounded, with_numbers
from oat_tide.core.working.signs import SIGNS
from oat_tide.core.working.tree import Cell, Given, Op, Ref, Run, SalesLines, Working, leaves

NUMBERS = st.floats(-1000, 1000, allow_nan=False).map(lambda v: round(v, 4))
LEAVES = st.one_of(NUMBERS.map(Given), NUMBERS.map(lambda v: Cell(v, Ref("s", "f", 0, 1))))


def joined(terms: st.SearchStrategy[Working]) -> st.SearchStrategy[Working]:
    several = st.lists(terms, min_size=2, max_size=4).map(tuple)
    return st.one_of(
        st.builds(Op, st.sampled_from(["+", "*"]), several),
        st.builds(lambda a, b, sign: Op(sign, (a, b)), terms, terms, st.sampled_from(["-", "/"])),
        st.builds(lambda a: Op("^", (a, Given(2.0))), terms),
    )


PLAIN = str.maketrans("⁻⁰¹²³⁴⁵⁶⁷⁸⁹", "-0123456789")
WORKINGS = st.recursive(LEAVES, joined, max_leaves=9)


def parts(working: Working) -> Iterator[Working]:
    """The working and all that it is put together of."""
    yield working
    if isinstance(working, Op):
        for term in working.terms:
            yield from parts(term)


def recompute(text: str) -> float:
    """Reckon what is written, as a reader with a pocket calculator would."""
    text = re.sub(r"(\d+(?:\.\d+)?) × 10([⁻⁰¹²³⁴⁵⁶⁷⁸⁹]+)", r"\1e\2", text).translate(PLAIN)
    plain = text.replace(",", "").replace("−", "-").replace("×", "*").replace("÷", "/").replace("^", "**")
    assert re.fullmatch(r"[-+*/(). e\d]*", plain), plain
    return float(eval(plain))


class Evaluation(unittest.TestCase):
    def test_numbers_come_to_what_rows_of_them_come_to(self) -> None:
        for sign, terms in (("^", (1e200, 3.0)), ("/", (1.0, 0.0)), ("^", (1.7, 2.0)), ("/", (6.0, 4.0))):
            one = SIGNS[sign].compute(*terms)
            row = SIGNS[sign].compute(*(np.full(2, each) for each in terms))
            self.assertEqual(list(row), [one, one], (sign, terms))

    def test_each_sign(self) -> None:
        run = Run(np.array([1.0, 2, 6]), Ref("s", "f", 0, 0), 2)
        for working, value in (
            (Op("+", (Given(1), Given(2), Given(4))), 7),
            (Op("-", (Given(1), Given(3))), -2),
            (Op("/", (Given(1), Given(4))), 0.25),
            (Op("mean", (run,)), 3),
            (Op("sum", (Op("^", (run, Given(2))),)), 41),
            (Op("sqrt", (Given(9),)), 3),
            (Op("size", (Given(-3),)), 3),
            (Op("ln", (Op("exp", (Given(2),)),)), 2),
        ):
            with self.subTest(working.sign):
                self.assertAlmostEqual(float(evaluate(working)), value)

    def test_leaves_come_from_left_to_right(self) -> None:
        lines = SalesLines(5, ("a",), 1, 2)
        found = list(leaves(Op("+", (Given(1), Op("*", (Given(2), lines))))))
        self.assertEqual(found, [Given(1), Given(2), lines])


class InWords(unittest.TestCase):
    def test_brackets_stand_where_they_are_needed_and_nowhere_else(self) -> None:
        one, two, three = (Given(float(n)) for n in (1, 2, 3))
        for working, text in (
            (Op("+", (one, Op("*", (two, three)))), "1 + 2 × 3"),
            (Op("*", (Op("+", (one, two)), three)), "(1 + 2) × 3"),
            (Op("-", (one, Op("-", (two, three)))), "1 − (2 − 3)"),
            (Op("/", (one, Op("*", (two, three)))), "1 ÷ (2 × 3)"),
            (Op("^", (Given(-2.0), two)), "(−2)^2"),
            (Op("+", (one, Given(2.5e20))), "1 + 2.5 × 10²⁰"),
            (Op("/", (one, Given(2.5e20))), "1 ÷ (2.5 × 10²⁰)"),
        ):
            with self.subTest(text):
                self.assertEqual(as_text(working, lambda leaf: trimmed(leaf.value, 0)), text)

    @given(WORKINGS, st.integers(0, 6))
    def test_what_is_shown_recomputes_to_the_result_shown(self, working: Working, decimals: int) -> None:
        with np.errstate(all="ignore"):
            value = float(evaluate(working))
            # What is divided by nothing on the way can be reckoned by no reader.
            assume(all(np.isfinite(evaluate(part)) for part in parts(working)))
        assume(abs(value) < 1e9)
        text, result = with_numbers(working, decimals, lambda run: "")
        self.assertEqual(trimmed(recompute(text), decimals), result)
        self.assertEqual(trimmed(value, decimals), result)

    def test_digits_are_added_until_the_sum_is_right(self) -> None:
        # 0.12345 x 1000 is 123.45: with fewer digits shown it would come to something else.
        text, result = with_numbers(Op("*", (Given(0.12345), Given(1000))), 2, lambda run: "")
        self.assertEqual((text, result), ("0.12345 × 1,000", "123.45"))

    def test_a_long_stretch_is_named_and_a_short_one_spelled_out(self) -> None:
        short = Run(np.array([1.0, 2, 3]), Ref("s", "f", 0, 0), 2)
        long = Run(np.arange(60.0), Ref("s", "f", 0, 0), 59)
        self.assertEqual(with_numbers(Op("mean", (short,)), 0, str)[0], "mean of (1; 2; 3)")
        self.assertEqual(with_numbers(Op("mean", (long,)), 1, lambda run: "all")[0], "mean of (all)")


class Numerals(unittest.TestCase):
    def test_marks_signs_and_digits(self) -> None:
        self.assertEqual(fixed(1234567.891, 1), "1,234,567.9")
        self.assertEqual(fixed(-0.04, 1), "0.0")
        self.assertEqual(fixed(-12, plus=True), "−12")
        self.assertEqual(fixed(12, plus=True), "+12")
        self.assertEqual(fixed(float("nan")), "")
        self.assertEqual(significant(0.0123456), "0.01235")
        self.assertEqual(significant(99999), "99,999")
        self.assertEqual(trimmed(1.5000, 4), "1.5")


class Rounding(unittest.TestCase):
    def test_to_significant_digits_never_left_of_the_decimal_mark(self) -> None:
        for value, digits, found in (
            (1234.5678, 4, 1235),
            (1234.5678, 2, 1235),
            (0.0123456, 3, 0.0123),
            (-9.9996, 4, -10),
            (56.0, 1, 56),
        ):
            with self.subTest(value=value, digits=digits):
                self.assertEqual(rounded(value, digits), found)
        self.assertEqual(rounded(np.array([0.126, 12.6]), 2).tolist(), [0.13, 13])
