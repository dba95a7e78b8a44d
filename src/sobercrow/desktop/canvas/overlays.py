"""What is painted over picture and artwork while something is set: crop, corners, strokes, lines, the magnifier."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from sobercrow.core.settings import Point
from sobercrow.desktop import tokens
from sobercrow.desktop.canvas.scene import Scene, Showing
from sobercrow.desktop.theme import palette

MAGNIFIER_PX = 132
MAGNIFIED = 4.0


def paint_frame(painter: QPainter, rect: QRectF) -> None:
    """Paint the frame pulled over shapes or anchors."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    soft = QColor(palette().accent)
    soft.setAlpha(28)
    painter.setBrush(soft)
    painter.setPen(QPen(QColor(palette().accent), 1, Qt.PenStyle.DashLine))
    painter.drawRect(rect)


def paint_crop(painter: QPainter, scene: Scene, page: QRectF) -> None:
    """Dim what the crop leaves out, and draw its edges with grips."""
    sheet, kept = scene.rect_on_screen(scene.sheet_rect), scene.rect_on_screen(page)
    outside = QPainterPath()
    outside.addRect(sheet)
    inside = QPainterPath()
    inside.addRect(kept)
    desk = QColor(palette().desk)
    desk.setAlpha(190)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    painter.fillPath(outside.subtracted(inside), desk)
    painter.setPen(QPen(QColor(palette().accent), 1))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(kept)
    painter.setPen(QPen(QColor(palette().accent), 4))
    for line in crop_grips(kept).values():
        painter.drawLine(line)


def crop_grips(kept: QRectF) -> dict[str, QLineF]:
    """Where the grips of a crop's edges are drawn, by the edge's name."""
    x, y, reach = kept.center().x(), kept.center().y(), 14.0
    return {
        "left": QLineF(kept.left(), y - reach, kept.left(), y + reach),
        "right": QLineF(kept.right(), y - reach, kept.right(), y + reach),
        "top": QLineF(x - reach, kept.top(), x + reach, kept.top()),
        "bottom": QLineF(x - reach, kept.bottom(), x + reach, kept.bottom()),
    }


def paint_corners(painter: QPainter, scene: Scene, corners: Sequence[Point]) -> None:
    """Paint the four corners of a slanted sheet: its sides, and an angle bracket at each corner."""
    at = [scene.on_screen(*corner) for corner in corners]
    whole, inside = QPainterPath(), QPainterPath()
    whole.addRect(QRectF(0, 0, scene.width, scene.height))
    inside.addPolygon(QPolygonF([*at, at[0]]))
    desk = QColor(palette().desk)
    desk.setAlpha(130)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.fillPath(whole.subtracted(inside), desk)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(QColor(tokens.LIGHT.accent), 1.2))
    painter.drawPolygon(QPolygonF(at))
    painter.setPen(QPen(QColor(tokens.LIGHT.accent), 3.0))
    for k, corner in enumerate(at):
        for other in (at[k - 1], at[(k + 1) % 4]):
            side = QLineF(corner, other)
            side.setLength(min(18.0, side.length()))
            painter.drawLine(side)
        painter.drawEllipse(corner, 2.0, 2.0)


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


def paint_legend(painter: QPainter, scene: Scene, title: str, steps: Sequence[tuple[str, str]]) -> None:
    """Paint what the colours of a view mean, texts and colours in steps, at the bottom left."""
    metrics = painter.fontMetrics()
    cell, height = 34.0, float(metrics.height()) + 8.0
    wide = metrics.horizontalAdvance(title) + 20 + cell * len(steps)
    box = QRectF(14, scene.height - height - 14, wide, height)
    painter.fillRect(box, QColor(palette().panel))
    painter.setPen(QColor(palette().text))
    painter.drawText(box.adjusted(8, 0, 0, 0), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, title)
    x = box.right() - cell * len(steps) - 4
    for k, (text, colour) in enumerate(steps):
        part = QRectF(x + k * cell, box.top() + 4, cell, height - 8)
        painter.fillRect(part, QColor(colour))
        painter.setPen(QColor(tokens.LIGHT.text if QColor(colour).lightnessF() > 0.45 else tokens.LIGHT.page))
        painter.drawText(part, Qt.AlignmentFlag.AlignCenter, text)


def paint_legend_of(painter: QPainter, scene: Scene, showing: Showing) -> None:
    """Paint the legend of a view, if it has one."""
    if showing is Showing.ERROR:
        steps = [("0", tokens.ERROR_NONE), *((f"{least:.0f}", colour) for least, colour in tokens.ERROR_STEPS)]
        paint_legend(painter, scene, "Colour error ΔE from", steps)
    elif showing is Showing.DEVIATION:
        paint_legend(
            painter, scene, "Deviation px from", [(f"{least:g}", colour) for least, colour in tokens.DEVIATION_STEPS]
        )


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


def paint_magnifier(painter: QPainter, scene: Scene, at: QPointF, paint: Callable[[QPainter, Scene], None]) -> None:
    """Paint what lies under the pointer larger, beside it, with a cross at the place itself."""
    side = float(MAGNIFIER_PX)
    x = at.x() + 28 if at.x() + 28 + side < scene.width else at.x() - 28 - side
    y = at.y() - 28 - side if at.y() - 28 - side > 0 else at.y() + 28
    box = QRectF(x, y, side, side)
    px, py = scene.camera.to_picture(at.x(), at.y(), scene.width, scene.height)
    zoom = min(max(scene.camera.zoom * MAGNIFIED, 1.0), tokens.MOST_ZOOM)
    middle = box.center()
    camera = replace(
        scene.camera,
        x=px - (middle.x() - scene.width / 2) / zoom,
        y=py - (middle.y() - scene.height / 2) / zoom,
        zoom=zoom,
    )
    painter.save()
    painter.setClipRect(box)
    painter.fillRect(box, QColor(palette().desk))
    paint(painter, replace(scene, camera=camera))
    painter.restore()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(QColor(palette().text), 1))
    painter.drawRect(box)
    painter.setPen(QPen(QColor(tokens.LIGHT.accent), 1))
    for dx, dy in ((1, 0), (0, 1)):
        arm = np.array([dx, dy]) * 9.0
        painter.drawLine(QLineF(middle - QPointF(*arm), middle + QPointF(*arm)))
