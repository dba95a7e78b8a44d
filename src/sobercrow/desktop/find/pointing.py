"""Showing where a control is: scrolled to, in focus, with a ring around it for a while."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt, QTimer
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QScrollArea, QWidget

from sobercrow.desktop.theme import palette

SETTLED_MS, SHOWN_MS = 90, 2_500
ROOM_PX, PEN_PX = 6, 2.0


class PointingRing(QWidget):
    """A ring around a control of a panel, through which it can be used."""

    def __init__(self, ground: QWidget, control: QWidget) -> None:
        """Lie over the ground a control lies on."""
        super().__init__(ground)
        self.control = control
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        place = control.rect().translated(control.mapTo(ground, control.rect().topLeft()))
        self.setGeometry(place.adjusted(-ROOM_PX, -ROOM_PX, ROOM_PX, ROOM_PX).intersected(ground.rect()))
        self.show()
        self.raise_()
        QTimer.singleShot(SHOWN_MS, self, self.deleteLater)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the ring."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(QColor(palette().accent), PEN_PX))
        half = 0.5 * PEN_PX
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(half, half, -half, -half), 5.0, 5.0)
        painter.end()


def point_at(area: QScrollArea, control: QWidget) -> None:
    """Show where a control is, once its panel has laid itself out."""

    def show() -> None:
        ground = area.widget() or area
        area.ensureWidgetVisible(control, 0, area.height() // 3)
        control.setFocus(Qt.FocusReason.OtherFocusReason)
        PointingRing(ground, control)

    QTimer.singleShot(SETTLED_MS, control, show)
