"""Make the sales lines of Skerrybank Mill: seeded, so that the same lines come out every time."""

from __future__ import annotations

import datetime as dt
import math
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np

FIRST, LAST = dt.date(2021, 1, 1), dt.date(2026, 10, 13)
SEED = 20210101
HEADER = "date,product,route,area,cases,price"


@dataclass(frozen=True, slots=True)
class Product:
    """A product of the mill.

    Attributes:
        name: of the product.
        level: lines a day at the start.
        growth: a year.
        swing: of the season, as a share of the level.
        peak: the month that the season is highest in.
        price: of a case.
    """

    name: str
    level: float
    growth: float
    swing: float
    peak: float
    price: float


PRODUCTS = (
    Product("Porridge oats", 1.42, 0.03, 0.42, 1.0, 14.40),
    Product("Oat drink", 1.20, 0.13, 0.30, 7.0, 11.60),
    Product("Oatcakes", 0.98, 0.02, 0.08, 12.0, 18.90),
    Product("Granola", 0.86, 0.09, 0.12, 4.0, 22.50),
    Product("Oat flour", 0.58, -0.02, 0.15, 11.0, 9.80),
)
ROUTES = {"Shops": (1.0, 8), "Wholesale": (0.80, 20), "Online": (0.80, 3)}
"""Share of the lines, and cases in a usual line."""
AREAS = {"North shore": 1.0, "South shore": 0.85, "Islands": 0.42}
NOT_SOLD = {
    ("Oat flour", "Online", "Islands"),
    ("Granola", "Wholesale", "Islands"),
    ("Oat flour", "Shops", "Islands"),
}
WEEKDAYS = {
    "Shops": (1.0, 0.9, 0.95, 1.1, 1.35, 0.8),
    "Wholesale": (1.5, 1.2, 1.0, 0.9, 0.7, 0.1),
    "Online": (1.3, 1.0, 0.95, 0.95, 0.9, 0.7),
}
"""Monday to Saturday; the mill is closed on Sundays."""

LAUNCH = dt.date(2023, 3, 6)
STORM = (dt.date(2025, 2, 10), dt.date(2025, 2, 18))
PROMOTION = (dt.date(2023, 5, 1), dt.date(2023, 5, 31))
LOST = dt.date(2024, 4, 1)
WITHDRAWN = dt.date(2024, 9, 1)


def pull(product: Product, route: str, area: str, day: dt.date) -> float:
    """Lines to expect of one series on one day."""
    if day.weekday() == 6 or (product.name, route, area) in NOT_SOLD or STORM[0] <= day <= STORM[1]:
        return 0.0
    if product.name == "Granola" and day < LAUNCH:
        return 0.0
    if (product.name, route, area) == ("Oatcakes", "Wholesale", "Islands") and day >= WITHDRAWN:
        return 0.0
    years = (day - FIRST).days / 365.25
    month = day.month + day.day / 31
    season = 1 + product.swing * math.cos((month - product.peak - 0.5) / 6 * math.pi)
    if product.name == "Oatcakes" and day.month == 12:
        season *= 1.75
    lines: float = product.level * (1 + product.growth) ** years * season
    lines *= ROUTES[route][0] * AREAS[area] * WEEKDAYS[route][day.weekday()]
    if route == "Online":
        lines *= 1 + 0.06 * years
    if product.name == "Oatcakes" and route == "Shops" and PROMOTION[0] <= day <= PROMOTION[1]:
        lines *= 1.6
    if (product.name, route, area) == ("Porridge oats", "Wholesale", "North shore") and day >= LOST:
        lines *= 0.45
    return lines


def lines(seed: int = SEED) -> list[str]:
    """The sales lines as CSV rows, without the header, the honest dirt included."""
    rng = np.random.default_rng(seed)
    series = [(product, route, area) for product in PRODUCTS for route in ROUTES for area in AREAS]
    out: list[str] = []
    day = FIRST
    while day <= LAST:
        counts = rng.poisson([pull(*each, day) for each in series])
        for (product, route, area), count in zip(series, counts, strict=True):
            for _ in range(count):
                out.append(_line(rng, day, product, route, area))
        day += dt.timedelta(days=1)
    return _soil(rng, out)


def _line(rng: np.random.Generator, day: dt.date, product: Product, route: str, area: str) -> str:
    usual = ROUTES[route][1]
    cases = 1 + int(rng.poisson(usual - 1) if usual < 10 else usual * math.exp(rng.normal(0, 0.35)))
    if rng.random() < 0.0016:
        cases = -max(1, cases // 4)
    price = product.price * (1 + 0.03 * (day.year - FIRST.year)) * (0.88 if route == "Wholesale" else 1.0)
    return f"{day.isoformat()},{product.name},{route},{area},{cases},{price:.2f}"


def _soil(rng: np.random.Generator, clean: list[str]) -> list[str]:
    """The dirt that real files have: lines that Intake must find, name and set aside."""
    out = list(clean)
    picks = iter(rng.choice(len(out), 230, replace=False).tolist())

    def remake(count: int, change: Callable[[list[str]], list[str]]) -> None:
        for _ in range(count):
            at = next(picks)
            out[at] = ",".join(change(out[at].split(",")))

    def week(cells: list[str]) -> list[str]:
        return [f"wk {dt.date.fromisoformat(cells[0]).isocalendar().week}", *cells[1:]]

    def slashed(cells: list[str]) -> list[str]:
        year, month, number = cells[0].split("-")
        return [f"{number}/{month}/{year}", *cells[1:]]

    remake(61, week)
    remake(58, slashed)
    remake(40, lambda cells: [*cells[:4], "n/a", cells[5]])
    remake(22, lambda cells: ["", *cells[1:]])
    remake(18, lambda cells: [*cells[:4], "", cells[5]])
    remake(9, lambda cells: [*cells, "checked"])
    remake(22, lambda cells: [cells[0], cells[1] + " ", *cells[2:]])
    for year in range(LAST.year, FIRST.year - 1, -1):
        end = next((i for i, row in enumerate(out) if row[:4].isdigit() and int(row[:4]) > year), len(out))
        out.insert(end, f"TOTAL {year},,,,,")
    return out


def write(path: Path) -> int:
    """Write the lines to a CSV file; returns how many there are."""
    rows = lines()
    path.write_text("\n".join([HEADER, *rows]) + "\n", encoding="utf-8")
    return len(rows)
