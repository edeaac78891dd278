"""What is to be settled before the history can be trusted: each question with its answers."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from oat_tide.core.language import counted, phrase
from oat_tide.core.series.reading import Reading
from oat_tide.core.working.number_format import full
from oat_tide.plan.edits import Edit, edit
from oat_tide.plan.parts.intake import Intake, Outcome, Verdict
from oat_tide.plan.paths import P
from oat_tide.stages.deck import Choice, Entry, Item, Note
from oat_tide.stages.intake import edits
from oat_tide.stages.intake.edits import heading_words
from oat_tide.stages.intake.taken import read_as

_NO_SUM = {"mean": phrase("Take the mean"), "last": phrase("Take the last of each period")}
_MOST_NAMED = 3


def to_settle(ask: Intake, reading: Reading) -> Iterator[Item]:
    """The questions, under a heading where there are any."""
    found = [
        *_headings(ask, reading),
        *_mark(reading),
        *_no_figure(ask, reading),
        *_no_sum(reading),
        *_across(reading),
    ]
    if found:
        yield Note(phrase("Decide"), "head")
        yield from found


def _headings(ask: Intake, reading: Reading) -> Iterator[Choice]:
    """Columns of figures that may be a period, which no series holds until they are settled."""
    for each in reading.figures_in("asked"):
        meant = tuple(
            (
                phrase("It is {heading_words}", heading_words=heading_words(text)),
                edits.with_heading(ask, each.name, text),
            )
            for text in each.meant
        )
        yield Choice(
            phrase(
                "“{name}” is among the periods and is not read: {full} in {cells} are in no series "
                "until you decide what it is.",
                name=each.name,
                full=full(float(each.amount)),
                cells=counted(each.cells, "cell"),
            ),
            "aside",
            (*meant, (phrase("It is no period"), edits.with_heading(ask, each.name, ""))),
            (Entry(phrase("It is the period"), "", partial(edits.heading_typed, ask, each.name)),),
        )


def _mark(reading: Reading) -> Iterator[Choice]:
    """Offer both readings of a figure where nothing decides the decimal mark."""
    mark = reading.mark
    if mark.asks:
        this, other = ("comma", "point") if mark.comma else ("point", "comma")
        yield Choice(
            phrase(
                "{read_as} and not as {full}; nothing in the source settles the decimal mark.",
                read_as=read_as(mark),
                full=full(mark.other),
            ),
            "aside",
            (
                (phrase("It is {full}", full=full(mark.value)), edit(P.intake.decimal, this)),
                (phrase("It is {full}", full=full(mark.other)), edit(P.intake.decimal, other)),
            ),
        )


def _no_figure(ask: Intake, reading: Reading) -> Iterator[Choice]:
    """Lines without a figure, which leave their periods not known until they are ruled."""
    if reading.unread:
        yield Choice(
            phrase(
                "{unread} of a known day without a figure that can be read: their periods are "
                "unknown until you decide on them.",
                unread=counted(reading.unread, "line"),
            ),
            "aside",
            (
                (phrase("Leave these lines out"), _ruled(ask, reading, "leave out")),
                (phrase("Count them as 0"), _ruled(ask, reading, "count as 0")),
            ),
        )


def _ruled(ask: Intake, reading: Reading, outcome: Outcome) -> Edit:
    """Apply one verdict to every reason for which a figure cannot be read, except those decided already."""
    ruled = {each.reason for each in ask.verdicts}
    reasons = [each.reason for each in reading.asides if "count as 0" in each.outcomes]
    new = tuple(Verdict(reason=reason, outcome=outcome) for reason in reasons if reason not in ruled)
    return edit(P.intake.verdicts, (*ask.verdicts, *new))


def _no_sum(reading: Reading) -> Iterator[Choice]:
    """A price or a stock level that is added up."""
    if reading.suited != "sum" and reading.totalled == "sum":
        yield Choice(
            phrase(
                "{value} is added up over lines, periods and series; by its name it should not be.",
                value=reading.value,
            ),
            "aside",
            ((_NO_SUM[reading.suited], edit(P.intake.totalled, reading.suited)),),
        )


def _across(reading: Reading) -> Iterator[Choice]:
    """Columns of one kind that could be a series each."""
    across = reading.offers.across
    if across:
        named = ", ".join(across[:_MOST_NAMED]) + (" …" if len(across) > _MOST_NAMED else "")
        yield Choice(
            phrase(
                "{across} columns hold numbers of one kind ({named}); only {value} is read.",
                across=len(across),
                named=named,
                value=reading.value,
            ),
            "aside",
            ((phrase("Take each as a series"), edit(P.intake.shape, "a column a series")),),
        )
