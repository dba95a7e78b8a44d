"""Opening, saving, pasting, dropping, and keeping unsaved work safe."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path
from threading import Thread
from typing import Protocol

from PySide6.QtCore import QBuffer, QByteArray, QIODevice, QMimeData, QSettings, QStandardPaths
from PySide6.QtGui import QGuiApplication, QImage, QImageWriter
from PySide6.QtWidgets import QDialog, QFileDialog, QWidget

from sobercrow.core.artwork.bringing import put_in_layer
from sobercrow.core.errors import ExportError, SoberCrowError
from sobercrow.core.formats.files import write_whole
from sobercrow.core.formats.palette import read_palette, write_palette
from sobercrow.core.formats.project import SUFFIX
from sobercrow.core.formats.svg_in import Placed, read_svg
from sobercrow.core.picture.decode import SUFFIXES, decode_picture, read_bytes
from sobercrow.core.picture.pdf import SUFFIX as PDF_SUFFIX
from sobercrow.core.picture.pdf import PageSize, as_file, page_sizes, render_page
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import AUTO, InkKind
from sobercrow.desktop.devices import Devices
from sobercrow.desktop.devices.pdf_dialog import PdfDialog
from sobercrow.desktop.devices.photo_dialog import PhotoDialog
from sobercrow.desktop.devices.scan_dialog import ScanDialog
from sobercrow.desktop.dialogs import Buttons, ask
from sobercrow.desktop.document import Document
from sobercrow.desktop.preferences import recent_files, remember_file
from sobercrow.desktop.recovery import Recovery
from sobercrow.desktop.state import Opened, State
from sobercrow.desktop.writing import Writing


def _read_pdf(path: Path) -> tuple[bytes, tuple[PageSize, ...]]:
    data = read_bytes(path)
    return data, page_sizes(data, path.name)


def _draw_page(data: bytes, name: str, page: int, dpi: float) -> tuple[Picture, bytes]:
    picture = render_page(data, name, page, dpi)
    return picture, as_file(picture)


class Say(Protocol):
    """Shows one sentence to the user."""

    def __call__(self, text: str, *, warning: bool) -> None:
        """Show `text`, as a warning or not."""


SVG_SUFFIX = ".svg"


class Files:
    """Moves documents between the window and the disk; every failure is one sentence, and nothing is lost by it."""

    def __init__(self, document: Document, window: QWidget, preferences: QSettings, say: Say, devices: Devices) -> None:
        """Work on a document; dialogs stand over the window."""
        self._devices = devices
        self._document, self._window, self._preferences, self._say = document, window, preferences, say
        self.pending: Path | None = None
        self._autosaving: Thread | None = None
        self._kept_safe: State | None = None
        self.recovery = Recovery(self._recovery_folder)
        self.writing = Writing(document, window, self._ask_name, self._last_folder, say)

    def open(self) -> None:
        """Ask for a file and open it."""
        kinds = " ".join(f"*{s}" for s in (*SUFFIXES, PDF_SUFFIX, SUFFIX))
        chosen, _ = QFileDialog.getOpenFileName(
            self._window, "Open a picture or a project", self._last_folder(), f"Drawings ({kinds})"
        )
        if chosen:
            self.open_path(Path(chosen))

    def open_path(self, path: Path) -> None:
        """Open a picture or a project, asking first about unsaved changes."""
        if path.suffix.lower() == SVG_SUFFIX:
            self.place_path(path)
            return
        if not self.may_leave():
            return
        self._say("", warning=False)
        if path.suffix.lower() == PDF_SUFFIX:
            self._document.ask(partial(_read_pdf, path), partial(self._choose_page, path))
            return
        self.pending = path
        self._document.open_path(path)

    def _choose_page(self, path: Path, read: tuple[bytes, tuple[PageSize, ...]]) -> None:
        data, sizes = read
        dialog = PdfDialog(data, path.name, sizes, self._window)
        if dialog.exec() == QDialog.DialogCode.Accepted:
            page, dpi = dialog.page, dialog.dpi
            self._document.ask(lambda: _draw_page(data, path.name, page, dpi), self._bring_in)

    def _bring_in(self, brought: tuple[Picture, bytes]) -> None:
        self._document.open_picture(*brought)

    def scan(self) -> None:
        """Bring in a sheet from the scanner."""
        scanner = self._devices.scanner
        if scanner is not None and self.may_leave():
            dialog = ScanDialog(scanner, self._window)
            if dialog.exec() == QDialog.DialogCode.Accepted and dialog.scanned is not None:
                self._bring_in(dialog.scanned)

    def shoot(self) -> None:
        """Bring in a sheet through the camera."""
        camera = self._devices.camera
        if camera is not None and self.may_leave():
            dialog = PhotoDialog(camera, self._window)
            if dialog.exec() == QDialog.DialogCode.Accepted and dialog.taken is not None:
                self._bring_in(dialog.taken)

    def place(self) -> None:
        """Ask for an SVG file and put its shapes into the artwork."""
        chosen, _ = QFileDialog.getOpenFileName(self._window, "Place SVG", self._last_folder(), f"SVG (*{SVG_SUFFIX})")
        if chosen:
            self.place_path(Path(chosen))

    def place_path(self, path: Path) -> None:
        """Put the shapes of an SVG file into the artwork, in a layer of their own."""
        artwork = self._document.artwork
        if artwork is None:
            self._say("Open a picture first; then SVG files can be placed into its artwork.", warning=True)
            return
        dpi = artwork.dpi

        def take(placed: Placed) -> None:
            self._document.edit("Place SVG", put_in_layer, placed.items, path.stem, placed.told())

        self._document.requests.ask_at_length("Place SVG", partial(read_svg, path, dpi), take)

    def paste(self) -> None:
        """Bring in the picture or the file on the clipboard."""
        self.take(QGuiApplication.clipboard().mimeData(), "the clipboard")

    def take(self, data: QMimeData | None, where: str) -> None:
        """Open the file or the picture that was pasted or dropped; `where` names the place for a message."""
        if data is not None and data.hasUrls() and data.urls()[0].isLocalFile():
            self.open_path(Path(data.urls()[0].toLocalFile()))
        elif data is not None and data.hasImage():
            image = QImage(data.imageData())
            if image.isNull() or not self.may_leave():
                return
            packed = QByteArray()
            buffer = QBuffer(packed)
            buffer.open(QIODevice.OpenModeFlag.WriteOnly)
            QImageWriter(buffer, QByteArray(b"PNG")).write(image)
            content = bytes(packed.data())
            try:
                self._document.open_picture(decode_picture(content, "Pasted picture"), content)
            except SoberCrowError as fault:
                self._say(str(fault), warning=True)
        else:
            self._say(f"There is no picture on {where}; copy one and try again.", warning=True)

    def save(self) -> bool:
        """Save the project under its name, asking for one if it has none."""
        if self._document.path is None:
            return self.save_as()
        return self._save_to(self._document.path)

    def save_as(self) -> bool:
        """Ask for a name and save the project."""
        chosen = self._ask_name("Save project", SUFFIX)
        return self._save_to(chosen) if chosen is not None else False

    def _save_to(self, path: Path) -> bool:
        try:
            self._document.save_project(path)
        except SoberCrowError as fault:
            self._say(str(fault), warning=True)
            return False
        self.remember(path)
        self.forget_recovery()
        self._say(f"Saved “{path.name}”.", warning=False)
        return True

    def load_inks(self) -> None:
        """Ask for a list of colours and take its inks."""
        chosen, _ = QFileDialog.getOpenFileName(
            self._window, "Load inks", self._last_folder(), "Inks (*.json *.txt *.hex);;All files (*)"
        )
        if chosen:
            self.load_inks_from(Path(chosen))

    def load_inks_from(self, path: Path) -> None:
        """Take the inks of a file; what cannot be read is told, and the present inks stay."""
        try:
            palette = read_palette(path)
        except SoberCrowError as fault:
            self._say(str(fault), warning=True)
            return
        settings = self._document.state.settings
        inks = replace(settings.inks, kind=InkKind.SEVERAL, palette=palette, count=None, paper=AUTO)
        self._document.change_settings("Load inks", replace(settings, inks=inks))

    def save_inks(self) -> None:
        """Ask for a name and write the inks."""
        presentation = self._document.presentation
        chosen = self._ask_name("Save inks", ".json")
        if presentation is None or chosen is None:
            return
        try:
            write_palette(presentation.results.separation.inks, chosen)
            self._say(f"Saved “{chosen.name}”.", warning=False)
        except SoberCrowError as fault:
            self._say(str(fault), warning=True)

    def save_report(self, report: str) -> None:
        """Ask for a name and write the report of a fault."""
        chosen = self._ask_name("Save report", ".txt")
        if chosen is None:
            return
        try:
            write_whole(chosen, report.encode(), ExportError)
            self._say(f"Saved “{chosen.name}”.", warning=False)
        except SoberCrowError as fault:
            self._say(str(fault), warning=True)

    def _ask_name(self, title: str, suffix: str) -> Path | None:
        """Ask for a file to write; the dialog asks before an older one is replaced."""
        proposal = str(Path(self._last_folder()) / f"{self.writing.name}{suffix}")
        dialog = QFileDialog(self._window, title, proposal, f"*{suffix}")
        dialog.setAcceptMode(QFileDialog.AcceptMode.AcceptSave)
        dialog.setDefaultSuffix(suffix[1:])
        dialog.selectFile(proposal)
        if dialog.exec() != QDialog.DialogCode.Accepted:
            return None
        path = Path(dialog.selectedFiles()[0])
        self._preferences.setValue("folder", str(path.parent))
        return path

    def _last_folder(self) -> str:
        kept = str(self._preferences.value("folder", ""))
        return kept or QStandardPaths.writableLocation(QStandardPaths.StandardLocation.DocumentsLocation)

    def recent(self) -> list[Path]:
        """Return the files opened or saved last, the newest first."""
        return recent_files(self._preferences)

    def remember(self, path: Path) -> None:
        """Put a file at the head of the recent ones."""
        remember_file(self._preferences, path)

    def _recovery_folder(self) -> Path:
        folder = QStandardPaths.writableLocation(QStandardPaths.StandardLocation.AppDataLocation)
        return Path(folder) / "recovered"

    def autosave(self) -> None:
        """Keep a copy of unsaved work where the next start will find it."""
        state = self._document.state
        if self._document.is_changed and self._document.artwork is not None and state is not self._kept_safe:
            self.end_autosave()
            try:
                path = self.recovery.path()
            except OSError as fault:
                self._document.failed.emit(f"Unsaved work could not be kept safe: {fault.strerror}.")
                return
            self._autosaving = Thread(target=self._keep_safe, args=(self._document.copy_writer(path),))
            self._autosaving.start()
            self._kept_safe = state

    def _keep_safe(self, write: Callable[[], None]) -> None:
        try:
            write()
        except (OSError, SoberCrowError) as fault:
            self._kept_safe = None
            self._document.failed.emit(f"Unsaved work could not be kept safe: {fault}")

    def end_autosave(self) -> None:
        """Wait for a copy that is being written."""
        if self._autosaving is not None:
            self._autosaving.join()
            self._autosaving = None

    def offer_recovery(self) -> None:
        """Open work that an earlier run could not save, the newest, and say so."""
        left = self.recovery.left()
        if not left:
            return
        path, more = left[0], len(left) - 1
        told = f" There is more of it, {more} more to come at the next starts." if more else ""

        requests = self._document.requests

        def opened(found: Opened) -> None:
            requests.opened.disconnect(opened)
            if found.recovered:  # one that is damaged is kept
                self.recovery.take_over(path)

        requests.opened.connect(opened)
        self._document.open_path(path, recovered=True)
        self._say(f"The last run ended early; this is your unsaved work. Save it to keep it.{told}", warning=False)

    def tell_of_recovery(self) -> None:
        """Say that there is work an earlier run could not save, where something else is opened."""
        if self.recovery.left():
            sentence = "A run before ended early; its unsaved work is kept: start without a file to get it back."
            self._say(sentence, warning=False)

    def forget_recovery(self) -> None:
        """Remove the copy kept for a crash."""
        self.end_autosave()
        self._kept_safe = None
        self.recovery.forget()

    def may_leave(self) -> bool:
        """Ask about unsaved changes; tell whether the document may be left."""
        if not self._document.is_changed:
            return True
        choices = Buttons.Save | Buttons.Discard | Buttons.Cancel
        answer = ask(self._window, "Unsaved changes", "Save the changes to this drawing first?", choices, Buttons.Save)
        if answer == Buttons.Save:
            return self.save()
        return answer == Buttons.Discard
