"""The tools that touch up the picture: nib, scrape, pour; and the corners of a slanted sheet."""

from __future__ import annotations

import math
from collections.abc import Generator
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QLineF

from sobercrow.core.cleanup.touch_ups import simplified
from sobercrow.core.errors import SettingError
from sobercrow.core.settings import INK_COLOUR, PAPER_COLOUR, Corners, Point, TouchForm, TouchTool, TouchUp
from sobercrow.desktop import tokens
from sobercrow.desktop.canvas.tools import Drag, Pointer

if TYPE_CHECKING:
    from sobercrow.desktop.canvas.view import Canvas

CORNER_REACH_PX = 26.0


@dataclass(frozen=True, slots=True)
class Brush:
    """How the next touch-up is made. `width_px` is in pixels of the cleaned picture."""

    form: TouchForm = TouchForm.FREEHAND
    width_px: float = 8.0
    colour: str = INK_COLOUR
    tolerance: float = 24.0
    everywhere: bool = False
    magnifier: bool = True


@dataclass(frozen=True, slots=True)
class Sketch:
    """A touch-up being drawn, in pixels of what is shown; `width_px` 0 for a filled shape, no colour for paper."""

    points: tuple[Point, ...]
    width_px: float
    colour: str | None


@dataclass(frozen=True, slots=True)
class Manner:
    """How something is drawn: its form, how wide in picture pixels, and the colour it is shown in (None: paper)."""

    form: TouchForm
    width_px: float
    colour: str | None


def nib(canvas: Canvas, start: Pointer) -> Drag:
    """Draw with ink or another colour; Shift draws straight."""
    yield from _touch(canvas, start, TouchTool.NIB)


def scrape(canvas: Canvas, start: Pointer) -> Drag:
    """Wipe to paper; Shift draws straight."""
    yield from _touch(canvas, start, TouchTool.SCRAPE)


def pour(canvas: Canvas, start: Pointer) -> Drag:
    """Pour a colour into what lies under the pointer."""
    pointer = start
    while not pointer.released:
        pointer = yield
    _finish(canvas, TouchTool.POUR, TouchForm.PLACE, ((pointer.x, pointer.y),))


TOOLS = (nib, scrape, pour)


def _touch(canvas: Canvas, start: Pointer, tool: TouchTool) -> Drag:
    brush = canvas.brush
    shown = tokens.LIGHT.text if brush.colour == INK_COLOUR else brush.colour
    paper = tool is TouchTool.SCRAPE or brush.colour == PAPER_COLOUR
    points = yield from draw(canvas, start, Manner(brush.form, brush.width_px, None if paper else shown))
    if points:
        _finish(canvas, tool, brush.form, points)


def draw(canvas: Canvas, start: Pointer, manner: Manner) -> Generator[None, Pointer, tuple[Point, ...]]:
    """Draw in a manner, sketched meanwhile; returns the points, none if nothing was drawn."""
    if manner.form is TouchForm.FREEHAND:
        points = yield from _freehand(canvas, start, manner)
    elif manner.form is TouchForm.POLYGON:
        points = yield from _polygon(canvas, start, manner)
    else:
        points = yield from _from_corner(canvas, start, manner)
    canvas.sketch = None
    return points


def _sketch(canvas: Canvas, manner: Manner, points: tuple[Point, ...], filled: bool) -> None:
    canvas.sketch = Sketch(points, 0.0 if filled else manner.width_px, manner.colour)
    canvas.update()


def _freehand(canvas: Canvas, start: Pointer, manner: Manner) -> Generator[None, Pointer, tuple[Point, ...]]:
    path = [(start.x, start.y)]
    _sketch(canvas, manner, tuple(path), filled=False)
    pointer = start
    while not pointer.released:
        pointer = yield
        if pointer.shift:
            path = [path[0], _straight(path[0], pointer)]
        else:
            path.append((pointer.x, pointer.y))
        _sketch(canvas, manner, tuple(path), filled=False)
    return simplified(path)


def _straight(start: Point, pointer: Pointer) -> Point:
    """The pointer's place, moved on to the nearest direction of a twelfth of a turn."""
    dx, dy = pointer.x - start[0], pointer.y - start[1]
    step = math.pi / 12
    angle = round(math.atan2(dy, dx) / step) * step
    length = dx * math.cos(angle) + dy * math.sin(angle)
    return start[0] + length * math.cos(angle), start[1] + length * math.sin(angle)


def _from_corner(canvas: Canvas, start: Pointer, manner: Manner) -> Generator[None, Pointer, tuple[Point, ...]]:
    """A line or a box, from where the pointer went down to where it is."""
    first = (start.x, start.y)

    def so_far(p: Pointer) -> tuple[Point, ...]:
        if manner.form is TouchForm.LINE:
            return first, _straight(first, p) if p.shift else (p.x, p.y)
        dx, dy = p.x - start.x, p.y - start.y
        if p.shift:
            side = max(abs(dx), abs(dy))
            dx, dy = math.copysign(side, dx), math.copysign(side, dy)
        return first, (start.x + dx, start.y), (start.x + dx, start.y + dy), (start.x, start.y + dy)

    pointer = start
    while not pointer.released:
        pointer = yield
        _sketch(canvas, manner, so_far(pointer), filled=manner.form is TouchForm.BOX)
    return so_far(pointer) if QLineF(start.at, pointer.at).length() > tokens.DRAG_THRESHOLD_PX else ()


def _polygon(canvas: Canvas, start: Pointer, manner: Manner) -> Generator[None, Pointer, tuple[Point, ...]]:
    """Corner after corner by clicks; a double click or Enter closes it."""
    corners = [(start.x, start.y)]
    pointer = start
    while not pointer.double:
        pointer = yield
        place = _straight(corners[-1], pointer) if pointer.shift else (pointer.x, pointer.y)
        if pointer.pressed and math.dist(place, corners[-1]) * canvas.camera.zoom > tokens.DRAG_THRESHOLD_PX:
            corners.append(place)
        _sketch(canvas, manner, (*corners, place), filled=True)
    return tuple(corners) if len(corners) >= 3 else ()


def _finish(canvas: Canvas, tool: TouchTool, form: TouchForm, points: tuple[Point, ...]) -> None:
    scene = canvas.scene()
    if scene is None:
        return
    source = scene.place.to_source(np.array(points, dtype=np.float64))
    places = tuple((float(x), float(y)) for x, y in source)
    brush = canvas.brush
    touch_up = TouchUp(tool, form, places, 1.0, brush.colour, brush.tolerance, brush.everywhere)
    width = brush.width_px / scene.place.scale_at(touch_up.middle)
    canvas.touched.emit(replace(touch_up, width_px=min(max(width, 0.5), 2000.0)))


def drag_corner(canvas: Canvas, start: Pointer) -> Drag:
    """Drag the nearest corner of a slanted sheet."""
    corners, scene = canvas.corners, canvas.scene()
    if corners is None or scene is None:
        return
    reach = [QLineF(scene.on_screen(*c), start.at).length() for c in corners]
    nearest = min(range(4), key=lambda k: reach[k])
    if reach[nearest] > CORNER_REACH_PX:
        return
    off = corners[nearest][0] - start.x, corners[nearest][1] - start.y
    before = tuple(corners)
    pointer = start
    while not pointer.released:
        pointer = yield
        corners[nearest] = (pointer.x + off[0], pointer.y + off[1])
        canvas.update()
    try:
        canvas.cornered.emit(Corners(*corners))
    except SettingError as fault:
        canvas.edit_corners(before)
        canvas.document.failed.emit(str(fault))
