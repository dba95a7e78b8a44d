"""Whether soft edges were mixed in sRGB values or in linear light."""

from __future__ import annotations

import numpy as np

from sobercrow.core.arrays import F64, U8
from sobercrow.core.inks.colour import linear_light

REACH = 4
SOFT = 0.06
ENOUGH_EDGES = 200
CLEARLY, WARY = 0.004, 0.02
"""How much more an edge must lean in sRGB values than in linear light: in a clean picture, and more in a dirty one."""
LEAST_CONTRAST = 0.25
"""Edges with less difference in linear light tell nothing."""
TONE = np.array([0.2126, 0.7152, 0.0722])


def is_mixed_in_light(pixels: U8, own: U8, inks: F64, dirt: float) -> bool:
    """Tell whether the edges of a picture look mixed in linear light.

    Along edges that fall at every place between pixels, the soft pixels are mixed half and half on average, whatever
    the blur, as long as it is symmetric. In the wrong space the average leans to the brighter side.
    """
    lean_srgb, lean_light, edges = np.zeros(2), np.zeros(2), 0
    light = linear_light(np.arange(256.0))
    plain, bright = inks @ TONE / 255.0, linear_light(inks) @ TONE
    for turned in (False, True):
        labels = own.T if turned else own
        rows = slice(None, None, max(1, labels.shape[0] // 400))
        labels = labels[rows]
        picture = (pixels.transpose(1, 0, 2) if turned else pixels)[rows]
        if labels.shape[1] < 2 * REACH + 2:
            continue
        here, there = labels[:, REACH - 1 : -REACH], labels[:, REACH : -REACH + 1]
        clean = here != there
        width = here.shape[1]
        for k in range(1, REACH):
            clean &= labels[:, REACH - 1 - k : REACH - 1 - k + width] == here
            clean &= labels[:, REACH + k : REACH + k + width] == there
        clean &= np.abs(bright[here] - bright[there]) > LEAST_CONTRAST
        r, c = np.nonzero(clean)
        if not len(r):
            continue
        a, b = here[r, c], there[r, c]
        window = picture[r[:, None], c[:, None] + np.arange(2 * REACH)[None]]
        for levels, values, sums in (
            (plain, window @ TONE / 255.0, lean_srgb),
            (bright, light[window] @ TONE, lean_light),
        ):
            low, high = np.minimum(levels[a], levels[b]), np.maximum(levels[a], levels[b])
            share = (values - low[:, None]) / (high - low)[:, None]
            soft = (share > SOFT) & (share < 1.0 - SOFT)
            ends = share[:, [0, -1]]
            soft &= ((ends.min(axis=1) <= SOFT) & (ends.max(axis=1) >= 1.0 - SOFT))[:, None]  # else a side is cut off
            sums += share[soft].sum(), soft.sum()
        edges += len(r)
    if edges < ENOUGH_EDGES or lean_srgb[1] < ENOUGH_EDGES or lean_light[1] < ENOUGH_EDGES:
        return False
    leaning, off_light = lean_srgb[0] / lean_srgb[1] - 0.5, abs(lean_light[0] / lean_light[1] - 0.5)
    return bool(off_light + CLEARLY + WARY * min(dirt, 1.0) < leaning)
