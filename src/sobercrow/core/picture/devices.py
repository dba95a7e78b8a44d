"""What a scanner and a camera must offer. Real devices and stand-ins alike take this shape."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum
from typing import Protocol

from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import Checked, Meaning, SettingError, setting

Progress = Callable[[float], None]
"""Told the share done, 0–1; may raise `Cancelled` to stop the device."""


class ScanMode(StrEnum):
    """What the scanner tells apart."""

    COLOUR = "Colour"
    GREY = "Grey"
    BLACK_AND_WHITE = "Black and white"


@dataclass(frozen=True, slots=True)
class Region:
    """A part of the bed in millimetres from its top left corner."""

    left_mm: float
    top_mm: float
    width_mm: float
    height_mm: float

    def __post_init__(self) -> None:
        """Raise `SettingError` for a region with nothing in it."""
        if not (self.width_mm >= 1.0 and self.height_mm >= 1.0):
            raise SettingError("The region to scan is empty; draw one at least 1 mm wide and high.")


@dataclass(frozen=True, slots=True)
class ScanRequest(Checked):
    """What to scan, and how. `region` None takes the whole bed."""

    region: Region | None = None
    dpi: float = setting(300.0, Meaning("Resolution", "300 dpi suits line work; 600 fine pens.", 75, 600, "dpi", 25))
    mode: ScanMode = ScanMode.COLOUR


class Scanner(Protocol):
    """A flat-bed scanner."""

    name: str
    bed_mm: tuple[float, float]

    def preview(self) -> Picture:
        """Return a quick, coarse picture of the whole bed."""

    def scan(self, request: ScanRequest, progress: Progress) -> Picture:
        """Return the region with its true resolution; raise `Cancelled` if `progress` does."""


class Camera(Protocol):
    """A camera that looks at a sheet."""

    name: str

    def shoot(self) -> tuple[Picture, bytes]:
        """Return a photo and the file it came in."""
