"""Prediction intervals as Project shows them: by hand, and against what they promise."""

from __future__ import annotations

import math
import unittest
import zlib
from types import SimpleNamespace
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from oat_tide.core.periods.calendar import Grid
from oat_tide.core.series.panel import Panel, sight
from oat_tide.plan.parts.evened import Evened
from oat_tide.plan.parts.project import Name, Project
from oat_tide.plan.parts.seasons import Seasons
from oat_tide.plan.parts.smooth import Smooth, Smoother
from oat_tide.stages import lines
from oat_tide.stages.answers import AtOnce
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
    stands_on = lines.make(seen, (Evened(),), lines.Needs(reading), None)
    parts = seasons.make(seen, (how, Evened()), seasons.Needs(stands_on, reading), AtOnce())
    smoothing = Smooth((Smoother(kind="level"),))
    smoothed = smooth.make(seen, (smoothing, how), smooth.Needs(stands_on, None), AtOnce())
    asked = Project(method, horizon=ahead), how, Evened()
    return project.make(seen, asked, project.Needs(stands_on, reading, parts, smoothed, smoothing), AtOnce())


class Intervals(unittest.TestCase):
    def test_by_hand(self) -> None:
        # z = 2 4 5 9 at t = 1 ... 4: line -0.5 + 2.2 t, s = sqrt(0.9), mean t 2.5, sxx 5.
        deck = projected(np.array([[2.0, 4, 5, 9, 0]]), 4, 1)
        half = 4.302652729911275 * math.sqrt(0.9) * math.sqrt(1 + 1 / 4 + 2.5**2 / 5)
        self.assertAlmostEqual(deck.figures["upper_95"].values[0, 4], 10.5 + half, places=9)
        self.assertAlmostEqual(deck.figures["lower_95"].values[0, 4], 10.5 - half, places=9)

    def test_that_of_a_total_by_hand(self) -> None:
        # Of t = 5 and 6: two periods, and the line at 5.5 counted twice: 4 / 4 and (2.5 + 3.5)² / 5.
        figures = projected(np.array([[2.0, 4, 5, 9, 0, 0]]), 4, 2).figures
        half = 4.302652729911275 * math.sqrt(0.9) * math.sqrt(2 + 4 / 4 + 6**2 / 5)
        self.assertAlmostEqual(figures["total_upper_95"].values[0, 0], 10.5 + 12.7 + half, places=9)
        self.assertAlmostEqual(figures["total_lower_95"].values[0, 0], 10.5 + 12.7 - half, places=9)

    @settings(deadline=None, max_examples=3)
    @given(st.integers(0, 10**6))
    def test_they_cover_what_they_say_at_each_period_ahead(self, seed: int) -> None:
        rng = np.random.default_rng(seed)
        series, past, ahead = 4000, 24, 6
        z = 200 + 3 * np.arange(1.0, past + ahead + 1)[None] + rng.normal(0, 15, (series, past + ahead))
        figures = projected(z, past, ahead).figures
        for level in (80, 95):
            inside = (z >= figures[f"lower_{level}"].values) & (z <= figures[f"upper_{level}"].values)
            # Five standard errors of a share on 4,000 series.
            room = 5 * math.sqrt(level / 100 * (1 - level / 100) / series)
            for period in range(past, past + ahead):
                self.assertAlmostEqual(inside[:, period].mean(), level / 100, delta=room)

    def test_those_of_other_families_do(self) -> None:
        rng, series, past, ahead = np.random.default_rng(11), 2000, 60, 6
        t = np.arange(1.0, past + ahead + 1)[None]
        noise = rng.normal(0, 10, (series, past + ahead))
        wave = 1 + 0.3 * np.sin(2 * np.pi * t / 12)
        families: tuple[tuple[Name, np.ndarray], ...] = (
            ("line-season", (200 + 2 * t + noise) * wave),
            ("growth-season", np.exp(5 + 0.01 * t + noise / 100) * wave),
            ("last", 500 + np.cumsum(noise, axis=1)),
            ("smoothed", 500 + np.cumsum(noise, axis=1)),
            ("same-period", 300 + 60 * np.sin(2 * np.pi * t / 12) + noise),
            ("huber", 200 + 2 * t + noise),
            ("quadratic", 200 + 2 * t + 0.05 * t**2 + noise),
        )
        for method, values in families:
            figures = projected(values, past, ahead, method, Seasons(season="multiplicative")).figures
            for level in (80, 95):
                lower, upper = figures[f"lower_{level}"].values, figures[f"upper_{level}"].values
                for period in range(past, past + ahead):
                    inside = (values[:, period] >= lower[:, period]) & (values[:, period] <= upper[:, period])
                    with self.subTest(method, level=level, lead=period - past + 1):
                        # Within three points of what is promised, and what 2,000 series leave to chance.
                        self.assertAlmostEqual(100 * inside.mean(), level, delta=3 + 1.8)
                lower, upper = (figures[f"total_{side}_{level}"].values[:, 0] for side in ("lower", "upper"))
                total = values[:, past:].sum(1)
                with self.subTest(method, level=level, total=ahead):
                    share = 100 * ((total >= lower) & (total <= upper)).mean()
                    self.assertAlmostEqual(share, level, delta=3 + 1.8)
