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
    except Exception as error:
        from oat_tide.desk.faults import log_fault, start_log

        start_log()
        print(f"oat-tide: {log_fault(error, None, '')}", file=sys.stderr)
        return 1


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(
        prog="oat-tide",
        description="Demand planning: from sales lines to a projection held against actuals.",
        epilog="Further commands: oat-tide project --help (project without a window), oat-tide demo --help.",
    )
    parser.add_argument(
        "file", nargs="?", type=Path, help="a sales file (CSV, Parquet) or a plan (.oattide) to open"
    )
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
        description="Fit and project every series of a sales file; writes one row a series and period.",
    )
    parser.add_argument("file", type=Path, help="the sales file (CSV, Parquet)")
    parser.add_argument("--date", help="the column of dates; found by content when not given")
    parser.add_argument("--value", help="the column that is added up; found by content when not given")
    parser.add_argument(
        "--by", action="append", default=[], help="a column that tells series apart; repeatable"
    )
    parser.add_argument("--period", choices=_PERIODS, default="month", help="what lines are totalled by")
    parser.add_argument("--week-start", type=int, default=0, choices=range(7), help="0 Monday to 6 Sunday")
    parser.add_argument("--year-start", type=int, default=1, choices=range(1, 13), help="first fiscal month")
    parser.add_argument("--as-of", help="compute as of then: 2026-03, 2026-03-31, 2026Q1, 2026-W09 or 2026")
    parser.add_argument("--horizon", type=int, default=6, help="periods ahead, up to two years' worth")
    parser.add_argument("--method", choices=("line", "growth"), default="line")
    parser.add_argument(
        "--level", type=float, action="append", help="of a prediction interval, in percent; repeatable"
    )
    parser.add_argument("--format", choices=("csv", "json"), default="csv")
    parser.add_argument("--output", type=Path, help="the file to write; standard output when not given")
    return parser


def _window(asked: argparse.Namespace) -> int:
    return _run(asked.file)


def _run(path: Path | None) -> int:
    # Much is loaded and nothing thrown away until the first paint: the collector waits for it.
    gc.disable()
    from oat_tide.desk.app import run

    return run(path)


def _demo(asked: argparse.Namespace) -> int:
    if asked.folder:
        from oat_tide.desk.example import write_example

        return write_example(asked.folder)
    from oat_tide.demo import plan_path

    return _run(plan_path())


def _project(asked: argparse.Namespace) -> int:
    from oat_tide.publish.tables import projection_rows, rows_csv, rows_json

    levels = tuple(dict.fromkeys(asked.level or (80.0, 95.0)))
    if not all(1 <= level <= 99.99 for level in levels):
        raise Trouble("--level is a percentage from 1 to 99.99.")
    session = _asked_session(asked)
    deck = _asked_deck(session, levels)
    rows = list(projection_rows(session, deck, levels))
    if not rows:
        raise Trouble(f"{asked.file.name}: no series could be fitted. {deck.cautions(0)[0].text}")
    for series in range(len(deck.keys)):
        _warn_of_no_fit(deck, series)
    text = rows_json(rows) if asked.format == "json" else rows_csv(rows)
    if asked.output is None:
        sys.stdout.write(text)
        return 0
    from oat_tide.plan.container import write_whole

    write_whole(asked.output, lambda path: path.write_text(text, encoding="utf-8"))
    return 0


def _asked_session(asked: argparse.Namespace) -> Session:
    from oat_tide.intake.origins import fetch
    from oat_tide.intake.recognise import guess
    from oat_tide.plan.plan import Intake, Periods, Plan, Project, Sources
    from oat_tide.session import Session

    sources = Sources(places=(str(asked.file),))
    source = fetch(sources)
    found = guess(source) if not (asked.date and asked.value) else Intake()
    intake = Intake(date=asked.date or found.date, value=asked.value or found.value, by=tuple(asked.by))
    periods = Periods(asked.period, asked.week_start, asked.year_start)
    most = 2 * periods.grid().cycle
    if not 1 <= asked.horizon <= most:
        raise Trouble(f"--horizon {asked.horizon}: choose 1 to {most} {asked.period}s, two years' worth.")
    project = Project(method=asked.method, horizon=asked.horizon)
    plan = Plan(sources=sources, intake=intake, periods=periods, project=project)
    session = Session(source, plan, every=True)
    session.prepare()
    if why_not := session.kinds()[asked.period]:
        raise Trouble(f"--period {asked.period}: {why_not}")
    if asked.as_of:
        _move_as_of(session, asked)
    return session


def _move_as_of(session: Session, asked: argparse.Namespace) -> None:
    from oat_tide.core.calendar import date_of, day_number, spoken
    from oat_tide.plan.edits import P, edit

    try:
        day = spoken(asked.as_of, asked.week_start, asked.year_start)[1]
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


def _asked_deck(session: Session, levels: tuple[float, ...]) -> Deck:
    from oat_tide.stages.project import make

    return make(session.sight(), session.plan.project, (session.deck("intake"),), session.late, levels)


def _warn_of_no_fit(deck: Deck, series: int) -> None:
    from math import isnan

    if isnan(deck.figures["slope"].values[series, 0]):
        named = ", ".join(str(member) for member in deck.keys[series]) or "the series"
        print(f"oat-tide: {named}: {deck.cautions(series)[0].text}", file=sys.stderr)


if __name__ == "__main__":
    sys.exit(main())
