"""Lines drawn along something: of known length, or level."""

from __future__ import annotations

import math
from collections.abc import Callable, Generator

from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QPainter

from sobercrow.core.geometry.forms import off_level
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.steps import Step
from sobercrow.desktop.tool import Board, Drag, Pointer, Tool, is_far
from sobercrow.desktop.tools.marks import paint_ruler


class Ruler(Tool):
    """A tool that draws a line with a text at it."""

    def __init__(self) -> None:
        """Start with no line."""
        super().__init__()
        self._line: tuple[QPointF, QPointF, str] | None = None

    def draw(self, board: Board, start: Pointer, text: Callable[[Pointer], str]) -> Generator[None, Pointer, Pointer]:
        """Draw a line until the pointer is let go; returns where that was."""
        pointer = start
        while not pointer.released:
            pointer = yield
            self._line = (start.at, pointer.at, text(pointer))
            board.update()
        self._line = None
        board.update()
        return pointer

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        """Paint the line."""
        if self._line is not None:
            paint_ruler(painter, *self._line)

    def let_go(self) -> None:
        """Put the line away."""
        self._line = None

    def cursor(self, board: Board, at: QPointF) -> Qt.CursorShape | None:
        """Return a cross."""
        return Qt.CursorShape.CrossCursor


class Measure(Ruler):
    """Draws a line along something of known length; tells how long it is in pixels."""

    id, title, key = "measure", "Measure", "M"
    step, menu, starts_group = Step.BRING_IN, "Picture", True
    help = "Drag over something whose length you know."
    measured = Signal(float)

    def press(self, board: Board, start: Pointer) -> Drag:
        """Draw the line."""

        def length(p: Pointer) -> float:
            return math.hypot(p.x - start.x, p.y - start.y)

        end = yield from self.draw(board, start, lambda p: f"{length(p):.0f} px")
        if is_far(start.at, end.at):
            self.measured.emit(length(end))


class Level(Ruler):
    """Draws a line along something that should be level or upright; tells by how many degrees to turn."""

    id, title, key, icon = "level", "Level", "L", "level"
    step, menu = Step.CLEAN_UP, "Picture"
    help = "Draw along what should be level or upright."
    levelled = Signal(float)

    def press(self, board: Board, start: Pointer) -> Drag:
        """Draw the line."""

        def off_deg(p: Pointer) -> float:
            return off_level(math.degrees(math.atan2(p.y - start.y, p.x - start.x)))

        end = yield from self.draw(board, start, lambda p: f"{off_deg(p):+.2f}°")
        if is_far(start.at, end.at):
            self.levelled.emit(-off_deg(end))
