"""Paper that was not kept well, and other means than a pencil: how a drawn sheet of tones comes to look."""

from __future__ import annotations

from collections.abc import Callable

import cv2
import numpy as np
from numpy.typing import NDArray

F64 = NDArray[np.float64]
Random = np.random.Generator


def tooth(random: Random, size: tuple[int, int], scale: float) -> F64:
    """How much of the paper the pencil misses, 0-1."""
    return np.clip(cv2.GaussianBlur(random.normal(0, 1, size), (0, 0), scale) * 2.0 * scale + 0.3, 0, 1)


def smudged(grey: F64, random: Random) -> F64:
    """Graphite wiped by a finger: broad soft streaks."""
    mask = np.zeros(grey.shape, np.float32)
    middle, turn = random.uniform((250, 200), (600, 560)), random.uniform(0, np.pi)
    for _ in range(14):
        at, half = middle + random.normal(0, 25, 2), random.uniform(60, 140)
        way = np.array((np.cos(turn), np.sin(turn))) * half
        streak = np.zeros_like(mask)
        ends = [tuple(int(v) for v in at + side * way) for side in (-1, 1)]
        cv2.line(streak, *ends, 1.0, int(random.uniform(8, 26)), cv2.LINE_AA)
        mask = np.maximum(mask, streak * random.uniform(0.4, 1.0))
    return grey * (1.0 - random.uniform(0.1, 0.3) * cv2.GaussianBlur(mask, (0, 0), 5))


def creased(grey: F64, random: Random) -> F64:
    """A sheet that was folded twice: shade on one side of each fold, a bright and a dark edge."""
    rows, columns = np.mgrid[: grey.shape[0], : grey.shape[1]]
    for _ in range(2):
        turn = random.uniform(0, np.pi)
        away = (columns - random.uniform(250, 600)) * np.cos(turn) + (rows - random.uniform(200, 560)) * np.sin(turn)
        fold = (
            0.05 / (1 + np.exp(-away / 30.0))
            + 0.09 * np.exp(-((away / 1.8) ** 2))
            - 0.04 * np.exp(-(((away + 3) / 2) ** 2))
        )
        grey = grey * (1.0 - fold)
    return grey


def charcoal(grey: F64, random: Random) -> F64:
    """Broad, dusty strokes with coarse grain."""
    dark = 1.0 - grey / np.median(grey)
    broad = cv2.dilate(dark, np.ones((3, 3)))
    dust = 0.12 * cv2.GaussianBlur(broad, (0, 0), 9)
    return np.median(grey) * (1.0 - np.clip(1.25 * broad * (1 - 0.6 * tooth(random, grey.shape, 1.3)) + dust, 0, 1))


def ball_pen(grey: F64, random: Random) -> F64:
    """Thin, even, dark strokes with gaps."""
    dark = np.clip((1.0 - grey / np.median(grey)) * 2.2 - 0.35, 0, 0.9)
    return np.median(grey) * (1.0 - dark * (cv2.GaussianBlur(random.normal(0, 1, grey.shape), (0, 0), 2) > -0.45))


def pale(grey: F64, random: Random) -> F64:
    """Light pencil on grey, grained paper."""
    paper = np.median(grey)
    return (paper + 0.45 * (grey - paper)) * 0.75 + cv2.GaussianBlur(random.normal(0, 5, grey.shape), (0, 0), 0.7)


def photographed(grey: F64, random: Random) -> F64:
    """Light that falls off, a soft lens, noise, JPEG 75."""
    rows, columns = np.mgrid[: grey.shape[0], : grey.shape[1]] / 800.0
    light = 1.0 - 0.45 * np.hypot(columns - random.uniform(0, 1), rows - random.uniform(0, 1))
    seen = cv2.GaussianBlur(grey * light, (0, 0), 0.8) + random.normal(0, 3, grey.shape)
    file = cv2.imencode(".jpg", np.clip(seen, 0, 255).astype(np.uint8), [cv2.IMWRITE_JPEG_QUALITY, 75])[1]
    return np.asarray(cv2.imdecode(file, 0), dtype=np.float64)


PAPERS: dict[str, Callable[[F64, Random], F64]] = {
    "as drawn": lambda grey, _: grey,
    "smudged": smudged,
    "creased": creased,
    "charcoal": charcoal,
    "ball pen": ball_pen,
    "pale on grey": pale,
    "photo": photographed,
}
