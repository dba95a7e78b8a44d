"""Cut: parting a contour where it is clicked."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt

from sobercrow.core.artwork import cutting, hit
from sobercrow.desktop.steps import Step
from sobercrow.desktop.tool import Board, Drag, Pointer, Tool, waited

REACH_PX = 10.0


class Cut(Tool):
    """Parts the contour under the pointer, at an anchor or anywhere on its line."""

    id, title, key, icon = "cut", "Cut", "X", "cut"
    step = Step.REFINE
    help = "Click on a line to part it there."

    def press(self, board: Board, start: Pointer) -> Drag:
        """Cut where the click ends."""
        end = yield from waited(start)
        artwork = board.artwork
        if artwork is None:
            return
        anchor = hit.anchor_at(artwork, end.x, end.y, board.reach_px())
        if anchor is not None:
            board.edit("Cut", cutting.cut_at, anchor)
            return
        place = hit.curve_at(artwork, end.x, end.y, REACH_PX / board.camera.zoom)
        if place is None:
            board.refuse("There is no line here to cut. Click on a line or an anchor.")
            return
        board.edit("Cut", cutting.cut, place.shape, place.contour, place.curve, place.t)

    def cursor(self, board: Board, at: QPointF) -> Qt.CursorShape | None:
        """Return a cross."""
        return Qt.CursorShape.CrossCursor
