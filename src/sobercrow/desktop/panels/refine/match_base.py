"""The numbers a base line goes by: an arc's radius, a straight line's angle."""

from __future__ import annotations

import math

from PySide6.QtCore import QObject, Signal

from sobercrow.core.arrays import F64
from sobercrow.core.lettering.baseline import Arc, Baseline, Straight, with_angle, with_radius
from sobercrow.core.settings import Meaning, mm_to_px, px_to_mm
from sobercrow.desktop.controls import NumberField, group_column

RADIUS = Meaning("Radius", "Of the arc letters stand on.", 0.1, 2000.0, "mm", 0.1, 2)
ANGLE = Meaning("Angle", "Of the line letters stand on, clockwise from level.", -180.0, 180.0, "°", 0.5, 1)


class BaseFields(QObject):
    """One field or the other; `changed` tells the base line that was typed, or None for the one proposed."""

    changed = Signal(object)

    def __init__(self) -> None:
        """Begin without a line."""
        super().__init__()
        self._line: Baseline | None = None
        self._middle: F64 | None = None
        self._dpi = 1.0
        self.radius, self.angle = NumberField(RADIUS, brief=True), NumberField(ANGLE, brief=True)
        for field in (self.radius, self.angle):
            field.slide.hide()
            field.reset.connect(lambda: self.changed.emit(None))
        self.radius.changed.connect(self._bend)
        self.angle.changed.connect(self._turn)
        self.row = group_column(self.radius, self.angle)

    def show_line(self, line: Baseline | None, places: F64 | None, dpi: float, automatic: bool) -> None:
        """Show the number of a line that runs through three places (3, 2), and whether it was proposed."""
        self._line, self._middle, self._dpi = line, places[1] if places is not None else None, dpi
        self.radius.setVisible(isinstance(line, Arc))
        self.angle.setVisible(isinstance(line, Straight))
        if isinstance(line, Arc):
            self.radius.show_value(px_to_mm(line.radius_px, dpi), automatic)
        elif isinstance(line, Straight):
            self.angle.show_value(math.remainder(line.angle_deg, 360.0), automatic)

    def _bend(self, radius_mm: float) -> None:
        if isinstance(self._line, Arc) and self._middle is not None:
            self.changed.emit(with_radius(self._line, mm_to_px(radius_mm, self._dpi), self._middle))

    def _turn(self, angle_deg: float) -> None:
        if isinstance(self._line, Straight) and self._middle is not None:
            self.changed.emit(with_angle(self._line, angle_deg, self._middle))
