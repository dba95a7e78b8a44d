"""How often it is found out what a picture went through, and whether it is a sheet: `python bench/history.py`.

Marks of `marks.py`, spoilt as by `spoiling.py`, of both halves and several seeds; sheets and pages of
`cleanup_scenes.py`, half of them photographed with their surroundings, half filling the picture.
"""

from __future__ import annotations

import argparse
from collections.abc import Callable
from functools import partial

import cv2
import numpy as np

import spoiling
from cleanup_scenes import drawn_sheet, line_drawing, on_dim_paper, photographed
from icons import Icon
from marks import marks
from sobercrow.core.first_sight import laid_flat
from sobercrow.core.history.history import History, read_history
from sobercrow.core.history.screens import Dots
from sobercrow.core.job import Job
from sobercrow.core.picture.compression import LUMA_TABLE, Compression, standard_table
from sobercrow.core.picture.decode import decode_picture
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import Settings
from spoiling import KERNELS, jpeg, opened, png, resized

OFF = 0.02
"""How far a factor found may be off, as a share."""
Spoilt = tuple[bytes, Callable[[History], bool]]
"""A file, and whether what was found of it is what was done."""


def clean(icon: Icon, random: np.random.Generator) -> Spoilt:
    """Leave a mark as it is."""
    return png(icon.pixels), lambda found: _plain(found) and found.compression is None and found.sharpening is None


def kept(icon: Icon, random: np.random.Generator) -> Spoilt:
    """Keep a JPEG as PNG."""
    quality = int(random.integers(20, 81))
    top, left = (int(v) for v in random.integers(0, 8, 2))
    pixels = np.ascontiguousarray(opened(jpeg(icon.pixels, quality, int(random.choice([0, 2]))))[top:, left:])

    def is_right(found: History) -> bool:
        known = found.compression
        return _plain(found) and _has_table(known, quality) and [v % 8 for v in known.offset] == [-top % 8, -left % 8]

    return png(pixels), is_right


def twice(icon: Icon, random: np.random.Generator) -> Spoilt:
    """Compress it hard, then lightly."""
    first, last = int(random.integers(25, 51)), int(random.integers(78, 93))
    data = jpeg(opened(jpeg(icon.pixels, first)), last)
    return data, lambda found: _plain(found) and _has_table(found.earlier, first)


def enlarged(icon: Icon, random: np.random.Generator) -> Spoilt:
    """Make it larger, and compress it every other time."""
    size = icon.pixels.shape[0]
    wide, tall = (round(size * random.uniform(1.5, 4.0)) for _ in range(2))
    tall = wide if random.random() < 0.7 else tall
    kernel = KERNELS[("bilinear", "bicubic", "lanczos")[int(random.integers(0, 3))]]
    large = resized(icon.pixels, wide, tall, kernel)
    data = jpeg(large, int(random.integers(75, 93))) if random.random() < 0.5 else png(large)

    def is_right(found: History) -> bool:
        made = found.enlargement
        sides = () if made is None else (made.width, made.height)
        return found.screen is None and bool(sides) and all(abs(side - size) <= OFF * size for side in sides)

    return data, is_right


def dithered(icon: Icon, random: np.random.Generator) -> Spoilt:
    """Diffuse the errors of few colours."""
    return spoiling.dithered(icon, random), partial(_made_of, Dots.DITHER)


def halftone(icon: Icon, random: np.random.Generator) -> Spoilt:
    """Print it in screened colours and scan it."""
    return spoiling.halftone(icon, random), partial(_made_of, Dots.HALFTONE)


def one_bit(icon: Icon, random: np.random.Generator) -> Spoilt:
    """Keep black and white alone."""
    grey = cv2.cvtColor(icon.pixels, cv2.COLOR_RGB2GRAY)
    black = np.where(grey < random.uniform(110, 190), 0, 255).astype(np.uint8)
    return png(np.repeat(black[..., None], 3, axis=2)), partial(_made_of, Dots.ONE_BIT)


def sharpened(icon: Icon, random: np.random.Generator) -> Spoilt:
    """Sharpen it."""
    return spoiling.sharpened(icon, random), lambda found: _plain(found) and found.sharpening is not None


def _plain(found: History) -> bool:
    """Whether a picture is said to be neither of dots nor enlarged."""
    return found.screen is None and found.enlargement is None


def _made_of(dots: Dots, found: History) -> bool:
    return found.screen is not None and found.screen.dots is dots


def _has_table(known: Compression | None, quality: int) -> bool:
    return known is not None and np.array_equal(known.components[0].table, standard_table(LUMA_TABLE, quality))


def history_table(seeds: list[int]) -> None:
    """Print how often each thing is found."""
    print("| | right | of |\n|---|---|---|")
    for way in (clean, kept, twice, enlarged, dithered, halftone, one_bit, sharpened):
        told = []
        for seed in seeds:
            for tuning in (False, True):
                for k, icon in enumerate(marks(tuning, seed)):
                    data, is_right = way(icon, np.random.default_rng((11, seed, k, tuning)))
                    picture = decode_picture(data, "mark")
                    told.append(is_right(read_history(picture.pixels, picture.compression)))
        print(f"| {way.__name__.replace('_', ' ')} | {np.mean(told):.0%} | {len(told)} |", flush=True)


def sheet_table(cases: int) -> None:
    """Print how often a photographed sheet is laid flat, and anything else left as it is."""
    right = {True: 0, False: 0}
    for seed in range(cases):
        random = np.random.default_rng((5, seed))
        with_sheet = seed % 2 == 0
        if with_sheet:
            pixels = photographed(drawn_sheet(seed, float(random.uniform(0.65, 1.5))), seed)[0]
        else:
            pixels = on_dim_paper(line_drawing(seed), seed)
        pixels = np.repeat(pixels[..., None], 3, axis=2) if pixels.ndim == 2 else pixels
        asked = laid_flat(Job(Picture(np.ascontiguousarray(pixels), 96.0)), Settings())
        right[with_sheet] += (asked.clean_up.slant is not None) is with_sheet
    print(f"sheets laid flat {right[True]} of {(cases + 1) // 2}, others left {right[False]} of {cases // 2}")


def main() -> None:
    """Measure both."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--seeds", type=int, nargs="*", default=[2, 3])
    parser.add_argument("--sheets", type=int, default=100)
    asked = parser.parse_args()
    history_table(asked.seeds)
    sheet_table(asked.sheets)


if __name__ == "__main__":
    main()
