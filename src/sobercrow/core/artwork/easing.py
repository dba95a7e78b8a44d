"""Easing: a line made calm where it was stroked, its corners and its true bends kept.

Points of the line are moved onto the parabolas nearest to their neighbours (Savitzky & Golay 1964, "Smoothing and
differentiation of data by simplified least squares procedures", with Gaussian weights), which a bend that changes
slowly does not feel. How many neighbours count is decided place by place: no more than leave the line about as near
as elsewhere, so a true bend stands out from the wobble and is kept (in the manner of Goldenshluger & Nemirovski 1997,
"On spatially adaptive estimation of nonparametric regression"); a line without a wobble stays as it is.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np

from sobercrow.core.arrays import F64, U8
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.artwork.stretches import Stretch, Track, change_contour, contour_of, part_of, with_part
from sobercrow.core.errors import EditError
from sobercrow.core.geometry.contour import AnchorKind, Contour, directions
from sobercrow.core.geometry.fewest import fewest_cubics
from sobercrow.core.geometry.polygon import along_of, at_distances
from sobercrow.core.geometry.smooth import Beyond, smoothed
from sobercrow.core.settings import Meaning, setting

STEP_PX = 0.5
WIDTHS = (0.0, 1.0, 1.5, 2.2, 3.2, 4.6, 6.6, 9.5, 14.0, 20.0)
"""Bells of these widths, in px, are laid; between them it is interpolated."""
ALIKE, USUAL, SURE_PX = 1.35, 0.35, 0.008
"""A bell is taken where the line comes to lie no further off than so many times what is usual, and this; usual is what
so large a share of all that was stroked lies within."""
SPREAD = 1.5
"""How far off it lies is looked at over so many times the width of the bell; the choice is spread out as much."""
OWN_BEND = 0.4
"""No bell is wider than this share of the radius the line has under it."""
FIT_PX, LEAST_SHIFT_PX = 0.06, 0.02
"""A run that would move by no more than this keeps its anchors."""
LEAST_LENGTH_PX = 3.0


@dataclass(frozen=True, slots=True)
class Ease:
    """How a line is eased."""

    reach_px: float = setting(
        7.0, Meaning("Reach", "Wobbles up to about twice as long are taken out.", 1.0, 20.0, "px", 0.5, 1)
    )
    strength: float = setting(
        100.0, Meaning("Strength", "How much of it one pass takes away.", 10.0, 100.0, "%", 5.0, 0)
    )
    corners: bool = field(
        default=False, metadata={"label": "Corners too", "help": "Corners in the way become calm as well."}
    )


@dataclass(frozen=True, slots=True)
class Eased:
    """Artwork after a stroke, and how far the line was moved at most, in px."""

    artwork: Artwork
    shift_px: float


def ease(artwork: Artwork, shape: int, contour: int, start_px: float, end_px: float, how: Ease) -> Eased:
    """Make a contour calm from one place along it to another, both in px from its first anchor on (see `Track`).

    Pieces that were not run over stay as they are, to the last bit.

    Raises
    ------
    EditError
        If so little was run over that nothing can be told from it.
    """
    old = artwork.shapes[shape].contours[contour]
    track = Track.of(old)
    low, high = min(start_px, end_px), max(start_px, end_px)
    if high - low < LEAST_LENGTH_PX:
        raise EditError("Stroke along the edge, over a few pixels at least.")
    stretch = _touched(track, old, shape, contour, low, min(high, low + track.length))
    part = part_of(old, stretch.first, stretch.pieces)
    base = float(track.stops[stretch.first])
    begin = low - base
    while begin < -1e-9:
        begin += track.length
    made, shift = _eased(part, begin, begin + min(high - low, track.length), how, _is_whole(old, stretch))
    changed, _ = with_part(old, stretch.first, stretch.pieces, made)
    return Eased(change_contour(artwork, shape, contour, changed), shift)


def ease_stretch(artwork: Artwork, stretch: Stretch, how: Ease) -> Eased:
    """Make a stretch calm as a whole."""
    old = contour_of(artwork, stretch)
    part = part_of(old, stretch.first, stretch.pieces)
    made, shift = _eased(part, 0.0, np.inf, how, _is_whole(old, stretch))
    changed, _ = with_part(old, stretch.first, stretch.pieces, made)
    return Eased(change_contour(artwork, stretch.shape, stretch.contour, changed), shift)


def _is_whole(contour: Contour, stretch: Stretch) -> bool:
    return contour.closed and stretch.pieces == len(contour)


def _touched(track: Track, contour: Contour, shape: int, index: int, low: float, high: float) -> Stretch:
    """The pieces that were run over."""
    count = len(contour)
    if contour.closed and high - low >= track.length - 1e-6:
        return Stretch(shape, index, 0, count)
    ends = np.append(track.stops, track.length) if contour.closed else track.stops
    lap = np.floor(low / track.length) * track.length if contour.closed else 0.0
    first = int(np.searchsorted(ends, low - lap, side="right")) - 1
    last_lap = np.floor(high / track.length) * track.length if contour.closed else 0.0
    last = int(np.searchsorted(ends, high - last_lap, side="left")) - 1 + round((last_lap - lap) / track.length) * count
    if not contour.closed:
        first, last = max(first, 0), min(last, count - 2)
    pieces = max(last - first + 1, 1)
    return Stretch(shape, index, first % count, min(pieces, count if contour.closed else count - 1))


def _eased(part: Contour, low: float, high: float, how: Ease, is_ring: bool) -> tuple[Contour, float]:
    """An open part made calm between two places along it, from corner to corner, and its largest shift."""
    corners = part.kinds == AnchorKind.CORNER
    stops = [0, *(k for k in range(1, len(part) - 1) if corners[k] and not how.corners), len(part) - 1]
    is_ring = is_ring and (how.corners or not corners.any())
    runs: list[_Run] = []
    passed = 0.0
    for first, last in pairwise(stops):
        run = _Run.of(part_of(part, first, last - first), low - passed, high - passed, how, is_ring)
        runs.append(run)
        passed += float(along_of(run.line)[-1])
    usual = [_usual([run.off[k][run.weight > 0.0] for run in runs]) for k in range(len(runs[0].off))]
    into, out = directions(part)
    points: list[F64] = []
    kinds: list[U8] = []
    shift = 0.0
    for (first, last), run in zip(pairwise(stops), runs, strict=True):
        calm = run.calmed(usual)
        moved = float(np.hypot(*(calm - run.line).T).max())
        shift = max(shift, moved if moved > LEAST_SHIFT_PX else 0.0)
        if moved > LEAST_SHIFT_PX:
            leaving = out[first] if not corners[first] or is_ring else None
            arriving = into[last] if not corners[last] or is_ring else None
            anchors = fewest_cubics(calm, FIT_PX, leaving, arriving)
            kind = np.full(len(anchors), int(AnchorKind.SMOOTH), dtype=np.uint8)
        else:
            anchors, kind = part_of(part, first, last - first).points.copy(), part.kinds[first : last + 1].copy()
        kind[0], kind[-1] = part.kinds[first], part.kinds[last]
        if points:
            anchors[0, 0] = points[-1][-1, 0]
            points[-1], kinds[-1] = points[-1][:-1], kinds[-1][:-1]
        points.append(anchors)
        kinds.append(kind)
    return Contour(np.concatenate(points), np.concatenate(kinds), closed=False), shift


def _usual(off: list[F64]) -> float:
    every: F64 = np.concatenate(off)
    return float(np.quantile(every, USUAL)) if len(every) else 0.0


@dataclass(frozen=True, slots=True, eq=False)
class _Run:
    """A line from corner to corner: its points, how much each may be moved, and where every bell would move it.

    `calm` (k, n, 2) are the line under bells of growing `widths`, in steps, the first of them none; `off` (k, n) is how
    far each moves it thereabouts.
    """

    line: F64
    weight: F64
    calm: F64
    off: F64
    widths: F64
    step: float
    is_ring: bool

    @classmethod
    def of(cls, run: Contour, low: float, high: float, how: Ease, is_ring: bool) -> _Run:
        """Lay all bells over a line that was stroked between two places along it."""
        line = _even(run)
        along = along_of(line)
        step = float(along[-1]) / (len(line) - 1)
        weight = _weights(along, low, high, how, is_ring)
        widths = np.unique([w for w in WIDTHS if w < how.reach_px] + [how.reach_px]) / max(step, 1e-9)
        if not (weight > 0.0).any():
            still = np.repeat(line[None], len(widths), axis=0)
            return cls(line, weight, still, np.zeros((len(widths), len(line))), widths, step, is_ring)
        calm = np.stack([line if w == 0.0 else _by_parabolas(line, w, is_ring) for w in widths])
        off = np.stack(
            [
                np.sqrt(np.maximum(_spread(((c - line) ** 2).sum(axis=1), max(SPREAD * w, 1.0), is_ring), 0.0))
                for c, w in zip(calm, widths, strict=True)
            ]
        )
        return cls(line, weight, calm, off, widths, step, is_ring)

    def calmed(self, usual: list[float]) -> F64:
        """The line under the widest bell, place by place, that leaves it about as near as is usual for that bell."""
        if not (self.weight > 0.0).any():
            return self.line
        place = np.zeros(len(self.line))
        for k in range(1, len(self.widths)):
            bends = OWN_BEND * _radius(self.calm[k], self.is_ring) < self.widths[k] * self.step
            place = np.where((self.off[k] <= ALIKE * usual[k] + SURE_PX) & ~bends, k, place)
        place = _spread(place, max(SPREAD * self.widths[1], 1.0), self.is_ring)
        below = np.minimum(place.astype(int), max(len(self.widths) - 2, 0))
        share = (place - below)[:, None]
        at = np.arange(len(self.line))
        above = np.minimum(below + 1, len(self.widths) - 1)
        smooth = (1.0 - share) * self.calm[below, at] + share * self.calm[above, at]
        made = self.line + self.weight[:, None] * (smooth - self.line)
        if not self.is_ring:
            made[[0, -1]] = self.line[[0, -1]]  # to the last bit
        return np.asarray(made)


def _even(run: Contour) -> F64:
    """Points evenly along an open contour, its ends among them."""
    fine = run.sampled(0.25 * STEP_PX)
    along = along_of(fine)
    count = max(4, round(float(along[-1]) / STEP_PX)) + 1
    at = np.linspace(0.0, along[-1], count)
    line = at_distances(fine, along, at)
    line[0], line[-1] = fine[0], fine[-1]
    return line


def _weights(along: F64, low: float, high: float, how: Ease, is_ring: bool) -> F64:
    """How much each point is moved: fully where it was stroked, less towards the ends of the stroke."""
    low, high = max(low, 0.0), min(high, float(along[-1]))
    full = is_ring and high - low >= along[-1] - 1e-6
    if full:
        return np.full(len(along), how.strength / 100.0)
    if high <= low:
        return np.zeros(len(along))
    fade = min(how.reach_px, (high - low) / 3.0)
    rise = np.clip((along - low) / fade, 0.0, 1.0) if low > 0.0 or is_ring else np.ones(len(along))
    fall = np.clip((high - along) / fade, 0.0, 1.0) if high < along[-1] or is_ring else np.ones(len(along))
    share = np.minimum(rise, fall)
    return how.strength / 100.0 * share * share * (3.0 - 2.0 * share)


def _by_parabolas(line: F64, width: float, is_ring: bool) -> F64:
    """Every point where the parabola nearest to its neighbours has it, a bell of a width (in steps) weighing them.

    A line is led on beyond its ends by itself turned round, so that they stay where they are.
    """
    reach = min(int(np.ceil(4.0 * width)), len(line) - 1)
    d = np.arange(-reach, reach + 1)
    bell = np.exp(-0.5 * (d / max(width, 1e-9)) ** 2)
    m0, m2, m4 = bell.sum(), (bell * d**2).sum(), (bell * d**4).sum()
    kernel = bell * (m4 - m2 * d**2) / (m0 * m4 - m2 * m2)
    if is_ring:
        padded = np.concatenate([line[-reach - 1 : -1], line, line[1 : reach + 1]])
    else:
        head = 2.0 * line[0] - line[reach:0:-1]
        tail = 2.0 * line[-1] - line[-2 : -reach - 2 : -1]
        padded = np.concatenate([head, line, tail])
    return np.column_stack([np.convolve(padded[:, axis], kernel, mode="valid") for axis in range(2)])


def _radius(line: F64, is_ring: bool) -> F64:
    """The radius a line has at each of its points, in px, over three points on either side."""
    far = min(3, max((len(line) - 1) // 2, 1))
    padded = (
        np.concatenate([line[-far - 1 : -1], line, line[1 : far + 1]])
        if is_ring
        else np.concatenate([2.0 * line[0] - line[far:0:-1], line, 2.0 * line[-1] - line[-2 : -far - 2 : -1]])
    )
    before, here, after = padded[: -2 * far], padded[far:-far], padded[2 * far :]
    one, other = here - before, after - here
    cross = one[:, 0] * other[:, 1] - one[:, 1] * other[:, 0]
    size = np.hypot(*one.T) * np.hypot(*other.T) * np.hypot(*(after - before).T)
    return np.asarray(np.minimum(0.5 * size / np.maximum(np.abs(cross), 1e-12), 1e6))


def _spread(values: F64, width: float, is_ring: bool) -> F64:
    """Numbers along a line averaged by a bell."""
    return smoothed(values, width, Beyond.ROUND if is_ring else Beyond.MIRRORED)
