"""Scanner, camera and PDF, through the window's own dialogs."""

from __future__ import annotations

import io
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from PySide6.QtCore import QPoint, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QDialog
from reportlab.lib import pagesizes, pdfencrypt
from reportlab.pdfgen import canvas

from drawings import lettering
from sobercrow.core.picture.devices import ScanMode
from sobercrow.demo.tour import pause, wait_until_done
from sobercrow.desktop.devices.page_dialog import PageDialog
from sobercrow.desktop.devices.photo_dialog import PhotoDialog
from sobercrow.desktop.devices.scan_dialog import ScanDialog
from sobercrow.desktop.window import MainWindow
from sobercrow.stand_ins import camera
from sobercrow.stand_ins.scanner import SimulatedScanner

LEFT, NO_KEYS = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


def until(holds: Callable[[], bool], seconds: float = 30.0) -> None:
    for _ in range(int(seconds * 50)):
        if holds():
            return
        pause(0.02)
    raise AssertionError("it did not come about")


def in_dialog(kind: type[QDialog], work: Callable[[QDialog], None]) -> None:
    """Once a dialog of a kind is open, work in it as a user does."""

    def look() -> None:
        dialog = QApplication.activeModalWidget()
        if isinstance(dialog, kind):
            work(dialog)
        else:
            QTimer.singleShot(30, look)

    QTimer.singleShot(30, look)


def test_a_part_of_the_bed_is_scanned_at_its_true_size(empty_window: MainWindow) -> None:
    def work(dialog: ScanDialog) -> None:
        until(lambda: not dialog.bed._image.isNull())
        dialog.choice.list.setCurrentIndex(1)
        dialog.choice.list.activated.emit(1)
        until(lambda: dialog.said.text() == "")
        scale = dialog.bed._scale()
        QTest.mousePress(dialog.bed, LEFT, NO_KEYS, QPoint(round(10 * scale), round(10 * scale)))
        QTest.mouseMove(dialog.bed, QPoint(round(90 * scale), round(70 * scale)))
        QTest.mouseRelease(dialog.bed, LEFT, NO_KEYS, QPoint(round(90 * scale), round(70 * scale)))
        dialog.dpi.box.setValue(150)
        QTest.mouseClick(dialog.modes[ScanMode.GREY], LEFT)
        QTest.mouseClick(dialog.go, LEFT)

    in_dialog(ScanDialog, work)
    empty_window.menus.actions["scan"].trigger()
    wait_until_done(empty_window)
    source = empty_window.document.source
    assert (source.dpi, source.dpi_stated) == (150, True)
    assert source.size_mm == pytest.approx((80, 60), abs=1.5)
    assert source.name == "Scan of inked kite.png"
    assert empty_window.document.artwork.shapes


def test_a_scan_stopped_in_the_middle_changes_nothing(window: MainWindow) -> None:
    kept = window.document.source
    said: list[str] = []

    def work(dialog: ScanDialog) -> None:
        until(lambda: not dialog.bed._image.isNull())
        QTest.mouseClick(dialog.go, LEFT)
        until(lambda: dialog.bar.value() > 100)
        QTest.mouseClick(dialog.halt, LEFT)
        said.append(dialog.said.text())
        assert dialog.go.isEnabled()
        dialog.reject()

    in_dialog(ScanDialog, work)
    window.files.scan()
    assert said == ["The scan was stopped, so nothing was brought in; scan again when ready."]
    assert window.document.source is kept
    assert isinstance(window.devices.scanner, SimulatedScanner)


def test_a_photo_is_taken_and_another_kept(empty_window: MainWindow, monkeypatch) -> None:
    monkeypatch.setattr(camera, "WIDTH", 800)
    monkeypatch.setattr(camera, "HEIGHT", 600)
    photos = []

    def work(dialog: PhotoDialog) -> None:
        until(dialog.keep.isEnabled)
        photos.append(dialog.taken[1])
        QTest.mouseClick(dialog.again, LEFT)
        until(dialog.keep.isEnabled)
        photos.append(dialog.taken[1])
        QTest.mouseClick(dialog.keep, LEFT)

    in_dialog(PhotoDialog, work)
    QTest.mouseClick(empty_window.start.camera, LEFT)
    wait_until_done(empty_window)
    assert photos[0] != photos[1]
    assert empty_window.document.source.name == "Photo of pen lettering.jpg"
    assert not empty_window.document.source.dpi_stated


def make_pdf(path: Path, **options: object) -> Path:
    memory = io.BytesIO()
    sheet = canvas.Canvas(memory, pagesize=pagesizes.A6, **options)
    for words in ("first", "second"):
        sheet.setFont("Helvetica", 60)
        sheet.drawString(40, 200, words)
        sheet.showPage()
    sheet.save()
    path.write_bytes(memory.getvalue())
    return path


def test_a_page_of_a_scanned_file_is_chosen(empty_window: MainWindow, tmp_path: Path) -> None:
    def work(dialog: PageDialog) -> None:
        assert dialog.resolution.isHidden()  # a scan has its own
        dialog.pages.box.setValue(3)
        until(lambda: not dialog.view.pixmap().isNull())
        assert "51 × 34 mm" in dialog.extent.text()
        dialog.accept()

    pages = [Image.fromarray(np.pad(lettering(word, 80), 9, constant_values=255)) for word in ("Sail", "Tail")]
    pages.append(Image.fromarray(lettering("Kite", 80)).resize((600, 400)))
    path = tmp_path / "scans.tif"
    pages[0].save(path, save_all=True, append_images=pages[1:], dpi=(300, 300), compression="tiff_lzw")
    in_dialog(PageDialog, work)
    empty_window.files.open_path(path)
    until(lambda: empty_window.document.source is not None)
    wait_until_done(empty_window)
    source = empty_window.document.source
    assert (source.name, source.dpi, source.width) == ("scans, page 3.tif", 300, 600)
    pages[0].save(tmp_path / "one.tif")
    empty_window.files.open_path(tmp_path / "one.tif")
    until(lambda: empty_window.document.source.name == "one.tif")  # one page asks for nothing


def test_a_page_of_a_pdf_is_chosen_and_drawn(empty_window: MainWindow, tmp_path: Path) -> None:
    def work(dialog: PageDialog) -> None:
        dialog.pages.box.setValue(2)
        dialog.resolution.box.setValue(200)
        until(lambda: not dialog.view.pixmap().isNull())
        dialog.accept()

    in_dialog(PageDialog, work)
    empty_window.files.open_path(make_pdf(tmp_path / "two.pdf"))
    until(lambda: empty_window.document.source is not None)
    wait_until_done(empty_window)
    source = empty_window.document.source
    assert (source.name, source.dpi) == ("two, page 2.png", 200)
    assert source.size_mm == pytest.approx((105, 148), abs=0.3)  # ISO 216: A6
    assert len(empty_window.document.artwork.shapes) == len("second")


def test_a_protected_pdf_is_refused_and_the_document_stays(window: MainWindow, tmp_path: Path) -> None:
    kept = window.document.source
    window.files.open_path(make_pdf(tmp_path / "locked.pdf", encrypt=pdfencrypt.StandardEncryption("secret")))
    until(lambda: "protected by a password" in window.gauge.message.text())
    wait_until_done(window)
    assert window.document.source is kept
    assert window.document.artwork.shapes
