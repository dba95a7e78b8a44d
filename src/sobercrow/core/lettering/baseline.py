"""What letters stand on: a straight line at any angle, an arc, on either side of it, or any line that was drawn."""

from __future__ import annotations

import cmath
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.model import Shape
from sobercrow.core.errors import LetteringError
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry._nearest_kernels import nearest_segments
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import fit_circle
from sobercrow.core.geometry.polygon import along_of

LEAST_FOR_ARC = 3
"""Through two letters an arc could be any."""
LARGEST_RADIUS = 30.0
"""In heights of letters: what bends less is straight."""
ON_A_LINE_PX = 1e-6
SMOOTH_PX, FAR_PX = 2.0, 1e6
"""Places of a line that was drawn are so far apart; letters on it are turned as it is over as much on either side."""
LEAST_RISE, BEFORE = 0.004, 0.45
"""As shares: of its length, that an arc rises by at least; of a circle's free part, that lies before the letters."""
BETTER = 0.5
"""An arc is taken where what is left of the letters' distances is so much less than from a line."""


@dataclass(frozen=True, slots=True)
class Straight:
    """A line through a place, at an angle clockwise from level, in degrees; letters stand on its upper side."""

    x: float
    y: float
    angle_deg: float = 0.0

    def at(self, along_px: float) -> tuple[float, float, float]:
        """Return a place so far along, and by how many degrees letters there are turned."""
        turn = math.radians(self.angle_deg)
        return self.x + along_px * math.cos(turn), self.y + along_px * math.sin(turn), self.angle_deg

    def seen(self, points: F64) -> F64:
        """Return points (n, 2) as along the line and below it."""
        turn = math.radians(self.angle_deg)
        off = points - (self.x, self.y)
        c, s = math.cos(turn), math.sin(turn)
        return np.stack([off[:, 0] * c + off[:, 1] * s, off[:, 1] * c - off[:, 0] * s], axis=1)

    def lowered(self, by_px: float) -> Straight:
        """Return the line moved to where letters' feet are, so far below it."""
        turn = math.radians(self.angle_deg)
        return Straight(self.x - by_px * math.sin(turn), self.y + by_px * math.cos(turn), self.angle_deg)

    def mapped(self, turn: complex, shift: complex) -> Straight:
        """Return the line turned and scaled about nought, then shifted, in the plane of complex numbers."""
        place = turn * complex(self.x, self.y) + shift
        return Straight(place.real, place.imag, self.angle_deg + math.degrees(cmath.phase(turn)))

    @property
    def numbers(self) -> tuple[float, ...]:
        """What it is kept as."""
        return self.x, self.y, self.angle_deg


@dataclass(frozen=True, slots=True)
class Arc:
    """A circle letters stand on, and from which direction along it is counted, in degrees clockwise from the right.

    Outside it they read clockwise with their feet inwards; inside it anticlockwise with their feet outwards.
    """

    x: float
    y: float
    radius_px: float
    start_deg: float
    inside: bool = False

    def at(self, along_px: float) -> tuple[float, float, float]:
        """Return a place so far along, and by how many degrees letters there are turned."""
        sign = -1.0 if self.inside else 1.0
        angle = math.radians(self.start_deg) + sign * along_px / self.radius_px
        turn = math.degrees(angle) + sign * 90.0
        x, y = self.x + self.radius_px * math.cos(angle), self.y + self.radius_px * math.sin(angle)
        return x, y, math.remainder(turn, 360.0)

    def seen(self, points: F64) -> F64:
        """Return points (n, 2) as along the arc and below it."""
        off = points - (self.x, self.y)
        angles = np.arctan2(off[:, 1], off[:, 0]) - math.radians(self.start_deg)
        away = np.hypot(off[:, 0], off[:, 1]) - self.radius_px
        around = np.mod(-angles if self.inside else angles, 2.0 * math.pi)
        return np.stack([around * self.radius_px, away if self.inside else -away], axis=1)

    def lowered(self, by_px: float) -> Arc:
        """Return the arc moved to where letters' feet are, so far below it."""
        radius = self.radius_px + (by_px if self.inside else -by_px)
        return Arc(self.x, self.y, max(radius, 1.0), self.start_deg, self.inside)

    def mapped(self, turn: complex, shift: complex) -> Arc:
        """Return the arc turned and scaled about nought, then shifted, in the plane of complex numbers."""
        place = turn * complex(self.x, self.y) + shift
        start = (self.start_deg + math.degrees(cmath.phase(turn))) % 360.0
        return Arc(place.real, place.imag, abs(turn) * self.radius_px, start, self.inside)

    @property
    def numbers(self) -> tuple[float, ...]:
        """What it is kept as."""
        return self.x, self.y, self.radius_px, float(self.start_deg), float(self.inside)


@dataclass(frozen=True, slots=True)
class Drawn:
    """A line that was drawn, by its places in the order letters are read; letters stand on its left, seen that way."""

    places: tuple[tuple[float, float], ...]

    def at(self, along_px: float) -> tuple[float, float, float]:
        """Return a place so far along, and by how many degrees letters there are turned; ends are led on straight."""
        points, along, ways = self._measured()
        k = int(np.clip(np.searchsorted(along, along_px, side="right") - 1, 0, len(ways) - 1))
        x, y = (points[k] + (along_px - along[k]) * ways[k]).tolist()
        # turned as the line is over a little way, for its corners are those of a polygon
        beside = [along_px - SMOOTH_PX, along_px + SMOOTH_PX]
        dx, dy = (float(np.diff(np.interp(beside, along, points[:, axis]))[0]) for axis in range(2))
        if math.hypot(dx, dy) < ON_A_LINE_PX:
            dx, dy = ways[k].tolist()
        return x, y, math.degrees(math.atan2(dy, dx))

    def seen(self, points: F64) -> F64:
        """Return points (n, 2) as along the line and below it."""
        line, along, ways = self._measured()
        starts, ends = np.ascontiguousarray(line[:-1]), np.ascontiguousarray(line[1:])
        nearest = nearest_segments(np.ascontiguousarray(points), starts, ends, FAR_PX)[1]
        off, way = points - starts[nearest], ways[nearest]
        length = np.hypot(*(ends - starts)[nearest].T)
        far = (off * way).sum(axis=1)
        low, high = np.where(nearest == 0, -np.inf, 0.0), np.where(nearest == len(ways) - 1, np.inf, length)
        below = off[:, 1] * way[:, 0] - off[:, 0] * way[:, 1]
        return np.stack([along[nearest] + np.clip(far, low, high), below], axis=1)

    def lowered(self, by_px: float) -> Drawn:
        """Return the line moved to where letters' feet are, so far below it."""
        points, _, ways = self._measured()
        mean = np.concatenate([ways[:1], ways]) + np.concatenate([ways, ways[-1:]])
        mean /= np.maximum(np.hypot(*mean.T), 1e-9)[:, None]
        moved = points + by_px * np.stack([-mean[:, 1], mean[:, 0]], axis=1)
        return Drawn(tuple(map(tuple, moved.tolist())))

    def mapped(self, turn: complex, shift: complex) -> Drawn:
        """Return the line turned and scaled about nought, then shifted, in the plane of complex numbers."""
        moved = turn * (np.array(self.places) @ (1.0, 1j)) + shift
        return Drawn(tuple(zip(moved.real.tolist(), moved.imag.tolist(), strict=True)))

    @property
    def numbers(self) -> tuple[float, ...]:
        """What it is kept as."""
        return tuple(value for place in self.places for value in place)

    def _measured(self) -> tuple[F64, F64, F64]:
        """Its places, how far along each is, and the ways from one to the next."""
        points = np.array(self.places)
        along = along_of(points)
        return points, along, np.diff(points, axis=0) / np.maximum(np.diff(along), 1e-9)[:, None]


Baseline = Straight | Arc | Drawn


def of_numbers(numbers: Sequence[float]) -> Baseline:
    """Return the base line kept as numbers: three of a straight one, five of an arc, else the places of a drawn one."""
    if len(numbers) == 3:
        return Straight(*numbers)
    if len(numbers) == 5:
        x, y, radius, start, inside = numbers
        return Arc(x, y, radius, start, bool(inside))
    return Drawn(tuple(zip(numbers[::2], numbers[1::2], strict=True)))


def parted_from_line(shapes: Sequence[Shape]) -> tuple[list[Shape], Drawn | None]:
    """Return letters without the line chosen with them, and that as a base line; None if there is not just one."""
    lines = [shape for shape in shapes if is_line(shape)]
    if len(lines) != 1 or len(shapes) < 2:
        return list(shapes), None
    return [shape for shape in shapes if shape is not lines[0]], along_line(lines[0].contours[0])


def is_line(shape: Shape) -> bool:
    """Return whether a shape is one open line."""
    return not shape.is_filled and len(shape.contours) == 1 and not shape.contours[0].closed


def along_line(contour: Contour) -> Drawn:
    """Return an open contour as a base line, read from left to right."""
    length = float(bezier.lengths(contour.curves()).sum())
    line = contour.sampled(min(SMOOTH_PX, 0.25 * length))
    line = line[np.concatenate([[True], np.hypot(*np.diff(line, axis=0).T) > ON_A_LINE_PX])]
    if line[0, 0] > line[-1, 0]:
        line = line[::-1]
    return Drawn(tuple(map(tuple, line.tolist())))


def proposed(middles: F64, height_px: float, arcs: bool = True) -> list[Baseline]:
    """Return baselines letters may stand on, the likeliest first, through their middles (n, 2).

    `height_px` is about how high they are. Without `arcs` straight lines alone are proposed.

    Raises
    ------
    LetteringError
        If there are no letters.
    """
    if not len(middles):
        raise LetteringError("There is no lettering here; choose the letters, or an area with letters in it.")
    line, line_off = _line(middles)
    found: list[Baseline] = [line]
    if not arcs or len(middles) < LEAST_FOR_ARC:
        return found
    circle = _circle(middles)
    if circle is None or circle[2] > LARGEST_RADIUS * height_px:
        return found
    x, y, radius, off = circle
    angles = np.sort(np.degrees(np.arctan2(middles[:, 1] - y, middles[:, 0] - x)) % 360.0)
    gaps = np.diff(angles, append=angles[0] + 360.0)
    widest = int(gaps.argmax())
    margin = min(0.45 * gaps[widest], math.degrees(1.5 * height_px / radius))
    first, last = angles[(widest + 1) % len(angles)] - margin, angles[widest] + margin
    # the middle of the word above the circle's: it is read outside, else inside, if one has to guess
    up = math.sin(math.radians(0.5 * (first + margin + angles[widest] + (360.0 if widest + 1 < len(angles) else 0.0))))
    both: list[Baseline] = [Arc(x, y, radius, first % 360.0), Arc(x, y, radius, last % 360.0, True)]
    both = both if up <= 0.0 else both[::-1]
    if off > BETTER * max(line_off, 0.02 * height_px):
        return [line, *both] if line_off < 0.5 * height_px else [*both, line]
    return [*both, line]


def _line(middles: F64) -> tuple[Straight, float]:
    """A line of least squares through places, from left to right, and how far they are off it."""
    middle = middles.mean(axis=0)
    if len(middles) == 1:
        return Straight(float(middle[0]), float(middle[1])), 0.0
    _, sizes, ways = np.linalg.svd(middles - middle, full_matrices=False)
    way = ways[0] if ways[0, 0] >= 0 else -ways[0]
    off = float(sizes[-1]) / math.sqrt(len(middles)) if len(sizes) > 1 else 0.0
    start = middle + way * ((middles - middle) @ way).min()
    return Straight(float(start[0]), float(start[1]), math.degrees(math.atan2(way[1], way[0]))), off


def _circle(points: F64) -> tuple[float, float, float, float] | None:
    """The circle nearest to places: middle, radius and how far they are off it; None if they are on a line."""
    if _line(points)[1] < ON_A_LINE_PX:
        return None
    circle, off = fit_circle(points)
    return circle.x, circle.y, circle.rx, float(np.sqrt((off**2).mean()))


def through(places: F64, like: Baseline) -> Baseline:
    """Return the baseline of the same kind nearest to where letters stand, (n, 2), counted from the same place."""
    if isinstance(like, Drawn):
        return like
    if isinstance(like, Arc):
        circle = _circle(places) if len(places) >= LEAST_FOR_ARC else None
        if circle is None:
            return like
        return Arc(circle[0], circle[1], circle[2], like.start_deg, like.inside)
    if len(places) < 2:
        return like
    line, _ = _line(places)
    flips = abs(math.remainder(line.angle_deg - like.angle_deg, 360.0)) > 90.0
    return Straight(line.x, line.y, line.angle_deg + 180.0 if flips else line.angle_deg)


def three_places(base: Baseline, first: F64, last: F64) -> F64:
    """Return the places on a base line at two others, such as feet of the first and the last letter, and between."""
    ends = base.seen(np.array([first, last]))[:, 0]
    return np.array([base.at(float(along))[:2] for along in (ends[0], ends.mean(), ends[1])])


def through_three(places: F64) -> Baseline:
    """Return the base line read from the first of three places (3, 2) to the last, through the one between.

    A line where they hardly bend; else an arc, its outside up where the middle place is above the line from end to end.
    """
    first, middle, last = places
    chord = last - first
    length = max(float(np.hypot(*chord)), 1e-9)
    rise = float((middle - first) @ (chord[1], -chord[0])) / length
    straight = Straight(float(first[0]), float(first[1]), math.degrees(math.atan2(chord[1], chord[0])))
    share = float((middle - first) @ chord) / length**2
    if abs(rise) < LEAST_RISE * length or not 0.0 < share < 1.0:
        return straight
    # the circle through three places (common practice: where two perpendicular bisectors cross)
    rows = 2.0 * np.array([middle - first, last - first])
    x, y = np.linalg.solve(rows, [middle @ middle - first @ first, last @ last - first @ first]).tolist()
    radius = math.hypot(first[0] - x, first[1] - y)
    inside = rise < 0.0
    sign = -1.0 if inside else 1.0
    begin, end = (math.atan2(place[1] - y, place[0] - x) for place in (first, last))
    free = math.tau - (sign * (end - begin)) % math.tau
    return Arc(x, y, radius, math.degrees(begin - sign * BEFORE * free) % 360.0, inside)


def drawn_through(places: F64, count: int = 65) -> F64:
    """Return places (count, 2) along the base line through three, from the first to the last."""
    base = through_three(places)
    first, last = base.seen(places[[0, 2]])[:, 0]
    return np.array([base.at(float(along))[:2] for along in np.linspace(first, last, count)])


def with_radius(arc: Arc, radius_px: float, at: F64) -> Arc:
    """Return an arc of another radius that runs through the same place, where its direction stays as it is."""
    away = at - (arc.x, arc.y)
    out = away / max(float(np.hypot(*away)), 1e-9)
    x, y = (np.array((arc.x, arc.y)) + out * (arc.radius_px - radius_px)).tolist()
    return Arc(x, y, radius_px, arc.start_deg, arc.inside)


def with_angle(line: Straight, angle_deg: float, at: F64) -> Straight:
    """Return a straight base line turned about the place on it nearest to another."""
    along = float(line.seen(np.asarray(at)[None])[0, 0])
    x, y, _ = line.at(along)
    turn = math.radians(angle_deg)
    return Straight(x - along * math.cos(turn), y - along * math.sin(turn), angle_deg)
