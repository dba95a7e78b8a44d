"""The demo job without a display: `python -m sobercrow.demo.tour FOLDER`.

Drives the real window through the work: brings in the pen lettering, looks at the result, moves one anchor,
writes the artwork as SVG and a picture of the window.
"""

from __future__ import annotations

import sys
import tempfile
import time
from pathlib import Path

from PySide6.QtCore import QCoreApplication, QEvent, QPoint, QSettings, Qt
from PySide6.QtTest import QTest

from sobercrow.core.artwork.hit import anchors_in
from sobercrow.core.geometry.contour import AnchorKind
from sobercrow.demo.make import PICTURES
from sobercrow.desktop.application import make_application, use_theme
from sobercrow.desktop.camera import Camera
from sobercrow.desktop.launch import stand_in_devices
from sobercrow.desktop.window import MainWindow

PATIENCE_S = 120.0


def pause(seconds: float) -> None:
    """Let the window and its threads work for a while. (QTest's own wait keeps Python's threads waiting as well.)"""
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        QCoreApplication.processEvents()
        QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete.value)
        time.sleep(0.004)


def wait_until_done(window: MainWindow) -> None:
    """Let the window work until the full result is shown; raises TimeoutError after two minutes."""
    end = time.monotonic() + PATIENCE_S
    pause(0.02)
    while not window.document.is_complete:
        if time.monotonic() > end:
            raise TimeoutError("the result did not come")
        pause(0.01)
    pause(0.02)


def open_window(picture: Path, width: int = 1280, height: int = 800) -> MainWindow:
    """Open the window on a picture, with preferences of its own, and wait for the full result."""
    make_application()
    use_theme(dark=False)
    folder = Path(tempfile.mkdtemp(prefix="sober-crow-"))
    preferences = QSettings(str(folder / "preferences.ini"), QSettings.Format.IniFormat)
    window = MainWindow(preferences, stand_in_devices())
    window.resize(width, height)
    window.show()
    window.files.open_path(picture)
    wait_until_done(window)
    return window


def move_an_anchor(window: MainWindow) -> None:
    """Drag the first smooth anchor near the middle of the drawing by a few pixels, with the mouse."""
    artwork = window.document.artwork
    assert artwork is not None
    window.use_tool("anchors")
    middle = (artwork.width_px * 0.3, 0.0, artwork.width_px * 0.7, artwork.height_px)
    ref = next(
        r
        for r in sorted(anchors_in(artwork, middle))
        if artwork.shapes[r.shape].contours[r.contour].kinds[r.anchor] != AnchorKind.CORNER
    )
    x, y = artwork.shapes[ref.shape].contours[ref.contour].anchors[ref.anchor]
    canvas = window.canvas
    canvas.set_camera(Camera(x, y, 4.0))
    start = QPoint(*map(round, canvas.camera.to_screen(x, y, canvas.width(), canvas.height())))
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start)
    for step in range(1, 9):
        QTest.mouseMove(canvas, start + QPoint(2 * step, step))
    QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, start + QPoint(16, 8))
    wait_until_done(window)


def main(folder: Path) -> None:
    """Run the demo job and say where its results are."""
    folder.mkdir(parents=True, exist_ok=True)
    window = open_window(PICTURES / "pen-lettering.png")
    move_an_anchor(window)
    svg, picture = folder / "pen-lettering.svg", folder / "window.png"
    window.files.writing.save_to(svg)
    wait_until_done(window)
    window.grab().save(str(picture))
    window.document.close()
    print(f"Artwork: {svg.resolve()}\nWindow:  {picture.resolve()}")


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else Path("demo-output"))
