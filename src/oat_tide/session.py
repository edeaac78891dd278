"""Plan, data and stages together: what the window, the command line and publishing talk to."""

from __future__ import annotations

import datetime as dt
import functools
from collections.abc import Hashable, Sequence
from dataclasses import dataclass, replace
from typing import Any, cast
from weakref import WeakKeyDictionary

import msgspec

from oat_tide.behind import lines_behind
from oat_tide.core.periods.calendar import (
    FIRST_DAY,
    KINDS,
    LAST_DAY,
    Closed,
    Grid,
    Kind,
    date_of,
    day_number,
    last_complete,
    wholeness,
)
from oat_tide.core.series.coded import Key
from oat_tide.core.series.panel import Panel, Reach, Sight, fits_key, narrowed, sight
from oat_tide.core.series.reading import Reading
from oat_tide.core.series.rulings import Ruling, ruled
from oat_tide.core.series.tie_out import TieOut, tie_out
from oat_tide.core.trouble import Tell, Trouble, unheard
from oat_tide.core.working.tree import Lines, Ref, Working
from oat_tide.intake.meaning import rhythm
from oat_tide.intake.origins import trust, vault
from oat_tide.intake.origins.places import fetch, is_database
from oat_tide.intake.pace import memory
from oat_tide.intake.source import Source
from oat_tide.intake.totals import evened, sales
from oat_tide.latest import Latest
from oat_tide.plan.edits import Edit, insert
from oat_tide.plan.kept import head_of
from oat_tide.plan.log import Entry, Recorder
from oat_tide.plan.parts.evened import Ruled
from oat_tide.plan.parts.intake import Intake
from oat_tide.plan.parts.part import Part
from oat_tide.plan.parts.periods import Periods
from oat_tide.plan.parts.project import Name
from oat_tide.plan.parts.sources import Sources
from oat_tide.plan.paths import P, Steps, steps
from oat_tide.plan.plan import Plan
from oat_tide.plan.undo import Undo
from oat_tide.stages import ON_RAIL, STAGES, Stage
from oat_tide.stages.answers import Asking, AtOnce
from oat_tide.stages.deck import Answers, Deck, Figure, Listing
from oat_tide.stages.needs import LEAVES, READING, TIE, Need, needs_of
from oat_tide.stages.project.suited import suited

_MOST_SALES, _MOST_PANELS = 3, 8
"""What is kept of plans as they were, so that undo is quick; the sources stay, for they may have changed."""
_ALWAYS_SHOWN = (steps(P.periods.kind), steps(P.periods.block))
Given = Deck | Reading | TieOut | Panel | Part | None
"""What a stage can be given of what it needs."""


@dataclass(frozen=True, eq=False, slots=True)
class Standing:
    """What the plan at hand stands on, reckoned once for each plan.

    Attributes:
        plan: the plan.
        sales: the lines understood.
        panel: every series by period.
        home: the last complete period.
        as_of: the period that the as-of stands on.
        sight: what the stages see.
        decks: those that have been asked for, by stage and reach.
    """

    plan: Plan
    sales: sales.Sales
    panel: Panel
    home: int
    as_of: int
    sight: Sight
    decks: dict[tuple[str, Reach], Deck]


@dataclass(frozen=True, eq=False, slots=True)
class _Made:
    """A deck that was made.

    Attributes:
        rests_on: what it was made of.
        deck: the deck.
        arrivals: how many late answers there were then.
    """

    rests_on: tuple[Sight, Any, tuple[Given, ...]]
    deck: Deck
    arrivals: int


class Session:
    """One plan with its data.

    Attributes:
        history: the plan with its undone and redone steps.
        recorder: notes them for the log of the plan.
        late: how work that takes long is done.
        kept: large data of the plan and of its undone past, as Parquet, by id.
        every: whether the decks hold every series rather than the one that the plan points at.
    """

    def __init__(
        self, source: Source | None, plan: Plan, late: Answers | None = None, every: bool = False
    ) -> None:
        self.history, self.every = Undo(plan), every
        self.recorder = Recorder(self.history)
        self.recorder.clean = without_secrets
        self.late: Answers = late or AtOnce()
        self._sources: dict[Hashable, Source] = {}
        if source is not None:
            self._sources = {plan.sources: source, _asked_of(plan): source}
        self._sales = Latest[sales.Sales](_MOST_SALES)
        self._panels = Latest[Panel](_MOST_PANELS)
        self.kept: dict[str, bytes] = {}
        self._decks: dict[tuple[str, Reach], _Made] = {}
        self._stands: Standing | None = None

    @property
    def plan(self) -> Plan:
        """The plan as it is now."""
        return self.history.now

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
        """Make a change. Raises Trouble when the value does not fit."""
        self.history = self.history.do(edit)

    def undo(self) -> None:
        """Take the last step back."""
        self.history = self.history.undo()

    def redo(self) -> None:
        """Make the step that was last undone."""
        self.history = self.history.redo()

    @staticmethod
    def stage_of(path: Steps) -> str:
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
            Trouble: one of them cannot be used; nothing was written.
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
        except Trouble:
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
        plan = self.plan
        read = self._understood(plan)
        return read is not None and self._even(read) in self._panels

    def _understood(self, plan: Plan) -> sales.Sales | None:
        """The lines as the plan has them read; None where they are not."""
        read = self._sales.get(_lines_of(plan))
        return read if read is not None and read.year_start in (0, plan.periods.year_start) else None

    def prepare(self, tell: Tell = unheard) -> None:
        """Read and total what the plan needs; may be called from another thread.

        Raises:
            Trouble: the source cannot be read with the columns chosen.
            Stopped: by way of `tell`.
        """
        plan, lines = self.plan, _lines_of(self.plan)
        read = self._understood(plan)
        if read is None:
            source = self._source(plan, lambda share: tell(0.7 * share))
            read = sales.read(
                source, plan.intake, lambda share: tell(0.7 + 0.3 * share), plan.periods.year_start
            )
            memory.give_back()
        even = self._even(read)
        panel = self._panels.get(even) or evened.panel(read, even[1], even[2])
        tell(0.9)
        self._sales[lines], self._panels[even] = read, panel
        if not self.every:
            self._look_ahead(read, panel)

    def _look_ahead(self, read: sales.Sales, panel: Panel) -> None:
        """Reckon what looks at every series before the window asks for it."""
        _tied(read.reading, panel)
        leaves = ruled(panel, self._rulings(read))
        for stage in STAGES.values():
            if stage.ahead is not None:
                stage.ahead(read.reading, leaves)
        self._standing()

    def _even(self, read: sales.Sales) -> tuple[Hashable, Grid, evened.Evening]:
        """What decides how the lines are made into even periods."""
        plan = self.plan
        asked, rulings = plan.evened, self._rulings(read)
        closed = frozenset(
            day for each in rulings if each.act == "closed" for day in range(each.first, each.last + 1)
        )
        evening = evened.Evening(
            asked.gaps,
            day_number(asked.final_to) if asked.final_to else None,
            closed,
            tuple(each for each in rulings if each.act in evened.ON_LINES),
        )
        return read.stamp, self._grid(read), evening

    def _rulings(self, read: sales.Sales) -> tuple[Ruling, ...]:
        """The rulings of the plan for the series there are."""
        return _as_rulings(self.plan.evened.rulings, read.reading.dimensions)

    def _source(self, plan: Plan, tell: Tell) -> Source:
        """What the plan's sources hold, read where that has not been done."""
        asked = _asked_of(plan)
        if asked not in self._sources:
            if plan.sources not in self._sources:
                self._sources[plan.sources] = fetch(plan.sources, tell)
            source = self._sources[plan.sources]
            if asked != plan.sources:
                from oat_tide.intake.origins import database

                source = database.totals(plan.sources.places[0], source, plan.sources, plan.intake, tell)
            self._sources[asked] = source
        return self._sources[asked]

    def share(self, other: Session) -> None:
        """Know what another session has read, so that it need not be read again."""
        self._sources |= other._sources
        self._sales.take_in(other._sales)
        self._panels.take_in(other._panels)
        self.kept |= other.kept

    @property
    def source(self) -> Source:
        """The lines as they were read."""
        return self._sources[_asked_of(self.plan)]

    def _standing(self) -> Standing:
        plan = self.plan
        if self._stands is not None and self._stands.plan is plan:
            return self._stands
        if not self.ready:
            self.prepare()
        read = self._understood(plan)
        assert read is not None, "it was just prepared"
        even = self._even(read)
        panel, closed = self._panels.get(even), even[2].closed
        assert panel is not None, "it was just prepared"
        where = None if self.every else plan.key(read.reading.dimensions)
        taken_whole = _taken_whole(panel, self._rulings(read), where)
        home = _last_whole(panel.grid, read.reading, read.reading.upto, closed)
        while home + 1 in taken_whole:
            home += 1
        asked = home
        if plan.as_of is not None:
            # Beyond the lines nothing changes, and calendars end somewhere.
            last = max(read.reading.upto, panel.grid.last_day(home))
            day = min(max(day_number(plan.as_of), panel.grid.first_day(panel.first)), last)
            asked = _last_whole(panel.grid, read.reading, min(day, read.reading.upto), closed)
            while asked + 1 in taken_whole and panel.grid.last_day(asked + 1) <= day:
                asked += 1
            asked = min(asked, home)
        as_of = max(asked, min(panel.first, home))
        seen = self._seen(read, narrowed(panel, where), as_of, home)
        self._stands = Standing(plan, read, panel, home, as_of, seen, {})
        return self._stands

    def _grid(self, read: sales.Sales) -> Grid:
        asked = self.plan.periods
        allowed = rhythm.ALLOWED[read.reading.kind]
        return asked.grid().of(asked.kind if asked.kind in allowed else allowed[0])

    @property
    def reading(self) -> Reading:
        """What was made of the source."""
        return self._standing().sales.reading

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
            else f"The source has one row a {own}: it cannot be told by {kind}."
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
        stands, which = self._standing(), (name, reach)
        if which in stands.decks:
            return stands.decks[which]
        stage = STAGES[name]
        given = tuple(self._given(stands, need, reach) for need in needs_of(stage.needs))
        parts = tuple(getattr(stands.plan, part) for part in stage.parts)
        rests_on = (self._sight_of(stands, reach), parts or getattr(stands.plan, name, None), given)
        kept = self._decks.get(which)
        if (
            kept is None
            or kept.rests_on != rests_on
            or (kept.deck.waits and kept.arrivals != self.late.arrivals)
        ):
            kept = self._decks[which] = self._made(stage, rests_on)
        if not kept.deck.waits:
            stands.decks[which] = kept.deck
        return kept.deck

    def tried(self, change: Edit, name: str) -> Deck:
        """The deck of a stage as an edit would make it; the plan stays as it is."""
        return self._of(self.history.do(change).now).shown(name)

    def as_it_stands(self) -> Session:
        """Another session of the plan as it is now, whatever is done in this one later."""
        return self._of(self.plan)

    def _of(self, plan: Plan) -> Session:
        other = Session(None, plan, self.late, self.every)
        other.share(self)
        other._decks = dict(self._decks)
        return other

    def shown(self, name: str) -> Deck:
        """What a stage on the rail shows: its own deck, or that of the stage which is its arrangement."""
        chosen = getattr(getattr(self.plan, name, None), "arrangement", "")
        within = STAGES[chosen].within == name if chosen in STAGES else False
        return self.deck(chosen if within else name)

    def _made(self, stage: Stage, rests_on: tuple[Sight, Any, tuple[Given, ...]]) -> _Made:
        """The deck of a stage made, with what it asked for."""
        asking, arrivals = Asking(self.late), self.late.arrivals
        sight, ask, given = rests_on
        needs = stage.needs(*given) if stage.needs else None
        deck = stage.make(sight, ask, needs, asking)
        self.late.want(f"{stage.name} {sight.reach}", asking.questions)
        if asking.waits:
            deck = replace(deck, waits=True)
        return _Made(rests_on, deck, arrivals)

    def _sight_of(self, stands: Standing, reach: Reach) -> Sight:
        """What is seen of the series of a reach."""
        if not reach:
            return stands.sight
        where = stands.plan.key(stands.sales.reading.dimensions)
        panel = narrowed(stands.panel, where, reach)
        return self._seen(stands.sales, panel, stands.as_of, stands.home, reach)

    def _seen(self, read: sales.Sales, panel: Panel, as_of: int, home: int, reach: Reach = "") -> Sight:
        """What is seen of a panel as the plan has it ruled."""
        return sight(ruled(panel, self._rulings(read)), as_of, home, reach)

    def _given(self, stands: Standing, need: Need, own: Reach) -> Given:
        """What a stage needs, for the series that it is itself made for or a wider reach."""
        if not need.when(stands.plan):
            return None
        if need.part:
            return cast(Part, getattr(stands.plan, need.of))
        if need.of == READING:
            return stands.sales.reading
        if need.of == TIE:
            return _tied(stands.sales.reading, stands.panel)
        if need.of == LEAVES:
            return ruled(stands.panel, self._rulings(stands.sales))
        return self.deck(need.of, need.reach or own)

    @property
    def tie(self) -> TieOut:
        """How the source and the series tie."""
        return _tied(self.reading, self.panel)

    def figure(self, ref: Ref) -> Figure:
        """The figure that an address points at."""
        return self.deck(ref.stage, ref.reach).figures[ref.figure]

    def explain(self, ref: Ref) -> Working | None:
        """How a figure came about; None where there is none."""
        return self.figure(ref).explain(ref.series, max(ref.column, 0))

    def lines(self, found: Lines) -> Listing:
        """The sales lines behind a figure; what they add up to ties to it."""
        read, files = self._standing().sales, [file.name for file in self.source.files]
        return lines_behind(read, self.grid, files, found)


def _mended(deck: Deck, figure: Figure, plan: Plan, series: int, texts: dict[int, str]) -> Edit:
    """The edit of texts written into cells of a row. Raises Trouble where one cannot be."""
    read = {}
    for column, text in texts.items():
        there = column < figure.values.shape[1]
        try:
            if figure.mend is None or not there:
                raise Trouble("there is no cell to write in. Choose another.")
            read[column] = figure.mend.read(series, column, text)
        except Trouble as trouble:
            where = f", {deck.label_on(figure.axis, column)}" if there else ""
            raise Trouble(f"{figure.label}{where}: {trouble} Nothing was written.") from trouble
    assert figure.mend is not None, "it was just asked"
    try:
        return figure.mend.put(plan, series, read)
    except Trouble as trouble:
        raise Trouble(f"{figure.label}: {trouble} Nothing was written.") from trouble


_tied = functools.lru_cache(4)(tie_out)


def without_secrets(plan: Plan) -> Plan:
    """A plan as it may be written down: addresses of servers stay, and no password or token."""
    if not any(map(vault.is_address, plan.sources.places)):
        return plan
    places = tuple(map(vault.without_secrets, plan.sources.places))
    return msgspec.structs.replace(plan, sources=msgspec.structs.replace(plan.sources, places=places))


_WHOLE: WeakKeyDictionary[Reading, dict[tuple[Grid, int, Closed], int]] = WeakKeyDictionary()


def _last_whole(grid: Grid, reading: Reading, day: int, closed: Closed) -> int:
    """The last period that is complete on a day, as lines up to it tell."""
    known = _WHOLE.setdefault(reading, {})
    if (grid, day, closed) not in known:
        known[grid, day, closed] = last_complete(grid, day, wholeness(grid, reading.selling, day, closed))
    return known[grid, day, closed]


def _taken_whole(panel: Panel, rulings: tuple[Ruling, ...], where: Key | None) -> frozenset[int]:
    """The periods that were taken as complete, of the series in sight: they are so in every sense."""
    none = tuple(None for _ in panel.keys[0])
    found = set()
    for each in rulings:
        if each.act == "whole" and fits_key(where or none, each.key):
            first, last = panel.grid.period(each.first), panel.grid.period(each.last)
            stretch = range(max(first, panel.first), min(last, panel.first + panel.columns - 1) + 1)
            found |= {period for period in stretch if each.last >= panel.grid.last_day(period)}
    return frozenset(found)


@functools.lru_cache(64)
def _as_rulings(rulings: tuple[Ruled, ...], dimensions: tuple[str, ...]) -> tuple[Ruling, ...]:
    """The rulings of a plan by day numbers, for the series that these dimensions tell apart."""
    return tuple(
        Ruling(
            tuple(dict(each.where).get(name) for name in dimensions),
            min(max(day_number(each.first), FIRST_DAY), LAST_DAY),
            min(max(day_number(each.last), FIRST_DAY), LAST_DAY),
            each.act,
            each.value,
            each.note,
        )
        for each in rulings
    )


def _is_database(sources: Sources) -> bool:
    if len(sources.places) != 1 or sources.typed:
        return False
    place = sources.places[0]
    # What a plan alone has named is not looked into.
    return vault.is_address(place) or (trust.is_asked(place) and _looked_into(place))


_looked_into = functools.lru_cache(64)(is_database)


def _asked_of(plan: Plan) -> Hashable:
    """What decides which lines are read: for a database also the roles, for it adds them up itself."""
    if _is_database(plan.sources):
        ask = plan.intake
        return plan.sources, ask.date, ask.value, ask.times, ask.scenario, ask.by, ask.also, ask.levels
    return plan.sources


def _lines_of(plan: Plan) -> Hashable:
    """What decides how lines are understood."""
    return plan.sources, plan.intake


def opened(source: Source, sources: Sources = Sources(), tell: Tell = unheard, title: str = "") -> Session:  # noqa: B008
    """A session on a source just read, with the roles and periods that its content speaks for.

    Args:
        sources: where the source was read from.

    Raises:
        Trouble: no dates or no numbers are in it.
    """
    from oat_tide.intake.meaning import roles
    from oat_tide.intake.totals.copies import copies

    # They are looked for while the roles are.
    copies(source.table)
    named = title or source.name.rpartition(".")[0] or source.name
    return totalled(source, sources, roles.guess(source), tell, title=shortened(named))


def totalled(
    source: Source,
    sources: Sources,
    ask: Intake,
    tell: Tell = unheard,
    *,
    title: str = "",
    every: bool = False,
    period: Kind | None = None,
    week_start: int | None = None,
    year_start: int | None = None,
) -> Session:
    """A session on a source with roles, totalled by the periods asked for, else those its lines speak for.

    Raises:
        Trouble: no line can be used.
    """
    first = Plan(title=title or Plan().title, sources=sources, intake=ask)
    session = Session(source, first, every=every)
    if _asked_of(first) != sources:
        # What a database gave so far is a sample.
        del session._sources[_asked_of(first)]
    session.prepare(tell)
    grid = session.reading.grid
    periods = Periods(
        period or grid.kind,
        grid.week_start if week_start is None else week_start,
        grid.year_start if year_start is None else year_start,
    )
    session.begin(msgspec.structs.replace(first, periods=periods))
    session.prepare(tell)
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
