"""Rough sketches on real paper: `python bench/paper.py [--seed N]`.

The drawings of `bench/sketches.py` nothing was tuned on, drawn by other means or on paper that was not kept well.
Coloured pencil lies beneath graphite, is left out by a click on it, and the rest is read as by itself.
"""

from __future__ import annotations

import argparse
import sys
import time
from collections.abc import Callable
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))

import cv2
import numpy as np

from sketch_scenes import MEASURED, Hand, Sketch, sketched
from sketches import picture, score
from sobercrow.core.arrays import F64, U8
from sobercrow.core.cleanup.clean import clean
from sobercrow.core.cleanup.pencils import pencil_at
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import CleanUp, PictureKind, Tracing
from sobercrow.core.sketch.one_line import meant_lines, usual_tolerance
from sobercrow.core.sketch.reading import read_sketch
from sobercrow.core.sketch.trace import contours_of

Random = np.random.Generator
INKS = ((52, 110, 190), (220, 80, 70), (90, 160, 90), (240, 150, 60))


def tooth(random: Random, size: tuple[int, int], scale: float) -> F64:
    """How much of the paper the pencil misses, 0-1."""
    return np.clip(cv2.GaussianBlur(random.normal(0, 1, size), (0, 0), scale) * 2.0 * scale + 0.3, 0, 1)


def smudged(grey: F64, random: Random) -> F64:
    """Graphite wiped by a finger: broad soft streaks."""
    mask = np.zeros(grey.shape, np.float32)
    middle, turn = random.uniform((250, 200), (600, 560)), random.uniform(0, np.pi)
    for _ in range(14):
        at, half = middle + random.normal(0, 25, 2), random.uniform(60, 140)
        way = np.array((np.cos(turn), np.sin(turn))) * half
        streak = np.zeros_like(mask)
        ends = [tuple(int(v) for v in at + side * way) for side in (-1, 1)]
        cv2.line(streak, *ends, 1.0, int(random.uniform(8, 26)), cv2.LINE_AA)
        mask = np.maximum(mask, streak * random.uniform(0.4, 1.0))
    return grey * (1.0 - random.uniform(0.1, 0.3) * cv2.GaussianBlur(mask, (0, 0), 5))


def creased(grey: F64, random: Random) -> F64:
    """A sheet that was folded twice: shade on one side of each fold, a bright and a dark edge."""
    rows, columns = np.mgrid[: grey.shape[0], : grey.shape[1]]
    for _ in range(2):
        turn = random.uniform(0, np.pi)
        away = (columns - random.uniform(250, 600)) * np.cos(turn) + (rows - random.uniform(200, 560)) * np.sin(turn)
        fold = (
            0.05 / (1 + np.exp(-away / 30.0))
            + 0.09 * np.exp(-((away / 1.8) ** 2))
            - 0.04 * np.exp(-(((away + 3) / 2) ** 2))
        )
        grey = grey * (1.0 - fold)
    return grey


def charcoal(grey: F64, random: Random) -> F64:
    """Broad, dusty strokes with coarse grain."""
    dark = 1.0 - grey / np.median(grey)
    broad = cv2.dilate(dark, np.ones((3, 3)))
    dust = 0.12 * cv2.GaussianBlur(broad, (0, 0), 9)
    return np.median(grey) * (1.0 - np.clip(1.25 * broad * (1 - 0.6 * tooth(random, grey.shape, 1.3)) + dust, 0, 1))


def ball_pen(grey: F64, random: Random) -> F64:
    """Thin, even, dark strokes with gaps."""
    dark = np.clip((1.0 - grey / np.median(grey)) * 2.2 - 0.35, 0, 0.9)
    return np.median(grey) * (1.0 - dark * (cv2.GaussianBlur(random.normal(0, 1, grey.shape), (0, 0), 2) > -0.45))


def pale(grey: F64, random: Random) -> F64:
    """Light pencil on grey, grained paper."""
    paper = np.median(grey)
    return (paper + 0.45 * (grey - paper)) * 0.75 + cv2.GaussianBlur(random.normal(0, 5, grey.shape), (0, 0), 0.7)


def photographed(grey: F64, random: Random) -> F64:
    """Light that falls off, a soft lens, noise, JPEG 75."""
    rows, columns = np.mgrid[: grey.shape[0], : grey.shape[1]] / 800.0
    light = 1.0 - 0.45 * np.hypot(columns - random.uniform(0, 1), rows - random.uniform(0, 1))
    seen = cv2.GaussianBlur(grey * light, (0, 0), 0.8) + random.normal(0, 3, grey.shape)
    file = cv2.imencode(".jpg", np.clip(seen, 0, 255).astype(np.uint8), [cv2.IMWRITE_JPEG_QUALITY, 75])[1]
    return np.asarray(cv2.imdecode(file, 0), dtype=np.float64)


PAPERS: dict[str, Callable[[F64, Random], F64]] = {
    "as drawn": lambda grey, _: grey,
    "smudged": smudged,
    "creased": creased,
    "charcoal": charcoal,
    "ball pen": ball_pen,
    "pale on grey": pale,
    "photo": photographed,
}


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
