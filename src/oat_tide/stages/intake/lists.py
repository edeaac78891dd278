"""What Intake lists below the deck: lines set aside, columns over real rows, the tie-out."""

from __future__ import annotations

import functools
from collections.abc import Iterator
from decimal import Decimal

from oat_tide.core.language import counted, phrase
from oat_tide.core.series.reading import FileTie, Held, Reading
from oat_tide.core.series.tie_out import TieOut
from oat_tide.plan.edits import Edit
from oat_tide.stages.deck import Column, Listing, ListQuery, in_memory
from oat_tide.stages.deck.listing import Row
from oat_tide.stages.intake import edits
from oat_tide.stages.intake.asked import IntakeParts
from oat_tide.stages.intake.tied import money

_MOST_SORTED = 20_000
"""Lines set aside that can be sorted and searched without a wait."""
_TIE_HEADS = (
    "",
    phrase("in the source"),
    phrase("used"),
    phrase("other scenarios"),
    phrase("set aside"),
    phrase("total rows"),
    phrase("in the series"),
    "",
)


def listings(asked: IntakeParts, reading: Reading, tie: TieOut) -> tuple[Listing, ...]:
    """The lists, the most pressing first."""
    aside = (_aside(asked, reading),) if reading.aside or reading.totals else ()
    return (*aside, _columns(asked, reading), _tie(reading, tie), _every_figure(reading))


def _aside(asked: IntakeParts, reading: Reading) -> Listing:
    several = len(reading.files) > 1
    note = " · ".join(f"{aside.count:,} {aside.reason}" for aside in reading.asides)
    columns = Column("file"), Column("row", "count"), Column("why"), Column(phrase("the line"), mended=True)
    count = reading.aside + reading.totals

    def fetch(start: int, stop: int) -> list[Row]:
        return [row if several else row[1:] for row in reading.list_aside(start, stop)]

    def mend(row: int, text: str) -> Edit:
        """The line itself is written anew: whole, or cell by cell where it has all its fields."""
        file, number, _, was = reading.list_aside(row, row + 1)[0]
        cells, before = [part.strip() for part in text.split(" | ")], was.split(" | ")
        told = [each.name for each in reading.columns]
        if len(before) == len(cells) == len(told):
            changed = [i for i, (a, b) in enumerate(zip(before, cells, strict=True)) if a.strip() != b]
            if len(changed) == 1:
                return edits.with_mend(asked.intake, file, number, told[changed[0]], cells[changed[0]])
        return edits.with_mend(asked.intake, file, number, "", text)

    total_rows = f", {counted(reading.totals, 'total row')}" if reading.totals else ""
    title, shown = (
        phrase("{aside} set aside{total_rows}", aside=counted(reading.aside, "line"), total_rows=total_rows),
        columns[not several :],
    )

    @functools.cache
    def all_of_them() -> Listing:
        return in_memory(title, shown, fetch(0, count), note=note, tab=phrase("Set aside"), mend=mend)

    def arranged(wish: ListQuery) -> Listing:
        arrange = all_of_them().arrange
        assert arrange is not None
        return arrange(wish)

    return Listing(
        title,
        shown,
        count,
        fetch,
        note=note,
        tab=phrase("Set aside"),
        arrange=arranged if count <= _MOST_SORTED else None,
        mend=mend,
    )


_ROLE_SAID = {
    "date": phrase("date"),
    "measure": phrase("measure"),
    "times": phrase("multiplied by it"),
    "beside": phrase("further measure"),
    "series": phrase("series"),
    "scenario": phrase("scenario"),
    "left out": phrase("left out"),
}
"""What roles are called."""
_ROLE_OF = {said: role for role, said in _ROLE_SAID.items()}


def _columns(asked: IntakeParts, reading: Reading) -> Listing:
    """Real rows, with the role of each column over it."""

    def choose(column: int, role: str) -> Edit:
        return edits.with_role(asked.intake, reading, reading.columns[column].name, _ROLE_OF[role])

    choices = tuple(_ROLE_SAID[role] for role in edits.ROLES)
    why = " · ".join(f"{column.name}: {column.why}" for column in reading.columns if column.why)
    return Listing(
        phrase("{columns}, each with its role", columns=counted(len(reading.columns), "column")),
        tuple(Column(column.name) for column in reading.columns),
        len(reading.preview),
        lambda start, stop: reading.preview[start:stop],
        note=why,
        tab=phrase("Columns"),
        roles=tuple((_ROLE_SAID[column.role], choices) for column in reading.columns),
        choose=choose,
    )


def _tie(reading: Reading, tie: TieOut) -> Listing:
    """Lines and sums by file, and sums by year, each side of the tie-out added up on its own."""
    rows = [*_files_tied(reading, tie), *_years_tied(tie), _all_tied(reading, tie)]
    note = phrase(
        "Lines · {unit}. The source is added up from its texts, the series from their periods.",
        unit=reading.unit,
    )
    if reading.dimensions:
        note += phrase(
            " Each year also holds against the totals by {dimensions}.",
            dimensions=", ".join(reading.dimensions),
        )
    if tie.withheld:
        note += phrase(
            " {money} of it {withheld_words}.",
            money=money(tie.withheld),
            withheld_words=withheld_words(reading),
        )
    return Listing(
        phrase("Tie-out by file and year"),
        tuple(map(Column, _TIE_HEADS)),
        len(rows),
        lambda start, stop: rows[start:stop],
        note=note,
        tab=phrase("Tie-out"),
    )


_USES = {
    "used": phrase("in the series, or set aside with their lines"),
    "beside": phrase("kept separately"),
    "key": phrase("a key or a date"),
    "no series": phrase("in no series"),
    "asked": phrase("not settled"),
}


def _every_figure(reading: Reading) -> Listing:
    """Every column that holds figures, what they are, and what they come to."""
    rows = [
        (each.name, _USES[each.use] + (f": {each.why}" if each.why else ""), each.cells, float(each.amount))
        for each in reading.figures
    ]
    columns = (
        Column("column"),
        Column(phrase("its figures are")),
        Column("cells", "count"),
        Column("sum", "number"),
    )
    title = phrase("Every figure of the source, {rows}", rows=counted(len(rows), "column"))
    return in_memory(title, columns, rows, tab=phrase("Figures"))


def _held(what: Held) -> str:
    return f"{what.lines:,} · {money(what.amount)}" if what.lines else "0"


def _files_tied(reading: Reading, tie: TieOut) -> Iterator[tuple[str, ...]]:
    for file in reading.files:
        held = map(_held, (file.read, file.used, file.beside, file.aside, file.totals))
        yield file.name, *held, "", "ties" if _file_ties(file, tie) else phrase("does not tie")


def _years_tied(tie: TieOut) -> Iterator[tuple[str, ...]]:
    for year in tie.years:
        ties = "ties" if tie.year_ties(year) else phrase("does not tie")
        yield str(year.year), "", money(year.used), "", "", "", money(year.series), ties


def _all_tied(reading: Reading, tie: TieOut) -> tuple[str, ...]:
    lines = reading.read, reading.used, reading.beside, reading.aside, reading.totals
    amounts = tie.source, tie.used, tie.beside, tie.aside, tie.totals
    held = (_held(Held(*each)) for each in zip(lines, amounts, strict=True))
    ties = "ties" if tie.ties else phrase("off by {money}", money=money(tie.gap))
    return "all", *held, money(tie.series + tie.withheld), ties


def withheld_words(reading: Reading) -> str:
    """What is in no series though its lines are used."""
    return phrase("before the last day") if reading.totalled == "last" else phrase("in periods not known")


def _file_ties(file: FileTie, tie: TieOut) -> bool:
    """Whether the lines and sums of one file come out."""
    parts = (file.used, file.beside, file.aside, file.totals)
    whole = sum((part.amount for part in parts), Decimal(0))
    return not file.left_over and tie.same(file.read.amount, whole, file.read.amount)
