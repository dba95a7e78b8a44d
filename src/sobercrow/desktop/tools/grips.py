"""Grips on what is chosen: each takes hold of a press near it, and paints its own mark."""

from __future__ import annotations

import math
from collections.abc import Generator
from typing import Protocol

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter

from sobercrow.core.artwork.anchors import anchor_contour
from sobercrow.core.artwork.choice import AnchorRef, Choice, Edited
from sobercrow.core.artwork.corners import round_corners
from sobercrow.core.artwork.lines import make_arc
from sobercrow.core.artwork.stretches import Stretch, Track, contour_of, part_of, stretch_of
from sobercrow.core.geometry.arcs import arcs_of
from sobercrow.core.geometry.contour import AnchorKind, Contour, directions
from sobercrow.core.settings import mm_to_px, px_to_mm
from sobercrow.desktop import tokens
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.theme import palette
from sobercrow.desktop.tool import Board, Drag, Pointer, is_far
from sobercrow.desktop.tools.carrying import pulled
from sobercrow.desktop.tools.figures import RADIUS, Figures
from sobercrow.desktop.tools.marks import paint_bow, paint_grip, paint_line, paint_quarter

GRIP_AWAY_PX = 16.0
"""The grips of a stretch lie so far beyond its ends on screen, and beside its middle."""
ROUND_AWAY_PX = 24.0
MOST_ROUNDED = 12
"""With more corners chosen than this no grips are shown at them."""
STEP_REACH_PX = 24.0
"""While one runs along a line, the place follows the pointer by no more than this on screen, and twice its own step."""


class Grip(Protocol):
    """Something on the canvas to be pulled."""

    def take(self, board: Board, start: Pointer) -> Drag | None:
        """Return the drag of a press on it; None if it is not there."""

    def paint(self, painter: QPainter, scene: Scene) -> None:
        """Paint its mark."""


def is_near(place: QPointF, at: QPointF) -> bool:
    """Tell whether a press is meant for a mark."""
    return math.hypot(place.x() - at.x(), place.y() - at.y()) <= tokens.HIT_PX


class StretchInHand:
    """The chosen stretch with its contour and its track; kept while it is the same."""

    def __init__(self) -> None:
        """Start with none."""
        self._kept: tuple[Contour, Stretch, Track] | None = None

    def of(self, scene: Scene | None) -> tuple[Contour, Stretch, Track] | None:
        """Return it, or None if no stretch is chosen."""
        stretch = stretch_of(scene.artwork, scene.choice.anchors) if scene is not None else None
        if stretch is None or scene is None:
            self._kept = None
            return None
        contour = contour_of(scene.artwork, stretch)
        if self._kept is None or self._kept[0] is not contour or self._kept[1] != stretch:
            self._kept = (contour, stretch, Track.of(contour))
        return self._kept


def run_along(
    board: Board, start: Pointer, owner: tuple[int, int], track: Track, begin: float, now: float
) -> Generator[None, Pointer, None]:
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
            board.choose(Choice(anchors=Stretch(*owner, *passed).refs(len(track.stops))))
    if not moved:
        board.choose(Choice())


class EndGrips:
    """The line of the chosen stretch, and a bar across it at either end, by which that is pulled on or back."""

    def __init__(self, in_hand: StretchInHand) -> None:
        """Work on the stretch in hand."""
        self._in_hand = in_hand

    def take(self, board: Board, start: Pointer) -> Drag | None:
        """Pull one end of the stretch on, or back."""
        scene = board.scene()
        for is_end, (place, _) in enumerate(self.places(scene) if scene is not None else []):
            if is_near(place, start.at):
                return self._pull(board, start, bool(is_end))
        return None

    def _pull(self, board: Board, start: Pointer, at_end: bool) -> Drag:
        kept = self._in_hand.of(board.scene())
        assert kept is not None
        _, stretch, track = kept
        count = len(track.stops)
        first = float(track.stops[stretch.first])
        last = float(track.stops[(stretch.first + stretch.pieces) % count])
        if last < first or stretch.pieces == count:
            last += track.length
        begin, now = (first, last) if at_end else (last, first)
        yield from run_along(board, start, (stretch.shape, stretch.contour), track, begin, now)

    def places(self, scene: Scene) -> list[tuple[QPointF, QPointF]]:
        """Where the grips are on screen, that of the start first, and which way the line runs there."""
        kept = self._in_hand.of(scene)
        if kept is None or scene.artwork is not scene.base:
            return []
        contour, stretch, track = kept
        if contour.closed and stretch.pieces >= len(contour) - 1:
            return []
        away = GRIP_AWAY_PX / scene.camera.zoom
        found = []
        for place, step in ((stretch.first, -1.0), (stretch.first + stretch.pieces, 1.0)):
            at = float(track.stops[place % len(contour)])
            here, way = track.at(at + step * away)
            found.append((scene.on_screen(*here.tolist()), QPointF(*way.tolist())))
        return found

    def paint(self, painter: QPainter, scene: Scene) -> None:
        """Paint the stretch and its grips."""
        kept = self._in_hand.of(scene)
        if kept is not None:
            contour, stretch, _ = kept
            part = part_of(contour, stretch.first, stretch.pieces)
            paint_line(painter, scene, part.sampled(max(0.5, 3.0 / scene.camera.zoom)), 3.4, palette().mark)
        for place, way in self.places(scene):
            paint_grip(painter, place, way)


class BowGrip:
    """A small bow beside the middle of the chosen stretch: pulled, the stretch becomes an arc through the pointer."""

    def __init__(self, in_hand: StretchInHand, figures: Figures) -> None:
        """Work on the stretch in hand."""
        self._in_hand, self._figures = in_hand, figures

    def place(self, scene: Scene | None) -> tuple[QPointF, np.ndarray, np.ndarray] | None:
        """Where it is on screen, the middle of the stretch, and which way it lies from there; None without one."""
        kept = self._in_hand.of(scene)
        if kept is None or scene is None or scene.artwork is not scene.base:
            return None
        contour, stretch, track = kept
        if contour.closed and stretch.pieces >= len(contour):
            return None
        first = float(track.stops[stretch.first])
        last = float(track.stops[(stretch.first + stretch.pieces) % len(contour)])
        here, way = track.at(first + 0.5 * ((last - first) % track.length if contour.closed else last - first))
        ends = part_of(contour, stretch.first, stretch.pieces).anchors[[0, -1]]
        across = np.array((-way[1], way[0])) / max(float(np.hypot(*way)), 1e-9)
        bows = float(across @ (here - ends.mean(axis=0)))
        across = across if bows >= 0.0 else -across
        beside = here + across * GRIP_AWAY_PX / scene.camera.zoom
        return scene.on_screen(*beside.tolist()), here, across

    def take(self, board: Board, start: Pointer) -> Drag | None:
        """Make the stretch an arc through the pointer, on whichever side that is."""
        artwork, there = board.artwork, self.place(board.scene())
        if artwork is None or there is None or not is_near(there[0], start.at):
            return None
        middle, choice = there[1], board.chosen
        self._figures.begin(RADIUS)

        def arc(p: Pointer) -> Edited:
            through = middle + np.array((p.x - start.x, p.y - start.y))
            typed = self._figures.typed(0)
            radius = None if typed is None else mm_to_px(typed, artwork.dpi)
            made = make_arc(artwork, choice, radius, through)
            stretch = stretch_of(made.artwork, made.choice.anchors)
            if stretch is not None:
                part = part_of(contour_of(made.artwork, stretch), stretch.first, stretch.pieces)
                drawn = arcs_of(part.curves())[0][1]
                self._figures.settle(px_to_mm(drawn.radius, artwork.dpi) if drawn is not None else 0.0)
            return made

        return pulled(board, start, "Make arc", arc, self._figures)

    def paint(self, painter: QPainter, scene: Scene) -> None:
        """Paint the bow."""
        there = self.place(scene)
        if there is not None:
            paint_bow(painter, there[0], QPointF(*there[2].tolist()))


class RoundingGrips:
    """A quarter of a circle within every chosen corner: pulled away from it, the corners become arcs."""

    def __init__(self, figures: Figures) -> None:
        """Tell the radius by some figures."""
        self._figures = figures

    @staticmethod
    def corners(scene: Scene | None) -> list[tuple[AnchorRef, np.ndarray, np.ndarray, float]]:
        """The chosen corners: their names and places, which way lies within, and the sine of half their angle."""
        if scene is None or scene.artwork is not scene.base or len(scene.choice.anchors) > 4 * MOST_ROUNDED:
            return []
        found = []
        for ref in sorted(scene.choice.anchors):
            contour = anchor_contour(scene.artwork, ref)
            is_end = not contour.closed and ref.anchor in (0, len(contour) - 1)
            if is_end or contour.kinds[ref.anchor] != AnchorKind.CORNER:
                continue
            into, out = (ways[ref.anchor] for ways in directions(contour))
            within = out - into
            size = float(np.hypot(*within))
            if size > 1e-3:
                found.append((ref, contour.anchors[ref.anchor], within / size, math.sqrt(max(1.0 - size**2 / 4, 1e-6))))
        return found if len(found) <= MOST_ROUNDED else []

    def take(self, board: Board, start: Pointer) -> Drag | None:
        """Round all chosen corners by the radius the pointer asks for at the one taken hold of."""
        scene = board.scene()
        for _, place, within, sine in self.corners(scene):
            if scene is not None and is_near(self._mark(scene, place, within), start.at):
                return self._pull(board, start, within, sine)
        return None

    def _pull(self, board: Board, start: Pointer, within: np.ndarray, sine: float) -> Drag:
        artwork, choice = board.artwork, board.chosen
        assert artwork is not None
        self._figures.begin(RADIUS)

        def rounded(p: Pointer) -> Edited:
            away = float(np.array((p.x - start.x, p.y - start.y)) @ within)
            radius = max(away, 0.0) * sine / max(1.0 - sine, 0.05)  # so that the arc is as far away as the pointer
            (radius_mm,) = self._figures.settle(px_to_mm(radius, artwork.dpi))
            return round_corners(artwork, choice, mm_to_px(radius_mm, artwork.dpi))

        yield from pulled(board, start, "Round", rounded, self._figures)

    @staticmethod
    def _mark(scene: Scene, place: np.ndarray, within: np.ndarray) -> QPointF:
        return scene.on_screen(*(place + within * ROUND_AWAY_PX / scene.camera.zoom).tolist())

    def paint(self, painter: QPainter, scene: Scene) -> None:
        """Paint the quarters."""
        for _, place, within, _ in self.corners(scene):
            paint_quarter(painter, self._mark(scene, place, within), QPointF(*within.tolist()))
