"""The ribbon of deviation along the drawn borders, in parts by how far the artwork is away."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen

from sobercrow.core.inspect.deviation import Deviation
from sobercrow.desktop import tokens

FINEST = 3
"""The finest ribbon has a place at every third border point: broad strokes of many short pieces take long to paint."""
LEVELS, ENOUGH = 4, 10_000
"""Of borders with few points there is no need of coarser ones."""
MOST_TOGETHER = 60
APART_PX = 5.0
"""Places may lie so far apart on screen."""


class Ribbon:
    """Borders in parts, those nearest to the artwork first; every level has half the places of the one before."""

    def __init__(self, away: Deviation) -> None:
        """Make all levels of a deviation. Runs in the worker."""
        self._levels = [_parts(away, FINEST * 2**k) for k in range(LEVELS) if not k or len(away.points) > ENOUGH * 2**k]
        # borders have about a point per pixel, larger pictures of drafts fewer
        steps = np.hypot(*np.diff(away.points[:2000], axis=0).T) if len(away.points) > 1 else np.ones(1)
        self._spacing = FINEST * max(float(np.median(steps)), 1e-3)

    def paint(self, painter: QPainter, zoom: float) -> None:
        """Paint it in picture pixels, at so many screen pixels per picture pixel."""
        level = int(np.clip(np.log2(APART_PX / (self._spacing * zoom)), 0, len(self._levels) - 1))
        for pieces, (_, colour), width in zip(
            self._levels[level], tokens.DEVIATION_STEPS, tokens.RIBBON_PX, strict=True
        ):
            pen = QPen(QColor(colour), width, c=Qt.PenCapStyle.FlatCap)
            pen.setCosmetic(True)
            for path in pieces:
                painter.strokePath(path, pen)


def _parts(away: Deviation, stride: int) -> tuple[list[QPainterPath], ...]:
    """Paths for each of `DEVIATION_STEPS`, with a place at every so many border points."""
    paths: tuple[list[QPainterPath], ...] = tuple([] for _ in tokens.DEVIATION_STEPS)
    steps = np.array([least for least, _ in tokens.DEVIATION_STEPS])
    for first, last in pairwise(away.starts):
        if last - first < 2:
            continue
        places = np.arange(0, last - first, stride)
        # of the points in each piece the furthest decides, so that none is hidden by being between two places
        kinds = np.searchsorted(steps, np.maximum.reduceat(away.away[first:last], places), side="right") - 1
        ends = np.append(np.flatnonzero(np.diff(kinds)) + 1, len(kinds))
        points = [QPointF(x, y) for x, y in away.points[first + np.append(places, 0)].tolist()]
        begin = 0
        for end in ends.tolist():
            path = _open_path(paths[kinds[begin]])
            path.moveTo(points[begin])
            for point in points[begin + 1 : end + 1]:
                path.lineTo(point)
            begin = end
    return paths


def _open_path(paths: list[QPainterPath]) -> QPainterPath:
    """The path to go on with: a painter takes long over one that crosses many of its own scan lines."""
    if not paths or paths[-1].elementCount() >= MOST_TOGETHER:
        paths.append(QPainterPath())
    return paths[-1]
