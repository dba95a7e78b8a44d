"""All that is measured of drawn lettering at once, and brought alike by per cent."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from enum import StrEnum

from sobercrow.core.artwork.choice import Edited
from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.errors import LetteringError
from sobercrow.core.lettering.crossings import Notch, clean_crossings, notches_of
from sobercrow.core.lettering.evening import Evening, Sides, even_weights, usual_widths
from sobercrow.core.lettering.posture import (
    Reading,
    Standing,
    evenly_spaced,
    on_baseline,
    reading,
    slant_alike,
    slants_of,
    standing_of,
    widths_of,
)
from sobercrow.core.lettering.strokes import Strokes, Way, strokes_of


class What(StrEnum):
    """What can be brought alike."""

    STROKES = "strokes"
    SLANT = "slant"
    BASELINE = "base line"
    SPACING = "spacing"
    CORNERS = "corners"


@dataclass(frozen=True, slots=True)
class Alike:
    """What is brought alike, and by how much.

    Attributes
    ----------
    what : What
    percent : float
        0–100; corners are sharp or not.
    ways : frozenset of Way
        Which strokes are evened.
    width_px : tuple of (Way, float)
        What they are brought to, where it is not their median.
    sides : Sides
    only : frozenset of int or None
        Numbers among all strokes, or all corners, see `Measured`; None: all.
    """

    what: What
    percent: float = 100.0
    ways: frozenset[Way] = frozenset((Way.DOWN, Way.UP))
    width_px: tuple[tuple[Way, float], ...] = ()
    sides: Sides = Sides.BOTH
    only: frozenset[int] | None = None


@dataclass(frozen=True, slots=True, eq=False)
class Measured:
    """What was measured of some shapes: their strokes, and how their letters stand; or why it could not be."""

    strokes: Strokes
    standing: Standing | str
    notches: tuple[Notch, ...]

    @classmethod
    def of(cls, shapes: Sequence[Shape]) -> Measured:
        """Measure shapes.

        Raises
        ------
        LetteringError
            If they have no strokes.
        """
        strokes = strokes_of(shapes)
        standing: Standing | str
        try:
            standing = standing_of(shapes)
        except LetteringError as fault:
            standing = str(fault)
        return cls(strokes, standing, tuple(notches_of(strokes)))

    def numbers(self, way: Way) -> list[int]:
        """Return which of all strokes run one way, as in `widths`."""
        return [k for k, stroke in enumerate(self.strokes.strokes) if stroke.way is way]

    def widths(self, way: Way) -> Reading:
        """Return how wide strokes are that run one way."""
        return widths_of(self.strokes, way)

    def reading(self, what: What) -> Reading:
        """Return slants, feet, gaps or corners.

        Raises
        ------
        LetteringError
            If letters do not stand on one straight line, where that matters.
        """
        if what is What.SLANT:
            return slants_of(self.strokes)
        if what is What.CORNERS:
            places = [self.strokes.samples[notch.shape].points[notch.last] for notch in self.notches]
            return reading([0.0] * len(places), places, 1.0)
        if isinstance(self.standing, str):
            raise LetteringError(self.standing)
        return self.standing.feet()[1] if what is What.BASELINE else self.standing.gaps()

    def tops(self) -> Reading:
        """Return how far letters are above the x-height.

        Raises
        ------
        LetteringError
            If letters do not stand on one straight line.
        """
        if isinstance(self.standing, str):
            raise LetteringError(self.standing)
        return self.standing.tops()

    def usual_widths(self) -> dict[Way, float]:
        """Return the median width of each kind of strokes there is."""
        return usual_widths(self.strokes)


def bring_alike(artwork: Artwork, shapes: Collection[int], measured: Measured, how: Alike) -> Edited:
    """Return artwork with some shapes brought alike; `measured` is what was measured of them, in their order.

    Raises
    ------
    LetteringError, EditError
        If there is nothing to go by, or nothing to do.
    """
    if how.what is What.SLANT:
        return slant_alike(artwork, shapes, measured.strokes, how.percent)
    if how.what is What.CORNERS:
        return clean_crossings(artwork, shapes, measured.strokes, how.only)
    if how.what is What.BASELINE:
        return on_baseline(artwork, shapes, how.percent)
    if how.what is What.SPACING:
        return evenly_spaced(artwork, shapes, how.percent)
    wanted = {way: width for way, width in (measured.usual_widths() | dict(how.width_px)).items() if way in how.ways}
    return even_weights(artwork, shapes, Evening(how.percent, wanted, how.sides, how.only), measured.strokes)
