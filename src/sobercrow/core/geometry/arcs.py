"""Circular arcs: through points, of a radius, drawn by cubics, and known again by their handles."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F64
from sobercrow.core.errors import EditError
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.geometry.forms import fit_circle

FLAT = 2e-3
"""An arc that bows by a smaller share of its chord than this is a line."""
WIDEST_PIECE = 0.5 * math.pi + 1e-9
"""One cubic stands for a quarter of a circle at most: 0.03 % of its radius off (Goldapp 1991)."""
WHOLE = 2.0 * math.pi - 0.1
SAME = 1e-6
"""Handles that differ from those of an arc by a smaller share of their length are those of an arc."""


class Arc(NamedTuple):
    """A circular arc from one point to another: its middle, radius, and how far it turns, clockwise positive, rad."""

    middle: F64
    radius: float
    turn: float


def arc_through(points: F64) -> Arc:
    """Return the arc from the first to the last of points (n, 2) that runs nearest to those between.

    Least squares of the distances from a circle through both ends: its middle lies on the line half-way between them,
    and Newton's method finds where, begun at the circle nearest to all points (Taubin 1991).

    Raises
    ------
    EditError
        If they lie on a straight line.
    """
    start, end = points[0], points[-1]
    half = 0.5 * (end - start)
    chord = float(np.hypot(*half))
    if chord < 1e-6:
        raise EditError("An arc needs two ends; a whole contour is made round as a true shape.")
    u = half / chord
    across = np.array((-u[1], u[0]))
    origin = start + half
    x, y = (points - origin) @ u, (points - origin) @ across
    bow = float(y[np.abs(y).argmax()])
    if abs(bow) < FLAT * 2.0 * chord:
        raise EditError("This stretch is straight; an arc through it has no radius. Make it straight instead.")
    free, _ = fit_circle(points)
    h = float((np.array((free.x, free.y)) - origin) @ across)
    if abs(h) > 50.0 * chord or not math.isfinite(h):
        h = (bow * bow - chord * chord) / (2.0 * bow)
    for _ in range(30):
        away = np.hypot(x, y - h)
        radius = math.hypot(chord, h)
        off = away - radius
        slope = -(y - h) / np.maximum(away, 1e-12) - h / radius
        step = float((off @ slope) / max(float(slope @ slope), 1e-12))
        h -= step
        if abs(step) < 1e-10 * (1.0 + abs(h)):
            break
    middle = origin + h * across
    radius = math.hypot(chord, h)
    first = math.atan2(*(start - middle)[::-1])
    swept = np.unwrap(np.arctan2(points[:, 1] - middle[1], points[:, 0] - middle[0])) - first
    return Arc(middle, radius, float(swept[-1]))


def arc_contour(start: F64, end: F64, arc: Arc) -> Contour:
    """Return an arc as an open contour, a smooth anchor every quarter at most."""
    count = max(1, math.ceil(abs(arc.turn) / WIDEST_PIECE))
    first = math.atan2(*(start - arc.middle)[::-1])
    angles = first + np.linspace(0.0, arc.turn, count + 1)
    ray = np.column_stack([np.cos(angles), np.sin(angles)])
    at = arc.middle + arc.radius * ray
    at[0], at[-1] = start, end
    arm = arm_of(arc.turn / count, arc.radius)
    way = arm * np.column_stack([-ray[:, 1], ray[:, 0]])
    points = np.stack([at - way, at, at + way], axis=1)
    points[0, 0], points[-1, 2] = points[0, 1], points[-1, 1]
    return Contour(points, np.full(count + 1, int(AnchorKind.SMOOTH), dtype=np.uint8), closed=False)


def arc_of_radius(start: F64, end: F64, like: Arc, radius_px: float) -> Arc:
    """Return the arc of a radius between two ends that bows to the same side as another, and is long if that was.

    Raises
    ------
    EditError
        If the radius is less than half of what the ends are apart.
    """
    half = 0.5 * (end - start)
    chord = float(np.hypot(*half))
    if radius_px < chord:
        raise EditError(f"The radius must be at least half of what the ends are apart: {chord:.2f} px.")
    u = half / chord
    across = np.array((-u[1], u[0]))
    side = math.copysign(1.0, like.turn) * (1.0 if abs(like.turn) <= math.pi else -1.0)
    middle = start + half + side * math.sqrt(max(radius_px**2 - chord**2, 0.0)) * across
    small = 2.0 * math.asin(min(chord / radius_px, 1.0))
    turn = small if abs(like.turn) <= math.pi else 2.0 * math.pi - small
    return Arc(middle, radius_px, math.copysign(turn, like.turn))


def arm_of(turn: float, radius: float) -> float:
    """Return how long the handles are of the cubic that is nearest to an arc (Goldapp 1991)."""
    return 4.0 / 3.0 * math.tan(0.25 * turn) * radius


def arc_of(cubic: F64) -> Arc | None:
    """Return the circular arc that a cubic (4, 2) draws, known by its handles; None if it draws none."""
    start, end = cubic[0], cubic[3]
    out, into, chord = cubic[1] - start, end - cubic[2], end - start
    sizes = [math.hypot(*out.tolist()), math.hypot(*into.tolist()), math.hypot(*chord.tolist())]
    if min(sizes) < SAME or abs(sizes[0] - sizes[1]) > SAME * sizes[2]:
        return None
    half = math.atan2(out[0] * chord[1] - out[1] * chord[0], float(out @ chord))
    other = math.atan2(chord[0] * into[1] - chord[1] * into[0], float(chord @ into))
    if abs(half - other) > SAME or not 0.5 * FLAT < abs(half) < 0.5 * WIDEST_PIECE + SAME:
        return None
    radius = 0.5 * sizes[2] / math.sin(abs(half))
    if abs(arm_of(2.0 * abs(half), radius) - sizes[0]) > SAME * sizes[2]:
        return None
    across = np.array((-chord[1], chord[0])) / sizes[2]
    middle = 0.5 * (start + end) + math.copysign(radius * math.cos(half), half) * across
    return Arc(middle, radius, 2.0 * half)


def arc_between(start: F64, end: F64, arc: Arc) -> F64:
    """Return the cubic (4, 2) of the part of an arc from one place on it to another, in the way it turns."""
    first, last = (math.atan2(*(place - arc.middle)[::-1]) for place in (start, end))
    turn = (last - first) % (2.0 * math.pi)
    turn = turn if arc.turn > 0.0 else turn - 2.0 * math.pi
    if abs(turn) < SAME:
        return np.array([start, start, end, end])
    chord = end - start
    length = math.hypot(*chord.tolist())
    radius = 0.5 * length / math.sin(0.5 * abs(turn))
    across = np.array((-chord[1], chord[0])) / length
    middle = 0.5 * (start + end) + math.copysign(radius * math.cos(0.5 * turn), turn) * across
    made: F64 = arc_contour(start, end, Arc(middle, radius, turn)).curves()[0]
    return made


def arcs_of(curves: F64, widest: float = WHOLE) -> list[tuple[int, Arc | None]]:
    """Return the pieces of a path, cubics (m, 4, 2), those of one arc as one: how many each is of, and the arc.

    Pieces go together as long as they turn by no more than `widest`, in rad, less than a whole circle.
    """
    found: list[tuple[int, Arc | None]] = []
    for curve, may_be in zip(curves, _have_even_handles(curves).tolist(), strict=True):
        arc = arc_of(curve) if may_be else None
        last = found[-1][1] if found else None
        if arc is not None and last is not None and _goes_on(last, arc, widest):
            found[-1] = (found[-1][0] + 1, Arc(last.middle, last.radius, last.turn + arc.turn))
        else:
            found.append((1, arc))
    return found


def _have_even_handles(curves: F64) -> NDArray[np.bool_]:
    """Whether the handles of cubics (m, 4, 2) are of one length, as an arc's are."""
    out, into, chord = curves[:, 1] - curves[:, 0], curves[:, 3] - curves[:, 2], curves[:, 3] - curves[:, 0]
    one, other, whole = (np.hypot(way[:, 0], way[:, 1]) for way in (out, into, chord))
    return np.asarray((np.minimum(np.minimum(one, other), whole) >= SAME) & (np.abs(one - other) <= 2.0 * SAME * whole))


def _goes_on(one: Arc, other: Arc, widest: float) -> bool:
    same = abs(one.radius - other.radius) <= SAME * one.radius and one.turn * other.turn > 0.0
    near = float(np.hypot(*(one.middle - other.middle))) <= 10.0 * SAME * one.radius
    return same and near and abs(one.turn + other.turn) <= widest
