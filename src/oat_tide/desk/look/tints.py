"""Tints by size: from the ground of a row to two fifths of its ink."""

from __future__ import annotations

import functools

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtGui import QColor

from oat_tide.desk.look.palette import Palette

STEPS = 40


@functools.lru_cache(16)
def tint_table(colors: Palette, table: tuple[tuple[str, int], ...]) -> NDArray[np.uint32]:
    """The colours of the tints: for each ink and kind of row, from its ground to two fifths of the ink."""
    made: list[int] = []
    for ink, odd in table:
        ground = mixed(colors.color("paper"), colors.color("mist"), 0.0 if odd else 0.47)
        dark = colors.color(ink)
        made.append(ground.rgb())
        made += [mixed(ground, dark, 0.06 + 0.36 * step / STEPS).rgb() for step in range(1, STEPS)]
    return np.array(made, np.uint32)


def mixed(one: QColor, other: QColor, share: float) -> QColor:
    """A colour between two: of the other, the share given."""
    parts = zip(one.getRgb()[:3], other.getRgb()[:3], strict=True)
    return QColor(*(round(a + share * (b - a)) for a, b in parts))
