"""What to know before trusting an index."""

from __future__ import annotations

import numpy as np

from oat_tide.core.exact import Values
from oat_tide.core.language import counted, phrase
from oat_tide.core.regression import t_quantile
from oat_tide.core.seasons.classical import classical
from oat_tide.core.seasons.indices import against_the_others, standard_errors
from oat_tide.core.series.panel import LEFT_OUT, REPLACED
from oat_tide.core.working.number_format import fixed, significant
from oat_tide.core.working.tree import Ref
from oat_tide.plan.edits import edit
from oat_tide.plan.parts.seasons import LeftOutRatio
from oat_tide.plan.paths import P
from oat_tide.stages.common import listed, titled, where_of
from oat_tide.stages.deck import Caution
from oat_tide.stages.seasons import NAME
from oat_tide.stages.seasons.ground import Ground, gone_of, hands_of, kind_of
from oat_tide.stages.seasons.taken import Taken

_FEW_RATIOS = 4
"""Ratios a season below which an index stands on little."""
_BY_CHANCE = 0.03
"""How often one of the ratios of a clean history may be said not to fit."""
_MOST_ODD = 2
_ROUNDING = 1e-6
_TAKES_IN = 0.01
"""What simple averages may take in of the trend without a word."""


def cautions(ground: Ground, taken: Taken | None, series: int) -> tuple[Caution, ...]:
    """Return the cautions that apply to a series."""
    if ground.why_none[series]:
        return (_none(ground, series),)
    if taken is None:
        return ()
    found = (
        *_odd(ground, taken, series),
        _few(ground, taken, series),
        _takes_in_trend(ground, taken, series),
        _ruled(ground, series),
        _other_hands(ground, series),
        _left_out_counts(ground, series),
        _overdone(ground, taken, series),
    )
    return tuple(each for each in found if each is not None)


def _none(ground: Ground, series: int) -> Caution:
    why = ground.why_none[series]
    if "multiplies" in why:
        return Caution(
            why, way_out=edit(P.seasons.season, "additive"), way_out_text=phrase("Take it as additive")
        )
    if ground.ask.cycle:
        return Caution(why, way_out=edit(P.seasons.cycle, 0), way_out_text=phrase("Take the usual cycle"))
    return Caution(why)


def _odd(ground: Ground, taken: Taken, series: int) -> tuple[Caution, ...]:
    """Ratios that do not fit the other years of their season, each with a way to leave it out."""
    if ground.ask.method == "loess" or ground.grid.kind == "day":
        return ()
    past = ground.past
    place = ground.cycle.place[:past]
    ratios = taken.counted.values[series, :past]
    # A factor wavers in proportion: its logarithms waver alike.
    with np.errstate(invalid="ignore", divide="ignore"):
        told = np.log(ratios) if ground.multiplies[series] else ratios
    z = np.nan_to_num(against_the_others(told, place, ground.cycle.length))
    many = int((z != 0).sum())
    if many <= ground.cycle.length:
        return ()
    freedom = np.array([float(many - ground.cycle.length)])
    far = float(t_quantile(1 - _BY_CHANCE / many, freedom)[0])
    found = []
    for column in np.argsort(-np.abs(z))[:_MOST_ODD].tolist():
        if abs(z[column]) < far:
            break
        year, season = int(ground.cycle.years[column]), int(place[column])
        where = where_of(ground.dimensions, ground.d.keys[series])
        gone = LeftOutRatio(where, ground.cycle.length, year, season)
        said = _ratio_said(ground, series, float(ratios[column]))
        found.append(
            Caution(
                phrase(
                    "{first} ({said}) does not fit the other years of {season}.",
                    first=ground.grid.label(ground.d.first + column),
                    said=said,
                    season=ground.season(season),
                ),
                (Ref(NAME, "ratio", series, column),),
                edit(P.seasons.left_out, (*ground.ask.left_out, gone)),
                phrase("Leave it out of the index"),
            )
        )
    return tuple(found)


def _ratio_said(ground: Ground, series: int, ratio: float) -> str:
    """A ratio, or a difference with its unit."""
    if ground.multiplies[series]:
        return significant(float(ratio), 3)
    return f"{significant(float(ratio), 3, plus=True)} {ground.unit}"


def _few(ground: Ground, taken: Taken, series: int) -> Caution | None:
    many = taken.many.values[series]
    least = int(np.nanmin(many)) if many.size else 0
    if least >= _FEW_RATIOS:
        return None
    past = ground.past
    ratios = taken.counted.values[series : series + 1, :past]
    errors = standard_errors(ratios, ground.cycle.place[:past], ground.cycle.length)[0]
    known = errors[~np.isnan(errors)]
    sure = (
        phrase(
            ": a typical index has a standard error of {median}",
            median=significant(float(np.median(known)), 2),
        )
        if known.size
        else ""
    )
    if not least:
        lacking = [ground.season(place) for place in np.flatnonzero(many == 0).tolist()]
        return Caution(phrase("There is no ratio for {lacking}, and so no index.", lacking=listed(lacking)))
    return Caution(phrase("Only {least} for some seasons{sure}.", least=counted(least, "ratio"), sure=sure))


def _takes_in_trend(ground: Ground, taken: Taken, series: int) -> Caution | None:
    """Compute by how much simple averages differ from those without the trend."""
    if ground.ask.method != "simple":
        return None
    past, products = ground.past, bool(ground.multiplies[series])
    place, length = ground.cycle.place[:past], ground.cycle.length
    values: Values = ground.values[series : series + 1]
    apart = taken.scaled.values[series] - classical(values, place, length, products).indices[0]
    if np.isnan(apart).all():
        return None
    worst = int(np.nanargmax(np.abs(apart)))
    by = float(apart[worst])
    level = 1.0 if products else float(np.nanmean(np.abs(values)))
    if abs(by) < _TAKES_IN * level:
        return None
    said = fixed(by, 3, plus=True) if products else f"{significant(by, 3, plus=True)} {ground.unit}"
    return Caution(
        phrase(
            "Simple averages take in the trend: most for {season}, {said} of the centred average.",
            season=ground.season(worst),
            said=said,
        ),
        way_out=edit(P.seasons.method, "classical"),
        way_out_text=phrase("Take the centred average"),
    )


def _ruled(ground: Ground, series: int) -> Caution | None:
    """Periods that rulings leave out, or that are not known, and what stands in for them."""
    values, flags = ground.values[series], ground.sight.flags[series, : ground.past]
    known = np.flatnonzero(~np.isnan(values))
    if not known.size:
        return None
    inside = np.zeros(values.shape, np.bool_)
    inside[known[0] : known[-1] + 1] = True
    gone = int((inside & np.isnan(values)).sum())
    replaced = int((inside & (flags & REPLACED > 0) & (flags & LEFT_OUT == 0)).sum())
    said = []
    if gone:
        what = phrase("filled with level × index") if ground.ask.method == "classical" else phrase("skipped")
        said.append(
            phrase("{gone} not known or left out, {what}", gone=counted(gone, ground.grid.kind), what=what)
        )
    if replaced:
        said.append(phrase("{replaced} replaced", replaced=counted(replaced, ground.grid.kind)))
    return Caution(f"{titled('; '.join(said))}.") if said else None


def _left_out_counts(ground: Ground, series: int) -> Caution | None:
    """Ratios left out, which local regression does not know of."""
    gone = gone_of(ground, series)
    if ground.ask.method != "loess" or not gone:
        return None
    said = (
        phrase("The ratio left out counts")
        if len(gone) == 1
        else phrase("The {gone} ratios left out count", gone=len(gone))
    )
    return Caution(
        phrase(
            "{said} here: local regression goes by every period. A decision in Intake leaves a period out.",
            said=said,
        )
    )


def _overdone(ground: Ground, taken: Taken, series: int) -> Caution | None:
    """Indices by hand that once could stand, and now leave nothing for the others."""
    used = taken.used.values[series]
    neutral = 1.0 if ground.multiplies[series] else 0.0
    known = used[~np.isnan(used)]
    if not known.size or np.isnan(taken.hand[series]).all():
        return None
    if abs(float(known.mean()) - neutral) <= _ROUNDING * max(1.0, float(np.abs(known).max())):
        return None
    said = phrase(
        "The indices by hand leave nothing for the others: together they average {mean:.2f}",
        mean=known.mean(),
    )
    mine = hands_of(ground, series)
    others = tuple(each for each in ground.ask.by_hand if each not in mine)
    return Caution(
        phrase("{said}, not {neutral:g}.", said=said, neutral=neutral),
        way_out=edit(P.seasons.by_hand, others),
        way_out_text=phrase("Take them back"),
    )


def _other_hands(ground: Ground, series: int) -> Caution | None:
    """Indices by hand that rest, for they are of another kind or cycle."""
    where = dict(where_of(ground.dimensions, ground.d.keys[series]))
    kind, length = kind_of(ground, series), ground.cycle.length
    rests = [
        each
        for each in ground.ask.by_hand
        if dict(each.where) == where and (each.season != kind or each.cycle != length)
    ]
    if not rests:
        return None
    said = (
        phrase("An index by hand rests: it was")
        if len(rests) == 1
        else phrase("{rests} indices by hand rest: they were", rests=len(rests))
    )
    return Caution(phrase("{said} written for another kind of season.", said=said))
