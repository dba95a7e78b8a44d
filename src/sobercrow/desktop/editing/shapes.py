"""The edits of shapes as data."""

from __future__ import annotations

from sobercrow.core.artwork import cutting, placing
from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.geometry.affine import Affine
from sobercrow.desktop.editing.edit import Dials, Edit, Work


def _mirrored(angle_deg: float) -> Work:
    def work(artwork: Artwork, choice: Choice, _dials: Dials) -> Artwork:
        box = placing.box_of(artwork, choice)
        about = placing.Nine.MIDDLE.of(box) if box is not None else (0.0, 0.0)
        return placing.place(artwork, choice, Affine.mirrored(angle_deg, about))

    return work


SHAPE_EDITS: tuple[Edit, ...] = (
    Edit(
        "mirror-across",
        "Mirror across",
        "What is chosen is turned over, left and right exchanged.",
        _mirrored(90.0),
        keys=("Shift+H",),
        name="Mirror across",
        menu="Shape",
    ),
    Edit(
        "mirror-down",
        "Mirror down",
        "What is chosen is turned over, top and bottom exchanged.",
        _mirrored(0.0),
        name="Mirror down",
        menu="Shape",
    ),
    Edit(
        "put-in",
        "Put in",
        "The upper of two chosen shapes becomes a hole of the lower one.",
        lambda artwork, choice, _dials: cutting.put_in(artwork, choice),
        least_shapes=2,
        starts_group=True,
        name="Put in as a hole",
        menu="Shape",
    ),
)
"""In the order of the menu."""
