"""How good the first result is, with default settings, on pictures nobody has tuned on: `python bench/first_sight.py`.

Faces from npm packages of @fontsource (Open Font License) and icons of @iconify-json, unpacked into one folder:
`--packages FOLDER`. `--tuning` takes the faces and the icons the method was tuned on. `icons`, `words` or `kinds`
measures that part alone.
"""

from __future__ import annotations

import argparse
import sys
from collections import Counter
from pathlib import Path

import cv2
import numpy as np
from PIL import Image
from skimage import data

from cleanup_scenes import line_drawing, on_dim_paper
from distances import both_ways
from fidelity import corner_scores
from icons import Icon, drawn, icons, sides_drawn
from ink_scenes import compressed
from sobercrow.core.first_sight import first_settings
from sobercrow.core.formats.svg import svg_bytes
from sobercrow.core.geometry.contour import AnchorKind
from sobercrow.core.inks.colour import lab_of
from sobercrow.core.inks.separation import OneInk
from sobercrow.core.job import Job
from sobercrow.core.picture.picture import Picture
from sobercrow.core.results import Results
from words import Word, render, set_word, spoil

FACES = {
    False: (
        "merriweather-latin-400-normal",
        "oswald-latin-400-normal",
        "lora-latin-400-italic",
        "caveat-brush-latin-400-normal",
        "zilla-slab-latin-400-normal",
        "crimson-text-latin-400-normal",
        "josefin-sans-latin-400-normal",
        "pacifico-latin-400-normal",
    ),
    True: (
        "bitter-latin-400-normal",
        "archivo-narrow-latin-400-normal",
        "dancing-script-latin-400-normal",
        "alegreya-latin-400-italic",
    ),
}
TEXTS = {False: ("Hexagon", "murkyjibe&"), True: ("Quartet", "windvane25")}
ICONS = {False: "twemoji", True: "fxemoji"}
SIZES_PX = (48, 96, 192)


def first_result(pixels: np.ndarray) -> Results:
    """Trace a picture as both the window and the command line do at first."""
    rgb = pixels if pixels.ndim == 3 else np.repeat(pixels[..., None], 3, axis=2)
    job = Job(Picture(rgb, 300.0))
    return job.run(first_settings(job))


def words(packages: Path, tuning: bool, sizes: tuple[int, ...] = SIZES_PX) -> list[tuple[str, Word]]:
    """Set the words of this bench; each with what it is called."""
    made = []
    for face in FACES[tuning]:
        found = next(packages.glob(f"*/files/{face}.woff"))
        for text in TEXTS[tuning]:
            made += [(f"{face.split('-latin')[0]} {text} {size}", set_word(found, text, size)) for size in sizes]
    return made


def treated(word: Word, treatment: str, seed: int) -> np.ndarray:
    """Draw a word clean, as JPEG, or as a photo of paper."""
    grey = render(word)
    return grey if treatment == "clean" else spoil(grey) if treatment == "JPEG" else on_dim_paper(grey, seed)


def words_table(packages: Path, tuning: bool) -> None:
    """Print how near traced words come to their outlines."""
    print("| | mean px | 99 % px | anchors | found | real | one ink | largest stray ≥ 96 px |")
    print("|---|---|---|---|---|---|---|---|")
    for treatment in ("clean", "JPEG", "photo"):
        rows, strays = [], []
        for k, (name, word) in enumerate(words(packages, tuning)):
            results = first_result(treated(word, treatment, 50 + k))
            contours = [c for shape in results.artwork.shapes for c in shape.contours]
            if not contours:
                print("nothing traced:", treatment, name)
                continue
            away = both_ways([c.curves() for c in contours], word.contours)
            corners = np.concatenate([c.anchors[c.kinds == AnchorKind.CORNER] for c in contours])
            found, real = corner_scores(corners, word) if len(corners) else (0.0, 1.0)
            one = isinstance(results.separation, OneInk)
            figures = away.mean(), np.percentile(away, 99), results.figures.anchors / word.anchors, found, real, one
            rows.append(figures)
            if not name.endswith(" 48"):
                strays.append((float(away.max()), name))
        mean = np.mean(rows, axis=0)
        worst = max(strays)
        print(
            f"| {treatment} | {mean[0]:.3f} | {mean[1]:.2f} | {mean[2]:.2f} | {mean[3]:.1%} | {mean[4]:.1%} "
            f"| {mean[5]:.0%} | {worst[0]:.2f} ({worst[1]}) |"
        )


def icon_figures(icon: Icon, pixels: np.ndarray) -> tuple[float, ...]:
    """Return of one icon: whether its inks are counted right, mean ΔE76, anchors and shapes against the truth."""
    results = first_result(pixels)
    separation, size = results.separation, icon.pixels.shape[0]
    count = int((separation.coverage > 0).sum())
    svg = svg_bytes(results.artwork).decode()
    ours = drawn(svg, size)
    away = np.linalg.norm(lab_of(ours.reshape(-1, 3) / 1.0) - lab_of(icon.pixels.reshape(-1, 3) / 1.0), axis=1)
    shapes = len(results.artwork.shapes)
    found = sides_drawn(icon.sides, results.artwork)
    ratios = results.figures.anchors / icon.anchors, shapes / icon.regions
    return count == len(icon.colours), away.mean(), *ratios, count, found * len(icon.sides)


def icons_table(packages: Path, tuning: bool, count: int, pictures: Path | None) -> None:
    """Print how flat pictures come out, clean and compressed; the ten worst can be written as pictures."""
    folder = next(packages.glob(f"iconify-json-{ICONS[tuning]}-*"))
    every = list(icons(folder, count, 160, seed=7))
    print(f"{len(every)} icons of {ICONS[tuning]}")
    print("| | count right | ΔE76 mean | anchors | shapes | straight sides |")
    print("|---|---|---|---|---|---|")
    for treatment, blur, quality in (("clean", 0.0, None), ("JPEG 45", 0.8, 45)):
        rows = []
        for icon in every:
            pixels = icon.pixels
            if quality is not None:
                pixels = compressed(cv2.GaussianBlur(pixels, (0, 0), blur), quality)
            rows.append((icon, pixels, icon_figures(icon, pixels)))
        mean = np.mean([figures for *_, figures in rows], axis=0)
        sides = sum(row[2][5] for row in rows) / max(sum(len(icon.sides) for icon in every), 1)
        print(f"| {treatment} | {mean[0]:.0%} | {mean[1]:.2f} | {mean[2]:.2f} | {mean[3]:.2f} | {sides:.1%} |")
        rows.sort(key=lambda row: -row[2][1])
        for icon, pixels, figures in rows[:10]:
            told = f"{icon.name}: {figures[4]:.0f} inks of {len(icon.colours)}, ΔE {figures[1]:.2f}"
            print("  ", told, f"anchors {figures[2]:.2f} shapes {figures[3]:.2f}", file=sys.stderr)
            if pictures is not None:
                ours = drawn(svg_bytes(first_result(pixels).artwork).decode(), 480)
                side = np.hstack([drawn(icon.svg, 480), np.kron(pixels, np.ones((3, 3, 1), np.uint8)), ours])
                Image.fromarray(side).save(pictures / f"{treatment.replace(' ', '-')}-{icon.name}.png")


def kinds_table(packages: Path, tuning: bool) -> None:
    """Print how often it is seen rightly whether one ink was used or several, and what kind of picture it is."""
    seen: Counter[str] = Counter()
    of: Counter[str] = Counter()

    def look(group: str, pixels: np.ndarray, one: bool, kinds: tuple[str, ...]) -> None:
        results = first_result(pixels)
        of[f"inks, {group}"] += 1
        seen[f"inks, {group}"] += isinstance(results.separation, OneInk) == one
        of[f"kind, {group}"] += 1
        seen[f"kind, {group}"] += results.nature.kind.value in kinds

    for treatment, kinds in (("clean", ("digital",)), ("JPEG", ("digital",)), ("photo", ("photo", "scan"))):
        for k, (_name, word) in enumerate(words(packages, tuning, (40, 64, 110, 200))):
            look(f"words {treatment}", treated(word, treatment, 300 + k), True, kinds)
    for seed in range(24):
        drawing = line_drawing(700 + seed + 100 * tuning, 420, 300)
        look("drawings clean", drawing, True, ("digital", "scan"))
        look("drawings photo", on_dim_paper(drawing, seed), True, ("photo", "scan"))
    folder = next(packages.glob(f"iconify-json-{ICONS[tuning]}-*"))
    for icon in icons(folder, 30, 160, seed=11):
        look("icons clean", icon.pixels, False, ("digital",))
        look("icons JPEG", compressed(icon.pixels, 45), False, ("digital",))
    for name in ("coffee", "chelsea", "astronaut", "rocket"):
        look("photographs", getattr(data, name)()[::2, ::2], False, ("shaded", "photo"))
    for group, total in of.items():
        print(f"| {group} | {seen[group]} of {total} | {seen[group] / total:.1%} |")


def main() -> None:
    """Measure what is asked for."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("parts", nargs="*", default=["icons", "words", "kinds"])
    parser.add_argument("--packages", type=Path, required=True)
    parser.add_argument("--tuning", action="store_true")
    parser.add_argument("--count", type=int, default=60)
    parser.add_argument("--pictures", type=Path)
    asked = parser.parse_args()
    if "icons" in asked.parts:
        icons_table(asked.packages, asked.tuning, asked.count, asked.pictures)
    if "words" in asked.parts:
        words_table(asked.packages, asked.tuning)
    if "kinds" in asked.parts:
        kinds_table(asked.packages, asked.tuning)


if __name__ == "__main__":
    main()
