"""Sums that are exact, or compensated where minor units cannot hold all decimals."""

from __future__ import annotations

import math
import unittest
from fractions import Fraction

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from oat_tide.core.exact import added, between, parted, running_sums


class WholeUnits(unittest.TestCase):
    def test_a_worked_example(self) -> None:
        # 0.1 + 0.2 is 0.30000000000000004 in doubles, and 10 + 20 = 30 in hundredths.
        values = np.array([[0.1, 0.2], [0.7, 0.1]])
        whole, rest = parted(values, 100.0)
        self.assertEqual((whole.tolist(), rest), ([[10, 20], [70, 10]], None))
        self.assertEqual(added(values, 100.0, 1).tolist(), [0.3, 0.8])
        self.assertEqual(added(values, 100.0, 0).tolist(), [0.8, 0.3])

    def test_what_units_leave_is_added_beside_them(self) -> None:
        # 1.25 and 2.5 in whole units: 1 and 2 (ties to even), with 0.25 and 0.5 left.
        whole, rest = parted(np.array([1.25, 2.5]), 1.0)
        assert rest is not None
        self.assertEqual((whole.tolist(), rest.tolist()), ([1, 2], [0.25, 0.5]))
        self.assertEqual(added(np.array([1.25, 2.5]), 1.0, 0), 3.75)

    @settings(deadline=None)
    @given(st.lists(st.integers(-(10**10), 10**10), min_size=1, max_size=60), st.integers(0, 4), st.data())
    def test_running_sums_are_those_of_fractions(
        self, units: list[int], places: int, data: st.DataObject
    ) -> None:
        scale = 10.0**places
        values = np.array([[unit / scale for unit in units]])
        low = data.draw(st.integers(0, len(units)))
        high = data.draw(st.integers(low, len(units)))
        found = between(running_sums(values, scale), np.array([low]), np.array([high])) / scale
        wanted = Fraction(sum(units[low:high]), 10**places)
        self.assertEqual(found[0, 0], float(wanted))

    @settings(deadline=None)
    @given(st.lists(st.floats(-1e6, 1e6), min_size=1, max_size=60))
    def test_a_compensated_sum_is_off_by_no_more_than_its_last_digit(self, values: list[float]) -> None:
        found = float(added(np.array(values), 1000.0, 0))
        exact = math.fsum(values)
        self.assertLessEqual(abs(found - exact), 4 * math.ulp(max(abs(exact), *map(abs, values), 1e-3)))
