"""Coloured pencil told apart from graphite and ink by its hue, and left out beneath them.

Pencil takes away light: where two lie over each other their densities add up, the logarithms of paper over tone (Beer &
Lambert). Each pixel's density is parted into that of the pencil and a grey one (Ruifrok & Johnston 2001,
"Quantification of histochemical staining by color deconvolution").
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from sobercrow.core.arrays import F32, F64, U8
from sobercrow.core.cleanup.touch_ups import own_colours
from sobercrow.core.errors import SettingError
from sobercrow.core.parallel import in_strips

LEAST_TONE = 4.0
"""Darker tones are taken for this one: their density would be noise."""
PALEST = 0.04
"""Pencil that takes away less light than this cannot be told from paper."""
LEAST_HUE_DEG = 7.0
"""A pencil's densities differ from a grey's by such an angle at least."""
AROUND_PX = 6
GREY = np.full(3, 1.0 / math.sqrt(3.0))
NEAR_SHARE, ALONE_SHARE = 12, 4
"""Of the pixels about a place one in so many is strongly coloured; of those of its hue one in so many lies alone."""
LIKE_STRENGTH, LIKE_COS = 0.5, 0.94
"""A pixel is of the same pencil if its hue is so strong and so near."""
SAMPLES = 400_000


def pencil_at(pixels: U8, x: float, y: float) -> str:
    """Return the colour, like #3b6fb5, of the coloured pencil at a place of a sheet (h, w, 3), px.

    Its hue is read about that place, and how far it is from grey where it lies alone, anywhere on the sheet.

    Raises
    ------
    SettingError
        If there is none within a few pixels, or the sheet has no colours.
    """
    if pixels.ndim == 2:
        raise SettingError("The picture has no colours; coloured pencil cannot be told apart in it.")
    height, width = pixels.shape[:2]
    column, row = (int(min(max(v, 0.0), size - 1.0)) for v, size in ((x, width), (y, height)))
    rows, columns = (slice(max(at - AROUND_PX, 0), at + AROUND_PX + 1) for at in (row, column))
    paper = _paper(pixels)
    near = _density(pixels[rows, columns].reshape(-1, 3), paper)
    hue, strength = _hues(near)
    strong = np.argsort(-strength)[: max(len(near) // NEAR_SHARE, 4)]
    own, full = np.median(hue[strong], axis=0), float(np.median(strength[strong]))
    own_strength = float(np.linalg.norm(own))
    if own_strength < PALEST or _hue_deg(np.median(near[strong], axis=0)) < LEAST_HUE_DEG:
        raise SettingError("There is no coloured pencil here; click on a line in colour.")
    every = max(1, round(math.sqrt(height * width / SAMPLES)))
    everywhere = np.concatenate([near, _density(pixels[::every, ::every].reshape(-1, 3), paper)])
    hue, strength = _hues(everywhere)
    alike = (strength > LIKE_STRENGTH * full) & (hue @ (own / own_strength) > LIKE_COS * strength)
    grey = everywhere[alike] @ GREY / strength[alike]
    least = np.argsort(grey)[: max(len(grey) // ALONE_SHARE, 4)]
    density = np.median(everywhere[alike][least], axis=0)
    tones = np.clip(np.rint(paper * np.exp(-np.maximum(density, 0.0))), 0, 255).astype(np.uint8)
    return f"#{tones.tobytes().hex()}"


def without_pencils(pixels: U8, colours: Sequence[str]) -> U8:
    """Return a sheet (h, w, 3) without the coloured pencils of some colours, like #3b6fb5; what lies over them stays.

    Each pixel is taken to have one of them at most: complementary colours over each other are as grey as graphite.

    Raises
    ------
    SettingError
        For a colour that cannot be told from grey.
    """
    paper = _paper(pixels)
    ways = np.array([_way(colour, paper) for colour in colours]).astype(np.float32)
    hues, strengths = _hues(ways)
    towards = (hues / strengths[:, None]).T.astype(np.float32)
    light = paper.astype(np.float32)
    grey, lit = GREY.astype(np.float32), ways @ GREY.astype(np.float32)
    result = np.empty_like(pixels)

    def work(first: int, last: int) -> None:
        part = pixels[first:last]
        density = _density(part.reshape(-1, 3), paper)
        along = density @ towards
        which = along.argmax(axis=1)
        amount = np.maximum(along.max(axis=1), 0.0) / strengths.astype(np.float32)[which]
        # no lighter than paper: colours stored more coarsely than tones reach over the edges of lines
        amount = np.minimum(amount, np.maximum(density @ grey, 0.0) / lit[which])
        left = density - amount[:, None] * ways[which]
        # what is left where there was pencil is grey
        share = np.minimum(amount / PALEST, 1.0)[:, None]
        left += share * ((left @ grey)[:, None] * grey - left)
        result[first:last] = np.clip(np.rint(light * np.exp(-left)), 0, 255).astype(np.uint8).reshape(part.shape)

    in_strips(pixels.shape[0], work)
    return result


def _hues(density: F32) -> tuple[F64, F64]:
    """What of densities (n, 3) is not grey, and how much that is."""
    hue = density.astype(np.float64) - np.outer(density @ GREY, GREY)
    return hue, np.linalg.norm(hue, axis=1)


def _paper(pixels: U8) -> F64:
    return np.maximum(np.array(own_colours(pixels).paper, dtype=np.float64), LEAST_TONE + 1.0)


def _density(pixels: U8, paper: F64) -> F32:
    """How much light pixels (..., 3) take away, as logarithms; below nought where they are lighter than paper."""
    return np.asarray(-np.log(np.maximum(pixels.astype(np.float32), LEAST_TONE) / paper.astype(np.float32)))


def _way(colour: str, paper: F64) -> F64:
    tones = np.frombuffer(bytes.fromhex(colour[1:]), dtype=np.uint8)
    density = _density(tones, paper).astype(np.float64)
    size = float(np.linalg.norm(density))
    if size < PALEST or _hue_deg(density) < LEAST_HUE_DEG:
        raise SettingError(f"{colour} is no colour that can be told from grey.")
    return np.asarray(density / size)


def _hue_deg(density: F64) -> float:
    size = max(float(np.linalg.norm(density)), 1e-9)
    return math.degrees(math.acos(min(float(density @ GREY) / size, 1.0)))
