"""Choosing, moving and adding anchors; running along a line to choose a stretch of it."""

from __future__ import annotations

import math
from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter

from sobercrow.core.artwork import anchors, hit
from sobercrow.core.artwork.choice import AnchorRef, Choice
from sobercrow.core.artwork.choosing import anchors_within
from sobercrow.core.artwork.snapping import Snap, snapped
from sobercrow.core.artwork.stretches import Stretch, Track, contour_of, part_of, stretch_of
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.settings import px_to_mm
from sobercrow.desktop import tokens
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.steps import Step
from sobercrow.desktop.theme import palette
from sobercrow.desktop.tool import Board, Drag, Pointer, is_far
from sobercrow.desktop.tools.anchor_marks import AnchorMarks
from sobercrow.desktop.tools.carrying import carry, lay, preview
from sobercrow.desktop.tools.frame import FramePulling
from sobercrow.desktop.tools.marks import paint_grip, paint_hair, paint_line, paint_told

GRIP_AWAY_PX = 16.0
"""The grips of a stretch lie so far beyond its ends on screen."""
SNAP_PX = 5.0
STEP_REACH_PX = 24.0
"""While one runs along a line, the place follows the pointer by no more than this on screen, and twice its own step."""


class Anchors(FramePulling):
    """Chooses anchors by click, frame or ring, or by running along a line; drags anchors or handles."""

    id, title, key, icon = "anchors", "Anchors", "A", "anchors"
    step, works_on_artwork = Step.REFINE, True
    help = "Edit anchors and handles; run along a line to choose a stretch."

    def __init__(self) -> None:
        """Start with nothing in hand."""
        super().__init__()
        self._marks = AnchorMarks()
        self._kept: tuple[Contour, Stretch, Track] | None = None
        self._told = ""
        self._snap: Snap | None = None

    @property
    def follows(self) -> bool:
        """Figures beside the pointer follow it."""
        return bool(self._told)

    def press(self, board: Board, start: Pointer) -> Drag:
        """Take hold of what is there: a grip, an anchor, a handle, a line; else pull a frame."""
        artwork = board.artwork
        if artwork is None:
            return
        reach, chosen = board.reach_px(), board.chosen.anchors
        if start.alt:
            ring = yield from self.ring(board, start)
            found = anchors_within(artwork, ring) if ring is not None else frozenset()
            board.choose(Choice(anchors=chosen | found if start.shift else found))
            return
        grip = self._grip_at(board, start.at)
        handle = hit.handle_at(artwork, chosen, start.x, start.y, reach)
        anchor = hit.anchor_at(artwork, start.x, start.y, reach)
        if grip is not None:
            yield from self._pull_end(board, start, at_end=grip)
        elif anchor is not None:
            yield from self._drag_anchors(board, start, anchor)
        elif handle is not None:
            yield from self._drag_handle(board, start, *handle)
        else:
            place = hit.curve_at(artwork, start.x, start.y, reach)
            if place is None:
                frame = yield from self.pull(board, start)
                found = hit.anchors_in(artwork, frame) if frame else frozenset()
                board.choose(Choice(anchors=chosen | found if start.shift else found))
            elif start.double and 0.0 < place.t < 1.0:
                edited, ref = anchors.add_anchor(artwork, place.shape, place.contour, place.curve, place.t)
                board.change("Add anchor", edited, Choice(anchors=frozenset({ref})))
            else:
                yield from self._run_along(board, start, place.shape, place.contour)

    def _run_along(self, board: Board, start: Pointer, shape: int, contour: int) -> Drag:
        """Choose what the pointer passes on a contour."""
        artwork = board.artwork
        assert artwork is not None
        track = Track.of(artwork.shapes[shape].contours[contour])
        begin = track.nearest(start.x, start.y)
        yield from self._run(board, start, shape, contour, track, begin, begin)
        if not board.chosen.anchors and not start.shift:
            board.choose(Choice())

    def _pull_end(self, board: Board, start: Pointer, at_end: bool) -> Drag:
        """Pull one end of the chosen stretch on, or back."""
        assert self._kept is not None
        _, stretch, track = self._kept
        count = len(track.stops)
        first = float(track.stops[stretch.first])
        last = float(track.stops[(stretch.first + stretch.pieces) % count])
        if last < first or stretch.pieces == count:
            last += track.length
        begin, now = (first, last) if at_end else (last, first)
        yield from self._run(board, start, stretch.shape, stretch.contour, track, begin, now)

    def _run(
        self, board: Board, start: Pointer, shape: int, contour: int, track: Track, begin: float, now: float
    ) -> Drag:
        """Choose the anchors from a place along a contour to where the pointer is, following it."""
        pointer, moved = start, False
        before = start.at
        while not pointer.released:
            pointer = yield
            moved = moved or is_far(start.at, pointer.at)
            if not moved:
                continue
            step = math.hypot(pointer.at.x() - before.x(), pointer.at.y() - before.y())
            before = pointer.at
            reach = (STEP_REACH_PX + 2.0 * step) / board.camera.zoom
            now = track.follow(now, pointer.x, pointer.y, reach)
            if track.closed:
                now = min(max(now, begin - track.length), begin + track.length)
            passed = track.passed(begin, now, 0.5 * board.reach_px())
            if passed is not None:
                refs = Stretch(shape, contour, *passed).refs(len(track.stops))
                board.choose(Choice(anchors=refs))
        if not moved:
            board.choose(Choice())

    def _drag_handle(self, board: Board, start: Pointer, ref: AnchorRef, side: anchors.Side) -> Drag:
        artwork = board.artwork
        assert artwork is not None
        anchor = anchors.anchor_contour(artwork, ref).anchors[ref.anchor]

        def place(p: Pointer) -> tuple[float, float]:
            x, y = p.x, p.y
            if p.shift:
                x, y = stepped(float(anchor[0]), float(anchor[1]), x, y)
            length = math.hypot(x - anchor[0], y - anchor[1])
            angle = math.degrees(math.atan2(-(y - anchor[1]), x - anchor[0]))
            self._told = f"{px_to_mm(length, artwork.dpi):.2f} mm, {angle:.0f}°"
            return x, y

        yield from preview(board, start, lambda p: anchors.move_handle(artwork, ref, side, *place(p)))
        self._told = ""
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
        if whole is not None:
            carried = yield from carry(board, start, whole)
            if carried is not None:
                lay(board, name, whole, carried)
                return
        elif moved:
            away = self._way(board, start, anchor, moved)
            yield from preview(board, start, lambda p: anchors.move_anchors(artwork, moved, *away(p)))
            self._told, self._snap = "", None
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

        def way(p: Pointer) -> tuple[float, float]:
            dx, dy = p.x - start.x, p.y - start.y
            self._snap = None
            if p.shift:
                dx, dy = stepped(0.0, 0.0, dx, dy)
            elif not p.ctrl:
                self._snap = snapped(artwork, moved, home[0] + dx, home[1] + dy, SNAP_PX / board.camera.zoom)
                dx, dy = self._snap.x - float(home[0]), self._snap.y - float(home[1])
            words = "".join(f", {word}" for word in self._snap.words) if self._snap is not None else ""
            self._told = f"{px_to_mm(dx, dpi):+.2f}, {px_to_mm(dy, dpi):+.2f} mm{words}"
            return dx, dy

        return way

    # the stretch

    def _stretch(self, scene: Scene) -> tuple[Contour, Stretch, Track] | None:
        """The chosen stretch with its contour and its track; kept while it is the same."""
        stretch = stretch_of(scene.artwork, scene.choice.anchors)
        if stretch is None:
            self._kept = None
            return None
        contour = contour_of(scene.artwork, stretch)
        if self._kept is None or self._kept[0] is not contour or self._kept[1] != stretch:
            self._kept = (contour, stretch, Track.of(contour))
        return self._kept

    def _grips(self, scene: Scene) -> list[tuple[QPointF, QPointF]]:
        """Where the grips at both ends of the chosen stretch are on screen, and which way the line runs there."""
        kept = self._stretch(scene)
        if kept is None or scene.artwork is not scene.base:
            return []
        contour, stretch, track = kept
        if contour.closed and stretch.pieces >= len(contour) - 1:
            return []
        count, away = len(contour), GRIP_AWAY_PX / scene.camera.zoom
        found = []
        for place, step in ((stretch.first, -1.0), (stretch.first + stretch.pieces, 1.0)):
            at = float(track.stops[place % count])
            beyond = at + step * away
            beyond = beyond % track.length if track.closed else min(max(beyond, 0.0), track.length)
            k = min(max(int(track.along.searchsorted(beyond)), 1), len(track.points) - 2)
            here, way = track.points[k], track.points[k + 1] - track.points[k - 1]
            found.append((scene.on_screen(*here.tolist()), QPointF(*way.tolist())))
        return found

    def _grip_at(self, board: Board, at: QPointF) -> bool | None:
        """Which grip is at a place: that of the end, of the start, or none."""
        scene = board.scene()
        for is_end, (place, _) in enumerate(self._grips(scene) if scene is not None else []):
            if math.hypot(place.x() - at.x(), place.y() - at.y()) <= tokens.HIT_PX:
                return bool(is_end)
        return None

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        """Paint the chosen stretch, all anchors in view with the handles of those chosen, and the frame."""
        kept = self._stretch(scene)
        if kept is not None:
            contour, stretch, _ = kept
            part = part_of(contour, stretch.first, stretch.pieces)
            paint_line(painter, scene, part.sampled(max(0.5, 3.0 / scene.camera.zoom)), 3.4, palette().accent)
        if not self._marks.paint(painter, scene, scene.choice.anchors):
            text = "Zoom in to see the anchors"
            width = painter.fontMetrics().horizontalAdvance(text) + 20
            rect = QRectF((scene.width - width) / 2, scene.height - 40, width, 26)
            painter.fillRect(rect, QColor(palette().panel))
            painter.setPen(QColor(palette().text))
            painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, text)
        for place, way in self._grips(scene):
            paint_grip(painter, place, way)
        for x0, y0, x1, y1 in self._snap.lines if self._snap is not None else ():
            paint_hair(painter, scene, (x0, y0), (x1, y1))
        if self._told and at is not None:
            paint_told(painter, at, self._told)
        super().paint(painter, scene, at)

    def let_go(self) -> None:
        """Forget what was being dragged."""
        super().let_go()
        self._told, self._snap = "", None


def stepped(x0: float, y0: float, x: float, y: float) -> tuple[float, float]:
    """Return a place moved onto the nearest direction of an eighth of a turn from another."""
    dx, dy = x - x0, y - y0
    angle = round(math.atan2(dy, dx) / (math.pi / 4)) * math.pi / 4
    length = dx * math.cos(angle) + dy * math.sin(angle)
    return x0 + length * math.cos(angle), y0 + length * math.sin(angle)
