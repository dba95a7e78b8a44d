"""The flat colours a picture was drawn in, read from what is left of them, and the picture drawn in them again."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any, NamedTuple, Self

import cv2
import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F32, F64, I64
from sobercrow.core.cleanup._flat_kernels import find_mixtures, find_nearest
from sobercrow.core.stopping import go_on

Flags = NDArray[np.bool_]

FLAT_STEP = 6.0
"""Steps to neighbours, all channels added up, are smaller than this in a flat place."""
CELL = 5.0
LIKE, APART = 9.0, 11.0
"""Pixels so near to a colour are of it; colours nearer to each other than this, in tones, are one."""
LEAST_SHARE, LEAST_PX = 0.0012, 24
MOST = 16
NEAR = 16.0
"""Pixels so near to a flat colour become it; of others, mixtures explain what is twice as near to them."""
INNER_PX = (3, 2, 1, 0)
LEAST_INNER_PX = 30
PURE = 9.0
"""A pixel so near to a flat colour shows which colours are about."""
ABOUT_PX = 3
SINGLE = np.ones((2, 2), np.uint8)
"""A colour is about only where more than single pixels have it."""
MERGING = 0.7
"""Colours nearer than so many times the coarseness are one,"""
DEEP_PX = 4
"""unless the rarer one fills places so deep."""
NEARLY_PURE = 0.12
PURE_BONUS = 60.0
"""A mixture has to be so much nearer, in tones squared, than a pure colour."""
EXACTLY, TELLING, LEAST_TOLD_PX = 1e-3, 0.02, 20
GAIN = 3.0
"""Most pixels of a colour lie in blocks that say nothing of it, so that it moves less than it should."""
LEAST_CONTRAST = 24.0
"""A stroke too thin to be flat anywhere is so far off the ground it lies on."""
MOST_STROKES, MOST_ASKED = 4, 300
FULL_SHARE = 95.0
"""The percentile of how far the pixels of thin strokes go towards their ink that is taken for all the way."""


class Strokes(NamedTuple):
    """What the pixels of thin strokes are known by.

    They are so far off all other mixtures, in tones; so many at least; and the cosine between their ways from the
    ground is no less than this.
    """

    off: float
    least_px: int
    same_way: float


CLEAN = Strokes(14.0, 24, 0.96)
SNAPPED = Strokes(10.0, 24, 0.995)
EXPLAINED = 0.97
"""Where flat colours and their mixtures explain so much of a picture, the rest is dirt."""


@dataclass(frozen=True, slots=True, eq=False)
class FlatColours:
    """Colours a picture was drawn in.

    Attributes
    ----------
    places : (k, n) float64
        Those that fill flat places, in the channels of the picture.
    strokes : (m, n) float64
        Those that only thin strokes have.
    """

    places: F64
    strokes: F64

    @property
    def all(self) -> F64:
        """All of them."""
        return np.concatenate([self.places, self.strokes])

    def without(self, number: int) -> Self:
        """Return them without the one of this number of `all`."""
        count = len(self.places)
        if number < count:
            return replace(self, places=np.delete(self.places, number, axis=0))
        return replace(self, strokes=np.delete(self.strokes, number - count, axis=0))

    def mixed(self, picture: F32) -> F32:
        """Return for every pixel (n, h, w) the nearest mixture of two colours that are about; pure ones are favoured.

        Colours of strokes are about everywhere.
        """
        return self._mixed(picture, *nearest(picture, self.all))

    def _mixed(self, picture: F32, near: F32, own: I64) -> F32:
        """See `mixed`; `near` and `own` are how far the nearest colour is, and which."""
        go_on()
        made = np.moveaxis(self.all[own].astype(np.float32), 2, 0).copy()
        soft = near > PURE_BONUS**0.5
        if soft.any():
            about = np.ascontiguousarray(self._about(near, own)[:, soft], dtype=np.uint8)
            seen, chosen = np.ascontiguousarray(picture[:, soft]), np.ascontiguousarray(made[:, soft])
            find_mixtures(
                seen,
                np.ascontiguousarray(self.all, dtype=np.float32),
                about,
                near[soft],
                NEARLY_PURE,
                PURE_BONUS,
                chosen,
            )
            made[:, soft] = chosen
        return made

    def snapped(self, picture: F32, wholly: bool = False) -> F32:
        """Return the picture (n, h, w) with what is near a flat colour become it, other pixels mixtures of two.

        What no mixture explains stays as it is, unless it is little or all is to be drawn in these colours `wholly`.
        """
        near, own = nearest(picture, self.all)
        mixed = self._mixed(picture, near, own)
        off = np.sqrt(((mixed - picture) ** 2).sum(axis=0))
        explained = off < 2.0 * NEAR
        made = mixed if wholly or explained.mean() >= EXPLAINED else np.where(explained, mixed, picture)
        exact = np.moveaxis(self.all[own].astype(np.float32), 2, 0)
        return np.asarray(np.where(near < NEAR, exact, made), dtype=np.float32)

    def corrected(self, drawn: F32, allowed: F32, read: Self, doubt: F64) -> Self:
        """Return the colours nearer to those with which a picture `drawn` in them would be one that is `allowed`.

        Those of flat places stay within the `doubt` (n,) of what was `read` there.

        Flat places alone do not tell a colour closer than its quantisation; blocks with edges do, as they hold other
        shares of it.
        """
        near, own = nearest(drawn, self.all)
        off = allowed - drawn
        told = (near < EXACTLY) & (np.abs(off).max(axis=0) > TELLING)
        made = self.all.copy()
        for k in range(len(made)):
            mine = told & (own == k)
            if mine.sum() >= LEAST_TOLD_PX:
                made[k] += GAIN * off[:, mine].mean(axis=1)
        count = len(self.places)
        places = np.clip(made[:count], read.places - doubt, read.places + doubt)
        return replace(self, places=places, strokes=made[count:])

    def with_white(self, coarseness: float) -> Self:
        """Return the colours with what cannot be told from white made white: it is the commonest ground."""
        white = np.array([255.0, 128.0, 128.0])[: self.places.shape[1]]
        off = np.abs(self.places - white).max(axis=1, keepdims=True)
        return replace(self, places=np.where(off <= 1.0 + coarseness / 16.0, white, self.places))

    def _about(self, near: F32, own: I64) -> Flags:
        """Which colours are near every pixel, (k + m, h, w)."""
        side = 2 * ABOUT_PX + 1
        pure = [((own == k) & (near < PURE)).astype(np.uint8) for k in range(len(self.places))]
        about = [
            cv2.dilate(cv2.morphologyEx(mask, cv2.MORPH_OPEN, SINGLE), np.ones((side, side), np.uint8)) > 0
            for mask in pure
        ]
        return np.array([*about, *(np.ones(own.shape, dtype=bool) for _ in self.strokes)])


def read_flat_colours(picture: F32, seen: F32, coarseness: float, flat_step: float = FLAT_STEP) -> FlatColours:
    """Return the colours of a picture (n, h, w) drawn in flat colours, as far as they fill flat places.

    `seen` is the picture as it was decoded: its colours are not yet drawn together. `coarseness` is about the step, in
    tones × 8, at which its coarse chroma was quantised: the larger it is, the further off may a colour be that is none
    of its own. In a flat place steps to neighbours, all channels added up, are below `flat_step`.
    """
    places = _flat_places(picture, flat_step)
    places = _deep_enough(places, picture, max(APART, MERGING * coarseness))
    return FlatColours(_unbiased(places, picture, seen), np.empty((0, len(picture))))


def compressed_strokes(coarseness: float) -> Strokes:
    """Return what thin strokes may be known by in a picture whose coarse chroma was quantised so coarsely."""
    return Strokes(14.0 + 0.6 * coarseness, 40, CLEAN.same_way)


def with_strokes(colours: FlatColours, picture: F32, known_by: Strokes) -> FlatColours:
    """Return colours with those that only thin strokes of a picture (n, h, w) have."""
    for _ in range(MOST_STROKES):
        found = _stroke_colour(colours, picture, known_by)
        if found is None:
            break
        colours = FlatColours(colours.places, np.concatenate([colours.strokes, found[None]]))
    return colours


def nearest(picture: F32, colours: F64) -> tuple[F32, I64]:
    """Return how far every pixel is from the nearest colour, in tones, and which that is."""
    away, own = np.empty(picture.shape[1:], dtype=np.float32), np.empty(picture.shape[1:], dtype=np.int64)
    listed = np.ascontiguousarray(picture, dtype=np.float32).reshape(len(picture), -1)
    find_nearest(listed, np.ascontiguousarray(colours, dtype=np.float32), away.reshape(-1), own.reshape(-1))
    return away, own


def _flat_places(picture: F32, flat_step: float) -> F64:
    """The colours (k, n) of flat places, the commonest first."""
    steps = np.zeros(picture.shape[1:], dtype=np.float32)
    across, down = np.abs(np.diff(picture, axis=2)).sum(axis=0), np.abs(np.diff(picture, axis=1)).sum(axis=0)
    steps[:, 1:] += across
    steps[:, :-1] += across
    steps[1:] += down
    steps[:-1] += down
    left = picture[:, steps < flat_step].T
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
    return np.array(found).reshape(-1, len(picture))


def _deep_enough(colours: F64, picture: F32, apart: float) -> F64:
    """Colours without those that fill no place deeper than a few pixels, and are near to a commoner one or a mixture
    of two."""
    _, own = nearest(picture, colours)
    kept: list[int] = []
    for k in range(len(colours)):
        if kept and off_mixtures(colours[k], colours[kept]) < apart:
            inner = cv2.erode((own == k).astype(np.uint8), np.ones((2 * DEEP_PX - 1,) * 2, np.uint8))
            if inner.sum() < LEAST_INNER_PX:
                continue
        kept.append(k)
    return colours[kept]


def off_mixtures(colour: F64, others: F64) -> float:
    """How far a colour is from all others and the mixtures of two of them, in tones."""
    ways = others[None] - others[:, None]
    seen = colour - others[:, None]
    share = np.clip((seen * ways).sum(axis=2) / np.maximum((ways**2).sum(axis=2), 1e-9), 0.0, 1.0)
    return float(np.linalg.norm(seen - share[..., None] * ways, axis=2).min())


def _unbiased(colours: F64, picture: F32, seen: F32) -> F64:
    """Colours as they were decoded, away from edges: total variation draws them together."""
    near, own = nearest(picture, colours)
    made = colours.copy()
    for k in range(len(colours)):
        mask = ((own == k) & (near < 12.0)).astype(np.uint8)
        for inset in INNER_PX:
            inner = cv2.erode(mask, np.ones((2 * inset + 1,) * 2, np.uint8)) > 0
            if inner.sum() >= LEAST_INNER_PX:
                made[k] = seen[:, inner].mean(axis=1)
                break
    return made


def _stroke_colour(colours: FlatColours, picture: F32, known_by: Strokes) -> F64 | None:
    """The colour of strokes nowhere as wide as a pixel and its soft edges, (n,), or None.

    Their pixels are mixtures of the ground they lie on with one ink: they go the same way from the ground, and those
    that go furthest are the ink. Where two inks are about, compression may have mixed them, and nothing is read.
    """
    near, own = nearest(picture, colours.all)
    off = np.sqrt(((colours.mixed(picture) - picture) ** 2).sum(axis=0))
    side = 2 * ABOUT_PX - 1
    pure = [((own == k) & (near < PURE)).astype(np.uint8) for k in range(len(colours.places))]
    around = np.array([cv2.dilate(mask, np.ones((side, side), np.uint8)) for mask in pure])
    strange = (off > known_by.off) & (around.sum(axis=0) == 1)
    if strange.sum() < known_by.least_px:
        return None
    ground = around.argmax(axis=0)[strange]
    best: tuple[float, F64] | None = None
    for k in np.unique(ground):
        go_on()
        ways = picture[:, strange].T[ground == k].astype(np.float64) - colours.places[k]
        found = _far_end(ways, known_by)
        if found is not None and (best is None or found[0] > best[0]):
            best = found[0], colours.places[k] + found[1]
    if best is None or nearest(best[1].astype(np.float32)[:, None, None], colours.all)[0].min() < LEAST_CONTRAST:
        return None
    return best[1]


def _support(asked: NDArray[Any], towards: F64, long: F64, same_way: float) -> F64:
    """How long all ways together are that go the same way as each of some."""
    go_on()
    return np.asarray((asked @ towards.T > same_way) @ long)


def _far_end(ways: F64, known_by: Strokes) -> tuple[float, F64] | None:
    """How many ways (m, n) from a ground go the commonest way, and the way to its far end; None if too few do."""
    long = np.linalg.norm(ways, axis=1)
    ways, long = ways[long >= LEAST_CONTRAST], long[long >= LEAST_CONTRAST]
    if len(ways) < known_by.least_px:
        return None
    towards = ways / long[:, None]
    asked: NDArray[Any] = towards[:: max(1, len(towards) // MOST_ASKED)]
    support = np.concatenate([_support(part, towards, long, known_by.same_way) for part in np.array_split(asked, 8)])
    alike = towards @ asked[int(support.argmax())] > known_by.same_way
    if alike.sum() < known_by.least_px:
        return None
    way = ways[alike].sum(axis=0)
    way /= np.linalg.norm(way)
    return float(alike.sum()), way * np.percentile(ways[alike] @ way, FULL_SHARE)
