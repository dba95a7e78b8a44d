"""Working lines of a sketch: faint, long, exactly straight or round, drawn to construct by."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F64, I64
from sobercrow.core.geometry.polygon import line_through
from sobercrow.core.sketch.strokes import Strokes, tree_of, usual_darkness
from sobercrow.core.stopping import go_on

FAINT = 0.55
"""A working line is no darker than this share of the drawing's lines."""
FAINT_NEAR = 1.3
"""Places on one may be so many times as dark: it crosses others."""
CHUNK = 24
"""Directions are read over so many points, about a px apart."""
TOLERANCE, BESIDE = 0.8, 1.4
"""It runs within so many stroke widths of exactly straight or round; what lies within the latter belongs to it."""
MOST_CHUNKS = 500
"""No more propose lines; working lines are long, so that those left out are not missed."""
ALIKE_COS = math.cos(math.radians(12.0))
LEAST_LENGTH, LEAST_ROUND_DEG = 0.2, 150.0
"""It is so long, as a share of the sheet's diagonal, and a circle goes so far round."""
LEAST_SEEN = 0.45
"""And seen over so much of that."""
BIN_PX, BIN_DEG = 4.0, 3.0
MOST = 24
LEAST_RADIUS, MOST_RADIUS = 12.0, 0.6
"""Circles have a radius of so many px at least, and of so much of the diagonal at most."""
VOTE_PX = 8.0
ROUNDS = 3


@dataclass(frozen=True, slots=True)
class StraightLine:
    """A place on a straight working line, its direction, a unit vector, and how far from the place it begins and
    ends."""

    x: float
    y: float
    dx: float
    dy: float
    first: float = 0.0
    last: float = 0.0

    def end(self, along: float) -> tuple[float, float]:
        """Return a place so far along."""
        return self.x + along * self.dx, self.y + along * self.dy


@dataclass(frozen=True, slots=True)
class Round:
    """A circle drawn to work by."""

    x: float
    y: float
    radius: float


@dataclass(frozen=True, slots=True, eq=False)
class Freehand:
    """A working line as it was drawn, neither straight nor round: points (n, 2)."""

    points: F64


def is_on(strokes: Strokes, form: StraightLine | Round | Freehand, width_px: float) -> NDArray[np.bool_]:
    """Tell of each stroke point whether it lies on a working line; strokes are about so wide."""
    if isinstance(form, Freehand):
        away, _ = tree_of(form.points).query(strokes.points, distance_upper_bound=BESIDE * width_px)
        return np.asarray(np.isfinite(away))
    on = (_away(strokes, form) < BESIDE * width_px) & _runs_along(strokes, form)
    if isinstance(form, StraightLine):
        at = (strokes.points - (form.x, form.y)) @ (form.dx, form.dy)
        on &= (at > form.first - BESIDE * width_px) & (at < form.last + BESIDE * width_px)
    return np.asarray(on)


def find_working_lines(
    strokes: Strokes, diagonal_px: float, width_px: float
) -> tuple[NDArray[np.bool_], list[StraightLine | Round]]:
    """Return which stroke points (n,) lie on working lines, and these.

    Chunks of faint strokes propose lines, and pairs of them circles (Hough transform: Duda & Hart 1972, "Use of the
    Hough transformation to detect lines and curves in pictures"); each is fitted to the faint points near it.
    """
    usual = usual_darkness(strokes)
    free = strokes.dark < FAINT * usual
    allowed = strokes.dark < FAINT * FAINT_NEAR * usual
    marked = np.zeros(len(strokes), dtype=np.bool_)
    found: list[StraightLine | Round] = []
    for search in (_straight, _round):
        for _ in range(MOST):
            chunks = _chunks(strokes, free)
            if len(chunks) < 2:
                break
            best = search(strokes, free, chunks, diagonal_px, width_px)
            if best is None:
                break
            near = _away(strokes, best) < BESIDE * width_px
            marked |= near & allowed & _runs_along(strokes, best)
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


def _away(strokes: Strokes, form: StraightLine | Round) -> F64:
    x, y = strokes.points.T
    if isinstance(form, Round):
        return np.asarray(np.abs(np.hypot(x - form.x, y - form.y) - form.radius))
    return np.asarray(np.abs((y - form.y) * form.dx - (x - form.x) * form.dy))


def _runs_along(strokes: Strokes, form: StraightLine | Round) -> NDArray[np.bool_]:
    """Which points' directions are the form's there."""
    c, s = np.cos(strokes.ways), np.sin(strokes.ways)
    if isinstance(form, StraightLine):
        return np.asarray(np.abs(c * form.dx + s * form.dy) > ALIKE_COS)
    off = strokes.points - (form.x, form.y)
    across = (off[:, 0] * c + off[:, 1] * s) / np.maximum(np.hypot(*off.T), 1e-9)
    return np.asarray(np.abs(across) < math.sqrt(1.0 - ALIKE_COS**2))


def _straight(
    strokes: Strokes, free: NDArray[np.bool_], chunks: I64, diagonal: float, width: float
) -> StraightLine | None:
    """The longest straight line among free points, if it is long enough."""
    rows = np.flatnonzero(free)
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
    if best is None:
        return None
    form = best[1]
    for _ in range(ROUNDS):
        near = (_away(strokes, form) < TOLERANCE * width) & _runs_along(strokes, form) & free
        if near.sum() < CHUNK:
            return None
        middle, way = line_through(strokes.points[near], np.array([form.dx, form.dy]))
        form = StraightLine(*middle.tolist(), *way.tolist())
    near = (_away(strokes, form) < TOLERANCE * width) & _runs_along(strokes, form) & free
    at = (strokes.points[near] - (form.x, form.y)) @ (form.dx, form.dy)
    seen = len(np.unique(np.floor(at / BIN_PX))) * BIN_PX
    if seen <= LEAST_LENGTH * diagonal or seen <= LEAST_SEEN * float(np.ptp(at)):
        return None
    return replace(form, first=float(at.min()), last=float(at.max()))


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


def _round(strokes: Strokes, free: NDArray[np.bool_], chunks: I64, diagonal: float, width: float) -> Round | None:
    """The circle most pairs of chunks agree on, if free points go far enough round it."""
    points, ways = strokes.points[chunks], strokes.ways[chunks]
    one, other = np.triu_indices(len(chunks), 1)
    between = points[other] - points[one]
    normal = np.column_stack([-np.sin(ways), np.cos(ways)])
    along = (between * normal[one]).sum(axis=1)
    with np.errstate(divide="ignore", invalid="ignore"):
        radius = (between**2).sum(axis=1) / (2.0 * along)
    fits = np.isfinite(radius) & (np.abs(radius) > LEAST_RADIUS) & (np.abs(radius) < MOST_RADIUS * diagonal)
    one, other, radius = one[fits], other[fits], radius[fits]
    centres = points[one] + radius[:, None] * normal[one]
    back = centres - points[other]
    square = np.abs((back * normal[other]).sum(axis=1)) > ALIKE_COS * np.hypot(*back.T)
    votes = np.column_stack([centres[square], np.abs(radius[square])])
    if len(votes) < 6:
        return None
    cells, counts = np.unique(np.round(votes / VOTE_PX).astype(np.int64), axis=0, return_counts=True)
    best: tuple[float, Round] | None = None
    for nth in np.argsort(-counts, kind="stable")[:12].tolist():
        form = _fitted(strokes, free, Round(*(cells[nth] * VOTE_PX).tolist()), width)
        if form is None:
            continue
        near = (_away(strokes, form) < TOLERANCE * width) & _runs_along(strokes, form) & free
        off = strokes.points[near] - (form.x, form.y)
        seen = len(np.unique(np.floor(np.degrees(np.arctan2(off[:, 1], off[:, 0])) / BIN_DEG))) * BIN_DEG
        if seen > LEAST_ROUND_DEG and form.radius * math.radians(seen) > LEAST_LENGTH * diagonal:
            best = (seen, form) if best is None or seen > best[0] else best
    return best[1] if best is not None else None


def _fitted(strokes: Strokes, free: NDArray[np.bool_], form: Round, width: float) -> Round | None:
    """A circle fitted to the free points near it (Kåsa 1976, "A circle fitting procedure and its error analysis")."""
    for reach in (VOTE_PX, 2.0 * width, TOLERANCE * width, TOLERANCE * width):
        near = (_away(strokes, form) < reach) & _runs_along(strokes, form) & free
        if near.sum() < CHUNK:
            return None
        points = strokes.points[near]
        system = np.column_stack([2.0 * points, np.ones(len(points))])
        (x, y, rest), *_ = np.linalg.lstsq(system, (points**2).sum(axis=1), rcond=None)
        square = rest + x * x + y * y
        if square <= 0.0:
            return None
        form = Round(float(x), float(y), math.sqrt(square))
    return form
