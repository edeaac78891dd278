"""Names right of the chart: in the order of the ends of their curves, none on another, none outside."""

from __future__ import annotations

import itertools
import unittest

from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import QPointF, QRectF

from oat_tide.desk.chart.names import LINE, Name, in_lines, named, placed, stacked
from oat_tide.desk.look.measured import advance
from oat_tide.desk.window.app import application
from oat_tide.stages.deck import Curve


class Stacked(unittest.TestCase):
    def test_names_that_have_room_stand_where_they_wish(self) -> None:
        self.assertEqual(stacked([20.0, 60.0, 100.0], [16.0] * 3, 0.0, 200.0), [20.0, 60.0, 100.0])

    def test_two_that_would_overlap_stand_around_their_mean(self) -> None:
        self.assertEqual(stacked([50.0, 54.0], [16.0] * 2, 0.0, 200.0), [44.0, 60.0])

    def test_one_of_two_lines_takes_more(self) -> None:
        self.assertEqual(stacked([50.0, 50.0], [30.0, 10.0], 0.0, 200.0), [40.0, 60.0])

    @given(st.lists(st.tuples(st.floats(-50, 450), st.sampled_from([15.0, 30.0])), min_size=1, max_size=13))
    def test_they_keep_their_order_and_stay_inside(self, names: list[tuple[float, float]]) -> None:
        names.sort()
        tall = [each for _, each in names]
        found = stacked([wish for wish, _ in names], tall, 0.0, 400.0)
        for (one, two), (a, b) in zip(itertools.pairwise(found), itertools.pairwise(tall), strict=True):
            self.assertGreaterEqual(two - one, (a + b) / 2 - 1e-9)
        self.assertGreaterEqual(found[0], tall[0] / 2 - 1e-9)
        self.assertLessEqual(found[-1], 400.0 - tall[-1] / 2 + 1e-9)


class Named(unittest.TestCase):
    def setUp(self) -> None:
        self.app = application()

    def names(self, texts: dict[str, float], tall: float = 200.0) -> list[Name]:
        curves = [(Curve(text, "year", label=text), QPointF(100, y), False) for text, y in texts.items()]
        return named(curves, 120, tall)

    def test_the_order_is_that_of_the_ends_and_not_of_the_curves(self) -> None:
        names = self.names({"2022": 90.0, "mean": 84.0, "2023": 88.0})
        self.assertEqual([name.full for name in names], ["mean", "2023", "2022"])
        places = placed(names, QRectF(0, 0, 300, 200), 300, 128)
        for one, two in itertools.combinations(places, 2):
            self.assertFalse(one.intersects(two))
        self.assertTrue(all(place.left() >= 300 for place in places))

    def test_a_long_name_takes_two_lines_and_no_more_room(self) -> None:
        text = "A product with a name of sixty characters, as offices have them"
        lines = in_lines(text, 90, 2)
        self.assertEqual(len(lines), 2)
        self.assertTrue(text.startswith(lines[0]) and lines[1].endswith("…"))
        self.assertTrue(all(advance(line) <= 90 for line in lines))
        self.assertEqual(in_lines("short", 90, 2), ("short",))

    def test_of_more_than_have_room_the_rest_is_counted(self) -> None:
        names = self.names({f"series {place}": 10.0 * place for place in range(12)}, 6 * LINE)
        self.assertEqual(len(names), 6)
        self.assertEqual(names[-1].lines, ("and 7 more",))
        self.assertIn("series 11", names[-1].full)
