"""Pulling the seam in from either edge of the canvas, and away again."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt

from sobercrow.desktop import tokens
from sobercrow.desktop.steps import Step
from sobercrow.desktop.tool import Board, Drag, Pointer, Tool

AWAY = 0.02
"""Let go so near to an edge, as a share of the width, the seam is put away."""


class SeamGrip(Tool):
    """Takes hold of the seam, or of the edges of the canvas where there is none yet."""

    id, title, step, help, listed = "seam-grip", "Seam", Step.TRACE, "Pull the seam.", False

    def grabs(self, board: Board, at: QPointF, in_hand: Tool | None) -> bool:
        """Tell whether the seam is there, or an edge it can be pulled from."""
        scene = board.scene()
        if scene is None:
            return False
        if board.seam is None:
            return min(at.x(), scene.width - at.x()) < tokens.SEAM_GRIP_PX
        return abs(at.x() - board.seam * scene.width) < tokens.SEAM_GRIP_PX / 2

    def press(self, board: Board, start: Pointer) -> Drag:
        """Have the seam follow the pointer; let go at either edge it is put away."""
        scene, pointer = board.scene(), start
        share = board.seam
        while not pointer.released and scene is not None:
            pointer = yield
            share = min(max(pointer.at.x() / max(scene.width, 1.0), 0.0), 1.0)
            board.set_seam(share)
        if share is not None and not AWAY < share < 1.0 - AWAY:
            board.set_seam(None)

    def cursor(self, board: Board, at: QPointF) -> Qt.CursorShape | None:
        """Return the cursor for pulling sideways."""
        return Qt.CursorShape.SplitHCursor
