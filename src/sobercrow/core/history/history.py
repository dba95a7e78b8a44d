"""What a picture went through before it was brought in, found once from its file and its pixels."""

from __future__ import annotations

from dataclasses import dataclass

from sobercrow.core.arrays import U8
from sobercrow.core.history.earlier_jpeg import find_earlier_jpeg, find_twice
from sobercrow.core.history.enlarging import Enlargement, at_own_size, find_enlargement
from sobercrow.core.history.screens import Screen, find_screen
from sobercrow.core.history.sharpening import Sharpening, find_sharpening
from sobercrow.core.picture.compression import Compression

MOST_PIXELS = 6_000_000
"""Larger pictures are not looked through: what they were made of is fine enough."""


@dataclass(frozen=True, slots=True, eq=False)
class History:
    """What a picture went through, the last first.

    Attributes
    ----------
    compression : Compression or None
        How it was compressed last, in its file or before it was kept otherwise.
    enlargement : Enlargement or None
        How it was made larger before that.
    beneath : Compression or None
        How the smaller picture was compressed before it was made larger.
    earlier : Compression or None
        How it was compressed, harder, before it was compressed last.
    screen : Screen or None
        Of which dots its tones are made.
    pixels : int
        How many pixels the picture has.
    sharpening : Sharpening or None
        How it was sharpened, if nothing else was done to it.
    """

    compression: Compression | None = None
    enlargement: Enlargement | None = None
    beneath: Compression | None = None
    screen: Screen | None = None
    pixels: int = 0
    earlier: Compression | None = None
    sharpening: Sharpening | None = None


def read_history(pixels: U8, compression: Compression | None) -> History:
    """Find out what a picture (h, w) or (h, w, 3) went through; `compression` is that of its file, if any."""
    count = pixels.shape[0] * pixels.shape[1]
    if count > MOST_PIXELS:
        return History(compression, pixels=count)
    screen = find_screen(pixels)
    if screen is not None:
        return History(compression, screen=screen, pixels=count)
    enlargement = find_enlargement(pixels)
    if enlargement is not None:
        small = at_own_size(pixels, enlargement)
        return History(compression, enlargement, find_earlier_jpeg(small, enlarged=True), pixels=count)
    if compression is not None:
        return History(compression, pixels=count, earlier=find_twice(pixels, compression))
    before = find_earlier_jpeg(pixels)
    return History(before, pixels=count, sharpening=None if before is not None else find_sharpening(pixels))
