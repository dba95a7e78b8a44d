"""The tools that touch up the picture: nib, scrape, pour."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from PySide6.QtCore import QPointF, Signal
from PySide6.QtGui import QPainter

from sobercrow.core.settings import INK_COLOUR, PAPER_COLOUR, Point, TouchForm, TouchTool, TouchUp
from sobercrow.desktop import tokens
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.steps import Step
from sobercrow.desktop.tool import Board, Drag, Pointer, waited
from sobercrow.desktop.tools.marks import paint_nib
from sobercrow.desktop.tools.sketching import Manner, Sketching


@dataclass(frozen=True, slots=True)
class Brush:
    """How the next touch-up is made. `width_px` is in pixels of the cleaned picture."""

    form: TouchForm = TouchForm.FREEHAND
    width_px: float = 8.0
    colour: str = INK_COLOUR
    tolerance: float = 24.0
    everywhere: bool = False
    magnifier: bool = True


class TouchingUp(Sketching):
    """A tool that touches up the picture with a brush; tells of the touch-up, in pixels of the picture brought in."""

    step, menu = Step.CLEAN_UP, "Picture"
    kind: TouchTool
    touched = Signal(object)

    def __init__(self) -> None:
        """Start with the usual brush."""
        super().__init__()
        self.brush = Brush()

    @property
    def magnifies(self) -> bool:
        """Whether the brush wants the magnifier."""
        return self.brush.magnifier

    @property
    def follows(self) -> bool:
        """The ring that shows the width follows the pointer."""
        return True

    def press(self, board: Board, start: Pointer) -> Drag:
        """Draw; Shift draws straight."""
        brush = self.brush
        shown = tokens.LIGHT.text if brush.colour == INK_COLOUR else brush.colour
        paper = self.kind is TouchTool.SCRAPE or brush.colour == PAPER_COLOUR
        points = yield from self.draw(board, start, Manner(brush.form, brush.width_px, None if paper else shown, True))
        if points:
            self.finish(board, brush.form, points)

    def finish(self, board: Board, form: TouchForm, points: tuple[Point, ...]) -> None:
        """Tell of a touch-up given in pixels of what is shown."""
        scene = board.scene()
        if scene is None:
            return
        source = scene.place.to_source(np.array(points, dtype=np.float64))
        places = tuple((float(x), float(y)) for x, y in source)
        brush = self.brush
        touch_up = TouchUp(
            self.kind, form, places, 1.0, brush.colour, brush.tolerance, brush.everywhere, shares=self.pressed
        )
        width = brush.width_px / scene.place.scale_at(touch_up.middle)
        self.touched.emit(replace(touch_up, width_px=min(max(width, 0.5), 2000.0)))

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        """Paint what is being drawn, or how wide it would be."""
        super().paint(painter, scene, at)
        if at is not None and self.sketch is None and self.kind is not TouchTool.POUR:
            paint_nib(painter, at, 0.5 * self.brush.width_px * scene.camera.zoom)


class TouchNib(TouchingUp):
    """Draws with ink or another colour."""

    id, title, key, icon, kind = "nib", "Nib", "N", "nib", TouchTool.NIB
    help, starts_group = "Draw with ink or another colour.", True


class TouchScrape(TouchingUp):
    """Wipes to paper."""

    id, title, key, icon, kind = "scrape", "Scrape", "S", "scrape", TouchTool.SCRAPE
    help = "Wipe to paper."


class TouchPour(TouchingUp):
    """Pours a colour into what lies under the pointer."""

    id, title, key, icon, kind = "pour", "Pour", "P", "drop", TouchTool.POUR
    help = "Pour a colour into a region."

    def press(self, board: Board, start: Pointer) -> Drag:
        """Wait for the click to end."""
        end = yield from waited(start)
        self.finish(board, TouchForm.PLACE, ((end.x, end.y),))
