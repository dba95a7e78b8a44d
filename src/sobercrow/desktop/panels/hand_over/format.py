"""The format, its settings, what the file comes to, and saving it."""

from __future__ import annotations

import tempfile
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
from PySide6.QtCore import QByteArray, QMimeData, QObject, QPoint, QSize, Qt, QTimer, QUrl, Signal
from PySide6.QtGui import QDrag, QImage, QMouseEvent, QPixmap
from PySide6.QtWidgets import QGridLayout, QLabel, QStackedWidget, QWidget

from sobercrow.core.artwork.model import Artwork
from sobercrow.core.errors import SoberCrowError
from sobercrow.core.formats.hand_over import USUAL_CHECK
from sobercrow.core.formats.hpgl import HpglSettings, planned
from sobercrow.core.formats.pdf import PdfSettings
from sobercrow.core.formats.preview import shown
from sobercrow.core.formats.raster import Measure, RasterSettings
from sobercrow.core.formats.sets import Part, part_files, safe_name
from sobercrow.core.formats.table import FORMATS, format_of
from sobercrow.core.handover.inks import coats_of
from sobercrow.core.handover.page import laid
from sobercrow.core.handover.plates import PlateSettings, plates_of
from sobercrow.core.handover.printing import Cmyk
from sobercrow.desktop.controls import button, choices, group_column, label, row_of, tick
from sobercrow.desktop.document import Document
from sobercrow.desktop.page_marks import rgba_image
from sobercrow.desktop.panels.hand_over.printing import PrintingPart
from sobercrow.desktop.settings_form import SettingsForm
from sobercrow.desktop.worker import Worker

WAIT_MS = 250
MOST_SHOWN_PX = 4000
THUMB_PX = 96


@dataclass(frozen=True, slots=True, eq=False)
class Made:
    """What was written: the part, its first file, about how many bytes come to be, how it looks, how many files, a
    sentence about it, and what colours are printed in."""

    part: Part
    data: bytes
    count: int
    is_exact: bool
    pixels: np.ndarray
    page: Artwork
    files: int
    note: str = ""
    printed: Mapping[str, Cmyk] = field(default_factory=dict)


def made_of(artwork: Artwork, part: Part) -> Made:
    """Write a part and read it again; of many pixels fewer are written to be looked at."""
    page, settings, kind = laid(artwork, part.sheet), part.settings, part.kind
    look = part
    is_large = isinstance(settings, RasterSettings) and max(settings.size_px(page)) > MOST_SHOWN_PX
    if is_large:
        look = replace(part, settings=replace(settings, by=Measure.PIXELS, pixels=float(MOST_SHOWN_PX)))
    files = part_files(artwork, look)
    if part.plates is not None:
        page = plates_of(page, part.plates)[0].artwork
    data = files[0][1]
    count = kind.estimate(page, settings) if is_large else sum(len(one) for _, one in files)
    note = ""
    if isinstance(settings, HpglSettings):
        way = planned(page, settings)
        note = f" Between lines it goes {way.travel_mm:,.0f} mm, in the artwork's order {way.unsorted_mm:,.0f}."
    printed: Mapping[str, Cmyk] = {}
    if isinstance(settings, PdfSettings) and settings.printing is not None:
        printed = settings.printing.cmyk_of(coat.shape.colour for coat in coats_of(artwork))
    return Made(part, data, count, not is_large, shown(part.format, data, page), page, len(files), note, printed)


class Thumb(QLabel):
    """The file as a small picture, which can be dragged out of the window."""

    dragged = Signal()

    def __init__(self) -> None:
        """Start empty."""
        super().__init__()
        self.setFixedSize(QSize(THUMB_PX, THUMB_PX))
        self.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.setAccessibleName("The file")
        self.setToolTip("The file\nDrag it out of the window to hand it over.")
        self.setProperty("thumb", True)
        self._from: QPoint | None = None

    def show_image(self, image: QImage) -> None:
        """Show a picture of the file."""
        mode = Qt.TransformationMode.SmoothTransformation
        self.setPixmap(QPixmap.fromImage(image).scaled(self.size(), Qt.AspectRatioMode.KeepAspectRatio, mode))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Remember where a drag may begin."""
        self._from = event.position().toPoint()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Begin to drag."""
        if self._from is not None and (event.position().toPoint() - self._from).manhattanLength() > 6:
            self._from = None
            self.dragged.emit()


class FormatPart(QObject):
    """Which format, its few settings, plates, about how large the file is, and saving, copying, dragging it."""

    made = Signal(object)

    def __init__(self, document: Document, name: Callable[[], str]) -> None:
        """Work on a document; `name` is what files of it are called."""
        super().__init__()
        self._document, self._name = document, name
        self.present: Made | None = None
        self._folder: tempfile.TemporaryDirectory[str] | None = None
        self.is_active = False
        self.choose = choices(
            {kind.id: kind.title.split()[0] for kind in FORMATS}, self._choose, {kind.id: kind.help for kind in FORMATS}
        )
        grid = QWidget()
        layout = QGridLayout(grid)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(6)
        for n, one in enumerate(self.choose.values()):
            layout.addWidget(one, n // 4, n % 4)
        self.help = label(muted=True)
        self.stack = QStackedWidget()
        self.forms: dict[str, SettingsForm] = {}
        for kind in FORMATS:
            form = SettingsForm(partial(self._settings, kind.id), partial(self._take, kind.id), brief=True)
            self.forms[kind.id] = form
            self.stack.addWidget(form)
        self.printing = PrintingPart(document)
        self.plates = tick("Plates", "Each ink by itself, in position, with register marks and its name.")
        self.plates.toggled.connect(self._set_plates)
        self.plate_form = SettingsForm(self._plates, self._take_plates, brief=True)
        self.thumb = Thumb()
        self.thumb.dragged.connect(self._drag)
        self.told = label(muted=True)
        self.save = button("Save", "Save (Ctrl+E)\nWrites the file, whole or not at all.", main=True)
        self.copy = button("Copy", "Copy\nPuts it on the clipboard as SVG, PDF and PNG at once.")
        self.group = group_column(
            label("Format", strong=True),
            grid,
            self.help,
            self.stack,
            self.printing.group,
            self.plates,
            self.plate_form,
            row_of(self.thumb, self.told),
            row_of(self.save, self.copy),
        )
        self._worker = Worker()
        self._worker.produced.connect(self._took)
        self._worker.failed.connect(lambda _number, sentence: self._failed(sentence))
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self._make)
        self._asked: tuple[object, object] | None = None
        self.setParent(self.group)
        self._made_of: Artwork | None = None

    def close_worker(self) -> None:
        """End what works in the background, and the folder of files that were dragged."""
        self._worker.close()
        if self._folder is not None:
            self._folder.cleanup()

    def _choose(self, format_id: str) -> None:
        self._document.set_hand_over("Choose format", replace(self._document.state.hand_over, format=format_id))

    def _settings(self, format_id: str) -> Any:
        return self._document.state.hand_over.settings_for(format_id)

    def _take(self, format_id: str, settings: Any) -> None:
        one = self._document.state.hand_over.with_settings(format_id, settings)
        self._document.set_hand_over(f"Set {format_of(format_id).title}", one, format_id)

    def _plates(self) -> PlateSettings:
        return self._document.state.hand_over.plates or PlateSettings()

    def _set_plates(self, on: bool) -> None:
        plates = PlateSettings() if on else None
        self._document.set_hand_over("Make plates", replace(self._document.state.hand_over, plates=plates))

    def _take_plates(self, plates: PlateSettings) -> None:
        self._document.set_hand_over("Set plates", replace(self._document.state.hand_over, plates=plates), "plates")

    def refresh(self) -> None:
        """Show the present settings, and have the file made anew where something has changed."""
        one, artwork = self._document.state.hand_over, self._document.artwork
        kind = format_of(one.format)
        for name, choice in self.choose.items():
            choice.setChecked(name == kind.id)
        self.help.setText(kind.help)
        self.stack.setCurrentWidget(self.forms[kind.id])
        self.stack.setFixedHeight(self.forms[kind.id].sizeHint().height())
        self.forms[kind.id].refresh()
        self.printing.refresh(kind.settings is PdfSettings)
        self.plates.blockSignals(True)
        self.plates.setChecked(one.plates is not None)
        self.plates.blockSignals(False)
        self.plate_form.setVisible(one.plates is not None)
        self.plate_form.refresh()
        self.save.setText(f"Save {kind.title}" if one.plates is None else "Save plates")
        ready = artwork is not None and bool(artwork.shapes) and self._document.is_complete
        self.save.setEnabled(ready)
        self.copy.setEnabled(ready)
        wanted = (id(artwork), replace(one, sets=(), check=USUAL_CHECK))
        if self.is_active and ready and wanted != self._asked:
            self._asked, self._made_of = wanted, artwork
            self._soon.start(WAIT_MS)

    def _make(self) -> None:
        artwork, part = self._made_of, self._document.state.hand_over.inked(self._document.state.hand_over.part())
        if artwork is not None:
            self._worker.submit(lambda give, _report: give(made_of(artwork, part)))

    def _took(self, _number: int, made: object) -> None:
        assert isinstance(made, Made)
        self.present = made
        self.printing.show_through(made.printed)
        self.thumb.show_image(rgba_image(made.pixels))
        size = _size(made.count)
        files = f", {made.files} files" if made.files > 1 else ""
        about = "" if made.is_exact else "about "
        self.told.setText(f"{about}{size}{files}.{made.note} “As written” above shows the file itself.")
        self.made.emit(made)

    def _failed(self, sentence: str) -> None:
        self.present = None
        self.told.setText(sentence)
        self.made.emit(None)

    def _drag(self) -> None:
        """Drag the file that was made out of the window, as a file and as SVG."""
        made = self.present
        if made is None or not made.is_exact:
            self._document.failed.emit("The file is not ready to be dragged; save it instead.")
            return
        self._folder = self._folder or tempfile.TemporaryDirectory(prefix="sobercrow-")
        path = Path(self._folder.name) / f"{safe_name(self._name())}{made.part.kind.suffix}"
        try:
            path.write_bytes(made.data)
        except (OSError, SoberCrowError):
            self._document.failed.emit("The file could not be made ready to be dragged; save it instead.")
            return
        data = QMimeData()
        data.setUrls([QUrl.fromLocalFile(str(path))])
        if made.part.format == "svg":
            data.setData("image/svg+xml", QByteArray(made.data))
        drag = QDrag(self.thumb)
        drag.setMimeData(data)
        drag.setPixmap(self.thumb.pixmap())
        drag.exec(Qt.DropAction.CopyAction)


def _size(count: int) -> str:
    """A number of bytes in words."""
    if count < 10_000:
        return f"{count:,} bytes"
    return f"{count / 1000:,.0f} kB" if count < 10_000_000 else f"{count / 1e6:,.1f} MB"
