"""A line that follows the pencil from place to place: the cheapest way along the dark ridges of a picture.

Cohen & Kimmel 1997, "Global minimum for active contour models: a minimal path approach", on the grid of pixels
(Dijkstra 1959, "A note on two problems in connexion with graphs").
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from sobercrow.core.arrays import F32, F64, I32, U8
from sobercrow.core.artwork.drawing import drawn_line
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.geometry.smooth import Beyond, smoothed
from sobercrow.core.sketch.one_line import closed_anchors
from sobercrow.core.strokes.strokes import darkness, ridges, smaller, stroke_width

MOST_PIXELS = 1_500_000
"""Larger pictures are followed at a smaller size."""
REACH_PX = 200
"""A way leads so many pixels of the size followed at to each side of its start at most."""
PLAIN = 0.04
"""What a step costs beside any ridge is as if there were one of so much of the usual strength."""
SIGMA = 0.5
"""Ridges are looked for at so many stroke widths."""
CALM_PX = 1.5


@dataclass(frozen=True, slots=True, eq=False)
class TrailField:
    """What a step costs at each pixel, (h, w), at least 1 on a strong ridge; a pixel is `scale` px of the artwork."""

    cost: F32
    scale: float


@dataclass(frozen=True, slots=True, eq=False)
class Ways:
    """The cheapest ways from one place to all around it: for each pixel of a window the one before it, −1 at the start.

    The window begins at `left`, `top` of the field.
    """

    field: TrailField
    before: I32
    left: int
    top: int
    start: tuple[float, float]

    def path_to(self, x: float, y: float) -> F64:
        """Return the way to a place of the artwork, (n, 2); straight where that lies outside the window."""
        scale = self.field.scale
        height, width = self.before.shape
        column, row = math.floor(x / scale) - self.left, math.floor(y / scale) - self.top
        if not (0 <= column < width and 0 <= row < height):
            return np.array([self.start, (x, y)])
        at = row * width + column
        before = self.before.ravel()
        places = []
        while at >= 0:
            places.append(at)
            at = int(before[at])
        cells = np.array(places[::-1])
        line = np.column_stack([cells % width + self.left, cells // width + self.top]) + 0.5
        line = smoothed(line, CALM_PX, Beyond.LAST) * scale if len(line) > 4 else line * scale
        line[0], line[-1] = self.start, (x, y)
        return np.asarray(line, dtype=np.float64)


def trail_contour(line: F64, zoom: float, closed: bool) -> Contour:
    """Return a line of points (n, 2) as a contour with few anchors; a closed one may have a corner where it begins.

    Raises
    ------
    EditError
        If the line is a point.
    """
    anchors = drawn_line(line, zoom)
    kinds = np.full(len(anchors), AnchorKind.SMOOTH, dtype=np.uint8)
    if not closed:
        return Contour(anchors, kinds, closed=False)
    kinds[0] = AnchorKind.CORNER
    return Contour(closed_anchors(anchors), kinds[:-1])


def trail_field(grey: U8, scale: float) -> TrailField:
    """Return what steps cost over tones (h, w), whose pixels are `scale` px of the artwork."""
    factor = max(1.0, math.sqrt(grey.size / MOST_PIXELS))
    grey = smaller(grey, factor)
    width = stroke_width(grey)
    strength = ridges(darkness(grey, width), max(1.0, SIGMA * width))
    strong = strength[strength > 0.02]
    usual = float(np.percentile(strong, 75.0)) if len(strong) else 1.0
    cost = (1.0 + PLAIN) / (np.minimum(strength / usual, 1.0) + PLAIN)
    return TrailField(np.asarray(cost, dtype=np.float32), scale * factor)


def ways_from(field: TrailField, x: float, y: float) -> Ways:
    """Return the cheapest ways from a place of the artwork; one outside the picture begins at its edge."""
    from scipy.sparse import coo_array  # SciPy comes in when it is first needed
    from scipy.sparse.csgraph import dijkstra

    height, width = field.cost.shape
    column = int(np.clip(x / field.scale, 0, width - 1))
    row = int(np.clip(y / field.scale, 0, height - 1))
    left, top = max(column - REACH_PX, 0), max(row - REACH_PX, 0)
    cost = field.cost[top : row + REACH_PX + 1, left : column + REACH_PX + 1].astype(np.float64)
    rows, columns = cost.shape
    number = np.arange(rows * columns).reshape(rows, columns)
    ones, others, steps = [], [], []
    for down, across in ((0, 1), (1, 0), (1, 1), (1, -1)):
        a = (slice(0, rows - down), slice(max(-across, 0), columns - max(across, 0)))
        b = (slice(down, rows), slice(max(across, 0), columns - max(-across, 0)))
        ones.append(number[a].ravel())
        others.append(number[b].ravel())
        steps.append((0.5 * (cost[a] + cost[b]) * math.hypot(down, across)).ravel())
    graph = coo_array(
        (np.concatenate(steps), (np.concatenate(ones), np.concatenate(others))), shape=(number.size, number.size)
    ).tocsr()
    start = int(number[row - top, column - left])
    _, before = dijkstra(graph, directed=False, indices=start, return_predecessors=True)
    before = np.where(before < 0, -1, before).reshape(rows, columns).astype(np.int32)
    return Ways(field, before, left, top, (x, y))
