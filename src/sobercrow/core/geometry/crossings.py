"""Where contours cross themselves."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from sobercrow.core.arrays import F64, cumulated
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry._crossing_kernels import first_crossings
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.parallel import core_count, in_parts

FEW, UNEVEN = 16, 0.382
PART = 200
"""So many contours are worth a part of their own."""


def own_crossings(contours: Sequence[Contour]) -> F64:
    """Return for each contour where it first crosses itself, (n, 4): piece and parameter of either way there.

    The piece is −1 where it does not. Contours that only touch themselves, or lie on themselves, do not cross.
    """
    curves = [contour.curves() for contour in contours]
    places = _crossings(curves, contours)
    # sides may cross in the very places where they are parted for the search: of few ones, part them elsewhere
    again = [k for k, own in enumerate(curves) if places[k, 0] < 0.0 and 1 < len(own) <= FEW]
    halves = [np.stack(bezier.split(curves[k], UNEVEN), axis=1).reshape(-1, 4, 2) for k in again]
    found = _crossings(halves, [contours[k] for k in again])
    crosses = found[:, 0] >= 0.0
    for piece in (0, 2):
        of_half = found[crosses, piece + 1]
        is_second = found[crosses, piece] % 2.0 == 1.0
        found[crosses, piece + 1] = np.where(is_second, UNEVEN + (1.0 - UNEVEN) * of_half, UNEVEN * of_half)
        found[crosses, piece] //= 2.0
    places[again] = found
    return places


def _crossings(curves: Sequence[F64], contours: Sequence[Contour]) -> F64:
    places = np.full((len(curves), 4), -1.0)
    starts = cumulated([len(own) for own in curves])
    if starts[-1]:
        controls = np.ascontiguousarray(np.concatenate(curves)).reshape(-1, 8)
        closed = np.array([contour.closed for contour in contours], dtype=np.uint8)
        parts = core_count() if len(curves) >= PART else 1
        ends = [len(curves) * k // parts for k in range(parts + 1)]
        in_parts(ends, lambda first, last: first_crossings(controls, starts, closed, first, last, places))
    return places
