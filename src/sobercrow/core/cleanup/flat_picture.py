"""The flat colours a picture was drawn in, read from what is left of them, and the picture drawn in them again."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from sobercrow.core.arrays import F32, F64

FLAT_STEP = 6.0
"""Steps to neighbours, all channels added up, are smaller than this in a flat place."""
CELL = 5.0
LIKE, APART = 9.0, 11.0
"""Pixels so near to a colour are of it; colours nearer to each other than this, in tones, are one."""
LEAST_SHARE, LEAST_PX = 0.0012, 24
MOST = 16
NEAR = 16.0
MIXED = 2.0
"""A pixel off all mixtures by so many times `NEAR` stays as it is."""
NEARLY_PURE = 0.12
PURE_BONUS = 60.0
"""A mixture has to be so much nearer, in tones squared, than a pure colour."""


@dataclass(frozen=True, slots=True, eq=False)
class Flattened:
    """Flat colours (k, n), in the channels of the picture, and the picture made of them and their mixtures."""

    colours: F64
    mixed: F32

    def snapped(self, picture: F32) -> F32:
        """Return the picture (n, h, w) with what is near a flat colour become it, other pixels mixtures of two."""
        mixed = mixtures(picture, self.colours)
        near, own = nearest(picture, self.colours)
        off = np.sqrt(((mixed - picture) ** 2).sum(axis=0))
        made = np.where(off < MIXED * NEAR, mixed, picture)
        exact = np.moveaxis(self.colours[own].astype(np.float32), 2, 0)
        return np.asarray(np.where(near < NEAR, exact, made), dtype=np.float32)


def flattened(picture: F32, seen: F32, before: Flattened | None = None) -> Flattened | None:
    """Return the flat colours of a picture (n, h, w) and it in them; None if it has fewer than two.

    `seen` is the picture as it was decoded: its colours are not yet drawn together.
    """
    colours = before.colours if before is not None else flat_places(picture)
    if len(colours) < 2:
        return None
    return Flattened(_unbiased(colours, picture, seen), mixtures(picture, colours))


def flat_places(picture: F32) -> F64:
    """Return the colours (k, n) of flat places, the commonest first."""
    steps = np.zeros(picture.shape[1:], dtype=np.float32)
    for axis in (1, 2):
        step = np.abs(np.diff(picture, axis=axis)).sum(axis=0)
        cut = tuple(slice(None) if a != axis else slice(1, None) for a in (1, 2))
        rest = tuple(slice(None) if a != axis else slice(None, -1) for a in (1, 2))
        steps[cut] += step
        steps[rest] += step
    left = picture[:, steps < FLAT_STEP].T
    least = max(LEAST_PX, LEAST_SHARE * steps.size)
    found: list[F64] = []
    cells = np.round(left / CELL).astype(np.int64) @ np.array([1_000_000, 1000, 1])[-left.shape[1] :]
    while len(left) > least and len(found) < MOST:
        values, counts = np.unique(cells, return_counts=True)
        colour = left[cells == values[counts.argmax()]].mean(axis=0)
        for _ in range(3):
            near = ((left - colour) ** 2).sum(axis=1) < LIKE**2
            colour = np.median(left[near], axis=0)
        if near.sum() < least:
            break
        found.append(colour.astype(np.float64))
        others = ((left - colour) ** 2).sum(axis=1) > APART**2
        left, cells = left[others], cells[others]
    return np.array(found)


def nearest(picture: F32, colours: F64) -> tuple[F32, np.ndarray]:
    """Return how far every pixel is from the nearest colour, in tones, and which that is."""
    away = np.stack([((picture - c.astype(np.float32)[:, None, None]) ** 2).sum(axis=0) for c in colours])
    own = away.argmin(axis=0)
    return np.sqrt(away.min(axis=0)), own


def mixtures(picture: F32, colours: F64) -> F32:
    """Return for every pixel (n, h, w) the nearest mixture of two colours; pure ones are favoured."""
    near, own = nearest(picture, colours)
    made = np.moveaxis(colours[own].astype(np.float32), 2, 0).copy()
    soft = near > PURE_BONUS**0.5
    seen = picture[:, soft]
    if not seen.shape[1]:
        return made
    best = near[soft] ** 2
    chosen = made[:, soft]
    for i in range(len(colours)):
        for j in range(i + 1, len(colours)):
            one = colours[i].astype(np.float32)[:, None]
            way = colours[j].astype(np.float32)[:, None] - one
            share = np.clip(((seen - one) * way).sum(axis=0) / (way**2).sum(), 0.0, 1.0)
            share = np.where(share < NEARLY_PURE, 0.0, np.where(share > 1.0 - NEARLY_PURE, 1.0, share))
            mixed = one + share * way
            cost = ((seen - mixed) ** 2).sum(axis=0) + PURE_BONUS * ((share > 0.0) & (share < 1.0))
            nearer = cost < best
            best = np.where(nearer, cost, best)
            chosen = np.where(nearer, mixed, chosen)
    made[:, soft] = chosen
    return made


def _unbiased(colours: F64, picture: F32, seen: F32) -> F64:
    """Colours as they were decoded, away from edges: total variation draws them together."""
    near, own = nearest(picture, colours)
    made = colours.copy()
    for k in range(len(colours)):
        mask = ((own == k) & (near < 12.0)).astype(np.uint8)
        for inset in (3, 2, 1, 0):
            inner = cv2.erode(mask, np.ones((2 * inset + 1,) * 2, np.uint8)) > 0
            if inner.sum() >= 30:
                made[k] = seen[:, inner].mean(axis=1)
                break
    return made
