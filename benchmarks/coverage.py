"""Whether prediction intervals cover what they say, by periods ahead, on simulated series and on real ones.

Of each family 2,000 series (or as many as are given) are made as the family has it, and the share of later
periods inside the interval is printed by lead beside the level it promises, and that of their total. Run:
python benchmarks/coverage.py [series]
"""

from __future__ import annotations

import sys
import zlib
from types import SimpleNamespace
from typing import Any

import numpy as np

from oat_tide.core.periods.calendar import Grid
from oat_tide.core.series.panel import Panel, sight
from oat_tide.plan.parts.evened import Evened
from oat_tide.plan.parts.project import Project
from oat_tide.plan.parts.seasons import Seasons
from oat_tide.plan.parts.smooth import Smooth, Smoother
from oat_tide.stages import lines
from oat_tide.stages.answers import AtOnce
from oat_tide.stages.deck import Deck
from oat_tide.stages.project import make as project
from oat_tide.stages.seasons import make as seasons
from oat_tide.stages.smooth import make as smooth

PAST, AHEAD = 72, 12
LEVELS = (80.0, 95.0)
_AT_A_TIME = 500


def decked(values: np.ndarray, past: int, ask: Project, how: Seasons) -> Deck:
    """The deck of Project on months of many series, the first of them known."""
    return decks_of(values, past, ask, how)[1]


def decks_of(values: np.ndarray, past: int, ask: Project, how: Seasons) -> tuple[Deck, Deck]:
    """The decks of Seasons and Project on months of many series, the first of them known."""
    counts = np.ones(values.shape, np.int64)
    keys = tuple((str(row),) for row in range(len(values)))
    # What is known of a panel is kept by its stamp.
    stamp = f"made {zlib.crc32(values.tobytes())}"
    panel = Panel(stamp, Grid("month"), 0, keys, values, counts, np.zeros(values.shape, np.uint8))
    seen = sight(panel, past - 1, values.shape[1] - 1)
    reading: Any = SimpleNamespace(
        history="", scenarios=(), unit="cases", totalled="sum", dimensions=("product",)
    )
    stands_on = lines.make(seen, (Evened(),), lines.Needs(reading), AtOnce())
    parts = seasons.make(seen, (how, Evened()), seasons.Needs(stands_on, reading), AtOnce())
    smoothing = Smooth((Smoother(kind="level"),))
    smoothed = smooth.make(seen, (smoothing, how), smooth.Needs(stands_on, None), AtOnce())
    needs = project.Needs(stands_on, reading, panel, parts, smoothed, smoothing)
    return parts, project.make(seen, (ask, how, Evened()), needs, AtOnce())


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
    own, there = values[:, past : past + AHEAD].sum(1), ~np.isnan(lower)
    return float(100 * ((own >= lower) & (own <= upper))[there].mean())


def main() -> None:
    """Print the shares inside by lead, and the furthest from what is promised."""
    many = int(sys.argv[1]) if len(sys.argv) > 1 else 2000
    rng = np.random.default_rng(1964)
    for name, (values, how) in families(rng, many).items():
        method: Any = name.partition(",")[0]
        ask = Project(method, horizon=AHEAD, intervals=LEVELS)
        # As few at a time as have every past start.
        parts = [values[at : at + _AT_A_TIME] for at in range(0, many, _AT_A_TIME)]
        decks = [decked(part, PAST, ask, how) for part in parts]
        for level in LEVELS:
            share = np.mean([covered(*each, PAST, level) for each in zip(decks, parts, strict=True)], axis=0)
            worst = share[np.abs(share - level).argmax()]
            leads = " ".join(f"{each:.1f}" for each in share[[0, 1, 2, 5, 11]])
            total = np.mean([covered_in_all(*each, PAST, level) for each in zip(decks, parts, strict=True)])
            furthest = f"furthest {worst - level:+.1f} points; total of all {total:.1f}"
            print(f"{name}, {level:g} %: leads 1 2 3 6 12: {leads}; {furthest}")
    real()


def real() -> None:
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
