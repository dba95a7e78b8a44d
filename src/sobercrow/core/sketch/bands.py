"""Which strokes make up a line that was found."""

from __future__ import annotations

from sobercrow.core.arrays import F64
from sobercrow.core.sketch.lifted import Traced
from sobercrow.core.sketch.reading import SketchReading
from sobercrow.core.sketch.refit import is_told
from sobercrow.core.strokes.strokes import evenly_spaced


def strokes_along(reading: SketchReading, line: F64, strays_px: float) -> list[F64]:
    """Return the strokes (n, 2), each a run of points, that a line (n, 2) stands for; all in px of the reading."""
    traced = Traced(evenly_spaced(line, 1.0), False)
    return reading.strokes.only(is_told(reading.strokes, [traced], strays_px)).runs()
