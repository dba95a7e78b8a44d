"""Pour: colour into what lines enclose, with the gaps through which it would run out."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field

import numpy as np
import shapely
from PySide6.QtCore import QLineF, QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen
from shapely.geometry.base import BaseGeometry

from sobercrow.core.artwork import pouring
from sobercrow.core.artwork.gaps import Gap, find_gaps, is_open, same_lines, toggled
from sobercrow.core.artwork.model import Artwork, Pouring
from sobercrow.core.artwork.pouring import GAP_MM, OVERLAP_MM
from sobercrow.core.settings import Meaning, mm_to_px, px_to_mm, setting
from sobercrow.desktop.editing.in_turn import Waiting
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.steps import Step
from sobercrow.desktop.theme import palette
from sobercrow.desktop.tool import Board, Drag, Pointer, Tool, waited

NEAR_PX, SOFT = 7.0, 110


@dataclass(frozen=True, slots=True)
class PourSettings:
    """What is poured, and which gaps hold it."""

    gap_mm: float = setting(
        GAP_MM, Meaning("Gaps", "Gaps up to so wide are closed for pouring.", 0.0, 12.0, "mm", 0.1, 2)
    )
    overlap_mm: float = setting(
        OVERLAP_MM, Meaning("Overlap", "How far a pour runs on under the lines around it.", 0.0, 5.0, "mm", 0.05, 2)
    )
    colour: str = field(default="#8fb9aa", metadata={"label": "Colour", "help": "Of what is poured."})


@dataclass(frozen=True, slots=True, eq=False)
class _Prepared:
    """What lines enclose, for one artwork and one way of pouring."""

    artwork: Artwork
    how: Pouring
    gaps: tuple[Gap, ...]
    areas: tuple[tuple[BaseGeometry, QPainterPath], ...]


class ArtworkPour(Tool):
    """Pours colour into the enclosed area under the pointer, which is shown before. A gap clicked opens or closes."""

    id, title, icon, shares = "art-pour", "Pour colour", "drop", "pour"
    step, works_on_artwork = Step.REFINE, True
    help = "Click an area that lines enclose to pour colour into it; click a bridge to open or close it."

    def __init__(self) -> None:
        """Start with all gaps closed."""
        super().__init__()
        self.settings = PourSettings()
        self.opened: frozenset[tuple[float, float]] = frozenset()
        self._ready: _Prepared | None = None
        self._asked: tuple[Artwork, Pouring] | None = None

    @property
    def follows(self) -> bool:
        """The area under the pointer is shown."""
        return True

    def how(self, artwork: Artwork) -> Pouring:
        """How it is poured, in pixels."""
        gap, overlap = mm_to_px(self.settings.gap_mm, artwork.dpi), mm_to_px(self.settings.overlap_mm, artwork.dpi)
        return Pouring(gap, overlap, self.opened)

    def bridges(self) -> tuple[Gap, ...]:
        """The gaps that are closed, as far as they are known."""
        return tuple(gap for gap in self._ready.gaps if not self._is_open(gap)) if self._ready else ()

    def prepare(self, board: Board) -> None:
        """Have areas and gaps found in the background, when they are not those of the artwork any more."""
        artwork = board.artwork
        if artwork is None:
            return
        if self._asked is None or self._asked[0] is not artwork:
            layer = pouring.poured_layer(artwork)
            if layer is not None and layer.poured is not None:
                self.opened = layer.poured.opened
        how = self.how(artwork)
        if self._asked is not None and self._asked[0] is artwork and self._asked[1] == how:
            return
        self._asked = (artwork, how)

        def work() -> _Prepared:
            areas = pouring.areas_of(artwork, how)
            gaps = find_gaps(artwork, how.gap_px)
            return _Prepared(artwork, how, tuple(gaps), tuple((area, _path(area)) for area in areas))

        def take(made: object) -> None:
            if isinstance(made, _Prepared):
                self._ready = made
                board.update()

        board.ask(work, take)

    def press(self, board: Board, start: Pointer) -> Drag:
        """Open or close the bridge there, or pour."""
        pointer = yield from waited(start)
        artwork, ready = board.artwork, self._ready
        if artwork is None or ready is None or not same_lines(ready.artwork, artwork):
            board.say("Areas are still being looked for; click again in a moment.")
            return
        gap = self._gap_at(ready.gaps, pointer, NEAR_PX / board.camera.zoom)
        if gap is not None:
            self.opened = toggled(self.how(artwork), gap).opened
            state = "open" if self._is_open(gap) else "closed"
            board.say(f"The gap of {px_to_mm(gap.length_px, artwork.dpi):.2f} mm is {state}.")
            board.update()
            if pouring.poured_layer(artwork) is not None:
                how = self.how(artwork)
                board.edit_in_turn(Waiting("Pour again", lambda: lambda one: pouring.pour_again(one, how)))
            return
        board.edit("Pour", pouring.pour, pointer.x, pointer.y, self.settings.colour, ready.how)

    def _is_open(self, gap: Gap) -> bool:
        return is_open(gap, Pouring(0.0, 0.0, self.opened))

    @staticmethod
    def _gap_at(gaps: Iterable[Gap], pointer: Pointer, reach: float) -> Gap | None:
        place = shapely.Point(pointer.x, pointer.y)
        near = [(shapely.LineString([(g.x0, g.y0), (g.x1, g.y1)]).distance(place), g) for g in gaps]
        away, gap = min(near, key=lambda one: one[0], default=(reach + 1.0, None))
        return gap if away <= reach else None

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        """Paint the bridges, dotted, with their lengths, and the area under the pointer in its colour."""
        ready = self._ready
        if ready is None or not same_lines(ready.artwork, scene.base):
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if at is not None:
            x, y = scene.camera.to_picture(at.x(), at.y(), scene.width, scene.height)
            place = shapely.Point(x, y)
            under = next((path for area, path in ready.areas if area.contains(place)), None)
            if under is not None:
                painter.save()
                scene.to_picture(painter)
                soft = QColor(self.settings.colour)
                soft.setAlpha(SOFT + 60)
                painter.fillPath(under, soft)
                painter.restore()
        for gap in ready.gaps:
            self._paint_gap(painter, scene, gap)

    def _paint_gap(self, painter: QPainter, scene: Scene, gap: Gap) -> None:
        start, end = scene.on_screen(gap.x0, gap.y0), scene.on_screen(gap.x1, gap.y1)
        is_open = self._is_open(gap)
        colour = QColor(palette().muted if is_open else palette().mark)
        painter.setPen(QPen(colour, 2.4, Qt.PenStyle.DotLine, Qt.PenCapStyle.RoundCap))
        line = QLineF(start, end)
        if is_open:  # only its ends are shown
            for place in (start, end):
                painter.drawEllipse(place, 2.0, 2.0)
        else:
            painter.drawLine(line)
        painter.setPen(colour)
        text = f"{px_to_mm(gap.length_px, scene.artwork.dpi):.1f}"
        painter.drawText(line.center() + QPointF(8.0, -6.0), f"{text} open" if is_open else text)

    def cursor(self, board: Board, at: QPointF) -> Qt.CursorShape | None:
        """Return a cross."""
        return Qt.CursorShape.CrossCursor


def _path(area: BaseGeometry) -> QPainterPath:
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.OddEvenFill)
    for part in shapely.get_parts(area):
        for ring in (part.exterior, *part.interiors):
            points = np.asarray(ring.coords)
            path.moveTo(*points[0])
            for x, y in points[1:].tolist():
                path.lineTo(x, y)
            path.closeSubpath()
    return path
