"""Pictures made larger by Pillow are known by factor and kernel, and brought back to their own size."""

from __future__ import annotations

import numpy as np
import pytest
from PIL import Image
from skimage import data

from drawings import parted_disc
from sobercrow.core.history.enlarging import Kernel, at_own_size, find_enlargement

WAYS = {
    Kernel.LINEAR: Image.Resampling.BILINEAR,
    Kernel.CUBIC: Image.Resampling.BICUBIC,
    Kernel.LANCZOS: Image.Resampling.LANCZOS,
}


def small() -> np.ndarray:
    """Writing and colours: a page of scikit-image's beside a picture of flat colours."""
    page = np.repeat(data.page()[20:148, 40:168, None], 3, axis=2)
    return np.hstack([page, parted_disc(128)])


@pytest.mark.parametrize("kernel", WAYS)
@pytest.mark.parametrize(("wide", "tall"), [(2.0, 2.0), (2.47, 2.47), (3.0, 1.7)])
def test_size_and_kernel_are_found(kernel: Kernel, wide: float, tall: float) -> None:
    true = small()
    size = round(true.shape[1] * wide), round(true.shape[0] * tall)
    large = np.asarray(Image.fromarray(true).resize(size, WAYS[kernel]))
    found = find_enlargement(large)
    assert found is not None
    assert (found.height, found.width) == true.shape[:2]
    if wide != 2.0:  # at twice the size linear and cubic leave much alike
        assert {found.down, found.across} == {kernel}
    off = np.abs(at_own_size(large, found).astype(int) - true)
    assert off.mean() < 1.5


@pytest.mark.parametrize("picture", [small(), data.coffee()[::2, ::2], data.text(), parted_disc(200)])
def test_what_was_not_made_larger_is_not_called_so(picture: np.ndarray) -> None:
    assert find_enlargement(picture) is None
