"""Choosing, moving and adding anchors."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter

from sobercrow.core.artwork import anchors, hit
from sobercrow.core.artwork.choice import AnchorRef, Choice
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.steps import Step
from sobercrow.desktop.theme import palette
from sobercrow.desktop.tool import Board, Drag, Pointer
from sobercrow.desktop.tools.anchor_marks import AnchorMarks
from sobercrow.desktop.tools.carrying import carry, lay, preview
from sobercrow.desktop.tools.frame import FramePulling


class Anchors(FramePulling):
    """Chooses anchors by click or frame; drags anchors or handles; a double click on a curve adds an anchor."""

    id, title, key, icon = "anchors", "Anchors", "A", "anchors"
    step, works_on_artwork = Step.REFINE, True
    help = "Edit anchors and handles."

    def __init__(self) -> None:
        """Start with nothing in hand."""
        super().__init__()
        self._marks = AnchorMarks()

    def press(self, board: Board, start: Pointer) -> Drag:
        """Take hold of what is there: an anchor, a handle, a curve; else pull a frame."""
        artwork = board.artwork
        if artwork is None:
            return
        reach, chosen = board.reach_px(), board.chosen.anchors
        handle = hit.handle_at(artwork, chosen, start.x, start.y, reach)
        anchor = hit.anchor_at(artwork, start.x, start.y, reach)
        if anchor is not None:
            yield from self._drag_anchors(board, start, anchor)
        elif handle is not None:
            yield from preview(board, start, lambda p: anchors.move_handle(artwork, handle[0], handle[1], p.x, p.y))
            if board.preview is not None:
                board.change("Move handle", board.preview)
        elif start.double:
            place = hit.curve_at(artwork, start.x, start.y, reach)
            if place is not None and 0.0 < place.t < 1.0:
                edited, ref = anchors.add_anchor(artwork, place.shape, place.contour, place.curve, place.t)
                board.change("Add anchor", edited, Choice(anchors=frozenset({ref})))
        else:
            frame = yield from self.pull(board, start)
            found = hit.anchors_in(artwork, frame) if frame else frozenset()
            board.choose(Choice(anchors=chosen | found if start.shift else found))

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
            yield from preview(
                board, start, lambda p: anchors.move_anchors(artwork, moved, p.x - start.x, p.y - start.y)
            )
        if board.preview is not None:
            board.change(name, board.preview)
        elif not start.shift:
            board.choose(Choice(anchors=frozenset({anchor})))

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        """Paint all anchors in view with the handles of those chosen, and the frame."""
        if not self._marks.paint(painter, scene, scene.choice.anchors):
            text = "Zoom in to see the anchors"
            width = painter.fontMetrics().horizontalAdvance(text) + 20
            rect = QRectF((scene.width - width) / 2, scene.height - 40, width, 26)
            painter.fillRect(rect, QColor(palette().panel))
            painter.setPen(QColor(palette().text))
            painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, text)
        super().paint(painter, scene, at)
