"""Rough sketches on paper that was not kept well, and by other means than a pencil, become the same lines."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.spatial import cKDTree

from paper_scenes import PAPERS
from sketch_scenes import MEASURED, Hand, sketched
from sobercrow.core.arrays import U8
from sobercrow.core.cleanup.clean import clean
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import CleanUp, PictureKind
from sobercrow.core.sketch.one_line import meant_lines
from sobercrow.core.sketch.reading import read_sketch


def scanned(tones: np.ndarray) -> U8:
    """What clean-up makes of a scan of a sheet."""
    seen = np.clip(tones, 0, 255).astype(np.uint8)
    return clean(Picture(np.dstack([seen] * 3), 200.0), CleanUp(kind=PictureKind.SCAN)).pixels[..., 1]


@pytest.mark.parametrize("paper", sorted(PAPERS))
def test_the_lines_of_a_star_are_found_whatever_the_paper(paper: str) -> None:
    sketch = sketched(MEASURED["star"](), Hand(3.0), 4)
    reading = read_sketch(scanned(PAPERS[paper](sketch.grey.astype(np.float64), np.random.default_rng(4))))
    lines = meant_lines(reading, reading.strays_px)
    assert 2 <= len(lines) <= 4
    meant = np.vstack([line.points for line in sketch.lines])
    made = np.vstack([line.points for line in lines]) * reading.reduction
    away = cKDTree(meant).query(made)[0]
    assert away.mean() < 0.6 * sketch.spread
    assert (away > 2.5 * sketch.spread).mean() < 0.02
    assert (cKDTree(made).query(meant)[0] < 2.0 * sketch.spread).mean() > 0.97


def test_grain_of_pale_paper_is_no_stroke_and_strays_are_read_all_the_same() -> None:
    sketch = sketched(MEASURED["glasses"](), Hand(3.0), 6)
    reading = read_sketch(scanned(PAPERS["pale on grey"](sketch.grey.astype(np.float64), np.random.default_rng(6))))
    meant = cKDTree(np.vstack([line.points for line in sketch.lines]))
    assert (meant.query(reading.strokes.points)[0] < 2.5 * sketch.spread).mean() > 0.85
    assert 2 / 3 < reading.strays_px / sketch.spread < 4 / 3
    assert reading.is_rough
