"""How strongly the drawing and the artwork's fill show over each other, by one slide with two grips."""

from __future__ import annotations

from dataclasses import dataclass, replace

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPolygonF
from PySide6.QtWidgets import QWidget

from sobercrow.desktop.controls import ARROWS
from sobercrow.desktop.theme import palette

STEP = 0.05
MARGIN_PX = 7
WIDTH_PX, HEIGHT_PX = 76, 26


@dataclass(frozen=True, slots=True)
class Strengths:
    """How strongly the drawing shows beneath the artwork, and how strongly the artwork is filled, 0 to 1."""

    drawing: float = 1.0
    fill: float = 0.0


class StrengthSlide(QWidget):
    """The upper grip is the drawing's, the lower one the fill's; arrow keys move the one taken last."""

    changed = Signal(object)

    def __init__(self) -> None:
        """Show the drawing wholly, and no fill."""
        super().__init__()
        self.strengths = Strengths()
        self._held = "drawing"
        self.setFixedSize(WIDTH_PX, HEIGHT_PX)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Strength of drawing and fill")
        self.setToolTip("Strength\nUpper grip: the drawing beneath. Lower grip: the artwork's fill.")

    def sizeHint(self) -> QSize:
        """Be narrow."""
        return QSize(WIDTH_PX, HEIGHT_PX)

    def place(self, name: str) -> float:
        """Where a grip is across."""
        return MARGIN_PX + float(getattr(self.strengths, name)) * (WIDTH_PX - 2 * MARGIN_PX)

    def _set(self, share: float) -> None:
        made = replace(self.strengths, **{self._held: min(max(share, 0.0), 1.0)})
        if made != self.strengths:
            self.strengths = made
            self.update()
            self.changed.emit(made)

    def _follow(self, event: QMouseEvent) -> None:
        self._set((event.position().x() - MARGIN_PX) / (WIDTH_PX - 2 * MARGIN_PX))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take the grip on that side of the track."""
        self._held = "drawing" if event.position().y() < HEIGHT_PX / 2 else "fill"
        self._follow(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Follow the pointer."""
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._follow(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Step the grip by left and right, take the other one by up and down."""
        way = ARROWS.get(Qt.Key(event.key()))
        if way is None:
            super().keyPressEvent(event)
        elif way[1]:
            self._held = "drawing" if way[1] < 0 else "fill"
            self.update()
        else:
            self._set(getattr(self.strengths, self._held) + STEP * way[0])

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the track and its grips."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colours, middle = palette(), HEIGHT_PX / 2
        painter.fillRect(QRectF(MARGIN_PX, middle - 1, WIDTH_PX - 2 * MARGIN_PX, 2), QColor(colours.hair))
        for name, way in (("drawing", -1.0), ("fill", 1.0)):
            x = self.place(name)
            is_held = self.hasFocus() and self._held == name
            painter.setPen(QColor(colours.accent if is_held else colours.text))
            painter.setBrush(QColor(colours.field if name == "drawing" else colours.accent))
            base = middle + way * 10
            painter.drawPolygon(QPolygonF([QPointF(x, middle + way), QPointF(x - 6, base), QPointF(x + 6, base)]))
