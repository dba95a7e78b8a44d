"""Axis: the line to mirror in, laid on the canvas."""

from __future__ import annotations

import math

from PySide6.QtCore import QLineF, QPointF, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPen

from sobercrow.core.artwork.mirroring import Axis, axis_between
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.artwork.snapping import Snap, snapped_axis
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.steps import Step
from sobercrow.desktop.theme import palette
from sobercrow.desktop.tool import Board, Drag, Pointer, Tool, is_far
from sobercrow.desktop.tools.anchors import SNAP_PX, stepped
from sobercrow.desktop.tools.figures import ANGLE, Figures

NEAR_PX, NOTCH_PX = 7.0, 8.0
LEVEL_DEG = 2.0
"""Drawn so near to level or upright, it lies exactly so."""


class LayAxis(Tool):
    """A click lays the axis through a place, a pull lays it along; a pull at the axis itself shifts it.

    Its places are drawn to the middle of what is chosen and of the page, to middles of circles, and to anchors.
    """

    id, title, key = "axis", "Lay axis", "Shift+X"
    step, works_on_artwork, keeps_shapes = Step.REFINE, True, True
    help = "Click or pull to lay the axis to mirror in; pull the axis to shift it. Ctrl turns snapping off."
    laid = Signal(object)

    def __init__(self) -> None:
        """Start with no axis."""
        super().__init__()
        self.axis: Axis | None = None
        self.figures = Figures()

    @property
    def follows(self) -> bool:
        """Figures beside the pointer follow it."""
        return bool(self.figures.told)

    def press(self, board: Board, start: Pointer) -> Drag:
        """Lay it where it is pulled, or shift the one that is there."""
        artwork, scene = board.artwork, board.scene()
        if artwork is None or scene is None:
            return
        before = self.axis
        shifts = before is not None and _away(scene, before, start.at) <= NEAR_PX
        home = self._snapped(board, artwork, start)
        angle = before.angle_deg if before is not None else 90.0
        self.figures.begin(ANGLE)
        pointer = start
        while not pointer.released:
            pointer = yield
            done = self.figures.take(pointer)
            snap = home
            if shifts or not is_far(start.at, pointer.at):
                snap = self._snapped(board, artwork, pointer)
                (turn,) = self.figures.settle(angle, snap=snap)
                self.axis = Axis(snap.x, snap.y, turn)
            else:
                self.axis = self._along(board, artwork, home, pointer)
            board.update()
            if done:
                break
        self.let_go()
        self.laid.emit(self.axis)

    def _along(self, board: Board, artwork: Artwork, home: Snap, pointer: Pointer) -> Axis:
        """The axis from one place to the pointer; level or upright where it is nearly so."""
        end = self._snapped(board, artwork, pointer)
        onto = bool(end.words) and not end.lines  # a place, rather than level with one
        x, y = (end.x, end.y) if onto else (pointer.x, pointer.y)
        if pointer.shift:
            x, y = stepped(home.x, home.y, pointer.x, pointer.y)
        if math.hypot(x - home.x, y - home.y) < 1.0:
            x, y = home.x, home.y + 1.0
        angle = axis_between((home.x, home.y), (x, y)).angle_deg
        if not (onto or pointer.ctrl or pointer.shift):
            near = min((0.0, 90.0, 180.0), key=lambda level: abs(level - angle))
            angle = near % 180.0 if abs(near - angle) < LEVEL_DEG else angle
        words = end.words if onto and not pointer.shift else ()
        (angle,) = self.figures.settle(angle, snap=Snap(x, y, words))
        return Axis(home.x, home.y, angle)

    @staticmethod
    def _snapped(board: Board, artwork: Artwork, pointer: Pointer) -> Snap:
        if pointer.ctrl:
            return Snap(pointer.x, pointer.y)
        reach = SNAP_PX / board.camera.zoom
        return snapped_axis(artwork, board.chosen, pointer.x, pointer.y, reach, board.guides)

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        """Paint the axis across the canvas, with a notch where it was laid."""
        if self.axis is not None:
            paint_axis(painter, scene, self.axis)
        self.figures.paint(painter, scene, at)

    def cursor(self, board: Board, at: QPointF) -> Qt.CursorShape | None:
        """Return a cross, or a hand over the axis."""
        scene = board.scene()
        near = scene is not None and self.axis is not None and _away(scene, self.axis, at) <= NEAR_PX
        return Qt.CursorShape.SizeAllCursor if near else Qt.CursorShape.CrossCursor

    def let_go(self) -> None:
        """Forget what was being pulled."""
        self.figures.clear()


def paint_axis(painter: QPainter, scene: Scene, axis: Axis) -> None:
    """Paint a dash-dot line across everything, with a notch at its middle."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    middle, way = scene.on_screen(axis.x, axis.y), _way(axis)
    far = way * (scene.width + scene.height)
    across = QPointF(-way.y(), way.x()) * NOTCH_PX
    for colour, width, style in (
        (palette().page, 3.4, Qt.PenStyle.SolidLine),
        (palette().mark, 1.6, Qt.PenStyle.DashDotLine),
    ):
        painter.setPen(QPen(QColor(colour), width, style))
        painter.drawLine(QLineF(middle - far, middle + far))
    for side in (across, -across):
        painter.setPen(QPen(QColor(palette().mark), 2.4))
        painter.drawLine(QLineF(middle + side, middle + side * 0.25 + way * 5.0))
        painter.drawLine(QLineF(middle + side, middle + side * 0.25 - way * 5.0))


def _way(axis: Axis) -> QPointF:
    angle = math.radians(axis.angle_deg)
    return QPointF(math.cos(angle), math.sin(angle))


def _away(scene: Scene, axis: Axis, at: QPointF) -> float:
    off, way = at - scene.on_screen(axis.x, axis.y), _way(axis)
    return abs(off.x() * way.y() - off.y() * way.x())
