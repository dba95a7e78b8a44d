"""Where strokes cross or join: the corners between their sides, made sharp together."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterator
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from sobercrow.core.arrays import F64, I64
from sobercrow.core.artwork.anchors import add_anchor
from sobercrow.core.artwork.choice import AnchorRef, Choice, Edited
from sobercrow.core.artwork.corners import sharpen
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.errors import EditError
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry.contour import AnchorKind
from sobercrow.core.geometry.polygon import along_of
from sobercrow.core.lettering.samples import Samples
from sobercrow.core.lettering.strokes import Strokes
from sobercrow.core.tracing.tidy import crosses_itself

WINDOW_PX, WINDOW = 3.0, 0.35
"""A rounded corner turns over so much, in px or in usual widths of strokes, whichever is more."""
LEAST_TURN, AT_ONCE, WIDER = math.radians(25.0), 0.7, 3.0
"""By so much at least, and that is such a share of the turn over so many times as much: a bend is none."""
MARGIN = 0.3
"""So much of the window on either side of it is left out of the sides as well."""
BESIDE = 1.2
"""On either side of it a stroke begins within so many widths."""
FURTHEST = 0.8
"""A corner is led no further than so many widths of the thinner stroke."""
LEAST_SHARE = 0.01
"""Of a curve, that an anchor added is away from those there are."""
SAME_PX = 0.1
"""A corner that would go no further is clean as it is."""


class Notch(NamedTuple):
    """Between two strokes: shape among those measured, contour, the last place of a side and the first of the next."""

    shape: int
    contour: int
    last: int
    first: int
    width_px: float


def notches_of(strokes: Strokes) -> list[Notch]:
    """Return where two strokes leave a corner of paper between them."""
    return [notch for number in range(len(strokes.samples)) for notch in _notches(number, strokes)]


def _notches(number: int, strokes: Strokes) -> Iterator[Notch]:
    samples = strokes.samples[number]
    owner = np.full(len(samples.points), -1, dtype=np.int64)
    for k, stroke in enumerate(strokes.strokes):
        if stroke.shape == number:
            owner[stroke.places] = k
    if (owner < 0).all():
        return
    usual = float(np.median([stroke.width_px for stroke in strokes.strokes]))
    window = max(WINDOW_PX, WINDOW * usual)
    for contour, (begin, end) in enumerate(pairwise(samples.starts.tolist())):
        for last, first in _corners(samples, begin, end, window):
            a, b = (_stroke_beside(samples, owner, k, by, BESIDE * usual) for k, by in ((last, -1), (first, 1)))
            if a >= 0 and b >= 0 and a != b:
                width = min(strokes.strokes[a].width_px, strokes.strokes[b].width_px)
                yield Notch(number, contour, last, first, width)


def _corners(samples: Samples, begin: int, end: int, window: float) -> Iterator[tuple[int, int]]:
    """Where a contour turns towards the paper over a window: its first place and its last; corners, no bends."""
    count = end - begin
    points, ways = samples.points[begin:end], samples.ways()[begin:end]
    along = along_of(np.vstack([points, points[:1]]))
    total, doubled = along[-1], np.concatenate([along[:-1], along[:-1] + along[-1]])
    if total < 2.0 * WIDER * window:
        return
    angles = np.unwrap(np.arctan2(ways[:, 1], ways[:, 0]))
    round_once = np.angle(np.exp(1j * (angles[0] - angles[-1]))) + angles[-1] - angles[0]
    angles = np.concatenate([angles, angles + round_once])
    inward = samples.normals[begin] @ (-ways[0, 1], ways[0, 0])

    def turn(reach: float) -> F64:
        """By how much it turns towards the paper over a way so long that begins at each place."""
        ends = np.searchsorted(doubled, doubled[:count] + reach)
        return np.asarray(-inward * (angles[ends.clip(max=2 * count - 1)] - angles[:count]))

    near, lead = turn(window), 0.5 * (WIDER - 1.0) * window
    back = np.searchsorted(doubled, doubled[count:] - lead) % count
    wide = turn(WIDER * window)[back]
    is_corner = (near >= LEAST_TURN) & (near >= AT_ONCE * wide)
    while is_corner.any():
        best = int(np.where(is_corner, near, -np.inf).argmax())
        same = is_corner & (near >= near[best] - 1e-3)  # the window slides along a corner: its middle place
        apart = (along[:-1] - along[best] + 0.5 * total) % total - 0.5 * total
        run = np.flatnonzero(same & (np.abs(apart) <= window))
        middle = int(run[np.argsort(apart[run])[len(run) // 2]])
        before = (along[middle] - MARGIN * window) % total
        last, first = np.searchsorted(doubled, (before, along[middle] + (1.0 + MARGIN) * window)) % count
        yield begin + int(last), begin + int(first)
        is_corner &= np.abs(apart) > 2.0 * window


def _stroke_beside(samples: Samples, owner: I64, k: int, by: int, reach: float) -> int:
    """The stroke whose side begins within reach of a place along the contour; −1 if there is none."""
    gone, here = 0.0, np.array([k])
    while gone <= reach:
        if owner[here[0]] >= 0:
            return int(owner[here[0]])
        after = samples.next(here, by)
        gone += float(np.hypot(*(samples.points[after] - samples.points[here])[0]))
        here = after
    return -1


def _between(samples: Samples, last: int, first: int) -> I64:
    """The places from one to another, along the contour."""
    own = samples.own(int(samples.contour[last]))
    whole = own.stop - own.start
    return np.asarray(own.start + (last - own.start + np.arange((first - last) % whole + 1)) % whole)


def clean_crossings(
    artwork: Artwork, shapes: Collection[int], strokes: Strokes, only: Collection[int] | None = None
) -> Edited:
    """Return artwork with the corners between strokes sharp: each where the sides of its strokes meet.

    `strokes` are those of the shapes in their order, `only` numbers of notches, see `notches_of`. What is clean, and
    what has sides that do not meet near, stays as it is.

    Raises
    ------
    EditError
        If there is no corner that could be made sharper.
    """
    which = sorted(shapes)
    notches = [notch for k, notch in enumerate(notches_of(strokes)) if only is None or k in only]
    changed = 0
    for notch in notches:
        made = _cleaned(artwork, which[notch.shape], strokes.samples[notch.shape], notch)
        if made is not None:
            artwork, changed = made, changed + 1
    if not changed:
        raise EditError("The corners between these strokes are clean.")
    told = f"{changed} corner{'s' * (changed > 1)} made sharp."
    return Edited(artwork, Choice(shapes=frozenset(which)), told)


def _cleaned(artwork: Artwork, shape: int, samples: Samples, notch: Notch) -> Artwork | None:
    """The artwork with one corner sharp; None if it is clean or its sides do not meet near."""
    before = artwork.shapes[shape].contours[notch.contour]
    found = [bezier.nearest(before.curves(), tuple(samples.points[k].tolist())) for k in (notch.last, notch.first)]
    ends = [(piece, min(max(t, LEAST_SHARE), 1.0 - LEAST_SHARE)) for piece, t, _ in found]
    ends = ends[::-1] if samples.is_reversed(notch.contour) else ends
    inner = _anchors_within(len(before), ends[0], ends[1])
    corner = before.anchors[inner[0]] if len(inner) == 1 and before.kinds[inner[0]] == AnchorKind.CORNER else None
    with_ends, run = _with_ends(artwork, shape, notch.contour, ends)
    try:
        made = sharpen(with_ends, Choice(anchors=frozenset(run)))
    except EditError:
        return None
    (ref,) = made.choice.anchors
    after = made.artwork.shapes[shape].contours[notch.contour]
    tip = after.anchors[ref.anchor]
    places = samples.points[_between(samples, notch.last, notch.first)]
    if float(np.hypot(*(places - tip).T).min()) > FURTHEST * notch.width_px:
        return None
    if corner is not None and float(np.hypot(*(corner - tip))) <= SAME_PX:
        return None
    return None if crosses_itself(after) and not crosses_itself(before) else made.artwork


def _anchors_within(count: int, start: tuple[int, float], end: tuple[int, float]) -> list[int]:
    """The anchors between two places of a closed contour, each a piece and where on it."""
    pieces = (end[0] - start[0]) % count
    if pieces == 0 and end[1] < start[1]:
        pieces = count
    return [(start[0] + 1 + k) % count for k in range(pieces)]


def _with_ends(
    artwork: Artwork, shape: int, contour: int, ends: list[tuple[int, float]]
) -> tuple[Artwork, list[AnchorRef]]:
    """Artwork with anchors at both ends of a run, and the run from one to the other."""
    (a, ta), (b, tb) = ends
    if a == b and ta < tb:
        artwork, _ = add_anchor(artwork, shape, contour, b, tb)
        artwork, _ = add_anchor(artwork, shape, contour, a, ta / tb)
        first, last = a + 1, a + 2
    elif a > b or a == b:  # it runs over the contour's first anchor
        artwork, _ = add_anchor(artwork, shape, contour, a, ta)
        artwork, _ = add_anchor(artwork, shape, contour, b, tb if a != b else tb / ta)
        first, last = a + 2, b + 1
    else:
        artwork, _ = add_anchor(artwork, shape, contour, b, tb)
        artwork, _ = add_anchor(artwork, shape, contour, a, ta)
        first, last = a + 1, b + 2
    count = len(artwork.shapes[shape].contours[contour])
    steps = (last - first) % count
    return artwork, [AnchorRef(shape, contour, (first + k) % count) for k in range(steps + 1)]
