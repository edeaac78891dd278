"""The spread brought down to children: rows, columns and the total all exact."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import noun, nouns, phrase
from oat_tide.core.user_error import no_progress
from oat_tide.core.working.formula import Formula, added_up, choose, given, total
from oat_tide.core.working.terms import Term, known, wide
from oat_tide.core.working.tree import Working
from oat_tide.stages.by_kernel import ByKernel
from oat_tide.stages.common import listed
from oat_tide.stages.deck import LateWork, Remark
from oat_tide.stages.deck.draft import from_lines
from oat_tide.stages.spread.down import Down, Wanted, brought_down
from oat_tide.stages.spread.ground import Ground, Outcome
from oat_tide.stages.spread.parted import whole_packs
from oat_tide.stages.spread.weights import year_before

_AT_ONCE = 200
"""Series of which a part each is reckoned within a frame."""
MOST_SHOWN = 30
"""Children that have a row each; of more the others stand together."""
_NAMED = 4


@dataclass(frozen=True, eq=False, slots=True)
class Children:
    """What each child gets, and what is to be said of it.

    Attributes:
        down: what each gets.
        why: why there is none; empty where there is.
        said: what is to be known of some of them.
    """

    down: Down
    why: str = ""
    said: tuple[str, ...] = ()


def bring_down(g: Ground, outcome: Outcome, weights: Values, late: LateWork) -> Children | None:
    """The parts of every child of the first series; None where none are asked for, or not known yet."""
    dimension, found = g.ask.children, outcome.parts[0]
    if not dimension or found is None or dimension not in open_dimensions(g):
        return None
    wanted = Wanted(
        key=g.d.keys[0],
        at=g.dimensions.index(dimension),
        past=g.past,
        columns=g.d.columns,
        first=g.first,
        parts=tuple(found.parts.tolist()),
        before=tuple(year_before(g)[g.at].tolist()),
        pack=g.pack,
        weights=tuple(weights[0, g.at].tolist()) if g.ask.child_by == "own season" else (),
        seasonal=g.seasonal,
    )
    # Few of them take no time, and their rows stand at once.
    few = len(g.leaves.keys) <= _AT_ONCE
    down = brought_down(g.leaves, wanted, no_progress) if few else late(brought_down, g.leaves, wanted)
    if down is None:
        return None
    said = _said(down)
    if down.lacks:
        has = phrase("has") if len(down.lacks) == 1 else phrase("have")
        names = listed(down.lacks, _NAMED)
        said += (phrase("{names} {has} no season yet: that of the total is used.", names=names, has=has),)
    return Children(down, _unmet(g, down), said)


def open_dimensions(g: Ground) -> tuple[str, ...]:
    """The dimensions that the series in sight is not narrowed in."""
    return tuple(name for name, member in zip(g.dimensions, g.d.keys[0], strict=True) if member is None)


def _said(down: Down) -> tuple[str, ...]:
    out = []
    own = down.own
    for which, words in (
        (own == 0, phrase("sold nothing a year before")),
        (own < 0, phrase("had more back than it sold")),
    ):
        names = [down.members[row] for row in np.flatnonzero(which).tolist()]
        if names:
            out.append(phrase("{names} {words}, and gets nothing.", names=listed(names, _NAMED), words=words))
    return tuple(out)


def _unmet(g: Ground, down: Down) -> str:
    """Why there is no table of the children; empty where there is."""
    reason, place = down.unmet
    by_share = phrase("Split detail by share.")
    column = g.label(g.first + place) if reason in ("column", "stands") else ""
    member = down.members[place] if reason in ("row", "apart") else ""
    return {
        "": "",
        "nothing": phrase(
            "No {children} sold anything in the matching periods a year before: there are no "
            "shares to go by.",
            children=g.ask.children,
        ),
        "row": phrase(
            "{member} has a share and no {kind} to put it in. {by_share}",
            member=member,
            kind=noun(g.grid.kind),
            by_share=by_share,
        ),
        "column": phrase(
            "No child sells in {column}, and it has a part of the total. {by_share}",
            column=column,
            by_share=by_share,
        ),
        "apart": phrase(
            "{member} sells in too few {kinds} for its share. {by_share}",
            member=member,
            kinds=nouns(g.grid.kind),
            by_share=by_share,
        ),
        "stands": phrase(
            "No whole figures of the detail add up in {column}. Take smaller packs.", column=column
        ),
    }[reason]


def rows_of(g: Ground, spread: Term, children: Children) -> tuple[str, ...]:
    """A row a child, the largest in their order, the others together; gives their names."""
    found = children.down
    order = np.argsort(-found.parts.sum(1), kind="stable")[:MOST_SHOWN]
    shown = sorted(order.tolist()) if not children.why else []
    mask = np.zeros((1, g.d.columns), np.bool_)
    before = year_before(g)[g.at]
    mask[0, before[before >= 0]] = True
    lasts = [_last(g, found, child, mask) for child in shown]
    if not lasts:
        return ()
    few = len(found.members) <= MOST_SHOWN
    every = (
        added_up(lasts)
        if few
        else given(
            float(found.last.sum()),
            phrase("what {members:,} values of it sold a year before", members=len(found.members)),
        )
    )
    whole = g.d.define("children_last", phrase("all detail, a year before"), every, unit=g.unit, shown=False)
    made = [_row(g, spread, found, child, last / whole) for child, last in zip(shown, lasts, strict=True)]
    if not few:
        others = np.setdiff1d(np.arange(len(found.members)), order)
        values = np.full((1, g.d.columns), np.nan)
        values[0, g.at] = found.parts[others].sum(0) / g.scale
        rest = g.d.define(
            "others",
            phrase("The other {others:,} together", others=len(others)),
            spread - added_up(made),
            values=values,
            where=g.inside,
            unit=g.unit,
            adds_up=True,
            exact=True,
        )
        made = [*made, rest]
    return tuple(each.source.figure.name for each in made)


def _last(g: Ground, found: Down, child: int, mask: np.ndarray) -> Term:
    """What a child sold in the like periods a year before, from its lines."""
    values, key, count = found.sold[child][None], found.keys[child], found.lines[child]

    def told(series: int, column: int) -> Working:
        return from_lines(float(values[0, column]), key, g.d.first + column, int(count[column]))

    sold = g.d.add(
        f"sold_{child}",
        phrase("{members}, sold", members=found.members[child]),
        values,
        told,
        unit=g.unit,
        shown=False,
    )
    own = g.d.define(
        f"own_last_{child}",
        phrase("{members}, a year before", members=found.members[child]),
        total(known(sold.among(mask))),
        unit=g.unit,
        shown=False,
    )
    # One that had more back than it sold has no share.
    counts = choose(own > 0, own, 0.0)
    return g.d.define(
        f"last_{child}",
        phrase("{members}, counted", members=found.members[child]),
        counts,
        unit=g.unit,
        shown=False,
    )


def _row(g: Ground, spread: Term, found: Down, child: int, share: Formula) -> Term:
    """What one child gets: its share, brought to what adds up both ways."""
    d, name = g.d, found.members[child]
    got, exact = (np.full((1, d.columns), np.nan) for _ in range(2))
    got[0, g.at] = found.parts[child] / g.scale
    exact[0, g.at] = found.shares[child] / g.scale
    body: Formula = spread * share
    if g.ask.child_by == "own season":
        body = ByKernel(
            lambda: exact, phrase("its share and its own season, fitted to rows and columns that add up")
        )
    row = partial(d.define, where=g.inside, unit=g.unit)
    part = row(f"exact_{child}", phrase("{name}, its share", name=name), body, shown=False)
    down = row(f"down_{child}", phrase("{name}, rounded down", name=name), whole_packs(g, part), shown=False)
    why = phrase("so that detail and periods both add up exactly (controlled rounding)")
    even = row(
        f"even_{child}", phrase("{name}, brought to what adds up", name=name),
        given(got - wide(down.values, d.columns, np.nan), why), signed=True, shown=False,
    )  # fmt: skip
    return row(
        f"child_{child}", name, down + even, values=got, adds_up=True, exact=True,
        blank=phrase("It lies outside of what the total is spread over."), remark=_rest_in(g, found, child),
    )  # fmt: skip


def _rest_in(g: Ground, found: Down, child: int) -> Remark:
    def remark(series: int, column: int) -> str:
        rest, holds = found.rests.get(column - g.first, (0, -1))
        return g.rest_held(rest) if holds == child else ""

    return remark
