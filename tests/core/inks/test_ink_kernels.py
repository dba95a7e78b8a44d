"""The compiled loops of the inks step against NumPy, SciPy and OpenCV written down a second time."""

from __future__ import annotations

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import ndimage

from sobercrow.core.inks._colour_kernels import count_flat, mark_cells, steps_between, two_nearest
from sobercrow.core.inks._label_kernels import (
    first_labels,
    ink_tones,
    inner_sums,
    mark_crumbs,
    run_beneath,
    settle_seconds,
    spread_across,
    spread_down,
)
from sobercrow.core.inks._mixture_kernels import calm, ink_cost, looked_at, share_of, shares, unexplained, unmix
from sobercrow.core.inks._ridge_kernels import find_ridges
from sobercrow.core.inks.colour import lab_of, linear_light, pairwise_ciede2000, srgb_values
from sobercrow.core.inks.mixer import Mixer

RANDOM = np.random.default_rng(21)
PIXELS = RANDOM.integers(0, 256, (31, 43, 3)).astype(np.uint8)
INKS = np.array([(250.0, 250, 245), (20, 20, 30), (190, 60, 40), (40, 90, 180)])
MIXERS = {linear: Mixer.of(INKS, linear) for linear in (False, True)}
SPACES = pytest.mark.parametrize("linear", [False, True])


def blocky(seed: int, shape: tuple[int, int] = (24, 33), count: int = 4) -> np.ndarray:
    """A label map of small blocks with some single pixels strewn over it."""
    random = np.random.default_rng(seed)
    labels = np.kron(random.integers(0, count, (shape[0] // 3 + 1, shape[1] // 3 + 1)), np.ones((3, 3), int))
    labels = labels[: shape[0], : shape[1]].astype(np.uint8)
    strewn = random.random(shape) < 0.08
    labels[strewn] = random.integers(0, count, int(strewn.sum()))
    return np.ascontiguousarray(labels)


def mixture(p: int, q: int, share: float | np.ndarray, linear: bool) -> np.ndarray:
    """The sRGB values of a share of ink p with ink q."""
    share = np.asarray(share)[..., None]
    if not linear:
        return share * INKS[p] + (1 - share) * INKS[q]
    return srgb_values(share * linear_light(INKS[p]) + (1 - share) * linear_light(INKS[q]))


def weighed(colour: np.ndarray) -> np.ndarray:
    luma = colour @ np.array([0.299, 0.587, 0.114])
    return np.stack([np.sqrt(3) * luma, 0.4 * (colour[..., 2] - luma), 0.4 * (colour[..., 0] - luma)], axis=-1)


def drawn(labels: np.ndarray) -> np.ndarray:
    return np.rint(INKS[labels]).astype(np.uint8)


def cells_of(pixels: np.ndarray) -> np.ndarray:
    return (pixels.astype(np.int64) >> 3) @ np.array([1024, 32, 1])


def test_cells_that_occur_are_marked_and_owned_by_the_most_similar_inks() -> None:
    used = np.zeros(32768, np.uint8)
    mark_cells(PIXELS, 0, 20, used)
    mark_cells(PIXELS, 20, 31, used)
    assert np.array_equal(np.flatnonzero(used), np.unique(cells_of(PIXELS)))
    colours = RANDOM.uniform(0, 255, (200, 3))
    labs, inks = lab_of(colours), lab_of(INKS)
    nearest, runner = np.zeros(200, np.uint8), np.zeros(200, np.uint8)
    two_nearest(labs, inks, np.ones(200, np.uint8), nearest, runner)
    order = np.argsort(pairwise_ciede2000(labs, inks), axis=1)
    assert np.array_equal(nearest, order[:, 0])
    assert np.array_equal(runner, order[:, 1])


def test_steps_between_neighbours_are_counted_by_size() -> None:
    counts = np.zeros(256)
    steps_between(PIXELS, 4, counts)
    rows = PIXELS[2::4].astype(int)
    assert np.array_equal(counts, np.bincount(np.abs(np.diff(rows, axis=1)).max(axis=2).ravel(), minlength=256))


def test_only_flat_colour_is_counted() -> None:
    pixels = drawn(blocky(3))
    pixels[5, 5] += np.uint8(4)
    sums = np.zeros((32768, 4))
    count_flat(pixels, 3, 0, 24, sums)
    steps = [np.abs(np.roll(pixels.astype(int), by, axis) - pixels).max(axis=2) for axis in (0, 1) for by in (-1, 1)]
    flat = (np.max(steps, axis=0) <= 3)[1:-1, 1:-1]
    cells = cells_of(pixels)[1:-1, 1:-1][flat]
    assert flat.any()
    assert np.array_equal(sums[:, 3], np.bincount(cells, minlength=32768))
    for k in range(3):
        assert np.allclose(sums[:, k], np.bincount(cells, pixels[1:-1, 1:-1, k][flat], minlength=32768))


def test_first_labels_take_the_nearer_of_two_inks_and_mark_what_is_sure() -> None:
    cells = np.arange(32768)
    nearest, runner = (cells % 4).astype(np.uint8), ((cells + 1) % 4).astype(np.uint8)
    pixels = np.vstack([PIXELS, drawn(blocky(5, (24, 43)))])
    labels, bits = np.empty(pixels.shape[:2], np.uint8), np.empty(pixels.shape[:2], np.uint64)
    sure = np.full(4, 30.0**2, np.float32)
    first_labels(pixels, nearest, runner, INKS.astype(np.float32), sure, 30, 0, len(pixels), labels, bits)
    away = ((pixels[..., None, :].astype(float) - INKS) ** 2).sum(axis=3)
    pair = np.stack([nearest[cells_of(pixels)], runner[cells_of(pixels)]], axis=-1)
    among = np.take_along_axis(away, pair, axis=2)
    expected = np.take_along_axis(pair, among.argmin(axis=2)[..., None], axis=2)[..., 0]
    assert np.array_equal(labels, expected)
    padded = np.pad(pixels.astype(int), ((1, 1), (1, 1), (0, 0)), mode="edge")
    shifted = [padded[1 + y : len(pixels) + 1 + y, 1 + x : 44 + x] for y, x in ((0, 1), (0, -1), (1, 0), (-1, 0))]
    flat = np.max([np.abs(s - pixels).sum(axis=2) for s in shifted], axis=0) <= 30
    known = flat & (among.min(axis=2) <= 30.0**2)
    assert known.any()
    assert np.array_equal(bits, np.where(known, np.uint64(1) << labels.astype(np.uint64), np.uint64(0)))


def test_bits_spread_three_pixels_each_way() -> None:
    bits = np.where(
        RANDOM.random((31, 43)) < 0.02, np.uint64(1) << RANDOM.integers(0, 63, (31, 43)).astype(np.uint64), 0
    )
    bits = bits.astype(np.uint64)
    across, near = np.empty_like(bits), np.empty_like(bits)
    spread_across(bits, 0, 31, across)
    spread_down(across, 0, 31, near)
    for k in range(63):
        mine = (bits >> np.uint64(k)) & np.uint64(1)
        assert np.array_equal((near >> np.uint64(k)) & np.uint64(1), ndimage.maximum_filter(mine, 7, mode="constant"))


@SPACES
@given(st.permutations(range(4)), st.floats(0.02, 0.98))
def test_a_mixture_gives_back_its_share(linear: bool, order: list[int], share: float) -> None:
    p, q = order[:2]
    pixel = np.rint(mixture(p, q, share, linear)).astype(np.uint8).reshape(1, 1, 3)
    assert share_of(looked_at(pixel, 0, 0, MIXERS[linear]), MIXERS[linear], p, q) == pytest.approx(share, abs=0.03)


@SPACES
def test_what_an_ink_costs_is_the_nearest_of_its_mixtures(linear: bool) -> None:
    mixer, steps = MIXERS[linear], np.linspace(0.5, 1.0, 300)
    ways = {(p, q): weighed(mixture(p, q, steps, linear)) for p in range(4) for q in range(4)}
    for pixel in PIXELS.reshape(-1, 3)[:60]:
        seen = looked_at(pixel.reshape(1, 1, 3), 0, 0, mixer)
        here = weighed(pixel.astype(float))
        near = {pair: ((way - here) ** 2).sum(axis=1).min() for pair, way in ways.items()}
        for listed, p, banned in (([0, 2], 2, -1), ([0, 1, 2, 3], 1, 3), ([1], 0, -1)):
            stranger = {q: 0.0 if q in listed else 500.0 for q in range(4)}
            others = [q for q in (range(4) if p in listed else listed) if q not in (p, banned)]
            mixed = [near[p, q] + max(stranger[p], stranger[q]) for q in others]
            best = min([((weighed(INKS[p]) - here) ** 2).sum() + stranger[p], *mixed])
            cost = ink_cost(seen, np.array(listed, np.uint8), mixer, p, 500.0, banned)
            assert cost >= 0.995 * best - 1.0
            if not linear:  # in linear light the foot is sought there, which is not quite the best one here
                assert cost <= 1.005 * best + 1.0


def soft(labels: np.ndarray) -> np.ndarray:
    return np.asarray(cv2.GaussianBlur(drawn(labels), (0, 0), 0.7))


def test_soft_edges_are_unmixed_to_the_larger_share() -> None:
    truth = np.zeros((20, 30), np.uint8)
    truth[:, 10:] = 2
    truth[12:, 20:] = 1
    pixels = soft(truth)
    bits = np.where(np.abs(pixels - INKS[truth]).max(axis=2) < 3, np.uint64(1) << truth.astype(np.uint64), 0)
    bits = bits.astype(np.uint64)
    near = np.full(truth.shape, 0b111, np.uint64)
    labels = np.full_like(truth, 3)
    unmix(pixels, near, bits, MIXERS[False], 3.0, 0, 20, labels)
    unsure = bits == 0
    inner = unsure & (ndimage.generic_filter(truth, np.ptp, 5) < 3)
    assert inner.sum() > 20
    assert (labels[inner] == truth[inner]).mean() > 0.97
    assert (labels[~unsure] == 3).all()  # what is sure is not touched


def test_calming_takes_the_cheapest_of_the_labels_around() -> None:
    truth = blocky(9)
    pixels = np.clip(soft(truth) + RANDOM.normal(0, 9, (*truth.shape, 3)), 0, 255).astype(np.uint8)
    near = np.full(truth.shape, 0b1111, np.uint64)
    after = np.empty_like(truth)
    mixer, noise, pull = MIXERS[False], 9.0, 0.6
    calm(pixels, near, mixer, noise, pull, 0, 12, truth, after)
    calm(pixels, near, mixer, noise, pull, 12, 24, truth, after)
    listed = np.arange(4, dtype=np.uint8)
    padded = np.pad(truth.astype(int), 1, constant_values=-1)
    for row in range(24):
        for column in range(33):
            around = np.delete(padded[row : row + 3, column : column + 3].ravel(), 4)
            around = around[around >= 0]
            seen = looked_at(pixels, row, column, mixer)
            costs = {
                p: ink_cost(seen, listed, mixer, p, 0.0, -1) / (2 * noise**2) + pull * int((around != p).sum())
                for p in {int(truth[row, column]), *around.tolist()}
            }
            assert costs[int(after[row, column])] == pytest.approx(min(costs.values()))


@SPACES
def test_shares_name_the_other_ink_of_each_soft_pixel(linear: bool) -> None:
    truth = np.zeros((12, 12), np.uint8)
    truth[:, 6:] = 3
    pixels = drawn(truth)
    pixels[:, 5] = np.rint(mixture(0, 3, 0.7, linear))
    second, share = np.empty_like(truth), np.empty_like(truth)
    shares(pixels, MIXERS[linear], np.arange(4, dtype=np.uint8), 0, 12, truth, second, share)
    assert (second[:, 5] == 3).all()
    assert np.allclose(share[:, 5], 0.7 * 255, atol=3)
    assert (share[:, [0, 1, 2, 9, 11]] == 255).all()
    one_owner = np.zeros(4, np.uint8)
    shares(pixels, MIXERS[linear], one_owner, 0, 12, truth, second, share)
    assert (second == 0).all()
    assert (share == 255).all()


def test_what_no_ink_explains_is_told_as_a_distance() -> None:
    labels = np.zeros((4, 4), np.uint8)
    labels[:, 2:] = 2
    pixels = drawn(labels)
    pixels[1, 1] = (0, 200, 60)
    near, asked = np.full((4, 4), 0b101, np.uint64), np.ones((4, 4), np.uint8)
    asked[3, 3] = 0
    out = np.full((4, 4), -1.0, np.float32)
    unexplained(pixels, near, labels, asked, MIXERS[False], False, 0, 4, out)
    assert out[3, 3] == -1.0
    assert np.abs(np.delete(out.ravel(), [5, 15])).max() < 1.0
    others = [weighed(mixture(p, q, s, False)) for p in range(4) for q in range(4) for s in np.linspace(0, 1, 200)]
    least = np.linalg.norm(np.array(others) - weighed(np.array([0.0, 200, 60])), axis=1).min()
    assert out[1, 1] == pytest.approx(least, rel=0.03)
    unexplained(pixels, near, labels, asked, MIXERS[False], True, 0, 4, out)
    assert out[0, 3] > 10.0  # without its own ink there is nothing to explain it


@pytest.mark.parametrize("ink", [1, 2, 3])
def test_a_thin_faint_stroke_is_a_ridge_and_a_broad_bar_is_none(ink: int) -> None:
    labels = np.zeros((40, 60), np.uint8)
    pixels = drawn(labels)
    pixels[20, 5:55] = np.rint(mixture(ink, 0, 0.85, False))
    pixels[19, 5:55] = pixels[21, 5:55] = np.rint(mixture(ink, 0, 0.4, False))
    pixels[30:38, 5:55] = INKS[ink]
    sure = np.zeros(labels.shape, np.uint64)
    sure[31:37, 6:54] = 1
    labels[30:38, 5:55] = ink
    around, likely = np.empty_like(labels), np.empty_like(labels)
    find_ridges(pixels, MIXERS[False], 20.0, 0, 40, sure, labels, around, likely)
    assert (around[20, 8:52] == 0).all()
    assert (likely[20, 8:52] == ink).all()
    assert (around[:18] == 255).all()
    assert (around[32:36, 9:50] == 255).all()


@pytest.mark.parametrize("ink", range(4))
def test_tones_of_all_inks_add_up_and_run_on_beneath_upper_ones(ink: int) -> None:
    own = blocky(17)
    second = np.where(RANDOM.random(own.shape) < 0.4, blocky(18), own).astype(np.uint8)
    share = np.where(second == own, 255, RANDOM.integers(128, 256, own.shape)).astype(np.uint8)
    tones = []
    for k in range(4):
        out = np.empty_like(own)
        ink_tones(own, second, share, k, 0, 24, out)
        tones.append(255 - out.astype(int))
    assert (np.sum(tones, axis=0) == 255).all()
    upper = (np.arange(4) > ink).astype(np.uint8)
    away = ndimage.distance_transform_edt(own != ink)
    out = (255 - tones[ink]).astype(np.uint8)
    run_beneath(own, second, share, upper, away.astype(np.float32), 2.5, 0, 24, out)
    above = np.sum(tones[ink + 1 :], axis=0) if ink < 3 else np.zeros(own.shape)
    expected = np.minimum(tones[ink] + np.clip(3.5 - away, 0, 1) * above, 255)
    assert np.abs(255 - out.astype(float) - expected).max() <= 1.0


def test_a_second_ink_that_is_not_near_is_forgotten() -> None:
    own, second = blocky(31), blocky(32)
    share = np.where(second == own, 255, 150).astype(np.uint8)
    kept = np.zeros(own.shape, bool)
    for k in range(4):
        kept |= (second == k) & ndimage.binary_dilation(own == k, np.ones((5, 5)))
    kept &= second != own
    after, left = second.copy(), share.copy()
    settle_seconds(own, after, left)
    assert np.array_equal(after, np.where(kept, second, own))
    assert np.array_equal(left, np.where(kept, share, 255))
    assert 0 < kept.sum() < kept.size


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 10**6), st.integers(1, 14))
def test_crumbs_are_small_regions_of_eight_neighbours(seed: int, least: int) -> None:
    labels = blocky(seed)
    crumbs = np.zeros_like(labels)
    mark_crumbs(labels, least, crumbs)
    expected = np.zeros(labels.shape, bool)
    for k in range(4):
        found, count = ndimage.label(labels == k, np.ones((3, 3)))
        small = np.bincount(found.ravel(), minlength=count + 1) < least
        small[0] = False
        expected |= small[found]
    assert np.array_equal(crumbs > 0, expected)


def test_inner_pixels_are_summed_by_ink() -> None:
    labels = blocky(44)
    pixels = RANDOM.integers(0, 256, (*labels.shape, 3)).astype(np.uint8)
    sums, inner = np.zeros((4, 4)), np.zeros_like(labels)
    inner_sums(pixels, labels, sums, inner)
    alike = ndimage.maximum_filter(labels, 3) == ndimage.minimum_filter(labels, 3)
    alike[[0, -1]] = alike[:, [0, -1]] = False
    assert np.array_equal(inner > 0, alike)
    for k in range(4):
        mine = pixels[alike & (labels == k)].astype(float)
        assert np.allclose(sums[k], [*mine.sum(axis=0), len(mine)])
