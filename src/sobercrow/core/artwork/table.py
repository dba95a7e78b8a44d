"""All anchors of an artwork in one table, so that they are looked through at once rather than one by one."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from itertools import chain

import numpy as np

from sobercrow.core.arrays import F64, I64, U8, cumulated
from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.geometry.contour import first_way


@dataclass(frozen=True, slots=True, eq=False)
class AnchorTable:
    """Anchors, one row each, in the order of shapes, contours and places.

    Attributes
    ----------
    points : (n, 3, 2) float64
        Handle in, anchor, handle out.
    kinds : (n,) uint8
        Values of `AnchorKind`.
    names : (n, 3) int64
        Shape, contour and place of each.
    into, out : (n, 2) float64
        Unit directions of travel into and out of each; nought where there is none.
    """

    points: F64
    kinds: U8
    names: I64
    into: F64
    out: F64

    def within(self, frame: tuple[float, float, float, float]) -> I64:
        """Return the rows of anchors in a frame: left, top, right, bottom."""
        left, top, right, bottom = frame
        x, y = self.points[:, 1, 0], self.points[:, 1, 1]
        return np.flatnonzero((x >= left) & (x <= right) & (y >= top) & (y <= bottom))

    def rows(self, names: Iterable[tuple[int, int, int]]) -> I64:
        """Return the rows of anchors by their names; those that are not there are left out."""
        wanted = np.fromiter(chain.from_iterable(names), dtype=np.int64).reshape(-1, 3)
        span = self.names.max(axis=0, initial=0) + 1
        inside = ((wanted >= 0) & (wanted < span)).all(axis=1)
        code = np.array([span[1] * span[2], span[2], 1])
        codes, asked = self.names @ code, wanted[inside] @ code
        at = np.minimum(np.searchsorted(codes, asked), max(len(codes) - 1, 0))
        return np.sort(at[codes[at] == asked]) if len(codes) else np.zeros(0, dtype=np.int64)


def table_of(shapes: Sequence[Shape], first: int = 0) -> AnchorTable:
    """Return the table of some shapes that follow each other, the first of which has a number in its artwork."""
    contours = [(s, c, contour) for s, shape in enumerate(shapes, first) for c, contour in enumerate(shape.contours)]
    if not contours:
        none = np.zeros((0, 2))
        return AnchorTable(np.zeros((0, 3, 2)), np.zeros(0, np.uint8), np.zeros((0, 3), np.int64), none, none)
    counts = np.array([len(contour) for _, _, contour in contours])
    starts = cumulated(counts)
    points: F64 = np.concatenate([contour.points for _, _, contour in contours])
    place = np.arange(starts[-1]) - np.repeat(starts[:-1], counts)
    after, before = np.arange(1, starts[-1] + 1), np.arange(-1, starts[-1] - 1)
    after[starts[1:] - 1], before[starts[:-1]] = starts[:-1], starts[1:] - 1
    names = np.repeat([(s, c) for s, c, _ in contours], counts, axis=0)
    here, behind, ahead = points[:, 1], points[before], points[after]
    return AnchorTable(
        points,
        np.concatenate([contour.kinds for _, _, contour in contours]),
        np.column_stack([names, place]),
        first_way(here - points[:, 0], here - behind[:, 2], here - behind[:, 1]),
        first_way(points[:, 2] - here, ahead[:, 0] - here, ahead[:, 1] - here),
    )


def anchor_table(artwork: Artwork) -> AnchorTable:
    """Return the table of an artwork; worked out once."""
    table: AnchorTable = artwork.once("table", lambda one: table_of(one.shapes))
    return table


def rows_of(artwork: Artwork, names: frozenset[tuple[int, int, int]]) -> I64:
    """Return the rows of chosen anchors in an artwork's table; worked out once for each choice."""
    rows: I64 = artwork.latest("rows", names, lambda: anchor_table(artwork).rows(names))
    return rows
