"""What was taken for what on opening, in one sentence whose words lead to where each is changed."""

from __future__ import annotations

from collections.abc import Iterator

import msgspec

from oat_tide.core.language import counted, phrase
from oat_tide.core.series.reading import DecimalMark, Reading
from oat_tide.core.working.number_format import full
from oat_tide.plan.edits import edit
from oat_tide.plan.parts.intake import Intake
from oat_tide.plan.paths import P, steps
from oat_tide.stages.common import listed
from oat_tide.stages.deck import Word
from oat_tide.stages.intake.edits import with_role

_MOST_NAMED = 4
_MADE = {
    "sum": phrase("added up"),
    "mean": phrase("by their mean"),
    "last": phrase("by the last of each period"),
}
_SETTLED = {
    "column": phrase("as others in its column can only be read"),
    "other columns": phrase("as other columns of numbers are written"),
    "separator": phrase("as what stands between the fields speaks for"),
    "plan": phrase("as chosen"),
}


def taken(ask: Intake, reading: Reading) -> tuple[Word, ...]:
    """The sentence, word by word."""
    return tuple(_words(ask, reading))


def _words(ask: Intake, reading: Reading) -> Iterator[Word]:
    yield Word(phrase("Taken: dates from"))
    yield Word(ask.date, steps(P.intake.date))
    written = next((each for each in reading.patterns if each.read), None)
    if written is not None:
        yield Word(",")
        yield Word(
            phrase("“{strip}” read as {read}", strip=written.text.strip(), read=written.read),
            steps(P.intake.order),
        )
    yield Word(phrase(", figures from"))
    yield Word(f"{ask.value} × {ask.times}" if ask.times else ask.value, steps(P.intake.value))
    yield Word(_MADE[reading.totalled], steps(P.intake.totalled))
    if reading.mark.text:
        yield Word(phrase(", with"))
        yield Word(read_as(reading.mark), steps(P.intake.decimal), _SETTLED.get(reading.mark.by, ""))
    yield Word(",")
    if reading.dimensions:
        yield Word(phrase("a series for each"))
        yield Word(listed(reading.dimensions, _MOST_NAMED), steps(P.intake.by))
    else:
        yield Word("as")
        yield Word(phrase("one series"), steps(P.intake.by))
    yield from _filled(ask, reading)
    yield from _left_out(ask, reading)
    for name, lines in reading.blank:
        yield Word(";")
        yield Word(
            phrase("{lines} without {name}", lines=counted(lines, "line"), name=name), steps(P.intake.by)
        )
        yield Word(phrase("under “(blank)”"))
    if reading.unread:
        yield Word(";")
        yield Word(
            phrase("{unread} without a figure", unread=counted(reading.unread, "line")),
            steps(P.intake.verdicts),
        )
        yield Word(
            phrase("makes its period unknown")
            if reading.unread == 1
            else phrase("leave their periods not known")
        )


def _filled(ask: Intake, reading: Reading) -> Iterator[Word]:
    """Columns whose blank cells stand for the one above, and those that could be taken so."""
    if reading.filled:
        yield Word(";")
        yield Word(
            phrase("blank cells of {filled}", filled=listed(reading.filled, _MOST_NAMED)),
            steps(P.intake.filled),
        )
        yield Word(phrase("taken for the one above"))
    for name in reading.may_fill[:_MOST_NAMED]:
        filled = msgspec.structs.replace(
            ask, filled=(*ask.filled, name), by=tuple(dict.fromkeys((*ask.by, name)))
        )
        yield Word(";")
        yield Word(
            phrase("fill blank cells of {name} from above", name=name),
            edit=edit(P.intake, filled),
            tip=phrase("Read them so"),
        )


def _left_out(ask: Intake, reading: Reading) -> Iterator[Word]:
    """Columns of text or codes that tell no series apart, each to be taken by a click."""
    for place, each in enumerate(reading.left_out[:_MOST_NAMED]):
        yield Word(phrase("; left out:") if not place else ",")
        take = with_role(ask, reading, each.name, "series")
        count = f"{'over ' if each.least else ''}{counted(each.values, 'value')}"
        yield Word(f"{each.name}, {count}", edit=take, tip=phrase("A series for each {name}", name=each.name))
    if len(reading.left_out) > _MOST_NAMED:
        yield Word("and")
        yield Word(
            phrase("{left_out} more", left_out=len(reading.left_out) - _MOST_NAMED), steps(P.intake.by)
        )


def read_as(mark: DecimalMark) -> str:
    """A real figure and how it is read."""
    return phrase("“{strip}” read as {full}", strip=mark.text.strip(), full=full(mark.value))
