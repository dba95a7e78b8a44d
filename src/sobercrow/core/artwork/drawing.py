"""New contours, anchor by anchor, and stretches drawn anew."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.anchors import add_anchor
from sobercrow.core.artwork.choice import AnchorRef, Choice, Edited
from sobercrow.core.artwork.edits import with_shapes
from sobercrow.core.artwork.model import Artwork, Shape, stroked
from sobercrow.core.artwork.stretches import Stretch, Track, change_contour, part_of, replaced
from sobercrow.core.errors import EditError
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry.contour import AnchorKind, Contour, directions
from sobercrow.core.geometry.fewest import fewest_cubics
from sobercrow.core.geometry.polygon import along_of, at_distances
from sobercrow.core.geometry.smooth import Beyond, smoothed

HAND_PX, FIT_PX = 2.5, 0.75
"""The jitter of a hand is so long on screen; the line drawn is held so closely."""
SMOOTH_JOIN_COS = 0.87
"""What was drawn leaves a contour smoothly if it turns by less than 30°."""
STEP = 0.5


@dataclass(frozen=True, slots=True)
class Pen:
    """How a new contour is drawn: filled, or as a stroke of a width in px; and in what colour."""

    colour: str = "#000000"
    stroke_px: float | None = None

    def shape(self, contours: tuple[Contour, ...]) -> Shape:
        """Return a shape of contours drawn so."""
        return (
            Shape(contours, self.colour) if self.stroke_px is None else stroked(contours, self.colour, self.stroke_px)
        )


def with_contour(artwork: Artwork, contour: Contour, pen: Pen) -> Edited:
    """Add a contour as a shape of its own, on top of the uppermost layer.

    Raises
    ------
    EditError
        If it has fewer than two anchors.
    """
    if len(contour) < 2:
        raise EditError("A contour needs two anchors; click or drag once more.")
    made, choice, _ = with_shapes(artwork, [pen.shape((contour,))])
    (place,) = choice.shapes
    return Edited(made, Choice(anchors=frozenset({AnchorRef(place, 0, len(contour) - 1)})))


def gone_on_from(artwork: Artwork, ref: AnchorRef, contour: Contour) -> Edited:
    """Lead an open contour on from one of its ends by what was drawn there, whose first anchor is that end."""
    old = artwork.shapes[ref.shape].contours[ref.contour]
    at_start = ref.anchor == 0
    old = old.reversed() if at_start else old
    points, kinds = old.points.copy(), old.kinds.copy()
    points[-1, 2] = contour.points[0, 2]
    made = Contour(
        np.concatenate([points, contour.points[1:]]), np.concatenate([kinds, contour.kinds[1:]]), contour.closed
    )
    made = made.reversed() if at_start else made
    last = AnchorRef(ref.shape, ref.contour, 0 if at_start else len(made) - 1)
    return Edited(change_contour(artwork, ref.shape, ref.contour, made), Choice(anchors=frozenset({last})))


def drawn_line(points: F64, zoom: float, out: F64 | None = None, into: F64 | None = None) -> F64:
    """Return the anchors (m, 3, 2) of a line drawn by hand, points (n, 2), the jitter of the hand taken out.

    `zoom` is how many screen pixels a picture pixel had; `out` and `into` as in `fewest_cubics`.
    """
    along = along_of(points)
    keep = np.concatenate([[True], np.diff(along) > 1e-6])
    points, along = points[keep], along[keep]
    if len(points) < 2:
        raise EditError("Draw a line, not a point.")
    step = STEP / zoom
    count = max(4, round(float(along[-1]) / step)) + 1
    at = np.linspace(0.0, along[-1], count)
    line = at_distances(points, along, at)
    calm = smoothed(line, min(HAND_PX / STEP, count / 10.0), Beyond.LAST)
    calm[0], calm[-1] = line[0], line[-1]
    return fewest_cubics(calm, FIT_PX / zoom, out, into)


def redraw(artwork: Artwork, shape: int, contour: int, points: F64, zoom: float) -> Edited:
    """Put a line drawn by hand, points (n, 2), in the place of the stretch from where it begins to where it ends.

    Of a closed contour that way round is replaced which runs nearer to the line. It joins smoothly where it was drawn
    so.

    Raises
    ------
    EditError
        If the line begins and ends at one place.
    """
    artwork = _with_anchor_at(artwork, shape, contour, points[0])
    artwork = _with_anchor_at(artwork, shape, contour, points[-1])
    now = artwork.shapes[shape].contours[contour]
    first, last = _place_of(now, points[0]), _place_of(now, points[-1])
    if first == last:
        raise EditError("Draw from one place of the edge to another; this begins and ends at the same one.")
    count = len(now)
    ways = [(first, (last - first) % count, points)]
    if now.closed:
        ways.append((last, (first - last) % count, points[::-1]))
    elif first > last:
        ways = [(last, first - last, points[::-1])]
    start, pieces, line = min(ways, key=lambda way: _apart(part_of(now, way[0], way[1]), way[2]))
    line = np.ascontiguousarray(line)
    into, out = directions(now)
    end = (start + pieces) % count
    line[0], line[-1] = now.anchors[start], now.anchors[end]
    leaving = _kept(into[start], line[min(8, len(line) - 1)] - line[0])
    arriving = _kept(out[end], line[-1] - line[-min(9, len(line))])
    anchors = drawn_line(line, zoom, leaving, arriving)
    kinds = np.full(len(anchors), int(AnchorKind.SMOOTH), dtype=np.uint8)
    return replaced(artwork, Stretch(shape, contour, start, pieces), Contour(anchors, kinds, closed=False))


def _kept(way: F64, drawn: F64) -> F64 | None:
    """The direction of the contour if what was drawn runs on about so, else none."""
    size = float(np.hypot(*drawn))
    return way if size > 0.0 and float(way @ drawn) / size > SMOOTH_JOIN_COS else None


def _with_anchor_at(artwork: Artwork, shape: int, contour: int, point: F64) -> Artwork:
    """The artwork with an anchor on a contour where it is nearest to a point."""
    old = artwork.shapes[shape].contours[contour]
    curve, t, _ = bezier.nearest(old.curves(), (float(point[0]), float(point[1])))
    return artwork if t < 1e-3 or t > 1.0 - 1e-3 else add_anchor(artwork, shape, contour, curve, t)[0]


def _place_of(contour: Contour, point: F64) -> int:
    """The anchor that is where a contour is nearest to a point."""
    curve, t, _ = bezier.nearest(contour.curves(), (float(point[0]), float(point[1])))
    return (curve + round(t)) % len(contour)


def _apart(part: Contour, line: F64) -> float:
    """How far a part and a line are apart in the mean, run through side by side."""
    track = Track.of(part)
    own = at_distances(track.points, track.along, np.linspace(0.0, track.length, 24))
    along = along_of(line)
    other = at_distances(line, along, np.linspace(0.0, along[-1], 24))
    return float(np.hypot(*(own - other).T).mean())
