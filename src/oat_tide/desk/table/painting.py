"""How the tide table is painted: figures, tints, sums of wider steps, and the marks over them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, cast

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QImage, QPainter, QPen

from oat_tide.core.exact import known
from oat_tide.core.working.tree import Ref
from oat_tide.desk.chart.drawing import in_steps
from oat_tide.desk.chart.overlay import paint_hover
from oat_tide.desk.chart.scale import GUTTER
from oat_tide.desk.look.measured import advance, elided, written
from oat_tide.desk.look.number_style import in_size
from oat_tide.desk.look.palette import palette, text_color
from oat_tide.desk.look.tints import STEPS, tint_table
from oat_tide.desk.table.cells import ROW, Cells
from oat_tide.desk.table.model import of_some

TintEnds = tuple[float, float, float | None]
"""The lowest and the highest figure that is tinted, and the one in their middle that is not."""


class TablePainter:
    """Paints cells. One stays while decks come and go: it keeps the memory of the tints."""

    def __init__(self) -> None:
        self._tinted = QImage()

    def paint(self, painter: QPainter, cells: Cells, rows: Sequence[int], width: int, height: int) -> None:
        """Paint some rows, and over all of them the selection."""
        _grounds(painter, cells, rows, width)
        for row in rows:
            _label(painter, cells, row)
            _total(painter, cells, row, width)
        _heads(painter, cells, width)
        painter.setClipRect(QRectF(GUTTER - 1, 0, cells.scale.across + 2, height))
        if cells.readable:
            _tint_years(painter, cells, rows)
            for row in rows:
                _figures(painter, cells, row)
        elif len(cells.rows):
            self._tints(painter, cells)
            _sums(painter, cells)
        scale = cells.scale
        paint_hover(painter, scale, height)
        for start, end in scale.selection:
            left, right = scale.edge(start), scale.edge(end + 1)
            painter.fillRect(QRectF(left, 0, right - left, height), palette().color("kelp", 30))

    def _tints(self, painter: QPainter, cells: Cells) -> None:
        """Cells too narrow for figures are tinted by size, from the row's lowest in sight to its highest."""
        scale, deck, seen = cells.scale, cells.rows.deck, cells.seen()
        # One pixel of the image is one of the window: the column that stands there.
        left, right = scale.edge(seen.start), scale.edge(seen.stop)
        places = ((np.arange(max(round(right - left), 1)) + 0.5) / scale.step).astype(np.int64)
        columns = np.minimum(places + seen.start, seen.stop - 1)
        values = np.stack([row.values[cells.rows.series, columns] for row in cells.rows.figures])
        # The total of a year and the mean of its periods are no periods: they have no say in the tints.
        periods = np.where(columns < deck.closes, values, np.nan)
        low = np.fmin.reduce(periods, axis=1, keepdims=True)
        spread = np.fmax.reduce(periods, axis=1, keepdims=True) - low
        with np.errstate(invalid="ignore", divide="ignore"):
            step = 1 + (STEPS - 2) * np.where(spread > 0, np.clip((values - low) / spread, 0, 1), 0.5)
        step = np.where(np.isnan(values), 0, step).astype(np.uint8)
        inks = [name for name, _ in cells.rows.inks]
        table = tuple(dict.fromkeys((ink, row % 2) for row, ink in enumerate(inks)))
        starts = [table.index((ink, row % 2)) * STEPS for row, ink in enumerate(inks)]
        tints = tint_table(palette(), table)[step + np.array(starts)[:, None]]
        rows, wide = tints.shape
        if (self._tinted.width(), self._tinted.height()) != (wide, rows * ROW):
            # Kept, for memory of this size is slow to come by at every step of a drag.
            self._tinted = QImage(wide, rows * ROW, QImage.Format.Format_RGB32)
        pixels = cast(Any, self._tinted.bits())
        pixels.setsize(self._tinted.sizeInBytes())
        np.frombuffer(pixels, np.uint32).reshape(rows, ROW, wide)[:] = tints[:, None]
        for first, stop in cells.runs:
            tall = (stop - first) * ROW
            painter.drawImage(
                QPointF(left, cells.tops[first]), self._tinted, QRectF(0, first * ROW, wide, tall)
            )


def _grounds(painter: QPainter, cells: Cells, rows: Sequence[int], width: int) -> None:
    """Every second row stands on mist."""
    for row in rows:
        if row % 2 == 0:
            painter.fillRect(QRectF(8, cells.tops[row], width - 16, ROW), palette().color("mist", 120))


def _heads(painter: QPainter, cells: Cells, width: int) -> None:
    """The head of each group: whether its rows are shown, its name, and what it says of them."""
    for top, head in zip(cells.head_tops, cells.rows.heads, strict=True):
        painter.fillRect(QRectF(8, top, width - 16, 1), palette().color("faint"))
        painter.setPen(palette().color("ink"))
        title = f"{'▾' if head.opened else '▸'} {head.title}"
        written(painter, QRectF(18, top, GUTTER, ROW), 0, title, bold=True)
        painter.setPen(palette().color("quiet"))
        room = width - 40 - advance(title, bold=True)
        written(painter, QRectF(18, top, width - 36, ROW), 1, elided(head.said, room))


def _total(painter: QPainter, cells: Cells, row: int, width: int) -> None:
    """At the right what a row that adds up comes to, where it has room."""
    span = cells.totalled
    said = cells.rows.total(row, *span) if span is not None else ""
    room = QRectF(cells.scale.end, cells.tops[row], width - cells.scale.end - 18, ROW)
    if said and advance(said, bold=True) <= room.width() - 4:
        painter.setPen(_color(cells, row))
        written(painter, room, 1, said, bold=True)


def _color(cells: Cells, row: int) -> QColor:
    """The colour that a row is written in, which can be read however faint its curve."""
    return palette().color(text_color(cells.rows.inks[row][0]))


def _label(painter: QPainter, cells: Cells, row: int) -> None:
    """The name of a row, and the figure pointed at."""
    top, shown = cells.tops[row], cells.scale.hovered
    painter.setPen(_color(cells, row))
    has_read_out = 0 <= shown < cells.rows.deck.columns
    read_out = cells.rows.full_text(row, shown) if has_read_out else ""
    wide = advance(read_out, bold=True) + 10 if has_read_out else 0
    # The read-out is in full, whatever the cells are told in.
    label = cells.rows.heading(row) + (" ✎" if cells.rows.figures[row].mend is not None else "")
    label = label if has_read_out else in_size(label, cells.rows.number_styles[row].size)
    label = elided(label, GUTTER - 18 - wide)
    written(painter, QRectF(8, top, GUTTER - 18 - wide, ROW), 1, label)
    if has_read_out:
        written(painter, QRectF(8, top, GUTTER - 16, ROW), 1, read_out, bold=True)


def _figures(painter: QPainter, cells: Cells, row: int) -> None:
    """The figures of a row that are wholly in sight, with their marks."""
    rows, color = cells.rows, _color(cells, row)
    mends = rows.figures[row].mend is not None and row not in rows.tinted
    for column in cells.seen():
        text, state, rect = rows.text(row, column), rows.state(row, column), cells.rect(row, column)
        if mends and state != "locked":
            painter.fillRect(rect.adjusted(2, 2, -2, -2), palette().color("card"))
        if not text or not _whole_in_sight(rect, text, cells.scale.end):
            continue
        part = rows.is_part(row, column)
        faint = part or state in ("locked", "out")
        painter.setPen(palette().color("quiet") if faint else color)
        written(painter, rect, 0.5, text, cells.size)
        _mark_state(painter, rect, state)
        if part:
            painter.setPen(QPen(palette().color("quiet"), 1, Qt.PenStyle.DotLine))
            painter.drawRect(rect.adjusted(1, 2, -2, -3))
        elif rows.remark(row, column):
            painter.setPen(QPen(palette().color("rust"), 1.4, Qt.PenStyle.DashLine))
            painter.drawLine(rect.bottomLeft() + QPointF(4, -2), rect.bottomRight() + QPointF(-4, -2))


def _whole_in_sight(rect: QRectF, text: str, end: float) -> bool:
    """Whether all of a figure in the middle of a cell lies in sight: half a figure reads as another."""
    half, middle = advance(text) / 2, rect.center().x()
    return middle - half >= GUTTER and middle + half <= end


def _mark_state(painter: QPainter, rect: QRectF, state: str) -> None:
    """What is left out is struck through; by hand has a line under it, what is locked a dotted one."""
    if state == "out":
        painter.drawLine(
            QPointF(rect.left() + 8, rect.center().y()), QPointF(rect.right() - 8, rect.center().y())
        )
    elif state:
        line = Qt.PenStyle.SolidLine if state == "own" else Qt.PenStyle.DotLine
        painter.setPen(QPen(palette().color("kelp" if state == "own" else "quiet"), 1.4, line))
        painter.drawLine(rect.bottomLeft() + QPointF(8, -4), rect.bottomRight() + QPointF(-8, -4))


def tint_ends(cells: Cells) -> TintEnds | None:
    """What figures that are years of one measure are tinted between; None where none are."""
    rows, seen = cells.rows, cells.seen()
    if not rows.tinted:
        return None
    periods = slice(seen.start, min(seen.stop, rows.deck.closes))
    values = [rows.figures[row].values[rows.series, periods] for row in rows.tinted]
    low = min(float(np.fmin.reduce(row, initial=np.inf)) for row in values)
    high = max(float(np.fmax.reduce(row, initial=-np.inf)) for row in values)
    middle = next((band.zero for band in rows.deck.bands if band.zero_line), None)
    return (*in_steps(low, high), middle) if high > low else None


def _tint_years(painter: QPainter, cells: Cells, rows: Sequence[int]) -> None:
    """Figures that are years of one measure are tinted by size, over all rows and columns alike."""
    ends = tint_ends(cells)
    if ends is None:
        return
    seen = cells.seen()
    for row in set(rows).intersection(cells.rows.tinted):
        for column in range(seen.start, min(seen.stop, cells.rows.deck.closes)):
            value = cells.rows.value(row, column)
            if known(value):
                painter.fillRect(cells.rect(row, column).adjusted(1, 1, -1, -1), _tint(value, *ends))


def _tint(value: float, low: float, high: float, middle: float | None) -> QColor:
    """The tint of a figure by size; where there is a middle, by how far above or below it."""
    if middle is None:
        return palette().color("kelp", round(14 + 84 * (value - low) / (high - low)))
    farthest = max(high - middle, middle - low)
    return palette().color(
        "kelp" if value >= middle else "ochre", round(8 + 90 * abs(value - middle) / farthest)
    )


def _sums(painter: QPainter, cells: Cells) -> None:
    """What the rows that add up come to at the wider steps; a sum of some of a step's columns says so."""
    steps = cells.steps
    if steps is None:
        return
    for row, sums in cells.summed.items():
        painter.setPen(_color(cells, row))
        for span, text, some, all_ in zip(sums.spans, sums.texts, sums.held, steps.full, strict=True):
            # It stands over what it adds up, and so never beyond the as-of line.
            left, right = (cells.scale.edge(int(column)) for column in span)
            left, right = max(left, GUTTER), min(right, cells.scale.end)
            said = of_some(text, some, all_)
            if said and advance(said) <= right - left:
                written(painter, QRectF(left, cells.tops[row], right - left, ROW), 0.5, said)


def paint_marks(
    painter: QPainter, cells: Cells, pinned: Ref | None, standing: tuple[int, int] | None, height: int
) -> None:
    """The as-of line, the pinned cell, and the cell that the keys stand on while they are heard."""
    deck = cells.rows.deck
    painter.setPen(QPen(palette().color("kelp"), 2))
    if deck.handle("as_of") is not None:
        x = cells.scale.edge(deck.past)
        painter.drawLine(QPointF(x, 0), QPointF(x, height))
    names = [row.name for row in cells.rows.figures]
    if pinned and pinned.column >= 0 and pinned.figure in names:
        rect = cells.rect(names.index(pinned.figure), pinned.column)
        painter.setBrush(palette().color("kelp", 40))
        painter.drawRoundedRect(rect.adjusted(1, 1, -1, -1), 4, 4)
        painter.setBrush(Qt.BrushStyle.NoBrush)
    if standing is not None:
        painter.setPen(QPen(palette().color("ink"), 1.4, Qt.PenStyle.DashLine))
        painter.drawRect(cells.rect(*standing).adjusted(1, 1, -1, -1))
