"""Compiled solver of equations in which each joint of a ring hangs together with its two neighbours only."""

from __future__ import annotations

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.compiled import kernel

LEAST_PIVOT = 1e-12


@kernel
def _factor(a: F64) -> None:
    """Replace a symmetric positive definite matrix by its Cholesky factor, in the lower triangle."""
    n = a.shape[0]
    for j in range(n):
        for k in range(j):
            for i in range(j, n):
                a[i, j] -= a[i, k] * a[j, k]
        pivot = np.sqrt(max(a[j, j], LEAST_PIVOT))
        for i in range(j, n):
            a[i, j] /= pivot


@kernel
def _substitute(factor: F64, b: F64) -> None:
    """Solve for every column of `b`, in place."""
    n = factor.shape[0]
    for c in range(b.shape[1]):
        for i in range(n):
            total = b[i, c]
            for k in range(i):
                total -= factor[i, k] * b[k, c]
            b[i, c] = total / factor[i, i]
        for i in range(n - 1, -1, -1):
            total = b[i, c]
            for k in range(i + 1, n):
                total -= factor[k, i] * b[k, c]
            b[i, c] = total / factor[i, i]


@kernel
def _take_away(out: F64, left: F64, right: F64) -> None:
    """Subtract the product of the transposed `left` and `right`."""
    for k in range(left.shape[0]):
        for i in range(out.shape[0]):
            for j in range(out.shape[1]):
                out[i, j] -= left[k, i] * right[k, j]


@kernel
def solve_ring(diagonal: F64, side: F64, right: F64, step: F64) -> None:
    """Solve a cyclic block tridiagonal system by block elimination (Golub & Van Loan 2013, section 4.5).

    `diagonal` (m, u, u) are the symmetric blocks of each joint, `side` (m, u, u) those between it and the next one,
    the last and the first included; `right` and `step` are (m, u). All but the last joint are eliminated in turn, each
    with its coupling to the last.
    """
    m, u = right.shape
    last = m - 1
    corner = diagonal[last].copy()
    corner_right = right[last].copy().reshape(u, 1)
    if m == 1:
        corner += side[0] + side[0].T
    factors = np.empty((m, u, u))
    ahead = np.empty((m, u, u))
    to_last = np.zeros((m, u, u))
    own = np.empty((m, u, 1))
    coupling = np.empty((u, u))
    for i in range(last):
        factors[i] = diagonal[i]
        own[i, :, 0] = right[i]
        if i == 0:
            to_last[i] += side[last].T
        if i == last - 1:
            to_last[i] += side[i]
        if i > 0:
            _take_away(factors[i], side[i - 1], ahead[i - 1])
            _take_away(own[i], side[i - 1], own[i - 1])
            _take_away(to_last[i], side[i - 1], to_last[i - 1])
        _factor(factors[i])
        coupling[:] = to_last[i]
        _substitute(factors[i], to_last[i])
        _substitute(factors[i], own[i])
        if i < last - 1:
            ahead[i] = side[i]
            _substitute(factors[i], ahead[i])
        _take_away(corner, coupling, to_last[i])
        _take_away(corner_right, coupling, own[i])
    _factor(corner)
    _substitute(corner, corner_right)
    step[last] = corner_right[:, 0]
    for i in range(last - 1, -1, -1):
        for a in range(u):
            total = own[i, a, 0]
            for b in range(u):
                total -= to_last[i, a, b] * step[last, b]
                if i < last - 1:
                    total -= ahead[i, a, b] * step[i + 1, b]
            step[i, a] = total
