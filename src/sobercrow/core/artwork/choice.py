"""What is chosen in an artwork, and what an edit gives back."""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

from sobercrow.core.artwork.model import Artwork


class AnchorRef(NamedTuple):
    """Where an anchor is: shape in the artwork, contour in the shape, place on the contour."""

    shape: int
    contour: int
    anchor: int


@dataclass(frozen=True, slots=True)
class Choice:
    """Chosen shapes and chosen anchors, by their places in the artwork; `first` is the shape chosen first, if known."""

    shapes: frozenset[int] = frozenset()
    anchors: frozenset[AnchorRef] = frozenset()
    first: int | None = None

    def __bool__(self) -> bool:
        """Tell whether anything is chosen."""
        return bool(self.shapes or self.anchors)


class Edited(NamedTuple):
    """An artwork after an edit, what is chosen in it then, and one sentence if something is to be told of it."""

    artwork: Artwork
    choice: Choice
    told: str = ""
