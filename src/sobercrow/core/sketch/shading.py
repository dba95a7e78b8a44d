"""Shading of a sketch: patches of short, pale strokes side by side."""

from __future__ import annotations

import math
from itertools import pairwise

import cv2
import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F64, I64, U8
from sobercrow.core.strokes.strokes import Strokes

LEAST_LENGTH, MOST_LENGTH = 3.5, 60.0
"""Strokes of shading are so many stroke widths long."""
STRAIGHT = 0.94
"""From end to end over along."""
ALIKE_COS = math.cos(math.radians(11.0))
LEAST_GAP, MOST_GAP = 1.2, 9.0
"""They lie so many stroke widths apart."""
OVERLAP = 0.35
"""Neighbours run beside each other over so much of the shorter."""
LONGER, DARKER = 3.2, 1.8
ROWS = 4
MOST_PIECES = 4000
"""With more pieces there are no patches to be told: all of it is grain."""
UNEVEN = 0.45
PALE = 0.8
"""They are no darker than this share of the lines."""
WITHIN, CLAIM_COS, CLAIM_SHORT_COS = 1.5, math.cos(math.radians(16.0)), math.cos(math.radians(35.0))
"""What lies in a patch, or so many stroke widths beside it, in about its direction, is shading too."""
CLAIM_DARKER, CLAIM_LONGER = 1.5, 1.5


AREA_PALE, CLAIM_DARK = 0.72, 1.0
"""Strokes that fill an area are no darker than the former share of the lines, and nowhere than the latter."""
AREA_GAP, AREA_HALF = 2.0, 4.0
"""They lie up to twice as many stroke widths apart as the former, and fill twice as many as the latter across."""
AREA_SHARE = 0.55
AREA_POINTS = 60


def find_shading(strokes: Strokes, usual: float, width_px: float) -> list[I64]:
    """Return patches of shading: the numbers of their strokes; `usual` is how dark the lines of the drawing are."""
    return _merged([*_in_rows(strokes, usual, width_px), *_in_areas(strokes, usual, width_px)])


def _in_rows(strokes: Strokes, usual: float, width_px: float) -> list[I64]:
    """Patches of straight strokes at even gaps."""
    starts = strokes.starts()
    count = strokes.count
    if count < ROWS:
        return []
    first, last = strokes.points[starts[:-1]], strokes.points[starts[1:] - 1]
    chord = last - first
    size = np.hypot(*chord.T)
    length = np.maximum(np.diff(starts) - 1.0, 1.0)
    dark = np.array([np.median(strokes.dark[a:b]) for a, b in pairwise(starts)])
    fits = (size > LEAST_LENGTH * width_px) & (size < MOST_LENGTH * width_px) & (size > STRAIGHT * length)
    fits &= dark < PALE * usual
    rows = np.flatnonzero(fits)
    if not ROWS <= len(rows) <= MOST_PIECES:
        return []
    way = chord[rows] / size[rows, None]
    middle = 0.5 * (first + last)[rows]
    groups = _grown(_neighbours(middle, way, size[rows], dark[rows], width_px))
    found = []
    for group, gaps in groups:
        usual_gap = float(np.median(gaps))
        if len(group) < ROWS or float(np.median(np.abs(gaps - usual_gap))) > UNEVEN * usual_gap:
            continue
        found.append(_with_claimed(strokes, starts, rows[group], dark, size, chord, width_px))
    return found


def _in_areas(strokes: Strokes, usual: float, width_px: float) -> list[I64]:
    """Patches of pale strokes that fill an area, however they run: curved, crossed, or to and fro.

    Strokes are laid on a grid; what is left of their closing by an opening is no line (Serra 1982, "Image analysis and
    mathematical morphology").
    """
    pale = strokes.dark < AREA_PALE * usual
    if pale.sum() < AREA_POINTS:
        return []
    cell = 0.5 * width_px
    low = strokes.points[pale].min(axis=0) - 4.0 * AREA_HALF * width_px
    at = np.floor((strokes.points - low) / cell).astype(np.int64)
    size = at[pale].max(axis=0) + round(4.0 * AREA_HALF * width_px / cell)
    laid: U8 = np.zeros((int(size[1]), int(size[0])), dtype=np.uint8)
    laid[at[pale, 1], at[pale, 0]] = 1
    filled = cv2.morphologyEx(laid, cv2.MORPH_CLOSE, _disc(AREA_GAP * width_px / cell))
    area = cv2.morphologyEx(filled, cv2.MORPH_OPEN, _disc(AREA_HALF * width_px / cell))
    count, labels = cv2.connectedComponents(cv2.dilate(area, _disc(1.0 * width_px / cell)))
    inside = np.zeros(len(strokes), dtype=np.int64)
    seen = ((at >= 0) & (at < size)).all(axis=1) & (strokes.dark < CLAIM_DARK * usual)
    inside[seen] = labels[at[seen, 1], at[seen, 0]]
    found = []
    length = np.bincount(strokes.stroke)
    for label in range(1, count):
        share = np.bincount(strokes.stroke, inside == label) / length
        paleness = np.bincount(strokes.stroke, pale) / length
        numbers = np.flatnonzero((share > AREA_SHARE) & (paleness > AREA_SHARE))
        if len(numbers) >= ROWS:
            found.append(numbers)
    return found


def _disc(radius: float) -> U8:
    size = 2 * max(round(radius), 1) + 1
    return np.asarray(cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (size, size)), dtype=np.uint8)


def _merged(patches: list[I64]) -> list[I64]:
    """Patches, those that share strokes as one."""
    made: list[set[int]] = []
    for patch in patches:
        own = set(patch.tolist())
        for other in [other for other in made if other & own]:
            made.remove(other)
            own |= other
        made.append(own)
    return [np.array(sorted(own)) for own in made]


def _neighbours(middle: F64, way: F64, size: F64, dark: F64, width: float) -> dict[tuple[int, int], float]:
    """Pairs of pieces next to each other, side by side, and how far apart they lie."""
    cos = way @ way.T
    mean = way[:, None] + np.sign(np.where(cos == 0, 1.0, cos))[..., None] * way[None]
    mean /= np.maximum(np.hypot(mean[..., 0], mean[..., 1]), 1e-9)[..., None]
    between = middle[None] - middle[:, None]
    gap = between[..., 1] * mean[..., 0] - between[..., 0] * mean[..., 1]
    slid = np.abs((between * mean).sum(axis=-1))
    shorter, longer = np.minimum.outer(size, size), np.maximum.outer(size, size)
    fits = (np.abs(cos) > ALIKE_COS) & (np.abs(gap) > LEAST_GAP * width) & (np.abs(gap) < MOST_GAP * width)
    fits &= 0.5 * (shorter + longer) - slid > OVERLAP * shorter
    fits &= (longer < LONGER * shorter) & (np.maximum.outer(dark, dark) < DARKER * np.minimum.outer(dark, dark))
    pairs: dict[tuple[int, int], float] = {}
    for side in (1.0, -1.0):
        away = np.where(fits & (gap * side > 0.0), np.abs(gap), np.inf)
        nearest = away.argmin(axis=1)
        for k in np.flatnonzero(np.isfinite(away.min(axis=1))).tolist():
            j = int(nearest[k])
            pairs[min(k, j), max(k, j)] = float(away[k, j])
    return pairs


def _grown(pairs: dict[tuple[int, int], float]) -> list[tuple[I64, F64]]:
    """Groups of pieces that hang together, each with the gaps in it."""
    if not pairs:
        return []
    from scipy.sparse import coo_array  # SciPy comes in when it is first needed
    from scipy.sparse.csgraph import connected_components

    ends, gaps = np.array(list(pairs)), np.array(list(pairs.values()))
    count = int(ends.max()) + 1
    _, label = connected_components(
        coo_array((np.ones(len(ends)), tuple(ends.T)), shape=(count, count)), directed=False
    )
    own = label[ends[:, 0]]
    return [(np.flatnonzero(label == k), gaps[own == k]) for k in np.unique(own)]


def _with_claimed(strokes: Strokes, starts: I64, group: I64, dark: F64, size: F64, chord: F64, width: float) -> I64:
    """A patch with the pieces that lie in it in about its direction: strokes that lines broke off."""
    inside = np.concatenate([strokes.points[starts[k] : starts[k + 1]] for k in group])
    hull = cv2.convexHull(inside.astype(np.float32))
    axis = np.linalg.svd(chord[group] / size[group, None], full_matrices=False)[2][0]
    pale, longest = float(np.median(dark[group])), float(size[group].max())
    claimed = set(group.tolist())
    low, high = inside.min(axis=0) - WITHIN * width, inside.max(axis=0) + WITHIN * width
    for k in range(len(starts) - 1):
        points = strokes.points[starts[k] : starts[k + 1] : 3]
        if k in claimed or size[k] < 1.0 or size[k] > CLAIM_LONGER * longest or dark[k] > CLAIM_DARKER * pale:
            continue
        if not ((points > low) & (points < high)).all(axis=1).mean() > 0.8:
            continue
        far = [cv2.pointPolygonTest(hull, (x, y), True) for x, y in points.tolist()]
        cos = abs(float(chord[k] @ axis)) / size[k]
        if np.mean(np.array(far) > -WITHIN * width) > 0.8 and cos > (
            CLAIM_SHORT_COS if size[k] < 3.0 * width else CLAIM_COS
        ):
            claimed.add(k)
    return np.array(sorted(claimed))


def points_of(strokes: Strokes, patches: list[I64]) -> NDArray[np.bool_]:
    """Tell of each stroke point whether it is in one of some patches."""
    numbers = np.unique(np.concatenate([np.zeros(0, dtype=np.int64), *patches]))
    return np.isin(strokes.stroke, numbers)
