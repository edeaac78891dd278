"""Edits by chance over every part of the plan and every stage: refused in words, or taken back whole."""

from __future__ import annotations

import datetime as dt
import math
import random
import tempfile
import traceback
import typing
from collections import Counter
from collections.abc import Callable, Iterable, Iterator
from pathlib import Path
from types import UnionType
from typing import Any, Literal

import msgspec
import numpy as np

from oat_tide.core.user_error import UserError
from oat_tide.documents import open_document, save_document
from oat_tide.plan.edits import Edit, as_data, from_data
from oat_tide.plan.fields import bare, hints, item_type
from oat_tide.plan.log import MOST_STEPS
from oat_tide.plan.parts.part import Part
from oat_tide.plan.paths import FieldSteps, P, held, steps
from oat_tide.plan.plan import Plan
from oat_tide.session import Session
from oat_tide.stages import ON_RAIL
from oat_tide.stages.deck import Button, Cards, Choice, Control, Deck
from tests.fuzz.seeds import seeds
from tests.messages import judged

_A_SESSION = 200
"""Edits on one source before the next is opened."""
_UNTOUCHED = steps(P.sources), steps(P.kept)
"""What is read anew from places, or belongs to data that are kept beside the plan."""
_TEXTS = (
    "", " ", "0", "-1", "12", "1e9", "1e400", "nan", "inf", "−5", "1.234,5", "2024", "2024-02-30", "2025-H1",
    "2024-01..2024-06", "Oats = Bran", "day", "cases", "product", "x" * 600, "\0", "\u202e", "é", "<b>",
    "25 Dec", "Easter 14 days 8 %", "1, 2, 3",
)  # fmt: skip
_NUMBERS = 0, 1, -1, 2, 3, 7, 12, 53, 365, 4000, 10**9, -(10**9), 2**63
_FLOATS = 0.0, 1.0, -1.0, 0.01, 0.3, 0.99, 50.0, 95.0, 99.99, 1e-300, 1e300, math.nan, math.inf, -math.inf
_DATES = dt.date.min, dt.date.max, dt.date(2024, 2, 29), dt.date(2024, 6, 30), dt.date(2023, 12, 31)


class Walk:
    """A session on which edits are made by chance.

    Attributes:
        counts: edits by what became of them.
    """

    def __init__(self, session: Session, rng: random.Random, folder: Path) -> None:
        self.session, self.counts = session, Counter[str]()
        self._rng, self._folder = rng, folder
        # A plan that was saved before has steps of its own to take back.
        start = session.history
        while start.back:
            start = start.undo()
        self._first = start.now

    def step(self) -> str:
        """Make one edit, look at what it leads to, and now and then go back to the start and on again.

        Returns:
            the edit, for whoever wants to make it again.

        Raises:
            AssertionError, Exception: what should not have been.
        """
        change = self._chosen()
        self._made(change)
        if self._rng.random() < 0.03:
            self._back_and_on()
        if self._rng.random() < 0.02:
            self._saved()
        return repr(change)[:300]

    def _made(self, change: Edit) -> None:
        before = self.session.history
        try:
            # By way of plain data, as an edit that is kept or comes from elsewhere.
            self.session.do(from_data(as_data(change)) if self._rng.random() < 0.3 else change)
            self.session.prepare()
        except UserError as error:
            judged(str(error))
            self.session.history = before
            self.counts["refused"] += 1
            return
        self.counts["made" if self.session.plan is not before.now else "of no effect"] += 1
        self._looked_at(self.session.shown(self._rng.choice(list(ON_RAIL))))

    def _looked_at(self, deck: Deck) -> None:
        rng = self._rng
        for name in rng.sample(sorted(deck.figures), min(6, len(deck.figures))):
            figure = deck.figures[name]
            assert not (figure.shown and np.isinf(figure.values).any()), f"{name} is endless"
            for known in (True, False):
                cells = np.argwhere(np.isnan(figure.values) != known)
                if len(cells):
                    series, column = (int(each) for each in rng.choice(cells))
                    (figure.explain if known else figure.why_blank)(series, column)
        deck.sheet()
        for caution in deck.cautions(0):
            judged(caution.text)
        assert str(deck.title(0)).strip() and deck.finding(0) is not None
        assert self.session.tie.ties

    def _back_and_on(self) -> None:
        """Every step taken back leads to the plan at the start, and made again to the plan as it is."""
        session, now, steps_back = self.session, self.session.plan, 0
        while session.history.back:
            session.undo()
            steps_back += 1
        assert session.plan == self._first, "undo does not lead to the start"
        for _ in range(steps_back):
            session.redo()
        assert session.plan == now, "redo does not lead to where undo began"
        self.counts["steps back and on"] += steps_back

    def _saved(self) -> None:
        path = self._folder / "walk.oattide"
        try:
            save_document(self.session, "intake", path)
        except UserError as error:
            judged(str(error))
            raise AssertionError(f"a plan that cannot be saved: {error}") from error
        again = open_document(path).session
        assert again.plan == self.session.plan, "the plan changed when it was saved"
        np.testing.assert_array_equal(again.panel.values, self.session.panel.values)
        back = [step.plan for step in self.session.history.back][-MOST_STEPS:]
        assert [step.plan for step in again.history.back] == back, "undo is another after opening"
        self.counts["saved and opened"] += 1

    def _chosen(self) -> Edit:
        ways: list[Callable[[], Edit | None]] = [self._field, self._field, self._instance, self._on_deck]
        while True:
            try:
                change = self._rng.choice(ways)()
            except UserError as error:
                # A text that a control cannot understand.
                judged(str(error))
                self.counts["not understood"] += 1
                continue
            if change is not None and not any(change.path[: len(out)] == out for out in _UNTOUCHED):
                return change

    def _field(self) -> Edit:
        path, kind = self._rng.choice(list(fields_of(self.session.plan)))
        return Edit(path, self._value(kind))

    def _instance(self) -> Edit | None:
        """One of several added, taken out or moved."""
        several = [
            (path, kind)
            for path, kind in fields_of(self.session.plan)
            if typing.get_origin(bare(kind)[0]) is tuple
        ]
        path, kind = self._rng.choice(several)
        items = held(self.session.plan, path)
        act = self._rng.choice(("add", "remove", "move"))
        place = self._rng.randint(0, len(items) + 1)
        if act == "add":
            own = (
                self._rng.choice(items)
                if items and self._rng.random() < 0.5
                else self._value(item_type(kind))
            )
            return Edit((*path, place), own, act="add")
        return Edit((*path, place), self._rng.randint(0, len(items)) if act == "move" else None, act=act)  # type: ignore[arg-type]

    def _on_deck(self) -> Edit | None:
        """What a stage offers: a control, an act, an outcome, or a cell that can be written in."""
        rng = self._rng
        deck = self.session.shown(rng.choice(list(ON_RAIL)))
        items = list(_within_cards(deck.sheet()))
        edits = [each.edit for each in items if isinstance(each, Button)]
        edits += [own for each in items if isinstance(each, Choice) for _, own in each.outcomes]
        edits += [each.opens(rng.randrange(len(each.cards))) for each in items if _opens(each)]
        edits += [caution.way_out for caution in deck.cautions(0)]
        edits += [Edit(each.path, self._value(each.kind)) for each in items if isinstance(each, Control)]
        written = [own for each in items if isinstance(each, Choice) for own in each.entries]
        cells = [each for each in deck.figures.every() if each.mend is not None and each.values.size]
        way = rng.random()
        if written and way < 0.3:
            return rng.choice(written).edit(rng.choice(_TEXTS))
        if cells and way < 0.6:
            figure = rng.choice(cells)
            columns = {rng.randrange(figure.values.shape[1]) for _ in range(rng.choice((1, 1, 5)))}
            texts = {column: rng.choice(_TEXTS).strip() for column in columns}
            read = {column: figure.mend.read(0, column, text) for column, text in texts.items()}
            return figure.mend.put(self.session.plan, 0, read)
        return rng.choice(edits) if edits else None

    def _value(self, kind: Any) -> Any:
        """A value of a type, or one near it that is none."""
        rng = self._rng
        base, meta = bare(kind)
        origin = typing.get_origin(base)
        if rng.random() < 0.05:
            return rng.choice((*_TEXTS, *_NUMBERS, None, [], {}))
        if origin in (UnionType, typing.Union):
            return self._value(rng.choice(typing.get_args(base)))
        if origin is Literal:
            return rng.choice(typing.get_args(base))
        if origin is tuple:
            items = typing.get_args(base)
            if len(items) == 2 and items[1] is ...:
                return tuple(self._value(items[0]) for _ in range(rng.choice((0, 1, 1, 2, 5))))
            return tuple(self._value(each) for each in items)
        if isinstance(base, type) and issubclass(base, msgspec.Struct):
            return {name: self._value(own) for name, own in hints(base).items()}
        if base is bool:
            return rng.random() < 0.5
        if base in (int, float):
            low = next((each for each in (meta.ge, meta.gt) if each is not None), -10)
            high = next((each for each in (meta.le, meta.lt) if each is not None), 1000)
            near = rng.randint(int(low), min(int(high), int(low) + 40)) + (
                rng.random() if base is float else 0
            )
            return near if rng.random() < 0.8 else rng.choice(_FLOATS if base is float else _NUMBERS)
        if base is dt.date:
            grid = self.session.grid
            first = self.session.panel.first
            near = grid.last_day(rng.randint(first - 2, max(self.session.home, first) + 2))
            return dt.date(1970, 1, 1) + dt.timedelta(near) if rng.random() < 0.8 else rng.choice(_DATES)
        if base is str:
            members = [each for own in self.session.reading.members for each in own]
            return rng.choice(
                (*_TEXTS, *self.session.reading.dimensions, *members, *self.session.source.columns)
            )
        return None


def _within_cards(items: Iterable[Any]) -> Iterator[Any]:
    for item in items:
        yield item
        for card in getattr(item, "cards", ()):
            yield from _within_cards(card.items)
            yield from (act for _, act in card.acts)


def _opens(item: Any) -> bool:
    return isinstance(item, Cards) and item.opens is not None and bool(item.cards)


def fields_of(plan: Plan) -> Iterator[tuple[FieldSteps, Any]]:
    """The path and the type of every field of a plan, those of instances among them."""

    def within(thing: Any, path: FieldSteps) -> Iterator[tuple[FieldSteps, Any]]:
        for name, kind in hints(type(thing)).items():
            value, own = getattr(thing, name), (*path, name)
            if typing.get_origin(kind) is typing.ClassVar:
                continue
            if isinstance(value, Part):
                yield from within(value, own)
                continue
            yield own, kind
            for place, each in enumerate(value if isinstance(value, tuple) else ()):
                if isinstance(each, Part):
                    yield from within(each, (*own, place))

    return within(plan, ())


def walk(seed: int, count: int, folder: Path) -> tuple[Counter[str], list[str]]:
    """Make so many edits, on one honest file after another; what became of them, and what should not have."""
    rng, counts, faults = random.Random(seed), Counter[str](), list[str]()
    honest = [path for path in seeds(folder) if path.suffix != ".sqlite"]
    made = 0
    while made < count:
        path = rng.choice(honest)
        try:
            session = open_document(path).session
        except UserError:
            continue
        own = Walk(session, rng, folder)
        for _ in range(min(_A_SESSION, count - made)):
            made += 1
            try:
                own.step()
            except Exception as error:
                last = "".join(traceback.format_exception(error, limit=-5))
                faults.append(f"{path.name}, edit {made}: {last[-1800:]}")
                break
        counts += own.counts
    return counts, faults


def many(count: int, seed: int) -> int:
    """Make many edits; prints what became of them, returns the faults."""
    faults: list[str] = []
    counts = Counter[str]()
    each = 2000
    for own in range(0, count, each):
        with tempfile.TemporaryDirectory(prefix="oat-tide-walk-") as folder:
            found, wrong = walk(seed * 1000 + own, min(each, count - own), Path(folder))
        counts += found
        faults += wrong
        for fault in wrong:
            print(fault, flush=True)
        print(f"{own + each:,} edits: {dict(counts)}, {len(faults)} faults", flush=True)
    return len(faults)
