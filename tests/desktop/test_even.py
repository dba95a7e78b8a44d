"""Even weights in the real window: the pen lettering's downstrokes evened by 60 %, undone, redone, saved and opened."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtTest import QTest

from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.lettering.evenness import What
from sobercrow.core.lettering.strokes import Way, strokes_of
from sobercrow.demo.make import PICTURES
from sobercrow.desktop import tokens
from sobercrow.desktop.steps import Step
from sobercrow.desktop.window import MainWindow


def spread(artwork: Artwork, way: Way) -> float:
    return float(np.std([stroke.width_px for stroke in strokes_of(artwork.shapes).of(way)]))


def test_downstrokes_are_evened_undone_redone_saved_and_opened(opened, qtbot, tmp_path: Path) -> None:
    window: MainWindow = opened(PICTURES / "pen-lettering.png")
    document, part = window.document, window.refine_panel.even
    before = document.artwork
    assert before is not None
    window.go_to(Step.TRACE)
    window.menus.actions["even-weights"].trigger()
    assert window.step is Step.REFINE
    qtbot.waitUntil(lambda: part.is_measured)
    assert "odd" in part.list.item(0).text()
    assert part.list.item(0).text().startswith("Down")
    assert part.widths[Way.DOWN].box.value() == pytest.approx(1.21, abs=0.02)
    assert part.widths[Way.UP].box.value() == pytest.approx(0.50, abs=0.02)

    # the ribbon lies over the strokes in the colours of its legend, and what would come of it dashed
    qtbot.waitUntil(lambda: {"even", "try"} <= window.canvas.marks.keys())
    picture = window.canvas.grab().toImage()
    seen = {picture.pixelColor(x, y).name() for x in range(0, picture.width(), 2) for y in range(picture.height())}
    assert {QColor(colour).name() for _, colour in tokens.WIDTH_STEPS} <= seen

    # only downstrokes, by 60 %
    part.ways[Way.UP].setChecked(False)
    part.percent.box.setValue(60.0)
    QTest.mouseClick(part.do, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: document.artwork is not before)
    after = document.artwork
    assert after is not None
    assert document.undo_name == "Even weights"
    assert after.anchor_count == before.anchor_count
    assert 0.3 < spread(after, Way.DOWN) / spread(before, Way.DOWN) < 0.55
    assert spread(after, Way.UP) == pytest.approx(spread(before, Way.UP), rel=0.1)

    document.undo()
    assert document.artwork == before
    document.redo()
    assert document.artwork == after
    target = tmp_path / "pen.crow"
    document.save_project(target)
    again: MainWindow = opened(target)
    qtbot.waitUntil(lambda: again.document.artwork is not None)
    assert again.document.artwork is not None
    assert spread(again.document.artwork, Way.DOWN) == pytest.approx(spread(after, Way.DOWN), abs=1e-6)


def test_picked_strokes_alone_are_evened_and_the_rest_is_looked_at_in_turn(opened, qtbot) -> None:
    window: MainWindow = opened(PICTURES / "pen-lettering.png")
    document, part = window.document, window.refine_panel.even
    window.menus.actions["even-weights"].trigger()
    qtbot.waitUntil(lambda: part.is_measured)
    before = document.artwork
    assert before is not None

    # a click goes there; what is picked is evened alone
    camera = window.canvas.camera
    row = part.list.visualItemRect(part.list.item(0)).center()
    QTest.mouseClick(part.list.viewport(), Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, row)
    assert window.canvas.camera.zoom > camera.zoom
    QTest.mouseClick(part.do, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: document.artwork is not before)
    assert document.artwork is not None
    changed = [a != b for a, b in zip(document.artwork.shapes, before.shapes, strict=True)]
    assert sum(changed) == 1
    document.undo()

    for what, name in {What.SPACING: "Evenly spaced", What.CORNERS: "Clean crossings"}.items():
        qtbot.waitUntil(lambda: part.is_measured)
        QTest.mouseClick(part.whats[what], Qt.MouseButton.LeftButton)
        qtbot.waitUntil(lambda: "try" in window.canvas.marks)
        now = document.artwork
        QTest.mouseClick(part.do, Qt.MouseButton.LeftButton)
        qtbot.waitUntil(lambda now=now: document.artwork is not now)
        assert document.undo_name == name
        document.undo()

    # what has no strokes says so, and loses nothing
    dots = frozenset({k for k, shape in enumerate(before.shapes) if np.ptp(shape.bounds()[::2]) < 30})
    document.choose(Choice(shapes=dots))
    qtbot.waitUntil(lambda: "No strokes" in part.told.text())
    assert not part.do.isEnabled()
    assert "even" not in window.canvas.marks
