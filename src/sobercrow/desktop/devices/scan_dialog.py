"""Scanning: a preview of the bed, a region, resolution and colours, progress and stop."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QImage, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QProgressBar, QVBoxLayout, QWidget

from sobercrow.core.picture.devices import Region, ScanMode, Scanner, ScanRequest
from sobercrow.core.picture.pdf import as_file
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import meaning_of, mm_to_px
from sobercrow.core.stopping import go_on
from sobercrow.desktop.controls import NumberField, button, label, row_of
from sobercrow.desktop.devices.devices import TakesSheets
from sobercrow.desktop.devices.sheet_choice import SheetChoice
from sobercrow.desktop.help.dialog import HelpedDialog
from sobercrow.desktop.presentation import rgb_image
from sobercrow.desktop.theme import palette
from sobercrow.desktop.worker import Give, Report, Worker

LEAST_REGION_MM = 3.0


class Bed(QWidget):
    """The scanner's bed with what lies on it; a frame pulled over it is the region to scan."""

    changed = Signal()

    def __init__(self, bed_mm: tuple[float, float]) -> None:
        """Show an empty bed of a size in millimetres."""
        super().__init__()
        self.bed_mm = bed_mm
        self.region: Region | None = None
        self._image = QImage()
        self._from: QPointF | None = None
        self.setMinimumSize(QSize(340, 480))
        self.setCursor(Qt.CursorShape.CrossCursor)
        self.setAccessibleName("Scanner bed")

    def show_picture(self, picture: Picture) -> None:
        """Show a preview."""
        self._image = rgb_image(picture.pixels)
        self.update()

    def _scale(self) -> float:
        return min(self.width() / self.bed_mm[0], self.height() / self.bed_mm[1])

    def rect_of(self, region: Region) -> QRectF:
        """Where a region of the bed lies on screen."""
        scale = self._scale()
        return QRectF(region.left_mm * scale, region.top_mm * scale, region.width_mm * scale, region.height_mm * scale)

    def _at_mm(self, event: QMouseEvent) -> QPointF:
        at = event.position() / self._scale()
        return QPointF(min(max(at.x(), 0.0), self.bed_mm[0]), min(max(at.y(), 0.0), self.bed_mm[1]))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Begin a frame; a mere click takes the whole bed again."""
        self._from = self._at_mm(event)
        self.region = None
        self._tell()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Pull the frame."""
        if self._from is None:
            return
        frame = QRectF(self._from, self._at_mm(event)).normalized()
        large = min(frame.width(), frame.height()) >= LEAST_REGION_MM
        self.region = Region(frame.left(), frame.top(), frame.width(), frame.height()) if large else None
        self._tell()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """End the frame."""
        self._from = None

    def _tell(self) -> None:
        self.update()
        self.changed.emit()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint bed, preview and frame."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        bed = self.rect_of(Region(0, 0, *self.bed_mm))
        painter.fillRect(bed, QColor(palette().page))
        if not self._image.isNull():
            painter.drawImage(bed, self._image)
        painter.setPen(QPen(QColor(palette().muted), 1))
        painter.drawRect(bed.adjusted(0, 0, -1, -1))
        if self.region is not None:
            painter.setPen(QPen(QColor(palette().accent), 2))
            painter.drawRect(self.rect_of(self.region))


class ScanDialog(HelpedDialog):
    """Scans a sheet; `scanned` holds the picture and its PNG file once it is there."""

    def __init__(self, scanner: Scanner, parent: QWidget | None = None) -> None:
        """Show the bed, with a preview of what lies on it."""
        super().__init__(parent, "Scan")
        self.scanned: tuple[Picture, bytes] | None = None
        self._scanner = scanner
        self._mode = ScanMode.COLOUR
        self._worker = Worker()
        self._scanning = False
        self.bar = QProgressBar()
        self.bar.setTextVisible(False)
        self.bar.setRange(0, 1000)
        self._worker.produced.connect(self._take)
        self._worker.progressed.connect(lambda _n, _step, share: self.bar.setValue(round(1000 * share)))
        self._worker.failed.connect(lambda _n, sentence: self._end(sentence))
        self.bed = Bed(scanner.bed_mm)
        self.bed.changed.connect(self._refresh)
        self.dpi = NumberField(meaning_of(ScanRequest, "dpi"))
        self.dpi.show_value(300.0, True)
        self._dpi = 300.0
        self.dpi.changed.connect(self._set_dpi)
        self.dpi.reset.connect(lambda: self._set_dpi(300.0))
        self.modes = {mode: button(mode.value, f"{mode.value}\nWhat the scanner tells apart.") for mode in ScanMode}
        group = QButtonGroup(self)
        for mode, made in self.modes.items():
            made.setCheckable(True)
            group.addButton(made)
            made.clicked.connect(lambda _checked, mode=mode: self._set_mode(mode))
        self.modes[self._mode].setChecked(True)
        self.extent = label(muted=True)
        self.said = label()
        self.look = button("Preview", "Preview\nLooks at the bed again.")
        self.look.clicked.connect(self.preview)
        self.go = button("Scan", "Scan\nBrings in what lies in the frame, or the whole bed.", main=True)
        self.go.clicked.connect(self.scan)
        self.halt = button("Stop", "Stop\nStops the scanner; nothing is brought in.")
        self.halt.clicked.connect(self.stop)
        side = QVBoxLayout()
        side.setSpacing(10)
        side.addWidget(label(scanner.name, title=True))
        if isinstance(scanner, TakesSheets):
            self.choice = SheetChoice(scanner)
            self.choice.laid.connect(self.preview)
            side.addWidget(self.choice)
        side.addWidget(self.dpi)
        side.addWidget(label("Colours", strong=True))
        side.addWidget(row_of(self.modes[ScanMode.COLOUR], self.modes[ScanMode.GREY]))
        side.addWidget(self.modes[ScanMode.BLACK_AND_WHITE])
        side.addWidget(self.extent)
        side.addStretch(1)
        side.addWidget(self.said)
        side.addWidget(self.bar)
        side.addWidget(row_of(self.look, self.halt))
        side.addWidget(self.go)
        panel = QWidget()
        panel.setLayout(side)
        panel.setFixedWidth(260)
        row = QHBoxLayout(self)
        row.addWidget(self.bed, 1)
        row.addWidget(panel)
        self.resize(680, 560)
        self._refresh()
        self.preview()

    def _set_dpi(self, dpi: float) -> None:
        self._dpi = min(max(dpi, 75.0), 600.0)
        self._refresh()

    def _set_mode(self, mode: ScanMode) -> None:
        self._mode = mode

    def _refresh(self) -> None:
        region = self.bed.region or Region(0, 0, *self.bed.bed_mm)
        self.dpi.show_value(self._dpi, self._dpi == 300.0)
        width, height = mm_to_px(region.width_mm, self._dpi), mm_to_px(region.height_mm, self._dpi)
        whole = "" if self.bed.region is not None else " The whole bed; pull a frame for a part of it."
        self.extent.setText(f"{region.width_mm:.0f} × {region.height_mm:.0f} mm, {width:.0f} × {height:.0f} px.{whole}")
        self.halt.setEnabled(self._scanning)
        for part in (self.go, self.look, self.bed):
            part.setEnabled(not self._scanning)

    def preview(self) -> None:
        """Look at the bed."""
        self.said.setText("Looking at the bed …")
        self._submit(lambda _progress: self._scanner.preview())

    def scan(self) -> None:
        """Scan the frame, or the whole bed."""
        request = ScanRequest(self.bed.region, self._dpi, self._mode)
        self._scanning = True
        self.said.setText("Scanning …")
        self._refresh()

        def work(progress: Callable[[float], None]) -> tuple[Picture, bytes]:
            picture = self._scanner.scan(request, progress)
            return picture, as_file(picture)

        self._submit(work)

    def _submit(self, work: Callable[[Callable[[float], None]], Any]) -> None:
        def run(give: Give, report: Report) -> None:
            def progress(share: float) -> None:
                go_on()
                report("Scan", share)

            give(work(progress))

        self._worker.submit(run)

    def stop(self) -> None:
        """Stop the scanner."""
        self._worker.stop()
        self._end("The scan was stopped, so nothing was brought in; scan again when ready.")

    def _end(self, sentence: str) -> None:
        self._scanning = False
        self.said.setText(sentence)
        self.bar.setValue(0)
        self._refresh()

    def _take(self, _number: int, result: object) -> None:
        if isinstance(result, Picture):
            self.bed.show_picture(result)
            self._end("")
        elif isinstance(result, tuple):
            self.scanned = result
            self.accept()

    def done(self, code: int) -> None:
        """End the scanner's thread."""
        self._worker.close()
        super().done(code)
