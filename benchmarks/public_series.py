"""Real public statistics for the benchmarks: read from packages whose licence lets them be shipped.

They are no part of the product: python -m pip install --no-deps statsmodels==0.15.0 vega_datasets==0.9.0. Of
these only the files of data are read: employment by industry, electrical equipment, sea temperatures, carbon
dioxide and weather by month, national accounts, money and inflation by quarter, river, sun, copper and
electricity by year.
"""

from __future__ import annotations

import csv
import datetime as dt
from collections import defaultdict
from collections.abc import Iterator
from importlib.util import find_spec
from pathlib import Path

import numpy as np

Series = dict[str, np.ndarray]


def public_series() -> dict[str, Series]:
    """By kind of period, each series from its first period to its last; empty where a package is missing."""
    found: dict[str, Series] = {"month": {}, "quarter": {}, "year": {}}
    for name, file, kind in (
        ("vega_datasets", "_data/us-employment.csv", "month"),
        ("statsmodels", "datasets/elec_equip/elec_equip.csv", "month"),
        ("statsmodels", "datasets/macrodata/macrodata.csv", "quarter"),
        ("statsmodels", "datasets/danish_data/data.csv", "quarter"),
        ("statsmodels", "datasets/interest_inflation/E6.csv", "quarter"),
        ("statsmodels", "datasets/nile/nile.csv", "year"),
        ("statsmodels", "datasets/sunspots/sunspots.csv", "year"),
        ("statsmodels", "datasets/copper/copper.csv", "year"),
    ):
        for row in _rows(name, file):
            for column, text in row.items():
                if column.lower() not in _TIMES:
                    found[kind].setdefault(f"{Path(file).stem} {column}", []).append(float(text))  # type: ignore[union-attr]
    found["month"]["sea temperature"] = [  # type: ignore[assignment]
        float(text)
        for row in _rows("statsmodels", "datasets/elnino/elnino.csv")
        for column, text in row.items()
        if column != "YEAR"
    ]
    found["month"] |= _monthly_means("statsmodels", "datasets/co2/co2.csv", "date", "%Y%m%d", ("co2",))
    weather = "precipitation", "temp_max", "temp_min", "wind"
    found["month"] |= _monthly_means(
        "vega_datasets", "_data/seattle-weather.csv", "date", "%Y/%m/%d", weather
    )
    by_source: dict[str, list[float]] = defaultdict(list)
    for row in _rows("vega_datasets", "_data/iowa-electricity.csv"):
        by_source[f"electricity {row['source']}"].append(float(row["net_generation"]))
    found["year"] |= {name: np.array(values) for name, values in by_source.items()}
    return {
        kind: {name: np.array(values, float) for name, values in each.items() if len(values)}
        for kind, each in found.items()
    }


_TIMES = {"month", "date", "year", "quarter", "period", "time"}


def _rows(package: str, file: str) -> Iterator[dict[str, str]]:
    spec = find_spec(package)
    if spec is None or not spec.submodule_search_locations:
        return
    path = Path(next(iter(spec.submodule_search_locations))) / file
    with path.open(encoding="utf-8-sig", newline="") as lines:
        yield from csv.DictReader(lines)


def _monthly_means(package: str, file: str, day: str, how: str, columns: tuple[str, ...]) -> Series:
    """The mean of each month; one without a figure is not known."""
    held: dict[str, dict[int, list[float]]] = {name: defaultdict(list) for name in columns}
    for row in _rows(package, file):
        date = dt.datetime.strptime(row[day], how)
        for name in columns:
            if row[name]:
                held[name][12 * date.year + date.month].append(float(row[name]))
    out = {}
    for name, months in held.items():
        if months:
            each = range(min(months), max(months) + 1)
            out[name] = np.array([np.mean(months[month]) if month in months else np.nan for month in each])
    return out
