"""Strokes brought to one width: both sides move, or one.

Ends and joins keep their form, and swelling stays in proportion.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F64, I64
from sobercrow.core.artwork.choice import Choice, Edited
from sobercrow.core.artwork.edits import change_shapes
from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.lettering.displacing import displaced
from sobercrow.core.lettering.samples import Samples
from sobercrow.core.lettering.strokes import Stroke, Strokes, Way, strokes_of
from sobercrow.core.tracing.regular import is_line
from sobercrow.core.tracing.tidy import crosses_itself, crossing_of

BESIDE, LOOSE = 1.0, 0.01
"""So many widths beyond a stroke its outline goes along as it likes: there each place counts so much less."""
SLIDES, BEND = 0.05, 0.8
"""How much less it counts that a place slides along; cosine of the turn from a place to the next that is a corner."""
ROUNDS, NEAR, LESS = 8, 2.0, 0.7
"""Where a contour would cross itself, strokes no further off than so many widths change so much less each round."""


Flags = NDArray[np.bool_]


class Sides(StrEnum):
    """Which sides of a stroke move."""

    BOTH = "both"
    LEFT = "left"
    RIGHT = "right"


@dataclass(frozen=True, slots=True)
class Evening:
    """How strokes are evened.

    Attributes
    ----------
    percent : float
        0: nothing moves, to 100: all are as wide as wanted.
    width_px : dict of Way to float
        What those that run one way are brought to; those that are missing stay. See `usual_widths`.
    sides : Sides
    only : frozenset of int or None
        Numbers of strokes; None: all.
    """

    percent: float
    width_px: dict[Way, float]
    sides: Sides = Sides.BOTH
    only: frozenset[int] | None = None


def usual_widths(strokes: Strokes) -> dict[Way, float]:
    """Return the median width of downstrokes, upstrokes and level ones, as far as there are any."""
    widths = {way: [stroke.width_px for stroke in strokes.of(way)] for way in Way}
    return {way: float(np.median(own)) for way, own in widths.items() if own}


def even_weights(artwork: Artwork, shapes: Collection[int], how: Evening, strokes: Strokes | None = None) -> Edited:
    """Return artwork with the strokes of some shapes evened; these stay chosen. `strokes` are theirs, if known.

    Where a contour would begin to cross itself, the strokes there change less.

    Raises
    ------
    LetteringError
        If the shapes have no strokes.
    """
    which = sorted(shapes)
    own = [artwork.shapes[k] for k in which]
    made = dict(zip(which, evened(own, strokes or strokes_of(own), how), strict=True))
    changed = change_shapes(artwork, lambda k, shape: made.get(k, shape))
    return Edited(changed, Choice(shapes=frozenset(which)))


def evened(shapes: Sequence[Shape], strokes: Strokes, how: Evening) -> list[Shape]:
    """Return shapes with their strokes evened, as they were measured."""
    made = []
    for k, shape in enumerate(shapes):
        some = [
            stroke
            for number, stroke in enumerate(strokes.strokes)
            if stroke.shape == k and stroke.way in how.width_px and (how.only is None or number in how.only)
        ]
        made.append(_evened(shape, strokes.samples[k], strokes.widths[k], some, how) if some else shape)
    return made


def _evened(shape: Shape, samples: Samples, widths: F64, strokes: Sequence[Stroke], how: Evening) -> Shape:
    """A shape evened; where it would begin to cross itself the strokes there change less, or not at all."""
    shares = [0.01 * how.percent * (how.width_px[stroke.way] / stroke.width_px - 1.0) for stroke in strokes]
    plain = [crosses_itself(contour) for contour in shape.contours]
    for left in reversed(range(ROUNDS)):
        made = _moved(shape, samples, _wanted(samples, widths, strokes, shares, how.sides))
        places = [
            bezier.evaluate(contour.curves()[place[0]], np.array([place[1]]))[0]
            for contour, crossed in zip(made.contours, plain, strict=True)
            if not crossed and (place := crossing_of(contour)) is not None
        ]
        if not places:
            return made
        near = [
            any(np.hypot(*(samples.points[stroke.places] - place).T).min() < NEAR * stroke.width_px for place in places)
            for stroke in strokes
        ]
        less = LESS if left > 1 else 0.0
        shares = [share * (less if is_near else 1.0) for share, is_near in zip(shares, near, strict=True)]
    return shape


@dataclass(frozen=True, slots=True, eq=False)
class _Wanted:
    """By how much places go outward, and which of them are sides of strokes, beside one, or neither."""

    out: F64
    is_side: Flags
    is_beside: Flags


def _wanted(samples: Samples, widths: F64, strokes: Sequence[Stroke], shares: Sequence[float], sides: Sides) -> _Wanted:
    out = np.zeros(len(widths))
    is_side, is_beside = np.zeros(len(widths), dtype=np.bool_), np.zeros(len(widths), dtype=np.bool_)
    for stroke in strokes:
        is_side[stroke.places] = True
    for stroke, share in zip(strokes, shares, strict=True):
        out[stroke.places] = share * 0.5 * widths[stroke.places]
        for by in (1, -1):
            _lead_on(samples, stroke, by, out, is_side, is_beside)
    if sides is not Sides.BOTH:
        left = samples.normals[:, 0] > 0.0
        out *= np.where(left == (sides is Sides.LEFT), 2.0, 0.0)
    return _Wanted(out, is_side, is_beside & ~is_side)


def _lead_on(samples: Samples, stroke: Stroke, by: int, out: F64, is_side: Flags, is_beside: Flags) -> None:
    """Let the outline beyond a stroke go along with it, up to the next corner, and as it likes from there."""
    k = stroke.places[~is_side[samples.next(stroke.places, by)]]
    value, gone, same_side = out[k], np.zeros(len(k)), np.ones(len(k), dtype=np.bool_)
    while len(k):
        after = samples.next(k, by)
        gone = gone + np.hypot(*(samples.points[after] - samples.points[k]).T)
        same_side &= (samples.normals[k] * samples.normals[after]).sum(axis=1) > BEND
        on = ~is_side[after] & (gone <= BESIDE * stroke.width_px)
        k, value, gone, same_side = after[on], value[on], gone[on], same_side[on]
        is_beside[k] = True
        out[k[same_side]] = value[same_side]


def _moved(shape: Shape, samples: Samples, wanted: _Wanted) -> Shape:
    contours = []
    for k, contour in enumerate(shape.contours):
        own = samples.own(k)
        piece, is_side = samples.piece[own], wanted.is_side[own]
        loose = wanted.is_beside[own] | (~is_side & _on_moving_lines(contour, piece, is_side))
        across = np.where(loose, LOOSE, 1.0)
        along = np.where(loose, SLIDES * LOOSE, np.where(is_side, SLIDES, 1.0))
        out, normals = wanted.out[own], -samples.normals[own]
        contours.append(displaced(contour, piece, samples.t[own], normals, out, across, along))
    return replace(shape, contours=tuple(contours))


def _on_moving_lines(contour: Contour, piece: I64, is_side: Flags) -> Flags:
    """Which places are on straight lines that are a stroke's side elsewhere: a line goes as a whole."""
    n = len(contour)
    lines = np.array([is_line(contour.points, i, (i + 1) % n) for i in range(n)])
    moving = np.zeros(n, dtype=np.bool_)
    moving[piece[is_side]] = True
    return np.asarray((lines & moving)[piece])
