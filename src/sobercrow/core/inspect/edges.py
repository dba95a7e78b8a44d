"""All edges of artwork at once: points on them, which way they run, on which side the ink is, what lies near what."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F64, I64, cumulated
from sobercrow.core.artwork.hit import box_holds
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry._near_kernels import near_pairs
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.polygon import boxes_of
from sobercrow.core.handover.inks import PaintedInk

MOST_POINTS = 120_000
PARALLEL_COS, STRAIGHT_COS, FACING_COS = 0.9, 0.99, 0.8
"""Two edges face each other if they are parallel within 26°, and the way across is within 37° of both normals."""
ROUND_ABOUT, WEDGE = 1.5, 8.0
"""Along their contour they are so many times further apart than across: parallel ones, and ones at an angle, which
without this would be met at the tip of every wedge."""


@dataclass(frozen=True, slots=True)
class Edge:
    """A contour as one ink draws it: where it is in the artwork, and whether it is filled or the middle of a stroke."""

    shape: int
    contour: int
    ink: int
    is_filled: bool
    outline: Contour


def edges_of(artwork: Artwork, inks: list[PaintedInk]) -> list[Edge]:
    """Return all contours that are drawn, each once for every ink that draws it."""
    made: dict[tuple[int, int, int], Edge] = {}
    for n, ink in enumerate(inks):
        for coat in ink.coats:
            for c, outline in enumerate(coat.shape.contours):
                if len(outline.curves()):
                    made.setdefault((coat.place, c, n), Edge(coat.place, c, n, coat.shape.fill is not None, outline))
    return list(made.values())


def _evenly_run(curves: F64) -> F64:
    """Curves, the straight ones without handles given some, so that they are run through evenly."""
    curves = curves.copy()
    plain = (curves[:, 0] == curves[:, 1]).all(axis=1) & (curves[:, 2] == curves[:, 3]).all(axis=1)
    third = (curves[plain, 3] - curves[plain, 0]) / 3.0
    curves[plain, 1] += third
    curves[plain, 2] -= third
    return curves


def _is_within(place: F64, line: F64) -> bool:
    """Whether a place lies within a closed line, by the even-odd rule."""
    x, y = place
    after = np.roll(line, -1, axis=0)
    passes = (line[:, 1] > y) != (after[:, 1] > y)
    a, b = line[passes], after[passes]
    return bool(((a[:, 0] + (y - a[:, 1]) / (b[:, 1] - a[:, 1]) * (b[:, 0] - a[:, 0])) > x).sum() % 2)


class EdgePoints:
    """Points on edges, `spacing` px apart or nearer."""

    def __init__(self, edges: list[Edge], spacing: float) -> None:
        """Lay points on edges, one at least."""
        self.edges = edges
        curves = [edge.outline.curves() for edge in edges]
        every = _evenly_run(np.concatenate(curves))
        own = np.repeat(np.arange(len(edges)), [len(c) for c in curves])
        lengths = np.linalg.norm(np.diff(every, axis=1), axis=-1).sum(axis=1)
        self.spacing = max(spacing, float(lengths.sum()) / MOST_POINTS)
        counts = np.maximum(1, np.ceil(lengths / self.spacing)).astype(np.int64)
        piece = np.repeat(np.arange(len(every)), counts)
        t = (np.arange(len(piece)) - np.repeat(np.cumsum(counts) - counts, counts) + 0.5) / counts[piece]
        self.places: F64 = bezier.on_curves(every[piece], t[:, None])
        ways = bezier.along_curves(every[piece], t[:, None])
        self.ways: F64 = ways / np.maximum(np.hypot(ways[:, 0], ways[:, 1]), 1e-12)[:, None]
        self.edge: I64 = own[piece]
        self.firsts: I64 = np.searchsorted(self.edge, np.arange(len(edges) + 1))
        first, last = self.firsts[:-1], self.firsts[1:] - 1
        far = np.hypot(*np.diff(self.places, axis=0, prepend=self.places[:1]).T)
        far[first] = 0.0
        along = np.cumsum(far)
        self.along: F64 = np.asarray(along - along[first][self.edge], dtype=np.float64)
        back = np.hypot(*(self.places[first] - self.places[last]).T)
        self.length: F64 = np.asarray(self.along[last] + back, dtype=np.float64)
        starts = cumulated([len(own) for own in curves])[:-1]
        self.areas: F64 = np.asarray(np.add.reduceat(bezier.areas(every), starts), dtype=np.float64)
        self.ink: I64 = np.array([edge.ink for edge in edges], dtype=np.int64)
        self.shape: I64 = np.array([edge.shape for edge in edges], dtype=np.int64)
        self.closed = np.array([edge.outline.closed for edge in edges], dtype=bool)
        self.is_filled = np.array([edge.is_filled for edge in edges], dtype=bool)

    @cached_property
    def outward(self) -> F64:
        """The way out of the ink at every point."""
        side = np.where(self.areas > 0.0, 1.0, -1.0)
        by_shape: dict[tuple[int, int], list[int]] = {}
        for n, edge in enumerate(self.edges):
            by_shape.setdefault((edge.shape, edge.ink), []).append(n)
        firsts, boxes = self.firsts, boxes_of(self.places, self.firsts).tolist()
        for members in by_shape.values():
            for n in members if len(members) > 1 else ():
                lines = [
                    self.places[firsts[m] : firsts[m + 1]] for m in members if m != n and box_holds(boxes[m], boxes[n])
                ]
                depth = sum(_is_within(self.places[firsts[n]], line) for line in lines)
                side[n] *= -1.0 if depth % 2 else 1.0
        return np.column_stack([self.ways[:, 1], -self.ways[:, 0]]) * side[self.edge][:, None]

    def pairs(self, reach: float) -> I64:
        """Return which points lie within reach of each other, in one ink, (k, 2)."""
        if len(self.places) < 2:
            return np.zeros((0, 2), dtype=np.int64)
        # neighbours along one edge are of no interest
        around = np.where(self.closed, self.length, np.inf)
        inks = self.ink[self.edge]
        return near_pairs(self.places, inks, self.edge, self.along, around, reach, ROUND_ABOUT)

    def along_between(self, pairs: I64) -> F64:
        """Return how far points are from each other along their edge; endless between two edges."""
        one, other = pairs[:, 0], pairs[:, 1]
        way = np.abs(self.along[one] - self.along[other])
        edge = self.edge[one]
        way = np.where(self.closed[edge], np.minimum(way, self.length[edge] - way), way)
        return np.where(edge == self.edge[other], way, np.inf)

    def facing(self, pairs: I64, reach: float) -> tuple[I64, F64, NDArray[np.bool_]]:
        """Return the pairs between which ink or paper is narrower than reach, how narrow, and whether it is ink."""
        filled = self.is_filled[self.edge]
        pairs = pairs[filled[pairs[:, 0]] & filled[pairs[:, 1]]]
        across = self.places[pairs[:, 1]] - self.places[pairs[:, 0]]
        far = np.hypot(across[:, 0], across[:, 1])
        one, other = self.outward[pairs[:, 0]], self.outward[pairs[:, 1]]
        # the way straight across, as points lie beside each other only within their spacing
        ahead, back = (one * across).sum(axis=1), -(other * across).sum(axis=1)
        straight = np.abs(ahead)
        near = (straight < reach) & (straight > FACING_COS * far) & ((ahead < 0.0) == (back < 0.0))
        alike = -(one * other).sum(axis=1)
        near &= alike > PARALLEL_COS
        near[near] &= (alike[near] > STRAIGHT_COS) | (self.along_between(pairs[near]) > WEDGE * far[near])
        return pairs[near], straight[near], ahead[near] < 0.0

    def doubled(self, pairs: I64, same: float) -> I64:
        """Return the pairs that lie in one place within `same`, and run one way or the opposite one."""
        across = self.places[pairs[:, 1]] - self.places[pairs[:, 0]]
        one, other = self.ways[pairs[:, 0]], self.ways[pairs[:, 1]]
        along = np.abs((across * one).sum(axis=1))
        off = np.abs(across[:, 0] * one[:, 1] - across[:, 1] * one[:, 0])
        runs = np.abs((one * other).sum(axis=1)) > 0.95
        kept: I64 = pairs[runs & (off <= same) & (along <= 0.55 * self.spacing)]
        return kept
