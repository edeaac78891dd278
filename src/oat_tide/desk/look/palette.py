"""Colours and fonts, light and dark."""

from __future__ import annotations

import functools
import importlib.util
from dataclasses import dataclass, fields
from pathlib import Path

from PyQt6.QtGui import QColor, QFont, QFontDatabase, QGuiApplication, QPalette
from PyQt6.QtWidgets import QApplication


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
    ink="#17323A", quiet="#5F7276", veil="#A3B1B0", faint="#D5DDD9", kelp="#1F7A66", kelp_soft="#CFE2DB",
    ochre="#B97A12", heather="#7A55A0", rust="#B3452D", paper="#FBFAF5", mist="#E4ECE8",
    sheet="#F3F4EE", card="#FFFFFF", head="#17323A", head_text="#F3F4EE", head_moved="#7A3E12",
    caution="#FBEDE4",
)  # fmt: skip
DARK = Palette(
    ink="#E3E9E4", quiet="#9DB0B0", veil="#57696B", faint="#32474C", kelp="#4FB79C", kelp_soft="#23493F",
    ochre="#DBA449", heather="#B393DB", rust="#E58268", paper="#10211F", mist="#1B302F",
    sheet="#152A29", card="#1D3433", head="#0A1716", head_text="#E3E9E4", head_moved="#6B3A16",
    caution="#3A2A20",
)  # fmt: skip

_now = [LIGHT]


def palette() -> Palette:
    """The palette in use."""
    return _now[0]


def use(dark: bool) -> None:
    """Choose the palette and style the application by it."""
    _now[0] = DARK if dark else LIGHT
    application = QApplication.instance()
    if isinstance(application, QApplication):
        application.setFont(font())
        application.setPalette(_roles(palette()))
        application.setStyleSheet(_styled(palette()))


def _roles(colors: Palette) -> QPalette:
    """The palette as Qt wants it, for what the style paints by itself."""
    roles = QPalette.ColorRole
    made = QPalette()
    for role, name in (
        (roles.Window, "sheet"), (roles.WindowText, "ink"), (roles.Base, "card"), (roles.Text, "ink"),
        (roles.Button, "mist"), (roles.ButtonText, "ink"), (roles.Highlight, "kelp"),
        (roles.HighlightedText, "paper"), (roles.Link, "kelp"), (roles.PlaceholderText, "quiet"),
        (roles.ToolTipBase, "card"), (roles.ToolTipText, "ink"), (roles.AlternateBase, "mist"),
    ):  # fmt: skip
        made.setColor(role, colors.color(name))
    for role in (roles.WindowText, roles.Text, roles.ButtonText):
        made.setColor(QPalette.ColorGroup.Disabled, role, colors.color("quiet"))
    return made


def system_is_dark() -> bool:
    """Whether the desktop asks for a dark scheme."""
    hints = QGuiApplication.styleHints()
    return hints is not None and hints.colorScheme().name == "Dark"


SMALL, TEXT = 13, 14
"""Sizes of text in pixels: in charts and tables, and everywhere else."""
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


_STYLE = """
* {{ color: {ink}; }}
*:disabled {{ color: {quiet}; }}
QMainWindow, QWidget#centre, QWidget#welcome {{ background: {paper}; }}
QToolTip {{ background: {card}; color: {ink}; border: 1px solid {faint}; padding: 3px; }}
QWidget#head {{ background: {head}; }}
QWidget#head[moved="true"] {{ background: {head_moved}; }}
QWidget#head QLabel, QWidget#head QPushButton {{ color: {head_text}; background: transparent; border: none; }}
QWidget#head QPushButton {{ padding: 4px 7px; border-radius: 11px; }}
QWidget#head QPushButton:hover, QWidget#head QPushButton:focus {{ background: rgba(255,255,255,38); }}
QWidget#head QPushButton:checked {{ background: rgba(255,255,255,56); }}
QWidget#head QPushButton:disabled {{ color: rgba(255,255,255,90); }}
QWidget#head QPushButton#series {{ text-align: left; }}
QWidget#head QFrame#asof {{ background: rgba(255,255,255,30); border-radius: 5px; }}
QWidget#head QLabel#brand {{ font-size: 18px; font-weight: bold; }}
QPushButton::menu-indicator {{ width: 0; }}
QWidget#rail {{ background: {mist}; }}
QPushButton#stage {{ text-align: left; border: none; border-left: 4px solid transparent; background: transparent; }}
QPushButton#stage:hover, QPushButton#stage:focus {{ background: {kelp_soft}; }}
QPushButton#stage:checked {{ background: {paper}; border-left: 4px solid {kelp}; }}
QPushButton#stage QLabel {{ background: transparent; }}
QPushButton#stage QLabel#finding, QLabel#quiet, QLabel#unit {{ color: {quiet}; font-size: 13px; }}
QLabel#title {{ font-size: 18px; font-weight: bold; }}
QLabel#subtitle {{ color: {quiet}; font-size: 14px; }}
QScrollArea#sheet, QWidget#sheet {{ background: {sheet}; border: none; }}
QLabel#head2 {{ font-weight: bold; font-size: 15px; }}
QLabel#stagename {{ font-weight: bold; font-size: 17px; }}
QFrame#caution {{ background: {caution}; border-radius: 5px; }}
QFrame#caution QLabel {{ background: transparent; }}
QFrame#strip {{ background: {caution}; border-bottom: 1px solid {rust}; }}
QFrame#strip[calm="true"] {{ background: {kelp_soft}; border-bottom: 1px solid {kelp}; }}
QFrame#strip QLabel {{ background: transparent; }}
QFrame#card {{ background: {card}; border: 1px solid {faint}; border-radius: 7px; }}
QFrame#card QLabel {{ background: transparent; }}
QLabel#cardtitle {{ font-weight: bold; font-size: 15px; }}
QLabel#numbers {{ font-size: 15px; }}
QPushButton#link {{ color: {kelp}; border: none; background: transparent; padding: 1px 3px; text-align: left; }}
QPushButton#link:hover, QPushButton#link:focus {{ text-decoration: underline; background: {mist}; }}
QPushButton#link:disabled {{ color: {quiet}; }}
QPushButton#card {{ text-align: left; background: {card}; border: 1px solid {faint}; border-radius: 5px;
    padding: 4px 8px; }}
QPushButton#card:hover, QPushButton#card:focus {{ border: 1px solid {kelp}; }}
QPushButton#card:checked {{ border-left: 3px solid {kelp}; font-weight: bold; }}
QPushButton#small {{ color: {quiet}; border: none; background: transparent; padding: 2px 0; }}
QPushButton#small:hover, QPushButton#small:focus {{ color: {ink}; background: {mist}; border-radius: 4px; }}
QPushButton#small:disabled {{ color: {faint}; }}
QPushButton#choice {{ background: {mist}; border: 1px solid transparent; border-radius: 11px; padding: 4px 10px; }}
QPushButton#choice:hover, QPushButton#choice:focus {{ border: 1px solid {kelp}; }}
QPushButton#choice:checked {{ background: {kelp}; color: {paper}; }}
QPushButton#choice:disabled {{ color: {quiet}; background: {mist}; }}
QPushButton#main {{ background: {kelp}; color: {paper}; border: 1px solid {kelp}; border-radius: 6px;
    padding: 8px 16px; font-size: 15px; }}
QPushButton#main:hover, QPushButton#main:focus {{ border: 1px solid {ink}; }}
QPushButton#plain {{ background: {card}; border: 1px solid {faint}; border-radius: 6px; padding: 7px 16px;
    text-align: left; }}
QPushButton#plain:hover, QPushButton#plain:focus {{ border: 1px solid {kelp}; }}
QComboBox, QSpinBox, QDateEdit, QLineEdit {{ background: {card}; border: 1px solid {faint}; border-radius: 4px;
    padding: 2px 6px; min-height: 20px; selection-background-color: {kelp}; }}
QComboBox:focus, QSpinBox:focus, QDateEdit:focus, QLineEdit:focus {{ border: 1px solid {kelp}; }}
QComboBox:disabled, QSpinBox:disabled, QDateEdit:disabled {{ color: {quiet}; background: {mist}; }}
QComboBox QAbstractItemView, QMenu, QListWidget, QTableView {{ background: {card}; color: {ink};
    border: 1px solid {faint}; selection-background-color: {kelp_soft}; selection-color: {ink}; outline: none; }}
QComboBox QAbstractItemView::item {{ min-height: 24px; padding-left: 6px; }}
QComboBox QAbstractItemView::item:selected {{ background: {kelp_soft}; color: {ink}; }}
QComboBox::drop-down {{ border: none; background: transparent; width: 18px; }}
QComboBox::down-arrow {{ image: url({marks}/down.svg); width: 10px; height: 10px; }}
QSpinBox::up-button, QSpinBox::down-button {{ width: 0; border: none; }}
QMenu::item {{ padding: 5px 22px; }}
QMenu::item:selected {{ background: {kelp_soft}; }}
QMenu::item:disabled {{ color: {quiet}; }}
QMenu::separator {{ height: 1px; background: {faint}; margin: 4px 8px; }}
QFrame#places {{ background: {card}; border: 1px solid {faint}; }}
QCalendarWidget QWidget#qt_calendar_navigationbar {{ background: {mist}; }}
QCalendarWidget QToolButton {{ color: {ink}; background: transparent; border: none; padding: 4px 8px; }}
QCalendarWidget QAbstractItemView {{ selection-background-color: {kelp}; selection-color: {paper}; }}
QSlider {{ background: transparent; min-height: 18px; }}
QSlider::groove:horizontal {{ height: 4px; background: {kelp_soft}; border-radius: 2px; }}
QSlider::sub-page:horizontal {{ background: {kelp}; border-radius: 2px; }}
QSlider::handle:horizontal {{ background: {kelp}; width: 14px; margin: -5px 0; border-radius: 7px; }}
QSlider::handle:horizontal:focus {{ border: 2px solid {ink}; width: 10px; margin: -5px 0; border-radius: 7px; }}
QSlider::sub-page:horizontal:disabled, QSlider::handle:horizontal:disabled {{ background: {faint}; }}
QProgressBar {{ background: {mist}; border: none; border-radius: 4px; height: 8px; }}
QProgressBar::chunk {{ background: {kelp}; border-radius: 4px; }}
QHeaderView::section {{ background: {mist}; border: none; padding: 3px 6px; color: {quiet}; }}
QScrollBar:vertical {{ background: transparent; width: 9px; }}
QScrollBar::handle:vertical {{ background: {faint}; border-radius: 4px; min-height: 24px; }}
QScrollBar:horizontal {{ background: transparent; height: 9px; }}
QScrollBar::handle:horizontal {{ background: {faint}; border-radius: 4px; min-width: 24px; }}
QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page {{
    background: transparent; border: none; width: 0; height: 0; }}
"""


def _styled(colors: Palette) -> str:
    named = {field.name: getattr(colors, field.name) for field in fields(colors)}
    return _STYLE.format(marks=Path(__file__).with_name("marks").as_posix(), **named)
