"""Edits tried before they are done: what would come of one is worked out beside, and shown over the artwork."""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise
from typing import Any

import numpy as np
from PySide6.QtCore import QObject, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen

from sobercrow.core.artwork.choice import Edited
from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.errors import SoberCrowError
from sobercrow.core.inspect.change import Change, change_between
from sobercrow.core.stopping import go_on
from sobercrow.desktop.document import Document
from sobercrow.desktop.paths import shape_path
from sobercrow.desktop.ribbon import Ribbon
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.theme import palette
from sobercrow.desktop.worker import Worker

WIDTH_PX, MOVED_PX = 1.8, 0.02


class TriedMarks:
    """The line as it would become, dashed, with what it would cost; with a ribbon where it would move."""

    def __init__(self, change: Change, with_ribbon: bool, of: str) -> None:
        """Make paths of what would be new; `of` says of what the figures are. Runs in a worker."""
        self.path = _moved(change)
        if self.path.isEmpty():  # nothing moves, or all of it is new
            for contour, _ in change.contours:
                self.path.addPath(shape_path(Shape((contour,))))
        self.ribbon = Ribbon(change.moved) if with_ribbon and len(change.moved.points) else None
        self.told = change.told() + of

    def __call__(self, painter: QPainter, scene: Scene) -> None:
        """Paint them."""
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        scene.to_picture(painter)
        if self.ribbon is not None:
            self.ribbon.paint(painter, scene.camera.zoom)
        for colour, style in ((palette().page, Qt.PenStyle.SolidLine), (palette().mark, Qt.PenStyle.DashLine)):
            pen = QPen(QColor(colour), WIDTH_PX, style)
            pen.setCosmetic(True)
            painter.strokePath(self.path, pen)
        painter.restore()
        box = QRectF(0, 0, painter.fontMetrics().horizontalAdvance(self.told) + 20, painter.fontMetrics().height() + 8)
        box.moveCenter(QRectF(0, scene.height - 44, scene.width, 30).center())
        painter.fillRect(box, QColor(palette().panel))
        painter.setPen(QColor(palette().text))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, self.told)


def _moved(change: Change) -> QPainterPath:
    """The new line where it is elsewhere than the present one."""
    path = QPainterPath()
    moved = change.moved
    for first, last in pairwise(moved.starts.tolist()):
        elsewhere = moved.away[first:last] > MOVED_PX
        near = elsewhere | np.roll(elsewhere, 1) | np.roll(elsewhere, -1)
        down = False
        for (x, y), is_near in zip(moved.points[first:last].tolist(), near.tolist(), strict=True):
            if is_near and down:
                path.lineTo(x, y)
            elif is_near:
                path.moveTo(x, y)
            down = is_near
    return path


class Trying(QObject):
    """Works out what edits would make of the artwork; the newest one wins. `shown` tells of the marks, or None."""

    shown = Signal(object)
    told = Signal(str)

    def __init__(self, document: Document) -> None:
        """Try edits of a document."""
        super().__init__()
        self._document = document
        self._worker = Worker()
        self._worker.produced.connect(self._take)
        self._number = 0

    def try_edit(
        self, edit: Callable[[Artwork], Artwork | Edited | tuple[Any, ...]], with_ribbon: bool = False, of: str = ""
    ) -> None:
        """Show what an edit would make of the artwork; `of` says of what the figures are, if not of everything."""
        before = self._document.artwork
        if before is None:
            return

        def work(give: Callable[[Any], None], _report: object) -> None:
            try:
                made = edit(before)
            except SoberCrowError as fault:
                give(str(fault))
                return
            go_on()
            after = made if isinstance(made, Artwork) else made[0]
            give(TriedMarks(change_between(before, after), with_ribbon, of))

        self._number = self._worker.submit(work)

    def stop(self) -> None:
        """Show the artwork as it is."""
        self._worker.stop()
        self._number = -1
        self.shown.emit(None)

    def close(self) -> None:
        """End the worker."""
        self._worker.close()

    def _take(self, number: int, result: object) -> None:
        if number != self._number:
            return
        if isinstance(result, TriedMarks):
            self.shown.emit(result)
            self.told.emit(result.told)
        else:
            self.told.emit(str(result))
