"""Widths of strokes: as a ribbon over the drawing, and as a spread in a panel."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QSizePolicy, QWidget

from sobercrow.core.arrays import F64
from sobercrow.core.lettering.evenness import Measured
from sobercrow.core.lettering.strokes import Stroke, Way
from sobercrow.core.settings import px_to_mm
from sobercrow.desktop import tokens
from sobercrow.desktop.canvas.overlays import paint_legend
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.theme import palette

OPACITY, RING_PX, PICKED_PX, CHOSEN_PX = 0.85, 5.0, 12.0, 1.6
ROW_PX, DOT_PX, NAME_PX, FIGURE_PX = 26, 2.6, 46, 62
RAISED_PX = 40.0


class WidthMark:
    """Strokes as wide as they are, coloured by how far they are from the usual; those picked have an edge."""

    def __init__(self, measured: Measured, ways: Sequence[Way], picked: Sequence[int], dpi: float) -> None:
        """Make its paths. Runs in a worker."""
        usual = measured.usual_widths()
        least = [step for step, _ in tokens.WIDTH_STEPS]
        self._paths = [QPainterPath() for _ in least]
        self._picked = QPainterPath()
        chosen = set(picked)
        for k, stroke in enumerate(measured.strokes.strokes):
            outline = _outline(stroke)
            if stroke.way in ways:
                step = int(np.searchsorted(least, stroke.width_px / usual[stroke.way] - 1.0, side="right")) - 1
                self._paths[step].addPolygon(outline)
            if k in chosen:
                self._picked.addPolygon(outline)
        widths = [f"{way} {px_to_mm(usual[way], dpi):.2f} mm" for way in ways if way in usual]
        self._title = f"{', '.join(widths)}:".capitalize()
        self._steps = [
            (_told(low, high), colour)
            for (low, colour), high in zip(tokens.WIDTH_STEPS, (*least[1:], 1.0), strict=True)
        ]

    def __call__(self, painter: QPainter, scene: Scene) -> None:
        """Paint them and the legend."""
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        scene.to_picture(painter)
        painter.setOpacity(OPACITY)
        for path, (_, colour) in zip(self._paths, tokens.WIDTH_STEPS, strict=True):
            painter.fillPath(path, QColor(colour))
        painter.setOpacity(1.0)
        pen = QPen(QColor(palette().mark), CHOSEN_PX)
        pen.setCosmetic(True)
        painter.strokePath(self._picked, pen)
        painter.restore()
        paint_legend(painter, scene, self._title, self._steps, RAISED_PX)


def _told(low: float, high: float) -> str:
    """What a step is called: how far from the usual it begins, seen from there."""
    if low < 0.0 < high:
        return "usual"
    return f"+{100 * low:.0f} %" if low >= 0.0 else f"−{-100 * high:.0f} %"


def _outline(stroke: Stroke) -> QPolygonF:
    return QPolygonF([QPointF(x, y) for x, y in stroke.outline().tolist()])


class PlacesMark:
    """Rings around places worth a look, larger around those picked."""

    def __init__(self, places: F64, picked: Sequence[int]) -> None:
        """Mark places (n, 2), and which of them are picked."""
        self._places, self._picked = places.tolist(), set(picked)

    def __call__(self, painter: QPainter, scene: Scene) -> None:
        """Paint them."""
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for k, (x, y) in enumerate(self._places):
            at = QPointF(*scene.camera.to_screen(x, y, scene.width, scene.height))
            radius = PICKED_PX if k in self._picked else RING_PX
            for colour, width in ((palette().page, 2.0 * CHOSEN_PX), (palette().mark, CHOSEN_PX)):
                painter.setPen(QPen(QColor(colour), width))
                painter.drawEllipse(at, radius, radius)
        painter.restore()


class Spread(QWidget):
    """Rows of values, each a dot along a line, the usual marked; with a name and the usual in words."""

    def __init__(self) -> None:
        """Begin with no rows."""
        super().__init__()
        self._rows: list[tuple[str, F64, float, str]] = []
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Spread")

    def show_rows(self, rows: Sequence[tuple[str, F64, float, str]]) -> None:
        """Show rows of a name, values, the usual one, and what is written behind."""
        self._rows = list(rows)
        self.setAccessibleDescription("; ".join(f"{name} {told}" for name, _, _, told in rows))
        self.setFixedHeight(max(ROW_PX * len(rows), 1))
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        """As high as the rows are."""
        return QSize(200, max(ROW_PX * len(self._rows), 1))

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the rows."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for k, (name, values, usual, told) in enumerate(self._rows):
            row = QRectF(0, k * ROW_PX, self.width(), ROW_PX)
            middle = row.center().y()
            painter.setPen(QColor(palette().text))
            left = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
            right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            painter.drawText(row, left, name)
            painter.drawText(row, right, told)
            track = QRectF(NAME_PX, middle, self.width() - NAME_PX - FIGURE_PX - 8, 0)
            painter.setPen(QPen(QColor(palette().hair), 1))
            painter.drawLine(track.topLeft(), track.topRight())
            reach = max(float(np.abs(values - usual).max(initial=0.0)), 1e-9)
            painter.setPen(QPen(QColor(palette().mark), 2))
            painter.drawLine(QPointF(track.center().x(), middle - 8), QPointF(track.center().x(), middle + 8))
            painter.setPen(Qt.PenStyle.NoPen)
            dot = QColor(palette().text)
            dot.setAlphaF(0.5)
            painter.setBrush(dot)
            for value in values.tolist():
                x = track.center().x() + 0.5 * (track.width() - 2 * DOT_PX) * (value - usual) / reach
                painter.drawEllipse(QPointF(x, middle), DOT_PX, DOT_PX)
