"""The marks of anchors: triangles, bars, handles and the flag at each contour's first one."""

from __future__ import annotations

from dataclasses import replace
from functools import lru_cache

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPen, QPolygonF

from sobercrow.core.arrays import F64, I64
from sobercrow.core.artwork.anchors import ANCHOR, HANDLE_IN, HANDLE_OUT, NO_HANDLE_PX
from sobercrow.core.artwork.choice import AnchorRef
from sobercrow.core.artwork.table import AnchorTable, anchor_table, rows_of, table_of
from sobercrow.core.geometry.contour import AnchorKind
from sobercrow.desktop import tokens
from sobercrow.desktop.scene import Scene, carried
from sobercrow.desktop.still import Still
from sobercrow.desktop.theme import palette

MOST_MARKS = 1500
"""More anchors than this on screen are too dense to be told apart; they are shown once one zooms in."""
MOST_HANDLES = 400
"""Handles of more chosen anchors than this in view are a thicket; they are shown once one zooms in."""
WAYS = 128
"""Marks are painted once in so many directions."""
CLEAR_PX = 26.0
"""Marks are as large as can be where neighbours lie so far apart on screen, and smaller where they crowd."""
SHARES = (0.4, 0.55, 0.75, 1.0)
LEAST_FLAGGED = 0.75
"""Where marks are smaller than this share the flags at first anchors are left out."""
FLAG = 3
SPRITE_PX = 40


class AnchorMarks:
    """Anchors, the handles of the chosen ones, and the flag at each contour's first anchor."""

    def __init__(self) -> None:
        """Start with nothing kept."""
        self._still, self._held = Still(), Still()

    def paint(self, painter: QPainter, scene: Scene, chosen: frozenset[AnchorRef]) -> bool:
        """Paint all anchors in view; returns False if they were too many to show."""
        table = anchor_table(scene.base)
        rows = rows_of(scene.base, chosen)
        if len(table.within(scene.visible())) > MOST_MARKS:
            return False
        lifted, live = scene.lifted, scene.live
        owner = table.names[:, 0]
        if lifted is not None:
            held = np.isin(owner, list(lifted.shapes))
            self._paint_still(self._held, painter, replace(carried(scene, lifted), moving=True), table, rows, held)
        else:
            held = (owner >= live.start) & (owner < live.stop)
        self._paint_still(self._still, painter, scene, table, rows, ~held)
        if live:
            moving = table_of(scene.artwork.shapes[live.start : live.stop], live.start)
            _paint_marks(painter, scene, moving, np.arange(len(moving.kinds)), moving.rows(chosen))
        return True

    @staticmethod
    def _paint_still(
        still: Still, painter: QPainter, scene: Scene, table: AnchorTable, chosen: I64, which: np.ndarray
    ) -> None:
        first = int(which.argmax()) if which.any() else -1
        key = (table, chosen, first, int(which.sum()), palette())
        rows = np.flatnonzero(which)
        still.paint(painter, scene, key, lambda to, seen: _paint_marks(to, seen, table, rows, chosen))


def _paint_marks(painter: QPainter, scene: Scene, table: AnchorTable, rows: I64, chosen: I64) -> None:
    """Paint some rows of a table, of which the chosen ones are filled and have their handles shown."""
    seen = np.intersect1d(table.within(scene.visible()), rows, assume_unique=True)
    picked = np.isin(seen, chosen)
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    if picked.sum() <= MOST_HANDLES:
        for points in table.points[seen[picked]]:
            _paint_handles(painter, scene, points)
    camera = scene.camera
    places = (table.points[seen, ANCHOR] - (camera.x, camera.y)) * camera.zoom + (scene.width / 2, scene.height / 2)
    into, out, kinds = table.into[seen], table.out[seen], table.kinds[seen].astype(np.int64)
    corner = kinds == AnchorKind.CORNER
    ways = _quantized(np.where(corner[:, None], into - out, into + out), corner)
    ratio = painter.device().devicePixelRatioF()
    half, share = SPRITE_PX / 2, _share(places, table.names[seen, :2])
    for (x, y), kind, way, is_chosen in zip(
        (places - half).tolist(), kinds.tolist(), ways.tolist(), picked.tolist(), strict=True
    ):
        painter.drawImage(
            QPointF(round(x), round(y)), _sprite(kind, way, is_chosen, ratio, 1.0 if is_chosen else share)
        )
    first = (table.names[seen, 2] == 0) & (share >= LEAST_FLAGGED)
    flags = _quantized(out[first], np.zeros(int(first.sum()), dtype=np.bool_))
    for (x, y), way in zip((places[first] - half).tolist(), flags.tolist(), strict=True):
        painter.drawImage(QPointF(round(x), round(y)), _sprite(FLAG, way, False, ratio))
    painter.restore()


def _share(places: F64, contours: I64) -> float:
    """How large marks at places (n, 2) on screen are drawn, by how far apart neighbours on a contour mostly lie."""
    together = (contours[1:] == contours[:-1]).all(axis=1)
    if not together.any():
        return SHARES[-1]
    apart = float(np.median(np.hypot(*np.diff(places, axis=0)[together].T)))
    return max((share for share in SHARES if share * CLEAR_PX <= apart), default=SHARES[0])


def _quantized(ways: F64, upwards: np.ndarray) -> I64:
    """The number of each direction; where there is none, level, or upwards."""
    angle = np.arctan2(ways[:, 1], ways[:, 0])
    nowhere = np.hypot(ways[:, 0], ways[:, 1]) < 1e-9
    angle[nowhere] = np.where(upwards[nowhere], -0.5 * np.pi, 0.0)
    return np.asarray(np.rint(angle / (2 * np.pi) * WAYS).astype(np.int64) % WAYS)


def _paint_handles(painter: QPainter, scene: Scene, points: F64) -> None:
    painter.setPen(QPen(QColor(palette().mark), 1.0))
    anchor = scene.on_screen(*points[ANCHOR])
    for side in (HANDLE_IN, HANDLE_OUT):
        if np.linalg.norm(points[side] - points[ANCHOR]) <= NO_HANDLE_PX:
            continue
        end = scene.on_screen(*points[side])
        line = QLineF(anchor, end)
        painter.drawLine(line)
        if line.length() > 0:
            across = QPointF(-line.dy(), line.dx()) / line.length() * tokens.HANDLE_BAR_PX
            painter.setPen(QPen(QColor(palette().mark), 1.8))
            painter.drawLine(QLineF(end - across, end + across))
            painter.setPen(QPen(QColor(palette().mark), 1.0))


@lru_cache(maxsize=16 * WAYS)
def _sprite(kind: int, way: int, chosen: bool, ratio: float, share: float = 1.0) -> QImage:
    """One mark in one direction, so much of its full size, in the middle of a small transparent picture."""
    image = QImage(round(SPRITE_PX * ratio), round(SPRITE_PX * ratio), QImage.Format.Format_ARGB32_Premultiplied)
    image.setDevicePixelRatio(ratio)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.translate(SPRITE_PX / 2, SPRITE_PX / 2)
    painter.rotate(360.0 * way / WAYS)
    accent = QColor(palette().mark)
    painter.setPen(QPen(accent, max(1.2 * share, 0.8)))
    painter.setBrush(accent if chosen or kind == FLAG else QColor(tokens.LIGHT.page))
    size = tokens.ANCHOR_PX * share
    if kind == AnchorKind.CORNER:  # its tip points out of the corner
        painter.drawPolygon(
            QPolygonF([QPointF(1.3 * size, 0), QPointF(-0.7 * size, size), QPointF(-0.7 * size, -size)])
        )
    elif kind == AnchorKind.EVEN:
        painter.drawRoundedRect(QRectF(-size * 1.4, -size * 0.5, size * 1.0, size), 1.5, 1.5)
        painter.drawRoundedRect(QRectF(size * 0.4, -size * 0.5, size * 1.0, size), 1.5, 1.5)
    elif kind == AnchorKind.SMOOTH:
        painter.drawRoundedRect(QRectF(-size * 1.2, -size * 0.5, size * 2.4, size), 2.0, 2.0)
    else:  # a pennant on a pole beside the anchor, its tip in the direction of travel
        painter.drawLine(QLineF(0, -6, 0, -16))
        painter.drawPolygon(QPolygonF([QPointF(0, -16), QPointF(8, -13), QPointF(0, -10)]))
    painter.end()
    return image
