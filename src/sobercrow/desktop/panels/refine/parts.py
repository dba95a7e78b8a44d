"""Parts kept for reuse: chosen shapes under a name, put into any project."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QMimeData, QSize, Qt
from PySide6.QtGui import QIcon, QPixmap
from PySide6.QtWidgets import QAbstractItemView, QLineEdit, QListWidget, QListWidgetItem

from sobercrow.core.artwork import bringing
from sobercrow.core.artwork.model import Artwork, Layer
from sobercrow.core.errors import SoberCrowError
from sobercrow.core.formats.parts import PartsFolder
from sobercrow.core.formats.recipes import user_folder
from sobercrow.desktop.controls import Fold, doing, row_of
from sobercrow.desktop.document import Document
from sobercrow.desktop.presentation import artwork_thumbnail

MIME = "application/x-sobercrow-part"
ICON_WIDTH, ICON_HEIGHT, ROWS_PX = 60, 40, 150
THUMB_DPI = 96.0


class PartsList(QListWidget):
    """Parts with their thumbnails, to be dragged onto the drawing."""

    def __init__(self) -> None:
        """Start empty."""
        super().__init__()
        self.setIconSize(QSize(ICON_WIDTH, ICON_HEIGHT))
        self.setDragDropMode(QAbstractItemView.DragDropMode.DragOnly)
        self.setFixedHeight(ROWS_PX)
        self.setAccessibleName("Parts")
        self.setToolTip("Parts\nDrag one onto the drawing, or double-click it.")

    def mimeData(self, items: Sequence[QListWidgetItem]) -> QMimeData:
        """Return the name of the part dragged."""
        data = QMimeData()
        data.setData(MIME, items[0].text().encode())
        return data


class PartsPart:
    """The list, and what keeps, puts in and takes away parts."""

    def __init__(self, document: Document) -> None:
        """Work on a document, with the parts in the user's data folder."""
        self._document = document
        self.folder = PartsFolder(user_folder().parent / "parts")
        self._named: set[str] = set()
        """Parts that have been told to be damaged: once is enough."""
        self.list = PartsList()
        self.list.itemDoubleClicked.connect(lambda item: self.put(item.text()))
        self.name = QLineEdit()
        self.name.setPlaceholderText("Name")
        self.name.setAccessibleName("Name of the part")
        self.keep = doing("Keep", "Keeps the chosen shapes under this name.", self._keep)
        self.put_in = doing("Put in", "Puts the part into the artwork.", self._put_chosen)
        self.remove = doing("Take away", "Deletes the part from the folder of parts.", self._remove)
        self.group = Fold("Parts", row_of(self.name, self.keep), self.list, row_of(self.put_in, self.remove))
        self.group.head.toggled.connect(lambda _on: self.fill())

    def fill(self) -> None:
        """List the parts there are now."""
        self.list.clear()
        for name in self.folder.names() if self.group.head.isChecked() else ():
            icon = self._icon(name)
            if icon is None:
                continue
            item = QListWidgetItem(icon, name)
            item.setTextAlignment(Qt.AlignmentFlag.AlignVCenter)
            self.list.addItem(item)

    def _icon(self, name: str) -> QIcon | None:
        """The picture of a part; none if it cannot be read, which is told once."""
        try:
            placed = self.folder.read(name, THUMB_DPI)
        except SoberCrowError:
            if name not in self._named:
                self._named.add(name)
                self._document.failed.emit(f"The part “{name}” cannot be read and is left out.")
            return None
        artwork = Artwork(
            (Layer(name, placed.items),), max(placed.width_px, 1.0), max(placed.height_px, 1.0), THUMB_DPI
        )
        return QIcon(QPixmap.fromImage(artwork_thumbnail(artwork, outline=False)))

    def _keep(self) -> None:
        artwork, name = self._document.artwork, self.name.text().strip()
        if artwork is None:
            return
        try:
            self.folder.keep(name, bringing.copied(artwork, self._document.choice))
        except SoberCrowError as fault:
            self._document.failed.emit(str(fault))
            return
        self._document.said.emit(f"“{name}” is kept among the parts.")
        self.fill()

    def _put_chosen(self) -> None:
        item = self.list.currentItem()
        if item is not None:
            self.put(item.text())
        else:
            self._document.failed.emit("Click the part to be put in first.")

    def put(self, name: str, at: tuple[float, float] | None = None) -> None:
        """Put a part into the artwork, its middle at a place."""
        artwork = self._document.artwork
        if artwork is None:
            return
        try:
            items = self.folder.read(name, artwork.dpi).items
        except SoberCrowError as fault:
            self._document.failed.emit(str(fault))
            return
        self._document.edit(f"Put in {name}", bringing.pasted, items, at)

    def _remove(self) -> None:
        item = self.list.currentItem()
        if item is None:
            self._document.failed.emit("Click the part to be taken away first.")
            return
        try:
            self.folder.remove(item.text())
        except SoberCrowError as fault:
            self._document.failed.emit(str(fault))
        self.fill()
