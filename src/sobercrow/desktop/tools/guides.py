"""Guides, pulled in from the upper and the left edge of the canvas, and out again."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from sobercrow.core.artwork.snapping import Guide, Lies
from sobercrow.core.settings import mm_to_px, px_to_mm
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.steps import Step
from sobercrow.desktop.theme import palette
from sobercrow.desktop.tool import Board, Drag, Pointer, Tool, is_far
from sobercrow.desktop.tools.figures import ACROSS, DOWN, Figures

EDGE_PX = 10.0
"""So near to an edge a guide is pulled from it, and let go there it is gone."""
TAB_PX = 16.0
"""Each guide has a tab so long at the edge it came from, by which it is moved."""


class Guides(Tool):
    """Pulls guides from the edges of the canvas while artwork is worked on, and moves them by their tabs."""

    id, title, step, listed = "guides", "Guides", Step.REFINE, False
    help = "Pull a guide from the upper or left edge of the canvas; pull it back to take it away."

    def __init__(self) -> None:
        """Start with none in hand."""
        super().__init__()
        self._pulled: Guide | None = None
        self.figures = Figures()

    @property
    def follows(self) -> bool:
        """Figures beside the pointer follow it."""
        return bool(self.figures.told)

    def grabs(self, board: Board, at: QPointF, in_hand: Tool | None) -> bool:
        """Tell whether an edge is there, while a tool that works on artwork is in hand."""
        return in_hand is not None and in_hand.works_on_artwork and min(at.x(), at.y()) < EDGE_PX

    def press(self, board: Board, start: Pointer) -> Drag:
        """Pull a new guide, or the one whose tab is there, until the pointer is let go."""
        artwork, scene = board.artwork, board.scene()
        if artwork is None or scene is None:
            return
        lies = Lies.LEVEL if start.at.y() < start.at.x() else Lies.UPRIGHT
        near = [g for g in board.guides if self._tab(scene, g).adjusted(-4, -4, 4, 4).contains(start.at)]
        old = near[0] if near else None
        lies = old.lies if old is not None else lies
        rest = tuple(g for g in board.guides if g is not old)
        self.figures.begin(DOWN if lies is Lies.LEVEL else ACROSS)
        pointer = start
        while not pointer.released:
            pointer = yield
            done = self.figures.take(pointer)
            like = old if old is not None else Guide(lies, 0.0)
            made_at = like.through(pointer.x, pointer.y)
            (told,) = self.figures.settle(px_to_mm(made_at.at, artwork.dpi))
            typed_at = mm_to_px(told, artwork.dpi)
            self._pulled = replace(made_at, at=typed_at) if self.figures.is_typed else made_at
            board.update()
            if done:
                break
        made, typed = self._pulled, self.figures.is_typed
        self.let_go()
        away = (pointer.at.y() if lies is Lies.LEVEL else pointer.at.x()) < EDGE_PX and not typed
        if away and old is not None:
            board.set_guides("Take a guide away", rest)
        elif made is not None and not away and is_far(start.at, pointer.at):
            board.set_guides("Move guide" if old is not None else "Pull a guide", (*rest, made))

    @staticmethod
    def _tab(scene: Scene, guide: Guide) -> QRectF:
        if guide.lies is Lies.LEVEL:
            return QRectF(0.0, scene.on_screen(0.0, guide.at).y() - 5.0, TAB_PX, 10.0)
        top = scene.on_screen(guide.across(scene.visible()[1]), 0.0)
        return QRectF(top.x() - 5.0, 0.0, 10.0, TAB_PX)

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        """Paint the guides, each with its tab."""
        if scene.is_raw:
            return
        guides = (*scene.guides, self._pulled) if self._pulled is not None else scene.guides
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        colour = QColor(palette().mark)
        for guide in guides:
            tab = self._tab(scene, guide)
            colour.setAlpha(150)
            painter.setPen(QPen(colour, 1))
            if guide.lies is Lies.LEVEL:
                y = tab.center().y()
                painter.drawLine(QLineF(0.0, y, scene.width, y))
            else:
                _, top, _, bottom = scene.visible()
                ends = (scene.on_screen(guide.across(y), y) for y in (top, bottom))
                painter.drawLine(QLineF(*ends))
            colour.setAlpha(255)
            painter.fillRect(tab, colour)
        self.figures.paint(painter, scene, at)

    def cursor(self, board: Board, at: QPointF) -> Qt.CursorShape | None:
        """Return the cursor for pulling."""
        return Qt.CursorShape.SplitVCursor if at.y() < at.x() else Qt.CursorShape.SplitHCursor

    def let_go(self) -> None:
        """Forget the guide being pulled."""
        self._pulled = None
        self.figures.clear()
