"""Colours made ready for unmixing."""

from __future__ import annotations

from typing import NamedTuple, Self

import numpy as np

from sobercrow.core.arrays import F32, F64
from sobercrow.core.inks._mixture_kernels import weighed
from sobercrow.core.inks.colour import linear_light, srgb_values

BACK_STEPS = 4096


class Mixer(NamedTuple):
    """Inks as the compiled loops take them.

    Attributes
    ----------
    plain, weighed : (n, 3) float32
        Their colours in sRGB values, and as differences between them are weighed.
    mixed, leaning : (n, 3) float32
        The same in the space where edges were mixed.
    forth : (256,) float32
        The way from sRGB values into that space.
    back : (4096,) float32
        The way from there, 0–1, to sRGB values.
    """

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
        return cls(plain, _weighed(plain), mixed, _weighed(mixed), forth, back)


def _weighed(colours: F32) -> F32:
    return np.asarray(np.array([weighed(*colour) for colour in colours.tolist()], dtype=np.float32))
