"""The strokes drawn lettering is made of: how wide they are along themselves, and which way they run.

From every place of an outline the largest disc inside the ink that touches it there is found by shrinking it (Ma, Bae &
Choi 2012, "3D medial axis point approximation using nearest neighbors and the normal field"). Where it touches the
outline again on the far side the place is on a stroke, the disc as wide as that. Runs of such places that face each
other, and go on beyond a join or a crossing, are one stroke.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise
from typing import Self

import numpy as np

from sobercrow.core.arrays import F64, I64
from sobercrow.core.artwork.model import Shape
from sobercrow.core.errors import LetteringError
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.polygon import along_of
from sobercrow.core.lettering.samples import Samples

SPACING_PX, MOST_SAMPLES = 0.5, 20_000
"""Places of a shape are so far apart, or further if they were more."""
ROUNDS, TOUCHES = 16, 1e-3
OPPOSITE_COS = math.cos(math.radians(125.0))
"""A disc that touches the outline at places less than so far apart around it is in a tip or a bend, not in a stroke."""
NEAR_DEG, LEVEL_DEG = 25.0, 22.5
"""So near to the slant a stroke is steep; so near to the line level."""
LEAST_PLACES, SHORTEST, FACED = 3, 0.4, 0.3
"""Of a run: how many places it has at least, how long it is in widths, and which share of it faces another one."""
UPRIGHT_DEG = (50.0, 130.0)
TWO_WEIGHTS, LEAST_SHARE = 1.5, 0.08
"""Thick and thin strokes are told apart if the thick are so many times as wide, and either has such a share of all."""
MOST_STEEP, FEW_PLACES = 0.6, 50
"""No larger share of the thin ones is steep; fewer places do not tell."""
JUMP = 0.25
"""Of its width, by which a stroke may change from a place to the next one."""
LEAST_LENGTH = 1.3
"""A stroke is so many times as long as wide, or longer."""
BEYOND, ASIDE, BEND_DEG, LIKE = 3.0, 0.3, 14.0, 0.4
"""Runs are one stroke if one goes on so many widths beyond the other, no further aside, turned by no more, and about as
wide."""
MIDDLE = (0.2, 0.8)
"""Between these shares of its length a stroke's width is read: ends and joins are left out."""


class Way(StrEnum):
    """Which way a stroke runs, as a pen draws it."""

    DOWN = "down"
    UP = "up"
    LEVEL = "level"


@dataclass(frozen=True, slots=True, eq=False)
class Stroke:
    """A stroke of one shape: which places of its outline are its sides, and how it runs between them.

    Attributes
    ----------
    shape : int
        Its number among those measured.
    places : (n,) int64
        Into the samples of that shape.
    line : (m, 2) float64
        Along its middle.
    widths : (m,) float64
        In px, there.
    width_px : float
        The median of those in the middle of it.
    angle_deg : float
        How it leans: 90 upright, less leaning to the right, 0–180.
    """

    shape: int
    places: I64
    line: F64
    widths: F64
    width_px: float
    angle_deg: float
    way: Way

    @property
    def middle(self) -> F64:
        """The place half along it, (2,)."""
        return np.asarray(self.line[len(self.line) // 2])

    @property
    def length_px(self) -> float:
        """How long it is."""
        return float(along_of(self.line)[-1])

    def outline(self) -> F64:
        """Return a closed line around it, as wide as it is, (2 m, 2)."""
        way = np.gradient(self.line, axis=0) if len(self.line) > 1 else np.ones((1, 2))
        across = np.stack([-way[:, 1], way[:, 0]], axis=1)
        across /= np.maximum(np.hypot(across[:, 0], across[:, 1]), 1e-9)[:, None]
        half = 0.5 * self.widths[:, None] * across
        return np.concatenate([self.line - half, (self.line + half)[::-1]])


@dataclass(frozen=True, slots=True, eq=False)
class Strokes:
    """All strokes of some shapes, the places of their outlines, how wide the ink is there, and how they slant."""

    samples: tuple[Samples, ...]
    widths: tuple[F64, ...]
    strokes: tuple[Stroke, ...]
    slant_deg: float

    def of(self, way: Way) -> list[Stroke]:
        """Return those that run one way."""
        return [stroke for stroke in self.strokes if stroke.way is way]


def strokes_of(shapes: Sequence[Shape]) -> Strokes:
    """Return the strokes of filled shapes.

    Raises
    ------
    LetteringError
        If none of the shapes is filled, or nothing in them is a stroke.
    """
    filled = [shape.contours if shape.is_filled else () for shape in shapes]
    if not any(filled):
        raise LetteringError("Choose filled shapes: lines have the width they are given.")
    faces = [_Facing.of(contours) for contours in filled if contours]
    numbers = [k for k, contours in enumerate(filled) if contours]
    slant = _slant(faces)
    thick = _thick_from(faces, slant)
    strokes = [
        stroke for number, face in zip(numbers, faces, strict=True) for stroke in _strokes(number, face, slant, thick)
    ]
    if not strokes:
        raise LetteringError("No strokes are found here; choose drawn letters.")
    kept = dict(zip(numbers, faces, strict=True))
    empty = Samples(*(np.zeros((0, 2)),) * 2, *(np.zeros(0, np.int64),) * 2, np.zeros(0), np.zeros(1, np.int64))
    samples = tuple(kept[k].samples if k in kept else empty for k in range(len(shapes)))
    widths = tuple(kept[k].widths if k in kept else np.zeros(0) for k in range(len(shapes)))
    return Strokes(samples, widths, tuple(strokes), slant)


@dataclass(frozen=True, slots=True, eq=False)
class _Facing:
    """Places of a shape, those they face across the ink (−1: none), how wide it is there, and which way it runs."""

    samples: Samples
    opposite: I64
    widths: F64
    angles: F64

    @classmethod
    def of(cls, contours: Sequence[Contour]) -> Self:
        length = sum(float(bezier.lengths(contour.curves()).sum()) for contour in contours)
        samples = Samples.of(contours, max(SPACING_PX, length / MOST_SAMPLES))
        radius, opposite = _largest_discs(samples)
        p, n = samples.points, samples.normals
        q, m = p[opposite], n[opposite]
        centre = p + radius[:, None] * n
        a, b = p - centre, q - centre
        cos = (a * b).sum(axis=1) / np.maximum(np.hypot(*a.T) * np.hypot(*b.T), 1e-12)
        facing = (n * m).sum(axis=1)
        is_stroke = (cos <= OPPOSITE_COS) & (facing <= OPPOSITE_COS)
        # the far side as a line through the place touched: what lies between the places no longer matters
        exact = ((p - q) * m).sum(axis=1) / np.maximum(1.0 - facing, 1e-9)
        widths = 2.0 * np.where(is_stroke, exact, radius)
        way = samples.ways() - samples.ways()[opposite]
        angles = np.degrees(np.arctan2(-way[:, 1], way[:, 0])) % 180.0
        return cls(samples, np.where(is_stroke, opposite, -1), widths, angles)


def _largest_discs(samples: Samples) -> tuple[F64, I64]:
    """The radius of the largest disc within the ink that touches each place, and which place it touches besides."""
    from scipy.spatial import cKDTree  # SciPy comes in when it is first needed

    p, n = samples.points, samples.normals
    tree = cKDTree(p)
    radius = np.full(len(p), float(np.ptp(p, axis=0).max()) + 1.0)
    opposite = np.arange(len(p))
    live = np.arange(len(p))
    for _ in range(ROUNDS):
        away, near = tree.query(p[live] + radius[live, None] * n[live])
        chord = p[near] - p[live]
        rise = (chord * n[live]).sum(axis=1)
        inside = (away < radius[live] * (1.0 - TOUCHES)) & (near != live) & (rise > 1e-9)
        live, near, chord, rise = live[inside], near[inside], chord[inside], rise[inside]
        if not len(live):
            break
        radius[live] = (chord**2).sum(axis=1) / (2.0 * rise)
        opposite[live] = near
    return radius, opposite


def _apart(angles: F64, angle: float) -> F64:
    return np.asarray((angles - angle + 90.0) % 180.0 - 90.0)


def _slant(faces: Sequence[_Facing]) -> float:
    """How steep strokes lean: where most of their ink runs; upright if there are none."""
    angles = np.concatenate([face.angles[face.opposite >= 0] for face in faces])
    weights = np.concatenate([face.widths[face.opposite >= 0] for face in faces])
    upright = (angles >= UPRIGHT_DEG[0]) & (angles <= UPRIGHT_DEG[1])
    if not upright.any():
        return 90.0
    angles, weights = angles[upright], weights[upright]
    at = np.arange(*UPRIGHT_DEG, 1.0)
    crowd = (np.exp(-0.5 * ((at[:, None] - angles) / 5.0) ** 2) * weights).sum(axis=1)
    near = np.abs(angles - at[int(crowd.argmax())]) <= 10.0
    order = np.argsort(angles[near])
    share = np.cumsum(weights[near][order])
    return float(angles[near][order][int(np.searchsorted(share, 0.5 * share[-1]))])


def _thick_from(faces: Sequence[_Facing], slant: float) -> float:
    """From which width on strokes are thick; infinite if all are about as thick (Otsu 1979, of logarithms).

    The thin ones of two weights lean another way; if they do not, strokes of one weight are uneven.
    """
    widths = np.log(np.concatenate([face.widths[face.opposite >= 0] for face in faces]).clip(0.05))
    leans = _apart(np.concatenate([face.angles[face.opposite >= 0] for face in faces]), slant)
    order = np.argsort(widths)
    widths, leans = widths[order], leans[order]
    count = len(widths)
    if count < FEW_PLACES:
        return math.inf
    sums, k = np.cumsum(widths), np.arange(1, count)
    low, high = sums[:-1] / k, (sums[-1] - sums[:-1]) / (count - k)
    cut = 1 + int((k * (count - k) * (high - low) ** 2).argmax())
    thin, thick = float(np.median(widths[:cut])), float(np.median(widths[cut:]))
    steep = float((np.abs(leans[:cut]) <= NEAR_DEG).mean())
    if (
        thick - thin < math.log(TWO_WEIGHTS)
        or not LEAST_SHARE <= cut / count <= 1.0 - LEAST_SHARE
        or steep > MOST_STEEP
    ):
        return math.inf
    return math.exp(0.5 * (thin + thick))


WAYS = (Way.DOWN, Way.UP, Way.LEVEL)


def _ways(face: _Facing, slant: float, thick: float) -> I64:
    """Which way every place's stroke runs, as a number of `WAYS`; −1 where there is none."""
    level = np.abs(_apart(face.angles, 0.0)) <= LEVEL_DEG
    lean = _apart(face.angles, slant)
    down = face.widths >= thick if math.isfinite(thick) else lean >= -NEAR_DEG
    ways = np.where(level, 2, np.where(down, 0, 1))
    return np.where(face.opposite >= 0, ways, -1)


@dataclass(slots=True, eq=False)
class _Run:
    """Places in a row along one contour that are a side of one stroke."""

    places: I64
    way: int
    width: float


def _runs(face: _Facing, ways: I64) -> list[_Run]:
    """Places in a row that run one way, face places in a row, and are about as wide."""
    samples = face.samples
    k = np.arange(len(ways))
    after = samples.next(k)
    there = samples.points[face.opposite]
    stride = np.hypot(*(there[after] - there).T)
    wider = np.abs(face.widths[after] - face.widths) > JUMP * np.minimum(face.widths[after], face.widths)
    breaks = (ways[after] != ways) | (ways < 0) | (stride > np.maximum(0.5 * face.widths, 3.0)) | wider
    runs = []
    for first, end in pairwise(samples.starts.tolist()):
        cuts = np.flatnonzero(breaks[first:end])
        order = np.arange(first, end)
        if len(cuts):
            order = np.roll(order, -int(cuts[-1]) - 1)
            cuts = np.flatnonzero(breaks[order])
        for places in np.split(order, cuts + 1):
            if len(places) >= LEAST_PLACES and ways[places[0]] >= 0:
                runs.append(_Run(places, int(ways[places[0]]), float(np.median(face.widths[places]))))
    return runs


def _going_on(face: _Facing, runs: Sequence[_Run]) -> Iterator[tuple[int, int]]:
    """Which runs another one goes on with, beyond a join or a crossing."""
    if not runs:
        return
    points, ways = face.samples.points, face.samples.ways()
    first, last = (np.array([run.places[at] for run in runs]) for at in (0, -1))
    width, way = np.array([run.width for run in runs]), np.array([run.way for run in runs])
    gap = points[first][None] - points[last][:, None]
    out, into = _mean_ways(ways, runs, -1), _mean_ways(ways, runs, 0)
    along = (gap * out[:, None]).sum(axis=2)
    aside = np.abs(gap[..., 0] * out[:, None, 1] - gap[..., 1] * out[:, None, 0])
    least = np.minimum(width[:, None], width[None])
    fits = (way[:, None] == way[None]) & (along > 0.0) & (along <= BEYOND * least) & (aside <= ASIDE * least)
    fits &= (out @ into.T >= math.cos(math.radians(BEND_DEG))) & (np.abs(width[:, None] - width[None]) <= LIKE * least)
    np.fill_diagonal(fits, False)
    for a in np.flatnonzero(fits.any(axis=1)).tolist():
        yield a, int(np.where(fits[a], along[a], np.inf).argmin())


def _mean_ways(ways: F64, runs: Sequence[_Run], end: int) -> F64:
    """Which way runs lead at their first places or their last."""
    few = [run.places[-6:] if end else run.places[:6] for run in runs]
    mean = np.array([ways[places].mean(axis=0) for places in few])
    return np.asarray(mean / np.maximum(np.hypot(*mean.T), 1e-9)[:, None])


def _strokes(number: int, face: _Facing, slant: float, thick: float) -> Iterator[Stroke]:
    """Yield the strokes of one shape."""
    from scipy.sparse import coo_array  # SciPy comes in when it is first needed
    from scipy.sparse.csgraph import connected_components

    runs = [
        run
        for run in _runs(face, _ways(face, slant, thick))
        if along_of(face.samples.points[run.places])[-1] >= SHORTEST * run.width
    ]
    owner = np.full(len(face.opposite), -1)
    for k, run in enumerate(runs):
        owner[run.places] = k
    links = [*_going_on(face, runs)]
    for k, run in enumerate(runs):
        across = owner[face.opposite[run.places]]
        for other, count in zip(*np.unique(across[across >= 0], return_counts=True), strict=True):
            few = FACED * min(len(run.places), len(runs[other].places))
            links += [(k, int(other))] if runs[other].way == run.way and count >= few else []
    pairs = np.array(links, dtype=np.int64).reshape(-1, 2).T
    net = coo_array((np.ones(pairs.shape[1]), pairs), shape=(len(runs), len(runs)))
    own = connected_components(net, directed=False)[1]
    for name in range(int(own.max(initial=-1)) + 1):
        stroke = _stroke(number, face, [run for run, group in zip(runs, own.tolist(), strict=True) if group == name])
        if stroke is not None:
            yield stroke


def _stroke(number: int, face: _Facing, runs: Sequence[_Run]) -> Stroke | None:
    """The stroke of some runs; None if it is too short to be one."""
    samples = face.samples
    longest = max(runs, key=lambda run: len(run.places))
    chord = samples.points[longest.places[-1]] - samples.points[longest.places[0]]
    ways = samples.ways()
    way = ways[longest.places].mean(axis=0)
    side = [run for run in runs if run is longest or ways[run.places].mean(axis=0) @ way > 0.0]
    side.sort(key=lambda run: float(samples.points[run.places].mean(axis=0) @ chord))
    places = np.concatenate([run.places for run in side])
    widths = face.widths[places]
    line = samples.points[places] + 0.5 * widths[:, None] * samples.normals[places]
    along = along_of(line)
    middle = (along >= MIDDLE[0] * along[-1]) & (along <= MIDDLE[1] * along[-1])
    if not middle.any():
        return None
    width = float(np.median(widths[middle]))
    if along[-1] < LEAST_LENGTH * width:
        return None
    turn = np.exp(2j * np.radians(face.angles[places[middle]])).sum()
    angle = math.degrees(float(np.angle(turn))) / 2.0 % 180.0
    every = np.unique(np.concatenate([run.places for run in runs]))
    return Stroke(number, every, line, widths, width, angle, WAYS[longest.way])
