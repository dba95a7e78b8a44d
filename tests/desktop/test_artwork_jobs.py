"""Whole jobs on shapes, layers and colours with the demo pictures, on the real window."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import shapely
from desk import at
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.edits import fill_shapes
from sobercrow.core.artwork.gaps import lines_of
from sobercrow.core.artwork.placing import box_of
from sobercrow.core.settings import mm_to_px
from sobercrow.demo.make import PICTURES
from sobercrow.demo.tour import pause, wait_until_done
from sobercrow.desktop.editing.edit import Through
from sobercrow.desktop.steps import Step
from sobercrow.desktop.window import MainWindow

LEFT, NO_KEYS = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


def opened(window: MainWindow, name: str) -> MainWindow:
    window.files.open_path(PICTURES / name)
    wait_until_done(window)
    window.go_to(Step.REFINE)
    return window


def test_the_inked_kite_is_poured_mirrored_backed_and_comes_back_as_it_was(
    empty_window: MainWindow, drag, tmp_path: Path
) -> None:
    window = opened(empty_window, "kite-drawing.png")
    document, canvas = window.document, window.canvas
    canvas.fit()
    window.use_tool("art-pour")
    tool = window.tools["art-pour"]
    for _ in range(300):
        canvas.update()
        pause(0.02)
        if tool._ready is not None:
            break
    assert tool._ready.gaps, "the gaps in its lines are shown"
    areas = sorted((area for area, _ in tool._ready.areas), key=lambda area: -area.area)[:4]
    for area in areas:
        place = shapely.maximum_inscribed_circle(area, tolerance=1.0).coords[0]
        QTest.mouseClick(canvas, LEFT, NO_KEYS, at(window, *place))
        pause(0.05)
    poured = document.artwork.layers[0]
    assert len(poured.shapes) == 4
    assert poured.poured is not None
    # a line moved: the pours follow, and one undo takes both back
    before = document.artwork
    lines = len(poured.shapes)
    document.choose(Choice(shapes=frozenset({lines})))
    QTest.keyClick(canvas, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
    wait_until_done(window)
    assert document.artwork.layers[0].shapes != poured.shapes, "what was poured follows its lines"
    assert not lines_of(document.artwork).equals(lines_of(before))
    document.undo()
    assert document.artwork == before
    # whatever its layer is called
    rows = window.refine_panel.layers.rows
    lowest = next(k for k, row in enumerate(rows.rows) if row.name == "Poured")
    rows.setData(rows.index(lowest, 0), "Sails")
    assert (document.artwork.layers[0].name, document.artwork.layers[0].poured) == ("Sails", poured.poured)
    # mirrored half from half, in an axis laid on the canvas
    window.use_tool("choose")
    canvas.setFocus()
    window.menus.actions["choose-all"].trigger()
    chosen = document.choice.shapes
    window.use_tool("axis")
    assert document.choice.shapes == chosen, "what is chosen stays chosen"
    left, top, right, bottom = box_of(document.artwork, document.choice)
    middle = 0.5 * (left + right)
    canvas.fit()
    reach = 3.0 / canvas.camera.zoom
    drag(canvas, (middle + reach, 0.5 * (top + bottom) - reach), (middle + 2 * reach, bottom - 40.0))
    dials = window.refine_panel.dials.values
    assert dials.axis_through is Through.LAID
    assert (dials.axis.x, dials.axis.angle_deg) == (pytest.approx(middle, abs=0.2), 90.0)
    window.refine_panel.arrange.buttons["keep-left"].click()
    assert document.undo_name == "Half from left half"
    wait_until_done(window)
    half = box_of(document.artwork, Choice(frozenset(range(len(document.artwork.shapes)))))
    assert half[0] + half[2] == pytest.approx(2.0 * dials.axis.x, abs=0.05), "both halves are alike"
    document.choose()
    window.refine_panel.arrange.buttons["backing"].click()
    wait_until_done(window)
    assert next(layer.name for layer in document.artwork.layers) == "Backing"
    kept = document.artwork
    document.save_project(tmp_path / "kite.sobercrow")
    document.open_path(tmp_path / "kite.sobercrow")
    wait_until_done(window)
    assert document.artwork == kept


def test_three_tints_are_coloured_anew_from_the_picture(empty_window: MainWindow) -> None:
    window = opened(empty_window, "tints.png")
    document = window.document
    traced = [shape.fill for shape in document.artwork.shapes]
    window.menus.actions["choose-all"].trigger()
    every = document.choice
    document.edit("Blacken", fill_shapes, every.shapes, "#000000")
    document.choose(every)
    window.refine_panel.shapes.as_picture.click()
    wait_until_done(window)
    again = [shape.fill for shape in document.artwork.shapes]
    assert again != ["#000000"] * len(again)
    for one, other in zip(traced, again, strict=True):
        away = [abs(int(one[k : k + 2], 16) - int(other[k : k + 2], 16)) for k in (1, 3, 5)]
        assert max(away) <= 6, "as the tints were found when it was traced"


def test_an_icon_is_brought_to_five_millimetres_and_aligned_with_two_placed_ones(
    refining: MainWindow, tmp_path: Path
) -> None:
    window, document = refining, refining.document
    for name, body in (("disc", '<circle cx="20" cy="30" r="12"/>'), ("bar", '<rect width="60" height="14"/>')):
        path = tmp_path / f"{name}.svg"
        path.write_text(f'<svg xmlns="http://www.w3.org/2000/svg" width="80" height="60">{body}</svg>')
        window.files.open_path(path)
        wait_until_done(window)
    artwork = document.artwork
    names = [layer.name for layer in artwork.layers]
    assert names[-2:] == ["disc", "bar"]
    count = len(artwork.shapes)
    window.use_tool("choose")
    document.choose(Choice(shapes=frozenset({0})))
    width = window.refine_panel.place.width.box
    width.setFocus()
    width.selectAll()
    QTest.keyClicks(width, "5")
    QTest.keyClick(width, Qt.Key.Key_Return)
    wait_until_done(window)
    left, _, right, _ = document.artwork.shapes[0].bounds()
    assert right - left == pytest.approx(mm_to_px(5.0, artwork.dpi), abs=1e-9)
    document.choose(Choice(shapes=frozenset({0, count - 2, count - 1})))
    window.refine_panel.arrange.buttons["align-middle"].click()
    wait_until_done(window)
    middles = [0.5 * (b[1] + b[3]) for b in (document.artwork.shapes[k].bounds() for k in (0, count - 2, count - 1))]
    assert np.ptp(middles) < 1e-9
