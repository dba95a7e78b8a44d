"""Trail: a line that follows the pencil from click to click."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter

from sobercrow.core.arrays import F64
from sobercrow.core.artwork import drawing, hit
from sobercrow.core.artwork.choice import Choice, Edited
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.geometry import bezier
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import MM_PER_INCH, Meaning, setting
from sobercrow.core.sketch.trail import TrailField, Ways, trail_contour, trail_field, ways_from
from sobercrow.desktop import tokens
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.steps import Step
from sobercrow.desktop.theme import palette
from sobercrow.desktop.tool import Board, Drag, Pointer, Tool
from sobercrow.desktop.tools.marks import paint_line

CLOSE_PX = 9.0


@dataclass(frozen=True, slots=True)
class TrailSettings:
    """How new lines are drawn."""

    width_mm: float = setting(0.5, Meaning("Width", "Of lines where there are none yet.", 0.05, 20.0, "mm", 0.05, 2))


class Trail(Tool):
    """Draws a line along the pencil: click on it, move along, click again; the line between follows.

    Backspace takes the last stretch back; Enter or a double click ends the line, a click on its start closes it. It
    begins and ends on lines that are there.
    """

    id, title, key, icon = "trail", "Trail", "W", "trail"
    step = Step.REFINE
    help = "Click on the drawing, move along, click again; Backspace takes a stretch back, Enter ends the line."

    def __init__(self) -> None:
        """Start with nothing drawn."""
        super().__init__()
        self.settings = TrailSettings()
        self._field: tuple[Picture, TrailField] | None = None
        self._places: list[tuple[float, float]] = []
        self._parts: list[F64] = []
        self._ways: Ways | None = None
        self._at: tuple[float, float] | None = None
        self._ending: bool | None = None
        """Whether the line is to be closed, once it is to end and stretches are still looked for."""

    @property
    def follows(self) -> bool:
        """The line leads to the pointer."""
        return bool(self._places)

    def press(self, board: Board, start: Pointer) -> Drag:
        """Take places until the line is ended or closed."""
        artwork, cleaned = board.artwork, board.cleaned()
        if artwork is None or cleaned is None:
            return
        board.choose(Choice())
        self.let_go()
        self._places = [_on_a_line(artwork, board, start)]
        self._look_ahead(board)
        pointer, closed = start, False
        while True:
            pointer = yield
            if pointer.key == Qt.Key.Key_Backspace:
                if len(self._places) < 2:
                    self.let_go()
                    board.update()
                    return
                self._take_back(board)
                continue
            if pointer.key is not None or pointer.double:
                break
            if pointer.pressed:
                closed = len(self._places) > 1 and self._is_first(board, pointer)
                self._places.append(self._places[0] if closed else _on_a_line(artwork, board, pointer))
                self._go_on(board)
                if closed:
                    break
            self._at = (pointer.x, pointer.y)
            board.update()
        self._at, self._ending = None, closed
        self._go_on(board)

    def _is_first(self, board: Board, pointer: Pointer) -> bool:
        x, y = self._places[0]
        return math.hypot(pointer.x - x, pointer.y - y) * board.camera.zoom <= CLOSE_PX

    def _take_back(self, board: Board) -> None:
        self._places.pop()
        del self._parts[len(self._places) - 1 :]
        self._look_ahead(board)
        board.update()

    def _look_ahead(self, board: Board) -> None:
        """Have the ways worked out from the last place the line has come to."""
        self._ways = None
        cleaned = board.cleaned()
        if cleaned is None:
            return
        known, place = self._field, self._places[len(self._parts)]

        def work() -> tuple[TrailField, Ways]:
            picture, scale = cleaned
            field = known[1] if known is not None and known[0] is picture else trail_field(picture.grey(), scale)
            return field, ways_from(field, *place)

        def done(found: tuple[TrailField, Ways]) -> None:
            if not self._places:
                return  # it was let go of meanwhile
            self._field = cleaned[0], found[0]
            self._ways = found[1]
            self._go_on(board)
            board.update()

        board.ask(work, done)

    def _go_on(self, board: Board) -> None:
        """Lay the next stretch if its ways are known; end the line if it is to and all are laid."""
        if self._ways is not None and len(self._parts) < len(self._places) - 1:
            self._parts.append(self._ways.path_to(*self._places[len(self._parts) + 1]))
            self._look_ahead(board)
        if self._ending is not None and len(self._parts) == len(self._places) - 1:
            self._finish(board, self._ending)

    def _finish(self, board: Board, closed: bool) -> None:
        parts, artwork = self._parts, board.artwork
        self.let_go()
        board.update()
        if not parts or artwork is None:
            return
        line = np.concatenate([parts[0], *(part[1:] for part in parts[1:])])
        zoom, pen = board.camera.zoom, drawing.Pen(_colour_of(artwork), self._width_px(artwork))

        def drawn(before: Artwork) -> Edited:  # the edit tells of a line that is a point
            return drawing.with_contour(before, trail_contour(line, zoom, closed), pen)

        board.edit("Trail", drawn)

    def _width_px(self, artwork: Artwork) -> float:
        widths = [shape.stroke.width_px for shape in artwork.shapes if shape.stroke is not None]
        return float(np.median(widths)) if widths else self.settings.width_mm * artwork.dpi / MM_PER_INCH

    def let_go(self) -> None:
        """Forget what was being drawn."""
        self._places, self._parts = [], []
        self._ways = self._at = self._ending = None

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        """Paint the line as it stands, with the way to the pointer."""
        accent = palette().mark
        for part in self._parts:
            paint_line(painter, scene, part, 2.0, accent)
        if self._at is not None and self._ways is not None and len(self._parts) == len(self._places) - 1:
            paint_line(painter, scene, self._ways.path_to(*self._at), 1.6, accent, dashed=True)
        painter.setPen(QColor(accent))
        painter.setBrush(QColor(tokens.LIGHT.page))
        for x, y in self._places:
            painter.drawEllipse(scene.on_screen(x, y), 3.5, 3.5)

    def cursor(self, board: Board, at: QPointF) -> Qt.CursorShape | None:
        """Return a cross."""
        return Qt.CursorShape.CrossCursor


def _on_a_line(artwork: Artwork, board: Board, pointer: Pointer) -> tuple[float, float]:
    """The anchor, or else the place on a line, that is meant; where there is none, the pointer's own."""
    ref = hit.anchor_at(artwork, pointer.x, pointer.y, board.reach_px())
    if ref is not None:
        x, y = artwork.shapes[ref.shape].contours[ref.contour].anchors[ref.anchor].tolist()
        return x, y
    found = hit.curve_at(artwork, pointer.x, pointer.y, board.reach_px())
    if found is None:
        return pointer.x, pointer.y
    curve = artwork.shapes[found.shape].contours[found.contour].curves()[found.curve]
    x, y = bezier.evaluate(curve, np.array([found.t]))[0].tolist()
    return x, y


def _colour_of(artwork: Artwork) -> str:
    return artwork.shapes[-1].colour if artwork.shapes else "#000000"
