"""Choosing and moving shapes."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QColor, QPainter, QPen

from sobercrow.core.artwork import alike, hit
from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.tree import together
from sobercrow.core.settings import mm_to_px, px_to_mm
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.steps import Step
from sobercrow.desktop.theme import palette
from sobercrow.desktop.tool import Board, Drag, Pointer
from sobercrow.desktop.tools.anchors import stepped
from sobercrow.desktop.tools.carrying import carry, lay
from sobercrow.desktop.tools.figures import ACROSS, DOWN, Figures
from sobercrow.desktop.tools.frame import FramePulling
from sobercrow.desktop.tools.marks import paint_crop_marks
from sobercrow.desktop.tools.placing import PlacingMarks

MOST_MARKED = 200
"""Of more chosen shapes than this only all together are marked."""


class Choose(FramePulling):
    """Chooses shapes by click, frame or ring, Shift adds and removes; drag moves the chosen ones.

    Groups are chosen as one; a double click chooses a shape within its group. Clicked again, the next one beneath is
    chosen.
    """

    id, title, key, icon = "choose", "Choose", "C", "choose"
    step, starts_group, works_on_artwork = Step.REFINE, False, True
    keeps_shapes = True
    help = "Choose, move, scale and turn shapes."

    def __init__(self) -> None:
        """Start with nothing in hand."""
        super().__init__()
        self.figures = Figures()
        self.placing = PlacingMarks(self.figures, least=1)

    @property
    def follows(self) -> bool:
        """Figures beside the pointer follow it."""
        return bool(self.figures.told)

    def press(self, board: Board, start: Pointer) -> Drag:
        """Choose what is there, and carry it if the pointer moves; or pull a mark around what is chosen."""
        artwork = board.artwork
        if artwork is None:
            return
        marked = self.placing.take(board, start)
        if marked is not None:
            yield from marked
            return
        choice, chosen = board.chosen, board.chosen.shapes
        if start.alt:
            ring = yield from self.ring(board, start)
            found = together(artwork, alike.within(artwork, ring)) if ring is not None else frozenset()
            board.choose(Choice(chosen | found if start.shift else found))
            return
        under = hit.shape_at(artwork, start.x, start.y, board.reach_px())
        if under is None:
            frame = yield from self.pull(board, start)
            found = together(artwork, hit.shapes_in(artwork, frame)) if frame else frozenset()
            board.choose(Choice(chosen | found if start.shift else found))
            return
        own = frozenset({under}) if start.double or start.ctrl else together(artwork, [under])
        was_chosen = own <= chosen
        if start.shift:
            first = choice.first if choice.first is not None else min(chosen, default=under)
            board.choose(Choice(chosen - own if was_chosen else chosen | own, first=first))
        elif not was_chosen:
            board.choose(Choice(own, first=under))
        moved = board.chosen.shapes
        self.figures.begin(ACROSS, DOWN)
        dpi = artwork.dpi

        def way(p: Pointer) -> tuple[float, float]:
            dx, dy = p.x - start.x, p.y - start.y
            if p.shift:
                dx, dy = stepped(0.0, 0.0, dx, dy)
            across, down = self.figures.settle(px_to_mm(dx, dpi), px_to_mm(dy, dpi))
            return (mm_to_px(across, dpi), mm_to_px(down, dpi)) if self.figures.is_typed else (dx, dy)

        carried = (yield from carry(board, start, moved, self.figures, way)) if moved else None
        if carried is not None:
            lay(board, "Move shapes", moved, carried)
        elif not start.shift:
            lower = alike.next_under(artwork, chosen, start.x, start.y, board.reach_px()) if was_chosen else None
            if lower is not None and not start.double and chosen == own:
                own, under = together(artwork, [lower]), lower
            board.choose(Choice(own, first=under))

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        """Paint crop marks around the chosen shapes, the marks by which they are placed, and the frame."""
        shapes = scene.artwork.shapes
        chosen = [s for s in scene.choice.shapes if s < len(shapes)]
        if 1 < len(chosen) <= MOST_MARKED:
            dx, dy = (scene.lifted.dx, scene.lifted.dy) if scene.lifted is not None else (0.0, 0.0)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(QColor(palette().mark), 1.2))
            for s in chosen:
                left, top, right, bottom = shapes[s].bounds()
                paint_crop_marks(painter, scene.rect_on_screen(QRectF(left + dx, top + dy, right - left, bottom - top)))
        self.placing.paint(painter, scene)
        self.figures.paint(painter, scene, at)
        super().paint(painter, scene, at)

    def let_go(self) -> None:
        """Forget what was being dragged."""
        super().let_go()
        self.figures.clear()
