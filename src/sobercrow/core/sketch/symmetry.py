"""Sketched rings that are meant to be symmetric: their axis, and both halves drawn alike."""

from __future__ import annotations

from dataclasses import replace
from typing import NamedTuple

import numpy as np

from sobercrow.core.arrays import F64, preceding
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import Mirror
from sobercrow.core.sketch.ends import Drawn
from sobercrow.core.sketch.one_line import contour_of
from sobercrow.core.sketch.true_forms import LEAST_SLACK_PX
from sobercrow.core.strokes.strokes import evenly_spaced
from sobercrow.core.tracing.mirrors import Allowance, find_mirror, symmetric_border
from sobercrow.core.tracing.symmetric import with_image
from sobercrow.core.tracing.true_shapes import TrueShape

OF_SKETCHES = Allowance(maybe_px=1.5, maybe=0.03, roughly_px=0.6, roughly=0.006, slack_px=0.45, slack=0.004)
"""In spreads, of which hands stray from what they mean on either side."""
TOLERANCE = 1.2
PAIR = 3.0
"""A corner has its counterpart within so many spreads of its mirror image."""
ON_AXIS = 1.5
"""A corner so many spreads from the axis lies on it."""
LEAST_HALF = 8
RIGHT = np.array((1.0, 0.0))


class Mirrored(NamedTuple):
    """The axis a ring is meant to be symmetric about, and the ring drawn so."""

    found: TrueShape
    contour: Contour


def mirrored(line: Drawn, spread: float, tolerance: float) -> Mirrored | None:
    """Return a ring as it is meant to be symmetric, or None if it is not; strokes stray by `spread`, px.

    Its curves are within a tolerance, px, of the mean of both halves. Of two axes it is drawn about the better one.
    """
    if not line.closed or len(line.points) < LEAST_HALF:
        return None
    slack = max(spread, LEAST_SLACK_PX)
    ring = evenly_spaced(np.concatenate([line.points, line.points[:1]]), 0.5 * slack)[:-1]
    found = find_mirror(ring / slack, TOLERANCE, OF_SKETCHES)
    if found is None or not isinstance(found.form, Mirror):
        return None
    axis = replace(found.form, twofold=False)
    corners = _paired(axis.seen(line.points[list(line.corners)].reshape(-1, 2) / slack))
    half = _half(axis.seen(symmetric_border(ring / slack, axis)) * slack, corners * slack)
    if half is None:
        return None
    run, smooth = half
    ways = tuple(way if is_smooth else None for way, is_smooth in zip((RIGHT, -RIGHT), smooth, strict=True))
    whole = with_image(contour_of(run, spread, tolerance, ways=(ways[0], ways[1])), *smooth)
    placed = axis.scaled(slack)
    made = Contour(placed.back(whole.points), whole.kinds)
    return Mirrored(replace(found, form=axis).scaled(slack), made)


def _paired(corners: F64) -> F64:
    """The corners right of the upright axis, or on it, of a ring's corners (n, 2), in spreads.

    Each is the mean of itself and its counterpart; what is a corner on one side is one on both.
    """
    on = np.abs(corners[:, 0]) < ON_AXIS
    right, left = corners[~on & (corners[:, 0] > 0.0)], corners[~on & (corners[:, 0] < 0.0)] * (-1.0, 1.0)
    made = [np.array((0.0, y)) for y in corners[on, 1].tolist()]
    for corner in right:
        away = np.hypot(*(left - corner).T)
        if len(away) and away.min() < PAIR:
            made.append(0.5 * (corner + left[away.argmin()]))
            left = np.delete(left, away.argmin(), axis=0)
        else:
            made.append(corner)
    return np.array([*made, *left]).reshape(-1, 2)


def _half(ring: F64, corners: F64) -> tuple[Drawn, tuple[bool, bool]] | None:
    """The half of a symmetric ring right of the upright axis, from axis to axis, and whether it leaves and reaches it
    smoothly; None if there is no such half."""
    is_right = ring[:, 0] > 0.0
    first = np.flatnonzero(is_right & ~preceding(is_right))
    if len(first) != 1 or is_right.sum() < LEAST_HALF:
        return None
    ring = np.roll(ring, -first[0], axis=0)
    half = ring[: int(is_right.sum())]
    ends, smooth = [], []
    on_axis = corners[corners[:, 0] == 0.0]
    for inner, beyond in ((half[0], ring[-1]), (half[-1], ring[len(half)])):
        share = inner[0] / max(inner[0] - beyond[0], 1e-9)
        y = inner[1] + share * (beyond[1] - inner[1])
        near = on_axis[np.abs(on_axis[:, 1] - y) < PAIR * max(abs(beyond[0]), 1.0)] if len(on_axis) else on_axis
        ends.append(np.array((0.0, float(near[0, 1]) if len(near) else y)))
        smooth.append(not len(near))
    points = evenly_spaced(np.vstack([ends[0], half, ends[1]]), 1.0)
    inside = corners[corners[:, 0] > 0.0]
    rows = sorted((int(np.hypot(*(points - corner).T).argmin()), k) for k, corner in enumerate(inside))
    for row, k in rows:
        points[row] = inside[k]
    sharp = tuple(row for row, _ in rows if 0 < row < len(points) - 1)
    return Drawn(points, False, sharp), (smooth[0], smooth[1])
