"""Shade: a gradient laid over chosen shapes by a pull."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

from PySide6.QtCore import QLineF, QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from sobercrow.core.artwork import hit, painting
from sobercrow.core.artwork.choice import Choice, Edited
from sobercrow.core.artwork.paint import Gradient, Spread, Stop
from sobercrow.core.settings import px_to_mm
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.steps import Step
from sobercrow.desktop.theme import palette
from sobercrow.desktop.tool import Board, Drag, Pointer, Tool
from sobercrow.desktop.tools.anchors import stepped
from sobercrow.desktop.tools.carrying import pulled
from sobercrow.desktop.tools.figures import ANGLE, LENGTH, Figures
from sobercrow.desktop.tools.grips import is_near

END_PX, STOP_PX = 6.0, 4.5
PALE = "#ffffff"


@dataclass(frozen=True, slots=True)
class ShadeSettings:
    """How new gradients run."""

    radial: bool = field(
        default=False, metadata={"label": "From a middle outwards", "help": "Radial rather than along a line."}
    )


class Shade(Tool):
    """Lays a gradient over the chosen shapes by a pull from one place to another; its ends are pulled afterwards.

    It runs from the colour a shape had to white until its stops are coloured. Shift keeps to steps of 45°.
    """

    id, title, key, icon = "shade", "Shade", "G", "shade"
    step, works_on_artwork = Step.REFINE, True
    keeps_shapes = True
    help = "Pull a gradient over the chosen shapes; pull its ends to lay it anew."

    def __init__(self) -> None:
        """Start with the usual spread."""
        super().__init__()
        self.settings = ShadeSettings()
        self.figures = Figures()

    @property
    def follows(self) -> bool:
        """Figures beside the pointer follow it."""
        return bool(self.figures.told)

    @staticmethod
    def _laid(scene: Scene | None) -> Gradient | None:
        """The gradient of the chosen shapes, if they have one in common."""
        if scene is None:
            return None
        shapes = scene.artwork.shapes
        fills = {shapes[k].fill for k in scene.choice.shapes if k < len(shapes)}
        fill = next(iter(fills)) if len(fills) == 1 else None
        return fill if isinstance(fill, Gradient) else None

    def press(self, board: Board, start: Pointer) -> Drag:
        """Pull an end of the gradient that is there, or a new one over what is chosen, or what is clicked."""
        artwork, scene = board.artwork, board.scene()
        if artwork is None or scene is None:
            return
        laid = self._laid(scene)
        if laid is not None:
            for k, end in enumerate(painting.ends_of(laid)):
                if is_near(scene.on_screen(*end), start.at):
                    yield from self._pull_end(board, start, laid, k)
                    return
        if not board.chosen.shapes:
            under = hit.shape_at(artwork, start.x, start.y, board.reach_px())
            if under is None:
                board.refuse("Choose a shape to shade first, or begin on one.")
                return
            board.choose(Choice(frozenset({under})))
        choice = board.chosen
        colour = artwork.shapes[min(choice.shapes)].colour
        stops = laid.stops if laid is not None else (Stop(0.0, colour), Stop(1.0, PALE))
        spread = Spread.RADIAL if self.settings.radial else Spread.LINEAR
        yield from self._pull(board, start, (start.x, start.y), spread, stops)

    def _pull(
        self, board: Board, start: Pointer, home: tuple[float, float], spread: Spread, stops: tuple[Stop, ...]
    ) -> Drag:
        artwork, choice = board.artwork, board.chosen
        assert artwork is not None
        self.figures.begin(LENGTH, ANGLE)

        def shaded(p: Pointer) -> Edited:
            x, y = stepped(*home, p.x, p.y) if p.shift else (p.x, p.y)
            length, angle = math.hypot(x - home[0], y - home[1]), math.degrees(math.atan2(home[1] - y, x - home[0]))
            self.figures.settle(px_to_mm(length, artwork.dpi), angle)
            gradient = painting.gradient_between(spread, home, (x, y), stops)
            return Edited(painting.set_fill(artwork, choice, gradient), choice)

        yield from pulled(board, start, "Lay gradient", shaded, self.figures)

    def _pull_end(self, board: Board, start: Pointer, laid: Gradient, end: int) -> Drag:
        artwork, choice = board.artwork, board.chosen
        assert artwork is not None
        ends = list(painting.ends_of(laid))
        self.figures.begin(LENGTH, ANGLE)

        def moved(p: Pointer) -> Edited:
            ends[end] = (p.x, p.y)
            (x0, y0), (x1, y1) = ends
            self.figures.settle(
                px_to_mm(math.hypot(x1 - x0, y1 - y0), artwork.dpi), math.degrees(math.atan2(y0 - y1, x1 - x0))
            )
            gradient = painting.gradient_between(laid.spread, ends[0], ends[1], laid.stops)
            return Edited(painting.set_fill(artwork, choice, gradient), choice)

        yield from pulled(board, start, "Pull gradient", moved, self.figures)

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        """Paint the line of the gradient with its ends and stops."""
        laid = self._laid(scene)
        if laid is not None:
            start, end = (scene.on_screen(*place) for place in painting.ends_of(laid))
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            for colour, width in ((palette().page, 3.6), (palette().mark, 1.6)):
                painter.setPen(QPen(QColor(colour), width))
                painter.drawLine(QLineF(start, end))
            for stop in laid.stops:
                is_end = stop.at in (0.0, 1.0)
                size = END_PX if is_end else STOP_PX
                painter.setPen(QPen(QColor(palette().mark), 1.6))
                painter.setBrush(QColor(stop.colour))
                painter.drawEllipse(start + (end - start) * stop.at, size, size)
        self.figures.paint(painter, scene, at)

    def cursor(self, board: Board, at: QPointF) -> Qt.CursorShape | None:
        """Return a cross."""
        return Qt.CursorShape.CrossCursor

    def let_go(self) -> None:
        """Forget what was being pulled."""
        self.figures.clear()
