"""Small fields of colours to choose from."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSize, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from sobercrow.desktop.theme import palette

MOST_COLOURS, SWATCH_PX, GAP_PX, IN_A_ROW = 30, 22, 5, 10


class Swatches(QWidget):
    """Colours in rows: `picked` tells of one clicked, `chosen_at` which it was, `changed` of one clicked twice."""

    picked = Signal(str)
    changed = Signal(str)
    chosen_at = Signal(int)

    def __init__(self, name: str, help_: str) -> None:
        """Start with none."""
        super().__init__()
        self.colours: list[str] = []
        self.marked: str | None = None
        self.setAccessibleName(name)
        self.setToolTip(f"{name}\n{help_}")

    def show_colours(self, colours: list[str], marked: str | None) -> None:
        """Show colours, one of them marked."""
        self.colours, self.marked = colours[:MOST_COLOURS], marked
        rows = max(1, -(-len(self.colours) // IN_A_ROW))
        self.setFixedHeight(rows * (SWATCH_PX + GAP_PX))
        self.update()

    def sizeHint(self) -> QSize:
        """Be as wide as a full row."""
        return QSize(IN_A_ROW * (SWATCH_PX + GAP_PX), SWATCH_PX + GAP_PX)

    def rect_of(self, k: int) -> QRectF:
        """Where a colour is painted."""
        return QRectF(
            (k % IN_A_ROW) * (SWATCH_PX + GAP_PX), (k // IN_A_ROW) * (SWATCH_PX + GAP_PX), SWATCH_PX, SWATCH_PX
        )

    def _at(self, event: QMouseEvent) -> str | None:
        at = event.position()
        return next((c for k, c in enumerate(self.colours) if self.rect_of(k).contains(at)), None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take the colour there."""
        colour = self._at(event)
        if colour is not None:
            at = self.colours.index(colour)  # what is done with it may change the colours there are
            self.picked.emit(colour)
            self.chosen_at.emit(at)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Change the colour there."""
        colour = self._at(event)
        if colour is not None:
            self.changed.emit(colour)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the colours."""
        painter = QPainter(self)
        for k, colour in enumerate(self.colours):
            rect = self.rect_of(k)
            painter.fillRect(rect, QColor(colour))
            painter.setPen(QColor(palette().accent if colour == self.marked else palette().hair))
            painter.drawRect(rect.adjusted(0, 0, -1, -1))
            if colour == self.marked:
                painter.drawRect(rect.adjusted(1, 1, -2, -2))
