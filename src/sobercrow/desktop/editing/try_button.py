"""A button that shows what it would do while it is held, and does it when it is let go there."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPoint, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent
from PySide6.QtWidgets import QPushButton

HOLD_MS = 250


class TryButton(QPushButton):
    """Pressed quickly it does its work at once. Held, `tried` tells that its result is to be shown, or no more.

    Let go beside it, or given up with Esc, nothing was done.
    """

    tried = Signal(bool)

    def __init__(self, text: str, tip: str) -> None:
        """Make a button."""
        super().__init__(text)
        self.setToolTip(f"{tip}\nHold to see what it would do.")
        self.setAccessibleName(text)
        self._shown = False
        self._hold = QTimer(self)
        self._hold.setSingleShot(True)
        self._hold.timeout.connect(lambda: self._show(True))

    def _show(self, on: bool) -> None:
        if on != self._shown:
            self._shown = on
            self.tried.emit(on)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Begin to wait."""
        super().mousePressEvent(event)
        if event.button() == Qt.MouseButton.LeftButton:
            self._hold.start(HOLD_MS)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Slid off, nothing is shown; slid back, it is again."""
        super().mouseMoveEvent(event)
        if event.buttons() & Qt.MouseButton.LeftButton and not self._hold.isActive():
            self._show(self.isDown() and self.rect().contains(event.position().toPoint()))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Do it, unless the pointer is elsewhere."""
        self._hold.stop()
        self._show(False)
        super().mouseReleaseEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Give it up."""
        if event.key() == Qt.Key.Key_Escape and self.isDown():
            self._hold.stop()
            self._show(False)
            self.setDown(False)
            away = QPoint(-10, -10)  # the release that follows is nobody's
            self.mouseMoveEvent(
                QMouseEvent(
                    QEvent.Type.MouseMove,
                    away.toPointF(),
                    self.mapToGlobal(away).toPointF(),
                    Qt.MouseButton.NoButton,
                    Qt.MouseButton.LeftButton,
                    Qt.KeyboardModifier.NoModifier,
                )
            )
            return
        super().keyPressEvent(event)
