"""Marks around what is chosen, by which it is scaled, stretched, leaned and turned."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from sobercrow.core.artwork.choice import Choice, Edited
from sobercrow.core.artwork.model import Artwork, Box
from sobercrow.core.artwork.placing import Nine, Sized, box_of, place, to_size
from sobercrow.core.geometry.affine import MOST_LEAN_DEG, Affine
from sobercrow.core.settings import mm_to_px, px_to_mm
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.theme import palette
from sobercrow.desktop.tool import Board, Drag, Pointer
from sobercrow.desktop.tools.carrying import pulled
from sobercrow.desktop.tools.figures import SCALE, TURN, Figure, Figures
from sobercrow.desktop.tools.grips import is_near
from sobercrow.desktop.tools.marks import paint_crop_marks, paint_told

AROUND_PX = 12.0
"""The marks lie so far outside on screen."""
TURN_AWAY_PX = 20.0
LEAST_PX = 18.0
"""What is smaller than this on screen has no marks around it."""
STEP_DEG = 15.0
SMALLEST, LARGEST = 0.01, 100.0
CORNERS = (Nine.LEFT_TOP, Nine.RIGHT_TOP, Nine.RIGHT_BOTTOM, Nine.LEFT_BOTTOM)
SIDES = (Nine.TOP, Nine.RIGHT, Nine.BOTTOM, Nine.LEFT)
WIDTH, HEIGHT = Figure("width", "mm"), Figure("height", "mm")
LEAN = Figure("leaned", "°", 1, signed=True)


@dataclass(frozen=True, slots=True)
class PlacingSettings:
    """About which of the nine points of what is chosen it is turned, and whether strokes are scaled along."""

    about: Nine = Nine.MIDDLE
    with_stroke: bool = True


class PlacingMarks:
    """Crop marks at the corners scale, the form kept unless Shift is held; ticks at the sides stretch, or with Alt
    lean; the arc at the right upper corner turns, with Shift in steps of 15°."""

    def __init__(self, figures: Figures, least: int) -> None:
        """Tell figures; with fewer anchors or shapes chosen than `least` there are no marks."""
        self._figures, self._least = figures, least
        self.settings = PlacingSettings()
        self._boxed: tuple[Artwork, Choice, Box | None] | None = None

    def _box(self, artwork: Artwork, choice: Choice) -> Box | None:
        """The box around what is chosen; kept while that is the same."""
        if self._boxed is None or self._boxed[0] is not artwork or self._boxed[1] is not choice:
            self._boxed = artwork, choice, box_of(artwork, choice)
        return self._boxed[2]

    def frame(self, scene: Scene | None) -> QRectF | None:
        """Where the marks lie on screen, or None without any."""
        if scene is None or scene.artwork is not scene.base or scene.lifted is not None:
            return None
        choice = scene.choice
        if max(len(choice.anchors), len(choice.shapes)) < self._least:
            return None
        box = self._box(scene.artwork, choice)
        if box is None:
            return None
        rect = QRectF(scene.on_screen(*box[:2]), scene.on_screen(*box[2:]))
        if max(rect.width(), rect.height()) < LEAST_PX:
            return None
        return rect.adjusted(-AROUND_PX, -AROUND_PX, AROUND_PX, AROUND_PX)

    @staticmethod
    def _turning(frame: QRectF) -> QPointF:
        away = TURN_AWAY_PX / math.sqrt(2.0)
        return frame.topRight() + QPointF(away, -away)

    def take(self, board: Board, start: Pointer) -> Drag | None:
        """Return the drag of a press on one of the marks."""
        frame = self.frame(board.scene())
        if frame is None:
            return None
        if is_near(self._turning(frame), start.at):
            return self._pull(board, start, "Turn", (TURN,), self._turn)
        box = (frame.left(), frame.top(), frame.right(), frame.bottom())
        for nine in CORNERS:
            if is_near(QPointF(*nine.of(box)), start.at):
                return self._pull(board, start, "Scale", (SCALE,), partial(self._scale, nine))
        for nine in SIDES:
            if is_near(QPointF(*nine.of(box)), start.at):
                if start.alt:
                    return self._pull(board, start, "Lean", (LEAN,), partial(self._lean, nine))
                figure = WIDTH if nine in (Nine.LEFT, Nine.RIGHT) else HEIGHT
                return self._pull(board, start, "Stretch", (figure,), partial(self._stretch, nine))
        return None

    def _pull(
        self,
        board: Board,
        start: Pointer,
        name: str,
        figures: tuple[Figure, ...],
        made: Callable[[Board, Pointer, Pointer], Artwork],
    ) -> Drag:
        choice = board.chosen
        self._figures.begin(*figures)
        name = f"{name} {'anchors' if choice.anchors else 'shapes'}"
        return pulled(board, start, name, lambda p: Edited(made(board, start, p), choice), self._figures)

    def _placed(self, board: Board, way: Affine) -> Artwork:
        assert board.artwork is not None
        return place(board.artwork, board.chosen, way, self.settings.with_stroke)

    def _turn(self, board: Board, start: Pointer, p: Pointer) -> Artwork:
        x, y = self.settings.about.of(_box(board))
        turned = math.degrees(math.atan2(p.y - y, p.x - x) - math.atan2(start.y - y, start.x - x))
        turned = (turned + 180.0) % 360.0 - 180.0
        if p.shift:
            turned = round(turned / STEP_DEG) * STEP_DEG
        # told as designers count: against the clock is positive
        (told,) = self._figures.settle(-turned)
        return self._placed(board, Affine.turned(-told, (x, y)))

    def _scale(self, nine: Nine, board: Board, start: Pointer, p: Pointer) -> Artwork:
        box = _box(board)
        x, y = nine.across_from.of(box)
        corner = nine.of(box)
        across, down = corner[0] - x, corner[1] - y
        to = (corner[0] + p.x - start.x - x, corner[1] + p.y - start.y - y)
        if p.shift:
            sizes = zip(to, (across, down), strict=True)
            free = [_within(one / size) if abs(size) > 1e-9 else 1.0 for one, size in sizes]
            (percent,) = self._figures.settle(100.0 * free[0])
            return self._placed(board, Affine.scaled(percent / 100.0, free[1], (x, y)))
        share = (to[0] * across + to[1] * down) / max(across**2 + down**2, 1e-12)
        (percent,) = self._figures.settle(100.0 * _within(share))
        return self._placed(board, Affine.scaled(percent / 100.0, percent / 100.0, (x, y)))

    def _stretch(self, nine: Nine, board: Board, start: Pointer, p: Pointer) -> Artwork:
        artwork, box = board.artwork, _box(board)
        assert artwork is not None
        axis = 0 if nine in (Nine.LEFT, Nine.RIGHT) else 1
        size = nine.of(box)[axis] - nine.across_from.of(box)[axis]
        moved = (p.x - start.x, p.y - start.y)[axis]
        share = _within(1.0 + moved / size) if abs(size) > 1e-9 else 1.0
        (length,) = self._figures.settle(px_to_mm(abs(size) * share, artwork.dpi))
        wanted = mm_to_px(length, artwork.dpi)
        sized = Sized(wanted, None, keep_form=False) if axis == 0 else Sized(None, wanted, keep_form=False)
        return to_size(artwork, board.chosen, sized, nine.across_from, self.settings.with_stroke)

    def _lean(self, nine: Nine, board: Board, start: Pointer, p: Pointer) -> Artwork:
        box = _box(board)
        home, held = nine.across_from.of(box), nine.of(box)
        upright = nine in (Nine.LEFT, Nine.RIGHT)
        axis = 0 if upright else 1
        size = held[axis] - home[axis]
        moved = (p.x - start.x, p.y - start.y)[1 - axis]
        slope = moved / size if abs(size) > 1e-9 else 0.0
        degrees = math.degrees(math.atan(slope if upright else -slope))
        (told,) = self._figures.settle(min(max(degrees, -MOST_LEAN_DEG), MOST_LEAN_DEG))
        return self._placed(board, Affine.leaned(told, home, upright))

    def paint(self, painter: QPainter, scene: Scene) -> None:
        """Paint the marks."""
        frame = self.frame(scene)
        if frame is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(palette().mark), 1.6))
        paint_crop_marks(painter, frame)
        for side in SIDES:
            x, y = side.of((frame.left(), frame.top(), frame.right(), frame.bottom()))
            dx, dy = (0.0, 4.0) if side in (Nine.LEFT, Nine.RIGHT) else (4.0, 0.0)
            painter.drawLine(QLineF(x - dx, y - dy, x + dx, y + dy))
        at = self._turning(frame)
        painter.drawArc(QRectF(at.x() - 5, at.y() - 5, 10, 10), 16 * -50, 16 * 190)
        self._paint_size(painter, scene, frame)

    def _paint_size(self, painter: QPainter, scene: Scene, frame: QRectF) -> None:
        box = self._box(scene.artwork, scene.choice)
        if box is None:
            return
        dpi = scene.artwork.dpi
        text = f"{px_to_mm(box[2] - box[0], dpi):.1f} × {px_to_mm(box[3] - box[1], dpi):.1f} mm"
        width = painter.fontMetrics().horizontalAdvance(text) + 34
        x, y = min(frame.right() - 10, scene.width - width), min(frame.bottom() - 6, scene.height - 44)
        paint_told(painter, QPointF(x, y), text)


def _box(board: Board) -> tuple[float, float, float, float]:
    box = box_of(board.artwork, board.chosen) if board.artwork is not None else None
    assert box is not None
    return box


def _within(share: float) -> float:
    return min(max(share, SMALLEST), LARGEST)
