"""Pictures of a view: of the size asked for, with nothing of the window in them."""

from __future__ import annotations

import tempfile
from pathlib import Path

import numpy as np
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtSvg import QSvgRenderer

from oat_tide.demo import plan_path
from oat_tide.desk.leaving.picture import Picture, size_of
from oat_tide.desk.look.palette import palette
from oat_tide.desk.window.example import write_example
from tests.desk.case import DeskCase, pixels


class Pictures(DeskCase):
    def setUp(self) -> None:
        super().setUp()
        self.open(plan_path())

    def picture(self, size: str) -> Picture:
        assert self.window.session is not None
        made = Picture(self.window.session, "project", self.window.deck, size_of(size))
        self.addCleanup(made.close)
        made.fill()
        self.settle()
        return made

    def test_they_have_exactly_the_size_asked_for(self) -> None:
        self.window.show_stage("project")
        for size in ("1280 x 800", "640 x 400", "320x320", "1920,1080"):
            with self.subTest(size), tempfile.TemporaryDirectory() as folder:
                made, wanted = self.picture(size).drawn(), size_of(size)
                self.assertEqual(made.image().size(), wanted)
                made.write_as(Path(folder) / "made.png", ".png")
                self.assertEqual(QImage(str(Path(folder) / "made.png")).size(), wanted)

    def test_as_points_they_are_what_the_window_would_paint(self) -> None:
        self.window.show_stage("history")
        made = self.picture("1280 x 800")
        painted = made.grab().toImage().convertToFormat(QImage.Format.Format_RGB32)
        drawn = made.drawn().image()
        self.assertEqual((drawn.size(), drawn.format()), (painted.size(), painted.format()))
        one, other = pixels(drawn), pixels(painted)
        # Rounding moves an edge by a shade.
        self.assertLess((np.abs(one - other).max(axis=2) > 2).mean(), 0.001)

    def test_as_lines_they_hold_no_points_but_the_tints_of_the_table(self) -> None:
        self.window.show_stage("history")
        for kind, images in (("year", 0), ("day", 1)):
            self.window.choose_kind(kind)
            self.settle()
            self.window.see_all()
            path = self.folder / f"{kind}.svg"
            self.picture("1280 x 800").drawn().write_as(path, ".svg")
            self.assertEqual(path.read_text().count("<image"), images, kind)
            self.assertIn("2024", path.read_text())

    def test_lines_stand_where_the_points_do(self) -> None:
        self.window.show_stage("history")
        drawing, path = self.picture("1280 x 800").drawn(), self.folder / "made.svg"
        drawing.write_as(path, ".svg")
        painted = QImage(drawing.size, QImage.Format.Format_RGB32)
        painter = QPainter(painted)
        QSvgRenderer(str(path)).render(painter)
        painter.end()
        points, lines = (self.inked(image) for image in (drawing.image(), painted))
        np.testing.assert_allclose(lines, points, atol=3)

    @staticmethod
    def inked(image: QImage) -> list[int]:
        """The first and last row and column with anything dark."""
        rows, columns = np.nonzero(pixels(image).max(axis=2) < 90)
        return [rows.min(), rows.max(), columns.min(), columns.max()]

    def test_what_is_done_before_they_are_filled_is_not_in_them(self) -> None:
        assert self.window.session is not None
        self.window.show_stage("history")
        self.settle()
        drawn = []
        for later in ((), (lambda: self.window.step_as_of(-5), lambda: self.window.choose_kind("week"))):
            size = size_of("1280 x 800")
            made = Picture(self.window.session, "history", self.window.deck, size)
            self.addCleanup(made.close)
            for act in later:
                act()
            made.fill()
            drawn.append(made.drawn().image())
            self.settle()
        self.assertEqual(self.window.session.grid.kind, "week")
        self.assertTrue(drawn[0] == drawn[1])

    def test_they_hold_no_handle_button_or_overview(self) -> None:
        self.window.show_stage("project")
        self.window.deck.scale.look(40.0, 40.0)
        made = self.picture("1280 x 800")
        deck = made.findChildren(type(self.window.deck))[0]
        self.assertFalse(deck.overview.isVisible())
        self.assertEqual(deck.foot.height() * deck.rows_button.height() * deck.arrangements.height(), 0)
        # The as-of pill stands in the window's chart, filled, and not in the picture.
        self.assertEqual(self.pill(self.window.deck), palette().color("kelp").rgb())
        self.assertNotEqual(self.pill(deck), palette().color("kelp").rgb())

    def pill(self, deck: object) -> int:
        """The colour at the left end of the as-of pill."""
        shown = deck.bands.grab().toImage()  # type: ignore[attr-defined]
        at = round(deck.scale.edge(deck.deck.past))  # type: ignore[attr-defined]
        return int(shown.pixelColor(at - 27, shown.height() - 10).rgb())


class Example(DeskCase):
    def test_its_pictures_are_taken_when_all_is_told(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            self.assertEqual(write_example(Path(folder)), 0)
            shown = QImage(str(Path(folder) / "history.png"))
            self.assertTrue(
                self.has_text(shown, 0, 200, 150, 320), "no finding of the last stage on the rail"
            )
            wide = shown.width()
            self.assertTrue(
                self.has_text(shown, wide - 260, 220, wide - 20, 360), "no fact on the side sheet"
            )

    @staticmethod
    def has_text(shown: QImage, left: int, top: int, right: int, bottom: int) -> bool:
        """Whether anything dark is written in a part of a picture."""
        return any(
            shown.pixelColor(x, y).lightness() < 90 for x in range(left, right) for y in range(top, bottom)
        )
