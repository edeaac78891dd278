"""Which files a plan may have read: those in its own folder, and those that the user chose or said yes to."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from oat_tide.core.language import phrase
from oat_tide.core.user_error import Unasked
from oat_tide.intake.file_names import path_of

_NAMED: set[Path] = set()
"""What plans have named outside their folders."""
_CHOSEN: set[Path] = set()
"""What the user has chosen, or said yes to, since the program began."""
_SHOWN = 5


def named(places: Iterable[str], folder: Path) -> None:
    """Note what a plan names outside of its folder; it is not read before the user says so."""
    own = folder.resolve()
    _NAMED.update(each for each in map(_real, places) if not each.is_relative_to(own))


def chosen(places: Iterable[str]) -> None:
    """What the user chose, or said yes to, is read from now on."""
    _CHOSEN.update(map(_real, places))


def is_asked(place: str) -> bool:
    """Whether it may be read: no plan alone has named it."""
    return _real(place) not in _NAMED - _CHOSEN


def ask_for(places: Iterable[str]) -> None:
    """Nothing where all may be read.

    Raises:
        Unasked: a plan alone has named some of them.
    """
    unasked = tuple(place for place in places if not is_asked(place))
    if unasked:
        shown = ", ".join(unasked[:_SHOWN])
        more = phrase(" and {unasked} more", unasked=len(unasked) - _SHOWN) if len(unasked) > _SHOWN else ""
        raise Unasked(
            phrase(
                "The plan names what lies outside its folder: {shown}{more}. Open it only if you "
                "know who made the plan.",
                shown=shown,
                more=more,
            ),
            unasked,
        )


def _real(place: str) -> Path:
    """Resolve links in a path; a path that no file can have is returned as it is."""
    try:
        return path_of(place).resolve()
    except (OSError, ValueError):
        return Path(place)
