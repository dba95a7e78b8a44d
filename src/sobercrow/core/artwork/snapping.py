"""Where a dragged anchor would rather lie: on others, level or upright with them, at middles of circles."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.choice import AnchorRef
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.artwork.table import anchor_table, rows_of
from sobercrow.core.geometry.forms import Ellipse


@dataclass(frozen=True, slots=True)
class Snap:
    """A place, what it was snapped to in words, and lines from there to what it lies level or upright with."""

    x: float
    y: float
    words: tuple[str, ...] = ()
    lines: tuple[tuple[float, float, float, float], ...] = ()


def snapped(artwork: Artwork, moved: Collection[AnchorRef], x: float, y: float, reach_px: float) -> Snap:
    """Return where a dragged anchor comes to lie; `moved` are those that go along, which nothing is snapped to."""
    table = anchor_table(artwork)
    still = np.ones(len(table.kinds), dtype=np.bool_)
    still[rows_of(artwork, frozenset(moved))] = False
    places: F64 = table.points[still, 1]
    circles = _of_circles(artwork)
    for others, word in ((places, "on an anchor"), (circles[:, :2], "")):
        if len(others):
            away = np.hypot(*(others - (x, y)).T)
            k = int(away.argmin())
            if away[k] <= reach_px:
                named = word or ("middle of circle" if circles[k, 2] else "quadrant of circle")
                return Snap(float(others[k, 0]), float(others[k, 1]), (named,))
    every = np.concatenate([places, circles[:, :2]])
    words, lines, at = [], [], [x, y]
    for axis, word in ((1, "level with"), (0, "upright with")):
        if not len(every):
            break
        off = np.abs(every[:, axis] - (x, y)[axis])
        # of those as near, the one that is nearest along the line
        near = np.flatnonzero(off <= min(reach_px, float(off.min()) + 1e-9))
        if len(near):
            k = near[np.abs(every[near, 1 - axis] - (x, y)[1 - axis]).argmin()]
            at[axis] = float(every[k, axis])
            words.append(word)
            lines.append(k)
    ends = tuple((at[0], at[1], float(every[k, 0]), float(every[k, 1])) for k in lines)
    return Snap(at[0], at[1], tuple(words), ends)


def _of_circles(artwork: Artwork) -> F64:
    """Middles and quadrants of the circles there are, (n, 3): x, y, and 1 for a middle."""
    rows = [
        (form.x + dx * form.rx, form.y + dy * form.rx, float(dx == dy == 0))
        for shape in artwork.shapes
        for contour in shape.contours
        if isinstance(form := contour.form, Ellipse) and form.is_circle
        for dx, dy in ((0, 0), (1, 0), (-1, 0), (0, 1), (0, -1))
    ]
    return np.array(rows, dtype=np.float64).reshape(-1, 3)
