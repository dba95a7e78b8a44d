"""The Hand over step: the badge brought to size, checked, mended, written in several formats, cut."""

from __future__ import annotations

import io
from pathlib import Path

import ezdxf
import ezdxf.bbox
import numpy as np
import pypdfium2
import pytest
from desk import type_into
from lxml import etree
from PIL import Image
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog

from planted import box, disc
from sobercrow.core.artwork.edits import with_shapes
from sobercrow.core.formats.sets import SETS
from sobercrow.core.handover.purpose import Purpose
from sobercrow.core.settings import Unit
from sobercrow.demo.make import PICTURES
from sobercrow.demo.tour import pause, wait_until_done
from sobercrow.desktop import writing
from sobercrow.desktop.dialogs import Buttons
from sobercrow.desktop.scene import Showing
from sobercrow.desktop.steps import Step
from sobercrow.desktop.window import MainWindow
from sobercrow.stand_ins.cutter import SimulatedCutter

LEFT, NO_KEYS = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


def wait_for(condition, seconds: float = 20.0) -> None:
    for _ in range(int(seconds / 0.02)):
        if condition():
            return
        pause(0.02)
    raise AssertionError("it did not come about")


@pytest.fixture
def badge(opened) -> MainWindow:
    window = opened(PICTURES / "badge-200.jpg")
    window.go_to(Step.HAND_OVER)
    return window


def choose(window: MainWindow, format_id: str) -> None:
    """Choose a format and wait until its file was made and read again."""
    part = window.hand_over_panel.format
    QTest.mouseClick(part.choose[format_id], LEFT)
    wait_for(lambda: part.present is not None and part.present.part.format == format_id)


def test_the_badge_is_sized_checked_mended_written_and_cut(badge: MainWindow, tmp_path: Path, monkeypatch) -> None:
    window, panel, document = badge, badge.hand_over_panel, badge.document
    # two faults of the kind practitioners find at the end
    extra = [disc(100.0, 20.0, 0.4, "#262423"), box(185.0, 185.0, 14.0, 14.0, "#ffffff")]
    document.edit("Draw", lambda artwork: with_shapes(artwork, extra))
    wait_until_done(window)

    # 80 mm wide, on A5
    type_into(panel.laying.width, "80")
    panel.laying.papers.activated.emit(panel.laying._keys.index("A5"))
    assert document.state.hand_over.sheet.size.width_mm == 80.0
    assert panel.lie is not None
    assert window.canvas.sheet.width() * 25.4 / panel.lie.dpi == pytest.approx(148.0)
    assert panel.laying.fold.state.text() == "148.00 × 210.00 mm"

    # checked for cutting, two findings mended
    QTest.mouseClick(panel.check.purposes[Purpose.CUT], LEFT)
    wait_for(lambda: {"stragglers", "paper"} <= {f.kind.id for f in panel.check.found})
    assert "findings" in window.canvas.marks
    before = window.canvas.camera
    panel.check.rows["stragglers"].look.click()
    assert window.canvas.camera != before
    for name in ("stragglers", "paper"):
        count = len(document.artwork.shapes)
        panel.check.rows[name].do.click()
        wait_until_done(window)
        assert len(document.artwork.shapes) == count - 1
        wait_for(lambda name=name: name not in {f.kind.id for f in panel.check.found})
    assert document.undo_name == "Delete: paper"

    # written, and opened again
    monkeypatch.setattr(window.files.writing, "_ask_name", lambda _title, suffix: tmp_path / f"badge{suffix}")
    for name in ("pdf", "dxf", "png"):
        choose(window, name)
        window.show_as(Showing.WRITTEN)
        assert window.canvas.written is not None
        QTest.mouseClick(panel.format.save, LEFT)
        wait_until_done(window)
    size = pypdfium2.PdfDocument(tmp_path / "badge.pdf").get_page_size(0)
    assert np.array(size) * 25.4 / 72.0 == pytest.approx((148.0, 210.0), abs=0.01)
    drawing = ezdxf.readfile(tmp_path / "badge.dxf")
    assert ezdxf.bbox.extents(drawing.modelspace()).size.x == pytest.approx(80.0, abs=0.005)
    image = Image.open(tmp_path / "badge.png")
    assert image.size == (round(3000 * 148 / 210), 3000)
    seen = np.array(image)[..., 3] > 0
    assert np.ptp(np.flatnonzero(seen.any(axis=0))) * 210 / 3000 == pytest.approx(80.0, abs=0.15)

    # a set, asked for once before it is replaced
    asked = []
    monkeypatch.setattr(QFileDialog, "getExistingDirectory", lambda *_: str(tmp_path / "set"))
    monkeypatch.setattr(writing, "ask", lambda *_: asked.append(1) or Buttons.Cancel)
    (tmp_path / "set").mkdir()
    panel.sets.choice.setCurrentIndex([one.name for one in SETS].index("For the web"))
    panel.sets.refresh()
    for _ in range(2):
        QTest.mouseClick(panel.sets.save, LEFT)
        wait_until_done(window)
        pause(0.1)
        wait_until_done(window)
    assert sorted(path.name for path in (tmp_path / "set").iterdir()) == [
        "badge-200-large.webp",
        "badge-200-small.png",
        "badge-200-web.svg",
    ]
    assert len(asked) == 1

    # and cut to the end
    monkeypatch.setattr(panel.cutter, "_cutter", SimulatedCutter(wait=lambda _: None))
    panel.cutter.cut()
    wait_for(lambda: panel.cutter.report is not None)
    assert "blade" in window.canvas.marks
    assert panel.cutter.report.fallen == ()
    assert "saves" in panel.cutter.told.text()
    assert f"{panel.cutter.report.lines} lines" in panel.cutter.told.text()
    window.go_to(Step.REFINE)
    assert not {"blade", "findings", "page"} & set(window.canvas.marks)
    assert window.canvas.sheet is None


def test_page_and_settings_are_undone_saved_and_a_page_is_dragged(badge: MainWindow, tmp_path: Path) -> None:
    window, panel, document, canvas = badge, badge.hand_over_panel, badge.document, badge.canvas
    panel.laying.papers.activated.emit(panel.laying._keys.index("A6"))
    canvas.fit()
    lie, start = panel.lie, QPoint(canvas.width() // 2, canvas.height() // 2)
    QTest.mousePress(canvas, LEFT, NO_KEYS, start)
    for step in range(1, 6):
        QTest.mouseMove(canvas, start + QPoint(4 * step, -6 * step))
    QTest.mouseRelease(canvas, LEFT, NO_KEYS, start + QPoint(20, -30))
    moved = panel.lie
    assert (lie.dx - moved.dx, lie.dy - moved.dy) == pytest.approx((20 / canvas.camera.zoom, -30 / canvas.camera.zoom))
    assert document.undo_name == "Lay on page"
    panel.format.forms["dxf"].fields["tolerance_mm"].changed.emit(0.05)
    panel.format.plates.setChecked(True)
    panel.sets.name.setText("Mine")
    panel.sets.add.click()
    kept = document.state.hand_over
    assert [one.name for one in kept.sets] == ["Mine"]
    document.save_project(tmp_path / "a.sobercrow")
    document.undo()
    assert document.state.hand_over.sets == ()
    document.redo()
    assert not document.is_changed
    window.files.open_path(tmp_path / "a.sobercrow")
    wait_until_done(window)
    assert document.state.hand_over == kept


def test_the_artwork_is_copied_as_svg_pdf_and_png_and_lengths_have_their_unit(badge: MainWindow) -> None:
    panel = badge.hand_over_panel
    panel.laying.units.setCurrentText("in")
    panel.laying.units.activated.emit(panel.laying.units.currentIndex())
    type_into(panel.laying.height, "2")
    assert badge.document.state.hand_over.sheet.size.height_mm == pytest.approx(50.8)
    assert badge.preferences.value("unit") == "in"
    badge.canvas.pointed.emit(10.0, 20.0)
    assert " in · " in badge.gauge.place.text()
    QTest.mouseClick(panel.format.copy, LEFT)
    wait_until_done(badge)
    data = QGuiApplication.clipboard().mimeData()
    kinds = {kind: bytes(data.data(kind).data()) for kind in ("image/svg+xml", "application/pdf", "image/png")}
    assert etree.fromstring(kinds["image/svg+xml"]).get("width").endswith("mm")
    assert len(pypdfium2.PdfDocument(kinds["application/pdf"])) == 1
    assert max(Image.open(io.BytesIO(kinds["image/png"])).size) == 2000


def test_what_cannot_be_laid_or_cut_is_told_and_nothing_is_lost(badge: MainWindow, monkeypatch) -> None:
    panel = badge.hand_over_panel
    for unit in (Unit.INCH, Unit.MM):
        panel.laying.units.activated.emit(list(Unit).index(unit))
        type_into(panel.laying.margin, "900")  # more than there can be, in any unit
        assert badge.document.state.hand_over.sheet.page.margin_mm <= 500.0
    panel.laying.papers.activated.emit(panel.laying._keys.index("A8"))
    type_into(panel.laying.margin, "40")
    assert "no room on the page" in badge.gauge.message.text()
    badge.document.undo()
    type_into(panel.laying.width, "900")
    assert "beyond the page" in panel.laying.told.text()
    monkeypatch.setattr(panel.cutter, "_cutter", SimulatedCutter(wait=lambda _: None))
    panel.laying.papers.activated.emit(panel.laying._keys.index("artwork"))
    panel.cutter.cut()
    wait_for(lambda: "larger than the bed" in panel.cutter.told.text())
