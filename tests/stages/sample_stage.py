"""A stage that there is only in the tests: it uses every contract between a stage and what shows it.

It is added as any other is: by its part of the plan, this file and one line (here in `with_sample`).
"""

from __future__ import annotations

import contextlib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from functools import partial
from typing import Annotated, ClassVar, Literal, cast
from unittest import mock

import numpy as np
from msgspec import Meta, structs

from oat_tide.core.periods.calendar import MONTHS, date_of
from oat_tide.core.series.panel import Panel, Sight
from oat_tide.core.user_error import Progress, UserError
from oat_tide.core.working.formula import either, given, mean, percent
from oat_tide.core.working.number_format import number_of
from oat_tide.core.working.terms import Columns, known
from oat_tide.plan.edits import Edit, edit, insert, remove
from oat_tide.plan.kept import KeptData
from oat_tide.plan.options import option
from oat_tide.plan.parts.part import Part
from oat_tide.plan.paths import P, steps
from oat_tide.plan.plan import Plan
from oat_tide.plan.schema import Head
from oat_tide.stages import ON_RAIL, STAGES, Stage
from oat_tide.stages.common import as_of_handle, named
from oat_tide.stages.deck import (
    Axis,
    Band,
    Boundary,
    Button,
    Card,
    Cards,
    Column,
    Curve,
    Deck,
    Fact,
    Handle,
    Inset,
    Item,
    LateWork,
    Listing,
    Note,
    RowAct,
    control,
    in_memory,
)
from oat_tide.stages.deck.called import NOT_WRITABLE, CellEdit
from oat_tide.stages.deck.draft import Draft, of
from oat_tide.stages.deck.listing import Row
from oat_tide.stages.lines import borrow_actual
from oat_tide.stages.needs import KEPT, need
from oat_tide.stages.published import Actuals, actuals_of
from oat_tide.stages.record import Record

NAME = "sample"
WINDOWS = (2, 3, 4, 6, 9, 12)
ROWS = 10_000
_WHERE_PLANS_BEGIN = ("session", "documents", "plan.paths")
LOCKED = 11
"""December: a place of the year that cannot be written in."""


class Trial(Part, frozen=True):
    """One of several smoothers."""

    window: Annotated[int, Meta(ge=2, le=12, title="Window")] = 3
    level: Annotated[float, Meta(gt=0, lt=1, title="Level", extra_json_schema={"step": 0.05})] = 0.3


class Own(Part, frozen=True):
    """A figure that was written over the one reckoned."""

    place: Annotated[int, Meta(ge=0, le=11)]
    value: float


class Sample(Part, frozen=True):
    """What the sample stage is asked."""

    COMMAND: ClassVar[str] = "Smooth every series of a source by the first trial."

    trials: Annotated[
        tuple[Trial, ...], Meta(title="Trials", max_length=6, extra_json_schema={"one": "Trial"})
    ] = (Trial(3), Trial(6), Trial(12))
    own: Annotated[tuple[Own, ...], Meta(title="Own figures")] = ()
    near: Annotated[
        int,
        Meta(
            ge=1,
            le=24,
            title="Near end",
            extra_json_schema=option("near", "where the near end is", "PERIODS"),
        ),
    ] = 3
    far: Annotated[int, Meta(ge=1, le=24, title="Far end")] = 12
    arrangement: Annotated[Literal["time", "season", "list", "parts"], Meta(title="View")] = "time"
    starred: Annotated[tuple[int, ...], Meta(title="Starred rows")] = ()


class SamplePlan(Plan, frozen=True):
    """A plan with the part of the sample stage."""

    sample: Sample = Sample()


S = cast(SamplePlan, P)


class SampleHead(Head, frozen=True, kw_only=True):
    """The head of a file of such a plan."""

    plan: SamplePlan


@dataclass(frozen=True, eq=False, slots=True)
class Needs:
    """What the stage stands on."""

    lines: Deck = need("lines")
    parts: Deck = need("lines", "children")
    all: Deck = need("lines", "every")
    kept: tuple[KeptData, ...] = need(KEPT)


def roughness(panel: Panel, window: int, progress: Progress) -> float:
    """The mean size of the changes of a rolling mean; takes its time."""
    import time

    end = time.monotonic() + 0.05
    while time.monotonic() < end:
        progress(0.5)
    values = panel.values[0][~np.isnan(panel.values[0])]
    smooth = np.convolve(values, np.full(window, 1 / window), "valid")
    return float(np.abs(np.diff(smooth)).mean())


def make(sight: Sight, ask: tuple[Sample], needs: Needs, late: LateWork) -> Deck:
    """The deck of the sample stage."""
    (sample,) = ask
    d = Draft(NAME, sight)
    borrow_actual(d, needs.lines)
    actuals = actuals_of(needs.lines)
    actual, unit = actuals.actual.seeing(sight.whole), actuals.unit
    for place, trial in enumerate(sample.trials):
        d.define(f"trial_{place}", f"Trial {place + 1}", mean(actual.over(1 - trial.window, 0)), unit=unit)
    d.define("change", "Change", actual - actual.shift(-1), unit=unit, signed=True, shown=False)
    first = of(needs.parts, "actual", rows=np.zeros(len(d.keys), np.int64))
    d.define("first_part", f"{named(needs.parts.keys[0])}, a part", first * 1, unit=unit, sees_later=True)
    d.define("series", "series in all", given(float(len(needs.all.keys)), "counted"))
    _season(d, sample, sight, actuals)
    _roughness(d, sight, late)
    return d.deck(
        bands=_bands(sample, unit),
        boundaries=(
            Boundary(sight.past.columns - 3, "projected as of", "projected as of here"),
            Boundary(sight.past.columns - 1, "actuals to", "actuals to here"),
        ),
        main=_list(sample, sight) if sample.arrangement == "list" else None,
        listings=(_list(sample, sight),) if sample.arrangement == "time" else (),
        sheet=lambda: _sheet(d, sample, needs.kept),
        handles=_handles(sight, sample),
        title=lambda series: f"Sample of {named(d.keys[series])}",
        subtitle=lambda series: unit,
        finding=lambda series: f"{len(sample.trials)} trials",
    )


@dataclass(frozen=True, eq=False, slots=True)
class PartsNeeds:
    """What the arrangement by parts stands on: the sample itself among them."""

    sample: Deck = need(NAME)
    parts: Deck = need("lines", "children")


def make_parts(sight: Sight, ask: tuple[Sample], needs: PartsNeeds, late: LateWork) -> Deck:
    """The parts of the series in sight as shares of the first trial: an arrangement that is a stage."""
    d = Draft("parts", sight)
    trial = of(needs.sample, "trial_0")
    for place, key in enumerate(needs.parts.keys):
        own = of(needs.parts, "actual", seen=None, rows=np.full(len(d.keys), place))
        d.define(f"part_{place}", named(key), percent(own, trial), unit="%", sees_later=True)
    return d.deck(
        bands=(Band("%", (Curve("part_0", "smoothed"),)),),
        sheet=lambda: (control(S.sample.arrangement, ask[0]),),
        title=lambda series: "By parts",
        subtitle=lambda series: "% of the first trial",
        finding=lambda series: f"{len(needs.parts.keys)} parts",
    )


def _season(d: Draft, sample: Sample, sight: Sight, actuals: Actuals) -> None:
    """The mean of each place of the year, unless a figure of the user's own is written over it."""
    months = (sight.past.first + np.arange(sight.past.columns)) % 12
    d.lay("season", Axis(MONTHS, tuple(name[0] for name in MONTHS), MONTHS))
    if sample.arrangement == "season":
        d.show_on("season")

    def find(columns: Columns) -> Columns:
        at = [np.flatnonzero(months == place) for place in columns]
        out = np.full((len(columns), max(map(len, at), default=0)), -1)
        for row, each in zip(out, at, strict=True):
            row[: len(each)] = each
        return out

    own = np.full((1, 12), np.nan)
    for each in sample.own:
        own[0, each.place] = each.value

    def read(series: int, column: int, text: str) -> float | None:
        if column == LOCKED:
            raise UserError(NOT_WRITABLE)
        value = number_of(text)
        if text and value is None:
            raise UserError(f"“{text}” is no number.")
        return value

    def put(plan: Plan, series: int, cells: Mapping[int, float | None]) -> Edit:
        left = tuple(each for each in plan.sample.own if each.place not in cells)  # type: ignore[attr-defined]
        new = (Own(place, value) for place, value in cells.items() if value is not None)
        return edit(S.sample.own, (*left, *new))

    d.define(
        "usual",
        "Usual",
        either(~np.isnan(own), given(own, "written here"), mean(known(actuals.actual.likes(find)))),
        unit=actuals.unit,
        axis="season",
        blank="No such month is known.",
        mend=CellEdit(read, put),
        state=lambda series, column: (
            "locked" if column == LOCKED else "own" if not np.isnan(own[0, column]) else ""
        ),
    )


def _roughness(d: Draft, sight: Sight, late: LateWork) -> None:
    """Six questions that are answered later, on an axis of their own."""
    d.lay("windows", Axis(*(tuple(map(str, WINDOWS)),) * 3))
    answers = [late(roughness, sight.past, window) for window in WINDOWS]
    values = np.array([[np.nan if each is None else each for each in answers]])
    d.define("roughness", "roughness", given(values, "reckoned late"), axis="windows", blank="still reckoned")


def _bands(sample: Sample, unit: str) -> tuple[Band, ...]:
    if sample.arrangement == "season":
        return (Band(unit, (Curve("usual", "average"),), kind="columns"),)
    trials = tuple(Curve(f"trial_{place}", "smoothed") for place in range(len(sample.trials)))
    above = Band(unit, (Curve("actual", "actual", label="actual"), *trials), height=2.0)
    return above, Band("change", (Curve("change", "fitted"),), "change", 1.0, "columns", zero_line=True)


def _handles(sight: Sight, sample: Sample) -> tuple[Handle, ...]:
    """The as-of, and two of one role."""
    last = sight.past.columns - 1
    end = partial(Handle, role="horizon", lo=last + 1, hi=last + 24, value=lambda column: column - last)
    if sample.arrangement != "time":
        return ()
    return (
        as_of_handle(sight),
        end(path=steps(S.sample.near), at=last + sample.near, says="near"),
        end(path=steps(S.sample.far), at=last + sample.far, says="far"),
    )


def _kept_said(kept: KeptData) -> str:
    """What was kept, and what it comes to."""
    try:
        total = float(kept.columns()["value"].sum())
    except UserError as error:
        return str(error)
    return f"kept: {kept.head.name}, {total:g}"


def _sheet(d: Draft, sample: Sample, kept: tuple[KeptData, ...]) -> tuple[Item, ...]:
    trials = enumerate(sample.trials)
    cards = tuple(Card(f"Trial {place + 1}", f"{each.window}", _trial(place, each)) for place, each in trials)
    more = insert(S.sample.trials[len(sample.trials)], Trial())
    full = len(sample.trials) >= 6
    return (
        control(S.sample.arrangement, sample),
        Cards("trials", cards),
        Button("Add a trial", None if full else more, "There are six." if full else ""),
        Inset("Roughness by window", "windows", (Curve("roughness", "actual"),), _pick),
        *(Note(_kept_said(each), "small") for each in kept),
        Fact("series"),
    )


def _pick(column: int) -> Edit:
    return edit(S.sample.trials[0].window, WINDOWS[column])


def _trial(place: int, trial: Trial) -> tuple[Item, ...]:
    where = S.sample.trials[place]
    return control(where.window, trial), control(where.level, trial), Button("Take it out", remove(where))


def _list(sample: Sample, sight: Sight) -> Listing:
    """Ten thousand rows of every kind of column; a row can be starred."""
    columns = (
        Column("name"),
        Column("state", choices=("calm", "rough")),
        Column("lines", "count"),
        Column("size", "number", "cases", decimals=1),
        Column("share", "share"),
        Column("since", "date"),
        Column("course", "chart"),
    )
    rows: list[Row] = [
        (
            f"Row {place:05}{' ★' if place in sample.starred else ''}",
            "rough" if place % 3 else "calm",
            (place * 7919) % ROWS,
            float("nan") if place % 100 == 7 else (place * 31 % 997) / 10,
            place / ROWS * 100,
            date_of(18000 + place % 400),
            tuple(float((place + each) % 5) for each in range(8)),
        )
        for place in range(ROWS)
    ]

    def star(row: int) -> Edit | None:
        return None if row in sample.starred else edit(S.sample.starred, (*sample.starred, row))

    return in_memory("Rows of the sample", columns, rows, tab="Rows", acts=(RowAct("Star it", star),))


def sample_plan(plan: Plan) -> SamplePlan:
    """A plan with the part of the sample stage."""
    return SamplePlan(**structs.asdict(plan))


@contextlib.contextmanager
def with_sample() -> Iterator[None]:
    """The sample stage among the others."""
    record = Record(
        ("trial_0",), lambda ask: {"trial_1": "trial_1"}, lambda ask, grid: {"near": f"{ask.near}"}
    )
    stage = Stage(NAME, "Sample", make, Needs, ("sample",), record=record)
    parts = Stage("parts", "", make_parts, PartsNeeds, ("sample",), within=NAME)
    patches = [
        mock.patch.dict(STAGES, {NAME: stage, parts.name: parts}),
        mock.patch.dict(ON_RAIL, {NAME: stage}),
        mock.patch("oat_tide.command.call.part_of", {NAME: Sample}.get),
        mock.patch("oat_tide.plan.schema.Head", SampleHead),
        mock.patch("oat_tide.plan.container.Head", SampleHead),
        *(mock.patch(f"oat_tide.{where}.Plan", SamplePlan) for where in _WHERE_PLANS_BEGIN),
    ]
    with contextlib.ExitStack() as stack:
        for patch in patches:
            stack.enter_context(patch)
        yield
