"""What keeps the window from answering: `python bench/window.py`.

Every event the window handles during a scripted hour of work is timed: all demo pictures, all steps, views, tools and
folds, settings dragged, edits undone and done again, the theme, artwork of 20,000 anchors. The worst ten are printed.
Frames with the Anchors tool in hand are timed by themselves.
"""

from __future__ import annotations

import gc
import os
import statistics
import sys
import time
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QEvent, QObject, QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from sobercrow.core.artwork.choice import AnchorRef, Choice
from sobercrow.core.artwork.hit import anchors_in
from sobercrow.core.artwork.model import Artwork, Layer
from sobercrow.core.settings import Inks
from sobercrow.demo.make import PICTURES
from sobercrow.demo.tour import open_window, pause, wait_until_done
from sobercrow.desktop.camera import Camera
from sobercrow.desktop.controls import Fold
from sobercrow.desktop.state import State
from sobercrow.desktop.steps import LOOKS, Step
from sobercrow.desktop.window import MainWindow

EVERYWHERE = (-1e9, -1e9, 1e9, 1e9)


class Watched(QApplication):
    """Times every event that is handled while no other is."""

    def __init__(self) -> None:
        super().__init__(["sober-crow"])
        self.took: list[tuple[float, str, str]] = []
        self.doing = ""
        self._inside = False

    def notify(self, receiver: QObject, event: QEvent) -> bool:
        if self._inside:
            return super().notify(receiver, event)
        self._inside = True
        start = time.perf_counter()
        try:
            return super().notify(receiver, event)
        finally:
            self._inside = False
            name = f"{event.type().name} of {type(receiver).__name__}"
            self.took.append((1000 * (time.perf_counter() - start), self.doing, name))


def timed(application: Watched, doing: str, work: Callable[[], object], then: float = 0.02) -> None:
    """Do something the user does, timed as one event, and let the window go on."""
    application.doing = doing
    start = time.perf_counter()
    work()
    application.took.append((1000 * (time.perf_counter() - start), doing, "command"))
    pause(then)


def drag(window: MainWindow, start: tuple[float, float], end: tuple[float, float]) -> Iterator[Callable[[], object]]:
    """The events of a drag over the canvas, from one picture point to another."""
    canvas = window.canvas
    a, b = (QPoint(*map(round, canvas.camera.to_screen(*p, canvas.width(), canvas.height()))) for p in (start, end))
    yield lambda: QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=a)
    for k in range(1, 7):
        yield lambda k=k: QTest.mouseMove(canvas, a + (b - a) * k / 6)
    yield lambda: QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=b)


def many(artwork: Artwork, count: int) -> Artwork:
    """Artwork repeated until it has about so many anchors."""
    shapes = list(artwork.shapes)
    row = 0
    while sum(s.anchor_count for s in shapes) < count:
        row += 1
        shapes += [s.moved(0.0, 45.0 * row) for s in artwork.shapes]
    while sum(s.anchor_count for s in shapes) > count:
        shapes.pop()
    return replace(artwork, layers=(Layer("Ink", tuple(shapes)),))


def one_picture(application: Watched, window: MainWindow, file: Path) -> None:
    """Work through all steps of a picture."""
    name = file.name
    window.document._saved = window.document.state  # nothing is asked before the next one is opened
    timed(application, f"open {name}", lambda: window.files.open_path(file))
    wait_until_done(window)
    for step in Step:
        timed(application, f"{name}: go to {LOOKS[step].title}", lambda step=step: window.go_to(step))
        for showing in LOOKS[step].views:
            timed(application, f"{name}: show {showing.value}", lambda showing=showing: window.show_as(showing))
            window.canvas.zoom_by(1.3)
            pause(0.01)
        window.canvas.fit()
        for fold in window.panels[step].column.findChildren(Fold):
            if fold.isVisible():
                timed(application, f"{name}: fold {fold.head.text()}", fold.head.click)
        for tool in (tool.id for tool in window.tools.values() if tool.step is step):
            timed(application, f"{name}: take up {tool}", lambda tool=tool: window.use_tool(tool))
    document = window.document
    for k in range(6):
        settings = document.state.settings
        tried = replace(settings, tracing=replace(settings.tracing, detail=40.0 + 5 * k))
        timed(application, f"{name}: drag detail", lambda tried=tried: document.change_settings("Detail", tried, "d"))
    wait_until_done(window)
    if document.presentation is not None and document.presentation.tones is not None:
        for k in range(6):
            tried = replace(document.state.settings, inks=Inks(threshold=110 + 5 * k))
            timed(application, f"{name}: drag threshold", lambda tried=tried: document.change_settings("T", tried, "t"))
        wait_until_done(window)
    timed(application, f"{name}: keep a proof", document.keep_proof)
    refine(application, window, name)


def refine(application: Watched, window: MainWindow, name: str) -> None:
    """Choose, move, delete, undo and redo."""
    document = window.document
    window.use_tool("choose")
    window.canvas.fit()
    pause(0.1)
    artwork = document.artwork
    if artwork is None or not artwork.shapes:
        return
    x, y = (float(v) for v in artwork.shapes[-1].contours[0].anchors[0])
    for event in drag(window, (x, y), (x + 30, y + 20)):
        timed(application, f"{name}: drag a shape", event)
    wait_until_done(window)
    window.use_tool("anchors")
    window.canvas.look_at(x + 30, y + 20, 2.0)
    pause(0.05)
    for event in drag(window, (x + 30, y + 20), (x + 36, y + 25)):
        timed(application, f"{name}: drag an anchor", event)
    wait_until_done(window)
    timed(application, f"{name}: choose all", window.choose_all)
    for event in drag(window, (x + 36, y + 25), (x + 50, y + 35)):
        timed(application, f"{name}: drag all anchors", event)
    wait_until_done(window)
    for work in (document.undo, document.undo, document.redo, document.redo, document.undo):
        timed(application, f"{name}: undo and redo", work)
    wait_until_done(window)


def large_artwork(application: Watched, window: MainWindow) -> None:
    """The same in artwork of 20,000 anchors."""
    window.document._saved = window.document.state
    window.files.open_path(PICTURES / "pen-lettering.png")
    wait_until_done(window)
    assert window.document.artwork is not None
    large = many(window.document.artwork, 20_000)
    timed(application, "20,000: take it", lambda: window.document.refine("Many", large))
    wait_until_done(window)
    refine(application, window, "20,000")
    for _ in range(12):
        timed(application, "20,000: zoom", lambda: window.canvas.zoom_by(1.15))
    for _ in range(12):
        camera = window.canvas.camera
        timed(application, "20,000: pan", lambda c=camera: window.canvas.set_camera(c.panned(15, 9)))


def hour_of_work(application: Watched) -> None:
    """Print the worst events of a scripted hour."""
    window = open_window(PICTURES / "tints.png")
    for file in sorted(PICTURES.iterdir()):
        one_picture(application, window, file)
        timed(application, "theme", window.toggle_dark, 0.3)
    timed(application, "proof sheet", lambda: window.show_sheet(True))
    timed(application, "proof sheet", lambda: window.show_sheet(False))
    large_artwork(application, window)
    window.document._saved = window.document.state
    window.document.close()
    print(f"{len(application.took)} events and commands; the longest ten of different kinds:\n")
    print("| ms | while | what |\n|---|---|---|")
    seen: set[tuple[str, str]] = set()
    for ms, doing, what in sorted(application.took, reverse=True):
        if (doing, what) not in seen:
            seen.add((doing, what))
            print(f"| {ms:.0f} | {doing} | {what} |")
        if len(seen) == 10:
            break
    over = sum(ms > 50 for ms, _, _ in application.took)
    print(f"\nlonger than 50 ms: {over}")


def frame_table() -> None:
    """Print how long a painted frame takes with the Anchors tool in hand."""
    window = open_window(PICTURES / "pen-lettering.png")
    artwork = window.document.artwork
    assert artwork is not None
    window.use_tool("anchors")
    canvas = window.canvas

    def median_frame(before: Callable[[int], object], count: int = 15) -> str:
        seconds = []
        for k in range(count):
            start = time.perf_counter()
            before(k)
            canvas.grab()
            seconds.append(1000 * (time.perf_counter() - start))
        return f"{statistics.median(seconds):.1f} ({max(seconds):.0f})"

    print("\n| anchors | panning, whole | panning, 4 × | dragging one | dragging all |\n|---|---|---|---|---|")
    for count in (400, 2000, 20_000):
        shown = many(artwork, count)
        window.document.state = State(window.document.state.settings, shown)
        window.document.presentation = replace(window.document.presentation, artwork=shown)
        window.document.choose()
        canvas.fit()
        whole, place = canvas.camera, shown.shapes[3].contours[0].anchors[0].tolist()
        cells = []
        for camera in (whole, Camera(*place, 4.0)):
            canvas.set_camera(camera)
            canvas.grab()
            cells.append(median_frame(lambda k, c=camera: canvas.set_camera(c.panned(3 * k, 2 * k))))
        for chosen, camera in (({AnchorRef(3, 0, 0)}, Camera(*place, 4.0)), (anchors_in(shown, EVERYWHERE), whole)):
            window.document.choose(Choice(anchors=frozenset(chosen)))
            canvas.set_camera(camera)
            canvas.grab()
            at = QPoint(*map(round, camera.to_screen(*place, canvas.width(), canvas.height())))
            QTest.mousePress(canvas, Qt.MouseButton.LeftButton, pos=at)
            cells.append(median_frame(lambda k, at=at: QTest.mouseMove(canvas, at + QPoint(12 + 3 * k, 9))))
            QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, pos=at + QPoint(54, 9))
        print(f"| {shown.anchor_count} | " + " | ".join(cells) + " |")
    print("\nmilliseconds, median (longest)")
    window.document.close()


if __name__ == "__main__":
    gc.freeze()  # as the front does
    watched = Watched()
    if "frames" not in sys.argv:
        hour_of_work(watched)
    frame_table()
