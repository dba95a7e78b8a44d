"""Choosing anchors: by a lasso, more or fewer of them, by kind, the next one; and saying what is chosen."""

from __future__ import annotations

from collections.abc import Collection, Iterable

import numpy as np

from sobercrow.core.arrays import F64, following
from sobercrow.core.artwork.choice import AnchorRef, Choice
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.artwork.stretches import contour_of, part_of, stretch_of
from sobercrow.core.artwork.table import anchor_table, rows_of
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry.contour import AnchorKind
from sobercrow.core.settings import px_to_mm


def within_ring(ring: F64, points: F64) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
    """Tell which points (n, 2) lie within a closed line (m, 2), by the even-odd rule."""
    x, y = points.T
    inside = np.zeros(len(points), dtype=np.bool_)
    for (ax, ay), (bx, by) in zip(ring.tolist(), following(ring).tolist(), strict=True):
        if ay != by:
            passes = (ay > y) != (by > y)
            inside ^= passes & (ax + (y - ay) / (by - ay) * (bx - ax) > x)
    return inside


def anchors_within(artwork: Artwork, ring: F64) -> frozenset[AnchorRef]:
    """Return the anchors that can be chosen within a closed line (n, 2), by the even-odd rule."""
    table = anchor_table(artwork)
    near = table.within((*ring.min(axis=0).tolist(), *ring.max(axis=0).tolist()))
    near = near[~np.isin(table.names[near, 0], list(artwork.fixed))]
    return _named(artwork, near[within_ring(ring, table.points[near, 1])])


def _named(artwork: Artwork, rows: Iterable[int]) -> frozenset[AnchorRef]:
    names = anchor_table(artwork).names
    return frozenset(AnchorRef(*names[row].tolist()) for row in rows)


def _by_contour(refs: Collection[AnchorRef]) -> dict[tuple[int, int], set[int]]:
    owners: dict[tuple[int, int], set[int]] = {}
    for ref in refs:
        owners.setdefault((ref.shape, ref.contour), set()).add(ref.anchor)
    return owners


def _beside(artwork: Artwork, owner: tuple[int, int], place: int) -> tuple[int | None, int | None]:
    """The anchors before and after one on its contour; None beyond the ends of an open one."""
    contour = artwork.shapes[owner[0]].contours[owner[1]]
    count, closed = len(contour), contour.closed
    before = place - 1 if place else (count - 1 if closed else None)
    after = place + 1 if place + 1 < count else (0 if closed else None)
    return before, after


def grown(artwork: Artwork, refs: Collection[AnchorRef]) -> frozenset[AnchorRef]:
    """Return anchors with those before and after every run of them on its contour."""
    more = set(refs)
    for owner, places in _by_contour(refs).items():
        for place in places:
            more.update(AnchorRef(*owner, k) for k in _beside(artwork, owner, place) if k is not None)
    return frozenset(more)


def shrunk(artwork: Artwork, refs: Collection[AnchorRef]) -> frozenset[AnchorRef]:
    """Return anchors without the first and the last of every run of them; a single one stays."""
    kept: set[AnchorRef] = set()
    for owner, places in _by_contour(refs).items():
        inner = {k for k in places if all(b is not None and b in places for b in _beside(artwork, owner, k))}
        kept.update(AnchorRef(*owner, k) for k in inner or places)
    return frozenset(kept)


def whole_contours(artwork: Artwork, refs: Collection[AnchorRef]) -> frozenset[AnchorRef]:
    """Return all anchors of the contours that some are on."""
    return frozenset(
        AnchorRef(s, c, k) for s, c in _by_contour(refs) for k in range(len(artwork.shapes[s].contours[c]))
    )


def of_kind(artwork: Artwork, refs: frozenset[AnchorRef], kind: AnchorKind) -> frozenset[AnchorRef]:
    """Return those of some anchors that are of a kind, or of all anchors if none are given."""
    table = anchor_table(artwork)
    rows = rows_of(artwork, refs) if refs else np.arange(len(table.kinds))
    return _named(artwork, rows[table.kinds[rows] == kind])


def next_anchor(artwork: Artwork, refs: Collection[AnchorRef], step: int = 1) -> frozenset[AnchorRef]:
    """Return the anchor that follows the one chosen last on its contour, round and round; `step` −1 goes back."""
    if not refs:
        first = next((AnchorRef(s, 0, 0) for s, _ in enumerate(artwork.shapes)), None)
        return frozenset() if first is None else frozenset({first})
    stretch = stretch_of(artwork, refs)
    if stretch is not None:
        places = stretch.places(len(contour_of(artwork, stretch)))
        last = AnchorRef(stretch.shape, stretch.contour, places[-1 if step > 0 else 0])
    else:
        last = max(refs) if step > 0 else min(refs)
    count = len(artwork.shapes[last.shape].contours[last.contour])
    return frozenset({last._replace(anchor=(last.anchor + step) % count)})


def told(artwork: Artwork, choice: Choice) -> str:
    """Say what is chosen: "stretch of 9 anchors, 14.2 mm"."""
    if choice.anchors:
        count = len(choice.anchors)
        if count == 1:
            (ref,) = choice.anchors
            kind = AnchorKind(int(artwork.shapes[ref.shape].contours[ref.contour].kinds[ref.anchor]))
            return f"1 anchor of {artwork.anchor_count}, {kind.name.lower()}"
        stretch = stretch_of(artwork, choice.anchors)
        if stretch is None:
            return f"{count} anchors of {artwork.anchor_count}"
        part = part_of(contour_of(artwork, stretch), stretch.first, stretch.pieces)
        length = px_to_mm(float(bezier.lengths(part.curves()).sum()), artwork.dpi)
        whole = contour_of(artwork, stretch).closed and count == len(contour_of(artwork, stretch))
        return f"{'Contour' if whole else 'Stretch'} of {count} anchors, {length:.1f} mm"
    if choice.shapes:
        return f"{len(choice.shapes)} of {len(artwork.shapes)} shapes"
    return "Nothing chosen"
