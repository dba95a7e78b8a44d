"""Points laid on curves, by which rings of points are known again as the curves they came from.

GEOS works on lines of points, and its rings keep the points they were given. So every side of a ring is known by the
contour and the parameters it came from; where two contours cross, the crossing is placed on both curves by Newton's
method. What is put together of that are the curves themselves, whole or split (de Casteljau).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from sobercrow.core.arrays import F64, I64, cumulated, followers
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry._nearest_kernels import nearest_segments
from sobercrow.core.geometry.arcs import Arc, arc_between, arc_of
from sobercrow.core.geometry.contour import Contour, first_way, joint_kinds

SHORT_PX = 1e-3
"""Anchors nearer than this to the next are one."""
NEAR_PX = 1e-6
ON_PX = 1e-10
"""A crossing is placed when both curves come so near to each other there."""
NEWTON_STEPS = 8
PARALLEL = 1e-3
"""Curves that cross at a smaller angle, in rad, touch: there is no place where they cross."""


@dataclass(frozen=True, slots=True, eq=False)
class Laid:
    """Points laid on a contour: the piece each is on, and its parameter there."""

    contour: Contour
    points: F64
    at: F64
    """Piece and parameter in one number."""

    @classmethod
    def of(cls, contour: Contour, flat_px: float) -> Laid:
        """Lay points as close together as the bends ask for, so that their line is no further off the curve."""
        return cls.of_all([contour], flat_px)[0]

    @classmethod
    def of_all(cls, contours: Sequence[Contour], flat_px: float) -> list[Laid]:
        """The same for many contours, in one go; open ones are closed as filling does."""
        if not contours:
            return []
        contours = [contour.filled() for contour in contours]
        anchors = np.array([len(contour) for contour in contours])
        points, at = bezier.chorded(np.concatenate([contour.curves() for contour in contours]), flat_px)
        firsts = np.cumsum(anchors) - anchors
        cuts = np.searchsorted(at, firsts[1:])
        parts = zip(contours, np.split(points, cuts), np.split(at, cuts), firsts.tolist(), strict=True)
        return [cls(contour, own, where - first) for contour, own, where, first in parts]


class _Rings(NamedTuple):
    """Rings of points one after the other: for each point the one after it, the one before it, and its ring."""

    points: F64
    after: I64
    before: I64
    ring: I64

    @classmethod
    def of(cls, rings: Sequence[F64]) -> _Rings:
        begin = cumulated([len(ring) for ring in rings])
        after = followers(begin)
        before = np.empty_like(after)
        before[after] = np.arange(begin[-1])
        return cls(np.concatenate(rings), after, before, np.repeat(np.arange(len(rings)), np.diff(begin)))


class _Sides(NamedTuple):
    """The sides of rings: the contour each was laid on, −1 if that cannot be told, and the parameters at its ends,
    counted on over the pieces; where a side's ends are crossings, the points of rings are placed on them."""

    owner: I64
    start: F64
    end: F64


class Lines:
    """All laid points, by which rings are known again."""

    def __init__(self, laid: Sequence[Laid], flat_px: float) -> None:
        """Take the points laid on some contours, their lines no further off the curves than said."""
        self._laid, self.flat_px = laid, flat_px
        self._counts = np.array([len(one.points) for one in laid])
        self._owner = np.repeat(np.arange(len(laid)), self._counts)
        self._first = np.cumsum(self._counts) - self._counts
        self._anchors = np.array([len(one.contour) for one in laid])
        self._curve_first = np.cumsum(self._anchors) - self._anchors
        self._curves = np.concatenate([one.contour.curves() for one in laid])
        self._points = np.concatenate([one.points for one in laid])
        self._at = np.concatenate([one.at for one in laid])
        codes = _codes(self._points)
        # points that are several contours' are known by the first of them
        self._order = np.argsort(codes, kind="stable")
        self._sorted = codes[self._order]

    def contours(self, rings: Sequence[F64]) -> list[Contour | None]:
        """Return for each ring of points (n, 2) the closed contour it stands for; None where that cannot be told."""
        if not rings:
            return []
        every = _Rings.of(rings)
        sides = self._sides(every)
        goes_on = self._goes_on(every, sides)
        made: list[Contour | None] = [None] * len(rings)
        broken = np.zeros(len(rings), dtype=np.bool_)
        broken[every.ring[~goes_on]] = True
        first = np.searchsorted(every.ring, np.arange(len(rings)))
        for k in np.flatnonzero(~broken).tolist():
            made[k] = self._laid[int(sides.owner[first[k]])].contour
        breaks = np.flatnonzero(~goes_on)
        if len(breaks):
            curves, ring = self._curves_of(every, sides, breaks)
            for k, contour in _assembled(curves, ring):
                made[k] = contour
        return made

    # which side came from where

    def _find(self, points: F64) -> I64:
        """Which laid point each point is; −1 for none."""
        codes = _codes(points)
        places = np.minimum(np.searchsorted(self._sorted, codes), len(self._sorted) - 1)
        return np.where(self._sorted[places] == codes, self._order[places], -1)

    def _next(self, marks: I64, step: int) -> tuple[I64, F64]:
        """The laid points beside some on their contours, and their parameters, counted on past the ends."""
        own = self._owner[marks]
        place = marks - self._first[own] + step
        wraps = np.floor_divide(place, self._counts[own])
        beside = self._first[own] + place - wraps * self._counts[own]
        return beside, self._at[beside] + wraps * self._anchors[own]

    def _sides(self, rings: _Rings) -> _Sides:
        """Where every side comes from; crossings are placed on both curves."""
        marks = self._find(rings.points)
        a, b = marks, marks[rings.after]
        owner = np.full(len(marks), -1, dtype=np.int64)
        start, end = np.zeros(len(marks)), np.zeros(len(marks))
        p, q = rings.points, rings.points[rings.after]
        # a side lies between a laid point at one of its ends and the laid point before or after that
        for known, step, from_start in ((a, 1, True), (a, -1, True), (b, -1, False), (b, 1, False)):
            open_yet = np.flatnonzero((owner < 0) & (known >= 0))
            here = known[open_yet]
            beside, at_beside = self._next(here, step)
            ends = (here, beside) if from_start else (beside, here)
            at = (self._at[here], at_beside) if from_start else (at_beside, self._at[here])
            one, other = self._points[ends[0]], self._points[ends[1]]
            shares = [_share(one, other, place[open_yet]) for place in (p, q)]
            fits = np.isfinite(shares[0]) & np.isfinite(shares[1]) & (shares[0] < shares[1])
            rows = open_yet[fits]
            owner[rows] = self._owner[here[fits]]
            for into, share in ((start, shares[0]), (end, shares[1])):
                into[rows] = at[0][fits] + share[fits] * (at[1][fits] - at[0][fits])
        self._between_crossings(rings, np.flatnonzero((owner < 0) & (a < 0) & (b < 0)), owner, start, end)
        self._place_crossings(rings, np.flatnonzero(marks < 0), owner, start, end)
        return _Sides(owner, start, end)

    def _between_crossings(self, rings: _Rings, rows: I64, owner: I64, start: F64, end: F64) -> None:
        """Find the sides that lie between two crossings, with no laid point at their ends."""
        if not len(rows):
            return
        marks = np.arange(len(self._points))
        beside, at_beside = self._next(marks, 1)
        p, q = rings.points[rows], rings.points[rings.after[rows]]
        _, mark = nearest_segments(0.5 * (p + q), self._points, self._points[beside], NEAR_PX)
        found = np.flatnonzero(mark >= 0)
        mark = mark[found]
        shares = [_share(self._points[mark], self._points[beside[mark]], place[found]) for place in (p, q)]
        fits = np.isfinite(shares[0]) & np.isfinite(shares[1])
        mark, into = mark[fits], rows[found[fits]]
        owner[into] = self._owner[mark]
        for parameter, share in zip((start, end), shares, strict=True):
            parameter[into] = self._at[mark] + share[fits] * (at_beside[mark] - self._at[mark])

    def _place_crossings(self, rings: _Rings, rows: I64, owner: I64, start: F64, end: F64) -> None:
        """Place crossings on both curves by Newton's method: the points of rings, and the parameters there."""
        sides = np.column_stack([rings.before[rows], rows])
        sides = sides[(owner[sides] >= 0).all(axis=1)]
        # in one order for all rings that meet there, so that they share the place to the last bit
        own, at = owner[sides], np.column_stack([end[sides[:, 0]], start[sides[:, 1]]])
        turned = own[:, 0] > own[:, 1]
        own, at = np.where(turned[:, None], own[:, ::-1], own), np.where(turned[:, None], at[:, ::-1], at)
        t, places, fits = self._crossings(own, at)
        t, places, sides, turned = t[fits], places[fits], sides[fits], turned[fits]
        t = np.where(turned[:, None], t[:, ::-1], t)
        end[sides[:, 0]], start[sides[:, 1]] = t[:, 0], t[:, 1]
        rings.points[sides[:, 1]] = places

    def _crossings(self, own: I64, at: F64) -> tuple[F64, F64, np.ndarray[tuple[int], np.dtype[np.bool_]]]:
        """Where pairs of contours cross near some parameters, and whether they do."""
        piece = np.floor(at + 1e-9)
        t = at - piece
        rows = self._curve_first[own] + np.mod(piece.astype(np.int64), self._anchors[own])
        one, other = self._curves[rows[:, 0]], self._curves[rows[:, 1]]
        u, v = t[:, :1], t[:, 1:]
        fits = np.ones(len(own), dtype=np.bool_)
        off = np.zeros((len(own), 2))
        for _ in range(NEWTON_STEPS):
            off = bezier.on_curves(other, v) - bezier.on_curves(one, u)
            along, across = 3.0 * bezier.along_curves(one, u), 3.0 * bezier.along_curves(other, v)
            cross = along[:, 0] * across[:, 1] - along[:, 1] * across[:, 0]
            fits &= np.abs(cross) > PARALLEL * np.hypot(*along.T) * np.hypot(*across.T)
            cross = np.where(fits, cross, 1.0)
            u = u + ((off[:, 0] * across[:, 1] - off[:, 1] * across[:, 0]) / cross * fits)[:, None]
            v = v + ((off[:, 0] * along[:, 1] - off[:, 1] * along[:, 0]) / cross * fits)[:, None]
        places = bezier.on_curves(one, u)
        off = bezier.on_curves(other, v) - places
        found = np.concatenate([u, v], axis=1)
        inside = ((found > -1e-9) & (found < 1.0 + 1e-9) & (np.abs(found - t) < 0.25)).all(axis=1)
        fits &= inside & (np.hypot(*off.T) < ON_PX)
        return piece + np.clip(found, 0.0, 1.0), places, fits

    def _goes_on(self, rings: _Rings, sides: _Sides) -> np.ndarray[tuple[int], np.dtype[np.bool_]]:
        """Whether each side goes on where the one before it ended, on the same contour and the same way."""
        owner, back = sides.owner, rings.before
        count = np.where(owner >= 0, self._anchors[owner], 1)
        gap = np.abs(sides.end[back] - sides.start) % count
        near = np.minimum(gap, count - gap) < 1e-9
        way = sides.end - sides.start
        return np.asarray((owner >= 0) & (owner == owner[back]) & near & (way * way[back] > 0))

    # the curves between

    def _curves_of(self, rings: _Rings, sides: _Sides, breaks: I64) -> tuple[F64, I64]:
        """The curves (n, 4, 2) of all runs between breaks, ring by ring, and which ring each is of."""
        ring = rings.ring[breaks]
        following = np.roll(breaks, -1)
        last_of_ring = np.append(ring[1:] != ring[:-1], True)
        first_of_ring = np.concatenate([[0], np.flatnonzero(last_of_ring)[:-1] + 1])
        following[last_of_ring] = breaks[first_of_ring]
        last = rings.before[following]
        owner, places = sides.owner[breaks], (rings.points[breaks], rings.points[following])
        back = sides.end[breaks] < sides.start[breaks]
        low = np.where(back, sides.end[last], sides.start[breaks])
        high = np.where(back, sides.start[breaks], sides.end[last])
        count = np.where(owner >= 0, self._anchors[owner], 1)
        high = high - count * np.floor((high - low - 1e-9) / count)
        pieces = np.ceil(high - 1e-9) - np.floor(low + 1e-9)
        pieces = np.where(owner >= 0, np.maximum(pieces, 1), 1).astype(np.int64)
        run = np.repeat(np.arange(len(breaks)), pieces)
        nth = np.arange(len(run)) - np.repeat(np.cumsum(pieces) - pieces, pieces)
        nth = np.where(back[run], pieces[run] - 1 - nth, nth)
        piece = np.floor(low + 1e-9)[run] + nth
        a = np.clip(low[run] - piece, 0.0, 1.0)
        b = np.clip(high[run] - piece, 0.0, 1.0)
        own = np.maximum(owner[run], 0)
        whole = self._curves[self._curve_first[own] + np.mod(piece.astype(np.int64), self._anchors[own])]
        curves = _parts(whole, a, b)
        curves = np.where(back[run][:, None, None], curves[:, ::-1], curves)
        starts = np.cumsum(pieces) - pieces
        for rows, place, handle, anchor in ((starts, places[0], 1, 0), (starts + pieces - 1, places[1], 2, 3)):
            curves[rows, handle] += place - curves[rows, anchor]
            curves[rows, anchor] = place
        plain = np.flatnonzero(owner[run] < 0)
        curves[plain, 1], curves[plain, 2] = curves[plain, 0], curves[plain, 3]
        cut = np.flatnonzero((b - a < 1.0) & (owner[run] >= 0) & ~bezier.are_lines(whole))
        for k in cut.tolist():  # what is cut of an arc is one
            arc = arc_of(whole[k])
            if arc is not None:
                way = Arc(arc.middle, arc.radius, -arc.turn) if back[run[k]] else arc
                curves[k] = arc_between(curves[k, 0], curves[k, 3], way)
        return curves, ring[run]


def _codes(points: F64) -> np.ndarray[tuple[int], np.dtype[np.complex128]]:
    """Points as numbers that can be sorted and compared; nought is one, whatever its sign."""
    return np.asarray((points[:, 0] + 0.0) + 1j * (points[:, 1] + 0.0))


def _share(one: F64, other: F64, place: F64) -> F64:
    """How far along sides places lie, from one end to the other; NaN where they do not lie on them."""
    way = other - one
    size = np.maximum((way**2).sum(axis=1), 1e-24)
    share = np.clip(((place - one) * way).sum(axis=1) / size, 0.0, 1.0)
    off = one + share[:, None] * way - place
    return np.where(np.hypot(*off.T) < NEAR_PX, share, np.nan)


def _parts(curves: F64, a: F64, b: F64) -> F64:
    """The parts of curves (n, 4, 2) from one parameter to another; whole ones stay as they are to the last bit."""
    left = _left(curves, b)
    with np.errstate(invalid="ignore", divide="ignore"):
        inner = np.where(b > 0.0, a / b, 0.0)
    right = _left(left[:, ::-1], 1.0 - inner)[:, ::-1]
    made = np.where((b < 1.0)[:, None, None], left, curves)
    made = np.where((a > 0.0)[:, None, None], right, made)
    line = bezier.are_lines(curves)
    made[line, 1], made[line, 2] = made[line, 0], made[line, 3]
    return made


def _left(curves: F64, t: F64) -> F64:
    """The parts of curves up to a parameter each."""
    share = t[:, None]
    p = [curves[:, k] for k in range(4)]
    made = [p[0]]
    while len(p) > 1:
        p = [one + share * (other - one) for one, other in pairwise(p)]
        made.append(p[0])
    return np.stack(made, axis=1)


def _assembled(curves: F64, ring: I64) -> list[tuple[int, Contour]]:
    """Closed contours of curves end to end, ring by ring; very short ones are left out."""
    kept = np.hypot(*np.moveaxis(np.diff(curves, axis=1), -1, 0)).sum(axis=1) > SHORT_PX
    curves, ring = curves[kept], ring[kept]
    names, first, counts = np.unique(ring, return_index=True, return_counts=True)
    before = np.arange(len(curves)) - 1
    before[first] = first + counts - 1
    came = curves[before]
    points = np.stack([came[:, 2], curves[:, 0], curves[:, 1]], axis=1)
    for side, handles in ((0, came[:, 3] - came[:, 2]), (2, curves[:, 1] - curves[:, 0])):
        none = np.hypot(*handles.T) < 1e-9
        points[none, side] = points[none, 1]
    into = first_way(came[:, 3] - came[:, 2], came[:, 3] - came[:, 1], came[:, 3] - came[:, 0])
    out = first_way(curves[:, 1] - curves[:, 0], curves[:, 2] - curves[:, 0], curves[:, 3] - curves[:, 0])
    kinds = joint_kinds(into, out)
    return [
        (name, Contour.known(points[k : k + count].copy(), kinds[k : k + count].copy()))
        for name, k, count in zip(names.tolist(), first.tolist(), counts.tolist(), strict=True)
        if count >= 2
    ]
