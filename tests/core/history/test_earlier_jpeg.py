"""Grid, tables and sampling of an earlier JPEG, against files that Pillow's libjpeg wrote (ITU-T T.81)."""

from __future__ import annotations

import io

import numpy as np
import pytest
from PIL import Image
from skimage import data

from drawings import jpeg_file, parted_disc
from sobercrow.core.history.earlier_jpeg import _usable, find_earlier_jpeg
from sobercrow.core.history.history import read_history
from sobercrow.core.picture.decode import decode_picture


def saved(pixels: np.ndarray, quality: int, subsampling: int) -> tuple[bytes, np.ndarray]:
    file = jpeg_file(pixels, quality, subsampling=subsampling)
    return file, np.asarray(Image.open(io.BytesIO(file)).convert("RGB"))


@pytest.mark.parametrize("quality", [22, 50, 78])
@pytest.mark.parametrize(("subsampling", "every"), [(0, (1, 1)), (2, (2, 2))])
@pytest.mark.parametrize(("top", "left"), [(0, 0), (5, 3)])
def test_tables_grid_and_sampling_are_those_of_the_file(
    quality: int, subsampling: int, every: tuple[int, int], top: int, left: int
) -> None:
    file, pixels = saved(parted_disc(), quality, subsampling)
    found = find_earlier_jpeg(pixels[top:, left:])
    assert found is not None
    true = decode_picture(file, "true.jpg").compression
    assert true is not None
    assert np.array_equal(found.components[0].table, true.components[0].table)
    assert found.quality == pytest.approx(quality, abs=1)
    assert [o % 8 for o in found.offset] == [-top % 8, -left % 8]
    if quality < 70:  # finer steps than chroma wavers by tell nothing of it
        assert found.components[1].every == every
        assert np.array_equal(found.components[1].table, true.components[1].table)


def test_what_was_never_compressed_is_not_called_so() -> None:
    assert find_earlier_jpeg(parted_disc()) is None
    assert read_history(parted_disc(), None).compression is None
    assert find_earlier_jpeg(data.camera()) is None  # of scikit-image: a photo that was kept without loss


@pytest.mark.parametrize(("first", "last"), [(30, 85), (42, 90)])
def test_what_was_compressed_twice_is_told_with_its_harder_tables(first: int, last: int) -> None:
    file, _ = saved(saved(parted_disc(), first, 2)[1], last, 2)
    picture = decode_picture(file, "twice.jpg")
    earlier = read_history(picture.pixels, picture.compression).earlier
    assert earlier is not None
    assert earlier.quality == pytest.approx(first, abs=1)
    once = decode_picture(saved(parted_disc(), last, 2)[0], "once.jpg")
    assert read_history(once.pixels, once.compression).earlier is None


@pytest.mark.parametrize("seed", range(3))
def test_blocks_that_tell_are_those_with_an_edge_and_nothing_clipped(seed: int) -> None:
    random = np.random.default_rng(seed)
    plane = np.repeat(np.repeat(random.integers(0, 3, (6, 7)), 5, axis=0), 5, axis=1).astype(np.float64)
    clipped = random.random(plane.shape) < 0.01
    usable = _usable(plane, clipped)
    assert usable.shape == (plane.shape[0] - 7, plane.shape[1] - 7)
    for row, column in np.ndindex(usable.shape):
        block = slice(row, row + 8), slice(column, column + 8)
        assert usable[row, column] == (not clipped[block].any() and np.ptp(plane[block]) > 0.0)
    assert _usable(plane[:6], clipped[:6]).size == 0
