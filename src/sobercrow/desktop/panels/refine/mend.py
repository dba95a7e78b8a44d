"""What could be mended, listed while nothing is chosen: with its count, a jump to each place, and its one action."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QHBoxLayout, QWidget

from sobercrow.core.artwork import cutting, edits
from sobercrow.core.artwork.choice import Choice, Edited
from sobercrow.core.artwork.mending import Mending, Place, find_mending
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.artwork.thinning import join_crowded
from sobercrow.desktop.controls import button, group_column, hair_line, label
from sobercrow.desktop.document import Document
from sobercrow.desktop.editing.runner import DialsHeld
from sobercrow.desktop.worker import Worker

STRAGGLER_PX2 = 4.0


class _Row(QWidget):
    """One kind of thing to be mended."""

    def __init__(self, name: str, look: Callable[[], object], action: tuple[str, str, Callable[[], object]] | None):
        """Make a row with its jump and its action."""
        super().__init__()
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        self.text = label()
        layout.addWidget(self.text, 1)
        self.look = button("Next", f"Next {name}\nGoes from one place to the next.")
        self.look.clicked.connect(look)
        layout.addWidget(self.look)
        self.do = None
        if action is not None:
            self.do = button(action[0], f"{action[0]}\n{action[1]}")
            self.do.clicked.connect(action[2])
            layout.addWidget(self.do)


class MendPart(QObject):
    """The list; `look` tells where to look, and how large."""

    look = Signal(float, float, float)

    def __init__(self, document: Document, dials: DialsHeld) -> None:
        """Look at a document's artwork."""
        super().__init__()
        self._document, self._dials = document, dials
        self._found: Mending | None = None
        self._looked_at: Artwork | None = None
        self._at: dict[str, int] = {}
        self._worker = Worker()
        self._worker.produced.connect(self._take)
        self.rows = {
            "stragglers": _Row(
                "straggler",
                lambda: self._next("stragglers"),
                ("Delete", "Takes all of them away.", lambda: self._mend("Delete stragglers", _without_stragglers)),
            ),
            "crowds": _Row(
                "crowd",
                lambda: self._next("crowds"),
                ("Join", "Leaves one anchor of each crowd.", lambda: self._mend("Join crowded", self._joined)),
            ),
            "crossings": _Row("crossing", lambda: self._next("crossings"), None),
            "open_ends": _Row(
                "open end",
                lambda: self._next("open_ends"),
                ("Close", "Closes all open contours by a line.", lambda: self._mend("Close contours", _closed)),
            ),
        }
        self.fine = label(
            "Nothing to mend: no stragglers, no crowded anchors, no crossings, no open contours.", muted=True
        )
        self.group = group_column(hair_line(), label("To mend", strong=True), self.fine, *self.rows.values())

    def close(self) -> None:
        """End the worker."""
        self._worker.close()

    def refresh(self) -> None:
        """Look for what could be mended, while nothing is chosen."""
        artwork = self._document.artwork
        nothing = not self._document.choice
        self.group.setVisible(nothing)
        if artwork is None or not nothing or artwork is self._looked_at or not self.group.isVisible():
            return
        self._looked_at = artwork
        apart = self._dials.values.apart_px
        self._worker.submit(lambda give, _report: give(find_mending(artwork, STRAGGLER_PX2, apart)))

    def _take(self, _number: int, found: object) -> None:
        assert isinstance(found, Mending)
        self._found = found
        texts = {
            "stragglers": (found.stragglers, "shape{s} under {0:g} px²", STRAGGLER_PX2),
            "crowds": (found.crowds, "place{s} with anchors nearer than {0:g} px", self._dials.values.apart_px),
            "crossings": (found.crossings, "contour{s} crossing {own}", 0.0),
            "open_ends": (found.open_ends, "open contour{s}", 0.0),
        }
        for name, (places, text, figure) in texts.items():
            count = len(places)
            self.rows[name].setVisible(count > 0)
            own = "itself" if count == 1 else "themselves"
            self.rows[name].text.setText(f"{count} " + text.format(figure, s="" if count == 1 else "s", own=own))
        self.fine.setVisible(not any(places for places, _, _ in texts.values()))

    def _places(self, name: str) -> tuple[Place, ...]:
        return getattr(self._found, name) if self._found is not None else ()

    def _next(self, name: str) -> None:
        places = self._places(name)
        if places:
            k = self._at[name] = (self._at.get(name, -1) + 1) % len(places)
            self.look.emit(places[k].x, places[k].y, 4.0)

    def _mend(self, title: str, work: Callable[[Artwork, Mending], Artwork | Edited]) -> None:
        if self._found is not None and self._looked_at is self._document.artwork:
            self._document.edit(title, work, self._found)

    def _joined(self, artwork: Artwork, _found: Mending) -> Edited:
        return Edited(join_crowded(artwork, Choice(), self._dials.values.apart_px).artwork, Choice())


def _without_stragglers(artwork: Artwork, found: Mending) -> Edited:
    return edits.delete_shapes(artwork, {s for place in found.stragglers for s in place.choice.shapes})


def _closed(artwork: Artwork, found: Mending) -> Edited:
    every = frozenset(ref for place in found.open_ends for ref in place.choice.anchors)
    return Edited(cutting.close(artwork, Choice(anchors=every)).artwork, Choice())
