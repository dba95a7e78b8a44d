"""A tablet's pen: its pressure as a width, its other end, its double clicks."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPointF
from PySide6.QtGui import QPointingDevice, QTabletEvent
from PySide6.QtWidgets import QApplication

from sobercrow.core.settings import PenPressure

DOUBLE_PX = 6.0
"""Two presses of a pen no further apart, soon after each other, are a double click: a pen is never quite still."""


class Pen:
    """What is known of the pen from one of its events to the next."""

    def __init__(self) -> None:
        """Start with no pen seen."""
        self.pressure = PenPressure()
        self.is_erasing = False
        self._width = 1.0
        self._pressed_at = QPointF()
        self._pressed_ms = -1

    def take(self, event: QTabletEvent) -> bool:
        """Take note of an event; tell whether it is the second press of a double click."""
        if event.type() == QEvent.Type.TabletRelease:
            return False  # pressed no more: what was drawn ends as wide as it was
        self._width = self.pressure.width_share(event.pressure())
        if event.type() != QEvent.Type.TabletPress:
            return False
        self.is_erasing = event.pointerType() == QPointingDevice.PointerType.Eraser
        at, ms = event.position(), int(event.timestamp())
        way = at - self._pressed_at
        soon = 0 <= ms - self._pressed_ms <= QApplication.doubleClickInterval() and self._pressed_ms >= 0
        is_double = soon and way.manhattanLength() <= DOUBLE_PX
        self._pressed_at, self._pressed_ms = at, -1 if is_double else ms
        return is_double

    def width(self, event: QEvent) -> float:
        """Return the share of the width at which an event draws: of a mouse the full one."""
        return self._width if isinstance(event, QTabletEvent) else 1.0
