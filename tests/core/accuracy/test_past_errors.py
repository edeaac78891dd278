"""Errors from past starts: worked figures, and the rule against plain loops."""

from __future__ import annotations

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from oat_tide.core.accuracy import past_errors
from oat_tide.core.accuracy.past_errors import Missed
from oat_tide.core.regression import t_quantile


class WorkedFigures(unittest.TestCase):
    def test_sizes_by_lead_of_seventeen_starts(self) -> None:
        # s l^c times the root of 1 + l / 34, with c = 0.125232, from the size of the first.
        first = 0.015260 / math.sqrt(1 + 1 / 34)
        found = past_errors.sigma(np.array([first]), 0.125232, np.array([17.0]), np.arange(1.0, 7))[0]
        wanted = [0.015260, 0.016879, 0.018004, 0.018915, 0.019705, 0.020417]
        np.testing.assert_allclose(found, wanted, rtol=1e-4)
        t = t_quantile(0.95, past_errors.freedom(np.array([17.0])))[0]
        self.assertAlmostEqual(t, 2.282605, places=6)

    def test_a_total_where_leads_share_all_and_a_part(self) -> None:
        projected = np.array([327.677552, 343.861999, 351.225522, 344.875021, 329.243503, 305.191830])
        sizes = np.array([0.015260, 0.016879, 0.018004, 0.018915, 0.019705, 0.020417])
        moves = (projected * sizes)[None]
        for shared, half in ((1.0, 79.887972), (0.188013, 46.257262)):
            size = past_errors.of_total(moves, 0.125232, shared)[0]
            self.assertAlmostEqual(2.282605 * size, half, delta=half * 1e-4)


class Rule(unittest.TestCase):
    @settings(max_examples=30, deadline=None)
    @given(st.integers(0, 10**6), st.floats(0, 0.4))
    def test_growth_size_and_what_is_shared_by_plain_loops(self, seed: int, gone: float) -> None:
        rng = np.random.default_rng(seed)
        errors = rng.normal(size=(17, 1, 6)) * np.arange(1, 7) ** rng.uniform(-0.5, 1.5)
        errors[rng.random(errors.shape) < gone] = np.nan
        missed = Missed(errors, np.array([False]))
        history = np.full((1, 30), 100.0)
        known = {
            (start, lead): float(errors[start, 0, lead - 1])
            for start in range(17)
            for lead in range(1, 7)
            if not np.isnan(errors[start, 0, lead - 1])
        }
        many = {lead: sum((start, lead) in known for start in range(17)) for lead in range(1, 7)}
        told = [lead for lead in many if many[lead] >= 4]
        x = {lead: math.log(lead) for lead in told}
        y = {
            lead: math.log(sum(e**2 for (_, own), e in known.items() if own == lead) / many[lead]) / 2
            for lead in told
        }
        total = sum(many[lead] for lead in told)
        middle = sum(many[lead] * x[lead] for lead in told) / total
        slope = sum(many[lead] * (x[lead] - middle) * y[lead] for lead in told)
        slope /= sum(many[lead] * (x[lead] - middle) ** 2 for lead in told)
        c = min(max(slope, 0.0), 1.0)
        self.assertAlmostEqual(past_errors.growth_with_lead(missed)[0], c, places=9)
        size = math.sqrt(sum((e / lead**c) ** 2 for (_, lead), e in known.items()) / len(known))
        self.assertAlmostEqual(past_errors.size_of(missed, c, history)[0], size, places=9)

    def test_starts_that_have_enough_before_them(self) -> None:
        starts = past_errors.starts_of(40)
        self.assertEqual(starts.tolist(), list(range(23, 40)))
        # Of 40 months 26 are two cycles and two; from the eleventh on 30 are under 32, so six do.
        there = past_errors.allowed(starts, np.array([0, 10]), 40, 12)
        self.assertEqual(starts[there[:, 0]].tolist(), list(range(26, 40)))
        self.assertTrue(there[:, 1].all())

    def test_one_projection_at_zero_makes_differences_of_all(self) -> None:
        ahead = np.full((4, 2, 6), 10.0)
        ahead[2, 1, 0] = 0.0
        came = np.full((4, 2, 6), 12.0)
        history, there = np.full((2, 9), 11.0), np.ones((4, 2), np.bool_)
        missed = past_errors.missed_of(ahead, came, ahead[0], history, there)
        self.assertEqual(missed.logs.tolist(), [True, False])
        self.assertAlmostEqual(float(missed.errors[0, 0, 0]), math.log(1.2))
        self.assertEqual(float(missed.errors[2, 1, 0]), 12.0)

    def test_what_never_errs_still_has_a_width(self) -> None:
        missed = Missed(np.zeros((5, 1, 6)), np.array([False]))
        self.assertAlmostEqual(past_errors.size_of(missed, 0.5, np.full((1, 9), 200.0))[0], 200e-9, places=15)
