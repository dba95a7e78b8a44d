"""Lettering parted into its letters, each as it stands on the base line."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import cv2
import numpy as np

from sobercrow.core.arrays import F64, U8
from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.errors import LetteringError
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.lettering.baseline import Baseline
from sobercrow.core.lettering.index import fields_of

SAME_LETTER = 0.55
"""Of the narrower of two shapes above each other, so much lies over the other one: a dot or an accent and its letter."""
WORD_GAP, LEAST_WORD_GAP = 2.2, 0.28
"""Gaps so many times the usual one, and so many letter heights, part words."""
FIELD_PX = 8
"""A letter is drawn with so many pixels a field to see what it covers."""
LARGEST_SHARE, LEAST_HEIGHT, MOST_HEIGHT = 0.55, 0.3, 2.6
"""Of a picture a letter takes less; as shares of the usual height, what lettering is made of."""


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

    def fields(self) -> U8:
        """Return how much of each field of its box it covers, as in the index of typefaces."""
        left, top, right, bottom = self.box
        size = FIELD_PX * 16
        scale = size / max(right - left, 1e-6), size / max(bottom - top, 1e-6)
        sheet = np.zeros((size, size), dtype=np.uint8)
        lines = []
        for contour in self.contours:
            points = (self.own(contour.sampled(max(bottom - top, right - left) / 80.0)) - (left, top)) * scale
            lines.append(np.rint(points * 16.0 - 8.0).astype(np.int32))
        cv2.fillPoly(sheet, lines, 255, shift=4)
        return fields_of(sheet)


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
        best = found if len(found) > len(best) else best
    if not best:
        raise LetteringError("Nothing in this picture looks like letters.")
    return best


def _span(shape: Shape) -> float:
    left, top, right, bottom = shape.bounds()
    return max(right - left, bottom - top)


def lines_of(shapes: Sequence[Shape]) -> list[list[Shape]]:
    """Part level lettering into its lines, from the top: shapes that overlap in height belong together."""
    boxes = np.array([shape.bounds() for shape in shapes])
    usual = float(np.median(boxes[:, 3] - boxes[:, 1]))
    order = np.argsort(0.5 * (boxes[:, 1] + boxes[:, 3]), kind="stable")
    middles = 0.5 * (boxes[order, 1] + boxes[order, 3])
    ends = [0, *(k for k in range(1, len(order)) if middles[k] - middles[k - 1] > 0.7 * usual), len(order)]
    return [[shapes[k] for k in order[a:b]] for a, b in pairwise(ends)]


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
    spans: list[tuple[float, float, list[Contour]]] = []
    for shape in shapes:
        seen = baseline.seen(np.concatenate([contour.sampled(1.0) for contour in shape.contours]))
        spans.append((float(seen[:, 0].min()), float(seen[:, 0].max()), list(shape.contours)))
    merged: list[tuple[float, float, list[Contour]]] = []
    for first, last, contours in sorted(spans, key=lambda span: span[0]):
        if merged:
            a, b, own = merged[-1]
            over = min(b, last) - max(a, first)
            if over > SAME_LETTER * min(b - a, last - first):
                merged[-1] = (min(a, first), max(b, last), own + contours)
                continue
        merged.append((first, last, contours))
    return [_letter(tuple(contours), 0.5 * (first + last), baseline) for first, last, contours in merged]


def _letter(contours: tuple[Contour, ...], along_px: float, baseline: Baseline) -> Letter:
    x, y, turn = baseline.at(along_px)
    letter = Letter(contours, np.array((x, y)), along_px, turn, np.zeros(4))
    own = letter.own(np.concatenate([contour.sampled(0.5) for contour in contours]))
    box = np.concatenate([own.min(axis=0), own.max(axis=0)])
    return Letter(contours, letter.foot, along_px, turn, box)


def words_of(letters: Sequence[Letter]) -> list[list[int]]:
    """Part letters into words where the gap is much wider than usual."""
    gaps = [
        (b.along_px + float(b.box[0])) - (a.along_px + float(a.box[2])) for a, b in pairwise(letters)
    ]
    height = float(np.median([letter.box[3] - letter.box[1] for letter in letters])) if letters else 0.0
    usual = max(float(np.median(gaps)), 0.02 * height) if gaps else 0.0
    words: list[list[int]] = [[0]] if letters else []
    for k, gap in enumerate(gaps):
        if gap > max(WORD_GAP * usual, LEAST_WORD_GAP * height):
            words.append([])
        words[-1].append(k + 1)
    return words
