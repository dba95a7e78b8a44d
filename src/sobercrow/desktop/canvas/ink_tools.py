"""The tools of the inks step: choose an ink, repair what belongs to the wrong one."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np

from sobercrow.core.cleanup.touch_ups import simplified
from sobercrow.core.errors import SettingError
from sobercrow.core.settings import InkForm, InkTool, InkTouchUp, Point, TouchForm
from sobercrow.desktop import tokens
from sobercrow.desktop.canvas.tools import Drag, Pointer
from sobercrow.desktop.canvas.touch_tools import Manner, Sketch, draw

if TYPE_CHECKING:
    from sobercrow.desktop.canvas.view import Canvas


@dataclass(frozen=True, slots=True)
class InkBrush:
    """How the next touch-up on the inks is made: with the colours of the chosen inks; none is the paper."""

    form: TouchForm = TouchForm.FREEHAND
    width_px: float = 6.0
    inks: tuple[str, ...] = ()
    everywhere: bool = False


def point(canvas: Canvas, start: Pointer) -> Drag:
    """Choose the ink under the pointer by a click; a drag moves the view."""
    pointer, last, moved = start, start.at, False
    while not pointer.released:
        pointer = yield
        moved = moved or (pointer.at - start.at).manhattanLength() > tokens.DRAG_THRESHOLD_PX
        if moved:
            canvas.set_camera(canvas.camera.panned(pointer.at.x() - last.x(), pointer.at.y() - last.y()))
            last = pointer.at
    if not moved:
        canvas.ink_pointed.emit(pointer.x, pointer.y, pointer.shift)


def nib(canvas: Canvas, start: Pointer) -> Drag:
    """Draw with the chosen ink; Shift draws straight."""
    brush = canvas.ink_brush
    points = yield from draw(canvas, start, Manner(brush.form, brush.width_px, brush.inks[0] if brush.inks else None))
    if points:
        _finish(canvas, InkTool.NIB, InkForm(brush.form.value), points)


def pour(canvas: Canvas, start: Pointer) -> Drag:
    """Give the region under the pointer to the chosen ink."""
    yield from _place(canvas, start, InkTool.POUR)


def spot(canvas: Canvas, start: Pointer) -> Drag:
    """Let the spot under the pointer take on what is around it."""
    yield from _place(canvas, start, InkTool.SPOT)


def ring(canvas: Canvas, start: Pointer) -> Drag:
    """Ring an area; only the chosen inks may be in it."""
    path = [(start.x, start.y)]
    pointer = start
    while not pointer.released:
        pointer = yield
        path.append((pointer.x, pointer.y))
        canvas.sketch = Sketch((*path, path[0]), 1.5 / canvas.camera.zoom, tokens.LIGHT.accent)
        canvas.update()
    canvas.sketch = None
    if len(path) >= 3:
        _finish(canvas, InkTool.RING, InkForm.POLYGON, simplified(path))


def bridge(canvas: Canvas, start: Pointer) -> Drag:
    """Close a gap: drag from one end of a line to the other; the stroke is as wide as the line."""
    manner = Manner(TouchForm.LINE, 2.0 / canvas.camera.zoom, tokens.LIGHT.accent)
    points = yield from draw(canvas, start, manner)
    if points:
        _finish(canvas, InkTool.BRIDGE, InkForm.LINE, points)


TOOLS = (nib, pour, spot, ring, bridge)


def _place(canvas: Canvas, start: Pointer, tool: InkTool) -> Drag:
    pointer = start
    while not pointer.released:
        pointer = yield
    _finish(canvas, tool, InkForm.PLACE, ((pointer.x, pointer.y),))


def _finish(canvas: Canvas, tool: InkTool, form: InkForm, points: tuple[Point, ...]) -> None:
    scene = canvas.scene()
    if scene is None:
        return
    brush = canvas.ink_brush
    places = scene.place.to_source(np.array(points, dtype=np.float64))
    inks = brush.inks if tool is InkTool.RING else brush.inks[:1]
    if tool in (InkTool.BRIDGE, InkTool.SPOT):
        inks = ()
    try:
        made = InkTouchUp(tool, form, tuple((float(x), float(y)) for x, y in places), inks, 1.0, brush.everywhere)
    except SettingError as fault:
        if tool is InkTool.RING and not inks:
            canvas.document.failed.emit("Choose in the list the inks that may be in the ring, then draw it.")
        else:
            canvas.document.failed.emit(str(fault))
        return
    width = brush.width_px / scene.place.scale_at(made.middle)
    canvas.ink_touched.emit(replace(made, width_px=min(max(width, 0.5), 2000.0)))
