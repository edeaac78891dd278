"""Whether prediction intervals cover what they say, by periods ahead and in total.

Of each family 2,000 series (or as many as are given) are made as a method has them, or harder, and the share
of later periods inside is printed by lead beside the level it promises, and that of their total: a star marks
what is off by over 5 points, two what is by over 10. Then real public statistics (`public_series`) and the
made-up mill's series, cycles held out. Run: python benchmarks/coverage.py [series]
"""

from __future__ import annotations

import sys
import zlib
from types import SimpleNamespace
from typing import Any

import numpy as np
from public_series import public_series

from oat_tide.core.methods.table import METHODS
from oat_tide.core.periods.calendar import Grid, Kind
from oat_tide.core.series.panel import Panel, sight
from oat_tide.plan.parts.evened import Evened
from oat_tide.plan.parts.project import Project
from oat_tide.plan.parts.seasons import Seasons
from oat_tide.plan.parts.smooth import Smooth, Smoother
from oat_tide.stages import lines
from oat_tide.stages.answers import Inline
from oat_tide.stages.deck import Deck
from oat_tide.stages.project import make as project
from oat_tide.stages.seasons import make as seasons
from oat_tide.stages.smooth import make as smooth

PAST, AHEAD = 72, 12
LEVELS = (80.0, 95.0)
_AT_A_TIME = 500
_LATEST = 120
"""Periods of a public series that are looked at."""


def decked(values: np.ndarray, past: int, ask: Project, how: Seasons) -> Deck:
    """The deck of Project on months of many series, the first of them known."""
    return decks_of(values, past, ask, how)[1]


def decks_of(
    values: np.ndarray, past: int, ask: Project, how: Seasons, kind: Kind = "month"
) -> tuple[Deck, Deck]:
    """The decks of Seasons and Project on periods of many series, the first of them known."""
    counts = np.ones(values.shape, np.int64)
    keys = tuple((str(row),) for row in range(len(values)))
    # What is known of a panel is kept by its stamp.
    stamp = f"made {kind} {zlib.crc32(values.tobytes())}"
    panel = Panel(stamp, Grid(kind), 0, keys, values, counts, np.zeros(values.shape, np.uint8))
    seen = sight(panel, past - 1, values.shape[1] - 1)
    reading: Any = SimpleNamespace(
        history="", scenarios=(), unit="cases", totalled="sum", dimensions=("product",)
    )
    stands_on = lines.make(seen, (Evened(),), lines.Needs(reading), Inline())
    parts = seasons.make(seen, (how, Evened()), seasons.Needs(stands_on, reading), Inline())
    smoothing = Smooth((Smoother(kind="level"),))
    smoothed = smooth.make(seen, (smoothing, how), smooth.Needs(stands_on, None), Inline())
    needs = project.Needs(stands_on, reading, panel, parts, smoothed, smoothing)
    return parts, project.make(seen, (ask, how, Evened()), needs, Inline())


def families(rng: np.random.Generator, many: int) -> dict[str, tuple[np.ndarray, Seasons]]:
    """Series as each method has them, with normal errors."""
    t = np.arange(1.0, PAST + AHEAD + 1)[None]
    noise = rng.normal(0, 10, (many, PAST + AHEAD))
    line = 200 + 2 * t
    wave = 1 + 0.3 * np.sin(2 * np.pi * t / 12)
    walk = 500 + np.cumsum(noise, axis=1)
    months = (np.arange(PAST + AHEAD) % 12)[None]
    product, added = Seasons(season="multiplicative"), Seasons(season="additive")
    made = {
        "line": line + noise,
        "weighted-line": line + noise,
        "quadratic": line + 0.05 * t**2 + noise,
        "logarithmic": 200 + 60 * np.log(t) + noise,
        "growth": np.exp(5 + 0.01 * t + noise / 100),
        "power": np.exp(5 + 0.2 * np.log(t) + noise / 100),
        "indicators": line + 5.0 * months + noise,
        "harmonics": line + 40 * np.sin(2 * np.pi * months / 12) + noise,
        "last": walk,
        "drift": walk + t,
        "mean": 300 + noise,
        "same-period": 300 + 60 * np.sin(2 * np.pi * months / 12) + noise,
        "huber": line + noise,
        "theil-sen": line + noise,
        "growth-direct": 200 * np.exp(0.01 * t) + noise,
        "smoothed": walk + 20 * np.random.default_rng(1).normal(0, 1, noise.shape),
        "compound": np.exp(5 + 0.01 * t + np.cumsum(noise, axis=1) / 500),
        "same-period-growth": np.exp(5 + 0.01 * t + noise / 100) * wave,
        "same-period-drift": line + 60 * np.sin(2 * np.pi * months / 12) + noise,
    }
    kept: dict[str, tuple[np.ndarray, Seasons]] = {name: (values, added) for name, values in made.items()}
    kept["line-season"] = ((line * wave) + noise * wave, product)
    kept["growth-season"] = (np.exp(5 + 0.01 * t + noise / 100) * wave, product)
    kept["line-season, added"] = (line + 60 * np.sin(2 * np.pi * t / 12) + noise, added)
    return kept


def covered(deck: Deck, values: np.ndarray, past: int, level: float) -> np.ndarray:
    """(leads,) the share inside, of those that have an interval."""
    lower, upper = (deck.figures[f"{side}_{level:g}"].values[:, past:] for side in ("lower", "upper"))
    own = values[:, past : past + lower.shape[1]]
    there = ~np.isnan(lower) & ~np.isnan(own)
    inside = there & (own >= lower) & (own <= upper)
    share: np.ndarray = 100 * inside.sum(0) / np.maximum(there.sum(0), 1)
    return share


def covered_in_all(deck: Deck, values: np.ndarray, past: int, level: float) -> float:
    """The share of series whose total of all periods ahead lies inside, of those that have an interval."""
    lower, upper = (deck.figures[f"total_{side}_{level:g}"].values[:, 0] for side in ("lower", "upper"))
    own, there = values[:, past:].sum(1), ~np.isnan(lower)
    return float(100 * ((own >= lower) & (own <= upper))[there].mean())


LEADS = 1, 2, 3, 6, 12
_FAR, _TOO_FAR = 5.0, 10.0
"""Points off what is promised from which a cell misses its goal, and from which it must not be."""


def harder(rng: np.random.Generator, many: int) -> dict[str, tuple[str, int, np.ndarray, Seasons]]:
    """Series as no method has them, and short ones: the method, the periods known, and the series."""
    longest = PAST + AHEAD
    t = np.arange(1.0, longest + 1)[None]
    months = (np.arange(longest) % 12)[None]
    noise = rng.normal(0, 10, (many, longest))
    echo = noise.copy()
    for column in range(1, longest):
        echo[:, column] = 0.7 * echo[:, column - 1] + noise[:, column]
    wave = 1 + 0.3 * np.sin(2 * np.pi * months / 12)
    season = (200 + 2 * t) * wave
    added = 200 + 2 * t + 60 * np.sin(2 * np.pi * months / 12)
    shares = 1 + noise / 150
    level = 300 + 60 * np.sin(2 * np.pi * months / 12)
    made: dict[str, tuple[str, int, np.ndarray, Seasons]] = {
        "errors keep 0.7, line": ("line", PAST, 200 + 2 * t + echo, Seasons()),
        "errors keep 0.7, line with season": ("line-season", PAST, added + echo, Seasons()),
        "errors keep 0.7, smoothed": ("smoothed", PAST, 300 + echo, Seasons()),
        "noise in proportion, line": ("line", PAST, (200 + 4 * t) * shares, Seasons()),
        "noise in proportion, line with season": ("line-season", PAST, season * shares, Seasons()),
        "noise in proportion, same period": ("same-period", PAST, level * shares, Seasons()),
    }
    for past in (24, 36, 60):
        short = slice(PAST - past, None)
        made |= {
            f"{past} months, line": ("line", past, (200 + 2 * t + noise)[:, short], Seasons()),
            f"{past} months, line with season": ("line-season", past, (added + noise)[:, short], Seasons()),
            f"{past} months, local regression": (
                "line-season", past, (added + noise)[:, short], Seasons(method="loess"),
            ),
            f"{past} months, simple averages": (
                "line-season", past, (level + noise)[:, short], Seasons(method="simple"),
            ),
            f"{past} months, last value": ("last", past, (500 + noise.cumsum(1))[:, short], Seasons()),
        }  # fmt: skip
    return made


def row_of(name: str, method: Any, past: int, values: np.ndarray, how: Seasons) -> list[float]:
    """The shares inside at LEADS and of the total, at 80 and at 95 %; some hundred series at a time."""
    ask = Project(method, horizon=AHEAD, intervals=LEVELS)
    parts = [values[at : at + _AT_A_TIME] for at in range(0, len(values), _AT_A_TIME)]
    decks = [decked(part, past, ask, how) for part in parts]
    out: list[float] = []
    for level in LEVELS:
        share = np.mean([covered(*each, past, level) for each in zip(decks, parts, strict=True)], axis=0)
        total = np.mean([covered_in_all(*each, past, level) for each in zip(decks, parts, strict=True)])
        out += [*share[np.array(LEADS) - 1], float(total)]
    print(line_of(name, out), flush=True)
    return out


def line_of(name: str, shares: list[float]) -> str:
    """A row of the table; what misses its goal is marked, and what misses it by far twice."""
    half, cells = len(shares) // 2, []
    for place, share in enumerate(shares):
        off = abs(share - LEVELS[place >= half])
        cells.append(f"{share:.0f}{'*' * (int(off > _FAR) + int(off > _TOO_FAR))}")
    return f"| {name} | {' | '.join(cells)} |"


def heading(leads: tuple[int, ...]) -> str:
    """The head of a table."""
    each = (*(f"lead {lead}" for lead in leads), "total")
    columns = [f"{level:g} %: {lead}" for level in LEVELS for lead in each]
    return f"| series | {' | '.join(columns)} |\n|{'---|' * (len(columns) + 1)}"


def main() -> None:
    """Print the shares inside by lead and in total, as a table."""
    many = int(sys.argv[1]) if len(sys.argv) > 1 else 2000
    rng = np.random.default_rng(1964)
    print(heading(LEADS))
    rows = [
        row_of(name, name.partition(",")[0], PAST, values, how)
        for name, (values, how) in families(rng, many).items()
    ]
    rows += [row_of(name, *each) for name, each in harder(rng, many).items()]
    off = np.abs(np.array(rows) - np.repeat(LEVELS, len(LEADS) + 1))
    low = (np.array(rows) < np.repeat(LEVELS, len(LEADS) + 1) - _FAR).sum()
    far, too_far = (off > _FAR).sum(), (off > _TOO_FAR).sum()
    print(f"\n{off.size} cells: {far} miss by over 5 points, {too_far} by over 10; {low} cover too little.")
    public()
    mill()


_ENDS = 5
"""Cycles that are held out one after another: what befell one year befell many series."""
METHODS_TRIED = (
    "line-season",
    "growth-season",
    "same-period-growth",
    "same-period",
    "line",
    "drift",
    "smoothed",
)
_HELD: dict[Kind, int] = {"month": 12, "quarter": 4, "year": 3}


def public() -> None:
    """Real public statistics, each of their last cycles held out once."""
    found = public_series()
    for kind, held in _HELD.items():
        long = [own for own in found[kind].values() if len(own) >= (3 + _ENDS) * held + 6]
        if not long:
            continue
        leads = tuple(dict.fromkeys((1, 2, held)))
        print(f"\n{len(long)} public series by {kind}\n\n{heading(leads)}")
        width = min(max(map(len, long)), _LATEST + held)
        values = np.array(
            [np.pad(own[-width:], (max(width - len(own), 0), 0), constant_values=np.nan) for own in long]
        )
        for method in METHODS_TRIED:
            if kind == "year" and METHODS[method].with_season:
                continue
            ask = Project(method, horizon=held, intervals=LEVELS)  # type: ignore[arg-type]
            rows = [
                _held_out(kind, values[:, : width - back * held], held, leads, ask) for back in range(_ENDS)
            ]
            row = np.mean(rows, axis=0).tolist()
            print(line_of(method, row))


def _held_out(kind: Kind, values: np.ndarray, held: int, leads: tuple[int, ...], ask: Project) -> list[float]:
    """The shares inside of the last cycle, at both levels."""
    past = values.shape[1] - held
    deck = decks_of(values, past, ask, Seasons(), kind)[1]
    row: list[float] = []
    for level in LEVELS:
        row += covered(deck, values, past, level)[np.array(leads) - 1].tolist()
        row.append(covered_in_all(deck, values, past, level))
    return row


def mill() -> None:
    """The made-up mill's own series, moved back a year."""
    from oat_tide.demo import plan_path
    from oat_tide.documents import open_document
    from oat_tide.session import Session

    opened = open_document(plan_path()).session
    every = Session(opened.source, opened.plan, every=True)
    every.share(opened)
    values = every.panel.settled
    past = values.shape[1] - AHEAD - 1
    for method in ("line-season", "same-period-growth", "line"):
        deck = decked(values[:, : past + AHEAD], past, Project(method, horizon=AHEAD), Seasons())
        shares = [covered(deck, values, past, level).mean() for level in LEVELS]
        said = ", ".join(f"{share:.0f} in {level:g} %" for share, level in zip(shares, LEVELS, strict=True))
        print(f"the mill's {len(values)} series, {method}: {said} of the periods of the last year")


if __name__ == "__main__":
    main()
