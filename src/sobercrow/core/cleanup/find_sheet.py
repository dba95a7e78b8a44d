"""Finding the sheet in a photo: its four corners, to a fraction of a pixel."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations

import cv2
import numpy as np

from sobercrow.core.arrays import F32, F64, U8
from sobercrow.core.errors import SettingError
from sobercrow.core.geometry.polygon import polygon_area
from sobercrow.core.picture.picture import coarse, grey_of
from sobercrow.core.settings import Corners

WORKING_PX = 560
MOST_LINES = 22
LEAST_AREA = 0.12
"""A sheet covers at least this share of the picture."""
LEAST_SUPPORT = 0.62
"""Share of a side along which an edge must be seen."""
SAMPLES_A_SIDE = 64
OTHER_COLOUR = 10.0
"""Least difference, in tones, between the sheet and what it lies on."""
REFINE_SAMPLES = 160
SURE_BESIDE_PX, SURELY_DARKER, SURE_SHARE = 4.0, 14.0, 0.9
"""A sheet is sure if so far outside each side it is so much darker than as far inside, along so much of it."""


@dataclass(frozen=True, slots=True)
class Line:
    """All points with nx · x + ny · y = d, the normal being of length 1."""

    nx: float
    ny: float
    d: float

    def meets(self, other: Line) -> tuple[float, float] | None:
        """Return where two lines cross, or None if they are nearly parallel."""
        det = self.nx * other.ny - self.ny * other.nx
        if abs(det) < 0.17:
            return None
        return (self.d * other.ny - other.d * self.ny) / det, (other.d * self.nx - self.d * other.nx) / det


def find_sheet(pixels: U8) -> Corners | None:
    """Return the corners of a sheet lying on something else, (h, w, 3) uint8, or None where there is none.

    Straight edges are found by Hough's transform (Duda & Hart 1972); of the quadrangles they form, the one with the
    best supported sides wins, larger ones being preferred (after Zhang & He 2007). Its sides are then fitted
    anew to the edge at full size. A sheet that fills the picture has no corners to be found.
    """
    height, width = pixels.shape[:2]
    factor = max(1.0, max(height, width) / WORKING_PX)
    size = max(8, round(width / factor)), max(8, round(height / factor))
    small = np.asarray(cv2.resize(coarse(pixels, int(factor)), size, interpolation=cv2.INTER_AREA), dtype=np.uint8)
    rise_x, rise_y = _gradients(small)
    lines = _straight_edges(rise_x, rise_y)
    best = _best_quadrangle(lines, rise_x, rise_y)
    if best is None or not _stands_out(small, best):
        return None
    scale = np.array([width / size[0], height / size[1]])
    corners = _refined(pixels, best * scale)
    try:
        return Corners(*((float(x), float(y)) for x, y in _from_top_left(corners)))
    except SettingError:
        return None


def surrounds_paper(pixels: U8, corners: Corners) -> bool:
    """Tell whether four corners are surely those of a sheet: paper all along inside, something darker all around."""
    height, width = pixels.shape[:2]
    factor = max(1.0, max(height, width) / WORKING_PX)
    size = max(8, round(width / factor)), max(8, round(height / factor))
    grey = cv2.resize(grey_of(pixels), size, interpolation=cv2.INTER_AREA)
    small = np.asarray(cv2.GaussianBlur(grey, (0, 0), 1.5), dtype=np.uint8)
    quad = np.array(corners.points) / factor
    inward = quad.mean(axis=0) - quad
    along = np.linspace(0.08, 0.92, SAMPLES_A_SIDE)[:, None]
    for k in range(4):
        start, end = quad[k], quad[(k + 1) % 4]
        normal = np.array([start[1] - end[1], end[0] - start[0]]) / np.hypot(*(end - start))
        normal *= np.sign(normal @ (inward[k] + inward[(k + 1) % 4]))
        side = start + along * (end - start)
        inside, outside = (side + sign * SURE_BESIDE_PX * normal for sign in (1.0, -1.0))
        seen = [_tones_at(small, places) for places in (inside, outside)]
        if ((seen[0] - seen[1]) >= SURELY_DARKER).mean() < SURE_SHARE:
            return False
    return True


def _tones_at(grey: U8, places: F64) -> F64:
    """Tones (n,) at places (n, 2); those beyond the picture are as dark as the darkest."""
    columns, rows = np.floor(places).astype(np.int64).T
    inside = (columns >= 0) & (rows >= 0) & (columns < grey.shape[1]) & (rows < grey.shape[0])
    tones = np.full(len(places), float(grey.min()))
    tones[inside] = grey[rows[inside], columns[inside]]
    return tones


def _gradients(small: U8) -> tuple[F32, F32]:
    """The gradient of the channel that changes most at each pixel."""
    soft = cv2.GaussianBlur(small, (0, 0), 1.4).astype(np.float32)
    gx: F32 = np.asarray(cv2.Sobel(soft, cv2.CV_32F, 1, 0), dtype=np.float32)
    gy: F32 = np.asarray(cv2.Sobel(soft, cv2.CV_32F, 0, 1), dtype=np.float32)
    strongest = np.argmax(gx**2 + gy**2, axis=2)[..., None]
    return (np.take_along_axis(gx, strongest, 2)[..., 0], np.take_along_axis(gy, strongest, 2)[..., 0])


def _straight_edges(rise_x: F32, rise_y: F32) -> list[Line]:
    """The straightest edges, by votes of edge points for lines square to their own gradient."""
    size = np.hypot(rise_x, rise_y)
    height, width = size.shape
    thin = _crests(size, rise_x, rise_y)
    # dim light makes faint edges: what counts is being strong for the neighbourhood
    local = cv2.blur(size, (61, 61)) + 2.0
    strong = thin & (size > 1.6 * local) & (size > 6.0)
    rows, columns = np.nonzero(strong)
    if len(rows) < 40:
        return []
    angle = np.arctan2(rise_y[rows, columns], rise_x[rows, columns]) % np.pi
    step = np.pi / 360
    reach = float(np.hypot(width, height))
    votes = np.zeros((360, int(2 * reach / 1.5) + 4), dtype=np.float32)
    for off in range(-5, 6):
        turned = (np.rint(angle / step).astype(np.int64) + off) % 360
        theta = turned * step
        d = (columns + 0.5) * np.cos(theta) + (rows + 0.5) * np.sin(theta)
        np.add.at(votes, (turned, np.rint((d + reach) / 1.5).astype(np.int64)), 1.0)
    votes = np.asarray(cv2.GaussianBlur(votes, (3, 3), 0), dtype=np.float32)
    lines: list[Line] = []
    while len(lines) < MOST_LINES:
        a, r = np.unravel_index(int(np.argmax(votes)), votes.shape)
        if votes[a, r] < 0.06 * max(width, height):
            break
        direction = float(a) * step
        lines.append(Line(float(np.cos(direction)), float(np.sin(direction)), float(r) * 1.5 - reach))
        for k in range(int(a) - 6, int(a) + 7):  # an edge also votes for its neighbours
            row = k % 360
            centre = int(r) if 0 <= k < 360 else votes.shape[1] - 1 - int(r)
            votes[row, max(0, centre - 5) : centre + 6] = 0.0
    return lines


def _crests(size: F32, rise_x: F32, rise_y: F32) -> np.ndarray:
    """Pixels whose gradient is the greatest along itself (Canny 1986)."""
    across = np.abs(rise_x) >= np.abs(rise_y)
    left, right = np.roll(size, 1, 1), np.roll(size, -1, 1)
    above, below = np.roll(size, 1, 0), np.roll(size, -1, 0)
    crest = np.where(across, (size >= left) & (size > right), (size >= above) & (size > below))
    crest[:2], crest[-2:], crest[:, :2], crest[:, -2:] = False, False, False, False
    return crest


def _best_quadrangle(lines: list[Line], rise_x: F32, rise_y: F32) -> F64 | None:
    height, width = rise_x.shape
    size = np.hypot(rise_x, rise_y)
    local = cv2.blur(size, (61, 61)) + 2.0
    strength = np.clip(size / (1.6 * local) - 0.4, 0.0, 1.0)
    best, best_score = None, 0.0
    pairs = [(a, b) for a, b in combinations(lines, 2) if abs(a.nx * b.nx + a.ny * b.ny) > 0.6]
    for (a, b), (c, d) in combinations(pairs, 2):
        if len({id(a), id(b), id(c), id(d)}) < 4:
            continue
        points = [a.meets(c), a.meets(d), b.meets(d), b.meets(c)]
        if any(p is None or not (-3 <= p[0] <= width + 3 and -3 <= p[1] <= height + 3) for p in points):
            continue
        quad = np.array(points)
        area = polygon_area(quad)
        if abs(area) < LEAST_AREA * width * height:
            continue
        if area < 0:
            quad = quad[::-1].copy()
        sides = [_support(quad[k], quad[(k + 1) % 4], rise_x, rise_y, strength) for k in range(4)]
        if min(sides) < LEAST_SUPPORT:
            continue
        score = float(np.prod(sides)) * (abs(area) / (width * height)) ** 0.25
        if score > best_score:
            best, best_score = quad, score
    return best


def _support(start: F64, end: F64, rise_x: F32, rise_y: F32, strength: F32) -> float:
    """How much of a side, 0–1, runs along an edge that everywhere rises to the same hand."""
    height, width = rise_x.shape
    along = end - start
    length = float(np.hypot(*along))
    if length < 12.0:
        return 0.0
    normal = np.array([along[1], -along[0]]) / length
    t = (np.arange(SAMPLES_A_SIDE) + 0.5) / SAMPLES_A_SIDE
    rising = np.zeros((2, SAMPLES_A_SIDE))
    for off in (-2.0, -1.0, 0.0, 1.0, 2.0):
        x = np.clip((start[0] + t * along[0] + off * normal[0]).astype(np.int64), 0, width - 1)
        y = np.clip((start[1] + t * along[1] + off * normal[1]).astype(np.int64), 0, height - 1)
        rise = rise_x[y, x] * normal[0] + rise_y[y, x] * normal[1]
        steep = np.abs(rise) > 0.85 * np.hypot(rise_x[y, x], rise_y[y, x])
        value = strength[y, x] * steep
        rising[0] = np.maximum(rising[0], value * (rise > 0))
        rising[1] = np.maximum(rising[1], value * (rise < 0))
    return float(rising.mean(axis=1).max())


def _stands_out(small: U8, quad: F64) -> bool:
    """Tell whether what lies beyond the sides is of another colour: else the sides are lines drawn on a sheet."""
    height, width = small.shape[:2]
    middle = quad.mean(axis=0)
    t = np.linspace(0.1, 0.9, SAMPLES_A_SIDE)[:, None]
    for k in range(4):
        on = quad[k] + t * (quad[(k + 1) % 4] - quad[k])
        out = (on - middle) / np.linalg.norm(on - middle, axis=1)[:, None]
        tones = []
        for place in (on - 8.0 * out, on + 8.0 * out):
            x = np.clip(place[:, 0].astype(np.int64), 0, width - 1)
            y = np.clip(place[:, 1].astype(np.int64), 0, height - 1)
            tones.append(np.median(small[y, x].astype(np.float64), axis=0))
        if np.abs(tones[0] - tones[1]).max() < OTHER_COLOUR:
            return False
    return True


def _from_top_left(quad: F64) -> F64:
    """The corners clockwise on screen, beginning with the one nearest to the top left."""
    first = int(np.argmin(quad.sum(axis=1)))
    return np.roll(quad, -first, axis=0)


def _refined(pixels: U8, quad: F64) -> F64:
    """Fit each side anew to the steepest place of its profiles at full size, twice with less and less reach."""
    longest = max(pixels.shape[:2])
    for reach in (max(5.0, longest / 160), 4.0):
        lines = [_side_line(pixels, quad[k], quad[(k + 1) % 4], reach) for k in range(4)]
        met = [lines[k - 1].meets(lines[k]) for k in range(4)]
        if any(m is None for m in met):
            return quad
        moved = np.array(met)
        if np.abs(moved - quad).max() > 3.0 * reach + 4.0:
            return quad
        quad = moved
    return quad


def _side_line(pixels: U8, start: F64, end: F64, reach: float) -> Line:
    along = end - start
    length = float(np.hypot(*along))
    normal = np.array([along[1], -along[0]]) / length
    t = np.linspace(0.04, 0.96, REFINE_SAMPLES)
    offs = np.arange(-reach - 1.0, reach + 1.01, 0.5)
    x = start[0] + t[:, None] * along[0] + offs[None] * normal[0]
    y = start[1] + t[:, None] * along[1] + offs[None] * normal[1]
    across, down = (x - 0.5).astype(np.float32), (y - 0.5).astype(np.float32)
    tones = cv2.remap(pixels, across, down, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE).astype(np.float32)
    calm = cv2.GaussianBlur(tones, (0, 0), sigmaX=2.0, sigmaY=2.5)
    read = np.asarray(calm, dtype=np.float32).reshape(REFINE_SAMPLES, len(offs), -1)
    rise = np.diff(read, axis=1)
    # the side rises to one hand along its whole length: the channel and the hand with the most rise
    total = np.stack([np.maximum(rise, 0).max(axis=1).mean(axis=0), np.maximum(-rise, 0).max(axis=1).mean(axis=0)])
    hand, channel = np.unravel_index(int(np.argmax(total)), total.shape)
    slope = rise[..., channel] * (1.0 if hand == 0 else -1.0)
    peak = np.clip(np.argmax(slope, axis=1), 1, slope.shape[1] - 2)
    rows = np.arange(REFINE_SAMPLES)
    before, here, after = slope[rows, peak - 1], slope[rows, peak], slope[rows, peak + 1]
    bend = before - 2 * here + after
    shift = np.where(bend < -1e-6, 0.5 * (before - after) / np.minimum(bend, -1e-6), 0.0)
    off = offs[peak] + 0.25 + 0.5 * np.clip(shift, -1, 1)
    trust = here > 0.35 * np.median(here)
    fitted = _steady_line(t[trust] * length, off[trust])
    at = [start + along * s + normal * (fitted[0] + fitted[1] * s * length) for s in (0.0, 1.0)]
    side = at[1] - at[0]
    n = np.array([side[1], -side[0]]) / np.hypot(*side)
    return Line(float(n[0]), float(n[1]), float(n @ at[0]))


def _steady_line(along: F64, off: F64) -> tuple[float, float]:
    """Off = a + b · along by least squares, repeated with Tukey's biweight (Beaton & Tukey 1974)."""
    weights = np.ones_like(off)
    a, b = float(np.median(off)), 0.0
    for turn in range(12):
        if turn:
            away = np.abs(off - a - b * along)
            scale = max(1.4826 * float(np.median(away)), 0.05) * 4.7
            weights = np.where(away < scale, (1 - (away / scale) ** 2) ** 2, 1e-9)
        total = weights.sum()
        mx, my = (weights * along).sum() / total, (weights * off).sum() / total
        var = (weights * (along - mx) ** 2).sum()
        b = float((weights * (along - mx) * (off - my)).sum() / max(var, 1e-9))
        a = float(my - b * mx)
    return a, b
