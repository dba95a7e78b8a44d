"""Small controls for figures: a number with its name beside it, and the nine points of a box."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSignalBlocker, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QDoubleSpinBox, QHBoxLayout, QWidget

from sobercrow.core.artwork.placing import Nine
from sobercrow.desktop.controls import ARROWS, label
from sobercrow.desktop.theme import palette

FIELD_WIDTH = 78
GRID_PX = 60


class SmallField(QWidget):
    """A number with its name and unit; `changed` tells of values the user gave."""

    changed = Signal(float)

    def __init__(self, name: str, help_: str, low: float, high: float, unit: str, decimals: int = 2) -> None:
        """Make a field for numbers from `low` to `high`."""
        super().__init__()
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addWidget(label(name), 1)
        self.box = QDoubleSpinBox()
        self.box.setDecimals(decimals)
        self.box.setRange(low, high)
        self.box.setSingleStep(1.0 if unit in ("°", "%") else 0.1)
        self.box.setSuffix(unit if unit == "°" else f" {unit}")
        self.box.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.box.setFixedWidth(FIELD_WIDTH)
        self.box.setKeyboardTracking(False)
        self.box.setAccessibleName(name)
        self.box.setToolTip(f"{name}\n{help_}")
        self.box.valueChanged.connect(self.changed)
        layout.addWidget(self.box)

    def show_value(self, value: float, limits: tuple[float, float] | None = None) -> None:
        """Show a value without telling of it, and between which limits it may lie, if they are others than before."""
        blocker = QSignalBlocker(self.box)
        if limits is not None:
            self.box.setRange(*limits)
        if abs(self.box.value() - value) >= 0.5 * 10 ** -self.box.decimals() or not self.box.hasFocus():
            self.box.setValue(value)
        blocker.unblock()


class NineGrid(QWidget):
    """The nine points of a box, one of which is chosen: by a click, or by arrow keys."""

    chosen = Signal(object)

    def __init__(self, name: str, help_: str) -> None:
        """Make a grid with its middle chosen."""
        super().__init__()
        self.point = Nine.MIDDLE
        self.setFixedSize(GRID_PX, GRID_PX)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(name)
        self.setToolTip(f"{name}\n{help_}")

    def sizeHint(self) -> QSize:
        """Be square."""
        return QSize(GRID_PX, GRID_PX)

    def place(self, point: Nine) -> QPointF:
        """Where a point is painted."""
        return QPointF(*point.of((9.0, 9.0, GRID_PX - 9.0, GRID_PX - 9.0)))

    def _choose(self, point: Nine) -> None:
        if point is not self.point:
            self.point = point
            self.update()
            self.chosen.emit(point)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Choose the point nearest to the pointer."""
        at = event.position()
        self._choose(min(Nine, key=lambda point: (self.place(point) - at).manhattanLength()))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Go to the next point by arrow keys."""
        way = ARROWS.get(Qt.Key(event.key()))
        if way is None:
            super().keyPressEvent(event)
            return
        across, down = (min(max(a + 0.5 * b, 0.0), 1.0) for a, b in zip(self.point.value, way, strict=True))
        self._choose(Nine((across, down)))

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the box and its points."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colours = palette()
        painter.setPen(QColor(colours.accent if self.hasFocus() else colours.hair))
        painter.drawRect(QRectF(self.place(Nine.LEFT_TOP), self.place(Nine.RIGHT_BOTTOM)))
        for point in Nine:
            is_chosen = point is self.point
            painter.setPen(QColor(colours.accent if is_chosen else colours.muted))
            painter.setBrush(QColor(colours.accent if is_chosen else colours.field))
            half = 4.5 if is_chosen else 3.0
            painter.drawRect(QRectF(self.place(point) - QPointF(half, half), self.place(point) + QPointF(half, half)))
