"""What stands still on the canvas is kept as a picture, and looks as if it were painted anew."""

from __future__ import annotations

from collections.abc import Callable
from unittest import mock

import numpy as np
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.hit import anchors_in
from sobercrow.demo.tour import pause, wait_until_done
from sobercrow.desktop.camera import Camera
from sobercrow.desktop.canvas.artwork_layer import ArtworkLayer
from sobercrow.desktop.canvas.view import Canvas
from sobercrow.desktop.scene import Showing
from sobercrow.desktop.window import MainWindow


def pixels(canvas: Canvas) -> np.ndarray:
    image = canvas.grab().toImage()
    return np.array(image.constBits()).reshape(image.height(), image.width(), 4)[..., :3].astype(int)


def anew(canvas: Canvas) -> np.ndarray:
    """The same view with nothing kept."""
    marks = getattr(canvas.tool, "_marks", None)
    stills = [canvas._artwork._below, canvas._artwork._above, *([marks._still, marks._held] if marks else [])]
    for still in stills:
        still.forget()
    return pixels(canvas)


def differing(one: np.ndarray, other: np.ndarray) -> float:
    """The share of pixels that are plainly unlike: a mark may lie a pixel off, and soft edges a hundredth."""
    return float((np.abs(one - other).max(axis=2) > 40).mean())


def test_panning_shifts_what_was_painted(window: MainWindow) -> None:
    for tool in ("choose", "anchors"):
        window.use_tool(tool)
        for showing in (Showing.FILLED, Showing.OUTLINE):
            check_panning(window, showing)


def check_panning(window: MainWindow, showing: Showing) -> None:
    window.show_as(showing)
    canvas = window.canvas
    canvas.set_camera(Camera(400.0, 500.0, 1.5))
    pixels(canvas)
    with mock.patch.object(ArtworkLayer, "_draw", autospec=True, side_effect=ArtworkLayer._draw) as drawn:
        for dx, dy in ((13, 4), (-20, 9), (-31, -55)):
            canvas.set_camera(canvas.camera.panned(dx, dy))
            shifted = pixels(canvas)
    assert drawn.call_count <= 1  # once, with a margin
    assert differing(shifted, anew(canvas)) < 0.002
    canvas.set_camera(canvas.camera.zoomed(1.1, 50, 50, canvas.width(), canvas.height()))
    assert np.array_equal(pixels(canvas), anew(canvas))


def test_a_drag_shows_what_the_change_will_be(window: MainWindow, drag: Callable[..., None]) -> None:
    window.use_tool("anchors")
    window.show_as(Showing.FILLED)
    canvas, document = window.canvas, window.document
    place = document.artwork.shapes[2].contours[0].anchors[0]
    for everything in (False, True):
        canvas.set_camera(Camera(*place, 2.0))
        anchors = anchors_in(document.artwork, (-1e9, -1e9, 1e9, 1e9))
        near = anchors_in(document.artwork, (*(place - 1), *(place + 1)))
        document.choose(Choice(anchors=anchors if everything else near))
        before, at = document.artwork, QPoint(canvas.width() // 2, canvas.height() // 2)
        QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=at)
        for step in range(1, 5):
            QTest.mouseMove(canvas, at + QPoint(6 * step, 4 * step))
        assert (canvas.board.lifted is not None) == everything
        assert document.artwork is before
        pause(0.2)
        dragged = pixels(canvas)
        QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=at + QPoint(24, 16))
        wait_until_done(window)
        assert document.artwork is not before
        assert differing(dragged, anew(canvas)) < 0.004  # the figures beside the pointer are gone
        document.undo()
        wait_until_done(window)
