"""Shapes to the clipboard and from it: as they are, and as SVG for other programs."""

from __future__ import annotations

import atexit
import json
from collections.abc import Callable

from PySide6.QtCore import QByteArray, QMimeData
from PySide6.QtGui import QGuiApplication

from sobercrow.core.artwork import bringing, edits
from sobercrow.core.artwork.choice import Edited
from sobercrow.core.artwork.model import Artwork, Item
from sobercrow.core.errors import EditError, SoberCrowError
from sobercrow.core.formats.plain import artwork_of, plain_artwork
from sobercrow.core.formats.svg import svg_bytes
from sobercrow.core.formats.svg_in import parse_svg
from sobercrow.core.outside import json_of, reading
from sobercrow.desktop.document import Document

KEPT_BY_QT = ("offscreen", "minimal")
"""Platforms without a clipboard of their own."""
OWN, SVG = "application/x-sobercrow-shapes", "image/svg+xml"


def put_on_clipboard(data: QMimeData) -> None:
    """Put data on the clipboard.

    Without a display it is Qt itself that keeps it, and gives it up when Python is no more, which ends in a
    segmentation fault: there it is let go of before.
    """
    QGuiApplication.clipboard().setMimeData(data)


@atexit.register
def _let_go() -> None:
    if QGuiApplication.instance() is not None and QGuiApplication.platformName() in KEPT_BY_QT:
        QGuiApplication.clipboard().clear()


class Clipboard:
    """Copies, cuts and pastes the shapes of a document."""

    def __init__(self, document: Document, say: Callable[[str], None]) -> None:
        """Work on a document; `say` tells what cannot be done."""
        self._document, self._say = document, say

    def copy(self) -> bool:
        """Put the chosen shapes on the clipboard; tell whether there were any."""
        artwork = self._document.artwork
        if artwork is None:
            return False
        try:
            made = bringing.copied(artwork, self._document.choice)
        except EditError as fault:
            self._say(str(fault))
            return False
        data = QMimeData()
        svg = svg_bytes(made)
        data.setData(OWN, QByteArray(json.dumps(plain_artwork(made)).encode()))
        data.setData(SVG, QByteArray(svg))
        data.setText(svg.decode())
        put_on_clipboard(data)
        return True

    def cut(self) -> None:
        """Copy the chosen shapes, and take them away."""
        if self.copy():
            self._document.edit("Cut shapes", edits.delete_shapes, self._document.choice.shapes)

    @staticmethod
    def has_shapes() -> bool:
        """Tell whether there are shapes, or SVG, on the clipboard."""
        data = QGuiApplication.clipboard().mimeData()
        return data is not None and (data.hasFormat(OWN) or data.hasFormat(SVG) or "<svg" in data.text()[:2000])

    def paste(self) -> None:
        """Put what is on the clipboard on top, and choose it."""
        artwork = self._document.artwork
        if artwork is None:
            return
        try:
            items, told = self._items(artwork)
        except SoberCrowError as fault:
            self._say(str(fault))
            return

        def work(before: Artwork) -> Edited:
            return bringing.pasted(before, items)._replace(told=told)

        self._document.edit("Paste shapes", work)

    def _items(self, artwork: Artwork) -> tuple[tuple[Item, ...], str]:
        """The shapes there, as large as they were, and what was left out."""
        data = QGuiApplication.clipboard().mimeData()
        if data.hasFormat(OWN):
            with reading(EditError, "What is on the clipboard cannot be read; copy it again."):
                kept = artwork_of(json_of(bytes(data.data(OWN).data())))
            kept = kept.scaled(artwork.dpi / kept.dpi)
            return tuple(item for layer in kept.layers for item in layer.items), ""
        content = bytes(data.data(SVG).data()) if data.hasFormat(SVG) else data.text().encode()
        placed = parse_svg(content, "The clipboard", artwork.dpi)
        return placed.items, placed.told()
