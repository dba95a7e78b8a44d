"""Evening out the light: the paper as a smooth surface, and what brings it to one tone."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np

from sobercrow.core.arrays import F64, U8
from sobercrow.core.cleanup._tone_kernels import apply_gain
from sobercrow.core.parallel import in_strips
from sobercrow.core.picture.picture import coarse

CELLS = 48
"""Cells along the longer side in which the paper's tone is read."""
SAMPLES_A_CELL = 12
ROUNDS = 7
SWEEPS = 4
TINY = 1e-9
"""Keeps the bowl's equations solvable where nearly everything is ink."""
STIFFNESS = 40.0
"""How little the surface bends at the end: waves shorter than a third of the sheet are not followed."""
LEAST_PAPER = 0.3
"""With less paper than this the light cannot be told from the drawing."""
EVEN_ENOUGH = 0.035
"""Paper that varies by less than this, relative to its brightest, is left alone by the automatic choice."""
DARKEST_PAPER = 0.12
"""Paper is never taken for darker than this, relative to its brightest: beyond it only noise would be raised."""


@dataclass(frozen=True, slots=True, eq=False)
class Light:
    """The light on a sheet.

    Attributes
    ----------
    paper : (rows, columns) float64
        Tone of the paper, 0–255, in cells that cover the sheet evenly.
    brightest : float
        Tone the paper is brought to.
    paper_share : float
        Share of the sheet that is paper for certain, 0–1.
    """

    paper: F64
    brightest: float
    paper_share: float

    @property
    def fall_off(self) -> float:
        """How much darker the darkest paper is than the brightest, 0–1."""
        return float(1.0 - np.percentile(self.paper, 2) / self.brightest)

    @property
    def is_uneven(self) -> bool:
        """Tell whether the light falls off by enough to be worth evening out, and there is paper to tell it by."""
        return self.paper_share >= LEAST_PAPER and self.fall_off > EVEN_ENOUGH

    @property
    def darkest_side(self) -> str:
        """Where the light falls off to: to the left, to the right, to the top, to the bottom, or to the corners."""
        rows, columns = self.paper.shape
        across = self.paper.mean(axis=0)
        down = self.paper.mean(axis=1)
        third_x, third_y = max(columns // 4, 1), max(rows // 4, 1)
        left_right = across[-third_x:].mean() - across[:third_x].mean()
        top_bottom = down[-third_y:].mean() - down[:third_y].mean()
        if max(abs(left_right), abs(top_bottom)) < 0.35 * self.fall_off * self.brightest:
            return "in parts"
        if abs(left_right) >= abs(top_bottom):
            return "to the left" if left_right > 0 else "to the right"
        return "to the top" if top_bottom > 0 else "to the bottom"

    def gain(self, strength: float) -> F64:
        """Return by how much tones are multiplied, in the same cells, for a strength of 0–1."""
        return np.asarray((self.brightest / self.paper) ** strength)


def read_light(grey: U8) -> Light:
    """Estimate the paper's tone over a sheet, (height, width) uint8.

    In each cell the paper is the bright part of what is there. A smooth surface is laid over the cells by robust
    smoothing (Garcia 2010, "Robust smoothing of gridded data in one and higher dimensions with missing values"), its
    weights made one-sided as in asymmetric least squares (Eilers & Boelens 2005), so that ink does not pull it down.
    """
    height, width = grey.shape
    longest = max(height, width)
    rows, columns = (max(4, round(CELLS * n / longest)) for n in (height, width))
    size = columns * SAMPLES_A_CELL, rows * SAMPLES_A_CELL
    small = cv2.resize(coarse(grey, longest // (2 * max(size))), size, interpolation=cv2.INTER_AREA)
    cells = small.reshape(rows, SAMPLES_A_CELL, columns, SAMPLES_A_CELL).swapaxes(1, 2).reshape(rows, columns, -1)
    darkest, middle = -SAMPLES_A_CELL * 4, -SAMPLES_A_CELL * 2  # of the third that is brightest
    ranked = np.partition(cells, (darkest, middle, -1), axis=2)
    tones = ranked[..., middle].astype(np.float64)
    spread = np.maximum(ranked[..., -1] - ranked[..., darkest].astype(np.float64), 1.0)
    paper, share = _upper_surface(tones, 1.0 / (1.0 + (spread / 6.0) ** 2))
    brightest = float(np.percentile(paper, 98))
    return Light(np.clip(paper, DARKEST_PAPER * brightest, 255.0), max(brightest, 1.0), share)


def _cosines(n: int) -> F64:
    """The orthonormal cosine transform of n numbers as a matrix (Ahmed, Natarajan & Rao 1974)."""
    waves = np.sqrt(2.0 / n) * np.cos(np.pi * np.outer(np.arange(n), 2 * np.arange(n) + 1) / (2 * n))
    waves[0] = np.sqrt(1.0 / n)
    return np.asarray(waves)


def _upper_surface(tones: F64, trust: F64) -> tuple[F64, float]:
    """Lay a smooth surface over the upper tones of a grid; return it and the share of cells that lie on it.

    A bowl (a polynomial of second degree) holds the main fall of the light, a smooth rest what it leaves. The surface
    begins stiff and takes in cells well below it; round by round it becomes more pliant and stricter, so that shades
    are followed and ink falls away.
    """
    shape = rows, columns = tones.shape
    eigen = (2.0 - 2.0 * np.cos(np.pi * np.arange(rows) / rows))[:, None] + (
        2.0 - 2.0 * np.cos(np.pi * np.arange(columns) / columns)
    )
    # cosine transforms of so few cells are quickest as products of matrices
    down, across = (_cosines(n) for n in (rows, columns))
    calm = cv2.medianBlur(tones.astype(np.float32), 3)
    noise = min(1.4826 * float(np.median(np.abs(tones - calm))) + 0.5, 4.0)
    y, x = np.meshgrid(np.linspace(-1, 1, rows), np.linspace(-1, 1, columns), indexing="ij")
    bowl = np.stack([np.ones_like(x), x, y, x * x, x * y, y * y], axis=-1).reshape(-1, 6)
    surface = np.full_like(tones, np.percentile(tones, 90))
    room = max(0.5 * float(surface[0, 0] - tones.min()), 3.0 * noise)
    weights = trust.copy()
    for turn in range(ROUNDS):
        weighted = bowl * weights.reshape(-1, 1)
        bent = (bowl @ np.linalg.solve(weighted.T @ bowl + TINY * np.eye(6), weighted.T @ tones.ravel())).reshape(shape)
        rest = np.zeros_like(tones)
        damping = 1.0 / (1.0 + STIFFNESS * 4.0 ** (ROUNDS - 1 - turn) * eigen**2)
        for _ in range(SWEEPS):
            waves = down @ (weights * (tones - bent - rest) + rest) @ across.T
            rest = down.T @ (damping * waves) @ across
        surface = bent + rest
        below = surface - tones
        limit = max(room * 0.5**turn, 3.0 * noise)  # well below the surface lies ink; above it, more paper
        ink = 1.0 / (1.0 + np.exp(np.clip(4.0 * (below - limit) / limit, -30, 30)))
        weights = trust * np.where(below > 0, ink, 1.0)
    return np.asarray(surface), float((np.abs(tones - surface) < 4.0 * noise).mean())


def automatic_strength(light: Light) -> float:
    """Return the strength in per cent chosen for a sheet: all or nothing."""
    return 100.0 if light.is_uneven else 0.0


def even_out(pixels: U8, gain: F64) -> U8:
    """Multiply pixels, (height, width) or (height, width, 3), by a gain given in cells; hues stay as they are."""
    result = np.empty_like(pixels)
    planes, out = (pixels, result) if pixels.ndim == 3 else (pixels[..., None], result[..., None])
    grid = np.pad(gain, 1, mode="edge").astype(np.float32)
    in_strips(pixels.shape[0], lambda first, last: apply_gain(planes, grid, first, last, out))
    return result
