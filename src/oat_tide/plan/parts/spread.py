"""A total that is spread over its periods, and what of it is locked."""

from __future__ import annotations

import datetime as dt
from typing import Annotated, ClassVar, Literal

from msgspec import Meta

from oat_tide.core.periods.calendar import spoken
from oat_tide.core.user_error import UserError
from oat_tide.plan.options import first_of, option
from oat_tide.plan.parts.part import Pairs, Part, unit

By = Literal["index", "index-trend", "last-year", "even"]
MOST_LOCKS = 1000


class Lock(Part, frozen=True):
    """A period that stands at a figure.

    Attributes:
        first, last: its days; it is locked where a period has just these.
        figure: what it stands at.
    """

    first: dt.date
    last: dt.date
    figure: float


def lock_typed(text: str) -> Lock:
    """A lock as it is typed: 2027-01=11000.

    Raises:
        UserError: there is no period in it, or no figure.
    """
    period, _, figure = text.partition("=")
    try:
        first, last = spoken(period)
        return Lock(first, last, float(figure))
    except ValueError as error:
        raise UserError(
            f"--fixed {text}: write a period and its figure, as in 2027-01=11000 or 2027Q1=36000."
        ) from error


class SpreadRequest(Part, frozen=True):
    """A total of one series over one stretch of time.

    Attributes:
        where: the series, as in `Plan.where`.
        over: the stretch as it is written, such as 2027, 2027-H1, 2027-Q2 or 2027-03..2027-08; empty for the
            next whole year.
        total: what its periods come to.
        locks: the periods that stand at a figure.
    """

    where: Pairs = ()
    over: Annotated[
        str,
        Meta(
            max_length=60,
            title="Over",
            extra_json_schema=option(
                "over",
                "periods to spread over, as in 2027, 2027-H1 or 2027-03..2027-08 (default: the next year)",
                "RANGE",
            ),
        ),
    ] = ""
    total: Annotated[
        float,
        Meta(
            title="Total", extra_json_schema=option("total", "the total to spread", "FIGURE", required=True)
        ),
    ] = 0.0
    locks: Annotated[
        tuple[Lock, ...],
        Meta(
            max_length=MOST_LOCKS,
            title="Fixed",
            extra_json_schema=option(
                "fixed",
                "a period fixed at a figure, as in 2027-01=11000 or 2027Q1=33000",
                "PERIOD=FIGURE",
                lock_typed,
            ),
        ),
    ] = ()


class SavedSpread(Part, frozen=True):
    """A spread that is kept under a name, figure by figure.

    Attributes:
        name: in the user's words.
        asked: what was asked.
        by: by what it was spread.
        kind: of the periods, as people say it.
        days: the first day of each.
        figures: what each got.
        members: of the children, where there are some.
        parts: by child, what each of its periods got.
    """

    name: Annotated[str, Meta(max_length=200)]
    asked: SpreadRequest
    by: By
    kind: str
    days: tuple[dt.date, ...]
    figures: tuple[float, ...]
    members: tuple[str, ...] = ()
    parts: tuple[tuple[float, ...], ...] = ()


class Spread(Part, frozen=True):
    """How totals are spread.

    Attributes:
        over: the stretch in sight, as in `Asked.over`.
        rounded: what figures come in.
        pack: how many a pack holds.
        rest: the day in the period that takes what fills no pack; None for the last that is not locked.
        children: the dimension that it goes down to; empty for none.
        asked: the totals, one a series and stretch.
        kept: spreads that are kept.
    """

    COMMAND: ClassVar[str] = (
        "Spread a total over periods, and over detail. One row per period; with --detail-by one "
        "row per period and value of that column."
    )
    EXAMPLE: ClassVar[str] = "spread sales.csv --total 148000 --over 2027 --detail-by product"
    KEYED_BY: ClassVar[str] = "children"
    ALSO: ClassVar[tuple[tuple[str, str, str, str], ...]] = (
        ("indices", "how seasonal indices are taken", "seasons", "method"),
        ("season", "how a season counts", "seasons", "season"),
        ("against", "the method of the projection that it is compared with", "project", "method"),
    )

    over: Annotated[str, Meta(max_length=60, title="Spread over")] = ""
    by: Annotated[By, Meta(title="Spread by", extra_json_schema=option("rule", "rule of the spread"))] = (
        "index"
    )
    rounded: Annotated[Literal["whole", "packs", "decimals"], Meta(title="Figures in")] = "whole"
    pack: Annotated[
        int,
        Meta(
            ge=1,
            le=1_000_000,
            title="A pack holds",
            extra_json_schema=unit("a pack")
            | option("pack", "spread in packs of so many (default: whole figures)", "N"),
        ),
    ] = 12
    rest: Annotated[dt.date | None, Meta(title="What fills no pack goes to")] = None
    children: Annotated[
        str,
        Meta(
            max_length=4096,
            title="Detail by",
            extra_json_schema=option("detail-by", "the column of the detail", "COLUMN"),
        ),
    ] = ""
    child_by: Annotated[
        Literal["share", "own season"],
        Meta(
            title="Detail split by",
            extra_json_schema=option(
                "detail-rule", "how detail is split: by its share of last year, or by that and its own season"
            ),
        ),
    ] = "share"
    asked: Annotated[
        tuple[SpreadRequest, ...],
        Meta(max_length=1000, title="Totals", extra_json_schema={"one": "Total"} | first_of()),
    ] = ()
    kept: Annotated[
        tuple[SavedSpread, ...],
        Meta(max_length=200, title="Kept spreads", extra_json_schema={"one": "Kept spread"}),
    ] = ()

    def asked_of(self, where: Pairs) -> SpreadRequest:
        """What is asked of a series over the stretch in sight."""
        found = (each for each in self.asked if each.over == self.over and dict(each.where) == dict(where))
        return next(found, SpreadRequest(where, self.over))

    def with_asked(self, now: SpreadRequest) -> tuple[SpreadRequest, ...]:
        """The totals with that of a series and stretch as it is now; one of nothing is gone."""
        others = (each for each in self.asked if each.over != now.over or dict(each.where) != dict(now.where))
        return (*others, now) if now.total or now.locks else tuple(others)
