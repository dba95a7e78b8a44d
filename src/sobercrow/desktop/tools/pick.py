"""Picking one place by a click."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt, Signal

from sobercrow.desktop.steps import Step
from sobercrow.desktop.tool import Board, Drag, Pointer, Tool, waited


class Pick(Tool):
    """Picks a place of the picture; tells where."""

    id, title, step, listed = "pick", "Pick", Step.CLEAN_UP, False
    help = "Click a place of the picture."
    picked = Signal(float, float)

    def press(self, board: Board, start: Pointer) -> Drag:
        """Wait for the click to end."""
        end = yield from waited(start)
        self.picked.emit(end.x, end.y)

    def cursor(self, board: Board, at: QPointF) -> Qt.CursorShape | None:
        """Return a cross."""
        return Qt.CursorShape.CrossCursor


class Sample(Pick):
    """Picks a colour for a new ink."""

    id, title, step, menu, listed = "sample", "Sample an ink", Step.INKS, "Inks", True
    help = "Click on the canvas to add the colour there."
