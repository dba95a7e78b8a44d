"""Bring in and clean up, driven as a designer drives them: mouse, keys, real pictures."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from desk import type_into
from PIL import Image
from PySide6.QtCore import QCoreApplication, QEvent, QPoint, Qt
from PySide6.QtTest import QTest

from drawings import lettering
from sobercrow.core.cleanup.check import Fault
from sobercrow.core.inspect.decisions import Decided
from sobercrow.core.settings import INK_COLOUR, CleanUp, Levels, TouchForm, TouchTool
from sobercrow.demo.make import PICTURES
from sobercrow.demo.tour import wait_until_done
from sobercrow.desktop.scene import Showing
from sobercrow.desktop.steps import Step
from sobercrow.desktop.window import MainWindow

Drag = Callable[..., None]
Open = Callable[[Path], MainWindow]
LEFT, NO_KEYS = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


@pytest.fixture
def cleaning(opened: Open) -> Open:
    """Opens a picture and goes to Clean up once everything is there, the picture check too."""

    def open_(path: Path) -> MainWindow:
        window = opened(path)
        window.go_to(Step.CLEAN_UP)
        window.canvas.fit()
        return window

    return open_


@pytest.fixture
def page(tmp_path: Path) -> Path:
    """A page of writing, turned by two degrees, at 200 dpi."""
    path = tmp_path / "page.png"
    sheet = np.full((520, 760), 240, np.uint8)
    for k in (0, 2):
        line = lettering("Kites for every wind", 52)
        sheet[40 + 110 * k : 40 + 110 * k + line.shape[0], 40 : 40 + line.shape[1]] = line * (240 / 255)
    Image.fromarray(sheet).rotate(-2.0, Image.Resampling.BICUBIC, expand=True, fillcolor=240).save(path, dpi=(200, 200))
    return path


@pytest.fixture
def half(tmp_path: Path) -> Callable[[str], Path]:
    """Writes a demo picture at half its size."""

    def write(name: str) -> Path:
        with Image.open(PICTURES / name) as picture:
            picture.reduce(2).save(tmp_path / name, quality=95)
        return tmp_path / name

    return write


def unfold(window: MainWindow, part: object) -> None:
    head = window.clean_panel.folds[part].head
    if not head.isChecked():
        QTest.mouseClick(head, LEFT)


def click(window: MainWindow, x: float, y: float) -> None:
    canvas = window.canvas
    at = QPoint(*map(round, canvas.camera.to_screen(x, y, canvas.width(), canvas.height())))
    QTest.mouseClick(canvas, LEFT, NO_KEYS, at)


def settings(window: MainWindow) -> CleanUp:
    return window.document.state.settings.clean_up


def as_photographed(window: MainWindow) -> MainWindow:
    """Take back that a sheet that is surely one was laid flat at first sight."""
    QTest.mouseClick(window.clean_panel.check.otherwise[Decided.SHEET], LEFT)
    wait_until_done(window)
    return window


def test_the_picture_check_undoes_the_slant_of_a_photo_with_one_click(
    cleaning: Open, half: Callable[[str], Path]
) -> None:
    window = as_photographed(cleaning(half("badge-photo.jpg")))
    QTest.mouseClick(window.clean_panel.check.mends[Fault.SLANT], LEFT)
    wait_until_done(window)
    artwork = window.document.artwork
    assert artwork.width_px / artwork.height_px == pytest.approx(1.4, rel=0.01)
    # the badge has become round
    boxes = [s.bounds() for s in artwork.shapes]
    left, top, right, bottom = max(boxes, key=lambda b: b[2] - b[0])
    assert (right - left) / (bottom - top) == pytest.approx(1.0, abs=0.02)
    assert Fault.SLANT not in window.clean_panel.check.mends
    assert window.document.undo_name == "Undo slant"

    # known proportions take the place of those found, and both switches work
    unfold(window, window.clean_panel.sheet)
    type_into(window.clean_panel.sheet.ratio, "1")
    wait_until_done(window)
    assert window.document.artwork.width_px == pytest.approx(window.document.artwork.height_px, abs=1)
    QTest.mouseClick(window.clean_panel.sheet.switches["slant"], LEFT)
    wait_until_done(window)
    assert window.document.artwork.width_px == 800
    assert settings(window).slant is not None


def test_corners_are_dragged_with_a_magnifier_and_can_be_given_up(
    cleaning: Open, half: Callable[[str], Path], drag: Drag
) -> None:
    window = as_photographed(cleaning(half("badge-photo.jpg")))
    canvas = window.canvas
    unfold(window, window.clean_panel.sheet)
    QTest.mouseClick(window.clean_panel.sheet.set_corners, LEFT)
    assert canvas.raw
    assert window.corners.bar.isVisible()
    corner = window.standing["slant-corners"].corners[0]
    before = canvas.grab().toImage()
    drag(canvas, corner, (114.0, 65.5))
    assert canvas.grab().toImage() != before
    assert settings(window).slant.top_left == pytest.approx((114.0, 65.5), abs=2.5)

    # a corner dragged across the opposite side is refused, and nothing changes
    wait_until_done(window)
    kept = window.document.state
    drag(canvas, window.standing["slant-corners"].corners[0], (795.0, 570.0))
    assert window.document.state is kept
    assert "cross" in window.gauge.message.text()
    assert window.standing["slant-corners"].corners[0] == pytest.approx((114.0, 65.5), abs=2.5)

    QTest.keyClick(window, Qt.Key.Key_Escape)
    assert not canvas.raw
    assert settings(window).slant is None
    QTest.mouseClick(window.clean_panel.sheet.set_corners, LEFT)
    QTest.mouseClick(window.corners.bar.finish, LEFT)
    assert settings(window).slant is not None
    assert window.standing["slant-corners"].corners is None


def test_a_page_is_straightened_by_itself_and_along_a_line(cleaning: Open, page: Path, drag: Drag) -> None:
    window = cleaning(page)
    unfold(window, window.clean_panel.sheet)
    QTest.mouseClick(window.clean_panel.sheet.auto_angle, LEFT)
    wait_until_done(window)
    assert settings(window).angle_deg == pytest.approx(-2.0, abs=0.12)
    dial = window.clean_panel.sheet.dial
    QTest.mouseClick(dial, LEFT, NO_KEYS, dial._at(5.0, 80.0).toPoint())
    assert settings(window).angle_deg == pytest.approx(5.0, abs=0.3)
    QTest.keyClick(dial, Qt.Key.Key_Left)
    assert settings(window).angle_deg == pytest.approx(4.9, abs=0.3)
    type_into(window.clean_panel.sheet.fields["angle_deg"], "10")
    wait_until_done(window)
    assert settings(window).angle_deg == 10.0
    window.canvas.fit()
    QTest.keyClick(window, Qt.Key.Key_L)
    drag(window.canvas, (100, 300), (600, 300 + 500 * np.tan(np.radians(12.0))))
    wait_until_done(window)
    assert settings(window).angle_deg == pytest.approx(-2.0, abs=0.3)
    assert window.document.undo_name == "Straighten along a line"


def test_cropping_by_a_frame_and_to_the_drawing(cleaning: Open, page: Path, drag: Drag) -> None:
    window = cleaning(page)
    unfold(window, window.clean_panel.sheet)
    QTest.keyClick(window, Qt.Key.Key_F)
    drag(window.canvas, (30, 40), (500, 260))
    wait_until_done(window)
    crop = settings(window).crop
    assert (crop.left, crop.top, crop.right, crop.bottom) == pytest.approx((30, 40, 500, 260), abs=3)
    QTest.mouseClick(window.clean_panel.sheet.uncrop, LEFT)
    wait_until_done(window)
    type_into(window.clean_panel.sheet.margin, "2")
    QTest.mouseClick(window.clean_panel.sheet.to_drawing, LEFT)
    wait_until_done(window)
    artwork = window.document.artwork
    left = min(s.bounds()[0] for s in artwork.shapes)
    assert left == pytest.approx(2.0 * 200 / 25.4, abs=2)
    assert artwork.width_px < 820

    # a frame beside the sheet leaves nothing and changes nothing
    kept = window.document.state
    drag(window.canvas, (-30, -30), (-10, -10))
    assert window.document.state is kept
    assert "leaves nothing" in window.gauge.message.text()


def test_light_tone_and_dirt_are_set_switched_and_looked_at(cleaning: Open, half: Callable[[str], Path]) -> None:
    window = cleaning(half("brush-lettering.jpg"))
    panel = window.clean_panel
    assert panel.folds[panel.light].state.text() == "evened out"
    window.show_as(Showing.SHADE)
    shade = window.canvas.grab().toImage()
    middle = shade.height() // 2
    assert shade.pixelColor(130, middle).lightness() > shade.pixelColor(shade.width() - 130, middle).lightness() + 60
    window.show_as(Showing.CLEANED)
    unfold(window, panel.light)
    QTest.mouseClick(panel.light.switches["light"], LEFT)
    wait_until_done(window)
    assert window.document.presentation.results.sheet.shade is None
    window.document.undo()
    type_into(panel.light.fields["light"], "50")
    wait_until_done(window)
    assert settings(window).light == 50.0
    unfold(window, panel.dirt)
    type_into(panel.dirt.fields["smooth"], "70")
    wait_until_done(window)
    assert window.document.presentation.results.sheet.smoothing == 70.0
    assert "Took" in panel.dirt.fields["smooth"].box.toolTip()
    assert "ms" in window.rail.cards[Step.CLEAN_UP].toolTip()


def test_black_and_white_are_picked_on_the_canvas(cleaning: Open, page: Path) -> None:
    window = cleaning(page)
    QTest.mouseClick(window.clean_panel.tone.pick_white, LEFT)
    click(window, 400, 12)
    wait_until_done(window)
    assert settings(window).levels.white == pytest.approx(240, abs=2)
    kept = settings(window)
    QTest.mouseClick(window.clean_panel.tone.pick_black, LEFT)
    click(window, 400, 12)
    wait_until_done(window)
    assert settings(window) == kept
    assert "darker than the white point" in window.gauge.message.text()
    assert window.tool == "hand"


def test_a_coloured_pencil_is_left_out_at_a_click_and_had_back(cleaning: Open, tmp_path: Path) -> None:
    sheet = np.full((300, 400, 3), 245, np.uint8)
    sheet[80:84, 40:360] = (110, 160, 215)
    sheet[40:260, 200:204] = 90
    Image.fromarray(sheet).save(tmp_path / "pencils.png", dpi=(200, 200))
    window = cleaning(tmp_path / "pencils.png")
    panel = window.clean_panel.grey
    unfold(window, panel)
    QTest.mouseClick(panel.pick, LEFT)
    click(window, 100, 200)
    wait_until_done(window)
    assert "no coloured pencil here" in window.gauge.message.text()
    QTest.mouseClick(panel.pick, LEFT)
    click(window, 100, 82)
    wait_until_done(window)
    (colour,) = settings(window).pencils
    assert panel.pencils.colours == [colour]
    cleaned = window.document.presentation.results.cleaned.pixels
    assert cleaned[82, 100].min() > 235
    assert cleaned[150, 202].max() < 110
    QTest.mouseClick(panel.pencils, LEFT, NO_KEYS, panel.pencils.rect_of(0).center().toPoint())
    wait_until_done(window)
    assert settings(window).pencils == ()
    window.document.undo()
    assert settings(window).pencils == (colour,)


def test_guides_and_colours_and_size_have_their_controls(cleaning: Open) -> None:
    window = cleaning(PICTURES / "pen-lettering.png")
    panel = window.clean_panel
    QTest.mouseClick(panel.check.mends[Fault.LINES], LEFT)
    wait_until_done(window)
    assert len(window.document.presentation.results.sheet.guides) == 4
    unfold(window, panel.dirt)
    assert panel.dirt.found.text() == "4 straight lines taken out."
    unfold(window, panel.grey)
    QTest.mouseClick(panel.grey.part_ink, LEFT)
    wait_until_done(window)
    assert settings(window).mix is not None
    type_into(panel.grey.channels["blue"], "-100")
    type_into(panel.grey.channels["red"], "-20")
    QTest.mouseClick(panel.grey.keep, LEFT)
    assert settings(window).mix is None
    unfold(window, panel.enlarge)
    type_into(panel.enlarge.fields["enlarge"], "2")
    wait_until_done(window)
    assert window.document.artwork.width_px == 3600
    assert window.document.artwork.dpi == 600
    window.canvas.pointed.emit(600.0, 0.0)
    assert window.gauge.place.text().startswith("25.40, 0.00 mm")
    window.go_to(Step.BRING_IN)  # by itself the picture is in its own pixels
    window.canvas.pointed.emit(300.0, 0.0)
    assert window.gauge.place.text().startswith("25.40, 0.00 mm")


def test_touch_ups_are_drawn_listed_hidden_changed_and_removed(cleaning: Open, page: Path, drag: Drag) -> None:
    window = cleaning(page)
    panel, canvas = window.clean_panel.touch, window.canvas
    unfold(window, panel)
    before = len(window.document.artwork.shapes)
    QTest.keyClick(window, Qt.Key.Key_N)
    drag(canvas, (60, 530), (300, 530))
    wait_until_done(window)
    stroke = settings(window).touch_ups[0]
    assert (stroke.tool, stroke.form, stroke.colour) == (TouchTool.NIB, TouchForm.FREEHAND, INK_COLOUR)
    assert len(window.document.artwork.shapes) == before + 1  # the artwork follows

    QTest.keyClick(window, Qt.Key.Key_S)
    QTest.mouseClick(panel.forms[TouchForm.BOX], LEFT)
    drag(canvas, (20, 0), (780, 130))
    wait_until_done(window)
    assert len(window.document.artwork.shapes) < before  # the first line of writing is gone
    item = panel.list.item(1)
    assert item.text() == "Scrape, box"
    item.setCheckState(Qt.CheckState.Unchecked)
    wait_until_done(window)
    assert len(window.document.artwork.shapes) == before + 1

    panel.list.setCurrentRow(0)
    type_into(panel.width, "20")
    wait_until_done(window)
    assert settings(window).touch_ups[0].width_px == pytest.approx(20, abs=0.01)
    assert "2.54 mm" in panel.list.item(0).text()
    type_into(panel.width_mm, "1.27")
    assert settings(window).touch_ups[0].width_px == pytest.approx(10, abs=0.01)
    QTest.mouseClick(panel.remove, LEFT)
    wait_until_done(window)
    assert [t.tool for t in settings(window).touch_ups] == [TouchTool.SCRAPE]
    window.document.undo()
    assert len(settings(window).touch_ups) == 2

    # a turn of the sheet carries them along
    wait_until_done(window)
    QTest.mouseClick(window.clean_panel.sheet.right, LEFT)
    wait_until_done(window)
    assert len(window.document.artwork.shapes) == before + 1


def test_a_polygon_a_straight_line_and_a_pour(cleaning: Open, page: Path, drag: Drag) -> None:
    window = cleaning(page)
    panel, canvas = window.clean_panel.touch, window.canvas
    unfold(window, panel)
    window.use_tool("nib")
    QTest.mouseClick(panel.forms[TouchForm.POLYGON], LEFT)
    for place in ((600, 480), (680, 480), (640, 530)):
        click(window, *place)
        QTest.mouseMove(canvas, QPoint(5, 300))
    assert canvas.tool.sketch is not None
    QTest.mouseMove(canvas, QPoint(*map(round, canvas.camera.to_screen(640, 530, canvas.width(), canvas.height()))))
    QCoreApplication.sendEvent(canvas, QEvent(QEvent.Type.Leave))  # a polygon is closed from anywhere
    QTest.keyClick(canvas, Qt.Key.Key_Return)
    assert [t.form for t in settings(window).touch_ups] == [TouchForm.POLYGON]
    assert len(settings(window).touch_ups[0].points) == 3
    click(window, 100, 500)
    QTest.keyClick(window, Qt.Key.Key_Escape)
    assert canvas.tool.sketch is None
    assert len(settings(window).touch_ups) == 1

    QTest.mouseClick(panel.forms[TouchForm.FREEHAND], LEFT)
    drag(canvas, (60, 525), (260, 540), Qt.KeyboardModifier.ShiftModifier)
    line = settings(window).touch_ups[1]
    assert len(line.points) == 2
    assert line.points[0][1] == pytest.approx(line.points[1][1], abs=0.1)  # held level

    wait_until_done(window)
    QTest.mouseClick(panel.sample, LEFT)
    click(window, 640, 490)
    assert panel.brush.colour.startswith("#")
    QTest.keyClick(window, Qt.Key.Key_P)
    click(window, 700, 500)
    wait_until_done(window)
    pour = settings(window).touch_ups[2]
    assert (pour.tool, pour.form) == (TouchTool.POUR, TouchForm.PLACE)
    assert window.document.presentation.results.cleaned.grey()[5, 400] < 40


def test_the_true_size_follows_from_a_known_length(cleaning: Open, page: Path, drag: Drag) -> None:
    window = cleaning(page)
    window.go_to(Step.BRING_IN)
    panel = window.bring_in_panel
    QTest.mouseClick(panel.measure, LEFT)
    assert window.canvas.raw
    drag(window.canvas, (100, 200), (500, 200))
    type_into(panel.length, "100")
    assert window.document.state.settings.bring_in.dpi == pytest.approx(400 / 100 * 25.4, rel=0.01)
    wait_until_done(window)
    kept = window.document.state
    type_into(panel.length, "0")
    assert window.document.state is kept
    assert "more than 0 mm" in window.gauge.message.text()
    assert window.document.undo_name == "Set true size"


def test_the_seam_compares_with_the_picture_brought_in(cleaning: Open, half: Callable[[str], Path]) -> None:
    window = cleaning(half("badge-photo.jpg"))
    window.clean_panel.tone.change("Plain", levels=Levels(), light=0.0)
    wait_until_done(window)
    window.canvas.fit()
    cleaned = window.canvas.grab().toImage()
    window.toggle_seam()
    assert window.canvas.other_side is Showing.SOURCE
    window.canvas.set_seam(0.97)
    both = window.canvas.grab().toImage()
    # with nothing done to its tones the source, laid in place, looks as the flattened sheet does
    step = 7
    off = [
        abs(cleaned.pixelColor(x, y).lightness() - both.pixelColor(x, y).lightness())
        for x in range(150, 700, step)
        for y in range(150, 550, step)
    ]
    assert np.mean(off) < 4
