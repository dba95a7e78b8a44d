"""Lines through many strokes: ridges of an orientation score, in which lines that cross lie apart.

Each stroke point is spread along its direction and across it by about as much as the hand strays, in a layer for its
direction; several strokes of one line make one ridge (Franken & Duits 2009, "Crossing-preserving coherence-enhancing
diffusion on invertible orientation scores"). Ridges are followed in place and direction together.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import cv2
import numpy as np

from sobercrow.core.arrays import F32, F64, U8
from sobercrow.core.parallel import on_cores
from sobercrow.core.sketch._follow_kernels import follow, is_ridge, mark
from sobercrow.core.stopping import go_on
from sobercrow.core.strokes.strokes import Strokes

LAYERS = 16
CELLS = 1.6
"""A spread is so many cells of the score."""
LEAST_CELL_PX, MOST_CELLS = 0.75, 1_200_000
"""But no smaller than so many pixels, and no more in a layer."""
CUT = 0.02
REACH = 2.5
"""Bells are cut off at so many times their width."""
USED_TURN = 2
"""A line that was followed takes up directions so many layers to both sides."""
LONGEST = 60_000


@dataclass(frozen=True, slots=True)
class Lens:
    """How a score is made and read: lengths in spreads, strengths in strokes of full weight.

    `across` and `along` are the bells each point is spread by, `sharp` how narrowly its direction counts. A line begins
    where the score is `seed`, goes on while it is `least`, and is at least so `long`.
    """

    across: float = 0.8
    along: float = 2.5
    sharp: int = 16
    seed: float = 0.55
    least: float = 0.3
    long: float = 4.0


SHARP = Lens(across=0.7, along=1.0, sharp=8, seed=0.5, least=0.25, long=2.5)
"""Sees short and bent lines that were missed."""


@dataclass(frozen=True, slots=True, eq=False)
class Traced:
    """A line through strokes: points (n, 2) in px of the picture, and whether it is closed."""

    points: F64
    closed: bool


def lines_through(strokes: Strokes, weights: F64, spread: float, lens: Lens = Lens()) -> list[Traced]:
    """Return the lines strokes run along that stray from them by about a spread, px; the strongest first."""
    if not len(strokes):
        return []
    margin = 4.0 * lens.along * spread
    origin, whole = strokes.points.min(axis=0) - margin, np.ptp(strokes.points, axis=0) + 2.0 * margin
    cell = max(spread / CELLS, LEAST_CELL_PX, math.sqrt(float(whole.prod()) / MOST_CELLS))
    size = np.ceil(whole / cell).astype(int) + 2
    volume = _score(strokes, weights, origin, size, cell, spread, lens)
    strongest, layer = _strongest(volume)
    rows, columns = np.nonzero(strongest > lens.seed)
    order = np.argsort(-strongest[rows, columns], kind="stable")
    used: U8 = np.zeros(volume.shape, dtype=np.uint8)
    line = np.empty((LONGEST, 3))
    cells = spread / cell
    made: list[Traced] = []
    for row, column in zip(rows[order].tolist(), columns[order].tolist(), strict=True):
        go_on()
        k = int(layer[row, column])
        way = math.pi * k / LAYERS
        if used[k, row, column] or not is_ridge(volume, column, row, way, cells):
            continue
        walk = _walked(volume, used, (float(column), float(row), way), cells, lens.least, line)
        mark(used, np.ascontiguousarray(walk[0]), cells, USED_TURN)
        if len(walk[0]) >= lens.long * cells:
            made.append(Traced(walk[0][:, :2] * cell + origin, walk[1]))
    return made


def _strongest(volume: F32) -> tuple[F32, U8]:
    """The greatest of all layers at each place, and which layer that is."""
    best, layer = volume[0].copy(), np.zeros(volume.shape[1:], dtype=np.uint8)
    for k in range(1, len(volume)):
        more = cv2.compare(volume[k], best, cv2.CMP_GT)
        layer = np.where(more > 0, np.uint8(k), layer)
        best = np.maximum(best, volume[k])
    return best, layer


def _walked(
    volume: F32, used: U8, start: tuple[float, float, float], cells: float, least: float, line: F64
) -> tuple[F64, bool]:
    """The steps of a line through a place, (n, 3), both ways, and whether it is closed."""
    x, y, way = start
    here = np.array([start])
    ahead, closed = follow(volume, used, x, y, way, cells, least, line, 0)
    steps = line[:ahead].copy()
    if closed:
        return np.concatenate([here, steps]), True
    behind, _ = follow(volume, used, x, y, way + math.pi, cells, least, line, 0)
    return np.concatenate([line[:behind][::-1], here, steps]), False


def _score(
    strokes: Strokes, weights: F64, origin: F64, size: np.ndarray, cell: float, spread: float, lens: Lens
) -> F32:
    """The score (layers, h, w): one straight stroke of weight 1 makes 1 along its middle."""
    width, height = (int(v) for v in size)
    place = (strokes.points - origin) / cell
    low = np.floor(place).astype(np.int64)
    part = place - low
    at = low[:, 1] * width + low[:, 0]
    reach = math.ceil(REACH * lens.along * spread / cell)
    y, x = np.mgrid[-reach : reach + 1, -reach : reach + 1] * cell
    volume = np.empty((LAYERS, height, width), dtype=np.float32)

    def layer(k: int) -> None:
        way = math.pi * k / LAYERS
        share = np.abs(np.cos(strokes.ways - way)) ** lens.sharp
        near = np.flatnonzero(share > CUT)
        laid = np.zeros(width * height)
        own = weights[near] * share[near]
        for down in (0, 1):
            for right in (0, 1):
                fx, fy = part[near].T
                given = own * (fx if right else 1.0 - fx) * (fy if down else 1.0 - fy)
                laid += np.bincount(at[near] + down * width + right, given, width * height)
        u, v = x * math.cos(way) + y * math.sin(way), y * math.cos(way) - x * math.sin(way)
        bell = np.exp(-0.5 * (u / (lens.along * spread)) ** 2 - 0.5 * (v / (lens.across * spread)) ** 2)
        bell /= math.sqrt(2.0 * math.pi) * lens.along * spread
        picture = laid.reshape(height, width).astype(np.float32)
        volume[k] = cv2.filter2D(picture, -1, bell.astype(np.float32), borderType=cv2.BORDER_CONSTANT)

    on_cores(range(LAYERS), layer)
    return volume
