"""Work on all processor cores: the compiled loops let other threads run meanwhile."""

from __future__ import annotations

import os
import threading
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor, wait
from contextvars import copy_context
from functools import cache
from itertools import pairwise
from typing import TypeVar

from sobercrow.core.stopping import go_on

SMALL_ROWS = 300
"""Fewer rows than this are not worth a second thread."""
MOST_ROWS = 512
"""So many rows are worked on at once at most: in between one looks whether to stop."""

Part = TypeVar("Part")
Result = TypeVar("Result")


@cache
def core_count() -> int:
    """Return how many threads are worth starting."""
    return max(1, min(os.cpu_count() or 1, 8))


def on_cores(
    parts: Sequence[Part], work: Callable[[Part], Result], told: Callable[[int], object] | None = None
) -> list[Result]:
    """Return `work(part)` for every part, in order; all cores take the next part as they come free.

    The caller's thread works as well, so work inside of work never waits for a thread. Before each part one looks
    whether to stop; whatever is raised ends the rest, and is raised here once the parts begun are done. `told` is
    called in the caller's thread with the number of parts done.
    """
    if len(parts) <= 1 or core_count() == 1:
        return _one_after_the_other(parts, work, told)
    results: dict[int, Result] = {}
    left, lock = iter(range(len(parts))), threading.Lock()
    ended = threading.Event()

    def run(told: Callable[[int], object] | None = None) -> None:
        try:
            while not ended.is_set():
                go_on()
                with lock:
                    k = next(left, None)
                if k is None:
                    return
                results[k] = work(parts[k])
                if told is not None:
                    told(len(results))
        except BaseException:
            ended.set()
            raise

    helpers = [_pool().submit(copy_context().run, run) for _ in range(min(core_count(), len(parts)) - 1)]
    try:
        run(told)
    finally:
        begun = [helper for helper in helpers if not helper.cancel()]
        wait(begun)
    for helper in begun:
        helper.result()
    return [results[k] for k in range(len(parts))]


def _one_after_the_other(
    parts: Sequence[Part], work: Callable[[Part], Result], told: Callable[[int], object] | None
) -> list[Result]:
    results: list[Result] = []
    for part in parts:
        go_on()
        results.append(work(part))
        if told is not None:
            told(len(results))
    return results


@cache
def _pool() -> ThreadPoolExecutor:
    return ThreadPoolExecutor(core_count(), thread_name_prefix="core")


def in_parts(ends: Sequence[int], work: Callable[[int, int], object]) -> None:
    """Run `work(first, last)` between each two ends that follow each other, on as many cores, and wait for all."""
    on_cores(list(pairwise(ends)), lambda part: work(*part))


def in_strips(rows: int, work: Callable[[int, int], object]) -> None:
    """Run `work(first, last)` on strips of rows, as many as there are processor cores or more, and wait for all."""
    strips = max(core_count(), -(-rows // MOST_ROWS)) if rows >= SMALL_ROWS else 1
    in_parts([rows * k // strips for k in range(strips + 1)], work)
