"""The handles of one anchor: how long they are, and which way they point, typed."""

from __future__ import annotations

from functools import partial

import numpy as np

from sobercrow.core.artwork import anchors
from sobercrow.core.artwork.anchors import HANDLE_IN, HANDLE_OUT, Side
from sobercrow.core.artwork.choice import AnchorRef
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.settings import mm_to_px, px_to_mm
from sobercrow.desktop.controls import group_column, label, row_of
from sobercrow.desktop.document import Document
from sobercrow.desktop.small_fields import SmallField

SIDES: tuple[tuple[Side, str], ...] = ((HANDLE_IN, "in"), (HANDLE_OUT, "out"))
LONGEST_MM = 500.0


class HandlesPart:
    """Length and angle of the handle that leads in, and of the one that leads out."""

    def __init__(self, document: Document) -> None:
        """Work on the anchor chosen in a document."""
        self._document = document
        self.fields: dict[Side, tuple[SmallField, SmallField]] = {}
        rows = []
        for side, name in SIDES:
            length = SmallField(
                f"Leads {name}", f"Length of the handle that leads {name}; 0 for none.", 0, LONGEST_MM, "mm"
            )
            angle = SmallField("at", "Against the clock from level, to the right.", -360.0, 360.0, "°", 1)
            length.changed.connect(partial(self._take, side))
            angle.changed.connect(partial(self._take, side))
            self.fields[side] = (length, angle)
            rows.append(row_of(length, angle))
        self.group = group_column(label("Handles", strong=True), *rows)

    def _take(self, side: Side, _value: float) -> None:
        artwork, chosen = self._document.artwork, self._document.choice.anchors
        if artwork is None or len(chosen) != 1:
            return
        (ref,) = chosen
        length, angle = (field.box.value() for field in self.fields[side])
        anchor = anchors.anchor_contour(artwork, ref).anchors[ref.anchor]
        end = anchors.handle_end(anchor, mm_to_px(length, artwork.dpi), angle)
        self._document.edit("Set handle", anchors.move_handle, ref, side, *end)

    def show(self, artwork: Artwork, ref: AnchorRef) -> None:
        """Show the handles of an anchor."""
        points = anchors.anchor_contour(artwork, ref).points[ref.anchor]
        for side, (length, angle) in self.fields.items():
            size, turn = anchors.handle_figures(np.asarray(points[side] - points[anchors.ANCHOR]))
            length.show_value(px_to_mm(size, artwork.dpi))
            angle.show_value(turn)
