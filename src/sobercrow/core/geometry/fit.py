"""Fitting one cubic to a run of points."""

from __future__ import annotations

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.geometry._piece_kernels import feet, fit_piece
from sobercrow.core.geometry.least_squares import least_squares
from sobercrow.core.geometry.polygon import along_of


def fit_cubic(points: F64, tangent_out: F64 | None = None, tangent_in: F64 | None = None, polish: bool = True) -> F64:
    """Return the cubic (4, 2) from the first to the last point that runs nearest the ones between.

    `tangent_out` and `tangent_in` hold the directions at the ends, pointing along the path; None leaves an
    end free. Least squares with parameters moved to the feet of the normals (Schneider 1990); without `polish` it ends
    there, in a hundredth of the time, else the normal distances are made least.

    Raises
    ------
    ValueError
        If there are fewer than two points.
    """
    if len(points) < 2:
        raise ValueError("a curve needs at least two points")
    start, end = points[0], points[-1]
    along = along_of(points)
    if along[-1] == 0.0:
        return np.array([start, start, end, end])
    chord = end - start
    size = float(np.linalg.norm(chord))
    straight = chord / size if size > 0 else np.array([1.0, 0.0])

    def unit(direction: F64 | None) -> F64:
        if direction is None or not np.linalg.norm(direction) > 0:
            return straight
        return np.asarray(direction / np.linalg.norm(direction))

    ends = np.concatenate([start, unit(tangent_out), end, unit(tangent_in)])
    xs, ys = np.ascontiguousarray(points[:, 0]), np.ascontiguousarray(points[:, 1])
    handles = np.empty(4)
    shares = along / along[-1]
    fit_piece(xs, ys, shares, len(points), ends, tangent_out is None, tangent_in is None, handles, 12)
    if not polish:
        return np.concatenate([start, handles, end]).reshape(4, 2)
    return _polished(points, shares, ends, handles, tangent_out is not None, tangent_in is not None)


def _polished(points: F64, shares: F64, ends: F64, handles: F64, hold_out: bool, hold_in: bool) -> F64:
    """Adjust the handles to least normal distance (Levenberg-Marquardt); a held end keeps its direction."""
    start, out, end, into = ends[0:2], ends[2:4], ends[4:6], ends[6:8]
    arm_out, arm_in = handles[:2] - start, end - handles[2:]

    def curve(unknowns: F64) -> F64:
        first = out * unknowns[0] if hold_out else unknowns[:2]
        second = into * unknowns[-1] if hold_in else unknowns[-2:]
        return np.concatenate([start, start + first, end - second, end])

    def distances(unknowns: F64) -> F64:
        control = curve(unknowns)
        us = shares.copy()
        for _ in range(3):
            off = feet(points, us, control)
        return off

    guess = np.concatenate([[arm_out @ out] if hold_out else arm_out, [arm_in @ into] if hold_in else arm_in])
    return curve(least_squares(distances, guess)).reshape(4, 2)
