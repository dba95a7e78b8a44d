"""Turning, scaling, leaning and mirroring points, and true shapes with them."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.geometry.forms import Ellipse, Form, Rectangle, off_level

SAME = 1e-9
MOST_LEAN_DEG = 80.0


@dataclass(frozen=True, slots=True)
class Affine:
    """A map of the plane: x' = a x + c y + e, y' = b x + d y + f (W3C, SVG 2: matrix(a b c d e f))."""

    a: float = 1.0
    b: float = 0.0
    c: float = 0.0
    d: float = 1.0
    e: float = 0.0
    f: float = 0.0

    @classmethod
    def moved(cls, dx: float, dy: float) -> Affine:
        """Return the map that shifts."""
        return cls(e=dx, f=dy)

    @classmethod
    def turned(cls, degrees: float, about: tuple[float, float]) -> Affine:
        """Return the map that turns clockwise on screen about a point; quarters are exact."""
        c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
        if degrees % 90.0 == 0.0:
            c, s = float(round(c)), float(round(s))
        return cls(c, s, -s, c)._about(about)

    @classmethod
    def scaled(cls, across: float, down: float, about: tuple[float, float]) -> Affine:
        """Return the map that scales away from a point; negative factors mirror."""
        return cls(a=across, d=down)._about(about)

    @classmethod
    def leaned(cls, degrees: float, about: tuple[float, float], upright: bool = False) -> Affine:
        """Return the map that leans to the right what is upright, about a point; or what is level, downwards."""
        slope = math.tan(math.radians(degrees))
        return (cls(b=slope) if upright else cls(c=-slope))._about(about)

    @classmethod
    def mirrored(cls, angle_deg: float, about: tuple[float, float]) -> Affine:
        """Return the map that mirrors in an axis through a point, turned clockwise from level by an angle."""
        c, s = math.cos(math.radians(2.0 * angle_deg)), math.sin(math.radians(2.0 * angle_deg))
        if angle_deg % 45.0 == 0.0:
            c, s = float(round(c)), float(round(s))
        return cls(c, s, s, -c)._about(about)

    def _about(self, point: tuple[float, float]) -> Affine:
        x, y = point
        return replace(self, e=x - self.a * x - self.c * y, f=y - self.b * x - self.d * y)

    def then(self, other: Affine) -> Affine:
        """Return the map that does this and then another."""
        first, second = self._matrix(), other._matrix()
        (a, c), (b, d) = (second @ first).tolist()
        e, f = (second @ (self.e, self.f) + (other.e, other.f)).tolist()
        return Affine(a, b, c, d, e, f)

    def _matrix(self) -> F64:
        return np.array([(self.a, self.c), (self.b, self.d)])

    def __call__(self, points: F64) -> F64:
        """Return points (..., 2) mapped."""
        x, y = points[..., 0], points[..., 1]
        return np.stack([self.a * x + self.c * y + self.e, self.b * x + self.d * y + self.f], axis=-1)

    @property
    def area_ratio(self) -> float:
        """By how much areas are multiplied; negative if it mirrors."""
        return self.a * self.d - self.b * self.c

    @property
    def length_ratio(self) -> float | None:
        """By how much all lengths are multiplied, if it is the same in all directions; else None."""
        ratio = math.sqrt(abs(self.area_ratio))
        one, other = math.hypot(self.a, self.b), math.hypot(self.c, self.d)
        same = abs(one - ratio) <= SAME * ratio and abs(other - ratio) <= SAME * ratio
        return ratio if same else None

    def form(self, form: Form) -> Form | None:
        """Return what becomes of a true shape, or None if that is none: a leaned rectangle."""
        x, y = (float(v) for v in self(np.array((form.x, form.y))))
        ratio = self.length_ratio
        if ratio is not None:
            way = (math.cos(math.radians(form.angle_deg)), math.sin(math.radians(form.angle_deg)))
            angle = math.degrees(math.atan2(self.b * way[0] + self.d * way[1], self.a * way[0] + self.c * way[1]))
            if isinstance(form, Ellipse):
                return Ellipse(x, y, form.rx * ratio, form.ry * ratio, 0.0 if form.is_circle else angle % 180.0)
            return Rectangle(x, y, form.width * ratio, form.height * ratio, form.radius * ratio, _tidy(angle))
        if isinstance(form, Ellipse):
            turn = math.radians(form.angle_deg)
            own = np.array([(math.cos(turn), -math.sin(turn)), (math.sin(turn), math.cos(turn))]) * (form.rx, form.ry)
            axes, radii, _ = np.linalg.svd(self._matrix() @ own)
            return Ellipse(
                x, y, float(radii[0]), float(radii[1]), math.degrees(math.atan2(axes[1, 0], axes[0, 0])) % 180
            )
        is_level = abs(off_level(form.angle_deg)) < SAME and abs(self.b) < SAME and abs(self.c) < SAME
        if not is_level or form.radius > 0.0:
            return None
        across, down = abs(self.a), abs(self.d)
        across, down = (down, across) if round(form.angle_deg / 90.0) % 2 else (across, down)
        return Rectangle(x, y, form.width * across, form.height * down, 0.0, form.angle_deg)


def _tidy(angle_deg: float) -> float:
    """The angle of a rectangle, −90 to 90; exactly level or upright if it is but for rounding."""
    angle = (angle_deg + 90.0) % 180.0 - 90.0
    return float(round(angle / 90.0) * 90) if abs(off_level(angle)) < SAME else angle
