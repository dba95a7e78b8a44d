"""Cropping: a frame pulled around what is to be kept, and the edges of the crop."""

from __future__ import annotations

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen

from sobercrow.desktop import tokens
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.steps import Step
from sobercrow.desktop.theme import palette
from sobercrow.desktop.tool import Board, Drag, Pointer, Tool
from sobercrow.desktop.tools.frame import FramePulling
from sobercrow.desktop.tools.hand import Hand


class CropFrame(FramePulling):
    """Pulls a frame around what is to be kept; tells of it in pixels of the whole sheet."""

    id, title, key, icon = "frame", "Frame", "F", "crop"
    step, menu = Step.CLEAN_UP, "Picture"
    help = "Pull a frame around what is to be kept."
    cropped = Signal(object)

    def press(self, board: Board, start: Pointer) -> Drag:
        """Pull the frame."""
        scene = board.scene()
        frame = yield from self.pull(board, start)
        if scene is not None and frame is not None:
            kept = QRectF(QPointF(*frame[:2]), QPointF(*frame[2:])).intersected(scene.page_rect)
            self.cropped.emit(kept.translated(-scene.sheet_rect.left(), -scene.sheet_rect.top()))

    def cursor(self, board: Board, at: QPointF) -> Qt.CursorShape | None:
        """Return a cross."""
        return Qt.CursorShape.CrossCursor


class CropEdges(Tool):
    """The edges of the crop, dimmed beyond; each can be taken hold of while no brush is in hand."""

    id, title, step, help, listed = "crop-edges", "Crop", Step.CLEAN_UP, "Drag an edge of the crop.", False
    cropped = Signal(object)

    def __init__(self) -> None:
        """Start unseen."""
        super().__init__()
        self.active = False
        self._shown: QRectF | None = None

    def _edge_at(self, board: Board, at: QPointF) -> str | None:
        scene = board.scene()
        if not self.active or scene is None or scene.is_raw:
            return None
        kept = scene.rect_on_screen(scene.page_rect)
        near = tokens.HIT_PX
        for name, grip in crop_grips(kept).items():
            upright = name in ("left", "right")
            off = abs(at.x() - grip.x1()) if upright else abs(at.y() - grip.y1())
            low, high = (kept.top(), kept.bottom()) if upright else (kept.left(), kept.right())
            along = at.y() if upright else at.x()
            if off <= near and low - near <= along <= high + near:
                return name
        return None

    def grabs(self, board: Board, at: QPointF, in_hand: Tool | None) -> bool:
        """Tell whether an edge is there."""
        return (in_hand is None or isinstance(in_hand, Hand | CropFrame)) and self._edge_at(board, at) is not None

    def press(self, board: Board, start: Pointer) -> Drag:
        """Have the edge follow the pointer, in whole pixels."""
        scene, edge = board.scene(), self._edge_at(board, start.at)
        if scene is None or edge is None:
            return
        page, sheet = scene.page_rect, scene.sheet_rect
        pointer, moved = start, QRectF(page)
        while not pointer.released:
            pointer = yield
            x, y = round(pointer.x), round(pointer.y)
            moved = QRectF(page)
            if edge == "left":
                moved.setLeft(min(max(x, sheet.left()), page.right() - 1))
            elif edge == "right":
                moved.setRight(max(min(x, sheet.right()), page.left() + 1))
            elif edge == "top":
                moved.setTop(min(max(y, sheet.top()), page.bottom() - 1))
            else:
                moved.setBottom(max(min(y, sheet.bottom()), page.top() + 1))
            self._shown = moved
            board.update()
        self._shown = None
        if moved != page:
            self.cropped.emit(moved.translated(-sheet.left(), -sheet.top()))

    def let_go(self) -> None:
        """Show the crop as it is."""
        self._shown = None

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        """Paint the crop, as it is or as it will be."""
        if self.active and not scene.is_raw:
            _paint_crop(painter, scene, self._shown or scene.page_rect)

    def cursor(self, board: Board, at: QPointF) -> Qt.CursorShape | None:
        """Return the cursor for pulling an edge."""
        edge = self._edge_at(board, at)
        if edge is None:
            return None
        return Qt.CursorShape.SizeHorCursor if edge in ("left", "right") else Qt.CursorShape.SizeVerCursor


def _paint_crop(painter: QPainter, scene: Scene, page: QRectF) -> None:
    """Dim what the crop leaves out, and draw its edges with grips."""
    sheet, kept = scene.rect_on_screen(scene.sheet_rect), scene.rect_on_screen(page)
    outside = QPainterPath()
    outside.addRect(sheet)
    inside = QPainterPath()
    inside.addRect(kept)
    desk = QColor(palette().desk)
    desk.setAlpha(190)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    painter.fillPath(outside.subtracted(inside), desk)
    painter.setPen(QPen(QColor(palette().mark), 1))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(kept)
    painter.setPen(QPen(QColor(palette().mark), 4))
    for line in crop_grips(kept).values():
        painter.drawLine(line)


def crop_grips(kept: QRectF) -> dict[str, QLineF]:
    """Where the grips of a crop's edges are drawn, by the edge's name."""
    x, y, reach = kept.center().x(), kept.center().y(), 14.0
    return {
        "left": QLineF(kept.left(), y - reach, kept.left(), y + reach),
        "right": QLineF(kept.right(), y - reach, kept.right(), y + reach),
        "top": QLineF(x - reach, kept.top(), x + reach, kept.top()),
        "bottom": QLineF(x - reach, kept.bottom(), x + reach, kept.bottom()),
    }
