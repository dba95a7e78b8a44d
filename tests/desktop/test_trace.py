"""The Trace step, driven as its users do."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from desk import type_into
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.hit import shape_at
from sobercrow.core.formats.recipes import write_recipe
from sobercrow.core.settings import Meet, TraceKind
from sobercrow.demo.make import PICTURES
from sobercrow.demo.tour import pause, wait_until_done
from sobercrow.desktop.scene import Showing
from sobercrow.desktop.steps import Step
from sobercrow.desktop.tokens import DEVIATION_STEPS
from sobercrow.desktop.window import MainWindow


@pytest.fixture
def badge(opened) -> MainWindow:
    window = opened(PICTURES / "badge-200.jpg")
    window.go_to(Step.TRACE)
    return window


def test_inks_meet_flush_or_underlaid_by_so_much(badge: MainWindow) -> None:
    panel, document = badge.panels[Step.TRACE], badge.document
    underlaid = document.artwork
    assert panel.meets[Meet.UNDERLAID].isChecked()
    QTest.mouseClick(panel.meets[Meet.FLUSH], Qt.MouseButton.LeftButton)
    wait_until_done(badge)
    flush = document.artwork
    assert document.undo_name == "Let inks meet flush"
    assert not panel.fields["overlap_px"].isEnabled()
    assert "underlaid to change the weight" in panel.fields["weight_px"].note.text()
    areas = [sum(c.area() for s in art.shapes for c in s.contours) for art in (underlaid, flush)]
    assert areas[1] < areas[0]
    document.undo()
    wait_until_done(badge)
    type_into(panel.fields["overlap_px"], "6")
    wait_until_done(badge)
    assert sum(c.area() for s in document.artwork.shapes for c in s.contours) > areas[0]


def test_an_ink_is_raised_upon_others_and_back(badge: MainWindow) -> None:
    panel, document = badge.panels[Step.TRACE], badge.document
    part = panel.order
    panel.lying.head.click()
    before = [layer.name for layer in document.artwork.layers]
    assert [part.list.item(k).text() for k in range(part.list.count())] == before[::-1]
    part.list.setCurrentRow(len(before) - 1)
    assert not part.lower.isEnabled()
    QTest.mouseClick(part.higher, Qt.MouseButton.LeftButton)
    wait_until_done(badge)
    assert [layer.name for layer in document.artwork.layers] == [before[1], before[0], *before[2:]]
    assert document.undo_name == f"Raise {before[0]}"
    assert part.list.currentRow() == len(before) - 2
    QTest.mouseClick(part.by_area, Qt.MouseButton.LeftButton)
    wait_until_done(badge)
    assert [layer.name for layer in document.artwork.layers] == before
    assert not part.by_area.isEnabled()


def test_detail_from_end_to_end_says_what_it_did(window: MainWindow) -> None:
    window.go_to(Step.TRACE)
    panel = window.panels[Step.TRACE]
    assert not panel.meeting.isVisible()  # there is one ink
    counts = []
    for detail in ("0", "100"):
        type_into(panel.detail, detail)
        wait_until_done(window)
        counts.append(window.document.artwork.anchor_count)
    assert counts[0] < 0.8 * counts[1]
    assert f"anchors {counts[0]} to {counts[1]}, largest deviation" in panel.effect.text()


def test_weight_and_smallest_hole_are_set_in_their_folds(window: MainWindow) -> None:
    window.go_to(Step.TRACE)
    panel, plain = window.panels[Step.TRACE], window.document.artwork
    panel.heavier.head.click()
    type_into(panel.fields["weight_px"], "2")
    wait_until_done(window)
    heavy = window.document.artwork
    grown = np.subtract(heavy.shapes[0].bounds(), plain.shapes[0].bounds())
    assert grown[[1, 3]] == pytest.approx((-2, 2), abs=0.6)
    assert (np.abs(grown[[0, 2]]) > 1.8).all()  # sharp tips at the sides run out further than 2 px
    assert (np.abs(grown[[0, 2]]) < 5.0).all()
    panel.fine.head.click()
    type_into(panel.fields["hole_px2"], "9000")
    wait_until_done(window)
    assert all(len(shape.contours) == 1 for shape in window.document.artwork.shapes)
    QTest.mouseClick(panel.fields["hole_px2"].back, Qt.MouseButton.LeftButton)
    wait_until_done(window)
    assert window.document.state.settings.tracing.hole_px2 is None


def test_true_shapes_are_listed_and_can_be_refused(badge: MainWindow) -> None:
    panel, part = badge.panels[Step.TRACE], badge.panels[Step.TRACE].forms
    panel.folds[part].head.click()
    names = [part.list.item(k).text() for k in range(part.list.count())]
    assert any(name.startswith("Circle, radius 7.") for name in names)
    assert any(name.startswith(("Mirrored, axis", "Mirrored twice, axis")) for name in names)
    assert panel.folds[part].state.text() == str(len(names))
    before = badge.document.artwork.anchor_count
    circle = next(k for k, name in enumerate(names) if name.startswith("Circle"))
    part.list.item(circle).setCheckState(Qt.CheckState.Unchecked)
    wait_until_done(badge)
    assert badge.document.undo_name == "Refuse true shape"
    assert badge.document.artwork.anchor_count > before
    assert part.list.item(circle).checkState() == Qt.CheckState.Unchecked
    assert f"{part.list.count() - 1} of {part.list.count()}" in part.note.text()  # what rested on it is gone with it
    part.list.item(circle).setCheckState(Qt.CheckState.Checked)
    wait_until_done(badge)
    assert badge.document.artwork.anchor_count == before
    part.all.click()
    wait_until_done(badge)
    assert part.note.text() == "None were found."


def test_the_worst_places_are_looked_at_in_the_ribbon(badge: MainWindow) -> None:
    panel, part = badge.panels[Step.TRACE], badge.panels[Step.TRACE].deviation
    panel.folds[part].head.click()
    assert part.list.count() == 5
    figures = badge.document.presentation.figures
    assert f"{figures.deviation_max_px:.2f} px" in part.list.item(0).text()
    part.list.itemClicked.emit(part.list.item(0))
    assert badge.canvas.showing is Showing.DEVIATION
    x, y, _ = badge.document.presentation.worst[0]
    assert (badge.canvas.camera.x, badge.canvas.camera.y) == (x, y)
    assert badge.canvas.camera.zoom >= 12
    shown = badge.canvas.grab().toImage()
    middle = [
        shown.pixelColor(shown.width() // 2 + dx, shown.height() // 2 + dy).name()
        for dx in range(-6, 7)
        for dy in range(-6, 7)
    ]
    assert set(middle) & {colour.lower() for _, colour in DEVIATION_STEPS[2:]}
    badge.document.choose(Choice(frozenset({0})))
    assert part.figures.text().startswith("The chosen shape: mean")


def test_a_shape_refined_by_hand_is_still_there_after_a_new_trace(window: MainWindow, drag, tmp_path: Path) -> None:
    window.go_to(Step.REFINE)
    window.use_tool("choose")
    document = window.document
    box = document.artwork.shapes[0].bounds()
    middle = next(
        (x, y)
        for x in np.linspace(box[0], box[2], 30)
        for y in np.linspace(box[1], box[3], 30)
        if shape_at(document.artwork, x, y) == 0
    )
    drag(window.canvas, middle, (middle[0] + 25, middle[1] + 40))
    wait_until_done(window)
    moved = document.artwork.shapes[0]
    count = len(document.artwork.shapes)
    window.go_to(Step.TRACE)
    panel = window.panels[Step.TRACE]
    assert not panel.handwork.isVisible()
    type_into(panel.detail, "35")
    wait_until_done(window)
    assert moved in document.artwork.shapes
    assert len(document.artwork.shapes) == count
    assert panel.kept.text() == "1 shape refined by hand is kept."
    document.save_project(tmp_path / "kept.sobercrow")
    window.files.open_path(tmp_path / "kept.sobercrow")
    wait_until_done(window)
    assert moved in document.artwork.shapes
    QTest.mouseClick(panel.release, Qt.MouseButton.LeftButton)
    wait_until_done(window)
    assert moved not in document.artwork.shapes
    document.undo()
    wait_until_done(window)
    assert moved in document.artwork.shapes


def test_a_recipe_is_applied_kept_renamed_shared_and_deleted(badge: MainWindow, tmp_path: Path) -> None:
    part, document = badge.panels[Step.TRACE].recipes, badge.document
    badge.panels[Step.TRACE].folds[part].head.click()
    assert part.chosen.name == "Flat mark"
    assert part.use.text().endswith("It suits this picture.")
    part.choice.setCurrentText("Cut-out")
    part.choice.activated.emit(part.choice.currentIndex())
    QTest.mouseClick(part.apply, Qt.MouseButton.LeftButton)
    wait_until_done(badge)
    assert document.undo_name == "Apply Cut-out"
    assert document.state.settings.tracing.meet is Meet.FLUSH
    assert part.chosen.name == "Cut-out"
    type_into(badge.panels[Step.TRACE].detail, "20")
    wait_until_done(badge)
    part.keep_as("My cutter")
    assert (part.chosen.name, part.chosen.tracing.detail) == ("My cutter", 20.0)
    part.keep_as("Flat mark")
    assert "comes with Sober Crow" in badge.gauge.message.text()
    part.rename_to("Old cutter")
    assert part.chosen.name == "Old cutter"
    assert part.rename.isEnabled()
    write_recipe(part.chosen, tmp_path / "shared.recipe")
    QTest.mouseClick(part.delete, Qt.MouseButton.LeftButton)
    assert "Old cutter" not in [part.choice.itemText(k) for k in range(part.choice.count())]
    part.load_from(tmp_path / "shared.recipe")
    assert part.chosen.name == "Old cutter"
    (tmp_path / "wrong.recipe").write_text("no")
    part.load_from(tmp_path / "wrong.recipe")
    assert "no recipe of Sober Crow" in badge.gauge.message.text()
    (part.book.folder / "damaged.recipe").write_text("{")
    told = []
    badge.document.failed.connect(told.append)
    for name in ("One more", "And another"):
        part.keep_as(name)
    assert told == ["The recipe file “damaged.recipe” cannot be read and is left out."]
    (part.book.folder / "damaged.recipe").unlink()


def test_three_proofs_are_kept_laid_side_by_side_and_one_adopted(window: MainWindow, tmp_path: Path) -> None:
    document, panel = window.document, window.panels[Step.TRACE]
    window.go_to(Step.TRACE)
    artworks = []
    for detail in ("20", "60", "95"):
        type_into(panel.detail, detail)
        wait_until_done(window)
        QTest.mouseClick(panel.keep_proof, Qt.MouseButton.LeftButton)
        wait_until_done(window)
        artworks.append(document.artwork)
    assert panel.show_sheet.text() == "Proof sheet (3)"
    document.save_project(tmp_path / "proofs.sobercrow")
    window.files.open_path(tmp_path / "proofs.sobercrow")
    wait_until_done(window)
    assert [proof.artwork for proof in document.state.proofs] == artworks
    window.go_to(Step.TRACE)
    QTest.mouseClick(panel.show_sheet, Qt.MouseButton.LeftButton)
    sheet = window.sheet
    pause(0.1)
    assert sheet.isVisible()
    assert sheet.told == ["Detail 20", "Detail 60", "Detail 95"]
    camera = window.canvas.camera
    view = sheet.views[1]
    QTest.mousePress(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(60, 60))
    QTest.mouseMove(view, QPoint(90, 50))
    QTest.mouseRelease(view, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(90, 50))
    moved = window.canvas.camera
    assert (camera.x - moved.x) * camera.zoom == pytest.approx(30, abs=1)
    pictures = [view.grab().toImage() for view in sheet.views]
    assert pictures[0] != pictures[2]
    QTest.mouseClick(sheet.compare[0], Qt.MouseButton.LeftButton)
    assert not sheet.isVisible()
    assert (window.canvas.seam, window.canvas.other_side) == (0.5, Showing.PROOF)
    assert window.canvas.proof == artworks[0]
    both = window.canvas.grab().toImage()
    window.canvas.set_other_side(Showing.FILLED)
    assert window.canvas.grab().toImage() != both
    window.toggle_seam()
    QTest.keyClick(window, Qt.Key.Key_K, Qt.KeyboardModifier.ShiftModifier)
    QTest.mouseClick(sheet.drop[1], Qt.MouseButton.LeftButton)
    pause(0.1)
    assert [view._proof.name for view in sheet.views] == ["Proof 1", "Proof 3"]
    QTest.mouseClick(sheet.adopt[0], Qt.MouseButton.LeftButton)
    wait_until_done(window)
    assert not sheet.isVisible()
    assert document.undo_name == "Adopt Proof 1"
    assert document.artwork == artworks[0]
    assert document.state.settings.tracing.detail == 20
    QTest.keyClick(window, Qt.Key.Key_K, Qt.KeyboardModifier.ShiftModifier)
    assert sheet.isVisible()
    QTest.keyClick(window, Qt.Key.Key_Escape)
    assert not sheet.isVisible()
    for _ in range(6):
        document.keep_proof()
        wait_until_done(window)
    assert len(document.state.proofs) == 6
    assert "6 proofs already" in window.gauge.message.text()


def test_centre_lines_of_the_inked_drawing(opened) -> None:
    window = opened(PICTURES / "kite-drawing.png")
    panel, document = window.panels[Step.TRACE], window.document
    filled = len(document.artwork.shapes)
    QTest.mouseClick(panel.kinds[TraceKind.CENTRE_LINES], Qt.MouseButton.LeftButton)
    wait_until_done(window)
    assert document.undo_name == "Draw centre lines"
    strokes = [shape for shape in document.artwork.shapes if shape.stroke_px is not None]
    assert len(strokes) > filled
    assert document.presentation.figures.deviation_mean_px < 1.0
    assert panel.keep_areas.isVisible()
    assert not panel.heavier.isVisible()
    panel.follow.click()
    wait_until_done(window)
    assert all(shape.stroke_px is None for shape in document.artwork.shapes)
    assert document.presentation.figures.deviation_mean_px < 1.0
    document.undo()
    wait_until_done(window)
    assert not panel.follow.isChecked()
    window.show_as(Showing.FILLED)
    window.canvas.fit()
    image = window.canvas.grab().toImage()
    shape = max(strokes, key=lambda s: s.stroke_px)
    x, y = shape.contours[0].sampled(1.0)[len(shape.contours[0].sampled(1.0)) // 2]
    at = window.canvas.camera.to_screen(x, y, window.canvas.width(), window.canvas.height())
    assert image.pixelColor(round(at[0]), round(at[1])).lightness() < 90
    QTest.mouseClick(panel.kinds[TraceKind.OUTLINES], Qt.MouseButton.LeftButton)
    wait_until_done(window)
    assert len(document.artwork.shapes) == filled
