"""The tools, as generators: press, then yield for every move, then the release.

A tool shows its effect as a preview while it is dragged and makes one change, with one name, at the end.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Generator
from dataclasses import dataclass
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt

from sobercrow.core.artwork import anchors, edits, hit
from sobercrow.core.artwork.anchors import AnchorRef
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.geometry.forms import off_level
from sobercrow.desktop import tokens
from sobercrow.desktop.paths import paths

if TYPE_CHECKING:
    from sobercrow.desktop.canvas.view import Canvas


@dataclass(frozen=True, slots=True)
class Pointer:
    """One event of the pointer: where on screen and in the picture, which keys, whether it was let go."""

    at: QPointF
    x: float
    y: float
    shift: bool
    released: bool
    double: bool = False
    pressed: bool = False


Drag = Generator[None, Pointer, None]
Tool = Callable[["Canvas", Pointer], Drag]


def _far(a: QPointF, b: QPointF) -> bool:
    return (a - b).manhattanLength() > tokens.DRAG_THRESHOLD_PX


def _pull_frame(canvas: Canvas, start: Pointer) -> Generator[None, Pointer, hit.Frame | None]:
    """Pull a frame; returns it in picture pixels, or None after a mere click."""
    pointer = start
    while not pointer.released:
        pointer = yield
        canvas.frame = QRectF(start.at, pointer.at).normalized() if _far(start.at, pointer.at) else None
        canvas.update()
    canvas.frame = None
    if not _far(start.at, pointer.at):
        return None
    return min(start.x, pointer.x), min(start.y, pointer.y), max(start.x, pointer.x), max(start.y, pointer.y)


def _preview(canvas: Canvas, start: Pointer, edit: Callable[[Pointer], Artwork]) -> Drag:
    """Show what an edit would make of the artwork, until the pointer is let go."""
    pointer = start
    while not pointer.released:
        pointer = yield
        if _far(start.at, pointer.at):
            canvas.show_preview(edit(pointer))


def _carry(
    canvas: Canvas, start: Pointer, shapes: frozenset[int]
) -> Generator[None, Pointer, tuple[float, float] | None]:
    """Carry whole shapes until the pointer is let go; returns how far, or None after a mere click."""
    pointer = start
    while not pointer.released:
        pointer = yield
        if canvas.lifted is not None or _far(start.at, pointer.at):
            canvas.lift(shapes, pointer.x - start.x, pointer.y - start.y)
    return (pointer.x - start.x, pointer.y - start.y) if canvas.lifted is not None else None


def _lay(canvas: Canvas, name: str, shapes: frozenset[int], carried: tuple[float, float]) -> None:
    """Lay shapes where they were carried to."""
    before = canvas.document.artwork
    canvas.document.edit(name, edits.move_shapes, shapes, *carried)
    after = canvas.document.artwork
    if before is not None and after is not None:
        for k in shapes:
            paths.carry(before.shapes[k], after.shapes[k], *carried)


def choose(canvas: Canvas, start: Pointer) -> Drag:
    """Choose shapes by click or frame, Shift adds and removes; drag moves the chosen ones."""
    document, artwork = canvas.document, canvas.document.artwork
    if artwork is None:
        return
    chosen = document.selection.shapes
    under = hit.shape_at(artwork, start.x, start.y, canvas.reach_px())
    if under is None:
        frame = yield from _pull_frame(canvas, start)
        found = hit.shapes_in(artwork, frame) if frame else frozenset()
        document.choose(shapes=chosen | found if start.shift else found)
        return
    if start.shift:
        document.choose(shapes=chosen ^ {under})
    elif under not in chosen:
        document.choose(shapes=frozenset({under}))
    moved = document.selection.shapes
    carried = (yield from _carry(canvas, start, moved)) if moved else None
    if carried is not None:
        _lay(canvas, "Move shapes", moved, carried)
    elif not start.shift:
        document.choose(shapes=frozenset({under}))


def edit_anchors(canvas: Canvas, start: Pointer) -> Drag:
    """Choose anchors by click or frame; drag anchors or handles; a double click on a curve adds an anchor."""
    document, artwork = canvas.document, canvas.document.artwork
    if artwork is None:
        return
    reach = canvas.reach_px()
    chosen = document.selection.anchors
    handle = hit.handle_at(artwork, chosen, start.x, start.y, reach)
    anchor = hit.anchor_at(artwork, start.x, start.y, reach)
    if anchor is not None:
        yield from _drag_anchors(canvas, start, anchor)
    elif handle is not None:
        yield from _preview(canvas, start, lambda p: anchors.move_handle(artwork, handle[0], handle[1], p.x, p.y))
        if canvas.preview is not None:
            document.refine("Move handle", canvas.preview)
    elif start.double:
        place = hit.curve_at(artwork, start.x, start.y, reach)
        if place is not None and 0.0 < place.t < 1.0:
            edited, ref = anchors.add_anchor(artwork, place.shape, place.contour, place.curve, place.t)
            document.refine("Add anchor", edited)
            document.choose(anchors=frozenset({ref}))
    else:
        frame = yield from _pull_frame(canvas, start)
        found = hit.anchors_in(artwork, frame) if frame else frozenset()
        document.choose(anchors=chosen | found if start.shift else found)


def _drag_anchors(canvas: Canvas, start: Pointer, anchor: AnchorRef) -> Drag:
    document, artwork = canvas.document, canvas.document.artwork
    assert artwork is not None
    chosen = document.selection.anchors
    if start.shift:
        document.choose(anchors=chosen ^ {anchor})
    elif anchor not in chosen:
        document.choose(anchors=frozenset({anchor}))
    moved = document.selection.anchors
    name = "Move anchors" if len(moved) > 1 else "Move anchor"
    whole = anchors.whole_shapes(artwork, moved)
    if whole is not None:
        carried = yield from _carry(canvas, start, whole)
        if carried is not None:
            _lay(canvas, name, whole, carried)
            return
    elif moved:
        yield from _preview(canvas, start, lambda p: anchors.move_anchors(artwork, moved, p.x - start.x, p.y - start.y))
    if canvas.preview is not None:
        document.refine(name, canvas.preview)
    elif not start.shift:
        document.choose(anchors=frozenset({anchor}))


def crop_edge(edge: str) -> Tool:
    """Return the tool that drags one edge of the crop."""

    def drag(canvas: Canvas, start: Pointer) -> Drag:
        scene = canvas.scene()
        if scene is None:
            return
        page, sheet = scene.page_rect, scene.sheet_rect
        pointer = start
        moved = QRectF(page)
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
            canvas.crop_preview = moved
            canvas.update()
        canvas.crop_preview = None
        if moved != page:
            canvas.cropped.emit(moved.translated(-sheet.left(), -sheet.top()))

    return drag


def crop_frame(canvas: Canvas, start: Pointer) -> Drag:
    """Pull a frame around what is to be kept."""
    scene = canvas.scene()
    frame = yield from _pull_frame(canvas, start)
    if scene is not None and frame is not None:
        kept = QRectF(QPointF(*frame[:2]), QPointF(*frame[2:])).intersected(scene.page_rect)
        canvas.cropped.emit(kept.translated(-scene.sheet_rect.left(), -scene.sheet_rect.top()))


def _draw_line(canvas: Canvas, start: Pointer, text: Callable[[Pointer], str]) -> Generator[None, Pointer, Pointer]:
    """Draw a line with a text at it until the pointer is let go; returns where that was."""
    pointer = start
    while not pointer.released:
        pointer = yield
        canvas.ruler = (start.at, pointer.at, text(pointer))
        canvas.update()
    canvas.ruler = None
    canvas.update()
    return pointer


def measure(canvas: Canvas, start: Pointer) -> Drag:
    """Draw a line along something of known length."""

    def length(p: Pointer) -> float:
        return math.hypot(p.x - start.x, p.y - start.y)

    end = yield from _draw_line(canvas, start, lambda p: f"{length(p):.0f} px")
    if _far(start.at, end.at):
        canvas.measured.emit(length(end))


def level(canvas: Canvas, start: Pointer) -> Drag:
    """Draw a line along something that should be level or upright."""

    def off_deg(p: Pointer) -> float:
        return off_level(math.degrees(math.atan2(p.y - start.y, p.x - start.x)))

    end = yield from _draw_line(canvas, start, lambda p: f"{off_deg(p):+.2f}°")
    if _far(start.at, end.at):
        canvas.levelled.emit(-off_deg(end))


def pick(canvas: Canvas, start: Pointer) -> Drag:
    """Pick a place by a click."""
    pointer = start
    while not pointer.released:
        pointer = yield
    canvas.picked.emit(pointer.x, pointer.y)


def pan(canvas: Canvas, start: Pointer) -> Drag:
    """Move the view with the pointer."""
    pointer, last = start, start.at
    canvas.setCursor(Qt.CursorShape.ClosedHandCursor)
    while not pointer.released:
        pointer = yield
        canvas.set_camera(canvas.camera.panned(pointer.at.x() - last.x(), pointer.at.y() - last.y()))
        last = pointer.at
    canvas.unsetCursor()


def seam(canvas: Canvas, start: Pointer) -> Drag:
    """Pull the seam; let go at either edge of the canvas it is put away."""
    pointer = start
    while not pointer.released:
        pointer = yield
        canvas.set_seam(min(max(pointer.at.x() / max(canvas.width(), 1), 0.0), 1.0))
    if canvas.seam is not None and not 0.02 < canvas.seam < 0.98:
        canvas.set_seam(None)
