"""Which flat colour every place of a halftone was printed in: what was screened is drawn again without its dots.

Averaging dots softens borders and leaves the waves of several screens that lie over each other. Where few flat
colours were printed, each is known by what its dots look like, and every place is given to one of them.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Self

import cv2
import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F32, F64, I64, U8
from sobercrow.core.cleanup.flat_picture import nearest, off_mixtures, read_flat_colours
from sobercrow.core.cleanup.intervals import Progress
from sobercrow.core.cleanup.nature import Nature, read_nature
from sobercrow.core.history.planes import luma_chroma_of
from sobercrow.core.history.screens import Dots, Screen, without_dots
from sobercrow.core.settings import PictureKind

WORKED_PERIOD_PX = 4.0
"""A halftone is worked on with so many pixels for a period of its screen."""
STEPS, GREY_STEPS = 3, 16
"""Dots are told by so many steps of red, green and blue, or of grey."""
SEEN_ANYWHERE = 0.002
"""A share of the pixels of a flat colour that may look like anything."""
INNER_PERIODS = (1.0, 0.7, 0.4, 0.0)
"""Dots of a flat colour are looked at so far inside of it, in periods, as it is deep enough."""
LEAST_INNER_PERIODS2 = 10.0
ROUNDS, RELEARN_AFTER = 8, 4
WORTH, NEIGHBOURS = 0.8, 7.0
"""How much what a pixel looks like counts, and what places about it are taken for."""
NEAR_PERIODS = 0.3
"""They lie so far off, as the deviation of a bell curve;"""
STARTS_SOFT, EDGE_PERIODS = 0.4, 0.25
"""what is averaged is trusted no nearer to its borders, and the edges of what is made are so soft."""
LEAST_PX, APART = 40, 8
"""A flat colour fills so many pixels of what is averaged, and differs so much from others in a channel."""
MOST_COLOURS = 12
NEAR_MIXTURE, DEEP_PX, MOST_DEEP_PX = 40.0, 2, 400
"""A colour so near to a mixture of two others, in tones, with no more pixels so deep inside, may be none."""
LEAST_GAIN = 0.15
"""It is none if pixels that become others look as likely, but for so much in the logarithm."""
FLAT_BLUR_PX, FLAT_STEP, LEAST_FLAT = 1.6, 12.0, 0.2
"""What was printed flat, blurred so much, has at least such a share of places whose steps are so small."""
USUALLY_OFF, FAR_OFF, MOST_FAR_OFF = 3.2, 8.0, 0.08
"""There tones are so far from a flat colour in the median, and only a share of them is further off."""


def read_screened_nature(pixels: U8, screen: Screen) -> Nature:
    """Decide what kind of picture (h, w) or (h, w, 3) was made of dots; see `read_nature`."""
    averaged = without_dots(pixels, screen)
    nature = read_nature(averaged)
    if screen.dots is not Dots.HALFTONE:
        return nature
    if is_printed_flat(averaged):
        return replace(nature, kind=PictureKind.DIGITAL, one_ink=False)
    return replace(nature, kind=PictureKind.SHADED) if nature.kind is PictureKind.DIGITAL else nature


def is_printed_flat(averaged: U8) -> bool:
    """Tell whether a picture (h, w) or (h, w, 3) whose dots were averaged was drawn in flat colours.

    Away from edges tones then lie close to one of few colours; those of photographs and shades lie between them.
    """
    blurred = np.asarray(cv2.GaussianBlur(averaged, (0, 0), FLAT_BLUR_PX), dtype=np.uint8)
    planes = luma_chroma_of(blurred).astype(np.float32)
    rise = cv2.morphologyEx(blurred, cv2.MORPH_GRADIENT, np.ones((3, 3), np.uint8))
    flat = (rise if rise.ndim == 2 else rise.max(axis=2)) <= FLAT_STEP
    if flat.mean() < LEAST_FLAT:
        return False
    colours = read_flat_colours(planes, planes, 0.0).places
    if not 1 <= len(colours) <= MOST_COLOURS:
        return False
    off = nearest(planes, colours)[0][flat]
    return bool(np.median(off) <= USUALLY_OFF and np.mean(off > FAR_OFF) <= MOST_FAR_OFF)


def without_screen(pixels: U8, averaged: U8, screen: Screen, progress: Progress = lambda _share: None) -> U8:
    """Return a halftone (h, w) or (h, w, 3) drawn in its flat colours, at the size of what is `averaged` of it.

    Every pixel is likely to be of a colour as pixels inside of that colour look like it, and places take after those
    about them (mean field of a Potts model; Krähenbühl & Koltun 2011, "Efficient inference in fully connected CRFs with
    Gaussian edge potentials"). A mixture of two colours without which the dots are explained as well is none.
    `averaged` holds the colours: its dots are averaged and its tones drawn together; `progress` may raise to stop it.
    """
    height, width = pixels.shape[:2]
    factor = min(1.0, WORKED_PERIOD_PX / screen.period_px)
    size = max(1, round(factor * width)), max(1, round(factor * height))
    looks = _looks(np.asarray(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA), dtype=np.uint8))
    colours = _commonest(averaged)
    if len(colours) < 2:
        return averaged
    period = factor * screen.period_px

    def placed(colours: F64, number: int) -> _Placed:
        return _Placed.of(looks, averaged, colours, period, lambda: progress(number / (count + 1)))

    count = len(colours)
    found = placed(colours, 0)
    for number, k in enumerate(reversed(range(count)), start=1):
        if len(found.colours) > 2 and _may_be_none(averaged, found.colours, k):
            fewer = placed(np.delete(found.colours, k, axis=0), number)
            if fewer.explains_as_well_as(found, k):
                found = fewer
    soft = cv2.GaussianBlur(found.drawn(), (0, 0), EDGE_PERIODS * period)
    made = cv2.resize(soft, averaged.shape[1::-1], interpolation=cv2.INTER_AREA)
    return np.asarray(np.clip(np.rint(made), 0, 255), dtype=np.uint8)


@dataclass(frozen=True, slots=True, eq=False)
class _Placed:
    """To which colour places belong.

    Attributes
    ----------
    colours : (k, n) float64
    belief : (k, h, w) float32
        How surely every pixel is of each.
    likely : (k, h, w) float32
        The logarithm of how likely pixels of each look like it.
    """

    colours: F64
    belief: F32
    likely: F32

    @classmethod
    def of(cls, looks: I64, averaged: U8, colours: F64, period: float, between: Callable[[], object]) -> Self:
        """Find them, from what is nearest to what is averaged on; `between` rounds may raise to stop it."""
        own = _nearest(averaged, colours).astype(np.uint8)
        large = cv2.resize(own, looks.shape[::-1], interpolation=cv2.INTER_NEAREST)
        belief = np.array([_blurred(large == k, STARTS_SOFT * period) for k in range(len(colours))])
        likely = np.zeros_like(belief)
        for number in range(ROUNDS):
            between()
            if number % RELEARN_AFTER == 0:
                own = belief.argmax(axis=0).astype(np.uint8)
                likely = np.array([_likelihood(looks, own == k, period) for k in range(len(colours))])
            energy = WORTH * likely
            for k, of_one in enumerate(belief):
                energy[k] += NEIGHBOURS * _blurred(of_one, NEAR_PERIODS * period)
            belief = np.exp(energy - energy.max(axis=0))
            belief /= belief.sum(axis=0)
        return cls(colours, belief, likely)

    def explains_as_well_as(self, other: Self, more: int) -> bool:
        """Tell whether it explains all pixels about as well as with one colour `more`, counted as the other has it."""
        own, others = self.belief.argmax(axis=0), other.belief.argmax(axis=0)
        changed = np.where(own >= more, own + 1, own) != others
        gain = np.take_along_axis(other.likely, others[None], 0)[0] - np.take_along_axis(self.likely, own[None], 0)[0]
        return bool(gain[changed].sum() <= LEAST_GAIN * changed.sum())

    def drawn(self) -> F32:
        """Return the picture (h, w) or (h, w, 3)."""
        made = np.tensordot(self.belief, self.colours.astype(np.float32), (0, 0))
        return np.asarray(made[..., 0] if made.shape[-1] == 1 else made, dtype=np.float32)


def _looks(pixels: U8) -> I64:
    """What pixels look like, in few steps; numbered."""
    if pixels.ndim == 2:
        return np.asarray(pixels.astype(np.int64) * GREY_STEPS // 256)
    return np.asarray((pixels.astype(np.int64) * STEPS // 256) @ np.array([STEPS * STEPS, STEPS, 1]))


def _commonest(averaged: U8) -> F64:
    """The colours (k, n) a flat picture holds most of, the commonest first."""
    flat = averaged.reshape(-1, 1 if averaged.ndim == 2 else averaged.shape[2])
    colours, counts = np.unique(flat, axis=0, return_counts=True)
    kept: list[F64] = []
    for k in np.argsort(-counts, kind="stable"):
        if counts[k] < LEAST_PX or len(kept) == MOST_COLOURS:
            break
        colour = colours[k].astype(np.float64)
        if all(np.abs(colour - other).max() > APART for other in kept):
            kept.append(colour)
    return np.array(kept).reshape(-1, flat.shape[1])


def _nearest(averaged: U8, colours: F64) -> I64:
    planes = averaged.astype(np.float32).reshape(*averaged.shape[:2], -1)
    return nearest(np.moveaxis(planes, 2, 0), colours)[1]


def _may_be_none(averaged: U8, colours: F64, k: int) -> bool:
    """Whether a colour is shallow and near to others or a mixture of two."""
    mask = (_nearest(averaged, colours) == k).astype(np.uint8)
    deep = cv2.erode(mask, np.ones((2 * DEEP_PX + 1,) * 2, np.uint8)).sum()
    return bool(deep <= MOST_DEEP_PX and off_mixtures(colours[k], np.delete(colours, k, axis=0)) <= NEAR_MIXTURE)


def _likelihood(looks: I64, mask: NDArray[np.bool_], period: float) -> F32:
    """The logarithm of how likely it is that pixels of a colour look as all do, learnt deep inside of it."""
    plain = mask.astype(np.uint8)
    for periods in INNER_PERIODS:
        reach = round(periods * period)
        inner = cv2.erode(plain, np.ones((2 * reach + 1,) * 2, np.uint8)) > 0
        if inner.sum() >= LEAST_INNER_PERIODS2 * period * period:
            break
    counts = np.bincount(looks[inner], minlength=int(looks.max()) + 1) + SEEN_ANYWHERE * inner.sum() + 1.0
    return np.asarray(np.log(counts / counts.sum()).astype(np.float32)[looks])


def _blurred(plane: NDArray[np.generic], deviation: float) -> F32:
    return np.asarray(cv2.GaussianBlur(plane.astype(np.float32), (0, 0), deviation), dtype=np.float32)
