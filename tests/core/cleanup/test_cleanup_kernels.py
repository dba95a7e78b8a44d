"""The compiled loops of clean-up against plain NumPy."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
import pytest
from scipy.ndimage import map_coordinates

from sobercrow.core.cleanup._angle_kernels import projection_scores
from sobercrow.core.cleanup._guide_kernels import read_profiles
from sobercrow.core.cleanup._stroke_kernels import polygon_coverage, stroke_coverage
from sobercrow.core.cleanup._tone_kernels import apply_gain, is_grey, mix_channels, shift_tones, take_off_tint
from sobercrow.core.cleanup.pale_lines import PaleLine, take_out
from sobercrow.core.parallel import in_strips
from sobercrow.core.strokes.working_forms import StraightLine

RANDOM = np.random.default_rng(12)
PIXELS = RANDOM.integers(0, 256, (37, 53, 3)).astype(np.uint8)


@pytest.mark.parametrize("channels", [1, 3])
def test_gain_is_bilinear_between_the_middles_of_its_cells(channels: int) -> None:
    gain = RANDOM.uniform(0.7, 1.6, (5, 7))
    pixels = np.ascontiguousarray(PIXELS[..., :channels])
    out = np.empty_like(pixels)
    apply_gain(pixels, np.pad(gain, 1, mode="edge").astype(np.float32), 0, 20, out)
    apply_gain(pixels, np.pad(gain, 1, mode="edge").astype(np.float32), 20, 37, out)
    y, x = np.meshgrid((np.arange(37) + 0.5) * 5 / 37 - 0.5, (np.arange(53) + 0.5) * 7 / 53 - 0.5, indexing="ij")
    fine = map_coordinates(gain, [y, x], order=1, mode="nearest")
    fine = np.minimum(fine, 255.0 / np.maximum(pixels.max(axis=2), 1)) if channels == 3 else fine
    expected = np.minimum(pixels * fine[..., None], 255.0)
    assert np.abs(out - expected).max() <= 0.6


def test_channels_are_mixed_and_shifted_as_written() -> None:
    out = np.empty(PIXELS.shape[:2], np.uint8)
    mix_channels(PIXELS, 0.6, -0.2, 0.6, 0, 37, out)
    assert np.abs(out - np.clip(PIXELS @ np.array([0.6, -0.2, 0.6]), 0, 255)).max() <= 0.5001
    after = RANDOM.integers(0, 256, out.shape).astype(np.uint8)
    shifted = np.empty_like(PIXELS)
    shift_tones(PIXELS, out, after, 0, 37, shifted)
    assert np.array_equal(shifted, np.clip(PIXELS.astype(int) + (after.astype(int) - out)[..., None], 0, 255))


def test_grey_is_told_from_colour_by_a_single_pixel() -> None:
    grey = np.repeat(PIXELS[..., :1], 3, axis=2)
    assert is_grey(grey)
    grey[-1, -1, 2] ^= 1
    assert not is_grey(grey)


def test_strokes_cover_as_oversampling_says() -> None:
    points, half = np.array([(6.3, 8.1), (25.2, 14.7), (30.9, 30.4)]), 3.2
    cover = np.zeros((40, 40), np.float32)
    stroke_coverage(points, half, cover)
    at = (np.arange(400) + 0.5) / 10
    fine = np.full((400, 400), np.inf)
    for a, b in pairwise(points):
        d = b - a
        t = np.clip(((at[None, :] - a[0]) * d[0] + (at[:, None] - a[1]) * d[1]) / (d @ d), 0, 1)
        fine = np.minimum(fine, np.hypot(at[None, :] - a[0] - t * d[0], at[:, None] - a[1] - t * d[1]))
    expected = (fine <= half).reshape(40, 10, 40, 10).mean(axis=(1, 3))
    assert np.abs(cover - expected).max() < 0.2
    assert cover.sum() == pytest.approx(expected.sum(), rel=0.01)


def test_polygons_cover_as_oversampling_says() -> None:
    star = 20 + 17 * np.array([(np.cos(t), np.sin(t)) for t in np.arange(5) * 4 * np.pi / 5 + 0.3])
    cover = np.zeros((40, 40), np.float32)
    polygon_coverage(star, cover)
    at = (np.arange(400) + 0.5) / 10
    inside = np.zeros((400, 400), bool)
    for (ax, ay), (bx, by) in pairwise([*star, star[0]]):  # even-odd
        crosses = (ay <= at) != (by <= at)
        x = ax + (at - ay) / (by - ay) * (bx - ax)
        inside ^= crosses[:, None] & (at[None, :] < x[:, None])
    assert np.abs(cover - inside.reshape(40, 10, 40, 10).mean(axis=(1, 3))).max() < 0.12


def test_projections_pile_up_as_histograms_say() -> None:
    points = RANDOM.uniform(-50, 50, (300, 2))
    directions = RANDOM.uniform(-20, 20, 300)
    angles = np.radians([-10.0, 0.0, 7.0])
    scores = projection_scores(points, directions, angles, 12.0)
    for angle, score in zip(angles, scores, strict=True):
        off = np.abs(directions - np.degrees(angle))
        weight = np.where(off < 12, 1 - off / 12, 0)
        size = int(2 * np.hypot(*points.T).max()) + 6
        across = points[:, 1] * np.cos(angle) - points[:, 0] * np.sin(angle) + size / 2
        low, share = np.floor(across).astype(int), across % 1
        profile = np.bincount(low, weight * (1 - share), size) + np.bincount(low + 1, weight * share, size)
        smooth = np.convolve(profile, [0.25, 0.5, 0.25], "valid")
        assert score == pytest.approx((smooth**2).sum() / 300)


@pytest.mark.parametrize("rows", [1, 299, 300, 1001])
def test_strips_cover_every_row_once(rows: int) -> None:
    seen = np.zeros(rows, int)

    def work(first: int, last: int) -> None:
        seen[first:last] += 1

    in_strips(rows, work)
    assert (seen == 1).all()


def test_tint_is_taken_off_what_is_nearly_paper_alone() -> None:
    tint = np.array([-6, 2, 18])
    tones = RANDOM.integers(0, 256, PIXELS.shape[:2]).astype(np.uint8)
    made = PIXELS.copy()
    take_off_tint(made, tones, tint, 0, 20)
    take_off_tint(made, tones, tint, 20, 37)
    near = np.clip((tones.astype(float) - 190) / (235 - 190), 0, 1)
    expected = np.clip(PIXELS + np.rint(near[..., None] * tint), 0, 255)
    assert np.abs(made - expected).max() <= 1
    assert np.array_equal(made[tones <= 190], PIXELS[tones <= 190])


def test_profiles_along_a_line_are_medians_of_what_is_no_ink() -> None:
    grey = RANDOM.integers(150, 251, (40, 200)).astype(np.uint8)
    grey[18:23, 90:100] = 10  # ink across the line, which is not read
    profiles = read_profiles(grey, np.array([0.0, 20.5]), np.array([200.0, 20.5]), 2, 4, 250.0, 150.0)
    for window, columns in enumerate((np.arange(100), np.arange(100, 200))):
        inked = [x for x in columns if (grey[16:25, max(x - 2, 0) : x + 3] < 100)[:, [0, 2, -1]].any()]
        free = np.setdiff1d(columns, inked)
        dark = 250.0 - np.sort(grey[16:25, free].astype(float), axis=1)[:, ::-1]
        assert profiles[window, :, 0] == pytest.approx(np.maximum(dark[:, len(free) // 2], 0), abs=2.5)
        assert (profiles[window, :, 1] >= 0).all()


def test_a_line_is_lifted_to_paper_and_ink_on_it_keeps_its_share() -> None:
    grey = np.full((30, 120), 240, np.uint8)
    grey[14:16] = 180
    grey[:, 50:60] = 20
    grey[:, 60] = 130  # the soft edge of the ink: half of it
    grey[14:16, 60] = 100  # and half ink, half line, where they cross
    guide = PaleLine(StraightLine(0.0, 15.0, 1.0, 0.0, 0.0, 120.0), 60 / 220)
    made = take_out(grey, grey, (guide,), 240.0, 20.0)
    assert made[14:16, :40].min() >= 238
    assert (made[:, 50:60] == 20).all()
    assert made[14, 60] == pytest.approx(130, abs=8)
    assert np.array_equal(made[:8], grey[:8])
