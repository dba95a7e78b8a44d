"""Work on all processor cores: the compiled loops let other threads run meanwhile."""

from __future__ import annotations

import os
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from itertools import pairwise

SMALL_ROWS = 300
"""Fewer rows than this are not worth a second thread."""


def core_count() -> int:
    """Return how many threads are worth starting."""
    return max(1, min(os.cpu_count() or 1, 8))


def in_parts(ends: Sequence[int], work: Callable[[int, int], object]) -> None:
    """Run `work(first, last)` between each two ends that follow each other, on as many cores, and wait for all."""
    if len(ends) == 2:
        work(ends[0], ends[1])
        return
    with ThreadPoolExecutor(len(ends) - 1) as pool:
        for done in [pool.submit(work, first, last) for first, last in pairwise(ends)]:
            done.result()


def in_strips(rows: int, work: Callable[[int, int], object]) -> None:
    """Run `work(first, last)` on strips of rows, one for each processor core, and wait for all."""
    cores = core_count() if rows >= SMALL_ROWS else 1
    in_parts([rows * k // cores for k in range(cores + 1)], work)
