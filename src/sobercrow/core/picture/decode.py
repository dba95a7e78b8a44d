"""Reading picture files into sRGB pixels."""

from __future__ import annotations

import io
import math
import warnings
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image, ImageCms, ImageOps, UnidentifiedImageError

from sobercrow.core.arrays import U8
from sobercrow.core.errors import PictureError, SoberCrowError
from sobercrow.core.outside import MOST_FILE_BYTES, reading
from sobercrow.core.picture.compression import Compression
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import ASSUMED_DPI, DPI

READABLE = ("PNG", "JPEG", "GIF", "TIFF", "BMP", "WEBP", "AVIF", "JPEG2000", "PPM", "ICO")
MOST_PAGES = 2000
PHONE, BY_NAME = ".heic .heif .hif", {".tga": "TGA"}
"""Photos of phones, whose library comes in when there is one; and what has no sign of its own in the file."""
SUFFIXES = (
    *(".png", ".jpg", ".jpeg", ".gif", ".tif", ".tiff", ".bmp", ".webp", ".avif", ".jp2", ".j2k", ".ico"),
    *(".ppm", ".pgm", ".pbm", ".pnm", *BY_NAME, *PHONE.split()),
)
KINDS = "PNG, JPEG, HEIC, AVIF, TIFF, WebP, GIF, BMP, JPEG 2000, PNM, TGA or ICO"
ORIENTATION = 0x0112
"""The EXIF tag that says how a picture is turned."""
MOST_PIXELS = 120_000_000
"""Larger pictures are refused before their pixels are unpacked: a few kilobytes can claim any size."""
MOST_SIDE_PX = 60_000
"""Longer ones, too: libraries keep something for every row."""


def read_bytes(path: Path, error: type[SoberCrowError] = PictureError, wanted: str = "a picture file") -> bytes:
    """Return a file's content; `wanted` is what is to be chosen instead of a folder.

    Raises
    ------
    SoberCrowError
        Of the given type, if the file is missing, a folder, empty, too large or may not be read.
    """
    try:
        if path.is_dir():
            raise error(f"“{path.name}” is a folder; choose {wanted} in it.")
        if path.stat().st_size > MOST_FILE_BYTES:
            raise error(f"“{path.name}” is larger than {MOST_FILE_BYTES >> 20} MB; reduce it first.")
        data = path.read_bytes()
    except FileNotFoundError as fault:
        raise error(f"“{path.name}” was not found; it may have been moved or renamed.") from fault
    except PermissionError as fault:
        raise error(f"“{path.name}” may not be read; ask its owner for permission or copy it.") from fault
    except (OSError, ValueError, MemoryError) as fault:  # ValueError: a name that no file can have
        raise error(f"“{path.name}” could not be read from its disk; check the disk and try again.") from fault
    if not data:
        raise error(f"“{path.name}” is empty; it may not have been saved or copied completely.")
    return data


def read_picture(path: Path) -> Picture:
    """Read a picture file; see `decode_picture`."""
    return decode_picture(read_bytes(path), path.name)


def decode_picture(data: bytes, name: str, page: int = 1) -> Picture:
    """Decode PNG, JPEG, HEIC, AVIF, TIFF, WebP, GIF, BMP, JPEG 2000, PNM, TGA or ICO to 8-bit sRGB.

    Of several pages or frames one is taken, counted from 1, of an icon the largest.

    EXIF orientation is applied, an embedded colour profile converted to sRGB, transparency laid over
    white paper, 16-bit reduced to 8. The resolution is the file's own, else 300 dpi, assumed.

    Raises
    ------
    PictureError
        With one sentence on what is wrong with the data.
    """
    with reading(PictureError, f"“{name}” is damaged and could not be read; copy or export it again."):
        image = _opened(data, name, page)
        dpi = _stated_dpi(image)
    with reading(
        PictureError, f"“{name}” breaks off or is damaged, so its pixels could not be read; copy or export it again."
    ):
        image.load()
        compression = _compression(image, data)
        pixels = _to_srgb(ImageOps.exif_transpose(image))
    name = name if page == 1 else page_name(name, page, Path(name).suffix)
    return Picture(pixels, dpi or ASSUMED_DPI, dpi is not None, name, compression)


def page_name(name: str, page: int, suffix: str) -> str:
    """Return what a page of a file is called."""
    return f"{Path(name).stem}, page {page}{suffix}"


def check_page(name: str, page: int, count: int) -> None:
    """Raise `PictureError` if a file of so many pages has none of this number, counted from 1."""
    if not 1 <= page <= count:
        pages = f"{count} pages" if count > 1 else "only one page"
        raise PictureError(f"“{name}” has {pages}, so there is no page {page}; choose another.")


def frame_sizes(data: bytes, name: str) -> tuple[tuple[int, int, float], ...]:
    """Return width and height in px and resolution in dpi of every page of a TIFF, the first `MOST_PAGES`.

    Raises
    ------
    PictureError
        With one sentence on what is wrong with the data.
    """
    with reading(PictureError, f"“{name}” is damaged and could not be read; copy or export it again."):
        image = _opened(data, name)
        sizes = []
        for frame in range(min(getattr(image, "n_frames", 1), MOST_PAGES)):
            image.seek(frame)
            sizes.append((*image.size, _stated_dpi(image) or ASSUMED_DPI))
    return tuple(sizes)


def _opened(data: bytes, name: str, page: int = 1) -> Image.Image:
    """A picture whose pixels are yet to be unpacked; raises `PictureError` for one it cannot be."""
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            image: Image.Image = Image.open(io.BytesIO(data), formats=_formats_for(data, name))
    except UnidentifiedImageError as fault:
        if _is_phones(data):
            raise PictureError(
                f"“{name}” breaks off, is damaged, or is packed in a way that cannot be read here; "
                "copy it again, or have it sent as JPEG or PNG."
            ) from fault
        raise PictureError(f"“{name}” is not a picture this program can read; use {KINDS}.") from fault
    except Image.DecompressionBombError as fault:
        raise PictureError(
            f"“{name}” is too large to open; reduce it below {MOST_PIXELS // 10**6} megapixels."
        ) from fault
    if page != 1:  # to count the frames of some kinds all are gone through
        check_page(name, page, getattr(image, "n_frames", 1))
        image.seek(page - 1)
    width, height = image.size
    if width * height > MOST_PIXELS:
        raise PictureError(
            f"“{name}” has {width} × {height} pixels, too many to open; reduce it below "
            f"{MOST_PIXELS // 10**6} megapixels."
        )
    if max(width, height) > MOST_SIDE_PX:
        raise PictureError(
            f"“{name}” is {width} × {height} pixels, too long a strip to open; cut it below {MOST_SIDE_PX} on a side."
        )
    return image


def _is_phones(data: bytes) -> bool:
    """Whether a file says that it is a HEIC or an AVIF one, or a film."""
    return data[4:8] == b"ftyp"


def _formats_for(data: bytes, name: str) -> tuple[str, ...]:
    """The formats a file may have: those of phones if it says so (ISO 23008-12), others by its name."""
    if _is_phones(data) and not data[8:12].startswith(b"avi"):
        from pi_heif import register_heif_opener

        register_heif_opener()
        return ("HEIF", "AVIF")
    named = BY_NAME.get(Path(name).suffix.lower())
    return READABLE if named is None else (*READABLE, named)


def _compression(image: Image.Image, data: bytes) -> Compression | None:
    """How a picture is compressed, if its pixels stay as the file has them."""
    turned = image.getexif().get(ORIENTATION, 1) != 1
    if image.format != "JPEG" or turned or image.info.get("icc_profile"):
        return None
    return Compression.of_file(image, data)


def _stated_dpi(image: Image.Image) -> float | None:
    stated: Any = image.info.get("dpi")
    try:
        across, down = float(stated[0]), float(stated[1])
    except (TypeError, ValueError, IndexError, ZeroDivisionError):
        return None
    dpi = math.sqrt(across * down) if across > 0 and down > 0 else 0.0
    if abs(dpi - round(dpi)) < 0.02:  # PNG and BMP keep whole dots per metre: 300 dpi comes back as 299.9994
        dpi = float(round(dpi))
    # 1 dpi and the like are what writers put who know no resolution
    return dpi if math.isfinite(dpi) and DPI.low <= dpi <= DPI.high else None


def _to_srgb(image: Image.Image) -> U8:
    if image.mode in ("I;16", "I;16L", "I;16B", "I;16N", "I", "F"):
        return _deep_grey(image)
    profile = image.info.get("icc_profile")
    alpha: Image.Image | None = None
    if image.mode == "P":
        image = image.convert("RGBA" if "transparency" in image.info else "RGB")
    elif image.mode in ("L", "RGB") and "transparency" in image.info:
        image = image.convert("RGBA")
    elif image.mode in ("La", "RGBa"):
        image = image.convert(image.mode.upper())
    if image.mode in ("RGBA", "LA"):
        alpha = image.getchannel("A")
        image = image.convert(image.mode[:-1])
    if profile and image.mode in ("RGB", "CMYK", "L"):
        image = _through_profile(image, profile)
    flat = image.convert("RGB")
    if alpha is not None:
        paper = Image.new("RGB", flat.size, "white")
        paper.paste(flat, mask=alpha)
        flat = paper
    return np.array(flat, dtype=np.uint8)


def _through_profile(image: Image.Image, profile: bytes) -> Image.Image:
    try:
        source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
        converted = ImageCms.profileToProfile(image, source, ImageCms.createProfile("sRGB"), outputMode="RGB")
    except (ImageCms.PyCMSError, OSError):
        return image  # a damaged profile is worth less than the pixels as they are
    return converted if converted is not None else image


def _deep_grey(image: Image.Image) -> U8:
    deep = np.asarray(image).astype(np.float64)
    top = 65535.0 if image.mode.startswith("I;16") or deep.max(initial=0.0) > 255.0 else 255.0
    if image.mode == "F":
        top = max(deep.max(initial=0.0), 1.0) if deep.max(initial=0.0) > 1.0 else 1.0
    grey = np.clip(np.rint(deep * (255.0 / top)), 0, 255).astype(np.uint8)
    return np.repeat(grey[..., None], 3, axis=2)
