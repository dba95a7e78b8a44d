"""Base line: the line letters stand on, pulled on the canvas; and the area lettering is looked for in."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPen

from sobercrow.core.arrays import F64
from sobercrow.core.lettering.baseline import drawn_through
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.steps import Step
from sobercrow.desktop.theme import palette
from sobercrow.desktop.tool import Board, Drag, Pointer, Tool
from sobercrow.desktop.tools.frame import FramePulling

NEAR_PX, GRIP_PX = 14.0, 5.0
LINE_PX, PLACES, END = 4.0, 257, 0.3
"""Pulled anywhere on it, so near on screen among so many places, the line goes by its end, or by its middle."""
LEAST_PX = 6.0
"""An area is at least so large on screen each way."""


class PullBaseline(Tool):
    """Pulls the base line of a match anywhere: its ends move it, its middle bends it; with Shift the whole is moved."""

    id, title = "baseline", "Pull the base line"
    step = Step.REFINE
    help = "Pull an end of the base line, or its middle to bend it; with Shift the whole line."
    pulled = Signal(object)

    def __init__(self) -> None:
        """Start without a base line."""
        super().__init__()
        self.places: F64 | None = None
        self._pulled = False
        self._line: list[list[float]] = []

    def show(self, places: F64 | None) -> None:
        """Take the places (3, 2) by which the line is pulled; None if there is none."""
        self.places = places
        self._line = drawn_through(places, PLACES).tolist() if places is not None else []

    def grabs(self, board: Board, at: QPointF, in_hand: Tool | None) -> bool:
        """Tell whether a grip is there, while shapes can be chosen."""
        return in_hand is not None and in_hand.step is Step.REFINE and self._grip(board, at) is not None

    def _grip(self, board: Board, at: QPointF) -> int | None:
        """Which grip is there, or stands for the part of the line that is; None if neither is."""
        scene = board.scene()
        if scene is None or self.places is None:
            return None
        away = [_away(scene.on_screen(*place), at) for place in self.places.tolist()]
        grip = int(np.argmin(away))
        if away[grip] <= NEAR_PX:
            return grip
        line = [_away(scene.on_screen(*place), at) for place in self._line]
        nearest = int(np.argmin(line))
        share = nearest / (len(line) - 1)
        ends = 0 if share < END else 2 if share > 1.0 - END else 1
        return ends if line[nearest] <= LINE_PX else None

    def press(self, board: Board, start: Pointer) -> Drag:
        """Move what was got hold of; tell where the line is when it is let go."""
        grip, home = self._grip(board, start.at), self.places
        if grip is None or home is None:
            return
        pointer, self._pulled = start, True
        while not pointer.released:
            pointer = yield
            by = np.array([pointer.x - start.x, pointer.y - start.y])
            moved = home.copy()
            moved[slice(None) if pointer.shift else grip] += by
            if grip != 1 and not pointer.shift:  # the middle stays in the middle, as far off as it was
                moved[1] += 0.5 * by
            self.places = moved
            board.update()
        self.let_go()
        self.pulled.emit(self.places)

    def let_go(self) -> None:
        """It is not pulled any longer."""
        self._pulled = False

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        """Paint the grips, and the line as it would be while one is pulled."""
        if self.places is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        corners = [scene.on_screen(*place) for place in self.places.tolist()]
        if self._pulled:
            line = [scene.on_screen(*place) for place in drawn_through(self.places).tolist()]
            for colour, width in ((palette().page, 3.0), (palette().mark, 1.4)):
                painter.setPen(QPen(QColor(colour), width, Qt.PenStyle.DashLine))
                painter.drawPolyline(line)
        painter.setPen(QPen(QColor(palette().mark), 1.6))
        painter.setBrush(QColor(palette().page))
        for k, corner in enumerate(corners):
            if k == 1:
                painter.drawEllipse(corner, GRIP_PX, GRIP_PX)
            else:
                painter.drawRect(QRectF(corner.x() - GRIP_PX, corner.y() - GRIP_PX, 2 * GRIP_PX, 2 * GRIP_PX))
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def cursor(self, board: Board, at: QPointF) -> Qt.CursorShape | None:
        """Return a hand over a grip."""
        return Qt.CursorShape.SizeAllCursor if self._grip(board, at) is not None else None


def _away(one: QPointF, other: QPointF) -> float:
    return float(np.hypot(one.x() - other.x(), one.y() - other.y()))


class FrameLettering(FramePulling):
    """Frames an area of the picture in which lettering is looked for."""

    id, title = "lettering-area", "Frame lettering"
    step, works_on_artwork, listed = Step.REFINE, True, False
    help = "Pull a frame around a line of lettering in the picture."
    framed = Signal(object)

    def press(self, board: Board, start: Pointer) -> Drag:
        """Pull a frame, and tell of it in picture pixels: left, top, right, bottom."""
        frame = yield from self.pull(board, start)
        board.update()
        if frame is None or min(frame[2] - frame[0], frame[3] - frame[1]) * board.camera.zoom < LEAST_PX:
            board.refuse("Pull a frame around the lettering.")
            return
        self.framed.emit(frame)

    def cursor(self, board: Board, at: QPointF) -> Qt.CursorShape | None:
        """Return a cross."""
        return Qt.CursorShape.CrossCursor
