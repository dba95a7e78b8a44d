"""Cubics as arcs of circles and lines, within a tolerance."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F64
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry.contour import first_way

MOST_HALVINGS = 12
FLAT_BULGE = 1e-9
LOOKS = np.linspace(0.0, 1.0, 17)[1:-1]


def biarcs(cubics: F64, tolerance_px: float) -> list[list[tuple[F64, float]]]:
    """Return each of some cubics (n, 4, 2) as pieces in a row: where each begins, and its bulge.

    A bulge is the tangent of a quarter of the angle the arc turns by, as DXF has it, here positive clockwise on screen
    (y down); 0 is a line. Each part of a cubic is two arcs that meet on a common tangent (Bolton 1975, "Biarc
    curves"), halved until no place is further off than the tolerance.
    """
    starts: list[list[tuple[float, F64, float]]] = [[] for _ in cubics]
    own, at, size = np.arange(len(cubics)), np.zeros(len(cubics)), 1.0
    for left in range(MOST_HALVINGS, -1, -1):
        if not len(cubics):
            break
        flat = _are_flat(cubics, tolerance_px)
        joints, bulges, found = _two_arcs(cubics)
        near = found & (_off(cubics, joints, bulges) <= tolerance_px)
        for k in np.flatnonzero(flat).tolist():
            starts[own[k]].append((float(at[k]), cubics[k, 0], 0.0))
        done = near & ~flat if left else ~flat
        for k in np.flatnonzero(done).tolist():
            kept = bulges[k] if found[k] else (0.0, 0.0)
            starts[own[k]].append((float(at[k]), cubics[k, 0], float(kept[0])))
            starts[own[k]].append((float(at[k] + 0.5 * size), joints[k], float(kept[1])))
        rest = ~flat & ~done
        halves = _halved(cubics[rest])
        size *= 0.5
        own = np.repeat(own[rest], 2)
        at = np.repeat(at[rest], 2) + np.tile((0.0, size), int(rest.sum()))
        cubics = halves
    return [[(place, bulge) for _, place, bulge in sorted(one, key=lambda piece: piece[0])] for one in starts]


def _halved(cubics: F64) -> F64:
    """Both halves of cubics, one after the other, (2 n, 4, 2) (de Casteljau)."""
    a = 0.5 * (cubics[:, :-1] + cubics[:, 1:])
    b = 0.5 * (a[:, :-1] + a[:, 1:])
    c = 0.5 * (b[:, 0] + b[:, 1])
    first = np.stack([cubics[:, 0], a[:, 0], b[:, 0], c], axis=1)
    second = np.stack([c, b[:, 1], a[:, 2], cubics[:, 3]], axis=1)
    return np.asarray(np.stack([first, second], axis=1).reshape(-1, 4, 2))


def _are_flat(cubics: F64, tolerance_px: float) -> NDArray[np.bool_]:
    """Whether the line between the ends is near enough: the controls are, which the curve lies between."""
    chord = cubics[:, 3] - cubics[:, 0]
    length = np.maximum(np.hypot(chord[:, 0], chord[:, 1]), 1e-12)[:, None]
    away = cubics[:, 1:3] - cubics[:, :1]
    along = (away * chord[:, None]).sum(axis=2) / length
    off = np.abs(away[..., 0] * chord[:, None, 1] - away[..., 1] * chord[:, None, 0]) / length
    within = (off.max(axis=1) <= tolerance_px) & (along.min(axis=1) >= -tolerance_px)
    return np.asarray(within & (along.max(axis=1) <= length[:, 0] + tolerance_px))


def _two_arcs(cubics: F64) -> tuple[F64, F64, NDArray[np.bool_]]:
    """The joints of two arcs each with the tangents of cubics at their ends, whose tangent lengths are alike; their
    bulges, (n, 2); and whether there are such."""
    start, end = cubics[:, 0], cubics[:, 3]
    out = first_way(cubics[:, 1] - start, cubics[:, 2] - start, end - start)
    into = first_way(end - cubics[:, 2], end - cubics[:, 1], end - start)
    v, both = end - start, out + into
    a, b = 2.0 * (1.0 - (out * into).sum(axis=1)), 2.0 * (v * both).sum(axis=1)
    c = -(v * v).sum(axis=1)
    root = np.sqrt(np.maximum(b * b - 4.0 * a * c, 0.0))
    # the positive root, also where the tangents are alike and a is nought
    arm = (-2.0 * c / np.where(b + root > 1e-12, b + root, np.inf))[:, None]
    joints = 0.5 * (start + arm * out + end - arm * into)
    bulges = np.stack([_bulges(start, joints, out), -_bulges(end, joints, -into)], axis=1)
    return joints, bulges, (arm[:, 0] > 0.0) & (arm[:, 0] < 1e9)


def _bulges(start: F64, end: F64, way: F64) -> F64:
    """The bulges of arcs that leave places in a direction and end at others."""
    chord = end - start
    half = np.arctan2(way[:, 0] * chord[:, 1] - way[:, 1] * chord[:, 0], (way * chord).sum(axis=1))
    bulge = np.tan(0.5 * half)
    return np.where(np.abs(bulge) < FLAT_BULGE, 0.0, bulge)


def _off(cubics: F64, joints: F64, bulges: F64) -> F64:
    """How far places on cubics are from two arcs at most, each looked at by the arc whose side it is on."""
    places = bezier.evaluate(cubics, LOOKS)
    across = (cubics[:, 3] - cubics[:, 0])[:, None]
    first = ((places - joints[:, None]) * across).sum(axis=2) < 0.0
    one = _off_arcs(places, cubics[:, 0], joints, bulges[:, 0])
    other = _off_arcs(places, joints, cubics[:, 3], bulges[:, 1])
    return np.asarray(np.where(first, one, other).max(axis=1))


def _off_arcs(places: F64, start: F64, end: F64, bulge: F64) -> F64:
    """How far places (n, m, 2) are from the circles of arcs, or their lines."""
    chord = end - start
    length = np.maximum(np.hypot(chord[:, 0], chord[:, 1]), 1e-12)
    normal = np.stack([-chord[:, 1], chord[:, 0]], axis=1)
    straight = np.abs(((places - start[:, None]) * normal[:, None]).sum(axis=2)) / length[:, None]
    safe = np.where(bulge == 0.0, 1.0, bulge)
    radius = 0.25 * length * (1.0 / np.abs(safe) + np.abs(safe))
    middle = 0.5 * (start + end) + 0.25 * (1.0 / safe - safe)[:, None] * normal
    away = places - middle[:, None]
    round_ = np.abs(np.hypot(away[..., 0], away[..., 1]) - radius[:, None])
    return np.where((bulge == 0.0)[:, None], straight, round_)
