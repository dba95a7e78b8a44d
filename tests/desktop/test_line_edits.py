"""Every edit of lines from its menu, on the real window: one named change, undone to what was there, or a sentence."""

from __future__ import annotations

import numpy as np
import pytest
from desk import refs
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QCheckBox

from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.settings import Settings
from sobercrow.demo.tour import pause, wait_until_done
from sobercrow.desktop.editing.lines import LINE_EDITS as EDITS
from sobercrow.desktop.editing.lines import WIDE_EDITS
from sobercrow.desktop.history import DEEPEST, History, Moment
from sobercrow.desktop.state import State
from sobercrow.desktop.window import MainWindow

LEFT, NO_KEYS = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


CASES = {
    "make-corner": refs(2, 3, 4),
    "make-smooth": refs(1, 1, 2),
    "make-even": refs(1, 1),
    "sharpen": refs(0, 1),
    "round": refs(0, 0, 1, 2, 3),
    "straight": refs(1, 0, 1, 2),
    "arc": refs(1, 0, 1, 2, 3),
    "calm": refs(1, 0, 1, 2, 3, 4),
    "align-level": refs(1, 0, 1, 2),
    "align-upright": refs(1, 0, 1, 2),
    "space-evenly": None,
    "cut-here": refs(0, 2),
    "join-straight": refs(1, 0, 4),
    "join-smooth": refs(1, 0, 4),
    "close-contour": refs(1, 2),
    "reverse": refs(1, 2),
    "take-out": refs(0, 1, contour=1),
}


def test_every_edit_has_its_case() -> None:
    assert set(CASES) == {edit.id for edit in EDITS}


def test_every_edit_is_one_named_change_and_undone_to_what_was_there(refining: MainWindow) -> None:
    window, document = refining, refining.document
    for edit in (edit for edit in EDITS if CASES[edit.id]):
        document.choose(Choice(anchors=CASES[edit.id]))
        action = window.menus.actions[edit.id]
        assert action.isEnabled(), edit.id
        if edit.id == "make-corner":
            window.menus.actions["make-smooth"].trigger()
        before, chosen = document.artwork, document.choice
        action.trigger()
        if edit.id == "sharpen":  # a corner that is one already stays where it is
            assert document.artwork.shapes[0].contours[0].anchors[1] == pytest.approx((250, 50))
            document.undo()
            continue
        assert document.undo_name == edit.named, edit.id
        assert document.artwork is not before, edit.id
        after = document.artwork
        document.undo()
        assert document.artwork is before, edit.id
        assert document.choice == chosen, edit.id
        document.redo()
        assert document.artwork is after, edit.id
        document.undo()
        if edit.id == "make-corner":
            document.undo()


def test_what_the_edits_make_is_what_they_say(refining: MainWindow) -> None:
    window, document = refining, refining.document

    def made(name: str) -> Artwork:
        document.choose(Choice(anchors=CASES[name]))
        window.menus.actions[name].trigger()
        found = document.artwork
        document.undo()
        return found

    assert made("join-straight").shapes[1].contours[0].closed
    assert made("close-contour").shapes[1].stroke_px == 4.0
    assert len(made("take-out").shapes) == len(document.artwork.shapes) + 1
    assert made("reverse").shapes[1].contours[0].anchors[0].tolist() == [500, 160]
    assert len({y for _, y in made("align-level").shapes[1].contours[0].anchors[:3].tolist()}) == 1
    assert len(made("cut-here").shapes[0].contours[0]) == 5
    assert len(made("straight").shapes[1].contours[0]) == 4
    rounded = made("round").shapes[0].contours[0]
    assert len(rounded) == 8
    radius = 1.0 * document.artwork.dpi / 25.4
    assert rounded.area() == pytest.approx(200 * 100 - (4 - np.pi) * radius**2, rel=1e-3)


REFUSED = (
    ("arc", refs(0, 0, 1), "straight"),
    ("join-straight", refs(0, 0, 1), "two open ends"),
    ("cut-here", refs(1, 0), "end already"),
    ("take-out", refs(1, 0), "hole"),
    ("close-contour", refs(0, 0), "open"),
    ("straight", refs(0, 0, 2), "stretch"),
    ("space-evenly", refs(0, 0, 1, 2), "corners"),
    ("round", refs(1, 0), "Choose corners"),
)


def test_what_does_not_apply_is_said_and_changes_nothing(refining: MainWindow) -> None:
    window, document = refining, refining.document
    for name, chosen, words in REFUSED:
        document.choose(Choice(anchors=chosen))
        kept = document.state
        window.menus.actions[name].trigger()
        assert document.state is kept, name
        assert words in window.gauge.message.text(), name
        assert document.choice.anchors == chosen, name


def test_wide_edits_take_everything_if_nothing_is_chosen(refining: MainWindow) -> None:
    window, document = refining, refining.document
    window.refine_panel.thin.apart.box.setValue(20.0)
    window.refine_panel.thin.tolerance.box.setValue(3.0)
    assert (window.refine_panel.dials.values.apart_px, window.refine_panel.dials.values.tolerance_px) == (20.0, 3.0)
    start = document.artwork
    for edit in WIDE_EDITS:
        document.choose()
        window.menus.actions[edit.id].trigger()
        assert document.undo_name == (edit.name or edit.title)
        assert document.artwork.anchor_count < start.anchor_count
        if edit.id == "thin-out":
            wait_until_done(window)
            window.menus.actions[edit.id].trigger()
            assert "Nothing can be thinned" in window.gauge.message.text()
        document.undo()
        wait_until_done(window)
        assert document.artwork is start, edit.id


def test_tries_that_do_not_apply_say_so_and_show_nothing(refining: MainWindow) -> None:
    window = refining
    window.document.choose(Choice(anchors=refs(0, 0, 1)))
    told: list[str] = []
    window.refine_panel.trying.told.connect(told.append)
    arc = next(edit for edit in EDITS if edit.id == "arc")
    window.refine_panel.runner.show(arc, True)
    for _ in range(200):
        pause(0.02)
        if told:
            break
    assert "straight" in told[-1]
    assert "try" not in window.canvas.marks


def test_options_of_a_tool_stand_at_the_head_of_the_panel_and_are_its_own(refining: MainWindow) -> None:
    window = refining
    for name, field, value in (("ease", "strength", 40.0), ("draw", "width_mm", 2.5), ("art-nib", "angle_deg", -30.0)):
        window.use_tool(name)
        box = window.refine_panel.options.fields[name][field]
        assert box.isVisible()
        box.box.setValue(value)
        assert getattr(window.tools[name].settings, field) == value
        box.reset.emit()
        assert getattr(window.tools[name].settings, field) != value
    (flat,) = [b for b in window.refine_panel.options.group.findChildren(QCheckBox) if b.isVisible()]
    flat.click()
    assert window.tools["art-nib"].settings.flat
    assert not window.tools["art-scrape"].settings.flat
    window.use_tool("choose")
    assert not window.refine_panel.options.is_shown


def test_handles_and_anchors_move_in_steps_with_shift_and_tell_how_far(refining: MainWindow) -> None:
    document, canvas = refining.document, refining.canvas
    canvas.look_at(340.0, 72.0, 3.0)
    pause(0.05)
    document.choose(Choice(anchors=refs(1, 1)))
    start = QPoint(*map(round, canvas.camera.to_screen(340.0, 72.0, canvas.width(), canvas.height())))
    QTest.mousePress(canvas, LEFT, NO_KEYS, start)
    for k in range(1, 6):
        QTest.mouseMove(canvas, start + QPoint(12 * k, 2 * k))
    assert canvas.tool.figures.told.endswith(" mm")
    QTest.mouseRelease(canvas, LEFT, Qt.KeyboardModifier.ShiftModifier, start + QPoint(60, 10))
    moved = document.artwork.shapes[1].contours[0].anchors[1]
    assert moved[1] == pytest.approx(72.0, abs=0.01)  # level, as Shift keeps it
    assert moved[0] == pytest.approx(360.0, abs=1.0)
    assert canvas.tool.figures.told == ""


def test_an_anchor_snaps_to_what_it_is_level_with_unless_ctrl_is_held(refining: MainWindow) -> None:
    document, canvas = refining.document, refining.canvas
    canvas.look_at(340.0, 72.0, 3.0)
    pause(0.05)
    start = QPoint(*map(round, canvas.camera.to_screen(340.0, 72.0, canvas.width(), canvas.height())))
    level = document.artwork.shapes[1].contours[0].anchors[0, 1]  # 12 px higher
    for keys, snaps in ((NO_KEYS, True), (Qt.KeyboardModifier.ControlModifier, False)):
        end = start + QPoint(10, -35)
        QTest.mousePress(canvas, LEFT, keys, start)
        for k in range(1, 6):
            QTest.mouseMove(canvas, start + (end - start) * k / 5)
        assert "level with" in canvas.tool.figures.told
        QTest.mouseRelease(canvas, LEFT, keys, end)
        moved = document.artwork.shapes[1].contours[0].anchors[1]
        assert bool(moved[1] == level) is snaps
        assert moved[1] == pytest.approx(60.4, abs=0.8)
        document.undo()
        wait_until_done(refining)


def test_a_tool_with_nothing_under_it_says_what_to_do(refining: MainWindow) -> None:
    window, canvas = refining, refining.canvas
    for tool in ("ease", "redraw", "cut", "art-scrape"):
        window.use_tool(tool)
        canvas.fit()
        kept = window.document.state
        at = QPoint(*map(round, canvas.camera.to_screen(900.0, 500.0, canvas.width(), canvas.height())))
        window.gauge.message.clear()
        QTest.mouseClick(canvas, LEFT, NO_KEYS, at)
        wait_until_done(window)
        assert window.document.state is kept, tool
        assert window.gauge.message.text().endswith("."), tool
        assert window.gauge.message.property("warning"), tool


def test_history_is_as_deep_as_it_says_and_merges_what_follows_quickly() -> None:
    history, moments = (
        History(),
        [Moment(State(Settings()), Choice(shapes=frozenset({k}))) for k in range(DEEPEST + 20)],
    )
    for k, moment in enumerate(moments):
        history.note(f"Change {k}", moment)
    seen = 0
    now = moments[-1]
    while (before := history.back(now)) is not None:
        now = before
        seen += 1
    assert seen == DEEPEST
    assert now is moments[20]
    assert history.redo_name == "Change 20"
    history.note("Nudge", now, "nudge")
    history.note("Nudge", now, "nudge")
    assert history.redo_name is None
    assert history.back(now) is now
    assert history.back(now) is None
