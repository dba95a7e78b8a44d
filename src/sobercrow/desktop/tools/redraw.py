"""Redraw: a stretch drawn anew by hand."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPainter

from sobercrow.core.artwork import hit
from sobercrow.core.artwork.drawing import redraw
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.steps import Step
from sobercrow.desktop.theme import palette
from sobercrow.desktop.tool import Board, Drag, Pointer, Tool
from sobercrow.desktop.tools.marks import paint_line
from sobercrow.desktop.tools.sketching import straight

REACH_PX = 14.0


class Redraw(Tool):
    """Draws a stretch anew, from an edge back to it; Shift draws straight."""

    id, title, icon, shares = "redraw", "Redraw", "redraw", "ring"
    step, works_on_artwork = Step.REFINE, True
    help = "Draw from an edge back to it: that stretch is drawn anew. In this step R is enough."

    def __init__(self) -> None:
        """Start with nothing drawn."""
        super().__init__()
        self._path: list[tuple[float, float]] = []

    def press(self, board: Board, start: Pointer) -> Drag:
        """Draw from the edge under the pointer."""
        artwork = board.artwork
        if artwork is None:
            return
        place = hit.curve_at(artwork, start.x, start.y, REACH_PX / board.camera.zoom)
        if place is None:
            board.refuse("Begin on the edge that is to be drawn anew.")
            return
        self._path = [(start.x, start.y)]
        pointer = start
        while not pointer.released:
            pointer = yield
            here = straight(self._path[0], pointer) if pointer.shift else (pointer.x, pointer.y)
            self._path = [self._path[0], here] if pointer.shift else [*self._path, here]
            board.update()
        path = np.array(self._path)
        self.let_go()
        contour = artwork.shapes[place.shape].contours[place.contour]
        end = hit.nearest_on(contour, *path[-1].tolist())
        if end > REACH_PX / board.camera.zoom:
            board.refuse("End on the same edge again: the line drawn takes the place of what lies between.")
            return
        board.edit("Redraw", redraw, place.shape, place.contour, path, board.camera.zoom)

    def let_go(self) -> None:
        """Forget what was being drawn."""
        self._path = []

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        """Paint what is being drawn."""
        if len(self._path) > 1:
            paint_line(painter, scene, np.array(self._path), 2.0, palette().mark)

    def cursor(self, board: Board, at: QPointF) -> Qt.CursorShape | None:
        """Return a cross."""
        return Qt.CursorShape.CrossCursor
