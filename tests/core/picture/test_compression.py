"""What a JPEG says of itself."""

from __future__ import annotations

import numpy as np
import pytest
from PIL import Image

from drawings import jpeg_file, parted_disc
from sobercrow.core.errors import PictureError
from sobercrow.core.picture.compression import LUMA_TABLE, standard_table, with_density
from sobercrow.core.picture.decode import decode_picture


def jpeg(quality: int, **options: object) -> bytes:
    return jpeg_file(parted_disc(), quality, **options)


@pytest.mark.parametrize("quality", [20, 50, 75, 95])
def test_tables_are_libjpegs_and_tell_the_quality(quality: int) -> None:
    found = decode_picture(jpeg(quality), "a.jpg").compression
    assert found is not None
    assert np.array_equal(found.components[0].table, standard_table(LUMA_TABLE, quality))
    assert found.quality == pytest.approx(quality, abs=1)
    assert [component.every for component in found.components] == [(1, 1), (2, 2), (2, 2)]
    luma = (found.coefficients() or ())[0]
    assert luma.shape == (16, 16, 8, 8)


def test_pixels_that_are_no_longer_the_files_have_no_compression() -> None:
    picture = decode_picture(jpeg(60), "a.jpg")
    assert picture.compression is not None
    assert picture.reduced(2.0).compression is None
    assert picture.in_grey().compression is None
    exif = Image.Exif()
    exif[0x0112] = 6  # turned, EXIF 2.3
    assert decode_picture(jpeg(60, exif=exif), "turned.jpg").compression is None


def test_a_resolution_is_stated_without_a_change_of_the_picture() -> None:
    stated = decode_picture(with_density(jpeg(60), 144), "a.jpg")
    assert (stated.dpi, stated.dpi_stated) == (144.0, True)
    assert np.array_equal(stated.pixels, decode_picture(jpeg(60), "a.jpg").pixels)


def test_forged_tables_end_in_one_sentence() -> None:
    forged = jpeg(60)
    at = forged.index(b"\xff\xdb") + 5
    with pytest.raises(PictureError, match=r"damaged"):
        decode_picture(forged[:at] + bytes(64) + forged[at + 64 :], "forged.jpg")
