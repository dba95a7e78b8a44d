"""Colours to grey by a mix of channels, and the mix that parts ink from paper best."""

from __future__ import annotations

import numpy as np

from sobercrow.core.arrays import F64, U8
from sobercrow.core.cleanup._tone_kernels import mix_channels
from sobercrow.core.parallel import in_strips
from sobercrow.core.settings import GreyMix

SAMPLES = 20_000
INK_STRENGTH = 0.6
"""Colours this far from the paper, relative to the furthest, are ink; the paler ones, such as pencil, are not."""


def mixed(pixels: U8, mix: GreyMix) -> U8:
    """Return pixels (h, w, 3) as tones (h, w) by a mix of channels."""
    result = np.empty(pixels.shape[:2], dtype=np.uint8)
    shares = mix.shares
    in_strips(pixels.shape[0], lambda first, last: mix_channels(pixels, *shares, first, last, result))
    return result


def automatic_mix(pixels: U8) -> GreyMix:
    """Return the mix of channels in which ink stands out most from paper and from everything paler.

    Colours far from the paper are ink, all others are not; the mix is the direction that parts the two groups best
    for their spread (Fisher 1936, "The use of multiple measurements in taxonomic problems").
    """
    height, width = pixels.shape[:2]
    every = max(1, int((height * width / SAMPLES) ** 0.5))
    colours: F64 = pixels[::every, ::every].reshape(-1, 3).astype(np.float64)
    bright = colours.sum(axis=1)
    paper = np.median(colours[bright >= np.median(bright)], axis=0)
    away = np.linalg.norm(colours - paper, axis=1)
    furthest = float(np.percentile(away, 99.7))
    noise = float(np.percentile(away, 50))
    ink = away > max(INK_STRENGTH * furthest, noise + 8.0)
    other = away < 0.85 * INK_STRENGTH * furthest  # between the two lie blurred edges of ink
    if ink.sum() < 8 or other.sum() < 8:
        return GreyMix()
    return _best_direction(colours[ink], colours[other], paper)


def _best_direction(ink: F64, other: F64, paper: F64) -> GreyMix:
    best, best_score = GreyMix(), -np.inf
    pencil = other[np.linalg.norm(other - paper, axis=1) > 16.0]  # few pixels, yet they must vanish
    steps = np.arange(-4, 11)
    for red in steps:
        for green in steps:
            blue = 6 - red - green
            if not -4 <= blue <= 10:
                continue
            shares = np.array([red, green, blue]) / 6.0
            apart = float((paper - ink.mean(axis=0)) @ shares)
            rest = float(np.mean(np.abs((pencil - paper) @ shares))) if len(pencil) >= 8 else 0.0
            spread = float(np.std(ink @ shares) + 2.0 * np.std(other @ shares)) + 2.0
            # a mix far from plain light raises the noise of the channels
            score = (apart - 1.5 * rest) / (spread + 6.0 * float(np.abs(shares).sum() - 1.0))
            if apart > 0 and score > best_score:
                best_score, best = score, GreyMix(*(float(round(100.0 * s)) for s in shares))
    return best
