"""The main window: one plan, seen stage by stage."""

from __future__ import annotations

import functools
import threading
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QEvent, QRect, Qt, pyqtSignal
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QMainWindow,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from oat_tide.core.language import phrase
from oat_tide.core.periods.calendar import Kind
from oat_tide.core.user_error import UserError
from oat_tide.core.working.tree import Ref
from oat_tide.desk.deck.deck_view import DeckView
from oat_tide.desk.leaving.publishing import Publishing
from oat_tide.desk.leaving.saving import Saving
from oat_tide.desk.look import dates, palette, style
from oat_tide.desk.look.turns import Turn
from oat_tide.desk.opening.offers import Offers
from oat_tide.desk.opening.recent import remember
from oat_tide.desk.opening.source_dialogs import SourceDialogs
from oat_tide.desk.opening.welcome import Welcome
from oat_tide.desk.sheet.sheet import SideSheet
from oat_tide.desk.window.commands import Commands
from oat_tide.desk.window.header import HEIGHT, Header
from oat_tide.desk.window.help import Help, Task
from oat_tide.desk.window.rail import Rail
from oat_tide.desk.work.faults import log_fault
from oat_tide.desk.work.jobs import Runner
from oat_tide.desk.work.late import LateProcess
from oat_tide.desk.work.strip import Answer, Strip
from oat_tide.documents import Document, open_document
from oat_tide.plan.edits import Edit, edit
from oat_tide.plan.paths import FieldSteps, P
from oat_tide.plan.plan import Plan
from oat_tide.plan.undo import Step, told
from oat_tide.session import Session
from oat_tide.stages import ON_RAIL

_NARROW = 1150
"""Pixels of a window from which down the rail has the first letters of the stages alone."""
_AFTER_PAINT = 90
_SALES = phrase(
    "Sales files and plans (*.csv *.tsv *.txt *.xlsx *.ods *.parquet *.sqlite *.db *.oattide);;All files (*)"
)


class Window(QMainWindow):
    """The main window.

    Attributes:
        session: the open plan with its data, or None.
        path: the plan file it is kept in, or None.
        stage: the stage in sight.
        runner: has work done off this thread, one piece at a time.
        loading: what loads beside the window; until it has, only the stage in sight is reckoned.

    Signals:
        shown: a plan that was opened has been painted.
    """

    shown = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.session: Session | None = None
        self.path: Path | None = None
        self.stage = next(iter(ON_RAIL))
        self.loading: threading.Thread | None = None
        self._saved: Plan | None = None
        self._opened: Plan | None = None
        self._leaving = self._kept = False
        self.late = LateProcess()
        self._arrivals = Turn(self, self.refresh)
        self.late.arrived.connect(lambda: self._arrivals.start(0))
        self.late.failed.connect(self.report)
        self._findings = Turn(self, self._show_findings)
        self._shown = Turn(self, self.shown.emit)
        self._unfound: list[str] = []
        self.source_dialogs, self.publishing, self.saving = (
            SourceDialogs(self),
            Publishing(self),
            Saving(self),
        )
        self.offers = Offers(self)
        self.help = Help(self)
        self.commands = Commands(self)
        self._lay_out()
        self._connect()
        self.setAcceptDrops(True)
        # Its ground is no part by itself: else what stands on it is painted with it, and then once more.
        self.setAttribute(Qt.WidgetAttribute.WA_NoSystemBackground)
        self.resize(1280, 800)
        self.show_nothing()

    def _lay_out(self) -> None:
        self.header = Header(self.commands.plan_menu, self.commands.publish_menu)
        whole = QWidget()
        self.rail, self.strip = Rail(), Strip(whole, self._room_for_strip)
        self.runner = Runner(self, self.strip, self.report)
        self.deck, self.sheet, self.welcome = DeckView(), SideSheet(), Welcome()
        work = QWidget()
        row = QHBoxLayout(work)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        for widget, stretch in ((self.rail, 0), (self.deck, 1), (self.sheet, 0)):
            row.addWidget(widget, stretch)
        self.pages = QStackedWidget()
        self.pages.addWidget(self.welcome)
        self.pages.addWidget(work)
        box = QVBoxLayout(whole)
        box.setContentsMargins(0, 0, 0, 0)
        box.setSpacing(0)
        box.addWidget(self.header)
        box.addWidget(self.pages, 1)
        self.setCentralWidget(whole)

    def _room_for_strip(self) -> QRect:
        """The title of the page, where nothing can be clicked; without a plan, the top of the page."""
        top = HEIGHT + 6
        if self.pages.currentIndex() == 0:
            return QRect(12, top, self.width() - 24, 0)
        return QRect(self.deck.x() + 10, top, self.deck.width() - self.deck.rows_button.width() - 36, 0)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.rail.set_narrow(self.width() < _NARROW)
        if self.strip.isVisible():
            self.strip.fit()

    def _connect(self) -> None:
        self.header.kind_chosen.connect(self.choose_kind)
        self.header.places_chosen.connect(lambda pairs: self.do(edit(P.where, pairs)))
        self.header.stepped.connect(self.step_as_of)
        self.header.sent_home.connect(self.bring_home)
        self.header.dated.connect(lambda day: self.do(edit(P.as_of, day)))
        self.header.edited.connect(self.do)
        self.header.troubled.connect(self.strip.say)
        self.rail.chosen.connect(self.show_stage)
        self.help.led.connect(self.lead)
        self.deck.led.connect(self.lead_to)
        self.deck.typed.connect(self.write)
        self.deck.refused.connect(self.strip.say)
        for part in (self.deck, self.sheet):
            part.edited.connect(self.do)
            part.rested.connect(self._rested)
        self.sheet.troubled.connect(self.strip.say)
        self.sheet.pointed.connect(self.deck.point_at)
        self.sheet.chosen.connect(self._keep_fact)
        self.sheet.previewed.connect(self._preview)
        self.welcome.chosen.connect(self._begin)
        self.welcome.opened.connect(self.open)
        self.welcome.taken.connect(self.offers.take_up)
        self.welcome.discarded.connect(self.offers.discard)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        assert event is not None
        QPainter(self).fillRect(event.rect(), palette.palette().color("paper"))

    def event(self, event: QEvent | None) -> bool:
        done = super().event(event)
        if event is not None and event.type() == QEvent.Type.WindowActivate:
            self.saving.look_at_disk()
        if event is not None and event.type() == QEvent.Type.UpdateRequest:
            Turn.taken()
        return done

    # What is shown

    def show_nothing(self) -> None:
        """No plan is open."""
        self.pages.setCurrentIndex(0)
        self.welcome.show_recent()
        self.header.show_nothing()
        self.commands.show_session(None)
        self.setWindowTitle(phrase("Oat Tide"))

    def show_document(self, document: Document) -> None:
        """Show a plan that has been opened."""
        self.session, self.path = document.session, document.path
        self.session.late = self.late
        self.late.forgive()
        begun = document.begun.now if document.begun else self.session.plan
        self._opened, self._saved = begun, begun if document.path else None
        self.saving.begin(document)
        dates.use_locale()
        if self.session.ready:
            dates.use_order_of(self.session.reading.patterns)
        self.deck.release()
        self.deck.deck = None
        self.pages.setCurrentIndex(1)
        # Before the findings of other stages, which wait for what is loaded then.
        self._shown.start(_AFTER_PAINT)
        self.show_stage(document.stage)
        self.deck.foot.set_news(None)
        self.source_dialogs.watch()
        self.strip.clear()
        notice = " ".join(each for each in (document.notice, self.saving.hold(document.path)) if each)
        if notice:
            self.strip.say(notice, calm=True)

    def show_stage(self, name: str) -> None:
        """Bring a stage in sight."""
        if self.session is None:
            return
        self.strip.pass_by()
        self.stage = name
        self.rail.show_stage(name)
        self.refresh()

    def refresh(self) -> None:
        """Show the plan as it is: first the stage in sight, after the paint the findings of the others."""
        if self.session is None:
            return
        self.saving.look()
        if not self.session.ready:
            self._prepare()
            return
        self.deck.show_session(self.session, self.stage)
        self.header.show_session(self.session, self.saved_words)
        self.sheet.show_deck(self.session.shown(self.stage), 0, ON_RAIL[self.stage].title)
        style.hasten()
        self.commands.show_session(self.session)
        self.setWindowTitle(phrase("{title} – Oat Tide", title=self.session.plan.title))
        self._unfound = list(ON_RAIL)
        self._findings.start(_AFTER_PAINT)

    def _show_findings(self) -> None:
        """One stage at a time, so that what the user does in between is not kept waiting."""
        loads = self.loading is not None and (self.loading.ident is None or self.loading.is_alive())
        if loads or self._shown.isActive():
            self._findings.start(_AFTER_PAINT)
            return
        if self.session is None or not self.session.ready or not self._unfound:
            return
        name = self._unfound.pop(0)
        self.rail.show_finding(name, self.session.shown(name).finding(0))
        if self._unfound:
            self._findings.start(0)

    @property
    def follows(self) -> bool:
        """Whether something is to follow what was shown last: a job, findings, card, controls, styles."""
        timers = self._findings.isActive() or self._arrivals.isActive()
        parts = self.deck.tells_later or self.sheet.makes_more or not style.is_whole()
        return self.runner.job is not None or timers or parts

    @property
    def all_told(self) -> bool:
        """Whether every finding, the side sheet, the card and all late answers are in sight, and styled."""
        if self.session is None or not self.session.ready or self.follows:
            return False
        shown = (self.session.shown(name) for name in ON_RAIL)
        return not (self._unfound or any(deck.waits for deck in shown))

    @property
    def changed(self) -> bool:
        """Whether the plan differs from what is saved, or from how it was opened."""
        if self.session is None:
            return False
        # What was typed or pasted is nowhere else.
        typed = self._saved is None and bool(self.session.plan.sources.typed)
        return typed or self.session.plan != (self._saved or self._opened)

    @property
    def saved_words(self) -> str:
        """ "saved", "changed" or "not saved yet"."""
        if self._saved is None:
            return phrase("not saved yet")
        return "changed" if self.changed else "saved"

    # Edits

    def do(self, change: Edit) -> None:
        """Make a change of the plan; one that does not fit is refused in words."""
        session = self.session
        if session is not None:
            self._make(lambda: session.do(change))

    def _make(self, change: Callable[[], object]) -> None:
        """Make a change unless other work goes on; in any case what is shown is the plan as it is."""
        if not self.runner.refuses():
            try:
                change()
            except UserError as error:
                self.strip.say(str(error))
            else:
                self.strip.pass_by()
        self.refresh()

    def _preview(self, change: Edit | None) -> None:
        """Show in the chart what an edit would make of it, or again what the plan says."""
        session = self.session
        if session is None or not session.ready or self.runner.job is not None:
            return
        self.deck.preview(session.shown(self.stage) if change is None else session.tried(change, self.stage))

    def write(self, rows: list[tuple[Ref, list[str]]]) -> None:
        """Write figures into cells; those that cannot be are refused in words, and none is written."""
        session = self.session
        if session is not None:
            self._make(lambda: session.write(rows))
            self.saving.look(hurry=True)

    def _rested(self) -> None:
        if self.session is not None:
            self.session.rest()

    def undo(self) -> None:
        """Take the last step back."""
        if self.session is not None and self.session.history.back and not self.runner.refuses():
            step = self.session.history.back[-1]
            self._step(phrase("Undone"), step, self.session.undo)

    def redo(self) -> None:
        """Make the step again that was undone."""
        if self.session is not None and self.session.history.ahead and not self.runner.refuses():
            step = self.session.history.ahead[0]
            self._step(phrase("Redone"), step, self.session.redo)

    def _step(self, words: str, step: Step, go: Callable[[], None]) -> None:
        """Go a step back or ahead; what changes out of sight is brought in sight, and said."""
        assert self.session is not None
        before = self.session.plan
        self.strip.pass_by()
        go()
        stage = self.session.stage_of(step.path)
        elsewhere = stage not in ("", self.stage)
        if elsewhere:
            self.show_stage(stage)
        else:
            self.refresh()
        if self.session.ready and (elsewhere or not self.sheet.in_sight(step.path)):
            self.sheet.reveal(step.path)
            self.strip.say(f"{words}: {told(step, before, self.session.plan)}.", calm=True)

    def lead_to(self, path: FieldSteps) -> None:
        """Bring the control of a field in sight."""
        if self.session is None:
            return
        stage = self.session.stage_of(path)
        if stage not in ("", self.stage):
            self.show_stage(stage)
        self.sheet.reveal(path)

    def choose_kind(self, kind: Kind) -> None:
        """Total by another kind of period."""
        self.do(edit(P.periods.kind, kind))

    def step_as_of(self, periods: int) -> None:
        """Move the as-of by periods."""
        if self.session is not None and self.session.ready:
            self.do(edit(P.as_of, self.session.as_of_at(self.session.as_of + periods)))

    def bring_home(self) -> None:
        """Bring the as-of home."""
        self.do(edit(P.as_of, None))

    def see_all(self) -> None:
        """Bring the whole history in sight."""
        self.deck.scale.all()

    def _keep_fact(self, ref: Ref | None) -> None:
        if ref is not None:
            self.deck.keep(ref)

    def escape(self) -> None:
        """Take the help or the message away, or let the kept working go."""
        if self.help.isVisible():
            self.help.hide()
        elif self.strip.isVisible() and self.runner.job is None:
            self.strip.clear()
        else:
            self.deck.release()

    def switch_help(self) -> None:
        """Show the help, or take it away."""
        self.help.switch()

    def lead(self, task: Task) -> None:
        """Show where something is done."""
        if self.session is None:
            return
        if task.change is not None:
            self.do(task.change)
        if task.back:
            self.step_as_of(-task.back)
        self.show_stage(task.stage)

    def switch_scheme(self) -> None:
        """From light to dark, or back."""
        style.use(dark=palette.palette() is palette.LIGHT)
        self.deck.dress()

    # Files

    def _begin(self, way: str) -> None:
        """Take one of the ways in."""
        ways: dict[str, Callable[[], Any]] = {
            "file": self.ask_open,
            "folder": self.source_dialogs.ask_folder,
            "files": self.source_dialogs.ask_files,
            "address": self.source_dialogs.ask_address,
            "typed": self.source_dialogs.ask_typed,
            "demo": self.open_demo,
        }
        ways[way]()

    def ask_open(self) -> None:
        """Ask which file to open."""
        name, _ = QFileDialog.getOpenFileName(self, phrase("Open a sales file or plan"), "", _SALES)
        if name:
            self.open(Path(name))

    def open_demo(self) -> None:
        """Open the demo plan."""
        from oat_tide.demo import plan_path

        self.open(plan_path())

    def open(self, path: Path) -> None:
        """Open a file; a changed plan is first offered to be saved."""

        go = functools.partial(self.open_now, path)

        if not self.runner.refuses():
            self.leave(lambda: None if self.offers.ask(path, go) else go())

    def leave(self, then: Callable[[], Any]) -> None:
        """Go on to another plan; a changed one is first offered to be saved."""
        if self.changed:
            self._ask_to_save(
                (phrase("Save first"), lambda: self.saving.save(then)), (phrase("Open without saving"), then)
            )
        else:
            then()

    def _ask_to_save(self, *answers: Answer) -> None:
        title = self.session.plan.title if self.session else ""
        self.strip.say(phrase("{title} has changes that are not saved.", title=title), answers)

    def open_now(self, path: Path, copy: bool = False) -> None:
        """Open a file in place of the plan that is open.

        Args:
            copy: whether what is in it gets a file of its own when it is saved.
        """

        def opened(document: Document) -> None:
            if copy:
                document = replace(document, path=None, stamp=None)
            else:
                self._remember(path)
            self.show_document(document)

        self.runner.run(
            phrase("Reading {name}", name=path.name), lambda progress: open_document(path, progress), opened
        )

    def _remember(self, path: Path) -> None:
        if not self.is_demo(path):
            remember(path)

    def _prepare(self) -> None:
        """Read and total anew what an edit asks for; when that fails, the edit is taken back."""
        session = self.session
        assert session is not None

        def failed(error: BaseException) -> None:
            change = session.history.now
            session.undo()
            self.refresh()
            if not self.source_dialogs.asks(error, lambda: self.do(Edit((), change))):
                self.report(error)

        def stopped() -> None:
            session.undo()
            self.refresh()

        self.runner.run(
            phrase("Reading the lines again"), session.prepare, lambda _: self.refresh(), failed, stopped
        )

    @staticmethod
    def is_demo(path: Path) -> bool:
        """Whether a plan file is the one that comes with the program, which is never written over."""
        from oat_tide.demo import plan_path

        return path == plan_path()

    def saved_as(self, path: Path, plan: Plan) -> None:
        """A plan was saved in a file, and goes on there."""
        self.path, self._saved = path, plan
        self._remember(path)
        self.refresh()

    # What goes wrong
    def report(self, error: BaseException) -> None:
        """Say what the user can mend; log what nobody expected."""
        if isinstance(error, UserError):
            self.strip.say(str(error))
        else:
            self.fault(error)

    def fault(self, error: BaseException) -> None:
        """Log an unexpected error, and see that all that was done is in the journal."""
        self.strip.say(log_fault(error, self.saving.journal), stays=True)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        assert event is not None
        if self.changed and not self._leaving:
            event.ignore()
            self._ask_to_save(
                (phrase("Save and close"), lambda: self.saving.save(self._leave)),
                (phrase("Close without saving"), self._leave),
            )
            return
        if self.runner.job is not None:
            self.runner.job.stop()
        self.saving.end(self._kept)
        self.late.close()
        event.accept()

    def end(self) -> None:
        """Close at once, as the system asks: what is not saved is offered at the next start."""
        self._kept = self.changed
        self._leave()

    def _leave(self) -> None:
        self._leaving = True
        self.close()

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = event.mimeData() if event else None
        if event and data and data.hasUrls():
            event.setDropAction(Qt.DropAction.CopyAction)
            event.accept()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event else None
        if data and data.urls():
            self.open(Path(data.urls()[0].toLocalFile()))
