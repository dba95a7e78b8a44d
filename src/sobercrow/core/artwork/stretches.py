"""Stretches: the parts of contours from one anchor to another, taken out, replaced, run along with the pointer."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from dataclasses import dataclass, replace

import numpy as np

from sobercrow.core.arrays import F64, cumulated
from sobercrow.core.artwork.choice import AnchorRef, Choice, Edited
from sobercrow.core.artwork.edits import change_shapes
from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.errors import EditError
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry.contour import NO_TURN_COS, AnchorKind, Contour, directions
from sobercrow.core.geometry.polygon import along_of

TRACK_PX = 0.5


@dataclass(frozen=True, slots=True)
class Stretch:
    """From one anchor of a contour on, over so many pieces; all round a closed one it ends where it began."""

    shape: int
    contour: int
    first: int
    pieces: int

    def places(self, count: int) -> list[int]:
        """Return the places of its anchors on a contour of so many, in order."""
        return [(self.first + k) % count for k in range(self.pieces + 1)]

    def refs(self, count: int) -> frozenset[AnchorRef]:
        """Return its anchors by name."""
        return frozenset(AnchorRef(self.shape, self.contour, k) for k in self.places(count))


def stretch_of(artwork: Artwork, refs: Collection[AnchorRef]) -> Stretch | None:
    """Return the stretch that chosen anchors are, at least two in a row on one contour; None if they are none."""
    shape, contour, _ = next(iter(refs), AnchorRef(0, 0, 0))
    if len(refs) < 2 or any(ref.shape != shape or ref.contour != contour for ref in refs):
        return None
    places = sorted(ref.anchor for ref in refs)
    if shape >= len(artwork.shapes) or contour >= len(artwork.shapes[shape].contours):
        return None
    whole = artwork.shapes[shape].contours[contour]
    if places[-1] >= len(whole):
        return None
    gaps = [k for k in range(1, len(places)) if places[k] != places[k - 1] + 1]
    if not gaps:
        if len(places) == len(whole) and whole.closed:
            return Stretch(shape, contour, 0, len(whole))
        return Stretch(shape, contour, places[0], len(places) - 1)
    if len(gaps) == 1 and whole.closed and places[0] == 0 and places[-1] == len(whole) - 1:
        return Stretch(shape, contour, places[gaps[0]], len(places) - 1)
    return None


def needed_stretch(artwork: Artwork, refs: Collection[AnchorRef]) -> Stretch:
    """Return the stretch that chosen anchors are; raise `EditError` if they are none."""
    stretch = stretch_of(artwork, refs)
    if stretch is None:
        raise EditError("Choose a stretch first: anchors in a row on one contour. Run along the line with Anchors.")
    return stretch


def contour_of(artwork: Artwork, stretch: Stretch) -> Contour:
    """Return the contour a stretch is on."""
    return artwork.shapes[stretch.shape].contours[stretch.contour]


def part_of(contour: Contour, first: int, pieces: int) -> Contour:
    """Return a part of a contour as an open one, without the handles that point out of it."""
    count = len(contour)
    at = [(first + k) % count for k in range(pieces + 1)]
    points = contour.points[at].copy()
    points[0, 0], points[-1, 2] = points[0, 1], points[-1, 1]
    return Contour.known(points, contour.kinds[at].copy(), closed=False)


def with_part(contour: Contour, first: int, pieces: int, part: Contour) -> tuple[Contour, int]:
    """Return a contour with another part in a part's place, and where that begins in it.

    Where it joins what stays it is smooth if both sides run on into each other, else a corner.
    """
    count, points, kinds = len(contour), part.points.copy(), part.kinds.copy()
    last = (first + pieces) % count
    if contour.closed and pieces == count:
        points[0, 0] = points[-1, 0]
        made, begin, joints = Contour(points[:-1], kinds[:-1]), 0, [0]
    else:
        points[0, 0], points[-1, 2] = contour.points[first, 0], contour.points[last, 2]
        wraps = first + pieces >= count
        before = slice(last + 1, first) if wraps else slice(0, first)
        after = slice(0, 0) if wraps else slice(last + 1, count)
        begin = 0 if wraps else first
        order = [points, contour.points[before]] if wraps else [contour.points[before], points, contour.points[after]]
        named = [kinds, contour.kinds[before]] if wraps else [contour.kinds[before], kinds, contour.kinds[after]]
        made = Contour(np.concatenate(order), np.concatenate(named), contour.closed)
        joints = [begin, begin + len(points) - 1]
    return with_joints(made, joints), begin


def with_joints(contour: Contour, places: Iterable[int]) -> Contour:
    """Return a contour some anchors of which are smooth where its sides run on into each other, else corners."""
    into, out = directions(contour)
    kinds = contour.kinds.copy()
    for k in places:
        end = not contour.closed and k in (0, len(contour) - 1)
        runs_on = not end and float(into[k] @ out[k]) > NO_TURN_COS
        kinds[k] = AnchorKind.CORNER if not runs_on else max(kinds[k], AnchorKind.SMOOTH)
    return Contour(contour.points, kinds, contour.closed)


def change_contour(artwork: Artwork, shape: int, contour: int, changed: Contour | None) -> Artwork:
    """Return the artwork with one contour replaced, or without it; a shape without contours goes."""

    def change(index: int, old: Shape) -> Shape | None:
        if index != shape:
            return old
        new = () if changed is None else (changed,)
        contours = (*old.contours[:contour], *new, *old.contours[contour + 1 :])
        return replace(old, contours=contours) if contours else None

    return change_shapes(artwork, change)


@dataclass(frozen=True, slots=True, eq=False)
class Track:
    """A contour to be run along: points close to each other, how far along they are, and where its anchors are."""

    points: F64
    along: F64
    stops: F64
    closed: bool

    @classmethod
    def of(cls, contour: Contour) -> Track:
        """Lay the track of a contour."""
        lengths = bezier.lengths(contour.curves())
        counts = np.maximum(2, np.ceil(lengths / TRACK_PX)).astype(int)
        parts = [bezier.evaluate(curve, np.arange(n) / n) for curve, n in zip(contour.curves(), counts, strict=True)]
        points = np.concatenate([*parts, contour.curves()[-1, 3:]])
        along = along_of(points)
        starts = cumulated(counts)
        stops = along[starts[: len(contour)]]
        return cls(points, along, stops, contour.closed)

    @property
    def length(self) -> float:
        """The whole length in px."""
        return float(self.along[-1])

    def nearest(self, x: float, y: float) -> float:
        """Return how far along the place is that is nearest to a point."""
        return float(self.along[np.hypot(*(self.points - (x, y)).T).argmin()])

    def at(self, along: float) -> tuple[F64, F64]:
        """Return the place so far along, and which way the line runs there; an open one ends at its ends."""
        along = along % self.length if self.closed else min(max(along, 0.0), self.length)
        k = min(max(int(self.along.searchsorted(along)), 1), len(self.points) - 2)
        return self.points[k], self.points[k + 1] - self.points[k - 1]

    def follow(self, before: float, x: float, y: float, reach_px: float) -> float:
        """Return how far along the pointer is now, having been at `before`: the nearest place within reach of that.

        Round a closed contour the number goes on rising, or falls below nought, up to once around.
        """
        own = self.along
        if self.closed:
            laps = np.round((before - own) / max(self.length, 1e-9))
            own = own + laps * self.length
        near = np.abs(own - before) <= reach_px
        if not near.any():
            return before
        away = np.where(near, np.hypot(*(self.points - (x, y)).T), np.inf)
        return float(own[away.argmin()])

    def passed(self, start: float, end: float, slack_px: float) -> tuple[int, int] | None:
        """Return the stretch run along from one place to another: its first anchor, and over how many pieces.

        Anchors within the slack of either end count; None if none was passed.
        """
        low, high = min(start, end) - slack_px, max(start, end) + slack_px
        laps = range(-2, 3) if self.closed else range(1)
        count = len(self.stops)
        found = sorted((float(stop) + lap * self.length, k) for lap in laps for k, stop in enumerate(self.stops))
        found = [one for one in found if low <= one[0] <= high]
        if not found:
            return None
        return found[0][1], min(len(found) - 1, count if self.closed else count - 1)


def replaced(artwork: Artwork, stretch: Stretch, part: Contour) -> Edited:
    """Put an open contour in the place of a stretch and choose it."""
    made, begin = with_part(contour_of(artwork, stretch), stretch.first, stretch.pieces, part)
    refs = Stretch(stretch.shape, stretch.contour, begin, len(part) - 1).refs(len(made))
    return Edited(change_contour(artwork, stretch.shape, stretch.contour, made), Choice(anchors=refs))
