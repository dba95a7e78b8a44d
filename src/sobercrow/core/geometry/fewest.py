"""The fewest cubics that hold a line within a tolerance: of curves that are there, or of points."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from sobercrow.core.arrays import F64, I64, U8
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry._thin_kernels import thin_runs
from sobercrow.core.geometry.contour import AnchorKind, Contour, first_way
from sobercrow.core.geometry.polygon import along_of
from sobercrow.core.parallel import core_count, in_parts

SAMPLES_A_NODE = 3
"""So many samples at least lie from one place that may be an anchor to the next."""
SAMPLE_PX = 1.2
NODES, MOST_NODES, LEAST_NODE_PX, MOST_NODE_PX = 8, 24, 1.5, 12.0
"""A run has so many more places for each piece beyond two, no more than that in all, and no nearer or further apart."""

EXTREME_COSTS, TURN_COSTS = -0.1, 0.6
"""What an anchor costs, against one elsewhere, at an extreme and where the bend turns, if those are wanted."""
LEVEL = 1e-4
POINT_NODES, MOST_APART_PX, WAY_POINTS = 40, 4.0, 2
"""A line of points has so many places for anchors, no further apart than that; its direction at one is read from so
many points on either side."""


@dataclass(frozen=True, slots=True, eq=False)
class Runs:
    """Open parts of contours to be thinned, sampled: which samples are of which run, and which may be anchors."""

    points: F64
    ways: F64
    along: F64
    nodes: I64
    prices: F64
    starts: I64
    free_ends: U8

    @classmethod
    def of(cls, parts: Sequence[Contour], at_extremes: bool = False) -> Runs:
        """Sample parts; places that are level or upright, or where the bend turns, may be cheaper than others."""
        curves: F64 = np.concatenate([part.curves() for part in parts])
        pieces = np.array([len(part) - 1 for part in parts])
        owner = np.repeat(np.arange(len(parts)), pieces)
        c = [curves[:, k] for k in range(4)]
        leaves = first_way(c[1] - c[0], c[2] - c[0], c[3] - c[0])
        arrives = first_way(c[3] - c[2], c[3] - c[1], c[3] - c[0])
        sizes = bezier.lengths(curves)
        run_sizes = np.bincount(owner, sizes, len(parts))
        # of two pieces one can be left at most, so there their anchors are enough
        spacing = np.clip(run_sizes / np.clip(NODES * (pieces - 2), 1e-9, MOST_NODES), LEAST_NODE_PX, MOST_NODE_PX)
        spacing = np.where(pieces > 2, spacing, np.inf)[owner]
        steps = np.maximum(1, np.rint(sizes / spacing)).astype(np.int64)
        fine = np.maximum(SAMPLES_A_NODE, np.ceil(sizes / steps / SAMPLE_PX)).astype(np.int64)
        counts = steps * fine
        piece = np.repeat(np.arange(len(curves)), counts)
        step = np.arange(len(piece)) - np.repeat(np.cumsum(counts) - counts, counts)
        level = bezier.level_places(curves).reshape(len(curves), 4)
        if at_extremes:
            level = np.concatenate([level, bezier.bend_turns(curves)], axis=1)
        at_level, which = np.nonzero(~np.isnan(level))
        # every sample by its piece and its place on that: even steps, and where it is level or upright
        t = np.concatenate([step / counts[piece], level[at_level, which]])
        is_node = np.concatenate([step % fine[piece] == 0, np.ones(len(at_level), dtype=np.bool_)])
        price = np.concatenate([np.ones(len(step)), np.where(which < 4, EXTREME_COSTS, TURN_COSTS)])
        piece = np.concatenate([piece, at_level])
        order = np.lexsort((t, piece))
        piece, t, is_node, price = piece[order], t[order, None], is_node[order], price[order]
        ways = bezier.along_curves(curves[piece], t)
        long = np.hypot(*ways.T)[:, None]
        ways = np.where(long > 1e-9, ways / np.maximum(long, 1e-9), leaves[piece])
        begins = t[:, 0] == 0.0
        ways[begins] = leaves[piece[begins]]
        before = ways.copy()  # the direction into a place is the one out of it but at anchors
        inner = begins & (np.concatenate([[-1], owner[piece][:-1]]) == owner[piece])
        before[inner] = arrives[piece[inner] - 1]
        # the last anchor of every run follows its samples
        last = np.searchsorted(owner[piece], np.arange(len(parts)), side="right")
        ends = np.cumsum(pieces) - 1
        points = np.insert(bezier.on_curves(curves[piece], t), last, curves[ends, 3], axis=0)
        way = np.insert(np.concatenate([before, ways], axis=1), last, np.tile(arrives[ends], 2), axis=0)
        marked, cost = np.insert(is_node, last, True), np.insert(price, last, 1.0)
        run_of = np.insert(owner[piece], last, np.arange(len(parts)))
        gaps = np.hypot(*np.diff(points, axis=0).T)
        nodes = np.flatnonzero(marked).astype(np.int64)
        starts = np.searchsorted(run_of[nodes], np.arange(len(parts) + 1)).astype(np.int64)
        corner = int(AnchorKind.CORNER)
        free_ends = np.array([(part.kinds[0] == corner, part.kinds[-1] == corner) for part in parts], dtype=np.uint8)
        prices = cost[nodes] if at_extremes else np.ones(len(nodes))
        # anchors that lie where the curve is level or upright already
        if at_extremes:
            prices[np.abs(way[nodes, 2:]).min(axis=1) < LEVEL] = EXTREME_COSTS
        return cls(points, way, np.concatenate([[0.0], np.cumsum(gaps)]), nodes, prices, starts, free_ends)

    def thinned(self, tolerance_px: float) -> list[F64]:
        """Return the anchors of every run, (m, 3, 2), those at its ends among them."""
        chosen, handles = np.empty(len(self.nodes), dtype=np.int64), np.empty((len(self.nodes), 4))
        counts = np.empty(len(self.starts) - 1, dtype=np.int64)
        own = (self.points, self.ways, self.along, self.nodes, self.prices, self.starts)
        into = (self.free_ends, tolerance_px, chosen, handles, counts)
        work = np.diff(self.starts).astype(np.float64) ** 2
        cores = core_count()
        shares = np.searchsorted(np.cumsum(work), work.sum() * np.arange(1, cores) / cores)
        ends = sorted({0, *shares.tolist(), len(counts)})
        in_parts(ends, lambda first, last: thin_runs(*own, first, last, *into))
        made = []
        for start, count in zip(self.starts[:-1].tolist(), counts.tolist(), strict=True):
            at = self.points[self.nodes[start + chosen[start : start + count + 1]]]
            held = handles[start : start + count]
            points = np.repeat(at[:, None], 3, axis=1)
            points[:-1, 2], points[1:, 0] = held[:, :2], held[:, 2:]
            made.append(points)
        return made

    @classmethod
    def through(cls, line: F64, out: F64 | None = None, into: F64 | None = None) -> Runs:
        """Take a line of points (n, 2), close together, as one run.

        `out` and `into` are the directions it is to have at its ends; without one it may have any.
        """
        count = len(line)
        at = np.arange(count)
        low, high = np.maximum(at - WAY_POINTS, 0), np.minimum(at + WAY_POINTS, count - 1)
        ways = line[high] - line[low]
        ways = ways / np.maximum(np.hypot(*ways.T), 1e-12)[:, None]
        for place, way in ((0, out), (-1, into)):
            if way is not None:
                ways[place] = way / max(float(np.hypot(*way)), 1e-12)
        along = along_of(line)
        spacing = float(np.clip(along[-1] / POINT_NODES, LEAST_NODE_PX, MOST_APART_PX))
        wanted = np.arange(1, max(1, round(along[-1] / spacing))) * spacing
        nodes = np.unique([0, *np.searchsorted(along, wanted).tolist(), count - 1]).astype(np.int64)
        free_ends = np.array([(out is None, into is None)], dtype=np.uint8)
        starts = np.array([0, len(nodes)], dtype=np.int64)
        return cls(line, np.concatenate([ways, ways], axis=1), along, nodes, np.ones(len(nodes)), starts, free_ends)


def fewest_cubics(line: F64, tolerance_px: float, out: F64 | None = None, into: F64 | None = None) -> F64:
    """Return the anchors (m, 3, 2) of the fewest cubics within a tolerance of points (n, 2), close together.

    The first and the last point are anchors; `out` and `into` as in `Runs.through`. Joints are smooth.
    """
    return Runs.through(np.ascontiguousarray(line), out, into).thinned(tolerance_px)[0]
