"""The last word on where curves lie: drawn with exact coverage, they must give back the picture's own tones.

A border point is read off a few pixels, each of which tells only where along one row or column the tone passes the
middle. The tones around a whole curve know more: at corners, in strokes of a pixel or two, under blur. So the fitted
curves are drawn as a lens and a sensor would see them, and all their anchors and handles are moved until the drawing
differs least from the picture: Gauss-Newton on the squared difference, whose gradient is exact (the tones change only
along the curve, by how far it moves across itself), its second derivatives as for places of the curve that are pulled
each by itself. Like the analysis by synthesis of active contours (Kass, Witkin & Terzopoulos 1988, "Snakes"), but with
the few unknowns of the fitted curves.
"""

from __future__ import annotations

import math
import os
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from itertools import pairwise
from typing import Self

import numpy as np

from sobercrow.core.arrays import F32, F64, I32, I64, U8
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.inks.separation import InkField
from sobercrow.core.tracing._adjust_kernels import UNKNOWNS, handles_of
from sobercrow.core.tracing._render_kernels import draw, list_band, mark_band, soften, step_rings

ROUNDS = 8
BAND_PX = 2
"""Pixels kept on either side of a curve, beyond the reach of the blur."""
PIXEL_VARIANCE = 1.0 / 6.0
"""What the pixel itself adds to the squared width of an edge read from differences of neighbours, in px²."""
LEAST_BLUR_PX = 0.25
"""Less blur than this is not told from none."""
CORNER_PULL = 0.01
"""Weight that keeps a corner near the place its sides gave it."""
THIRDS_PULL = 0.0001
"""Weight that draws handles to a third of the chord where the tones do not say."""
LEVEL_RAD = 1e-6
FIRST_DAMPING, LEAST_DAMPING = 0.02, 1e-3
WORTHWHILE = 2e-3
"""A ring whose difference falls by a smaller share than this has settled."""
UNLIKE = 0.08
"""Where the drawing differs by more than this, root mean square, the ink has tones of its own: nothing is moved."""


@dataclass(frozen=True, slots=True, eq=False)
class _Rings:
    """Closed contours as rows of unknowns, one row an anchor (see `_adjust_kernels`); `starts` tells them apart."""

    starts: I64
    state: F64
    is_corner: U8
    straight: U8
    held: U8
    home: F64
    controls: F64

    @classmethod
    def of(cls, contours: list[Contour]) -> Self:
        """Take contours apart."""
        starts = np.concatenate([[0], np.cumsum([len(c) for c in contours])]).astype(np.int64)
        points: F64 = np.concatenate([c.points for c in contours])
        kinds = np.concatenate([c.kinds for c in contours])
        after = points[_next(starts)]
        straight = (points[:, 2] == points[:, 1]).all(axis=1) & (after[:, 0] == after[:, 1]).all(axis=1)
        back, ahead = points[:, 0] - points[:, 1], points[:, 2] - points[:, 1]
        is_corner = kinds == AnchorKind.CORNER
        way = ahead - back
        angle = np.arctan2(way[:, 1], way[:, 0])
        quarter = np.abs((angle + math.pi / 4) % (math.pi / 2) - math.pi / 4)
        lengths = np.hypot(back[:, 0], back[:, 1]), np.hypot(ahead[:, 0], ahead[:, 1])
        state = np.empty((len(points), UNKNOWNS))
        state[:, :2] = points[:, 1]
        state[:, 2:] = np.where(
            is_corner[:, None],
            np.column_stack([back, ahead]),
            np.column_stack([angle, *lengths, np.zeros(len(points))]),
        )
        held = (~is_corner & (quarter < LEVEL_RAD)).astype(np.uint8)
        home = points[:, 1].copy()
        controls = np.empty((len(points), 8))
        rings = cls(starts, state, is_corner.astype(np.uint8), straight.astype(np.uint8), held, home, controls)
        rings.update()
        return rings

    def update(self) -> None:
        """Bring the control points in line with the unknowns."""
        for a, b in pairwise(self.starts):
            handles_of(self.state[a:b], self.is_corner[a:b], self.straight[a:b], self.controls[a:b])

    def contour(self, ring: int, like: Contour) -> Contour:
        """Return one of them as a contour again."""
        a, b = self.starts[ring], self.starts[ring + 1]
        controls, straight = self.controls[a:b], self.straight[a:b] == 1
        points = np.stack([np.roll(controls[:, 4:6], 1, axis=0), controls[:, :2], controls[:, 2:4]], axis=1)
        points[straight, 2] = points[straight, 1]
        into_straight = np.roll(straight, 1)
        points[into_straight, 0] = points[into_straight, 1]
        return Contour(points, like.kinds)


def _next(starts: I64) -> I64:
    """The row that follows each, round every ring."""
    following = np.arange(1, starts[-1] + 1)
    following[starts[1:] - 1] = starts[:-1]
    return following


@dataclass(frozen=True, slots=True, eq=False)
class _Band:
    """The pixels near the curves, how much of each is ink, and how the picture was softened."""

    place: I32
    rows: I32
    columns: I32
    owner: I32
    wanted: F32
    taps: F64

    @classmethod
    def of(cls, rings: _Rings, field: InkField, blur_px: float) -> Self:
        """Find the band of some rings in a picture."""
        taps = np.exp(-0.5 * (np.arange(math.ceil(2.5 * blur_px) + 1) / max(blur_px, 1e-3)) ** 2)
        taps /= 2.0 * taps.sum() - taps[0]
        place = np.full(field.grey.shape, -1, dtype=np.int32)
        count = mark_band(rings.controls, rings.starts, place, BAND_PX + len(taps) - 1)
        rows, columns, owner = (np.empty(count, dtype=np.int32) for _ in range(3))
        list_band(place, rows, columns, owner)
        tones = field.grey[rows, columns].astype(np.float32)
        spread = field.paper_level - field.ink_level
        wanted = np.clip((field.paper_level - tones) / spread, 0.0, 1.0).astype(np.float32)
        return cls(place, rows, columns, owner, wanted, taps)

    def drawn(self, rings: _Rings) -> tuple[F32, U8]:
        """Draw rings as the picture would show them; also tell which left the band."""
        cover, strayed = np.empty(len(self.rows), dtype=np.float32), np.zeros(len(rings.starts) - 1, dtype=np.uint8)
        draw(rings.controls, rings.starts, self.place, self.rows, cover, strayed)
        return self.softened(cover), strayed

    def softened(self, values: F32) -> F32:
        """Blur values of the band as the picture was."""
        if len(self.taps) == 1:
            return values
        out = np.empty_like(values)
        soften(self.place, self.rows, self.columns, self.taps, values, out)
        return out


def settled_on_tones(contours: list[Contour], field: InkField, edge_px: float) -> list[Contour]:
    """Move contours, ink on their right, until drawn they give back the tones of a picture; return them in order.

    `edge_px` is the width of the picture's edges, as a standard deviation. A contour whose tones are not those of one
    ink on one paper is returned as it is, and so is all if the threshold was moved off the edge.
    """
    spread = field.paper_level - field.ink_level
    if not contours or field.iso != field.neutral or spread <= 0:
        return contours
    blur = math.sqrt(max(edge_px**2 - PIXEL_VARIANCE, 0.0))
    rings = _Rings.of(contours)
    band = _Band.of(rings, field, blur if blur >= LEAST_BLUR_PX else 0.0)
    moved = _settle(rings, band, 1.0 / math.sqrt(1.0 + 4.0 * math.pi * blur**2))
    return [rings.contour(k, c) if moved[k] else c for k, c in enumerate(contours)]


def _settle(rings: _Rings, band: _Band, response: float) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
    """Move rings to where they differ least; tell which were moved. A step that made a ring worse is taken back."""
    count = len(rings.starts) - 1
    ring_of = np.repeat(np.arange(count), np.diff(rings.starts))
    best, lowest = rings.state.copy(), np.full(count, np.inf)
    dampings = np.full(count, FIRST_DAMPING)
    first: F64 = lowest
    for step in range(ROUNDS + 1):
        off, costs = _difference(rings, band, best, ring_of)
        if step == 0:
            first = costs
            sizes = np.maximum(np.bincount(band.owner, minlength=count), 1)
            dampings[costs > UNLIKE**2 * sizes] = -1.0
        better = costs < lowest
        settled = better & (lowest - costs < WORTHWHILE * costs)
        rows = better[ring_of]
        best[rows], rings.state[~rows] = rings.state[rows], best[~rows]
        lowest = np.where(better, costs, lowest)
        dampings = np.where(
            dampings < 0, dampings, np.where(better, np.maximum(0.5 * dampings, LEAST_DAMPING), 8.0 * dampings)
        )
        dampings[settled] = -1.0
        if step == ROUNDS or (dampings < 0).all():
            break
        if not better.all():
            rings.update()
            off, _ = _difference(rings, band, best, ring_of)
        _step(rings, band.softened(off), band, response, dampings)
    rings.update()
    return lowest < first


def _difference(rings: _Rings, band: _Band, best: F64, ring_of: I64) -> tuple[F32, F64]:
    """How much less than drawn is wanted at every pixel, and each ring's sum of squares."""
    drawn, strayed = band.drawn(rings)
    if strayed.any():
        rows = strayed[ring_of] > 0
        rings.state[rows] = best[rows]
        rings.update()
        drawn, _ = band.drawn(rings)
    off: F32 = drawn - band.wanted
    costs = np.bincount(band.owner, off.astype(np.float64) ** 2, len(rings.starts) - 1)
    return off, np.asarray(costs, dtype=np.float64)


def _step(rings: _Rings, pull: F32, band: _Band, response: float, dampings: F64) -> None:
    """Move every ring that has not settled by one step; both processor cores are used."""
    count = len(rings.starts) - 1
    cores = max(1, min(os.cpu_count() or 1, 8, count))
    ends = np.searchsorted(rings.starts, np.linspace(0, rings.starts[-1], cores + 1))
    ends[-1] = count

    def some(part: tuple[int, int]) -> None:
        step_rings(
            *part,
            rings.starts,
            dampings,
            band.place,
            pull,
            response,
            rings.state,
            rings.is_corner,
            rings.straight,
            rings.held,
            rings.home,
            rings.controls,
            CORNER_PULL,
            THIRDS_PULL,
        )

    with ThreadPoolExecutor(cores) as pool:
        list(pool.map(some, [(int(a), int(b)) for a, b in pairwise(ends)]))
