"""Worked examples of Project: every method by hand, and what it is judged by."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

import numpy as np
from scipy.special import fdtrc, stdtr, stdtrit

from oat_tide.plan.edits import Edit, edit
from oat_tide.plan.parts.project import Project
from oat_tide.plan.parts.seasons import Seasons
from oat_tide.plan.parts.smooth import Smooth, Smoother
from oat_tide.plan.paths import P
from oat_tide.session import Session
from tests.helpers import monthly

NAN = math.nan
C = [80, 110, 140, 90, 92, 128, 150, 100, 98, 140, 172, 110]
"""Twelve quarters, 2020 to 2022."""
YEARS = [210.0, 225, 232, 248, 310, 268, 275, 291]
"""2018 to 2025."""
FOUR = edit(P.seasons, Seasons(season="multiplicative"))


def exact(values: list[float]) -> str:
    """A file of months with every digit."""
    rows = "\n".join(f"2020-{i + 1:02d}-01,{value:.12f}" for i, value in enumerate(values))
    return f"month,cases\n{rows}\n"


class ProjectExamples:
    """Mixed into the worked examples."""

    if TYPE_CHECKING:

        def check(self, session: Session, stage: str, **wanted: float | list[float]) -> None: ...
        def opened(self, text: str, name: str = "sales.csv") -> Session: ...
        def quarterly(self, *edits: Edit) -> Session: ...

    def yearly(self, *edits: Edit) -> Session:
        rows = "\n".join(f"{2018 + i},{value:g}" for i, value in enumerate(YEARS))
        session = self.opened(f"year,cases\n{rows}\n")
        for each in edits:
            session.do(each)
        return session

    def test_the_regression_table_of_a_line(self) -> None:
        session = self.yearly(edit(P.project.horizon, 1))
        line = [204.5 + 11.75 * t for t in range(1, 9)]
        off = [actual - fitted for actual, fitted in zip(YEARS, line, strict=True)]
        sse = sum(each**2 for each in off)
        sst = sum((each - sum(YEARS) / 8) ** 2 for each in YEARS)
        s, sxx = math.sqrt(sse / 6), 42.0
        # Of t = 1 ... 8 the mean is 4.5: 1/8 + (t - 4.5)² / 42.
        leverage = [1 / 8 + (t - 4.5) ** 2 / sxx for t in range(1, 9)]
        errors = {"intercept": s * math.sqrt(1 / 8 + 4.5**2 / sxx), "slope": s / math.sqrt(sxx)}
        q = float(stdtrit(6, 0.975))
        steps = sum((one - other) ** 2 for one, other in zip(off[1:], off[:-1], strict=True))
        f = (sst - sse) / (sse / 6)
        self.check(
            session,
            "project",
            remains=[*off, NAN],
            standardised=[*(e / (s * math.sqrt(1 - h)) for e, h in zip(off, leverage, strict=True)), NAN],
            adjusted_r2=1 - (sse / 6) / (sst / 7),
            f=f,
            f_p=float(fdtrc(1, 6, f)),
            # Three parameters, the variance among them: 8 ln(SSE / 8) + 6 + 2 x 3 x 4 / (8 - 3 - 1).
            aicc=8 * math.log(sse / 8) + 6 + 24 / 4,
            durbin_watson=steps / sse,
            ahead_total=310.25,
            # 310.25 on the 291 of 2025.
            ahead_growth=100 * (310.25 / 291 - 1),
            on_year=[NAN] * 8 + [100 * (310.25 / 291 - 1)],
            year_base=[NAN, *YEARS],
            on_base=[NAN] * 8 + [310.25 - 291],
            ahead_compound=100 * (310.25 / 291 - 1),
        )
        for name, value in (("intercept", 204.5), ("slope", 11.75)):
            error = errors[name]
            told = {
                "error": error,
                "t": value / error,
                "p": 2 * float(stdtr(6, -value / error)),
                "lower": value - q * error,
                "upper": value + q * error,
            }
            self.check(session, "project", **{f"{name}_{part}": each for part, each in told.items()})

    def test_years_numbered_by_the_calendar_give_the_same_fit(self) -> None:
        # 204.5 + 11.75 t with t = year - 2017: 204.5 - 11.75 x 2017 + 11.75 x year.
        session = self.yearly(edit(P.project, Project("line", horizon=1, numbered="calendar")))
        self.check(session, "project", slope=11.75, intercept=204.5 - 11.75 * 2017, s=20.612496)
        self.check(session, "project", projected=[NAN] * 8 + [310.25])
        plain = self.yearly(edit(P.project, Project("quadratic", horizon=2)))
        by_year = self.yearly(edit(P.project, Project("quadratic", horizon=2, numbered="calendar")))
        for name in ("projected", "t2", "r2", "upper_95"):
            np.testing.assert_allclose(
                by_year.deck("project").figures[name].values,
                plain.deck("project").figures[name].values,
                rtol=1e-7,
            )

    def test_what_is_carried_forward(self) -> None:
        # The last year comes to 520, the one before to 470.
        over = "drift", "mean", "same-period", "same-period-growth", "same-period-drift", "compound"
        ahead = {
            "last": [110, 110],
            "drift": [110 + 30 / 11, 110 + 60 / 11],
            "mean": [130, 130],
            "same-period": [98, 140],
            "same-period-growth": [98 * 52 / 47, 140 * 52 / 47],
            "same-period-drift": [110.5, 152.5],
            "compound": [110 * (110 / 80) ** (1 / 11), 110 * (110 / 80) ** (2 / 11)],
            "rate": [110 * 1.04**0.25, 110 * 1.04**0.5],
        }
        session = self.quarterly(edit(P.project, Project("last", over, horizon=2)))
        self.check(session, "project", last=110, projected=[NAN] * 12 + ahead["last"])
        self.check(session, "project", fitted=[NAN, *C[:-1], NAN, NAN])
        for name in over:
            self.check(session, "project", **{f"projected_{name}": [NAN] * 12 + ahead[name]})
        # 110 carried forward two quarters from 110; by 4 % per year it grows so.
        self.check(session, "project", on_before=[NAN] * 12 + [0, 0], ahead_compound=0, ahead_a_year=0)
        facts = {
            "drift": {"drift": 30 / 11, "first": 80, "last": 110},
            "mean": {"mean_last": 130},
            "same-period-growth": {"year": 520, "year_before": 470, "year_growth": 100 * (52 / 47 - 1)},
            "same-period-drift": {"year_change": 12.5},
            "compound": {"compound": 100 * ((110 / 80) ** (1 / 11) - 1)},
            "rate": {},
        }
        facts["rate"] = {"ahead_compound": 100 * (1.04**0.25 - 1), "ahead_a_year": 4.0}
        for name, wanted in facts.items():
            session.do(edit(P.project, Project(name, ("last", "rate"), horizon=2, rate=4.0)))  # type: ignore[arg-type]
            self.check(session, "project", projected=[NAN] * 12 + ahead[name], **wanted)  # type: ignore[arg-type]
        session.do(edit(P.project, Project("line", ("last", "rate"), horizon=2, rate=4.0)))
        self.check(session, "project", projected_last=[NAN] * 12 + ahead["last"])
        self.check(session, "project", projected_rate=[NAN] * 12 + ahead["rate"])

    def test_a_smoother_runs_on(self) -> None:
        history = [12.0, 15, 11, 18, 20, 16, 22, 25]
        session = self.opened(monthly(history))
        session.do(edit(P.smooth.smoothers[1].weights, (3.0, 2.0, 1.0)))
        session.do(edit(P.smooth.hand, 1))
        session.do(edit(P.project, Project("smoothed", horizon=2)))
        # (3 x 25 + 2 x 22 + 16) / 6 for both; fitted are the one-step forecasts: (3 x 11 + 2 x 15 + 12) / 6.
        fitted = [NAN] * 3 + [12.5, 91 / 6, 107 / 6, 106 / 6, 118 / 6]
        ahead = [NAN] * 8 + [22.5] * 2
        self.check(session, "project", level=22.5, projected=ahead, fitted=[*fitted, NAN, NAN])
        session.do(edit(P.project, Project("last", ("smoothed",), horizon=2)))
        self.check(session, "project", projected_smoothed=ahead)
        session.do(edit(P.project, Project("smoothed", horizon=2)))
        by_hand = Smoother(kind="damped", constants="set", alpha=0.5, beta=0.4, phi=0.9)
        session.do(edit(P.smooth, Smooth((by_hand,))))
        # At the fifth the level is 20, the trend (20 - 12) / 4 = 2.
        level, trend, one_step = 20.0, 2.0, [NAN] * 5
        for value in history[5:]:
            forecast, before = level + 0.9 * trend, level
            one_step.append(forecast)
            level = 0.5 * value + 0.5 * forecast
            trend = 0.4 * (level - before) + 0.6 * 0.9 * trend
        ahead = [NAN] * 8 + [level + 0.9 * trend, level + (0.9 + 0.81) * trend]
        self.check(session, "project", rise=trend, fitted=[*one_step, NAN, NAN], projected=ahead)

    def test_without_past_starts_the_errors_of_the_fit_stand_in(self) -> None:
        # The last value of 10, 12, 15, 19 misses the next by ln 1.2, ln 1.25, ln 19/15; t of 3.
        session = self.opened(monthly([10, 12, 15, 19]))
        session.do(edit(P.project, Project("last", horizon=2, intervals=(80.0,))))
        size = math.sqrt(sum(math.log(each) ** 2 for each in (1.2, 1.25, 19 / 15)) / 3)
        t = float(stdtrit(3, 0.9))
        far = [math.exp(t * size * math.sqrt(lead) * math.sqrt(1 + lead / 2)) for lead in (1, 2)]
        self.check(session, "project", lower_80=[NAN] * 4 + [19 / each for each in far])
        self.check(session, "project", upper_80=[NAN] * 4 + [19 * each for each in far])
        # What the two leads share is taken for half, and they go together by the root of 1/2.
        one, two = (19 * size * math.sqrt(lead) * math.sqrt(1 + lead / 2) for lead in (1, 2))
        half = t * math.sqrt(one**2 + two**2 + 2 * 0.5 * math.sqrt(0.5) * one * two)
        self.check(session, "project", total_lower_80=38 - half, total_upper_80=38 + half)

    def test_the_total_of_all_periods_ahead(self) -> None:
        # 210, 225 ... 291 by a line: two years ahead, at t = 9 and 10 of 8.
        ahead = [204.5 + 11.75 * 9, 204.5 + 11.75 * 10]
        sse = sum((actual - (204.5 + 11.75 * t)) ** 2 for t, actual in enumerate(YEARS, 1))
        size = math.sqrt(sse / 6) * math.sqrt(2 + 4 / 8 + (4.5 + 5.5) ** 2 / 42)
        q = {level: float(stdtrit(6, 0.5 + level / 200)) for level in (80, 95)}
        self.check(
            self.yearly(edit(P.project.horizon, 2)), "project", ahead_total=sum(ahead),
            total_curve_lower_80=sum(ahead) - q[80] * size, total_curve_upper_80=sum(ahead) + q[80] * size,
            total_curve_lower_95=sum(ahead) - q[95] * size, total_curve_upper_95=sum(ahead) + q[95] * size,
        )  # fmt: skip
        # On logarithms each year counts by what it comes to, and the limits lie as far off in them.
        t, z = np.arange(1.0, 9), np.log(YEARS)
        slope, level = np.polyfit(t, z, 1)
        s = math.sqrt(float(((z - level - slope * t) ** 2).sum()) / 6)
        each = np.exp(level + slope * np.array([9.0, 10]))
        together = each.sum() ** 2 / 8 + (each @ np.array([4.5, 5.5])) ** 2 / 42
        far = math.exp(q[80] * s * math.sqrt((each**2).sum() + together) / each.sum())
        session = self.yearly(edit(P.project, Project("growth", horizon=2)))
        self.check(
            session, "project", total_curve_lower_80=each.sum() / far, total_curve_upper_80=each.sum() * far,
        )  # fmt: skip
        # By past starts, two of them too few: what the line misses of ln stands in, half of it shared.
        line = [204.5 + 11.75 * t for t in range(1, 9)]
        missed = math.sqrt(sum(math.log(y / x) ** 2 for y, x in zip(YEARS, line, strict=True)) / 8)
        one, two = (f * missed * math.sqrt(lead) * math.sqrt(1 + lead / 4) for lead, f in enumerate(ahead, 1))
        size = math.sqrt(one**2 + two**2 + 2 * 0.5 * math.sqrt(0.5) * one * two)
        session = self.yearly(edit(P.project.horizon, 2))
        for level in (80, 95):
            half = float(stdtrit(3, 0.5 + level / 200)) * size
            self.check(session, "project", **{f"total_lower_{level}": sum(ahead) - half})
            self.check(session, "project", **{f"total_upper_{level}": sum(ahead) + half})

    def test_a_line_put_back_in_season(self) -> None:
        indices = [0.795980, 1.092578, 1.289581, 0.821861]
        ahead = [109.408461, 153.551468, 185.222045, 120.582521]
        trend = [97.291474 + 3.089213 * t for t in range(1, 17)]
        season = [indices[t % 4] for t in range(16)]
        over = "growth-season", "indicators", "harmonics"
        session = self.quarterly(FOUR, edit(P.project, Project("line-season", over, horizon=4)))
        self.check(
            session,
            "project",
            trend=trend,
            season=season,
            projected=[NAN] * 12 + ahead,
            ahead_total=568.764495,
            ahead_growth=100 * (568.764495 / 520 - 1),
        )
        # ln of the deseasonalised by a line, e to it, and back in season.
        index = np.array(season[:12])
        z, t = np.log(np.array(C) / index), np.arange(1.0, 13)
        slope, level = np.polyfit(t, z, 1)
        grown = np.exp(level + slope * np.arange(13.0, 17)) * np.array(indices)
        self.check(session, "project", **{"projected_growth-season": [NAN] * 12 + grown.tolist()})
        # A level of each quarter about a common slope.
        x = np.column_stack((t, np.eye(4)[np.arange(12) % 4]))
        found, *_ = np.linalg.lstsq(x, np.array(C, float), rcond=None)
        later = found[0] * np.arange(13.0, 17) + found[1:]
        self.check(session, "project", projected_indicators=[NAN] * 12 + later.tolist())
        session.do(edit(P.project, Project("indicators", ("line-season",), horizon=4)))
        self.check(session, "project", slope=found[0], **{f"season{i}": found[i + 1] for i in range(4)})
        self.check(session, "project", **{"projected_line-season": [NAN] * 12 + ahead})
        self._errors(session, x, ("slope", *(f"season{i}" for i in range(4))))
        # One wave a year: its sine is 0, 1, 0, -1 and its cosine 1, 0, -1, 0.
        phase = 2 * np.pi * (np.arange(16) % 4) / 4
        waves = np.column_stack((np.arange(1.0, 17), np.ones(16), np.sin(phase), np.cos(phase)))
        found, *_ = np.linalg.lstsq(waves[:12], np.array(C, float), rcond=None)
        session.do(edit(P.project, Project("harmonics", horizon=4, pairs=1)))
        self.check(session, "project", slope=found[0], intercept=found[1], sin1=found[2], cos1=found[3])
        self.check(session, "project", projected=[NAN] * 12 + (waves[12:] @ found).tolist())
        self._errors(session, waves[:12], ("slope", "intercept", "sin1", "cos1"))
        session.do(edit(P.project, Project("line", ("harmonics",), horizon=4, pairs=1)))
        self.check(session, "project", projected_harmonics=[NAN] * 12 + (waves[12:] @ found).tolist())

    def _errors(self, session: Session, x: np.ndarray, names: tuple[str, ...], level: float = 0.95) -> None:
        """The table of coefficients by the normal equations: s² (X'X)⁻¹."""
        figures = session.deck("project").figures
        z = figures["z"].values[0, : len(x)]
        inverse = np.linalg.inv(x.T @ x)
        found = inverse @ x.T @ z
        freedom = len(x) - len(found)
        s = math.sqrt(((z - x @ found) ** 2).sum() / freedom)
        q = float(stdtrit(freedom, 0.5 + level / 2))
        for name, value, square in zip(names, found, np.diag(inverse), strict=True):
            error = s * math.sqrt(square)
            p = 2 * float(stdtr(freedom, -abs(value / error)))
            self.check(session, "project", **{f"{name}_error": error, f"{name}_t": value / error})
            self.check(session, "project", **{f"{name}_p": p, f"{name}_lower": value - q * error})
            self.check(session, "project", **{f"{name}_upper": value + q * error})

    def test_waves_of_days_have_a_level_for_every_weekday(self) -> None:
        text = "day,cases\n" + "\n".join(
            f"{np.datetime64('2024-01-01') + i},{100 + i + 7 * (i % 7) + (i * i) % 5}" for i in range(70)
        )
        session = self.opened(text)
        session.do(edit(P.periods.kind, "day"))
        session.do(edit(P.project, Project("harmonics", horizon=2, pairs=1)))
        at = np.arange(70)
        phase = 2 * np.pi * at / 366
        x = np.column_stack((at + 1.0, np.eye(7)[at % 7], np.sin(phase), np.cos(phase)))
        names = ("slope", *(f"weekday{i}" for i in range(7)), "sin1", "cos1")
        found, *_ = np.linalg.lstsq(x, 100 + at + 7 * (at % 7) + (at * at) % 5, rcond=None)
        self.check(session, "project", **dict(zip(names, found.tolist(), strict=True)))
        self._errors(session, x, names)

    def test_bent_curves(self) -> None:
        t = np.arange(1.0, 10)
        y = np.array(YEARS)
        over = "logarithmic", "power", "weighted-line", "huber", "theil-sen", "growth"
        session = self.yearly(edit(P.project, Project("quadratic", over, horizon=1, half=2)))
        x = np.column_stack((t**0, t, t**2))
        found, *_ = np.linalg.lstsq(x[:8], y, rcond=None)
        self.check(session, "project", intercept=found[0], slope=found[1], t2=found[2])
        self.check(session, "project", projected=[NAN] * 8 + [float(x[8] @ found)])
        self._errors(session, x[:8], ("intercept", "slope", "t2"))
        ln = np.column_stack((t**0, np.log(t)))
        a, *_ = np.linalg.lstsq(ln[:8], y, rcond=None)
        b, *_ = np.linalg.lstsq(ln[:8], np.log(y), rcond=None)
        self.check(session, "project", projected_logarithmic=[NAN] * 8 + [float(ln[8] @ a)])
        self.check(session, "project", projected_power=[NAN] * 8 + [math.exp(float(ln[8] @ b))])
        self.check(session, "project", projected_growth=[NAN] * 8 + [315.401848])
        # A year counts half as much as that two years later.
        w = 0.5 ** (np.arange(8)[::-1] / 2)
        xw = np.column_stack((t[:8] ** 0, t[:8]))
        c = np.linalg.solve(xw.T @ (w[:, None] * xw), xw.T @ (w * y))
        self.check(session, "project", **{"projected_weighted-line": [NAN] * 8 + [float(c[0] + 9 * c[1])]})
        # The slopes of all 28 pairs, the middle two of them averaged.
        slopes = sorted((y[j] - y[i]) / (j - i) for i in range(8) for j in range(i + 1, 8))
        slope = (slopes[13] + slopes[14]) / 2
        level = float(np.median(y - slope * t[:8]))
        self.check(session, "project", **{"projected_theil-sen": [NAN] * 8 + [level + 9 * slope]})
        session.do(edit(P.project, Project("theil-sen", ("quadratic",), horizon=1)))
        self.check(session, "project", slope=slope, intercept=level)
        self.check(session, "project", projected_quadratic=[NAN] * 8 + [float(x[8] @ found)])
        self._huber(session, y, t)

    def _huber(self, session: Session, y: np.ndarray, t: np.ndarray) -> None:
        """Weighted anew by their errors, by a plain loop, until nothing changes."""
        w = np.ones(8)
        x = np.column_stack((t[:8] ** 0, t[:8]))
        for _ in range(500):
            c = np.linalg.solve(x.T @ (w[:, None] * x), x.T @ (w * y))
            size = np.abs(y - x @ c)
            w = np.minimum(1, 1.345 * np.median(size) / 0.6745 / size)
        session.do(edit(P.project, Project("huber", ("line",), horizon=1)))
        self.check(session, "project", intercept=c[0], slope=c[1], projected_line=[NAN] * 8 + [310.25])
        session.do(edit(P.project, Project("line", ("huber",), horizon=1)))
        self.check(session, "project", projected_huber=[NAN] * 8 + [float(c[0] + 9 * c[1])])

    def test_growth_by_steps(self) -> None:
        # Series made of known parameters, to the last case: 100 e^(0.1 t) and 500 / (1 + e^(3 - t / 2)).
        grown = [100 * math.exp(0.1 * t) for t in range(1, 13)]
        session = self.opened(exact(grown))
        session.do(edit(P.project, Project("growth-direct", horizon=1)))
        after = 100 * math.exp(1.3)
        self.check(session, "project", level_at_0=100, growth=100 * (math.exp(0.1) - 1))
        self.check(session, "project", projected=[NAN] * 12 + [after])
        slack = [500 / (1 + math.exp(3 - t / 2)) for t in range(1, 13)]
        session = self.opened(exact(slack), "slack.csv")
        session.do(edit(P.project, Project("logistic", ("growth-direct",), horizon=1)))
        full = 500 / (1 + math.exp(3 - 6.5))
        self.check(session, "project", ceiling=500, at_0=-3, slope=0.5, projected=[NAN] * 12 + [full])
        session = self.opened(exact(grown), "grown.csv")
        session.do(edit(P.project, Project("line", ("growth-direct",), horizon=1)))
        self.check(session, "project", **{"projected_growth-direct": [NAN] * 12 + [after]})
        session = self.opened(exact(slack), "slacker.csv")
        session.do(edit(P.project, Project("line", ("logistic",), horizon=1)))
        self.check(session, "project", projected_logistic=[NAN] * 12 + [full])
