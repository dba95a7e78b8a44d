"""Lengths in pixels and in millimetres."""

from __future__ import annotations

from enum import StrEnum

from sobercrow.core.errors import SettingError

MM_PER_INCH = 25.4
ASSUMED_DPI = 300.0
"""Resolution taken for a picture that does not state one: the usual choice for scanning line work."""


class Unit(StrEnum):
    """A unit of length; px are those of the web, 96 to the inch (W3C, CSS Values and Units 3)."""

    MM = "mm"
    CM = "cm"
    INCH = "in"
    POINT = "pt"
    PX = "px"

    @property
    def decimals(self) -> int:
        """With how many decimals lengths are shown."""
        return {"mm": 2, "cm": 3, "in": 4, "pt": 2, "px": 1}[self]

    @property
    def in_mm(self) -> float:
        """How many mm one is."""
        return {"mm": 1.0, "cm": 10.0, "in": MM_PER_INCH, "pt": MM_PER_INCH / 72.0, "px": MM_PER_INCH / 96.0}[self]


def px_to_mm(px: float, dpi: float) -> float:
    """Convert a length in picture pixels to millimetres."""
    return px * MM_PER_INCH / dpi


def mm_to_px(mm: float, dpi: float) -> float:
    """Convert a length in millimetres to picture pixels."""
    return mm * dpi / MM_PER_INCH


def px2_to_mm2(px2: float, dpi: float) -> float:
    """Convert an area in square pixels to square millimetres."""
    return px2 * (MM_PER_INCH / dpi) ** 2


def dpi_of_length(px: float, mm: float) -> float:
    """Return the resolution at which something `px` pixels long is `mm` millimetres long.

    Raises
    ------
    SettingError
        If either length is zero.
    """
    if not px > 0.0:
        raise SettingError("The line drawn has no length; drag from one end of something to the other.")
    if not mm > 0.0:
        raise SettingError("The known length must be more than 0 mm; type how long it is in truth.")
    return px * MM_PER_INCH / mm
