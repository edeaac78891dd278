"""The rules that every stage keeps, now and later: nothing leaks, every figure explains itself."""

from __future__ import annotations

import datetime as dt
import gc
import itertools
from collections.abc import Callable, Iterator
from unittest import mock

import numpy as np

from oat_tide.core.methods.table import METHODS
from oat_tide.core.series.panel import INCOMPLETE, Panel
from oat_tide.core.working.rendering import evaluate, with_numbers
from oat_tide.core.working.tree import FACT, Cell, Given, Op, Ref, Run, SalesLines, leaves
from oat_tide.plan.edits import edit
from oat_tide.plan.parts.evened import Ruled
from oat_tide.plan.parts.history import History
from oat_tide.plan.parts.part import Part
from oat_tide.plan.parts.project import Project
from oat_tide.plan.parts.seasons import Holiday, LeftOutRatio, ManualIndex, Moving, Seasons
from oat_tide.plan.parts.smooth import Smooth, Smoother
from oat_tide.plan.parts.spread import Lock, Spread, SpreadRequest
from oat_tide.plan.paths import P
from oat_tide.session import Session
from oat_tide.stages import STAGES
from oat_tide.stages.answers import Inline
from oat_tide.stages.deck import Deck, Figure
from oat_tide.stages.deck.draft import Draft
from oat_tide.stages.history.make import ARRANGEMENTS
from oat_tide.stages.seasons.arranged import ARRANGEMENTS as OF_SEASONS
from tests.helpers import FolderCase, daily, wavy
from tests.sheets import read_aloud, sheet_value

TOLERANCE = 1e-9


RULINGS = (
    Ruled((), dt.date(2024, 6, 1), dt.date(2024, 6, 30), "leave out", note="storm"),
    Ruled((), dt.date(2024, 9, 1), dt.date(2024, 9, 30), "expected", 4321.0),
    Ruled((("product", "Bran"),), dt.date(2025, 3, 1), dt.date(9999, 12, 31), "withdrawn"),
)


def arranged(name: str, **more: object) -> object:
    """History in an arrangement."""
    return edit(P.history, History(arrangement=name, **more))  # type: ignore[arg-type]


DAYS, WEEKS = edit(P.periods.kind, "day"), edit(P.periods.kind, "week")
ARRANGED = {
    "years overlaid": [arranged("overlaid"), edit(P.periods.year_start, 4)],
    "weeks overlaid": [WEEKS, arranged("overlaid")],
    "running": [arranged("running", reset="quarter")],
    "running for ever": [arranged("running", reset="never")],
    "years from zero": [arranged("running", laid="years overlaid")],
    "years carried on": [WEEKS, arranged("running", laid="carried on")],
    "trailing": [arranged("trailing", back=2, ahead=1)],
    "trailing short": [arranged("trailing", back=11, short=True)],
    "on earlier years": [arranged("earlier", years=2)],
    "on the median, to date": [arranged("earlier", against="median", to_date=True)],
    "on usual": [arranged("usual")],
    "on usual by year": [arranged("usual", laid="years overlaid")],
    "shares": [arranged("shares", share="% of total")],
    "stacked": [arranged("shares", by="area")],
    "same weekday": [DAYS, arranged("weekday", likes=3)],
}


SMOOTHED = {
    "windows": Smooth(
        smoothers=tuple(
            Smoother(kind=kind, window=5)  # type: ignore[arg-type]
            for kind in ("median", "total", "lowest", "highest", "trimmed")
        ),
        hand=1,
    ),
    "around": Smooth(
        smoothers=(
            Smoother(place="around", window=4),
            Smoother(kind="median", place="around", window=5),
            Smoother(kind="weighted", place="around", weights=(1.0, 2.0, 0.5, 3.0)),
            Smoother(kind="weighted", weights="spencer"),
            Smoother(kind="total", place="from-to", back=2, ahead=1),
            Smoother(kind="weighted", place="from-to", back=3, ahead=0, weights="halving"),
        ),
        measure="RMSE",
    ),
    "exponential": Smooth(
        smoothers=(
            Smoother(kind="level"),
            Smoother(kind="damped", begins="fitted"),
            Smoother(kind="trend", constants="set", alpha=0.5, beta=0.4),
            Smoother(kind="damped"),
        ),
        on=4,
        measure="WAPE",
    ),
    "short and with gaps": Smooth(
        smoothers=(
            Smoother(ends="short", gaps="skip"),
            Smoother(kind="weighted", ends="short", gaps="skip", window=4, place="around"),
            Smoother(kind="trimmed", ends="short", trim=2, window=7),
            Smoother(shown=False),
        ),
        hand=1,
        measure="MAPE",
        on=3,
    ),
}


HOLIDAYS = Holiday("Christmas", 12, 25), Holiday("Easter Monday", from_easter=1)
SEASONED = {
    "indices": [Seasons(cycle=4, season="multiplicative", joined="trimmed")],
    "suggested indices": [Seasons(cycle=3, joined="median")],
    "parts, added": [Seasons(cycle=5, season="additive", arrangement="parts")],
    "deseasonalised": [Seasons(cycle=4, season="multiplicative", arrangement="deseasonalised")],
    "growth without a season": [Seasons(cycle=4, through="growth", arrangement="deseasonalised")],
    "simple averages": [
        edit(P.periods.year_start, 4),
        Seasons(cycle=4, season="multiplicative", method="simple", left_out=(LeftOutRatio((), 4, 2024, 1),)),
    ],
    "simple averages, added": [
        edit(P.periods.year_start, 4),
        Seasons(cycle=3, season="additive", method="simple"),
    ],
    "local regression": [Seasons(cycle=4, season="multiplicative", method="loess", arrangement="parts")],
    "robust regression": [
        Seasons(
            cycle=4,
            season="additive",
            method="loess",
            robust=True,
            by_hand=(ManualIndex((), 4, "additive", 2, 12.5),),
        )
    ],
    "by hand": [
        edit(P.evened.rulings, RULINGS),
        Seasons(
            cycle=4,
            season="multiplicative",
            by_hand=(ManualIndex((), 4, "multiplicative", 1, 1.05, "listed"),),
            left_out=(LeftOutRatio((), 4, 2024, 2, "storm"),),
        ),
    ],
    "gaps, added": [
        edit(P.evened.rulings, RULINGS),
        Seasons(cycle=4, season="additive", arrangement="parts"),
    ],
    "by selling day": [
        Seasons(
            cycle=4,
            per="selling day",
            holidays=HOLIDAYS,
            moving=(Moving("Easter", percent=8.0),),
            arrangement="deseasonalised",
        ),
    ],
    "weekdays": [DAYS, Seasons()],
}


WITHOUT_SEASON = {
    "smooth without a season": [
        Seasons(cycle=4, season="multiplicative"),
        edit(P.smooth, Smooth(of="deseasonalised", on=3)),
    ],
    "smooth without an added season": [
        DAYS,
        edit(
            P.smooth,
            Smooth(
                (Smoother(kind="trend", begins="fitted"), Smoother(kind="level")), of="deseasonalised", on=2
            ),
        ),
    ],
    "smooth where no season is told": [edit(P.smooth, Smooth(of="deseasonalised"))],
}


FOUR = Seasons(cycle=4, season="multiplicative")
PROJECTED = {
    "carried forward": [Project("drift", ("last", "mean", "compound", "rate", "same-period"), rate=4.0)],
    "the year before": [
        DAYS,
        Project("same-period-growth", ("same-period-drift",), last=3, positive=True, horizon=9),
    ],
    "line with season": [FOUR, Project("line-season", ("growth-season", "indicators"))],
    "growth with an added season": [
        Seasons(cycle=4, season="additive", method="simple"),
        Project("growth-season", ("line-season",), mean=True),
    ],
    "line with season by local regression": [
        Seasons(cycle=4, season="multiplicative", method="loess"),
        Project("line-season"),
    ],
    "indicators": [Seasons(cycle=3), Project("indicators", residuals=True, sure=90.0)],
    "waves": [Project("harmonics", ("weighted-line", "logarithmic"), pairs=2)],
    "waves of weekdays": [DAYS, Project("harmonics", horizon=20)],
    "powers": [Project("power", ("quadratic",), mean=True)],
    "bent twice": [edit(P.evened.rulings, RULINGS), Project("quadratic", half=5)],
    "weighted": [Project("weighted-line", half=5)],
    "by calendar year": [
        edit(P.periods.kind, "year"),
        Project("line", ("growth", "logarithmic", "huber"), numbered="calendar"),
    ],
    "smoothed": [
        Smooth((Smoother(), Smoother(kind="weighted", weights=(3.0, 2.0, 1.0))), hand=1),
        Project("smoothed", ("last",)),
    ],
    "smoothed without its season": [
        FOUR,
        Smooth((Smoother(kind="damped"),), of="deseasonalised"),
        Project("smoothed", ("line",)),
    ],
    "smoothed, laid over": [Smooth((Smoother(kind="trend"),)), Project("line", ("smoothed",))],
    "robust": [Project("huber", ("theil-sen",))],
    "growth by steps": [Project("logistic", ("growth-direct",), ceiling=3000.0)],
}


FEBRUARY = Lock(dt.date(2026, 2, 1), dt.date(2026, 2, 28), 300.0)
SPREAD_OUT = {
    "a total spread": [
        FOUR,
        Spread(asked=(SpreadRequest(total=5000.0, locks=(FEBRUARY,)),)),
    ],
    "a total in packs, by index and trend": [
        FOUR,
        Spread(by="index-trend", rounded="packs", asked=(SpreadRequest(total=5001.0),), children="product"),
    ],
    "a half year, by last year": [
        Spread(
            over="2025-H1", by="last-year", asked=(SpreadRequest(over="2025-H1", total=3000.5),),
            rounded="decimals", children="product", child_by="own season",
        ),
    ],
    "an additive season": [
        Seasons(cycle=4, season="additive"),
        Spread(asked=(SpreadRequest(total=900.0),)),
    ],
    "more locked than there is": [
        Spread(
            by="even",
            asked=(SpreadRequest(total=5.0, locks=(Lock(dt.date(2026, 2, 1), dt.date(2026, 2, 28), 9.0),)),),
        ),
    ],
}  # fmt: skip


def projecting(step: object) -> object:
    return edit(P.project, step) if isinstance(step, Project) else seasoned(step)


def seasoned(step: object) -> object:
    if isinstance(step, Spread):
        return edit(P.spread, step)
    if isinstance(step, Smooth):
        return edit(P.smooth, step)
    return edit(P.seasons, step) if isinstance(step, Seasons) else step


def variants() -> list[tuple[str, list[object]]]:
    """Ways to set a plan up that exercise every path of the stages."""
    back = edit(P.as_of, dt.date(2025, 6, 30))
    return [
        ("at home", []),
        ("moved back", [back]),
        ("by the mean", [back, edit(P.intake.totalled, "mean")]),
        ("by the last", [edit(P.intake.totalled, "last")]),
        ("by the mean, on usual", [edit(P.intake.totalled, "mean"), arranged("usual")]),
        ("growth", [back, edit(P.project.method, "growth")]),
        ("growth, mean", [back, edit(P.project.method, "growth"), edit(P.project.mean, True)]),
        (
            "fit span",
            [back, edit(P.project.since, dt.date(2024, 5, 1)), edit(P.project.until, dt.date(2025, 4, 30))],
        ),
        ("year end", [back, edit(P.project.reach, "end of fiscal year"), edit(P.periods.year_start, 4)]),
        (
            "own weights",
            [
                back,
                edit(P.smooth.smoothers[0].window, 3),
                edit(P.smooth.smoothers[1].weights, (0.5, 0.0, 2.25)),
            ],
        ),
        ("wide window", [back, edit(P.smooth.smoothers[0].window, 60)]),
        ("weeks", [back, edit(P.periods.kind, "week"), edit(P.periods.week_start, 6)]),
        ("quarters", [back, edit(P.periods.kind, "quarter")]),
        ("years", [edit(P.periods.kind, "year")]),
        ("one series", [back, edit(P.where, (("product", "Bran"), ("area", "North")))]),
        ("no such series", [edit(P.where, (("product", "Bran"), ("area", "South")))]),
        ("before all data", [edit(P.as_of, dt.date(1999, 1, 1))]),
        ("ruled", [back, edit(P.evened.rulings, RULINGS), edit(P.evened.final_to, dt.date(2025, 5, 31))]),
        ("whole weeks", [back, edit(P.periods.weeks, "4-5-4"), edit(P.periods.kind, "month")]),
        ("blocks", [back, edit(P.periods.kind, "block"), edit(P.periods.block, 10)]),
        ("not known", [back, edit(P.evened.gaps, "not known")]),
        ("days not known", [DAYS, edit(P.evened.rulings, RULINGS)]),
        (
            "spans",
            [
                edit(P.periods.kind, "week"),
                edit(
                    P.smooth,
                    Smooth(
                        (
                            Smoother(told_in="month", window=2),
                            Smoother(kind="median", told_in="quarter", window=2),
                        )
                    ),
                ),
            ],
        ),
        *((name, [back, *edits]) for name, edits in ARRANGED.items()),
        *((name, [back, edit(P.smooth, ask)]) for name, ask in SMOOTHED.items()),
        *((name, list(map(seasoned, steps))) for name, steps in SEASONED.items()),
        *((name, list(map(seasoned, steps))) for name, steps in WITHOUT_SEASON.items()),
        *((name, [back, *map(projecting, steps)]) for name, steps in PROJECTED.items()),
        *((name, [back, *map(projecting, steps)]) for name, steps in SPREAD_OUT.items()),
    ]


class NeverAnswered(Inline):
    """Late work whose answers never come."""

    def __call__(self, _: Callable[..., object], /, *_args: object) -> None:  # type: ignore[override]
        return None

    def waits(self, question: object) -> bool:  # noqa: ARG002
        return True


class Noting(Inline):
    """Late work done on the spot, which notes what was asked.

    Attributes:
        asked: every question.
    """

    def __init__(self) -> None:
        self.asked: set[object] = set()

    def __call__(self, function: Callable[..., object], /, *args: object) -> object:  # type: ignore[override]
        self.asked.add((function, args))
        return super().__call__(function, *args)


class InEveryWay(FolderCase):
    """Sessions set up in every way."""

    def setUp(self) -> None:
        super().setUp()
        # The last month is part, and so is the first of the data's weeks, quarters and years.
        self.text = daily(712, wavy, start="2024-01-10")
        # What has been told apart by where it is kept must stay there.
        self.kept: list[object] = []
        self.counted: dict[object, int] = {}

    def sessions(self, every: bool = False) -> Iterator[tuple[str, Session]]:
        """One session, set up in one way after another.

        Args:
            every: for all series at once.
        """
        first = self.opened(self.text)
        session = Session(first.source, first.plan, every=every)
        session.share(first)
        for name, edits in variants():
            session.begin(first.plan)
            for each in edits:
                session.do(each)  # type: ignore[arg-type]
            yield f"{name}, every series" if every else name, session

    def decks(self, every: bool = False) -> Iterator[tuple[str, Session, Deck]]:
        """The decks of every way; one that stands on the same as one before is not given again."""
        seen: dict[object, Deck] = {}
        for name, session in self.sessions(every):
            for stage in STAGES:
                deck = session.deck(stage)
                stands_on = self.stands_on(session, deck)
                if stands_on not in seen:
                    seen[stands_on] = deck
                    yield name, session, deck

    def stands_on(self, session: Session, deck: Deck) -> object:
        """All that a deck was made of."""
        made = {id(each.deck): each.rests_on for each in session._decks._made.values()}

        def of(given: object) -> object:
            if isinstance(given, Deck):
                sight, ask, needs = made[id(given)]
                self.kept += (sight, *needs)
                return given.stage, given.reach, id(sight), ask, tuple(map(of, needs))
            return given if isinstance(given, Part) else id(given)

        return of(deck)


class EveryStage(InEveryWay):
    LONG = True

    def test_searches_are_made_on_the_spot_only_while_all_of_them_are_short(self) -> None:
        session = self.opened(self.text)
        session.do(edit(P.periods.kind, "week"))
        session.late = NeverAnswered()
        for kind, many, soon in (("level", 1, True), ("level", 6, False), ("damped", 1, False)):
            session.do(edit(P.smooth.smoothers, (Smoother(kind=kind),) * many))  # type: ignore[arg-type]
            alpha = session.deck("smooth").figures["alpha_0"].values
            self.assertEqual(not np.isnan(alpha).any(), soon)

    def test_lines_are_bent_on_the_spot_but_a_ceiling_is_never_sought_there(self) -> None:
        session = self.opened(self.text)
        session.do(edit(P.project, Project("logistic", ceiling=9e9)))
        self.assertFalse(self.finds_no_slope(session))
        session.late = NeverAnswered()
        for method in ("huber", "theil-sen", "growth-direct", "logistic"):
            session.do(edit(P.project, Project(method, ceiling=8e9)))  # type: ignore[arg-type]
            self.assertEqual(self.finds_no_slope(session), method == "logistic", method)

    @staticmethod
    def finds_no_slope(session: Session) -> bool:
        return bool(np.isnan(session.deck("project").figures["slope"].values).any())

    def test_what_takes_long_is_asked_in_the_same_words_again(self) -> None:
        """A question that does not equal itself would be asked anew at every look, for ever."""
        for name, session in self.sessions():
            asked = []
            for _ in range(2):
                own = Session(session.source, session.plan, Noting())
                own.share(session)
                for stage in STAGES:
                    own.deck(stage)
                asked.append(own.late.asked)  # type: ignore[attr-defined]
            with self.subTest(name):
                self.assertEqual(*asked)

    def test_every_cell_of_every_figure_explains_itself(self) -> None:
        for name, session, deck in self.decks():
            with self.subTest(name, stage=deck.stage):
                checked = self.check_workings(session, deck)
                self.assertTrue(checked or name == "no such series")

    def test_so_do_those_of_several_series(self) -> None:
        for name, session, deck in self.decks(every=True):
            with self.subTest(name, stage=deck.stage):
                self.assertTrue(self.check_workings(session, deck, step=5))

    def test_formulas_alone_give_what_kernels_give(self) -> None:
        """To the last bit where units are whole, else to 1e-12 of the largest; and explain it as well."""
        own = self.opened(self.text)
        formulas = Session(own.source, own.plan, every=True)
        formulas.share(own)
        for name, kernels, deck in self.decks(every=True):
            formulas.begin(kernels.plan)
            with mock.patch.object(Draft, "preferred", staticmethod(lambda kernel: None)):
                alone = formulas.deck(deck.stage)
                reckoned = {figure.name: figure.values for figure in alone.figures.every()}
                self.check_workings(formulas, alone, step=7)
            for figure in deck.figures.every():
                with self.subTest(name, stage=deck.stage, figure=figure.name):
                    found = reckoned[figure.name]
                    largest = np.fmax.reduce(np.abs(figure.values), axis=None, initial=1.0)
                    np.testing.assert_allclose(found, figure.values, rtol=1e-12, atol=1e-12 * largest)

    def test_every_working_says_the_same_in_text_and_in_a_sheet(self) -> None:
        """Each as a reader would reckon it, and by a sheet program; long rows are tried here and there."""
        tried = 0
        for name, _, deck in itertools.chain(self.decks(), self.decks(every=True)):
            few = 100 if name in ("moved back", "growth", "on earlier years", "running") else 5
            for figure in deck.figures.every():
                cells = list(np.ndindex(*figure.values.shape))
                for series, column in cells[:: max(1, len(cells) // few)]:
                    working, value = figure.explain(series, column), figure.values[series, column]
                    if working is None or any(isinstance(leaf, SalesLines) for leaf in leaves(working)):
                        continue
                    tried += 1
                    room = TOLERANCE * max(1.0, abs(value))
                    where = f"{name}: {deck.stage}.{figure.name}[{series}, {column}]"
                    self.assertAlmostEqual(read_aloud(working), value, delta=room, msg=where)
                    self.assertAlmostEqual(sheet_value(working), value, delta=room, msg=where)
        self.assertGreater(tried, 10_000)

    def check_workings(self, session: Session, deck: Deck, step: int = 1) -> int:
        """The working gives the figure, and its terms are the figures that they cite; every `step`th cell."""
        stage, checked = deck.stage, 0
        for figure in deck.figures.every():
            for series, column in list(np.ndindex(*figure.values.shape))[::step]:
                working, value = figure.explain(series, column), float(figure.values[series, column])
                if working is None:
                    self.assertTrue(np.isnan(value), (stage, figure.name, column))
                    continue
                told = float(evaluate(working))
                room = TOLERANCE * max(1.0, abs(value))
                self.assertAlmostEqual(told, value, delta=room, msg=f"{stage}.{figure.name}[{column}]")
                for leaf in leaves(working):
                    self.check_leaf(session, leaf)
                checked += 1
        return checked

    def check_leaf(self, session: Session, leaf: Given | Cell | Run | SalesLines) -> None:
        if isinstance(leaf, Cell):
            cited = session.figure(leaf.ref)
            self.assertEqual(leaf.ref.column == FACT, cited.fact)
            self.assertEqual(leaf.value, cited.values[leaf.ref.series, max(leaf.ref.column, 0)])
        elif isinstance(leaf, Run):
            cited = session.figure(leaf.ref)
            stretch = cited.values[leaf.ref.series, leaf.ref.column : leaf.upto + 1]
            np.testing.assert_array_equal(leaf.values, stretch)
        elif isinstance(leaf, SalesLines):
            plan = session.plan
            which = plan.intake, plan.periods, leaf.key, leaf.period
            if which not in self.counted:
                self.counted[which] = session.lines(leaf).count
            self.assertEqual(self.counted[which], leaf.count)

    def test_no_working_hides_another_figure_behind_a_constant(self) -> None:
        """A working is more than a constant, but for counts, period numbers and marks."""
        plain = {"lines", "read", "used", "in_source", "in_all", "usual", "t", "actual", "zero"}
        plain |= {"beside_amount", "aside_amount", "totals_amount", "withheld", "curve_level"}
        # What chance reaches is simulated; ranks, and the parts of local regression, have kernels alone.
        plain |= {"chance", "rank", "tied", "level_rank", "swing_rank", "found", "many"}
        plain |= {"days", "raised", "ratio_year", "raw_t", "raw_used", "kind"}
        # Smoothing constants and starts are found by searching, or set.
        found = "alpha", "beta", "phi", "begun_level", "begun_trend"
        plain |= {f"{name}_{place}" for name in found for place in range(4)}
        # So are the parameters of what is found by steps; what periods pull on a coefficient, and what past
        # starts missed, is reckoned of all of them at once.
        plain |= {"steps", "counts", "leverage", "index_error", "level_at_0", "ceiling", "at_0", "slope", "n"}
        plain |= {"used", "autocorrelation", "many_of_size", "gain", "joint", "index_together"}
        plain |= {
            "lead",
            "past_size",
            "past_starts",
            "past_growth",
            "past_shared",
            "past_freedom",
            "ahead_pairs",
        }
        # What tells of a season, and of its form, is fitted by kernels; chance's part in it is simulated.
        plain |= {f"season_{each}" for each in ("rho", "without", "within", "more", "left", "f_chance")}
        plain |= {f"likely_{place}" for place in range(4)}
        # Too few years tell what is usual; the line that carries a level to its ends has a kernel alone.
        plain |= {"usual_of_all", "level", "free"}
        # A total and a lock are written; how shares are brought to what adds up is found of all at once.
        plain |= {"total", "locked", "up", "raw_weight", "trend_t", "trend_used"}
        laid = tuple(f"{name}_" for name in METHODS)
        for name, _, deck in self.decks():
            stage = deck.stage
            for figure in deck.figures.every():
                own = next(
                    (figure.name.removeprefix(each) for each in laid if figure.name.startswith(each)), ""
                )
                if {figure.name, own} & plain or "pull_" in figure.name:
                    continue
                # An actual, and a part of one, may be nothing sold.
                if figure.name.startswith(("part_", "even_", "exact_")) or figure.name == "settled":
                    continue
                if stage == "seasons" and (
                    figure.name == "hand" or (figure.name == "trend" and "regression" in name)
                ):
                    continue
                for series, column in np.ndindex(*figure.values.shape):
                    working = figure.explain(series, column)
                    if isinstance(working, Given) and "below zero" in working.why:
                        # A floor is all that there is to it.
                        continue
                    self.assertFalse(isinstance(working, Given), f"{name}: {stage}.{figure.name}")
                    self.assertIsInstance(working, Op | Cell | SalesLines | None)

    def test_what_comes_later_changes_only_figures_that_say_they_see_it(self) -> None:
        for name, session, one in self.decks():
            past = session.sight().past.columns
            two = self.scrambled(session).deck(one.stage)
            for figure in one.figures.every():
                theirs = two.figures[figure.name].values
                with self.subTest(name, stage=one.stage, figure=figure.name):
                    if not figure.sees_later:
                        np.testing.assert_array_equal(figure.values, theirs)
                    elif not figure.fact:
                        # The total of a year holds all of the year that is known.
                        before = [
                            column
                            for column in range(min(past, figure.values.shape[1]))
                            if one.label_on(figure.axis, column) != "the year's total"
                        ]
                        np.testing.assert_array_equal(figure.values[:, before], theirs[:, before])

    def test_the_scrambling_would_show(self) -> None:
        session = self.opened(self.text)
        session.do(edit(P.as_of, dt.date(2025, 6, 30)))
        other = self.scrambled(session)
        one, two = session.deck("project").figures, other.deck("project").figures
        self.assertFalse(np.array_equal(one["difference"].values, two["difference"].values, equal_nan=True))

    def scrambled(self, session: Session) -> Session:
        """The same plan on a panel in which all that lies after the as-of is other."""
        panel = session.panel
        past = session.sight().past.columns
        rng = np.random.default_rng(3)
        values, lines, flags = panel.values.copy(), panel.lines.copy(), panel.flags.copy()
        values[:, past:] = rng.integers(1, 9999, values[:, past:].shape)
        lines[:, past:] = 3
        flags[:, past:] &= INCOMPLETE
        other = Session(session.source, session.plan)
        other.prepare()
        made = Panel(
            ("scrambled", panel.stamp, past),
            panel.grid,
            panel.first,
            panel.keys,
            values,
            lines,
            flags,
            panel.scale,
            totalled=panel.totalled,
            withheld=panel.withheld.copy(),
        )
        for known in list(other.loaded._panels._held):
            other.loaded._panels[known] = made
        # What was reckoned ahead stood on the panel before.
        other._stands = None
        return other

    def test_every_working_can_be_read(self) -> None:
        session = self.opened(self.text)
        for stage in STAGES:
            deck = session.deck(stage)
            for figure in deck.figures.every():
                column = figure.values.shape[1] - 1
                working = figure.explain(0, column)
                if working is not None:
                    text, result = with_numbers(working, 4, lambda run: "a stretch")
                    self.assertTrue(text and result, figure.name)

    def test_blanks_in_rows_have_reasons(self) -> None:
        session = self.opened(self.text)
        session.do(edit(P.as_of, dt.date(2025, 6, 30)))
        for stage in ("smooth", "project", "history"):
            deck = session.deck(stage)
            for row in deck.rows:
                if row.name == "actual":
                    continue
                for column in np.flatnonzero(np.isnan(row.values[0])):
                    self.assertTrue(row.why_blank(0, int(column)), f"{stage}.{row.name} {column}")

    def test_rows_and_curves_stand_on_the_axis_in_sight(self) -> None:
        for name, _, deck in self.decks():
            drawn = [curve.figure for band in deck.bands for curve in band.curves]
            for figure in (*deck.rows, *(deck.figures[each] for each in drawn)):
                with self.subTest(name, figure=f"{deck.stage}.{figure.name}"):
                    self.assertEqual(figure.axis, deck.sees)
                    self.assertEqual(figure.values.shape, deck.flags.shape)

    def test_a_deck_that_is_let_go_is_gone_at_once(self) -> None:
        def figures() -> int:
            return sum(type(each) is Figure for each in gc.get_objects())

        session = self.opened(daily(1400, wavy, start="2022-01-10"))
        for stage, arrangement in (
            ("smooth", "sequence"),
            ("project", "sequence"),
            *(("history", name) for name in ARRANGEMENTS if name != "weekday"),
            *(("seasons", name) for name in OF_SEASONS),
        ):
            with self.subTest(f"{stage} {arrangement}"):
                if stage in ("history", "seasons"):
                    session.do(edit(getattr(P, stage).arrangement, arrangement))
                self.assertTrue(session.deck(stage).figures.every())
                gc.collect()
                self.addCleanup(gc.enable)
                gc.disable()
                before = figures()
                for back in (1, 2, 3, 4, 5):
                    session.do(edit(P.as_of, dt.date(2025, 3 + back, 28), "drag"))
                    for figure in session.deck(stage).figures.every():
                        self.assertIsNotNone(figure.values)
                self.assertLess(figures() - before, 8)
                gc.enable()

    def test_arrays_cannot_be_written(self) -> None:
        session = self.opened(self.text)
        for stage in STAGES:
            for figure in session.deck(stage).figures.every():
                self.assertFalse(figure.values.flags.writeable, f"{stage}.{figure.name}")

    def test_a_late_answer_that_never_comes_keeps_no_stage_from_its_deck(self) -> None:
        session = self.opened(self.text)
        session.late = NeverAnswered()
        for stage in STAGES:
            self.assertTrue(session.deck(stage).finding(0))

    def test_addresses_name_stage_and_figure(self) -> None:
        session = self.opened(self.text)
        deck = session.deck("project")
        working = session.explain(Ref("project", "projected", 0, deck.past))
        cited = [leaf.ref.figure for leaf in leaves(working) if isinstance(leaf, Cell)]  # type: ignore[arg-type]
        self.assertEqual(cited, ["intercept", "slope", "t"])
