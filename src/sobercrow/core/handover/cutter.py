"""What a cutter must offer. Real devices and stand-ins alike take this shape."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol


@dataclass(frozen=True, slots=True)
class Blade:
    """Where the blade is, in mm from the lower left of the bed, y up; whether it is down; which line it is at; how far
    it has come of the whole, 0–1; and the seconds since it began."""

    x_mm: float
    y_mm: float
    is_down: bool
    line: int
    share: float
    seconds: float


@dataclass(frozen=True, slots=True)
class CutReport:
    """What was done: lines, how far the blade was down and up, in mm, the time in s, and which lines lay in pieces that
    had fallen out before they were cut."""

    lines: int
    cut_mm: float
    travel_mm: float
    seconds: float
    fallen: tuple[int, ...]


Watch = Callable[[Blade], None]
"""Told where the blade is, again and again; may raise `Cancelled` to stop the device."""


class Cutter(Protocol):
    """A machine that takes plotter files."""

    name: str
    bed_mm: tuple[float, float]

    def cut(self, data: bytes, watch: Watch) -> CutReport:
        """Cut a plotter file.

        Raises
        ------
        ExportError
            If it cannot be read, or is larger than the bed; nothing is cut then.
        Cancelled
            If `watch` raised it; the blade is up then.
        """
