"""What the command line does to traced artwork at the end, in one order: joined, trimmed, mirrored, solid, backed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from sobercrow.core.arrays import F64
from sobercrow.core.artwork import combining, joining
from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.combining import Backing
from sobercrow.core.artwork.hit import artwork_box
from sobercrow.core.artwork.mirroring import Axis, Side, half_from_half
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.errors import EditError


class Half(StrEnum):
    """Which half is kept, and mirrored for the other."""

    LEFT = "left"
    RIGHT = "right"
    TOP = "top"
    BOTTOM = "bottom"


@dataclass(frozen=True, slots=True)
class Finish:
    """What is done; nothing by itself."""

    join_colours: bool = False
    trim: bool = False
    mirror: Half | None = None
    solid: bool = False
    backing_mm: float | None = None


def finish(artwork: Artwork, how: Finish, borders: Sequence[F64] = ()) -> Artwork:
    """Return artwork finished so; `borders` are those of the drawing, for a backing where nothing was traced.

    Joining and trimming where there is nothing to join or trim leave it as it is.

    Raises
    ------
    EditError
        If a mirror, a silhouette or a backing cannot be made.
    """
    for wanted, work in ((how.join_colours, joining.join_by_colour), (how.trim, combining.trim)):
        if wanted:
            try:
                artwork = work(artwork).artwork
            except EditError:
                continue
    if how.mirror is not None:
        left, top, right, bottom = artwork_box(artwork)
        upright = how.mirror in (Half.LEFT, Half.RIGHT)
        axis = Axis(0.5 * (left + right), 0.5 * (top + bottom), 90.0 if upright else 0.0)
        # seen with a level axis turned upright, what is beneath it lies left
        keep = Side.LEFT if how.mirror in (Half.LEFT, Half.BOTTOM) else Side.RIGHT
        artwork = half_from_half(artwork, Choice(), axis, keep).artwork
    if how.solid:
        artwork = combining.solid(artwork).artwork
    if how.backing_mm is not None:
        artwork = combining.backing(artwork, replace(Backing(), grow_mm=how.backing_mm), borders).artwork
    return artwork
