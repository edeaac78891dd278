"""A worked example for every figure that is shown, from sales lines to the figure by hand.

A formula that is wrong explains itself wrongly and agrees with itself; only arithmetic done apart tells.
"""

from __future__ import annotations

import datetime as dt
import math
import re

import numpy as np

from oat_tide.plan.edits import Edit, edit
from oat_tide.plan.parts.evened import Ruled
from oat_tide.plan.parts.history import History
from oat_tide.plan.parts.smooth import Smooth, Smoother
from oat_tide.plan.paths import P
from oat_tide.session import Session
from oat_tide.stages import STAGES
from tests.helpers import FolderCase, monthly
from tests.stages.project_examples import ProjectExamples
from tests.stages.seasons_examples import SeasonsExamples
from tests.stages.spread_examples import SpreadExamples
from tests.stages.test_rules import variants

NAN = math.nan
QUARTERS = [80, 110, 140, 90, 92, 128, 150, 100, 98, 140, 172, 110]
"""Twelve quarters, 2020 to 2022."""
A = [12, 15, 11, 18, 20, 16, 22, 25]
YEARS = [210, 225, 232, 248, 310, 268, 275, 291]
"""2018 to 2025."""
T_3 = {80: 1.637744353696, 95: 3.182446305284}
T_6_AT_95, T_6_AT_80 = 2.446912, 1.439756


def quarters(values: list[float]) -> str:
    rows = [f"{2020 + i // 4}-{3 * (i % 4) + 1:02d}-01,{value}" for i, value in enumerate(values)]
    return "\n".join(["quarter,cases", *rows]) + "\n"


def years(values: list[float]) -> str:
    return "\n".join(["year,cases", *(f"{2018 + i},{value}" for i, value in enumerate(values))]) + "\n"


def arranged(name: str, **more: object) -> Edit:
    return edit(P.history, History(arrangement=name, **more))  # type: ignore[arg-type]


class Examples(SeasonsExamples, ProjectExamples, SpreadExamples, FolderCase):
    """Attributes: shown, the figures that an example was given for, by stage and name."""

    shown: set[tuple[str, str]] = set()  # noqa: RUF012

    def check(self, session: Session, stage: str, **wanted: float | list[float]) -> None:
        """Figures of a stage hold these values: all columns of a row, or the value of a fact."""
        for name, values in wanted.items():
            with self.subTest(stage=stage, figure=name):
                found = session.deck(stage).figures[name].values[0]
                np.testing.assert_allclose(found, np.atleast_1d(values), rtol=2e-6, atol=5e-7)
                self.shown.add((stage, general(name)))

    def quarterly(self, *edits: Edit) -> Session:
        session = self.opened(quarters(QUARTERS))
        for each in edits:
            session.do(each)
        return session

    def test_lines_and_what_was_ruled_of_them(self) -> None:
        text = "day,cases\n2024-01-05,30\n2024-01-09,12\n2024-02-07,25\n2024-02-28,-5\n2024-03-31,50\nx,7\n"
        session = self.opened(text)
        session.do(
            edit(P.evened.rulings, (Ruled((), dt.date(2024, 2, 1), dt.date(2024, 2, 29), "expected", 33.0),))
        )
        # 30 + 12; 25 - 5; 50.
        rows = {"actual": [42, 20, 50], "lines": [2, 2, 1], "settled": [42, 33, 50]}
        for stage in ("lines", "intake"):
            self.check(session, stage, **rows)  # type: ignore[arg-type]
        self.check(session, "intake", read=6, used=5, aside=1, in_source=119, in_all=112, in_series=112)
        self.check(session, "intake", aside_amount=7)
        for stage in ("smooth", "project"):
            self.assertEqual(session.deck(stage).figures["settled"].values[0, :3].tolist(), [42, 33, 50])
            self.shown.add((stage, "settled"))

    def test_what_is_kept_beside_left_out_and_withheld(self) -> None:
        # Of February one line has no figure: the 20 of the other is withheld with it.
        text = (
            "month,scenario,cases\n2024-01-01,Actual,40\n2024-02-01,Actual,20\n2024-02-02,Actual,\n"
            "2024-03-01,Actual,50\n2024-01-01,Budget,45\n2024-02-01,Budget,50\n2024-03-01,Budget,55\n"
            "Total,,260\n"
        )
        session = self.opened(text)
        beside = [figure for figure in session.deck("intake").figures if figure.startswith("beside_")]
        self.assertTrue(beside)
        self.check(session, "intake", actual=[40, NAN, 50], beside_0=[45, 50, 55], withheld=20)
        self.check(session, "lines", beside_0=[45, 50, 55])
        self.check(session, "intake", beside=3, beside_amount=150, totals=1, totals_amount=260)

    def test_history_in_sequence(self) -> None:
        session = self.quarterly()
        steps = [NAN, 30, 30, -50, 2, 36, 22, -50, -2, 42, 32, -62]
        on_year = [NAN] * 4 + [12, 18, 10, 10, 6, 12, 22, 10]
        self.check(
            session,
            "history",
            actual=QUARTERS,
            on_before=steps,
            growth_before=[
                NAN,
                *(100 * step / base for step, base in zip(steps[1:], QUARTERS, strict=False)),
            ],
            on_year=on_year,
            growth_year=[NAN] * 4 + [100 * d / b for d, b in zip(on_year[4:], QUARTERS, strict=False)],
            # 98 + 140 + 172 + 110 and 92 + 128 + 150 + 100.
            trailing=520,
            trailing_before=470,
            growth=100 * 50 / 470,
            trailing_mean=130,
        )

    def test_a_pinned_series_beside_the_one_in_sight(self) -> None:
        text = "month,product,cases\n" + "".join(
            f"2024-{month:02d}-01,{product},{month * size}\n"
            for month in range(1, 7)
            for product, size in (("A", 10), ("B", 3))
        )
        session = self.opened(text)
        session.do(edit(P.history.pinned, ((("product", "B"),),)))
        self.check(session, "history", actual=[13, 26, 39, 52, 65, 78], pinned_0=[3, 6, 9, 12, 15, 18])

    def test_history_running(self) -> None:
        running = [80, 190, 330, 420, 92, 220, 370, 470, 98, 238, 410, 520]
        self.check(
            self.quarterly(arranged("running")),
            "history",
            running=running,
            finished=[420] * 4 + [470] * 4 + [520] * 4,
        )
        since = np.cumsum(QUARTERS).tolist()
        self.check(self.quarterly(arranged("running", reset="never")), "history", running=since)
        laid = self.quarterly(arranged("running", laid="years overlaid"))
        self.check(laid, "history", year_2020=running[:4], year_2021=running[4:8], year_2022=running[8:])
        carried = self.quarterly(arranged("running", laid="carried on"))
        self.check(carried, "history", year_2021=[420 + each for each in running[4:8]])

    def test_history_with_a_trailing_window(self) -> None:
        session = self.quarterly(arranged("trailing", back=1, ahead=0))
        self.check(
            session,
            "history",
            trailing=[NAN, 190, 250, 230, 182, 220, 278, 250, 198, 238, 312, 282],
            trailing_mean=[NAN, 95, 125, 115, 91, 110, 139, 125, 99, 119, 156, 141],
            latest_trailing=282,
            latest_trailing_mean=141,
        )
        ends = self.quarterly(arranged("trailing", back=1, ahead=1, short=True)).deck("history").figures
        # (80 + 110) / 2 at the start, (172 + 110) / 2 at the end.
        self.assertEqual(ends["trailing_mean"].values[0, [0, 1, -1]].tolist(), [95, 110, 141])

    def test_history_with_years_overlaid(self) -> None:
        session = self.quarterly(arranged("overlaid"))
        self.check(
            session,
            "history",
            year_2020=[80, 110, 140, 90, 420, 105],
            year_2022=[98, 140, 172, 110, 520, 130],
        )

    def test_history_on_earlier_years(self) -> None:
        # Means of 80 and 92, 110 and 128, 140 and 150, 90 and 100.
        held, now = [86, 119, 145, 95], QUARTERS[8:]
        less = [12, 21, 27, 15]
        self.check(
            self.quarterly(arranged("earlier", years=2)),
            "history",
            held=held,
            lowest=[80, 110, 140, 90],
            highest=[92, 128, 150, 100],
            difference=less,
            difference_share=[100 * d / h for d, h in zip(less, held, strict=True)],
            to_date=520,
            to_date_held=445,
            to_date_gap=75,
            to_date_growth=100 * 75 / 445,
        )
        self.check(
            self.quarterly(arranged("earlier", years=2, against="median", to_date=True)),
            "history",
            year_2022=np.cumsum(now).tolist(),
            held=[86, 205, 350, 445],
            to_date=520,
            to_date_held=445,
            to_date_gap=75,
        )

    def test_history_on_usual(self) -> None:
        # (80 + 92 + 98) / 3 = 90, 378 / 3 = 126, 462 / 3 = 154, 300 / 3 = 100.
        usual = [90, 126, 154, 100] * 3
        of = [100 * value / each for value, each in zip(QUARTERS, usual, strict=True)]
        session = self.quarterly(arranged("usual"))
        self.check(session, "history", actual=QUARTERS, usual=usual, of_usual=of)
        above = [value - each for value, each in zip(QUARTERS, usual, strict=True)]
        self.check(session, "history", above_usual=above, from_usual=[each - 100 for each in of])
        laid = self.quarterly(arranged("usual", laid="years overlaid"))
        self.check(laid, "history", year_2021=[each - 100 for each in of[4:8]])

    def test_history_in_shares(self) -> None:
        text = "month,product,cases\n" + "".join(
            f"2024-0{month}-01,{product},{cases}\n"
            for month, both in ((1, (30, 10)), (2, (20, 30)), (3, (0, 50)))
            for product, cases in zip("AB", both, strict=True)
        )
        session = self.opened(text)
        session.do(arranged("shares", share="% of total"))
        # B sold 90 in all and stands first.
        self.check(
            session,
            "history",
            part_0=[10, 30, 50],
            part_1=[30, 20, 0],
            share_0=[25, 60, 100],
            share_1=[75, 40, 0],
            top_1=[100, 100, 100],
        )

    def test_history_on_the_same_weekday(self) -> None:
        first = dt.date(2024, 1, 1)
        rows = [f"{first + dt.timedelta(day)},{100 + day}" for day in range(400)]
        session = self.opened("\n".join(["day,cases", *rows]))
        session.do(edit(P.periods.kind, "day"))
        session.do(arranged("weekday", likes=3))
        # The last day is the 400th: 499; a week and two before, 492 and 485; each 364 more than a year ago.
        self.check(
            session,
            "history",
            own=[485, 492, 499],
            before=[121, 128, 135],
            difference=[364] * 3,
            difference_share=[100 * 364 / 121, 100 * 364 / 128, 100 * 364 / 135],
            mean=492,
        )

    def smoothed(self, text: str, *smoothers: Smoother, **more: object) -> Session:
        session = self.opened(text)
        session.do(edit(P.smooth, Smooth(smoothers=smoothers, **more)))  # type: ignore[arg-type]
        return session

    def test_smooth(self) -> None:
        session = self.smoothed(monthly(A), Smoother(window=3), Smoother(kind="weighted", window=3))  # type: ignore[arg-type]
        means = [sum(A[i - 2 : i + 1]) / 3 for i in range(2, 8)]
        weighted = [12.5, 15.166667, 17.833333, 17.666667, 19.666667, 22.5]
        errors = [5.5, 4.833333, -1.833333, 4.333333, 5.333333]
        self.check(
            session,
            "smooth",
            actual=[*A, NAN],  # type: ignore[list-item]
            smoothed_0=[NAN, NAN, *means, NAN],
            smoothed_1=[NAN, NAN, *weighted, NAN],
            # The smoothed row moved by one, and one period past the as-of.
            forecast_0=[NAN] * 3 + means,
            forecast_1=[NAN] * 3 + weighted,
            error_0=[NAN] * 3 + [A[i] - means[i - 3] for i in range(3, 8)] + [NAN],
            error_1=[NAN] * 3 + errors + [NAN],
            next_0=means[-1],
            next_1=22.5,
            mae_1=4.366667,
            # Of 1.8333, 4.3333, 4.8333, 5.3333 and 5.5 the middle one.
            half_1=4.833333,
            # (0 x 3 + 1 x 2 + 2 x 1) / 6; (3 - 1) / 2.
            lag_1=2 / 3,
            lag_0=1,
            # Changes of the weighted: 8 1/6 + ... over those of the actual from the third on.
            calm_1=53.0303,
            # Steps of the means 2, 5/3, 5/3, 4/3, 5/3 over steps 7, 2, 4, 6, 3.
            calm_0=100 * (1 - (2 + 5 / 3 + 5 / 3 + 4 / 3 + 5 / 3) / 22),
        )

    def test_smooth_by_other_windows(self) -> None:
        kinds = ("median", "total", "lowest", "highest", "trimmed")
        smoothers = [Smoother(kind=kind, window=4) for kind in kinds]  # type: ignore[arg-type]
        session = self.smoothed(monthly(A), *smoothers, Smoother(place="around", window=4), hand=1)  # type: ignore[arg-type]
        found = {name: session.deck("smooth").figures[f"smoothed_{at}"] for at, name in enumerate(kinds)}
        # 12 15 11 18; 15 11 18 20; 11 18 20 16; 18 20 16 22; 20 16 22 25.
        self.assertEqual(found["median"].values[0, 3:8].tolist(), [13.5, 16.5, 17, 19, 21])
        self.assertEqual(found["total"].values[0, 3:8].tolist(), [56, 64, 65, 76, 83])
        self.assertEqual(found["lowest"].values[0, 3:8].tolist(), [11, 11, 11, 16, 16])
        self.assertEqual(found["highest"].values[0, 3:8].tolist(), [18, 20, 20, 22, 25])
        self.assertEqual(found["trimmed"].values[0, 3:8].tolist(), [13.5, 16.5, 17, 19, 21])
        # The 2x4 average: (12/2 + 15 + 11 + 18 + 20/2) / 4 = 15.
        self.check(session, "smooth", smoothed_5=[NAN, NAN, 15, 16.125, 17.625, 19.875, NAN, NAN, NAN])
        # A total is divided by its length first: steps 8, 1, 11, 7 over 4, of 2, 4, 6, 3.
        self.check(session, "smooth", calm_1=100 * (1 - (8 + 1 + 11 + 7) / 4 / (2 + 4 + 6 + 3)))
        for name in ("forecast_1", "forecast_2", "forecast_3", "forecast_5"):
            self.assertNotIn(name, session.deck("smooth").figures)
        self.assertIn("forecast_4", session.deck("smooth").figures)

    def test_smooth_exponentially(self) -> None:
        values = [10, 20, 10, 30, 20, 40]
        level = Smoother(kind="level", constants="set", alpha=0.5)
        trend = Smoother(kind="trend", constants="set", alpha=0.5, beta=0.4)
        damped = Smoother(kind="damped", constants="set", alpha=0.5, beta=0.4, phi=0.9)
        session = self.smoothed(monthly(values), level, trend, damped, on=3)  # type: ignore[arg-type]
        # 10; (20 + 10) / 2; (10 + 15) / 2; (30 + 12.5) / 2; (20 + 21.25) / 2; (40 + 20.625) / 2.
        levels = [10, 15, 12.5, 21.25, 20.625, 30.3125]
        self.check(
            session,
            "smooth",
            smoothed_0=[*levels, NAN, NAN, NAN],
            forecast_0=[NAN, *levels, 30.3125, 30.3125],
            alpha_0=0.5,
            beta_1=0.4,
            phi_2=0.9,
            # (1 - 0.5) / 0.5.
            lag_0=1,
        )
        # At the fifth period the level is 20, the trend (20 - 10) / 4 = 2.5. The sixth is forecast as 22.5:
        # level (40 + 22.5) / 2 = 31.25, trend 0.4 x 11.25 + 0.6 x 2.5 = 6; then 37.25, 43.25, 49.25.
        none = [NAN] * 4
        self.check(session, "smooth", smoothed_1=[*none, 20, 31.25, NAN, NAN, NAN])
        self.check(session, "smooth", forecast_1=[*none, NAN, 22.5, 37.25, 43.25, 49.25])
        # Damped: 20 + 0.9 x 2.5 = 22.25; level 31.125, trend 0.4 x 11.125 + 0.6 x 2.25 = 5.8;
        # then + 0.9 x 5.8 = 5.22, + 0.81 x 5.8 = 4.698, + 0.729 x 5.8 = 4.2282.
        self.check(session, "smooth", smoothed_2=[*none, 20, 31.125, NAN, NAN, NAN])
        self.check(session, "smooth", forecast_2=[*none, NAN, 22.25, 36.345, 41.043, 45.2712])

    def test_smooth_from_a_fitted_start(self) -> None:
        level = Smoother(kind="level", constants="set", alpha=0.5, begins="fitted")
        # Levels l, 5 + l / 2, 12.5 + l / 4; errors 10 - l, 15 - l / 2, 3.5 - l / 4. Their squares are least
        # where 10 - l + (15 - l / 2) / 2 + (3.5 - l / 4) / 4 = 0: l = 14.
        session = self.smoothed(monthly([10, 20, 16]), level)
        self.check(session, "smooth", begun_level_0=14, smoothed_0=[12, 16, 16, NAN])
        self.check(session, "smooth", forecast_0=[NAN, 12, 16, 16])
        # A line is hit throughout from 0 with a trend of 10.
        trend = Smoother(kind="trend", constants="set", alpha=0.5, beta=0.4, begins="fitted")
        session = self.smoothed(monthly([10, 20, 30, 40, 50]), trend)
        self.check(session, "smooth", begun_level_0=0, begun_trend_0=10)
        self.check(session, "smooth", smoothed_0=[10, 20, 30, 40, 50, NAN], next_0=60)

    def test_smooth_which_errs_least(self) -> None:
        session = self.smoothed(monthly(A), Smoother(window=2), longest=4)  # type: ignore[arg-type]
        figures = session.deck("smooth").figures
        # On periods 5 to 8 alike for all lengths: 1 |2, -4, 6, 3|, 2 |5.5, -3, 4, 6| and so on.
        np.testing.assert_allclose(
            figures["curve_mean"].values[0], [3.75, 4.625, 3.833333, 4.4375], rtol=1e-6
        )
        # The two differ by 3.5, -1, -2, 3: mean 0.875, squares about it 23.1875, t on 3 degrees of freedom,
        # whose tails are 1 - 2 / pi (angle + sin cos) with tan = t / root 3.
        angle = math.atan(0.875 / math.sqrt(23.1875 / 3 / 4) / math.sqrt(3))
        p = 1 - 2 / math.pi * (angle + math.sin(angle) * math.cos(angle))
        self.check(session, "smooth", chance=p)
        session = self.smoothed(quarters(QUARTERS), Smoother(window=2), longest=3)  # type: ignore[arg-type]
        # From the fifth on: |12, 18, 10, 10, 6, 12, 22, 10|.
        self.check(session, "smooth", error_year=12.5)

    def test_smooth_says_what_came_and_the_range_of_its_errors(self) -> None:
        values = [10 * (1 + i % 3) for i in range(15)]
        session = self.smoothed(monthly(values), Smoother(kind="level", constants="set", alpha=0.99))  # type: ignore[arg-type]
        session.do(edit(P.as_of, dt.date(2021, 2, 28)))
        errors = np.sort(np.abs(session.deck("smooth").figures["error_0"].values[0, 1:14]))
        # Nine tenths of 13: at place 0.9 x 12 = 10.8 from 0, between the 11th and the 12th.
        self.check(session, "smooth", sold=30, nine_0=errors[10] + 0.8 * (errors[11] - errors[10]))

    def test_project_by_a_line(self) -> None:
        session = self.opened(years(YEARS))  # type: ignore[arg-type]
        session.do(edit(P.project.horizon, 1))
        line = [204.5 + 11.75 * t for t in range(1, 10)]
        ends = {level: t / T_6_AT_95 * 63.940519 for level, t in ((80, T_6_AT_80), (95, T_6_AT_95))}
        # From 6 and 7 years on there are two past starts, too few: what the line misses of ln stands in.
        missed = math.sqrt(sum(math.log(y / x) ** 2 for y, x in zip(YEARS, line[:8], strict=True)) / 8)
        far = {level: math.exp(t * missed * math.sqrt(1 + 1 / 4)) for level, t in T_3.items()}
        self.check(
            session,
            "project",
            actual=[*YEARS, NAN],
            fitted=[*line[:8], NAN],
            projected=[NAN] * 8 + [310.25],
            lower_80=[NAN] * 8 + [310.25 / far[80]],
            upper_80=[NAN] * 8 + [310.25 * far[80]],
            lower_95=[NAN] * 8 + [310.25 / far[95]],
            upper_95=[NAN] * 8 + [310.25 * far[95]],
            curve_lower_80=[NAN] * 8 + [310.25 - ends[80]],
            curve_upper_80=[NAN] * 8 + [310.25 + ends[80]],
            curve_lower_95=[NAN] * 8 + [310.25 - ends[95]],
            curve_upper_95=[NAN] * 8 + [310.25 + ends[95]],
            slope=11.75,
            intercept=204.5,
            r2=0.694623,
            s=20.612496,
            slope_lower=11.75 - T_6_AT_95 * 3.180577,
            slope_upper=11.75 + T_6_AT_95 * 3.180577,
        )

    def test_project_by_growth(self) -> None:
        session = self.opened(years(YEARS))  # type: ignore[arg-type]
        for each in (edit(P.project.horizon, 1), edit(P.project.method, "growth")):
            session.do(each)
        median = [NAN] * 8 + [315.401848]
        self.check(session, "project", growth=4.805658, projected=median, r2=0.729650, r2_original=0.673054)
        session.do(edit(P.project.mean, True))
        self.check(session, "project", projected=[NAN] * 8 + [316.304261])

    def test_projected_against_actual(self) -> None:
        session = self.opened(monthly([10, 20, 30, 44, 45]))
        session.do(edit(P.as_of, dt.date(2020, 3, 31)))
        session.do(edit(P.project.horizon, 3))
        # 40, 50, 60 by the line of the first three.
        self.check(
            session,
            "project",
            difference=[NAN, NAN, NAN, 4, -5, NAN],
            difference_share=[NAN, NAN, NAN, 10, -10, NAN],
        )

    def test_zz_no_figure_is_shown_without_an_example(self) -> None:
        """Last by name: it looks at what the others gave."""
        for name in sorted(each for each in dir(self) if each.startswith("test_") and "zz" not in each):
            getattr(self, name)()
        text = "day,product,area,cases\n" + "".join(
            f"{dt.date(2023, 11, 3) + dt.timedelta(day)},{product},{area},{3 + day % 9}\n"
            for day in range(700)
            for product, area in (("Bran", "North"), ("Oat drink", "South"))
        )
        first = self.opened(text)
        for _, edits in variants():
            session = Session(first.source, first.plan)
            session.share(first)
            for each in edits:
                session.do(each)  # type: ignore[arg-type]
            for stage in STAGES:
                shown = {
                    (stage, general(each.name)) for each in session.deck(stage).figures.values() if each.shown
                }
                self.assertLessEqual(shown, self.shown)


def general(name: str) -> str:
    """The name of a figure without the year or number that tells it from its like."""
    name = re.sub(r"^(sin|cos|season|weekday)\d+", r"\1", name)
    return re.sub(r"_\d+$", "", name) if not name.startswith(("lower", "upper")) else name
