"""Fitting curves to many borders at once."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from typing import Self, TypeVar

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.errors import Cancelled
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.polygon import polygon_area
from sobercrow.core.geometry.smooth import Beyond, smoothed
from sobercrow.core.parallel import core_count
from sobercrow.core.settings import Tracing
from sobercrow.core.tracing._contour_kernels import fit_contour, fit_open
from sobercrow.core.tracing.borders import SHARP_BLUR_PX
from sobercrow.core.tracing.tidy import tidied

NOISE_PX = 0.12
"""Usual error of a border point. Below a tolerance of about twice this the fit would follow noise."""
SOFT_NOISE = 0.15
"""What an edge is wider than a sharp one makes its border points less sure, by this share; tolerance grows as much."""
FIRST = np.array((1.0, 1e-3))
"""A border is read from the point furthest in this direction."""
BATCH_POINTS, BATCHES_A_CORE = 6000, 4
"""Borders are handed to a core so many points at a time, fewer if there are few of them: handing over takes time."""
ROUGH_POINTS, SMOOTHED_POINTS, SIGMA_OF_MEDIAN = 24, 2.5, 1.48
"""Borders of so many points tell how rough they are, against themselves smoothed over so many."""
ROUGH, SURE_PX, ROUGH_CORNER, MOST_CORNER_RAD = 4.0, 0.06, 10.0, 1.6
"""The tolerance is so many times the roughness at least; a corner must turn by so much more for every px of it beyond
what sure borders have."""

Progress = Callable[[float], None]
"""Called with the share done, 0-1; may raise `Cancelled` to stop the work."""
Result = TypeVar("Result")


@dataclass(frozen=True, slots=True, eq=False)
class _Frame:
    """The view of a border that is the same however the picture is turned by quarters or mirrored."""

    middle: F64
    turn: F64

    @classmethod
    def of(cls, line: F64) -> Self:
        """Find the view in which a border is wider than high and heavier to the right and at the bottom."""
        middle = 0.5 * (line.min(axis=0) + line.max(axis=0))
        off = line - middle
        spread, lean = (off**2).sum(axis=0), (off**3).sum(axis=0)
        turn = np.diag(np.where(lean < 0, -1.0, 1.0))
        return cls(middle, turn if spread[0] >= spread[1] else turn[:, ::-1])

    def seen(self, line: F64) -> F64:
        """Points as seen in it."""
        return np.asarray((line - self.middle) @ self.turn)

    def in_order(self, line: F64) -> tuple[F64, bool]:
        """A closed border run through one way round in it and from one place, and whether that is the other way."""
        seen = self.seen(line)
        reverse = polygon_area(seen) < 0
        line, seen = (line[::-1], seen[::-1]) if reverse else (line, seen)
        return np.roll(line, -int(np.argmax(seen @ FIRST)), axis=0), reverse

    def back(self, points: F64) -> F64:
        """Where points seen in it lie."""
        return np.asarray(points @ self.turn.T + self.middle)


def in_order(line: F64) -> F64:
    """Return a closed border (n, 2) in an order that does not depend on how the picture is turned or mirrored."""
    return _Frame.of(line).in_order(line)[0]


@dataclass(frozen=True, slots=True)
class Fitter:
    """How borders are fitted.

    `grain_px` is how many pixels what was one pixel of the drawing takes up, at least 1; tolerance and blur are in
    pixels of the drawing, `corner_rad` in radians, `smoothness` is the price of distance. `mixed` says that borders
    were located in mixtures of colours, whose noise differs from border to border: rough ones are fitted more calmly.
    """

    tolerance: float
    corner_rad: float
    smoothness: float
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
        return cls(tolerance, corner_rad, _price(tolerance), blur_px / grain, grain, mixed)

    def _suited_to(self, line: F64, closed: bool) -> Fitter:
        """The same, for a border as rough as this one."""
        if not self.mixed or len(line) < ROUGH_POINTS:
            return self
        rough = _roughness(line, closed)
        tolerance = max(self.tolerance, ROUGH * rough)
        corner_rad = min(self.corner_rad * (1.0 + ROUGH_CORNER * max(rough - SURE_PX, 0.0)), MOST_CORNER_RAD)
        return replace(self, tolerance=tolerance, corner_rad=corner_rad, smoothness=_price(tolerance))

    def closed(self, line: F64) -> Contour:
        """Fit a closed border (n, 2); turned by quarters or mirrored it gives the same, turned or mirrored."""
        line = self._thinned(line)
        frame = _Frame.of(line)
        ordered, reverse = frame.in_order(line)
        seen = np.ascontiguousarray(frame.seen(ordered))
        anchors, kinds = self._room(line)
        for by in (self._suited_to(line, closed=True), self):
            count = fit_contour(seen, by.tolerance, by.corner_rad, by.smoothness, by.blur, anchors, kinds)
            if count > 1:  # a small rough spot is more than a point
                break
        points = frame.back(anchors[:count].reshape(count, 3, 2)) * self.grain_px
        contour = tidied(Contour(points, kinds[:count]))
        return contour.reversed() if reverse else contour

    def open(self, line: F64, ends: F64) -> Contour:
        """Fit a border (n, 2) between its first and its last point; `ends` as in `fit_open`."""
        exactly = line[[0, -1]]
        last = line[-1:] / self.grain_px
        line = self._thinned(line[:-1])
        line = np.concatenate([line, last])
        frame = _Frame.of(line)
        seen, ends = frame.seen(line), np.column_stack([ends[:, :2] @ frame.turn, ends[:, 2]])
        reverse = bool(seen[-1] @ FIRST > seen[0] @ FIRST)
        if reverse:
            seen, ends = seen[::-1], ends[::-1] * (-1.0, -1.0, 1.0)
        anchors, kinds = self._room(line)
        by = self._suited_to(line, closed=False)
        seen, ends = np.ascontiguousarray(seen), np.ascontiguousarray(ends)
        count = fit_open(seen, ends, by.tolerance, by.corner_rad, by.smoothness, by.blur, anchors, kinds)
        points = frame.back(anchors[:count].reshape(count, 3, 2)) * self.grain_px
        kind = kinds[:count]
        if reverse:
            points, kind = points[::-1, ::-1].copy(), kind[::-1]
        for end, place in ((0, exactly[0]), (-1, exactly[1])):
            points[end] += place - points[end, 1]
            points[end, 1] = place
        points[0, 0], points[-1, 2] = points[0, 1], points[-1, 1]
        return tidied(Contour(points, kind, closed=False))

    def _thinned(self, line: F64) -> F64:
        if self.grain_px == 1.0:
            return line
        every = round(self.grain_px) if len(line) > 16 * self.grain_px else 1
        return np.ascontiguousarray(line[::every] / self.grain_px)

    @staticmethod
    def _room(line: F64) -> tuple[F64, np.ndarray[tuple[int], np.dtype[np.uint8]]]:
        room = 4 * len(line) + 64
        return np.empty((room, 6)), np.zeros(room, dtype=np.uint8)


def _price(tolerance: float) -> float:
    """The price of distance: a looser tolerance also says that less is wanted of the mean distance."""
    return 0.125 / max(tolerance, NOISE_PX) ** 2


def _roughness(line: F64, closed: bool) -> float:
    """How far the points of a border are off a smooth one, as a standard deviation in px; a few may be far off."""
    beyond = Beyond.ROUND if closed else Beyond.LAST
    smooth = smoothed(line, SMOOTHED_POINTS, beyond)
    way = np.gradient(smooth, axis=0)
    off = line - smooth
    across = (off[:, 0] * way[:, 1] - off[:, 1] * way[:, 0]) / np.maximum(np.hypot(way[:, 0], way[:, 1]), 1e-9)
    rough = across - smoothed(across, SMOOTHED_POINTS, beyond)  # smoothing pulls bends inwards
    return SIGMA_OF_MEDIAN * float(np.median(np.abs(rough)))


def on_all_cores(sizes: Sequence[int], work: Callable[[int], Result], progress: Progress | None = None) -> list[Result]:
    """Return `work(k)` for every k, the largest first; both processor cores are used.

    Raises
    ------
    Cancelled
        If `progress` raised it.
    """
    results: list[Result | None] = [None] * len(sizes)
    total = sum(sizes) or 1
    stopped = False

    def some(indices: Iterable[int]) -> int:
        done = 0
        for index in indices:
            if stopped:
                break
            results[index] = work(index)
            done += sizes[index]
        return done

    with ThreadPoolExecutor(core_count()) as pool:
        done = 0
        try:
            for count in pool.map(some, _batches(sizes)):
                done += count
                if progress is not None:
                    progress(done / total)
        except Cancelled:
            stopped = True
            raise
    return [result for result in results if result is not None]


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
