"""Rough sketches on real paper: `python bench/paper.py [--seed N]`.

The drawings of `bench/sketches.py` nothing was tuned on, drawn by other means or on paper that was not kept well.
Coloured pencil lies beneath graphite, is left out by a click on it, and the rest is read as by itself.
"""

from __future__ import annotations

import argparse
import sys
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))

import cv2
import numpy as np

from paper_scenes import PAPERS, Random
from sketch_scenes import MEASURED, Hand, Sketch, sketched
from sketches import picture, score
from sobercrow.core.arrays import U8
from sobercrow.core.cleanup.clean import clean
from sobercrow.core.cleanup.pencils import pencil_at
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import CleanUp, PictureKind, Tracing
from sobercrow.core.sketch.one_line import meant_lines, usual_tolerance
from sobercrow.core.sketch.reading import read_sketch
from sobercrow.core.sketch.trace import contours_of

INKS = ((52, 110, 190), (220, 80, 70), (90, 160, 90), (240, 150, 60))


def over_coloured(sketch: Sketch, beneath: Sketch, random: Random, quality: int | None) -> U8:
    """A sketch over one in coloured pencil which was clicked on and left out; densities add up (Beer & Lambert)."""
    own, other = (
        np.clip(-np.log(np.maximum(one.grey / np.median(one.grey), 0.03)), 0, None) for one in (sketch, beneath)
    )
    colour = -np.log(np.array(INKS[random.integers(len(INKS))]) / 255.0)
    seen = np.array((246.0, 243, 236)) * np.exp(-own[..., None] - other[..., None] * colour)
    pixels = np.clip(seen + random.normal(0, 2, seen.shape), 0, 255).astype(np.uint8)
    if quality is not None:
        file = cv2.imencode(".jpg", pixels[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, quality])[1]
        pixels = np.ascontiguousarray(cv2.imdecode(file, 1)[..., ::-1])
    rows, columns = np.nonzero((other > 0.4) & (own < 0.02))
    at = random.integers(len(rows))
    found = pencil_at(pixels, float(columns[at]), float(rows[at]))
    return clean(Picture(pixels, 200.0), CleanUp(kind=PictureKind.SCAN, pencils=(found,))).pixels[..., 1]


def main() -> None:
    """Draw, read, and tell."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--keep", type=Path, help="a folder for pictures")
    options = parser.parse_args()
    print(
        "| paper | off | strokes a line | covered | of no line | closed | holds colour | strays | rough |\n|"
        + "---|" * 9
    )
    names = [*PAPERS, "over coloured pencil", "the same, JPEG 85"]
    for name in names:
        rows = []
        for number, (drawing, lines) in enumerate(MEASURED.items()):
            seed = 1000 * options.seed + number
            random = np.random.default_rng(seed)
            hand = Hand(random.uniform(2.2, 4.0))
            sketch = sketched(lines(), hand, seed)
            if name in PAPERS:
                seen = np.clip(PAPERS[name](sketch.grey.astype(np.float64), random), 0, 255).astype(np.uint8)
                grey = clean(Picture(np.dstack([seen] * 3), 200.0), CleanUp(kind=PictureKind.SCAN)).pixels[..., 1]
            else:
                beneath = sketched(lines(), Hand(6.0), seed + 500)
                grey = over_coloured(sketch, beneath, random, 85 if "JPEG" in name else None)
            start = time.perf_counter()
            reading = read_sketch(grey)
            strays = reading.strays_px
            tolerance = usual_tolerance(strays, reading.width_px)
            scale = reading.reduction
            made, _ = contours_of(meant_lines(reading, strays), strays, tolerance, Tracing(), scale)
            made = [contour.scaled(scale) for contour in made]
            one = score(sketch, made, time.perf_counter() - start, strays * scale, reading)
            rows.append(
                (one.off, one.lines, one.covered, one.no_line, one.closed, one.holds, one.strays, reading.is_rough)
            )
            if options.keep is not None:
                options.keep.mkdir(parents=True, exist_ok=True)
                shown = Sketch(grey, sketch.lines, sketch.spread)
                cv2.imwrite(str(options.keep / f"{name.replace(' ', '-')}-{drawing}.png"), picture(shown, made))
        print(f"| {name} | " + " | ".join(f"{v:.3f}" for v in np.mean(rows, axis=0)) + " |")


if __name__ == "__main__":
    main()
