"""From ink to the paths of the strokes: thinning, and lines joined through their junctions as the pen ran."""

from __future__ import annotations

import math
from dataclasses import dataclass
from itertools import pairwise

import cv2
import numpy as np

from sobercrow.core.arrays import F32, F64, U8, greatest_of
from sobercrow.core.geometry.polygon import along_of
from sobercrow.core.strokes._skeleton_kernels import follow_skeleton, mark_nodes, thin

FINE, SLENDER_PX = 2, 8.0
"""The ink is thinned at so many times the picture's resolution where its strokes are narrower than this."""
STUB = 1.1
"""A line that ends freely is a stub if it is no longer than so many times half the stroke's width, from the edge."""
ENDED = 0.8
"""But it is none if the ink at its end is so many times as wide as usual: a pen was set down or lifted there."""
BRIDGE = 1.3
"""Junctions nearer to each other than so many times the stroke's width are one."""
THROUGH_COS = -0.7
"""Two lines that leave a junction at more than this turn are one stroke."""
CLEAR, CROSSING_CLEAR = 1.2, 1.8
"""Within so many times half the ink's width a junction pulls the lines that meet there off their way; where lines cross
that run straight on, within the latter."""
STRAIGHT_COS = -0.94
ACUTE_COS, TIP_REACH = 0.3, 1.5
"""Two lines alone that leave a junction at less than this angle meet in a tip beyond it, no further than so many times
as far as the pen's round would reach."""
LOOK_PX = 6.0
"""Over such a length beyond a junction a line's direction is read."""


@dataclass(frozen=True, slots=True, eq=False)
class Thinned:
    """Ink thinned to lines a pixel wide, and half its width at every place; `fine` pixels to one of the picture.

    The lines have a frame of paper, one pixel wide.
    """

    framed: U8
    radius: F32
    fine: int

    def radius_at(self, path: F64) -> F64:
        """Return half the ink's width along a path (n, 2), in px of the picture."""
        rows = np.clip((path[:, 1] * self.fine).astype(np.int64), 0, self.radius.shape[0] - 1)
        columns = np.clip((path[:, 0] * self.fine).astype(np.int64), 0, self.radius.shape[1] - 1)
        return np.asarray(self.radius[rows, columns] / self.fine, dtype=np.float64)


def thinned_ink(tones: U8, iso: float) -> Thinned:
    """Thin the ink of tones (h, w) below `iso`; at twice the picture's resolution where its strokes are slender."""
    ink = (tones < iso).astype(np.uint8)
    rim = int(ink.sum()) - int(cv2.erode(ink, np.ones((3, 3), np.uint8)).sum())
    fine = FINE if 2.0 * ink.sum() < SLENDER_PX * rim else 1
    if fine > 1:
        size = (tones.shape[1] * fine, tones.shape[0] * fine)
        ink = (cv2.resize(tones, size, interpolation=cv2.INTER_CUBIC) < iso).astype(np.uint8)
    framed = np.pad(ink, 1)
    radius = cv2.distanceTransform(framed, cv2.DIST_L2, 5)[1:-1, 1:-1]
    thin(framed)
    return Thinned(framed, np.asarray(radius, dtype=np.float32), fine)


def stroke_paths(thinned: Thinned) -> tuple[list[tuple[F64, bool]], F64]:
    """Return the paths of the strokes, (n, 2) in px of the picture, and whether each is closed; and their sharp tips.

    The lines are taken apart at their junctions; stubs are dropped, and lines that run through a junction joined. Paths
    run straight to a tip, (m, 2), and back.
    """
    framed, radius, fine = thinned.framed, thinned.radius, thinned.fine
    places, starts = follow_skeleton(framed, mark_nodes(framed))
    chains = [places[a:b] - 1 for a, b in pairwise(starts) if b - a > 1]
    if not chains:
        return [], np.zeros((0, 2))
    from scipy.sparse import coo_array  # SciPy comes in when it is first needed
    from scipy.sparse.csgraph import connected_components

    tips = np.array([end for chain in chains for end in (chain[0], chain[-1])])
    names, which = np.unique(tips, axis=0, return_inverse=True)
    ends = which.reshape(-1, 2)
    degree = np.bincount(ends.ravel(), minlength=len(names))
    reach = radius[names[:, 0], names[:, 1]]
    lengths = np.array([len(chain) - 1 for chain in chains])
    meeting = degree[ends] > 1
    loop = ends[:, 0] == ends[:, 1]
    bridge = meeting.all(axis=1) & ~loop & (lengths <= BRIDGE * 2.0 * reach[ends].min(axis=1))
    table = coo_array((np.ones(bridge.sum()), tuple(ends[bridge].T)), shape=(len(names), len(names)))
    _, group = connected_components(table, directed=False)
    held = np.bincount(group)
    middles = np.stack([np.bincount(group, names[:, axis]) / held for axis in (1, 0)], axis=1)
    wide = greatest_of(group, reach, len(held))
    stub = (meeting.sum(axis=1) == 1) & (lengths <= STUB * np.where(meeting, reach[ends], 0.0).max(axis=1) + fine)
    pen = float(np.median(np.concatenate([radius[tuple(chain.T)] for chain in chains])))
    ended = np.where(meeting, np.inf, reach[ends]).min(axis=1) >= ENDED * pen
    short, stub = stub & ended, stub & ~ended
    kept = [k for k in range(len(chains)) if not bridge[k] and not stub[k]]
    lone = loop & (degree[ends[:, 0]] == 2)  # a ring without a junction
    paths = [(chains[k][:, ::-1] + 0.5) / fine for k in kept]
    groups = [
        [-1, -1] if lone[k] else [int(group[n]) if m else -1 for n, m in zip(ends[k], meeting[k], strict=True)]
        for k in kept
    ]
    joints = _Joints(paths, groups, (middles + 0.5) / fine, wide / fine, {n for n, k in enumerate(kept) if short[k]})
    whole = [(path[:-1], True) for path, k in zip(paths, kept, strict=True) if lone[k]]
    tips_found = np.array(list(joints.tips.values()), dtype=np.float64).reshape(-1, 2)
    return whole + joints.joined([not lone[k] for k in kept]), tips_found


class _Joints:
    """Lines and the junctions they meet at; joins those that run through one as one stroke."""

    def __init__(self, paths: list[F64], groups: list[list[int]], middles: F64, wide: F64, short: set[int]) -> None:
        self.paths, self.groups, self.middles, self.wide = paths, groups, middles, wide
        self.short, self.dropped = short, set[int]()
        self.partner: dict[tuple[int, int], tuple[int, int]] = {}
        self.clear: dict[tuple[int, int], float] = {}
        self.tips: dict[tuple[int, int], F64] = {}
        at: dict[int, list[tuple[int, int]]] = {}
        for k, pair in enumerate(groups):
            for end, group in enumerate(pair):
                if group >= 0:
                    at.setdefault(group, []).append((k, end))
        for group, met in at.items():
            self._pair(group, met)

    def _from(self, k: int, end: int) -> F64:
        """The points of a line, from one of its ends, beyond the ink of the junction there."""
        path = self.paths[k] if end == 0 else self.paths[k][::-1]
        group = self.groups[k][end]
        if group < 0:
            return path
        far = np.hypot(*(path - self.middles[group]).T) > self.clear.get((k, end), CLEAR) * self.wide[group]
        return path[int(far.argmax()) :] if far.any() else path[-1:]

    def _pair(self, group: int, met: list[tuple[int, int]]) -> None:
        """Pair the lines that leave a junction at the most nearly opposite ways."""
        ways = {}
        if len(met) > 3:
            self.clear |= dict.fromkeys(met, CROSSING_CLEAR)
        for k, end in met:
            points = self._from(k, end)
            along = along_of(points)
            far = points[min(int(np.searchsorted(along, LOOK_PX)), len(points) - 1)]
            way = far - (points[0] if len(points) > 1 else self.middles[group])
            ways[k, end] = way / max(float(np.hypot(*way)), 1e-9)
        tip = self._tip_stub(met, ways)
        if tip is not None:
            self.dropped.add(tip[0])
            met = [place for place in met if place != tip]
        left = set(met)
        straight: set[tuple[int, int]] = set()
        for turn, a, b in sorted((float(ways[a] @ ways[b]), a, b) for i, a in enumerate(met) for b in met[i + 1 :]):
            if a not in left or b not in left:
                continue
            if turn > THROUGH_COS and len(met) != 2:
                break
            self.partner[a], self.partner[b] = b, a
            if turn < STRAIGHT_COS:
                straight |= {a, b}
            left -= {a, b}
        for place in met:
            if place not in straight:
                self.clear.pop(place, None)
        if len(met) == 2:
            self._find_tip(group, met, ways)

    def _tip_stub(self, met: list[tuple[int, int]], ways: dict[tuple[int, int], F64]) -> tuple[int, int] | None:
        """Of three lines the short one that leads from an acute corner of the others into its tip, or None."""
        stubs = [place for place in met if place[0] in self.short]
        if len(met) != 3 or len(stubs) != 1:
            return None
        a, b = (place for place in met if place != stubs[0])
        between = ways[a] + ways[b]
        opposite = float(ways[stubs[0]] @ between) / max(float(np.hypot(*between)), 1e-9)
        return stubs[0] if a[0] != b[0] and ways[a] @ ways[b] > ACUTE_COS and opposite < THROUGH_COS else None

    def _find_tip(self, group: int, met: list[tuple[int, int]], ways: dict[tuple[int, int], F64]) -> None:
        """Two lines that meet at an acute corner run on to where their directions cross: thinning cuts it off."""
        (a, b), middle = met, self.middles[group]
        cos = float(ways[a] @ ways[b])
        if a == b or not ACUTE_COS < cos < 0.999:
            return
        starts = self._from(*a)[0], self._from(*b)[0]
        gone = np.linalg.solve(np.column_stack([ways[a], -ways[b]]), starts[1] - starts[0])
        tip = starts[0] + gone[0] * ways[a]
        if gone.max() < 0.0 and np.hypot(*(tip - middle)) <= TIP_REACH * self.wide[group] / math.sqrt(0.5 - 0.5 * cos):
            self.tips[a] = self.tips[b] = tip

    def joined(self, wanted: list[bool]) -> list[tuple[F64, bool]]:
        """The lines joined to strokes, each from end to end or round."""
        left = {k for k, use in enumerate(wanted) if use and k not in self.dropped}
        ends = [(k, end) for k in sorted(left) for end in (0, 1)]
        found = []
        for k, end in [e for e in ends if e not in self.partner] + ends:
            if k in left:
                found.append(self._walk(k, end, left))
        return found

    def _walk(self, k: int, end: int, left: set[int]) -> tuple[F64, bool]:
        first: tuple[int, int] = (k, end)
        run: list[F64] = []
        closed = False
        while True:
            left.discard(k)
            run.append(self._between_junctions(k, end, not run))
            ahead = self.partner.get((k, 1 - end))
            if ahead is None:
                break
            if ahead == first or ahead[0] not in left:
                closed = ahead == first
                break
            k, end = ahead
        return np.concatenate(run), closed

    def _between_junctions(self, k: int, end: int, first: bool) -> F64:
        """A line's points without those within its junctions; a stroke that ends at one reaches its middle."""
        start, back = self._from(k, end), self._from(k, 1 - end)
        points = start[: max(len(start) - (len(self.paths[k]) - len(back)), 1)]
        if first and self.groups[k][end] >= 0 and (k, end) not in self.partner:
            points = np.concatenate([self.middles[self.groups[k][end]][None], points])
        if self.groups[k][1 - end] >= 0 and (k, 1 - end) not in self.partner:
            points = np.concatenate([points, self.middles[self.groups[k][1 - end]][None]])
        if (k, 1 - end) in self.tips:
            points = np.concatenate([points, self.tips[k, 1 - end][None]])
        return points
