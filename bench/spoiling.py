"""What is done to pictures on their way through the world: compressed, shrunk, enlarged, dithered, screened.

Each way takes a clean picture (h, w, 3) and chance, and gives a file as people send it.
"""

from __future__ import annotations

import io
import math
from collections.abc import Callable

import cv2
import numpy as np
from PIL import Image, ImageFilter

from icons import Icon, drawn

Way = Callable[[Icon, np.random.Generator], bytes]
KERNELS = {
    "bilinear": Image.Resampling.BILINEAR,
    "bicubic": Image.Resampling.BICUBIC,
    "lanczos": Image.Resampling.LANCZOS,
}


def png(pixels: np.ndarray) -> bytes:
    """Return pixels as a PNG file."""
    return _file(Image.fromarray(pixels), "PNG")


def jpeg(pixels: np.ndarray, quality: int, subsampling: int = 2) -> bytes:
    """Return pixels as a JPEG file; colours at half the resolution if `subsampling` is 2."""
    return _file(Image.fromarray(pixels), "JPEG", quality=quality, subsampling=subsampling)


def opened(data: bytes) -> np.ndarray:
    """Return a file's pixels."""
    return np.asarray(Image.open(io.BytesIO(data)).convert("RGB"))


def _file(image: Image.Image, form: str, **options: object) -> bytes:
    memory = io.BytesIO()
    image.save(memory, form, **options)
    return memory.getvalue()


def resized(pixels: np.ndarray, width: int, height: int, kernel: Image.Resampling) -> np.ndarray:
    """Return pixels at another size."""
    return np.asarray(Image.fromarray(pixels).resize((width, height), kernel))


def clean(icon: Icon, random: np.random.Generator) -> bytes:
    """Leave it as it is."""
    return png(icon.pixels)


def jpeg_50(icon: Icon, random: np.random.Generator) -> bytes:
    """Compress it at about 50."""
    return jpeg(icon.pixels, int(random.integers(44, 57)), 0 if random.random() < 0.2 else 2)


def jpeg_25(icon: Icon, random: np.random.Generator) -> bytes:
    """Compress it at about 25."""
    return jpeg(icon.pixels, int(random.integers(20, 31)))


def kept_as_png(icon: Icon, random: np.random.Generator) -> bytes:
    """Compress it at about 40, cut some pixels off every other time, and keep it as PNG."""
    pixels = np.pad(icon.pixels, ((8, 8), (8, 8), (0, 0)), mode="edge")
    top, left = random.integers(0, 8, 2) if random.random() < 0.5 else (8, 8)
    size = icon.pixels.shape[0]
    aligned = np.roll(pixels, (top - 8, left - 8), axis=(0, 1))
    return png(opened(jpeg(aligned, int(random.integers(34, 47))))[top : top + size, left : left + size])


def twice(icon: Icon, random: np.random.Generator) -> bytes:
    """Compress it, shrink it a little and compress it again."""
    pixels = opened(jpeg(icon.pixels, int(random.integers(55, 81))))
    side = round(pixels.shape[0] * random.uniform(0.75, 0.9))
    return jpeg(resized(pixels, side, side, Image.Resampling.LANCZOS), int(random.integers(55, 81)))


def enlarged(icon: Icon, random: np.random.Generator) -> bytes:
    """Make a compressed small one 1.5 to 4 times as large and compress it again."""
    factor = random.uniform(1.5, 4.0) if random.random() < 0.6 else float(random.integers(2, 5))
    kernel = KERNELS[("bilinear", "bicubic", "lanczos")[int(random.integers(0, 3))]]
    small = opened(jpeg(icon.pixels, int(random.integers(62, 86))))
    side = round(small.shape[0] * factor)
    large = resized(small, side, side, kernel)
    return jpeg(large, int(random.integers(78, 93))) if random.random() < 0.7 else png(large)


def dithered(icon: Icon, random: np.random.Generator) -> bytes:
    """Keep it as a GIF with few colours, errors diffused."""
    image = Image.fromarray(icon.pixels)
    if random.random() < 0.5:
        image = image.quantize(
            int(random.integers(8, 33)), Image.Quantize.MEDIANCUT, dither=Image.Dither.FLOYDSTEINBERG
        )
    else:
        image = image.convert("P", palette=Image.Palette.WEB, dither=Image.Dither.FLOYDSTEINBERG)
    return _file(image, "GIF")


def halftone(icon: Icon, random: np.random.Generator) -> bytes:
    """Print it in four screened colours and scan it: dots of 5 to 7 px."""
    size = 4 * icon.pixels.shape[0]
    fine = drawn(icon.svg, size).astype(np.float64) / 255.0
    light = np.maximum(fine.max(axis=2), 1e-3)
    plates = [*(1.0 - np.moveaxis(fine, 2, 0) / light), 1.0 - light]  # seen from afar, dots on dots show the colour
    period = random.uniform(5.0, 7.0)
    y, x = np.mgrid[0:size, 0:size] + 0.5
    shown = np.ones_like(fine)
    for plate, angle, rgb in zip(
        plates, (15, 75, 0, 45), np.array([(0, 1, 1), (1, 0, 1), (1, 1, 0), (0, 0, 0)]), strict=True
    ):
        turn = math.radians(angle)
        u, v = (x * math.cos(turn) + y * math.sin(turn)) / period, (y * math.cos(turn) - x * math.sin(turn)) / period
        spot = 0.5 + 0.25 * (np.cos(2 * np.pi * u) + np.cos(2 * np.pi * v))
        rank = np.argsort(np.argsort(spot.ravel())).reshape(spot.shape) / spot.size
        ink = cv2.GaussianBlur((rank > 1.0 - plate).astype(np.float64), (0, 0), 0.6)[..., None]
        shown *= 1.0 - ink * (1.0 - rgb)
    noise = random.normal(0, 1.5, shown.shape)
    return png(np.clip(np.rint(255.0 * shown + noise), 0, 255).astype(np.uint8))


def sharpened(icon: Icon, random: np.random.Generator) -> bytes:
    """Sharpen it by an unsharp mask of any usual strength."""
    mask = ImageFilter.UnsharpMask(random.uniform(0.6, 2.2), int(random.integers(50, 200)), 0)
    return png(np.asarray(Image.fromarray(icon.pixels).filter(mask)))


WAYS: dict[str, Way] = {
    "clean": clean,
    "JPEG 50": jpeg_50,
    "JPEG 25": jpeg_25,
    "kept as PNG": kept_as_png,
    "twice": twice,
    "enlarged": enlarged,
    "dithered": dithered,
    "halftone": halftone,
    "sharpened": sharpened,
}
