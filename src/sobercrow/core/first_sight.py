"""The settings a picture starts with: what its first result, in the window and on the command line, is made with."""

from __future__ import annotations

from dataclasses import replace

from sobercrow.core.cleanup.find_sheet import find_sheet, surrounds_paper
from sobercrow.core.errors import BudgetError
from sobercrow.core.inks.separation import OneInk, Separation
from sobercrow.core.inspect.kind import suggested_recipe
from sobercrow.core.job import Job
from sobercrow.core.settings import Inks, PictureKind, Settings, TraceKind
from sobercrow.core.settings.recipes import PENCIL_SKETCH
from sobercrow.core.strokes.strokes import stroke_width

DRAFT_PIXELS = 140_000
"""A draft has so many pixels: enough for a quick look, and to tell which recipe suits."""

MOST_WIDE_PX = 16.0
"""Strokes of a sketch are no wider."""
SPECK_PX2, HOLE_PX2 = 3.0, 1.0
"""Smaller parts of digital graphics, and smaller holes in them, are left out: counters of small letters are hardly
larger."""


def laid_flat(job: Job, asked: Settings) -> Settings:
    """Return settings with the slant of a photographed sheet undone, if it is surely one and nothing else is asked."""
    clean_up = asked.clean_up
    untouched = clean_up.slant is None and clean_up.crop is None and "slant" not in clean_up.off
    if not untouched or (clean_up.kind or job.nature().kind) not in (PictureKind.PHOTO, PictureKind.SHADED):
        return asked
    corners = find_sheet(job.source.pixels)
    if corners is None or not surrounds_paper(job.source.pixels, corners):
        return asked
    return replace(asked, clean_up=replace(clean_up, slant=corners))


def _may_be_sketch(separation: Separation, reduction: float) -> bool:
    """Tell whether a picture of one ink has thin strokes."""
    return isinstance(separation, OneInk) and stroke_width(separation.grey) * reduction <= MOST_WIDE_PX


def _is_rough(job: Job, settings: Settings) -> bool:
    """Tell whether lines were gone over several times; what has too many strokes to be read is none."""
    try:
        return job.sketch(settings).is_rough
    except BudgetError:
        return False


def first_settings(job: Job, asked: Settings = Settings()) -> Settings:  # noqa: B008
    """Return settings with the recipe that suits the picture, for what is traced from `asked`.

    Inks that were asked for stay as they are. In a digital graphic what is small was drawn so.
    A photo of a sheet that is surely found is laid flat. What was drawn by thin strokes, going over its lines several
    times, is drawn as one line.
    """
    asked = laid_flat(job, asked)
    digital = job.nature().kind is PictureKind.DIGITAL
    separation, reduction = job.parted(asked, DRAFT_PIXELS)
    recipe = suggested_recipe(separation, reduction, digital)
    pencil, _ = PENCIL_SKETCH.applied_to(asked.inks, asked.tracing)
    rough = not digital and _may_be_sketch(separation, reduction) and _is_rough(job, replace(asked, inks=pencil))
    recipe = PENCIL_SKETCH if rough else recipe
    inks, tracing = recipe.applied_to(asked.inks, asked.tracing)
    if recipe is PENCIL_SKETCH and not rough:
        tracing = replace(tracing, kind=TraceKind.OUTLINES, true_shapes=False)
    if digital and tracing.speck_px2 is None:
        tracing = replace(tracing, speck_px2=SPECK_PX2)
    if digital and tracing.hole_px2 is None:
        tracing = replace(tracing, hole_px2=HOLE_PX2)
    return replace(asked, inks=inks if asked.inks == Inks() else asked.inks, tracing=tracing)
