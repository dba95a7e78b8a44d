"""Names for the array types used throughout the core."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

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
