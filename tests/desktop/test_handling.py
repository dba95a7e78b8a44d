"""Mouse and keys on the canvas and around it."""

from __future__ import annotations

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt, QTimer
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QDialog, QLabel, QToolButton

from sobercrow.core.artwork.choice import AnchorRef, Choice
from sobercrow.core.geometry.contour import AnchorKind
from sobercrow.demo.tour import pause, wait_until_done
from sobercrow.desktop.camera import Camera
from sobercrow.desktop.scene import Showing
from sobercrow.desktop.steps import Step
from sobercrow.desktop.window import MainWindow

NONE, SHIFT = Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier


def test_shift_adds_frames_to_what_is_chosen(window: MainWindow, drag) -> None:
    window.use_tool("choose")
    window.canvas.fit()
    drag(window.canvas, (10, 400), (1790, 630))
    swash = window.document.choice.shapes
    assert len(swash) == 1
    drag(window.canvas, (10, 100), (700, 420), SHIFT)
    both = window.document.choice.shapes
    assert swash < both
    drag(window.canvas, (5, 5), (30, 30))
    assert window.document.choice.shapes == frozenset()


def test_a_handle_is_dragged_and_the_other_one_turns_with_it(window: MainWindow, drag) -> None:
    artwork = window.document.artwork
    window.use_tool("anchors")
    ref, points = next(
        (AnchorRef(s, k, a), c.points[a])
        for s, shape in enumerate(artwork.shapes)
        for k, c in enumerate(shape.contours)
        for a in range(len(c))
        if c.kinds[a] == AnchorKind.SMOOTH and abs(c.points[a, [0, 2]] - c.points[a, 1]).max(axis=1).min() > 15
    )
    window.document.choose(Choice(anchors=frozenset({ref})))
    window.canvas.set_camera(Camera(*points[1], 5.0))
    handle = points[2]
    drag(window.canvas, tuple(handle), (handle[0] + 4, handle[1] + 6))
    assert window.document.undo_name == "Move handle"
    now = window.document.artwork.shapes[ref.shape].contours[ref.contour].points[ref.anchor]
    back, ahead = now[1] - now[0], now[2] - now[1]
    assert abs(back[0] * ahead[1] - back[1] * ahead[0]) < 1e-6 * abs(back).max() * abs(ahead).max() + 1e-9
    assert abs(now[2] - handle - (4, 6)).max() < 0.4


def test_every_edge_crops(window: MainWindow, drag) -> None:
    window.go_to(Step.CLEAN_UP)
    for edge, start, end in (
        ("left", (0, 320), (200, 320)),
        ("top", (900, 0), (900, 100)),
        ("bottom", (900, 640), (900, 500)),
    ):
        window.canvas.fit()
        drag(window.canvas, start, end)
        wait_until_done(window)
        crop = window.document.state.settings.clean_up.crop
        moved = {"left": end[0], "top": end[1], "bottom": end[1]}[edge]
        assert abs(getattr(crop, edge) - moved) <= 3
        assert window.document.undo_name == "Crop"
        window.document.undo()
        wait_until_done(window)


def test_the_middle_button_and_the_space_bar_pan(window: MainWindow) -> None:
    canvas = window.canvas
    window.use_tool("choose")
    for button, hold in ((Qt.MouseButton.MiddleButton, False), (Qt.MouseButton.LeftButton, True)):
        before = canvas.camera
        if hold:
            QTest.keyPress(canvas, Qt.Key.Key_Space)
        QTest.mousePress(canvas, button, NONE, QPoint(300, 300))
        QTest.mouseMove(canvas, QPoint(350, 280))
        QTest.mouseRelease(canvas, button, NONE, QPoint(350, 280))
        if hold:
            QTest.keyRelease(canvas, Qt.Key.Key_Space)
        assert (before.x - canvas.camera.x) * before.zoom == pytest.approx(50)
        assert (canvas.camera.y - before.y) * before.zoom == pytest.approx(20)
    assert window.document.choice.shapes == frozenset()


def test_the_seam_is_pulled_in_from_either_edge(window: MainWindow) -> None:
    canvas = window.canvas
    for x in (2, canvas.width() - 2):
        canvas.set_seam(None)
        QTest.mousePress(canvas, Qt.MouseButton.LeftButton, NONE, QPoint(x, 200))
        QTest.mouseMove(canvas, QPoint(400, 200))
        QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, NONE, QPoint(400, 200))
        assert canvas.seam == pytest.approx(400 / canvas.width(), abs=0.01)
    window.pill.left.menu().actions()[0].trigger()
    assert canvas.other_side is Showing.SOURCE
    assert window.pill.left.text() == "Brought in"


def test_the_wheel_zooms_and_pixels_get_a_grid(window: MainWindow) -> None:
    canvas = window.canvas
    before = canvas.camera.zoom
    turn = QWheelEvent(
        QPointF(200, 200),
        canvas.mapToGlobal(QPointF(200, 200)),
        QPoint(),
        QPoint(0, 120),
        Qt.MouseButton.NoButton,
        NONE,
        Qt.ScrollPhase.NoScrollPhase,
        False,
    )
    QApplication.sendEvent(canvas, turn)
    assert canvas.camera.zoom == pytest.approx(1.2 * before)
    window.go_to(Step.CLEAN_UP)
    canvas.set_camera(Camera(8.5, 8.5, 40.0))
    image = canvas.grab().toImage()
    colours = {
        image.pixelColor(x, canvas.height() // 2).name() for x in range(canvas.width() // 2, canvas.width() // 2 + 80)
    }
    assert len(colours) >= 2  # the grid's lines stand between pixels of even paper


def test_the_gauge_tells_place_zoom_and_figures(window: MainWindow) -> None:
    canvas, gauge = window.canvas, window.gauge
    canvas.set_camera(Camera(300, 300, 2.0))
    QTest.mouseMove(canvas, QPoint(canvas.width() // 2, canvas.height() // 2))
    assert gauge.place.text().startswith("25.4")
    assert "200 %" in gauge.place.text()
    figures = window.document.presentation.figures
    assert f"{figures.anchors} anchors" in gauge.figures.text()
    assert f"{figures.deviation_mean_px:.2f} mean" in gauge.figures.text()


def test_step_cards_are_picked_by_mouse_and_keys(window: MainWindow) -> None:
    QTest.mouseClick(window.rail.cards[Step.INKS], Qt.MouseButton.LeftButton)
    assert window.step is Step.INKS
    QTest.keyClick(window.rail.cards[Step.HAND_OVER], Qt.Key.Key_Return)
    assert window.step is Step.HAND_OVER
    QTest.keyClick(window, Qt.Key.Key_2, Qt.KeyboardModifier.ControlModifier)
    assert window.step is Step.CLEAN_UP
    QTest.keyClick(window, Qt.Key.Key_A)
    assert (window.step, window.tool_bar.isVisible()) == (Step.REFINE, True)


def test_cards_are_hatched_while_their_result_is_old(window: MainWindow) -> None:
    cards = window.rail.cards
    assert not any(card.stale for card in cards.values())
    window.inks_panel.one.threshold.changed.emit(80.0)
    assert [card.stale for card in cards.values()] == [False, False, True, True, True, True]
    wait_until_done(window)
    assert not any(card.stale for card in cards.values())


def test_a_demo_picture_is_opened_from_the_empty_desk(empty_window: MainWindow) -> None:
    window = empty_window
    assert window.desk.currentIndex() == 0
    link = next(b for b in window.start.findChildren(QToolButton) if b.text() == "Inked kite")
    QTest.mouseClick(link, Qt.MouseButton.LeftButton)
    wait_until_done(window)
    assert window.desk.currentIndex() == 1
    assert window.document.source.name == "kite-drawing.png"
    assert [p.name for p in window.files.recent()] == ["kite-drawing.png"]


def test_the_key_list_is_made_from_the_commands(window: MainWindow) -> None:
    texts: list[str] = []

    def look() -> None:
        dialog = QApplication.activeModalWidget()
        assert isinstance(dialog, QDialog)
        texts.extend(part.text() for part in dialog.findChildren(QLabel))
        dialog.close()

    QTimer.singleShot(100, look)
    window.menus.actions["keys"].trigger()
    for command in window.menus.commands.values():
        if command.keys:
            assert command.title in texts
    assert "Peek" in texts


def test_the_window_works_at_its_smallest(window: MainWindow) -> None:
    window.resize(1100, 700)
    pause(0.05)
    assert (window.width(), window.height()) == (1100, 700)
    for step in Step:
        window.go_to(step)
        pause(0.01)
        body = window.panels[step].column
        assert body.width() <= 304
        for part in body.findChildren(QLabel):
            if part.isVisible():
                assert part.mapTo(body, QPoint(part.width(), 0)).x() <= body.width()
