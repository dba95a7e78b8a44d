"""Looks, once a digital graphic is traced, whether its small lettering was set in a typeface that is at hand."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QObject, Signal

from sobercrow.core.artwork.model import Artwork
from sobercrow.core.lettering.index import Index, read_index
from sobercrow.core.lettering.same import SameLettering, same_lettering, small_lettering
from sobercrow.core.settings import PictureKind
from sobercrow.core.stopping import go_on
from sobercrow.desktop.document import Document
from sobercrow.desktop.typeface_folders import Typefaces
from sobercrow.desktop.worker import Give, Report, Worker


class LetteringOffer(QObject):
    """What the picture check offers of small lettering; nothing while there is nothing to offer."""

    changed = Signal()
    looks = True
    """Whether it looks at all."""

    def __init__(self, document: Document, typefaces: Typefaces) -> None:
        """Look at a document's artwork once it is shown, with typefaces that are shared with others."""
        super().__init__()
        self._document = document
        self._typefaces, self._edition = typefaces, typefaces.edition
        self._looked_at: Artwork | None = None
        self._found: SameLettering | None = None
        self._asked = -1
        self._worker = Worker()
        self._worker.produced.connect(self._take)
        document.presented.connect(self._look)

    @property
    def found(self) -> SameLettering | None:
        """The lettering found, while the artwork is the one it was found in."""
        return self._found if self._document.artwork is self._looked_at else None

    def set_anew(self) -> None:
        """Set the lettering found anew, as one change."""
        found = self.found
        if found is not None:
            name = f"Set in {found.match.face.name}"
            self._document.edit(name, found.set_in)

    def close(self) -> None:
        """End the work."""
        self._asked = -1
        self._worker.close()

    def _look(self) -> None:
        presentation, artwork = self._document.presentation, self._document.artwork
        if not self.looks or presentation is None or artwork is None or artwork is self._looked_at:
            return
        results = presentation.results
        kind = results.settings.clean_up.kind or results.nature.kind
        if results.is_draft or kind is not PictureKind.DIGITAL or artwork is not results.artwork:
            return
        self._looked_at, self._found = artwork, None
        self._edition = self._typefaces.edition
        self._asked = self._worker.submit(partial(self._search, artwork, self._typefaces.index))

    def _search(self, artwork: Artwork, index: Index | None, give: Give, _report: Report) -> None:
        letters = small_lettering(artwork)
        if letters is not None:
            known = index or read_index(self._typefaces.files(), progress=_go_on)
            give(known)
            give(same_lettering(artwork, letters, known, _go_on))

    def _take(self, number: int, found: object) -> None:
        if number != self._asked:
            return
        if isinstance(found, Index):
            if self._edition == self._typefaces.edition:
                self._typefaces.index = found
        else:
            assert found is None or isinstance(found, SameLettering)
            self._found = found
            self.changed.emit()


def _go_on(_share: float) -> None:
    go_on()
