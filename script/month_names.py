"""Write src/oat_tide/intake/cells/month_names.tsv from the locale data of Babel: script/month_names."""

from __future__ import annotations

from pathlib import Path

from babel import Locale

LANGUAGES = (
    *("en", "de", "fr", "es", "it", "pt", "nl", "da", "nb", "sv", "fi", "pl", "cs", "sk", "sl", "hr"),
    *("hu", "ro", "et", "lv", "lt", "tr", "ca", "el", "bg", "uk", "ru"),
)
"""Where one name means two months, the language that comes first has it."""
TARGET = Path(__file__).parents[1] / "src" / "oat_tide" / "intake" / "cells" / "month_names.tsv"


def names(language: str) -> list[str]:
    """The names of each month, full and short, in every case that dates take, without marks."""
    locale = Locale(language)
    found: list[str] = []
    for month in range(1, 13):
        own: dict[str, None] = {}
        for use in ("stand-alone", "format"):
            for length in ("wide", "abbreviated"):
                word = locale.months[use][length][month].strip(".").casefold()
                if len(word) >= 3 and word.isalpha():
                    own[word] = None
        found.append(" ".join(own))
    return found


def main() -> None:
    """Write the table: a line a language, its twelve months parted by tabs."""
    lines = ["\t".join((language, *names(language))) for language in LANGUAGES]
    TARGET.write_text("\n".join(lines) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
