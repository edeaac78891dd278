"""The command line: open the window, or have a stage written without one."""

from __future__ import annotations

import argparse
import gc
import sys
from pathlib import Path
from typing import NoReturn

from oat_tide import __version__
from oat_tide.command import call
from oat_tide.command.call import SOURCES, Parser
from oat_tide.core.language import phrase
from oat_tide.core.user_error import UserError

COMMANDS = "project", "fit", "smooth", "seasons", "spread"


def main(argv: list[str] | None = None) -> int:
    """Run the program; returns the exit code."""
    words = sys.argv[1:] if argv is None else argv
    try:
        if words[:1] == ["demo"]:
            return _demo(_demo_parser().parse_args(words[1:]))
        part = call.part_of(words[0]) if words else None
        if part is not None:
            asked = call.parser_of(words[0], part).asked(words[1:])
            from oat_tide.command.run import run

            return run(words[0], part, asked)
        _window(_parser().parse_args(words))
    except UserError as error:
        print(phrase("oat-tide: {error}", error=error), file=sys.stderr)
        return 2
    except BrokenPipeError:
        return 0
    except (KeyboardInterrupt, SystemExit):
        raise
    except BaseException as error:  # a panic of the engine is no Exception
        from oat_tide.desk.work.faults import log_fault
        from oat_tide.system import log

        log.start()
        print(phrase("oat-tide: {log}", log=log_fault(error)), file=sys.stderr)
        return 1


def _parser() -> Parser:
    parser = Parser(
        prog="oat-tide",
        description=phrase("Demand planning: from sales lines to a projection compared with actuals."),
        epilog=phrase(
            "Commands without a window: {commands}; and demo. Each says more with --help, as in "
            "oat-tide project --help.",
            commands=", ".join(COMMANDS),
        ),
    )
    parser.add_argument(
        "file",
        nargs="?",
        type=Path,
        help=phrase("what to open: a plan (.oattide), {sources}", sources=SOURCES),
    )
    parser.add_argument(
        "--version", action="version", version=phrase("oat-tide {version}", version=__version__)
    )
    return parser


def _demo_parser() -> Parser:
    parser = Parser(
        prog="oat-tide demo", description=phrase("Open the plan of Skerrybank Mill, which is made up.")
    )
    parser.add_argument(
        "--folder", type=Path,
        help=phrase("without a window: print every finding, and write figures and a picture of each "
"stage there"),
    )  # fmt: skip
    return parser


def _window(asked: argparse.Namespace) -> NoReturn:
    file = asked.file
    if file is not None and file.name == str(file) and not file.suffix and not file.exists():
        commands = ", ".join((*COMMANDS, "demo"))
        raise UserError(
            "“{file}” is neither a command nor a file. Use one of the commands: {commands}.",
            file=file,
            commands=commands,
        )
    _get_ready_to_read()
    _run(asked.file)


def _get_ready_to_read() -> None:
    """Start the process that files are read in: it loads while the window does."""
    from oat_tide.intake.origins import subprocess_reader

    subprocess_reader.warm()


def _run(path: Path | None) -> NoReturn:
    # Much is loaded and nothing thrown away until the first paint: the collector waits for it.
    gc.disable()
    from oat_tide.desk.window.app import run

    run(path)


def _demo(asked: argparse.Namespace) -> int:
    if asked.folder:
        from oat_tide.desk.window.example import write_example

        return write_example(asked.folder)
    from oat_tide.demo import plan_path

    _get_ready_to_read()
    _run(plan_path())


if __name__ == "__main__":
    sys.exit(main())
