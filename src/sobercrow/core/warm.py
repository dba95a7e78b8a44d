"""Compile all hot loops once, so that nobody waits for a compiler while working: `python -m sobercrow.core.warm`."""

from __future__ import annotations

import numpy as np

from sobercrow.core.geometry.fit import fit_cubic
from sobercrow.core.job import Job
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import Settings


def warm() -> None:
    """Run every step on a small drawing: a ring and a bar."""
    y, x = np.mgrid[:60, :90]
    radius = np.hypot(x - 30, y - 30)
    ink = ((radius < 22) & (radius > 12)) | ((x > 60) & (x < 80) & (y > 10) & (y < 50))
    pixels = np.where(ink, 0, 255).astype(np.uint8)[..., None].repeat(3, axis=2)
    Job(Picture(pixels, 300.0)).run(Settings())
    fit_cubic(np.column_stack([np.linspace(0, 9, 8), np.sqrt(np.linspace(0, 9, 8))]))


if __name__ == "__main__":
    warm()
