"""Prediction intervals as Project shows them: by hand, and against what they promise."""

from __future__ import annotations

import itertools
import math
import unittest
import zlib
from types import SimpleNamespace
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.special import stdtrit

from oat_tide.core.methods.table import METHODS
from oat_tide.core.periods.calendar import Grid
from oat_tide.core.series.panel import Panel, sight
from oat_tide.plan.parts.evened import Evened
from oat_tide.plan.parts.project import Name, Project
from oat_tide.plan.parts.seasons import Seasons
from oat_tide.plan.parts.smooth import Smooth, Smoother
from oat_tide.stages import lines
from oat_tide.stages.answers import Inline
from oat_tide.stages.deck import Deck
from oat_tide.stages.project import make as project
from oat_tide.stages.seasons import make as seasons
from oat_tide.stages.smooth import make as smooth


def projected(
    values: np.ndarray,
    past: int,
    ahead: int,
    method: Name = "line",
    how: Seasons = Seasons(),  # noqa: B008
) -> Deck:
    """The deck of Project on months of many series, `past` of them known at the as-of."""
    counts = np.ones(values.shape, np.int64)
    keys = tuple((str(row),) for row in range(len(values)))
    # What is known of a panel is kept by its stamp.
    stamp = f"made {zlib.crc32(values.tobytes())}"
    panel = Panel(stamp, Grid("month"), 0, keys, values, counts, np.zeros(values.shape, np.uint8))
    seen = sight(panel, past - 1, values.shape[1] - 1)
    reading: Any = SimpleNamespace(
        history="", scenarios=(), unit="cases", totalled="sum", dimensions=("product",)
    )
    stands_on = lines.make(seen, (Evened(),), lines.Needs(reading), Inline())
    parts = seasons.make(seen, (how, Evened()), seasons.Needs(stands_on, reading), Inline())
    smoothing = Smooth((Smoother(kind="level"),))
    smoothed = smooth.make(seen, (smoothing, how), smooth.Needs(stands_on, None), Inline())
    asked = Project(method, horizon=ahead), how, Evened()
    return project.make(
        seen, asked, project.Needs(stands_on, reading, panel, parts, smoothed, smoothing), Inline()
    )


def slow(row: list[float], horizon: int) -> tuple[list[float], float]:
    """By the last value: sigma of each lead, and the sizes of the total, with plain lists and logarithms."""
    z, n = [math.log(each) for each in row], len(row)
    starts = [start for start in range(max(n - 17, 1), n) if start >= 6]
    e = {(s, lead): z[s + lead - 1] - z[s - 1] for s in starts for lead in range(1, 7) if s + lead <= n}
    many = {lead: sum((s, lead) in e for s in starts) for lead in range(1, 7)}
    x = {lead: math.log(lead) for lead in many if many[lead] >= 4}
    y = {lead: math.log(sum(e.get((s, lead), 0) ** 2 for s in starts) / many[lead]) / 2 for lead in x}
    total = sum(many[lead] for lead in x)
    mean = sum(many[lead] * x[lead] for lead in x) / total
    c = sum(many[lead] * (x[lead] - mean) * y[lead] for lead in x)
    c = min(max(c / sum(many[lead] * (x[lead] - mean) ** 2 for lead in x), 0), 1)
    size = math.sqrt(sum((value / lead**c) ** 2 for (_, lead), value in e.items()) / len(e))

    def sigma(lead: int) -> float:
        return size * lead**c * math.sqrt(1 + lead / (2 * len(starts)))

    def pairs(sizes: list[float]) -> float:
        both = range(1, len(sizes) + 1)
        return 2 * sum((k / n) ** c * sizes[k - 1] * sizes[n - 1] for n in both for k in range(1, n))

    whole = [sum(e[s, lead] for lead in range(1, 7)) for s in starts if (s, 6) in e]
    six = [sigma(lead) for lead in range(1, 7)]
    w = (sum(each**2 for each in whole) / len(whole) - sum(each**2 for each in six)) / pairs(six)
    w = min(max(w, 0), 1)
    moves = [row[-1] * sigma(lead) for lead in range(1, horizon + 1)]
    return [sigma(lead) for lead in range(1, horizon + 1)], math.sqrt(
        sum(each**2 for each in moves) + w * pairs(moves)
    )


class Intervals(unittest.TestCase):
    def test_if_the_curve_is_true_by_hand(self) -> None:
        # z = 2 4 5 9 at t = 1 ... 4: line -0.5 + 2.2 t, s = sqrt(0.9), mean t 2.5, sxx 5.
        deck = projected(np.array([[2.0, 4, 5, 9, 0]]), 4, 1)
        half = 4.302652729911275 * math.sqrt(0.9) * math.sqrt(1 + 1 / 4 + 2.5**2 / 5)
        self.assertAlmostEqual(deck.figures["curve_upper_95"].values[0, 4], 10.5 + half, places=9)
        # Nothing in the history lies below zero, so nothing of the projection does.
        self.assertAlmostEqual(deck.figures["curve_lower_95"].values[0, 4], max(10.5 - half, 0), places=9)

    def test_that_of_a_total_by_hand(self) -> None:
        # Of t = 5 and 6: two periods, and the line at 5.5 counted twice: 4 / 4 and (2.5 + 3.5)² / 5.
        figures = projected(np.array([[2.0, 4, 5, 9, 0, 0]]), 4, 2).figures
        half = 4.302652729911275 * math.sqrt(0.9) * math.sqrt(2 + 4 / 4 + 6**2 / 5)
        self.assertAlmostEqual(figures["total_curve_upper_95"].values[0, 0], 10.5 + 12.7 + half, places=9)
        self.assertAlmostEqual(figures["total_curve_lower_95"].values[0, 0], 10.5 + 12.7 - half, places=9)

    def test_from_past_starts_by_a_slow_rule(self) -> None:
        row = [100.0, 104, 99, 103, 108, 101, 110, 113, 107, 116, 119, 112, 118, 125, 121]
        figures = projected(np.array([[*row, *[0.0] * 8]]), 15, 8, "last").figures
        sigma, total = slow(row, 8)
        t = float(stdtrit(max(3, 9 / 2), 0.9))
        for lead, own in enumerate(sigma):
            for side, sign in (("lower", -1), ("upper", 1)):
                limit = 121 * math.exp(sign * t * own)
                self.assertAlmostEqual(figures[f"{side}_80"].values[0, 15 + lead], limit, places=9)
        self.assertAlmostEqual(figures["total_upper_80"].values[0, 0], 8 * 121 + t * total, places=7)

    def test_few_starts_lean_on_the_errors_of_the_fit(self) -> None:
        # Seven periods have one start; changes 2 -1 3 1 -2 4, their mean square of ln by hand.
        row = [10.0, 12, 11, 14, 15, 13, 17]
        figures = projected(np.array([[*row, 0, 0]]), 7, 2, "last").figures
        size = math.sqrt(sum(math.log(b / a) ** 2 for a, b in itertools.pairwise(row)) / 6)
        far = float(stdtrit(3, 0.9)) * size * math.sqrt(2) * math.sqrt(1 + 2 / 2)
        self.assertAlmostEqual(figures["upper_80"].values[0, 8], 17 * math.exp(far), places=9)

    @settings(deadline=None, max_examples=60)
    @given(
        st.sampled_from(tuple(METHODS)),
        st.integers(0, 10**6),
        st.sampled_from((-1.0, 1.0)),
        st.integers(-6, 9),
    )
    def test_they_are_nested_about_what_is_projected(
        self, method: Name, seed: int, sign: float, power: int
    ) -> None:
        rng = np.random.default_rng(seed)
        t = np.arange(46.0)
        row = 100 + rng.normal(0, 3) * t + rng.uniform(0, 60) * np.sin(t / 2) + rng.normal(0, 20, 46)
        row = np.where(rng.random(46) < rng.choice((0, 0.3)), 0, row)
        figures = projected(sign * 10.0**power * row[None], 36, 10, method).figures
        names = "lower_95", "lower_80", "projected", "upper_80", "upper_95"
        rows = np.stack([figures[name].values[0, 36:] for name in names])
        there = ~np.isnan(rows[2])
        self.assertFalse(np.isnan(rows[:, there]).any())
        self.assertTrue((np.diff(rows[:, there], axis=0) >= 0).all())
        # Of some width, but for what zero bounds.
        free = there & (rows[0] > 0) if sign > 0 else there
        self.assertTrue((rows[4, free] > rows[0, free]).all())
        edges = [
            figures[f"total_{name}"].values[0, 0] for name in ("lower_95", "lower_80", "upper_80", "upper_95")
        ]
        if not np.isnan(edges).any():
            self.assertEqual(sorted(edges), edges)

    @settings(deadline=None, max_examples=3)
    @given(st.integers(0, 10**6))
    def test_those_of_a_true_curve_cover_what_they_say(self, seed: int) -> None:
        rng = np.random.default_rng(seed)
        series, past, ahead = 4000, 24, 6
        z = 200 + 3 * np.arange(1.0, past + ahead + 1)[None] + rng.normal(0, 15, (series, past + ahead))
        figures = projected(z, past, ahead).figures
        for level in (80, 95):
            lower, upper = (figures[f"curve_{side}_{level}"].values for side in ("lower", "upper"))
            inside = (z >= lower) & (z <= upper)
            # Five standard errors of a share on 4,000 series.
            room = 5 * math.sqrt(level / 100 * (1 - level / 100) / series)
            for period in range(past, past + ahead):
                self.assertAlmostEqual(inside[:, period].mean(), level / 100, delta=room)

    def test_those_from_past_starts_cover_no_less_than_they_say(self) -> None:
        rng, series, past, ahead = np.random.default_rng(11), 600, 60, 6
        t = np.arange(1.0, past + ahead + 1)[None]
        noise = rng.normal(0, 10, (series, past + ahead))
        echo = noise.copy()
        for column in range(1, past + ahead):
            echo[:, column] += 0.7 * echo[:, column - 1]
        wave = 1 + 0.3 * np.sin(2 * np.pi * t / 12)
        families: tuple[tuple[Name, np.ndarray], ...] = (
            ("line-season", (200 + 2 * t + noise) * wave),
            ("growth-season", np.exp(5 + 0.01 * t + noise / 100) * wave),
            ("line", 200 + 2 * t + echo),
            ("last", 500 + np.cumsum(noise, axis=1)),
            ("smoothed", 500 + np.cumsum(noise, axis=1)),
            ("same-period", 300 + 60 * np.sin(2 * np.pi * t / 12) + noise),
            ("huber", 200 + 2 * t + noise),
        )
        for method, values in families:
            figures = projected(values, past, ahead, method, Seasons(season="multiplicative")).figures
            # What few series leave to chance is 3.3 points at 80 %. Independent errors are covered by more.
            for level, most in ((80, 94), (95, 100)):
                lower, upper = (figures[f"{side}_{level}"].values[:, past:] for side in ("lower", "upper"))
                own = values[:, past:]
                with self.subTest(method, level=level):
                    share = 100 * ((own >= lower) & (own <= upper)).mean()
                    self.assertTrue(level - 5 <= share <= most, share)
                lower, upper = (figures[f"total_{side}_{level}"].values[:, 0] for side in ("lower", "upper"))
                with self.subTest(method, level=level, total=ahead):
                    share = 100 * ((own.sum(1) >= lower) & (own.sum(1) <= upper)).mean()
                    self.assertTrue(level - 6 <= share <= most, share)
