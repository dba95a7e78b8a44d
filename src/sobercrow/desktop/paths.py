"""Paths of shapes, kept: made in the worker where they can be, painted in the window's thread."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainterPath

from sobercrow.core.artwork.model import Shape

TOGETHER = 64
"""So many shapes share one path where all are stroked alike: fewer, longer strokes are quicker."""
MOST_KEPT = 60_000


def shape_path(shape: Shape) -> QPainterPath:
    """Return a shape as a path, even-odd, in picture pixels."""
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.OddEvenFill)
    for contour in shape.contours:
        curves = contour.curves().tolist()
        path.moveTo(QPointF(*curves[0][0]))
        for start, first, second, end in curves:
            if start == first and second == end:
                path.lineTo(*end)
            else:
                path.cubicTo(*first, *second, *end)
        if contour.closed:
            path.closeSubpath()
    return path


class Paths:
    """Paths by the shapes they are of. May be asked from any thread: a path is made whole before it is kept."""

    def __init__(self) -> None:
        """Start with nothing kept."""
        self._kept: dict[int, tuple[Shape, QPainterPath]] = {}
        self._together: dict[tuple[int, ...], tuple[tuple[Shape, ...], QPainterPath]] = {}

    def of(self, shape: Shape) -> QPainterPath:
        """The path of a shape, in picture pixels."""
        kept = self._kept.get(id(shape))
        if kept is None or kept[0] is not shape:
            if len(self._kept) > MOST_KEPT:
                self._kept.clear()
            kept = self._kept[id(shape)] = (shape, shape_path(shape))
        return kept[1]

    def carry(self, before: Shape, after: Shape, dx: float, dy: float) -> None:
        """Let the path of a shape that was only moved be that of the one before, moved."""
        kept = self._kept.get(id(before))
        if kept is not None and kept[0] is before:
            self._kept[id(after)] = (after, kept[1].translated(dx, dy))

    def together(self, shapes: Sequence[Shape]) -> list[QPainterPath]:
        """The paths of shapes that follow each other, many in one."""
        return [self._group(tuple(shapes[k : k + TOGETHER])) for k in range(0, len(shapes), TOGETHER)]

    def _group(self, shapes: tuple[Shape, ...]) -> QPainterPath:
        key = tuple(map(id, shapes))
        kept = self._together.get(key)
        if kept is None or any(a is not b for a, b in zip(kept[0], shapes, strict=True)):
            if len(self._together) > MOST_KEPT // TOGETHER:
                self._together.clear()
            path = QPainterPath()
            for shape in shapes:
                path.addPath(self.of(shape))
            kept = self._together[key] = (shapes, path)
        return kept[1]

    def keep(self, shapes: Sequence[Shape]) -> None:
        """Make all paths of an artwork ready."""
        self.together(shapes)


paths = Paths()
