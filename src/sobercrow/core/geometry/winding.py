"""Contours filled by the rule of winding as ones to be filled by the even-odd rule (W3C, SVG 2: fill-rule).

Points are laid on the contours, and the sides between them sorted into rows. One sweep over the rows tells which
contours cross or touch, another how often all others go round a place on each. A contour that nothing touches is a
border of the area or it is not, and stays as it is or goes. Only those that cross are parted into faces by GEOS.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
import shapely

from sobercrow.core.arrays import F64, I64, cumulated, followers
from sobercrow.core.errors import EditError
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry._winding_kernels import crossings, turns_at
from sobercrow.core.geometry.combine import FLAT_PX, Progress, shapes_along
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.laid import Laid, Lines

WORKED_AT_PX = 400.0
"""Contours that cross are worked on so large: slivers are told from shapes by their size."""
MOST_CROSSINGS = 300_000
"""Contours that cross each other more often are refused: their faces would not fit into memory."""
ALIKE_PX2 = 0.025
LEAST_PX = 1e-9


class TooManyCrossings(EditError):
    """Contours cross each other too often to be parted."""


def wound(groups: Sequence[Sequence[Contour]], progress: Progress | None = None) -> list[tuple[Contour, ...]]:
    """Return groups of closed contours, each filled by the rule of winding, as ones to be filled by the even-odd rule.

    Contours that cross no others are given back as such, or left out where they bound nothing. All groups are looked
    at in one go; time grows as n log n with what they have of sides and crossings. `progress` is told the share done,
    0-1, and may raise `Cancelled`.

    Raises
    ------
    TooManyCrossings
        If contours cross each other more than 300,000 times.
    """
    several = [k for k, group in enumerate(groups) if len(group) > 1]
    made = [tuple(group) for group in groups]
    if several:
        rows = _Rows.of([groups[k] for k in several])
        for k, own in zip(several, _kept(rows, [groups[k] for k in several], progress), strict=True):
            made[k] = own
    return made


@dataclass(frozen=True, slots=True, eq=False)
class _Rows:
    """The sides of rings in rows, each a band of one group: entries are sorted by row and their left end."""

    ends: F64
    """The sides, x0 y0 x1 y1."""
    ring: I64
    after: I64
    first: I64
    """The first side of each ring, and after the last."""
    group: I64
    """The group of each ring."""
    bands: _Bands
    row: I64
    side: I64
    low: F64
    high: F64
    first_of_row: I64

    @classmethod
    def of(cls, groups: Sequence[Sequence[Contour]]) -> _Rows:
        contours = [contour for group in groups for contour in group]
        group = np.repeat(np.arange(len(groups)), [len(own) for own in groups])
        anchors = np.array([len(contour) for contour in contours])
        curves = np.concatenate([contour.curves() for contour in contours])
        owner = np.repeat(np.arange(len(contours)), anchors)
        sizes = _sizes(curves, group[owner], len(groups))
        points, at = bezier.chorded(curves, (sizes * (FLAT_PX / WORKED_AT_PX))[group[owner]])
        ring = owner[np.floor(at).astype(np.int64)]
        counts = np.bincount(ring, minlength=len(contours))
        first = cumulated(counts)
        after = followers(first)
        ends = np.ascontiguousarray(np.concatenate([points, points[after]], axis=1))
        bands = _Bands.of(ends, group[ring], len(groups))
        row, side, low, high = bands.entries(ends, group[ring])
        first_of_row = np.searchsorted(row, np.arange(bands.first[-1] + 1))
        return cls(ends, ring, after, first, group, bands, row, side, low, high, first_of_row)

    def turns(self, places: F64, group: I64, label: I64, own: I64, of_own: bool) -> I64:
        """How often rings go round places, each of a group, and how many sides a ray meets; see `turns_at`."""
        found = np.zeros((len(places), 2), dtype=np.int64)
        rows = self.bands.row_of(places[:, 1], group)
        turns_at(
            np.ascontiguousarray(places),
            rows,
            np.ascontiguousarray(own),
            of_own,
            self.first_of_row,
            self.side,
            self.high,
            self.ends,
            label[self.ring],
            found,
        )
        return found

    def united(self) -> tuple[I64, np.ndarray[tuple[int], np.dtype[np.bool_]]]:
        """For each ring the one that stands for all that hang together with it, and whether it crosses any."""
        count = len(self.group)
        parent, crossed = np.arange(count), np.zeros(count, dtype=np.uint8)
        found = crossings(
            self.row, self.side, self.low, self.high, self.ends, self.ring, self.after, parent, crossed, MOST_CROSSINGS
        )
        if found > MOST_CROSSINGS:
            raise TooManyCrossings(
                "one shape's outlines cross each other over 300,000 times; draw it as several shapes."
            )
        while (parent[parent] != parent).any():
            parent = parent[parent]
        return parent, crossed.astype(np.bool_)


class _Bands(NamedTuple):
    """How the sides of each group are parted into rows: about as many as its sides, none lower than they are high."""

    top: F64
    height: F64
    first: I64
    """The first row of each group, and after the last."""

    @classmethod
    def of(cls, ends: F64, group: I64, count: int) -> _Bands:
        ys = ends[:, [1, 3]]
        top, bottom = np.full(count, np.inf), np.full(count, -np.inf)
        np.minimum.at(top, group, ys.min(axis=1))
        np.maximum.at(bottom, group, ys.max(axis=1))
        number = np.bincount(group, minlength=count)
        usual = np.bincount(group, np.abs(ys[:, 1] - ys[:, 0]), count) / np.maximum(number, 1)
        span = np.maximum(bottom - top, LEAST_PX)
        rows = np.clip(np.floor(span / np.maximum(usual, span / np.maximum(number, 1))), 1, None).astype(np.int64)
        return cls(top, span / rows, cumulated(rows))

    def row_of(self, ys: F64, group: I64) -> I64:
        rows = np.floor((ys - self.top[group]) / self.height[group]).astype(np.int64)
        most = self.first[group + 1] - self.first[group] - 1
        return np.asarray(self.first[group] + np.clip(rows, 0, most))

    def entries(self, ends: F64, group: I64) -> tuple[I64, I64, F64, F64]:
        """The rows sides pass through: row, side, and how far the part in the row reaches to the left and right."""
        one, other = self.row_of(ends[:, 1], group), self.row_of(ends[:, 3], group)
        lowest = np.minimum(one, other)
        counts = np.abs(one - other) + 1
        side = np.repeat(np.arange(len(ends)), counts)
        row = lowest[side] + np.arange(len(side)) - np.repeat(np.cumsum(counts) - counts, counts)
        x0, y0, x1, y1 = ends[side].T
        top = self.top[group[side]] + (row - self.first[group[side]]) * self.height[group[side]]
        with np.errstate(divide="ignore", invalid="ignore"):
            at = [np.clip((y - y0) / (y1 - y0), 0.0, 1.0) for y in (top, top + self.height[group[side]])]
        at = [np.where(np.isfinite(share), share, whole) for share, whole in zip(at, (0.0, 1.0), strict=True)]
        xs = [x0 + share * (x1 - x0) for share in at]
        slack = LEAST_PX * (1.0 + np.abs(x1 - x0))
        low, high = np.minimum(*xs) - slack, np.maximum(*xs) + slack
        order = np.lexsort((low, row))
        return row[order], side[order], low[order], high[order]


def _sizes(curves: F64, group: I64, count: int) -> F64:
    """The larger side of each group's box."""
    low, high = np.full((count, 2), np.inf), np.full((count, 2), -np.inf)
    np.minimum.at(low, group, curves.min(axis=1))
    np.maximum.at(high, group, curves.max(axis=1))
    return np.asarray(np.maximum((high - low).max(axis=1), LEAST_PX))


def _kept(rows: _Rows, groups: Sequence[Sequence[Contour]], progress: Progress | None) -> list[tuple[Contour, ...]]:
    """The contours of each group that bound its area by the rule of winding."""
    told = progress or (lambda _share: None)
    told(0.0)
    label, crossed = rows.united()
    told(0.3)
    starts = rows.ends[rows.first[:-1], :2]
    around = rows.turns(starts, rows.group, label, label, False)[:, 0]
    x0, y0, x1, y1 = rows.ends.T
    turn = np.sign(np.add.reduceat(x0 * y1 - x1 * y0, rows.first[:-1])).astype(np.int64)
    bounds = ((around != 0) != (around + turn != 0)) | (turn == 0)
    made: list[list[Contour]] = [[] for _ in groups]
    contours = [contour for group in groups for contour in group]
    parted: dict[int, list[int]] = {}
    for k in np.flatnonzero(crossed).tolist():
        parted.setdefault(int(label[k]), []).append(k)
    for k in np.flatnonzero(~crossed & bounds).tolist():
        made[int(rows.group[k])].append(contours[k])
    for n, (one, own) in enumerate(parted.items()):
        told(0.4 + 0.6 * n / len(parted))
        made[int(rows.group[own[0]])] += _faced(rows, label, one, [contours[k] for k in own], int(around[own[0]]))
    # a group nothing of which goes stays as it is, in its order
    return [
        tuple(group) if {id(contour) for contour in own} == {id(contour) for contour in group} else tuple(own)
        for own, group in zip(made, groups, strict=True)
    ]


def _faced(rows: _Rows, label: I64, one: int, contours: Sequence[Contour], around: int) -> Sequence[Contour]:
    """The borders of what contours that cross or touch enclose, `around` which others go so often."""
    group = int(rows.group[one])
    curves = np.concatenate([contour.curves() for contour in contours])
    scale = WORKED_AT_PX / float(_sizes(curves, np.zeros(len(curves), dtype=np.int64), 1)[0])
    laid = Laid.of_all([contour.scaled(scale) for contour in contours], FLAT_PX)
    edges = shapely.unary_union([shapely.LinearRing(own.points) for own in laid if len(own.points) >= 3])
    faces = shapely.get_parts(shapely.polygonize(shapely.get_parts(edges)))
    inside = shapely.get_coordinates(shapely.point_on_surface(faces)) / scale
    every = np.full(len(inside), group), np.full(len(inside), one)
    turns = rows.turns(inside, every[0], label, every[1], True)
    bounded = (turns[:, 0] + around != 0) != (around != 0)
    if shapely.area(faces[bounded != (turns[:, 1] % 2 == 1)]).sum() < ALIKE_PX2:
        return contours
    area = shapely.coverage_union_all(faces[bounded])
    return [contour.scaled(1.0 / scale) for part in shapes_along(area, Lines(laid, FLAT_PX)) for contour in part]
