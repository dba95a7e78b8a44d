"""Pulling a frame, or drawing a ring."""

from __future__ import annotations

from collections.abc import Generator

import numpy as np
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QPainter, QPolygonF

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.hit import Frame
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.tool import Board, Pointer, Tool, is_far
from sobercrow.desktop.tools.marks import paint_frame, paint_lasso


class FramePulling(Tool):
    """A tool that pulls frames and draws rings, and shows the one being drawn."""

    def __init__(self) -> None:
        """Start with no frame."""
        super().__init__()
        self.frame: QRectF | None = None
        self.lasso: QPolygonF | None = None

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

    def ring(self, board: Board, start: Pointer) -> Generator[None, Pointer, F64 | None]:
        """Draw a ring; returns its points (n, 2) in picture pixels, or None after a mere click."""
        pointer, path = start, [(start.x, start.y)]
        on_screen = [start.at]
        while not pointer.released:
            pointer = yield
            path.append((pointer.x, pointer.y))
            on_screen.append(pointer.at)
            self.lasso = QPolygonF(on_screen)
            board.update()
        self.lasso = None
        return np.array(path) if (len(path) > 2 and is_far(start.at, pointer.at)) or len(path) > 8 else None

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        """Paint the frame."""
        if self.frame is not None:
            paint_frame(painter, self.frame)
        if self.lasso is not None:
            paint_lasso(painter, self.lasso)

    def let_go(self) -> None:
        """Put frame and lasso away."""
        self.frame = self.lasso = None
