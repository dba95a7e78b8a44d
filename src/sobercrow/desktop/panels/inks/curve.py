"""The evidence for a count: colour error against the number of inks."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from sobercrow.core.arrays import F64
from sobercrow.desktop import tokens
from sobercrow.desktop.theme import palette


class ErrorCurve(QWidget):
    """Error in ΔE for 1, 2, 3 … inks; a click chooses a count."""

    picked = Signal(int)

    def __init__(self) -> None:
        """Start empty."""
        super().__init__()
        self._errors: list[float] = []
        self._count = self._proposed = 0
        self.setFixedHeight(84)
        self.setAccessibleName("Colour error for each number of inks")
        self.setToolTip("Colour error\nHow far colours are from their inks, for each count. Click to choose a count.")

    def show_errors(self, errors: F64, count: int, proposed: int) -> None:
        """Show the errors (n,), the count in force and the one proposed."""
        self._errors, self._count, self._proposed = [float(e) for e in errors], count, proposed
        self.update()

    def _at(self, index: int) -> QPointF:
        floor, top = self.height() - 20.0, 14.0
        most = max(max(self._errors[1:], default=1.0), 1e-6)
        x = 14 + (self.width() - 28) * (index - 1) / max(len(self._errors) - 2, 1)
        return QPointF(x, floor - (floor - top) * min(self._errors[index] / most, 1.0))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Choose the nearest count."""
        if len(self._errors) > 1:
            nearest = min(range(1, len(self._errors)), key=lambda k: abs(self._at(k).x() - event.position().x()))
            self.picked.emit(nearest + 1)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the curve from two inks on, with the counts below it."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colours = palette()
        painter.fillRect(QRectF(0, 0, self.width(), self.height() - 18), QColor(colours.field))
        font = painter.font()
        font.setPixelSize(tokens.SMALL_PX - 1)
        painter.setFont(font)
        if len(self._errors) < 2:
            painter.setPen(QColor(colours.muted))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "The picture has one colour.")
            return
        points = [self._at(k) for k in range(1, len(self._errors))]
        painter.setPen(QPen(QColor(colours.muted), 1.4))
        painter.drawPolyline(QPolygonF(points))
        for k, at in enumerate(points, 2):
            chosen = k == self._count
            painter.setPen(QPen(QColor(colours.accent if chosen else colours.muted), 1.2))
            painter.setBrush(QColor(colours.accent if chosen else colours.field))
            painter.drawEllipse(at, 4.5 if chosen else 2.5, 4.5 if chosen else 2.5)
            painter.setPen(QColor(colours.accent if k == self._proposed else colours.muted))
            font.setBold(k == self._proposed)
            painter.setFont(font)
            painter.drawText(QRectF(at.x() - 12, self.height() - 17, 24, 16), Qt.AlignmentFlag.AlignCenter, str(k))
        font.setBold(False)
        painter.setFont(font)
        painter.setPen(QColor(colours.muted))
        if 2 <= self._count <= len(self._errors):
            text = f"error {self._errors[self._count - 1]:.1f} ΔE"
            painter.drawText(QRectF(0, 0, self.width() - 8, 16), Qt.AlignmentFlag.AlignRight, text)
