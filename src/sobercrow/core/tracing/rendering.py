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
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Self

import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F32, F64, I32, I64, U8, preceding
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.inks.separation import InkField
from sobercrow.core.parallel import core_count, in_parts
from sobercrow.core.tracing._adjust_kernels import handles_of
from sobercrow.core.tracing._render_kernels import (
    compare,
    covered,
    draw,
    ease_corners,
    list_band,
    mark_band,
    soften,
    step_rings,
)
from sobercrow.core.tracing.tidy import crosses_itself, tidied

ROUNDS = 8
UNKNOWNS = 6
"""Of an anchor, see `_adjust_kernels`."""
BAND_PX = 2
"""Pixels kept on either side of a curve, beyond the reach of the blur."""
PIXEL_VARIANCE = 1.0 / 6.0
"""What the pixel itself adds to the squared width of an edge read from differences of neighbours, in px²."""
LEAST_BLUR_PX = 0.25
"""Less blur than this is not told from none."""
LEVEL_RAD = 1e-6
FIRST_DAMPING, LEAST_DAMPING = 0.02, 1e-3
WORTHWHILE = 1e-2
"""A ring whose difference falls by a smaller share than this has settled."""
NO_CORNER = 0.4
"""A corner that turns by less than this share of the corner angle is none."""
EASED_MAY_COST, EASED_MAY_COST_PX2 = 1.1, 0.02
"""So much more may a ring differ for it, as a factor and in px² of ink."""
UNLIKE = 0.08
"""Where the drawing differs by more than this, root mean square, the ink has tones of its own: nothing is moved."""

Flags = NDArray[np.bool_]


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
        following = _next(starts)
        after = points[following]
        straight = (points[:, 2] == points[:, 1]).all(axis=1) & (after[:, 0] == after[:, 1]).all(axis=1)
        back, ahead = points[:, 0] - points[:, 1], points[:, 2] - points[:, 1]
        chord = after[:, 1] - points[:, 1]
        leaving, arriving = np.where(straight[:, None], chord, ahead), -back
        arriving[following[straight]] = chord[straight]
        way = leaving + arriving
        is_corner = kinds == AnchorKind.CORNER
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

    @property
    def ring_of(self) -> I64:
        """The ring of every row."""
        return np.repeat(np.arange(len(self.starts) - 1), np.diff(self.starts))

    def shares(self, which: Flags) -> list[int]:
        """Return where to part the rings, so that each processor core has about as many anchors of those wanted."""
        count = len(self.starts) - 1
        done = np.cumsum(np.where(which, np.diff(self.starts), 0))
        cores = min(core_count(), max(count, 1))
        inner = np.searchsorted(done, done[-1] * np.arange(1, cores) / cores) + 1
        return sorted({0, *np.minimum(inner, count).tolist(), count})

    def by_length(self) -> I64:
        """Return the rings, the longest first: an order that does not depend on how the picture is turned."""
        legs = np.diff(self.controls.reshape(-1, 4, 2), axis=1)
        lengths = np.add.reduceat(np.hypot(legs[..., 0], legs[..., 1]).sum(axis=1), self.starts[:-1])
        return np.argsort(-lengths)

    def update(self, which: Flags | None = None) -> None:
        """Bring the control points of some rings, or of all, in line with their unknowns."""
        for k in range(len(self.starts) - 1) if which is None else np.flatnonzero(which):
            a, b = self.starts[k], self.starts[k + 1]
            handles_of(self.state[a:b], self.is_corner[a:b], self.straight[a:b], self.controls[a:b])

    def eased(self, least_rad: float) -> tuple[_Rings, Flags]:
        """Return them with corners made smooth that turn by less, and which rings were changed."""
        changed = np.zeros(len(self.starts) - 1, dtype=np.uint8)
        state, is_corner = self.state.copy(), self.is_corner.copy()
        ease_corners(self.starts, self.controls, state, is_corner, self.straight, least_rad, changed)
        rings = replace(self, state=state, is_corner=is_corner, controls=self.controls.copy())
        rings.update()
        return rings, changed > 0

    def contour(self, ring: int) -> Contour:
        """Return one of them as a contour again."""
        a, b = self.starts[ring], self.starts[ring + 1]
        controls, straight = self.controls[a:b], self.straight[a:b] == 1
        points = np.stack([preceding(controls[:, 4:6]), controls[:, :2], controls[:, 2:4]], axis=1)
        points[straight, 2] = points[straight, 1]
        into_straight = preceding(straight)
        points[into_straight, 0] = points[into_straight, 1]
        return Contour(points, np.where(self.is_corner[a:b] == 1, AnchorKind.CORNER, AnchorKind.SMOOTH))


def _next(starts: I64) -> I64:
    """The row that follows each, round every ring."""
    following = np.arange(1, starts[-1] + 1)
    following[starts[1:] - 1] = starts[:-1]
    return following


@dataclass(frozen=True, slots=True, eq=False)
class _Band:
    """The pixels near the curves, how much of each is ink, how the picture was softened, and what has been drawn."""

    place: I32
    rows: I32
    columns: I32
    owner: I32
    wanted: F32
    taps: F64
    steps: F64

    @classmethod
    def of(cls, rings: _Rings, field: InkField, blur_px: float) -> Self:
        """Find the band of some rings in a picture."""
        taps = np.exp(-0.5 * (np.arange(math.ceil(2.5 * blur_px) + 1) / max(blur_px, 1e-3)) ** 2)
        taps /= 2.0 * taps.sum() - taps[0]
        place = np.full(field.grey.shape, -1, dtype=np.int32)
        count = mark_band(rings.controls, rings.starts, rings.by_length(), place, BAND_PX + len(taps) - 1)
        rows, columns, owner = (np.empty(count, dtype=np.int32) for _ in range(3))
        list_band(place, rows, columns, owner)
        tones = field.grey[rows, columns].astype(np.float32)
        spread = field.paper_level - field.ink_level
        wanted = np.clip((field.paper_level - tones) / spread, 0.0, 1.0).astype(np.float32)
        return cls(place, rows, columns, owner, wanted, taps, np.zeros(count))

    def draw(self, rings: _Rings, which: Flags, amount: float = 1.0) -> None:
        """Add some rings to the drawing, or take them away with −1."""
        ends = rings.shares(which)
        own = {first: np.zeros_like(self.steps) for first in ends[1:-1]}  # each core adds to steps of its own

        def some(first: int, last: int) -> None:
            steps = own.get(first, self.steps)
            draw(first, last, rings.controls, rings.starts, which.view(np.uint8), amount, self.place, steps)

        in_parts(ends, some)
        for steps in own.values():
            self.steps[:] += steps

    def drawn(self) -> F32:
        """Return what has been drawn as the picture would show it."""
        cover = np.empty(len(self.rows), dtype=np.float32)
        covered(self.rows, self.steps, cover)
        return self.softened(cover)

    def difference(self, count: int) -> tuple[F32, F64]:
        """How much more is drawn than wanted at every pixel, and each of `count` rings' sum of squares."""
        off, costs = np.empty_like(self.wanted), np.zeros(count)
        compare(self.drawn(), self.wanted, self.owner, off, costs)
        return off, costs

    def softened(self, values: F32) -> F32:
        """Blur values of the band as the picture was."""
        if len(self.taps) == 1:
            return values
        out = np.empty_like(values)
        soften(self.place, self.rows, self.columns, self.taps, values, out)
        return out


def settled_on_tones(
    contours: list[Contour],
    field: InkField,
    edge_px: float,
    corner_rad: float,
    between: Callable[[], object] = lambda: None,
) -> list[Contour]:
    """Move contours, ink on their right, until drawn they give back the tones of a picture; return them in order.

    Corners that then turn by much less than `corner_rad` become smooth, where the tones agree. `edge_px` is the width
    of the picture's edges, as a standard deviation. A contour whose tones are not those of one ink on one paper is
    returned as it is, one that would cross itself too, and all are if the threshold was moved off the edge. `between`
    is called between pieces of work; it may raise to stop it.
    """
    spread = field.paper_level - field.ink_level
    if not contours or field.iso != field.neutral or spread <= 0:
        return contours
    blur = math.sqrt(max(edge_px**2 - PIXEL_VARIANCE, 0.0))
    response = 1.0 / math.sqrt(1.0 + 4.0 * math.pi * blur**2)
    rings = _Rings.of(contours)
    band = _Band.of(rings, field, blur if blur >= LEAST_BLUR_PX else 0.0)
    band.draw(rings, np.ones(len(contours), dtype=np.bool_))
    _, costs = band.difference(len(contours))
    alike = costs <= UNLIKE**2 * np.maximum(np.bincount(band.owner, minlength=len(contours)), 1)
    lowest = _settle(rings, band, response, alike, between)
    eased, changed = rings.eased(NO_CORNER * corner_rad)
    changed &= alike
    band.draw(rings, changed, -1.0)
    band.draw(eased, changed)
    smooth = _settle(eased, band, response, changed, between)
    better = changed & (smooth <= EASED_MAY_COST * lowest + EASED_MAY_COST_PX2)
    moved = list(contours)
    for k in np.flatnonzero(alike).tolist():
        found = tidied((eased if better[k] else rings).contour(k))
        if not crosses_itself(found) or crosses_itself(contours[k]):
            moved[k] = found
    return moved


def _settle(rings: _Rings, band: _Band, response: float, which: Flags, between: Callable[[], object]) -> F64:
    """Move some rings, which are drawn, to where they differ least; return each one's sum of squares.

    A step that made a ring worse is taken back, and shorter ones follow.
    """
    best, lowest = rings.state.copy(), np.full(len(which), np.inf)
    if not which.any():
        return lowest
    dampings = np.where(which, FIRST_DAMPING, -1.0)
    for step in range(ROUNDS + 1):
        between()
        off, costs = band.difference(len(which))
        active = dampings >= 0
        better, worse = active & (costs < lowest), active & (costs >= lowest)
        settled = better & (lowest - costs < WORTHWHILE * costs)
        dampings[better] = np.maximum(0.5 * dampings[better], LEAST_DAMPING)
        dampings[worse] *= 8.0
        dampings[settled] = -1.0
        lowest[better] = costs[better]
        rows = better[rings.ring_of]
        best[rows] = rings.state[rows]
        if worse.any():
            _put_back(rings, band, worse, best)
            off, _ = band.difference(len(which))
        active = dampings >= 0
        if step == ROUNDS or not active.any():
            break
        band.draw(rings, active, -1.0)
        _step(rings, band.softened(off), band, response, dampings)
        band.draw(rings, active)
    return lowest


def _put_back(rings: _Rings, band: _Band, which: Flags, best: F64) -> None:
    """Draw some rings where they were best."""
    band.draw(rings, which, -1.0)
    rows = which[rings.ring_of]
    rings.state[rows] = best[rows]
    rings.update(which)
    band.draw(rings, which)


def _step(rings: _Rings, pull: F32, band: _Band, response: float, dampings: F64) -> None:
    """Move every ring that has not settled by one step; both processor cores are used."""

    def some(first: int, last: int) -> None:
        step_rings(
            first,
            last,
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
        )

    in_parts(rings.shares(dampings >= 0.0), some)
