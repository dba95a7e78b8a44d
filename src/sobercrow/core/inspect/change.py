"""What an edit does to artwork: how many anchors it leaves, how far it moves the line, and where."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from sobercrow.core.arrays import F64, cumulated
from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.geometry._nearest_kernels import nearest_segments
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.inspect.deviation import Deviation

SPACING_PX = 0.5
ANYWHERE_PX = 1e4


@dataclass(frozen=True, slots=True, eq=False)
class Change:
    """What an edit does.

    `contours` are those that are new, `moved` how far the line there is from where it was; `furthest_px` is the largest
    of it.
    """

    anchors_before: int
    anchors_after: int
    furthest_px: float
    contours: tuple[tuple[Contour, float | None], ...]
    moved: Deviation

    def told(self) -> str:
        """Say it in one line."""
        count = f"{self.anchors_before} → {self.anchors_after} anchors"
        return f"{count}, moved by {self.furthest_px:.2f} px at most" if len(self.moved.points) else count


def change_between(before: Artwork, after: Artwork) -> Change:
    """Compare artwork before and after an edit, contour by contour."""
    old = {id(contour) for shape in before.shapes for contour in shape.contours}
    new = {id(contour) for shape in after.shapes for contour in shape.contours}
    fresh = [(c, s) for s in after.shapes for c in s.contours if id(c) not in old]
    gone = [c for s in before.shapes for c in s.contours if id(c) not in new]
    lines = [contour.sampled(SPACING_PX) for contour, _ in fresh]
    away = [_distances(line, gone) for line in lines]
    furthest = max((float(part.max()) for part in away if len(part)), default=0.0)
    starts = cumulated([len(line) for line in lines])
    points: F64 = np.concatenate([*lines, np.zeros((0, 2))])
    moved = Deviation(points, np.concatenate([*away, np.zeros(0)]), np.zeros(len(points), dtype=np.int64), starts)
    return Change(before.anchor_count, after.anchor_count, furthest, tuple((c, _width(s)) for c, s in fresh), moved)


def _width(shape: Shape) -> float | None:
    return shape.stroke_px


def _distances(line: F64, contours: list[Contour]) -> F64:
    """How far points are from the nearest of some contours."""
    if not contours:
        return np.zeros(len(line))
    starts, ends = [], []
    for contour in contours:
        points = contour.sampled(SPACING_PX)
        after = np.roll(points, -1, axis=0) if contour.closed else points[1:]
        starts.append(points if contour.closed else points[:-1])
        ends.append(after)
    found: F64 = nearest_segments(line, np.concatenate(starts), np.concatenate(ends), ANYWHERE_PX)[0]
    return found
