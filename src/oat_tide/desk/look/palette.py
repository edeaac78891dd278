"""Colours and fonts, light and dark."""

from __future__ import annotations

import functools
import importlib.util
from dataclasses import dataclass
from pathlib import Path

from PyQt6.QtGui import QColor, QFont, QFontDatabase, QGuiApplication


@dataclass(frozen=True, slots=True)
class Palette:
    """Each colour as #rrggbb, named for what it is for or is called."""

    ink: str
    quiet: str
    veil: str
    faint: str
    kelp: str
    kelp_soft: str
    ochre: str
    ochre_text: str
    heather: str
    rust: str
    paper: str
    mist: str
    sheet: str
    card: str
    head: str
    head_text: str
    head_moved: str
    caution: str

    def color(self, name: str, alpha: int = 255) -> QColor:
        """A colour by its name. It is shared: do not change it."""
        return _color(getattr(self, name), alpha)


@functools.cache
def _color(code: str, alpha: int) -> QColor:
    color = QColor(code)
    color.setAlpha(alpha)
    return color


LIGHT = Palette(
    ink="#17323A", quiet="#586A6E", veil="#829292", faint="#D5DDD9", kelp="#1F7A66", kelp_soft="#CFE2DB",
    ochre="#B97A12", ochre_text="#8F5C08", heather="#7A55A0", rust="#B3452D", paper="#FBFAF5", mist="#E4ECE8",
    sheet="#F3F4EE", card="#FFFFFF", head="#17323A", head_text="#F3F4EE", head_moved="#7A3E12",
    caution="#FBEDE4",
)  # fmt: skip
DARK = Palette(
    ink="#E3E9E4", quiet="#9DB0B0", veil="#5F7173", faint="#32474C", kelp="#4FB79C", kelp_soft="#23493F",
    ochre="#DBA449", ochre_text="#DBA449", heather="#B393DB", rust="#E58268", paper="#10211F", mist="#1B302F",
    sheet="#152A29", card="#1D3433", head="#0A1716", head_text="#E3E9E4", head_moved="#6B3A16",
    caution="#3A2A20",
)  # fmt: skip


def text_color(name: str) -> str:
    """The colour of a text about what is drawn in a colour: of ochre a darker one, which can be read."""
    return "ochre_text" if name == "ochre" else name


_now = [LIGHT]


def palette() -> Palette:
    """The palette in use."""
    return _now[0]


def choose(dark: bool) -> None:
    """Choose the palette."""
    _now[0] = DARK if dark else LIGHT


def system_is_dark() -> bool:
    """Whether the desktop asks for a dark scheme."""
    hints = QGuiApplication.styleHints()
    return hints is not None and hints.colorScheme().name == "Dark"


LEAST, SMALL, TEXT = 12, 13, 14
"""Sizes of text in pixels: where room is short, in charts and tables, and everywhere else."""
_FACES = ["Source Sans Pro", "DejaVu Sans"]
"""The application's own face, and one for signs that it has not."""


@functools.cache
def _bring_face() -> None:
    """Make the face known to Qt; where its package is not there, what the system has is used."""
    found = importlib.util.find_spec("font_source_sans_pro")
    for folder in found.submodule_search_locations or () if found else ():
        for weight in ("Regular", "Bold"):
            QFontDatabase.addApplicationFont(str(Path(folder) / "files" / f"SourceSansPro-{weight}.ttf"))


@functools.cache
def font(size: int = TEXT, bold: bool = False) -> QFont:
    """The font, with digits of one width; sizes in pixels. It is shared: do not change it."""
    _bring_face()
    made = QFont(_FACES)
    made.setPixelSize(size)
    made.setBold(bold)
    made.setFeature(QFont.Tag("tnum"), 1)
    return made
