"""What a compressed file tells of pictures that may be what it was made from."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Self

import cv2
import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F32, I64, U8
from sobercrow.core.cleanup.intervals import Intervals, intervals_of_file, intervals_of_pixels, padding
from sobercrow.core.history.planes import luma_chroma_of
from sobercrow.core.picture.compression import Compression

Box = tuple[int, int, int, int]
"""Top, left, bottom and right of a part of a picture, in pixels."""


@dataclass(frozen=True, slots=True, eq=False)
class Judgement:
    """A picture as luma and chroma, and what it lacks to be one a file stands for: (n, h, w) each."""

    planes: F32
    lacking: F32


@dataclass(frozen=True, slots=True, eq=False)
class Evidence:
    """What a compressed file tells of the picture it was made from.

    Attributes
    ----------
    intervals : Intervals
    top, left : int
        Rows and columns of the intervals before the picture.
    height, width : int
        Of the picture.
    """

    intervals: Intervals
    top: int
    left: int
    height: int
    width: int

    @classmethod
    def of(cls, pixels: U8, compression: Compression) -> Self:
        """Read it from a file, or from what was decoded and kept otherwise.

        Raises
        ------
        PictureError
            If the file's coefficients cannot be read.
        """
        intervals = intervals_of_file(compression)
        top, left = 0, 0
        if intervals is None:
            intervals, (top, left) = intervals_of_pixels(pixels, compression), padding(compression)
        return cls(intervals, top, left, pixels.shape[0], pixels.shape[1])

    @property
    def inside(self) -> tuple[slice, slice, slice]:
        """The picture's own part of planes over whole units."""
        return slice(None), slice(self.top, self.top + self.height), slice(self.left, self.left + self.width)

    def judged(self, pixels: F32) -> Judgement:
        """Judge a picture (h, w, 3); planes are of whole units, see `inside`."""
        planes = self._planes(pixels, (0, 0, self.height, self.width))
        return Judgement(planes, self.intervals.nearest(planes) - planes)

    def judged_again(self, before: Judgement, boxes: Sequence[Box], shown: Callable[[Box], F32]) -> Judgement:
        """Judge a picture that differs in some boxes only, see `boxes_around`; `shown` returns what is there."""
        planes, lacking = before.planes.copy(), before.lacking.copy()
        places = []
        for box in boxes:
            made = self._planes(shown(box), box)
            top = 0 if box[0] == 0 else box[0] + self.top
            left = 0 if box[1] == 0 else box[1] + self.left
            places.append((slice(None), slice(top, top + made.shape[1]), slice(left, left + made.shape[2])))
            planes[places[-1]] = made
        nearest = self.intervals.nearest(planes, self._units(places))
        for place in places:
            lacking[place] = nearest[place] - planes[place]
        return Judgement(planes, lacking)

    def boxes_around(self, near: NDArray[np.bool_]) -> list[Box]:
        """Return boxes of whole units of the picture that hold the pixels in `near` (h, w); they do not overlap."""
        tall, wide = self.intervals.unit
        rows, columns = np.nonzero(near)
        units = np.zeros((self.intervals.height // tall, self.intervals.width // wide), dtype=np.uint8)
        units[(rows + self.top) // tall, (columns + self.left) // wide] = 1
        count, _, found, _ = cv2.connectedComponentsWithStats(units, connectivity=8)
        apart = _without_overlaps([(y, x, y + h, x + w) for x, y, w, h, _ in found[1:count].tolist()])
        return [
            (
                max(y0 * tall - self.top, 0),
                max(x0 * wide - self.left, 0),
                min(y1 * tall - self.top, self.height),
                min(x1 * wide - self.left, self.width),
            )
            for y0, x0, y1, x1 in apart
        ]

    def _planes(self, pixels: F32, box: Box) -> F32:
        """Luma and chroma of a part of the picture; at its edges they go on up to where a unit ends."""
        planes = luma_chroma_of(pixels)[: len(self.intervals.first)].astype(np.float32)
        top, left, bottom, right = box
        above, before = self.top if top == 0 else 0, self.left if left == 0 else 0
        below = self.intervals.height - self.height - self.top if bottom == self.height else 0
        after = self.intervals.width - self.width - self.left if right == self.width else 0
        return np.ascontiguousarray(np.pad(planes, ((0, 0), (above, below), (before, after)), mode="edge"))

    def _units(self, places: Sequence[tuple[slice, slice, slice]]) -> I64:
        """Units within some parts of the planes that may lack anything."""
        tall, wide = self.intervals.unit
        rows, columns = self.intervals.units[:, 0] * tall, self.intervals.units[:, 1] * wide
        inside = np.zeros(len(rows), dtype=np.bool_)
        for _, down, across in places:
            inside |= (down.start <= rows) & (rows < down.stop) & (across.start <= columns) & (columns < across.stop)
        return np.ascontiguousarray(self.intervals.units[inside])


def _without_overlaps(boxes: list[Box]) -> list[Box]:
    """Boxes of which those that overlap are put together."""
    apart: list[Box] = []
    for box in boxes:
        while True:
            other = next(
                (b for b in apart if b[0] < box[2] and box[0] < b[2] and b[1] < box[3] and box[1] < b[3]), None
            )
            if other is None:
                break
            apart.remove(other)
            box = min(box[0], other[0]), min(box[1], other[1]), max(box[2], other[2]), max(box[3], other[3])
        apart.append(box)
    return apart
