"""Prediction intervals as Project shows them: by hand, and against what they promise."""

from __future__ import annotations

import math
import unittest
from types import SimpleNamespace
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from oat_tide.core.periods.calendar import Grid
from oat_tide.core.series.panel import Panel, sight
from oat_tide.plan.parts.evened import Evened
from oat_tide.plan.parts.project import Project
from oat_tide.plan.parts.seasons import Seasons
from oat_tide.stages import lines
from oat_tide.stages.answers import AtOnce
from oat_tide.stages.deck import Deck
from oat_tide.stages.project import make as project


def projected(values: np.ndarray, past: int, ahead: int) -> Deck:
    """The deck of Project on months of many series, `past` of them known at the as-of."""
    counts = np.ones(values.shape, np.int64)
    keys = tuple((str(row),) for row in range(len(values)))
    panel = Panel("made", Grid("month"), 0, keys, values, counts, np.zeros(values.shape, np.uint8))
    seen = sight(panel, past - 1, values.shape[1] - 1)
    reading: Any = SimpleNamespace(
        history="", scenarios=(), unit="cases", totalled="sum", dimensions=("product",)
    )
    stands_on = lines.make(seen, (Evened(),), lines.Needs(reading), None)
    asked = Project(horizon=ahead), Seasons(), Evened()
    return project.make(seen, asked, project.Needs(stands_on, reading, None), AtOnce())


class Intervals(unittest.TestCase):
    def test_by_hand(self) -> None:
        # z = 2 4 5 9 at t = 1 ... 4: line -0.5 + 2.2 t, s = sqrt(0.9), mean t 2.5, sxx 5.
        deck = projected(np.array([[2.0, 4, 5, 9, 0]]), 4, 1)
        half = 4.302652729911275 * math.sqrt(0.9) * math.sqrt(1 + 1 / 4 + 2.5**2 / 5)
        self.assertAlmostEqual(deck.figures["upper_95"].values[0, 4], 10.5 + half, places=9)
        self.assertAlmostEqual(deck.figures["lower_95"].values[0, 4], 10.5 - half, places=9)

    @settings(deadline=None, max_examples=3)
    @given(st.integers(0, 10**6))
    def test_they_cover_what_they_say_at_each_period_ahead(self, seed: int) -> None:
        rng = np.random.default_rng(seed)
        series, past, ahead = 4000, 24, 6
        z = 200 + 3 * np.arange(1.0, past + ahead + 1)[None] + rng.normal(0, 15, (series, past + ahead))
        figures = projected(z, past, ahead).figures
        for level in (80, 95):
            inside = (z >= figures[f"lower_{level}"].values) & (z <= figures[f"upper_{level}"].values)
            # Four standard errors of a share on 4,000 series.
            room = 4 * math.sqrt(level / 100 * (1 - level / 100) / series)
            for period in range(past, past + ahead):
                self.assertAlmostEqual(inside[:, period].mean(), level / 100, delta=room)
