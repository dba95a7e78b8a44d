"""Choosing and moving shapes."""

from __future__ import annotations

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from sobercrow.core.artwork import hit
from sobercrow.core.artwork.choice import Choice
from sobercrow.core.settings import px_to_mm
from sobercrow.desktop import tokens
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.steps import Step
from sobercrow.desktop.theme import palette
from sobercrow.desktop.tool import Board, Drag, Pointer
from sobercrow.desktop.tools.carrying import carry, lay
from sobercrow.desktop.tools.frame import FramePulling


class Choose(FramePulling):
    """Chooses shapes by click or frame, Shift adds and removes; drag moves the chosen ones."""

    id, title, key, icon = "choose", "Choose", "C", "choose"
    step, starts_group, works_on_artwork = Step.REFINE, False, True
    help = "Choose, move and fill shapes."

    def press(self, board: Board, start: Pointer) -> Drag:
        """Choose what is there, and carry it if the pointer moves."""
        artwork = board.artwork
        if artwork is None:
            return
        chosen = board.chosen.shapes
        under = hit.shape_at(artwork, start.x, start.y, board.reach_px())
        if under is None:
            frame = yield from self.pull(board, start)
            found = hit.shapes_in(artwork, frame) if frame else frozenset()
            board.choose(Choice(chosen | found if start.shift else found))
            return
        if start.shift:
            board.choose(Choice(chosen ^ {under}))
        elif under not in chosen:
            board.choose(Choice(frozenset({under})))
        moved = board.chosen.shapes
        carried = (yield from carry(board, start, moved)) if moved else None
        if carried is not None:
            lay(board, "Move shapes", moved, carried)
        elif not start.shift:
            board.choose(Choice(frozenset({under})))

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        """Paint crop marks around the chosen shapes, and the frame."""
        _paint_chosen(painter, scene)
        super().paint(painter, scene, at)


def _paint_chosen(painter: QPainter, scene: Scene) -> None:
    """Paint crop-mark corners around the chosen shapes, with their size in millimetres."""
    shapes = scene.artwork.shapes
    boxes = [shapes[s].bounds() for s in scene.choice.shapes if s < len(shapes)]
    if not boxes:
        return
    if scene.lifted is not None:
        dx, dy = scene.lifted.dx, scene.lifted.dy
        boxes = [(b[0] + dx, b[1] + dy, b[2] + dx, b[3] + dy) for b in boxes]
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(QPen(QColor(palette().accent), 1.6))
    for box in boxes if len(boxes) <= 200 else []:
        _crop_marks(painter, scene.rect_on_screen(_rect(box)))
    whole = (min(b[0] for b in boxes), min(b[1] for b in boxes), max(b[2] for b in boxes), max(b[3] for b in boxes))
    if len(boxes) > 1:
        _crop_marks(painter, scene.rect_on_screen(_rect(whole)).adjusted(-4, -4, 4, 4))
    dpi = scene.artwork.dpi
    text = f"{px_to_mm(whole[2] - whole[0], dpi):.1f} × {px_to_mm(whole[3] - whole[1], dpi):.1f} mm"
    corner = scene.on_screen(whole[2], whole[3])
    metrics = painter.fontMetrics()
    box_rect = QRectF(corner.x() + 10, corner.y() + 6, metrics.horizontalAdvance(text) + 12, metrics.height() + 4)
    box_rect.moveRight(min(box_rect.right(), scene.width - 6))
    box_rect.moveBottom(min(box_rect.bottom(), scene.height - 6))
    painter.fillRect(box_rect, QColor(palette().panel))
    painter.setPen(QColor(palette().text))
    painter.drawText(box_rect, Qt.AlignmentFlag.AlignCenter, text)


def _rect(box: tuple[float, float, float, float]) -> QRectF:
    return QRectF(box[0], box[1], box[2] - box[0], box[3] - box[1])


def _crop_marks(painter: QPainter, rect: QRectF) -> None:
    size, gap = tokens.CROP_MARK_PX, 3.0
    for x, sx in ((rect.left() - gap, -1), (rect.right() + gap, 1)):
        for y, sy in ((rect.top() - gap, -1), (rect.bottom() + gap, 1)):
            painter.drawLine(QLineF(x, y, x - sx * size, y))
            painter.drawLine(QLineF(x, y, x, y - sy * size))
