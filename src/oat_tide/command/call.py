"""The parser of a command: what all commands have, and the options of its part of the plan."""

from __future__ import annotations

import argparse
import importlib
import importlib.util
from collections.abc import Sequence
from pathlib import Path
from typing import Any, NoReturn

from oat_tide.core.language import phrase
from oat_tide.plan.options import Option, all_options, options_of

SOURCES = phrase(
    "delimited text (.csv .tsv .txt .tab), a workbook (.xlsx .xlsm .ods), Parquet, an "
    "SQLite file, a folder of these as one source, or the address of a database "
    "(postgresql://user@server/database; its password is taken from OAT_TIDE_PASSWORD, "
    "where OAT_TIDE_PASSWORD_FOR names none or this user@server)"
)
STAGE_OF = {"fit": "project"}
"""Commands that are another record of a stage."""
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
    ("--place", "before"): "--place trailing",
    ("--place", "around"): "--place centred",
    ("--place", "from-to"): "--place custom",
    ("--kind", "lowest"): "--kind minimum",
    ("--kind", "highest"): "--kind maximum",
    ("--smoother", "lowest"): "--smoother minimum",
    ("--smoother", "highest"): "--smoother maximum",
    ("--numbered", "from 1"): "--numbered counter",
    ("--numbered", "by calendar year"): "--numbered calendar",
}


_GONE = {
    "--not-below-zero": phrase(
        "needs no asking now: where no history is below zero nothing projected is. Leave it "
        "out, or ask for --below-zero."
    )
}
"""Options that are gone, each with what to do instead."""


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
                self.error(phrase("{flag} is {old_words} now.", flag=flag, old_words=OLD_WORDS[flag]))
            if (flag, value) in _OLD_VALUES and _OLD_VALUES[flag, value].split()[0] in flags:
                self.error(
                    phrase(
                        "{flag} {value} is {old_values} now.",
                        flag=flag,
                        value=value,
                        old_values=_OLD_VALUES[flag, value],
                    )
                )
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
        description=phrase(
            "{says} What was set aside, and what is not settled, is said in one line on standard error.",
            says=_says(command, part),
        ),
        epilog=phrase(
            "Example: oat-tide {example}. A plan is used as it was saved, with its sources, "
            "decisions, hierarchy and settings; options take precedence. Exit codes: 0; 2 when "
            "something is wrong with the call or the source; 3 with --strict if lines were set "
            "aside or a reading is not settled.",
            example=_example(command, part),
        ),
    )
    add = parser.add_argument
    add("file", metavar="SALES", help=phrase("a plan (.oattide), or the sales: {sources}", sources=SOURCES))
    add("--date", metavar="COLUMN", help=phrase("the column of dates (default: found by content)"))
    add("--value", metavar="COLUMN", help=phrase("the column of the measure (default: found by content)"))
    if not keyed_by(part):
        add(
            "--by", metavar="COLUMN", action="append",
            help=phrase("a column whose values become series; repeatable (default: one series of all lines)"),
        )  # fmt: skip
    add(
        "--decimal", choices=("point", "comma"),
        help=phrase("the decimal mark of figures that can be read in two ways (default: by content)"),
    )  # fmt: skip
    add(
        "--period",
        choices=_PERIODS,
        help=phrase("period that lines are totalled by (default: found by content)"),
    )
    add(
        "--week-start", type=int, choices=range(7),
        help=phrase("first weekday of the week, 0 Monday to 6 Sunday (default: found by content, else 0)"),
    )  # fmt: skip
    add(
        "--year-start", type=int, choices=range(1, 13),
        help=phrase("first month of the fiscal year (default: found by content, else 1)"),
    )  # fmt: skip
    add(
        "--as-of", metavar="WHEN",
        help=phrase("compute as of then: 2026-03, 2026-03-31, 2026Q1, 2026-W09 or 2026 (default: the "
             "last complete period)"),
    )  # fmt: skip
    for option in all_options(part):
        _add(parser, option)
    add(
        "--format", choices=("csv", "json", "parquet"), default="csv",
        help=phrase("how rows are written; Parquet to a file alone (default: csv)"),
    )  # fmt: skip
    add("--output", metavar="FILE", type=Path, help=phrase("the file to write (default: standard output)"))
    add(
        "--strict", action="store_true",
        help=phrase("exit with 3 and write nothing if lines were set aside or a reading is not settled"),
    )  # fmt: skip
    return parser


def keyed_by(part: Any) -> str:
    """The field of a part whose column tells series apart, in place of --by; empty where that does."""
    return str(getattr(part, "KEYED_BY", ""))


def _says(command: str, part: Any) -> str:
    """What a command does, for its help."""
    own = getattr(part, "COMMANDS", {}).get(command)
    return phrase(own or part.COMMAND)


def _example(command: str, part: Any) -> str:
    """A call of it; commands that are another record of a stage are called alike."""
    return f"{command} {getattr(part, 'EXAMPLE', f'{command} sales.csv').partition(' ')[2]}"


def _add(parser: Parser, option: Option) -> None:
    how: dict[str, Any] = {"help": option.help, "dest": place_of(option)}
    if option.kind is bool:
        parser.add_argument(option.flag, action="store_const", const=not option.default, **how)
        return
    if option.many:
        how["action"] = "append"
    if option.choices:
        how["choices"] = option.choices
    parser.add_argument(option.flag, type=option.kind, metavar=option.metavar, **how)


def place_of(option: Option) -> str:
    """Return the name under which the parser keeps the value of an option."""
    return f"option {option.part}.{option.field}"
