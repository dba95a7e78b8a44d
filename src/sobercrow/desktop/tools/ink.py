"""Nib and Scrape on artwork: ink added to shapes, and taken away."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QLineF, QPointF
from PySide6.QtGui import QColor, QPainter, QPen

from sobercrow.core.artwork import inking
from sobercrow.core.artwork.choice import Edited
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.settings import MM_PER_INCH
from sobercrow.desktop import tokens
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.steps import Step
from sobercrow.desktop.theme import palette
from sobercrow.desktop.tool import Board, Drag, Pointer, Tool
from sobercrow.desktop.tools.marks import paint_nib, paint_swelling
from sobercrow.desktop.tools.sketching import straight


class Inking(Tool):
    """A tool that draws with a nib; Shift draws straight."""

    step, works_on_artwork = Step.REFINE, True
    name: str

    def __init__(self) -> None:
        """Start with the usual nib."""
        super().__init__()
        self.settings = inking.Nib()
        self._path: list[tuple[float, float]] = []
        self._widths: list[float] = []

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
        pointer = start
        while not pointer.released:
            pointer = yield
            if pointer.shift:
                self._path = [self._path[0], straight(self._path[0], pointer)]
                self._widths = [self._widths[0], pointer.width]
            else:
                self._path.append((pointer.x, pointer.y))
                self._widths.append(pointer.width)
            board.update()
        path, shares, nib, zoom = np.array(self._path), np.array(self._widths), self.settings, board.camera.zoom
        self.let_go()

        def work(artwork: Artwork) -> Artwork | Edited:
            return self.work(artwork, inking.swept(path, nib, artwork.dpi, zoom, shares))

        board.edit_beside(self.name, work, on_any=True)

    def work(self, artwork: Artwork, outlines: list[Contour]) -> Artwork | Edited:
        """What a stroke of these outlines does to the artwork."""
        raise NotImplementedError

    def let_go(self) -> None:
        """Forget what was being drawn."""
        self._path, self._widths = [], []

    def colour(self, scene: Scene) -> str:
        """In what colour the stroke is shown."""
        return scene.artwork.shapes[-1].colour if scene.artwork.shapes else tokens.LIGHT.text

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        """Paint the stroke, or the nib."""
        width = self.settings.width_mm * scene.artwork.dpi / MM_PER_INCH * scene.camera.zoom
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self._path and not self.settings.flat:
            places = [scene.on_screen(*p) for p in self._path]
            paint_swelling(painter, places, [share * width for share in self._widths], self.colour(scene))
        elif self._path:
            for p, share in zip(self._path, self._widths, strict=True):
                wide = share * width
                self._paint_edge(painter, scene.on_screen(*p), wide, QColor(self.colour(scene)), 0.25 * wide)
        if at is not None and not self._path:
            if self.settings.flat:
                self._paint_edge(painter, at, width, QColor(palette().mark), 2.0)
            else:
                paint_nib(painter, at, 0.5 * width)

    def _paint_edge(self, painter: QPainter, at: QPointF, width: float, colour: QColor, thick: float) -> None:
        """Paint the edge of a flat nib."""
        angle = math.radians(self.settings.angle_deg)
        arm = QPointF(math.cos(angle), -math.sin(angle)) * (0.5 * width)
        painter.setPen(QPen(colour, max(thick, 1.0)))
        painter.drawLine(QLineF(at - arm, at + arm))


class ArtworkNib(Inking):
    """Adds ink: what it touches becomes one shape with it."""

    id, title, icon, shares, name = "art-nib", "Nib on artwork", "nib", "nib", "Draw with the nib"
    starts_group = True
    help = "Draw ink; with what it touches it becomes one shape. In this step N is enough."

    def work(self, artwork: Artwork, outlines: list[Contour]) -> Artwork | Edited:
        """Unite the stroke with what it touches."""
        return inking.add_ink(artwork, outlines, artwork.shapes[-1].colour if artwork.shapes else "#000000")


class ArtworkScrape(Inking):
    """Takes ink away from what it touches, which may come apart."""

    id, title, icon, shares, name = "art-scrape", "Scrape artwork", "scrape", "scrape", "Scrape"
    help = "Take ink away from what is touched. In this step S is enough."

    def work(self, artwork: Artwork, outlines: list[Contour]) -> Artwork | Edited:
        """Subtract the stroke from what it touches."""
        return inking.scrape_ink(artwork, outlines)

    def colour(self, scene: Scene) -> str:
        """In the colour of the page."""
        return palette().page
