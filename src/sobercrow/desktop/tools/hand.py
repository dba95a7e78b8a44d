"""Moving the view."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt

from sobercrow.desktop.steps import Step
from sobercrow.desktop.tool import Board, Drag, Pointer, Tool, panned


class Hand(Tool):
    """Moves the view with the pointer."""

    id, title, key, icon = "hand", "Hand", "H", "hand"
    step, menu = Step.CLEAN_UP, "Picture"
    help = "Move the view; drag the edges to crop."

    def __init__(self) -> None:
        """Start with nothing held."""
        super().__init__()
        self._held = False

    def press(self, board: Board, start: Pointer) -> Drag:
        """Have the view follow the pointer."""
        self._held = True
        yield from panned(board, start)
        self._held = False

    def let_go(self) -> None:
        """Let go of the view."""
        self._held = False

    def cursor(self, board: Board, at: QPointF) -> Qt.CursorShape | None:
        """Return a closed hand while the view is held."""
        return Qt.CursorShape.ClosedHandCursor if self._held else None
