"""What a stage gives: a deck of figures, and how they are to be shown.

The figure is the centre. A curve, a row of the tide table, a fact of the side sheet and a column of an
export are views of one; none carries numbers of its own.
"""

from __future__ import annotations

import datetime as dt
import functools
import typing
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from oat_tide.core.calendar import Grid
from oat_tide.core.exact import Values
from oat_tide.core.panel import Key
from oat_tide.core.working import Ref, Working
from oat_tide.plan.edits import Edit, Steps, field_meta, steps

Explain = Callable[[int, int], Working | None]
Role = Literal[
    "actual",
    "columns",
    "smoothed",
    "weighted",
    "fitted",
    "projected",
    "interval",
    "year",
    "average",
    "range",
    "bars",
    "layer",
]


@dataclass(frozen=True, eq=False, slots=True)
class Figure:
    """One figure, for every series.

    Attributes:
        name: tells it from the others of its stage.
        label: its name for people.
        values: (series, columns), or (series, 1) for a fact; NaN where there is none.
        explain: the working of a series and column; None exactly where the value is NaN.
        unit: what it counts; "%" for a share.
        fact: one value a series.
        shown: whether it is a row or fact to be seen; hidden ones are met in workings.
        sees_later: whether it may depend on what lies after the as-of.
        adds_up: whether the figure of a year is the sum of its months.
        signed: whether a plus is written.
        exact: whether it is written to its last digit.
        why_blank: the reason for a missing value of a series and column, in words.
    """

    name: str
    label: str
    values: Values
    explain: Explain
    unit: str = ""
    fact: bool = False
    shown: bool = True
    sees_later: bool = False
    adds_up: bool = False
    signed: bool = False
    exact: bool = False
    why_blank: Callable[[int, int], str] = lambda series, column: ""


@dataclass(frozen=True, slots=True)
class Curve:
    """A figure drawn.

    Attributes:
        upto: the other edge of an interval or layer.
        label: written where it ends.
        stop: columns that are drawn, the rest being sums and means; 0 for all.
        shade: tells several of one role apart, from 0 for the faintest to 1.
    """

    figure: str
    role: Role
    upto: str = ""
    label: str = ""
    stop: int = 0
    shade: float = 1.0


@dataclass(frozen=True, slots=True)
class Band:
    """One chart. Bands of one scale name share their scale."""

    title: str
    curves: tuple[Curve, ...]
    scale: str = "main"


@dataclass(frozen=True, slots=True)
class Axis:
    """Columns that are no stretch of time, such as the months of any year.

    Attributes:
        short: the name of each column; brief: where there is little room.
        full: the name of a column in full.
    """

    short: tuple[str, ...]
    brief: tuple[str, ...]
    full: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Caution:
    """What the user should know before trusting a figure, what shows it, and a way out in words."""

    text: str
    evidence: tuple[Ref, ...] = ()
    way_out: Edit | None = None
    way_out_text: str = ""


@dataclass(frozen=True, eq=False, slots=True)
class Handle:
    """Something on the time axis that can be dragged from column to column.

    Attributes:
        path: the field of the plan.
        role: "as_of", "fit_from", "fit_to", "horizon" or "window".
        at: the column it stands on; a handle acts on the far edge of it, a fit_from on the near one.
        lo, hi: the columns it can be dragged to.
        value: the column as a value of the plan.
        upto: for a window, the column of its newest period.
        weights: for a window, the weight of each period, the newest first.
        says: what it is, for people.
    """

    path: Steps
    role: str
    at: int
    lo: int
    hi: int
    value: Callable[[int], Any]
    upto: int = 0
    weights: tuple[float, ...] = ()
    says: str = ""

    def edit(self, column: int) -> Edit:
        """The edit that puts the handle on a column, or on the nearest it can reach."""
        where = min(max(column, self.lo), self.hi)
        return Edit(self.path, self.value(where), "drag " + ".".join(self.path))


@dataclass(frozen=True, slots=True)
class Knob:
    """A control as data, made from the field of the plan.

    Attributes:
        kind: "int", "bool", "pick", "many", "date" or "weights".
        lo, hi: bounds, for a date as day numbers; a date without has 0 for both.
        slides_to: where the slider of a number ends, if before `hi`; further ones are typed.
        choices: the values to pick from; names: how each is called.
        why_not: why it cannot be used now; empty when it can; why_nots, for each choice.
    """

    path: Steps
    kind: str
    title: str
    now: Any
    lo: float = 0
    hi: float = 0
    slides_to: float = 0
    choices: tuple[Any, ...] = ()
    names: tuple[str, ...] = ()
    unit: str = ""
    why_not: str = ""
    why_nots: tuple[str, ...] = ()


_KINDS = {int: "int", bool: "bool", str: "pick"}


def knob(where: Any, ask: Any, **more: Any) -> Knob:
    """The control for a field named by way of P.

    Args:
        ask: the part of the plan that holds the field.
        more: attributes of the Knob that the field cannot know.
    """
    path = steps(where)
    return Knob(**(_template(path) | {"now": getattr(ask, path[-1])} | more))


@functools.cache
def _template(path: Steps) -> dict[str, Any]:
    """What a field says of its control."""
    base, meta = field_meta(path)
    choices = typing.get_args(base) if typing.get_origin(base) is Literal else ()
    if choices:
        kind = "pick"
    elif dt.date in typing.get_args(base):
        kind = "date"
    else:
        kind = _KINDS.get(base, "many")
    return {
        "path": path,
        "kind": kind,
        "title": meta.title or path[-1],
        "lo": meta.ge or 0,
        "hi": meta.le or 0,
        "choices": choices,
        "names": tuple(map(str, choices)),
        "unit": (meta.extra_json_schema or {}).get("unit", ""),
    }


@dataclass(frozen=True, slots=True)
class Fact:
    """A fact of the side sheet, by the name of its figure."""

    figure: str


@dataclass(frozen=True, slots=True)
class Note:
    """A line of text on the side sheet. Attributes: text, by series; kind: "head", "text" or "small"."""

    text: Callable[[int], str]
    kind: str = "text"


@dataclass(frozen=True, eq=False, slots=True)
class Listing:
    """What is not over time, fetched as it is scrolled to.

    Attributes:
        title: what is listed.
        columns: the headings.
        count: the number of rows.
        fetch: rows from a start to before a stop, as text.
        total: what the last column adds up to, in words; empty where nothing is added up.
        note: more to say of it.
        tab: its name among the other things that can be shown there.
        roles: where columns have roles, what each has, and what it can be; choose: the edit of another.
        search: the rows that hold a text, as a list of their own, with its own total.
        mend: where cells can be written anew, the edit of a row, column and text; None where not.
    """

    title: str
    columns: tuple[str, ...]
    count: int
    fetch: Callable[[int, int], list[tuple[str, ...]]]
    total: str = ""
    note: str = ""
    tab: str = ""
    roles: tuple[tuple[str, tuple[str, ...]], ...] = ()
    choose: Callable[[int, str], Edit] | None = None
    search: Callable[[str], Listing] | None = None
    mend: Callable[[int, int, str], Edit | None] | None = None


@dataclass(frozen=True, slots=True)
class Entry:
    """A line to write in beside a choice.

    Attributes: title; now; edit, of what is written: it raises Trouble for what cannot be.
    """

    title: str
    now: str
    edit: Callable[[str], Edit]


@dataclass(frozen=True, slots=True)
class Choice:
    """Something found, and what can become of it.

    Attributes:
        text: what was found; mark: "odd", "part", "provisional", "aside" or "" for how it is marked.
        ways: what can become of it, each with its edit; None for what holds now.
        entries: notes or figures that can be written.
        evidence: the figure whose working shows it.
    """

    text: str
    mark: str = ""
    ways: tuple[tuple[str, Edit | None], ...] = ()
    entries: tuple[Entry, ...] = ()
    evidence: Ref | None = None


@dataclass(frozen=True, slots=True)
class Mark:
    """Something of a period that is said on the chart.

    Attributes: column; text; kind, as of a Choice; figure it belongs to, empty for the last one drawn.
    """

    column: int
    text: str
    kind: str
    figure: str = ""


@dataclass(frozen=True, slots=True)
class Word:
    """Some words of a sentence; with a path they lead to the control of that field, and a tip says why."""

    text: str
    path: Steps = ()
    tip: str = ""


@dataclass(frozen=True, eq=False, slots=True)
class Coverage:
    """Lines held, series by period.

    Attributes:
        names: of the series, largest first.
        lines, flags: (series, columns); unknown: where nothing is known.
        said: of each series, what is to be said of its start or end, with the column it is said at.
        go: the edit that brings a series in sight.
    """

    names: tuple[str, ...]
    lines: NDArray[np.int64]
    flags: NDArray[np.uint8]
    unknown: NDArray[np.bool_]
    said: tuple[tuple[tuple[int, str], ...], ...]
    go: Callable[[int], Edit]


Item = Knob | Fact | Note | Choice


@dataclass(frozen=True, eq=False, slots=True)
class Deck:
    """All that one stage shows, for every series at once.

    Attributes:
        stage: its name.
        keys: the series.
        grid, first, columns: the time axis: the periods, the first, and how many.
        past: columns up to the as-of.
        flags: (series, columns) why a period is special.
        figures: by name; the shown ones that are no facts are the rows, in this order.
        bands, sheet, handles, listings: what is drawn, what the side sheet holds, what can be dragged.
        title, subtitle, finding: in words, by series.
        cautions: by series.
        marks: what is said of single periods on the chart, by series.
        coverage: lines held, series by period.
        axis: what the columns are, where they are no stretch of time.
        tinted: whether the rows are tinted by size behind their figures.
        ways: the arrangements to choose from, shown above the chart.
        sentence: what was taken for what, said below the subtitle.
        waits: whether an answer is still to come.
    """

    stage: str
    keys: tuple[Key, ...]
    grid: Grid
    first: int
    columns: int
    past: int
    flags: NDArray[np.uint8]
    figures: dict[str, Figure]
    bands: tuple[Band, ...]
    sheet: Callable[[], tuple[Item, ...]]
    handles: tuple[Handle, ...]
    listings: tuple[Listing, ...]
    title: Callable[[int], str]
    subtitle: Callable[[int], str]
    finding: Callable[[int], str]
    cautions: Callable[[int], tuple[Caution, ...]]
    marks: Callable[[int], tuple[Mark, ...]] = lambda series: ()
    coverage: Coverage | None = None
    axis: Axis | None = None
    tinted: bool = False
    ways: Knob | None = None
    sentence: tuple[Word, ...] = ()
    waits: bool = False

    @property
    def rows(self) -> tuple[Figure, ...]:
        """The figures that are rows of the tide table."""
        return tuple(each for each in self.figures.values() if each.shown and not each.fact)

    def label(self, column: int) -> str:
        """The period of a column, in full."""
        if self.axis is not None:
            return self.axis.full[column]
        return self.grid.label(self.first + column)
