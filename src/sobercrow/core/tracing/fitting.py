"""Fitting curves to many borders at once."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import accumulate, chain, pairwise
from typing import Self, TypeVar

import numpy as np

from sobercrow.core.arrays import F64, cumulated
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.polygon import polygon_area
from sobercrow.core.parallel import core_count, on_cores
from sobercrow.core.settings import Tracing
from sobercrow.core.stopping import go_on
from sobercrow.core.tracing._lines_kernels import fit_lines
from sobercrow.core.tracing.borders import SHARP_BLUR_PX
from sobercrow.core.tracing.tidy import tidied

SOFT_NOISE = 0.15
"""What an edge is wider than a sharp one makes its border points less sure, by this share; tolerance grows as much."""
FIRST = np.array((1.0, 1e-3))
"""A border is read from the point furthest in this direction."""
BATCH_POINTS, BATCHES_A_CORE = 6000, 4
"""Borders are handed to a core so many points at a time, fewer if there are few of them: handing over takes time."""
NO_ENDS = np.zeros((2, 3))
UNTIDY, READ_BACKWARDS = 1, 2
"""Flags of `fit_lines`."""

Progress = Callable[[float], None]
"""Called with the share done, 0-1; may raise `Cancelled` to stop the work."""
Result = TypeVar("Result")


def in_order(line: F64) -> F64:
    """Return a closed border (n, 2) in an order that does not depend on how the picture is turned or mirrored."""
    off = line - 0.5 * (line.min(axis=0) + line.max(axis=0))
    spread, lean = (off**2).sum(axis=0), (off**3).sum(axis=0)
    turn = np.diag(np.where(lean < 0, -1.0, 1.0))
    seen = off @ (turn if spread[0] >= spread[1] else turn[:, ::-1])
    line, seen = (line[::-1], seen[::-1]) if polygon_area(seen) < 0 else (line, seen)
    return np.roll(line, -int(np.argmax(seen @ FIRST)), axis=0)


@dataclass(frozen=True, slots=True)
class Fitter:
    """How borders are fitted.

    `grain_px` is how many pixels what was one pixel of the drawing takes up, at least 1; tolerance and blur are in
    pixels of the drawing, `corner_rad` in radians. `mixed` says that borders were located in mixtures of colours, whose
    noise differs from border to border: rough ones are fitted more calmly.
    """

    tolerance: float
    corner_rad: float
    blur: float
    grain_px: float
    mixed: bool = False

    @classmethod
    def of(cls, settings: Tracing, blur_px: float, grain_px: float = 1.0, mixed: bool = False) -> Self:
        """Fit as the settings say borders of a picture with so wide edges."""
        grain = max(grain_px, 1.0)
        softer = max(blur_px / grain - SHARP_BLUR_PX, 0.0)
        tolerance = settings.effective_tolerance_px / grain + SOFT_NOISE * softer
        corner_rad = math.radians(settings.effective_corner_angle_deg)
        return cls(tolerance, corner_rad, blur_px / grain, grain, mixed)

    def closed(self, line: F64) -> Contour:
        """Fit a closed border (n, 2); turned by quarters or mirrored it gives the same, turned or mirrored."""
        return self.fit([Border(self, line)])[0]

    def open(self, line: F64, ends: F64) -> Contour:
        """Fit a border (n, 2) between its first and its last point; `ends` as in `Border`."""
        return self.fit([Border(self, line, ends)])[0]

    def fit(self, borders: Sequence[Border]) -> list[Contour]:
        """Fit several borders, one after the other; other threads run meanwhile."""
        sizes = np.array([len(border.line) for border in borders])
        starts = cumulated(sizes)
        is_closed = np.array([border.ends is None for border in borders], dtype=np.uint8)
        ends = np.array([NO_ENDS if border.ends is None else border.ends for border in borders]).reshape(-1, 6)
        room = 4 * int(starts[-1]) + 64 * len(borders)
        anchors, kinds = np.empty((room, 6)), np.empty(room, dtype=np.uint8)
        counts, flags = np.empty(len(borders), dtype=np.int64), np.empty(len(borders), dtype=np.uint8)
        points = np.concatenate([border.line for border in borders])
        by = self.tolerance, self.corner_rad, self.blur, self.grain_px, self.mixed
        fit_lines(points, starts, is_closed, ends, *by, anchors, kinds, counts, flags)
        whole = int(counts.sum())
        points, kinds = anchors[:whole].reshape(-1, 3, 2).copy(), kinds[:whole].copy()
        assert np.isfinite(points).all()
        made = []
        runs = pairwise(cumulated(counts).tolist())
        for (first, last), closed, flag in zip(runs, is_closed.tolist(), flags.tolist(), strict=True):
            contour = Contour.known(points[first:last], kinds[first:last], bool(closed))
            go_on()
            if flag == UNTIDY:
                contour = tidied(contour)
            elif flag == UNTIDY | READ_BACKWARDS:
                contour = tidied(contour.reversed()).reversed()  # mirrored pictures give mirrored contours
            made.append(contour)
        return made


@dataclass(frozen=True, slots=True, eq=False)
class Border:
    """A border to be fitted, (n, 2); an open one has `ends` (2, 3), the directions along it at both ends.

    The third number of each is 1 where the curve keeps that direction, 0 where it may come as it likes.
    """

    fitter: Fitter
    line: F64
    ends: F64 | None = None


def fit_all(borders: Sequence[Border], progress: Progress | None = None) -> list[Contour]:
    """Return the contours fitted to borders, in the same order; all cores are used.

    Raises
    ------
    Cancelled
        If `progress` raised it.
    """

    def some(indices: Sequence[int]) -> list[Contour]:
        by_fitter: dict[Fitter, list[int]] = {}
        for k in indices:
            by_fitter.setdefault(borders[k].fitter, []).append(k)
        made: dict[int, Contour] = {}
        for fitter, own in by_fitter.items():
            made.update(zip(own, fitter.fit([borders[k] for k in own]), strict=True))
        return [made[k] for k in indices]

    return in_batches([len(border.line) for border in borders], some, progress)


def on_all_cores(sizes: Sequence[int], work: Callable[[int], Result], progress: Progress | None = None) -> list[Result]:
    """Return `work(k)` for every k; see `in_batches`."""
    return in_batches(sizes, lambda indices: [work(k) for k in indices], progress)


def in_batches(
    sizes: Sequence[int], work: Callable[[Sequence[int]], Sequence[Result]], progress: Progress | None = None
) -> list[Result]:
    """Return what `work` makes of all indices, a batch at a time, the largest first; all cores are used.

    Raises
    ------
    Cancelled
        If `progress` raised it.
    """
    batches, total = _batches(sizes), sum(sizes) or 1
    done = list(accumulate(sum(sizes[k] for k in batch) for batch in batches))

    def told(count: int) -> None:
        if progress is not None:
            progress(done[count - 1] / total)

    made = on_cores(batches, work, told)
    if progress is not None:
        progress(1.0)
    results = dict(zip(chain.from_iterable(batches), chain.from_iterable(made), strict=True))
    return [results[k] for k in range(len(sizes))]


def _batches(sizes: Sequence[int]) -> list[list[int]]:
    batches: list[list[int]] = [[]]
    weight, most = 0, min(BATCH_POINTS, sum(sizes) / (BATCHES_A_CORE * core_count()))
    for index in sorted(range(len(sizes)), key=lambda k: -sizes[k]):
        if weight >= most:
            batches.append([])
            weight = 0
        batches[-1].append(index)
        weight += sizes[index]
    return batches
