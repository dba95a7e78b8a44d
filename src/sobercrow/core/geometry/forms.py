"""True shapes: circles, ellipses and rectangles, and fitting the round ones to points."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from enum import StrEnum

import cv2
import numpy as np

from sobercrow.core.arrays import F64, following
from sobercrow.core.geometry.least_squares import least_squares

KAPPA = 4.0 / 3.0 * (math.sqrt(2.0) - 1.0)
"""Length of a handle for a quarter of the unit circle; its cubic is nowhere further off than 0.03 %."""
BAR = 5.0
"""A rectangle so many times as long as wide is a bar."""
ROUNDS = 8
SETTLED = 1e-6
FOOT_ROUNDS = 5


@dataclass(frozen=True, slots=True)
class Ellipse:
    """An ellipse: middle and radii in px, and by how many degrees its first axis is turned clockwise from level."""

    x: float
    y: float
    rx: float
    ry: float
    angle_deg: float = 0.0

    @property
    def is_circle(self) -> bool:
        """Whether both radii are the same."""
        return self.rx == self.ry

    def moved(self, dx: float, dy: float) -> Ellipse:
        """Return it shifted."""
        return replace(self, x=self.x + dx, y=self.y + dy)

    def scaled(self, factor: float) -> Ellipse:
        """Return it with all coordinates multiplied."""
        return Ellipse(self.x * factor, self.y * factor, self.rx * factor, self.ry * factor, self.angle_deg)

    def anchors(self) -> F64:
        """Return its four anchors with handles, (4, 3, 2), clockwise on screen."""
        axes = np.array([(1.0, 0.0), (0.0, 1.0), (-1.0, 0.0), (0.0, -1.0)])
        along = following(axes) * KAPPA
        plain = np.stack([axes - along, axes, axes + along], axis=1) * (self.rx, self.ry)
        return np.asarray(plain @ _turn(self.angle_deg) + (self.x, self.y))


@dataclass(frozen=True, slots=True)
class Rectangle:
    """A rectangle: middle and size in px, radius of its corners, and its turn clockwise in degrees."""

    x: float
    y: float
    width: float
    height: float
    radius: float = 0.0
    angle_deg: float = 0.0

    @property
    def is_bar(self) -> bool:
        """Whether it is a straight bar: sharp, and many times as long as wide."""
        return self.radius == 0.0 and max(self.width, self.height) >= BAR * min(self.width, self.height)

    def middle_line(self) -> F64:
        """Return the ends of the line along its middle, (2, 2)."""
        half = np.array((0.5 * self.width, 0.0) if self.width >= self.height else (0.0, 0.5 * self.height))
        return np.asarray(np.stack([-half, half]) @ _turn(self.angle_deg) + (self.x, self.y))

    def moved(self, dx: float, dy: float) -> Rectangle:
        """Return it shifted."""
        return replace(self, x=self.x + dx, y=self.y + dy)

    def scaled(self, factor: float) -> Rectangle:
        """Return it with all coordinates multiplied."""
        return Rectangle(
            self.x * factor,
            self.y * factor,
            self.width * factor,
            self.height * factor,
            self.radius * factor,
            self.angle_deg,
        )

    def anchors(self) -> F64:
        """Return its anchors with handles, clockwise on screen: (4, 3, 2), or (8, 3, 2) with round corners."""
        w, h, r = 0.5 * self.width, 0.5 * self.height, self.radius
        if r == 0.0:
            corners = np.array([(-w, -h), (w, -h), (w, h), (-w, h)])
            points = np.repeat(corners[:, None], 3, axis=1)
        else:
            k = (1.0 - KAPPA) * r
            rows = []
            for sx, sy in ((-1, -1), (1, -1), (1, 1), (-1, 1)):
                upright = ((sx * w, sy * (h - r)), (sx * w, sy * (h - k)))
                level = ((sx * (w - r), sy * h), (sx * (w - k), sy * h))
                first, last = (upright, level) if sx * sy > 0 else (level, upright)
                rows += [(first[0], first[0], first[1]), (last[1], last[0], last[0])]
            points = np.array(rows, dtype=np.float64)
            points = points if _clockwise(points) else points[::-1, ::-1]
        return np.asarray(points @ _turn(self.angle_deg) + (self.x, self.y))


@dataclass(frozen=True, slots=True)
class Mirror:
    """An axis of mirror symmetry: its middle and length in px, its turn clockwise from level, and whether one more
    stands upright on it there."""

    x: float
    y: float
    length: float
    angle_deg: float
    twofold: bool = False

    def scaled(self, factor: float) -> Mirror:
        """Return it with all coordinates multiplied."""
        return replace(self, x=self.x * factor, y=self.y * factor, length=self.length * factor)

    def upright(self) -> Mirror:
        """Return the axis across it at its middle."""
        return replace(self, angle_deg=(self.angle_deg + 90.0) % 180.0)

    def across(self) -> F64:
        """Return the direction across the axis, (2,)."""
        return np.array((math.sin(math.radians(self.angle_deg)), -math.cos(math.radians(self.angle_deg))))

    def seen(self, points: F64) -> F64:
        """Return how far across the axis points (..., 2) are, and how far along it from its middle."""
        c, s = math.cos(math.radians(self.angle_deg)), math.sin(math.radians(self.angle_deg))
        x, y = points[..., 0] - self.x, points[..., 1] - self.y
        # written out, for equal points must come out equal; a product of matrices does not promise that
        return np.stack([x * s - y * c, x * c + y * s], axis=-1)

    def back(self, seen: F64) -> F64:
        """Return where points lie, (..., 2), that are seen so from the axis."""
        c, s = math.cos(math.radians(self.angle_deg)), math.sin(math.radians(self.angle_deg))
        across, along = seen[..., 0], seen[..., 1]
        return np.stack([across * s + along * c + self.x, along * s - across * c + self.y], axis=-1)

    def mirrored(self, points: F64) -> F64:
        """Return points (..., 2) as seen in the mirror."""
        return self.back(self.seen(points) * (-1.0, 1.0))


class Relation(StrEnum):
    """What marks have in common, or sides of one."""

    STRAIGHT = "straight"
    DIRECTIONS = "directions"
    MIDDLE = "middle"
    ALIKE = "alike"
    REPEATED = "repeated"
    STROKES = "strokes"
    AXIS = "axis"


@dataclass(frozen=True, slots=True)
class Related:
    """Something regular about so many sides or shapes: the middle and the size of the box around them, in px."""

    x: float
    y: float
    size: float
    relation: Relation
    count: int

    def scaled(self, factor: float) -> Related:
        """Return it with all coordinates multiplied."""
        return replace(self, x=self.x * factor, y=self.y * factor, size=self.size * factor)


Form = Ellipse | Rectangle
Regular = Form | Mirror | Related
"""All that can be regular about shapes: what is drawn as such, and what only holds between parts."""
RELATION_WORDS = {
    Relation.STRAIGHT: "straight sides",
    Relation.DIRECTIONS: "shared directions",
    Relation.MIDDLE: "one middle",
    Relation.ALIKE: "alike",
    Relation.REPEATED: "repeated part",
    Relation.STROKES: "equal strokes",
    Relation.AXIS: "shared axis",
}


def kind_of(form: Regular) -> str:
    """Return what a form is called."""
    if isinstance(form, Related):
        return RELATION_WORDS[form.relation]
    if isinstance(form, Mirror):
        return "mirror symmetry"
    if isinstance(form, Ellipse):
        return "circle" if form.is_circle else "ellipse"
    return "bar" if form.is_bar else "rectangle"


def off_level(angle_deg: float) -> float:
    """Return by how many degrees a direction is turned from level or upright, whichever is nearer, −45 to 45."""
    return (angle_deg + 45.0) % 90.0 - 45.0


def _turn(degrees: float) -> F64:
    """What rows x, y are multiplied with to be turned clockwise on screen."""
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    return np.array([(c, s), (-s, c)])


def in_axes(points: F64, form: Form) -> F64:
    """Return points (n, 2) as seen from a form's middle, along its axes."""
    return np.asarray((points - (form.x, form.y)) @ _turn(form.angle_deg).T)


def in_place(points: F64, form: Form) -> F64:
    """Return where points (n, 2) lie that are seen from a form's middle, along its axes."""
    return np.asarray(points @ _turn(form.angle_deg) + (form.x, form.y))


def _clockwise(points: F64) -> bool:
    x, y = points[:, 1].T
    return bool((x * following(y) - following(x) * y).sum() > 0)


def fit_circle(points: F64) -> tuple[Ellipse, F64]:
    """Return the circle nearest to points (n, 2) by least squares, and their signed distances, outside positive.

    Started by the algebraic fit of Taubin 1991 ("Estimation of planar curves, surfaces, and nonplanar space curves"),
    then Gauss-Newton on the distances.
    """
    middle = points.mean(axis=0)
    u = points - middle
    z = (u**2).sum(axis=1)
    mean = z.mean()
    scaled = (z - mean) / (2.0 * math.sqrt(mean))
    _, _, rows = np.linalg.svd(np.column_stack([scaled, u]), full_matrices=False)
    a = rows[2, 0] / (2.0 * math.sqrt(mean))
    centre = -rows[2, 1:] / (2.0 * a) if abs(a) > 1e-12 else np.zeros(2)
    radius = math.sqrt(float(centre @ centre) + mean)
    for _ in range(ROUNDS):
        away = u - centre
        distance = np.hypot(*away.T)
        rows = np.column_stack([away / np.maximum(distance, 1e-12)[:, None], np.ones(len(u))])
        step = np.linalg.lstsq(rows, distance - radius, rcond=None)[0]
        centre, radius = centre + step[:2], radius + float(step[2])
        if np.abs(step).max() < 1e-7:
            break
    x, y = centre + middle
    return Ellipse(float(x), float(y), radius, radius), np.hypot(*(u - centre).T) - radius


def ellipse_of_moments(line: F64) -> Ellipse:
    """Return the ellipse with the area's moments, up to the second, of what a closed line (n, 2) encloses."""
    middle = line.mean(axis=0)
    m = cv2.moments((line - middle).astype(np.float32)[:, None])
    area = m["m00"] if abs(m["m00"]) > 1e-9 else 1e-9
    upright = np.array([[m["mu20"], m["mu11"]], [m["mu11"], m["mu02"]]]) / area
    spread, axes = np.linalg.eigh(upright)
    rx, ry = 2.0 * np.sqrt(np.maximum(spread[::-1], 1e-9))
    x, y = middle + np.array((m["m10"], m["m01"])) / area
    return Ellipse(float(x), float(y), float(rx), float(ry), math.degrees(math.atan2(axes[1, 1], axes[0, 1])))


def ellipse_through(points: F64) -> Ellipse | None:
    """Return the ellipse that suits points (n, 2), at least five, or None if none does; quick, to begin a fit with.

    Fitzgibbon, Pilu & Fisher 1999, "Direct least square fitting of ellipses".
    """
    (x, y), (wide, high), turn = cv2.fitEllipseDirect(points.astype(np.float32))
    if not np.isfinite((x, y, wide, high)).all() or min(wide, high) <= 0.0:
        return None
    return Ellipse(float(x), float(y), 0.5 * float(wide), 0.5 * float(high), float(turn))


def fit_ellipse(points: F64, start: Ellipse, level: bool = False, rounds: int = ROUNDS) -> tuple[Ellipse, F64]:
    """Return the ellipse nearest to points (n, 2), and their signed distances, outside positive.

    Gauss-Newton on the orthogonal distances (Ahn, Rauh & Warnecke 2001, "Least-squares orthogonal distances fitting of
    circle, sphere, ellipse, hyperbola, and parabola"). A `level` one is turned by quarters only.
    """
    x, y, rx, ry = start.x, start.y, start.rx, start.ry
    angle = math.radians(round(start.angle_deg / 90.0) * 90.0 if level else start.angle_deg)
    distance = np.zeros(len(points))
    for _ in range(rounds):
        c, s = math.cos(angle), math.sin(angle)
        u, v = (points - (x, y)) @ (c, s), (points - (x, y)) @ (-s, c)
        t = _feet(u, v, rx, ry)
        ct, st = np.cos(t), np.sin(t)
        nx, ny = ct / rx, st / ry
        size = np.hypot(nx, ny)
        nx, ny = nx / size, ny / size
        distance = (u - rx * ct) * nx + (v - ry * st) * ny
        rows = np.column_stack([nx * c - ny * s, nx * s + ny * c, nx * ct, ny * st, ny * rx * ct - nx * ry * st])
        step = np.linalg.lstsq(rows[:, :4] if level else rows, distance, rcond=None)[0]
        x, y, rx, ry = x + step[0], y + step[1], rx + step[2], ry + step[3]
        angle += 0.0 if level else float(step[4])
        if np.abs(step).max() < 1e-7:
            break
    return Ellipse(float(x), float(y), float(rx), float(ry), math.degrees(angle) % 180.0), distance


def _feet(u: F64, v: F64, rx: float, ry: float) -> F64:
    """Angles at which an ellipse is nearest to points given in its axes, by Newton's method."""
    t = np.arctan2(v / ry, u / rx)
    for _ in range(FOOT_ROUNDS):
        ct, st = np.cos(t), np.sin(t)
        slope = rx * st * (u - rx * ct) - ry * ct * (v - ry * st)
        bend = rx * ct * u + ry * st * v + (rx**2 - ry**2) * (st**2 - ct**2)
        t = t - np.where(bend > 1e-9, slope / np.maximum(bend, 1e-9), 0.0)
    return np.asarray(t)


def nearest_on_ellipse(points: F64, form: Ellipse) -> tuple[F64, F64]:
    """Return the angles (n,), radians in its axes, at which an ellipse is nearest to points (n, 2), and their signed
    distances, outside positive."""
    u, v = in_axes(points, form).T
    t = _feet(u, v, form.rx, form.ry)
    across = np.column_stack([np.cos(t) / form.rx, np.sin(t) / form.ry])
    off = np.column_stack([u - form.rx * np.cos(t), v - form.ry * np.sin(t)])
    return t, np.asarray((off * across).sum(axis=1) / np.hypot(*across.T))


def from_rectangle(points: F64, form: Rectangle) -> F64:
    """Return the signed distances of points (n, 2) from a rectangle's edge, outside positive."""
    beyond = np.abs(in_axes(points, form)) - (0.5 * form.width - form.radius, 0.5 * form.height - form.radius)
    outside = np.hypot(*np.maximum(beyond, 0.0).T)
    return np.asarray(outside + np.minimum(beyond.max(axis=1), 0.0) - form.radius)


def rectangle_around(line: F64) -> Rectangle:
    """Return the smallest rectangle around a closed line (n, 2), its corners round enough for the line's area."""
    (x, y), (width, height), angle = cv2.minAreaRect(line.astype(np.float32)[:, None])
    area = abs(float(cv2.contourArea(line.astype(np.float32)[:, None])))
    radius = math.sqrt(max(width * height - area, 0.0) / (4.0 - math.pi))
    turn = off_level(angle)
    if round((angle - turn) / 90.0) % 2:
        width, height = height, width
    return Rectangle(x, y, width, height, min(radius, 0.5 * min(width, height)), turn)


def fit_rectangle(points: F64, start: Rectangle, level: bool, round_corners: bool) -> Rectangle:
    """Return the rectangle nearest to points (n, 2) by least squares of their distances."""

    def made(p: F64) -> Rectangle:
        x, y, width, height = (float(v) for v in p[:4])
        most = 0.5 * min(abs(width), abs(height))
        radius = min(abs(float(p[4])), most) if round_corners else 0.0
        return Rectangle(x, y, width, height, radius, 0.0 if level else float(p[-1]))

    first = [start.x, start.y, start.width, start.height]
    first += ([start.radius] if round_corners else []) + ([] if level else [start.angle_deg])
    return made(least_squares(lambda p: from_rectangle(points, made(p)), np.array(first), SETTLED))
