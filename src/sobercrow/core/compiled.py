"""The decorator for compiled loops, and where their machine code is kept between runs.

Numba's own cache does not notice when a kernel that another file calls has changed, so the cache's folder
is named after a digest of all kernel sources: a new version of the product never runs old machine code.
"""

from __future__ import annotations

import hashlib
import os
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from itertools import pairwise
from pathlib import Path
from typing import Any, TypeVar, cast

import numba

Function = TypeVar("Function", bound=Callable[..., Any])


def _cache_folder() -> Path:
    digest = hashlib.sha256(numba.__version__.encode())
    for source in sorted(Path(__file__).parent.rglob("_*kernels.py")):
        digest.update(source.read_bytes())
    base = os.environ.get("XDG_CACHE_HOME") or str(Path.home() / ".cache")
    return Path(base) / "sober-crow" / f"kernels-{digest.hexdigest()[:16]}"


if "NUMBA_CACHE_DIR" not in os.environ:
    numba.config.CACHE_DIR = str(_cache_folder())  # type: ignore[attr-defined]


def kernel(function: Function) -> Function:
    """Compile a function with Numba on first use; its machine code is cached on disk, and it runs without the GIL.

    Division by nought gives infinities, as in NumPy.
    """
    return cast(Function, numba.njit(cache=True, nogil=True, error_model="numpy")(function))


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
