"""A dial for an angle: a fan of ticks with a hand to drag."""

from __future__ import annotations

import math

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from sobercrow.desktop.theme import palette

SPREAD = 4.0
"""Degrees of the fan to a degree of the angle: small angles are what a dial is dragged for."""
REACH_DEG = 15.0
RADIUS_PX = 88.0
STEP_DEG = 0.1


class Dial(QWidget):
    """Shows an angle within ±15° by a hand over a fan, magnified four times; `turned` tells of a change."""

    turned = Signal(float)

    def __init__(self, name: str) -> None:
        """Start at rest."""
        super().__init__()
        self._angle = 0.0
        self.setFixedHeight(74)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(name)
        self.setToolTip(f"{name}\nDrag the hand; arrow keys step by {STEP_DEG:g}°.")

    def show_angle(self, angle_deg: float) -> None:
        """Show an angle without telling of it; one beyond the fan stands at its end."""
        self._angle = angle_deg
        self.update()

    def _foot(self) -> QPointF:
        return QPointF(self.width() / 2, RADIUS_PX + 4)

    def _at(self, angle_deg: float, radius: float) -> QPointF:
        direction = math.radians(min(max(angle_deg, -REACH_DEG), REACH_DEG) * SPREAD)
        return self._foot() + QPointF(math.sin(direction), -math.cos(direction)) * radius

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Turn the hand to the pointer."""
        self._turn_to(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Follow the pointer."""
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._turn_to(event)

    def _turn_to(self, event: QMouseEvent) -> None:
        off = event.position() - self._foot()
        angle = math.degrees(math.atan2(off.x(), -off.y())) / SPREAD
        self._tell(round(angle / STEP_DEG) * STEP_DEG)

    def _tell(self, angle_deg: float) -> None:
        angle_deg = round(min(max(angle_deg, -REACH_DEG), REACH_DEG), 2)
        if angle_deg != self._angle:
            self.show_angle(angle_deg)
            self.turned.emit(angle_deg)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Step with the arrow keys."""
        way = {Qt.Key.Key_Left: -1, Qt.Key.Key_Down: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: 1}.get(Qt.Key(event.key()))
        if way is None:
            super().keyPressEvent(event)
        else:
            self._tell(self._angle + way * STEP_DEG)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint ticks, figures and the hand."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colours = palette()
        for tick in range(-15, 16):
            long = tick % 5 == 0
            painter.setPen(QPen(QColor(colours.muted if long else colours.hair), 1.4 if long else 1.0))
            painter.drawLine(QLineF(self._at(tick, RADIUS_PX), self._at(tick, RADIUS_PX - (9 if long else 5))))
            if long:
                place = self._at(tick, RADIUS_PX - 22)
                painter.setPen(QColor(colours.muted))
                painter.drawText(
                    QRectF(place.x() - 16, place.y() - 8, 32, 16), Qt.AlignmentFlag.AlignCenter, f"{tick}°"
                )
        tip, side = self._at(self._angle, RADIUS_PX - 34), 2.6
        base = [self._at(self._angle + off, RADIUS_PX - 56) for off in (-side, side)]
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(colours.accent))
        painter.drawPolygon(QPolygonF([tip, *base]))
        if self.hasFocus():
            painter.setPen(QColor(colours.accent))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(0.5, 0.5, self.width() - 1, self.height() - 1))
