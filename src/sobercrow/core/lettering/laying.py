"""Outlines of a face laid on traced letters.

One size for the line, a place and a slight turn for each letter, by iterated closest points with distances along the
normal (Chen & Medioni 1992), strays weighed less and less. What is left, both ways, is how far they are off.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F64, following
from sobercrow.core.errors import LetteringError
from sobercrow.core.geometry._nearest_kernels import nearest_segments
from sobercrow.core.lettering.glyphs import glyphs_of
from sobercrow.core.lettering.letters import Letter
from sobercrow.core.lettering.typefaces import Face

SPACING_EM, POINTS = 0.012, 150
"""Points on glyphs, and at most so many on a letter."""
ROUNDS, REACH_EM, APART_EM = 10, 0.35, 8.0
FIRST_STRAY_EM, STRAY_PX, STRAY_EM = 0.1, 0.5, 0.012
"""What is further off weighs little: at first, and at last, whichever of the two is more."""
TURN_RAD, TURN_EM = 0.02, 0.001
"""A letter may be turned by about so much against the base line, where that makes about such a difference."""

Laid = tuple[float, F64, F64]
"""The size, each letter's place and turn (n, 3), and how far it is off (n,)."""


def line_of(letter: Letter) -> list[F64]:
    """Return a letter's outlines as points, closed, from its foot."""
    long = sum(len(contour.sampled(1.0)) for contour in letter.contours)
    return [letter.own(contour.sampled(max(long / POINTS, 0.35))) for contour in letter.contours]


@lru_cache(maxsize=4096)
def outline_of(face: Face, character: str) -> tuple[F64, F64]:
    """Return segments along a glyph's outline, in its em: where they start and end, (n, 2) each.

    Raises
    ------
    LetteringError
        If nothing is drawn of it, or the face cannot be read.
    """
    lines = [contour.sampled(SPACING_EM) for contour in glyphs_of(face).contours(character)]
    if not lines:
        raise LetteringError(f"“{character}” is empty in {face.name}.")
    return np.concatenate(lines), np.concatenate([following(line) for line in lines])


def laid_on(
    letters: Sequence[Letter],
    lines: Sequence[list[F64]],
    face: Face,
    characters: str,
    size: float,
    below: float,
    holds_size: bool = False,
) -> Laid | None:
    """Lay a face's glyphs on letters, beginning with a size in px per em and how far the base line is below.

    `lines` are the letters' outlines. None if there is nothing near to go by. With `holds_size` the size stays.

    Raises
    ------
    LetteringError
        If the face has no such glyph.
    """
    outlines = [outline_of(face, character) for character in characters]
    shift = np.zeros((len(letters), 2))
    shift[:, 0] = APART_EM * np.arange(len(letters))
    starts = np.concatenate([a + s for (a, _), s in zip(outlines, shift, strict=True)])
    ends = np.concatenate([b + s for (_, b), s in zip(outlines, shift, strict=True)])
    points = np.concatenate([np.concatenate(line) for line in lines])
    own = np.repeat(np.arange(len(letters)), [sum(map(len, line)) for line in lines])
    middle = np.array([[0.5 * (a[:, 0].min() + a[:, 0].max()), a[:, 1].max()] for a, _ in outlines])
    box = np.array([letter.box for letter in letters])
    places = np.zeros((len(letters), 3))
    places[:, 0] = 0.5 * (box[:, 0] + box[:, 2]) - size * middle[:, 0]
    places[:, 1] = below
    log_size = math.log(size)
    for turn in range(ROUNDS):
        seen = _in_em(points, own, places, log_size)
        stray = max(FIRST_STRAY_EM * 0.5**turn, STRAY_PX * math.exp(-log_size), STRAY_EM)
        step = _step(seen, own, shift, starts, ends, places, math.exp(log_size), stray, holds_size)
        if step is None:
            return None
        places += step[0]
        log_size += 0.0 if holds_size else step[1]
        if turn > 3 and np.abs(step[0][:, :2]).max() < 0.005 and abs(step[1]) < 1e-5:
            break
    seen = _in_em(points, own, places, log_size)
    forth, _ = nearest_segments(np.ascontiguousarray(seen + shift[own]), starts, ends, REACH_EM)
    ends_of_rings = np.cumsum([len(ring) for line in lines for ring in line])[:-1]
    after = np.concatenate([following(ring) for ring in np.split(seen, ends_of_rings)])
    theirs = np.repeat(np.arange(len(letters)), [len(a) for a, _ in outlines])
    back, _ = nearest_segments(starts, np.ascontiguousarray(seen + shift[own]), after + shift[own], REACH_EM)
    forth, back = np.minimum(forth, REACH_EM), np.minimum(back, REACH_EM)
    each = 0.5 * (
        np.bincount(own, forth, len(letters)) / np.bincount(own, minlength=len(letters))
        + np.bincount(theirs, back, len(letters)) / np.bincount(theirs, minlength=len(letters))
    )
    size = math.exp(log_size)
    return size, places, each * size


def _in_em(points: F64, own: NDArray[np.int64], places: F64, log_size: float) -> F64:
    """Points of letters as the glyphs laid on them have them."""
    off = (points - places[own, :2]) / math.exp(log_size)
    c, s = np.cos(places[own, 2]), np.sin(places[own, 2])
    return np.stack([off[:, 0] * c + off[:, 1] * s, off[:, 1] * c - off[:, 0] * s], axis=1)


def _step(
    seen: F64,
    own: NDArray[np.int64],
    shift: F64,
    starts: F64,
    ends: F64,
    places: F64,
    size: float,
    stray: float,
    holds_size: bool,
) -> tuple[F64, float] | None:
    """One step of Gauss-Newton: changes of places and turns, and of the logarithm of the size."""
    count = len(places)
    _, nearest = nearest_segments(np.ascontiguousarray(seen + shift[own]), starts, ends, REACH_EM)
    near = nearest >= 0
    if near.sum() < 3 * count:
        return None
    q, mine, segment = seen[near], own[near], nearest[near]
    way = ends[segment] - starts[segment]
    way /= np.maximum(np.hypot(way[:, 0], way[:, 1]), 1e-9)[:, None]
    normal = np.stack([-way[:, 1], way[:, 0]], axis=1)
    off = (normal * (q + shift[mine] - starts[segment])).sum(axis=1)
    weight = 1.0 / (1.0 + (off / stray) ** 2) ** 2
    c, s = np.cos(places[mine, 2]), np.sin(places[mine, 2])
    # how the distance changes with the place, the turn and the size
    rows = np.stack(
        [
            -(normal[:, 0] * c - normal[:, 1] * s) / size,
            -(normal[:, 0] * s + normal[:, 1] * c) / size,
            normal[:, 0] * q[:, 1] - normal[:, 1] * q[:, 0],
            -(normal * q).sum(axis=1),
        ],
        axis=1,
    )
    counts = np.bincount(mine, minlength=count)
    if counts.min() < 3:
        return None
    firsts = np.cumsum(counts) - counts
    weighted = rows * weight[:, None]
    blocks = np.add.reduceat(weighted[:, :, None] * rows[:, None, :], firsts, axis=0)
    sums = np.add.reduceat(weighted * off[:, None], firsts, axis=0)
    stiff = np.add.reduceat(weight, firsts) * (TURN_EM / TURN_RAD) ** 2
    blocks[:, 2, 2] += stiff
    sums[:, 2] += stiff * places[:, 2]
    last = 3 * count
    normal_matrix, right = np.zeros((last + 1, last + 1)), np.zeros(last + 1)
    at = 3 * np.arange(count)[:, None] + np.arange(3)
    normal_matrix[at[:, :, None], at[:, None, :]] = blocks[:, :3, :3]
    normal_matrix[last, :last] = normal_matrix[:last, last] = blocks[:, :3, 3].ravel()
    normal_matrix[last, last] = blocks[:, 3, 3].sum()
    right[:last], right[last] = -sums[:, :3].ravel(), -sums[:, 3].sum()
    normal_matrix[np.diag_indices_from(normal_matrix)] += 1e-9
    if holds_size:
        normal_matrix[last, :last] = normal_matrix[:last, last] = right[last] = 0.0
    found = np.linalg.solve(normal_matrix, right)
    moved = found[:-1].reshape(count, 3)
    return np.clip(moved, [-0.5 * size, -0.5 * size, -0.1], [0.5 * size, 0.5 * size, 0.1]), float(
        np.clip(found[-1], -0.2, 0.2)
    )
