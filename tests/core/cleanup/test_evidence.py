"""Pictures judged by a compressed file, and judged again where they changed."""

from __future__ import annotations

import numpy as np
import pytest
from PIL import Image

from drawings import jpeg_file, parted_disc
from sobercrow.core.cleanup.evidence import Evidence
from sobercrow.core.picture.decode import decode_picture


@pytest.fixture(scope="module", params=[90, 101])
def evidence(request) -> Evidence:
    """What a JPEG of a disc tells (4:2:0, by Pillow's libjpeg), of whole units and not."""
    picture = decode_picture(jpeg_file(parted_disc(request.param), 40), "disc")
    assert picture.compression is not None
    return Evidence.of(picture.pixels, picture.compression)


def test_the_picture_that_was_compressed_lacks_nothing_and_another_does(evidence: Evidence) -> None:
    drawn = parted_disc(evidence.height).astype(np.float32)
    other = np.asarray(Image.fromarray(parted_disc(evidence.height)).transpose(Image.Transpose.TRANSPOSE))
    lacking = [np.abs(evidence.judged(np.float32(p)).lacking[evidence.inside]).mean() for p in (drawn, other)]
    assert lacking[0] < 0.01
    assert lacking[1] > 1.0


@pytest.mark.parametrize("seed", range(3))
def test_judged_again_where_it_changed_it_is_as_judged_whole(evidence: Evidence, seed: int) -> None:
    random = np.random.default_rng(seed)
    side = evidence.height
    before = parted_disc(side).astype(np.float32)
    after, near = before.copy(), np.zeros((side, side), dtype=np.bool_)
    for _ in range(3):
        top, left, tall, wide = (int(v) for v in random.integers((0, 0, 1, 1), (side, side, 20, 20)))
        after[top : top + tall, left : left + wide] = random.integers(0, 256, 3)
        near[top : top + tall, left : left + wide] = True
    boxes = evidence.boxes_around(near)
    made = evidence.judged_again(evidence.judged(before), boxes, lambda b: after[b[0] : b[2], b[1] : b[3]])
    whole = evidence.judged(after)
    assert made.planes == pytest.approx(whole.planes, abs=1e-3)
    assert made.lacking == pytest.approx(whole.lacking, abs=1e-3)
    assert sum((b[2] - b[0]) * (b[3] - b[1]) for b in boxes) <= side * side
