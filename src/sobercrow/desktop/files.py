"""Opening, saving, pasting, dropping, and keeping unsaved work safe."""

from __future__ import annotations

import contextlib
from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path
from threading import Thread
from typing import Protocol

from PySide6.QtCore import QMimeData, QSettings, QStandardPaths
from PySide6.QtGui import QGuiApplication, QImage
from PySide6.QtWidgets import QDialog, QFileDialog, QWidget

from sobercrow.core.artwork.bringing import put_in_layer
from sobercrow.core.errors import ExportError, SoberCrowError
from sobercrow.core.formats.files import (
    Stamp,
    complete_left_over,
    is_read_only,
    reason_of,
    stamp_of,
    told_of_links,
    write_whole,
)
from sobercrow.core.formats.palette import read_palette, write_palette
from sobercrow.core.formats.project import SUFFIX
from sobercrow.core.formats.svg_in import Placed, read_svg
from sobercrow.core.picture.decode import SUFFIXES, decode_picture, read_bytes
from sobercrow.core.picture.pages import SUFFIXES as PAGED
from sobercrow.core.picture.pages import Pages, pages_of
from sobercrow.core.picture.pdf import SUFFIX as PDF_SUFFIX
from sobercrow.core.picture.pdf import as_file
from sobercrow.core.picture.picture import Picture
from sobercrow.core.picture.svg_picture import SUFFIX as SVG_SUFFIX
from sobercrow.core.picture.svg_picture import embedded_picture, has_picture_alone
from sobercrow.core.settings import AUTO, InkKind
from sobercrow.desktop.devices import Devices
from sobercrow.desktop.devices.page_dialog import PageDialog
from sobercrow.desktop.devices.photo_dialog import PhotoDialog
from sobercrow.desktop.devices.scan_dialog import ScanDialog
from sobercrow.desktop.dialogs import Buttons, ask
from sobercrow.desktop.document import Document
from sobercrow.desktop.gauge import Offer
from sobercrow.desktop.preferences import recent_files, remember_file
from sobercrow.desktop.presentation import png_of
from sobercrow.desktop.recovery import Left, Recovery
from sobercrow.desktop.recovery_dialog import RecoveryDialog
from sobercrow.desktop.state import Opened, State
from sobercrow.desktop.writing import Writing


def _read_pages(path: Path) -> Pages:
    return pages_of(read_bytes(path), path.name)


def _read_embedded(path: Path) -> tuple[Picture, bytes]:
    return embedded_picture(read_bytes(path), path.name)


def _page_of(pages: Pages, page: int, dpi: float) -> tuple[Picture, bytes]:
    picture = pages.picture(page, dpi)
    return picture, as_file(picture)


class Say(Protocol):
    """Shows one sentence to the user."""

    def __call__(self, text: str, *, warning: bool, offer: Offer | None = None) -> None:
        """Show `text`, as a warning or not, with what can be done about it."""


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
        self.takers: dict[str, Callable[[Path], object]] = {SVG_SUFFIX: self._take_svg}
        """What is done with files of certain suffixes that are neither picture nor project."""
        self.take_several: Callable[[list[Path]], object] = lambda _paths: None
        """What is done with several pictures at once."""
        self.writing = Writing(document, window, self._ask_name, self._last_folder, say)

    def open(self) -> None:
        """Ask for a file and open it."""
        kinds = " ".join(f"*{s}" for s in (*SUFFIXES, PDF_SUFFIX, SVG_SUFFIX, SUFFIX))
        chosen, _ = QFileDialog.getOpenFileName(
            self._window, "Open a picture or a project", self._last_folder(), f"Drawings ({kinds})"
        )
        if chosen:
            self.open_path(Path(chosen))

    def open_several(self) -> None:
        """Ask for pictures and lay them on the table of several."""
        kinds = " ".join(f"*{suffix}" for suffix in SUFFIXES)
        chosen, _ = QFileDialog.getOpenFileNames(
            self._window, "Several pictures", self._last_folder(), f"Pictures ({kinds})"
        )
        if chosen:
            self.take_several(list(map(Path, chosen)))

    def open_path(self, path: Path) -> None:
        """Open a picture or a project, asking first about unsaved changes; of other files do what is theirs."""
        take = self.takers.get(path.suffix.lower())
        if take is not None:
            take(path)
            return
        if not self.may_leave():
            return
        self._say("", warning=False)
        if path.suffix.lower() in PAGED:
            self._document.ask(partial(_read_pages, path), partial(self._choose_page, path))
            return
        self._open_whole(path)

    def _open_whole(self, path: Path) -> None:
        self.pending = path
        self._document.open_path(path)

    def _choose_page(self, path: Path, pages: Pages) -> None:
        if not pages.drawn and len(pages.sizes) < 2:
            self._open_whole(path)
            return
        dialog = PageDialog(pages, self._window)
        if dialog.exec() == QDialog.DialogCode.Accepted:
            page, dpi = dialog.page, dialog.dpi
            self._document.ask(lambda: _page_of(pages, page, dpi), self._bring_in)

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

    def _take_svg(self, path: Path) -> None:
        """Bring in the picture an SVG holds if it is all there is, or there is no artwork to place it into; else place
        its shapes."""
        if self._document.artwork is None:
            self._document.ask(partial(_read_embedded, path), self._bring_in)
        else:
            self._document.ask(lambda: has_picture_alone(read_bytes(path)), partial(self._take_svg_of, path))

    def _take_svg_of(self, path: Path, picture_alone: bool) -> None:
        if not picture_alone:
            self.place_path(path)
        elif self.may_leave():
            self._document.ask(partial(_read_embedded, path), self._bring_in)

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
        paths = [Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()] if data is not None else []
        pictures = [path for path in paths if path.suffix.lower() in SUFFIXES]
        if len(pictures) > 1:
            self.take_several(pictures)
        elif data is not None and data.hasUrls() and data.urls()[0].isLocalFile():
            self.open_path(Path(data.urls()[0].toLocalFile()))
        elif data is not None and data.hasImage():
            image = QImage(data.imageData())
            if image.isNull() or not self.may_leave():
                return
            content = png_of(image)
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
        read_only, links = is_read_only(path), told_of_links(path)
        if not self._may_replace(path, read_only):
            return False
        try:
            self._document.save_project(path, replace_read_only=read_only)
        except SoberCrowError as fault:
            self._say(str(fault), warning=True)
            return False
        self.remember(path)
        self.forget_recovery()
        self._say(f"Saved “{path.name}”.{links}", warning=False)
        return True

    def _may_replace(self, path: Path, read_only: bool) -> bool:
        """Ask before a file is replaced that was changed meanwhile, or that may only be read."""
        there = stamp_of(path)
        question = ""
        if path == self._document.path and there is not None and there != self._document.stamp:
            question = f"“{path.name}” was changed by another program since it was opened. Replace what is there now?"
        elif read_only:
            question = f"“{path.name}” may only be read. Replace it all the same?"
        if not question:
            return True
        buttons = Buttons.Yes | Buttons.Cancel
        return ask(self._window, "Replace file", question, buttons, Buttons.Cancel) == Buttons.Yes

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
            except (OSError, SoberCrowError) as fault:
                self._not_kept_safe(fault)
                return
            self._autosaving = Thread(target=self._keep_safe, args=(self._copy_writer(path),))
            self._autosaving.start()
            self._kept_safe = state

    def _copy_writer(self, path: Path) -> Callable[[], None]:
        """What writes the copy of the work as it is now with its card, from any thread."""
        document, write = self._document, self._document.copy_writer(path)
        name, project, picture = self.writing.name, document.path, document.small_picture()

        def whole() -> None:
            write()
            self.recovery.label(name, project, picture)

        return whole

    def _keep_safe(self, write: Callable[[], None]) -> None:
        try:
            write()
        except (OSError, SoberCrowError) as fault:
            self._kept_safe = None
            self._not_kept_safe(fault)

    def _not_kept_safe(self, fault: Exception) -> None:
        cause = fault if isinstance(fault, OSError) else fault.__cause__
        reason = f"{reason_of(cause)}." if isinstance(cause, OSError) else str(fault)
        self._document.failed.emit(f"Unsaved work could not be kept safe: {reason}")

    def end_autosave(self) -> None:
        """Wait for a copy that is being written."""
        if self._autosaving is not None:
            self._autosaving.join()
            self._autosaving = None

    def complete_left_over(self) -> None:
        """Complete files a run that ended early was writing where files were saved last, and say so."""
        folder, document = Path(self._last_folder()), self._document

        def work() -> None:
            with contextlib.suppress(OSError):  # it may be lost, as network folders are
                told = complete_left_over(folder)
                if told:
                    document.said.emit(told)

        Thread(target=work, name="left over", daemon=True).start()

    def offer_recovery(self) -> None:
        """Show what runs that ended early left unsaved, if there is any."""
        if self.recovery.left():
            self.show_recovery()

    def show_recovery(self) -> None:
        """Show what runs that ended early left unsaved."""
        left = self.recovery.left()
        if not left:
            self._say("There is no unsaved work of runs that ended early.", warning=False)
            return
        RecoveryDialog(left, self.bring_back, self.recovery.give_up, self._window).open()

    def bring_back(self, left: Left) -> None:
        """Open what a run that ended early left unsaved; a damaged copy is kept, and named."""
        if not self.may_leave():
            return
        document, requests = self._document, self._document.requests

        def opened(found: Opened) -> None:
            ended()
            self.recovery.take_over(left)
            document.path, document.stamp = left.project, _stamp_before(left)
            name = "Save it to keep it." if left.project is None else f"Saving it replaces “{left.project.name}”."
            self._say(f"This is the unsaved work of “{left.name}”. {name}", warning=False)
            document.history_changed.emit()

        def failed(_sentence: str) -> None:
            ended()
            self._say(
                f"“{left.name}” cannot be brought back: its copy is damaged. It is kept: {left.copy}", warning=True
            )

        def ended() -> None:
            requests.opened.disconnect(opened)
            requests.failed.disconnect(failed)

        document.open_path(left.copy, recovered=True)
        requests.opened.connect(opened)
        requests.failed.connect(failed)

    def tell_of_recovery(self) -> None:
        """Say that there is work an earlier run could not save, where something else is opened."""
        if self.recovery.left():
            offer = Offer("Unsaved work", "Unsaved work\nShows what is kept of it.", self.show_recovery)
            self._say("A run before ended early; its unsaved work is kept.", warning=False, offer=offer)

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


def _stamp_before(left: Left) -> Stamp | None:
    """The stamp of the project unsaved work is of, unless that was changed after the work was kept."""
    stamp = None if left.project is None else stamp_of(left.project)
    return stamp if stamp is not None and stamp.changed_ns <= 1e9 * left.kept_s else None
