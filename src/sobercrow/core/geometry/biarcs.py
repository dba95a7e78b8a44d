"""Cubics as arcs of circles and lines, within a tolerance."""

from __future__ import annotations

import math

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.geometry import bezier

MOST_HALVINGS = 12
FLAT_BULGE = 1e-9
LOOKS = np.linspace(0.0, 1.0, 17)[1:-1]


def biarcs(cubic: F64, tolerance_px: float) -> list[tuple[F64, float]]:
    """Return a cubic (4, 2) as pieces in a row: where each begins, and its bulge.

    A bulge is the tangent of a quarter of the angle the arc turns by, as DXF has it, here positive clockwise on screen
    (y down); 0 is a line. Each part of the cubic is two arcs that meet on a common tangent (Bolton 1975, "Biarc
    curves"), halved until no place is further off than the tolerance.
    """
    return _parted(cubic, tolerance_px, MOST_HALVINGS)


def _parted(cubic: F64, tolerance_px: float, left: int) -> list[tuple[F64, float]]:
    if _is_flat(cubic, tolerance_px):
        return [(cubic[0], 0.0)]
    made = _two_arcs(cubic)
    if made is not None and (left == 0 or _off(cubic, made) <= tolerance_px):
        return made
    if left == 0:
        return [(cubic[0], 0.0)]
    one, other = bezier.split(cubic, 0.5)
    return _parted(one, tolerance_px, left - 1) + _parted(other, tolerance_px, left - 1)


def _is_flat(cubic: F64, tolerance_px: float) -> bool:
    """Whether the line between the ends is near enough: the controls are, which the curve lies between."""
    chord = cubic[3] - cubic[0]
    length = math.hypot(*chord.tolist())
    if length < 1e-12:
        return bool(np.hypot(*(cubic - cubic[0]).T).max() <= tolerance_px)
    away, along = cubic[1:3] - cubic[0], (cubic[1:3] - cubic[0]) @ chord / length
    off = np.abs(away[:, 0] * chord[1] - away[:, 1] * chord[0]) / length
    return bool(off.max() <= tolerance_px and along.min() >= -tolerance_px and along.max() <= length + tolerance_px)


def _two_arcs(cubic: F64) -> list[tuple[F64, float]] | None:
    """Two arcs with the tangents of the cubic at its ends, whose tangent lengths are alike."""
    ways = []
    for first, *rest in ((cubic[0], *cubic[1:]), (cubic[3], *cubic[2::-1])):
        way = next((p - first for p in rest if math.hypot(*(p - first).tolist()) > 1e-9), None)
        if way is None:
            return None
        ways.append(way / math.hypot(*way.tolist()))
    out, into = ways[0], -ways[1]
    v, both = cubic[3] - cubic[0], out + into
    a, b, c = 2.0 * (1.0 - float(out @ into)), 2.0 * float(v @ both), -float(v @ v)
    root = math.sqrt(b * b - 4.0 * a * c)
    if b + root < 1e-12:
        return None
    arm = -2.0 * c / (b + root)  # the positive root, also where the tangents are alike and a is nought
    joint = 0.5 * (cubic[0] + arm * out + cubic[3] - arm * into)
    return [(cubic[0], _bulge(cubic[0], joint, out)), (joint, -_bulge(cubic[3], joint, -into))]


def _bulge(start: F64, end: F64, way: F64) -> float:
    """The bulge of the arc that leaves a place in a direction and ends at another."""
    chord = end - start
    half = math.atan2(way[0] * chord[1] - way[1] * chord[0], float(way @ chord))
    bulge = math.tan(0.5 * half)
    return 0.0 if abs(bulge) < FLAT_BULGE else bulge


def _off(cubic: F64, pieces: list[tuple[F64, float]]) -> float:
    """How far places on the cubic are from two arcs at most, each looked at by the arc whose side it is on."""
    places = bezier.evaluate(cubic, LOOKS)
    joint = pieces[1][0]
    across = cubic[3] - cubic[0]
    first = (places - joint) @ across < 0.0
    ends = ((cubic[0], joint, pieces[0][1], first), (joint, cubic[3], pieces[1][1], ~first))
    return max((_off_arc(places[which], a, b, bulge) for a, b, bulge, which in ends if which.any()), default=0.0)


def _off_arc(places: F64, start: F64, end: F64, bulge: float) -> float:
    chord = end - start
    length = math.hypot(*chord.tolist())
    if bulge == 0.0 or length < 1e-12:
        return float(np.abs((places - start) @ np.array((-chord[1], chord[0]))).max() / max(length, 1e-12))
    radius = 0.25 * length * (1.0 / abs(bulge) + abs(bulge))
    middle = 0.5 * (start + end) + 0.25 * (1.0 / bulge - bulge) * np.array((-chord[1], chord[0]))
    return float(np.abs(np.hypot(*(places - middle).T) - radius).max())
