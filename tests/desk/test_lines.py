"""Wide curves are drawn piece by piece, and look as they would in one stroke."""

from __future__ import annotations

import time
import unittest

import numpy as np
import pyqtgraph as pg
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QImage, QPainter

from oat_tide.desk.chart.line import CurveItem, segments
from oat_tide.desk.window.app import application
from tests.desk.case import pixels

NAN = float("nan")
POINTS = st.lists(st.tuples(st.floats(0, 900), st.floats(0, 500)), min_size=2, max_size=30)


def pieces(x: list[float], y: list[float], *dashes: float) -> list[list[float]]:
    return [[round(at, 6) for at in each] for each in segments(np.array(x), np.array(y), np.array(dashes))]


class Pieces(unittest.TestCase):
    def test_a_solid_line_is_its_segments_and_is_broken_where_a_point_is_not_known(self) -> None:
        self.assertEqual(
            pieces([0, 1, 2, 3, 4, 5], [0, 2, 4, NAN, 8, 9]), [[0, 0, 1, 2], [1, 2, 2, 4], [4, 8, 5, 9]]
        )
        self.assertEqual(pieces([0, 1], [NAN, NAN]), [])
        self.assertEqual(pieces([3], [4], 2, 1), [])

    def test_dashes_run_on_round_a_bend(self) -> None:
        # Three along, one left out: the second dash goes from 4 to 7 and bends at 5.
        self.assertEqual(
            pieces([0, 5, 5], [0, 0, 5], 3, 1),
            [[0, 0, 3, 0], [4, 0, 5, 0], [5, 0, 5, 2], [5, 3, 5, 5]],
        )

    def test_of_four_lengths_every_other_is_drawn(self) -> None:
        self.assertEqual(
            pieces([0, 10], [1, 1], 2, 1, 1, 1), [[0, 1, 2, 1], [3, 1, 4, 1], [5, 1, 7, 1], [8, 1, 9, 1]]
        )

    @given(POINTS, st.lists(st.floats(0.5, 9), min_size=2, max_size=2))
    def test_as_much_is_drawn_as_walking_along_it_would(
        self, points: list[tuple[float, float]], dashes: list[float]
    ) -> None:
        x, y = np.array(points).T
        whole = float(np.hypot(np.diff(x), np.diff(y)).sum())
        turns, rest = divmod(whole, sum(dashes))
        due = turns * dashes[0] + min(rest, dashes[0])
        drawn = sum(np.hypot(c - a, d - b) for a, b, c, d in segments(x, y, np.array(dashes)))
        self.assertAlmostEqual(drawn, due, delta=1e-6 * max(whole, 1) + 1e-6)


class Painted(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.app = application()

    def image(
        self, style: Qt.PenStyle, whole: bool, alpha: int = 255, tall: float = 1.0
    ) -> tuple[np.ndarray, float]:
        """A curve of seventy points on paper, as it is painted, and the seconds that takes."""
        x = np.arange(70.0)
        y = 100 + tall * (60 * np.sin(x / 2) + 20 * np.cos(x * 1.7))
        y[31] = NAN
        line = CurveItem()
        line.whole = whole
        pen = pg.mkPen(QColor(30, 120, 90, alpha), width=2, style=style)
        line.setData(x, y, pen=pen, connect="finite", antialias=True)
        line.fill(QRectF(0, 0, 70, 200))
        made = QImage(700, 200, QImage.Format.Format_RGB32)
        made.fill(QColor("#fcfaf5"))
        painter = QPainter(made)
        painter.scale(10, 1)
        begun = time.thread_time()
        line.paint(painter, None, None)
        took = time.thread_time() - begun
        painter.end()
        return pixels(made), took

    def test_pieces_look_as_one_stroke_does(self) -> None:
        for style, alpha in (
            (Qt.PenStyle.SolidLine, 255),
            (Qt.PenStyle.DashLine, 255),
            (Qt.PenStyle.SolidLine, 140),
        ):
            with self.subTest(style=style, alpha=alpha):
                one, other = (self.image(style, whole, alpha)[0] for whole in (True, False))
                inked = (one < 230).any(axis=2).sum()
                self.assertGreater(inked, 2000)
                # The ink lies in the same places: hardly a point differs by half its strength.
                apart = (np.abs(one - other).max(axis=2) > 90).sum()
                self.assertLess(apart, inked / 25)

    def test_a_gentle_curve_is_one_stroke(self) -> None:
        one, other = (self.image(Qt.PenStyle.SolidLine, whole, 140, 0.1)[0] for whole in (True, False))
        self.assertTrue((one == other).all())

    def test_they_take_a_fraction_of_its_time(self) -> None:
        one, other = (
            min(self.image(Qt.PenStyle.SolidLine, whole)[1] for _ in range(5)) for whole in (True, False)
        )
        self.assertLess(other, one / 2)
