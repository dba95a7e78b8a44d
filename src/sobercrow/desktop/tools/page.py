"""Laying the artwork on its page by hand."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt, Signal

from sobercrow.desktop.steps import Step
from sobercrow.desktop.tool import Board, Drag, Pointer, Tool


class LayOnPage(Tool):
    """Drags the page beneath the artwork; where the page goes by the artwork, moves the view."""

    id, title, step, menu, icon = "lay", "Lay on page", Step.HAND_OVER, "Artwork", ""
    listed = False
    help = "Drag the page to where the artwork is to lie on it."
    pulled = Signal(float, float, bool)
    """How far the page was dragged, in pixels of the picture, and whether it was let go."""

    def __init__(self) -> None:
        """Start with a page that goes by the artwork."""
        super().__init__()
        self.can_lay = False
        self._held = False

    def press(self, board: Board, start: Pointer) -> Drag:
        """Have the page, or the view, follow the pointer."""
        pointer, last, self._held = start, start.at, True
        while not pointer.released:
            pointer = yield
            if self.can_lay:
                self.pulled.emit(pointer.x - start.x, pointer.y - start.y, pointer.released)
            else:
                board.look(board.camera.panned(pointer.at.x() - last.x(), pointer.at.y() - last.y()))
                last = pointer.at
        self._held = False

    def let_go(self) -> None:
        """Leave the page where it was."""
        if self._held and self.can_lay:
            self.pulled.emit(0.0, 0.0, True)
        self._held = False

    def cursor(self, board: Board, at: QPointF) -> Qt.CursorShape | None:
        """Return a hand, closed while something is held."""
        if self._held:
            return Qt.CursorShape.ClosedHandCursor
        return Qt.CursorShape.SizeAllCursor if self.can_lay else None
