"""Handles by their role: any number of one, and one end of a span without the other."""

from __future__ import annotations

import datetime as dt
from dataclasses import replace
from unittest import mock

from PyQt6.QtCore import QPointF

from oat_tide.core.periods.calendar import date_of
from oat_tide.plan.parts.project import Project
from oat_tide.stages import STAGES
from oat_tide.stages.deck import Deck, Handle
from oat_tide.stages.project.make import make as project
from tests.desk.case import DeskCase
from tests.helpers import monthly


class Several(DeskCase):
    def shown(self, *handles: Handle) -> None:
        """Project with these handles in place of its own, but for the as-of line."""

        def made(*args: object) -> Deck:
            deck = project(*args)  # type: ignore[arg-type]
            return replace(deck, handles=(deck.handles[0], *handles))

        patch = mock.patch.dict(STAGES, {"project": replace(STAGES["project"], make=made)})
        patch.start()
        self.addCleanup(patch.stop)
        self.open(self.file(monthly([20 + i for i in range(36)])))
        self.stage("project")

    def day(self, column: int) -> dt.date:
        grid = self.window.session.grid
        return date_of(grid.last_day(self.window.session.panel.first + column))

    def drag_from(self, column: int, to: int) -> None:
        over, scale = self.window.deck.bands.over, self.window.deck.scale
        start = QPointF(scale.edge(column + 1), 20)
        self.drag(over, start, QPointF(scale.edge(to + 1), 20))

    def test_two_of_one_role_both_act(self) -> None:
        first = Handle(("project", "until"), "fit_to", 20, 5, 35, self.day, says="first")
        second = Handle(("project", "horizon"), "fit_to", 27, 5, 35, lambda column: column, says="second")
        self.shown(first, second)
        self.drag_from(20, 18)
        self.assertEqual(self.plan.project.until, self.day(18))
        self.drag_from(27, 30)
        self.assertEqual(self.plan.project.horizon, 30)

    def test_a_start_without_an_end_is_painted_and_dragged(self) -> None:
        start = Handle(("project", "since"), "fit_from", 10, 0, 30, self.day, says="from here")
        self.shown(start)
        self.window.deck.bands.over.grab()
        self.assertEqual(self.said(), "")
        over, scale = self.window.deck.bands.over, self.window.deck.scale
        self.drag(over, QPointF(scale.edge(10), 20), QPointF(scale.edge(12), 20))
        self.assertEqual(self.plan.project.since, self.day(12))

    def test_a_horizon_without_an_as_of_line_faults_not(self) -> None:
        self.shown()
        deck = self.window.deck.deck
        alone = Handle(("project", "horizon"), "horizon", 30, 20, 40, lambda column: column, says="ahead")
        self.window.deck.bands.deck = replace(deck, handles=(alone,))
        self.window.deck.bands.over.grab()
        self.assertEqual((self.said(), self.plan.project), ("", Project()))
