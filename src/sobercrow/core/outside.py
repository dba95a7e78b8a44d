"""The gate for what comes from outside: numbers within their ranges, plain values of a bounded size, one error each.

Everything that reads a file goes through here: `reading` ends whatever goes wrong in the reader's own error, `number`
and `json_of` refuse what no part of the program could work with.
"""

from __future__ import annotations

import json
import math
from collections.abc import Iterator
from contextlib import contextmanager
from typing import TYPE_CHECKING, Any, NoReturn

from sobercrow.core.errors import Cancelled, SoberCrowError

if TYPE_CHECKING:
    from sobercrow.core.arrays import F64

MOST_FILE_BYTES = 1 << 29
"""No file is read that is larger."""
MOST_JSON_BYTES = 1 << 27
"""No plain values are taken from a longer text."""
MOST_SPAN_PX = 1e6
"""Artwork lies within so many pixels of its corner on either side: 2 km at 12 dpi, 21 m at 1,200."""
LEAST_SIDE_PX = 1e-3
"""Artwork is at least so wide and high."""
MOST_VERSION = 1_000_000
"""No format will ever have a later version."""
DPI_RANGE = (0.1, 100_000.0)
"""Resolutions artwork may have."""


@contextmanager
def reading(error: type[SoberCrowError], sentence: str) -> Iterator[None]:
    """End whatever goes wrong within in `error` with one sentence; what is that error already keeps its own.

    Damaged files make libraries raise nearly anything, want of memory and too deep a recursion among it. Only
    `Cancelled` and what is no fault of the file (an interrupt, the end of the program) go through.
    """
    try:
        yield
    except (error, Cancelled):
        raise
    except Exception as fault:
        raise error(sentence) from fault


def number(value: Any, low: float = -MOST_SPAN_PX, high: float = MOST_SPAN_PX) -> float:
    """Return a value as a number from `low` to `high`; raise ValueError or TypeError for what is none, NaN too."""
    made = float(value)
    if not low <= made <= high:  # also refuses NaN
        raise ValueError(f"a number from {low:g} to {high:g} was expected, not {made:g}")
    return made


def coordinates(values: Any) -> F64:
    """Return coordinates of any shape, in px; raise ValueError or TypeError if some are none, or out of all bounds."""
    import numpy as np  # settings come through this gate as well, and need no arrays

    made: F64 = np.array(values, dtype=np.float64)
    if made.size and not np.abs(made).max() <= MOST_SPAN_PX:  # also refuses NaN
        raise ValueError(f"coordinates lie within {MOST_SPAN_PX:g} px")
    return made


def whole(value: Any, low: int, high: int) -> int:
    """Return a value as a whole number from `low` to `high`; raise ValueError or TypeError for what is none."""
    made = number(value, low, high)
    if made != math.floor(made):
        raise ValueError(f"a whole number was expected, not {made:g}")
    return int(made)


def json_of(text: str | bytes, most_bytes: int = MOST_JSON_BYTES) -> Any:
    """Return plain values from JSON (RFC 8259: no NaN, no infinity).

    Raises
    ------
    ValueError
        If it is none, longer than `most_bytes`, or nests too deep to be read.
    """
    if len(text) > most_bytes:
        raise ValueError("the text is too long")
    try:
        return json.loads(text.decode("utf-8-sig") if isinstance(text, bytes) else text, parse_constant=_refused)
    except RecursionError as fault:
        raise ValueError("values nest too deep") from fault


def _refused(name: str) -> NoReturn:
    raise ValueError(f"{name} is no number")
