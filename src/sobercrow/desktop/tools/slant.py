"""The four corners of a slanted sheet, dragged on the picture as brought in."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from sobercrow.core.errors import SettingError
from sobercrow.core.settings import Corners, Point
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.steps import Step
from sobercrow.desktop.theme import palette
from sobercrow.desktop.tool import Board, Drag, Pointer, Tool

REACH_PX = 26.0


class SlantCorners(Tool):
    """Shows four corners while they are set; tells of them after every drag."""

    id, title, step, help, listed = "slant-corners", "Corners", Step.CLEAN_UP, "Drag the corners of the sheet.", False
    cornered = Signal(object)

    def __init__(self) -> None:
        """Start unseen."""
        super().__init__()
        self.corners: list[Point] | None = None

    @property
    def magnifies(self) -> bool:
        """Whether corners are being set."""
        return self.corners is not None

    def grabs(self, board: Board, at: QPointF, in_hand: Tool | None) -> bool:
        """Everything, while corners are being set."""
        return self.corners is not None

    def press(self, board: Board, start: Pointer) -> Drag:
        """Drag the nearest corner."""
        corners, scene = self.corners, board.scene()
        if corners is None or scene is None:
            return
        reach = [QLineF(scene.on_screen(*c), start.at).length() for c in corners]
        nearest = min(range(4), key=lambda k: reach[k])
        if reach[nearest] > REACH_PX:
            return
        off = corners[nearest][0] - start.x, corners[nearest][1] - start.y
        before = list(corners)
        pointer = start
        while not pointer.released:
            pointer = yield
            corners[nearest] = (pointer.x + off[0], pointer.y + off[1])
            board.update()
        try:
            self.cornered.emit(Corners(*corners))
        except SettingError as fault:
            self.corners = before
            board.update()
            board.refuse(str(fault))

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        """Paint the corners."""
        if self.corners is not None:
            _paint_corners(painter, scene, self.corners)

    def cursor(self, board: Board, at: QPointF) -> Qt.CursorShape | None:
        """Leave it as it is."""
        return None


def _paint_corners(painter: QPainter, scene: Scene, corners: Sequence[Point]) -> None:
    """Paint the four corners of a slanted sheet: its sides, and an angle bracket at each corner."""
    at = [scene.on_screen(*corner) for corner in corners]
    whole, inside = QPainterPath(), QPainterPath()
    whole.addRect(QRectF(0, 0, scene.width, scene.height))
    inside.addPolygon(QPolygonF([*at, at[0]]))
    desk = QColor(palette().desk)
    desk.setAlpha(130)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.fillPath(whole.subtracted(inside), desk)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(QColor(palette().mark), 1.2))
    painter.drawPolygon(QPolygonF(at))
    painter.setPen(QPen(QColor(palette().mark), 3.0))
    for k, corner in enumerate(at):
        for other in (at[k - 1], at[(k + 1) % 4]):
            side = QLineF(corner, other)
            side.setLength(min(18.0, side.length()))
            painter.drawLine(side)
        painter.drawEllipse(corner, 2.0, 2.0)
