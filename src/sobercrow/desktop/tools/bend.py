"""Bend: pegs hold a drawing; one is pulled, and the rest follows softly."""

from __future__ import annotations

from PySide6.QtCore import QLineF, QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from sobercrow.core.artwork import bending, hit
from sobercrow.core.artwork.choice import Choice, Edited
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.artwork.tree import together
from sobercrow.core.settings import px_to_mm
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.steps import Step
from sobercrow.desktop.theme import palette
from sobercrow.desktop.tool import Board, Drag, Pointer, Tool
from sobercrow.desktop.tools.carrying import pulled
from sobercrow.desktop.tools.figures import ACROSS, DOWN, Figures
from sobercrow.desktop.tools.grips import is_near

PEG_PX, STEM_PX = 5.0, 11.0


class Bend(Tool):
    """A click sets a peg on the chosen shapes, or on the one under the pointer; a pull at a peg bends them.

    Alt and a click take a peg away. Pegs go with the choice they were set for.
    """

    id, title, icon, shares = "bend", "Bend", "bend", "bridge"
    step, works_on_artwork = Step.REFINE, True
    keeps_shapes = True
    help = "Click to set pegs on a shape, then pull one; Alt-click takes one away."

    def __init__(self) -> None:
        """Start without pegs."""
        super().__init__()
        self.figures = Figures()
        self.pegs: list[tuple[float, float]] = []
        self._of: tuple[Artwork, frozenset[int]] | None = None

    @property
    def follows(self) -> bool:
        """Figures beside the pointer follow it."""
        return bool(self.figures.told)

    def _there(self, scene: Scene) -> bool:
        """Whether the pegs are set in what is chosen now."""
        return self._of is not None and self._of[0] is scene.base and self._of[1] == scene.choice.shapes

    def press(self, board: Board, start: Pointer) -> Drag:
        """Set a peg, take one away, or pull it."""
        artwork, scene = board.artwork, board.scene()
        if artwork is None or scene is None:
            return
        if not self._there(scene):
            self.pegs = []
        at = next((k for k, peg in enumerate(self.pegs) if is_near(scene.on_screen(*peg), start.at)), None)
        if at is None:
            under = hit.shape_at(artwork, start.x, start.y, board.reach_px())
            if under is None:
                self.pegs = []
                board.choose(Choice())
                return
            if under not in board.chosen.shapes:
                self.pegs = []
                board.choose(Choice(together(artwork, [under]), first=under))
            self.pegs.append((start.x, start.y))
            self._of = (artwork, board.chosen.shapes)
            board.update()
            at = len(self.pegs) - 1
        elif start.alt:
            del self.pegs[at]
            board.update()
            return
        yield from self._pull(board, start, at)

    def _pull(self, board: Board, start: Pointer, at: int) -> Drag:
        artwork, choice, home = board.artwork, board.chosen, list(self.pegs)
        assert artwork is not None
        dpi = artwork.dpi
        self.figures.begin(ACROSS, DOWN)

        def bent(p: Pointer) -> Edited:
            x, y = home[at]
            dx, dy = p.x - start.x, p.y - start.y
            self.figures.settle(px_to_mm(dx, dpi), px_to_mm(dy, dpi))
            to = [(x + dx, y + dy) if k == at else peg for k, peg in enumerate(home)]
            made = bending.bend(artwork, choice, home, to)
            self.pegs = to
            return made

        yield from pulled(board, start, "Bend", bent, self.figures)
        if board.artwork is not None:
            self._of = (board.artwork, board.chosen.shapes)

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        """Paint the pegs, each a small round with a stem."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for x, y in self.pegs if self._there(scene) else ():
            place = scene.on_screen(x, y)
            painter.setPen(QPen(QColor(palette().mark), 2.0))
            painter.drawLine(QLineF(place, place + QPointF(0.0, STEM_PX)))
            painter.setBrush(QColor(palette().page))
            painter.drawEllipse(place, PEG_PX, PEG_PX)
        self.figures.paint(painter, scene, at)

    def cursor(self, board: Board, at: QPointF) -> Qt.CursorShape | None:
        """Return a cross."""
        return Qt.CursorShape.CrossCursor

    def let_go(self) -> None:
        """Forget what was being pulled."""
        self.figures.clear()
