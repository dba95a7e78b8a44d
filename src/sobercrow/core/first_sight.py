"""The settings a picture starts with: what its first result, in the window and on the command line, is made with."""

from __future__ import annotations

from dataclasses import replace

from sobercrow.core.inspect.kind import suggested_recipe
from sobercrow.core.job import Job
from sobercrow.core.settings import Inks, PictureKind, Settings

DRAFT_PIXELS = 140_000
"""A draft has so many pixels: enough for a quick look, and to tell which recipe suits."""


def first_settings(job: Job, asked: Settings = Settings()) -> Settings:  # noqa: B008
    """Return settings with the recipe that suits the picture, for what is traced from `asked`.

    Inks that were asked for stay as they are.
    """
    recipe = suggested_recipe(*job.parted(asked, DRAFT_PIXELS), job.nature().kind is PictureKind.DIGITAL)
    inks, tracing = recipe.applied_to(asked.inks, asked.tracing)
    return replace(asked, inks=inks if asked.inks == Inks() else asked.inks, tracing=tracing)
