"""Everything by keys: moving, selecting, copying, the way from stop to stop, and the help."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton, QWidget

from oat_tide.desk.opening.recent import recent
from oat_tide.desk.opening.welcome import WAYS
from oat_tide.desk.window.help import WORDS, keys
from tests.desk.case import DeskCase
from tests.helpers import monthly

SHIFT, CONTROL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


class Keys(DeskCase):
    def setUp(self) -> None:
        super().setUp()
        self.open(self.file(monthly([100 + month for month in range(30)])))
        self.stage("history")
        self.tide = self.window.deck.tide
        self.tide.setFocus()
        self.settle()

    def press(self, key: str, modifiers: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        QTest.keyClick(self.tide, getattr(Qt.Key, f"Key_{key}"), modifiers)

    def copied(self) -> str:
        clipboard = QGuiApplication.clipboard()
        assert clipboard is not None
        return clipboard.text()

    def test_home_and_end_move_in_the_table_and_leave_the_as_of(self) -> None:
        self.ctrl("Left")
        as_of = self.plan.as_of
        self.press("Home")
        self.assertEqual(self.tide.standing, (0, 0))
        self.press("End")
        self.assertEqual(self.tide.standing, (0, 29))
        self.assertEqual(self.plan.as_of, as_of)
        self.ctrl("Home")
        self.assertIsNone(self.plan.as_of)

    def test_a_cell_or_the_selection_is_copied(self) -> None:
        self.press("Home")
        self.press("Right")
        self.press("C", CONTROL)
        self.assertEqual(self.copied(), "101")
        self.press("Right", SHIFT)
        self.press("C", CONTROL)
        self.assertEqual(self.copied().splitlines()[:2], ["\tFeb 2020\tMar 2020", "Actual\t101\t102"])

    def test_two_stretches_are_selected_by_keys(self) -> None:
        self.press("Home")
        self.press("Right", SHIFT)
        self.press("Right", SHIFT)
        self.assertEqual(self.window.deck.scale.selection, ((0, 2),))
        for _ in range(5):
            self.press("Right")
        self.press("Right", SHIFT | CONTROL)
        self.press("Right", SHIFT | CONTROL)
        self.assertEqual(self.window.deck.scale.selection, ((0, 2), (7, 9)))
        # 107 + 108 + 109 - (100 + 101 + 102) = 21.
        self.assertIn("second on first: total +21", self.window.deck.tally.text.text())
        # Back over where it began, the stretch turns around.
        for _ in range(4):
            self.press("Left", SHIFT | CONTROL)
        self.assertEqual(self.window.deck.scale.selection, ((0, 2), (5, 7)))

    def test_every_stop_has_a_name_and_the_way_follows_the_page(self) -> None:
        for stage in self.window.rail.buttons:
            self.stage(stage)
            self.settle()
            stops = self.stops()
            self.assertGreater(len(stops), 15)
            for stop in stops:
                name = stop.accessibleName() or getattr(stop, "text", str)()
                self.assertTrue(name.strip(), f"{stage}: {type(stop).__name__} has no name")
            parts = [self.window.header, self.window.rail, self.window.deck, self.window.sheet]
            order = [next(i for i, part in enumerate(parts) if part.isAncestorOf(stop)) for stop in stops]
            late = [
                f"{type(s).__name__} {s.accessibleName()}"
                for i, s in enumerate(stops)
                if i and order[i] < order[i - 1]
            ]
            self.assertEqual(order, sorted(order), f"{stage}: {late}")

    def stops(self) -> list[QWidget]:
        """The widgets that Tab goes through, from the first of the header on."""
        found, widget = [], self.window.header.series
        while True:
            tabs = widget.focusPolicy().value & Qt.FocusPolicy.TabFocus.value
            if widget.isVisibleTo(self.window) and widget.isEnabled() and tabs and widget is not self.window:
                found.append(widget)
            widget = widget.nextInFocusChain()
            if widget is self.window.header.series:
                return found

    def test_the_help_lists_every_key_and_is_closed_by_escape(self) -> None:
        self.key("F1")
        self.assertTrue(self.window.help.isVisible())
        told = " ".join(typed for typed, _ in keys())
        for action in self.window.actions():
            for shortcut in action.shortcuts():
                said = shortcut.toString()
                if not said.startswith("Ctrl+") or not said[5:].isdigit() or said == "Ctrl+0":
                    self.assertIn(said.replace("Esc", "Escape"), told)
        self.assertIn("adjusted actual", dict(WORDS))
        self.key("Escape")
        self.assertFalse(self.window.help.isVisible())


class WaysIn(DeskCase):
    def test_a_file_that_was_opened_stands_first_and_opens_again(self) -> None:
        one = self.file(monthly([1, 2, 3] * 8), "one.csv")
        two = self.file(monthly([4, 5, 6] * 8), "two.csv")
        for path in (one, two, one):
            self.window._opened = self.window._saved = None
            self.window.session = None
            self.open(path)
        self.assertEqual([path.name for path in recent()], ["one.csv", "two.csv"])
        two.unlink()
        self.window.session = None
        self.window.show_nothing()
        self.settle()
        files = self.window.welcome.files
        self.assertEqual([button.accessibleName() for button in files], ["one.csv"])
        shown = [b for b in self.window.welcome.findChildren(QPushButton) if b.isVisibleTo(self.window)]
        self.assertEqual(len(shown), len(files) + len(WAYS), "what stood there before is out of sight")
        self.click(files[0])
        self.settle()
        self.assertIs(self.window.pages.currentIndex(), 1)

    def test_the_list_of_files_can_be_broken(self) -> None:
        from oat_tide.desk.opening import recent as kept

        for text in ("{", "[1, 2]", '{"a": 1}', '["/nowhere/a.csv"]', ""):
            kept._list().write_text(text)
            self.assertEqual(recent(), [])

    def test_members_have_sizes_a_search_and_an_order(self) -> None:
        rows = "".join(f"2024-{m:02d}-01,P{p:03d},{p}\n" for m in range(1, 13) for p in range(1, 41))
        self.open(self.file("month,product,cases\n" + rows))
        self.click(self.window.header.series)
        places = self.window.header.places
        products = places.lists[0]
        model = products.model
        texts = [model.data(model.index(row, 0)) for row in range(model.rowCount())]
        self.assertEqual(texts[:3], ["All", "P001", "P002"])
        self.assertEqual(model.data(model.index(40, 0), Qt.ItemDataRole.UserRole), "480")
        bar = products.members.horizontalScrollBar()
        self.assertEqual(bar.maximum(), 0, "a member is wider than its list")
        self.assertEqual(model.data(model.index(0, 0), Qt.ItemDataRole.UserRole), "9,840")
        self.click(places.orders["by size"])
        self.assertEqual(model.data(model.index(1, 0)), "P040")
        QTest.keyClicks(products.search, "P03")
        self.assertEqual(model.rowCount(), 11)
        heading = products.findChildren(QWidget)[0].palette().color(products.foregroundRole())
        self.assertLess(heading.lightness(), 128)
        places.close()
        self.assertEqual(places.mapToGlobal(QPoint(0, 0)).x() >= 0, True)
