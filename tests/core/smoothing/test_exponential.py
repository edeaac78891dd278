"""Exponential smoothing against the recursion in plain Python, and how its constants are found."""

from __future__ import annotations

import math
import time
import unittest
from dataclasses import replace
from unittest import mock

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from oat_tide.core.smoothing import exponential
from oat_tide.core.smoothing.exponential import (
    Begins,
    Constants,
    Kind,
    Start,
    begin,
    best_start,
    carried,
    fitted,
    same,
    smooth,
    start_of,
)

KINDS = st.sampled_from(["level", "trend", "damped"])
BEGINS: tuple[Begins, ...] = ("by rule", "fitted")
SERIES = st.lists(st.one_of(st.none(), st.integers(0, 500)), min_size=1, max_size=40)
DEGREES = {"level": (0.0, 0.0), "trend": (0.3, 1.0), "damped": (0.3, 0.9)}


def slow(values: list[float], kind: str, a: float) -> list[float]:
    """The one-step forecasts, by the recursion as it is written."""
    b, phi = DEGREES[kind]
    known = [at for at, value in enumerate(values) if not math.isnan(value)]
    need = 1 if kind == "level" else 5
    out = [math.nan] * len(values)
    if len(known) < need:
        return out
    at = known[need - 1]
    level, trend = values[at], 0.0 if kind == "level" else (values[at] - values[known[0]]) / (at - known[0])
    for column in range(at + 1, len(values)):
        out[column] = ahead = level + phi * trend
        new = ahead if math.isnan(values[column]) else a * values[column] + (1 - a) * ahead
        trend = b * (new - level) + (1 - b) * phi * trend
        level = new
    return out


def recursion(values: list[float], kind: str, a: float, level: float, trend: float) -> list[float]:
    """The one-step forecasts from a start before the first value."""
    b, phi = DEGREES[kind]
    out = []
    for value in values:
        out.append(ahead := level + phi * trend)
        new = ahead if math.isnan(value) else a * value + (1 - a) * ahead
        level, trend = new, b * (new - level) + (1 - b) * phi * trend
    return out


def _of(start: Start, kind: str) -> np.ndarray:
    return np.array([start.level[0]] if kind == "level" else [start.level[0], start.trend[0]])


def row(values: list[int | None]) -> np.ndarray:
    return np.array([[math.nan if each is None else float(each) for each in values]])


class Smoothing(unittest.TestCase):
    def test_worked_example_of_a_damped_trend(self) -> None:
        values = np.array([[100.0, 104, 111, 113, 120]])
        start = Start(np.array([98.0]), np.array([4.0]), np.array([-1]))
        found = smooth(values, same(0.5, 0.4, 0.9, 1), start)
        np.testing.assert_allclose(
            found.forecast[0], [101.6, 103.752, 106.57744, 112.016077, 115.589766], rtol=1e-7
        )
        ahead = found.level[:, -1:] + carried(np.array([0.9]), 3) * found.trend[:, -1:]
        np.testing.assert_allclose(ahead[0], [121.362280, 124.572937, 127.462528], rtol=1e-7)

    @settings(deadline=None)
    @given(SERIES, KINDS, st.floats(0.05, 0.95))
    def test_it_is_the_recursion(self, values: list[int | None], kind: Kind, alpha: float) -> None:
        own = row(values)
        found = smooth(own, same(alpha, *DEGREES[kind], 1), begin(own, kind)).forecast[0]
        np.testing.assert_allclose(found, slow(own[0].tolist(), kind, alpha), rtol=1e-9, atol=1e-9)

    @settings(deadline=None)
    @given(
        st.lists(SERIES, min_size=2, max_size=6), KINDS, st.floats(0.05, 0.95), st.sampled_from((1, 30, 999))
    )
    def test_series_do_not_touch_each_other(
        self, rows: list[list[int | None]], kind: Kind, alpha: float, together: int
    ) -> None:
        longest = max(map(len, rows))
        own = np.concatenate([row([*each, *[None] * (longest - len(each))]) for each in rows])
        # As equations, some series or all together, or period by period.
        with mock.patch.multiple(exponential, _AT_ONCE=together, _MANY=1 if together == 1 else 400):
            found = smooth(own, same(alpha, *DEGREES[kind], len(own)), begin(own, kind)).forecast
        wanted = [slow(each.tolist(), kind, alpha) for each in own]
        np.testing.assert_allclose(found, wanted, rtol=1e-9, atol=1e-9)

    def test_a_gap_costs_no_more_than_a_figure(self) -> None:
        whole = np.cumsum(np.random.default_rng(5).normal(1, 4, (1, 4000)), axis=1) + 90
        gaps = np.where(np.arange(4000) % 7 == 3, np.nan, whole)
        fitted(whole[:, :9], "level")  # what is loaded at first is no part of it
        took = []
        for values in (whole, gaps):
            begun = time.process_time()
            fitted(values, "level")
            took.append(time.process_time() - begun)
        self.assertLess(took[1], 4 * took[0] + 0.02)

    def test_a_line_is_followed_and_a_constant_kept(self) -> None:
        line = np.arange(30.0)[None] * 3 + 7
        found = smooth(line, same(0.4, 0.2, 1.0, 1), begin(line, "trend"))
        np.testing.assert_allclose(found.forecast[0, 5:], line[0, 5:])
        flat = np.full((1, 12), 5.0)
        np.testing.assert_allclose(
            smooth(flat, fitted(flat, "damped"), begin(flat, "damped")).level[0, 4:], 5
        )

    def test_nothing_known_gives_nothing(self) -> None:
        for kind in ("level", "trend", "damped"):
            for values in (np.full((2, 6), np.nan), np.zeros((2, 0)), np.array([[3.0], [np.nan]])):
                found = smooth(values, same(0.3, *DEGREES[kind], 2), begin(values, kind))  # type: ignore[arg-type]
                self.assertEqual(found.forecast.shape, values.shape)
                self.assertTrue(np.isnan(found.forecast).all())


class ConstantsFound(unittest.TestCase):
    @settings(max_examples=25, deadline=None)
    @given(st.lists(st.integers(0, 500), min_size=8, max_size=30), KINDS, st.sampled_from(BEGINS))
    def test_no_step_to_either_side_errs_less(self, values: list[int], kind: Kind, begins: Begins) -> None:
        own = np.array([values], float)
        found = fitted(own, kind, begins)

        def squares(constants: Constants) -> float:
            start = start_of(own, kind, begins, constants)
            return float(exponential.squared_errors(own, constants, start)[0])

        least = squares(found)
        for name, low, high in (("alpha", 0.01, 0.99), ("beta", 0.01, 0.99), ("phi", 0.8, 0.98)):
            here = getattr(found, name)
            if DEGREES[kind][1 if name == "phi" else 0] in (0.0, 1.0) and name != "alpha":
                continue
            for step in (-0.1, -0.05, -0.02, -0.01, 0.01, 0.02, 0.05, 0.1):
                other = replace(found, **{name: np.round(np.clip(here + step, low, high), 2)})
                self.assertGreaterEqual(squares(other) * (1 + 1e-9) + 1e-9, least)

    @settings(max_examples=40, deadline=None)
    @given(SERIES, KINDS, st.floats(0.05, 0.95))
    def test_the_best_start_is_a_regression(self, values: list[int | None], kind: Kind, alpha: float) -> None:
        own = row(values)
        constants = same(alpha, *DEGREES[kind], 1)
        start = best_start(own, kind, constants)
        known = ~np.isnan(own[0])
        if known.sum() < (2 if kind == "level" else 5):
            self.assertEqual(start.at[0], own.shape[1])
            return
        first = int(known.argmax())
        self.assertEqual(start.at[0], first - 1)
        tail, seen = own[0, first:].tolist(), known[first:]

        def forecasts(series: list[float], level: float, trend: float) -> np.ndarray:
            return np.array(recursion(series, kind, alpha, level, trend))

        none = forecasts(tail, 0, 0)
        starts = [(1.0, 0.0)] if kind == "level" else [(1.0, 0.0), (0.0, 1.0)]
        responses = np.stack([forecasts(tail, *each) - none for each in starts], axis=1)
        found = np.linalg.lstsq(responses[seen], (np.array(tail) - none)[seen], rcond=None)[0]
        errors = [
            np.array(tail)[seen] - (none + responses @ each)[seen] for each in (found, _of(start, kind))
        ]
        self.assertAlmostEqual(float(errors[1] @ errors[1]), float(errors[0] @ errors[0]), delta=1e-5)

    def test_a_fitted_start_errs_less_than_the_rule(self) -> None:
        values = np.cumsum(np.random.default_rng(4).normal(1, 4, (12, 50)), axis=1) + 90
        for kind in ("level", "trend", "damped"):
            ruled, free = (fitted(values, kind, each) for each in BEGINS)  # type: ignore[arg-type]
            least = [
                exponential.squared_errors(values, constants, start_of(values, kind, begins, constants))  # type: ignore[arg-type]
                for begins, constants in zip(BEGINS, (ruled, free), strict=True)
            ]
            # The rule counts no error of its first period, which a fitted level can do no better than hit.
            if kind == "level":
                self.assertTrue((least[1] <= least[0] * 1.001).all())
            self.assertTrue(np.isfinite(least[1]).all())

    def test_all_series_at_once_find_what_each_finds(self) -> None:
        values = np.cumsum(np.random.default_rng(2).normal(1, 4, (12, 50)), axis=1) + 90
        for kind in ("level", "trend", "damped"):
            many = fitted(values, kind)  # type: ignore[arg-type]
            for name in ("alpha", "beta", "phi"):
                alone = [getattr(fitted(each[None], kind), name)[0] for each in values]  # type: ignore[arg-type]
                self.assertEqual(getattr(many, name).tolist(), alone)

    def test_they_stay_within_their_bounds_and_have_two_decimals(self) -> None:
        walk = np.cumsum(np.random.default_rng(3).normal(0, 1, (1, 80)), axis=1)
        found = fitted(walk, "damped")
        for value in (found.alpha[0], found.beta[0], found.phi[0]):
            self.assertEqual(value, round(value, 2))
        self.assertTrue(0.01 <= found.alpha[0] <= 0.99 and 0.8 <= found.phi[0] <= 0.98)
