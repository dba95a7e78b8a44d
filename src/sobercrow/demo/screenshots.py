"""One picture of each main view, from the demo data: `python -m sobercrow.demo.screenshots FOLDER`."""

from __future__ import annotations

import sys
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QWidget

from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.hit import anchors_in
from sobercrow.core.artwork.stretches import Stretch
from sobercrow.core.handover.purpose import Purpose
from sobercrow.core.lettering.typefaces import all_files
from sobercrow.core.settings import Treatment
from sobercrow.demo.make import PICTURES
from sobercrow.demo.tour import open_window, pause, wait_until_done
from sobercrow.desktop.camera import Camera
from sobercrow.desktop.help.guide_window import show_guide
from sobercrow.desktop.panels.clean_up.part import Part
from sobercrow.desktop.scene import Showing
from sobercrow.desktop.steps import Step
from sobercrow.desktop.window import MainWindow


def shapes_pictures(take: Callable[[QWidget, str], None]) -> None:
    """Take the pictures of Refine for shapes: layers and paint; pouring."""
    badge = open_window(PICTURES / "badge-200.jpg")
    badge.go_to(Step.REFINE)
    badge.show_as(Showing.FILLED)
    badge.canvas.fit()
    artwork = badge.document.artwork
    assert artwork is not None
    layers = badge.refine_panel.layers
    layers.refresh()
    layers.rows.fold(layers.rows.rows[0])
    badge.document.choose(Choice(shapes=frozenset({0, len(artwork.shapes) - 1})))
    take(badge, "refine-shapes")
    badge.document.close()

    kite = open_window(PICTURES / "kite-drawing.png")
    kite.use_tool("art-pour")
    kite.show_as(Showing.FILLED)
    kite.canvas.fit()
    pause(1.5)  # until areas and gaps are found
    for x, y, colour in ((500, 400, "#8fb9aa"), (700, 600, "#f2d096")):
        pour = kite.tools["art-pour"]
        pour.settings = replace(pour.settings, colour=colour)
        at = QPoint(*map(round, kite.canvas.camera.to_screen(x, y, kite.canvas.width(), kite.canvas.height())))
        QTest.mouseClick(kite.canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, at)
        pause(1.0)
    kite.document.choose()
    QTest.mouseMove(
        kite.canvas,
        QPoint(*map(round, kite.canvas.camera.to_screen(500, 600, kite.canvas.width(), kite.canvas.height()))),
    )
    take(kite, "refine-pour")
    kite.canvas.board.close()
    kite.document.close()


def hand_over_pictures(take: Callable[[QWidget, str], None]) -> None:
    """Take the pictures of Hand over: the page with what the check found, the cutter at work."""
    badge = open_window(PICTURES / "badge-200.jpg")
    panel = badge.hand_over_panel
    badge.go_to(Step.HAND_OVER)
    panel.laying.width.changed.emit(80.0)
    panel.laying.fold.head.setChecked(True)
    panel.laying.papers.activated.emit(panel.laying.papers.findText("A5"))
    panel.laying.margin.changed.emit(10.0)
    panel.check.purposes[Purpose.CUT].click()
    badge.canvas.fit()
    pause(1.5)  # until it was checked, and the file written
    take(badge, "hand-over")
    panel.laying.fold.head.setChecked(False)
    panel.format.choose["hpgl"].click()
    badge.show_as(Showing.OUTLINE)
    badge.canvas.fit()
    panel.cutter.fold.head.setChecked(True)
    panel.cutter.cut()
    pause(3.0)
    area = badge.panel_areas[Step.HAND_OVER]
    area.verticalScrollBar().setValue(area.verticalScrollBar().maximum())
    take(badge, "cutter")
    panel.cutter.halt()
    badge.end_work()


def help_and_table_pictures(take: Callable[[QWidget, str], None]) -> None:
    """The guide beside the window; several pictures on the table; the colours of a press."""
    badge = open_window(PICTURES / "badge-200.jpg")
    badge.go_to(Step.HAND_OVER)
    badge.hand_over_panel.format.choose["pdf"].click()
    badge.hand_over_panel.format.printing.on.click()
    badge.canvas.fit()
    pause(1.5)  # until the profile has told what inks come to
    take(badge, "printing")
    guide = show_guide(badge, ())
    guide.show_passage(guide.guide.head("low-quality-logo"))
    take(guide, "guide")
    guide.close()
    names = ("badge-200.jpg", "pen-lettering.png", "swing-sign.jpg", "kite-drawing.png", "brush-lettering.jpg")
    badge.several.take([PICTURES / name for name in names])
    while badge.several.page.pieces.waiting:
        pause(0.2)
    take(badge, "several")
    badge.end_work()


def clean_up_pictures(take: Callable[[QWidget, str], None]) -> None:
    """Take the pictures of Clean up: the small badge as it came and as it was, and what is offered of it."""
    badge = open_window(PICTURES / "badge-200.jpg")
    badge.typefaces.files = lambda: all_files(installed=False)
    badge.go_to(Step.CLEAN_UP)
    unfold(badge, badge.clean_panel.restore)
    badge.canvas.look_at(100.0, 62.0, 5.5)
    badge.toggle_seam()
    while badge.offer.found is None:
        pause(0.2)
    take(badge, "as-it-was")
    badge.toggle_seam()
    badge.end_work()


def inks_pictures(take: Callable[[QWidget, str], None]) -> None:
    """The inks of the small dirty badge in their list."""
    badge = open_window(PICTURES / "badge-200.jpg")
    panel = badge.inks_panel
    badge.go_to(Step.INKS)
    badge.canvas.fit()
    panel.several.list.select(1)
    take(badge, "inks-several")
    badge.document.close()


def trace_pictures(take: Callable[[QWidget, str], None]) -> None:
    """Drawing and artwork of several inks at a seam, three proofs, one line of a sketch."""
    badge = open_window(PICTURES / "badge-200.jpg")
    panel = badge.trace_panel
    badge.go_to(Step.TRACE)
    badge.canvas.fit()
    take_at_seam(take, badge, "badge-500", (100.0, 78.0, 5.0))
    for detail in (15.0, 60.0, 100.0):
        panel.detail.changed.emit(detail)
        wait_until_done(badge)
        badge.document.keep_proof()
        wait_until_done(badge)
    badge.show_sheet(True)
    badge.canvas.look_at(100.0, 60.0, 5.0)
    take(badge, "proof-sheet")
    badge.document.close()

    sign = open_window(PICTURES / "sign-sketch.png")
    sign.go_to(Step.TRACE)
    QTest.mouseClick(sign.trace_panel.sketch.choices["working_lines"][Treatment.LAYER], Qt.MouseButton.LeftButton)
    wait_until_done(sign)
    sign.canvas.fit()
    for x in (600.0, 571.0):  # on to the circle: its strokes are shown
        at = sign.canvas.camera.to_screen(x, 320.0, sign.canvas.width(), sign.canvas.height())
        QTest.mouseMove(sign.canvas, QPoint(*map(round, at)))
        pause(0.1)
    take(sign, "one-line")
    sign.document.close()


def take_at_seam(
    take: Callable[[QWidget, str], None], window: MainWindow, name: str, look: tuple[float, float, float]
) -> None:
    """Take the drawing beside the artwork, looking at a place at so many times its size."""
    window.show_as(Showing.FILLED)
    window.canvas.look_at(*look)
    window.toggle_seam()
    take(window, name)
    window.toggle_seam()


def lettering_pictures(take: Callable[[QWidget, str], None]) -> None:
    """Match on the small dirty badge: arc and typefaces over the drawing; the drawing and set lettering at a seam.

    Even weights on the pen lettering: the ribbon of widths.
    """
    badge = open_window(PICTURES / "badge-200.jpg")
    part = badge.refine_panel.match
    badge.typefaces.files = lambda: all_files(installed=False)
    badge.go_to(Step.REFINE)
    badge.show_as(Showing.OVER)
    badge.canvas.fit()
    badge.menus.actions["match"].trigger()
    while not part.is_found:
        pause(0.2)
    pause(0.6)
    take(badge, "match")
    badge.document.close()

    pen = open_window(PICTURES / "pen-lettering.png")
    even = pen.refine_panel.even
    pen.go_to(Step.REFINE)
    pen.menus.actions["even-weights"].trigger()
    while not even.is_measured:
        pause(0.2)
    pen.canvas.look_at(590.0, 260.0, 1.15)
    pause(0.8)
    take(pen, "even")
    pen.document.close()


def unfold(window: MainWindow, part: Part) -> None:
    """Open one part of the Clean up panel and fold the others away."""
    for other, fold in window.clean_panel.folds.items():
        fold.head.setChecked(other is part)


def main(folder: Path) -> None:
    """Write the pictures."""
    folder.mkdir(parents=True, exist_ok=True)

    def take(window: QWidget, name: str) -> None:
        pause(0.3)
        window.grab().save(str(folder / f"{name}.png"))

    window = open_window(PICTURES / "pen-lettering.png")
    window.go_to(Step.CLEAN_UP)
    window.canvas.fit()
    take(window, "clean-up")
    window.go_to(Step.TRACE)
    window.trace_panel.fine.head.setChecked(True)
    take(window, "trace")
    artwork = window.document.artwork
    assert artwork is not None
    window.use_tool("anchors")
    window.canvas.set_camera(Camera(330.0, 250.0, 3.2))
    seen = sorted(anchors_in(artwork, (260.0, 200.0, 420.0, 300.0)))
    first = seen[len(seen) // 2]
    count = len(artwork.shapes[first.shape].contours[first.contour])
    stretch = Stretch(first.shape, first.contour, first.anchor, min(5, count - 2))
    window.document.choose(Choice(anchors=stretch.refs(count)))
    take(window, "refine-anchors")
    window.document.close()
    window.close()

    clean_up_pictures(take)
    inks_pictures(take)
    trace_pictures(take)

    shapes_pictures(take)
    lettering_pictures(take)
    hand_over_pictures(take)
    help_and_table_pictures(take)

    kite = open_window(PICTURES / "kite-drawing.png")
    kite.menus.actions["dark"].trigger()
    kite.canvas.fit()
    pause(1.5)  # the look changes part by part
    take(kite, "dark")
    kite.menus.actions["dark"].trigger()
    kite.document.close()

    start = MainWindow(kite.preferences, kite.devices)
    start.preferences.remove("recent")
    start.start.show_recent([])
    start.resize(1280, 800)
    start.show()
    pause(0.6)  # the demo pictures come one after the other
    take(start, "start")
    start.document.close()


if __name__ == "__main__":
    main(Path(sys.argv[1]))
