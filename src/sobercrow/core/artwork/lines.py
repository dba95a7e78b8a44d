"""Stretches made straight or circular arcs; anchors aligned and evenly spaced."""

from __future__ import annotations

import math
from collections.abc import Collection
from enum import StrEnum
from itertools import pairwise

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.anchors import set_places
from sobercrow.core.artwork.choice import AnchorRef, Choice, Edited
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.artwork.stretches import Stretch, contour_of, needed_stretch, part_of, replaced, stretch_of
from sobercrow.core.artwork.table import anchor_table, rows_of
from sobercrow.core.errors import EditError
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry.arcs import Arc, arc_contour, arc_of_radius, arc_through
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.geometry.fit import fit_cubic
from sobercrow.core.geometry.forms import off_level
from sobercrow.core.geometry.polygon import along_of

NEARLY_LEVEL_DEG = 2.0
"""A line within so many degrees of level or upright becomes exactly so."""
SPACING_PX = 0.25
TANGENT_DEG = 12.0
"""An arc becomes tangent to what comes before or after it if it is within so many degrees of it."""


class Way(StrEnum):
    """To what anchors are aligned: all in a level row, or one above the other."""

    LEVEL = "level"
    UPRIGHT = "upright"


class By(StrEnum):
    """Where the line lies that anchors are aligned to."""

    MEAN = "mean"
    FIRST = "first"
    LAST = "last"


def straighten(artwork: Artwork, choice: Choice) -> Edited:
    """Make the chosen stretch one straight line, level or upright where it is within 2° of it, which it tells.

    Raises
    ------
    EditError
        If no stretch is chosen, or it is a whole contour.
    """
    stretch = needed_stretch(artwork, choice.anchors)
    contour = contour_of(artwork, stretch)
    if contour.closed and stretch.pieces >= len(contour):
        raise EditError("A whole contour cannot be one line; choose a stretch of it.")
    part = part_of(contour, stretch.first, stretch.pieces)
    ends = part.anchors[[0, -1]].copy()
    dx, dy = ends[1] - ends[0]
    angle = math.degrees(math.atan2(dy, dx))
    off = off_level(angle)
    told = f"at {-angle % 180.0:.1f}°"
    if abs(off) <= NEARLY_LEVEL_DEG:
        axis = 1 if abs(dx) > abs(dy) else 0
        ends[:, axis] = ends[:, axis].mean()
        told = "and level now" if axis == 1 else "and upright now"
    line = Contour(np.repeat(ends[:, None], 3, axis=1), part.kinds[[0, -1]], closed=False)
    made = replaced(artwork, stretch, line)
    return made._replace(told=f"The stretch is straight {told}.")


def make_arc(artwork: Artwork, choice: Choice, radius_px: float | None = None, through: F64 | None = None) -> Edited:
    """Make the chosen stretch one circular arc between its ends.

    It runs nearest to the stretch, and is tangent to what comes before or after where that asks for a turn of no more
    than 12°; or it goes through a point, on the side of that. With a radius given it has that, and bows as it would.

    Raises
    ------
    EditError
        If no stretch is chosen, it is straight, or the radius is less than half its chord.
    """
    stretch = needed_stretch(artwork, choice.anchors)
    contour = contour_of(artwork, stretch)
    if contour.closed and stretch.pieces >= len(contour):
        raise EditError("A whole contour cannot be one arc; choose a stretch of it.")
    part = part_of(contour, stretch.first, stretch.pieces)
    start, end = part.anchors[0], part.anchors[-1]
    drawn = part.sampled(SPACING_PX) if through is None else np.array([start, through, end])
    arc = arc_through(drawn)
    if radius_px is not None:
        arc = arc_of_radius(start, end, arc, radius_px)
    elif through is None:
        arc = _tangent(contour, stretch, start, end, arc)
    return replaced(artwork, stretch, arc_contour(start, end, arc))


def _tangent(contour: Contour, stretch: Stretch, start: F64, end: F64, arc: Arc) -> Arc:
    """The arc turned so that it leaves or arrives as its neighbours run, if one of them nearly asks for that."""
    count = len(contour)
    curves = contour.curves()
    chord = math.atan2(*(end - start)[::-1])
    turns = []
    before, after = stretch.first - 1, stretch.first + stretch.pieces
    if contour.closed or before >= 0:
        way = _way(curves[before % count], at_end=True)
        turns.append(2.0 * _wrapped(chord - way))
    if contour.closed or after < len(curves):
        way = _way(curves[after % count], at_end=False)
        turns.append(2.0 * _wrapped(way - chord))
    close = [turn for turn in turns if abs(turn - arc.turn) <= 2.0 * math.radians(TANGENT_DEG) and abs(turn) > 1e-3]
    if not close:
        return arc
    turn = min(close, key=lambda one: abs(one - arc.turn))
    length = 0.5 * float(np.hypot(*(end - start)))
    radius = length / abs(math.sin(0.5 * turn))
    normal = np.array((-math.sin(chord), math.cos(chord)))
    middle = 0.5 * (start + end) + length / math.tan(0.5 * turn) * normal
    return Arc(middle, radius, turn)


def _way(curve: F64, at_end: bool) -> float:
    """The direction of a curve at one of its ends, in rad."""
    steps = (curve[3] - curve[2], curve[3] - curve[0]) if at_end else (curve[1] - curve[0], curve[3] - curve[0])
    way = steps[0] if np.hypot(*steps[0]) > 1e-6 else steps[1]
    return math.atan2(way[1], way[0])


def _wrapped(angle: float) -> float:
    return (angle + math.pi) % (2.0 * math.pi) - math.pi


def align(artwork: Artwork, choice: Choice, way: Way, by: By = By.MEAN) -> Edited:
    """Move chosen anchors, with their handles, into one level row or one upright column.

    Raises
    ------
    EditError
        If fewer than two are chosen.
    """
    rows = rows_of(artwork, choice.anchors)
    if len(rows) < 2:
        raise EditError("Choose two or more anchors to align.")
    table = anchor_table(artwork)
    order = _in_order(artwork, choice.anchors)
    axis = 1 if way is Way.LEVEL else 0
    places = table.points[rows, 1].copy()
    wanted = {
        By.MEAN: float(places[:, axis].mean()),
        By.FIRST: float(_place(artwork, order[0])[axis]),
        By.LAST: float(_place(artwork, order[-1])[axis]),
    }[by]
    places[:, axis] = wanted
    refs = [AnchorRef(*name) for name in table.names[rows].tolist()]
    return Edited(set_places(artwork, dict(zip(refs, places, strict=True))), choice)


def _place(artwork: Artwork, ref: AnchorRef) -> F64:
    place: F64 = artwork.shapes[ref.shape].contours[ref.contour].anchors[ref.anchor]
    return place


def _in_order(artwork: Artwork, refs: Collection[AnchorRef]) -> list[AnchorRef]:
    """Chosen anchors in the order of a stretch if they are one, else of their names."""
    stretch = stretch_of(artwork, refs)
    if stretch is None:
        return sorted(refs)
    places = stretch.places(len(contour_of(artwork, stretch)))[: len(refs)]
    return [AnchorRef(stretch.shape, stretch.contour, k) for k in places]


def space_evenly(artwork: Artwork, choice: Choice) -> Edited:
    """Move the anchors of the chosen stretch along the line so that they are evenly apart; the line keeps its form.

    Raises
    ------
    EditError
        If no stretch of three anchors or more is chosen.
    """
    stretch = needed_stretch(artwork, choice.anchors)
    contour = contour_of(artwork, stretch)
    if stretch.pieces < 2 or stretch.pieces >= len(contour):
        raise EditError("Choose a stretch of three anchors or more to space them evenly.")
    part = part_of(contour, stretch.first, stretch.pieces)
    if (part.kinds[1:-1] == AnchorKind.CORNER).any():
        raise EditError("There are corners in this stretch, which stay; choose one from corner to corner.")
    curves = part.curves()
    steps = np.linspace(0.0, 1.0, 65)
    drawn = bezier.evaluate(curves, steps).reshape(-1, 2)
    along = along_of(drawn)
    wanted = np.linspace(0.0, along[-1], stretch.pieces + 1)[1:-1]
    at = np.interp(wanted, along, (np.arange(len(curves))[:, None] + steps).ravel())
    return replaced(artwork, stretch, _cut_at(part, at))


def _cut_at(part: Contour, at: F64) -> Contour:
    """An open contour with its inner anchors at other places, each given as piece and parameter in one number."""
    from_to = [0.0, *at.tolist(), float(len(part) - 1)]
    curves = part.curves()
    ends: list[F64] = []
    for low, high in pairwise(from_to):
        drawn = []
        for k in range(int(low), min(math.ceil(high), len(curves))):
            a, b = max(low - k, 0.0), min(high - k, 1.0)
            drawn.append(bezier.evaluate(curves[k], np.linspace(a, b, 24)))
        line = np.concatenate(drawn)
        line = line[np.concatenate([[True], np.hypot(*np.diff(line, axis=0).T) > 1e-9])]
        ends.append(fit_cubic(line, *_ways_at(curves, low, high), polish=False))
    points = [np.array([ends[0][0], ends[0][0], ends[0][1]])]
    for one, other in pairwise(ends):
        points.append(np.array([one[2], one[3], other[1]]))
    points.append(np.array([ends[-1][2], ends[-1][3], ends[-1][3]]))
    kinds = np.full(len(points), int(AnchorKind.SMOOTH), dtype=np.uint8)
    kinds[0], kinds[-1] = part.kinds[0], part.kinds[-1]
    return Contour(np.array(points), kinds, closed=False)


def _ways_at(curves: F64, low: float, high: float) -> tuple[F64, F64]:
    last = len(curves) - 1
    k, j = min(int(low), last), min(math.ceil(high) - 1, last)
    out, into = (
        bezier.derivative(curves[n], np.array([t]))[0] for n, t in ((k, max(low - k, 1e-3)), (j, min(high - j, 0.999)))
    )
    return out, into
