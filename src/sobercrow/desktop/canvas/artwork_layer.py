"""The artwork on the canvas: filled, or in outline."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace
from itertools import groupby

from PySide6.QtGui import QColor, QPainter, QPen

from sobercrow.core.artwork.model import Shape
from sobercrow.desktop.painting import paint_shape
from sobercrow.desktop.paths import paths
from sobercrow.desktop.scene import Scene, carried
from sobercrow.desktop.still import Draw, Still
from sobercrow.desktop.theme import palette

MOST_SOFT_ANCHORS = 8000
"""Artwork with more anchors is filled without soft edges while the view moves."""
COVERED = 0.3
"""What is left of an outline beneath what covers it."""


class ArtworkLayer:
    """Shapes, filled or in outline. What stands still is kept as a picture."""

    def __init__(self) -> None:
        """Start with nothing kept."""
        self._below, self._above = Still(), Still()

    def paint(self, painter: QPainter, scene: Scene, filled: bool, outlined: bool, colour: str | None = None) -> None:
        """Paint the shapes in view, all in one colour if it is given."""
        # while much artwork is moving, quick frames are worth more than soft edges
        soft = not (scene.moving and filled and scene.artwork.anchor_count > MOST_SOFT_ANCHORS)
        look = (filled, outlined, colour, soft)

        def draw(which: Iterable[int]) -> Draw:
            return lambda to, seen: self._draw(to, seen, which, *look)

        count, lifted, live = len(scene.artwork.shapes), scene.lifted, scene.live
        if lifted is not None:
            rest = [k for k in range(count) if k not in lifted.shapes]
            self._below.paint(painter, scene, (scene.base, lifted.shapes, *look), draw(rest))
            seen = replace(carried(scene, lifted), moving=True)
            self._above.paint(painter, seen, (scene.base, lifted.shapes, *look), draw(sorted(lifted.shapes)))
            return
        low, high = (live.start, live.stop) if live else (count, count)
        self._below.paint(painter, scene, (scene.base, low, *look), draw(range(low)))
        if live:
            self._draw(painter, scene, live, *look, kept=False)
        if high < count:
            self._above.paint(painter, scene, (scene.base, high, *look), draw(range(high, count)))

    def _draw(
        self,
        painter: QPainter,
        scene: Scene,
        which: Iterable[int],
        filled: bool,
        outlined: bool,
        colour: str | None,
        soft: bool,
        kept: bool = True,
    ) -> None:
        """Paint some shapes, on a picture of their own if it is `kept`: there what lies beneath others can fade."""
        left, top, right, bottom = scene.visible()
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, soft)
        scene.to_picture(painter)
        shapes, unseen = scene.artwork.shapes, scene.artwork.out_of_sight
        chosen = [shapes[k] for k in which if k not in unseen]
        shade = QColor(colour) if colour is not None else None
        in_view: list[Shape] = []
        for shape in chosen if filled or kept else ():
            box = shape.bounds()
            if box[0] <= right and box[1] <= bottom and box[2] >= left and box[3] >= top:
                in_view.append(shape)
        if filled:
            for shape in in_view:
                paint_shape(painter, shape, paths.of(shape), shade)
        if outlined and kept:
            _outline(painter, chosen, frozenset(map(id, in_view)))
        elif outlined:
            _stroke(painter, chosen)
        painter.restore()


def _outline(painter: QPainter, shapes: Sequence[Shape], in_view: frozenset[int]) -> None:
    """Stroke outlines, ink upon ink: they fade where a later one covers them, so that visible edges are seen first."""
    first = True
    for _, run in groupby(shapes, key=lambda shape: shape.colour):
        same = list(run)
        if not first:
            painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_DestinationIn)
            for shape in same:
                if shape.fill is not None and id(shape) in in_view:
                    painter.fillPath(paths.of(shape), QColor.fromRgbF(0.0, 0.0, 0.0, COVERED))
            painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_SourceOver)
        _stroke(painter, same)
        first = False


def _stroke(painter: QPainter, shapes: Sequence[Shape]) -> None:
    pen = QPen(QColor(palette().mark), 1.0)  # thicker ones take the painter six times as long
    pen.setCosmetic(True)
    for path in paths.together(shapes):
        painter.strokePath(path, pen)
