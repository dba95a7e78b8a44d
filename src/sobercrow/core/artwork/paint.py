"""Paint: what shapes are filled and stroked with. All values."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from enum import StrEnum

from sobercrow.core.geometry.affine import Affine
from sobercrow.core.geometry.offset import Ends, Joins

_HEX = re.compile(r"#[0-9a-f]{6}")


class Spread(StrEnum):
    """How a gradient runs: along a line, or outwards from a middle."""

    LINEAR = "linear"
    RADIAL = "radial"


@dataclass(frozen=True, slots=True)
class Stop:
    """A colour at a place of a gradient, from 0 to 1."""

    at: float
    colour: str

    def __post_init__(self) -> None:
        """Raise ValueError for a place outside or a colour that is not #rrggbb."""
        if not 0.0 <= self.at <= 1.0:
            raise ValueError(f"a stop lies from 0 to 1, not at {self.at!r}")
        checked_colour(self.colour)


@dataclass(frozen=True, slots=True)
class Gradient:
    """Colours that run into each other, by W3C's SVG 2: between stops in sRGB values, beyond the ends as at the ends.

    In a plane of its own a linear one runs from (0, 0) to (1, 0), a radial one from the origin to the unit circle;
    `way` leads from there to the artwork.
    """

    spread: Spread
    stops: tuple[Stop, ...]
    way: Affine

    def __post_init__(self) -> None:
        """Raise ValueError unless there are two stops or more, in order, and the map is not flat."""
        places = [stop.at for stop in self.stops]
        if len(places) < 2 or places != sorted(places):
            raise ValueError("a gradient needs two stops or more, in order")
        if abs(self.way.area_ratio) < 1e-12:
            raise ValueError("a gradient needs a way of some length")

    def mapped(self, way: Affine) -> Gradient:
        """Return it laid elsewhere."""
        return replace(self, way=self.way.then(way))


Fill = str | Gradient | None
"""A colour #rrggbb in lower case, a gradient, or nothing."""


@dataclass(frozen=True, slots=True)
class Stroke:
    """A line along the contours: its colour, its width in px, its ends and joins."""

    colour: str
    width_px: float
    ends: Ends = Ends.ROUND
    joins: Joins = Joins.ROUND

    def __post_init__(self) -> None:
        """Raise ValueError for a width that is none or a colour that is not #rrggbb."""
        if not 0.0 < self.width_px < float("inf"):
            raise ValueError(f"a stroke must be wider than nothing, not {self.width_px!r}")
        checked_colour(self.colour)

    @property
    def is_round(self) -> bool:
        """Whether both ends and joins are round: it reaches half its width beyond its line, and no further."""
        return self.ends is Ends.ROUND and self.joins is Joins.ROUND

    @property
    def pen(self) -> tuple[float, Ends, Joins]:
        """Width, ends and joins."""
        return self.width_px, self.ends, self.joins

    def scaled(self, factor: float) -> Stroke:
        """Return it wider or narrower by a factor."""
        return replace(self, width_px=self.width_px * factor)


def checked_colour(colour: str) -> str:
    """Return a colour; raise ValueError if it is not #rrggbb in lower case."""
    if not _HEX.fullmatch(colour):
        raise ValueError(f"a colour must be #rrggbb in lower case, not {colour!r}")
    return colour
