"""Work on all processor cores: the compiled loops let other threads run meanwhile."""

from __future__ import annotations

import os
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor, wait
from functools import cache
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
    (first, last), *rest = pairwise(ends)
    started = [(_pool().submit(work, *part), part) for part in rest]
    try:
        work(first, last)
    finally:
        # what no thread has begun is done here: work inside of work never waits for a thread
        left = [part for future, part in started if future.cancel()]
        done = [future for future, _ in started if not future.cancelled()]
        wait(done)
    for part in left:
        work(*part)
    for future in done:
        future.result()


@cache
def _pool() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(core_count(), thread_name_prefix="core")


def in_strips(rows: int, work: Callable[[int, int], object]) -> None:
    """Run `work(first, last)` on strips of rows, one for each processor core, and wait for all."""
    cores = core_count() if rows >= SMALL_ROWS else 1
    in_parts([rows * k // cores for k in range(cores + 1)], work)
