"""Mirror symmetry: the axis of a border, and contours made symmetric to it.

A border sampled evenly is its own mirror image, run through backwards and begun elsewhere. For every place to begin
the axis that fits best, and what then is left over, follow from one circular correlation of the border with itself.
How far a form is from a symmetric one: Zabrodsky, Peleg & Avnir 1995, "Symmetry as a continuous feature". The best axes
are then moved to the least distances across the border, by Gauss-Newton.
"""

from __future__ import annotations

import cmath
import math
from dataclasses import dataclass, replace
from typing import Self

import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F64, following, preceding
from sobercrow.core.geometry._moment_kernels import border_moments
from sobercrow.core.geometry.forms import Mirror, off_level
from sobercrow.core.geometry.polygon import along_of
from sobercrow.core.tracing._mirror_kernels import mirror_differences
from sobercrow.core.tracing.fitting import in_order
from sobercrow.core.tracing.true_shapes import SMOOTHED_POINTS, TrueShape, smoothed

LEAST_LENGTH_PX = 40.0
"""Of shorter borders nobody can tell whether they are symmetric."""
COARSE_PX, SPACING_PX, BORDER_PX = 1.0, 0.5, 0.8
LEAST_SAMPLES, MOST_COARSE, MOST_SAMPLES = 128, 1024, 4096
UNSURE = 1.0
"""So many times as far as an axis allows a border to stray, its moments may be off."""
MOST_AXES, ROUNDS, SETTLED = 6, 5, 1e-6
TILTED_LENGTH_PX, TILTED_STRICTNESS = 100.0, 1.5
"""An axis that is not level or upright is sought along no shorter borders, and must hold so much better."""
TILTED_DEG, DEFINITE = 6.0, 4.0
"""One turned against it by so much must stray so many times as far: what is nearly round has no axis of its own."""
REACH = 3
"""The place of a mirrored sample is looked for among so many on either side of where it should be."""
OFF_CORNERS, AT_CORNERS = 97.0, 3.0
"""So many per cent of it; at corners, which pixels round differently on either side, so many times as far."""
LEVEL_DEG = 1.5


@dataclass(frozen=True, slots=True)
class Allowance:
    """How far a border may be from its mirror image: in px, and as a share of its size more.

    An axis is looked at closely if the coarse border is no further from it than `maybe`, and then no further across
    itself than `roughly`; it is one if the border strays no further smoothly from the symmetric one than `slack`.
    """

    maybe_px: float = 0.6
    maybe: float = 0.02
    roughly_px: float = 0.1
    roughly: float = 0.003
    slack_px: float = 0.03
    slack: float = 0.002


OF_BORDERS = Allowance()


@dataclass(frozen=True, slots=True, eq=False)
class _Samples:
    """Evenly spaced points of a closed border, and how alike they are to their mirror images begun at each of them."""

    points: F64
    spacing: float
    alike: NDArray[np.complex128]
    allowed: Allowance

    @classmethod
    def of(cls, line: F64, spacing_px: float, most: int, allowed: Allowance = OF_BORDERS) -> Self:
        """Sample a border (n, 2) so far apart, by no more than so many points."""
        ring = np.concatenate([line, line[:1]])
        along = along_of(ring)
        count = min(max(round(along[-1] / spacing_px), LEAST_SAMPLES), most)
        places = np.arange(count) * (along[-1] / count)
        points = np.column_stack([np.interp(places, along, part) for part in ring.T])
        z = (points - points.mean(axis=0)) @ (1.0, 1j)
        return cls(points, along[-1] / count, np.fft.ifft(np.fft.fft(z) ** 2), allowed)

    @property
    def size(self) -> float:
        """How far they are from their middle, root mean square."""
        return math.sqrt(float(self.points.var(axis=0).sum()))

    @property
    def length(self) -> float:
        """How long the border is."""
        return self.spacing * len(self.points)

    def axes(self) -> list[Mirror]:
        """Return the axes about which they may be symmetric, the best first."""
        middle = self.points.mean(axis=0)
        strength, size = np.abs(self.alike), self.size
        off = np.sqrt(2.0 * np.maximum(size**2 - strength / len(strength), 0.0))
        limit = self.allowed.maybe_px + 0.25 * self.spacing + self.allowed.maybe * size
        if np.median(off) <= limit:  # round: all axes are alike
            return [Mirror(float(middle[0]), float(middle[1]), 0.0, angle) for angle in (90.0, 0.0)]
        is_peak = (strength >= preceding(strength)) & (strength > following(strength)) & (off <= limit)
        best = sorted(np.flatnonzero(is_peak).tolist(), key=lambda k: float(off[k]))[:MOST_AXES]
        angles = [math.degrees(0.5 * np.angle(self.alike[k])) % 180.0 for k in best]
        axes = [Mirror(float(middle[0]), float(middle[1]), 0.0, angle) for angle in angles]
        roughly = self.allowed.roughly_px + 0.05 * self.spacing + self.allowed.roughly * size
        return [axis for axis in axes if self.roughly_off(axis) <= roughly]

    def begin(self, axis: Mirror) -> int:
        """Return which sample the first one's mirror image should lie on."""
        return int((np.conj(self.alike) * np.exp(2j * math.radians(axis.angle_deg))).real.argmax())

    def roughly_off(self, axis: Mirror) -> float:
        """Return how far across itself the border is from its mirror image, root mean square, the axis moved."""
        seen, counterpart = (
            axis.mirrored(self.points),
            (self.begin(axis) - np.arange(len(self.points))) % len(self.points),
        )
        way = following(self.points) - preceding(self.points)
        normals = np.column_stack([-way[:, 1], way[:, 0]])[counterpart] / (2.0 * self.spacing)
        off = ((seen - self.points[counterpart]) * normals).sum(axis=1)
        rows = self._moving(axis, normals, seen)
        off -= rows @ np.linalg.solve(rows.T @ rows + 1e-9 * np.eye(2), rows.T @ off)
        return math.sqrt(float((off**2).mean()))

    @staticmethod
    def _moving(axis: Mirror, normals: F64, seen: F64) -> F64:
        """What the differences change by when the axis is shifted across, and turned."""
        away = seen - (axis.x, axis.y)
        turned = away[:, 0] * normals[:, 1] - away[:, 1] * normals[:, 0]
        return 2.0 * np.column_stack([normals @ axis.across(), turned])

    def differences(self, axis: Mirror) -> tuple[F64, F64, F64]:
        """Return how far across the border each mirrored sample is from it, the normals there, the mirrored samples."""
        seen = axis.mirrored(self.points)
        off, normals = np.empty(len(seen)), np.empty_like(seen)
        mirror_differences(self.points, seen, self.begin(axis), REACH, off, normals)
        return off, normals, seen

    def symmetric(self, axis: Mirror) -> F64:
        """Return their mirror image moved half-way to them, (n, 2)."""
        off, normals, seen = self.differences(axis)
        return np.asarray(seen - 0.5 * off[:, None] * normals)

    def settled(self, axis: Mirror, turning: bool) -> Mirror:
        """Move an axis, and turn it if wished, to where they are nearest to their mirror image."""
        for _ in range(ROUNDS):
            off, normals, seen = self.differences(axis)
            rows = self._moving(axis, normals, seen)
            step = np.linalg.lstsq(rows if turning else rows[:, :1], -off, rcond=None)[0]
            x, y = np.array((axis.x, axis.y)) + step[0] * axis.across()
            angle = axis.angle_deg + (math.degrees(step[1]) if turning else 0.0)
            axis = replace(axis, x=float(x), y=float(y), angle_deg=angle % 180.0)
            if np.abs(step).max() < SETTLED:
                break
        along = axis.seen(self.points)[:, 1]
        middle = axis.back(np.array((0.0, 0.5 * (along.min() + along.max()))))
        return replace(axis, x=float(middle[0]), y=float(middle[1]), length=float(np.ptp(along)))

    def deviation(self, axis: Mirror, tolerance: float, strictness: float = 1.0) -> float | None:
        """Return how far they are at most from being symmetric about an axis, or None if that is too far."""
        off = 0.5 * self.differences(axis)[0]
        slack = (self.allowed.slack_px + self.allowed.slack * self.size) / strictness
        most, smooth = float(np.abs(off).max()), self._smoothed(off)
        holds = np.percentile(smooth, OFF_CORNERS) <= min(slack, tolerance) and smooth.max() <= AT_CORNERS * slack
        return most if holds and most <= AT_CORNERS * tolerance else None

    def strays(self, axis: Mirror) -> float:
        """Return how far they stray smoothly from being symmetric about an axis, corners left out."""
        return float(np.percentile(self._smoothed(0.5 * self.differences(axis)[0]), OFF_CORNERS))

    def _smoothed(self, off: F64) -> F64:
        return smoothed(off, max(1, round(SMOOTHED_POINTS / self.spacing)))


def may_be_symmetric(line: F64, allowed: Allowance = OF_BORDERS) -> bool:
    """Tell quickly whether a closed border (n, 2) may have an axis; nearly all that have none are told by this.

    If there is one, at an angle t, the complex moments c20, c21 and c30 about the middle have the angles 2 t, t and
    3 t, but for half turns (Flusser & Suk 2006, "Rotation moment invariants for recognition of symmetric objects").
    What the border may stray changes each of them by so much; smaller ones tell nothing.
    """
    length, _, _, xx, xy, yy, xxx, xxy, xyy, yyy = border_moments(np.ascontiguousarray(line)).tolist()
    size = math.sqrt(max(xx + yy, 1e-12))
    if length < LEAST_LENGTH_PX:
        return False
    may_stray = UNSURE * (allowed.roughly_px + 0.05 * COARSE_PX + allowed.roughly * size) / size
    c20 = complex(xx - yy, 2 * xy) / size**2
    c21 = complex(xxx + xyy, xxy + yyy) / size**3
    c30 = complex(xxx - 3 * xyy, 3 * xxy - yyy) / size**3
    for one, other, times, over in ((c20, c21, 1, 2), (c30, c21, 1, 3), (c30, c20, 2, 3)):
        if abs(one) < 1e-6 or abs(other) < 1e-6:
            continue
        order, other_order = (3 if one is c30 else 2), (2 if other is c20 else 3)
        unsure = times * order * may_stray / abs(one) + over * other_order * may_stray / abs(other)
        apart = (times * cmath.phase(one) - over * cmath.phase(other)) % math.pi
        if min(apart, math.pi - apart) > unsure:
            return False
    return True


def find_mirror(line: F64, tolerance_px: float, allowed: Allowance = OF_BORDERS) -> TrueShape | None:
    """Return the axis about which a closed border (n, 2) is symmetric within the tolerance, or None.

    Of several axes one that is level or upright is taken first, then the one that holds best; `twofold` says that it is
    symmetric about the axis across it too.
    """
    if len(line) < LEAST_LENGTH_PX / 2 or not may_be_symmetric(line, allowed):
        return None
    coarse = _Samples.of(line, COARSE_PX, MOST_COARSE, allowed)
    maybe = coarse.axes() if coarse.length >= LEAST_LENGTH_PX else []
    if not maybe:
        return None
    samples = _Samples.of(in_order(line), SPACING_PX, MOST_SAMPLES, allowed)
    found = [shape for axis in maybe if (shape := _holding(samples, axis, tolerance_px)) is not None]
    if not found:
        return None
    best = min(found, key=lambda shape: (round(abs(off_level(_axis(shape).angle_deg))), shape.deviation_px))
    across = samples.settled(_axis(best).upright(), turning=False)
    deviation = samples.deviation(across, tolerance_px)
    if deviation is None:
        return best
    along = _axis(best).seen(np.array((across.x, across.y)))[1]
    x, y = _axis(best).back(np.array((0.0, along)))
    return TrueShape(replace(_axis(best), x=float(x), y=float(y), twofold=True), max(best.deviation_px, deviation))


def symmetric_about(line: F64, axis: Mirror, tolerance_px: float) -> float | None:
    """Return how far a closed border (n, 2) is at most from being symmetric about an axis; None if that is too far."""
    return _Samples.of(in_order(line), SPACING_PX, MOST_SAMPLES).deviation(axis, tolerance_px)


def symmetric_border(line: F64, axis: Mirror) -> F64:
    """Return a closed border (n, 2) made symmetric about an axis, about as finely sampled as borders are."""
    return _Samples.of(in_order(line), BORDER_PX, MOST_SAMPLES).symmetric(axis)


def _axis(shape: TrueShape) -> Mirror:
    assert isinstance(shape.form, Mirror)
    return shape.form


def _holding(samples: _Samples, axis: Mirror, tolerance: float) -> TrueShape | None:
    """An axis settled, exactly level or upright where that holds; None if none does."""
    off = off_level(axis.angle_deg)
    if abs(off) < LEVEL_DEG:
        level = samples.settled(replace(axis, angle_deg=(axis.angle_deg - off) % 180.0), turning=False)
        deviation = samples.deviation(level, tolerance)
        if deviation is not None:
            return TrueShape(level, deviation)
    if samples.length < TILTED_LENGTH_PX:
        return None
    axis = samples.settled(axis, turning=True)
    deviation = samples.deviation(axis, tolerance, TILTED_STRICTNESS)
    if deviation is None:
        return None
    beside = [replace(axis, angle_deg=axis.angle_deg + turn) for turn in (-TILTED_DEG, TILTED_DEG)]
    is_definite = min(map(samples.strays, beside)) > DEFINITE * samples.strays(axis)
    return TrueShape(axis, deviation) if is_definite else None
