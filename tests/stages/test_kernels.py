"""What the kernel of a method projects from the as-of is what its deck shows, however Seasons is asked."""

from __future__ import annotations

import datetime as dt
import math

import numpy as np
from msgspec.structs import replace

from oat_tide.core.methods.table import METHODS
from oat_tide.plan.edits import Edit, edit
from oat_tide.plan.parts.evened import Ruled
from oat_tide.plan.parts.project import Project
from oat_tide.plan.parts.seasons import LeftOutRatio, ManualIndex, Seasons
from oat_tide.plan.parts.smooth import Smooth, Smoother
from oat_tide.plan.paths import P
from oat_tide.stages.methods.ground import how_of, span_of
from oat_tide.stages.project.past import from_now
from tests.helpers import FolderCase, daily, monthly, wavy
from tests.stages.sample_method import MEAN_OF_YEARS, with_method

NOISE = np.random.default_rng(36).normal(0, 1, 80)
WAVE = [(200 + 2 * i) * (1 + 0.3 * math.sin(i * math.pi / 6)) + 6 * NOISE[i] for i in range(74)]
HAND = ManualIndex((), 12, "multiplicative", 6, 0.62)
GONE = LeftOutRatio((), 12, 2022, 3)
LEFT_OUT = Ruled((), dt.date(2023, 5, 1), dt.date(2023, 5, 31), "leave out")
EXPECTED = Ruled((), dt.date(2024, 2, 1), dt.date(2024, 2, 29), "expected", value=300.0)
VARIANTS: dict[str, tuple[Edit, ...]] = {
    "plain": (),
    "added": (edit(P.seasons, Seasons(season="additive")),),
    "joined by median": (edit(P.seasons, Seasons(joined="median")),),
    "an index by hand": (edit(P.seasons, Seasons(season="multiplicative", by_hand=(HAND,))),),
    "a ratio left out": (edit(P.seasons, Seasons(left_out=(GONE,))),),
    "simple averages": (edit(P.seasons, Seasons(method="simple")),),
    "local regression": (edit(P.seasons, Seasons(method="loess", season="multiplicative", seasonal=9)),),
    "robust local regression by hand": (
        edit(P.seasons, Seasons(method="loess", season="multiplicative", robust=True, by_hand=(HAND,))),
    ),
    "a cycle by hand": (edit(P.seasons, Seasons(cycle=6)),),
    "rulings": (edit(P.evened.rulings, (LEFT_OUT, EXPECTED)),),
    "a fit span": (edit(P.project.since, dt.date(2021, 3, 1)), edit(P.project.until, dt.date(2025, 6, 30))),
    "quarters": (edit(P.periods.kind, "quarter"),),
    "years": (edit(P.periods.kind, "year"),),
    "blocks": (edit(P.periods.kind, "block"), edit(P.periods.block, 28)),
    "a damped smoother": (edit(P.smooth, Smooth((Smoother(kind="damped"),))),),
    "a smoother with a fitted start": (edit(P.smooth, Smooth((Smoother(kind="trend", begins="fitted"),))),),
    "a rolling mean": (edit(P.smooth, Smooth((Smoother(window=5),), of="deseasonalised")),),
    "a weighted mean": (edit(P.smooth, Smooth((Smoother(kind="weighted", weights=(1.0, 2.0, 3.0)),))),),
    "an index by hand with a smoother run on": (
        edit(P.seasons, Seasons(season="multiplicative", by_hand=(HAND,))),
        edit(P.smooth, Smooth((Smoother(kind="damped"),), of="deseasonalised")),
    ),
    "rulings with simple averages, added": (
        edit(P.evened.rulings, (LEFT_OUT, EXPECTED)),
        edit(P.seasons, Seasons(season="additive", method="simple")),
    ),
}  # fmt: skip
"""Ways to ask, each with every method."""
WEEKS, DAYS = edit(P.periods.kind, "week"), edit(P.periods.kind, "day")
GAPS = {7, 8, 30}


class Kernels(FolderCase):
    last = {MEAN_OF_YEARS.name: 2}  # noqa: RUF012

    def setUp(self) -> None:
        super().setUp()
        self.enterContext(with_method())

    def check(self, text: str, edits: tuple[Edit, ...]) -> None:
        """Every method, from the as-of."""
        session = self.opened(text)
        smoothing = Smooth((Smoother(kind="level"),), of="deseasonalised")
        for each in (edit(P.smooth, smoothing), *edits):
            session.do(each)
        tried = 0
        # A ceiling is sought for long, and heeds none of what is varied here.
        for name in (each for each in METHODS if each != "logistic" or not edits):
            before = session.plan.project
            keeps = {"since": before.since, "until": before.until}
            ask = Project(name, horizon=6, positive=False, last=self.last.get(name, 0), **keeps)  # type: ignore[arg-type]
            session.begin(replace(session.plan, project=ask))
            deck = session.deck("project")
            if deck.instead:
                continue
            shown = deck.figures["projected"].values[0, deck.past : deck.past + 6]
            plan, dimensions = session.plan, session.reading.dimensions
            smooth = plan.smooth if name == "smoothed" else None
            past, ask = session.sight().past, plan.project
            how = how_of(ask, plan.seasons, smooth, past, past.columns + 6, dimensions)
            own = from_now(past, name, how, span_of(past, ask, past.columns), 6)[0][0]
            with self.subTest(method=name):
                np.testing.assert_allclose(own, shown, rtol=1e-6)
                tried += not np.isnan(shown).any()
        self.assertGreater(tried, 8)

    def test_gaps(self) -> None:
        rows = monthly(WAVE).splitlines()
        self.check("\n".join(row for at, row in enumerate(rows) if at - 1 not in GAPS), ())

    def test_weeks(self) -> None:
        self.check(daily(900, wavy), (WEEKS,))

    def test_weeks_with_rulings(self) -> None:
        out = Ruled((), dt.date(2025, 5, 5), dt.date(2025, 5, 18), "leave out")
        self.check(daily(900, wavy), (WEEKS, edit(P.evened.rulings, (out,))))

    def test_days(self) -> None:
        self.check(daily(200, wavy), (DAYS,))


def _test(name: str) -> None:
    def check(self: Kernels) -> None:
        self.check(monthly(WAVE), VARIANTS[name])

    setattr(Kernels, f"test_{name.replace(' ', '_')}", check)


for _name in VARIANTS:
    _test(_name)
