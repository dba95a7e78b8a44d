"""What was said of a sketch by hand, where the sketch is read."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.cleanup.sheet import SheetMap
from sobercrow.core.settings import PLACE_VERDICTS, Correction, Verdict

REACH = 3.5
"""Lines are meant by a joint so many spreads from it."""


@dataclass(frozen=True, slots=True, eq=False)
class Said:
    """A correction in pixels a sketch is read at: points (n, 2), and how far from them strokes are meant."""

    verdict: Verdict
    points: F64
    width_px: float

    @property
    def place(self) -> F64:
        """Its first point."""
        return np.asarray(self.points[0])


def said_of(corrections: Sequence[Correction], place: SheetMap, reduction: float) -> tuple[Said, ...]:
    """Return the corrections that are shown, in pixels of a sheet read at a size smaller by a factor."""
    return tuple(
        Said(
            one.verdict,
            place.to_sheet(np.array(one.points, dtype=np.float64)) / reduction,
            one.width_px * place.scale_at(one.middle) / reduction,
        )
        for one in corrections
        if one.shown
    )


def places_of(said: Sequence[Said]) -> list[Said]:
    """Return what was said of joints."""
    return [one for one in said if one.verdict in PLACE_VERDICTS]


def reach_of(one: Said, spread: float) -> float:
    """Return how far from a joint lines are meant by it, px."""
    return max(REACH * spread, one.width_px)
