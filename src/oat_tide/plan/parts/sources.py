"""Where the lines come from."""

from __future__ import annotations

from typing import Annotated, Literal

from msgspec import Meta

from oat_tide.plan.parts.part import Part


class Sources(Part, frozen=True):
    """Where the sales lines come from, and how they are read.

    Attributes:
        places: files or folders, or one address of a database without its password; those beside the plan
            file are told by their names alone.
        sheets: of a workbook; none stands for the first that holds lines.
        block: of a sheet; 0 stands for its largest one.
        table: of a database.
        query: of a database, in place of a table.
        typed: figures typed or pasted, as text, when there is no place.
        taken: how often the places have been read anew.
    """

    places: Annotated[tuple[str, ...], Meta(title="Sources")] = ()
    encoding: Annotated[Literal["by content", "UTF-8", "UTF-16", "Windows-1252"], Meta(title="Encoding")] = (
        "by content"
    )
    delimiter: Annotated[
        Literal["by content", "commas", "semicolons", "tabs", "bars"], Meta(title="Separated by")
    ] = "by content"
    quotes: Annotated[Literal["by content", "no quoting"], Meta(title="Quotes")] = "by content"
    sheets: Annotated[tuple[str, ...], Meta(title="Sheets")] = ()
    block: Annotated[int, Meta(ge=0, le=20, title="Block of the sheet")] = 0
    table: Annotated[str, Meta(title="Table")] = ""
    query: Annotated[str, Meta(max_length=20_000, title="Query")] = ""
    typed: Annotated[str, Meta(max_length=2_000_000, title="Typed figures")] = ""
    taken: Annotated[int, Meta(ge=0, title="What the sources hold now")] = 0
