"""The pictures of the guide's eight jobs: `python -m sobercrow.demo.guide_pictures [FOLDER]`.

Each is a demo picture as it came, and beside it what is made of it.
"""

from __future__ import annotations

import sys
from collections.abc import Callable
from pathlib import Path

import numpy as np
from PIL import Image

from sobercrow.core.arrays import U8
from sobercrow.core.artwork.model import Artwork, Pouring
from sobercrow.core.artwork.pouring import pour_all
from sobercrow.core.first_sight import first_settings
from sobercrow.core.formats.hpgl import HpglSettings, hpgl_bytes
from sobercrow.core.formats.preview import shown
from sobercrow.core.formats.raster import drawn
from sobercrow.core.guide import FOLDER
from sobercrow.core.handover.plates import plates_of
from sobercrow.core.job import Job
from sobercrow.core.picture.decode import read_bytes
from sobercrow.core.picture.pages import picture_of
from sobercrow.core.results import Results
from sobercrow.demo.make import PICTURES

WIDTH_PX, HEIGHT_PX, EDGE_PX = 1040, 420, 12
COLOURS = 96
"""Each picture is kept in so many colours."""
PAPER = "#ffffff"
ICONS_PX = (256, 128, 64, 32)
GAP_PX, OVERLAP_PX = 24.0, 2.0
"""Gaps of the kite drawing are bridged up to so much, and colour runs on under lines so far."""


def traced(name: str) -> Results:
    """Return what the program makes of a demo picture without being told anything."""
    job = Job(picture_of(read_bytes(PICTURES / name), name))
    return job.run(first_settings(job))


def as_drawn(artwork: Artwork) -> U8:
    """Return artwork as pixels on white, as large as a half of a picture."""
    share = min((WIDTH_PX / 2) / artwork.width_px, HEIGHT_PX / artwork.height_px)
    size = max(1, round(artwork.width_px * share)), max(1, round(artwork.height_px * share))
    return drawn(artwork, size, PAPER)[..., :3]


def poured(results: Results) -> U8:
    """Return artwork with a colour in every area its lines enclose."""
    return as_drawn(pour_all(results.artwork, Pouring(GAP_PX, OVERLAP_PX)).artwork)


def cut(results: Results) -> U8:
    """Return the way of a blade around artwork."""
    artwork = results.artwork
    pixels = shown("hpgl", hpgl_bytes(artwork, HpglSettings()), artwork)
    return np.asarray(Image.alpha_composite(Image.new("RGBA", pixels.shape[1::-1], PAPER), Image.fromarray(pixels)))[
        ..., :3
    ]


def one_plate(results: Results) -> U8:
    """Return the plate of the ink that covers most but one."""
    return as_drawn(plates_of(results.artwork)[1].artwork)


def small(results: Results) -> U8:
    """Return artwork at the sizes of icons, in a row."""
    longer = max(results.artwork.width_px, results.artwork.height_px)
    page = Image.new("RGB", (sum(ICONS_PX) + EDGE_PX * (len(ICONS_PX) + 1), max(ICONS_PX)), PAPER)
    left = EDGE_PX
    for side in ICONS_PX:
        size = tuple(
            max(1, round(length * side / longer)) for length in (results.artwork.width_px, results.artwork.height_px)
        )
        icon = Image.fromarray(drawn(results.artwork, (size[0], size[1]), PAPER)[..., :3])
        page.paste(icon, (left, (page.height - icon.height) // 2))
        left += side + EDGE_PX
    return np.asarray(page)


MADE: dict[str, tuple[str, Callable[[Results], U8]]] = {
    "pen-lettering": ("pen-lettering.png", lambda results: as_drawn(results.artwork)),
    "badge-photo": ("badge-photo.jpg", lambda results: as_drawn(results.artwork)),
    "low-quality-logo": ("badge-200.jpg", lambda results: as_drawn(results.artwork)),
    "pencil-sketch": ("pencil-sketch.png", lambda results: as_drawn(results.artwork)),
    "drawing-to-colour": ("kite-drawing.png", poured),
    "vinyl-cutter": ("badge-200.jpg", cut),
    "five-colour-shirt": ("swing-sign.jpg", one_plate),
    "icon": ("swing-sign.jpg", small),
}


def side_by_side(left: U8, right: U8) -> Image.Image:
    """Return two pictures beside each other, each as large as its half allows."""
    half, images = WIDTH_PX // 2, []
    for pixels in (left, right):
        image = Image.fromarray(pixels)
        share = min((half - 2 * EDGE_PX) / image.width, (HEIGHT_PX - 2 * EDGE_PX) / image.height)
        size = round(image.width * share), round(image.height * share)
        images.append(image.resize(size, Image.Resampling.LANCZOS if share < 1 else Image.Resampling.NEAREST))
    page = Image.new("RGB", (WIDTH_PX, max(image.height for image in images) + 2 * EDGE_PX), PAPER)
    for k, image in enumerate(images):
        page.paste(image, (k * half + (half - image.width) // 2, (page.height - image.height) // 2))
    return page


def main(folder: Path) -> None:
    """Write all pictures."""
    folder.mkdir(parents=True, exist_ok=True)
    for name, (source, made_of) in MADE.items():
        results = traced(source)
        picture = side_by_side(picture_of(read_bytes(PICTURES / source), source).pixels, made_of(results))
        picture.quantize(COLOURS, dither=Image.Dither.NONE).save(folder / f"{name}.png", optimize=True)


if __name__ == "__main__":
    main(Path(sys.argv[1]) if len(sys.argv) > 1 else FOLDER / "pictures")
