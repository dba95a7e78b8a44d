"""A new tool needs its file and its line in the table, nothing else."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter
from PySide6.QtTest import QTest

from sobercrow.core.artwork.edits import move_shapes
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.steps import Step
from sobercrow.desktop.tool import Board, Drag, Pointer, Tool
from sobercrow.desktop.tools import table
from sobercrow.desktop.window import MainWindow


class Shove(Tool):
    """Shoves all shapes sideways; the name of the test's own tool."""

    id, title, key, icon, step = "shove", "Shove", "Z", "choose", Step.REFINE
    help = "Shove everything sideways."

    def press(self, board: Board, start: Pointer) -> Drag:
        artwork, pointer = board.artwork, start
        everything = range(len(artwork.shapes))
        while not pointer.released:
            pointer = yield
            board.show(move_shapes(artwork, everything, pointer.x - start.x, 0.0))
        board.change("Shove", board.preview)

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        painter.fillRect(0, 0, 5, 5, QColor("#ff00ff"))


@pytest.fixture
def shoving(monkeypatch, request) -> MainWindow:
    """The window with one more line in the table of tools."""
    monkeypatch.setattr(table, "TOOLS", (*table.TOOLS, Shove))
    return request.getfixturevalue("window")


def test_a_planted_tool_is_in_bar_menu_and_keys_and_drags_previews_and_undoes(
    shoving: MainWindow, drag: Callable[..., None]
) -> None:
    window = shoving
    assert window.tool_bar.buttons["shove"].toolTip().startswith("Shove (Z)")
    window.go_to(Step.REFINE)
    QTest.keyClick(window, Qt.Key.Key_Z)
    assert window.tool == "shove"
    assert window.canvas.grab().toImage().pixelColor(2, 2) == QColor("#ff00ff")
    before = window.document.artwork.shapes[0].bounds()
    drag(window.canvas, (100.0, 100.0), (130.0, 140.0))
    after = window.document.artwork.shapes[0].bounds()
    assert abs(after[0] - before[0] - 30.0) < 2.0
    assert after[1] == before[1]
    assert window.document.undo_name == "Shove"
    window.document.undo()
    assert window.document.artwork.shapes[0].bounds() == before
