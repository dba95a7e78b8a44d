"""Distances and corners of closed cubic contours, by dense sampling: slow, plain and independent of the core."""

from __future__ import annotations

import numpy as np
from scipy.spatial import cKDTree


def sample(contour: np.ndarray, spacing_px: float) -> np.ndarray:
    """Return points along one (m, 4, 2) closed contour, evenly spaced in arc length."""
    t = np.linspace(0, 1, 65)[:-1, None]
    basis = np.hstack([(1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t**2 * (1 - t), t**3])
    dense = (basis @ contour).reshape(-1, 2)
    dense = np.vstack([dense, dense[:1]])
    along = np.concatenate([[0], np.cumsum(np.hypot(*np.diff(dense, axis=0).T))])
    count = max(8, round(along[-1] / spacing_px))
    places = np.arange(count) * along[-1] / count
    return np.column_stack([np.interp(places, along, dense[:, k]) for k in (0, 1)])


def both_ways(found: list[np.ndarray], true: list[np.ndarray]) -> np.ndarray:
    """Return the distances of points every 1/4 px on each set of contours to the other set."""
    if not found:
        return np.full(1, np.inf)
    out = []
    for one, other in ((found, true), (true, found)):
        tree = cKDTree(np.vstack([sample(c, 1 / 32) for c in other]))
        out.append(tree.query(np.vstack([sample(c, 1 / 4) for c in one]))[0])
    return np.concatenate(out)


def turns(contour: np.ndarray, reach_px: float = 1.5, spacing_px: float = 1 / 16) -> tuple[np.ndarray, np.ndarray]:
    """Return points along a contour and the turn, in degrees, of the outline within +- reach of each."""
    points = sample(contour, spacing_px)
    edge = np.roll(points, -1, axis=0) - points
    angle = np.arctan2(edge[:, 1], edge[:, 0])
    turn = (np.diff(angle, prepend=angle[-1]) + np.pi) % (2 * np.pi) - np.pi
    reach = min(round(reach_px / spacing_px), len(points) // 2 - 1)
    total = np.cumsum(np.concatenate([turn, turn, turn]))
    n = len(points)
    around = total[n + reach : 2 * n + reach] - total[n - reach : 2 * n - reach]
    return points, np.degrees(np.abs(around))


def true_corners(contour: np.ndarray, angle_deg: float = 60.0, reach_px: float = 1.5) -> np.ndarray:
    """Return the places where the outline turns by more than `angle_deg` within +- `reach_px`, strongest first.

    A plateau of equal turns counts once, at its middle; places within `reach_px` of a stronger one are left out.
    """
    points, turn = turns(contour, reach_px)
    reach = round(reach_px * 16)
    left = turn.copy()
    corners = []
    n = len(points)
    while left.max() > angle_deg:
        peak = int(left.argmax())
        level = left[peak] - 0.5
        low = high = peak
        while left[(low - 1) % n] >= level and peak - low < n // 2:
            low -= 1
        while left[(high + 1) % n] >= level and high - peak < n // 2:
            high += 1
        middle = (low + high) // 2 % n
        corners.append(points[middle])
        left[np.arange(middle - 2 * reach, middle + 2 * reach + 1) % n] = 0.0
    return np.array(corners).reshape(-1, 2)
