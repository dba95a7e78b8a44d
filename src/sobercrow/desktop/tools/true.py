"""True: a shape becomes the circle, ellipse, rectangle, polygon or bar it comes nearest to."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen

from sobercrow.core.artwork import hit, truing
from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.model import Shape
from sobercrow.core.artwork.truing import Candidate
from sobercrow.core.errors import EditError
from sobercrow.core.settings import px_to_mm
from sobercrow.desktop.paths import shape_path
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.steps import Step
from sobercrow.desktop.theme import palette
from sobercrow.desktop.tool import ENTER, Board, Drag, Pointer, Tool

TILE_PX, GAP_PX, DRAWN_PX = 76.0, 6.0, 36.0


class MakeTrue(Tool):
    """Click a shape: the true ones nearest to it are laid beside it, each with how far it is off, the nearest first.

    Pointed at, one is shown in place; a click or its number takes it, Enter the nearest.
    """

    id, title, key, icon = "true", "True", "T", "true"
    step, starts_group, works_on_artwork = Step.REFINE, True, True
    keeps_shapes = True
    help = "Click a shape to make it a true circle, ellipse, rectangle, polygon or bar."

    def __init__(self) -> None:
        """Start with nothing found."""
        super().__init__()
        self.found: list[Candidate] = []
        self.shape = -1
        self.pointed: int | None = None
        self._tiles: list[QRectF] = []

    @property
    def follows(self) -> bool:
        """The tile under the pointer is marked."""
        return bool(self.found)

    def press(self, board: Board, start: Pointer) -> Drag:
        """Find what a shape could be, then wait for one to be taken."""
        pointer = start
        while True:
            taken = self._taken(pointer)
            if taken is not None:
                self._take(board, self.found[taken])
                return
            if (pointer is start or pointer.pressed) and not self._find(board, pointer):
                return
            self.pointed = self._tile_at(pointer.at)
            shown = None
            if self.pointed is not None and board.artwork is not None:
                shown = truing.made_true(board.artwork, self.shape, self.found[self.pointed])
            board.show(shown)
            pointer = yield

    def _taken(self, pointer: Pointer) -> int | None:
        """Which one a press, a digit or Enter takes."""
        if pointer.text.isdigit() and 0 < int(pointer.text) <= len(self.found):
            return int(pointer.text) - 1
        if pointer.key in ENTER and self.found:
            return 0
        return self._tile_at(pointer.at) if pointer.pressed else None

    def _find(self, board: Board, pointer: Pointer) -> bool:
        artwork, scene = board.artwork, board.scene()
        self.let_go()
        under = hit.shape_at(artwork, pointer.x, pointer.y, board.reach_px()) if artwork is not None else None
        if artwork is None or scene is None or under is None:
            board.choose(Choice())
            return False
        try:
            self.found = truing.candidates(artwork.shapes[under].contours[0])
        except EditError as fault:
            board.refuse(str(fault))
            return False
        self.shape = under
        board.choose(Choice(frozenset({under}), first=under))
        self._tiles = self._laid(scene, artwork.shapes[under])
        return True

    def _take(self, board: Board, candidate: Candidate) -> None:
        artwork, shape = board.artwork, self.shape
        self.let_go()
        board.show(None)
        if artwork is not None:
            made = truing.made_true(artwork, shape, candidate)
            board.change(f"Make {candidate.name}", made, Choice(frozenset({shape}), first=shape))

    def _laid(self, scene: Scene, shape: Shape) -> list[QRectF]:
        """Where the tiles lie: beside the shape, on whichever side there is room, within the view."""
        left, top, right, _ = shape.bounds()
        box = QRectF(scene.on_screen(left, top), scene.on_screen(right, top))
        height = len(self.found) * (TILE_PX + GAP_PX)
        x = box.right() + 16.0 if box.right() + 16.0 + TILE_PX < scene.width else max(box.left() - 16.0 - TILE_PX, 8.0)
        x = min(x, scene.width - TILE_PX - 8.0)
        y = min(max(box.top(), 70.0), max(scene.height - height - 8.0, 8.0))
        return [QRectF(x, y + k * (TILE_PX + GAP_PX), TILE_PX, TILE_PX) for k in range(len(self.found))]

    def _tile_at(self, at: QPointF) -> int | None:
        return next((k for k, tile in enumerate(self._tiles) if tile.contains(at)), None)

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        """Paint the tiles, each with a small outline, its number, its name and how far it is off."""
        for k, (tile, candidate) in enumerate(zip(self._tiles, self.found, strict=True)):
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
            painter.fillRect(tile, QColor(palette().panel))
            painter.setPen(QColor(palette().mark if k == self.pointed else palette().hair))
            painter.drawRect(tile)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._paint_form(painter, tile, candidate)
            painter.setPen(QColor(palette().muted))
            painter.drawText(
                tile.adjusted(5, 2, -4, 0), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop, f"{k + 1}"
            )
            painter.setPen(QColor(palette().text))
            off = f"{px_to_mm(candidate.rms_px, scene.artwork.dpi):.3f} mm"
            name = painter.fontMetrics().elidedText(candidate.name, Qt.TextElideMode.ElideRight, int(tile.width() - 6))
            painter.drawText(
                tile.adjusted(2, 0, -2, -3),
                Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignBottom,
                f"{name}\n{off}",
            )

    @staticmethod
    def _paint_form(painter: QPainter, tile: QRectF, candidate: Candidate) -> None:
        path: QPainterPath = shape_path(Shape((candidate.contour,)))
        box = path.boundingRect()
        scale = DRAWN_PX / max(box.width(), box.height(), 1e-6)
        painter.save()
        painter.translate(tile.center() - QPointF(0.0, 14.0))
        painter.scale(scale, scale)
        painter.translate(-box.center())
        pen = QPen(QColor(palette().mark), 1.6)
        pen.setCosmetic(True)
        painter.strokePath(path, pen)
        painter.restore()

    def cursor(self, board: Board, at: QPointF) -> Qt.CursorShape | None:
        """Return a pointing hand over a tile."""
        return Qt.CursorShape.PointingHandCursor if self._tile_at(at) is not None else None

    def let_go(self) -> None:
        """Put the tiles away."""
        self.found, self._tiles, self.pointed = [], [], None
