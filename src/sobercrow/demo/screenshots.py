"""One picture of each main view, from the demo data: `python -m sobercrow.demo.screenshots FOLDER`."""

from __future__ import annotations

import sys
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from sobercrow.core.artwork.hit import anchors_in
from sobercrow.core.geometry.contour import AnchorKind
from sobercrow.demo.make import PICTURES
from sobercrow.demo.tour import open_window, pause
from sobercrow.desktop.canvas.camera import Camera
from sobercrow.desktop.canvas.layers import Showing
from sobercrow.desktop.steps import Step
from sobercrow.desktop.window import MainWindow


def main(folder: Path) -> None:
    """Write the pictures."""
    folder.mkdir(parents=True, exist_ok=True)

    def take(window: MainWindow, name: str) -> None:
        pause(0.3)
        window.grab().save(str(folder / f"{name}.png"))

    window = open_window(PICTURES / "pen-lettering.png")
    for step in (Step.BRING_IN, Step.CLEAN_UP, Step.INKS, Step.HAND_OVER):
        window.go_to(step)
        window.canvas.fit()
        take(window, step.value.replace("_", "-"))
    window.go_to(Step.TRACE)
    QTest.mouseClick(window.panels[Step.TRACE].fold, Qt.MouseButton.LeftButton)  # type: ignore[attr-defined]
    take(window, "trace")
    artwork = window.document.artwork
    assert artwork is not None
    window.use_tool("anchors")
    window.canvas.set_camera(Camera(330.0, 250.0, 3.2))
    seen = sorted(anchors_in(artwork, (260.0, 200.0, 420.0, 300.0)))
    smooth = [r for r in seen if artwork.shapes[r.shape].contours[r.contour].kinds[r.anchor] != AnchorKind.CORNER]
    window.document.choose(anchors=frozenset(smooth[:1]))
    take(window, "refine-anchors")
    window.use_tool("choose")
    window.canvas.fit()
    window.document.choose(shapes=frozenset({0, 1, 2}))
    window.show_as(Showing.FILLED)
    window.toggle_seam()
    take(window, "refine-shapes-seam")
    window.document.close()
    window.close()

    kite = open_window(PICTURES / "kite-drawing.png")
    kite.actions_by_id["dark"].trigger()
    kite.canvas.fit()
    take(kite, "dark")
    kite.actions_by_id["dark"].trigger()
    kite.document.close()

    start = MainWindow(kite.preferences)
    start.preferences.remove("recent")
    start.start.show_recent([])
    start.resize(1280, 800)
    start.show()
    take(start, "start")
    start.document.close()


if __name__ == "__main__":
    main(Path(sys.argv[1]))
