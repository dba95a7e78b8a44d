"""Draw: a new contour, anchor by anchor."""

from __future__ import annotations

import math
from collections.abc import Generator
from dataclasses import dataclass, field
from functools import partial

import numpy as np
from PySide6.QtCore import QLineF, QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from sobercrow.core.artwork import drawing, hit
from sobercrow.core.artwork.choice import AnchorRef, Choice
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.settings import MM_PER_INCH, Meaning, setting
from sobercrow.desktop import tokens
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.steps import Step
from sobercrow.desktop.theme import palette
from sobercrow.desktop.tool import Board, Drag, Pointer, Tool, is_far
from sobercrow.desktop.tools.anchors import stepped
from sobercrow.desktop.tools.marks import paint_line

CLOSE_PX = 9.0


@dataclass(frozen=True, slots=True)
class DrawSettings:
    """How new contours are drawn."""

    stroked: bool = field(
        default=False,
        metadata={"label": "As a stroke", "help": "An open line with a width, rather than a filled shape."},
    )
    width_mm: float = setting(0.7, Meaning("Width", "Of new strokes.", 0.05, 20.0, "mm", 0.05, 2))


class Draw(Tool):
    """Draws a contour: a click sets a corner, a drag a smooth anchor, a drag back breaks its handles.

    A click on the first anchor closes it, Enter leaves it open, Backspace takes the last anchor back. Begun at an open
    end, it goes on from there.
    """

    id, title, key, icon = "draw", "Draw", "D", "draw"
    step = Step.REFINE
    help = "Click corners, drag smooth anchors; click the first to close, Enter to leave it open."

    def __init__(self) -> None:
        """Start with nothing drawn."""
        super().__init__()
        self.settings = DrawSettings()
        self._points: list[np.ndarray] = []
        self._kinds: list[int] = []
        self._at: np.ndarray | None = None

    @property
    def follows(self) -> bool:
        """The next piece follows the pointer."""
        return bool(self._points)

    def press(self, board: Board, start: Pointer) -> Drag:
        """Take anchors until the contour is closed or left open."""
        artwork = board.artwork
        if artwork is None:
            return
        origin = self._open_end(board, start)
        board.choose(Choice())  # so that Backspace is for what is drawn alone
        self._points, self._kinds = [], []
        closed, pointer = False, start
        while True:
            if pointer.key == Qt.Key.Key_Backspace:
                del self._points[-1:], self._kinds[-1:]
                if not self._points:
                    break
                pointer = yield
                continue
            if pointer.key is not None or (pointer.double and self._points):
                break
            if pointer.pressed or pointer is start:
                if len(self._points) > 1 and self._is_first(board, pointer):
                    closed = True
                    pointer = yield from self._set(board, pointer, over_first=True)
                    break
                pointer = yield from self._set(board, pointer, over_first=False)
            self._at = np.array((pointer.x, pointer.y))
            board.update()
            pointer = yield
        self._finish(board, origin, closed)

    def _open_end(self, board: Board, start: Pointer) -> AnchorRef | None:
        artwork = board.artwork
        ref = hit.anchor_at(artwork, start.x, start.y, board.reach_px()) if artwork is not None else None
        if artwork is None or ref is None:
            return None
        contour = artwork.shapes[ref.shape].contours[ref.contour]
        return ref if not contour.closed and ref.anchor in (0, len(contour) - 1) else None

    def _is_first(self, board: Board, pointer: Pointer) -> bool:
        first = self._points[0][1]
        return math.hypot(pointer.x - first[0], pointer.y - first[1]) * board.camera.zoom <= CLOSE_PX

    def _set(self, board: Board, start: Pointer, over_first: bool) -> Generator[None, Pointer, Pointer]:
        """Set one anchor: while the button is down its handle is pulled; pulled back in again, only the one ahead."""
        here = np.array((start.x, start.y))
        if self._points and start.shift:
            x, y = self._points[-1][1].tolist()
            here = np.array(stepped(x, y, start.x, start.y))
        if over_first:
            here = self._points[0][1]
            self._points[0] = self._points[0].copy()
        else:
            self._points.append(np.array([here, here, here]))
            self._kinds.append(int(AnchorKind.CORNER))
        k = 0 if over_first else len(self._points) - 1
        pointer, furthest = start, 0.0
        while not pointer.released:
            pointer = yield
            if not is_far(start.at, pointer.at) and furthest == 0.0:
                continue
            arm = np.array((pointer.x, pointer.y)) - here
            size = float(np.hypot(*arm))
            breaks = size < 0.5 * furthest
            furthest = max(furthest, size)
            points = self._points[k].copy()
            if over_first:
                points[0] = here - arm
            else:
                points[2] = here + arm
                if not breaks:
                    points[0] = here - arm
            self._points[k] = points
            both = np.hypot(*(points[0] - here)) > 1e-6 and np.hypot(*(points[2] - here)) > 1e-6
            self._kinds[k] = int(AnchorKind.SMOOTH if both and not breaks else AnchorKind.CORNER)
            board.update()
        return pointer

    def _finish(self, board: Board, origin: AnchorRef | None, closed: bool) -> None:
        points, kinds = self._points, self._kinds
        self.let_go()
        if len(points) < 2 or board.artwork is None:
            board.update()
            return
        contour = Contour(np.array(points), np.array(kinds, dtype=np.uint8), closed)
        if origin is not None and not closed:
            contour = Contour(contour.points, contour.kinds, closed=False)
            board.edit("Draw on", partial(drawing.gone_on_from, ref=origin, contour=contour))
            return
        width = self.settings.width_mm * board.artwork.dpi / MM_PER_INCH if self.settings.stroked else None
        colour = board.artwork.shapes[-1].colour if board.artwork.shapes else "#000000"
        board.edit("Draw", partial(drawing.with_contour, contour=contour, pen=drawing.Pen(colour, width)))

    def let_go(self) -> None:
        """Forget what was being drawn."""
        self._points, self._kinds, self._at = [], [], None

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        """Paint the contour as it stands, with the piece to the pointer."""
        if not self._points:
            return
        contour = Contour(np.array(self._points), np.array(self._kinds, dtype=np.uint8), closed=False)
        if len(contour) > 1:
            paint_line(painter, scene, contour.sampled(max(0.3, 2.0 / scene.camera.zoom)), 1.8, palette().mark)
        if self._at is not None:
            ahead = np.array([self._points[-1], [self._at, self._at, self._at]])
            led = Contour(ahead, np.zeros(2, dtype=np.uint8), closed=False)
            paint_line(painter, scene, led.sampled(max(0.3, 2.0 / scene.camera.zoom)), 1.2, palette().mark, dashed=True)
        for handle_in, anchor, handle_out in self._points:
            place = scene.on_screen(*anchor.tolist())
            painter.setPen(QPen(QColor(palette().mark), 1.0))
            for handle in (handle_in, handle_out):
                painter.drawLine(QLineF(place, scene.on_screen(*handle.tolist())))
            painter.setBrush(QColor(tokens.LIGHT.page))
            painter.drawEllipse(place, 3.5, 3.5)

    def cursor(self, board: Board, at: QPointF) -> Qt.CursorShape | None:
        """Return a cross."""
        return Qt.CursorShape.CrossCursor
