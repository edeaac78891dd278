"""What can go wrong in a way that the user can mend, and work that was told to stop."""

from __future__ import annotations

from collections.abc import Callable

from oat_tide.core.language import phrase

Progress = Callable[[float], None]
"""Told the share of work done, 0 to 1; raises Stopped when the answer is no longer wanted."""


_LONGEST, _END = 800, 300
"""Characters of a message, and of its end, where it says what to do."""


def on_one_line(text: str) -> str:
    """A text with blanks for ends of lines and all other signs that cannot be shown."""
    return "".join(sign if sign.isprintable() else " " for sign in text)


class UserError(Exception):
    """Its message names the file, row or setting, and says what to do; it is a `phrase` with its places.

    What it quotes may be of any length and hold any sign: it is told on one line, and cut in its middle.
    """

    def __init__(self, message: str, /, **places: object) -> None:
        said = " ".join(on_one_line(phrase(message, **places)).split())
        super().__init__(said if len(said) <= _LONGEST else f"{said[: _LONGEST - _END]} … {said[-_END:]}")


class Locked(UserError):
    """A password is asked for.

    Attributes:
        place: what is locked, without it.
    """

    def __init__(self, message: str, place: str) -> None:
        super().__init__(message)
        self.place = place


class Unasked(UserError):
    """Something is to be read that nobody but a plan has asked for.

    Attributes:
        places: which files and folders.
    """

    def __init__(self, message: str, places: tuple[str, ...]) -> None:
        super().__init__(message)
        self.places = places


class Stopped(Exception):
    """The work was stopped on request; nothing has changed."""


def no_progress(share: float) -> None:
    """A Tell for work that nobody watches."""
