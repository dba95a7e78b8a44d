"""The Trace step, driven as its users do."""

from __future__ import annotations

import numpy as np
import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from sobercrow.core.settings import Meet
from sobercrow.demo.make import PICTURES
from sobercrow.demo.tour import wait_until_done
from sobercrow.desktop.steps import Step
from sobercrow.desktop.window import MainWindow


def type_into(field, text: str) -> None:
    QTest.keyClick(field.box, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
    QTest.keyClicks(field.box, text)
    QTest.keyClick(field.box, Qt.Key.Key_Return)


@pytest.fixture
def badge(empty_window: MainWindow) -> MainWindow:
    empty_window.files.open_path(PICTURES / "badge-200.jpg")
    wait_until_done(empty_window)
    empty_window.go_to(Step.TRACE)
    return empty_window


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
    assert grown == pytest.approx((-2, -2, 2, 2), abs=0.6)
    panel.fine.head.click()
    type_into(panel.fields["hole_px2"], "9000")
    wait_until_done(window)
    assert all(len(shape.contours) == 1 for shape in window.document.artwork.shapes)
    QTest.mouseClick(panel.fields["hole_px2"].back, Qt.MouseButton.LeftButton)
    wait_until_done(window)
    assert window.document.state.settings.tracing.hole_px2 is None
