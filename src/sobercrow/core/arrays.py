"""Names for the array types used throughout the core."""

from __future__ import annotations

from typing import Any, TypeVar

import numpy as np
from numpy.typing import ArrayLike, NDArray

F32 = NDArray[np.float32]
F64 = NDArray[np.float64]
I32 = NDArray[np.int32]
I64 = NDArray[np.int64]
U8 = NDArray[np.uint8]
U64 = NDArray[np.uint64]


def frozen(array: NDArray[Any]) -> NDArray[Any]:
    """Return a read-only, contiguous array with the same content; the caller's own stays writable."""
    result = np.array(array, copy=True, order="C")
    result.setflags(write=False)
    return result


def greatest_of(groups: NDArray[Any], values: NDArray[Any], count: int) -> F64:
    """Return the greatest value of each of `count` groups, at least 0; `groups` says whose each value is."""
    greatest = np.zeros(count)
    np.maximum.at(greatest, groups.ravel(), values.ravel())
    return greatest


Array = TypeVar("Array", bound=NDArray[Any])


def cumulated(counts: ArrayLike) -> I64:
    """Return where each of several parts of so many rows begins, one after the other, and where the last one ends."""
    return np.concatenate([np.zeros(1, dtype=np.int64), np.cumsum(counts, dtype=np.int64)])


def followers(begin: I64) -> I64:
    """Return which row follows each in its ring, of rings that begin at these rows (n + 1), one after the other."""
    after = np.arange(1, begin[-1] + 1)
    after[begin[1:] - 1] = begin[:-1]
    return after


def following(rows: Array) -> Array:
    """Return for each row of a ring the one after it, and for the last one the first; quicker than `np.roll`."""
    return np.concatenate([rows[1:], rows[:1]])  # type: ignore[return-value]


def preceding(rows: Array) -> Array:
    """Return for each row of a ring the one before it, and for the first one the last."""
    return np.concatenate([rows[-1:], rows[:-1]])  # type: ignore[return-value]
