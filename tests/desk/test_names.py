"""Names at the ends of curves: in the order of the ends, none on another, none outside."""

from __future__ import annotations

import itertools
import unittest

from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import QPointF, QRectF

from oat_tide.desk.chart.names import TALL, Name, placed, stacked


class Stacked(unittest.TestCase):
    def test_names_that_have_room_stand_where_they_wish(self) -> None:
        self.assertEqual(stacked([20.0, 60.0, 100.0], 16.0, 0.0, 200.0), [20.0, 60.0, 100.0])

    def test_two_that_would_overlap_stand_around_their_mean(self) -> None:
        self.assertEqual(stacked([50.0, 54.0], 16.0, 0.0, 200.0), [44.0, 60.0])

    @given(st.lists(st.floats(-50, 450), min_size=1, max_size=20))
    def test_they_keep_their_order_and_stay_inside(self, wishes: list[float]) -> None:
        wishes.sort()
        found = stacked(wishes, TALL, 0.0, 400.0)
        for one, two in itertools.pairwise(found):
            self.assertGreaterEqual(two - one, TALL - 1e-9)
        self.assertGreaterEqual(found[0], TALL / 2 - 1e-9)
        self.assertLessEqual(found[-1], 400.0 - TALL / 2 + 1e-9)


class Placed(unittest.TestCase):
    def test_the_order_is_that_of_the_ends_and_not_of_the_curves(self) -> None:
        ends = {"2022": 90.0, "mean": 84.0, "2023": 88.0}
        names = [Name(text, "ink", QPointF(100, y), 107.0, 40.0, y) for text, y in ends.items()]
        places = placed(names, QRectF(0, 0, 300, 200))
        largest_by_row = {name.text: place.top() for name, place in zip(names, places, strict=True)}
        self.assertEqual(sorted(largest_by_row, key=largest_by_row.__getitem__), ["mean", "2023", "2022"])
        for one, two in itertools.combinations(places, 2):
            self.assertFalse(one.intersects(two))

    def test_names_at_other_places_of_the_width_do_not_move_each_other(self) -> None:
        names = [Name("a", "ink", QPointF(x, 50), x + 7.0, 30.0, 50.0) for x in (0.0, 100.0)]
        self.assertEqual(
            [place.center().y() for place in placed(names, QRectF(0, 0, 300, 200))], [50.0, 50.0]
        )
