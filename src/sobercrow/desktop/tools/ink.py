"""Nib and Scrape on artwork: ink added to shapes, and taken away."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QLineF, QPointF
from PySide6.QtGui import QColor, QPainter, QPen

from sobercrow.core.artwork import hit, inking
from sobercrow.core.artwork.choice import Edited
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.settings import MM_PER_INCH
from sobercrow.desktop.editing.in_turn import Waiting
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.steps import Step
from sobercrow.desktop.theme import palette
from sobercrow.desktop.tool import Board, Drag, Pointer, Tool
from sobercrow.desktop.tools.marks import paint_nib, paint_swelling
from sobercrow.desktop.tools.sketching import straight


@dataclass(frozen=True, slots=True, eq=False)
class Stroke:
    """Where a nib was led, in picture pixels, the share of its width at each place, and in what colour it is shown."""

    nib: inking.Nib
    path: list[tuple[float, float]]
    widths: list[float]
    colour: str

    def outlines(self, dpi: float, zoom: float) -> list[Contour]:
        """Return what it inks."""
        return inking.swept(np.array(self.path), self.nib, dpi, zoom, np.array(self.widths))


class Inking(Tool):
    """A tool that draws with a nib; Shift draws straight. What was drawn is shown until the artwork has it."""

    step, works_on_artwork = Step.REFINE, True
    name: str

    def __init__(self) -> None:
        """Start with the usual nib."""
        super().__init__()
        self.settings = inking.Nib()
        self._path: list[tuple[float, float]] = []
        self._widths: list[float] = []
        self._ink: str | None = None
        self._waiting: list[Stroke] = []

    @property
    def follows(self) -> bool:
        """The shape of the nib follows the pointer."""
        return True

    def press(self, board: Board, start: Pointer) -> Drag:
        """Draw, and do it when the pointer is let go."""
        artwork = board.artwork
        if artwork is None:
            return
        self._path, self._widths = [(start.x, start.y)], [start.width]
        self._ink = self.ink_at(artwork, start)
        pointer = start
        while not pointer.released:
            pointer = yield
            self._ink = self._ink or self.ink_at(artwork, pointer)
            if pointer.shift:
                self._path = [self._path[0], straight(self._path[0], pointer)]
                self._widths = [self._widths[0], pointer.width]
            else:
                self._path.append((pointer.x, pointer.y))
                self._widths.append(pointer.width)
            board.update()
        stroke = Stroke(self.settings, self._path, self._widths, self._ink or self.usual_ink(artwork))
        zoom = board.camera.zoom
        self.let_go()
        self._waiting.append(stroke)

        def work(artwork: Artwork) -> Artwork | Edited:
            return self.work(artwork, stroke.outlines(artwork.dpi, zoom), stroke.colour)

        def ended() -> None:
            self._waiting.remove(stroke)
            board.update()

        board.edit_in_turn(Waiting(self.name, lambda: work, on_any=True, ended=ended))

    def work(self, artwork: Artwork, outlines: list[Contour], colour: str) -> Artwork | Edited:
        """What a stroke of these outlines does to the artwork."""
        raise NotImplementedError

    def ink_at(self, artwork: Artwork, pointer: Pointer) -> str | None:
        """The colour of a stroke that has come to a place, if that tells it."""
        return None

    def usual_ink(self, artwork: Artwork) -> str:
        """The colour of a stroke that comes upon nothing that tells it."""
        return palette().page

    def let_go(self) -> None:
        """Forget what was being drawn."""
        self._path, self._widths, self._ink = [], [], None

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        """Paint the strokes, or the nib."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        colour = self._ink or self.usual_ink(scene.artwork)
        drawn = [Stroke(self.settings, self._path, self._widths, colour)] if self._path else []
        for stroke in (*self._waiting, *drawn):
            _paint_stroke(painter, scene, stroke)
        if at is not None and not self._path:
            width = _width_on_screen(self.settings, scene)
            if self.settings.flat:
                _paint_edge(painter, at, self.settings, width, QColor(palette().mark), 2.0)
            else:
                paint_nib(painter, at, 0.5 * width)


def _width_on_screen(nib: inking.Nib, scene: Scene) -> float:
    return nib.width_mm * scene.artwork.dpi / MM_PER_INCH * scene.camera.zoom


def _paint_stroke(painter: QPainter, scene: Scene, stroke: Stroke) -> None:
    places = [scene.on_screen(*place) for place in stroke.path]
    widths = [share * _width_on_screen(stroke.nib, scene) for share in stroke.widths]
    if not stroke.nib.flat:
        paint_swelling(painter, places, widths, stroke.colour)
        return
    for at, width in zip(places, widths, strict=True):
        _paint_edge(painter, at, stroke.nib, width, QColor(stroke.colour), 0.25 * width)


def _paint_edge(painter: QPainter, at: QPointF, nib: inking.Nib, width: float, colour: QColor, thick: float) -> None:
    """Paint the edge of a flat nib."""
    angle = math.radians(nib.angle_deg)
    arm = QPointF(math.cos(angle), -math.sin(angle)) * (0.5 * width)
    painter.setPen(QPen(colour, max(thick, 1.0)))
    painter.drawLine(QLineF(at - arm, at + arm))


class ArtworkNib(Inking):
    """Adds ink, that of the first shape it comes upon: what it touches of that becomes one shape with it."""

    id, title, icon, shares, name = "art-nib", "Nib on artwork", "nib", "nib", "Draw with the nib"
    starts_group = True
    help = "Draw in the ink of the first shape you come upon; it becomes one with what it touches of that."

    def work(self, artwork: Artwork, outlines: list[Contour], colour: str) -> Artwork | Edited:
        """Unite the stroke with what it touches of its ink."""
        return inking.add_ink(artwork, outlines, colour)

    def ink_at(self, artwork: Artwork, pointer: Pointer) -> str | None:
        """That of the shape there."""
        under = hit.shape_at(artwork, pointer.x, pointer.y)
        return artwork.shapes[under].colour if under is not None and artwork.shapes[under].is_filled else None

    def usual_ink(self, artwork: Artwork) -> str:
        """That of the uppermost shape."""
        return artwork.shapes[-1].colour if artwork.shapes else "#000000"


class ArtworkScrape(Inking):
    """Takes ink away from what it touches, which may come apart."""

    id, title, icon, shares, name = "art-scrape", "Scrape artwork", "scrape", "scrape", "Scrape"
    help = "Take ink away from what is touched. In this step S is enough."

    def work(self, artwork: Artwork, outlines: list[Contour], colour: str) -> Artwork | Edited:
        """Subtract the stroke from what it touches."""
        return inking.scrape_ink(artwork, outlines)
