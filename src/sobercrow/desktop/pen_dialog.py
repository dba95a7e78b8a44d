"""How a pen's pressure becomes width: two numbers, and the curve they make."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QVBoxLayout, QWidget

from sobercrow.core.settings import PenPressure
from sobercrow.desktop.controls import label
from sobercrow.desktop.help.dialog import HelpedDialog
from sobercrow.desktop.settings_form import SettingsForm
from sobercrow.desktop.theme import palette

CURVE_SIZE, STEPS, EDGE_PX = QSize(300, 120), 60, 8


class PenDialog(HelpedDialog):
    """What is set holds at once, and is remembered."""

    def __init__(self, pressure: PenPressure, take: Callable[[PenPressure], None], parent: QWidget) -> None:
        """Show how it is set, and hand on what is changed."""
        super().__init__(parent, "Pressure of a pen")
        self.pressure = pressure
        self._hand_on = take
        self.curve = PressureCurve(pressure)
        self.form = SettingsForm(lambda: self.pressure, self._take)
        column = QVBoxLayout(self)
        column.addWidget(label("Pressure of a pen", title=True))
        column.addWidget(label("Of a tablet's pen, with Nib and Scrape. A mouse draws at the full width.", muted=True))
        column.addWidget(self.curve)
        column.addWidget(self.form)
        self.form.refresh()

    def _take(self, pressure: PenPressure) -> None:
        self.pressure = self.curve.pressure = pressure
        self.form.refresh()
        self.curve.update()
        self._hand_on(pressure)


class PressureCurve(QWidget):
    """A stroke pressed ever harder from left to right, as wide as it would be drawn."""

    def __init__(self, pressure: PenPressure) -> None:
        """Show a pressure."""
        super().__init__()
        self.pressure = pressure
        self.setFixedSize(CURVE_SIZE)
        self.setAccessibleName("Stroke from light to firm")

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the stroke."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colours = palette()
        painter.setPen(QPen(QColor(colours.hair), 1))
        painter.setBrush(QColor(colours.field))
        painter.drawRect(self.rect().adjusted(0, 0, -1, -1))
        middle, full = 0.5 * self.height(), 0.5 * self.height() - EDGE_PX
        upper: list[QPointF] = []
        lower: list[QPointF] = []
        for k in range(STEPS + 1):
            x = EDGE_PX + (self.width() - 2 * EDGE_PX) * k / STEPS
            half = full * self.pressure.width_share(k / STEPS)
            upper.append(QPointF(x, middle - half))
            lower.insert(0, QPointF(x, middle + half))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(colours.text))
        painter.drawPolygon(QPolygonF([*upper, *lower]))
        painter.end()
