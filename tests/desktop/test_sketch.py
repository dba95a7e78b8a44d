"""Rough sketches in the Trace step: what they are read as is shown, set, and corrected by hand."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest
from desk import type_into
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from sobercrow.core.formats.project import SUFFIX, read_project
from sobercrow.core.geometry.forms import Ellipse
from sobercrow.core.settings import TraceKind, Treatment, Verdict
from sobercrow.demo.make import PICTURES
from sobercrow.demo.tour import pause, wait_until_done
from sobercrow.desktop.steps import Step
from sobercrow.desktop.window import MainWindow


@pytest.fixture
def bird(opened) -> MainWindow:
    window = opened(PICTURES / "pencil-sketch.png")
    window.go_to(Step.TRACE)
    window.canvas.fit()
    return window


def comes(told: Callable[[], bool]) -> bool:
    """Wait until something is worked out in the background and shown."""
    return any(told() or pause(0.05) for _ in range(200))


def on_screen(window: MainWindow, x: float, y: float) -> QPoint:
    canvas = window.canvas
    return QPoint(*map(round, canvas.camera.to_screen(x, y, canvas.width(), canvas.height())))


def say(window: MainWindow, verdict: Verdict, *places: tuple[float, float]) -> None:
    """Take a verdict up and say it at a place, or along places."""
    button = window.trace_panel.sketch.hand.buttons[verdict]
    if not button.isChecked():
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)
    first, *others = (on_screen(window, *place) for place in places)
    QTest.mousePress(window.canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, first)
    for place in others:
        QTest.mouseMove(window.canvas, place)
    QTest.mouseRelease(
        window.canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, others[-1] if others else first
    )
    wait_until_done(window)


def test_a_rough_sketch_is_one_line_at_first_sight_and_its_working_lines_have_a_layer(opened) -> None:
    window = opened(PICTURES / "pencil-sketch.png")
    window.go_to(Step.TRACE)
    panel, document = window.panels[Step.TRACE], window.document
    assert panel.kinds[TraceKind.ONE_LINE].isChecked()
    assert panel.sketch.column.isVisibleTo(panel)
    assert not panel.regular.isVisibleTo(panel)
    assert panel.sketch.names["working_lines"].text() == "5 working lines"
    first = document.artwork
    assert first.anchor_count < 30
    QTest.mouseClick(panel.sketch.choices["working_lines"][Treatment.LAYER], Qt.MouseButton.LeftButton)
    wait_until_done(window)
    assert document.undo_name == "Set working lines"
    assert [layer.name for layer in document.artwork.layers] == ["Working lines", first.layers[-1].name]
    assert len(document.artwork.layers[0].shapes) == 5
    type_into(panel.sketch.strays, "0.2")
    wait_until_done(window)
    assert document.artwork.anchor_count > first.anchor_count + 10  # every stroke for itself
    assert "The sketch says" in panel.sketch.strays.note.text()
    document.undo()
    document.undo()
    wait_until_done(window)
    assert document.artwork == first
    QTest.mouseClick(panel.kinds[TraceKind.OUTLINES], Qt.MouseButton.LeftButton)
    wait_until_done(window)
    assert not panel.sketch.column.isVisibleTo(panel)
    assert document.artwork.anchor_count > 5 * first.anchor_count


def test_the_strokes_of_the_line_pointed_at_are_shown(bird: MainWindow) -> None:
    shape = bird.document.artwork.shapes[0]
    x, y = shape.contours[0].sampled(1.0)[60]
    beside = on_screen(bird, x, y) + QPoint(6, 0)

    def band() -> int:
        image = bird.canvas.grab().toImage()
        return image.pixelColor(beside).saturation()

    plain = band()
    QTest.mouseMove(bird.canvas, on_screen(bird, x, y))
    assert comes(lambda: band() > plain + 20)
    QTest.mouseMove(bird.canvas, QPoint(20, 20))
    assert comes(lambda: band() == plain)


def test_working_lines_are_marked_until_their_tick_is_taken_off(bird: MainWindow) -> None:
    circle = next(form for form in bird.document.presentation.results.sketch.forms if isinstance(form, Ellipse))
    scale = bird.document.presentation.results.sketch_scale
    top = on_screen(bird, circle.x * scale, (circle.y - circle.ry) * scale)

    def marked() -> bool:
        image = bird.canvas.grab().toImage()
        near = [image.pixelColor(top + QPoint(dx, dy)) for dx in range(-9, 10) for dy in range(-2, 3)]
        return any(c.red() > c.blue() + 60 for c in near)

    assert comes(marked)
    bird.trace_panel.sketch.names["working_lines"].click()
    assert not marked()
    bird.trace_panel.sketch.names["working_lines"].click()


def test_what_is_said_of_strokes_by_hand_is_one_undo_and_is_kept(bird: MainWindow, tmp_path: Path) -> None:
    document, part = bird.document, bird.trace_panel.sketch
    first = document.artwork
    form = next(form for form in document.presentation.results.sketch.forms if not isinstance(form, Ellipse))
    scale = document.presentation.results.sketch_scale
    x, y = form.end(0.9 * form.first + 0.1 * form.last)
    say(bird, Verdict.LINE, (x * scale, y * scale))
    assert document.undo_name == "Say line"
    assert part.names["working_lines"].text() == "4 working lines"
    assert len(document.artwork.shapes) > len(first.shapes)
    # traced anew with other settings it still holds
    type_into(bird.trace_panel.detail, "20")
    wait_until_done(bird)
    assert part.names["working_lines"].text() == "4 working lines"
    document.undo()
    wait_until_done(bird)
    # and in a project that is opened again
    changed = document.artwork
    document.save_project(tmp_path / f"bird{SUFFIX}")
    kept = read_project(tmp_path / f"bird{SUFFIX}")
    assert kept.settings.tracing.corrections == document.state.settings.tracing.corrections
    part.hand.list.setCurrentRow(0)
    QTest.mouseClick(part.hand.remove, Qt.MouseButton.LeftButton)
    wait_until_done(bird)
    assert document.artwork == first
    document.undo()
    wait_until_done(bird)
    assert document.artwork == changed
    part.hand.list.item(0).setCheckState(Qt.CheckState.Unchecked)
    wait_until_done(bird)
    assert document.artwork == first


def test_a_joint_is_said_by_a_click_and_escape_lays_the_verdict_down(bird: MainWindow) -> None:
    document, hand = bird.document, bird.trace_panel.sketch.hand
    count = len(document.artwork.shapes)
    body = max(document.artwork.shapes, key=lambda s: len(s.contours[0].sampled(1.0)))
    x, y = body.contours[0].sampled(1.0)[40]
    say(bird, Verdict.APART, (x, y))
    assert document.undo_name == "Say apart"
    assert not all(s.contours[0].closed for s in document.artwork.shapes if s.bounds()[2] > x) or (
        len(document.artwork.shapes) > count
    )
    QTest.keyClick(bird, Qt.Key.Key_Escape)
    assert hand.verdict is None
    before = bird.canvas.camera
    QTest.mousePress(bird.canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(300, 300))
    QTest.mouseMove(bird.canvas, QPoint(340, 320))
    QTest.mouseRelease(bird.canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(340, 320))
    assert bird.canvas.camera != before  # a drag moves the view again
    assert document.undo_name == "Say apart"


def test_two_lines_need_a_drag_and_that_is_said(bird: MainWindow) -> None:
    x, y = bird.document.artwork.shapes[0].contours[0].sampled(1.0)[60]
    say(bird, Verdict.TWO, (x, y))
    assert "Drag along the line" in bird.gauge.message.text()
    assert not bird.document.state.settings.tracing.corrections


def test_what_is_said_where_there_is_no_stroke_is_refused(bird: MainWindow) -> None:
    say(bird, Verdict.SHADING, (40.0, 40.0))
    assert "no stroke of the sketch here" in bird.gauge.message.text()
    assert not bird.document.state.settings.tracing.corrections
