"""The tools of the inks step: choose an ink, repair what belongs to the wrong one."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from PySide6.QtCore import QPointF, Signal
from PySide6.QtGui import QPainter

from sobercrow.core.cleanup.touch_ups import simplified
from sobercrow.core.errors import SettingError
from sobercrow.core.settings import InkForm, InkTool, InkTouchUp, Point, TouchForm
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.steps import Step
from sobercrow.desktop.theme import palette
from sobercrow.desktop.tool import Board, Drag, Pointer, Tool, is_far, waited
from sobercrow.desktop.tools.marks import paint_nib
from sobercrow.desktop.tools.sketching import Manner, Sketch, Sketching


@dataclass(frozen=True, slots=True)
class InkBrush:
    """How the next touch-up on the inks is made: with the colour of the chosen ink; none is the paper."""

    form: TouchForm = TouchForm.FREEHAND
    width_px: float = 6.0
    ink: str | None = None
    everywhere: bool = False


class PointAtInks(Tool):
    """Chooses the ink under the pointer by a click; a drag moves the view."""

    id, title, key, icon = "point", "Point at inks", "I", "hand"
    step, menu, starts_group = Step.INKS, "Inks", True
    help = "Choose an ink by clicking on it; drag to move the view."
    pointed = Signal(float, float, bool)

    def press(self, board: Board, start: Pointer) -> Drag:
        """Wait for the click to end, or have the view follow."""
        pointer, last, moved = start, start.at, False
        while not pointer.released:
            pointer = yield
            moved = moved or is_far(pointer.at, start.at)
            if moved:
                board.look(board.camera.panned(pointer.at.x() - last.x(), pointer.at.y() - last.y()))
                last = pointer.at
        if not moved:
            self.pointed.emit(pointer.x, pointer.y, pointer.shift)


class RepairingInks(Sketching):
    """A tool that repairs the separation; tells of the repair, in pixels of the picture brought in."""

    step, menu = Step.INKS, "Inks"
    kind: InkTool
    touched = Signal(object)

    def __init__(self) -> None:
        """Start with the usual brush."""
        super().__init__()
        self.brush = InkBrush()

    def press(self, board: Board, start: Pointer) -> Drag:
        """Wait for the click to end."""
        end = yield from waited(start)
        self.finish(board, InkForm.PLACE, ((end.x, end.y),))

    def finish(self, board: Board, form: InkForm, points: tuple[Point, ...]) -> None:
        """Tell of a repair given in pixels of what is shown."""
        scene = board.scene()
        if scene is None:
            return
        brush, tool = self.brush, self.kind
        places = scene.place.to_source(np.array(points, dtype=np.float64))
        inks = () if brush.ink is None or tool in (InkTool.BRIDGE, InkTool.SPOT) else (brush.ink,)
        try:
            made = InkTouchUp(tool, form, tuple((float(x), float(y)) for x, y in places), inks, 1.0, brush.everywhere)
        except SettingError as fault:
            board.refuse(str(fault))
            return
        width = brush.width_px / scene.place.scale_at(made.middle)
        self.touched.emit(replace(made, width_px=min(max(width, 0.5), 2000.0)))


class InkSpot(RepairingInks):
    """Lets the spot under the pointer take on what is around it."""

    id, title, key, icon, kind = "spot", "Spot", "O", "spot", InkTool.SPOT
    help = "Click a spot: it takes on what is around it."


class InkRing(Sketching):
    """Rings an area; which inks may be in it is asked beside it. Tells of the ring in pixels of what is shown."""

    id, title, key, icon, step, menu = "ring", "Ring", "R", "ring", Step.INKS, "Inks"
    help = "Ring an area, then say which inks may be in it."
    ringed = Signal(object)

    def press(self, board: Board, start: Pointer) -> Drag:
        """Draw the ring."""
        path = [(start.x, start.y)]
        pointer = start
        while not pointer.released:
            pointer = yield
            path.append((pointer.x, pointer.y))
            self.sketch = Sketch((*path, path[0]), 1.5 / board.camera.zoom, palette().mark)
            board.update()
        self.sketch = None
        if len(path) >= 3:
            self.ringed.emit(np.array(simplified(path), dtype=np.float64))


class InkBridge(RepairingInks):
    """Closes a gap: drag from one end of a line to the other; the stroke is as wide as the line."""

    id, title, key, icon, kind = "bridge", "Bridge", "B", "bridge", InkTool.BRIDGE
    help = "Close a gap so that a line runs through."

    def press(self, board: Board, start: Pointer) -> Drag:
        """Draw the bridge."""
        manner = Manner(TouchForm.LINE, 2.0 / board.camera.zoom, palette().mark)
        points = yield from self.draw(board, start, manner)
        if points:
            self.finish(board, InkForm.LINE, points)


class InkNib(RepairingInks):
    """Draws with the chosen ink."""

    id, title, icon, kind, shares = "ink-nib", "Nib with ink", "nib", InkTool.NIB, "nib"
    help = "Draw with the chosen ink. In this step N is enough."

    @property
    def follows(self) -> bool:
        """The ring that shows the width follows the pointer."""
        return True

    def press(self, board: Board, start: Pointer) -> Drag:
        """Draw; Shift draws straight."""
        brush = self.brush
        manner = Manner(brush.form, brush.width_px, brush.ink)
        points = yield from self.draw(board, start, manner)
        if points:
            self.finish(board, InkForm(brush.form.value), points)

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        """Paint what is being drawn, or how wide it would be."""
        super().paint(painter, scene, at)
        if at is not None and self.sketch is None:
            paint_nib(painter, at, 0.5 * self.brush.width_px * scene.camera.zoom)


class InkPour(RepairingInks):
    """Gives the region under the pointer to the chosen ink."""

    id, title, icon, kind, shares = "ink-pour", "Pour ink", "drop", InkTool.POUR, "pour"
    help = "Fill a region with the chosen ink. In this step P is enough."
