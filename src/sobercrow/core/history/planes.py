"""Luma and chroma, blocks and their coefficients, as JPEG has them."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F64, U8

BLOCK = 8
MIDDLE = 128.0
"""Of all samples this is taken off before they are transformed (ITU-T T.81, 1992, A.3.1)."""
TO_LUMA_CHROMA = np.array([[0.299, 0.587, 0.114], [-0.168735892, -0.331264108, 0.5], [0.5, -0.418687589, -0.081312411]])
"""sRGB values to Y, Cb, Cr (ITU-T T.871, 2011, clause 7)."""
TO_RGB = np.linalg.inv(TO_LUMA_CHROMA)


def _basis() -> F64:
    k, n = np.arange(BLOCK)[:, None], np.arange(BLOCK)[None]
    basis = np.cos(np.pi * (2 * n + 1) * k / 16.0) / 2.0
    basis[0] /= np.sqrt(2.0)
    return np.asarray(basis)


BASIS = _basis()
"""The DCT of ITU-T T.81, A.3.3: coefficients are BASIS @ samples @ BASIS.T."""


def luma_chroma_of(pixels: NDArray[Any]) -> F64:
    """Return pixels (h, w) or (h, w, 3) as Y or Y, Cb, Cr, (n, h, w); grey is 128 in both chroma planes."""
    if pixels.ndim == 2:
        return pixels.astype(np.float64)[None]
    planes = np.tensordot(TO_LUMA_CHROMA, pixels.astype(np.float64), (1, 2))
    planes[1:] += MIDDLE
    return np.asarray(planes)


def luma_of(pixels: NDArray[Any]) -> F64:
    """Return pixels (h, w) or (h, w, 3) as Y alone, (h, w)."""
    if pixels.ndim == 2:
        return pixels.astype(np.float64)
    luma = np.zeros(pixels.shape[:2])
    for channel, share in enumerate(TO_LUMA_CHROMA[0]):
        luma += share * pixels[..., channel]
    return luma


def values_of(planes: NDArray[Any]) -> F64:
    """Return Y or Y, Cb, Cr (n, h, w) as sRGB values (h, w) or (h, w, 3), also beyond 0–255."""
    centred = planes.astype(np.float64)
    if len(planes) == 1:
        return np.asarray(centred[0])
    centred[1:] -= MIDDLE
    return np.asarray(np.tensordot(centred, TO_RGB, (0, 1)))


def rgb_of(planes: NDArray[Any]) -> U8:
    """Return Y or Y, Cb, Cr (n, h, w) as pixels (h, w) or (h, w, 3)."""
    return np.asarray(np.clip(np.rint(values_of(planes)), 0, 255), dtype=np.uint8)


def blocks_of(plane: NDArray[Any]) -> NDArray[Any]:
    """Return the whole blocks of a plane, (down, across, 8, 8)."""
    rows, columns = plane.shape[0] // BLOCK, plane.shape[1] // BLOCK
    whole = plane[: rows * BLOCK, : columns * BLOCK]
    return np.asarray(whole.reshape(rows, BLOCK, columns, BLOCK).swapaxes(1, 2))


def coefficients_of(blocks: NDArray[Any]) -> F64:
    """Return the DCT coefficients of blocks (…, 8, 8) of samples."""
    across = np.asarray(blocks - MIDDLE, dtype=np.float64).reshape(-1, BLOCK) @ BASIS.T
    down = across.reshape(*blocks.shape).swapaxes(-1, -2).reshape(-1, BLOCK) @ BASIS.T
    return np.asarray(down.reshape(*blocks.shape).swapaxes(-1, -2))


def samples_of(coefficients: NDArray[Any]) -> F64:
    """Return the samples of blocks (…, 8, 8) of DCT coefficients."""
    return np.asarray(BASIS.T @ coefficients @ BASIS + MIDDLE, dtype=np.float64)


def downsampled(plane: F64, every: tuple[int, int]) -> F64:
    """Return the samples from which a plane was made larger, two pixels or one for each sample down and across.

    Decoders lead between samples by weights of three quarters and one (the triangle filter of the Independent JPEG
    Group's library); this inverts it by least squares.
    """
    for axis, factor in enumerate(every):
        if factor == 2:
            plane = np.moveaxis(_halved(np.moveaxis(plane, axis, 0)), 0, axis)
        elif factor != 1:
            raise ValueError("samples stand for one or two pixels")
    return plane


def _halved(rows: F64) -> F64:
    from scipy.linalg import solveh_banded  # few pictures need it

    full = len(rows) - len(rows) % 2
    count = full // 2
    if count < 2:
        return rows[::2]
    even, odd = rows[0:full:2].reshape(count, -1), rows[1:full:2].reshape(count, -1)
    before, after = np.maximum(np.arange(count) - 1, 0), np.minimum(np.arange(count) + 1, count - 1)
    wanted = 0.75 * (even + odd)
    np.add.at(wanted, before, 0.25 * even)
    np.add.at(wanted, after, 0.25 * odd)
    diagonal = np.full(count, 2 * 0.75**2 + 2 * 0.25**2)
    diagonal[[0, -1]] = 1.0 + 0.75**2 + 0.25**2  # at the ends one sample stands for both
    beside = np.full(count, 2 * 0.75 * 0.25)
    beside[0] = 0.0
    solved = solveh_banded(np.stack([beside, diagonal]), wanted)
    return np.asarray(solved.reshape(count, *rows.shape[1:]))
