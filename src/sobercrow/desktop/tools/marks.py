"""Marks that several tools paint: frames, lines with a text, strokes, rings."""

from __future__ import annotations

import math
from collections.abc import Sequence

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from sobercrow.core.arrays import F64
from sobercrow.core.settings import Point
from sobercrow.desktop import tokens
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.theme import palette

GRIP_PX = 7.0


def paint_frame(painter: QPainter, rect: QRectF) -> None:
    """Paint the frame pulled over shapes or anchors."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    soft = QColor(palette().mark)
    soft.setAlpha(28)
    painter.setBrush(soft)
    painter.setPen(QPen(QColor(palette().mark), 1, Qt.PenStyle.DashLine))
    painter.drawRect(rect)


def paint_lasso(painter: QPainter, ring: QPolygonF) -> None:
    """Paint the ring drawn around anchors."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    soft = QColor(palette().mark)
    soft.setAlpha(28)
    painter.setBrush(soft)
    painter.setPen(QPen(QColor(palette().mark), 1, Qt.PenStyle.DashLine))
    painter.drawPolygon(ring)


def paint_line(
    painter: QPainter,
    scene: Scene,
    points: F64,
    width: float,
    colour: str,
    *,
    dashed: bool = False,
    closed: bool = False,
) -> None:
    """Paint a line (n, 2) given in picture pixels, so wide on screen."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    style = Qt.PenStyle.DashLine if dashed else Qt.PenStyle.SolidLine
    painter.setPen(QPen(QColor(colour), width, style, Qt.PenCapStyle.FlatCap, Qt.PenJoinStyle.RoundJoin))
    line = QPolygonF([scene.on_screen(x, y) for x, y in points.tolist()])
    painter.drawPolyline(line)


def paint_swelling(painter: QPainter, places: Sequence[QPointF], widths: Sequence[float], colour: str) -> None:
    """Paint a stroke through places on screen, so wide at each; a single place as a dot."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    pen = QPen(QColor(colour), 1.0, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin)
    if len(places) > 1 and min(widths) == max(widths):
        pen.setWidthF(max(widths[0], 1.0))
        painter.setPen(pen)
        painter.drawPolyline(places)
        return
    for k, place in enumerate(places):
        pen.setWidthF(max(widths[k], 1.0))
        painter.setPen(pen)
        painter.drawLine(QLineF(places[max(k - 1, 0)], place))


def paint_grip(painter: QPainter, at: QPointF, way: QPointF) -> None:
    """Paint the grip at one end of a stretch: a short bar across the line, which runs in a direction there."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    size = max((way.x() ** 2 + way.y() ** 2) ** 0.5, 1e-9)
    across = QPointF(-way.y(), way.x()) * (GRIP_PX / size)
    for colour, width in ((tokens.LIGHT.page, 6.0), (palette().mark, 3.4)):
        painter.setPen(QPen(QColor(colour), width, c=Qt.PenCapStyle.RoundCap))
        painter.drawLine(QLineF(at - across, at + across))


def paint_bow(painter: QPainter, at: QPointF, way: QPointF) -> None:
    """Paint the grip that bends a stretch: a short bow, open towards the line, which lies the other way."""
    _paint_arc(painter, at, way, 60.0, 7.0)


def paint_quarter(painter: QPainter, at: QPointF, way: QPointF) -> None:
    """Paint the grip that rounds a corner: a quarter of a circle whose back is to the corner."""
    _paint_arc(painter, at, QPointF(-way.x(), -way.y()), 90.0, 5.0)


def _paint_arc(painter: QPainter, at: QPointF, way: QPointF, span_deg: float, radius: float) -> None:
    """An arc about a place, its middle in a direction from there."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    angle = math.degrees(math.atan2(-way.y(), way.x()))
    box = QRectF(at.x() - radius, at.y() - radius, 2 * radius, 2 * radius)
    for colour, width in ((tokens.LIGHT.page, 5.0), (palette().mark, 2.6)):
        painter.setPen(QPen(QColor(colour), width, c=Qt.PenCapStyle.RoundCap))
        painter.drawArc(box, round(16 * (angle - span_deg / 2)), round(16 * span_deg))


def paint_crop_marks(painter: QPainter, rect: QRectF) -> None:
    """Paint crop marks at the corners of a rectangle on screen."""
    size, gap = tokens.CROP_MARK_PX, 3.0
    for x, sx in ((rect.left() - gap, -1), (rect.right() + gap, 1)):
        for y, sy in ((rect.top() - gap, -1), (rect.bottom() + gap, 1)):
            painter.drawLine(QLineF(x, y, x - sx * size, y))
            painter.drawLine(QLineF(x, y, x, y - sy * size))


def paint_hair(painter: QPainter, scene: Scene, start: Point, end: Point) -> None:
    """Paint the hair line that shows what a place lies level or upright with."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    painter.setPen(QPen(QColor(palette().mark), 1, Qt.PenStyle.DotLine))
    painter.drawLine(QLineF(scene.on_screen(*start), scene.on_screen(*end)))


def paint_told(painter: QPainter, at: QPointF, text: str) -> None:
    """Paint a short text beside the pointer."""
    metrics = painter.fontMetrics()
    box = QRectF(at.x() + 16, at.y() + 14, metrics.horizontalAdvance(text) + 12, metrics.height() + 4)
    painter.fillRect(box, QColor(palette().panel))
    painter.setPen(QColor(palette().text))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)


def paint_stroke(
    painter: QPainter,
    scene: Scene,
    points: Sequence[Point],
    width_px: float,
    colour: str | None,
    shares: Sequence[float] = (),
) -> None:
    """Paint a touch-up as it will be; `width_px` 0 fills the shape, without a colour it is scraped off. `shares` is how
    much of the width it has at each point."""
    at = [scene.on_screen(*p) for p in points]
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    ink = QColor(colour if colour is not None else tokens.LIGHT.page)
    if width_px > 0.0:
        full = width_px * scene.camera.zoom
        paint_swelling(painter, at, [full * share for share in shares] or [full] * len(at), ink.name())
        return
    painter.setBrush(ink)
    painter.setPen(QPen(QColor(palette().mark), 1.0))
    painter.drawPolygon(at)


def paint_nib(painter: QPainter, at: QPointF, radius: float) -> None:
    """Paint how wide a stroke would be: a thin ring, light on dark and dark on light."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for colour, more in ((tokens.LIGHT.page, 1.0), (palette().mark, 0.0)):
        painter.setPen(QPen(QColor(colour), 1.2))
        painter.drawEllipse(at, max(radius, 1.5) + more, max(radius, 1.5) + more)


def paint_ruler(painter: QPainter, start: QPointF, end: QPointF, text: str) -> None:
    """Paint a line drawn along something, with crossbars at its ends and a text at its middle."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    line = QLineF(start, end)
    painter.setPen(QPen(QColor(tokens.LIGHT.page), 3.6))
    painter.drawLine(line)
    painter.setPen(QPen(QColor(palette().mark), 1.6))
    painter.drawLine(line)
    if line.length() > 0:
        across = QPointF(-line.dy(), line.dx()) / line.length() * 7.0
        for tip in (start, end):
            painter.drawLine(QLineF(tip - across, tip + across))
    metrics = painter.fontMetrics()
    box = QRectF(0, 0, metrics.horizontalAdvance(text) + 14, metrics.height() + 4)
    box.moveCenter(line.center() + QPointF(0, -18))
    painter.fillRect(box, QColor(palette().panel))
    painter.setPen(QColor(palette().text))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
