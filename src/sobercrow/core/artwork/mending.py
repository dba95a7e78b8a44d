"""What could be mended in artwork: stragglers, crowded anchors, contours that cross themselves, open ones."""

from __future__ import annotations

from dataclasses import dataclass

from sobercrow.core.artwork.choice import AnchorRef, Choice
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.artwork.thinning import crowded
from sobercrow.core.geometry.crossings import own_crossings


@dataclass(frozen=True, slots=True)
class Place:
    """One thing to be mended: where it is, and what is chosen to mend it."""

    x: float
    y: float
    choice: Choice


@dataclass(frozen=True, slots=True)
class Mending:
    """All there is to be mended, each kind by itself."""

    stragglers: tuple[Place, ...]
    crowds: tuple[Place, ...]
    crossings: tuple[Place, ...]
    open_ends: tuple[Place, ...]


def find_mending(artwork: Artwork, straggler_px2: float, apart_px: float) -> Mending:
    """Look for filled shapes smaller than an area, anchors nearer to the next than a distance, and the rest."""
    stragglers, crossings, open_ends = [], [], []
    places = iter(own_crossings([contour for shape in artwork.shapes for contour in shape.contours]))
    for s, shape in enumerate(artwork.shapes):
        left, top, right, bottom = shape.bounds()
        small = (right - left) * (bottom - top) < 4.0 * straggler_px2
        if shape.is_filled and small and abs(sum(c.area() for c in shape.contours)) < straggler_px2:
            stragglers.append(Place((left + right) / 2, (top + bottom) / 2, Choice(shapes=frozenset({s}))))
        for c, contour in enumerate(shape.contours):
            refs = frozenset(AnchorRef(s, c, k) for k in range(len(contour)))
            place = next(places)
            if place[0] >= 0.0:
                x, y = contour.anchors[int(place[0])].tolist()
                crossings.append(Place(x, y, Choice(anchors=refs)))
            if not contour.closed and shape.is_filled:
                x, y = contour.anchors[-1].tolist()
                ends = frozenset({AnchorRef(s, c, 0), AnchorRef(s, c, len(contour) - 1)})
                open_ends.append(Place(x, y, Choice(anchors=ends)))
    crowds = []
    for crowd in crowded(artwork, Choice(), apart_px):
        x, y = artwork.shapes[crowd[0].shape].contours[crowd[0].contour].anchors[crowd[0].anchor].tolist()
        crowds.append(Place(x, y, Choice(anchors=frozenset(crowd))))
    return Mending(tuple(stragglers), tuple(crowds), tuple(crossings), tuple(open_ends))
