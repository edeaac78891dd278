"""What is not over time: rows fetched as they are scrolled to."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from oat_tide.plan.edits import Edit


@dataclass(frozen=True, eq=False, slots=True)
class Listing:
    """What is not over time, fetched as it is scrolled to.

    Attributes:
        title: what is listed.
        columns: the headings.
        count: the number of rows.
        fetch: rows from a start to before a stop, as text.
        total: what the last column adds up to, in words; empty where nothing is added up.
        note: more to say of it.
        tab: its name among the other things that can be shown there.
        roles: where columns have roles, what each has, and what it can be.
        choose: the edit that gives a column another role.
        search: the rows that hold a text, as a list of their own, with its own total.
        mend: where cells can be written anew, the edit of a row, column and text; None where not.
    """

    title: str
    columns: tuple[str, ...]
    count: int
    fetch: Callable[[int, int], list[tuple[str, ...]]]
    total: str = ""
    note: str = ""
    tab: str = ""
    roles: tuple[tuple[str, tuple[str, ...]], ...] = ()
    choose: Callable[[int, str], Edit] | None = None
    search: Callable[[str], Listing] | None = None
    mend: Callable[[int, int, str], Edit | None] | None = None
