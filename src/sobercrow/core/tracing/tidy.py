"""Contours without what no draughtsman leaves: anchors on top of each other, and loops at tips."""

from __future__ import annotations

import numpy as np

from sobercrow.core.arrays import F64, following, preceding
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry._crossing_kernels import first_crossing
from sobercrow.core.geometry._nearest_kernels import nearest_segments
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.geometry.fit import fit_cubic

LEAST_APART_PX = 1.0
"""Anchors nearer than this are both corners, or one of them is left out."""
MAY_COST_PX = 0.42
"""How far the curve may move for it."""
PASSES = 3
MOST_LOOP_PX, MOST_LOOPS = 6.0, 4
"""Loops no longer than this are cut off."""
SAMPLES = np.linspace(0.0, 1.0, 24)
ANYWHERE_PX = 1e4


def tidied(contour: Contour) -> Contour:
    """Return a contour with small loops cut off at a corner, and without smooth anchors that crowd others."""
    for _ in range(PASSES):
        before, contour = contour, _without_crowds(_without_loops(contour))
        if contour is before:
            break
    return contour


def crosses_itself(contour: Contour) -> bool:
    """Tell whether a contour crosses itself anywhere."""
    return crossing_of(contour) is not None


def is_crowded(contour: Contour) -> bool:
    """Tell whether smooth anchors of a contour crowd others."""
    return bool(_crowded(contour))


def crossing_of(contour: Contour) -> tuple[int, float, int, float] | None:
    """Return piece, parameter, piece, parameter where a contour first crosses itself, if it does."""
    place = np.empty(4)
    curves = contour.curves().reshape(-1, 8)
    if not len(curves) or not first_crossing(np.ascontiguousarray(curves), contour.closed, place):
        return None
    return int(place[0]), float(place[1]), int(place[2]), float(place[3])


def _without_loops(contour: Contour) -> Contour:
    for _ in range(MOST_LOOPS):
        found = crossing_of(contour)
        if found is None:
            break
        i, t, j, u = found
        curves = contour.curves()
        inner = _length(curves, i, t, j, u)
        if inner <= MOST_LOOP_PX:
            contour = _cut(contour, curves, i, t, j, u)
        elif contour.closed and _length(curves, j, u, i, t) <= MOST_LOOP_PX:
            contour = _cut(contour, curves, j, u, i, t)
        else:
            break
    return contour


def _length(curves: F64, i: int, t: float, j: int, u: float) -> float:
    """How long the way is from a place on piece i to one on piece j, about."""
    lengths = bezier.lengths(curves)
    between = lengths[i:j] if (i, t) <= (j, u) else np.concatenate([lengths[i:], lengths[:j]])
    return float(between.sum() - t * lengths[i] + u * lengths[j])


def _cut(contour: Contour, curves: F64, i: int, t: float, j: int, u: float) -> Contour:
    """Leave out the way from a place on piece i on to the same place on piece j, and join there in a corner."""
    before, after = _part(curves[i], t)[0], _part(curves[j], u)[1]
    corner = np.array([[before[2], before[3], after[1]]])
    count = len(contour)
    if not contour.closed:
        head, tail = contour.points[: i + 1].copy(), contour.points[j + 1 :].copy()
        head[-1, 2], tail[0, 0] = before[1], after[2]
        kinds = np.concatenate([contour.kinds[: i + 1], [AnchorKind.CORNER], contour.kinds[j + 1 :]])
        return Contour(np.concatenate([head, corner, tail]), kinds, closed=False)
    kept = np.arange(j + 1, j + 1 + ((i - j) % count or count)) % count
    points = contour.points[kept].copy()
    points[0, 0], points[-1, 2] = after[2], before[1]
    return Contour(np.concatenate([corner, points]), np.concatenate([[AnchorKind.CORNER], contour.kinds[kept]]))


def _part(curve: F64, t: float) -> tuple[F64, F64]:
    """Both parts of a curve; those of a line are lines."""
    parts = bezier.split(curve, t)
    if (curve[0] == curve[1]).all() and (curve[2] == curve[3]).all():
        for part in parts:
            part[1], part[2] = part[0], part[3]
    return parts


def _without_crowds(contour: Contour) -> Contour:
    known: dict[bytes, tuple[float, F64]] = {}
    while len(contour) > 3:
        bridges = []
        for k in _crowded(contour):
            around = contour.points[[k - 1, k, (k + 1) % len(contour)]].tobytes()
            if around not in known:
                known[around] = _bridge(contour, k)
            bridges.append((known[around][0], k, known[around][1]))
        bridges = [bridge for bridge in bridges if bridge[0] <= MAY_COST_PX]
        if not bridges:
            break
        _, k, curve = min(bridges, key=lambda bridge: bridge[:2])
        contour = _without(contour, k, curve)
    return contour


def _crowded(contour: Contour) -> list[int]:
    """The smooth anchors, ends excepted, that are nearer to a neighbour than they should be."""
    ahead = following(contour.anchors) - contour.anchors
    near = (ahead**2).sum(axis=1) < LEAST_APART_PX**2
    if not contour.closed:
        near[-1] = False
    crowded = (near | preceding(near)) & (contour.kinds != AnchorKind.CORNER)
    if not contour.closed:
        crowded[[0, -1]] = False
    return [int(k) for k in np.flatnonzero(crowded)]


def _bridge(contour: Contour, k: int) -> tuple[float, F64]:
    """How far the curve moves when one cubic stands for the two beside an anchor, and that cubic."""
    drawn = bezier.evaluate(contour.curves()[[(k - 1) % len(contour), k]], SAMPLES).reshape(-1, 2)
    into, out = drawn[1] - drawn[0], drawn[-1] - drawn[-2]
    fitted = fit_cubic(np.delete(drawn, len(SAMPLES), axis=0), into, out, polish=False)
    line = bezier.evaluate(fitted, SAMPLES)
    return float(nearest_segments(drawn, line[:-1].copy(), line[1:].copy(), ANYWHERE_PX)[0].max()), fitted


def _without(contour: Contour, k: int, curve: F64) -> Contour:
    """A contour without an anchor, a cubic in place of the two beside it."""
    count = len(contour)
    points, kept = contour.points.copy(), np.arange(count) != k
    points[(k - 1) % count, 2], points[(k + 1) % count, 0] = curve[1], curve[2]
    return Contour(points[kept], contour.kinds[kept], contour.closed)
