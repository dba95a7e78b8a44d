"""Artwork made for trying edits on the real window, and what hands do in it."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from drawings import artwork_of, glyph_contours
from sobercrow.core.artwork.choice import AnchorRef
from sobercrow.core.artwork.model import Artwork, Shape, stroked
from sobercrow.core.geometry.contour import Contour
from sobercrow.desktop.controls import NumberField
from sobercrow.desktop.window import MainWindow


def type_into(field: NumberField, text: str) -> None:
    """Type a number over that of a field, and end with Enter."""
    field.box.setFocus()
    field.box.selectAll()
    QTest.keyClicks(field.box, text)
    QTest.keyClick(field.box, Qt.Key.Key_Return)


def line(*points: tuple[float, float], closed: bool = False) -> Contour:
    at = np.array(points, float)
    return Contour(np.repeat(at[:, None], 3, axis=1), np.zeros(len(at), np.uint8), closed)


def desk(artwork: Artwork) -> Artwork:
    """A box with a hole, a bent line open at both ends, a letter: something for every edit."""
    box = Shape(
        (
            line((50, 50), (250, 50), (250, 150), (50, 150), closed=True),
            line((90, 80), (90, 120), (200, 100), closed=True),
        )
    )
    bent = stroked((line((300, 60), (340, 72), (380, 58), (420, 90), (500, 160)),), "#a33e2e", 4.0)
    made = artwork_of(box, bent, *(c.moved(60, 200) for c in glyph_contours("S", 200)))
    return Artwork(made.layers, artwork.width_px, artwork.height_px, artwork.dpi)


def at(window: MainWindow, x: float, y: float) -> QPoint:
    """Where on the canvas a picture point is shown."""
    canvas = window.canvas
    return QPoint(*map(round, canvas.camera.to_screen(float(x), float(y), canvas.width(), canvas.height())))


def stroke(window: MainWindow, points: np.ndarray, keys: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
    """Press, move along picture points, and let go."""
    left = Qt.MouseButton.LeftButton
    QTest.mousePress(window.canvas, left, keys, at(window, *points[0]))
    for point in points[1:]:
        QTest.mouseMove(window.canvas, at(window, *point))
    QTest.mouseRelease(window.canvas, left, keys, at(window, *points[-1]))


def refs(shape: int, *places: int, contour: int = 0) -> frozenset[AnchorRef]:
    return frozenset(AnchorRef(shape, contour, k) for k in places)
