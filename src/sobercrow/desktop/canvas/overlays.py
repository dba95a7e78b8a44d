"""What is painted over picture and artwork while something is set: crop, corners, strokes, lines, the magnifier."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from sobercrow.desktop import tokens
from sobercrow.desktop.scene import Scene, Showing
from sobercrow.desktop.theme import palette

MAGNIFIER_PX = 132
MAGNIFIED = 4.0


def paint_legend(
    painter: QPainter, scene: Scene, title: str, steps: Sequence[tuple[str, str]], raised_px: float = 0.0
) -> None:
    """Paint what the colours of a view mean, texts and colours in steps, at the bottom left or so much higher."""
    metrics = painter.fontMetrics()
    cell, height = max(34.0, *(metrics.horizontalAdvance(text) + 8.0 for text, _ in steps)), metrics.height() + 8.0
    wide = metrics.horizontalAdvance(title) + 20 + cell * len(steps)
    box = QRectF(14, scene.height - height - 14 - raised_px, wide, height)
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
    painter.setPen(QPen(QColor(palette().mark), 1))
    for dx, dy in ((1, 0), (0, 1)):
        arm = np.array([dx, dy]) * 9.0
        painter.drawLine(QLineF(middle - QPointF(*arm), middle + QPointF(*arm)))
