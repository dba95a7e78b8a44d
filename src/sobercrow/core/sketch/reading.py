"""What a rough sketch holds: strokes of its lines, working lines, shading; how wide strokes are and how they stray."""

from __future__ import annotations

import math
from dataclasses import dataclass

import cv2
import numpy as np

from sobercrow.core.arrays import F32, F64, I64, U8
from sobercrow.core.sketch.shading import find_shading, points_of
from sobercrow.core.sketch.strays import find_straying
from sobercrow.core.strokes.strokes import Strokes, darkness, single_strokes, smaller, stroke_width, usual_darkness
from sobercrow.core.strokes.working_forms import Sought, WorkingForm
from sobercrow.core.strokes.working_lines import find_working_lines
from sobercrow.core.tracing.budget import afford_fitting

BROAD_PX, READ_PX = 5.0, 3.0
"""A picture whose strokes are wider than the former is read at a size at which they are about as wide as the latter."""
FAINTEST, DARKEST = 0.3, 1.5
"""A stroke counts by its darkness, but no less and no more than this times the usual."""
UNEVEN, MOST_STRAYS = 1.28, 2.5
"""A drawing is rough if its lines are so many times as broad in places as a single stroke, and no more than this many
stroke widths: of broad letters the edges are taken for strokes."""
FAINT, LEAST_WORKING = 0.55, 0.2
"""A working line is no darker than this share of the drawing's lines, and so long, as a share of the diagonal."""
BESIDE_PX = 5
INKED = 0.1
MOST_SOLID, FULL, MIDDLE = 0.7, 0.85, 0.4
"""Of ink more than the former is within the second of the darkest, in the middle of what is within the third."""
GRAIN_LENGTH, GRAIN_TONE = 2.5, 0.5
"""Grain of paper looks like strokes shorter than so many of their widths, and no darker than this share of lines."""
MOST_STROKES = 0.025
"""And if its strokes are long: so many at most for each of their points."""


@dataclass(frozen=True, slots=True, eq=False)
class SketchReading:
    """A sketch as it was read, in pixels of the size it was read at.

    Attributes
    ----------
    strokes : Strokes
        Single strokes of the drawing's lines.
    weights : (n,) float64
        How much each of their points counts.
    working, shading : Strokes
        Those of working lines and of shading.
    forms : tuple of StraightLine, Ellipse or Freehand
        The working lines.
    patches : int
        How many patches of shading there are.
    width_px, strays_px : float
        How wide single strokes are, and how far those of one line stray from it.
    reduction : float
        How much smaller it was read than it is.
    """

    strokes: Strokes
    weights: F64
    working: Strokes
    shading: Strokes
    forms: tuple[WorkingForm, ...]
    patches: int
    width_px: float
    strays_px: float
    reduction: float
    unevenness: float = 1.0
    """How many times as broad as a single stroke lines are where they are broad."""
    solid: float = 0.0
    """How much of the middle of strokes is about as dark as the darkest: all of ink, less than half of pencil."""

    @property
    def is_rough(self) -> bool:
        """Whether lines were gone over several times, in pencil: ink swells without."""
        pieces = self.strokes.count > MOST_STROKES * len(self.strokes)
        strays = self.strays_px < MOST_STRAYS * max(self.width_px, READ_PX)
        return self.unevenness > UNEVEN and strays and not pieces and self.solid < MOST_SOLID


def without_grain(strokes: Strokes, width_px: float) -> Strokes:
    """Return strokes without short, pale ones: grain of the paper. Strokes are about so wide."""
    if not len(strokes):
        return strokes
    length = np.bincount(strokes.stroke)
    tone = np.bincount(strokes.stroke, strokes.dark) / length
    is_grain = (length < GRAIN_LENGTH * width_px) & (tone < GRAIN_TONE * usual_darkness(strokes))
    return strokes.only(~is_grain[strokes.stroke])


def weights_of(strokes: Strokes) -> F64:
    """Return how much each point of a drawing's strokes counts: by its darkness."""
    return np.clip(strokes.dark / max(usual_darkness(strokes), 1e-6), FAINTEST, DARKEST)


def read_sketch(grey: U8) -> SketchReading:
    """Return what a sketch (h, w) holds; strokes are darker than the paper around.

    Raises
    ------
    BudgetError
        If it has so many strokes that it must be mostly grain.
    """
    width = stroke_width(grey)
    reduction = width / READ_PX if width > BROAD_PX else 1.0
    if reduction > 1.0:
        grey = smaller(grey, reduction)
        width = stroke_width(grey)
    dark = darkness(grey, width)
    every = single_strokes(dark, width)
    afford_fitting([every.points])
    every = without_grain(every, width)
    diagonal, faint = math.hypot(*grey.shape), FAINT * usual_darkness(every)
    over = cv2.dilate((dark > faint).astype(np.uint8), np.ones((BESIDE_PX, BESIDE_PX), np.uint8)) > 0
    on_forms, forms = find_working_lines(every, Sought(diagonal, width, LEAST_WORKING * diagonal, over), faint)
    working, drawn = every.only(on_forms), every.only(~on_forms)
    patches: list[I64] = find_shading(drawn, usual_darkness(drawn), width)
    shaded = points_of(drawn, patches)
    shading, drawn = drawn.only(shaded), drawn.only(~shaded)
    weights = weights_of(drawn)
    others = np.concatenate([working.points, shading.points])
    straying = find_straying(dark, drawn, weights, others, width)
    return SketchReading(
        drawn,
        weights,
        working,
        shading,
        tuple(forms),
        len(patches),
        width,
        straying.px,
        reduction,
        straying.unevenness,
        _solid(dark),
    )


def _solid(dark: F32) -> float:
    """How much of the middle of strokes is about as dark as the darkest, by the darkness (h, w) of a sheet."""
    inked = dark[dark > INKED]
    if not len(inked):
        return 0.0
    darkest = float(np.percentile(inked, 98.0))
    middle = cv2.erode((dark > MIDDLE * darkest).astype(np.uint8), np.ones((3, 3), np.uint8)) > 0
    return float((dark[middle] > FULL * darkest).mean()) if middle.any() else 0.0
