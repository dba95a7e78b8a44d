"""Which ink every pixel belongs to, and how strongly."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from typing import Self

import numpy as np

from sobercrow.core.arrays import F32, F64, U8, U64
from sobercrow.core.compiled import in_strips
from sobercrow.core.inks._colour_kernels import mark_cells, steps_between, two_nearest
from sobercrow.core.inks._label_kernels import (
    APART_SHARE,
    calm,
    first_labels,
    shares,
    spread_across,
    spread_down,
    unmix,
    weighed,
)
from sobercrow.core.inks.colour import lab_of, linear_light, srgb_values

CELLS = 32**3
BACK_STEPS = 4096
LEAST_NOISE = 3.0
PULL = 0.6
"""What a neighbour of another ink weighs, in units of the colour's likelihood."""
SWEEPS = 3


@dataclass(frozen=True, slots=True, eq=False)
class Labels:
    """A partition of the pixels among inks.

    Attributes
    ----------
    own : (h, w) uint8
        The ink each pixel belongs to.
    second : (h, w) uint8
        The ink it is mixed with; its own where it is pure.
    share : (h, w) uint8
        The share of its own ink, 128–255 for 0.5–1.
    """

    own: U8
    second: U8
    share: U8


@cache
def _cell_labs() -> F64:
    """The middle colour of each of the 32768 cells of 8 × 8 × 8 sRGB values, as L*a*b*."""
    axis = np.arange(32) * 8.0 + 3.5
    r, g, b = np.meshgrid(axis, axis, axis, indexing="ij")
    labs = lab_of(np.stack([r, g, b], axis=-1).reshape(-1, 3))
    return labs


def noise_of(pixels: U8) -> float:
    """Return how much flat colour wavers, as a standard deviation in sRGB values: by the smaller half of the steps."""
    counts = np.zeros(256)
    steps_between(pixels, max(1, pixels.shape[0] // 400), counts)
    total = counts.sum()
    if total == 0:
        return LEAST_NOISE
    middle = float(np.searchsorted(np.cumsum(counts), 0.6 * total))
    return max(LEAST_NOISE, middle)


@dataclass(frozen=True, slots=True, eq=False)
class Mixer:
    """Colours made ready for unmixing: in sRGB values, in the space of mixing, and each weighed; the ways there and back."""

    plain: F32
    weighed: F32
    mixed: F32
    leaning: F32
    forth: F32
    back: F32

    @classmethod
    def of(cls, inks: F64, linear: bool) -> Self:
        """Make colours (n, 3) ready, mixed in linear light or in sRGB values."""
        tones, steps = np.arange(256.0), np.linspace(0.0, 1.0, BACK_STEPS)
        plain: F32 = inks.astype(np.float32)
        mixed: F32 = (linear_light(inks) if linear else inks / 255.0).astype(np.float32)
        forth: F32 = (linear_light(tones) if linear else tones / 255.0).astype(np.float32)
        back: F32 = (srgb_values(steps) if linear else 255.0 * steps).astype(np.float32)
        return cls(plain, weighed_colours(plain), mixed, weighed_colours(mixed), forth, back)

    @property
    def tables(self) -> tuple[F32, F32, F32, F32, F32]:
        """What the loops take."""
        return self.weighed, self.mixed, self.leaning, self.forth, self.back


def part(pixels: U8, members: F64, owner: U8, linear: bool, noise: float) -> Labels:
    """Give every pixel of (h, w, 3) to one of the inks, soft edges unmixed.

    An ink may have several members among the colours (n, 3), at most 64; `owner` (n,) says whose each is.
    """
    if len(members) < 2:
        own = np.zeros(pixels.shape[:2], dtype=np.uint8)
        return Labels(own, own, np.full_like(own, 255))
    mixer = Mixer.of(members, linear)
    own, _near = nearest_members(pixels, mixer, members, noise)
    second, share = np.empty_like(own), np.empty_like(own)
    in_strips(own.shape[0], lambda a, b: shares(pixels, *mixer.tables, owner, a, b, own, second, share))
    return Labels(owner[own], second, share)


def nearest_members(pixels: U8, mixer: Mixer, members: F64, noise: float, sweeps: int = SWEEPS) -> tuple[U8, U64]:
    """Return which member explains each pixel best, and a bit for every member surely near it."""
    height, width = pixels.shape[:2]
    own = np.empty((height, width), dtype=np.uint8)
    bits, across = np.empty((height, width), np.uint64), np.empty((height, width), np.uint64)
    near: U64 = np.empty((height, width), np.uint64)
    nearest, runner = _cell_owners(pixels, members)
    sure, limit = _surely_near(members, noise), int(3 * max(2.5 * noise, 8))
    in_strips(height, lambda a, b: first_labels(pixels, nearest, runner, mixer.plain, sure, limit, a, b, own, bits))
    in_strips(height, lambda a, b: spread_across(bits, a, b, across))
    in_strips(height, lambda a, b: spread_down(across, a, b, near))
    in_strips(height, lambda a, b: unmix(pixels, near, bits, *mixer.tables, noise, a, b, own))
    for _ in range(sweeps):
        in_strips(height, lambda a, b: calm(pixels, near, *mixer.tables, noise, PULL, a, b, own))
    return own, near


def weighed_colours(colours: F32) -> F32:
    """Return colours (n, 3) as differences between them are weighed."""
    return np.array([weighed(*colour) for colour in colours], dtype=np.float32)


def _surely_near(inks: F64, noise: float) -> F32:
    apart = np.linalg.norm(inks[:, None] - inks[None], axis=2)
    np.fill_diagonal(apart, np.inf)
    return np.maximum(APART_SHARE * apart.min(axis=1), noise).astype(np.float32) ** 2


def _cell_owners(pixels: U8, inks: F64) -> tuple[U8, U8]:
    """The inks most and second most like the colours of each cell that occurs, as people see them."""
    used = np.zeros(CELLS, np.uint8)
    in_strips(pixels.shape[0], lambda a, b: mark_cells(pixels, a, b, used))
    nearest, runner = np.zeros(CELLS, np.uint8), np.zeros(CELLS, np.uint8)
    two_nearest(_cell_labs(), lab_of(inks), used, nearest, runner)
    return nearest, runner
