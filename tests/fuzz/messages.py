"""What a message must be: it says what is wrong, where, and what to do, in a few plain sentences."""

from __future__ import annotations

import re

_LONGEST = 820
_TELLTALE = re.compile(r"Traceback|<class |object at 0x|\b(?:Value|Key|Type|Index|Attribute|Compute)Error\b")


def judged(text: str) -> None:
    """Raises AssertionError for a message that would not help."""
    assert text.strip(), "a message that says nothing"
    assert len(text) <= _LONGEST, f"{len(text):,} characters: {text[:200]!r}"
    assert "\n" not in text.strip(), f"a message of several lines: {text!r}"
    assert not _TELLTALE.search(text), f"a message for programmers: {text!r}"
    assert text.rstrip().endswith((".", "?", ")")), f"a message that breaks off: {text!r}"
