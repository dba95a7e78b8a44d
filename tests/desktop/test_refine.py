"""Refining lines, driven as a designer drives it: from tracing to a finished word, and what is refused."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
from desk import at, stroke
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from drawings import off
from sketch_scenes import dense as evenly
from sobercrow.core.artwork.choice import AnchorRef, Choice
from sobercrow.core.artwork.stretches import stretch_of
from sobercrow.core.geometry.contour import AnchorKind
from sobercrow.demo.make import PICTURES
from sobercrow.demo.tour import pause, wait_until_done
from sobercrow.desktop.camera import Camera
from sobercrow.desktop.steps import Step
from sobercrow.desktop.window import MainWindow

LEFT = Qt.MouseButton.LeftButton
NO_KEYS = Qt.KeyboardModifier.NoModifier


def longest_smooth_run(window: MainWindow) -> tuple[int, int, int, int]:
    """Shape, contour, first anchor and pieces of the longest run without corners, of four pieces or more."""
    runs = []
    for s, shape in enumerate(window.document.artwork.shapes):
        for c, contour in enumerate(shape.contours):
            corners = np.flatnonzero(contour.kinds == AnchorKind.CORNER)
            sizes = np.hypot(*np.diff(contour.curves()[:, [0, 3]], axis=1)[:, 0].T)
            for first, last in pairwise(corners):
                if last - first >= 4:
                    runs.append((float(sizes[first:last].min()), (s, c, int(first), int(last - first))))
    return max(runs)[1]


def points_along(window: MainWindow, s: int, c: int, first: int, pieces: int) -> np.ndarray:
    contour = window.document.artwork.shapes[s].contours[c]
    t = np.linspace(0, 1, 12, endpoint=False)[:, None]
    v = 1 - t
    parts = [
        v**3 * a + 3 * t * v**2 * b + 3 * t**2 * v * d + t**3 * e
        for a, b, d, e in contour.curves()[first : first + pieces]
    ]
    return np.concatenate(parts)


@pytest.fixture
def anchors(window: MainWindow) -> MainWindow:
    """The window with the Anchors tool in hand, looking closely at the longest smooth run."""
    window.go_to(Step.REFINE)
    QTest.keyClick(window, Qt.Key.Key_A)
    s, c, first, pieces = longest_smooth_run(window)
    line = points_along(window, s, c, first, pieces)
    span = float(max(np.ptp(line[:, 0]), np.ptp(line[:, 1])))
    window.canvas.set_camera(Camera(*line.mean(axis=0).tolist(), min(6.0, max(500.0 / span, 3.0))))
    pause(0.05)
    return window


def test_from_a_traced_word_to_a_finished_one_and_back(anchors: MainWindow, tmp_path: Path) -> None:
    window, document = anchors, anchors.document
    s, c, first, pieces = longest_smooth_run(window)
    assert pieces >= 4

    # a stretch is run along, and pulled on at its end
    line = points_along(window, s, c, first, pieces)
    stroke(window, line[6 : 12 * 2 + 6])
    chosen = document.choice.anchors
    assert chosen == {AnchorRef(s, c, first + k) for k in (1, 2)}
    assert window.refine_panel.chosen.text().startswith("Stretch of 2 anchors, ")
    tool = window.canvas.tool
    grip = tool.ends.places(window.canvas.scene())[1][0].toPoint()
    QTest.mousePress(window.canvas, LEFT, NO_KEYS, grip)
    for point in line[12 * 2 + 8 : 12 * (pieces - 1) + 6]:
        QTest.mouseMove(window.canvas, at(window, *point))
    QTest.mouseRelease(window.canvas, LEFT, NO_KEYS, at(window, *line[12 * (pieces - 1) + 6]))
    assert document.choice.anchors == {AnchorRef(s, c, first + k) for k in range(1, pieces)}
    QTest.keyClick(window, Qt.Key.Key_Comma)
    assert len(document.choice.anchors) == max(pieces - 3, 1)
    QTest.keyClick(window, Qt.Key.Key_Period)

    # one corner is rounded and made sharp again
    corner = AnchorRef(s, c, first)
    sharp = document.artwork.shapes[s].contours[c].anchors[first].copy()
    document.choose(Choice(anchors=frozenset({corner})))
    window.refine_panel.line.radius.box.setValue(0.25)
    window.menus.actions["round"].trigger()
    assert document.undo_name == "Round"
    assert stretch_of(document.artwork, document.choice.anchors).pieces == 1
    window.menus.actions["sharpen"].trigger()
    (ref,) = document.choice.anchors
    assert document.artwork.shapes[s].contours[c].anchors[ref.anchor] == pytest.approx(sharp, abs=0.7)
    wait_until_done(window)

    # the edge is eased twice, and a part of it drawn anew
    QTest.keyClick(window, Qt.Key.Key_E)
    assert window.refine_panel.options.is_shown
    window.refine_panel.options.fields["ease"]["reach_px"].box.setValue(12.0)
    for _ in range(2):
        stroke(window, line[3:-3])
        wait_until_done(window)
    assert document.undo_name == "Ease"
    assert "Eased over" in window.gauge.message.text()
    QTest.keyClick(window, Qt.Key.Key_R)
    assert window.tool == "redraw"
    bulge = line[4:20] + 2.5 * np.sin(np.linspace(0, np.pi, 16))[:, None]
    stroke(window, bulge)
    assert document.undo_name == "Redraw"

    # thinned, the figures told before
    document.choose()
    panel = window.refine_panel.thin
    count = document.artwork.anchor_count
    panel.tolerance.box.setValue(1.0)
    for _ in range(200):
        pause(0.02)
        if "→" in panel.told.text():
            break
    told = panel.told.text()
    assert told.startswith(f"{count} → ")
    assert "try" in window.canvas.marks
    QTest.mouseClick(panel.buttons["thin-out"], LEFT)
    assert "try" not in window.canvas.marks
    assert document.undo_name == "Thin out"
    wait_until_done(window)
    assert f"→ {document.artwork.anchor_count} anchors" in told
    assert document.artwork.anchor_count < count

    # all of it undone and done again, saved and opened: the same
    finished = document.artwork
    wait_until_done(window)
    steps = 0
    while document.undo_name is not None:
        document.undo()
        steps += 1
    assert steps == 6
    assert document.state.refined is None
    while document.redo_name is not None:
        document.redo()
    assert document.artwork is finished
    wait_until_done(window)
    document.save_project(tmp_path / "word.crow")
    window.files.open_path(tmp_path / "word.crow")
    wait_until_done(window)
    assert document.artwork.shapes == finished.shapes


def test_a_command_held_shows_what_it_would_do_and_slid_off_does_nothing(anchors: MainWindow) -> None:
    window, document = anchors, anchors.document
    s, c, first, pieces = longest_smooth_run(window)
    document.choose(Choice(anchors=frozenset(AnchorRef(s, c, first + k) for k in range(pieces + 1))))
    button = window.refine_panel.line.buttons["straight"]
    before = window.canvas.grab().toImage()
    QTest.mousePress(button, LEFT)
    for _ in range(200):
        pause(0.02)
        if "try" in window.canvas.marks:
            break
    assert "moved by" in window.canvas.marks["try"].told
    assert window.canvas.grab().toImage() != before
    QTest.mouseMove(button, QPoint(-60, -60))
    QTest.mouseRelease(button, LEFT, NO_KEYS, QPoint(-60, -60))
    assert "try" not in window.canvas.marks
    assert document.undo_name is None
    QTest.mouseClick(button, LEFT)
    assert document.undo_name == "Make straight"


def test_anchors_are_ringed_stepped_through_and_chosen_by_kind(anchors: MainWindow) -> None:
    window, document = anchors, anchors.document
    window.canvas.fit()
    box = document.artwork.shapes[0].bounds()
    ring = np.array(
        [(box[0] - 3, box[1] - 3), (box[2] + 3, box[1] - 3), (box[2] + 3, box[3] + 3), (box[0] - 3, box[3] + 3)]
    )
    path = np.concatenate([np.linspace(a, b, 8) for a, b in zip(ring, np.roll(ring, -1, axis=0), strict=True)])
    stroke(window, path, Qt.KeyboardModifier.AltModifier)
    assert {AnchorRef(0, 0, k) for k in range(len(document.artwork.shapes[0].contours[0]))} <= document.choice.anchors
    window.menus.actions["only-corners"].trigger()
    kinds = {int(document.artwork.shapes[r.shape].contours[r.contour].kinds[r.anchor]) for r in document.choice.anchors}
    assert kinds == {int(AnchorKind.CORNER)}
    document.choose(Choice(anchors=frozenset({AnchorRef(0, 0, 0)})))
    window.menus.actions["next-anchor"].trigger()
    assert document.choice.anchors == {AnchorRef(0, 0, 1)}


def test_a_contour_is_drawn_closed_left_open_and_taken_back(anchors: MainWindow) -> None:
    window, document = anchors, anchors.document
    window.canvas.fit()
    count = len(document.artwork.shapes)
    QTest.keyClick(window, Qt.Key.Key_D)
    corners = [(60, 60), (140, 60), (140, 110), (60, 110)]
    for corner in corners:
        QTest.mouseClick(window.canvas, LEFT, NO_KEYS, at(window, *corner))
    QTest.mouseClick(window.canvas, LEFT, NO_KEYS, at(window, *corners[0]))
    assert document.undo_name == "Draw"
    made = document.artwork.shapes[-1].contours[0]
    assert made.closed
    assert abs(made.area()) == pytest.approx(80 * 50, rel=0.06)
    wait_until_done(window)

    # a drag sets a smooth anchor, Backspace takes one back, Enter leaves the line open
    QTest.mouseClick(window.canvas, LEFT, NO_KEYS, at(window, 60, 20))
    stroke(window, np.array([(120.0, 20.0), (130.0, 30.0), (150.0, 40.0)]))
    QTest.mouseClick(window.canvas, LEFT, NO_KEYS, at(window, 250, 20))
    QTest.keyClick(window.canvas, Qt.Key.Key_Backspace)
    QTest.mouseClick(window.canvas, LEFT, NO_KEYS, at(window, 200, 40))
    QTest.keyClick(window.canvas, Qt.Key.Key_Return)
    made = document.artwork.shapes[-1].contours[0]
    assert not made.closed
    assert made.kinds.tolist() == [AnchorKind.CORNER, AnchorKind.SMOOTH, AnchorKind.CORNER]
    assert len(document.artwork.shapes) == count + 2
    wait_until_done(window)

    # what is open is listed to be mended, and closed there
    document.choose()
    window.refine_panel.mend.refresh()
    rows = window.refine_panel.mend.rows
    for _ in range(200):
        pause(0.02)
        if rows["open_ends"].isVisible():
            break
    assert rows["open_ends"].text.text() == "1 open contour"
    QTest.mouseClick(rows["open_ends"].do, LEFT)
    assert document.undo_name == "Close contours"
    assert document.artwork.shapes[-1].contours[0].closed


def test_ink_is_drawn_and_scraped_and_a_line_cut(anchors: MainWindow) -> None:
    window, document = anchors, anchors.document
    window.canvas.fit()
    big = max(range(len(document.artwork.shapes)), key=lambda s: document.artwork.shapes[s].anchor_count)
    box = document.artwork.shapes[big].bounds()
    middle = 0.5 * (box[1] + box[3])
    count = len(document.artwork.shapes)
    QTest.keyClick(window, Qt.Key.Key_N)
    assert window.tool == "art-nib"
    stroke(window, np.column_stack([np.linspace(box[0] - 20, box[2] + 20, 20), np.full(20, middle)]))
    assert document.undo_name == "Draw with the nib"
    wait_until_done(window)
    assert len(document.artwork.shapes) <= count
    QTest.keyClick(window, Qt.Key.Key_S)
    window.refine_panel.options.fields["art-scrape"]["width_mm"].box.setValue(2.0)
    x = 0.5 * (box[0] + box[2])
    before = document.artwork
    stroke(window, np.column_stack([np.full(12, x), np.linspace(box[1] - 20, box[3] + 20, 12)]))
    assert document.undo_name == "Scrape"
    wait_until_done(window)
    assert len(document.artwork.shapes) > len(before.shapes)

    QTest.keyClick(window, Qt.Key.Key_X)
    place = document.artwork.shapes[0].contours[0].anchors[1]
    QTest.mouseClick(window.canvas, LEFT, NO_KEYS, at(window, *place))
    assert document.undo_name == "Cut"
    assert not document.artwork.shapes[0].contours[0].closed
    kept = document.state
    QTest.mouseClick(window.canvas, LEFT, NO_KEYS, at(window, 3, 3))
    assert document.state is kept
    assert "no line here" in window.gauge.message.text()


def test_a_trail_follows_the_pencil_between_clicks_is_taken_back_and_ends_on_a_line(opened) -> None:
    window = opened(PICTURES / "pencil-sketch.png")
    window.go_to(Step.REFINE)
    document, canvas = window.document, window.canvas
    canvas.fit()
    before = document.artwork
    bird = max((c for s in before.shapes for c in s.contours), key=len)
    line = evenly(bird.sampled(1.0))
    first, middle, last = (line[round(share * len(line))] for share in (0.1, 0.2, 0.3))
    document.refine("Clear", replace(before, layers=(replace(before.layers[0], items=()),)))
    QTest.keyClick(window, Qt.Key.Key_W)
    trail = window.tools["trail"]

    def looked_ahead() -> bool:
        return trail._ways is not None

    def wait(until) -> None:
        for _ in range(400):
            if until():
                return
            pause(0.02)
        raise AssertionError("nothing came of it")

    QTest.mouseClick(canvas, LEFT, NO_KEYS, at(window, *first))
    wait(looked_ahead)
    QTest.mouseMove(canvas, at(window, *middle))
    QTest.mouseClick(canvas, LEFT, NO_KEYS, at(window, *(middle + 60.0)))  # a wrong turn
    wait(lambda: len(trail._parts) == 1)
    QTest.keyClick(canvas, Qt.Key.Key_Backspace)
    assert (len(trail._places), trail._parts) == (1, [])
    QTest.mouseClick(canvas, LEFT, NO_KEYS, at(window, *middle))
    QTest.mouseClick(canvas, LEFT, NO_KEYS, at(window, *last))  # sooner than ways are known
    QTest.keyClick(canvas, Qt.Key.Key_Return)
    wait(lambda: document.undo_name == "Trail")
    (made,) = document.artwork.shapes
    assert made.stroke is not None
    (contour,) = made.contours
    assert not contour.closed
    assert len(contour) < 10
    # nowhere far from where the lines of the sketch were found
    away = off(contour.sampled(1.0), line)
    assert np.median(away) < 4.0
    assert away.max() < 12.0
    assert not trail.follows
    wait_until_done(window)

    QTest.mouseClick(canvas, LEFT, NO_KEYS, at(window, *(contour.anchors[0] + 2.0)))
    wait(looked_ahead)
    QTest.mouseClick(canvas, LEFT, NO_KEYS, at(window, *(first + np.array((40.0, 200.0)))))
    QTest.keyClick(canvas, Qt.Key.Key_Return)
    wait(lambda: len(document.artwork.shapes) == 2)
    assert document.artwork.shapes[-1].contours[0].anchors[0] == pytest.approx(contour.anchors[0])

    # twice in one place is no line, and is told so
    for _ in range(2):
        QTest.mouseClick(canvas, LEFT, NO_KEYS, at(window, *(first + np.array((150.0, 250.0)))))
        wait(looked_ahead)
    QTest.keyClick(canvas, Qt.Key.Key_Return)
    wait(lambda: window.gauge.message.text() == "Draw a line, not a point.")
    assert len(document.artwork.shapes) == 2
