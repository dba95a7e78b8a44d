"""Drawing in a manner: freehand, straight, as a box or corner by corner, sketched meanwhile."""

from __future__ import annotations

import math
from collections.abc import Generator
from dataclasses import dataclass

from PySide6.QtCore import QLineF, QPointF
from PySide6.QtGui import QPainter

from sobercrow.core.cleanup.touch_ups import simplified, spaced
from sobercrow.core.settings import Point, TouchForm
from sobercrow.desktop import tokens
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.tool import Board, Pointer, Tool
from sobercrow.desktop.tools.marks import paint_stroke


@dataclass(frozen=True, slots=True)
class Sketch:
    """A touch-up being drawn, in pixels of what is shown; `width_px` 0 for a filled shape, no colour for paper."""

    points: tuple[Point, ...]
    width_px: float
    colour: str | None
    shares: tuple[float, ...] = ()


@dataclass(frozen=True, slots=True)
class Manner:
    """How something is drawn: its form, how wide in picture pixels, the colour it is shown in (None: paper), and
    whether a pen's pressure changes its width."""

    form: TouchForm
    width_px: float
    colour: str | None
    by_pressure: bool = False


class Sketching(Tool):
    """A tool that draws, and shows what is being drawn."""

    def __init__(self) -> None:
        """Start with nothing drawn."""
        super().__init__()
        self.sketch: Sketch | None = None
        self.pressed: tuple[float, ...] = ()
        """How much of the width the last stroke had at each of its points; none if it was even."""

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        """Paint what is being drawn."""
        if self.sketch is not None:
            sketch = self.sketch
            paint_stroke(painter, scene, sketch.points, sketch.width_px, sketch.colour, sketch.shares)

    def let_go(self) -> None:
        """Forget what was being drawn."""
        self.sketch = None

    def draw(self, board: Board, start: Pointer, manner: Manner) -> Generator[None, Pointer, tuple[Point, ...]]:
        """Draw in a manner; returns the points, none if nothing was drawn. `pressed` has how wide each was drawn."""
        self.pressed = ()
        if manner.form is TouchForm.FREEHAND:
            points = yield from self._freehand(board, start, manner)
        elif manner.form is TouchForm.POLYGON:
            points = yield from self._polygon(board, start, manner)
        else:
            points = yield from self._from_corner(board, start, manner)
        self.sketch = None
        return points

    def _show(
        self, board: Board, manner: Manner, points: tuple[Point, ...], filled: bool, shares: tuple[float, ...] = ()
    ) -> None:
        self.sketch = Sketch(points, 0.0 if filled else manner.width_px, manner.colour, shares)
        board.update()

    def _freehand(self, board: Board, start: Pointer, manner: Manner) -> Generator[None, Pointer, tuple[Point, ...]]:
        def share(p: Pointer) -> float:
            return p.width if manner.by_pressure else 1.0

        path, shares = [(start.x, start.y)], [share(start)]
        self._show(board, manner, tuple(path), filled=False)
        pointer = start
        while not pointer.released:
            pointer = yield
            if pointer.shift:
                path, shares = [path[0], straight(path[0], pointer)], [shares[0], share(pointer)]
            else:
                path.append((pointer.x, pointer.y))
                shares.append(share(pointer))
            self._show(board, manner, tuple(path), filled=False, shares=tuple(shares))
        if min(shares) == 1.0:
            return simplified(path)
        points, self.pressed = spaced(path, shares)
        return points

    def _from_corner(self, board: Board, start: Pointer, manner: Manner) -> Generator[None, Pointer, tuple[Point, ...]]:
        """A line or a box, from where the pointer went down to where it is."""
        first = (start.x, start.y)

        def so_far(p: Pointer) -> tuple[Point, ...]:
            if manner.form is TouchForm.LINE:
                return first, straight(first, p) if p.shift else (p.x, p.y)
            dx, dy = p.x - start.x, p.y - start.y
            if p.shift:
                side = max(abs(dx), abs(dy))
                dx, dy = math.copysign(side, dx), math.copysign(side, dy)
            return first, (start.x + dx, start.y), (start.x + dx, start.y + dy), (start.x, start.y + dy)

        pointer = start
        while not pointer.released:
            pointer = yield
            self._show(board, manner, so_far(pointer), filled=manner.form is TouchForm.BOX)
        return so_far(pointer) if QLineF(start.at, pointer.at).length() > tokens.DRAG_THRESHOLD_PX else ()

    def _polygon(self, board: Board, start: Pointer, manner: Manner) -> Generator[None, Pointer, tuple[Point, ...]]:
        """Corner after corner by clicks; a double click or Enter closes it."""
        corners = [(start.x, start.y)]
        pointer = start
        while not pointer.double:
            pointer = yield
            place = straight(corners[-1], pointer) if pointer.shift else (pointer.x, pointer.y)
            if pointer.pressed and math.dist(place, corners[-1]) * board.camera.zoom > tokens.DRAG_THRESHOLD_PX:
                corners.append(place)
            self._show(board, manner, (*corners, place), filled=True)
        return tuple(corners) if len(corners) >= 3 else ()


def straight(start: Point, pointer: Pointer) -> Point:
    """The pointer's place, moved on to the nearest direction of a twelfth of a turn."""
    dx, dy = pointer.x - start[0], pointer.y - start[1]
    step = math.pi / 12
    angle = round(math.atan2(dy, dx) / step) * step
    length = dx * math.cos(angle) + dy * math.sin(angle)
    return start[0] + length * math.cos(angle), start[1] + length * math.sin(angle)
