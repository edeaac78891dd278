"""How often each caution is raised on clean series, and how often it finds what it warns of.

False alarms are counted on clean series of five kinds (line, level, additive and multiplicative season,
growth) with noise of 5 and of 10 %, each under the method that it is made by; what each caution finds is
counted on series with its cause planted in them, at the size told. Goals: other than odd periods and
statements that are true, together at most 10 % of clean series; each cause in at least 80 %; odd periods at
most 3 in 100, and one at the end that is 6 standard deviations off in at least 85 % at 36 months. Run:
python benchmarks/cautions.py [series]
"""

from __future__ import annotations

import sys
from collections import Counter
from typing import Any

import numpy as np
from coverage import decks_of

from oat_tide.core.periods.calendar import Grid
from oat_tide.core.seasons.odd import find_odd
from oat_tide.plan.parts.project import Name, Project
from oat_tide.plan.parts.seasons import Seasons

PAST, AHEAD = 60, 12
T = np.arange(PAST + AHEAD, dtype=float)[None]
WAVE = np.sin(2 * np.pi * T / 12)
CAUTIONS = {
    "season": "It has no season and the history has",
    "no season": "no season that stands out",
    "pull": "bends the fit",
    "bend": "The trend curves",
    "step": "seems to have stepped",
    "no growth": "Growth cannot be told",
    "jump": "The projection jumps",
    "hang": "Residuals hang together",
    "below zero": "below zero",
    "ratio": "does not fit the other years",
}
"""By a short name, what each caution says."""
TRUE = {"no growth", "no season"}
"""Statements that are true of some of the clean series."""


def clean(noise: np.ndarray) -> dict[str, tuple[Name, np.ndarray]]:
    """The five kinds with the method that suits each; noise is a share of the level, 200."""
    amounts = 200 * noise
    return {
        "level": ("line", 200 + 0 * T + amounts),
        "line": ("line", 200 + 2 * T + amounts),
        "added": ("line-season", 200 + 2 * T + 60 * WAVE + amounts),
        "multiplied": ("line-season", (200 + 2 * T) * (1 + 0.3 * WAVE) * (1 + noise)),
        "growth": ("growth", 200 * 1.01**T * np.exp(noise)),
    }


def planted(rng: np.random.Generator, many: int) -> dict[str, tuple[str, Name, np.ndarray]]:
    """What each caution warns of, at a stated size: the caution, the method, the series.

    The noise is 10 about 200.
    """
    noise = rng.normal(0, 10, (many, PAST + AHEAD))
    u = T[:, :PAST] - T[:, :PAST].mean()
    bend = u**2 - (u**2).mean()
    echo = noise.copy()
    for column in range(1, PAST + AHEAD):
        echo[:, column] = 0.6 * echo[:, column - 1] + noise[:, column]
    line = 200 + T
    bent = (T - T[:, :PAST].mean()) ** 2
    return {
        "step of 3 at a third": ("step", "line", 200 + 30 * (T >= PAST // 3) + noise),
        "bend with t = 4": ("bend", "line", line + 4 * 10 / np.sqrt((bend**2).sum()) * bent + noise),
        "one period 6 off": ("pull", "line", line + noise + 60 * (T == PAST // 2)),
        "errors with 0.6 of the last": ("hang", "line", line + echo),
        "season of 20 %": ("season", "line", line + 40 * WAVE + noise),
        "an end 4 off": ("jump", "line", line + noise + 40 * (T == PAST - 1)),
    }


def raised(method: Name, values: np.ndarray) -> list[set[str]]:
    """The cautions of Project and of Seasons on each series."""
    seasons, project = decks_of(values, PAST, Project(method, horizon=AHEAD), Seasons())
    found = []
    for series in range(len(values)):
        texts = [each.text for each in project.cautions(series)]
        texts += [each.text for each in seasons.cautions(series)] if method == "line-season" else []
        found.append({name for name, words in CAUTIONS.items() if any(words in text for text in texts)})
    return found


def main() -> None:
    """Print false alarms and finds."""
    many = int(sys.argv[1]) if len(sys.argv) > 1 else 200
    rng = np.random.default_rng(1998)
    false = 0
    for share in (0.05, 0.1):
        for kind, (method, values) in clean(rng.normal(0, share, (many, PAST + AHEAD))).items():
            every = raised(method, values)
            counts: Counter[str] = Counter(name for each in every for name in each)
            wrong = sum(bool(each - TRUE) for each in every)
            false += wrong
            said = ", ".join(f"{name} {100 * count / many:.1f}" for name, count in counts.most_common())
            print(f"clean {kind}, noise {100 * share:g} %: {100 * wrong / many:.1f} % warned of ({said})")
    print(f"together: {100 * false / (10 * many):.1f} % of clean series, at most 10 wanted")
    for cause, (caution, method, values) in planted(rng, many).items():
        hits = sum(caution in each for each in raised(method, values))
        print(f"{cause}: found in {100 * hits / many:.1f} %, at least 80 wanted")
    ratios(rng, many)
    odd(rng, many)


def ratios(rng: np.random.Generator, many: int) -> None:
    """How often a ratio of seven years is said not to fit, clean or 6 standard deviations off."""
    past = 85
    t = np.arange(past + AHEAD, dtype=float)[None]
    wave = np.sin(2 * np.pi * t / 12)
    noise = rng.normal(0, 0.05, (many, past + AHEAD))
    for kind, values, off in (
        ("added", 200 + 2 * t + 60 * wave + 200 * noise, lambda own: own + 60),
        ("multiplied", (200 + 2 * t) * (1 + 0.3 * wave) * (1 + noise), lambda own: own * np.exp(0.3)),
    ):
        moved = values.copy()
        moved[:, past // 2] = off(values[:, past // 2])
        shares = []
        for each in (values, moved):
            seasons = decks_of(each, past, Project("line-season", horizon=AHEAD), Seasons())[0]
            said = (seasons.cautions(series) for series in range(many))
            shares.append(np.mean([any(CAUTIONS["ratio"] in one.text for one in own) for own in said]))
        clean, found = (f"{100 * share:.1f} %" for share in shares)
        print(f"seven years, {kind}: a ratio does not fit in {clean} of clean series; one 6 off in {found}")


def odd(rng: np.random.Generator, many: int) -> None:
    """How many periods of clean series are odd, at either end too, and how often an odd end is found."""
    months: Any = Grid("month")
    for past in (36, 60, 120):
        t = np.arange(past)[None]
        kinds = {
            "level": 200 + 0.0 * t,
            "multiplied": (200 + 2 * t) * (1 + 0.3 * np.sin(2 * np.pi * t / 12)),
            "growth": 200 * 1.01**t,
        }
        for kind, mean in kinds.items():
            values = mean * (1 + rng.normal(0, 0.05, (many, past)))
            own = 100 * find_odd(values, months, 0).odd
            values[:, -1] = mean[:, -1] * 1.3
            found = 100 * find_odd(values, months, 0).odd[:, -1].mean()
            ends = f"of the last six {own[:, -6:].mean():.1f}, of the first six {own[:, :6].mean():.1f}"
            print(
                f"{past} months, {kind}: {own.mean():.1f} % odd, {ends}; an end 6 off found in {found:.0f} %"
            )


if __name__ == "__main__":
    main()
