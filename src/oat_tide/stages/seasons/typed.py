"""Holidays as they are typed: "25 Dec Christmas", "Easter +1 Easter Monday", "Easter 14 days 8 %"."""

from __future__ import annotations

import datetime as dt
import re

from oat_tide.core.language import counted, phrase
from oat_tide.core.periods.calendar import MONTHS
from oat_tide.core.periods.named import month_named, plain_digits
from oat_tide.core.user_error import UserError
from oat_tide.core.working.number_format import full, number_of
from oat_tide.plan.parts.seasons import Holiday, Moving

_FIXED = re.compile(r"(\d{1,2})\.?\s+([^\W\d_]{3,}\.?)\s*(.*)")
_EASTER = re.compile(r"easter\s*([+\-−]\s*\d{1,3})?\s*(.*)", re.IGNORECASE)
_RAISED = re.compile(
    r"easter\s*([+\-−]\s*\d{1,3})?\s+(\d{1,2})\s*days?\s+([+\-−]?[\d.,٫٬]+)\s*%\s*(.*)", re.IGNORECASE
)


def holiday(text: str) -> Holiday:
    """A day that one does not sell on. Raises UserError for what is none."""
    said = plain_digits(text.strip())
    fixed = _FIXED.fullmatch(said)
    if fixed:
        month = month_named(fixed[2])
        try:
            # 2024 has a 29 February.
            day = dt.date(2024, month, int(fixed[1]))
        except ValueError as error:
            raise UserError(
                "“{said}”: there is no such day. Write it as in 25 Dec Christmas.", said=said
            ) from error
        return Holiday(fixed[3] or f"{day.day} {MONTHS[day.month - 1]}", day.month, day.day)
    moving = _EASTER.fullmatch(said)
    if moving:
        return Holiday(moving[2] or said, from_easter=_days(moving[1]))
    raise UserError("“{said}” is no holiday. Write 25 Dec Christmas, or Easter +1 Easter Monday.", said=said)


def raised(text: str) -> Moving:
    """What sells before a moving holiday. Raises UserError for what cannot be understood."""
    said = plain_digits(text.strip())
    found = _RAISED.fullmatch(said)
    percent = _share(found[3]) if found else None
    if not found or percent is None:
        raise UserError("“{said}” is not understood. Write Easter 14 days 8 %.", said=said)
    if not 1 <= int(found[2]) <= 60 or not -100 < percent <= 300:
        raise UserError("“{said}”: choose 1 to 60 days, and a share from above −100 to 300 %.", said=said)
    return Moving(found[4] or phrase("Easter"), _days(found[1]), int(found[2]), percent)


def _share(text: str) -> float | None:
    """A share as it is typed; a single comma stands for its decimal mark in every locale."""
    share = number_of(text)
    return share if share is not None else number_of(text.replace(",", "."))


def _days(text: str | None) -> int:
    number = int("".join((text or "0").split()).replace("−", "-"))
    if not -100 <= number <= 100:
        raise UserError("{number} days from Easter is too far: choose −100 to 100.", number=number)
    return number


def said_of(each: Holiday | Moving) -> str:
    """A holiday as it stands in the side sheet."""
    if isinstance(each, Holiday) and each.month:
        return f"{each.name}: {each.day} {MONTHS[each.month - 1]}"
    sign = "+" if each.from_easter > 0 else "−"
    days = f" {sign} {counted(abs(each.from_easter), 'day')}" if each.from_easter else ""
    if isinstance(each, Holiday):
        return phrase("{name}: Easter{days}", name=each.name, days=days)
    return phrase(
        "{name}: {full} % of a usual period in the {days} days before Easter{from_easter}",
        name=each.name,
        full=full(each.percent),
        days=each.days,
        from_easter=days,
    )
