"""The single strokes of a pencil sketch: thin ridges of darkness, followed from end to end."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import TYPE_CHECKING, Self

import cv2
import numpy as np

from sobercrow.core.arrays import F32, F64, I64, U8, following, preceding
from sobercrow.core.geometry.polygon import along_of, at_distances
from sobercrow.core.geometry.smooth import Beyond, smoothed
from sobercrow.core.strokes._skeleton_kernels import thin
from sobercrow.core.strokes.skeletons import Thinned, stroke_paths

if TYPE_CHECKING:
    from scipy.spatial import cKDTree

PAPER_REACH = 12.0
"""Paper is what is lightest within so many stroke widths."""
RIDGE = 0.45
"""Darkness is smoothed by so many stroke widths before its ridges are looked for."""
WEAKEST, SEED = 0.014, 2.0
"""A ridge is at least so strong, or four times the usual of the paper; somewhere it is so many times stronger."""
STAIRS = 1.5
LEAST_POINTS = 5
WIDTH_SAMPLES = 25.0
"""The width of a stroke is read where lines are thin: at so many per cent of all places on them."""


@dataclass(frozen=True, slots=True, eq=False)
class Strokes:
    """Single strokes as points about a pixel apart, one stroke after the other.

    Attributes
    ----------
    points : (n, 2) float64
        In pixels of the picture.
    ways : (n,) float64
        The direction along the stroke, radians.
    dark : (n,) float64
        How dark the stroke is there, as a share of black.
    stroke : (n,) int64
        Which stroke each point is of, from 0, ascending.
    """

    points: F64
    ways: F64
    dark: F64
    stroke: I64

    def __len__(self) -> int:
        """Return the number of points."""
        return len(self.points)

    @property
    def count(self) -> int:
        """How many strokes there are."""
        return int(self.stroke[-1]) + 1 if len(self.stroke) else 0

    def starts(self) -> I64:
        """Return where each stroke begins, and where the last one ends."""
        return np.searchsorted(self.stroke, np.arange(self.count + 1))

    def runs(self) -> list[F64]:
        """Return the points of each stroke."""
        return [self.points[a:b] for a, b in pairwise(self.starts().tolist())]

    @classmethod
    def none(cls) -> Self:
        """Return no strokes at all."""
        return cls(np.zeros((0, 2)), np.zeros(0), np.zeros(0), np.zeros(0, dtype=np.int64))

    def only(self, kept: np.ndarray) -> Strokes:
        """Return the points of which `kept` (n,) is true; strokes that come apart are several then."""
        rows = np.flatnonzero(kept)
        if not len(rows):
            return self.none()
        breaks = (np.diff(rows) > 1) | (np.diff(self.stroke[rows]) != 0)
        own = np.concatenate([[0], np.cumsum(breaks)])
        return Strokes(self.points[rows], self.ways[rows], self.dark[rows], own)


def together(*parts: Strokes) -> Strokes:
    """Return strokes of several kinds or parts one after the other."""
    if not parts:
        return Strokes.none()
    first = np.cumsum([0, *(part.count for part in parts[:-1])])
    return Strokes(
        np.concatenate([part.points for part in parts]),
        np.concatenate([part.ways for part in parts]),
        np.concatenate([part.dark for part in parts]),
        np.concatenate([part.stroke + start for part, start in zip(parts, first, strict=True)]).astype(np.int64),
    )


def usual_darkness(strokes: Strokes) -> float:
    """Return how dark the lines of a drawing usually are: at three quarters of what is not faint."""
    dark = strokes.dark
    return float(np.percentile(dark[dark > 0.5 * np.median(dark)], 75.0)) if len(dark) else 0.0


def smaller(grey: U8, factor: float) -> U8:
    """Return tones (h, w) made smaller by a factor; as they are by 1 or less."""
    if factor <= 1.0:
        return grey
    size = max(1, round(grey.shape[1] / factor)), max(1, round(grey.shape[0] / factor))
    return np.asarray(cv2.resize(grey, size, None, 0, 0, cv2.INTER_AREA), dtype=np.uint8)


def darkness(grey: U8, width_px: float) -> F32:
    """Return how dark a sheet (h, w) is against its paper around, 0-1; strokes about so wide."""
    tones = cv2.GaussianBlur(grey.astype(np.float32), (0, 0), 0.8)
    shrink = max(1, round(0.5 * width_px))
    small = cv2.resize(
        tones, (max(1, grey.shape[1] // shrink), max(1, grey.shape[0] // shrink)), None, 0, 0, cv2.INTER_AREA
    )
    reach = int(PAPER_REACH * width_px / shrink) | 1
    paper = cv2.morphologyEx(small, cv2.MORPH_CLOSE, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (reach, reach)))
    paper = cv2.resize(cv2.GaussianBlur(paper, (0, 0), 0.5 * reach), grey.shape[::-1], None, 0, 0, cv2.INTER_LINEAR)
    away = (paper - grey.astype(np.float32)) / np.maximum(paper, 1.0)
    away -= float(np.median(away[::3, ::3]))
    return np.asarray(np.clip(away, 0.0, 1.0), dtype=np.float32)


def ridges(dark: F32, sigma: float) -> F32:
    """Return how strong the dark ridge through each pixel is: the greatest second derivative across, scaled.

    Steger 1998, "An unbiased detector of curvilinear structures"; Lindeberg 1998, "Edge detection and ridge detection
    with automatic scale selection", for the scale's square.
    """
    soft = cv2.GaussianBlur(dark, (0, 0), sigma)
    xx, yy = (cv2.Sobel(soft, cv2.CV_32F, *order, ksize=3, scale=0.25) for order in ((2, 0), (0, 2)))
    xy = cv2.Sobel(soft, cv2.CV_32F, 1, 1, ksize=3, scale=0.25)
    bend = 0.5 * (xx + yy) - np.sqrt((0.5 * (xx - yy)) ** 2 + xy**2)
    return np.asarray(np.maximum(-bend * np.float32(sigma**2), 0.0), dtype=np.float32)


def stroke_width(grey: U8) -> float:
    """Return about how wide the single strokes of a sheet are, in px: 1.5 or more."""
    dark = darkness(grey, 4.0)
    inked = dark[dark > 0.1]
    if len(inked) < 50:
        return 2.5
    ink = (dark > 0.5 * float(np.percentile(inked, 80.0))).astype(np.uint8)
    away = cv2.distanceTransform(np.pad(ink, 1), cv2.DIST_L2, 5)
    framed = np.pad(ink, 1)
    thin(framed)
    middles = away[framed > 0]
    if len(middles) < 20:
        return 2.5
    return float(max(2.0 * np.percentile(middles, WIDTH_SAMPLES) - 0.5, 1.5))


def single_strokes(dark: F32, width_px: float, weakest: float = WEAKEST) -> Strokes:
    """Return the single strokes of a sheet by its darkness (h, w), each about so wide, its ridge so strong."""
    strength = ridges(dark, max(1.0, RIDGE * width_px))
    least = max(weakest, 4.0 * float(np.median(strength[::3, ::3])))
    mask = (strength > least).astype(np.uint8)
    count, parts = cv2.connectedComponents(mask, connectivity=8)
    seen = np.zeros(count, dtype=bool)
    seen[np.unique(parts[strength > SEED * least])] = True
    seen[0] = False
    mask = seen[parts].astype(np.uint8)
    framed = np.pad(mask, 1)
    radius = cv2.distanceTransform(framed, cv2.DIST_L2, 5)[1:-1, 1:-1]
    thin(framed)
    paths, _ = stroke_paths(Thinned(framed, np.asarray(radius, dtype=np.float32), 1))
    soft: F32 = np.asarray(cv2.GaussianBlur(dark, (0, 0), max(1.0, RIDGE * width_px)), dtype=np.float32)
    return strokes_along([path for path, _ in paths], soft)


def strokes_along(paths: Sequence[F64], dark: F32) -> Strokes:
    """Return strokes along paths (n, 2) of pixels, their stairs smoothed, with the darkness (h, w) beneath them."""
    made: list[tuple[F64, F64]] = []
    for path in paths:
        if len(path) < LEAST_POINTS:
            continue
        line = evenly_spaced(smoothed(path, STAIRS, Beyond.LAST), 1.0)
        if len(line) >= LEAST_POINTS:
            made.append((line, ways_along(line)))
    if not made:
        return Strokes.none()
    points = np.concatenate([line for line, _ in made])
    rows = np.clip(points[:, 1].astype(np.int64), 0, dark.shape[0] - 1)
    columns = np.clip(points[:, 0].astype(np.int64), 0, dark.shape[1] - 1)
    own = np.repeat(np.arange(len(made)), [len(line) for line, _ in made])
    return Strokes(points, np.concatenate([way for _, way in made]), dark[rows, columns].astype(np.float64), own)


def tree_of(points: F64) -> cKDTree:
    """Return a tree to look for the points nearest to others in."""
    from scipy.spatial import cKDTree  # SciPy comes in when it is first needed: it would hold up every start

    return cKDTree(points)


def evenly_spaced(line: F64, step: float) -> F64:
    """Return points on a line (n, 2), about `step` apart, its ends among them."""
    along = along_of(line)
    if along[-1] < 1e-9:
        return line[:1].copy()
    at = np.linspace(0.0, along[-1], max(2, round(float(along[-1]) / step) + 1))
    return at_distances(line, along, at)


def ways_along(line: F64, over: float = 2.0, closed: bool = False) -> F64:
    """Return the direction of a line (n, 2) at each of its points, radians, read over so many points."""
    soft = smoothed(line, over, Beyond.ROUND if closed else Beyond.LAST) if len(line) > 3 else line
    way = following(soft) - preceding(soft) if closed else np.gradient(soft, axis=0)
    return np.asarray(np.arctan2(way[:, 1], way[:, 0]))
