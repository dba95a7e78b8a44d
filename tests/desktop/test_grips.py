"""Grips, marks and guides pulled on the real window, figures typed while dragging, keys held to try."""

from __future__ import annotations

import math

import numpy as np
import pytest
from desk import refs
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest

from drawings import artwork_of
from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.model import Shape
from sobercrow.core.artwork.placing import Nine, box_of
from sobercrow.core.artwork.snapping import Guide, Lies
from sobercrow.core.geometry.arcs import arcs_of
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import Ellipse
from sobercrow.demo.tour import pause, wait_until_done
from sobercrow.desktop.scene import Showing
from sobercrow.desktop.steps import Step
from sobercrow.desktop.window import MainWindow

LEFT, NO_KEYS, SHIFT = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier
MM = 150 / 25.4
"""The picture behind has 150 dpi."""


def on_screen(window: MainWindow, x: float, y: float) -> QPoint:
    canvas = window.canvas
    return QPoint(*map(round, canvas.camera.to_screen(x, y, canvas.width(), canvas.height())))


def pull(window: MainWindow, start: QPoint, by: QPoint, typed: str = "", keys=NO_KEYS) -> None:
    """Pull something, type into its figures, and take them by Enter, or let go."""
    canvas = window.canvas
    QTest.mousePress(canvas, LEFT, keys, start)
    for k in range(1, 5):
        QTest.mouseMove(canvas, start + by * k / 4)
    for text in typed:
        QTest.keyClick(canvas, Qt.Key.Key_Tab if text == "\t" else text)
    if typed:
        QTest.keyClick(canvas, Qt.Key.Key_Return)
    QTest.mouseRelease(canvas, LEFT, keys, start + by)


@pytest.fixture
def near(refining: MainWindow) -> MainWindow:
    """The window looking at the box and the bent line."""
    refining.canvas.look_at(275.0, 100.0, 1.6)
    pause(0.05)
    return refining


TYPED = {"2": (2.0, None), "-1,5": (-1.5, None), "2\t-0.5": (2.0, -0.5), "\t3": (None, 3.0), "29\b.5": (2.5, None)}


def test_digits_typed_while_an_anchor_is_dragged_go_into_its_figures(near: MainWindow) -> None:
    document, canvas = near.document, near.canvas
    for typed, moved in TYPED.items():
        start = on_screen(near, 340.0, 72.0)
        QTest.mousePress(canvas, LEFT, NO_KEYS, start)
        for k in range(1, 5):
            QTest.mouseMove(canvas, start + QPoint(12 * k, 7 * k))
        for text in typed:
            QTest.keyClick(canvas, {"\t": Qt.Key.Key_Tab, "\b": Qt.Key.Key_Backspace}.get(text, text))
        assert "▏" in canvas.tool.figures.told
        QTest.mouseMove(canvas, start + QPoint(60, 40))  # what was typed stays
        QTest.keyClick(canvas, Qt.Key.Key_Return)
        QTest.mouseRelease(canvas, LEFT, NO_KEYS, start + QPoint(60, 40))
        here = document.artwork.shapes[1].contours[0].anchors[1]
        for own, home, wanted in zip(here, (340.0, 72.0), moved, strict=True):
            assert wanted is None or own == pytest.approx(home + wanted * MM), typed
        assert document.undo_name == "Move anchor"
        document.undo()
        assert document.artwork.shapes[1].contours[0].anchors[1].tolist() == [340.0, 72.0]


def test_a_handle_takes_a_length_and_an_angle(near: MainWindow) -> None:
    document = near.document
    document.choose(Choice(anchors=refs(1, 1)))
    near.menus.actions["make-smooth"].trigger()
    points = document.artwork.shapes[1].contours[0].points[1]
    pull(near, on_screen(near, *points[2]), QPoint(20, 20), "2\t30")
    arm = document.artwork.shapes[1].contours[0].points[1][2] - points[1]
    assert arm == pytest.approx(2 * MM * np.array((math.cos(math.radians(30)), -math.sin(math.radians(30)))))
    length, angle = near.refine_panel.line.handles.fields[0]
    assert (length.box.value(), angle.box.value()) != (0.0, 0.0)
    angle.box.setValue(-90.0)
    back = document.artwork.shapes[1].contours[0].points[1]
    assert back[0][0] == pytest.approx(back[1][0], abs=1e-6)
    assert back[0][1] > back[1][1]
    assert document.undo_name == "Set handle"


@pytest.mark.parametrize("side", [1, -1])
def test_the_bow_bends_a_stretch_to_either_side_and_to_a_radius(near: MainWindow, side: int) -> None:
    document, tool = near.document, near.canvas.tool
    document.choose(Choice(anchors=refs(1, 0, 1, 2)))
    near.menus.actions["straight"].trigger()
    assert near.gauge.message.text().startswith("The stretch is straight")
    grip = tool.bow.place(near.canvas.scene())[0].toPoint()
    pull(near, grip, QPoint(0, 30 * side))
    contour = document.artwork.shapes[1].contours[0]
    ((_, arc),) = arcs_of(contour.curves()[: len(document.choice.anchors) - 1])
    assert (float(arc.middle[1]) < 65.0) is (side > 0)
    pull(near, tool.bow.place(near.canvas.scene())[0].toPoint(), QPoint(0, 8 * side), "20")
    ((_, sized),) = arcs_of(document.artwork.shapes[1].contours[0].curves()[: len(document.choice.anchors) - 1])
    assert sized.radius == pytest.approx(20 * MM)
    assert (float(sized.middle[1]) < 65.0) is (side > 0)
    panel = near.refine_panel.line.stretch
    assert panel.radius.box.value() == pytest.approx(20.0)
    panel.radius.box.setValue(9.0)
    ((_, typed),) = arcs_of(document.artwork.shapes[1].contours[0].curves()[: len(document.choice.anchors) - 1])
    assert typed.radius == pytest.approx(9 * MM)


def test_corners_are_rounded_together_by_a_pull_at_one_of_them(near: MainWindow) -> None:
    document, tool = near.document, near.canvas.tool
    document.choose(Choice(anchors=refs(0, 0, 1, 2, 3)))
    scene = near.canvas.scene()
    _, place, within, _ = tool.rounding.corners(scene)[0]
    grip = tool.rounding._mark(scene, place, within).toPoint()
    pull(near, grip, QPoint(10, 10), "1.5")
    arcs = [arc for _, arc in arcs_of(document.artwork.shapes[0].contours[0].curves()) if arc is not None]
    assert [arc.radius for arc in arcs] == pytest.approx([1.5 * MM] * 4)
    assert document.undo_name == "Round"


def marks_of(window: MainWindow):
    frame = window.canvas.tool.placing.frame(window.canvas.scene())
    return frame, lambda nine: QPointF(*nine.of((frame.left(), frame.top(), frame.right(), frame.bottom()))).toPoint()


@pytest.mark.parametrize("tool", ["anchors", "choose"])
def test_marks_around_what_is_chosen_scale_stretch_lean_and_turn_it(near: MainWindow, tool: str) -> None:
    window, document = near, near.document
    window.use_tool(tool)
    wanted = Choice(anchors=refs(1, 0, 1, 2, 3, 4)) if tool == "anchors" else Choice(shapes=frozenset({1}))
    before = box_of(document.artwork, wanted)

    def box(nine: Nine, by: QPoint, typed: str, keys=NO_KEYS, turning: bool = False):
        document.choose(wanted)
        frame, at = marks_of(window)
        start = window.canvas.tool.placing._turning(frame).toPoint() if turning else at(nine)
        pull(window, start, by, typed, keys)
        made = box_of(document.artwork, wanted)
        document.undo()
        return np.array(made)

    size = np.array((before[2] - before[0], before[3] - before[1]))
    twice = box(Nine.RIGHT_BOTTOM, QPoint(20, 20), "200")
    assert twice == pytest.approx([before[0], before[1], *(np.array(before[:2]) + 2 * size)], abs=1e-6)
    wide = box(Nine.LEFT, QPoint(-20, 0), "30")
    assert wide == pytest.approx([before[2] - 30 * MM, before[1], before[2], before[3]], abs=1e-6)
    leaned = box(Nine.TOP, QPoint(20, 0), "45", Qt.KeyboardModifier.AltModifier)
    assert leaned[3] - leaned[1] == pytest.approx(size[1])
    assert leaned[2] - leaned[0] < size[0], "this one runs down to the right, so leaning it to the right narrows it"
    turned = box(Nine.MIDDLE, QPoint(5, 25), "90", turning=True)
    middle = np.array((before[0] + before[2], before[1] + before[3])) / 2
    assert turned == pytest.approx([*(middle - size[::-1] / 2), *(middle + size[::-1] / 2)], abs=1e-6)


def test_size_and_place_are_typed_about_one_of_nine_points(near: MainWindow) -> None:
    window, document = near, near.document
    window.use_tool("choose")
    document.choose(Choice(shapes=frozenset({0})))
    part = window.refine_panel.place
    QTest.mouseClick(part.about, LEFT, NO_KEYS, part.about.place(Nine.LEFT_TOP).toPoint())
    assert (part.across.box.value(), part.down.box.value()) == pytest.approx((50 / MM, 50 / MM), abs=0.006)
    part.width.box.setValue(34.0)
    assert box_of(document.artwork, document.choice) == pytest.approx((50, 50, 50 + 34 * MM, 50 + 17 * MM))
    part.keep_form.click()
    part.height.box.setValue(10.0)
    part.across.box.setValue(1.0)
    assert box_of(document.artwork, document.choice) == pytest.approx((MM, 50, 35 * MM, 50 + 10 * MM))
    QTest.keyClick(part.about, Qt.Key.Key_Right)
    QTest.keyClick(part.about, Qt.Key.Key_Down)
    assert window.canvas.tool.placing.settings.about is Nine.MIDDLE
    part.turn.box.setValue(90.0)
    left, top, right, bottom = box_of(document.artwork, document.choice)
    assert (right - left, bottom - top) == pytest.approx((10 * MM, 34 * MM))
    assert part.turn.box.value() == 0.0
    part.scale.box.setValue(50.0)
    part.lean.box.setValue(10.0)
    names = []
    for _ in range(6):
        names.append(document.undo_name)
        document.undo()
    assert names == ["Lean", "Scale", "Turn", "Place", "Set height", "Set width"]
    QTest.keyClick(window.canvas, "H", SHIFT)
    hole = document.artwork.shapes[0].contours[1]
    assert hole.anchors[:, 0].max() == pytest.approx(300 - 90), (
        "mirrored, the upright side of the hole lies at the right"
    )


def test_guides_are_pulled_from_the_edges_snapped_to_saved_and_pushed_out_again(near: MainWindow, tmp_path) -> None:
    window, document, canvas = near, near.document, near.canvas
    pull(window, QPoint(400, 3), QPoint(0, 200), "6.5")
    pull(window, QPoint(3, 300), QPoint(260, 0), "")
    level, upright = document.state.guides
    assert level == Guide(Lies.LEVEL, pytest.approx(6.5 * MM))
    assert upright.lies is Lies.UPRIGHT
    assert canvas.seam is None, "while artwork is worked on the left edge is the guides'"
    start = on_screen(window, 340.0, 72.0)
    QTest.mousePress(canvas, LEFT, NO_KEYS, start)
    for y in (20, 10, level.at + 1.0 - 72.0):
        QTest.mouseMove(canvas, on_screen(window, 345.0, 72.0 + y))
    assert "on a guide" in canvas.tool.figures.told
    QTest.mouseRelease(canvas, LEFT, NO_KEYS, on_screen(window, 345.0, level.at + 1.0))
    assert document.artwork.shapes[1].contours[0].anchors[1, 1] == level.at
    wait_until_done(window)
    document.save_project(tmp_path / "guides.sobercrow")
    y = round(canvas.camera.to_screen(0, level.at, canvas.width(), canvas.height())[1])
    pull(window, QPoint(6, y), QPoint(0, 3 - y))
    assert document.state.guides == (upright,)
    assert document.undo_name == "Take a guide away"
    document.open_path(tmp_path / "guides.sobercrow")
    wait_until_done(window)
    assert document.state.guides == (level, upright)


def test_the_key_of_an_edit_shows_it_while_held_and_does_it_when_let_go(near: MainWindow) -> None:
    window, document = near, near.document
    document.choose(Choice(anchors=refs(1, 0, 1, 2)))
    kept = document.state
    for give_up in (True, False):
        QTest.keyPress(window.canvas, "L", SHIFT)
        for _ in range(100):
            pause(0.02)
            if "try" in window.canvas.marks:
                break
        assert "try" in window.canvas.marks
        assert document.state is kept
        if give_up:
            QTest.keyClick(window.canvas, Qt.Key.Key_Escape)
            assert "try" not in window.canvas.marks
            assert document.choice.anchors, "Esc gave up the edit alone"
        QTest.keyRelease(window.canvas, "L", SHIFT)
    assert document.undo_name == "Make straight"
    assert "try" not in window.canvas.marks
    document.undo()
    QTest.keyClick(window.canvas, "L", SHIFT)
    assert document.undo_name == "Make straight", "a quick press does it at once"


def test_drawing_and_fill_show_as_strongly_as_they_are_slid(near: MainWindow) -> None:
    window, slide = near, near.view_bar.strength
    window.show_as(Showing.OVER)
    assert slide.isVisible()
    inside = on_screen(window, 70.0, 65.0)

    def shade() -> int:
        return window.canvas.grab().toImage().pixelColor(inside).lightness()

    plain = shade()
    y = {"drawing": 5, "fill": slide.height() - 5}
    QTest.mouseClick(slide, LEFT, NO_KEYS, QPoint(slide.width() - 2, y["fill"]))
    assert shade() < plain - 100, "the box is black, and filled wholly now"
    QTest.mouseClick(slide, LEFT, NO_KEYS, QPoint(slide.width() // 2, y["fill"]))
    assert plain - 100 > shade() > 60
    QTest.keyClick(slide, Qt.Key.Key_Up)
    for _ in range(20):
        QTest.keyClick(slide, Qt.Key.Key_Left)
    assert (slide.strengths.drawing, slide.strengths.fill) == (
        pytest.approx(0.0, abs=1e-9),
        pytest.approx(0.5, abs=0.02),
    )
    window.show_as(Showing.FILLED)
    assert not slide.isVisible()


def test_the_deviation_of_the_chosen_stretch_is_told_and_shown(window: MainWindow) -> None:
    window.go_to(Step.REFINE)
    window.use_tool("anchors")
    wait_until_done(window)
    part = window.refine_panel.line.stretch
    window.document.choose(Choice(anchors=refs(0, 0, 1, 2)))
    part.ribbon.click()
    for _ in range(100):
        pause(0.02)
        if "stretch" in window.canvas.marks:
            break
    away = window.canvas.marks["stretch"].away
    assert 0 < len(away.points) < len(window.document.presentation.deviation.points) / 4
    assert part.told.text() == f"Deviation {away.away.mean():.2f} px, {away.away.max():.2f} at most"
    window.document.choose(Choice())
    assert "stretch" not in window.canvas.marks


def test_a_shape_is_put_into_another_as_its_hole(near: MainWindow) -> None:
    window, document = near, near.document
    document.choose(Choice(anchors=refs(0, 0, 1, 2, contour=1)))
    window.menus.actions["take-out"].trigger()
    document.choose(Choice(shapes=frozenset({0, 1})))
    window.menus.actions["put-in"].trigger()
    assert len(document.artwork.shapes[0].contours) == 2
    assert document.undo_name == "Put in as a hole"


def test_true_shapes_whose_anchors_change_say_that_they_are_free(near: MainWindow) -> None:
    document, form = near.document, Ellipse(80.0, 80.0, 20.0, 20.0)
    disc = Shape((Contour(form.anchors(), np.ones(4, np.uint8), form=form),))
    document.refine("Take", artwork_of(disc))
    document.choose(Choice(anchors=refs(0, 1)))
    near.refine_panel.nudge(1.0, 0.0, pixels=False)
    assert near.gauge.message.text() == "The circle is free now, for the anchors changed."
    document.undo()
    assert document.artwork.shapes[0].contours[0].form == form


def test_one_peeks_at_the_drawing_while_dragging_and_the_drag_goes_on(near: MainWindow) -> None:
    canvas, document = near.canvas, near.document
    start = on_screen(near, 340.0, 72.0)
    QTest.mousePress(canvas, LEFT, NO_KEYS, start)
    QTest.mouseMove(canvas, start + QPoint(20, 10))
    QTest.keyPress(canvas, "Q")
    assert canvas.peeking
    assert canvas.drag.is_on
    QTest.mouseMove(canvas, start + QPoint(40, 20))
    QTest.keyRelease(canvas, "Q")
    assert not canvas.peeking
    QTest.keyClick(canvas, Qt.Key.Key_Escape)
    assert not canvas.drag.is_on, "Esc gives it up"
    QTest.mouseRelease(canvas, LEFT, NO_KEYS, start + QPoint(40, 20))
    assert document.artwork.shapes[1].contours[0].anchors[1].tolist() == [340.0, 72.0]
