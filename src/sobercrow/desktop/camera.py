"""Where the canvas looks: plain state, no widget in sight."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Self

from sobercrow.desktop.tokens import MOST_ZOOM

LEAST_ZOOM = 0.02


@dataclass(frozen=True, slots=True)
class Camera:
    """The picture point at the middle of the view and the screen pixels per picture pixel."""

    x: float = 0.0
    y: float = 0.0
    zoom: float = 1.0

    def to_picture(self, sx: float, sy: float, width: float, height: float) -> tuple[float, float]:
        """Return the picture point under a point of a view of the given size."""
        return self.x + (sx - width / 2) / self.zoom, self.y + (sy - height / 2) / self.zoom

    def to_screen(self, px: float, py: float, width: float, height: float) -> tuple[float, float]:
        """Return where a picture point lies in a view of the given size."""
        return (px - self.x) * self.zoom + width / 2, (py - self.y) * self.zoom + height / 2

    def zoomed(self, factor: float, sx: float, sy: float, width: float, height: float) -> Self:
        """Return a camera nearer or further, the picture point under (sx, sy) staying there."""
        px, py = self.to_picture(sx, sy, width, height)
        zoom = min(max(self.zoom * factor, LEAST_ZOOM), MOST_ZOOM)
        return replace(self, x=px - (sx - width / 2) / zoom, y=py - (sy - height / 2) / zoom, zoom=zoom)

    def panned(self, dx: float, dy: float) -> Self:
        """Return a camera moved so that the picture follows the pointer by (dx, dy) screen pixels."""
        return replace(self, x=self.x - dx / self.zoom, y=self.y - dy / self.zoom)

    @classmethod
    def fitting(cls, box: tuple[float, float, float, float], width: float, height: float, margin: float = 40.0) -> Self:
        """Return a camera that shows a box (left, top, right, bottom) whole, with a margin."""
        left, top, right, bottom = box
        across = max(width - 2 * margin, 20.0) / max(right - left, 1e-6)
        down = max(height - 2 * margin, 20.0) / max(bottom - top, 1e-6)
        zoom = min(max(min(across, down), LEAST_ZOOM), MOST_ZOOM)
        return cls((left + right) / 2, (top + bottom) / 2, zoom)
