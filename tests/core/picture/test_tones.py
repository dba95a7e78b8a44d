from __future__ import annotations

import numpy as np
import pytest
from skimage import data
from skimage.filters import threshold_otsu

from sobercrow.core.picture.tones import histogram, otsu, usual_tones


@pytest.mark.parametrize("name", ["page", "coins", "camera", "text"])
def test_threshold_is_that_of_scikit_image(name: str) -> None:
    grey = getattr(data, name)()
    assert otsu(histogram(grey)) == threshold_otsu(grey)


def test_threshold_lies_between_two_peaks() -> None:
    grey = np.repeat(np.array([40, 200], np.uint8), [300, 700])
    assert 40 <= otsu(histogram(grey)) < 200


def test_a_single_tone_has_no_threshold_of_its_own() -> None:
    assert otsu(histogram(np.full(10, 9, np.uint8))) == 127


def test_full_ink_is_read_where_the_ink_is_darkest() -> None:
    # one stroke in twenty pixels is fully black, the rest of the ink is blurred
    counts = np.zeros(256)
    counts[10], counts[60:100], counts[240] = 10, 3, 1000
    assert usual_tones(counts, 127) == (10, 240)
