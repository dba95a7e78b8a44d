"""Contours moved to where places along them are wanted, with the anchors they have.

Each place stays at its parameter, so that control points are found by linear least squares (Farin 2002, "Curves and
Surfaces for CAGD", ch. 9). Straight lines stay straight; smooth anchors stay smooth.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from sobercrow.core.arrays import F64, I64
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.tracing.regular import align, in_line

WITH_ITS_ANCHOR = 0.02
"""How strongly a handle goes along with its anchor, against one place along a curve."""
STAYS_SMOOTH = 3.0
LEAST_HANDLE_PX = 0.05


def displaced(contour: Contour, piece: I64, t: F64, normals: F64, out: F64, across: F64, along: F64) -> Contour:
    """Return a closed contour moved so that places go across it by so much.

    Places are on their piece (n,) at t (n,), 0–1, and go by `out` (n,) px along their `normals` (n, 2). How much that
    counts is `across` (n,), and how much that they do not slide along the contour is `along` (n,). Where no place goes
    anywhere the contour is returned as it is.
    """
    if not np.any(out):
        return contour
    from scipy.sparse import coo_array, eye_array  # SciPy comes in when it is first needed
    from scipy.sparse.linalg import spsolve

    own = _unknowns(contour)
    count = int(own.max()) + 1
    basis = bezier.basis(t)
    after = (piece + 1) % len(contour)
    columns = np.stack([own[piece, 1], own[piece, 2], own[after, 0], own[after, 1]], axis=1)
    ways = np.stack([-normals[:, 1], normals[:, 0]], axis=1)
    counts = across[:, None, None] * normals[:, :, None] * normals[:, None, :]
    counts += along[:, None, None] * ways[:, :, None] * ways[:, None, :]
    # x and y of every unknown: 2 k and 2 k + 1
    axis = np.arange(2)
    rows = np.broadcast_to(2 * columns[:, :, None, None, None] + axis[:, None], (len(t), 4, 4, 2, 2))
    across_to = np.broadcast_to(2 * columns[:, None, :, None, None] + axis, (len(t), 4, 4, 2, 2))
    values = basis[:, :, None, None, None] * basis[:, None, :, None, None] * counts[:, None, None]
    ties = [tie for k in range(len(contour)) for tie in _ties(contour, own, k)]
    tied = np.array([(2 * i + d, 2 * j + d) for i, j, _ in ties for d in (0, 1)], dtype=np.int64).reshape(-1, 2)
    entries = np.concatenate([values.ravel(), np.repeat([value for *_, value in ties], 2)])
    places = np.concatenate([rows.ravel(), tied[:, 0]]), np.concatenate([across_to.ravel(), tied[:, 1]])
    square = coo_array((entries, places), shape=(2 * count, 2 * count)).tocsc() + 1e-9 * eye_array(2 * count)
    right = np.zeros((count, 2))
    for i in range(4):
        np.add.at(right, columns[:, i], basis[:, i, None] * (across * out)[:, None] * normals)
    moved = np.asarray(spsolve(square.tocsc(), right.ravel())).reshape(count, 2)
    points, kinds = contour.points + moved[own], contour.kinds.copy()
    in_line(points, kinds)
    align(points, kinds, True)
    return Contour(points, kinds, True)


def _unknowns(contour: Contour) -> I64:
    """Which unknown every anchor and handle (n, 3) is: bare handles are their anchors."""
    bare = (contour.points == contour.points[:, 1:2]).all(axis=2)
    own = np.where(bare, -1, 0)
    own[:, 1] = 0
    numbers = np.full(own.shape, -1)
    numbers[own == 0] = np.arange(int((own == 0).sum()))
    return np.where(numbers < 0, numbers[:, 1:2], numbers)


def _ties(contour: Contour, own: I64, k: int) -> Iterator[tuple[int, int, float]]:
    """Yield what ties handles to their anchor, and those of a smooth one to each other: two unknowns, and how much."""
    before, here, after = own[k].tolist()
    for handle in {before, after} - {here}:
        for i, j, sign in ((handle, handle, 1.0), (here, here, 1.0), (handle, here, -1.0), (here, handle, -1.0)):
            yield i, j, WITH_ITS_ANCHOR * sign
    if contour.kinds[k] == AnchorKind.CORNER or len({before, here, after}) < 3:
        return
    arms = contour.points[k, ::2] - contour.points[k, 1]
    a, b = 1.0 / np.maximum(np.hypot(*arms.T), LEAST_HANDLE_PX)
    # a handle's turn is how far its end goes over its length; both turn alike if these are opposite
    row = {before: float(a), after: float(b), here: -float(a + b)}
    for i, one in row.items():
        for j, other in row.items():
            yield i, j, STAYS_SMOOTH / float(a + b) ** 2 * one * other
