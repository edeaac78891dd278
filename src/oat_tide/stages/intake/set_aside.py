"""What stands against lines: those set aside by reason, copies, and members that may be one."""

from __future__ import annotations

from collections.abc import Iterator
from typing import get_args

from oat_tide.core.language import counted, phrase
from oat_tide.core.series.reading import COPY, TOTAL, Reading
from oat_tide.plan.edits import Edit, edit
from oat_tide.plan.parts.intake import Intake, Outcome
from oat_tide.plan.paths import P
from oat_tide.stages.deck import Choice, Entry, Item, Note
from oat_tide.stages.intake import edits
from oat_tide.stages.intake.asked import IntakeParts

_MOST_ALIKE = 4
_WORDS: dict[str, str] = {
    "use": phrase("Count them"),
    "date of the line above": phrase("Date of the line above"),
    "count as 0": phrase("Count as 0"),
    "leave out": phrase("Leave out"),
    "leave copies out": phrase("Leave copies out"),
}


def lines_found(asked: IntakeParts, reading: Reading) -> Iterator[Item]:
    """Lines set aside by reason, copies, and members that may be one, with what can become of them."""
    ask = asked.intake
    verdicts = {each.reason: each.outcome for each in ask.verdicts}
    found: list[Item] = []
    for aside in reading.asides:
        text = phrase(
            "{count:,} · {reason}, first in row {row:,}",
            count=aside.count,
            reason=aside.reason,
            row=aside.row,
        )
        outcomes: list[tuple[str, Edit | None]] = [
            (_WORDS[outcome], _verdict(ask, aside.reason, outcome)) for outcome in aside.outcomes
        ]
        if verdicts.get(aside.reason) == "leave out":
            outcomes = [
                (phrase("Left out"), None),
                *(each for each in outcomes if each[0] != _WORDS["leave out"]),
            ]
        found.append(Choice(text, "" if aside.reason == TOTAL else "aside", tuple(outcomes)))
    for reason, outcome in verdicts.items():
        if all(aside.reason != reason for aside in reading.asides) and outcome != "leave copies out":
            back: tuple[tuple[str, Edit | None], ...] = (
                (phrase("Remove"), edits.with_verdict(ask, reason, None)),
            )
            found.append(Choice(f"{reason}: {_WORDS[outcome].lower()}", "ruled", back))
    if reading.copies and COPY not in verdicts:
        out = edits.with_verdict(ask, COPY, "leave copies out")
        found.append(
            Choice(
                phrase("{copies} repeat another one exactly; kept.", copies=counted(reading.copies, "line")),
                "",
                ((phrase("Leave out"), out),),
            )
        )
    apart = {(each.of, each.old) for each in ask.renames if each.old == each.new}
    for alike in [each for each in reading.alike if (each.of, each.old) not in apart][:_MOST_ALIKE]:
        found.append(
            Choice(
                phrase(
                    "{old} ({lines}) may be {new}.",
                    old=alike.old,
                    lines=counted(alike.lines, "line"),
                    new=alike.new,
                ),
                "",
                (
                    (phrase("Take as one"), edits.with_rename(ask, alike.of, alike.old, alike.new)),
                    (phrase("Keep separate"), edits.with_rename(ask, alike.of, alike.old, alike.old)),
                ),
            )
        )
    for heading in ask.headings:
        said = (
            phrase("is read as {heading_words}", heading_words=edits.heading_words(heading.means))
            if heading.means
            else phrase("is no period")
        )
        back = ((phrase("Remove"), edits.without_heading(ask, heading.column)),)
        found.append(Choice(f"“{heading.column}” {said}", "ruled", back))
    for rename in ask.renames:
        if rename.old != rename.new:
            left = tuple(each for each in ask.renames if each != rename)
            found.append(
                Choice(
                    phrase("{old} is taken for {new}", old=rename.old, new=rename.new),
                    "ruled",
                    ((phrase("Remove"), edit(P.intake.renames, left)),),
                )
            )
    if reading.dimensions:
        entry = Entry(phrase("old = new"), "", lambda text: edits.renamed(ask, reading, text))
        found.append(Choice(phrase("One name became another:"), "", entries=(entry,)))
    if found:
        yield Note(phrase("Lines"), "head")
        yield from found


def _verdict(ask: Intake, reason: str, outcome: str) -> Edit:
    assert outcome in get_args(Outcome)
    return edits.with_verdict(ask, reason, outcome)  # type: ignore[arg-type]
