"""The marks of anchors: triangles, bars, handles and the flag at each contour's first one."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from sobercrow.core.artwork.anchors import ANCHOR, HANDLE_IN, HANDLE_OUT, NO_HANDLE_PX, AnchorRef
from sobercrow.core.artwork.hit import shape_bounds
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.desktop import tokens
from sobercrow.desktop.canvas.layers import Scene
from sobercrow.desktop.theme import palette

MOST_MARKS = 3000
"""More anchors than this on screen are too dense to be told apart; they are shown once one zooms in."""


class AnchorLayer:
    """Anchors, the handles of the chosen ones, and the flag at each contour's first anchor."""

    def paint(self, painter: QPainter, scene: Scene, chosen: frozenset[AnchorRef]) -> bool:
        """Paint all anchors in view; returns False if they were too many to show."""
        left, top, right, bottom = scene.visible()
        seen: list[tuple[AnchorRef, Contour]] = []
        for s, shape in enumerate(scene.artwork.shapes):
            box = shape_bounds(shape)
            if box[0] > right or box[1] > bottom or box[2] < left or box[3] < top:
                continue
            for c, contour in enumerate(shape.contours):
                x, y = contour.anchors[:, 0], contour.anchors[:, 1]
                inside = np.flatnonzero((x >= left) & (x <= right) & (y >= top) & (y <= bottom))
                seen += [(AnchorRef(s, c, int(k)), contour) for k in inside]
                if len(seen) > MOST_MARKS:
                    return False
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for ref, contour in seen:
            if ref in chosen:
                self._handles(painter, scene, contour.points[ref.anchor])
        for ref, contour in seen:
            self._anchor(painter, scene, contour, ref.anchor, ref in chosen)
        return True

    @staticmethod
    def _handles(painter: QPainter, scene: Scene, points: np.ndarray) -> None:
        painter.setPen(QPen(QColor(palette().accent), 1.0))
        anchor = scene.on_screen(*points[ANCHOR])
        for side in (HANDLE_IN, HANDLE_OUT):
            if np.linalg.norm(points[side] - points[ANCHOR]) <= NO_HANDLE_PX:
                continue
            end = scene.on_screen(*points[side])
            line = QLineF(anchor, end)
            painter.drawLine(line)
            if line.length() > 0:
                across = QPointF(-line.dy(), line.dx()) / line.length() * tokens.HANDLE_BAR_PX
                painter.setPen(QPen(QColor(palette().accent), 1.8))
                painter.drawLine(QLineF(end - across, end + across))
                painter.setPen(QPen(QColor(palette().accent), 1.0))

    @staticmethod
    def _anchor(painter: QPainter, scene: Scene, contour: Contour, place: int, chosen: bool) -> None:
        at = scene.on_screen(*contour.anchors[place])
        back, ahead = _directions(contour, place)
        accent = QColor(tokens.LIGHT.accent)
        fill = accent if chosen else QColor(tokens.LIGHT.page)
        painter.setPen(QPen(accent, 1.2))
        painter.setBrush(fill)
        size = tokens.ANCHOR_PX
        if contour.kinds[place] == AnchorKind.CORNER:
            out = back - ahead  # points out of the corner, along its bisector
            length = float(np.hypot(*out))
            out = out / length if length > 1e-9 else np.array([0.0, -1.0])
            side = np.array([-out[1], out[0]])
            tip, base = out * size * 1.3, -out * size * 0.7
            corners = [tip, base + side * size, base - side * size]
            painter.drawPolygon(QPolygonF([at + QPointF(*corner) for corner in corners]))
        else:
            along = back + ahead
            length = float(np.hypot(*along))
            along = along / length if length > 1e-9 else np.array([1.0, 0.0])
            _bar(painter, at, along, size, gap=contour.kinds[place] == AnchorKind.EVEN)
        if place == 0:
            _flag(painter, at, ahead, accent)


def _directions(contour: Contour, place: int) -> tuple[np.ndarray, np.ndarray]:
    """Unit directions of travel into and out of an anchor."""
    handle_in, anchor, handle_out = contour.points[place]

    def unit(*candidates: np.ndarray) -> np.ndarray:
        for vector in candidates:
            length = np.hypot(*vector)
            if length > NO_HANDLE_PX:
                return np.asarray(vector / length)
        return np.zeros(2)

    n = len(contour)
    before, after = contour.points[place - 1], contour.points[(place + 1) % n]
    return (
        unit(anchor - handle_in, anchor - before[HANDLE_OUT], anchor - before[ANCHOR]),
        unit(handle_out - anchor, after[HANDLE_IN] - anchor, after[ANCHOR] - anchor),
    )


def _bar(painter: QPainter, at: QPointF, along: np.ndarray, size: float, gap: bool) -> None:
    painter.save()
    painter.translate(at)
    painter.rotate(float(np.degrees(np.arctan2(along[1], along[0]))))
    if gap:
        painter.drawRoundedRect(QRectF(-size * 1.4, -size * 0.5, size * 1.0, size), 1.5, 1.5)
        painter.drawRoundedRect(QRectF(size * 0.4, -size * 0.5, size * 1.0, size), 1.5, 1.5)
    else:
        painter.drawRoundedRect(QRectF(-size * 1.2, -size * 0.5, size * 2.4, size), 2.0, 2.0)
    painter.restore()


def _flag(painter: QPainter, at: QPointF, ahead: np.ndarray, colour: QColor) -> None:
    """A pennant on a pole beside the anchor, its tip in the direction of travel."""
    side = np.array([ahead[1], -ahead[0]])
    foot, top = at + QPointF(*(side * 6)), at + QPointF(*(side * 16))
    painter.setPen(QPen(colour, 1.2))
    painter.drawLine(QLineF(foot, top))
    painter.setBrush(colour)
    tip = at + QPointF(*(side * 13 + ahead * 8))
    painter.drawPolygon(QPolygonF([top, tip, at + QPointF(*(side * 10))]))
