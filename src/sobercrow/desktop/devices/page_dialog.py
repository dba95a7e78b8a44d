"""Choosing a page of a PDF, and the resolution it is drawn at, or of a TIFF."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from sobercrow.core.picture.pages import Pages
from sobercrow.core.picture.pdf import PAGE_DPI
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import ASSUMED_DPI, Meaning, mm_to_px
from sobercrow.desktop.controls import NumberField, button, label, row_of
from sobercrow.desktop.help.dialog import HelpedDialog
from sobercrow.desktop.presentation import rgb_image
from sobercrow.desktop.worker import Worker

VIEW_PX = 420


class PageDialog(HelpedDialog):
    """Shows a page; `page` and `dpi` are what was chosen."""

    def __init__(self, pages: Pages, parent: QWidget | None = None) -> None:
        """Show the first of some pages."""
        super().__init__(parent, "Bring in a page")
        self.page, self.dpi = 1, ASSUMED_DPI
        self._pages, sizes = pages, pages.sizes
        self._worker = Worker()
        self.extent = label(muted=True)
        self._worker.produced.connect(self._show)
        self._worker.failed.connect(lambda _n, sentence: self.extent.setText(sentence))
        self.view = QLabel()
        self.view.setFixedSize(VIEW_PX, VIEW_PX)
        self.view.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.pages = NumberField(Meaning("Page", f"Of {len(sizes)}.", 1, max(len(sizes), 2), "", 1, 0))
        self.pages.setVisible(len(sizes) > 1)
        self.pages.back.hide()
        self.pages.changed.connect(self._turn_to)
        self.resolution = NumberField(PAGE_DPI, curved=True)
        self.resolution.setVisible(pages.drawn)
        self.resolution.changed.connect(self._set_dpi)
        self.resolution.reset.connect(lambda: self._set_dpi(ASSUMED_DPI))
        bring = button("Bring in", "Bring in\nOpens this page.", main=True)
        leave = button("Cancel", "Cancel\nLeaves everything as it is.")
        bring.clicked.connect(self.accept)
        leave.clicked.connect(self.reject)
        side = QVBoxLayout()
        for part in (label(pages.name, strong=True), self.pages, self.resolution, self.extent):
            side.addWidget(part)
        side.addStretch(1)
        side.addWidget(row_of(leave, bring))
        panel = QWidget()
        panel.setLayout(side)
        panel.setFixedWidth(250)
        row = QHBoxLayout(self)
        row.addWidget(self.view)
        row.addWidget(panel)
        self._turn_to(1)

    def _turn_to(self, page: float) -> None:
        self.page = min(max(round(page), 1), len(self._pages.sizes))
        size = self._pages.sizes[self.page - 1]
        dpi = min(max(VIEW_PX / max(size.width_mm, size.height_mm, 1.0) * 25.4, PAGE_DPI.low), PAGE_DPI.high)
        pages, number = self._pages, self.page
        self._worker.submit(lambda give, _report: give(pages.picture(number, dpi)))
        self._refresh()

    def _set_dpi(self, dpi: float) -> None:
        self.dpi = min(max(dpi, PAGE_DPI.low), PAGE_DPI.high)
        self._refresh()

    def _refresh(self) -> None:
        size = self._pages.sizes[self.page - 1]
        self.pages.show_value(self.page, True)
        self.resolution.show_value(self.dpi, self.dpi == ASSUMED_DPI)
        width, height = mm_to_px(size.width_mm, self.dpi), mm_to_px(size.height_mm, self.dpi)
        pixels = f", {width:.0f} × {height:.0f} px" if self._pages.drawn else ""
        self.extent.setText(f"{size.width_mm:.0f} × {size.height_mm:.0f} mm{pixels}")

    def _show(self, _number: int, result: object) -> None:
        if isinstance(result, Picture):
            small = result.reduced(max(result.width, result.height) / VIEW_PX)
            self.view.setPixmap(QPixmap.fromImage(rgb_image(small.pixels)))

    def done(self, code: int) -> None:
        """End the dialog's thread."""
        self._worker.close()
        super().done(code)
