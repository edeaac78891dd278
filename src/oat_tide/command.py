"""A stage as a command: its options from its part of the plan, its rows from the figures of its record."""

from __future__ import annotations

import argparse
import importlib
import importlib.util
import sys
import tempfile
from collections import Counter
from collections.abc import Iterator, Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any, NoReturn

from oat_tide.core.trouble import Trouble
from oat_tide.plan.options import Option, Steps, all_options, options_of

if TYPE_CHECKING:
    import polars as pl

    from oat_tide import bulk
    from oat_tide.session import Session
    from oat_tide.stages import Stage
    from oat_tide.stages.deck import Deck
    from oat_tide.stages.record import Record

SOURCES = (
    "delimited text (.csv .tsv .txt .tab), a workbook (.xlsx .xlsm .ods), Parquet, an SQLite file, a folder "
    "of these as one source, or the address of a database (postgresql://user@server/database; its password "
    "is taken from OAT_TIDE_PASSWORD, where OAT_TIDE_PASSWORD_FOR names none or this user@server)"
)
STAGE_OF = {"fit": "project"}
"""Commands that are another record of a stage."""
_MANY = 1000
"""Series from which it is said how far the work has come."""
_PERIODS = ("day", "week", "month", "quarter", "year")


OLD_WORDS = {
    "--level": "--interval",
    "--lock": "--fixed",
    "--children": "--detail-by",
    "--children-by": "--detail-rule",
    "--baseline": "--against",
    "--seasonal": "--season-span",
    "--on": "--horizon",
    "--method": "--indices",
    "--by": "--rule",
}
"""What options were called, where a command has none of that name now."""
_OLD_VALUES = {
    ("--season", "simple"): "--indices simple",
    ("--season", "classical"): "--indices classical",
    ("--season", "loess"): "--indices loess",
    ("--numbered", "from 1"): "--numbered counter",
    ("--numbered", "by calendar year"): "--numbered calendar",
}


_GONE = {
    "--not-below-zero": "needs no asking now: where no history is below zero nothing projected is. "
    "Leave it out, or ask for --below-zero."
}
"""What options that there are no more came to be."""


class Parser(argparse.ArgumentParser):
    """Says what is wrong with the call in one line. An option is written in full: it has one name."""

    def __init__(self, **how: Any) -> None:
        super().__init__(allow_abbrev=False, **how)

    def error(self, message: str) -> NoReturn:
        self.exit(2, f"{self.prog}: {message}\n")

    def asked(self, words: Sequence[str]) -> argparse.Namespace:
        """What a call asks for; a word of before is refused with the word of now."""
        flags = {flag for action in self._actions for flag in action.option_strings}
        for place, word in enumerate(words):
            flag, _, value = word.partition("=")
            value = value or next(iter(words[place + 1 : place + 2]), "")
            if flag in _GONE and flag not in flags:
                self.error(f"{flag} {_GONE[flag]}")
            if flag in OLD_WORDS and flag not in flags and OLD_WORDS[flag] in flags:
                self.error(f"{flag} is {OLD_WORDS[flag]} now.")
            if (flag, value) in _OLD_VALUES and _OLD_VALUES[flag, value].split()[0] in flags:
                self.error(f"{flag} {value} is {_OLD_VALUES[flag, value]} now.")
        return self.parse_args(words)


def part_of(command: str) -> Any:
    """The part of the plan that a command sets; None where there is no such command."""
    where = f"oat_tide.plan.parts.{STAGE_OF.get(command, command)}"
    if not command.isidentifier() or importlib.util.find_spec(where) is None:
        return None
    part = getattr(importlib.import_module(where), STAGE_OF.get(command, command).capitalize(), None)
    return part if part is not None and options_of(part) else None


def parser_of(command: str, part: Any) -> Parser:
    """The parser of a command: what all have, and the options of its part."""
    parser = Parser(
        prog=f"oat-tide {command}",
        description=f"{_says(command, part)} What was set aside, and what is not settled, is said in one "
        "line on standard error.",
        epilog="A plan is taken as it was saved, with its sources, rulings, levels and settings; options "
        "stand over them. Exit codes: 0; 2 when something is wrong with the call or the source; 3 with "
        "--strict when lines were set aside or a reading is not settled.",
    )
    add = parser.add_argument
    add("file", metavar="SALES", help=f"a plan (.oattide), or the sales: {SOURCES}")
    add("--date", metavar="COLUMN", help="the column of dates (default: found by content)")
    add("--value", metavar="COLUMN", help="the column of the measure (default: found by content)")
    if not keyed_by(part):
        add(
            "--by", metavar="COLUMN", action="append",
            help="a column that tells series apart; repeatable (default: of sales one series of all lines)",
        )  # fmt: skip
    add(
        "--decimal", choices=("point", "comma"),
        help="the decimal mark of figures that can be read in two ways (default: by content)",
    )  # fmt: skip
    add("--period", choices=_PERIODS, help="what lines are totalled by (default: found by content)")
    add(
        "--week-start", type=int, choices=range(7),
        help="the weekday that weeks begin on, 0 Monday to 6 Sunday (default: found by content, else 0)",
    )  # fmt: skip
    add(
        "--year-start", type=int, choices=range(1, 13),
        help="the month that fiscal years begin in (default: found by content, else 1)",
    )  # fmt: skip
    add(
        "--as-of", metavar="WHEN",
        help="compute as of then: 2026-03, 2026-03-31, 2026Q1, 2026-W09 or 2026 "
        "(default: the last whole period)",
    )  # fmt: skip
    for option in all_options(part):
        _add(parser, option)
    add(
        "--format", choices=("csv", "json", "parquet"), default="csv",
        help="how rows are written; Parquet to a file alone (default: csv)",
    )  # fmt: skip
    add("--output", metavar="FILE", type=Path, help="the file to write (default: standard output)")
    add(
        "--strict", action="store_true",
        help="exit with 3 and write nothing if lines were set aside or a reading is not settled",
    )  # fmt: skip
    return parser


def keyed_by(part: Any) -> str:
    """The field of a part whose column tells series apart, in place of --by; empty where that does."""
    return str(getattr(part, "KEYED_BY", ""))


def _says(command: str, part: Any) -> str:
    """What a command does, for its help."""
    own = getattr(part, "COMMANDS", {}).get(command)
    return own or f"{part.COMMAND} Writes one row a series and period."


def _add(parser: Parser, option: Option) -> None:
    how: dict[str, Any] = {"help": option.help, "dest": _dest(option)}
    if option.kind is bool:
        parser.add_argument(option.flag, action="store_const", const=not option.default, **how)
        return
    if option.many:
        how["action"] = "append"
    if option.choices:
        how["choices"] = option.choices
    parser.add_argument(option.flag, type=option.kind, metavar=option.metavar, **how)


def _dest(option: Option) -> str:
    return f"option {option.part}.{option.field}"


def run(command: str, part: Any, asked: argparse.Namespace) -> int:
    """Make the deck of a stage for every series of a source and write its record; returns the exit code."""
    from oat_tide.publish.record import write_parquet, write_text
    from oat_tide.stages import STAGES

    if asked.format == "parquet" and asked.output is None:
        raise Trouble("--format parquet: Parquet is no text. Name a file with --output.")
    stage = STAGES[STAGE_OF.get(command, command)]
    kept = stage.others.get(command, stage.record)
    assert kept is not None
    session = _asked_session(stage, part, asked)
    left, more = what_was_left(session), (what_else_is_there(session), gaps_taken(session))
    if left or any(more):
        said = "; ".join(part for part in (left, *more) if part)
        print(f"oat-tide: {session.reading.source}: {said}.", file=sys.stderr)
    if left and asked.strict:
        return 3
    frames = _written(session, stage, kept)
    from oat_tide.system.whole import write_whole

    if asked.format == "parquet":
        with tempfile.TemporaryDirectory(prefix="oat-tide-") as folder:
            write_whole(asked.output, lambda path: write_parquet(frames, Path(folder), path))
        return 0
    if asked.output is None:
        write_text(frames, asked.format, sys.stdout)
        return 0

    def write(path: Path) -> None:
        with path.open("w", encoding="utf-8") as file:
            write_text(frames, asked.format, file)

    write_whole(asked.output, write)
    return 0


def _written(session: Session, stage: Stage, kept: Record) -> Iterator[pl.DataFrame]:
    """The rows of all that is asked for, one after another: a block of series at a time, as they are made.

    Raises:
        Trouble: there is nothing to write; it says why.
    """
    from oat_tide import bulk
    from oat_tide.publish.record import aligned, schema_of

    # What takes all series together is no stage of blocks.
    known = None if stage.together else bulk.facts(session.plan, *session.loaded.found(session.plan))
    every = kept.each(getattr(session.plan, stage.name))
    why: list[str] = []
    runs = [_rows_of(session, known, stage, kept, ask, why, many=len(every)) for ask in every]
    # Which columns there are is told by the first rows of each.
    firsts = [(first, run) for run in runs if (first := next(run, None)) is not None]
    if not firsts:
        raise Trouble(f"{session.reading.source}: there is nothing to write. {next(iter(why), '')}")
    schema = schema_of([first for first, _ in firsts])

    def blocks() -> Iterator[pl.DataFrame]:
        for place, (first, run) in enumerate(firsts):
            if len(session.panel.keys) >= _MANY and len(firsts) > 1:
                print(f"oat-tide: {place + 1} of {len(firsts)} ...", file=sys.stderr)
            yield aligned(first, schema)
            for rows in run:
                yield aligned(rows, schema)

    return blocks()


def _rows_of(
    session: Session,
    known: bulk.Facts | None,
    stage: Stage,
    kept: Record,
    ask: Any,
    why: list[str],
    many: int,
) -> Iterator[pl.DataFrame]:
    """The rows of one thing that is asked for, block by block.

    Args:
        known: what is decided over all series; None of a stage that takes them together.
        why: gathers why there is none.
        many: how many things are asked for at once.
    """
    from oat_tide.publish.record import record

    dimensions, counts, last = session.reading.dimensions, Counter[str](), None
    for deck in _decks_of(session, known, stage, ask):
        if deck.instead:
            # What was not asked for is not written under its name.
            why.append(deck.instead)
            said = "".join(f"{words}: " for words in kept.said(ask, deck.grid).values())
            if many > 1:
                print(f"oat-tide: {said}{deck.instead}", file=sys.stderr)
            return
        found = record(deck, ask, kept, dimensions, partial(_projected_children, session))
        if found.is_empty():
            why.append(kept.why_none or _why_none(deck, 0))
            continue
        _warn_of_none(deck, ask, kept)
        counts, last = counts + kept.counts(ask, deck), deck
        yield found
    if last is not None and (understood := kept.echo(ask, last, counts)):
        print(f"oat-tide: {understood}.", file=sys.stderr)


def _decks_of(session: Session, known: bulk.Facts | None, stage: Stage, ask: Any) -> Iterator[Deck]:
    """The decks of a stage: of every block of series, or of all of them where it takes them together."""
    from oat_tide import bulk
    from oat_tide.plan.edits import put

    if known is None:
        session.begin(put(session.plan, (stage.name,), ask))
        yield session.deck(stage.name)
        return
    for rows in bulk.blocks(known):
        yield bulk.deck(known, rows, stage.name, ask)


def _projected_children(session: Session) -> tuple[Deck, int]:
    """The projection of the children that a total is spread over, and where their members stand in a key."""
    at = session.reading.dimensions.index(session.plan.spread.children)
    return session.deck("project", "children"), at


def gaps_taken(session: Session) -> str:
    """What periods without a line were taken for; empty where there are none."""
    from oat_tide.stages.common import counted
    from oat_tide.stages.intake.periods import gaps_of

    kind = session.grid.kind
    taken = zip(gaps_of(session.panel), ("nothing sold", "not known"), strict=True)
    return "; ".join(
        f"{counted(many, kind)} of series without a line taken as {words}" for many, words in taken if many
    )


def what_else_is_there(session: Session) -> str:
    """What the source holds that is no reason to refuse: columns in no series, and totals that differ."""
    from oat_tide.core.working.numerals import full
    from oat_tide.stages.common import counted, listed

    reading, parts = session.reading, []
    if reading.filled:
        parts.append(f"blank cells of {listed(reading.filled)} taken for the one above")
    parts += [f"{counted(lines, 'line')} without {name} under “(blank)”" for name, lines in reading.blank]
    for each in reading.figures_in("no series"):
        parts.append(f"{each.name} in no series ({full(float(each.amount))})")
    for own in reading.own_totals:
        if own.more:
            side = "more" if own.more > 0 else "less"
            parts.append(f"the file's own total, {own.name}, is {full(float(abs(own.more)))} {side}")
    return "; ".join(parts)


def what_was_left(session: Session) -> str:
    """What was set aside of a source and what nothing settles; empty where there is nothing."""
    import numpy as np

    from oat_tide.core.series.reading import ABOVE, TOTAL
    from oat_tide.core.working.numerals import full
    from oat_tide.stages.common import counted

    reading, parts = session.reading, []
    for each in reading.figures_in("asked"):
        sums = f"{full(float(each.amount))} in {counted(each.cells, 'cell')}"
        parts.append(f"“{each.name}” may be a period and is not read: {sums} are in no series")
    # What stands above the header is a title, and no reason to refuse.
    asides = [each for each in reading.asides if each.reason not in (TOTAL, ABOVE)]
    if asides:
        reasons = ", ".join(f"{each.count:,} {each.reason}" for each in asides)
        count = sum(each.count for each in asides)
        parts.append(f"{count:,} of {reading.read:,} lines set aside ({reasons})")
    if reading.totals:
        parts.append(f"{counted(reading.totals, 'total row')} not added")
    if reading.beside:
        parts.append(f"{counted(reading.beside, 'line')} of other scenarios not added")
    if reading.unread:
        unknown = int(((session.panel.unread > 0) & np.isnan(session.panel.values)).sum())
        parts.append(f"{counted(unknown, 'period')} of series not known, for lines without a figure")
    if reading.mark.asks:
        mark = reading.mark
        parts.append(
            f"“{mark.text}” is read as {full(mark.value)} and nothing settles it: "
            "give --decimal point or --decimal comma"
        )
    if reading.unsettled:
        parts.append(f"{reading.unsettled:,} dates could have day and month swapped; read day first")
    return "; ".join(parts)


def _asked_session(stage: Stage, part: Any, asked: argparse.Namespace) -> Session:
    """A session on the source asked for, with every series and the options given."""
    from oat_tide.intake.origins import vault
    from oat_tide.plan.container import SUFFIX

    if Path(asked.file).suffix == SUFFIX and not vault.is_address(asked.file):
        session = _of_plan(stage, part, asked)
    else:
        session = _of_sales(stage, part, asked)
    if asked.period and (why_not := session.kinds()[asked.period]):
        raise Trouble(f"--period {asked.period}: {why_not}")
    _set_options(session, stage, part, asked)
    if asked.as_of:
        _move_as_of(session, asked)
    return session


def _of_plan(stage: Stage, part: Any, asked: argparse.Namespace) -> Session:
    """A session on a plan as it was saved, with what the call says of columns and periods over it."""
    from msgspec.structs import replace

    from oat_tide.documents import open_document
    from oat_tide.session import Session

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
    from msgspec.structs import replace

    from oat_tide.intake.file_names import kept
    from oat_tide.intake.meaning import names
    from oat_tide.intake.meaning.roles import guess
    from oat_tide.intake.origins import vault
    from oat_tide.intake.origins.places import fetch
    from oat_tide.plan.parts.intake import Intake
    from oat_tide.plan.parts.sources import Sources
    from oat_tide.session import totalled

    place = vault.bare(asked.file) if vault.is_address(asked.file) else asked.file
    sources = Sources(places=(kept(place),))
    source = fetch(sources)
    try:
        found = guess(source)
    except Trouble:
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
    column = getattr(asked, _dest(option))
    return (column,) if column else ()


def _set_options(session: Session, stage: Stage, part: Any, asked: argparse.Namespace) -> None:
    """Put what was asked for into the plan. Raises Trouble, which names the option."""

    from oat_tide.plan.edits import put

    options = {each.field: each for each in options_of(part)}
    given = {field: getattr(asked, _dest(option)) for field, option in options.items()}
    values = {
        field: tuple(dict.fromkeys(value)) if options[field].many else value
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
        if option.part and getattr(asked, _dest(option)) is not None:
            plan = put(plan, (option.part, *option.path), getattr(asked, _dest(option)))
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
        raise Trouble(f"{options[field].flag}{typed}: {words}")
    for field, value in values.items():
        try:
            plan = put(plan, (stage.name, *options[field].path), value)
        except Trouble as trouble:
            raise Trouble(f"{options[field].flag}: {trouble}") from trouble
    session.begin(stage.prepared(plan, session.grid, session.home))


def _with(thing: Any, path: Steps, value: object) -> Any:
    """A part or tuple with a value at a path that is not checked yet; as it was where it refuses."""
    from msgspec.structs import replace

    step, rest = path[0], path[1:]
    if isinstance(step, int):
        return (*thing[:step], _with(thing[step], rest, value), *thing[step + 1 :])
    try:
        return replace(thing, **{step: _with(getattr(thing, step), rest, value) if rest else value})
    except ValueError:
        return thing


def _move_as_of(session: Session, asked: argparse.Namespace) -> None:
    from oat_tide.core.periods.calendar import date_of, day_number, spoken
    from oat_tide.plan.edits import edit
    from oat_tide.plan.paths import P

    try:
        day = spoken(asked.as_of, session.grid.week_start, session.grid.year_start)[1]
    except ValueError as error:
        raise Trouble(f"--as-of: {error}. Write it as in 2026-03 or 2026-03-31.") from error
    grid, panel = session.grid, session.panel
    home = grid.label(session.home)
    if grid.period(day_number(day)) > session.home:
        last = date_of(session.reading.upto).isoformat()
        raise Trouble(
            f"--as-of {asked.as_of}: the data end on {last}, and the last whole period is {home}. Give "
            "an earlier day."
        )
    if day_number(day) < grid.last_day(panel.first):
        raise Trouble(
            f"--as-of {asked.as_of}: the data begin with {grid.label(panel.first)}. Give a later day."
        )
    session.do(edit(P.as_of, day))


def _why_none(deck: Deck, series: int) -> str:
    cautions = deck.cautions(series)
    return cautions[0].text if cautions else "No figure of it is known."


def _warn_of_none(deck: Deck, ask: Any, kept: Record) -> None:
    """Say which series have no row, and why."""
    import numpy as np

    names = kept.kinds or kept.beside(ask).values()
    if not any(name in deck.figures for name in names):
        return
    said = "".join(f"{words}: " for words in kept.said(ask, deck.grid).values())
    figures = [deck.figures[name] for name in names if name in deck.figures]
    there = [~np.isnan(figure.values).all(axis=1) for figure in figures]
    for series in np.flatnonzero(~np.any(there, axis=0)).tolist():
        named = ", ".join(str(member) for member in deck.keys[series]) or "the series"
        print(f"oat-tide: {said}{named}: {_why_none(deck, series)}", file=sys.stderr)
