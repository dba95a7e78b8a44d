from __future__ import annotations

import io
import struct
import zlib
from pathlib import Path

import numpy as np
import pillow_heif
import pytest
from PIL import Image, ImageCms, ImageOps

from sobercrow.core.errors import PictureError
from sobercrow.core.handover.printing import OWN_PROFILE
from sobercrow.core.picture.decode import decode_picture, read_picture
from sobercrow.core.picture.pages import pages_of


def packed(image: Image.Image, kind: str = "PNG", **extra: object) -> bytes:
    memory = io.BytesIO()
    image.save(memory, kind, **extra)
    return memory.getvalue()


@pytest.fixture
def colours() -> Image.Image:
    """Forty by thirty pixels, every corner of another colour."""
    pixels = np.zeros((30, 40, 3), np.uint8)
    pixels[:15, :20], pixels[:15, 20:], pixels[15:, :20], pixels[15:, 20:] = (
        (220, 30, 30),
        (30, 200, 40),
        (30, 40, 210),
        (240, 230, 40),
    )
    return Image.fromarray(pixels)


@pytest.mark.parametrize("kind", ["PNG", "GIF", "TIFF", "BMP", "WEBP", "JPEG2000", "PPM", "TGA"])
def test_lossless_kinds_give_the_pixels_that_were_saved(colours: Image.Image, kind: str) -> None:
    extra = {"lossless": True} if kind == "WEBP" else {}
    read = decode_picture(packed(colours, kind, **extra), f"a.{kind.lower()}")
    assert np.array_equal(read.pixels, np.asarray(colours))


@pytest.mark.parametrize(("kind", "suffix"), [("HEIF", ".heic"), ("AVIF", ".avif"), ("HEIF", ".png")])
def test_photos_of_phones_are_read_whatever_they_are_called_turned_and_in_their_colours(
    colours: Image.Image, kind: str, suffix: str
) -> None:
    pillow_heif.register_heif_opener()
    exif = Image.Exif()
    exif[274] = 6
    rows = np.linspace(0.0, 1.0, 64)[:, None]
    wide = np.dstack([np.broadcast_to(255.0 * c, (64, 96)) for c in (rows, 1.0 - rows, 0.5 * rows)]).astype(np.uint8)
    profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    data = packed(Image.fromarray(wide), kind, quality=100, exif=exif.tobytes(), icc_profile=profile)
    read = decode_picture(data, f"photo{suffix}")
    assert read.pixels.shape == (96, 64, 3)
    assert np.abs(read.pixels.astype(int) - np.rot90(wide, -1)).mean() < 4
    with pytest.raises(PictureError, match="damaged"):
        decode_picture(data[: len(data) // 2], f"photo{suffix}")


def test_the_largest_picture_of_an_icon_is_taken(colours: Image.Image) -> None:
    large = colours.resize((64, 64), Image.Resampling.NEAREST)
    read = decode_picture(packed(large, "ICO", sizes=[(16, 16), (64, 64)]), "mark.ico")
    assert np.array_equal(read.pixels, np.asarray(large))


def test_what_has_no_sign_of_its_own_is_taken_for_a_picture_by_its_name_alone(colours: Image.Image) -> None:
    data = packed(colours, "TGA")
    assert np.array_equal(decode_picture(data, "a.TGA").pixels, np.asarray(colours))
    with pytest.raises(PictureError, match="HEIC, AVIF"):
        decode_picture(data, "a.png")


def test_jpeg_gives_nearly_the_pixels_that_were_saved(colours: Image.Image) -> None:
    read = decode_picture(packed(colours, "JPEG", quality=95, subsampling=0), "a")
    assert np.abs(read.pixels.astype(int) - np.asarray(colours)).mean() < 3


@pytest.mark.parametrize("orientation", range(1, 9))
def test_exif_orientation_is_applied(colours: Image.Image, orientation: int) -> None:
    # Exif 2.32 (CIPA DC-008), tag 274: how rows and columns of the file lie in the picture
    exif = Image.Exif()
    exif[274] = orientation
    read = decode_picture(packed(colours, "PNG", exif=exif.tobytes()), "a")
    a = np.asarray(colours)
    upright = {
        1: a, 2: a[:, ::-1], 3: a[::-1, ::-1], 4: a[::-1], 5: a.transpose(1, 0, 2),
        6: np.rot90(a, -1), 7: a[::-1, ::-1].transpose(1, 0, 2), 8: np.rot90(a),
    }  # fmt: skip
    assert np.array_equal(read.pixels, upright[orientation])


@pytest.mark.parametrize(("kind", "dpi"), [("PNG", 240), ("JPEG", 600), ("TIFF", 400), ("BMP", 96)])
def test_resolution_is_read_from_the_file(colours: Image.Image, kind: str, dpi: int) -> None:
    read = decode_picture(packed(colours, kind, dpi=(dpi, dpi)), "a")
    assert read.dpi_stated
    assert read.dpi == pytest.approx(dpi, rel=2e-3)  # PNG and BMP store dots per metre


def test_without_a_resolution_300_dpi_is_assumed_and_told(colours: Image.Image) -> None:
    read = decode_picture(packed(colours), "a")
    assert (read.dpi, read.dpi_stated) == (300.0, False)


def test_transparency_lies_over_white_paper() -> None:
    image = Image.new("RGBA", (4, 4), (0, 0, 0, 0))
    image.putpixel((1, 1), (0, 0, 0, 255))
    image.putpixel((2, 2), (0, 0, 0, 128))
    read = decode_picture(packed(image), "a")
    assert tuple(read.pixels[0, 0]) == (255, 255, 255)
    assert tuple(read.pixels[1, 1]) == (0, 0, 0)
    assert abs(int(read.pixels[2, 2, 0]) - 127) <= 1


def test_transparent_palette_lies_over_white_paper() -> None:
    image = Image.new("P", (4, 4), 0)
    image.putpalette([10, 20, 30, 200, 100, 50])
    image.putpixel((1, 1), 1)
    read = decode_picture(packed(image, "GIF", transparency=0), "a")
    assert tuple(read.pixels[0, 0]) == (255, 255, 255)
    assert tuple(read.pixels[1, 1]) == (200, 100, 50)


def test_sixteen_bit_grey_keeps_its_tones() -> None:
    deep = np.linspace(0, 65535, 256, dtype=np.uint16)[None].repeat(3, axis=0)
    read = decode_picture(packed(Image.fromarray(deep)), "a")
    assert np.abs(read.pixels[0, :, 0].astype(int) - np.arange(256)).max() <= 1


def test_cmyk_is_converted_to_rgb() -> None:
    image = Image.new("CMYK", (4, 4), (0, 255, 255, 0))
    read = decode_picture(packed(image, "JPEG", quality=95), "a")
    red, green, blue = (int(v) for v in read.pixels[1, 1])
    assert red > 200 > 90 > max(green, blue)


def test_colour_profile_is_converted_to_srgb(colours: Image.Image) -> None:
    lab = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
    read = decode_picture(packed(colours, "PNG", icc_profile=lab), "a")
    assert np.abs(read.pixels.astype(int) - np.asarray(colours)).max() <= 1


def test_every_page_of_a_tiff_is_read_with_its_size_and_resolution(colours: Image.Image) -> None:
    memory = io.BytesIO()
    wide = colours.resize((colours.width * 2, colours.height))
    colours.save(memory, "TIFF", save_all=True, append_images=[wide], dpi=(200, 200))
    data = memory.getvalue()
    pages = pages_of(data, "scans.tif")
    assert [round(size.width_mm / 25.4 * 200) for size in pages.sizes] == [colours.width, wide.width]
    assert not pages.drawn
    for number, page in enumerate((colours, wide), 1):
        read = pages.picture(number)
        np.testing.assert_array_equal(read.pixels, np.asarray(page))
        assert (read.name, read.dpi) == (f"scans, page {number}.tif", 200)
    for number in (0, 3):
        with pytest.raises(PictureError, match=f"has 2 pages, so there is no page {number}"):
            pages.picture(number)


def test_animated_gif_gives_its_first_frame(colours: Image.Image) -> None:
    data = packed(colours, "GIF", save_all=True, append_images=[ImageOps.mirror(colours)])
    assert np.array_equal(decode_picture(data, "a").pixels, np.asarray(colours))


def huge_png(side: int) -> bytes:
    def chunk(name: bytes, body: bytes) -> bytes:
        return struct.pack(">I", len(body)) + name + body + struct.pack(">I", zlib.crc32(name + body))

    head = struct.pack(">IIBBBBB", side, side, 8, 0, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(b"\0" * 1000)) + chunk(b"IEND", b"")
    )


BAD = {
    "truncated.jpg": lambda image: packed(image.resize((400, 300)), "JPEG")[:1500],
    "text.png": lambda _image: b"Dear all, please find attached nothing at all.",
    "empty.png": lambda _image: b"",
    "huge.png": lambda _image: huge_png(40_000),
    "broken.png": lambda image: packed(image)[:60] + b"\0" * 40,
}


@pytest.mark.parametrize("name", BAD)
def test_bad_files_get_one_sentence_that_names_them(tmp_path: Path, colours: Image.Image, name: str) -> None:
    path = tmp_path / name
    path.write_bytes(BAD[name](colours))
    with pytest.raises(PictureError) as caught:
        read_picture(path)
    sentence = str(caught.value)
    assert name in sentence
    assert sentence.endswith(".")
    assert "\n" not in sentence


def test_folder_and_missing_file_are_named(tmp_path: Path) -> None:
    with pytest.raises(PictureError, match="is a folder"):
        read_picture(tmp_path)
    with pytest.raises(PictureError, match="was not found"):
        read_picture(tmp_path / "gone.png")


def p3_profile() -> bytes:
    """A display profile with the primaries of Display P3, adapted to D50 (SMPTE EG 432-1; colorants from memory), made
    of that for sRGB: same white, same curve, other colorants."""
    data = bytearray(ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes())
    for k in range(int.from_bytes(data[128:132], "big")):
        entry = 132 + 12 * k
        tag, start = bytes(data[entry : entry + 4]), int.from_bytes(data[entry + 4 : entry + 8], "big")
        if tag in P3_COLORANTS:
            fixed = [round(65536 * value).to_bytes(4, "big", signed=True) for value in P3_COLORANTS[tag]]
            data[start + 8 : start + 20] = b"".join(fixed)
    return bytes(data)


P3_COLORANTS = {
    b"rXYZ": (0.5151, 0.2412, -0.0011),
    b"gXYZ": (0.2920, 0.6922, 0.0419),
    b"bXYZ": (0.1571, 0.0666, 0.7841),
}
SRGB_COLORANTS = ((0.4361, 0.3851, 0.1431), (0.2225, 0.7169, 0.0606), (0.0139, 0.0971, 0.7141))
"""Columns of red, green and blue, adapted to D50 (IEC 61966-2-1)."""


def test_a_wide_gamut_is_brought_to_srgb_by_its_primaries() -> None:
    seen = np.array([[(200, 120, 90), (90, 140, 110), (128, 128, 128), (70, 80, 150)]], np.uint8)
    read = decode_picture(packed(Image.fromarray(seen), "PNG", icc_profile=p3_profile()), "a.png").pixels
    share = seen / 255.0
    linear = np.where(share <= 0.04045, share / 12.92, ((share + 0.055) / 1.055) ** 2.4)
    xyz = linear @ np.array([P3_COLORANTS[tag] for tag in (b"rXYZ", b"gXYZ", b"bXYZ")])
    meant = xyz @ np.linalg.inv(np.array(SRGB_COLORANTS)).T
    coded = np.where(meant <= 0.0031308, 12.92 * meant, 1.055 * np.maximum(meant, 0.0) ** (1 / 2.4) - 0.055)
    assert np.abs(read - 255.0 * coded).max() <= 2.0
    assert np.abs(read.astype(int) - seen)[0, 0].max() >= 4  # it was not passed through


@pytest.mark.parametrize("kind", ["JPEG", "TIFF"])
def test_four_printing_inks_are_read_through_the_profile_they_come_with(kind: str) -> None:
    """Black alone and the paper, ISO 12647-2:2004/Amd 1:2007 (from memory): L* 16 on white of L* 95, so about 15 of 100
    relative to paper; its magenta is a red in which blue outweighs green."""
    inks = Image.new("CMYK", (48, 16), (0, 0, 0, 0))
    inks.paste((0, 0, 0, 255), (16, 0, 32, 16))
    inks.paste((0, 255, 0, 0), (32, 0, 48, 16))
    read = decode_picture(packed(inks, kind, quality=100, icc_profile=OWN_PROFILE.read_bytes()), "a").pixels
    paper, black, magenta = (read[8, x].astype(int) for x in (8, 24, 40))
    assert paper.min() >= 250
    assert 20 <= black.mean() <= 60
    assert np.ptp(black) <= 12
    assert magenta[0] > magenta[2] > magenta[1] + 60
