"""A plan as a document with its data and decks: what the window, the command line and publishing talk to."""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence
from functools import partial

import msgspec

from oat_tide.behind import lines_behind
from oat_tide.core.language import noun, phrase
from oat_tide.core.periods.calendar import KINDS, Grid, Kind, date_of
from oat_tide.core.series.panel import Panel, Reach, Sight
from oat_tide.core.series.reading import Reading
from oat_tide.core.series.tie_out import TieOut
from oat_tide.core.user_error import Progress, UserError, no_progress
from oat_tide.core.working.tree import Ref, SalesLines, Working
from oat_tide.decks import Decks
from oat_tide.intake.meaning import rhythm
from oat_tide.intake.origins import passwords
from oat_tide.intake.source import Source
from oat_tide.loading import Loaded, columns_of
from oat_tide.plan.edits import Edit, insert
from oat_tide.plan.kept import KeptData, head_of
from oat_tide.plan.log import Entry, Recorder
from oat_tide.plan.parts.evened import Ruled
from oat_tide.plan.parts.intake import Intake
from oat_tide.plan.parts.periods import Periods
from oat_tide.plan.parts.project import Name
from oat_tide.plan.parts.sources import Sources
from oat_tide.plan.paths import FieldSteps, P, steps
from oat_tide.plan.plan import Plan
from oat_tide.plan.undo import Undo
from oat_tide.plan_state import PlanState, plan_state_of, tied
from oat_tide.stages import ON_RAIL, STAGES
from oat_tide.stages.answers import Inline
from oat_tide.stages.deck import Deck, Figure, LateAnswers, Listing
from oat_tide.stages.project.suited import suited

_ALWAYS_SHOWN = (steps(P.periods.kind), steps(P.periods.block))


class Session:
    """One plan with its data.

    Attributes:
        history: the plan with its undone and redone steps.
        recorder: notes them for the log of the plan.
        loaded: what has been read for it.
        kept: large data of the plan and of its undone past, as Parquet, by id.
        every: whether the decks hold every series rather than the one that the plan points at.
    """

    def __init__(
        self, source: Source | None, plan: Plan, late: LateAnswers | None = None, every: bool = False
    ) -> None:
        self.history, self.every = Undo(plan), every
        self.recorder = Recorder(self.history)
        self.recorder.clean = without_secrets
        self.loaded = Loaded(source, plan)
        self.kept: dict[str, bytes] = {}
        self._known_kept: dict[str, KeptData] = {}
        self._decks = Decks(late or Inline())
        self._stands: PlanState | None = None

    @property
    def plan(self) -> Plan:
        """The plan as it is now."""
        return self.history.now

    @property
    def late(self) -> LateAnswers:
        """How work that takes long is done."""
        return self._decks.late

    @late.setter
    def late(self, late: LateAnswers) -> None:
        self._decks.late = late

    def begin(self, plan: Plan) -> None:
        """Start from a plan, with nothing to take back."""
        self.go_on(Undo(plan))

    def go_on(self, history: Undo, log: Sequence[Entry] = (), new: Sequence[Entry] = ()) -> None:
        """Start from a plan with the steps that led to it, and their log; the new ones are not saved."""
        self.history, self.recorder = history, Recorder(history, log, new)
        self.recorder.clean = without_secrets

    @property
    def log(self) -> tuple[Entry, ...]:
        """What was done, the latest last."""
        return self.recorder.look(self.history)

    def do(self, edit: Edit) -> None:
        """Make a change. Raises UserError when the value does not fit."""
        self.history = self.history.do(edit)

    def undo(self) -> None:
        """Take the last step back."""
        self.history = self.history.undo()

    def redo(self) -> None:
        """Make the step that was last undone."""
        self.history = self.history.redo()

    @staticmethod
    def stage_of(path: FieldSteps) -> str:
        """The stage on the rail that a field of the plan is shown in; empty for what every stage shows."""
        if path in _ALWAYS_SHOWN:
            return ""
        part = path[0] if path else ""
        # A stage may look at the part of another; its own name comes first.
        if part in ON_RAIL:
            return str(part)
        return next((name for name in ON_RAIL if part in STAGES[name].parts), "")

    def write(self, rows: Sequence[tuple[Ref, Sequence[str]]]) -> None:
        """Write figures into cells, a row of them from each address on: one step of undo, all or none.

        Args:
            rows: where each begins and what is written; a single empty text takes back what was, among
                several it is passed by.

        Raises:
            UserError: one of them cannot be used; nothing was written.
        """
        before, several = self.history, sum(len(texts) for _, texts in rows) > 1
        # The decks are those that the figures were written on, whatever was written in rows before.
        decks = [self.deck(at.stage, at.reach) for at, _ in rows]
        try:
            for deck, (at, texts) in zip(decks, rows, strict=True):
                own = dict(enumerate(map(str.strip, texts), at.column))
                cells = {column: text for column, text in own.items() if text or not several}
                if cells:
                    mended = _mended(deck, deck.figures[at.figure], self.plan, at.series, cells)
                    self.do(msgspec.structs.replace(mended, gesture="write"))
        except UserError:
            self.history = before
            raise
        self.rest()

    def noted(self, first: int, last: int, text: str) -> Edit:
        """The edit that notes something on a stretch of periods of the series in sight."""
        days = date_of(self.grid.first_day(first)), date_of(self.grid.last_day(last))
        rulings = self.plan.evened.rulings
        return insert(P.evened.rulings[len(rulings)], Ruled(self.plan.where, *days, "note", note=text[:500]))

    def keep(self, name: str, data: bytes, method: str = "") -> Edit:
        """Have data belong to the plan. The edit adds their head; undone, they are not saved.

        Args:
            data: as Parquet.
            method: how they were made, in words.
        """
        made = dt.datetime.now(dt.UTC).replace(microsecond=0)
        plan = self.plan
        head = head_of(name, data, self.kept, made=made, as_of=plan.as_of, method=method, where=plan.where)
        self.kept[head.id] = data
        return insert(P.kept[len(plan.kept)], head)

    def rest(self) -> None:
        """End the gesture: what follows is a step of its own."""
        self.history = self.history.rested()

    @property
    def ready(self) -> bool:
        """Whether the decks of the present plan can be made without reading anything anew."""
        return self.loaded.ready(self.plan)

    def prepare(self, progress: Progress = no_progress) -> None:
        """Read and total what the plan needs; may be called from another thread.

        Raises:
            UserError: the source cannot be read with the columns chosen.
            Stopped: by way of `tell`.
        """
        self.loaded.prepare(self.plan, progress)
        if not self.every:
            self._look_ahead()

    def _look_ahead(self) -> None:
        """Reckon what looks at every series before the window asks for it."""
        stands = self._standing()
        tied(stands.reading, stands.panel)
        for stage in STAGES.values():
            if stage.ahead is not None:
                stage.ahead(stands.reading, stands.leaves)

    def share(self, other: Session) -> None:
        """Know what another session has read, so that it need not be read again."""
        self.loaded.take_in(other.loaded)
        self.kept |= other.kept

    @property
    def source(self) -> Source:
        """The lines as they were read."""
        return self.loaded.source(self.plan)

    def _standing(self) -> PlanState:
        plan = self.plan
        if self._stands is None or self._stands.plan is not plan:
            if not self.ready:
                self.prepare()
            self._stands = plan_state_of(plan, *self.loaded.found(plan), self.every, self._kept_data())
        return self._stands

    def _kept_data(self) -> tuple[KeptData, ...]:
        """The large data of the plan; each is the same thing for as long as it belongs to it."""
        heads = [head for head in self.plan.kept if head.id in self.kept]
        for head in heads:
            columns = partial(columns_of, head.name, self.kept[head.id])
            self._known_kept.setdefault(head.id, KeptData(head, columns))
        return tuple(self._known_kept[head.id] for head in heads)

    @property
    def reading(self) -> Reading:
        """What was made of the source."""
        return self._standing().reading

    @property
    def panel(self) -> Panel:
        """Every series by period."""
        return self._standing().panel

    @property
    def grid(self) -> Grid:
        """The periods in use: those of the plan, or the nearest that the source can be totalled by."""
        return self.panel.grid

    def kinds(self) -> dict[Kind, str]:
        """Every kind of period with the reason why it cannot be used; empty when it can."""
        own = self.reading.kind
        return {
            kind: ""
            if kind in rhythm.ALLOWED[own]
            else phrase(
                "The source has one row per {own}: it cannot be totalled by {kind}.", own=own, kind=noun(kind)
            )
            for kind in KINDS
        }

    @property
    def home(self) -> int:
        """The period that the as-of stands on when it is not moved: the last complete one."""
        return self._standing().home

    @property
    def as_of(self) -> int:
        """The period that the as-of stands on."""
        return self._standing().as_of

    @property
    def moved_back(self) -> bool:
        """Whether the as-of has been moved back from home."""
        return self.as_of < self.home

    def as_of_at(self, period: int) -> dt.date | None:
        """The value of the plan that puts the as-of on a period; None at home."""
        period = max(period, self.panel.first)
        return None if period >= self.home else date_of(self.grid.last_day(period))

    def sight(self) -> Sight:
        """What the stages see."""
        return self._standing().sight

    def deck(self, name: str, reach: Reach = "") -> Deck:
        """The deck of a stage; made again only when what it rests on has changed.

        Args:
            reach: the series that it holds; empty for the one in sight.
        """
        return self._decks.deck(self._standing(), name, reach)

    def shown(self, name: str) -> Deck:
        """What a stage on the rail shows: its own deck, or that of the stage which is its arrangement."""
        return self._decks.shown(self._standing(), name)

    def after(self, *changes: Edit) -> Session:
        """Another session, as edits would make this one: at another as-of, say, or by another method."""
        history = self.history
        for change in changes:
            history = history.do(change)
        return self._of(history.now)

    def tried(self, change: Edit, name: str) -> Deck:
        """The deck of a stage as an edit would make it; the plan stays as it is."""
        return self.after(change).shown(name)

    def as_it_stands(self) -> Session:
        """Another session of the plan as it is now, whatever is done in this one later."""
        return self._of(self.plan)

    def _of(self, plan: Plan) -> Session:
        other = Session(None, plan, self.late, self.every)
        other.share(self)
        other._decks = self._decks.another()
        return other

    @property
    def tie(self) -> TieOut:
        """How the source and the series tie."""
        return self._standing().tie

    def figure(self, ref: Ref) -> Figure:
        """The figure that an address points at."""
        return self.deck(ref.stage, ref.reach).figures[ref.figure]

    def explain(self, ref: Ref) -> Working | None:
        """How a figure came about; None where there is none."""
        return self.figure(ref).explain(ref.series, max(ref.column, 0))

    def lines(self, found: SalesLines) -> Listing:
        """The sales lines behind a figure; what they add up to ties to it."""
        read, files = self._standing().sales, [file.name for file in self.source.files]
        return lines_behind(read, self.grid, files, found)


def _mended(deck: Deck, figure: Figure, plan: Plan, series: int, texts: dict[int, str]) -> Edit:
    """The edit of texts written into cells of a row. Raises UserError where one cannot be."""
    read = {}
    for column, text in texts.items():
        there = column < figure.values.shape[1]
        try:
            if figure.mend is None or not there:
                raise UserError("there is no cell to write in. Choose another.")
            read[column] = figure.mend.read(series, column, text)
        except UserError as error:
            where = f", {deck.label_on(figure.axis, column)}" if there else ""
            raise UserError(
                "{label}{where}: {error} Nothing was written.",
                label=figure.label,
                where=where,
                error=error,
            ) from error
    assert figure.mend is not None, "it was just asked"
    try:
        return figure.mend.put(plan, series, read)
    except UserError as error:
        raise UserError("{label}: {error} Nothing was written.", label=figure.label, error=error) from error


def without_secrets(plan: Plan) -> Plan:
    """A plan as it may be written down: addresses of servers stay, and no password or token."""
    if not any(map(passwords.is_address, plan.sources.places)):
        return plan
    places = tuple(map(passwords.without_secrets, plan.sources.places))
    return msgspec.structs.replace(plan, sources=msgspec.structs.replace(plan.sources, places=places))


_NO_SOURCES = Sources()


def opened(
    source: Source, sources: Sources = _NO_SOURCES, progress: Progress = no_progress, title: str = ""
) -> Session:
    """A session on a source just read, with the roles and periods that its content speaks for.

    Args:
        sources: where the source was read from.

    Raises:
        UserError: no dates or no numbers are in it.
    """
    from oat_tide.intake.meaning import roles
    from oat_tide.intake.totals.copies import copies

    # They are looked for while the roles are.
    copies(source.table)
    named = title or source.name.rpartition(".")[0] or source.name
    return totalled(source, sources, roles.guess(source), progress, title=shortened(named))


def totalled(
    source: Source,
    sources: Sources,
    ask: Intake,
    progress: Progress = no_progress,
    *,
    title: str = "",
    every: bool = False,
    period: Kind | None = None,
    week_start: int | None = None,
    year_start: int | None = None,
) -> Session:
    """A session on a source with roles, totalled by the periods asked for, else those its lines speak for.

    Raises:
        UserError: no line can be used.
    """
    first = Plan(title=title or Plan().title, sources=sources, intake=ask)
    session = Session(source, first, every=every)
    session.loaded.forget_sample(first)
    session.prepare(progress)
    grid = session.reading.grid
    periods = Periods(
        period or grid.kind,
        grid.week_start if week_start is None else week_start,
        grid.year_start if year_start is None else year_start,
    )
    session.begin(msgspec.structs.replace(first, periods=periods))
    session.prepare(progress)
    project = msgspec.structs.replace(first.project, method=_suited(session))
    session.begin(msgspec.structs.replace(session.plan, project=project))
    return session


def _suited(session: Session) -> Name:
    """The method that the total of all series starts with, by what is whole up to the as-of."""
    every = session.panel.total((None,) * len(session.reading.dimensions))
    return suited(every.cut(0, session.home - every.first + 1))


_LONGEST_TITLE = 200


def shortened(title: str) -> str:
    """A title that a plan can have."""
    return title if len(title) <= _LONGEST_TITLE else title[: _LONGEST_TITLE - 1] + "…"
