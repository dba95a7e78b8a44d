"""Pulling a frame."""

from __future__ import annotations

from collections.abc import Generator

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter

from sobercrow.core.artwork.hit import Frame
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.tool import Board, Pointer, Tool, is_far
from sobercrow.desktop.tools.marks import paint_frame


class FramePulling(Tool):
    """A tool that pulls frames, and shows the one being pulled."""

    def __init__(self) -> None:
        """Start with no frame."""
        super().__init__()
        self.frame: QRectF | None = None

    def pull(self, board: Board, start: Pointer) -> Generator[None, Pointer, Frame | None]:
        """Pull a frame; returns it in picture pixels, or None after a mere click."""
        pointer = start
        while not pointer.released:
            pointer = yield
            self.frame = QRectF(start.at, pointer.at).normalized() if is_far(start.at, pointer.at) else None
            board.update()
        self.frame = None
        if not is_far(start.at, pointer.at):
            return None
        return min(start.x, pointer.x), min(start.y, pointer.y), max(start.x, pointer.x), max(start.y, pointer.y)

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        """Paint the frame."""
        if self.frame is not None:
            paint_frame(painter, self.frame)

    def let_go(self) -> None:
        """Put the frame away."""
        self.frame = None
