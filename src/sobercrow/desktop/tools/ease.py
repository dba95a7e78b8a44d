"""Ease: stroking along an edge makes it calm."""

from __future__ import annotations

import math
from typing import ClassVar

from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter

from sobercrow.core.artwork import hit
from sobercrow.core.artwork.easing import Ease as EaseSettings
from sobercrow.core.artwork.easing import Eased, ease
from sobercrow.core.artwork.stretches import Track
from sobercrow.core.errors import EditError
from sobercrow.core.settings import px_to_mm
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.steps import Step
from sobercrow.desktop.tool import Board, Drag, Pointer, Tool
from sobercrow.desktop.tools.marks import paint_nib

REACH_PX = 18.0
"""The edge is looked for so far around the pointer on screen."""


class Ease(Tool):
    """Makes the contour under the pointer calm where it is stroked, more with every stroke."""

    id, title, key, icon = "ease", "Ease", "E", "ease"
    step, starts_group, works_on_artwork = Step.REFINE, True, True
    help = "Stroke along an edge: it becomes calm, more with every stroke."
    settings: EaseSettings
    usual: ClassVar[EaseSettings] = EaseSettings()

    def __init__(self) -> None:
        """Start with the usual reach and strength."""
        super().__init__()
        self.settings = self.usual

    @property
    def follows(self) -> bool:
        """The ring that shows the reach follows the pointer."""
        return True

    def press(self, board: Board, start: Pointer) -> Drag:
        """Follow the contour first touched; only that one is eased."""
        artwork = board.artwork
        if artwork is None:
            return
        reach = REACH_PX / board.camera.zoom
        place = hit.curve_at(artwork, start.x, start.y, reach)
        if place is None:
            board.refuse("There is no edge here. Stroke along the line itself.")
            return
        track = Track.of(artwork.shapes[place.shape].contours[place.contour])
        now = track.nearest(start.x, start.y)
        low = high = now
        made: Eased | None = None
        pointer, before = start, start.at
        while not pointer.released:
            pointer = yield
            step = math.hypot(pointer.at.x() - before.x(), pointer.at.y() - before.y())
            before = pointer.at
            now = track.follow(now, pointer.x, pointer.y, reach + 2.0 * step / board.camera.zoom)
            low, high = min(low, now), max(high, now)
            if track.closed:
                high = min(high, low + track.length)
            try:
                made = ease(artwork, place.shape, place.contour, low, high, self.settings)
            except EditError:
                continue
            board.show(made.artwork)
        if made is not None:
            board.change("Ease", made.artwork)
            board.say(
                f"Eased over {px_to_mm(high - low, artwork.dpi):.1f} mm; the line moved by "
                f"{px_to_mm(made.shift_px, artwork.dpi):.3f} mm ({made.shift_px:.2f} px) at most."
            )

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        """Paint how far the stroke reaches."""
        if at is not None:
            paint_nib(painter, at, self.settings.reach_px * scene.camera.zoom)
