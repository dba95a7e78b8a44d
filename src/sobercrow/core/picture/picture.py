"""The picture: pixels with a resolution."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Self

import cv2
import numpy as np

from sobercrow.core.arrays import U8
from sobercrow.core.picture.compression import Compression
from sobercrow.core.settings import px_to_mm


@dataclass(frozen=True, slots=True, eq=False)
class Picture:
    """Pixels (height, width, 3) uint8 sRGB, read-only, with a resolution in dots per inch.

    `dpi_stated` tells whether the file gave the resolution; else it was assumed. `compression` is what the file it
    comes from is compressed with, as long as its pixels are that file's.
    """

    pixels: U8
    dpi: float
    dpi_stated: bool = True
    name: str = "picture"
    compression: Compression | None = None

    def __post_init__(self) -> None:
        """Make the pixels read-only; raise ValueError for another shape or type."""
        if self.pixels.ndim != 3 or self.pixels.shape[2] != 3 or self.pixels.dtype != np.uint8:
            raise ValueError("pixels must be (height, width, 3) uint8")
        self.pixels.setflags(write=False)

    @property
    def width(self) -> int:
        """Width in pixels."""
        return int(self.pixels.shape[1])

    @property
    def height(self) -> int:
        """Height in pixels."""
        return int(self.pixels.shape[0])

    @property
    def size_mm(self) -> tuple[float, float]:
        """Width and height in millimetres."""
        return px_to_mm(self.width, self.dpi), px_to_mm(self.height, self.dpi)

    def with_pixels(self, pixels: U8) -> Self:
        """Return the same picture with other pixels."""
        return replace(self, pixels=np.ascontiguousarray(pixels), compression=None)

    def grey(self) -> U8:
        """Return the tones, (height, width) uint8: luma of ITU-R BT.601."""
        return grey_of(self.pixels)

    def in_grey(self) -> Self:
        """Return the picture without its colours."""
        return self.with_pixels(np.repeat(self.grey()[..., None], 3, axis=2))

    def reduced(self, factor: float) -> Self:
        """Return the picture with both sides divided by `factor` (≥ 1), each pixel the mean of what it covers."""
        if factor <= 1.0:
            return self
        size = (max(1, round(self.width / factor)), max(1, round(self.height / factor)))
        pixels = np.asarray(cv2.resize(self.pixels, size, interpolation=cv2.INTER_AREA), dtype=np.uint8)
        return replace(self.with_pixels(pixels), dpi=self.dpi / factor)


def grey_of(pixels: U8) -> U8:
    """Return the tones of pixels (h, w, 3) or (h, w), as (h, w) uint8: luma of ITU-R BT.601."""
    if pixels.ndim == 2:
        return pixels
    return np.asarray(cv2.cvtColor(pixels, cv2.COLOR_RGB2GRAY), dtype=np.uint8)


def in_colours(pixels: U8) -> U8:
    """Return pixels (h, w) or (h, w, 3) as (h, w, 3)."""
    return np.repeat(pixels[..., None], 3, axis=2) if pixels.ndim == 2 else pixels


def coarse(pixels: U8, factor: int) -> U8:
    """Return pixels reduced by a whole factor, each the mean of what it covers; a rest that fills none is left out.

    Much quicker than a reduction by any factor.
    """
    if factor <= 1:
        return pixels
    height, width = pixels.shape[0] // factor, pixels.shape[1] // factor
    if height < 1 or width < 1:
        return pixels
    whole = pixels[: height * factor, : width * factor]
    return np.asarray(cv2.resize(whole, (width, height), interpolation=cv2.INTER_AREA), dtype=np.uint8)
