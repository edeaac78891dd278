"""Worked examples of Seasons, on twelve quarters: 80, 110, 140, 90; 92, 128, 150, 100; 98, 140, 172, 110."""

from __future__ import annotations

import datetime as dt
import math
from typing import Any
from unittest import mock

import numpy as np
from scipy import stats

from oat_tide.core.seasons.presence import RHOS, limits
from oat_tide.core.seasons.strength import by_chance
from oat_tide.plan.edits import edit
from oat_tide.plan.parts.evened import Ruled
from oat_tide.plan.parts.seasons import Holiday, LeftOutRatio, ManualIndex, Moving, Seasons
from oat_tide.plan.parts.smooth import Smooth, Smoother
from oat_tide.plan.paths import P
from tests.helpers import monthly

NAN = math.nan
C = np.array([80.0, 110, 140, 90, 92, 128, 150, 100, 98, 140, 172, 110])
# (80 / 2 + 110 + 140 + 90 + 92 / 2) / 4 and so on.
TREND = np.array([NAN, NAN, 106.5, 110.25, 113.75, 116.25, 118.25, 120.5, 124.75, 128.75, NAN, NAN])
JOINED = [0.797181, 1.094227, 1.291526, 0.823101]
INDEX = np.array([0.795980, 1.092578, 1.289581, 0.821861])


class SeasonsExamples:
    """For the class of all worked examples."""

    quarterly: Any
    check: Any
    opened: Any
    assertEqual: Any  # noqa: N815
    assertTrue: Any  # noqa: N815

    def seasonal(self, **more: Any) -> Any:
        return self.quarterly(edit(P.seasons, Seasons(**({"season": "multiplicative"} | more))))

    def test_seasons_by_the_centred_average(self) -> None:
        session = self.seasonal(arrangement="parts")
        season = np.tile(INDEX, 3)
        self.check(session, "seasons", actual=C, trend=TREND, season=season)
        self.check(session, "seasons", remainder=C / TREND / season, deseasonalised=C / season)
        # 4 / (0.797181 + 1.094227 + 1.291526 + 0.823101).
        self.check(session, "seasons", joined=JOINED, factor=0.998493, scaled=INDEX, index=INDEX)
        self.check(session, "seasons", many=[2, 2, 2, 2])
        session = self.seasonal()
        ratios = (C / TREND).reshape(3, 4)
        for year, row in zip((2020, 2021, 2022), ratios, strict=True):
            self.check(session, "seasons", **{f"ratios_{year}": row})
        # Of two ratios the standard error of the mean is half of what lies between them.
        both = [ratios[:, place][~np.isnan(ratios[:, place])] for place in range(4)]
        self.check(session, "seasons", sure=[abs(one - other) / 2 for one, other in both])

    def test_seasons_added(self) -> None:
        session = self.seasonal(season="additive", arrangement="parts")
        off = (C - TREND).reshape(3, 4)
        joined = np.nanmean(off, axis=0)
        index = joined - joined.mean()
        self.check(session, "seasons", factor=-joined.mean(), index=index, season=np.tile(index, 3))
        self.check(session, "seasons", remainder=C - TREND - np.tile(index, 3))
        self.check(session, "seasons", deseasonalised=C - np.tile(index, 3))

    def test_seasons_is_there_one(self) -> None:
        session = self.seasonal(arrangement="parts")
        season, known = np.log(np.tile(INDEX, 3)), ~np.isnan(TREND)
        rest = np.log(C) - np.log(TREND) - season
        strength = 1 - rest[known].var() / (season + rest)[known].var()
        trend = 1 - rest[known].var() / (np.log(TREND) + rest)[known].var()
        self.check(session, "seasons", season_strength=strength, trend_strength=trend)
        self.check(session, "seasons", chance=by_chance(12, 4))
        detrended = C / TREND
        groups = [row[~np.isnan(row)] for row in detrended.reshape(3, 4).T]
        self.check(session, "seasons", rank_p=float(stats.kruskal(*groups).pvalue))
        off = (detrended - np.nanmean(detrended))[known]
        # Eight are known; four pairs lie four apart.
        self.check(session, "seasons", echo=float((off[4:] * off[:-4]).sum() / (off**2).sum()))
        self.check(session, "seasons", echo_chance=1.645 / math.sqrt(8))
        self._tells_of_a_season(session)
        self._likelihoods(session)

    def _terms(self) -> tuple[np.ndarray, np.ndarray]:
        """A level a quarter, and the trend: t and t² from -1 to 1, as polynomials of Legendre."""
        u = np.linspace(-1, 1, 12)
        return np.eye(4)[np.arange(12) % 4], np.column_stack((u, (3 * u**2 - 1) / 2))

    def _tells_of_a_season(self, session: Any) -> None:
        """F by generalised least squares, of errors that keep rho of the one before."""
        seasons, bends = self._terms()
        z, best, likeliest = np.log(C), (0.0, 0.0), -math.inf
        for rho in RHOS.tolist():
            inverse = np.linalg.inv(
                rho ** np.abs(np.subtract.outer(np.arange(12), np.arange(12))) / (1 - rho**2)
            )
            left, size = [], 0.0
            for x in (np.column_stack((np.ones(12), bends)), np.column_stack((seasons, bends))):
                normal = x.T @ inverse @ x
                off = z - x @ np.linalg.solve(normal, x.T @ inverse @ z)
                left.append(float(off @ inverse @ off))
                size = float(np.linalg.slogdet(normal)[1])
            likely = -6 / 2 * math.log(left[1]) - size / 2 + float(np.linalg.slogdet(inverse)[1]) / 2
            if likely > likeliest:
                likeliest, best = likely, (rho, ((left[0] - left[1]) / 3) / (left[1] / 6))
        self.check(session, "seasons", season_rho=best[0], season_f=best[1])
        chance = limits(12, 4)[RHOS.tolist().index(best[0])]
        self.check(session, "seasons", season_f_chance=chance)
        self.assertTrue(best[1] > chance)

    def _likelihoods(self, session: Any) -> None:
        """A season added or multiplied, with constant noise and noise in proportion, by plain loops."""
        seasons, bends = self._terms()
        found, *_ = np.linalg.lstsq(np.column_stack((seasons, bends)), C, rcond=None)
        trend = bends @ found[4:] + found[:4].mean()
        forms = []
        for products in (False, True):

            def expected(weights: list[float], products: bool = products) -> list[float]:
                own = []
                for place in range(4):
                    at = range(place, 12, 4)
                    if products:
                        above = sum(weights[i] * trend[i] * C[i] for i in at)
                        own.append(above / sum(weights[i] * trend[i] ** 2 for i in at))
                    else:
                        above = sum(weights[i] * (C[i] - trend[i]) for i in at)
                        own.append(above / sum(weights[i] for i in at))
                return [trend[i] * own[i % 4] if products else trend[i] + own[i % 4] for i in range(12)]

            mu = expected([1.0] * 12)
            constant = -6 * math.log(sum((y - m) ** 2 for y, m in zip(C, mu, strict=True)) / 12)
            for _ in range(2):
                mu = expected([1 / m**2 for m in mu])
            goes = -6 * math.log(sum(((y - m) / m) ** 2 for y, m in zip(C, mu, strict=True)) / 12)
            forms.append(max(constant, goes - sum(map(math.log, mu))))
        self.check(session, "seasons", form_ahead=forms[1] - forms[0])

    def test_seasons_without_and_carried_on(self) -> None:
        session = self.seasonal(arrangement="deseasonalised")
        line = 97.291474 + 3.089213 * np.arange(1, 17)
        figures = session.deck("seasons").figures
        np.testing.assert_allclose(figures["back"].values[0, 12:], line[12:] * INDEX, rtol=2e-6)
        self.check(session, "seasons", through=line, back=line * np.tile(INDEX, 4), next_year=568.764495)
        self.check(session, "seasons", slope=3.089213, intercept=97.291474)
        # From an earlier as-of the next year is four quarters as well, however many have sold since.
        session.do(edit(P.as_of, dt.date(2022, 3, 31)))
        figures = session.deck("seasons").figures
        known = ~np.isnan(figures["back"].values[0])
        self.assertEqual(np.flatnonzero(known).tolist()[-1], 12)
        np.testing.assert_allclose(figures["next_year"].values[0, 0], figures["back"].values[0, 9:13].sum())
        session = self.seasonal(arrangement="deseasonalised")
        # The trend goes from 106.5 to 128.75 in seven quarters.
        self.check(session, "seasons", year_change=4 * 22.25 / 7)
        without = C / np.tile(INDEX, 3)
        self.check(session, "seasons", s=math.sqrt(((without - line[:12]) ** 2).sum() / 7))
        self.check(session, "seasons", r2_without=0.973500, r2_raw=0.189308, r2_back=0.994916)
        session = self.seasonal(arrangement="deseasonalised", through="growth")
        slope, start = np.polyfit(np.arange(1, 13), np.log(without), 1)
        self.check(session, "seasons", growth=100 * (math.exp(slope) - 1), slope=slope, intercept=start)

    def test_seasons_of_four_years_and_a_yearly_total_broken_down(self) -> None:
        values = [40, 60, 90, 50, 44, 66, 99, 55, 48, 72, 108, 60, 52, 78, 117, 65]
        rows = [f"{2020 + i // 4}-{3 * (i % 4) + 1:02d}-01,{value}" for i, value in enumerate(values)]
        session = self.opened("quarter,cases\n" + "\n".join(rows) + "\n")
        asked = Seasons(season="multiplicative", arrangement="deseasonalised")
        session.do(edit(P.seasons, asked))
        # (40 / 2 + 60 + 90 + 50 + 44 / 2) / 4 = 60.5; (60 / 2 + 90 + 50 + 44 + 66 / 2) / 4 = 61.75 ...
        trend = [60.5, 61.75, 63.625, 65.375, 66.5, 67.75, 69.625, 71.375, 72.5, 73.75, 75.625, 77.375]
        self.check(session, "seasons", trend=[NAN, NAN, *trend, *[NAN] * 6])
        # Q1: 44 / 63.625, 48 / 69.625, 52 / 75.625; and so on, three ratios each.
        ratios = np.array([v / t for v, t in zip(values[2:14], trend, strict=True)])
        joined = np.array([ratios[place::4].mean() for place in (2, 3, 0, 1)])
        index = joined * 4 / joined.sum()
        self.check(session, "seasons", many=[3] * 4, joined=joined, factor=4 / joined.sum(), index=index)
        without = np.array(values) / np.tile(index, 4)
        slope, start = np.polyfit(np.arange(1, 17), without, 1)
        year = (start + slope * np.arange(17, 21)) * index
        self.check(session, "seasons", slope=slope, intercept=start, next_year=year.sum())
        # A year's total in its quarters: a quarter of it each, times the index.
        total = 400.0
        parts = total / 4 * session.deck("seasons").figures["index"].values[0]
        np.testing.assert_allclose(parts, 100 * index)
        np.testing.assert_allclose(parts.sum(), total)

    def test_seasons_by_hand(self) -> None:
        by_hand = (ManualIndex((), 4, "multiplicative", 2, 1.30, "listed anew"),)
        session = self.seasonal(by_hand=by_hand)
        # (4 - 1.30) / (0.795980 + 1.092578 + 0.821861).
        self.check(session, "seasons", hand=[NAN, NAN, 1.30, NAN], hand_factor=0.996156)
        self.check(session, "seasons", index=[0.792920, 1.088378, 1.30, 0.818702])
        session = self.seasonal(left_out=(LeftOutRatio((), 4, 2021, 0, "storm"),))
        alone = [98 / 124.75, *JOINED[1:]]
        self.check(session, "seasons", joined=alone, many=[1, 2, 2, 2], factor=4 / sum(alone))

    def test_seasons_by_simple_averages(self) -> None:
        session = self.seasonal(method="simple", arrangement="parts")
        # 270 / 3, 378 / 3, 462 / 3, 300 / 3; all together 470 / 4.
        self.check(session, "seasons", joined=[90, 126, 154, 100], mean_of_all=117.5)
        self.check(session, "seasons", scaled=[0.765957, 1.072340, 1.310638, 0.851064], trend=TREND)

    def test_simple_averages_without_a_ratio(self) -> None:
        session = self.seasonal(method="simple", left_out=(LeftOutRatio((), 4, 2021, 0, "storm"),))
        # (80 + 98) / 2 = 89 for the first; all together (89 + 126 + 154 + 100) / 4 = 117.25.
        self.check(session, "seasons", joined=[89, 126, 154, 100], mean_of_all=117.25, many=[2, 3, 3, 3])
        self.check(session, "seasons", scaled=np.array([89, 126, 154, 100]) / 117.25)
        self.check(session, "seasons", ratios_2021=np.array([92, 128, 150, 100]) / 117.25)

    def test_seasons_fill_what_is_left_out(self) -> None:
        gone = Ruled((), dt.date(2021, 4, 1), dt.date(2021, 6, 30), "leave out", note="storm")
        session = self.quarterly(
            edit(P.evened.rulings, (gone,)),
            edit(P.seasons, Seasons(season="additive", arrangement="parts")),
        )
        values = C.copy()
        values[5] = NAN
        filled = values.copy()
        for turn in range(3):
            half = np.convolve(filled, [1 / 8, 1 / 4, 1 / 4, 1 / 4, 1 / 8], "valid")
            trend = np.concatenate(([NAN, NAN], half, [NAN, NAN]))
            joined = np.nanmean((values - trend).reshape(3, 4), axis=0)
            index = joined - np.nanmean(joined)
            if turn < 2:
                level = values - np.tile(np.where(np.isnan(index), 0, index), 3)
                around = [np.nanmean(level[3:7]), np.nanmean(level[4:8])]
                filled[5] = np.mean(around) + (0 if np.isnan(index[1]) else index[1])
        self.check(session, "seasons", trend=trend, index=index, settled=values)

    def test_seasons_by_selling_day(self) -> None:
        values = [float(100 + 10 * (month % 12) + month) for month in range(36)]
        session = self.opened(monthly(values))
        asked = Seasons(
            per="selling day",
            arrangement="parts",
            season="additive",
            weekdays=(0, 1, 2, 3, 4),
            holidays=(Holiday("Christmas", 12, 25), Holiday("Easter Monday", from_easter=1)),
            moving=(Moving("Easter", days=10, percent=5.0),),
        )
        session.do(edit(P.seasons, asked))
        free = ["2020-12-25", "2021-12-25", "2022-12-25", "2020-04-13", "2021-04-05", "2022-04-18"]
        edges = np.arange("2020-01", "2023-02", dtype="datetime64[M]").astype("datetime64[D]")
        days = np.busday_count(edges[:-1], edges[1:], holidays=np.array(free, "datetime64[D]")).astype(float)
        raised = session.deck("seasons").figures["raised"].values[0, :36]
        # The ten days before 12 April 2020 lie in April; of those before 4 April 2021 seven lie in March.
        np.testing.assert_allclose((raised[14] - raised[2]) / 0.05, 0.7)
        np.testing.assert_allclose((raised[15] - raised[3]) / 0.05, -0.7)
        self.check(session, "seasons", days=days, average_days=days.mean(), raised=raised)
        self.check(session, "seasons", adjusted=np.array(values) / days * days.mean() / raised)

    def test_regression_by_selling_day_is_the_same_whenever_it_is_answered(self) -> None:
        text = monthly([100.0 + 10 * (month % 12) + month**1.1 for month in range(48)])
        for moving in ((), (Moving("Easter", days=10, percent=5.0),)):
            asked = Seasons(method="loess", robust=True, per="selling day", season="additive", moving=moving)
            parts = []
            for soon in (0, 10**9):
                with mock.patch("oat_tide.stages.seasons.kernels._SOON", soon):
                    session = self.opened(text)
                    session.do(edit(P.seasons, asked))
                    figures = session.deck("seasons").figures
                    parts.append([figures[name].values for name in ("trend", "index")])
            for later, at_once in zip(*parts, strict=True):
                np.testing.assert_array_equal(later, at_once)
                self.assertTrue(np.isfinite(later).any())

    def test_seasons_of_weeks_follow_their_numbers(self) -> None:
        """Week 53 of 2020 shares the index of week 52, and the weeks after it are not moved."""
        first = dt.date(2018, 1, 1)
        days = [first + dt.timedelta(7 * week) for week in range(6 * 52 + 1)]
        seasons = [10 * (min(day.isocalendar().week, 52) % 13) - 60 for day in days]
        rows = [f"{day},{400 + season}" for day, season in zip(days, seasons, strict=True)]
        for method in ("loess", "classical"):
            session = self.opened("week,cases\n" + "\n".join(rows) + "\n")
            session.do(edit(P.seasons, Seasons(method=method, season="additive", arrangement="parts")))
            figures = session.deck("seasons").figures
            found = figures["season"].values[0, : len(days)]
            at = next(place for place, day in enumerate(days) if day.isocalendar().week == 53)
            assert found[at] == found[at - 1]
            np.testing.assert_allclose(found, np.array(seasons) - np.mean(seasons[:52]), atol=2.5)
        np.testing.assert_allclose(figures["index"].values[0].mean(), 0, atol=1e-9)

    def test_smooth_without_the_season(self) -> None:
        asked = Smooth((Smoother(window=2),), of="deseasonalised")
        session = self.quarterly(edit(P.seasons, Seasons(season="multiplicative")), edit(P.smooth, asked))
        without = C / np.tile(INDEX, 3)
        smoothed = (without[1:] + without[:-1]) / 2
        self.check(session, "smooth", deseasonalised=[*without, NAN], smoothed_0=[NAN, *smoothed, NAN])
        # The next quarter is a first one: the mean of the last two, with its season.
        self.check(session, "smooth", next_0=smoothed[-1], next_back_0=smoothed[-1] * INDEX[0])
        forecast = np.array([NAN, NAN, *smoothed])
        self.check(session, "smooth", back_0=forecast * np.tile(INDEX, 4)[:13])
