"""Choosing, moving and adding anchors; running along a line to choose a stretch of it."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter

from sobercrow.core.artwork import anchors, hit
from sobercrow.core.artwork.choice import AnchorRef, Choice
from sobercrow.core.artwork.choosing import anchors_within
from sobercrow.core.artwork.snapping import snapped, snapped_handle
from sobercrow.core.artwork.stretches import Track
from sobercrow.core.settings import mm_to_px, px_to_mm
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.steps import Step
from sobercrow.desktop.theme import palette
from sobercrow.desktop.tool import Board, Drag, Pointer
from sobercrow.desktop.tools.anchor_marks import AnchorMarks
from sobercrow.desktop.tools.carrying import carry, lay, preview
from sobercrow.desktop.tools.figures import ACROSS, ANGLE, DOWN, LENGTH, Figures
from sobercrow.desktop.tools.frame import FramePulling
from sobercrow.desktop.tools.grips import BowGrip, EndGrips, Grip, RoundingGrips, StretchInHand, run_along
from sobercrow.desktop.tools.placing import PlacingMarks

SNAP_PX = 5.0


class Anchors(FramePulling):
    """Chooses anchors by click, frame or ring, or by running along a line; drags anchors, handles and grips."""

    id, title, key, icon = "anchors", "Anchors", "A", "anchors"
    step, works_on_artwork = Step.REFINE, True
    help = "Edit anchors and handles; run along a line to choose a stretch."

    def __init__(self) -> None:
        """Start with nothing in hand."""
        super().__init__()
        self._marks = AnchorMarks()
        self.figures = Figures()
        in_hand = StretchInHand()
        self.ends, self.bow = EndGrips(in_hand), BowGrip(in_hand, self.figures)
        self.rounding, self.placing = RoundingGrips(self.figures), PlacingMarks(self.figures, least=2)
        self._above: tuple[Grip, ...] = (self.ends, self.bow, self.rounding)

    @property
    def follows(self) -> bool:
        """Figures beside the pointer follow it."""
        return bool(self.figures.told)

    def press(self, board: Board, start: Pointer) -> Drag:
        """Take hold of what is there: a grip, an anchor, a handle, a mark around them, a line; else pull a frame."""
        artwork = board.artwork
        if artwork is None:
            return
        reach, chosen = board.reach_px(), board.chosen.anchors
        if start.alt and self.placing.take(board, start) is None:
            ring = yield from self.ring(board, start)
            found = anchors_within(artwork, ring) if ring is not None else frozenset()
            board.choose(Choice(anchors=chosen | found if start.shift else found))
            return
        pulled = next((drag for grip in self._above if (drag := grip.take(board, start)) is not None), None)
        if pulled is not None:
            yield from pulled
            return
        anchor = hit.anchor_at(artwork, start.x, start.y, reach)
        handle = hit.handle_at(artwork, chosen, start.x, start.y, reach)
        if anchor is not None:
            yield from self._drag_anchors(board, start, anchor)
        elif handle is not None:
            yield from self._drag_handle(board, start, *handle)
        elif (marked := self.placing.take(board, start)) is not None:
            yield from marked
        else:
            yield from self._press_line(board, start)

    def _press_line(self, board: Board, start: Pointer) -> Drag:
        """Run along the line there, or add an anchor to it by a double click; off the line, pull a frame."""
        artwork, chosen = board.artwork, board.chosen.anchors
        assert artwork is not None
        place = hit.curve_at(artwork, start.x, start.y, board.reach_px())
        if place is None:
            frame = yield from self.pull(board, start)
            found = hit.anchors_in(artwork, frame) if frame else frozenset()
            board.choose(Choice(anchors=chosen | found if start.shift else found))
        elif start.double and 0.0 < place.t < 1.0:
            edited, ref = anchors.add_anchor(artwork, place.shape, place.contour, place.curve, place.t)
            board.change("Add anchor", edited, Choice(anchors=frozenset({ref})))
        else:
            track = Track.of(artwork.shapes[place.shape].contours[place.contour])
            begin = track.nearest(start.x, start.y)
            yield from run_along(board, start, (place.shape, place.contour), track, begin, begin)

    def _drag_handle(self, board: Board, start: Pointer, ref: AnchorRef, side: anchors.Side) -> Drag:
        artwork = board.artwork
        assert artwork is not None
        dpi = artwork.dpi
        anchor = anchors.anchor_contour(artwork, ref).anchors[ref.anchor]
        self.figures.begin(LENGTH, ANGLE)

        def place(p: Pointer) -> tuple[float, float]:
            snap = None
            x, y = p.x, p.y
            if p.shift:
                x, y = stepped(float(anchor[0]), float(anchor[1]), x, y)
            elif not p.ctrl:
                snap = snapped_handle(artwork, ref, side, x, y, SNAP_PX / board.camera.zoom)
                x, y = snap.x, snap.y
            length, angle = anchors.handle_figures(np.array((x, y)) - anchor)
            length, angle = self.figures.settle(px_to_mm(length, dpi), angle, snap=snap)
            return anchors.handle_end(anchor, mm_to_px(length, dpi), angle) if self.figures.is_typed else (x, y)

        yield from preview(board, start, lambda p: anchors.move_handle(artwork, ref, side, *place(p)), self.figures)
        self.figures.clear()
        if board.preview is not None:
            board.change("Move handle", board.preview)

    def _drag_anchors(self, board: Board, start: Pointer, anchor: AnchorRef) -> Drag:
        artwork, chosen = board.artwork, board.chosen.anchors
        assert artwork is not None
        if start.shift:
            board.choose(Choice(anchors=chosen ^ {anchor}))
        elif anchor not in chosen:
            board.choose(Choice(anchors=frozenset({anchor})))
        moved = board.chosen.anchors
        name = "Move anchors" if len(moved) > 1 else "Move anchor"
        whole = anchors.whole_shapes(artwork, moved)
        way = self._way(board, start, anchor, moved)
        if whole is not None:
            carried = yield from carry(board, start, whole, self.figures, way)
            if carried is not None:
                lay(board, name, whole, carried)
                return
        elif moved:
            yield from preview(board, start, lambda p: anchors.move_anchors(artwork, moved, *way(p)), self.figures)
            self.figures.clear()
        if board.preview is not None:
            board.change(name, board.preview)
        elif not start.shift:
            board.choose(Choice(anchors=frozenset({anchor})))

    def _way(
        self, board: Board, start: Pointer, anchor: AnchorRef, moved: frozenset[AnchorRef]
    ) -> Callable[[Pointer], tuple[float, float]]:
        """How far the anchor taken hold of comes: snapped unless Ctrl is held, in steps of 45° with Shift."""
        artwork = board.artwork
        assert artwork is not None
        dpi = artwork.dpi
        home = anchors.anchor_contour(artwork, anchor).anchors[anchor.anchor]
        self.figures.begin(ACROSS, DOWN)

        def way(p: Pointer) -> tuple[float, float]:
            dx, dy = p.x - start.x, p.y - start.y
            snap = None
            if p.shift:
                dx, dy = stepped(0.0, 0.0, dx, dy)
            elif not p.ctrl:
                reach = SNAP_PX / board.camera.zoom
                snap = snapped(artwork, moved, home[0] + dx, home[1] + dy, reach, board.guides)
                dx, dy = snap.x - float(home[0]), snap.y - float(home[1])
            across, down = self.figures.settle(px_to_mm(dx, dpi), px_to_mm(dy, dpi), snap=snap)
            return (mm_to_px(across, dpi), mm_to_px(down, dpi)) if self.figures.is_typed else (dx, dy)

        return way

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        """Paint the chosen stretch, all anchors in view with the handles of those chosen, grips, and the frame."""
        self.ends.paint(painter, scene)
        if not self._marks.paint(painter, scene, scene.choice.anchors):
            text = "Zoom in to see the anchors"
            width = painter.fontMetrics().horizontalAdvance(text) + 20
            rect = QRectF((scene.width - width) / 2, scene.height - 40, width, 26)
            painter.fillRect(rect, QColor(palette().panel))
            painter.setPen(QColor(palette().text))
            painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, text)
        for grip in (self.bow, self.rounding, self.placing):
            grip.paint(painter, scene)
        self.figures.paint(painter, scene, at)
        super().paint(painter, scene, at)

    def let_go(self) -> None:
        """Forget what was being dragged."""
        super().let_go()
        self.figures.clear()


def stepped(x0: float, y0: float, x: float, y: float) -> tuple[float, float]:
    """Return a place moved onto the nearest direction of an eighth of a turn from another."""
    dx, dy = x - x0, y - y0
    angle = round(math.atan2(dy, dx) / (math.pi / 4)) * math.pi / 4
    length = dx * math.cos(angle) + dy * math.sin(angle)
    return x0 + length * math.cos(angle), y0 + length * math.sin(angle)
