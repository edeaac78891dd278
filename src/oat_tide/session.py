"""Plan, data and stages together: what the window, the command line and publishing talk to."""

from __future__ import annotations

import functools
from collections.abc import Callable, Hashable
from dataclasses import dataclass
from typing import Any

import msgspec

from oat_tide.core.calendar import KINDS, Grid, Kind, date_of, day_number, expected_weekdays, last_complete
from oat_tide.core.numerals import trimmed
from oat_tide.core.panel import Panel, Sight, sight
from oat_tide.core.reading import Reading
from oat_tide.core.trouble import Tell, unheard
from oat_tide.core.working import Lines, Ref, Working
from oat_tide.intake import database, evened, origins, rhythm, sales
from oat_tide.intake.source import FILE, ROW, Source
from oat_tide.plan.edits import Edit, Undo
from oat_tide.plan.plan import Plan, Sources
from oat_tide.stages import READING, STAGES
from oat_tide.stages.deck import Deck, Figure, Listing

Late = Callable[..., Any]
"""(function, *arguments) -> its answer, or None while it is not known yet."""


def at_once(function: Callable[..., Any], *args: Any) -> Any:
    """Late work done on the spot: in tests, on the command line, for publishing."""
    return function(*args)


@dataclass(frozen=True, eq=False, slots=True)
class Standing:
    """What the plan at hand stands on, reckoned once for each plan.

    Attributes:
        plan: the plan.
        sales, panel: the lines understood, and every series by period.
        home, as_of: the last complete period, and the one that the as-of stands on.
        sight: what the stages see.
        decks: those that have been asked for.
    """

    plan: Plan
    sales: sales.Sales
    panel: Panel
    home: int
    as_of: int
    sight: Sight
    decks: dict[str, Deck]


class Session:
    """One plan with its data.

    Attributes:
        history: the plan with its undone and redone steps.
        late: how work that takes long is done.
        every: whether the decks hold every series rather than the one that the plan points at.
    """

    def __init__(self, source: Source, plan: Plan, late: Late = at_once, every: bool = False) -> None:
        self.history, self.late, self.every = Undo(plan), late, every
        self._sources: dict[Hashable, Source] = {plan.sources: source, _asked_of(plan): source}
        self._sales: dict[Hashable, sales.Sales] = {}
        self._panels: dict[Hashable, Panel] = {}
        self._decks: dict[str, tuple[Any, Deck]] = {}
        self._stands: Standing | None = None

    @property
    def plan(self) -> Plan:
        """The plan as it is now."""
        return self.history.now

    def do(self, edit: Edit) -> None:
        """Make a change. Raises Trouble when the value does not fit."""
        self.history = self.history.do(edit)

    def undo(self) -> None:
        """Take the last step back."""
        self.history = self.history.undo()

    def redo(self) -> None:
        """Make the step that was last undone."""
        self.history = self.history.redo()

    def rest(self) -> None:
        """End the gesture: what follows is a step of its own."""
        self.history = self.history.rested()

    @property
    def ready(self) -> bool:
        """Whether the decks of the present plan can be made without reading anything anew."""
        plan = self.plan
        read = self._sales.get(_lines_of(plan))
        return read is not None and (_lines_of(plan), self._grid(read)) in self._panels

    def prepare(self, tell: Tell = unheard) -> None:
        """Read and total what the plan needs; may be called from another thread.

        Raises:
            Trouble: the source cannot be read with the columns chosen.
            Stopped: by way of `tell`.
        """
        plan, lines = self.plan, _lines_of(self.plan)
        read = self._sales.get(lines)
        if read is None:
            source = self._source(plan, lambda share: tell(0.7 * share))
            read = sales.read(
                source, plan.intake, lambda share: tell(0.7 + 0.3 * share), plan.periods.year_start
            )
        grid = self._grid(read)
        panel = self._panels.get((lines, grid)) or evened.panel(read, grid)
        self._sales[lines], self._panels[lines, grid] = read, panel

    def _source(self, plan: Plan, tell: Tell) -> Source:
        """What the plan's sources hold, read where that has not been done."""
        asked = _asked_of(plan)
        if asked not in self._sources:
            if plan.sources not in self._sources:
                self._sources[plan.sources] = origins.fetch(plan.sources, tell)
            source = self._sources[plan.sources]
            if asked != plan.sources:
                source = database.totals(plan.sources.places[0], source, plan.sources, plan.intake, tell)
            self._sources[asked] = source
        return self._sources[asked]

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
        read = self._sales[_lines_of(plan)]
        panel = self._panels[_lines_of(plan), self._grid(read)]

        def whole(day: int) -> int:
            return last_complete(panel.grid, day, expected_weekdays(read.reading.selling, day))

        home = whole(read.reading.upto)
        asked = home if plan.as_of is None else min(whole(day_number(plan.as_of)), home)
        as_of = max(asked, min(panel.first, home))
        where = None if self.every else plan.key(read.reading.dimensions)
        self._stands = Standing(plan, read, panel, home, as_of, sight(panel, where, as_of, home), {})
        return self._stands

    def _grid(self, read: sales.Sales) -> Grid:
        asked = self.plan.periods
        allowed = rhythm.ALLOWED[read.reading.kind]
        return Grid(asked.kind if asked.kind in allowed else allowed[0], asked.week_start, asked.year_start)

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

    def as_of_at(self, period: int) -> Any:
        """The value of the plan that puts the as-of on a period; None at home."""
        period = max(period, self.panel.first)
        return None if period >= self.home else date_of(self.grid.last_day(period))

    def sight(self) -> Sight:
        """What the stages see."""
        return self._standing().sight

    def deck(self, name: str) -> Deck:
        """The deck of a stage; made again only when what it rests on has changed."""
        stands = self._standing()
        if name in stands.decks:
            return stands.decks[name]
        stage = STAGES[name]
        needs = tuple(self.reading if need == READING else self.deck(need) for need in stage.needs)
        rests_on = (stands.sight, getattr(stands.plan, name, None), needs)
        kept = self._decks.get(name)
        deck = kept[1] if kept and kept[0] == rests_on else stage.make(*rests_on, self.late)
        if not deck.waits:
            self._decks[name] = rests_on, deck
            stands.decks[name] = deck
        return deck

    def figure(self, ref: Ref) -> Figure:
        """The figure that an address points at."""
        return self.deck(ref.stage).figures[ref.figure]

    def explain(self, ref: Ref) -> Working | None:
        """How a figure came about; None where there is none."""
        return self.figure(ref).explain(ref.series, max(ref.column, 0))

    def lines(self, found: Lines) -> Listing:
        """The sales lines behind a figure."""
        read = self._standing().sales
        frame = sales.lines_of(read, self.grid, found.key, found.period)
        names, files = read.keys, [file.name for file in self.source.files]
        several = len(files) > 1
        total = trimmed(float((frame["value"] * read.scale).round().sum()) / read.scale, 6)

        def fetch(start: int, stop: int) -> list[tuple[str, ...]]:
            return [
                (
                    *([files[file]] if several else []),
                    f"{row:,}",
                    f"{day:%Y-%m-%d}",
                    *(str(name) for name in names[key]),
                    trimmed(value, 6),
                )
                for file, row, day, key, value in frame.select(FILE, ROW, "day", "key", "value")[
                    start:stop
                ].rows()
            ]

        columns = (*(["file"] if several else []), "row", "date", *read.reading.dimensions, read.reading.unit)
        return Listing(f"Lines of {self.grid.label(found.period)}", columns, frame.height, fetch, total)


@functools.lru_cache(64)
def _is_database(sources: Sources) -> bool:
    return len(sources.places) == 1 and not sources.typed and origins.is_database(sources.places[0])


def _asked_of(plan: Plan) -> Hashable:
    """What decides which lines are read: for a database also the roles, for it adds them up itself."""
    if _is_database(plan.sources):
        ask = plan.intake
        return plan.sources, ask.date, ask.value, ask.times, ask.scenario, ask.by, ask.also, ask.levels
    return plan.sources


def _lines_of(plan: Plan) -> Hashable:
    """What decides how lines are understood."""
    return plan.sources, plan.intake, plan.periods.year_start if plan.intake.running else 1


def opened(source: Source, sources: Sources = Sources(), tell: Tell = unheard, title: str = "") -> Session:  # noqa: B008
    """A session on a source just read, with the roles and periods that its content speaks for.

    Args:
        sources: where the source was read from.

    Raises:
        Trouble: no dates or no numbers are in it.
    """
    from oat_tide.intake import recognise
    from oat_tide.plan.plan import Periods

    ask = recognise.guess(source)
    named = title or source.name.rpartition(".")[0] or source.name
    first = Plan(title=named, sources=sources, intake=ask)
    session = Session(source, first)
    if _asked_of(first) != sources:
        # What a database gave so far is a sample.
        del session._sources[_asked_of(first)]
    session.prepare(tell)
    grid = session.reading.grid
    periods = Periods(grid.kind, grid.week_start, grid.year_start)
    session.history = Undo(msgspec.structs.replace(first, periods=periods))
    session.prepare(tell)
    return session
