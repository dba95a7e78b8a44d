"""Lettering parted into its letters, each as it stands on the base line."""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from itertools import pairwise

import cv2
import numpy as np
import shapely
from shapely.geometry.base import BaseGeometry

from sobercrow.core.arrays import F64, U8
from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.errors import LetteringError
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.lettering.baseline import Baseline
from sobercrow.core.lettering.index import fields_of

SAME_LETTER, BESIDE = 0.55, 0.3
"""Of the narrower of two shapes so much lies above or below the other one if they are one letter, and of the lower one
not so much beside it: slanted letters overlap as well."""
SMALL, NEAR, SLANT = 0.42, 0.3, 0.6
"""As shares of the usual height: what is smaller may be a dot or an accent, and how far along from its letter it may
be, further the more lettering may slant."""
FIELD_PX = 24
"""A letter is drawn with so many pixels a field to see what it covers."""
NECK, MOST_NECKS = 0.75, 4
"""Where letters touch there is less ink across than this share of the usual."""
LINE_GAP, LEAST_IN_LINE, IN_LINE, BENEATH = 0.7, 3, 0.35, 0.3
"""Of lines: how far their middles are apart, how many letters each has at least, how far these are off it, in usual
heights, and which share of the narrowest lies beneath the others."""
LARGEST_SHARE, LEAST_HEIGHT, MOST_HEIGHT = 0.55, 0.3, 2.6
"""Of a picture a letter takes less; as shares of the usual height, what lettering is made of."""
LEAST_DOT, DOT_NEAR = 0.06, 0.45
"""A dot is not smaller, and no further from a letter, as shares of the usual height."""


@dataclass(frozen=True, slots=True, eq=False)
class Letter:
    """Shapes that are one letter, and where it stands: `along` the base line, its foot there, and by how much turned.

    Attributes
    ----------
    contours : tuple of Contour
        In pixels of the picture.
    foot : (2,) float64
        The place on the base line below the letter's middle.
    along_px, turn_deg : float
    box : (4,) float64
        Left, top, right, bottom from the foot, in the letter's own directions, y down.
    """

    contours: tuple[Contour, ...]
    foot: F64
    along_px: float
    turn_deg: float
    box: F64

    def own(self, points: F64) -> F64:
        """Return points of the picture in the letter's own directions, from its foot."""
        turn = math.radians(self.turn_deg)
        c, s = math.cos(turn), math.sin(turn)
        off = points - self.foot
        return np.stack([off[..., 0] * c + off[..., 1] * s, off[..., 1] * c - off[..., 0] * s], axis=-1)

    def placed(self, points: F64) -> F64:
        """Return points in the letter's own directions as points of the picture."""
        turn = math.radians(self.turn_deg)
        c, s = math.cos(turn), math.sin(turn)
        x, y = points[..., 0], points[..., 1]
        return np.stack([x * c - y * s, x * s + y * c], axis=-1) + self.foot

    def fields(self) -> U8:
        """Return how much of each field of its box it covers, as in the index of typefaces."""
        return fields_of(self._drawn())

    def _drawn(self) -> U8:
        """What it covers of its box, drawn large, the box as wide as high."""
        left, top, right, bottom = self.box
        size = FIELD_PX * 16
        scale = size / max(right - left, 1e-6), size / max(bottom - top, 1e-6)
        sheet = np.zeros((size, size), dtype=np.uint8)
        lines = []
        for contour in self.contours:
            points = (self.own(contour.sampled(max(bottom - top, right - left) / 80.0)) - (left, top)) * scale
            lines.append(np.rint(points * 16.0 - 8.0).astype(np.int32))
        cv2.fillPoly(sheet, lines, 255, shift=4)
        return sheet

    def necks(self) -> list[float]:
        """Return where along it, in its own directions, it may be two letters that touch.

        There is little ink across, or what there is reaches over little of its height.
        """
        sheet = self._drawn()
        rows = np.arange(len(sheet))[:, None]
        inked = sheet > 127
        reach = np.where(inked, rows, -1).max(axis=0) - np.where(inked, rows, len(sheet)).min(axis=0) + 1
        found = _dips(sheet.mean(axis=0) / 255.0) + _dips(np.maximum(reach, 0) / len(sheet))
        left, right = float(self.box[0]), float(self.box[2])
        places = [k for n, (_, k) in enumerate(sorted(found)) if all(abs(k - j) > 4 for _, j in sorted(found)[:n])]
        return [left + (right - left) * (k + 0.5) / len(sheet) for k in places[:MOST_NECKS]]


def _dips(values: F64) -> list[tuple[float, int]]:
    """Where values along a letter are least around, and much less than usual: how much, and where."""
    soft = cv2.blur(values[None, :], (5, 1))[0]
    width, reach, usual = len(soft), len(soft) // 12, float(soft.mean())
    low = [
        (float(soft[k]) / usual, k)
        for k in range(width // 6, width - width // 6)
        if soft[k] <= soft[k - reach : k + reach + 1].min() and soft[k] < NECK * usual
    ]
    return [one for n, one in enumerate(low) if n == 0 or one[1] - low[n - 1][1] > reach]


def lettering_in(artwork: Artwork) -> frozenset[int]:
    """Return the shapes of a picture that are most likely its lettering: many of one ink and about one height.

    Raises
    ------
    LetteringError
        If nothing in it looks like letters.
    """
    best: frozenset[int] = frozenset()
    size = max(artwork.width_px, artwork.height_px)
    by_colour: dict[str, list[int]] = {}
    for k, shape in enumerate(artwork.shapes):
        by_colour.setdefault(shape.colour, []).append(k)
    for places in by_colour.values():
        spans = np.array([_span(artwork.shapes[k]) for k in places])
        small = spans < LARGEST_SHARE * size
        if not small.any():
            continue
        usual = float(np.median(spans[small]))
        kept = small & (spans > LEAST_HEIGHT * usual) & (spans < MOST_HEIGHT * usual)
        found = frozenset(k for k, fits in zip(places, kept, strict=True) if fits)
        if len(found) > len(best):
            dots = (spans >= LEAST_DOT * usual) & (spans <= LEAST_HEIGHT * usual)
            best = found | _beside(artwork, found, [k for k, fits in zip(places, dots, strict=True) if fits], usual)
    if not best:
        raise LetteringError("Nothing in this picture looks like letters.")
    return best


def _beside(artwork: Artwork, letters: Collection[int], dots: Sequence[int], usual: float) -> frozenset[int]:
    """Which small shapes are near enough to some letters to be their dots and accents."""
    boxes = np.array([artwork.shapes[k].bounds() for k in letters])
    near = set()
    for k in dots:
        left, top, right, bottom = artwork.shapes[k].bounds()
        x = np.maximum(np.maximum(boxes[:, 0] - right, left - boxes[:, 2]), 0.0)
        y = np.maximum(np.maximum(boxes[:, 1] - bottom, top - boxes[:, 3]), 0.0)
        near |= {k} if np.hypot(x, y).min() < DOT_NEAR * usual else set()
    return frozenset(near)


def _span(shape: Shape) -> float:
    left, top, right, bottom = shape.bounds()
    return max(right - left, bottom - top)


def lines_of(shapes: Sequence[Shape]) -> list[list[Shape]]:
    """Part level lettering into its lines, from the top: shapes that overlap in height belong together.

    Lettering whose parts are no lines, such as that of a ring, is one.
    """
    boxes = np.array([shape.bounds() for shape in shapes])
    usual = float(np.median(boxes[:, 3] - boxes[:, 1]))
    order = np.argsort(0.5 * (boxes[:, 1] + boxes[:, 3]), kind="stable")
    middles = 0.5 * (boxes[order, 1] + boxes[order, 3])
    ends = [0, *(k for k in range(1, len(order)) if middles[k] - middles[k - 1] > LINE_GAP * usual), len(order)]
    lines = [order[a:b] for a, b in pairwise(ends)]
    if len(lines) < 2 or not all(_is_line(boxes[line], usual) for line in lines):
        return [list(shapes)]
    left = max(float(boxes[line, 0].min()) for line in lines)
    right = min(float(boxes[line, 2].max()) for line in lines)
    narrowest = min(float(boxes[line, 2].max() - boxes[line, 0].min()) for line in lines)
    if right - left < BENEATH * narrowest:
        return [list(shapes)]
    return [[shapes[k] for k in sorted(line.tolist())] for line in lines]


def _is_line(boxes: F64, usual: float) -> bool:
    """Whether shapes stand beside each other on one level line."""
    tall = boxes[boxes[:, 3] - boxes[:, 1] > 0.6 * usual]
    middles = 0.5 * (tall[:, 1] + tall[:, 3])
    return len(tall) >= LEAST_IN_LINE and float(np.std(middles)) < IN_LINE * usual


def middles_of(shapes: Sequence[Shape]) -> tuple[F64, float]:
    """Return the middles of shapes that may be letters, (n, 2), and about how high they are: dots are left out."""
    boxes = np.array([shape.bounds() for shape in shapes])
    spans = np.hypot(boxes[:, 2] - boxes[:, 0], boxes[:, 3] - boxes[:, 1])
    usual = float(np.median(spans))
    large = boxes[spans > 0.6 * usual]
    return 0.5 * (large[:, :2] + large[:, 2:]), float(np.median(spans[spans > 0.6 * usual])) / 1.2


def letters_on(shapes: Sequence[Shape], baseline: Baseline) -> list[Letter]:
    """Part shapes into letters along a base line, in the order they are read.

    Shapes above each other, such as a letter and its dot, are one letter.
    """
    parts = [_Part.of(shape, baseline) for shape in shapes]
    usual = float(np.median([part.bottom - part.top for part in parts]))
    bodies = [part for part in parts if max(part.bottom - part.top, part.last - part.first) >= SMALL * usual]
    for mark in (part for part in parts if part not in bodies):
        own = min(bodies, key=mark.away_from, default=None)
        if own is not None and mark.away_from(own) < NEAR * usual:
            own.contours += mark.contours
        else:
            bodies.append(mark)
    merged: list[_Part] = []
    for part in sorted(bodies, key=lambda part: part.first):
        if merged:
            before = merged[-1]
            over = min(before.last, part.last) - max(before.first, part.first)
            beside = min(before.bottom, part.bottom) - max(before.top, part.top)
            stacked = beside < BESIDE * min(before.bottom - before.top, part.bottom - part.top)
            if stacked and over > SAME_LETTER * min(before.last - before.first, part.last - part.first):
                before.contours += part.contours
                before.first, before.last = min(before.first, part.first), max(before.last, part.last)
                before.top, before.bottom = min(before.top, part.top), max(before.bottom, part.bottom)
                continue
        merged.append(part)
    return [_letter(tuple(part.contours), 0.5 * (part.first + part.last), baseline) for part in merged]


def shapes_of(letters: Sequence[Letter], shapes: Sequence[Shape]) -> list[tuple[int, ...]]:
    """Return which of the shapes they were parted from every letter is made of."""
    of = {id(contour): k for k, shape in enumerate(shapes) for contour in shape.contours}
    return [tuple(sorted({of[id(contour)] for contour in letter.contours})) for letter in letters]


@dataclass(slots=True, eq=False)
class _Part:
    """A shape along a base line: a letter, or a dot or an accent of one."""

    first: float
    last: float
    top: float
    bottom: float
    contours: list[Contour]
    top_at: float
    """Where along its uppermost quarter is."""
    bottom_at: float

    @classmethod
    def of(cls, shape: Shape, baseline: Baseline) -> _Part:
        seen = baseline.seen(np.concatenate([contour.sampled(1.0) for contour in shape.contours]))
        (first, top), (last, bottom) = seen.min(axis=0).tolist(), seen.max(axis=0).tolist()
        quarter = 0.25 * (bottom - top)
        high, low = seen[seen[:, 1] <= top + quarter, 0], seen[seen[:, 1] >= bottom - quarter, 0]
        return cls(first, last, top, bottom, list(shape.contours), float(np.median(high)), float(np.median(low)))

    def away_from(self, other: _Part) -> float:
        """How far a small mark is along from another part it stands above or below; infinite if it does neither."""
        room = 0.25 * (self.bottom - self.top)
        if self.bottom <= other.top + room:
            away, at = other.top - 0.5 * (self.top + self.bottom), other.top_at
        elif self.top >= other.bottom - room:
            away, at = 0.5 * (self.top + self.bottom) - other.bottom, other.bottom_at
        else:
            return math.inf
        off = abs(0.5 * (self.first + self.last) - at)
        return max(off - SLANT * max(away, 0.0), 0.25 * off)


def letters_of(parts: Sequence[tuple[Contour, ...]], baseline: Baseline) -> list[Letter]:
    """Return letters whose contours are known as they stand on another base line, in the order given."""
    made = []
    for contours in parts:
        seen = baseline.seen(np.concatenate([contour.sampled(1.0) for contour in contours]))
        made.append(_letter(contours, 0.5 * float(seen[:, 0].min() + seen[:, 0].max()), baseline))
    return made


def joined(one: Letter, other: Letter, baseline: Baseline) -> Letter:
    """Return two letters that follow each other as one."""
    first, last = one.along_px + float(one.box[0]), other.along_px + float(other.box[2])
    return _letter(one.contours + other.contours, 0.5 * (first + last), baseline)


def parted(one: Letter, at_px: float, baseline: Baseline) -> tuple[Letter, Letter] | None:
    """Return a letter cut across at a place of its own directions; None if nothing is left on one side."""
    area: BaseGeometry = shapely.Polygon()
    for contour in one.contours:
        ring = shapely.Polygon(one.own(contour.sampled(0.5)))
        area = area.symmetric_difference(ring if ring.is_valid else ring.buffer(0))
    left, top, right, bottom = one.box
    sides = []
    for first, last in ((left - 1.0, at_px), (at_px, right + 1.0)):
        part = area.intersection(shapely.box(first, top - 1.0, last, bottom + 1.0))
        rings = [r for polygon in _polygons(part) for r in (polygon.exterior, *polygon.interiors)]
        contours = [_contour(one.placed(shapely.get_coordinates(ring)[:-1])) for ring in rings if len(ring.coords) > 4]
        if not contours:
            return None
        sides.append(contours)
    made = letters_of([tuple(contours) for contours in sides], baseline)
    return made[0], made[1]


def _polygons(area: BaseGeometry) -> list[shapely.Polygon]:
    return [part for part in shapely.get_parts(area) if isinstance(part, shapely.Polygon) and part.area > 0.5]


def _contour(points: F64) -> Contour:
    return Contour(np.repeat(points[:, None], 3, axis=1), np.full(len(points), int(AnchorKind.CORNER), np.uint8))


def _letter(contours: tuple[Contour, ...], along_px: float, baseline: Baseline) -> Letter:
    x, y, turn = baseline.at(along_px)
    letter = Letter(contours, np.array((x, y)), along_px, turn, np.zeros(4))
    own = letter.own(np.concatenate([contour.sampled(0.5) for contour in contours]))
    box = np.concatenate([own.min(axis=0), own.max(axis=0)])
    return Letter(contours, letter.foot, along_px, turn, box)
