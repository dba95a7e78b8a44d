"""Cubic Béziers, as arrays (4, 2) or stacks (n, 4, 2) of control points.

Formulae: Farin 2002, "Curves and Surfaces for CAGD", ch. 4-5.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F64, I64

_GAUSS_NODES, _GAUSS_WEIGHTS = np.polynomial.legendre.leggauss(24)


def basis(t: F64) -> F64:
    """Return how much of every control point there is at parameters `t` (m,): Bernstein's polynomials, (m, 4)."""
    v = 1.0 - t
    return np.stack([v**3, 3 * t * v**2, 3 * t**2 * v, t**3], axis=-1)


def evaluate(curves: F64, t: F64) -> F64:
    """Return the points of every curve at parameters `t` (m,): (..., m, 2)."""
    return np.asarray(basis(t) @ curves)


def derivative(curves: F64, t: F64) -> F64:
    """Return the first derivatives at parameters `t` (m,): (..., m, 2)."""
    v = 1.0 - t
    basis = np.stack([v**2, 2 * t * v, t**2], axis=-1)
    return np.asarray(basis @ (3.0 * np.diff(curves, axis=-2)))


def on_curves(curves: F64, t: F64) -> F64:
    """Return the point of each of n curves (n, 4, 2) at its own parameter `t` (n, 1): (n, 2)."""
    v = 1.0 - t
    return v**3 * curves[:, 0] + 3 * t * v**2 * curves[:, 1] + 3 * t**2 * v * curves[:, 2] + t**3 * curves[:, 3]


def along_curves(curves: F64, t: F64) -> F64:
    """Return a third of the derivative of each of n curves (n, 4, 2) at its own parameter `t` (n, 1): (n, 2)."""
    v, d = 1.0 - t, np.diff(curves, axis=1)
    return v**2 * d[:, 0] + 2 * t * v * d[:, 1] + t**2 * d[:, 2]


def are_lines(curves: F64) -> NDArray[np.bool_]:
    """Return which curves (n, 4, 2) are lines: those whose handles lie on their ends."""
    return np.asarray((curves[:, 0] == curves[:, 1]).all(axis=1) & (curves[:, 2] == curves[:, 3]).all(axis=1))


AT_FOOT = 1e-12
"""A Newton step that changes a parameter by less has come to the foot of the normal."""
OF_A_LINE = 16
"""A straight line has so many points at most: enough for the parameter between two of them to be about even."""


def chorded(curves: F64, flat: float | F64, most: int = 400) -> tuple[F64, F64]:
    """Return points on curves in a row (m, 4, 2), as close together as the bends ask for so that lines between them are
    no further off than `flat`, one for all or one each, and the piece and the parameter of each in one number; without
    the end of the last."""
    second = np.hypot(*np.moveaxis(np.diff(curves, n=2, axis=1), -1, 0)).max(axis=1)
    line = are_lines(curves)
    counts = np.clip(np.ceil(np.sqrt(0.75 * second / flat)), 1, np.where(line, OF_A_LINE, most)).astype(np.int64)
    piece = np.repeat(np.arange(len(curves)), counts)
    t = (np.arange(len(piece)) - np.repeat(np.cumsum(counts) - counts, counts)) / counts[piece]
    return on_curves(curves[piece], t[:, None]), piece + t


def spaced(curves: F64, spacing: float) -> tuple[F64, I64]:
    """Return points on curves (m, 4, 2), about `spacing` apart or nearer, without their ends; and the curve of each."""
    control = np.linalg.norm(np.diff(curves, axis=1), axis=-1).sum(axis=1)
    counts = np.maximum(1, np.ceil(control / spacing)).astype(np.int64)
    # one evaluation for all pieces: each point's piece and its parameter there
    piece = np.repeat(np.arange(len(curves)), counts)
    t = (np.arange(len(piece)) - (np.cumsum(counts) - counts)[piece]) / counts[piece]
    return on_curves(curves[piece], t[:, None]), piece


def split(curve: F64, t: float) -> tuple[F64, F64]:
    """Split a curve, or each of a stack, at `t` by de Casteljau's construction; both parts follow the same path."""
    p = np.moveaxis(curve, -2, 0)
    a = p[:-1] + t * np.diff(p, axis=0)
    b = a[:-1] + t * np.diff(a, axis=0)
    c = b[0] + t * (b[1] - b[0])
    return np.stack([p[0], a[0], b[0], c], axis=-2), np.stack([c, b[1], a[2], p[3]], axis=-2)


def lengths(curves: F64) -> F64:
    """Return the arc length of every curve, by 24-point Gauss-Legendre quadrature."""
    speed = np.linalg.norm(derivative(curves, 0.5 * (_GAUSS_NODES + 1.0)), axis=-1)
    return np.asarray(0.5 * speed @ _GAUSS_WEIGHTS)


def areas(curves: F64) -> F64:
    """Return each curve's share of the signed area of its closed contour (Green's theorem, exact)."""
    x, y = curves[..., 0], curves[..., 1]

    def cross(i: int, j: int) -> F64:
        return np.asarray(x[..., i] * y[..., j] - x[..., j] * y[..., i])

    return np.asarray(
        (6 * cross(0, 1) + 3 * cross(0, 2) + cross(0, 3) + 3 * cross(1, 2) + 3 * cross(1, 3) + 6 * cross(2, 3)) / 20.0
    )


def level_places(curves: F64) -> F64:
    """Return where curves (m, 4, 2) are level or upright: for x and y two parameters each, NaN where not in (0, 1).

    The derivative's quadratic is solved without cancellation (Press et al. 2007, "Numerical Recipes", 5.6).
    """
    d = np.diff(curves, axis=1)
    a, b, c = d[:, 0] - 2 * d[:, 1] + d[:, 2], 2 * (d[:, 1] - d[:, 0]), d[:, 0]
    with np.errstate(divide="ignore", invalid="ignore"):
        q = -0.5 * (b + np.where(b < 0, -1.0, 1.0) * np.sqrt(b * b - 4 * a * c))
        roots = np.stack([q / a, c / q], axis=-1)
    return np.where((roots > 0.0) & (roots < 1.0), roots, np.nan)


def bend_turns(curves: F64) -> F64:
    """Return where the bend of curves (m, 4, 2) changes sides: two parameters each, NaN where not in (0, 1).

    The roots of the first derivative crossed with the second, a quadratic (Farin 2002).
    """
    d = np.diff(curves, axis=1)
    e, f = d[:, 1] - d[:, 0], d[:, 2] - 2 * d[:, 1] + d[:, 0]

    def cross(one: F64, other: F64) -> F64:
        return np.asarray(one[:, 0] * other[:, 1] - one[:, 1] * other[:, 0])

    a, b, c = cross(e, f), cross(d[:, 0], f), cross(d[:, 0], e)
    with np.errstate(divide="ignore", invalid="ignore"):
        q = -0.5 * (b + np.where(b < 0, -1.0, 1.0) * np.sqrt(b * b - 4 * a * c))
        roots = np.stack([q / a, c / q], axis=-1)
    return np.where((roots > 0.0) & (roots < 1.0), roots, np.nan)


def extremes(curve: F64) -> F64:
    """Return the parameters in (0, 1) at which the curve (4, 2) is level or upright, in order."""
    places = level_places(curve[None]).ravel()
    return np.unique(places[~np.isnan(places)])


def boxes(curves: F64) -> F64:
    """Return left, top, right, bottom of each of a stack of curves, exactly, (m, 4)."""
    low, high = np.minimum(curves[:, 0], curves[:, 3]), np.maximum(curves[:, 0], curves[:, 3])
    # a curve reaches beyond its ends only where a handle does
    beyond = (curves[:, 1:3] < low[:, None]).any(axis=(1, 2)) | (curves[:, 1:3] > high[:, None]).any(axis=(1, 2))
    if beyond.any():
        t = level_places(curves[beyond])
        v, c = 1.0 - t, curves[beyond][..., None]
        there = v**3 * c[:, 0] + 3 * t * v**2 * c[:, 1] + 3 * t**2 * v * c[:, 2] + t**3 * c[:, 3]
        there = np.where(np.isnan(t), c[:, 0], there)
        low[beyond] = np.minimum(low[beyond], there.min(axis=-1))
        high[beyond] = np.maximum(high[beyond], there.max(axis=-1))
    return np.concatenate([low, high], axis=1)


def bounds(curves: F64) -> tuple[float, float, float, float]:
    """Return left, top, right, bottom of a stack of curves, exactly."""
    each = boxes(curves)
    return (*each[:, :2].min(axis=0).tolist(), *each[:, 2:].max(axis=0).tolist())


def nearest(curves: F64, point: tuple[float, float]) -> tuple[int, float, float]:
    """Return which curve of a stack comes nearest a point, the parameter there, and the distance.

    Sampled at 17 parameters each, the best few refined by Newton steps on the foot of the normal.
    """
    p = np.asarray(point, dtype=np.float64)
    t = np.linspace(0.0, 1.0, 17)
    away = np.linalg.norm(evaluate(curves, t) - p, axis=-1)
    few = np.argsort(away.min(axis=1))[:4]
    own, coarse = curves[few], t[away[few].argmin(axis=1)]
    u, distance = _feet(own, np.broadcast_to(p, (len(own), 2)), coarse)
    best = int(distance.argmin())
    return int(few[best]), float(u[best]), float(distance[best])


def distances(curves: F64, points: F64) -> F64:
    """Return how far each of n points (n, 2) is from its own of n curves (n, 4, 2), in px; found as by `nearest`."""
    t = np.linspace(0.0, 1.0, 17)
    away = np.linalg.norm(evaluate(curves, t) - points[:, None], axis=-1)
    return _feet(curves, points, t[away.argmin(axis=1)])[1]


def _feet(curves: F64, points: F64, coarse: F64) -> tuple[F64, F64]:
    """Parameters on n curves that come nearest n points, by Newton steps on the foot of the normal, and the distances.

    Where the steps led further away, what they began with stays.
    """
    second, u = 6.0 * np.diff(curves, n=2, axis=1), coarse.copy()
    for _ in range(8):
        off, along = on_curves(curves, u[:, None]) - points, 3.0 * along_curves(curves, u[:, None])
        bend = (1.0 - u)[:, None] * second[:, 0] + u[:, None] * second[:, 1]
        slope = (along**2).sum(axis=1) + (off * bend).sum(axis=1)
        goes_on = slope > 1e-12
        step = (off * along).sum(axis=1) / np.where(goes_on, slope, 1.0)
        before, u = u, np.where(goes_on, np.clip(u - step, 0.0, 1.0), u)
        if np.abs(u - before).max(initial=0.0) < AT_FOOT:
            break
    places = np.stack([u, coarse])
    away = np.stack([np.hypot(*(on_curves(curves, t[:, None]) - points).T) for t in places])
    which = away.argmin(axis=0)[None]
    return np.take_along_axis(places, which, 0)[0], np.take_along_axis(away, which, 0)[0]
