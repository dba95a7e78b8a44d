"""Chains of a border graph as parts of contours that lie over each other: neighbours share what is seen of these.

Contours of inks laid over each other have been settled on the tones of the picture, made regular and straight. Where
inks meet flush, every chain is the stretch of the upper ink's contour between its junctions, and a junction is where
the lower ink's edge ends at it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from sobercrow.core.arrays import F64, I64, following
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry._nearest_kernels import nearest_segments
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.tracing.graph import FEW_POINTS, Graph, on_one_edge

NEAR_PX = 1.0
"""A chain further than this from a contour is no part of it."""
AT_ANCHOR_PX = 0.35
"""A junction so near to an anchor of the edge that runs through lies there."""
APPROACHES = 8
LENGTHS = 0.7, 1.4
"""A stretch is so many times as long as its chain, or it is another."""
SHORT_PX = 1e-3

Owner = tuple[int, int]
"""A drawn ink and a contour of it."""
Contours = Sequence[Sequence[Contour]]
"""Of every drawn ink, the lowest first."""


def parts_seen(graph: Graph, fits: Sequence[Contour], contours: Contours) -> list[Contour]:
    """Return the chains of a graph as parts of contours of its drawn inks, lowest first, where one runs along it.

    `fits` are the contours fitted to the chains, which stay where none does.
    """
    owners = _owners(graph, contours)
    junctions = _junctions(graph, owners, contours)
    made = []
    for k, (fit, owner) in enumerate(zip(fits, owners, strict=True)):
        ends = [junctions[end] for end in graph.ends[k].tolist() if end >= 0]
        part = _part(graph, k, owner, ends, contours) if owner is not None else None
        made.append(_between(part if part is not None else fit, ends) if ends else part or fit)
    return made


def _owners(graph: Graph, contours: Contours) -> list[Owner | None]:
    """The contour of the upper ink that runs along each chain, if one does; none runs along the picture's edges."""
    uppers = graph.labels.max(axis=1) - 1
    owners: list[Owner | None] = [None] * len(graph.chains)
    for ink, own in enumerate(contours):
        chains = [k for k in np.flatnonzero(uppers == ink).tolist() if not _is_fixed(graph.chains[k])]
        if not chains or not own:
            continue
        away, nearest = _nearest(np.concatenate([graph.chains[k] for k in chains]), own)
        ends = np.cumsum([len(graph.chains[k]) for k in chains])[:-1]
        for k, off, ring in zip(chains, np.split(away, ends), np.split(nearest, ends), strict=True):
            inner = slice(len(off) // 4, max(3 * len(off) // 4, len(off) // 4 + 1))
            if off[inner].max() <= NEAR_PX:
                owners[k] = ink, int(np.bincount(ring[inner]).argmax())
    return owners


def _nearest(points: F64, contours: Sequence[Contour]) -> tuple[F64, I64]:
    """How far points are from contours, infinite if that is more than near, and from which of them."""
    lines = [contour.sampled(0.25) for contour in contours]
    owner = np.repeat(np.arange(len(lines)), [len(line) for line in lines])
    ends = [
        following(line) if contour.closed else line[[*range(1, len(line)), -1]]
        for line, contour in zip(lines, contours, strict=True)
    ]
    away, segment = nearest_segments(np.ascontiguousarray(points), np.concatenate(lines), np.concatenate(ends), NEAR_PX)
    return away, np.where(segment >= 0, owner[segment], 0)


def _place_on(contour: Contour, place: F64) -> tuple[float, F64]:
    """The parameter, piece and share in one number, of the place of a contour nearest to a place; and that."""
    curves = contour.curves()
    piece, t, _ = bezier.nearest(curves, (float(place[0]), float(place[1])))
    return piece + t, bezier.evaluate(curves[piece], np.array([t]))[0]


def _is_fixed(chain: F64) -> bool:
    """Whether a chain is too short to tell what runs along it, or runs along an edge of the picture."""
    return len(chain) < FEW_POINTS or on_one_edge(chain)


def _junctions(graph: Graph, owners: Sequence[Owner | None], contours: Contours) -> dict[int, F64]:
    """Where the junctions lie: at the crossing of the edge that runs through with the one that ends at it."""
    at: dict[int, F64] = {}
    meeting: dict[int, list[Owner | None]] = {}
    fixed: set[int] = set()
    for chain, ends, owner in zip(graph.chains, graph.ends.tolist(), owners, strict=True):
        for end, place in zip(ends, (chain[0], chain[-1]), strict=True):
            if end >= 0:
                at.setdefault(end, place)
                meeting.setdefault(end, []).append(owner)
                fixed |= {end} if on_one_edge(chain) else set()
    for end, own in meeting.items():
        known = sorted({owner for owner in own if owner is not None}, key=lambda o: -own.count(o))
        if end in fixed or not known:
            continue
        place = at[end]
        for _ in range(APPROACHES):
            before = place
            for owner in reversed(known[:2]):
                place = _place_on(contours[owner[0]][owner[1]], place)[1]
            if np.hypot(*(place - before)) < SHORT_PX:
                break
        ink, ring = known[0]
        anchors = contours[ink][ring].anchors
        nearest = anchors[np.hypot(*(anchors - place).T).argmin()]
        place = nearest if np.hypot(*(nearest - place)) < AT_ANCHOR_PX else place
        if np.hypot(*(place - at[end])) <= 2.0 * NEAR_PX:
            at[end] = place
    return at


def _part(graph: Graph, k: int, owner: Owner, ends: Sequence[F64], contours: Contours) -> Contour | None:
    """The stretch of a contour that runs along a chain; None if it does not all the way."""
    whole, chain = contours[owner[0]][owner[1]], graph.chains[k]
    forth = int(graph.labels[k, 0]) - 1 == owner[0]
    if not ends:
        part = whole
    else:
        first, last = (_place_on(whole, place)[0] for place in (ends if forth else ends[::-1]))
        cut = _stretch(whole, first, last)
        if cut is None:
            return None
        part = cut
    long, wanted = (float(np.hypot(*np.diff(line, axis=0).T).sum()) for line in (part.sampled(0.25), chain))
    if not LENGTHS[0] * wanted <= long <= LENGTHS[1] * wanted + NEAR_PX:
        return None
    if len(chain) > 2 and not np.isfinite(_nearest(chain[1:-1], [part])[0]).all():
        return None
    return part if forth else part.reversed()


def _stretch(contour: Contour, first: float, last: float) -> Contour | None:
    """A closed contour from one parameter to another, as it runs, as an open one."""
    curves, n = contour.curves(), len(contour)
    last = last if last > first + 1e-9 else last + n
    parts, at = [], first
    while at < last - 1e-9:
        piece = int(np.floor(at + 1e-9))
        begin, end = max(at - piece, 0.0), min(last - piece, 1.0)
        curve = curves[piece % n]
        if end < 1.0:
            curve = bezier.split(curve, end)[0]
        if begin > 0.0:
            curve = bezier.split(curve, begin / end)[1]
        if np.hypot(*np.diff(curve, axis=0).T).sum() > SHORT_PX:
            parts.append((curve, piece % n))
        at = piece + 1.0
    if not parts:
        return None
    points = np.empty((len(parts) + 1, 3, 2))
    points[0] = parts[0][0][0]
    points[-1] = parts[-1][0][3]
    kinds = np.full(len(points), int(AnchorKind.SMOOTH), dtype=np.uint8)
    for i, (curve, piece) in enumerate(parts):
        points[i, 1:] = curve[:2]
        points[i + 1, :2] = curve[2:]
        if i > 0:
            kinds[i] = contour.kinds[piece]
    for i, at in ((0, first), (-1, last)):
        nearest = round(at)
        if abs(at - nearest) < 1e-6:
            kinds[i] = contour.kinds[nearest % n]
    return Contour(points, kinds, False)


def _between(part: Contour, ends: Sequence[F64]) -> Contour:
    """A stretch with its ends at its junctions."""
    points = part.points.copy()
    for i, place in zip((0, -1), ends, strict=True):
        points[i] += place - points[i, 1]
    points[0, 0], points[-1, 2] = points[0, 1], points[-1, 1]
    return replace(part, points=points)
