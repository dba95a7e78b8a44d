"""Working lines of a sketch: faint, long, exactly straight or round, drawn to construct by."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F64, I64
from sobercrow.core.geometry.forms import Ellipse
from sobercrow.core.geometry.polygon import line_through
from sobercrow.core.stopping import go_on
from sobercrow.core.strokes.ovals import find_oval
from sobercrow.core.strokes.strokes import Strokes
from sobercrow.core.strokes.working_forms import (
    ALIKE_COS,
    BESIDE,
    TOLERANCE,
    Sought,
    StraightLine,
    away_from,
    lies_on,
    runs_along,
)

FAINT_NEAR = 1.3
"""Places on one may be so many times as dark: it crosses others."""
CHUNK = 24
"""Directions are read over so many points, about a px apart."""
MOST_CHUNKS = 500
"""No more propose lines; working lines are long, so that those left out are not missed."""
LEAST_ROUND_DEG = 150.0
"""A circle goes so far round."""
LEAST_SEEN = 0.45
"""A straight line is seen over so much of its length."""
BIN_PX, BIN_DEG = 4.0, 3.0
MOST = 24
RUN_ON = 16
"""A straight piece is a part of a curve if a stroke runs on from it, for half so many points."""
LEAST_RADIUS, MOST_RADIUS = 12.0, 0.6
"""Circles have a radius of so many px at least, and of so much of the diagonal at most."""
VOTE_PX = 8.0
ROUNDS, MOST_VAIN = 3, 4
"""A proposal is fitted so many times; so many that come to nothing end the search."""


def find_working_lines(
    strokes: Strokes, sought: Sought, darkest: float
) -> tuple[NDArray[np.bool_], list[StraightLine | Ellipse]]:
    """Return which stroke points (n,) lie on working lines, and these: no darker than `darkest`, a share of black.

    Chunks of faint strokes propose lines, and pairs of them circles (Hough transform: Duda & Hart 1972, "Use of the
    Hough transformation to detect lines and curves in pictures"), threes of them ellipses; each is fitted to the faint
    points near it.
    """
    free = strokes.dark < darkest
    allowed = strokes.dark < FAINT_NEAR * darkest
    marked = np.zeros(len(strokes), dtype=np.bool_)
    found: list[StraightLine | Ellipse] = []
    for search in (_straight, find_oval, _round):
        for _ in range(MOST):
            chunks = _chunks(strokes, free)
            if len(chunks) < 2:
                break
            best = search(strokes, free, chunks, sought)
            if best is None:
                break
            near = away_from(strokes.points, best) < BESIDE * sought.width_px
            marked |= near & allowed & runs_along(strokes.points, strokes.ways, best)
            free &= ~near
            found.append(best)
    return marked, found


def _chunks(strokes: Strokes, free: NDArray[np.bool_]) -> I64:
    """The middles of runs of free points, about a chunk apart, as rows."""
    rows = np.flatnonzero(free)
    if not len(rows):
        return rows
    new = np.concatenate([[True], (np.diff(rows) > 1) | (np.diff(strokes.stroke[rows]) != 0)])
    run = np.cumsum(new) - 1
    first = np.flatnonzero(new)
    nth = np.arange(len(rows)) - first[run]
    length = np.diff(np.append(first, len(rows)))[run]
    chunks = rows[(length >= CHUNK // 2) & (nth % CHUNK == np.minimum(length, CHUNK) // 2)]
    return np.asarray(chunks[:: 1 + len(chunks) // MOST_CHUNKS])


def _straight(strokes: Strokes, free: NDArray[np.bool_], chunks: I64, sought: Sought) -> StraightLine | None:
    """The longest straight line among free points, if it is long enough."""
    left = chunks
    for _ in range(MOST_VAIN):
        proposed = _likeliest(strokes, free, left, sought)
        if proposed is None:
            return None
        form = _settled(strokes, free, proposed, sought)
        if form is not None:
            return form
        left = left[~lies_on(strokes.points[left], strokes.ways[left], proposed, TOLERANCE * sought.width_px)]
    return None


def _likeliest(strokes: Strokes, free: NDArray[np.bool_], chunks: I64, sought: Sought) -> StraightLine | None:
    """The line through chunks that most free points lie on."""
    rows, width = np.flatnonzero(free), sought.width_px
    x, y = strokes.points[rows].T
    c, s = np.cos(strokes.ways[rows]), np.sin(strokes.ways[rows])
    best: tuple[int, StraightLine] | None = None
    for form in _through(strokes, chunks):
        go_on()
        near = np.abs((y - form.y) * form.dx - (x - form.x) * form.dy) < TOLERANCE * width
        near &= np.abs(c * form.dx + s * form.dy) > ALIKE_COS
        at = (x[near] - form.x) * form.dx + (y[near] - form.y) * form.dy
        bins = len(np.unique(np.floor(at / BIN_PX)))
        if best is None or bins > best[0]:
            best = bins, form
    return best[1] if best is not None else None


def _settled(strokes: Strokes, free: NDArray[np.bool_], form: StraightLine, sought: Sought) -> StraightLine | None:
    """A line fitted to the free points near it, from where it begins to where it ends; None if it is too short."""
    reach = TOLERANCE * sought.width_px
    for _ in range(ROUNDS):
        near = lies_on(strokes.points, strokes.ways, form, reach) & free
        if near.sum() < CHUNK:
            return None
        middle, way = line_through(strokes.points[near], np.array([form.dx, form.dy]))
        form = StraightLine(*middle.tolist(), *way.tolist())
    rows = np.flatnonzero(lies_on(strokes.points, strokes.ways, form, reach) & free)
    first, last, seen = _longest(_along(strokes, rows, form), form, sought)
    form = replace(form, first=first, last=last)
    if seen <= sought.least_length_px or _runs_on(strokes, free, rows, form):
        return None
    return form


def _along(strokes: Strokes, rows: I64, form: StraightLine) -> F64:
    return np.asarray((strokes.points[rows] - (form.x, form.y)) @ (form.dx, form.dy))


def _runs_on(strokes: Strokes, free: NDArray[np.bool_], rows: I64, form: StraightLine) -> bool:
    """Whether a stroke on a line runs on beyond an end of it, away from it: then it is a part of a curve."""
    at = _along(strokes, rows, form)
    for end, outwards in ((form.first, -1.0), (form.last, 1.0)):
        row = rows[np.abs(at - end).argmin()]
        around = np.arange(max(row - RUN_ON, 0), min(row + RUN_ON + 1, len(strokes)))
        around = around[(strokes.stroke[around] == strokes.stroke[row]) & free[around]]
        if ((_along(strokes, around, form) - end) * outwards > 1.0).sum() >= RUN_ON // 2:
            return True
    return False


def _longest(at: F64, form: StraightLine, sought: Sought) -> tuple[float, float, float]:
    """From where to where along a line it is seen over most of what nothing hides, by places seen, and how much that is
    in all.

    The stretch with the greatest sum (Bentley 1984, "Programming pearls: algorithm design techniques").
    """
    low = math.floor(float(at.min()) / BIN_PX)
    bins = np.floor(at / BIN_PX).astype(np.int64) - low
    seen = np.bincount(bins) > 0
    middles = (np.arange(len(seen)) + low + 0.5) * BIN_PX
    hidden = sought.hides(np.array([form.x, form.y]) + middles[:, None] * (form.dx, form.dy))
    gains = np.where(seen, 1.0, np.where(hidden, 0.0, -LEAST_SEEN / (1.0 - LEAST_SEEN)))
    sums = np.concatenate([[0.0], np.cumsum(gains)])
    lowest = np.minimum.accumulate(sums)
    last = int((sums - lowest).argmax())
    first = int(np.flatnonzero(sums[: last + 1] == lowest[last])[-1])
    inside = at[(bins >= first) & (bins < last)]
    return float(inside.min()), float(inside.max()), float(seen[first:last].sum()) * BIN_PX


def _through(strokes: Strokes, chunks: I64) -> Iterator[StraightLine]:
    """Lines through chunks alone, and from each to those that lie ahead of it."""
    points, ways = strokes.points[chunks], strokes.ways[chunks]
    for (x, y), way in zip(points.tolist(), ways.tolist(), strict=True):
        yield StraightLine(x, y, math.cos(way), math.sin(way))
        between = points - (x, y)
        size = np.hypot(*between.T)
        ahead = np.abs(between @ (math.cos(way), math.sin(way))) > ALIKE_COS * size
        far = np.flatnonzero(ahead & (size > 3 * CHUNK))
        if len(far):
            farthest = between[far[size[far].argmax()]]
            dx, dy = (farthest / np.hypot(*farthest)).tolist()
            yield StraightLine(x, y, dx, dy)


def _round(strokes: Strokes, free: NDArray[np.bool_], chunks: I64, sought: Sought) -> Ellipse | None:
    """The circle most pairs of chunks agree on, if free points go far enough round it."""
    points, ways = strokes.points[chunks], strokes.ways[chunks]
    one, other = np.triu_indices(len(chunks), 1)
    between = points[other] - points[one]
    normal = np.column_stack([-np.sin(ways), np.cos(ways)])
    along = (between * normal[one]).sum(axis=1)
    with np.errstate(divide="ignore", invalid="ignore"):
        radius = (between**2).sum(axis=1) / (2.0 * along)
    fits = np.isfinite(radius) & (np.abs(radius) > LEAST_RADIUS) & (np.abs(radius) < MOST_RADIUS * sought.diagonal_px)
    one, other, radius = one[fits], other[fits], radius[fits]
    centres = points[one] + radius[:, None] * normal[one]
    back = centres - points[other]
    square = np.abs((back * normal[other]).sum(axis=1)) > ALIKE_COS * np.hypot(*back.T)
    votes = np.column_stack([centres[square], np.abs(radius[square])])
    if len(votes) < 6:
        return None
    cells, counts = np.unique(np.round(votes / VOTE_PX).astype(np.int64), axis=0, return_counts=True)
    best: tuple[float, Ellipse] | None = None
    for nth in np.argsort(-counts, kind="stable")[:12].tolist():
        form = _fitted(strokes, free, _circle(*(cells[nth] * VOTE_PX).tolist()), sought.width_px)
        if form is None:
            continue
        near = lies_on(strokes.points, strokes.ways, form, TOLERANCE * sought.width_px) & free
        off = strokes.points[near] - (form.x, form.y)
        seen = len(np.unique(np.floor(np.degrees(np.arctan2(off[:, 1], off[:, 0])) / BIN_DEG))) * BIN_DEG
        if seen > LEAST_ROUND_DEG and form.rx * math.radians(seen) > sought.least_length_px:
            best = (seen, form) if best is None or seen > best[0] else best
    return best[1] if best is not None else None


def _circle(x: float, y: float, radius: float) -> Ellipse:
    return Ellipse(x, y, radius, radius, 0.0)


def _fitted(strokes: Strokes, free: NDArray[np.bool_], form: Ellipse, width: float) -> Ellipse | None:
    """A circle fitted to the free points near it (Kåsa 1976, "A circle fitting procedure and its error analysis")."""
    for reach in (VOTE_PX, 2.0 * width, TOLERANCE * width, TOLERANCE * width):
        near = lies_on(strokes.points, strokes.ways, form, reach) & free
        if near.sum() < CHUNK:
            return None
        points = strokes.points[near]
        system = np.column_stack([2.0 * points, np.ones(len(points))])
        (x, y, rest), *_ = np.linalg.lstsq(system, (points**2).sum(axis=1), rcond=None)
        square = rest + x * x + y * y
        if square <= 0.0:
            return None
        form = _circle(float(x), float(y), math.sqrt(square))
    return form
