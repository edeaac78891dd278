"""Worked examples of Spread: totals by index, by last year, half sold, and brought down to children."""

from __future__ import annotations

import datetime as dt
import math
from typing import TYPE_CHECKING

from oat_tide.core.user_error import UserError
from oat_tide.plan.edits import Edit, edit
from oat_tide.plan.parts.evened import Ruled
from oat_tide.plan.parts.project import Project
from oat_tide.plan.parts.seasons import ManualIndex, Seasons
from oat_tide.plan.parts.spread import Lock, Spread, SpreadRequest
from oat_tide.plan.paths import P
from oat_tide.session import Session

NAN = math.nan
C_INDEX = [0.795980, 1.092578, 1.289581, 0.821861]
FOUR = edit(P.seasons, Seasons(season="multiplicative"))


def children(rows: dict[str, list[int]]) -> str:
    """Quarters of several products, from 2020 on."""
    lines = [
        f"{2020 + i // 4}-{3 * (i % 4) + 1:02d}-01,{name},{value}"
        for name, values in rows.items()
        for i, value in enumerate(values)
    ]
    return "\n".join(["quarter,product,cases", *lines]) + "\n"


class SpreadExamples:
    """Mixed into the worked examples."""

    if TYPE_CHECKING:

        def check(self, session: Session, stage: str, **wanted: float | list[float]) -> None: ...
        def opened(self, text: str, name: str = "sales.csv") -> Session: ...
        def quarterly(self, *edits: Edit) -> Session: ...

    def test_a_year_by_index(self) -> None:
        total = edit(P.spread, Spread(asked=(SpreadRequest(total=1000.0),)))
        session = self.quarterly(FOUR, total, edit(P.project, Project("line-season", horizon=4)))
        ahead = [109.408461, 153.551468, 185.222045, 120.582521]
        parts, last = [199, 273, 322, 206], [98, 140, 172, 110]
        none = [NAN] * 12
        self.check(
            session,
            "spread",
            actual=[80, 110, 140, 90, 92, 128, 150, 100, *last, *[NAN] * 4],
            total=1000,
            locked_total=0,
            left=1000,
            weight=[*none, *C_INDEX],
            spread=[*none, *parts],
            locked=[*none, *[NAN] * 4],
            last_year=[*none, *last],
            on_last=[*none, *(100 * (part / was - 1) for part, was in zip(parts, last, strict=True))],
            baseline=[*none, *ahead],
            gap=[*none, *(part - was for part, was in zip(parts, ahead, strict=True))],
            gap_share=[*none, *(100 * (part / was - 1) for part, was in zip(parts, ahead, strict=True))],
            last_total=520,
            baseline_total=568.764495,
            on_last_total=100 * (1000 / 520 - 1),
            gap_total=1000 - 568.764495,
            gap_total_share=100 * (1000 / 568.764495 - 1),
        )
        # An index by hand is heeded: 1.30, the others scaled by 0.996156.
        session.do(edit(P.seasons.by_hand, (ManualIndex((), 4, "multiplicative", 2, 1.30),)))
        # 198.23, 272.0945, 325 and 204.6755 of 1000: the last has the largest remainder.
        self.check(session, "spread", spread=[*none, 198, 272, 325, 205])
        session.do(edit(P.seasons.by_hand, ()))
        # 83 packs of 12: 192, 276, 324 and 204, and 4 that fill none.
        session.do(edit(P.spread.rounded, "packs"))
        self.check(session, "spread", spread=[*none, 192, 276, 324, 208])
        session.do(edit(P.spread.rest, dt.date(2023, 4, 1)))
        self.check(session, "spread", spread=[*none, 192, 280, 324, 204])

    def test_a_year_by_index_and_trend(self) -> None:
        # The line 97.291474 + 3.089213 t at 13 to 16, in season: 19.236, 26.997, 32.566 and 21.201 % of it.
        ask = Spread(by="index-trend", rounded="decimals", asked=(SpreadRequest(total=1000.0),))
        session = self.quarterly(FOUR, edit(P.spread, ask))
        ahead = [109.408461, 153.551468, 185.222045, 120.582521]
        shares = [round(1000 * each / sum(ahead), 2) for each in ahead]
        self.check(session, "spread", spread=[*[NAN] * 12, *shares])

    def test_four_years_of_quarters_and_a_yearly_total(self) -> None:
        # By simple averages: quarters of 90, 126, 154 and 100 on average, 117.5 of all; 2,400 for the year.
        session = self.quarterly(
            edit(P.seasons, Seasons(method="simple", season="multiplicative")),
            edit(P.spread, Spread(asked=(SpreadRequest(total=2400.0),))),
        )
        # 0.765957, 1.072340, 1.310638 and 0.851064 times 600: 459.57, 643.40, 786.38 and 510.64.
        self.check(session, "spread", spread=[*[NAN] * 12, 460, 643, 786, 511])

    def test_evenly_and_a_quarter_locked(self) -> None:
        lock = Lock(dt.date(2023, 4, 1), dt.date(2023, 6, 30), 250.0)
        session = self.quarterly(
            edit(P.spread, Spread(by="even", asked=(SpreadRequest(total=1000.0, locks=(lock,)),)))
        )
        self.check(
            session,
            "spread",
            spread=[*[NAN] * 12, 250, 250, 250, 250],
            locked=[*[NAN] * 13, 250, NAN, NAN],
            locked_total=250,
            left=750,
            weight=[*[NAN] * 12, 1, 1, 1, 1],
        )

    def test_a_half_sold_year_spread_anew(self) -> None:
        # Of 600 for 2022, known to its second quarter, 98 and 140 have sold: 362 are left for two quarters.
        ask = Spread(over="2022", by="last-year", asked=(SpreadRequest(over="2022", total=600.0),))
        session = self.quarterly(edit(P.as_of, dt.date(2022, 6, 30)), edit(P.spread, ask))
        # By 92, 128, 150 and 100 of 470: 117.45, 163.40, 191.49 and 127.66.
        self.check(
            session,
            "spread",
            spread=[*[NAN] * 8, 117, 163, 192, 128],
            weight=[*[NAN] * 8, 92, 128, 150, 100],
            sold=238,
            to_go=362,
            rate_sold=119,
            rate_needed=181,
        )
        act = next(
            each
            for each in session.deck("spread").sheet()
            if getattr(each, "title", "") == "Fix what has sold"
        )
        session.do(act.edit)  # type: ignore[union-attr, arg-type]
        # 362 by 150 and 100: 217.2 and 144.8.
        self.check(session, "spread", spread=[*[NAN] * 8, 98, 140, 217, 145], left=362, locked_total=238)

    def test_a_ruling_is_heeded(self) -> None:
        # 120 in place of 110: by 98, 140, 172 and 120 of 530.
        expected = Ruled((), dt.date(2022, 10, 1), dt.date(2022, 12, 31), "expected", 120.0)
        ask = Spread(by="last-year", asked=(SpreadRequest(total=1000.0),))
        session = self.quarterly(edit(P.evened.rulings, (expected,)), edit(P.spread, ask))
        self.check(
            session,
            "spread",
            settled=[80, 110, 140, 90, 92, 128, 150, 100, 98, 140, 172, 120, *[NAN] * 4],
            last_year=[*[NAN] * 12, 98, 140, 172, 110],
            spread=[*[NAN] * 12, 185, 264, 325, 226],
        )

    def test_down_to_children_both_ways_exact(self) -> None:
        # Last year 40, 30 and 30 of 100; 5, 3, 2 and 0 of 10 by quarter.
        last = {"Bran": [20, 12, 8, 0], "Oats": [15, 9, 6, 0], "Rye": [15, 9, 6, 0]}
        session = self.opened(children({name: [*values, *values] for name, values in last.items()}))
        ask = Spread(by="last-year", asked=(SpreadRequest(total=10.0),), children="product")
        session.do(edit(P.spread, ask))
        self.check(session, "spread", spread=[*[NAN] * 8, 5, 3, 2, 0])
        deck = session.deck("spread")
        found = [[int(each) for each in deck.figures[f"child_{child}"].values[0, 8:]] for child in range(3)]
        # Bran has 2, 1.2 and 0.8; the two others 1.5, 0.9 and 0.6 each, and one of them the odd case.
        assert found[0] == [2, 1, 1, 0], found
        assert sorted(found[1:]) == [[1, 1, 1, 0], [2, 1, 0, 0]], found
        self.check(session, "spread", child_0=[*[NAN] * 8, 2, 1, 1, 0])

    def test_more_children_than_have_a_row(self) -> None:
        rows = {f"Product {place:02d}": [1, 1, 1, 1] * 2 for place in range(32)}
        session = self.opened(children(rows))
        session.do(edit(P.spread, Spread(by="even", asked=(SpreadRequest(total=320.0),), children="product")))
        # 80 a quarter, ten a product in the year: the last two together have what the others leave.
        others = session.deck("spread").figures["others"].values[0, 8:]
        assert others.sum() == 20, others
        self.check(session, "spread", others=[*[NAN] * 8, *others.tolist()])

    def test_what_cannot_stand_is_refused_in_words(self) -> None:
        session = self.quarterly(FOUR, edit(P.spread, Spread(asked=(SpreadRequest(total=1000.0),))))
        lock = session.deck("spread").figures["locked"].mend
        assert lock is not None
        for text, said in (
            ("1001", "What is fixed comes to 1,001, more than the total of 1,000"),
            ("-5", "cannot be fixed below zero"),
            ("12.5", "figures come in whole cases"),
            ("many", "is no figure"),
        ):
            try:
                lock.put(session.plan, 0, {12: lock.read(0, 12, text)})
            except UserError as error:
                assert said in str(error), error
            else:
                raise AssertionError(text)
