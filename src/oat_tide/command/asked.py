"""A session on the source that a call asks for, with its options in the plan."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from msgspec.structs import replace

from oat_tide.command.call import keyed_by, place_of
from oat_tide.core.periods.calendar import date_of, day_number, spoken
from oat_tide.core.user_error import UserError
from oat_tide.documents import open_document
from oat_tide.intake.file_names import kept
from oat_tide.intake.meaning import names
from oat_tide.intake.meaning.roles import guess
from oat_tide.intake.origins import passwords
from oat_tide.intake.origins.places import fetch
from oat_tide.plan.container import SUFFIX
from oat_tide.plan.edits import edit, put
from oat_tide.plan.options import FieldSteps, all_options, options_of
from oat_tide.plan.parts.intake import Intake
from oat_tide.plan.parts.sources import Sources
from oat_tide.plan.paths import P
from oat_tide.session import Session, totalled
from oat_tide.stages import Stage


def asked_session(stage: Stage, part: Any, asked: argparse.Namespace) -> Session:
    """A session on the source asked for, with every series and the options given."""
    if Path(asked.file).suffix == SUFFIX and not passwords.is_address(asked.file):
        session = _of_plan(stage, part, asked)
    else:
        session = _of_sales(stage, part, asked)
    if asked.period and (why_not := session.kinds()[asked.period]):
        raise UserError(f"--period {asked.period}: {why_not}")
    _set_options(session, stage, part, asked)
    if asked.as_of:
        _move_as_of(session, asked)
    return session


def _of_plan(stage: Stage, part: Any, asked: argparse.Namespace) -> Session:
    """A session on a plan as it was saved, with what the call says of columns and periods over it."""
    found = open_document(Path(asked.file)).session
    plan, by = found.plan, _keys(part, asked)
    roles = {"date": asked.date, "value": asked.value, "decimal": asked.decimal, "by": by or None}
    intake = replace(plan.intake, **{name: value for name, value in roles.items() if value})
    cut = {"kind": asked.period, "week_start": asked.week_start, "year_start": asked.year_start}
    periods = replace(plan.periods, **{name: value for name, value in cut.items() if value is not None})
    session = Session(None, replace(plan, intake=intake, periods=periods), every=not stage.together)
    session.share(found)
    session.prepare()
    return session


def _of_sales(stage: Stage, part: Any, asked: argparse.Namespace) -> Session:
    """A session on sales, read by their content and by what the call says of them."""
    place = passwords.bare(asked.file) if passwords.is_address(asked.file) else asked.file
    sources = Sources(places=(kept(place),))
    source = fetch(sources)
    try:
        found = guess(source)
    except UserError:
        if not (asked.date and asked.value):
            raise
        found = Intake()
    value = asked.value or found.value
    intake = replace(
        found,
        date=asked.date or found.date,
        value=value,
        by=_keys(part, asked),
        decimal=asked.decimal or "by content",
        totalled=names.suited(value),
    )
    return totalled(
        source,
        sources,
        intake,
        every=not stage.together,
        period=asked.period,
        week_start=asked.week_start,
        year_start=asked.year_start,
    )


def _keys(part: Any, asked: argparse.Namespace) -> tuple[str, ...]:
    """The columns that tell series apart."""
    field = keyed_by(part)
    if not field:
        return tuple(asked.by or ())
    (option,) = (each for each in options_of(part) if each.field == field)
    column = getattr(asked, place_of(option))
    return (column,) if column else ()


def _set_options(session: Session, stage: Stage, part: Any, asked: argparse.Namespace) -> None:
    """Put what was asked for into the plan. Raises UserError, which names the option."""
    options = {each.field: each for each in options_of(part)}
    given = {field: getattr(asked, place_of(option)) for field, option in options.items()}
    values = {
        field: tuple(dict.fromkeys(value)) if options[field].many else options[field].value_of(value)
        for field, value in given.items()
        if value is not None
    }
    rests = {
        option.rest: values[field][1:] for field, option in options.items() if option.rest and field in values
    }
    values |= {
        field: values[field][0] for field, option in options.items() if option.rest and field in values
    }
    plan = session.plan
    for option in all_options(part):
        if option.part and getattr(asked, place_of(option)) is not None:
            value = option.value_of(getattr(asked, place_of(option)))
            plan = put(plan, (option.part, *option.path), value)
    for field, value in rests.items():
        plan = put(plan, (stage.name, field), value)
    if stage.alone:
        plan = put(plan, (stage.name,), stage.alone(plan, frozenset(values)))
    asked_for = getattr(plan, stage.name)
    for field, value in values.items():
        asked_for = _with(asked_for, options[field].path, value)
    misfit = stage.misfit and stage.misfit(asked_for, session.grid)
    if misfit:
        field, words = misfit
        typed = f" {given[field]}" if isinstance(given[field], str | int | float) else ""
        raise UserError(f"{options[field].flag}{typed}: {words}")
    for field, value in values.items():
        try:
            plan = put(plan, (stage.name, *options[field].path), value)
        except UserError as error:
            raise UserError(f"{options[field].flag}: {error}") from error
    session.begin(stage.prepared(plan, session.grid, session.home))


def _with(thing: Any, path: FieldSteps, value: object) -> Any:
    """A part or tuple with a value at a path that is not checked yet; as it was where it refuses."""
    step, rest = path[0], path[1:]
    if isinstance(step, int):
        return (*thing[:step], _with(thing[step], rest, value), *thing[step + 1 :])
    try:
        return replace(thing, **{step: _with(getattr(thing, step), rest, value) if rest else value})
    except ValueError:
        return thing


def _move_as_of(session: Session, asked: argparse.Namespace) -> None:
    try:
        day = spoken(asked.as_of, session.grid.week_start, session.grid.year_start)[1]
    except ValueError as error:
        raise UserError(f"--as-of: {error}. Write it as in 2026-03 or 2026-03-31.") from error
    grid, panel = session.grid, session.panel
    home = grid.label(session.home)
    if grid.period(day_number(day)) > session.home:
        last = date_of(session.reading.upto).isoformat()
        raise UserError(
            f"--as-of {asked.as_of}: the data end on {last}, and the last complete period is {home}. Give "
            "an earlier day."
        )
    if day_number(day) < grid.last_day(panel.first):
        raise UserError(
            f"--as-of {asked.as_of}: the data begin with {grid.label(panel.first)}. Give a later day."
        )
    session.do(edit(P.as_of, day))
