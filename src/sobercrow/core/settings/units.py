"""Lengths in pixels and in millimetres."""

from __future__ import annotations

MM_PER_INCH = 25.4
ASSUMED_DPI = 300.0
"""Resolution taken for a picture that does not state one: the usual choice for scanning line work."""


def px_to_mm(px: float, dpi: float) -> float:
    """Convert a length in picture pixels to millimetres."""
    return px * MM_PER_INCH / dpi


def mm_to_px(mm: float, dpi: float) -> float:
    """Convert a length in millimetres to picture pixels."""
    return mm * dpi / MM_PER_INCH


def px2_to_mm2(px2: float, dpi: float) -> float:
    """Convert an area in square pixels to square millimetres."""
    return px2 * (MM_PER_INCH / dpi) ** 2
