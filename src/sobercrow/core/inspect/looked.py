"""What the check before handing over looks at: laid artwork, its edges and areas, each worked out when first wanted."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import NDArray

from sobercrow.core.arrays import F64, I64
from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.hit import box_table
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.geometry.combine import region
from sobercrow.core.handover.inks import Coat, PaintedInk, inks_of
from sobercrow.core.handover.purpose import CheckSettings
from sobercrow.core.inspect.edges import Edge, EdgePoints, edges_of
from sobercrow.core.settings import mm_to_px

DOUBLED_MM = 0.05
"""Lines within this of each other lie in one place."""


@dataclass(frozen=True, slots=True, eq=False)
class Spot:
    """One place: where it is, in px of the page, what is chosen to mend it, a figure in mm, and lines to be drawn."""

    x: float
    y: float
    choice: Choice
    figure_mm: float | None = None
    line: F64 | None = None


class Looked:
    """Laid artwork, looked at once for all kinds of finding."""

    def __init__(self, artwork: Artwork, settings: CheckSettings) -> None:
        """Take laid artwork."""
        self.artwork, self.settings = artwork, settings
        self.inks: list[PaintedInk] = inks_of(artwork)
        self._areas: dict[int, shapely.Geometry] = {}

    def px(self, mm: float) -> float:
        """Return a length in px of the page."""
        return mm_to_px(mm, self.artwork.dpi)

    @cached_property
    def coats(self) -> list[Coat]:
        """All that is painted."""
        return [coat for ink in self.inks for coat in ink.coats]

    @cached_property
    def seen(self) -> list[int]:
        """The places of shapes that are seen, lowest first."""
        return [k for k in range(len(self.artwork.shapes)) if k not in self.artwork.out_of_sight]

    @cached_property
    def edges(self) -> list[Edge]:
        """All contours that are drawn."""
        return edges_of(self.artwork, self.inks)

    @cached_property
    def points(self) -> EdgePoints:
        """Points on them, as near to each other as the finest tool asks for."""
        return EdgePoints(self.edges, self.px(min(self.settings.tool_mm, 0.5) / 6.0))

    @cached_property
    def pairs(self) -> I64:
        """Points that lie near each other."""
        reach = max(self.px(self.settings.tool_mm), self.px(DOUBLED_MM))
        return self.points.pairs(1.25 * reach + self.points.spacing)

    @cached_property
    def facing(self) -> tuple[I64, F64, NDArray[np.bool_]]:
        """Points that face each other nearer than the finest tool is wide, how near, and whether across ink."""
        return self.points.facing(self.pairs, self.px(self.settings.tool_mm))

    @cached_property
    def filled(self) -> list[int]:
        """The places of filled shapes that are seen, lowest first."""
        return [k for k in self.seen if self.artwork.shapes[k].fill is not None]

    def area(self, place: int) -> shapely.Geometry:
        """Return the area of a filled shape."""
        if place not in self._areas:
            self._areas[place] = region(self.artwork.shapes[place].contours, 0.25)
        return self._areas[place]

    @cached_property
    def meeting(self) -> list[tuple[int, int]]:
        """Pairs of filled shapes whose boxes overlap: a lower one, and one above it."""
        boxes = shapely.box(*box_table(self.artwork)[self.filled].T) if self.filled else np.zeros(0, dtype=object)
        one, other = shapely.STRtree(boxes).query(boxes, predicate="overlaps")
        inner, outer = shapely.STRtree(boxes).query(boxes, predicate="within")
        pairs = {
            (min(a, b), max(a, b))
            for a, b in zip([*one.tolist(), *inner.tolist()], [*other.tolist(), *outer.tolist()], strict=True)
            if a != b
        }
        return sorted((self.filled[a], self.filled[b]) for a, b in pairs)
