"""The artwork on the canvas: filled, or in outline."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from PySide6.QtGui import QColor, QPainter, QPen

from sobercrow.desktop import tokens
from sobercrow.desktop.painting import paint_shape
from sobercrow.desktop.paths import paths
from sobercrow.desktop.scene import Scene, carried
from sobercrow.desktop.still import Draw, Still

MOST_SOFT_ANCHORS = 8000
"""Artwork with more anchors is filled without soft edges while the view moves."""


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
            self._draw(painter, scene, live, *look)
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
    ) -> None:
        left, top, right, bottom = scene.visible()
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, soft)
        scene.to_picture(painter)
        pen = QPen(QColor(tokens.LIGHT.accent), 1.0)  # thicker ones take the painter six times as long
        pen.setCosmetic(True)
        shapes, unseen = scene.artwork.shapes, scene.artwork.out_of_sight
        chosen = [shapes[k] for k in which if k not in unseen]
        shade = QColor(colour) if colour is not None else None
        if filled:
            for shape in chosen:
                box = shape.bounds()
                if box[0] <= right and box[1] <= bottom and box[2] >= left and box[3] >= top:
                    paint_shape(painter, shape, paths.of(shape), shade)
        if outlined:
            for path in paths.together(chosen):
                painter.strokePath(path, pen)
        painter.restore()
