"""What is painted of handing over: the page's margin, places the check found, the blade at work, the file written."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPen, QPolygonF

from sobercrow.core.arrays import F64
from sobercrow.core.handover.page import Lie
from sobercrow.core.inspect.looked import Spot
from sobercrow.core.settings import mm_to_px
from sobercrow.desktop import tokens
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.theme import palette

SPOT_PX = 11.0
MOST_SPOTS = 400
APART_PX = 3.0
"""Lines across a narrow part are painted no closer together on screen."""


def rect_of(lie: Lie) -> QRectF:
    """Return the page in pixels of the picture."""
    return QRectF(-lie.dx, -lie.dy, lie.width_px, lie.height_px)


@dataclass(frozen=True, slots=True)
class PageMark:
    """The edge of the page, its margin, and its size beside it."""

    lie: Lie
    margin_mm: float
    told: str

    def __call__(self, painter: QPainter, scene: Scene) -> None:
        """Paint it."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        edge = scene.rect_on_screen(rect_of(self.lie))
        painter.setPen(QPen(QColor(tokens.LIGHT.text), 1))
        painter.drawRect(edge)
        if self.margin_mm > 0.0:
            room = mm_to_px(self.margin_mm, self.lie.dpi)
            painter.setPen(QPen(QColor(palette().mark), 1, Qt.PenStyle.DotLine))
            painter.drawRect(scene.rect_on_screen(rect_of(self.lie).adjusted(room, room, -room, -room)))
        painter.setPen(QColor(palette().text))
        painter.drawText(edge.topLeft() - QPointF(0, 6), self.told)


@dataclass(frozen=True, slots=True, eq=False)
class FindingMarks:
    """Places the check found: a ring around each, or where something is narrow, lines across it."""

    spots: Sequence[Spot]
    shift: tuple[float, float]
    lit: Spot | None = None

    def __call__(self, painter: QPainter, scene: Scene) -> None:
        """Paint them in rust, the one looked at thicker."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        dx, dy = self.shift
        plain, thick = (QPen(QColor(palette().warning_mark), width) for width in (1.6, 3.0))
        for spot in self.spots[:MOST_SPOTS]:
            painter.setPen(thick if spot is self.lit else plain)
            if spot.line is not None and spot.line.ndim == 3:
                ends = spot.line.reshape(-1, 2) - (dx, dy)
                rows = _thinned(scene.points_on_screen(ends).reshape(-1, 4))
                painter.drawLines([QLineF(*row) for row in rows.tolist()])
            at_spot = scene.on_screen(spot.x - dx, spot.y - dy)
            painter.drawEllipse(at_spot, SPOT_PX, SPOT_PX)
            if spot is self.lit and spot.figure_mm is not None:
                painter.drawText(at_spot + QPointF(SPOT_PX + 4, 4), f"{spot.figure_mm:.2f} mm")


def _thinned(rows: F64) -> F64:
    """Lines across a narrow part, (n, 4), without those too close together on screen to be told apart."""
    room = float(np.ptp(rows, axis=0).max())
    return rows[:: max(1, math.floor(len(rows) * APART_PX / max(room, APART_PX)))]


@dataclass(frozen=True, slots=True, eq=False)
class BladeMark:
    """The way of the blade: what is cut so far, where it travels, and the blade itself."""

    lines: Sequence[F64]
    done: int
    place: tuple[float, float]
    is_down: bool

    def __call__(self, painter: QPainter, scene: Scene) -> None:
        """Paint lines in the order they are cut: those done in the accent, the others pale; the blade as a diamond."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for n, line in enumerate(self.lines):
            cut = n <= self.done
            painter.setPen(QPen(QColor(palette().mark if cut else tokens.LIGHT.muted), 2.0 if cut else 1.0))
            painter.drawPolyline(QPolygonF([scene.on_screen(x, y) for x, y in line.tolist()]))
        at = scene.on_screen(*self.place)
        half = 7.0
        painter.setPen(QPen(QColor(tokens.LIGHT.page), 1.0))
        painter.setBrush(QColor(palette().warning_mark if self.is_down else tokens.LIGHT.muted))
        ways = ((0, -half), (half, 0), (0, half), (-half, 0))
        painter.drawPolygon(QPolygonF([at + QPointF(x, y) for x, y in ways]))


def rgba_image(pixels: np.ndarray) -> QImage:
    """Return an image of (height, width, 4) pixels that owns its memory."""
    height, width = pixels.shape[:2]
    view = np.ascontiguousarray(pixels)
    return QImage(view.data, width, height, 4 * width, QImage.Format.Format_RGBA8888).copy()
