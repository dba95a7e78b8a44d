"""Match in the real window: the dirty badge's ring lettering is found, corrected, and set anew along its arc."""

from __future__ import annotations

import math
from pathlib import Path

import numpy as np
import pytest
from PIL import Image, ImageDraw, ImageFont
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.edits import move_shapes
from sobercrow.core.artwork.model import Group
from sobercrow.core.artwork.snapping import Lies, snapped
from sobercrow.core.formats.project import read_project
from sobercrow.core.lettering.baseline import Arc, three_places
from sobercrow.core.lettering.typefaces import LIBRARY, all_files
from sobercrow.demo.make import PICTURES
from sobercrow.desktop.steps import Step
from sobercrow.desktop.window import MainWindow


def test_the_ring_of_the_badge_is_set_anew(opened, qtbot, tmp_path: Path, monkeypatch) -> None:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    window: MainWindow = opened(PICTURES / "badge-200.jpg")
    document, part = window.document, window.refine_panel.match
    part.typefaces.files = lambda: all_files(installed=False)
    before = document.artwork
    assert before is not None

    def looked() -> None:
        qtbot.waitUntil(lambda: part.is_found, timeout=60_000)

    # one key: the step, the part, the letters and all proposals
    window.go_to(Step.TRACE)
    window.menus.actions["match"].trigger()
    assert window.step is Step.REFINE
    assert len(document.choice.shapes) == 16
    looked()
    assert part.text.text() == "FEN & FETLOCK KITES"
    assert part.list.item(0).text().startswith("TeX Gyre Adventor Bold\nwithin")
    assert "On an arc, outside, radius 5.9" in part.line_told.text()
    qtbot.waitUntil(lambda: "match" in window.canvas.marks)

    assert not part.stop.isVisible()

    # a search is stopped: nothing more comes, and it is taken up again
    QTest.keyClick(part.text, Qt.Key.Key_Return)
    QTest.mouseClick(part.stop, Qt.MouseButton.LeftButton)
    assert part.told.text().startswith("Stopped.")
    part.text.setText("FEN & FETLOCK KITES")
    QTest.keyClick(part.text, Qt.Key.Key_Return)
    looked()
    qtbot.waitUntil(lambda: "match" in window.canvas.marks)

    # another face is picked, and the same letters typed wrongly, then rightly
    first = window.canvas.marks["match"]
    part.list.setCurrentRow(1)
    qtbot.waitUntil(lambda: window.canvas.marks.get("match") not in (None, first))
    part.text.setText("FEN & FETLOCK KITE")
    QTest.keyClick(part.text, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: "have to be as many" in part.told.text(), timeout=60_000)
    assert part.text.text() == "FEN & FETLOCK KITE"  # what was typed is not lost
    part.text.setText("FEN & FETLOCK KITES")
    QTest.keyClick(part.text, Qt.Key.Key_Return)
    looked()
    qtbot.waitUntil(lambda: "match" in window.canvas.marks)
    arc = part._found[0].baseline
    assert isinstance(arc, Arc)
    assert (arc.x, arc.y) == pytest.approx((100.0, 100.0), abs=0.8)

    QTest.mouseClick(part.set, Qt.MouseButton.LeftButton)
    assert document.undo_name == "Set in TeX Gyre Adventor Bold"
    assert "match" not in window.canvas.marks
    after = document.artwork
    assert after is not None
    groups = [item for layer in after.layers for item in layer.items if isinstance(item, Group)]
    assert [group.name for group in groups] == ["FEN & FETLOCK KITES · TeX Gyre Adventor Bold"]
    qtbot.waitUntil(lambda: "off the drawing" in part.told.text().lower() and "now" in part.told.text())
    # letters that repeat are now the very same outline
    letters = dict(zip("FEN&FETLOCKKITES", groups[0].shapes, strict=True))
    assert len(after.shapes) == len(before.shapes)
    repeated = [s for s, c in zip(groups[0].shapes, "FEN&FETLOCKKITES", strict=True) if c == "K"]
    assert len(repeated) == 2
    assert len({len(shape.contours[0]) for shape in repeated}) == 1
    assert letters["O"].contours[0].area() > 0 > letters["O"].contours[1].area()

    document.undo()
    assert document.artwork == before
    document.redo()
    assert document.artwork == after
    target = tmp_path / "badge.crow"
    document.save_project(target)
    kept = read_project(target).refined
    assert kept is not None
    assert [i.name for layer in kept.layers for i in layer.items if isinstance(i, Group)] == [groups[0].name]
    document.undo()


def test_shapes_that_are_no_letters_are_told_to_be_only_near(opened, qtbot, tmp_path: Path, monkeypatch) -> None:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    window: MainWindow = opened(PICTURES / "tints.png")
    part = window.refine_panel.match
    part.typefaces.files = lambda: all_files(installed=False)
    window.go_to(Step.REFINE)
    window.menus.actions["choose-all"].trigger()
    window.menus.actions["match"].trigger()
    qtbot.waitUntil(lambda: part.is_found or "None of the typefaces" in part.told.text(), timeout=60_000)
    assert not part.is_found or "only near" in part.list.item(0).text()


def test_guides_lie_at_the_lines_the_letters_keep_to(opened, qtbot) -> None:
    window: MainWindow = opened(PICTURES / "pen-lettering.png")
    document = window.document
    window.go_to(Step.REFINE)
    window.menus.actions["lettering"].trigger()
    window.menus.actions["lettering-guides"].trigger()
    qtbot.waitUntil(lambda: bool(document.state.guides))
    levels = sorted(guide.at for guide in document.state.guides if guide.lies is Lies.LEVEL)
    (slant,) = (guide for guide in document.state.guides if guide.lies is Lies.UPRIGHT)
    assert slant.slant_deg == pytest.approx(76.6, abs=0.5)
    assert document.undo_name == "Guides of lettering"
    assert len(levels) in (4, 5)
    assert document.artwork is not None
    feet = [document.artwork.shapes[k].bounds()[3] for k in document.choice.shapes]
    assert min(abs(levels[-2] - foot) for foot in feet) < 1.0  # the base line, above the descender

    # the slant is moved by its tab and goes on leaning; a place near it is drawn onto it
    artwork, canvas = document.artwork, window.canvas
    top = canvas.scene().visible()[1]
    tab = QPoint(round(canvas.scene().on_screen(slant.across(top), 0.0).x()), 4)
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, tab)
    QTest.mouseMove(canvas, tab + QPoint(40, 30))
    QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, tab + QPoint(40, 30))
    (moved,) = (guide for guide in document.state.guides if guide.lies is Lies.UPRIGHT)
    assert moved.slant_deg == slant.slant_deg
    assert moved.at - slant.at > 20 / canvas.camera.zoom
    near = snapped(artwork, (), moved.across(20.0) + 2.0, 20.0, 3.0, [moved])
    assert near.x == pytest.approx(moved.across(near.y))
    document.undo()
    document.undo()
    assert not document.state.guides


def test_set_lettering_is_opened_again_and_retyped(opened, qtbot, tmp_path: Path, monkeypatch) -> None:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    window: MainWindow = opened(PICTURES / "badge-200.jpg")
    document, part = window.document, window.refine_panel.match
    part.typefaces.files = lambda: all_files(installed=False)
    window.menus.actions["match"].trigger()
    qtbot.waitUntil(lambda: part.is_found, timeout=60_000)
    base = part._found[0].baseline
    QTest.mouseClick(part.set, Qt.MouseButton.LeftButton)
    assert not part.search.isVisible()

    # carried 3 px to the right, saved and opened in another window
    document.edit("Carry", move_shapes, document.choice.shapes, 3.0, 0.0)
    document.save_project(tmp_path / "badge.crow")
    again: MainWindow = opened(tmp_path / "badge.crow")
    qtbot.waitUntil(lambda: again.document.artwork is not None)
    document, part = again.document, again.refine_panel.match
    assert document.artwork is not None
    groups = [item for layer in document.artwork.layers for item in layer.items if isinstance(item, Group)]
    assert groups[0].lettered is not None
    places = [k for k, shape in enumerate(document.artwork.shapes) if any(shape is own for own in groups[0].shapes)]
    again.go_to(Step.REFINE)
    document.choose(Choice(shapes=frozenset(places)))
    part.open()
    qtbot.waitUntil(lambda: part.is_found)
    assert part.list.item(0).text().startswith("TeX Gyre Adventor Bold\nwhat it was set in")
    moved = part._found[0].baseline
    assert isinstance(moved, Arc)
    assert isinstance(base, Arc)
    assert (moved.x - base.x, moved.y - base.y, moved.radius_px) == pytest.approx((3.0, 0.0, base.radius_px), abs=1e-6)

    # what the typeface has not is told; another text is set on the same arc
    part.text.setText("FEN Ϡ")
    QTest.keyClick(part.text, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: "has no Ϡ" in part.told.text())
    part.text.setText("FLY & LAND")
    QTest.keyClick(part.text, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: part.is_found)
    QTest.mouseClick(part.set, Qt.MouseButton.LeftButton)
    groups = [item for layer in document.artwork.layers for item in layer.items if isinstance(item, Group)]
    assert [group.name for group in groups] == ["FLY & LAND · TeX Gyre Adventor Bold"]
    assert len(groups[0].shapes) == 8
    tops = [np.hypot(*(shape.contours[0].anchors - (moved.x, moved.y)).T).min() for shape in groups[0].shapes]
    assert min(tops) == pytest.approx(moved.radius_px, abs=0.6)
    QTest.mouseClick(part.search, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: len(part._found) > 3, timeout=60_000)


def two_lines() -> np.ndarray:
    """Two lines of a typeface of ours, drawn by FreeType."""
    font = ImageFont.truetype(str(LIBRARY / "Cantarell-Regular.otf"), 4 * 40, layout_engine=ImageFont.Layout.BASIC)
    large = Image.new("L", (4 * 300, 4 * 140), 255)
    ImageDraw.Draw(large).multiline_text((4 * 20, 4 * 15), "Harbour\nmeadow", 0, font=font, spacing=4 * 12)
    return np.asarray(large.resize((300, 140), Image.Resampling.BOX))


def test_lines_one_by_one_their_base_line_pulled_and_an_area(opened, qtbot, tmp_path: Path, monkeypatch) -> None:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    Image.fromarray(two_lines()).save(tmp_path / "sign.png", dpi=(300, 300))
    window: MainWindow = opened(tmp_path / "sign.png")
    document, canvas, part = window.document, window.canvas, window.refine_panel.match
    part.typefaces.files = lambda: all_files(installed=False)

    def read(text: str) -> None:
        qtbot.waitUntil(lambda: part.is_found and part.text.text() == text, timeout=60_000)
        one = part._found[0]
        foot = three_places(one.baseline, np.array([one.letters[0].x, one.letters[0].y]), np.zeros(2))[0]
        tool = window.standing["baseline"]
        qtbot.waitUntil(lambda: tool.places is not None and np.allclose(tool.places[0], foot))

    window.menus.actions["match"].trigger()
    read("Harbour")
    assert part._lines.told.text() == "Line 1 of 2."
    QTest.mouseClick(part._lines.next, Qt.MouseButton.LeftButton)
    read("meadow")
    assert len(document.choice.shapes) == 6
    QTest.mouseClick(part._lines.before, Qt.MouseButton.LeftButton)
    read("Harbour")

    def screen(place: np.ndarray) -> QPoint:
        return QPoint(*map(round, canvas.camera.to_screen(*place.tolist(), canvas.width(), canvas.height())))

    # the last grip is pulled down: the line turns, and what was typed stays; the proposed one comes back
    tool = window.standing["baseline"]
    places = tool.places.copy()
    grip = screen(places[2])
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, grip)
    QTest.mouseMove(canvas, grip + QPoint(0, 30))
    QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, grip + QPoint(0, 30))
    fall = 30 / canvas.camera.zoom
    turned = math.degrees(math.atan2(fall, places[2][0] - places[0][0]))
    qtbot.waitUntil(lambda: part.is_found and part.base.angle.box.value() > 0.5, timeout=60_000)
    assert part._found[0].baseline.angle_deg == pytest.approx(turned, abs=0.6)
    QTest.mouseClick(part.base.angle.back, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: part.is_found and abs(part.base.angle.box.value()) < 0.3, timeout=60_000)

    # an area of the picture: set in place of what was traced there
    document.choose(Choice())
    QTest.mouseClick(part.frame, Qt.MouseButton.LeftButton)
    assert window.tool == "lettering-area"
    corners = screen(np.array([10.0, 70.0])), screen(np.array([290.0, 135.0]))
    QTest.mousePress(canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, corners[0])
    QTest.mouseMove(canvas, corners[1])
    QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, corners[1])
    assert window.tool == "choose"
    read("meadow")
    before = len(document.artwork.shapes)
    QTest.mouseClick(part.set, Qt.MouseButton.LeftButton)
    assert document.undo_name == "Set in Cantarell Regular"
    assert len(document.artwork.shapes) == before
    groups = [item for layer in document.artwork.layers for item in layer.items if isinstance(item, Group)]
    assert [group.name for group in groups] == ["meadow · Cantarell Regular"]
