"""The window driven as a designer drives it: real files, mouse and keys."""

from __future__ import annotations

import os
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from lxml import etree
from PIL import Image
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent, QGuiApplication, QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QMessageBox

from drawings import lettering
from sobercrow.core.artwork.choice import AnchorRef, Choice
from sobercrow.core.artwork.hit import anchors_in
from sobercrow.core.geometry.contour import AnchorKind
from sobercrow.demo.make import PICTURES
from sobercrow.demo.tour import pause, wait_until_done
from sobercrow.desktop import files
from sobercrow.desktop.camera import Camera
from sobercrow.desktop.recovery import Recovery
from sobercrow.desktop.recovery_dialog import RecoveryDialog
from sobercrow.desktop.remembered import bring_back
from sobercrow.desktop.scene import Showing
from sobercrow.desktop.steps import Step
from sobercrow.desktop.tokens import PANEL_WIDTH
from sobercrow.desktop.window import MainWindow


def anchor_place(window: MainWindow, ref: AnchorRef) -> np.ndarray:
    return window.document.artwork.shapes[ref.shape].contours[ref.contour].anchors[ref.anchor]


def look_at_anchor(window: MainWindow) -> AnchorRef:
    """Take up the Anchors tool and look at a smooth anchor that stands alone."""
    artwork = window.document.artwork
    window.use_tool("anchors")
    every = np.concatenate([c.points.reshape(-1, 2) for s in artwork.shapes for c in s.contours])
    for ref in sorted(anchors_in(artwork, (0, 0, 1e9, 1e9))):
        contour = artwork.shapes[ref.shape].contours[ref.contour]
        near = np.linalg.norm(every - contour.anchors[ref.anchor], axis=1) < 5
        if contour.kinds[ref.anchor] == AnchorKind.SMOOTH and near.sum() == 1:
            x, y = contour.anchors[ref.anchor]
            window.canvas.set_camera(Camera(x, y, 6.0))
            return ref
    raise AssertionError("no lone smooth anchor")


def choose_name(monkeypatch, path: Path) -> None:
    monkeypatch.setattr(QFileDialog, "exec", lambda _self: QFileDialog.DialogCode.Accepted)
    monkeypatch.setattr(QFileDialog, "selectedFiles", lambda _self: [str(path)])


def test_from_a_picture_to_an_svg(window: MainWindow, drag, tmp_path: Path, monkeypatch) -> None:
    document = window.document
    assert window.step is Step.TRACE
    traced = document.artwork
    assert len(traced.shapes) > 15

    # the threshold is moved on the histogram
    window.go_to(Step.INKS)
    histogram = window.inks_panel.one.histogram
    QTest.mouseClick(
        histogram, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(round(histogram._x(90)), 30)
    )
    wait_until_done(window)
    assert abs(document.state.settings.inks.threshold - 90) <= 1
    lighter = sum(c.area() for s in document.artwork.shapes for c in s.contours)
    assert lighter < sum(c.area() for s in traced.shapes for c in s.contours)
    document.undo()
    wait_until_done(window)
    assert document.artwork == traced

    # an anchor is dragged, the drag undone and redone from the keys
    ref = look_at_anchor(window)
    before = anchor_place(window, ref).copy()
    free = Qt.KeyboardModifier.ControlModifier  # it does not snap
    drag(window.canvas, tuple(before), (before[0] + 6, before[1] + 3), free)
    wait_until_done(window)
    moved = anchor_place(window, ref).copy()
    assert np.allclose(moved - before, (6, 3), atol=0.35)
    assert window.menus.actions["undo"].text() == "Undo move anchor"
    QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert np.array_equal(anchor_place(window, ref), before)
    QTest.keyClick(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    assert np.array_equal(anchor_place(window, ref), moved)
    wait_until_done(window)
    assert document.presentation.figures.deviation_max_px > 1.0

    # and the artwork is saved
    choose_name(monkeypatch, tmp_path / "out.svg")
    window.go_to(Step.HAND_OVER)
    QTest.mouseClick(window.hand_over_panel.format.save, Qt.MouseButton.LeftButton)
    wait_until_done(window)
    root = etree.parse(tmp_path / "out.svg").getroot()
    assert root.get("width") == "152.4mm"
    assert len(root.findall(".//{*}path")) == len(document.artwork.shapes)


def test_anchors_are_added_made_corner_nudged_and_deleted(window: MainWindow) -> None:
    document, canvas = window.document, window.canvas
    ref = look_at_anchor(window)
    count = document.artwork.anchor_count
    centre = QPoint(canvas.width() // 2, canvas.height() // 2)
    QTest.mouseClick(canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, centre)
    assert document.choice.anchors == {ref}

    QTest.keyClick(window, Qt.Key.Key_C, Qt.KeyboardModifier.ShiftModifier)
    contour = document.artwork.shapes[ref.shape].contours[ref.contour]
    assert contour.kinds[ref.anchor] == AnchorKind.CORNER
    QTest.keyClick(window, Qt.Key.Key_E, Qt.KeyboardModifier.ShiftModifier)
    points = document.artwork.shapes[ref.shape].contours[ref.contour].points[ref.anchor]
    assert np.allclose(points[1] - points[0], points[2] - points[1])

    x = anchor_place(window, ref)[0]
    QTest.keyClick(canvas, Qt.Key.Key_Right)
    assert anchor_place(window, ref)[0] - x == pytest.approx(0.1 * 300 / 25.4)
    QTest.keyClick(canvas, Qt.Key.Key_Right, Qt.KeyboardModifier.AltModifier)
    assert anchor_place(window, ref)[0] - x == pytest.approx(0.1 * 300 / 25.4 + 1)

    QTest.keyClick(window, Qt.Key.Key_Delete)
    assert document.artwork.anchor_count == count - 1
    assert document.undo_name == "Delete anchors"
    while document.undo_name:
        document.undo()
    assert document.artwork.anchor_count == count

    curve = contour.curves()[ref.anchor]
    place = 0.125 * (curve[0] + 3 * curve[1] + 3 * curve[2] + curve[3])
    canvas.set_camera(Camera(*place, 6.0))
    QTest.mouseDClick(canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, centre)
    QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, centre)
    assert document.artwork.anchor_count == count + 1


def test_shapes_are_chosen_moved_filled_and_deleted(window: MainWindow, drag) -> None:
    document, canvas = window.document, window.canvas
    window.use_tool("choose")
    canvas.fit()
    shapes = document.artwork.shapes
    # the swash below the words: its middle is inside it
    low = max(range(len(shapes)), key=lambda s: shapes[s].bounds()[3])
    contour = shapes[low].contours[0]
    top = contour.anchors[np.argmin(np.abs(contour.anchors[:, 0] - 900))]
    inside = (top[0], top[1] + (3 if window.document.artwork and top[1] < 490 else -3))
    drag(canvas, inside, (inside[0] + 60, inside[1] + 20))
    assert document.undo_name in ("Move shapes", None)
    document.choose(Choice(shapes=frozenset({low})))
    panel = window.refine_panel
    panel.shapes.hex.setFocus()
    panel.shapes.hex.selectAll()
    QTest.keyClicks(panel.shapes.hex, "#a33e2e")
    QTest.keyClick(panel.shapes.hex, Qt.Key.Key_Return)
    assert document.artwork.shapes[low].fill == "#a33e2e"
    drag(canvas, (10, 10), (1790, 630))
    assert len(document.choice.shapes) == len(shapes)
    drag(canvas, (10, 400), (1790, 630))
    assert document.choice.shapes == {low}
    QTest.keyClick(window, Qt.Key.Key_Delete)
    assert len(document.artwork.shapes) == len(shapes) - 1
    window.menus.actions["undo"].trigger()
    assert document.artwork.shapes[low].fill == "#a33e2e"


def test_cropping_and_turning_carry_the_artwork_along(window: MainWindow, drag) -> None:
    document, canvas = window.document, window.canvas
    window.go_to(Step.CLEAN_UP)
    canvas.fit()
    drag(canvas, (1800, 320), (900, 320))
    wait_until_done(window)
    crop = document.state.settings.clean_up.crop
    assert abs(crop.right - 900) <= 3
    assert document.artwork.width_px == crop.right
    QTest.mouseClick(window.clean_panel.sheet.right, Qt.MouseButton.LeftButton)
    wait_until_done(window)
    assert (document.artwork.width_px, document.artwork.height_px) == (640, crop.right)
    QTest.mouseClick(window.clean_panel.sheet.uncrop, Qt.MouseButton.LeftButton)
    wait_until_done(window)
    assert document.artwork.height_px == 1800


def test_levels_are_dragged_typed_and_chosen_automatically(window: MainWindow) -> None:
    window.go_to(Step.CLEAN_UP)
    panel, document = window.clean_panel.tone, window.document
    x = round(panel.histogram._x(document.presentation.results.sheet.levels.black))
    QTest.mousePress(panel.histogram, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(x, 20))
    QTest.mouseMove(panel.histogram, QPoint(round(panel.histogram._x(70)), 20))
    QTest.mouseRelease(panel.histogram, Qt.MouseButton.LeftButton)
    assert abs(document.state.settings.clean_up.levels.black - 70) <= 1
    box = panel.levels["white"].box
    box.setFocus()
    box.selectAll()
    QTest.keyClicks(box, "201")
    QTest.keyClick(box, Qt.Key.Key_Return)
    assert document.state.settings.clean_up.levels.white == 201
    wait_until_done(window)
    assert document.presentation.results.sheet.levels.white == 201
    QTest.mouseClick(panel.automatic, Qt.MouseButton.LeftButton)
    assert document.state.settings.clean_up.levels is None
    QTest.mouseClick(panel.automatic, Qt.MouseButton.LeftButton)
    assert document.state.settings.clean_up.levels == document.presentation.results.sheet.levels


def test_detail_changes_the_anchors_and_says_so(window: MainWindow) -> None:
    panel, document = window.panels[Step.TRACE], window.document
    before = document.artwork.anchor_count
    panel.detail.box.setValue(20)
    wait_until_done(window)
    assert document.artwork.anchor_count < before
    assert f"anchors {before} to {document.artwork.anchor_count}" in panel.effect.text()
    QTest.mouseClick(panel.fine.head, Qt.MouseButton.LeftButton)
    panel.fields["tolerance_px"].box.setValue(0.2)
    wait_until_done(window)
    assert "0.017 mm" in panel.fields["tolerance_px"].note.text()
    QTest.mouseClick(panel.fields["tolerance_px"].back, Qt.MouseButton.LeftButton)
    assert document.state.settings.tracing.tolerance_px is None


def test_resolution_is_taken_from_the_file_and_can_be_set(window: MainWindow) -> None:
    window.go_to(Step.BRING_IN)
    panel, document = window.panels[Step.BRING_IN], window.document
    assert "Taken from the file" in panel.dpi.note.text()
    panel.dpi.box.setValue(600)
    wait_until_done(window)
    assert document.artwork.dpi == 600
    assert "76.2 ×" in panel.true_size.text()


def test_a_project_opens_as_it_was_saved(window: MainWindow, drag, tmp_path: Path, monkeypatch) -> None:
    document = window.document
    ref = look_at_anchor(window)
    place = anchor_place(window, ref).copy()
    drag(window.canvas, tuple(place), (place[0] + 5, place[1] + 5))
    wait_until_done(window)
    state, artwork = document.state, document.artwork
    choose_name(monkeypatch, tmp_path / "work.sobercrow")
    assert window.files.save()
    assert not document.is_changed
    window.files.open_path(PICTURES / "tints.png")
    wait_until_done(window)
    window.files.open_path(tmp_path / "work.sobercrow")
    wait_until_done(window)
    assert document.state == state
    assert document.artwork == artwork
    assert window.step is Step.REFINE


def test_what_was_deleted_stays_away_in_a_new_trace_and_a_turn_ends_it(window: MainWindow) -> None:
    document = window.document
    window.use_tool("choose")
    document.choose(Choice(shapes=frozenset({0})))
    window.refine_panel.delete()
    refined = document.artwork
    window.go_to(Step.TRACE)
    window.panels[Step.TRACE].detail.box.setValue(30)
    wait_until_done(window)
    assert document.state.refined is None
    assert "deleted by hand stays away" in window.gauge.message.text()
    assert len(document.artwork.shapes) == len(refined.shapes)
    document.take_clean_up("Turn", replace(document.state.settings.clean_up, quarter_turns=1))
    assert "Undo brings them back" in window.gauge.message.text()
    wait_until_done(window)
    assert len(document.artwork.shapes) == len(refined.shapes) + 1
    document.undo()
    document.undo()
    assert document.artwork == refined


def test_pictures_are_pasted_and_dropped(empty_window: MainWindow, tmp_path: Path) -> None:
    window, grey = empty_window, lettering("Tail")
    image = QImage(grey.tobytes(), grey.shape[1], grey.shape[0], grey.shape[1], QImage.Format.Format_Grayscale8)
    QGuiApplication.clipboard().setImage(image)
    QTest.keyClick(window, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
    wait_until_done(window)
    assert len(window.document.artwork.shapes) == 5

    Image.fromarray(lettering("Reel 7")).save(tmp_path / "reel.png")
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(tmp_path / "reel.png"))])
    window.dropEvent(
        QDropEvent(
            QPointF(600, 400), Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        )
    )
    wait_until_done(window)
    assert window.document.source.name == "reel.png"
    assert "assumed" in window.gauge.message.text()


def test_bad_files_are_told_and_leave_the_document_alone(window: MainWindow, tmp_path: Path) -> None:
    artwork, state = window.document.artwork, window.document.state
    for name, content, words in (
        ("notes.png", b"not a picture", "not a picture"),
        ("empty.jpg", b"", "is empty"),
        ("cut.sobercrow", b"PK\x03\x04 broken", "damaged"),
    ):
        (tmp_path / name).write_bytes(content)
        window.files.open_path(tmp_path / name)
        wait_until_done(window)
        assert words in window.gauge.message.text()
        assert window.document.artwork == artwork
        assert window.document.state is state


def test_unsaved_changes_are_asked_about(window: MainWindow, monkeypatch) -> None:
    document = window.document
    window.use_tool("choose")
    document.choose(Choice(shapes=frozenset({0})))
    window.refine_panel.delete()
    asked = []
    answer = QMessageBox.StandardButton.Cancel
    monkeypatch.setattr(files, "ask", lambda *a: asked.append(a[2]) or answer)
    source = document.source
    window.files.open_path(PICTURES / "tints.png")
    pause(0.05)
    assert asked
    assert document.source is source


def test_work_of_a_run_that_ended_early_is_offered_again(window: MainWindow, monkeypatch) -> None:
    document = window.document
    window.use_tool("choose")
    document.choose(Choice(shapes=frozenset({0})))
    window.refine_panel.delete()
    artwork = document.artwork
    window.files.autosave()
    window.files.end_autosave()
    document.undo()
    ended, window.files.recovery = window.files.recovery, Recovery(window.files._recovery_folder)
    window.files.offer_recovery()
    assert window.gauge.message.text() == ""  # it belongs to a window that lives
    for lock in ended._held.values():
        os.close(lock)
    damaged = window.files._recovery_folder() / "99-damaged.sobercrow"
    damaged.write_bytes(b"PK")
    os.utime(damaged, (1.0, 1.0))
    window.files.tell_of_recovery()
    QTest.mouseClick(window.gauge.offered, Qt.MouseButton.LeftButton)
    dialog = window.findChild(RecoveryDialog)
    assert [dialog.list.item(k).text().split("\n")[0] for k in range(2)] == [
        window.files.writing.name,
        "Drawing without a name",
    ]
    assert not dialog.list.item(0).icon().isNull()
    monkeypatch.setattr(files, "ask", lambda *_: QMessageBox.StandardButton.Discard)
    QTest.mouseClick(dialog.bring, Qt.MouseButton.LeftButton)
    wait_until_done(window)
    assert document.artwork == artwork
    assert "unsaved work" in window.gauge.message.text()
    assert document.path is None
    assert document.is_changed
    (left,) = window.files.recovery.left()
    window.files.bring_back(left)
    wait_until_done(window)
    assert "its copy is damaged. It is kept" in window.gauge.message.text()
    assert document.artwork == artwork
    assert left.copy.exists()
    window.files.recovery.give_up(left)
    window.files.forget_recovery()
    assert not list(window.files._recovery_folder().iterdir())


def test_a_project_others_changed_or_that_may_only_be_read_is_replaced_if_that_is_said(
    window: MainWindow, tmp_path: Path, monkeypatch
) -> None:
    path, asked = tmp_path / "kite.sobercrow", []
    answers = [QMessageBox.StandardButton.Cancel, QMessageBox.StandardButton.Yes] * 2
    monkeypatch.setattr(files, "ask", lambda *a: asked.append(a[2]) or answers[len(asked) - 1])
    window.document.save_project(path)
    assert window.files.save()
    assert asked == []
    path.write_bytes(b"another program's")
    assert not window.files.save()
    assert path.read_bytes() == b"another program's"
    assert window.files.save()
    assert [text.split("” ")[1][:24] for text in asked] == ["was changed by another p"] * 2
    (tmp_path / "other").hardlink_to(path)
    monkeypatch.setattr(files, "is_read_only", lambda _: True)
    assert not window.files.save()
    assert window.files.save()
    assert "may only be read" in asked[3]
    assert "1 other name (hard links); there the old version stays" in window.gauge.message.text()


def test_views_seam_and_peek_change_what_is_painted(window: MainWindow) -> None:
    canvas = window.canvas

    def frame() -> bytes:
        image = canvas.grab().toImage()
        return bytes(image.constBits())

    pictures = []
    for showing in (Showing.FILLED, Showing.OUTLINE, Showing.OVER):
        window.show_as(showing)
        pictures.append(frame())
    window.show_as(Showing.FILLED)
    QTest.keyPress(canvas, Qt.Key.Key_Q)
    pictures.append(frame())
    QTest.keyRelease(canvas, Qt.Key.Key_Q)
    assert frame() == pictures[0]
    canvas.set_other_side(Showing.SOURCE)
    window.toggle_seam()
    pictures.append(frame())
    assert window.pill.isVisible()
    assert pictures[3] == pictures[2]  # peeking shows the drawing beneath the edges
    assert len(set(pictures)) == 4
    # pulled out at the edge, the seam is put away
    x = round(canvas.seam * canvas.width())
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(x, 300))
    QTest.mouseMove(canvas, QPoint(0, 300))
    QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(0, 300))
    assert canvas.seam is None


def test_the_wheel_zooms_about_the_pointer(window: MainWindow) -> None:
    canvas = window.canvas
    before = canvas.camera.to_picture(200, 150, canvas.width(), canvas.height())
    canvas.zoom_by(3.0, QPointF(200, 150))
    assert canvas.camera.to_picture(200, 150, canvas.width(), canvas.height()) == pytest.approx(before)
    canvas.zoom_by(1e9)
    assert canvas.camera.zoom == 64.0


def test_every_command_has_a_menu_a_help_line_and_its_own_keys(empty_window: MainWindow) -> None:
    keys = [key for command in empty_window.menus.commands.values() for key in command.keys]
    assert len(keys) == len(set(keys))
    for command in empty_window.menus.commands.values():
        assert command.help.endswith(".")
        assert command.title
        assert empty_window.menus.actions[command.id].isEnabled() == command.enabled()


def test_the_dark_theme_is_kept(window: MainWindow) -> None:
    light = window.grab().toImage().pixelColor(1200, 700).lightness()
    window.menus.actions["dark"].trigger()
    assert window.is_dark()
    pause(1.0)  # part by part
    for step in Step:
        window.go_to(step)
        dark = window.grab().toImage()
        for x, y in ((1270, 60), (990, 400), (20, 790), (6, 300), (800, 42)):
            assert dark.pixelColor(x, y).lightness() < light - 100
    window.menus.actions["dark"].trigger()


def test_a_window_comes_back_as_it_was_left(tmp_path: Path, window_in: Callable[[Path], MainWindow]) -> None:
    first = window_in(tmp_path)
    first.files.open_path(PICTURES / "tints.png")
    wait_until_done(first)
    first.splitter.setSizes([600, 400])
    width = first.panel_ground.width()
    part = first.clean_panel.folds[first.clean_panel.dirt]
    part.head.setChecked(True)
    first.go_to(Step.REFINE)
    first.show_as(Showing.OUTLINE)
    assert first.close()
    second = window_in(tmp_path)
    second.files.open_path(PICTURES / "tints.png")
    wait_until_done(second)
    assert second.panel_ground.width() == width > PANEL_WIDTH
    assert second.clean_panel.folds[second.clean_panel.dirt].head.isChecked()
    second.go_to(Step.REFINE)
    assert second.canvas.showing is Showing.OUTLINE
    second.preferences.setValue("left", "{")
    assert second.close()
    third = window_in(tmp_path)
    third.preferences.setValue("left", '{"panel": [], "folds": 3}')
    bring_back(third)
    assert third.close()
