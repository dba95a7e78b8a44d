"""Flat pictures of known colours, drawn by ourselves: what bench/inks.py and the tests measure the inks step on."""

from __future__ import annotations

import io
import math
from dataclasses import dataclass

import cv2
import numpy as np
from PIL import Image

from sobercrow.core.inks.colour import ciede2000, lab_of

OVERSAMPLING = 8
LINE_PX = 2.0
ROUND_POINTS = 256
LEAST_APART = 14.0
"""Least ΔE00 between two inks of a picture."""


Part = tuple[int, np.ndarray, bool]


@dataclass(frozen=True, slots=True, eq=False)
class Scene:
    """A flat picture: `fine` is the true ink of every subpixel (8 × 8 to a pixel), `colours` (n, 3) 0–255.

    `lines` are the lines 2 px wide: ink and the two ends in px. `parts` are all that was drawn, in that order: ink,
    outline in px, and whether its points stand for a round one.
    """

    fine: np.ndarray
    colours: np.ndarray
    lines: tuple[tuple[int, np.ndarray], ...]
    parts: tuple[Part, ...]

    def rendered(self, blur_px: float = 0.0, quality: int | None = None, linear: bool = False) -> np.ndarray:
        """Return the picture as it is handed in: mixed by area in sRGB values or linear light, blurred, compressed."""
        height, width = (n // OVERSAMPLING for n in self.fine.shape)
        flat = self.colours[self.fine] / 255.0
        if linear:
            flat = np.where(flat <= 0.04045, flat / 12.92, ((flat + 0.055) / 1.055) ** 2.4)
        mean = flat.reshape(height, OVERSAMPLING, width, OVERSAMPLING, 3).mean(axis=(1, 3))
        if blur_px:
            mean = cv2.GaussianBlur(mean, (0, 0), blur_px)
        if linear:
            mean = np.where(mean <= 0.0031308, mean * 12.92, 1.055 * mean ** (1 / 2.4) - 0.055)
        pixels = np.rint(255 * np.clip(mean, 0, 1)).astype(np.uint8)
        return pixels if quality is None else compressed(pixels, quality)

    def truth(self) -> np.ndarray:
        """Return the ink at the middle of every pixel, (h, w)."""
        half = OVERSAMPLING // 2
        return np.asarray(self.fine[half::OVERSAMPLING, half::OVERSAMPLING])

    def border_distance(self) -> np.ndarray:
        """Return how far the middle of every pixel is from the nearest true border, in px."""
        edges = np.ones(self.fine.shape, dtype=np.uint8)
        across, down = self.fine[:, 1:] != self.fine[:, :-1], self.fine[1:] != self.fine[:-1]
        edges[:, 1:][across] = 0
        edges[1:][down] = 0
        half = OVERSAMPLING // 2
        away = cv2.distanceTransform(edges, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
        return np.asarray(away[half::OVERSAMPLING, half::OVERSAMPLING] / OVERSAMPLING)


def compressed(pixels: np.ndarray, quality: int) -> np.ndarray:
    """Return pixels as JPEG hands them back, colours at half the resolution as is usual."""
    memory = io.BytesIO()
    Image.fromarray(pixels).save(memory, "JPEG", quality=quality)
    return np.asarray(Image.open(io.BytesIO(memory.getvalue())).convert("RGB"))


def distinct_colours(random: np.random.Generator, count: int) -> np.ndarray:
    """Return colours that people tell apart; black and white more often than chance has it."""
    chosen = [np.array([255, 255, 255])] if random.random() < 0.7 else []
    if random.random() < 0.5:
        chosen.append(random.integers(0, 40, 3))
    while len(chosen) < count:
        new = random.integers(0, 256, 3)
        labs = lab_of(np.array([*chosen, new], dtype=np.float64))
        if all(ciede2000(labs[-1], lab) >= LEAST_APART for lab in labs[:-1]):
            chosen.append(new)
    return np.array(chosen[:count], dtype=np.float64)


def flat_scene(seed: int, count: int, size: int, largest_parts: float = 0.3) -> Scene:
    """Return a picture of `count` inks and `size` px: large shapes, then small parts and lines 2 px wide over them."""
    random = np.random.default_rng(seed)
    colours = distinct_colours(random, count)
    side = size * OVERSAMPLING
    while True:
        fine = np.zeros((side, side), dtype=np.uint8)
        parts = [
            _shape(fine, random, int(ink), side * random.uniform(0.12, largest_parts), side)
            for ink in (*range(1, count), *random.integers(0, count, 3))
        ]
        for _ in range(8):
            ink = int(random.integers(0, count))
            parts.append(_shape(fine, random, ink, OVERSAMPLING * random.uniform(2.5, 6.0), side))
        lines = []
        for _ in range(3):
            ink = int(random.integers(0, count))
            ends = random.uniform(0.1, 0.9, (2, 2)) * size
            if np.hypot(*(ends[1] - ends[0])) > 0.3 * size and not _crosses(ends, lines):
                clear = _band(ends, side, 7.0)
                if (fine[clear] == ink).any():
                    continue
                fine[_band(ends, side, LINE_PX)] = ink
                parts.append((ink, _band_corners(ends, LINE_PX) / OVERSAMPLING, False))
                lines.append((ink, ends))
        shares = np.bincount(fine.ravel(), minlength=count) / fine.size
        if shares.min() > 0.008 and lines:
            return Scene(fine, colours, tuple(lines), tuple(parts))


def _crosses(ends: np.ndarray, lines: list[tuple[int, np.ndarray]]) -> bool:
    def side(a: np.ndarray, b: np.ndarray, p: np.ndarray) -> float:
        return float((b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0]))

    return any(
        side(*ends, other[0]) * side(*ends, other[1]) < 0 and side(*other, ends[0]) * side(*other, ends[1]) < 0
        for _, other in lines
    )


def _band_corners(ends: np.ndarray, width_px: float) -> np.ndarray:
    """The corners of a line with square ends, in subpixels."""
    a, b = ends * OVERSAMPLING
    along = (b - a) / np.hypot(*(b - a))
    across = np.array([-along[1], along[0]]) * width_px * OVERSAMPLING / 2
    return np.array([a + across, b + across, b - across, a - across])


def _band(ends: np.ndarray, side: int, width_px: float) -> np.ndarray:
    """The subpixels within a line with square ends."""
    corners = np.rint(_band_corners(ends, width_px) * 16).astype(np.int32)
    mask = np.zeros((side, side), dtype=np.uint8)
    cv2.fillPoly(mask, [corners.reshape(-1, 1, 2)], 1, cv2.LINE_8, 4)
    return mask > 0


def _shape(fine: np.ndarray, random: np.random.Generator, ink: int, radius: float, side: int) -> Part:
    """Draw a round shape or one with corners somewhere, and return it."""
    x, y = random.uniform(0.08, 0.92, 2) * side
    kind = random.integers(0, 4)
    if kind == 0:
        cv2.circle(fine, (round(x * 16), round(y * 16)), round(radius * 16), ink, -1, cv2.LINE_8, 4)
        return ink, _round_outline(x, y, radius, radius, 0.0), True
    if kind == 1:
        turn = random.uniform(0, 180)
        cv2.ellipse(fine, ((x, y), (2 * radius, 1.2 * radius), turn), ink, -1)
        return ink, _round_outline(x, y, radius, 0.6 * radius, turn), True
    spikes = int(random.integers(3, 7))
    turn = random.uniform(0, 2 * math.pi)
    waist = random.uniform(0.5, 1.0) if kind == 3 else 1.0
    points = []
    for k in range(2 * spikes):
        reach = radius if k % 2 == 0 else waist * radius * (1.0 if kind == 3 else math.cos(math.pi / spikes))
        angle = turn + k * math.pi / spikes
        points.append((x + reach * math.cos(angle), y + reach * math.sin(angle)))
    cv2.fillPoly(fine, [np.rint(np.array(points) * 16).astype(np.int32).reshape(-1, 1, 2)], ink, cv2.LINE_8, 4)
    corners = points if kind == 3 else points[::2]
    return ink, np.array(corners) / OVERSAMPLING, False


def _round_outline(x: float, y: float, rx: float, ry: float, turn: float) -> np.ndarray:
    """Points on a circle or an ellipse, in px."""
    t = np.linspace(0.0, 2.0 * math.pi, ROUND_POINTS, endpoint=False)
    c, s = math.cos(math.radians(turn)), math.sin(math.radians(turn))
    across, down = rx * np.cos(t), ry * np.sin(t)
    return np.column_stack([x + across * c - down * s, y + across * s + down * c]) / OVERSAMPLING
