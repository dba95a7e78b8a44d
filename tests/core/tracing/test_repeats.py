"""Copies of a part are drawn by one outline, where the picture agrees."""

from __future__ import annotations

import math

import cv2
import numpy as np
import pytest

from drawings import separation
from sobercrow.core.artwork.model import Shape
from sobercrow.core.geometry.forms import Related, Relation
from sobercrow.core.settings import Tracing
from sobercrow.core.tracing.outlines import Trace, trace
from sobercrow.core.tracing.true_shapes import size_of

PART = np.array([(-11, -9), (2, -12), (12, -3), (5, 1), (9, 11), (-4, 9), (-6, 2), (-13, 3)], dtype=float)
PLACES = ((25.3, 26.1), (70.8, 24.7), (27.4, 71.2), (72.5, 70.4))


def parts(turns_deg: tuple[float, ...], stretch: float = 1.0, noise: float = 9.0) -> np.ndarray:
    """Copies of a part at uneven places of the pixels, turned, the last one stretched, with grain; drawn by OpenCV."""
    fine = np.full((16 * 98, 16 * 98), 255, dtype=np.uint8)
    for k, (place, turn) in enumerate(zip(PLACES, np.radians(turns_deg), strict=True)):
        turned = np.array([(math.cos(turn), math.sin(turn)), (-math.sin(turn), math.cos(turn))])
        corners = (PART * ((stretch, 1.0) if k == 3 else (1.0, 1.0))) @ turned + place
        cv2.fillPoly(fine, [np.rint(16.0 * corners - 0.5).astype(np.int32)], 0)
    grey = cv2.GaussianBlur(cv2.resize(fine, (98, 98), interpolation=cv2.INTER_AREA), (0, 0), 0.9).astype(float)
    return np.clip(grey + np.random.default_rng(4).normal(0.0, noise, grey.shape), 0, 255).astype(np.uint8)


def repeats(made: Trace) -> list[Related]:
    return [f.form for f in made.forms if isinstance(f.form, Related) and f.form.relation is Relation.REPEATED]


def legs(shape: Shape) -> np.ndarray:
    anchors = shape.contours[0].anchors
    lengths = np.hypot(*np.diff(anchors, axis=0, append=anchors[:1]).T)
    return np.roll(lengths, -int(lengths.argmax()))


@pytest.mark.parametrize("turns_deg", [(0.0, 0.0, 0.0, 0.0), (0.0, 90.0, 200.0, 37.0)])
def test_copies_are_drawn_alike_turned_or_not_and_nearer_to_the_part_than_each_by_itself(
    turns_deg: tuple[float, ...],
) -> None:
    found = separation(parts(turns_deg))
    made = trace(found, Tracing())
    (alike,) = repeats(made)
    assert alike.count == 4
    own = [legs(shape) for shape in made.artwork.shapes]
    assert all(legs_of == pytest.approx(own[0], abs=1e-6) for legs_of in own[1:])
    refused = Tracing(refused=((alike.x, alike.y, size_of(alike)),))
    alone = trace(found, refused)
    assert repeats(alone)
    true = np.hypot(*np.diff(PART, axis=0, append=PART[:1]).T)
    true = np.roll(true, -int(true.argmax()))
    off = [np.abs(legs(s) - true).mean() for s in alone.artwork.shapes if len(s.contours[0]) == 8]
    assert len(own[0]) == 8
    assert np.abs(own[0] - true).mean() < max(off)


def test_a_part_that_is_longer_than_the_others_is_no_copy() -> None:
    (alike,) = repeats(trace(separation(parts((0.0,) * 4, stretch=1.12, noise=3.0)), Tracing()))
    assert alike.count == 3
