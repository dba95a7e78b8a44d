"""Where what is dragged would rather lie: on anchors and guides, level or upright with them, at middles of circles."""

from __future__ import annotations

import math
from collections.abc import Collection
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from sobercrow.core.arrays import F64, I64
from sobercrow.core.artwork.choice import AnchorRef, Choice
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.artwork.placing import box_of
from sobercrow.core.artwork.table import anchor_table, rows_of
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry.contour import directions
from sobercrow.core.geometry.forms import Ellipse


class Lies(StrEnum):
    """Which way a guide lies."""

    LEVEL = "level"
    UPRIGHT = "upright"


@dataclass(frozen=True, slots=True)
class Guide:
    """A line across everything, level or upright, so many px down, or across at the top edge of the picture.

    An upright one may lean: `slant_deg` is 90 where it does not, less where it leans to the right.
    """

    lies: Lies
    at: float
    slant_deg: float = 90.0

    def across(self, y: float) -> float:
        """Return where an upright guide is, so far down."""
        return self.at - y / math.tan(math.radians(self.slant_deg)) if self.slant_deg != 90.0 else self.at

    def through(self, x: float, y: float) -> Guide:
        """Return the guide laid through a place."""
        if self.lies is Lies.LEVEL:
            return replace(self, at=y)
        return replace(self, at=x + self.at - self.across(y))


@dataclass(frozen=True, slots=True)
class Snap:
    """A place, what it was snapped to in words, and lines from there to what it lies level or upright with."""

    x: float
    y: float
    words: tuple[str, ...] = ()
    lines: tuple[tuple[float, float, float, float], ...] = ()


LAIN_LEVEL_WITH, ANCHOR, MIDDLE, QUADRANT = range(4)
WORDS = ("", "on an anchor", "middle of circle", "quadrant of circle")


def snapped(
    artwork: Artwork, moved: Collection[AnchorRef], x: float, y: float, reach_px: float, guides: Collection[Guide] = ()
) -> Snap:
    """Return where a dragged anchor comes to lie; `moved` are those that go along, which nothing is snapped to.

    Anchors and middles and quadrants of circles draw it onto them; else it lies level or upright with those, with the
    tops and bottoms of curves, or on guides.
    """
    places, words_at = _targets(artwork, moved)
    away = np.where(words_at == LAIN_LEVEL_WITH, np.inf, np.hypot(*(places - (x, y)).T))
    if len(away) and away.min() <= reach_px:
        k = int(away.argmin())
        x, y = places[k].tolist()
        return Snap(x, y, (WORDS[words_at[k]],))
    words, lines, at = [], [], [x, y]
    for axis, lies in ((1, Lies.LEVEL), (0, Lies.UPRIGHT)):
        own = [guide.at if axis else guide.across(at[1]) for guide in guides if guide.lies is lies]
        nearest = min(own, key=lambda place: abs(place - (x, y)[axis]), default=math.inf)
        if abs(nearest - (x, y)[axis]) <= reach_px:
            at[axis] = nearest
            words.append("on a guide")
            continue
        if not len(places):
            continue
        off = np.abs(places[:, axis] - (x, y)[axis])
        # of those as near, the one that is nearest along the line
        near = np.flatnonzero(off <= min(reach_px, float(off.min()) + 1e-9))
        if len(near):
            k = near[np.abs(places[near, 1 - axis] - (x, y)[1 - axis]).argmin()]
            at[axis] = float(places[k, axis])
            words.append(f"{lies.value} with")
            lines.append(k)
    ends = tuple((at[0], at[1], *places[k].tolist()) for k in lines)
    return Snap(at[0], at[1], tuple(words), ends)


def snapped_axis(
    artwork: Artwork, choice: Choice, x: float, y: float, reach_px: float, guides: Collection[Guide] = ()
) -> Snap:
    """Return where a place of an axis comes to lie: in the middle of what is chosen, of a circle, of the page, on an
    anchor; else as `snapped`."""
    box = box_of(artwork, choice)
    middles = [] if box is None else [(0.5 * (box[0] + box[2]), 0.5 * (box[1] + box[3]), "middle of what is chosen")]
    middles.append((0.5 * artwork.width_px, 0.5 * artwork.height_px, "middle of the page"))
    away, (a, b, words) = min((math.hypot(a - x, b - y), (a, b, words)) for a, b, words in middles)
    return Snap(a, b, (words,)) if away <= reach_px else snapped(artwork, (), x, y, reach_px, guides)


def snapped_handle(artwork: Artwork, ref: AnchorRef, side: int, x: float, y: float, reach_px: float) -> Snap:
    """Return where a dragged handle comes to lie: in line with the other side of its anchor, level, or upright."""
    contour = artwork.shapes[ref.shape].contours[ref.contour]
    anchor = contour.anchors[ref.anchor]
    into, out = (ways[ref.anchor] for ways in directions(contour))
    other = out if side == 0 else into
    arm = np.array((x, y)) - anchor
    for way, word in ((other, "in line"), (np.array((1.0, 0.0)), "level"), (np.array((0.0, 1.0)), "upright")):
        along = float(arm @ way)
        if np.hypot(*way) > 0.0 and np.hypot(*(arm - along * way)) <= reach_px < abs(along):
            place = anchor + along * way
            x, y = place.tolist()
            return Snap(x, y, (word,), ((x, y, *(anchor - along * way).tolist()),))
    return Snap(x, y)


def _targets(artwork: Artwork, moved: Collection[AnchorRef]) -> tuple[F64, I64]:
    """All there is to snap to, (n, 2), and what is said of each."""
    table = anchor_table(artwork)
    still = np.ones(len(table.kinds), dtype=np.bool_)
    rows = rows_of(artwork, frozenset(moved))
    still[rows] = False
    circles: F64 = artwork.once("circles", _of_circles)
    tops, owners = artwork.once("tops", _tops)
    span = int(owners.max(initial=0)) + 1
    if len(rows):
        tops = tops[~np.isin(owners @ (span, 1), table.names[rows, :2] @ (span, 1))]
    words = np.concatenate([np.full(int(still.sum()), ANCHOR), QUADRANT - circles[:, 2].astype(np.int64)])
    places: F64 = np.concatenate([table.points[still, 1], circles[:, :2], tops])
    return places, np.concatenate([words, np.full(len(tops), LAIN_LEVEL_WITH)])


def _of_circles(artwork: Artwork) -> F64:
    """Middles and quadrants of the circles there are, (n, 3): x, y, and 1 for a middle."""
    rows = [
        (form.x + dx * form.rx, form.y + dy * form.rx, float(dx == dy == 0))
        for shape in artwork.shapes
        for contour in shape.contours
        if isinstance(form := contour.form, Ellipse) and form.is_circle
        for dx, dy in ((0, 0), (1, 0), (-1, 0), (0, 1), (0, -1))
    ]
    return np.array(rows, dtype=np.float64).reshape(-1, 3)


def _tops(artwork: Artwork) -> tuple[F64, I64]:
    """Where curves are level or upright between their anchors, (n, 2), and of which shapes and contours, (n, 2)."""
    names, every = [], []
    for s, shape in enumerate(artwork.shapes):
        for c, contour in enumerate(shape.contours):
            curves = contour.curves()
            names += [(s, c)] * len(curves)
            every.append(curves)
    curves = np.concatenate([*every, np.zeros((0, 4, 2))])
    t = bezier.level_places(curves)
    rows = np.nonzero(np.isfinite(t))[0]
    owners = np.array(names, dtype=np.int64).reshape(-1, 2)[rows]
    return bezier.on_curves(curves[rows], t[np.isfinite(t)][:, None]), owners
