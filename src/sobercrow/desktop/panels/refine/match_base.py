"""The numbers lettering is set by: its base line's radius or angle, its spacing, how bold it is."""

from __future__ import annotations

import math
from dataclasses import replace

from PySide6.QtCore import QObject, Signal

from sobercrow.core.arrays import F64
from sobercrow.core.lettering.baseline import Arc, Baseline, Straight, with_angle, with_radius
from sobercrow.core.lettering.matches import Match
from sobercrow.core.settings import Meaning, mm_to_px, px_to_mm
from sobercrow.desktop.controls import NumberField, group_column

RADIUS = Meaning("Radius", "Of the arc letters stand on.", 0.1, 2000.0, "mm", 0.1, 2)
ANGLE = Meaning("Angle", "Of the line letters stand on, clockwise from level.", -180.0, 180.0, "°", 0.5, 1)


SPACING = Meaning(
    "Own spacing", "Letters where the drawing has them, or as the typeface spaces them.", 0.0, 100.0, "%", 5.0, 0
)
BOLDER = Meaning("Bolder", "Grown on every side; above stands how much heavier it is drawn.", -1.0, 1.0, "mm", 0.005, 3)


LEAST_MM = 0.0015


class SetFields(QObject):
    """How much of the typeface's own spacing is taken, and how much bolder it is set."""

    changed = Signal()

    def __init__(self) -> None:
        """Begin with the picture's spacing and the typeface's own weight."""
        super().__init__()
        self._percent = self._bolder_mm = 0.0
        self.spacing, self.bolder = NumberField(SPACING, brief=True), NumberField(BOLDER, brief=True)
        self.bolder.slide.hide()
        self.spacing.changed.connect(lambda value: self._take(value, self._bolder_mm))
        self.spacing.reset.connect(lambda: self._take(0.0, self._bolder_mm))
        self.bolder.changed.connect(lambda value: self._take(self._percent, value))
        self.bolder.reset.connect(lambda: self._take(self._percent, 0.0))
        self.column = group_column(self.spacing, self.bolder)
        self._show()

    @property
    def own_spacing(self) -> float:
        """A share, 0–1."""
        return self._percent / 100.0

    def applied(self, one: Match, dpi: float) -> Match:
        """Return a match as bold as was asked for."""
        return replace(one, bolder_px=mm_to_px(self._bolder_mm, dpi)) if self._bolder_mm else one

    def _take(self, percent: float, bolder_mm: float) -> None:
        self._percent, self._bolder_mm = percent, bolder_mm
        self._show()
        self.changed.emit()

    def _show(self) -> None:
        self.spacing.show_value(self._percent, self._percent == 0.0)
        self.bolder.show_value(self._bolder_mm, self._bolder_mm == 0.0)


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


def told_of_line(line: Baseline, dpi: float) -> str:
    """Return in words what letters stand on."""
    if isinstance(line, Arc):
        return f"On an arc, {'inside' if line.inside else 'outside'}, radius {px_to_mm(line.radius_px, dpi):.2f} mm."
    if isinstance(line, Straight):
        return f"On a straight line, {math.remainder(line.angle_deg, 360.0):.1f}° from level."
    return "On the line that was drawn."


def told_of_weight(heavier_mm: float) -> str:
    """Return in words how much heavier letters are drawn than their typeface is."""
    if abs(heavier_mm) < LEAST_MM:
        return " Drawn as heavy as the typeface."
    return f" Drawn {abs(heavier_mm):.3f} mm {'heavier' if heavier_mm > 0.0 else 'lighter'} on every side."
