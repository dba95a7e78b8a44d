"""Compile all hot loops once, so that nobody waits for a compiler while working: `python -m sobercrow.core.warm`."""

from __future__ import annotations

import cv2
import numpy as np

from sobercrow.core.arrays import U8
from sobercrow.core.cleanup.guides import Guide, take_out
from sobercrow.core.cleanup.straighten import find_turn
from sobercrow.core.geometry.fit import fit_cubic
from sobercrow.core.inks.error import colour_error
from sobercrow.core.job import Job
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import (
    CleanUp,
    GreyMix,
    InkForm,
    InkKind,
    Inks,
    InkTool,
    InkTouchUp,
    Meet,
    Settings,
    TouchForm,
    TouchTool,
    TouchUp,
    TraceKind,
    Tracing,
)


def warm() -> None:
    """Run every step on a small drawing, a ring and a bar, and all of clean-up on it in colours."""
    grey = _drawing()
    coloured = (grey[..., None] * np.array([0.95, 0.9, 0.8])).astype(np.uint8)
    for drawing in (grey, cv2.GaussianBlur(grey, (0, 0), 1.0)):
        Job(Picture(np.repeat(drawing[..., None], 3, axis=2), 300.0)).run(Settings())
    corners = ((20.0, 20.0), (60.0, 20.0), (40.0, 70.0))
    touch_ups = tuple(TouchUp(TouchTool.NIB, form, corners) for form in (TouchForm.FREEHAND, TouchForm.POLYGON))
    for mix in (None, GreyMix()):
        clean_up = CleanUp(light=100.0, stains=50.0, smooth=50.0, mix=mix, touch_ups=touch_ups)
        Job(Picture(coloured, 300.0)).run(Settings(clean_up=clean_up))
    Job(Picture(np.repeat(grey[..., None], 3, axis=2), 300.0)).run(
        Settings(tracing=Tracing(kind=TraceKind.CENTRE_LINES, keep_areas=False))
    )
    _warm_inks(grey)
    for pixels in (grey, coloured):
        take_out(pixels, grey, (Guide((5.0, 10.0), (170.0, 12.0), 0.3),), 255.0, 0.0)
    find_turn(grey)
    fit_cubic(np.column_stack([np.linspace(0, 9, 8), np.sqrt(np.linspace(0, 9, 8))]))


def _warm_inks(grey: U8) -> None:
    """Part a drawing in three dirty colours, with a stroke and a spot to be mended."""
    pixels = np.repeat(grey[..., None], 3, axis=2)
    pixels[20:50, 120:160] = (200, 60, 40)
    pixels[60:62, 5:170] = (40, 90, 200)
    pixels[50:80, 120:160] = (230, 190, 60)
    pixels = np.clip(pixels + np.random.default_rng(1).normal(0, 5, pixels.shape), 0, 255).astype(np.uint8)
    touch_ups = (
        InkTouchUp(InkTool.NIB, InkForm.FREEHAND, ((5.0, 5.0), (50.0, 8.0)), ("#000000",)),
        InkTouchUp(InkTool.SPOT, InkForm.PLACE, ((140.0, 30.0),)),
    )
    inks = Inks(InkKind.SEVERAL, touch_ups=touch_ups, speck_px2=4.0)
    job = Job(Picture(pixels, 300.0))
    job.run(Settings(inks=inks, tracing=Tracing(meet=Meet.FLUSH)))
    results = job.run(Settings(inks=inks))
    colour_error(results.cleaned.pixels, results.separation.own, results.separation.inks)


def _drawing() -> U8:
    y, x = np.mgrid[:120, :180]
    radius = np.hypot(x - 60, y - 60)
    ink = ((radius < 44) & (radius > 24)) | ((x > 120) & (x < 160) & (y > 20) & (y < 100))
    return np.where(ink, 0, 255).astype(np.uint8)


if __name__ == "__main__":
    warm()
