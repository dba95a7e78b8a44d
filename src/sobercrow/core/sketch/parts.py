"""A sketch in parts that lie so far from each other that each is read for itself."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from sobercrow.core.arrays import F64, I64, U8
from sobercrow.core.sketch.said import Said, reach_of
from sobercrow.core.strokes.strokes import Strokes, evenly_spaced

APART = 14.0
"""Parts lie at least so many spreads apart: further than lines are seen ahead, and ends are joined."""


@dataclass(frozen=True, slots=True, eq=False)
class Part:
    """Strokes that lie close to each other, how much each of their points counts, and what was said of them."""

    strokes: Strokes
    weights: F64
    said: tuple[Said, ...] = ()

    def digest(self) -> bytes:
        """Return what tells it from any other."""
        told = hashlib.blake2b(digest_size=16)
        for values in (self.strokes.points, self.strokes.ways, self.weights):
            told.update(np.ascontiguousarray(values).tobytes())
        for one in self.said:
            told.update(f"{one.verdict} {one.width_px!r}".encode() + one.points.tobytes())
        return told.digest()


def parts_of(strokes: Strokes, weights: F64, spread: float, said: Sequence[Said] = ()) -> list[Part]:
    """Return strokes in their parts, those with the most points first; what was said holds parts together."""
    if not len(strokes):
        return []
    held = [_held(one, spread) for one in said]
    own = labels_of(np.concatenate([strokes.points, *held]), APART * spread)
    of_points, of_said = own[: len(strokes)], np.split(own[len(strokes) :], np.cumsum([len(h) for h in held])[:-1])
    numbers, counts = np.unique(of_points, return_counts=True)
    made = []
    for number in numbers[np.argsort(-counts, kind="stable")].tolist():
        inside = of_points == number
        own_said = tuple(one for one, labels in zip(said, of_said, strict=False) if number in labels)
        made.append(Part(strokes.only(inside), weights[inside], own_said))
    return made


def _held(one: Said, spread: float) -> F64:
    """Places of one thing that was said, and around them as far as it reaches."""
    reach = reach_of(one, spread)
    line = evenly_spaced(one.points, spread) if len(one.points) > 1 else one.points
    around = np.array([(dx, dy) for dx in (-reach, 0.0, reach) for dy in (-reach, 0.0, reach)])
    return np.asarray((line[:, None] + around).reshape(-1, 2))


def labels_of(points: F64, cell: float) -> I64:
    """Return a number for each place (n, 2), from 1: the same for those whose cells touch."""
    at = np.floor((points - points.min(axis=0)) / cell).astype(np.int64)
    grid: U8 = np.zeros(tuple((at.max(axis=0) + 1).tolist()), dtype=np.uint8)
    grid[tuple(at.T)] = 1
    labels = cv2.connectedComponents(grid, connectivity=8)[1]
    return np.asarray(labels[tuple(at.T)], dtype=np.int64)
