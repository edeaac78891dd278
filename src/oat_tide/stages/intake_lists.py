"""What Intake lists below the deck: lines set aside, columns over real rows, the tie-out."""

from __future__ import annotations

from oat_tide.core.numerals import fixed, trimmed
from oat_tide.core.reading import Reading
from oat_tide.core.tieout import TieOut
from oat_tide.plan.edits import Edit
from oat_tide.stages import intake_edits as edits
from oat_tide.stages.common import counted
from oat_tide.stages.deck import Listing
from oat_tide.stages.intake_sheet import Asked


def listings(asked: Asked, reading: Reading, tie: TieOut) -> tuple[Listing, ...]:
    """The lists, the most pressing first."""
    aside = (_aside(asked, reading),) if reading.aside else ()
    return (*aside, _columns(asked, reading), _tie(reading, tie))


def _aside(asked: Asked, reading: Reading) -> Listing:
    several = len(reading.files) > 1
    note = " · ".join(f"{aside.count:,} {aside.reason}" for aside in reading.asides)
    names = ("file", "row", "why", "the line")

    def fetch(start: int, stop: int) -> list[tuple[str, ...]]:
        return [row if several else row[1:] for row in reading.list_aside(start, stop)]

    def mend(row: int, column: int, text: str) -> Edit | None:
        """Only the line itself can be written anew: whole, or cell by cell where it has all its fields."""
        if column != len(names) - (1 if several else 2):
            return None
        file, number, _, was = reading.list_aside(row, row + 1)[0]
        line = int(number.replace(",", ""))
        cells, before = [part.strip() for part in text.split(" | ")], was.split(" | ")
        told = [each.name for each in reading.columns]
        if len(before) == len(cells) == len(told):
            changed = [i for i, (a, b) in enumerate(zip(before, cells, strict=True)) if a.strip() != b]
            if len(changed) == 1:
                return edits.with_mend(asked.intake, file, line, told[changed[0]], cells[changed[0]])
        return edits.with_mend(asked.intake, file, line, "", text)

    return Listing(
        f"{counted(reading.aside, 'line')} set aside",
        names if several else names[1:],
        reading.aside,
        fetch,
        note=note,
        tab="Set aside",
        mend=mend,
    )


def _columns(asked: Asked, reading: Reading) -> Listing:
    """Real rows, with the role of each column over it."""

    def fetch(start: int, stop: int) -> list[tuple[str, ...]]:
        return list(reading.preview[start:stop])

    def choose(column: int, role: str) -> Edit:
        return edits.with_role(asked.intake, reading, reading.columns[column].name, role)

    why = " · ".join(f"{column.name}: {column.why}" for column in reading.columns if column.why)
    return Listing(
        f"{counted(len(reading.columns), 'column')}, each with its role",
        tuple(column.name for column in reading.columns),
        len(reading.preview),
        fetch,
        note=why,
        tab="Columns",
        roles=tuple((column.role, edits.ROLES) for column in reading.columns),
        choose=choose,
    )


def _tie(reading: Reading, tie: TieOut) -> Listing:
    """Lines by file and sums by year, each side of the tie-out added up on its own."""

    def money(units: int) -> str:
        return trimmed(units / reading.scale, 6)

    rows: list[tuple[str, ...]] = [
        (
            file.name,
            fixed(file.read, 0),
            fixed(file.used, 0),
            fixed(file.beside, 0),
            fixed(file.aside, 0),
            money(file.units),
            "",
            "ties" if file.read == file.used + file.beside + file.aside else "does not tie",
        )
        for file in reading.files
    ]
    rows += [
        (
            str(year.year),
            "",
            "",
            "",
            "",
            money(year.source),
            money(year.series),
            "ties" if {year.source} == {year.series, *year.levels} else "does not tie",
        )
        for year in tie.years
    ]
    held = {tie.source} == {tie.series, *tie.levels}
    rows.append(
        (
            "all",
            fixed(reading.read, 0),
            fixed(reading.used, 0),
            fixed(reading.beside, 0),
            fixed(reading.aside, 0),
            money(tie.source),
            money(tie.series),
            "ties" if held else f"off by {money(tie.gap)}",
        )
    )
    dimensions = ", ".join(reading.dimensions)
    note = f"In the series: the sum of every series, and of the totals by {dimensions}." if dimensions else ""
    return Listing(
        "Tie-out by file and year",
        ("", "read", "used", "beside", "set aside", f"{reading.unit} in the source", "in the series", ""),
        len(rows),
        lambda start, stop: rows[start:stop],
        note=note,
        tab="Tie-out",
    )
