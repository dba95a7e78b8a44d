"""Writing what is handed over: worked out in the background, whole or not at all, asked before anything is replaced."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

from PySide6.QtCore import QByteArray, QMimeData
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QFileDialog, QWidget

from sobercrow.core.errors import SoberCrowError
from sobercrow.core.formats.files import is_read_only, told_of_links, write_all
from sobercrow.core.formats.raster import RasterSettings
from sobercrow.core.formats.sets import SUFFIX, HandOverSet, part_files, read_set, safe_name, set_files, write_set
from sobercrow.core.geometry.combine import Progress
from sobercrow.desktop.clipboard import put_on_clipboard
from sobercrow.desktop.dialogs import Buttons, ask
from sobercrow.desktop.document import Document

AskName = Callable[[str, str], Path | None]
Say = Callable[..., None]
COPIED_PX = 2000.0


class Writing:
    """Saves files, sets and plates of a document, and copies its artwork."""

    def __init__(
        self, document: Document, window: QWidget, ask_name: AskName, last_folder: Callable[[], str], say: Say
    ):
        """Work for a window; `ask_name` asks for a file to write."""
        self._document, self._window, self._say = document, window, say
        self._ask_name, self._last_folder = ask_name, last_folder

    @property
    def name(self) -> str:
        """What files of the document are called."""
        document = self._document
        if document.path is not None:
            return document.path.stem
        return Path(document.source.name).stem if document.source is not None else "artwork"

    def save(self) -> None:
        """Ask for a name and write the artwork in the format chosen."""
        if not self._is_ready():
            return
        kind = self._document.state.hand_over.part().kind
        chosen = self._ask_name(f"Save {kind.title}", kind.suffix)
        if chosen is not None:
            self.save_to(chosen)

    def save_to(self, path: Path) -> None:
        """Write the artwork in the format chosen; plates in a format without pages as files of their names."""
        document, artwork = self._document, self._document.artwork
        if artwork is None or not self._is_ready():
            return
        part = document.state.hand_over.inked(document.state.hand_over.part())

        def work(progress: Progress) -> dict[Path, bytes]:
            made = part_files(artwork, part, progress)
            return {_beside(path, plate.name if plate is not None else ""): data for plate, data in made}

        several = part.plates is not None
        document.requests.ask_at_length(
            f"Save {part.kind.title}", work, lambda files: self._write(files, ask_first=several)
        )

    def save_set(self, chosen: HandOverSet) -> None:
        """Ask for a folder and write a set into it."""
        if self._is_ready():
            folder = QFileDialog.getExistingDirectory(self._window, f"{chosen.name}: folder", self._last_folder())
            if folder:
                self.save_set_to(chosen, Path(folder))

    def save_set_to(self, chosen: HandOverSet, folder: Path) -> None:
        """Write a set into a folder, asking once before anything there is replaced."""
        artwork, name = self._document.artwork, self.name
        chosen = self._document.state.hand_over.inked_set(chosen)
        if artwork is None or not self._is_ready():
            return

        def work(progress: Progress) -> dict[Path, bytes]:
            return {folder / file: data for file, data in set_files(artwork, chosen, name, progress).items()}

        self._document.requests.ask_at_length(chosen.name, work, lambda files: self._write(files, ask_first=True))

    def _write(self, files: dict[Path, bytes], ask_first: bool) -> None:
        """Write files, all or none."""
        there = [path.name for path in files if path.exists()]
        if ask_first and there:
            which = f"“{there[0]}” is" if len(there) == 1 else f"{len(there)} of the files are"
            if not self._agreed(f"{which} there already. Replace what is there?"):
                return
        kept = [path.name for path in files if is_read_only(path)]
        if kept:
            which = "it" if len(kept) == 1 else "such files"
            if not self._agreed(f"“{kept[0]}” may only be read. Replace {which} all the same?"):
                return
        links = next(filter(None, map(told_of_links, files)), "")

        def work(progress: Progress) -> None:
            write_all(files, lambda: progress(0.95), replace_read_only=bool(kept))

        def done(_: object) -> None:
            first = next(iter(files))
            told = f"“{first.name}”" if len(files) == 1 else f"{len(files)} files in “{first.parent.name}”"
            self._say(f"Saved {told}.{links}", warning=False)

        self._document.requests.ask_at_length("Save", work, done)

    def _agreed(self, question: str) -> bool:
        buttons = Buttons.Yes | Buttons.Cancel
        return ask(self._window, "Replace files", question, buttons, Buttons.Cancel) == Buttons.Yes

    def copy(self) -> None:
        """Put the artwork on the clipboard as SVG, PDF and PNG at once, as it lies on its page."""
        artwork, one = self._document.artwork, self._document.state.hand_over
        if artwork is None or not self._is_ready():
            return
        pixels = one.with_settings("png", RasterSettings(pixels=COPIED_PX))
        parts = {kind: pixels.part(format_id=kind) for kind in ("svg", "pdf", "png")}

        def work(progress: Progress) -> dict[str, bytes]:
            return {
                kind: part_files(artwork, replace(part, plates=None), progress)[0][1] for kind, part in parts.items()
            }

        def done(made: dict[str, bytes]) -> None:
            data = QMimeData()
            data.setData("image/svg+xml", QByteArray(made["svg"]))
            data.setData("application/pdf", QByteArray(made["pdf"]))
            data.setData("image/png", QByteArray(made["png"]))
            data.setImageData(QImage.fromData(made["png"]))
            put_on_clipboard(data)
            self._say("Copied as SVG, PDF and PNG.", warning=False)

        self._document.requests.ask_at_length("Copy", work, done)

    def open_set(self) -> HandOverSet | None:
        """Ask for the file of a set and read it; what cannot be read is told."""
        chosen, _ = QFileDialog.getOpenFileName(self._window, "Open set", self._last_folder(), f"Sets (*{SUFFIX})")
        return self.read_set(Path(chosen)) if chosen else None

    def read_set(self, path: Path) -> HandOverSet | None:
        """Read a set from its file; what cannot be read is told."""
        try:
            return read_set(path)
        except SoberCrowError as fault:
            self._say(str(fault), warning=True)
            return None

    def share_set(self, one: HandOverSet) -> None:
        """Ask for a name and write a set to a file that others can use."""
        chosen = self._ask_name("Share set", SUFFIX)
        if chosen is not None:
            try:
                write_set(one, chosen)
                self._say(f"Saved “{chosen.name}”.", warning=False)
            except SoberCrowError as fault:
                self._say(str(fault), warning=True)

    def _is_ready(self) -> bool:
        if not self._document.is_complete:
            self._say("The trace is still being worked out; try again in a moment.", warning=True)
            return False
        return True


def _beside(path: Path, plate: str) -> Path:
    return path.with_name(f"{path.stem}-{safe_name(plate)}{path.suffix}") if plate else path
