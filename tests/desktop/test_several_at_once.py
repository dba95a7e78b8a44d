"""Several pictures at once: dropped together, traced beside, opened and brought back changed, handed over."""

from __future__ import annotations

import shutil
import time
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog

from drawings import disc
from sobercrow.core.formats.project import read_project
from sobercrow.core.formats.sets import SETS
from sobercrow.core.formats.svg import svg_bytes
from sobercrow.core.several import own_names
from sobercrow.demo.tour import pause, wait_until_done
from sobercrow.desktop.dialogs import Buttons
from sobercrow.desktop.several import page
from sobercrow.desktop.several.pieces import Doing
from sobercrow.desktop.steps import Step
from sobercrow.desktop.window import MainWindow


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    """Three small pictures, one of them damaged, and one of the same name elsewhere."""
    for name, radius in (("one", 30.0), ("two", 20.0)):
        Image.fromarray(disc(96, 48.0, 48.0, radius)).save(tmp_path / f"{name}.png", dpi=(300, 300))
    (tmp_path / "broken.png").write_bytes(b"no picture")
    (tmp_path / "other").mkdir()
    shutil.copy(tmp_path / "two.png", tmp_path / "other/one.png")
    return tmp_path


def drop(window: MainWindow, *paths: Path) -> None:
    """Drop files on the window, as a file manager does."""
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
    left, none = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
    window.dropEvent(QDropEvent(QPointF(400, 300), Qt.DropAction.CopyAction, data, left, none))


def wait_until_traced(window: MainWindow) -> None:
    end = time.monotonic() + 60.0
    while window.several.page.pieces.waiting or window.several.page.pieces.is_writing:
        assert time.monotonic() < end
        pause(0.05)


def test_pictures_dropped_together_are_traced_opened_changed_and_handed_over(
    own_window: MainWindow, folder: Path, monkeypatch
) -> None:
    window = own_window
    drop(window, folder / "one.png", folder / "two.png", folder / "broken.png", folder / "other/one.png")
    several, pieces = window.several.page, window.several.page.pieces
    assert window.desk.currentWidget() is several
    wait_until_traced(window)
    assert [row.name for row in pieces.rows] == ["one", "two", "broken", "one-2"]
    assert [row.doing for row in pieces.rows] == [Doing.DONE, Doing.DONE, Doing.FAILED, Doing.DONE]
    assert "broken.png" in pieces.rows[2].told
    assert several.told.text() == "3 of 4 traced, 1 failed"

    QTest.mouseClick(several.cards[0], Qt.MouseButton.LeftButton, pos=QPoint(90, 60))
    pause(0.2)
    wait_until_done(window)
    assert window.desk.currentWidget() is not several
    assert not window.document.is_changed
    window.go_to(Step.REFINE)
    window.choose_all()
    window.menus.actions["mirror-across"].trigger()
    count = window.document.artwork.anchor_count
    window.menus.actions["table"].trigger()
    assert window.desk.currentWidget() is several
    wait_until_traced(window)
    assert pieces.rows[0].told == f"{count} anchors · by hand"
    assert read_project(pieces.rows[0].project).refined is not None

    several.recipe.setCurrentIndex(several.recipe.findText("Single line"))
    several.recipe.activated.emit(several.recipe.currentIndex())
    several.cards[3].recipe.setCurrentIndex(1)
    several.cards[3].recipe.activated.emit(1)
    wait_until_traced(window)
    kinds = [read_project(pieces.rows[k].project).settings.tracing.kind.value for k in (0, 1, 3)]
    assert kinds == ["outlines", "centre-lines", "outlines"]  # changed by hand, by that of all, by its own

    into = folder / "out"
    into.mkdir()
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(into))
    several.set.setCurrentIndex([one.name for one in SETS].index("For the web"))
    several.write.click()
    wait_until_traced(window)
    names = {path.name for path in into.iterdir()}
    assert names == {
        f"{name}-{part}" for name in ("two", "one-2") for part in ("web.svg", "small.png", "large.webp")
    } | {f"one-{part}" for part in ("web.svg", "small.png", "large.webp")}
    several.write.click()
    wait_until_traced(window)
    assert "already in" in window.gauge.message.text()
    several.keep.click()
    wait_until_traced(window)
    assert {"one.sobercrow", "two.sobercrow", "one-2.sobercrow"} <= {path.name for path in into.iterdir()}


def test_a_picture_on_the_table_is_traced_as_it_is_alone(own_window: MainWindow, folder: Path) -> None:
    window = own_window
    window.files.open_path(folder / "one.png")
    wait_until_done(window)
    alone = window.document.artwork
    window.several.take([folder / "one.png"])
    wait_until_traced(window)
    window.several.open(0)
    pause(0.2)
    wait_until_done(window)
    there = window.document.artwork
    assert alone is not None
    assert there is not None
    first, second = ([c.points for s in artwork.shapes for c in s.contours] for artwork in (alone, there))
    assert all(np.array_equal(a, b) for a, b in zip(first, second, strict=True))
    assert svg_bytes(alone) == svg_bytes(there)


def test_another_picture_opened_meanwhile_is_none_of_the_table(own_window: MainWindow, folder: Path) -> None:
    window = own_window
    window.several.take([folder / "one.png"])
    wait_until_traced(window)
    window.several.open(0)
    pause(0.2)
    wait_until_done(window)
    kept = window.several.page.pieces.rows[0].project.read_bytes()
    assert window.several.row == 0
    window.files.open_path(folder / "two.png")
    pause(0.2)
    wait_until_done(window)
    assert window.several.row is None
    window.choose_all()
    window.menus.actions["mirror-across"].trigger()
    window.several.show()
    assert window.document.is_changed
    assert window.several.page.pieces.rows[0].project.read_bytes() == kept


def test_work_on_the_table_is_stopped_gone_on_with_and_not_lost_unasked(
    own_window: MainWindow, folder: Path, monkeypatch
) -> None:
    window, pieces = own_window, own_window.several.page.pieces
    window.several.take([folder / "one.png", folder / "two.png"])
    window.several.page.stop.click()
    assert window.several.page.stop.text() == "Go on"
    pause(0.3)
    assert pieces.waiting
    window.several.page.stop.click()
    wait_until_traced(window)
    assert not pieces.waiting
    window.several.open(1)
    pause(0.2)
    wait_until_done(window)
    window.go_to(Step.REFINE)
    window.choose_all()
    window.menus.actions["mirror-across"].trigger()
    window.several.show()
    wait_until_traced(window)
    asked: list[str] = []
    monkeypatch.setattr(page, "ask", lambda *given: asked.append(given[2]) or Buttons.Cancel)
    assert not window.close()
    assert "not saved" in asked[0]
    window.several.leave()
    assert window.desk.currentWidget() is not window.several.page
    pieces.clear()


def test_names_are_told_apart_by_numbers() -> None:
    assert own_names(map(Path, ("a/x.png", "b/X.jpg", "c/y.png", "d/x.gif"))) == ["x", "X-2", "y", "x-3"]
