"""What kind of picture it is: a digital graphic, a scan, a photo of paper, or shaded artwork. With the evidence.

Light, tones and dirt are things of paper. A digital graphic has none of them: its colours are kept as they are.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Self

import cv2
import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F32, U8
from sobercrow.core.cleanup.find_sheet import find_sheet
from sobercrow.core.cleanup.light import LEAST_PAPER, Light, even_out, read_light
from sobercrow.core.picture.picture import grey_of, in_colours
from sobercrow.core.settings import PictureKind

Flags = NDArray[np.bool_]

MOST_PIXELS = 700_000
COLOUR_PIXELS = 200_000
EDGE = 12
"""Tones that differ by more than this within 3 × 3 pixels lie on an edge."""
FAINT_EDGE, MOSTLY_FLAT = 3, 0.6
"""Flat colours that differ by less show where even fainter edges leave so much of what was without an edge."""
RINGING_PX = 3.0
"""So far beside an edge its softness ends."""
DEEP_PX = 10.0
"""So far from an edge compression in blocks of 8 × 8 pixels has left flat places as they were."""
LEAST_DEEP = 0.01
QUIET_DEEP, QUIET_NEAR = 0.97, 0.7
"""Shares of neighbours of the very same tone, far from edges and wherever there is none, that say nothing grains."""
QUIETER_DEEP, STIRRED_BESIDE = 0.85, 1.6
"""A lesser share will do if there is so many times as much unrest beside edges: grain is everywhere."""
NOTHING_STIRS = 0.985
"""From this share on, of all places without an edge, a picture was never compressed nor scanned."""
GRAIN_PIXELS, NOWHERE_FLAT, GRAINY = 10_000, 1e-3, 0.12
"""A picture of at least so many pixels, less of which than this share are away from edges, grains all over if so few
of its neighbours have the very same tone."""
MOST_DRIFT = 1.0
"""By so many tones the largest flat place of a digital graphic may change over a sixth of the picture."""
BLOCKS, LAG = 48, 8
FILLED = 0.6
CELL = 8
TWO_TONES = 10.0
"""Flat colours whose channels differ by more than this are two."""
WORTH_COUNTING = 0.004
"""A flat colour that holds less of the flat places is left out of account."""
NEUTRAL = 18.0
"""An ink whose channels differ by less than this from what dark grey would have on this paper is without colour."""
COLOURED = 40.0
"""A ground whose channels differ by more than this is no paper."""
PLAIN, DARK, WHITE = 14.0, 96.0, 225.0
"""Black of a digital graphic: its channels differ by less than this, and are no lighter; and its white no darker."""
OFF_THE_LINE = 30.0
"""Channels may lie so far off the way from paper to ink before it counts as another colour."""
SECOND_INK = 0.012
"""A share of the inked pixels, more of which are of another colour or tone than the ink's, is a second ink."""
MIDDLING = (0.22, 0.72)
"""Flat places between these shares of the ink are neither paper nor ink."""


@dataclass(frozen=True, slots=True, eq=False)
class Nature:
    """What kind of picture it is, and why.

    Attributes
    ----------
    kind : PictureKind
    one_ink : bool
        Whether all that is drawn is one dark ink, whatever the tint of its paper.
    quiet : float
        Share of neighbouring pixels, away from edges, that have the very same tone, 0–1.
    drift : float
        By how many tones the largest flat place varies from one side to the other.
    compressed : bool
        Whether edges have ringing around them that flat places have not.
    tinted : bool
        Whether the paper has a tint.
    """

    kind: PictureKind
    one_ink: bool
    quiet: float
    drift: float
    compressed: bool
    tinted: bool


@dataclass(frozen=True, slots=True, eq=False)
class _Evidence:
    """How still a picture is away from its edges.

    How far every pixel is `away` from an edge, in px, what is far enough to be `near` none; the share of neighbours of
    the very same tone deep in flat places and in all of them, and by how much the largest drifts.
    """

    away: F32
    near: Flags
    quiet: float
    limit: float
    still: float
    drift: float

    @classmethod
    def of(cls, grey: U8, edge: int, chroma: U8 | None = None) -> Self:
        """Look at a picture whose edges differ by so many tones, or so much in one of two differences of colour."""
        rise = cv2.morphologyEx(grey, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8))
        if chroma is not None:  # as coarse as compression keeps it
            rises = cv2.morphologyEx(cv2.blur(chroma, (2, 2)), cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8))
            rise = np.maximum(rise, rises.max(axis=2))
        away: F32 = np.asarray(cv2.distanceTransform((rise <= edge).astype(np.uint8), cv2.DIST_L2, 3), np.float32)
        near, deep = away > RINGING_PX, away > DEEP_PX
        still = _stillness(grey, near)
        has_deep = deep.mean() >= LEAST_DEEP
        quiet = _stillness(grey, deep) if has_deep else still
        if grey.size >= GRAIN_PIXELS and near.mean() < NOWHERE_FLAT:
            every = _stillness(grey, np.ones_like(near))
            quiet, still = (every, every) if every < GRAINY else (quiet, still)
        return cls(away, near, quiet, QUIET_DEEP if has_deep else QUIET_NEAR, still, _drift(grey, near))

    @property
    def is_digital(self) -> bool:
        """Whether nothing grains and nothing falls off."""
        stirred_beside = self.quiet >= QUIETER_DEEP and 1.0 - self.still >= STIRRED_BESIDE * (1.0 - self.quiet)
        holds = self.still >= NOTHING_STIRS or self.drift <= MOST_DRIFT
        return (self.quiet >= self.limit or stirred_beside) and holds

    @property
    def never_stirred(self) -> bool:
        """Whether it stands wholly still."""
        return self.quiet >= self.limit and self.still >= NOTHING_STIRS and self.drift <= MOST_DRIFT


def read_nature(pixels: U8) -> Nature:
    """Decide what kind of picture (h, w) or (h, w, 3) it is.

    Away from edges a digital graphic stands still: neighbours have the very same tone, and one flat place has one
    tone from end to end. Compression stirs it, but beside edges only: blocks without an edge keep their mean tone
    (ITU-T T.81, 1992). Paper has grain or noise everywhere, and light that falls off.
    """
    light = read_light(grey_of(pixels))
    part = _middle(pixels)
    grey = grey_of(part)
    chroma = cv2.cvtColor(part, cv2.COLOR_RGB2YCrCb)[..., 1:] if part.ndim == 3 else None
    evidence = _Evidence.of(grey, EDGE, None if chroma is None else np.ascontiguousarray(chroma))
    if not evidence.is_digital:
        faint = _Evidence.of(grey, FAINT_EDGE)
        if faint.never_stirred and faint.near.sum() >= MOSTLY_FLAT * evidence.near.sum():
            evidence = faint
    digital, still = evidence.is_digital, evidence.still
    kind = PictureKind.DIGITAL
    if not digital:
        kind = PictureKind.SHADED
        if light.paper_share >= LEAST_PAPER:
            kind = PictureKind.PHOTO if light.is_uneven else PictureKind.SCAN
        elif pixels.ndim == 3 and find_sheet(pixels) is not None:
            kind = PictureKind.PHOTO
    one_ink, tinted = _inks(_small(pixels), light if kind is PictureKind.PHOTO and light.is_uneven else None, digital)
    if digital:
        one_ink = one_ink and _flat_colours(part, evidence.away > 1.0 if still >= NOTHING_STIRS else evidence.near) <= 2
    else:
        one_ink = one_ink or pixels.ndim == 2
    return Nature(kind, one_ink, evidence.quiet, evidence.drift, digital and still < NOTHING_STIRS, tinted)


def _middle(pixels: U8) -> U8:
    """The middle of a large picture, in its own pixels: noise and blocks are looked at, which reducing would hide."""
    height, width = pixels.shape[:2]
    share = min(1.0, (MOST_PIXELS / (height * width)) ** 0.5)
    tall, wide = max(1, round(share * height)), max(1, round(share * width))
    top, left = (height - tall) // 2, (width - wide) // 2
    return np.ascontiguousarray(pixels[top : top + tall, left : left + wide])


def _small(pixels: U8) -> U8:
    """A picture with its colours, of so many pixels at most as are enough to tell inks by."""
    pixels = in_colours(pixels)
    share = (COLOUR_PIXELS / (pixels.shape[0] * pixels.shape[1])) ** 0.5
    if share >= 1.0:
        return np.ascontiguousarray(pixels)
    size = max(1, round(share * pixels.shape[1])), max(1, round(share * pixels.shape[0]))
    return np.asarray(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA), dtype=np.uint8)


def _stillness(grey: U8, where: np.ndarray) -> float:
    """Share of neighbours with the very same tone; 1 where there are none."""
    across = where[:, 1:] & where[:, :-1]
    down = where[1:] & where[:-1]
    count = int(across.sum() + down.sum())
    same = int((grey[:, 1:] == grey[:, :-1])[across].sum() + (grey[1:] == grey[:-1])[down].sum())
    return same / count if count else 1.0


def _drift(grey: U8, flat: np.ndarray) -> float:
    """By how much the largest flat place changes over so many blocks, across or down, in the median."""
    count, own, stats, _ = cv2.connectedComponentsWithStats(flat.astype(np.uint8), connectivity=4)
    side = max(6, max(grey.shape) // BLOCKS)
    rows, columns = grey.shape[0] // side, grey.shape[1] // side
    if count < 2 or not rows or not columns:
        return 0.0
    largest = 1 + int(stats[1:, cv2.CC_STAT_AREA].argmax())

    def blocks(plane: np.ndarray) -> np.ndarray:
        cut = plane[: rows * side, : columns * side].reshape(rows, side, columns, side)
        return np.asarray(cut.swapaxes(1, 2).reshape(rows, columns, -1))

    inside, tones = blocks(own == largest), blocks(grey).astype(np.float64)
    tones[~inside] = np.nan
    middle = np.full((rows, columns), np.nan)
    full = inside.mean(axis=2) >= FILLED
    middle[full] = np.nanmedian(tones[full], axis=1)
    changes = []
    for moved, still in ((middle[LAG:], middle[:-LAG]), (middle[:, LAG:], middle[:, :-LAG])):
        change = np.abs(moved - still)
        change = change[~np.isnan(change)]
        changes.append(float(np.median(change)) if len(change) else 0.0)
    return max(changes)


def _flat_colours(pixels: U8, flat: np.ndarray) -> int:
    """How many colours flat places have."""
    colours = in_colours(pixels)[flat]
    if not len(colours):
        return 0
    plain = colours.astype(np.int64)
    cells, own, counts = np.unique(plain // CELL @ np.array([65536, 256, 1]), return_inverse=True, return_counts=True)
    means = np.stack([np.bincount(own, plain[:, k], len(cells)) for k in range(3)], axis=1) / counts[:, None]
    kept: list[np.ndarray] = []
    for k in np.argsort(-counts):
        if counts[k] >= WORTH_COUNTING * len(colours) and all(np.abs(means[k] - o).max() > TWO_TONES for o in kept):
            kept.append(means[k])
    return len(kept)


def _inks(pixels: U8, light: Light | None, digital: bool) -> tuple[bool, bool]:
    """Whether one dark ink is all that is drawn, and whether the paper has a tint.

    Once the light is evened out, every pixel of one ink on paper lies on the way from the paper's colour to the ink's,
    but for noise; and no flat place lies between the two. The ink of a digital graphic has to be next to black, and its
    paper next to white: else its colour is meant.
    """
    even = even_out(pixels, light.gain(1.0)) if light is not None else pixels
    calm = cv2.GaussianBlur(even, (0, 0), 0.8).astype(np.float64)
    tone = calm.mean(axis=2)
    low, high = np.percentile(tone, [0.5, 60])
    if high - low < 24.0:
        return bool(np.ptp(np.median(calm.reshape(-1, 3), axis=0)) < COLOURED), False  # next to nothing is drawn
    paper = np.median(calm[tone >= np.percentile(tone, 50)], axis=0)
    dark = tone <= low + 0.15 * (high - low)
    ink = np.median(calm[dark], axis=0)
    way = ink - paper
    tinted = bool(np.ptp(paper) > 6.0)
    if digital and (max(np.ptp(ink), np.ptp(paper)) > PLAIN or ink.mean() > DARK or paper.mean() < WHITE):
        return False, tinted
    grey_ink = paper * (ink.mean() / max(paper.mean(), 1.0))
    if ink.mean() > paper.mean() - 24.0 or np.abs(ink - grey_ink).max() > NEUTRAL + 0.1 * ink.mean():
        return False, tinted
    share = (calm - paper) @ way / (way @ way)
    off = np.abs(calm - paper - share[..., None] * way).max(axis=2)
    inked = share > 0.15
    if not inked.any():
        return True, tinted
    strange = cv2.erode((off > OFF_THE_LINE).astype(np.uint8), np.ones((2, 2), np.uint8)) > 0
    if strange.sum() > SECOND_INK * inked.sum():
        return False, tinted
    span = cv2.morphologyEx(tone.astype(np.float32), cv2.MORPH_GRADIENT, np.ones((5, 5), np.uint8))
    flat = (span < 0.12 * (high - low)) & (share > MIDDLING[0]) & (share < MIDDLING[1])
    flat = cv2.erode(flat.astype(np.uint8), np.ones((2, 2), np.uint8)) > 0
    return bool(flat.sum() <= SECOND_INK * inked.sum()), tinted
