"""Pictures of known shapes for the tests, drawn with exact area coverage by oversampling."""

from __future__ import annotations

import numpy as np
from matplotlib import font_manager
from PIL import Image, ImageDraw, ImageFont

from sobercrow.core.arrays import U8
from sobercrow.core.inks.separation import Separation, separate
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import Inks

FINE = 16


def disc(size: int, x: float, y: float, radius: float) -> U8:
    """Return a black disc on white, (size, size) uint8."""
    at = (np.arange(size * FINE) + 0.5) / FINE
    inside = (at[None, :] - x) ** 2 + (at[:, None] - y) ** 2 <= radius**2
    return coverage(inside)


def polygon(size: int, points: list[tuple[float, float]]) -> U8:
    """Return a black convex polygon, its corners clockwise on screen, on white."""
    at = (np.arange(size * FINE) + 0.5) / FINE
    inside = np.ones((size * FINE, size * FINE), dtype=bool)
    for (ax, ay), (bx, by) in zip(points, points[1:] + points[:1], strict=True):
        inside &= (bx - ax) * (at[:, None] - ay) - (by - ay) * (at[None, :] - ax) >= 0
    return coverage(inside)


def coverage(inside: np.ndarray) -> U8:
    """Return tones from a fine mask: the share of each pixel that is covered."""
    height, width = inside.shape[0] // FINE, inside.shape[1] // FINE
    share = inside.reshape(height, FINE, width, FINE).mean(axis=(1, 3))
    return np.rint(255 * (1 - share)).astype(np.uint8)


def lettering(text: str, size_px: int = 96, face: str = "DejaVu Serif") -> U8:
    """Return black words on white in one of Matplotlib's bundled open typefaces."""
    path = font_manager.findfont(face, fallback_to_default=False)
    font = ImageFont.truetype(path, size_px)
    box = font.getbbox(text)
    image = Image.new("L", (int(box[2]) + 24, int(box[3]) + 24), 255)
    ImageDraw.Draw(image).text((12, 12), text, font=font, fill=0)
    return np.asarray(image)


def picture(grey: U8, dpi: float = 300.0) -> Picture:
    """Return tones as a picture."""
    return Picture(np.repeat(grey[..., None], 3, axis=2), dpi, name="test.png")


def separation(grey: U8, threshold: int | None = None) -> Separation:
    """Return tones parted into ink and paper."""
    return separate(picture(grey), Inks(threshold=threshold))
