"""A tablet's pen: real events of one, pressed light and firm, turned over; and fingers on a trackpad."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

import numpy as np
import pytest
import shapely
from PySide6.QtCore import QCoreApplication, QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QInputDevice, QNativeGestureEvent, QPointingDevice, QTabletEvent, QWheelEvent

from sobercrow.core.geometry.combine import region
from sobercrow.core.settings import PenPressure
from sobercrow.demo.make import PICTURES
from sobercrow.demo.tour import pause, wait_until_done
from sobercrow.desktop.pen_dialog import PenDialog
from sobercrow.desktop.preferences import keep_pressure, kept_pressure
from sobercrow.desktop.steps import Step
from sobercrow.desktop.window import MainWindow

Open = Callable[[Path], MainWindow]
Ends = QPointingDevice.PointerType
NO_BUTTON, LEFT, NO_KEY = Qt.MouseButton.NoButton, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
FIRM_AND_EVEN = PenPressure(share=100.0, firmness=1.0)


@pytest.fixture
def window(opened: Open) -> MainWindow:
    window = opened(PICTURES / "pen-lettering.png")
    window.canvas.pen.pressure = FIRM_AND_EVEN
    return window


def draw(
    window: MainWindow, places: Sequence[tuple[float, float]], pressures: Sequence[float], end: Ends = Ends.Pen
) -> None:
    """Press a pen at the first place, in picture pixels, lead it along the others, and lift it."""
    canvas = window.canvas
    device = QPointingDevice(
        "pen", 7, QInputDevice.DeviceType.Stylus, end, QInputDevice.Capability.Pressure, 1, 3, parent=window
    )
    steps = [(QEvent.Type.TabletPress, 0, LEFT, LEFT)]
    steps += [(QEvent.Type.TabletMove, k, NO_BUTTON, LEFT) for k in range(1, len(places))]
    steps += [(QEvent.Type.TabletRelease, len(places) - 1, LEFT, NO_BUTTON)]
    for kind, k, button, buttons in steps:
        at = QPointF(*canvas.camera.to_screen(*places[k], canvas.width(), canvas.height()))
        pressure = 0.0 if kind is QEvent.Type.TabletRelease else pressures[k]
        whole = QPointF(canvas.mapToGlobal(QPoint(0, 0))) + at
        event = QTabletEvent(kind, device, at, whole, pressure, 0, 0, 0, 0, 0, NO_KEY, button, buttons)
        QCoreApplication.sendEvent(canvas, event)
        assert event.isAccepted()


def test_the_nib_is_as_wide_as_the_pen_is_pressed_and_the_other_end_scrapes(window: MainWindow) -> None:
    window.use_tool("art-nib")
    nib = window.tools["art-nib"].settings
    artwork = window.document.artwork
    assert artwork is not None
    full = nib.width_mm * artwork.dpi / 25.4
    xs = np.linspace(200.0, 800.0, 61)
    draw(window, [(x, 40.25) for x in xs], np.linspace(0.2, 1.0, 61).tolist())
    wait_until_done(window)
    drawn = window.document.artwork
    assert drawn is not None
    line = region(drawn.shapes[-1].contours, 0.1)
    for share in (0.3, 0.5, 0.7, 0.9):
        x = 200.0 + 600.0 * (share - 0.2) / 0.8
        _, low, _, high = line.intersection(strip_at(x)).bounds
        assert high - low == pytest.approx(share * full, rel=0.04, abs=0.3)
        assert 0.5 * (high + low) == pytest.approx(40.25, abs=0.05)  # a quarter of a pixel is not rounded away
    draw(window, [(500.0, 20.0), (500.0, 60.0)], [1.0, 1.0], Ends.Eraser)
    wait_until_done(window)
    after = window.document.artwork
    assert after is not None
    assert window.tool == "art-nib"
    assert not region(after.shapes[-1].contours, 0.1).intersects(strip_at(500.0))


def strip_at(x: float) -> shapely.Polygon:
    return shapely.box(x - 0.5, 0.0, x + 0.5, 80.0)


def test_a_touch_up_keeps_how_the_pen_was_pressed_in_a_project_too(window: MainWindow, tmp_path: Path) -> None:
    window.use_tool("nib")
    draw(window, [(x, 30.0) for x in range(200, 801, 5)], np.linspace(0.1, 1.0, 121).tolist())
    wait_until_done(window)
    (touch_up,) = window.document.state.settings.clean_up.touch_ups
    assert touch_up.shares[0] == pytest.approx(0.1, abs=0.01)
    assert touch_up.shares[-1] == pytest.approx(1.0, abs=0.01)
    presentation = window.document.presentation
    assert presentation is not None
    cleaned = presentation.results.cleaned.pixels
    grey = cleaned if cleaned.ndim == 2 else cleaned.mean(axis=2)
    dark = [(255.0 - grey[0:60, x]).sum() / 255.0 for x in (300, 500, 700)]
    assert dark == pytest.approx([touch_up.width_px * s for s in (0.25, 0.55, 0.85)], rel=0.15, abs=0.4)
    window.files._save_to(tmp_path / "pressed.sobercrow")
    wait_until_done(window)
    pause(0.5)
    window.files.open_path(tmp_path / "pressed.sobercrow")
    wait_until_done(window)
    assert window.document.state.settings.clean_up.touch_ups == (touch_up,)


def test_two_presses_of_a_pen_are_a_double_click(window: MainWindow) -> None:
    window.use_tool("draw")
    shapes = len(window.document.artwork.shapes)
    for place in ((100.0, 20.0), (200.0, 20.0), (200.0, 60.0), (200.0, 60.0)):
        draw(window, [place], [0.5])
    assert len(window.document.artwork.shapes) == shapes + 1


def test_fingers_on_a_trackpad_move_the_view_and_a_pinch_zooms_about_them(window: MainWindow) -> None:
    canvas = window.canvas
    before = canvas.camera
    at, nowhere = QPointF(300.0, 200.0), QPoint()
    scroll = QWheelEvent(at, at, QPoint(30, 40), QPoint(60, 80), NO_BUTTON, NO_KEY, Qt.ScrollPhase.ScrollUpdate, False)
    QCoreApplication.sendEvent(canvas, scroll)
    assert canvas.camera.zoom == before.zoom
    assert (canvas.camera.x, canvas.camera.y) != (before.x, before.y)
    wheel = QWheelEvent(at, at, nowhere, QPoint(0, 120), NO_BUTTON, NO_KEY, Qt.ScrollPhase.NoScrollPhase, False)
    QCoreApplication.sendEvent(canvas, wheel)
    assert canvas.camera.zoom > before.zoom
    zoomed, held = canvas.camera.zoom, canvas.camera.to_picture(300.0, 200.0, canvas.width(), canvas.height())
    pinch = Qt.NativeGestureType.ZoomNativeGesture
    device = QPointingDevice.primaryPointingDevice()
    QCoreApplication.sendEvent(canvas, QNativeGestureEvent(pinch, device, 2, at, at, at, 0.25, QPointF()))
    assert canvas.camera.zoom == pytest.approx(1.25 * zoomed)
    assert canvas.camera.to_picture(300.0, 200.0, canvas.width(), canvas.height()) == pytest.approx(held, abs=1e-6)


def test_pressure_is_set_seen_and_remembered(window: MainWindow) -> None:
    assert [PenPressure(80.0, 2.0).width_share(p) for p in (0.0, 0.5, 1.0)] == pytest.approx([0.2, 0.4, 1.0])
    dialog = PenDialog(FIRM_AND_EVEN, window._take_pressure, window)
    before = dialog.curve.grab().toImage()
    dialog.form.fields["firmness"].changed.emit(2.5)
    assert window.canvas.pen.pressure == PenPressure(100.0, 2.5)
    assert dialog.curve.grab().toImage() != before
    assert kept_pressure(window.preferences) == PenPressure(100.0, 2.5)
    window.preferences.setValue("pen", "much too hard")
    assert kept_pressure(window.preferences) == PenPressure()
    keep_pressure(window.preferences, FIRM_AND_EVEN)
    window.go_to(Step.INKS)
    assert window.canvas.eraser is None
