"""Ellipses among the working lines of a sketch, such as the mouths of vessels and circles seen at a slant."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F64, I64
from sobercrow.core.geometry.forms import Ellipse, ellipse_through, fit_circle, fit_ellipse, in_axes
from sobercrow.core.strokes.strokes import Strokes
from sobercrow.core.strokes.working_forms import TOLERANCE, Sought, lies_on

TRIES, SEED = 300, 5
"""So many times three chunks of strokes propose an ellipse; the same ones for the same sketch."""
NEAR_CHUNKS = 6
"""So many chunks must lie on a proposal, the three among them, before all points are looked at."""
NEAR_WIDTHS = 1.6
LEAST_RADIUS_PX, MOST_RADIUS, FLATTEST = 12.0, 0.6, 5.0
"""Radii are so many px at least and so much of the sheet's diagonal at most; one is so many times the other at most."""
CIRCLE_WIDTHS = 2.0
"""An ellipse whose radii differ by no more stroke widths is a circle."""
LEAST_SEEN_DEG, BIN_DEG = 200.0, 3.0
"""An ellipse is seen so far round."""


def find_oval(strokes: Strokes, free: NDArray[np.bool_], chunks: I64, sought: Sought) -> Ellipse | None:
    """Return the ellipse most free stroke points lie on, if they go far enough round it, or None.

    Three chunks of strokes, points `chunks` in the middle of each, give one (random sample consensus: Fischler & Bolles
    1981), fitted directly (`ellipse_through`).
    """
    if len(chunks) < NEAR_CHUNKS:
        return None
    points, ways = strokes.points[chunks], strokes.ways[chunks]
    random = np.random.default_rng(SEED)
    best: tuple[int, Ellipse] | None = None
    for _ in range(TRIES):
        form = _through(points, ways, random.choice(len(chunks), 3, replace=False), sought.width_px)
        if form is None or not _has_size(form, sought.diagonal_px):
            continue
        near = int(lies_on(points, ways, form, NEAR_WIDTHS * sought.width_px).sum())
        if near >= NEAR_CHUNKS and (best is None or near > best[0]):
            best = near, form
    return None if best is None else _settled(strokes, free, best[1], sought)


def _through(points: F64, ways: F64, three: I64, width: float) -> Ellipse | None:
    """The ellipse through three places in their directions: each counts with a place to either side of it."""
    own = points[three]
    step = np.column_stack([np.cos(ways[three]), np.sin(ways[three])]) * (2.0 * width)
    return ellipse_through(np.concatenate([own - step, own, own + step]))


def _has_size(form: Ellipse, diagonal: float) -> bool:
    low, high = sorted((form.rx, form.ry))
    return low > LEAST_RADIUS_PX and high < MOST_RADIUS * diagonal and high < FLATTEST * low


def _settled(strokes: Strokes, free: NDArray[np.bool_], form: Ellipse, sought: Sought) -> Ellipse | None:
    """An ellipse fitted to the free points near it; None if they do not go far enough round."""
    points, ways, width = strokes.points[free], strokes.ways[free], sought.width_px
    for reach in (2.5 * width, 1.5 * width, TOLERANCE * width, TOLERANCE * width):
        near = lies_on(points, ways, form, reach)
        if near.sum() < NEAR_CHUNKS:
            return None
        form, _ = fit_ellipse(points[near], form)
        if not _has_size(form, sought.diagonal_px):
            return None
    if abs(form.rx - form.ry) < CIRCLE_WIDTHS * width:
        form, _ = fit_circle(points[lies_on(points, ways, form, TOLERANCE * width)])
    u, v = in_axes(points[lies_on(points, ways, form, TOLERANCE * width)], form).T
    angle = np.degrees(np.arctan2(v / form.ry, u / form.rx))
    seen = len(np.unique(np.floor(angle / BIN_DEG))) * BIN_DEG
    length = math.radians(seen) * 0.5 * (form.rx + form.ry)
    form = replace(form, angle_deg=form.angle_deg % 180.0)
    return form if seen > LEAST_SEEN_DEG and length > sought.least_length_px else None
