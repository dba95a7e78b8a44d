"""Fewer anchors: the tolerance is drawn along, and the canvas shows what it would cost."""

from __future__ import annotations

from collections.abc import Callable, Collection

from sobercrow.core.artwork.choice import Edited
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.artwork.stretches import stretch_of
from sobercrow.core.artwork.thinning import thin_out
from sobercrow.desktop.controls import group_column, hair_line, label, row_of
from sobercrow.desktop.document import Document
from sobercrow.desktop.editing.lines import WIDE_EDITS
from sobercrow.desktop.editing.runner import DialsHeld, Runner
from sobercrow.desktop.editing.trying import Trying

MOST_AT_ONCE = 2500
"""Of artwork with more anchors only what is in view is thinned while the slide moves."""


class ThinPart:
    """The slide of the tolerance, the figures, and the edits that make anchors fewer."""

    def __init__(
        self,
        document: Document,
        dials: DialsHeld,
        runner: Runner,
        trying: Trying,
        seen: Callable[[], Collection[int] | None],
    ) -> None:
        """Work on a document; `seen` tells which shapes are in view."""
        self._document, self._dials, self._trying, self._seen = document, dials, trying, seen
        self.tolerance = dials.field("tolerance_px", self._show)
        self.apart = dials.field("apart_px")
        self.apart.slide.hide()
        self.told = label(muted=True)
        self.buttons = {edit.id: runner.button(edit) for edit in WIDE_EDITS}
        trying.told.connect(self.told.setText)
        self.group = group_column(
            hair_line(),
            label("Fewer anchors", strong=True),
            self.tolerance,
            self.told,
            row_of(self.buttons["thin-out"], self.buttons["tops-bottoms"]),
            self.apart,
            self.buttons["join-crowded"],
        )

    def _show(self) -> None:
        """Show what thinning by the present tolerance would do to what is in view."""
        choice, tolerance, artwork = self._document.choice, self._dials.values.tolerance_px, self._document.artwork
        in_part = not choice and artwork is not None and artwork.anchor_count > MOST_AT_ONCE
        seen = self._seen() if in_part else None

        def work(artwork: Artwork) -> Edited:
            return thin_out(artwork, choice, tolerance, seen=seen)

        self._trying.try_edit(work, with_ribbon=True, of=" in view" if in_part else "")

    def refresh(self) -> None:
        """Show what would be thinned."""
        choice = self._document.choice
        if (
            len(choice.anchors) > 2
            and self._document.artwork is not None
            and stretch_of(self._document.artwork, choice.anchors)
        ):
            what = "the stretch; its ends stay"
        elif choice.anchors:
            what = "the shapes of the chosen anchors, which stay"
        else:
            what = "the chosen shapes" if choice.shapes else "everything"
        self.told.setText(f"Acts on {what}.")
