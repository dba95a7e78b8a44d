"""Least squares with a handful of unknowns, without the second it takes to bring in an optimiser for large problems."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from sobercrow.core.arrays import F64

FIRST_DAMPING, LEAST_DAMPING, MOST_DAMPING = 1e-3, 1e-12, 1e8
STEP = 1e-7
"""Derivatives are differences over this, relative to the unknown or to one, whichever is larger."""


def least_squares(residuals: Callable[[F64], F64], guess: F64, settled: float = 1e-8, rounds: int = 100) -> F64:
    """Return the unknowns (k,) near a guess that make the sum of squared residuals (n,) least.

    Levenberg-Marquardt (Marquardt 1963; damping by the diagonal as in Moré 1978). It ends when a step changes the
    unknowns, or the sum, by less than `settled` of their size.
    """
    at, off = np.asarray(guess, dtype=np.float64), residuals(guess)
    cost, damping = float(off @ off), FIRST_DAMPING
    for _ in range(rounds):
        widths = STEP * np.maximum(np.abs(at), 1.0)
        slopes = np.column_stack(
            [(residuals(at + w * unit) - off) / w for w, unit in zip(widths, np.eye(len(at)), strict=True)]
        )
        normal, pull = slopes.T @ slopes, slopes.T @ off
        weights = np.maximum(np.diag(normal), 1e-12)
        while damping < MOST_DAMPING:
            step = -np.linalg.solve(normal + damping * np.diag(weights), pull)
            tried = residuals(at + step)
            lower = float(tried @ tried)
            if lower < cost:
                break
            damping *= 8.0
        else:
            return at
        done = np.linalg.norm(step) <= settled * (np.linalg.norm(at) + settled) or cost - lower <= settled * cost
        at, off, cost, damping = at + step, tried, lower, max(0.2 * damping, LEAST_DAMPING)
        if done:
            break
    return at
