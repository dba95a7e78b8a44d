"""Marks that several tools paint: frames, lines with a text, strokes, rings."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from sobercrow.core.settings import Point
from sobercrow.desktop import tokens
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.theme import palette


def paint_frame(painter: QPainter, rect: QRectF) -> None:
    """Paint the frame pulled over shapes or anchors."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    soft = QColor(palette().accent)
    soft.setAlpha(28)
    painter.setBrush(soft)
    painter.setPen(QPen(QColor(palette().accent), 1, Qt.PenStyle.DashLine))
    painter.drawRect(rect)


def paint_stroke(painter: QPainter, scene: Scene, points: Sequence[Point], width_px: float, colour: str | None) -> None:
    """Paint a touch-up as it will be; `width_px` 0 fills the shape, without a colour it is scraped off."""
    at = [scene.on_screen(*p) for p in points]
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    ink = QColor(colour if colour is not None else tokens.LIGHT.page)
    if width_px > 0.0:
        pen = QPen(ink, max(width_px * scene.camera.zoom, 1.0))
        pen.setCapStyle(Qt.PenCapStyle.RoundCap)
        pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
        painter.setPen(pen)
        if len(at) == 1:
            painter.drawPoint(at[0])
        else:
            painter.drawPolyline(at)
        return
    painter.setBrush(ink)
    painter.setPen(QPen(QColor(tokens.LIGHT.accent), 1.0))
    painter.drawPolygon(at)


def paint_nib(painter: QPainter, at: QPointF, radius: float) -> None:
    """Paint how wide a stroke would be: a thin ring, light on dark and dark on light."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for colour, more in ((tokens.LIGHT.page, 1.0), (tokens.LIGHT.accent, 0.0)):
        painter.setPen(QPen(QColor(colour), 1.2))
        painter.drawEllipse(at, max(radius, 1.5) + more, max(radius, 1.5) + more)


def paint_ruler(painter: QPainter, start: QPointF, end: QPointF, text: str) -> None:
    """Paint a line drawn along something, with crossbars at its ends and a text at its middle."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    line = QLineF(start, end)
    painter.setPen(QPen(QColor(tokens.LIGHT.page), 3.6))
    painter.drawLine(line)
    painter.setPen(QPen(QColor(tokens.LIGHT.accent), 1.6))
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
