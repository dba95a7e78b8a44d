"""The bar at the foot of the canvas while the corners of a slanted sheet are being set."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QWidget

from sobercrow.desktop.controls import button


class CornerBar(QWidget):
    """Says what to do, and ends it."""

    done = Signal()
    cancelled = Signal()

    def __init__(self, parent: QWidget) -> None:
        """Make the bar, unseen."""
        super().__init__(parent)
        self._canvas = parent
        self.setObjectName("toolbar")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(12, 6, 6, 6)
        layout.addWidget(QLabel("Drag the four corners onto those of the sheet."))
        self.finish = button("Undo slant", "Undo slant (Enter)\nLays the sheet flat.", main=True)
        self.leave = button("Cancel", "Cancel (Esc)\nLeaves the picture as it was.")
        self.finish.clicked.connect(self.done)
        self.leave.clicked.connect(self.cancelled)
        layout.addWidget(self.finish)
        layout.addWidget(self.leave)
        self.adjustSize()
        self.hide()

    def place(self) -> None:
        """Stand at the foot of the canvas, in the middle."""
        self.adjustSize()
        self.move((self._canvas.width() - self.width()) // 2, self._canvas.height() - self.height() - 14)
