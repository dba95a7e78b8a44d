"""Parts of one ink that are the same but for their place and turn, drawn by one outline.

Outlines are compared as closed lines of points in the plane of complex numbers, at every place to begin at by one
correlation, which gives the turn between them as well (as for Fourier descriptors: Zahn & Roskies 1972). What is alike
is drawn by the outline with the fewest anchors, each copy is moved to where the picture has it, and the mean of all is
put in every place: it knows more of the drawing than any of them.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from sobercrow.core.geometry.contour import Contour
from sobercrow.core.tracing.proposals import Place, Proposal, settled
from sobercrow.core.tracing.regular import align, in_line
from sobercrow.core.tracing.settling import Found, Settling

SAMPLES = 128
LEAST_PX, MOST_PX = 12.0, 1200.0
"""Lengths of outlines that are compared."""
SAME_LENGTH, SAME_PX, SAME = 0.04, 0.4, 0.02
"""Outlines may be alike whose lengths differ by no more, and points, root mean square, in px and as a share of it."""
ROUNDS = 2
UPRIGHT_RAD = math.radians(1.5)
"""Copies turned by less than this are not turned."""


class _Line(NamedTuple):
    """An outline as points evenly along it from its middle, and that."""

    place: Place
    points: NDArray[np.complex128]
    middle: complex
    length: float


def _line(place: Place, contour: Contour) -> _Line | None:
    line = contour.sampled(0.3)
    legs = np.hypot(*np.diff(line, axis=0, append=line[:1]).T)
    along = np.concatenate([[0.0], np.cumsum(legs)])
    if not LEAST_PX <= along[-1] <= MOST_PX:
        return None
    at = np.linspace(0.0, along[-1], SAMPLES, endpoint=False)
    x, y = (np.interp(at, along, np.append(line[:, axis], line[0, axis])) for axis in range(2))
    points = x + 1j * y
    return _Line(place, points - points.mean(), complex(points.mean()), float(along[-1]))


def _turn(one: _Line, other: _Line) -> float | None:
    """By how much `other` is turned against `one`, in rad; None if they are not alike."""
    if abs(one.length - other.length) > SAME_LENGTH * one.length:
        return None
    same = np.fft.ifft(np.conj(np.fft.fft(one.points)) * np.fft.fft(other.points))
    upright = np.where(np.abs(np.angle(same)) < UPRIGHT_RAD, np.abs(same), 0.0)
    best = upright if upright.max() > 0.999 * np.abs(same).max() else np.abs(same)
    k = int(best.argmax())
    apart = (np.abs(one.points) ** 2).sum() + (np.abs(other.points) ** 2).sum() - 2.0 * abs(same[k])
    if math.sqrt(max(apart, 0.0) / SAMPLES) > min(SAME_PX, SAME * one.length):
        return None
    angle = float(np.angle(same[k]))
    return angle if abs(angle) >= UPRIGHT_RAD else 0.0


def repeated(found: Found, tones: Settling) -> Iterator[dict[Place, Contour]]:
    """Propose the mean of copies in place of each, group by group; true shapes are left out."""
    groups = [group for ink in range(len(found)) for group in _groups(found, ink)]
    if not groups:
        return
    patterns = [min(group, key=lambda one: len(found[one[0].place[0]][one[0].place[1]]))[0] for group in groups]
    maps = [_maps(pattern, group) for pattern, group in zip(patterns, groups, strict=True)]
    proposals = []
    for pattern, places in zip(patterns, maps, strict=True):
        drawn = found[pattern.place[0]][pattern.place[1]]
        proposals.append(Proposal({place: _mapped(drawn, *there) for place, there in places.items()}))
    for made, first in zip(settled(found, proposals, tones), proposals, strict=True):
        copies = list(made.contours.values())
        if any(len(c) != len(copies[0]) or (c.kinds != copies[0].kinds).any() for c in copies):
            yield first.contours  # one of them was tidied as it was moved
            continue
        mean = copies[0]
        for _ in range(ROUNDS):
            mean = _mean([_mapped(copy, *_onto(copy, mean)) for copy in copies])
        yield {place: _mapped(mean, *_onto(mean, copy)) for place, copy in made.contours.items()}


def _groups(found: Found, ink: int) -> Iterator[list[tuple[_Line, float]]]:
    """Outlines of an ink alike, each with its turn against the first; only groups of several."""
    lines = [_line((ink, k), contour) for k, contour in enumerate(found[ink]) if contour.form is None]
    left = [line for line in lines if line is not None]
    while left:
        turns = [(line, _turn(left[0], line)) for line in left]
        group = [(line, turn) for line, turn in turns if turn is not None]
        left = [line for line, turn in turns if turn is None]
        if len(group) > 1:
            yield group


def _maps(pattern: _Line, group: list[tuple[_Line, float]]) -> dict[Place, tuple[complex, complex]]:
    """What the pattern is multiplied by, and shifted by then, to come to the place of each copy."""
    own = next(turn for line, turn in group if line is pattern)
    turns = {line.place: (complex(np.exp(1j * (turn - own))), line.middle) for line, turn in group}
    return {place: (turn, middle - turn * pattern.middle) for place, (turn, middle) in turns.items()}


def _mapped(contour: Contour, turn: complex, shift: complex) -> Contour:
    places = contour.points[..., 0] + 1j * contour.points[..., 1]
    moved = (places if turn == 1.0 else turn * places) + shift
    return Contour(np.stack([moved.real, moved.imag], axis=-1), contour.kinds)


def _onto(one: Contour, other: Contour) -> tuple[complex, complex]:
    """What maps one contour onto another with the same anchors, by turning and shifting (Kabsch 1976)."""
    a, b = ((c.points[..., 0] + 1j * c.points[..., 1]).ravel() for c in (one, other))
    same = complex(np.vdot(a - a.mean(), b - b.mean()))
    turn = same / abs(same) if abs(np.angle(same)) >= UPRIGHT_RAD else 1.0 + 0.0j
    return turn, complex(b.mean() - turn * a.mean())


def _mean(contours: list[Contour]) -> Contour:
    """The mean of contours whose anchors pair; handles of smooth anchors in one line again."""
    points, kinds = np.mean([contour.points for contour in contours], axis=0), contours[0].kinds.copy()
    in_line(points, kinds)
    align(points, kinds, True)
    return Contour(points, kinds)
