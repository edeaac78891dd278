"""The command line: open the window, or project without one."""

from __future__ import annotations

import argparse
import gc
import sys
from pathlib import Path
from typing import TYPE_CHECKING, NoReturn

from oat_tide import __version__
from oat_tide.core.trouble import Trouble

if TYPE_CHECKING:
    from oat_tide.session import Session
    from oat_tide.stages.deck import Deck

_PERIODS = ("day", "week", "month", "quarter", "year")


class _Parser(argparse.ArgumentParser):
    """Says what is wrong with the call in one line."""

    def error(self, message: str) -> NoReturn:
        self.exit(2, f"{self.prog}: {message}\n")


def main(argv: list[str] | None = None) -> int:
    """Run the program; returns the exit code."""
    words = sys.argv[1:] if argv is None else argv
    try:
        if words[:1] == ["project"]:
            return _project(_project_parser().parse_args(words[1:]))
        if words[:1] == ["demo"]:
            return _demo(_demo_parser().parse_args(words[1:]))
        return _window(_parser().parse_args(words))
    except Trouble as trouble:
        print(f"oat-tide: {trouble}", file=sys.stderr)
        return 2
    except BrokenPipeError:
        return 0
    except (KeyboardInterrupt, SystemExit):
        raise
    except BaseException as error:  # a panic of the engine is no Exception
        from oat_tide.desk.work.faults import log_fault, start_log

        start_log()
        print(f"oat-tide: {log_fault(error, None, '')}", file=sys.stderr)
        return 1


_SOURCES = (
    "delimited text (.csv .tsv .txt .tab), a workbook (.xlsx .xlsm .ods), Parquet, an SQLite file, a folder "
    "of these as one source, or the address of a database (postgresql://user@server/database; its password "
    "is taken from OAT_TIDE_PASSWORD)"
)


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(
        prog="oat-tide",
        description="Demand planning: from sales lines to a projection held against actuals.",
        epilog="Further commands: oat-tide project --help (project without a window), oat-tide demo --help.",
    )
    parser.add_argument("file", nargs="?", type=Path, help=f"what to open: a plan (.oattide), {_SOURCES}")
    parser.add_argument("--version", action="version", version=f"oat-tide {__version__}")
    return parser


def _demo_parser() -> argparse.ArgumentParser:
    parser = _Parser(prog="oat-tide demo", description="Open the plan of Skerrybank Mill, which is made up.")
    parser.add_argument(
        "--folder", type=Path,
        help="without a window: print every finding, and write figures and a picture of each stage there",
    )  # fmt: skip
    return parser


def _project_parser() -> argparse.ArgumentParser:
    parser = _Parser(
        prog="oat-tide project",
        description="Fit and project every series of a source; writes one row a series and period. What was "
        "set aside, and what is not settled, is said in one line on standard error.",
        epilog="Exit codes: 0; 2 when something is wrong with the call or the source; 3 with --strict when "
        "lines were set aside or something is not settled.",
    )
    add = parser.add_argument
    add("file", metavar="SALES", help=f"the sales: {_SOURCES}")
    add("--date", metavar="COLUMN", help="the column of dates (default: found by content)")
    add("--value", metavar="COLUMN", help="the column of the measure (default: found by content)")
    add(
        "--by", metavar="COLUMN", action="append", default=[],
        help="a column that tells series apart; repeatable (default: one series of all lines)",
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
    add(
        "--horizon",
        metavar="PERIODS",
        type=int,
        default=6,
        help="periods ahead, up to ten years (default: 6)",
    )
    add("--method", choices=("line", "growth"), default="line", help="what is fitted (default: line)")
    add(
        "--level", metavar="PERCENT", type=float, action="append",
        help="of a prediction interval, 1 to 99.99; repeatable (default: 80 and 95)",
    )  # fmt: skip
    add("--format", choices=("csv", "json"), default="csv", help="how rows are written (default: csv)")
    add("--output", metavar="FILE", type=Path, help="the file to write (default: standard output)")
    add("--strict", action="store_true", help="write nothing and exit with 3 when lines were set aside")
    return parser


def _window(asked: argparse.Namespace) -> int:
    return _run(asked.file)


def _run(path: Path | None) -> int:
    # Much is loaded and nothing thrown away until the first paint: the collector waits for it.
    gc.disable()
    from oat_tide.desk.window.app import run

    return run(path)


def _demo(asked: argparse.Namespace) -> int:
    if asked.folder:
        from oat_tide.desk.window.example import write_example

        return write_example(asked.folder)
    from oat_tide.demo import plan_path

    return _run(plan_path())


def _project(asked: argparse.Namespace) -> int:
    from oat_tide.publish.projections import as_csv, as_json, projections

    probabilities = tuple(dict.fromkeys(asked.level or (80.0, 95.0)))
    if not all(1 <= each <= 99.99 for each in probabilities):
        raise Trouble("--level is a percentage from 1 to 99.99.")
    session = _asked_session(asked, probabilities)
    left, gaps = what_was_left(session), gaps_taken(session)
    if left or gaps:
        said = "; ".join(part for part in (left, gaps) if part)
        print(f"oat-tide: {session.reading.source}: {said}.", file=sys.stderr)
    if left and asked.strict:
        return 3
    deck, frame = session.deck("project"), projections(session)
    if frame.is_empty():
        raise Trouble(f"{session.reading.source}: no series could be fitted. {deck.cautions(0)[0].text}")
    for series in range(len(deck.keys)):
        _warn_of_no_fit(deck, series)
    text = as_json(frame) if asked.format == "json" else as_csv(frame)
    if asked.output is None:
        sys.stdout.write(text)
        return 0
    from oat_tide.plan.container import write_whole

    write_whole(asked.output, lambda path: path.write_text(text, encoding="utf-8"))
    return 0


def gaps_taken(session: Session) -> str:
    """What periods without a line were taken for; empty where there are none."""
    from oat_tide.stages.common import counted
    from oat_tide.stages.intake.periods import gaps_of

    kind = session.grid.kind
    taken = zip(gaps_of(session.panel), ("nothing sold", "not known"), strict=True)
    return "; ".join(
        f"{counted(many, kind)} of series without a line taken as {words}" for many, words in taken if many
    )


def what_was_left(session: Session) -> str:
    """What was set aside of a source and what nothing settles; empty where there is nothing."""
    import numpy as np

    from oat_tide.core.series.reading import TOTAL
    from oat_tide.core.working.numerals import full
    from oat_tide.stages.common import counted

    reading, parts = session.reading, []
    if reading.aside:
        reasons = ", ".join(
            f"{each.count:,} {each.reason}" for each in reading.asides if each.reason != TOTAL
        )
        parts.append(f"{reading.aside:,} of {reading.read:,} lines set aside ({reasons})")
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


def _asked_session(asked: argparse.Namespace, probabilities: tuple[float, ...]) -> Session:
    from msgspec.structs import replace

    from oat_tide.intake.meaning import names
    from oat_tide.intake.meaning.roles import guess
    from oat_tide.intake.origins import vault
    from oat_tide.intake.origins.places import fetch
    from oat_tide.plan.container import SUFFIX
    from oat_tide.plan.parts.intake import Intake
    from oat_tide.plan.parts.project import Project
    from oat_tide.plan.parts.sources import Sources
    from oat_tide.session import totalled
    from oat_tide.stages.project.fit import MOST_YEARS

    if Path(asked.file).suffix == SUFFIX:
        raise Trouble(f"{Path(asked.file).name} is a plan. Give the sales file that it was made of.")
    place = vault.bare(asked.file) if vault.is_address(asked.file) else asked.file
    sources = Sources(places=(place,))
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
        by=tuple(asked.by),
        decimal=asked.decimal or "by content",
        totalled=names.suited(value),
    )
    session = totalled(
        source,
        sources,
        intake,
        every=True,
        period=asked.period,
        week_start=asked.week_start,
        year_start=asked.year_start,
    )
    grid = session.grid
    if asked.period and (why_not := session.kinds()[asked.period]):
        raise Trouble(f"--period {asked.period}: {why_not}")
    most = MOST_YEARS * grid.cycle
    if not 1 <= asked.horizon <= most:
        raise Trouble(f"--horizon {asked.horizon}: choose 1 to {most:,} {grid.kind}s, ten years' worth.")
    session.begin(
        replace(
            session.plan, project=Project(method=asked.method, horizon=asked.horizon, intervals=probabilities)
        )
    )
    if asked.as_of:
        _move_as_of(session, asked)
    return session


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
        raise Trouble(f"--as-of {asked.as_of}: the data end on {last}, and the last whole period is {home}.")
    if day_number(day) < grid.last_day(panel.first):
        raise Trouble(f"--as-of {asked.as_of}: the data begin with {grid.label(panel.first)}.")
    session.do(edit(P.as_of, day))


def _warn_of_no_fit(deck: Deck, series: int) -> None:
    from math import isnan

    if isnan(deck.figures["slope"].values[series, 0]):
        named = ", ".join(str(member) for member in deck.keys[series]) or "the series"
        print(f"oat-tide: {named}: {deck.cautions(series)[0].text}", file=sys.stderr)


if __name__ == "__main__":
    sys.exit(main())
