"""A histogram with marks to drag."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPolygonF
from PySide6.QtWidgets import QWidget

from sobercrow.core.arrays import F64
from sobercrow.desktop.theme import palette


@dataclass(frozen=True, slots=True)
class Mark:
    """A place on the tones 0–255 that can be dragged; `shade` is what its triangle is filled with."""

    name: str
    tone: float
    shade: str


class Histogram(QWidget):
    """How often each tone occurs (square root scale, so that thin lines show beside much paper), with marks.

    `dragged` tells the mark's name and the tone it was dragged to.
    """

    dragged = Signal(str, float)

    def __init__(self, name: str) -> None:
        """Start empty."""
        super().__init__()
        self._tones: F64 = np.zeros(256)
        self._marks: list[Mark] = []
        self._active: str | None = None
        self._split: float | None = None
        self.setFixedHeight(116)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(name)

    def show_tones(self, tones: F64, marks: list[Mark], split: float | None = None) -> None:
        """Show a histogram (256,); tones up to `split` are coloured as ink."""
        self._tones, self._marks, self._split = tones, marks, split
        if self._active is None and marks:
            self._active = marks[0].name
        self.update()

    def _x(self, tone: float) -> float:
        return 8 + tone / 255.0 * (self.width() - 16)

    def _tone(self, x: float) -> float:
        return min(max((x - 8) / max(self.width() - 16, 1) * 255.0, 0.0), 255.0)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take the nearest mark."""
        if self._marks:
            x = event.position().x()
            self._active = min(self._marks, key=lambda m: abs(self._x(m.tone) - x)).name
            self.dragged.emit(self._active, self._tone(x))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag the mark."""
        if self._active is not None and event.buttons() & Qt.MouseButton.LeftButton:
            self.dragged.emit(self._active, self._tone(event.position().x()))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Step the mark taken last with the arrow keys."""
        way = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        mark = next((m for m in self._marks if m.name == self._active), None)
        if way is None or mark is None:
            super().keyPressEvent(event)
        else:
            self.dragged.emit(mark.name, min(max(mark.tone + way, 0.0), 255.0))

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint bars, a tone scale and the marks."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colours = palette()
        floor = self.height() - 24.0
        painter.fillRect(QRectF(0, 0, self.width(), floor), QColor(colours.field))
        heights = np.sqrt(self._tones)
        top = float(np.percentile(heights, 99.0)) or float(heights.max()) or 1.0
        wide = (self.width() - 16) / 256.0
        for tone in range(256):
            height = min(heights[tone] / top, 1.0) * (floor - 8)
            ink = self._split is not None and tone <= self._split
            painter.fillRect(
                QRectF(self._x(tone), floor - height, wide + 0.4, height),
                QColor(colours.text if ink else colours.muted),
            )
        for tone in range(0, 256, 4):
            painter.fillRect(QRectF(self._x(tone), floor + 1, 4 * wide + 0.4, 5), QColor(tone, tone, tone))
        for mark in self._marks:
            x = self._x(mark.tone)
            painter.setPen(QColor(colours.accent))
            painter.drawLine(QPointF(x, 0), QPointF(x, floor + 8))
            painter.setBrush(QColor(mark.shade))
            painter.drawPolygon(
                QPolygonF([QPointF(x, floor + 7), QPointF(x - 6, floor + 18), QPointF(x + 6, floor + 18)])
            )
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QColor(colours.accent if self.hasFocus() else colours.hair))
        painter.drawRect(QRectF(0.5, 0.5, self.width() - 1, floor - 1))
