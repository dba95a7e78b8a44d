"""JPEG undone: against files of Pillow's libjpeg, and the compiled rounds against NumPy."""

from __future__ import annotations

import io

import numpy as np
import pytest
from PIL import Image
from scipy.fft import dctn, idctn

from drawings import jpeg_file, parted_disc
from sobercrow.core.cleanup._decompress_kernels import relax
from sobercrow.core.cleanup.decompress import undo_compression, undone
from sobercrow.core.cleanup.evidence import Evidence
from sobercrow.core.cleanup.intervals import CHANNEL_WEIGHTS, STEP, intervals_of_file, intervals_of_pixels
from sobercrow.core.history.earlier_jpeg import find_earlier_jpeg
from sobercrow.core.history.planes import luma_chroma_of
from sobercrow.core.picture.compression import Compression
from sobercrow.core.picture.decode import decode_picture
from sobercrow.core.picture.picture import Picture


def compressed(quality: int, subsampling: int = 2) -> Picture:
    return decode_picture(jpeg_file(parted_disc(), quality, subsampling=subsampling), "disc.jpg")


def how_known(picture: Picture, known: str) -> Compression:
    found = picture.compression if known == "file" else find_earlier_jpeg(picture.pixels)
    assert found is not None
    return found


@pytest.mark.parametrize("known", ["file", "pixels"])
@pytest.mark.parametrize(("quality", "share"), [(50, 0.27), (25, 0.3)])
def test_flat_colours_come_back_with_their_borders(known: str, quality: int, share: float) -> None:
    picture, true = compressed(quality), parted_disc().astype(int)
    made = undo_compression(picture.pixels, Evidence.of(picture.pixels, how_known(picture, known)), flat=True)
    before, after = (np.abs(p - true).mean() for p in (picture.pixels.astype(int), made.astype(int)))
    assert after < share * before
    inside = (true == true[64, 64]).all(axis=2)
    assert np.abs(np.median(made[inside], axis=0) - true[64, 64]).max() <= 3


def test_without_flat_colours_it_is_a_picture_that_gives_the_same_file() -> None:
    picture = compressed(40)
    assert picture.compression is not None
    intervals = intervals_of_file(picture.compression)
    assert intervals is not None
    made = undone(intervals, picture.height, picture.width, flat=False)
    memory = io.BytesIO()
    tables = [component.table.ravel().tolist() for component in picture.compression.components[:2]]
    Image.fromarray(made).save(memory, "JPEG", qtables=tables, subsampling=2)
    again = decode_picture(memory.getvalue(), "again.jpg").compression
    assert again is not None
    for one, other in zip(again.coefficients() or (), picture.compression.coefficients() or (), strict=True):
        assert np.abs(one - other).max() <= 1  # what lies at an end of its interval is rounded to pixels
        assert (one != other).mean() < 0.04


def test_intervals_hold_the_picture_that_was_compressed() -> None:
    # quantisation of ITU-T T.81: rounded to the nearest multiple of the step
    picture = compressed(30, subsampling=0)
    assert picture.compression is not None
    intervals = intervals_of_file(picture.compression)
    assert intervals is not None
    true = luma_chroma_of(parted_disc())
    for k in range(3):
        blocks = true[k].reshape(16, 8, 16, 8).swapaxes(1, 2)
        coefficients = dctn(blocks, axes=(2, 3), norm="ortho")
        low, high = (intervals.blocks(k, bounds) for bounds in (intervals.low, intervals.high))
        assert ((coefficients >= low - 1.5) & (coefficients <= high + 1.5)).mean() > 0.999


def test_compiled_rounds_are_those_of_numpy() -> None:
    picture = compressed(35)
    assert picture.compression is not None
    box = intervals_of_pixels(picture.pixels[:32, :32], picture.compression)
    start = box.middle()
    pull = np.ascontiguousarray(start[:, ::-1])
    units = np.array([[y, x] for y in range(2) for x in range(2)], dtype=np.int64)
    made, led, dual = start.copy(), start.copy(), np.zeros((6, 32, 32), np.float32)
    args = box.low, box.high, box.first, box.across, box.every, units, 16, 16, STEP, 3
    relax(made, led, dual, 0.8, pull, 0.05, CHANNEL_WEIGHTS, *args)
    assert made == pytest.approx(reference(start, box, pull), abs=2e-2)


def reference(start: np.ndarray, box: object, pull: np.ndarray) -> np.ndarray:
    """Three rounds of Chambolle & Pock 2011, algorithm 1, written as there."""
    u, led = start.astype(float), start.astype(float)
    weights = CHANNEL_WEIGHTS.astype(float)[:, None, None]
    p = np.zeros((2, *u.shape))
    up = 1.0 / (8.0 * weights.max() ** 2 * STEP)
    for _ in range(3):
        p[0, :, :-1] += up * weights * np.diff(led, axis=1)
        p[1, :, :, :-1] += up * weights * np.diff(led, axis=2)
        p *= 0.8 / np.maximum(0.8, np.sqrt((p**2).sum(axis=(0, 1))))
        spread = p[0] + p[1]
        spread[:, 1:] -= p[0, :, :-1]
        spread[:, :, 1:] -= p[1, :, :, :-1]
        new = (u + STEP * weights * spread + STEP * 0.05 * pull) / (1.0 + STEP * 0.05)
        for k, (fy, fx) in enumerate(box.every.tolist()):  # type: ignore[attr-defined]
            small = new[k].reshape(32 // fy, fy, 32 // fx, fx).mean(axis=(1, 3))
            blocks = small.reshape(32 // fy // 8, 8, 32 // fx // 8, 8).swapaxes(1, 2)
            seen = dctn(blocks, axes=(2, 3), norm="ortho")
            low, high = (box.blocks(k, bounds) for bounds in (box.low, box.high))  # type: ignore[attr-defined]
            off = idctn(np.clip(seen, low, high) - seen, axes=(2, 3), norm="ortho")
            off = off.swapaxes(1, 2).reshape(small.shape)
            new[k] += np.repeat(np.repeat(off, fy, axis=0), fx, axis=1)
        led, u = 2 * new - u, new
    return u
