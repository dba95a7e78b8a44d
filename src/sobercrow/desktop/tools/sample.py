"""Sample: a colour pulled from one place onto a shape."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from sobercrow.core.artwork import edits, hit
from sobercrow.core.artwork.model import Artwork
from sobercrow.desktop import tokens
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.steps import Step
from sobercrow.desktop.tool import Board, Drag, Pointer, Tool, is_far

DROP_PX, BELOW_PX = 9.0, 20.0


class SampleColour(Tool):
    """Takes the colour where it is pressed, of the artwork or with Alt of the drawing, and fills the shape where it is
    let go; let go at the same place, the chosen shapes."""

    id, title, key = "art-sample", "Pull a colour", "Y"
    step, works_on_artwork = Step.REFINE, True
    keeps_shapes = True
    help = "Pull a colour from the artwork, with Alt from the drawing, onto a shape."

    def __init__(self) -> None:
        """Start with no colour."""
        super().__init__()
        self.colour: str | None = None

    @property
    def follows(self) -> bool:
        """The colour hangs at the pointer."""
        return self.colour is not None

    def press(self, board: Board, start: Pointer) -> Drag:
        """Take a colour, and give it to what it is let go on."""
        artwork = board.artwork
        if artwork is None:
            return
        self.colour = self._at(board, artwork, start)
        if self.colour is None:
            board.refuse("There is no colour here. Begin on a shape, or with Alt on the drawing.")
            return
        pointer = start
        while not pointer.released:
            pointer = yield
            board.update()
        colour = self.colour
        self.colour = None
        onto = hit.shape_at(artwork, pointer.x, pointer.y, board.reach_px()) if is_far(start.at, pointer.at) else None
        shapes = frozenset({onto}) if onto is not None else board.chosen.shapes
        if shapes:
            board.edit("Fill shapes", edits.fill_shapes, shapes, colour)
        else:
            board.say(f"{colour}: let it go on a shape to fill that.")

    @staticmethod
    def _at(board: Board, artwork: Artwork, pointer: Pointer) -> str | None:
        if pointer.alt:
            return board.colour_at(pointer.x, pointer.y)
        under = hit.shape_at(artwork, pointer.x, pointer.y, board.reach_px())
        return artwork.shapes[under].colour if under is not None else None

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        """Paint the colour below the pointer."""
        if self.colour is not None and at is not None:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(QColor(tokens.LIGHT.page), 2.0))
            painter.setBrush(QColor(self.colour))
            painter.drawEllipse(at + QPointF(0.0, BELOW_PX), DROP_PX, DROP_PX)

    def cursor(self, board: Board, at: QPointF) -> Qt.CursorShape | None:
        """Return a cross."""
        return Qt.CursorShape.CrossCursor

    def let_go(self) -> None:
        """Forget the colour."""
        self.colour = None
