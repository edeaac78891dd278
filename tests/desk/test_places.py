"""What is in sight and selected belongs to a document and a stage."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtWidgets import QApplication

from oat_tide.plan.edits import edit
from oat_tide.plan.paths import P
from tests.desk.case import DeskCase
from tests.helpers import monthly


class Places(DeskCase):
    def setUp(self) -> None:
        super().setUp()
        self.open(self.file(monthly([100 + 10.0 * (m % 12) + m for m in range(60)])))

    def seen(self) -> tuple[float, float]:
        """What is in sight: start and count of the columns."""
        return round(self.window.deck.scale.start, 3), round(self.window.deck.scale.count, 3)

    def show(self, stage: str) -> None:
        """Come to a stage by its button on the rail."""
        self.click(self.window.rail.buttons[stage])

    def turn_the_wheel(self) -> None:
        """Zoom in on the chart by one turn of the wheel with Ctrl, as a hand does."""
        bands = self.window.deck.tide
        at = QPointF(bands.rect().center())
        event = QWheelEvent(
            at,
            bands.mapToGlobal(at),
            QPoint(0, 0),
            QPoint(0, 120),
            Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.ControlModifier,
            Qt.ScrollPhase.NoScrollPhase,
            False,
        )
        QApplication.sendEvent(bands, event)
        self.settle()

    def test_a_turn_of_the_wheel_in_history_leaves_project_alone_and_is_there_on_coming_back(self) -> None:
        self.show("project")
        project = self.seen()
        self.show("history")
        before = self.seen()
        self.turn_the_wheel()
        zoomed = self.seen()
        self.assertLess(zoomed[1], before[1])
        self.show("project")
        self.assertEqual(self.seen(), project)
        self.show("history")
        self.assertEqual(self.seen(), zoomed)

    def test_the_next_file_opens_as_if_nothing_had_been_zoomed(self) -> None:
        self.show("history")
        whole = self.seen()
        self.turn_the_wheel()
        self.assertNotEqual(self.seen(), whole)
        self.window.deck.scale.select(((3, 5),))
        self.open(self.file(monthly([100 + 10.0 * (m % 12) + m for m in range(60)]), "other.csv"))
        self.show("history")
        self.assertEqual(self.seen(), whole)
        self.assertEqual(self.window.deck.scale.selection, ())

    def test_a_selection_belongs_to_its_stage(self) -> None:
        self.show("history")
        self.window.deck.scale.select(((50, 52),))
        self.show("smooth")
        self.assertEqual(self.window.deck.scale.selection, ())
        self.show("history")
        self.assertEqual(self.window.deck.scale.selection, ((50, 52),))

    def test_a_zoomed_stage_keeps_its_days_over_other_periods(self) -> None:
        self.show("history")
        self.window.deck.scale.settled = True
        self.window.deck.scale.look(24.0, 12.0)
        self.show("smooth")
        self.window.do(edit(P.periods.kind, "quarter"))
        self.settle()
        self.show("history")
        # 2022 as a whole: four quarters.
        self.assertEqual(self.seen(), (8.0, 4.0))


class Differences(DeskCase):
    def test_a_selection_of_differences_has_a_total_and_a_mean_and_no_growth(self) -> None:
        self.open(self.file(monthly([100 + 10.0 * (m % 12) + 5 * (m // 12) for m in range(40)])))
        self.click(self.window.rail.buttons["history"])
        self.window.do(edit(P.history.arrangement, "earlier"))
        self.settle()
        deck = self.window.deck
        deck.tally.choose(deck.deck.figures["difference"])
        deck.scale.select(((0, 2),))
        self.settle()
        said = deck.tally.text.text()
        for word in ("total", "mean"):
            self.assertIn(word, said)
        for word in ("compound", " %)"):
            self.assertNotIn(word, said)
        # 2023 lies 10 above the mean of 2020 to 2022 in each month, and 4 months of it are known.
        facts = {name: float(deck.deck.figures[name].values[0, 0]) for name in ("to_date_gap", "to_date")}
        self.assertEqual(facts["to_date_gap"], 4 * 10.0)
