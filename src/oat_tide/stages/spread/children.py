"""The spread brought down to children: rows, columns and the total all exact."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.methods.seasonal import season
from oat_tide.core.methods.shape import How
from oat_tide.core.series.panel import Key, fits_key, narrowed
from oat_tide.core.spread import Units, Unmet, controlled, fitted, largest_remainders
from oat_tide.core.working.formula import Formula, added_up, choose, given, total
from oat_tide.core.working.terms import Term, known, wide
from oat_tide.core.working.tree import Working
from oat_tide.stages.common import listed
from oat_tide.stages.cycle import cycle_of
from oat_tide.stages.deck import Remark
from oat_tide.stages.deck.draft import from_lines
from oat_tide.stages.reckoned import Reckoned
from oat_tide.stages.spread.ground import Ground, Outcome
from oat_tide.stages.spread.parted import whole_packs
from oat_tide.stages.spread.weights import year_before

MOST_SHOWN = 30
"""Children that have a row each; of more the others stand together."""
_NAMED = 4


@dataclass(frozen=True, eq=False, slots=True)
class Children:
    """What each child gets.

    Attributes:
        members: by name, in its order.
        keys: their series.
        sold: (members, past columns) what each sold; lines: how many lines make it.
        last: (members,) what each sold in the like periods a year before, none below 0.
        shares: (members, parts) what each would get if it could be parted at will.
        parts: (members, parts) in units, whose rows and columns add up.
        rests: by column of the stretch, what fills no pack, and the child that holds it.
        why: why there is none; empty where there is.
        said: what is to be known of some of them.
    """

    members: tuple[str, ...]
    keys: tuple[Key, ...]
    sold: Values
    lines: Units
    last: Values
    shares: Values
    parts: Units
    rests: dict[int, tuple[int, int]]
    why: str = ""
    said: tuple[str, ...] = ()


def bring_down(g: Ground, outcome: Outcome, weights: Values) -> Children | None:
    """The parts of every child of the first series; None where none are asked for."""
    dimension, found = g.ask.children, outcome.parts[0]
    if not dimension or found is None or dimension not in open_dimensions(g):
        return None
    at, key = g.dimensions.index(dimension), g.d.keys[0]
    members = tuple(sorted({str(own[at]) for own in g.leaves.keys if fits_key(own, key)}))
    keys = tuple(tuple(member if i == at else each for i, each in enumerate(key)) for member in members)
    seen = [narrowed(g.leaves, each) for each in keys]
    sold = np.stack([each.values[0, : g.past] for each in seen])
    lines = np.stack([each.lines[0, : g.past] for each in seen])
    before = year_before(g)[g.at]
    own = np.nan_to_num(sold[:, before[before >= 0]]).sum(1)
    last = np.maximum(own, 0.0)
    none = np.zeros((len(members), g.last - g.first + 1))
    made = partial(Children, members, keys, sold, lines, last)
    if not last.sum() > 0:
        why = f"No {dimension} sold anything in the like periods a year before: there are no shares to go by."
        return made(none, none.astype(np.int64), {}, why)
    said = _said(members, own)
    seed = np.outer(last, np.maximum(found.parts, 0)).astype(float)
    if g.ask.child_by == "own season":
        seed, more = _own_seasons(g, sold, last, weights[0, g.at], members)
        said += more
    try:
        shares, parts, rests = _table(g, found.parts, last, seed)
    except Unmet as error:
        return made(none, none.astype(np.int64), {}, _unmet(g, error, members), said)
    return made(shares, parts, rests, "", said)


def open_dimensions(g: Ground) -> tuple[str, ...]:
    """The dimensions that the series in sight is not narrowed in."""
    return tuple(name for name, member in zip(g.dimensions, g.d.keys[0], strict=True) if member is None)


def _said(members: tuple[str, ...], own: Values) -> tuple[str, ...]:
    out = []
    for which, words in ((own == 0, "sold nothing a year before"), (own < 0, "had more back than it sold")):
        names = [member for member, holds in zip(members, which, strict=True) if holds]
        if names:
            out.append(f"{listed(names, _NAMED)} {words}, and gets nothing.")
    return tuple(out)


def _own_seasons(
    g: Ground, sold: Values, last: Values, weights: Values, members: tuple[str, ...]
) -> tuple[Values, tuple[str, ...]]:
    """Each child's share times its own index; one without takes the weights of all."""
    cycle = cycle_of(g.seasonal, g.grid, g.d.first, g.d.columns)
    how = How(
        cycle=cycle.length,
        place=cycle.place,
        years=cycle.years,
        season=g.seasonal.method,
        counts="multiplicative",
    )
    index = season(sold, how).indices
    own = np.maximum(index[:, cycle.place[g.at]], 0.0) if cycle.length else np.full((len(sold), 1), np.nan)
    lacks = np.isnan(own).any(1) | ~(np.nan_to_num(own).sum(1) > 0)
    common = weights / weights.mean() if weights.sum() > 0 else np.ones(len(weights))
    seed = last[:, None] * np.where(lacks[:, None], common[None], own)
    names = [member for member, none in zip(members, lacks & (last > 0), strict=True) if none]
    if not names:
        return seed, ()
    has = "has" if len(names) == 1 else "have"
    return seed, (f"{listed(names, _NAMED)} {has} no season yet: that of all stands in.",)


def _table(
    g: Ground, columns: Units, last: Values, seed: Values
) -> tuple[Values, Units, dict[int, tuple[int, int]]]:
    """The table in packs, and what fills none of them with the largest child."""
    packs, left = np.divmod(columns, g.pack)
    rows = largest_remainders(last / last.sum() * packs.sum(), int(packs.sum()))
    # A row that gets nothing, and a column, weigh nothing.
    kept = seed * (rows > 0)[:, None] * (packs > 0)[None]
    shares = fitted(kept, rows.astype(float), packs.astype(float))
    parts = controlled(shares, rows, packs) * g.pack
    largest, rests = int(last.argmax()), {}
    for place in np.flatnonzero(left).tolist():
        parts[largest, place] += left[place]
        rests[place] = int(left[place]), largest
    exact = shares * g.pack
    return exact, parts, rests


def _unmet(g: Ground, error: Unmet, members: tuple[str, ...]) -> str:
    column = g.label(g.first + error.place) if error.reason in ("column", "stands") else ""
    member, by_share = members[error.place] if not column else "", "Spread children by share."
    return {
        "row": f"{member} has a share and no {g.grid.kind} to put it in. {by_share}",
        "column": f"No child sells in {column}, and it has a part of the total. {by_share}",
        "apart": f"{member} sells in too few {g.grid.kind}s for its share. {by_share}",
        "stands": f"No whole figures of the children add up in {column}. Take smaller packs.",
    }[error.reason]


def rows_of(g: Ground, spread: Term, found: Children) -> None:
    """A row a child, the largest in their order, the others together."""
    order = np.argsort(-found.parts.sum(1), kind="stable")[:MOST_SHOWN]
    shown = sorted(order.tolist()) if not found.why else []
    mask = np.zeros((1, g.d.columns), np.bool_)
    before = year_before(g)[g.at]
    mask[0, before[before >= 0]] = True
    lasts = [_last(g, found, child, mask) for child in shown]
    if not lasts:
        return
    few = len(found.members) <= MOST_SHOWN
    every = (
        added_up(lasts)
        if few
        else given(float(found.last.sum()), f"what {len(found.members):,} children sold a year before")
    )
    whole = g.d.define("children_last", "all children, a year before", every, unit=g.unit, shown=False)
    for child, last in zip(shown, lasts, strict=True):
        _row(g, spread, found, child, last / whole)
    if not few:
        others = np.setdiff1d(np.arange(len(found.members)), order)
        values = np.full((1, g.d.columns), np.nan)
        values[0, g.at] = found.parts[others].sum(0) / g.scale
        kept = added_up([g.d.term(f"child_{child}") for child in shown])
        g.d.define(
            "others", f"The other {len(others):,} together", spread - kept, values=values, where=g.inside,
            unit=g.unit, adds_up=True, exact=True,
        )  # fmt: skip


def _last(g: Ground, found: Children, child: int, mask: np.ndarray) -> Term:
    """What a child sold in the like periods a year before, from its lines."""
    values, key, count = found.sold[child][None], found.keys[child], found.lines[child]

    def told(series: int, column: int) -> Working:
        return from_lines(float(values[0, column]), key, g.d.first + column, int(count[column]))

    g.d.add(f"sold_{child}", f"{found.members[child]}, sold", values, told, unit=g.unit, shown=False)
    sold = g.d.term(f"sold_{child}")
    own = g.d.define(
        f"own_last_{child}", f"{found.members[child]}, a year before", total(known(sold.among(mask))),
        unit=g.unit, shown=False,
    )  # fmt: skip
    # One that had more back than it sold has no share.
    counts = choose(own > 0, own, 0.0)
    return g.d.define(f"last_{child}", f"{found.members[child]}, counted", counts, unit=g.unit, shown=False)


def _row(g: Ground, spread: Term, found: Children, child: int, share: Formula) -> None:
    """What one child gets: its share, brought to what adds up both ways."""
    d, name = g.d, found.members[child]
    got, exact = (np.full((1, d.columns), np.nan) for _ in range(2))
    got[0, g.at] = found.parts[child] / g.scale
    exact[0, g.at] = found.shares[child] / g.scale
    body: Formula = spread * share
    if g.ask.child_by == "own season":
        body = Reckoned(lambda: exact, "its share and its own season, fitted to rows and columns that add up")
    row = partial(d.define, where=g.inside, unit=g.unit)
    part = row(f"exact_{child}", f"{name}, its share", body, shown=False)
    down = row(f"down_{child}", f"{name}, rounded down", whole_packs(g, part), shown=False)
    why = "so that children and periods both add up exactly (controlled rounding)"
    even = row(
        f"even_{child}", f"{name}, brought to what adds up",
        given(got - wide(down.values, d.columns, np.nan), why), signed=True, shown=False,
    )  # fmt: skip
    row(
        f"child_{child}", name, down + even, values=got, adds_up=True, exact=True,
        blank="It lies outside of what the total is spread over.", remark=_rest_in(g, found, child),
    )  # fmt: skip


def _rest_in(g: Ground, found: Children, child: int) -> Remark:
    def remark(series: int, column: int) -> str:
        rest, holds = found.rests.get(column - g.first, (0, -1))
        return g.rest_held(rest) if holds == child else ""

    return remark
