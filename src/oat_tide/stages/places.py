"""What the places of a year, and the seasons of a cycle, are called."""

from __future__ import annotations

import datetime as dt

from oat_tide.core.language import phrase
from oat_tide.core.periods.calendar import MONTH_NAMES, MONTHS, WEEKDAYS, Grid, date_of, day_number

Names = tuple[str, ...]


def place_names(grid: Grid, places: int) -> tuple[Names, Names, Names]:
    """The places of a year: short, where there is little room, and in full."""
    if grid.kind == "day":
        start = day_number(_leap(grid.year_start))
        dates = [date_of(start + place) for place in range(places)]
        short = tuple(MONTHS[day.month - 1] if day.day == 1 else "" for day in dates)
        return short, short, tuple(f"{day.day} {MONTHS[day.month - 1]}" for day in dates)
    if grid.kind == "month" and not grid.pattern:
        names = tuple(MONTHS[(grid.year_start - 1 + place) % 12] for place in range(12))
        return names, tuple(name[0] for name in names), names
    mark = {"week": "W", "quarter": "Q", "month": "P"}[grid.kind]
    short = tuple(f"{mark}{place + 1}" for place in range(places))
    return short, short, short


def _leap(month: int) -> dt.date:
    return dt.date(2024, month, 1) if month < 3 else dt.date(2023, month, 1)


def season_names(grid: Grid, cycle: int) -> tuple[Names, Names, Names]:
    """The seasons of a cycle: by name where it is the week or the year, else by number."""
    if grid.kind == "day" and cycle == 7:
        return tuple(day[:3] for day in WEEKDAYS), tuple(day[0] for day in WEEKDAYS), WEEKDAYS
    if grid.kind == "day" and cycle == grid.cycle:
        short, brief, full = place_names(grid, cycle + 1)
        gone = leap_place(grid)
        return (
            (*short[:gone], *short[gone + 1 :]),
            (*brief[:gone], *brief[gone + 1 :]),
            (*full[:gone], *full[gone + 1 :]),
        )
    if cycle == grid.cycle and grid.kind in ("week", "month", "quarter"):
        return place_names(grid, cycle)
    numbers = tuple(str(place + 1) for place in range(cycle))
    return numbers, numbers, tuple(phrase("season {number}", number=number) for number in numbers)


def leap_place(grid: Grid) -> int:
    """The place of 29 February among the 366 of a year; its index is that of the day before."""
    return place_names(grid, grid.cycle + 1)[2].index("29 Feb")


def spoken_season(grid: Grid, cycle: int, place: int) -> str:
    """A season in a sentence: "July", "W31", "Sunday"."""
    if cycle == grid.cycle == 12 and grid.kind == "month" and not grid.pattern:
        return MONTH_NAMES[(grid.year_start - 1 + place) % 12]
    return season_names(grid, cycle)[2][place]
