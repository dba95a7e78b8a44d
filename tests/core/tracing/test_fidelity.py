"""Traced words against their known outlines, in Matplotlib's bundled open typefaces, as `bench/fidelity.py` does it."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from matplotlib import font_manager
from scipy.spatial import cKDTree

from distances import both_ways, sample, true_corners
from drawings import picture
from sobercrow.core.geometry.contour import AnchorKind
from sobercrow.core.job import Job
from sobercrow.core.results import Results
from sobercrow.core.settings import Settings
from words import Word, render, set_word, spoil


def outline(face: str, size: int) -> Word:
    return set_word(Path(font_manager.findfont(face, fallback_to_default=False)), "Kites28", size)


def traced(grey: np.ndarray) -> Results:
    return Job(picture(grey)).run(Settings())


@pytest.mark.parametrize("face", ["DejaVu Sans", "DejaVu Serif", "DejaVu Sans:italic", "STIXGeneral:bold"])
@pytest.mark.parametrize(("dirty", "mean", "p99", "found"), [(False, 0.068, 0.22, 0.97), (True, 0.075, 0.40, 0.95)])
def test_words_of_96_px_keep_to_their_outline(face: str, dirty: bool, mean: float, p99: float, found: float) -> None:
    word = outline(face, 96)
    grey = render(word)
    results = traced(spoil(grey) if dirty else grey)
    contours = [c for shape in results.artwork.shapes for c in shape.contours]
    away = both_ways([c.curves() for c in contours], word.contours)
    assert away.mean() <= mean
    assert np.percentile(away, 99) <= p99
    assert len(contours) == len(word.contours)
    assert results.figures.anchors < 1.1 * word.anchors
    corners = np.concatenate([c.anchors[c.kinds == AnchorKind.CORNER] for c in contours])
    true = np.concatenate([true_corners(c) for c in word.contours])
    assert (cKDTree(corners).query(true)[0] <= 2.0).mean() >= found


def test_the_measure_knows_a_shifted_square() -> None:
    corners = np.array([(0, 0), (40, 0), (40, 40), (0, 40)], float)
    after = np.roll(corners, -1, axis=0)
    square = np.stack([corners, corners + (after - corners) / 3, corners + (after - corners) * 2 / 3, after], axis=1)
    assert both_ways([square], [square]).max() < 0.02
    moved = both_ways([square + np.array((0.5, 0.0))], [square])
    assert moved.max() == pytest.approx(0.5, abs=0.02)
    assert moved.mean() == pytest.approx(0.25, abs=0.03)  # two sides are off, two slide along themselves
    assert cKDTree(true_corners(square)).query(corners)[0].max() < 0.1
    assert len(sample(square, 0.25)) == 640
