"""What can go wrong in a way that the user can mend, and work that was told to stop."""

from __future__ import annotations

from collections.abc import Callable

Tell = Callable[[float], None]
"""Told the share of work done, 0 to 1; raises Stopped when the answer is no longer wanted."""


class Trouble(Exception):
    """Its message names the file, row or setting, and says what to do."""


class Locked(Trouble):
    """A password is asked for.

    Attributes:
        place: what is locked, without it.
    """

    def __init__(self, message: str, place: str) -> None:
        super().__init__(message)
        self.place = place


class Unasked(Trouble):
    """Something is to be read that nobody but a plan has asked for.

    Attributes:
        places: which files and folders.
    """

    def __init__(self, message: str, places: tuple[str, ...]) -> None:
        super().__init__(message)
        self.places = places


class Stopped(Exception):
    """The work was stopped on request; nothing has changed."""


def unheard(share: float) -> None:
    """A Tell for work that nobody watches."""
