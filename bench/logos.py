"""Low-quality marks, and how near to the drawing they are traced untouched: `python bench/logos.py`.

Marks of `marks.py`, spoilt as by `spoiling.py`; `--tuning` takes the half the method was tuned on. With `--packages
FOLDER` icons as in bench/first_sight.py are measured besides. `--pictures FOLDER` writes the worst as pictures.
"""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

import cv2
import numpy as np
from PIL import Image

from icons import FINE, Icon, drawn, icons, sides_drawn, visible_regions
from marks import marks
from sobercrow.core.first_sight import first_settings
from sobercrow.core.formats.svg import svg_bytes
from sobercrow.core.inks.colour import lab_of
from sobercrow.core.inks.separation import OneInk
from sobercrow.core.job import Job
from sobercrow.core.picture.decode import decode_picture
from sobercrow.core.results import Results
from sobercrow.core.settings import Role
from spoiling import WAYS, opened

SEEN_AT = 4
ICON_SETS = {False: ("twemoji", "fxemoji"), True: ("fxemoji",)}


def traced(data: bytes) -> Results:
    """Trace a file as both the window and the command line do at first."""
    job = Job(decode_picture(data, "mark"))
    return job.run(first_settings(job))


def redrawn(results: Results, size: int) -> np.ndarray:
    """Return artwork drawn on the paper it was found on."""
    papers = [ink.colour for ink in results.separation.inks if ink.role is Role.PAPER]
    white = not papers or isinstance(results.separation, OneInk)
    return drawn(svg_bytes(results.artwork).decode(), size, "#ffffff" if white else papers[0])


def figures(icon: Icon, results: Results) -> dict[str, float]:
    """Return how near artwork is to the drawing."""
    size = SEEN_AT * icon.pixels.shape[0]
    count = int((results.separation.coverage > 0).sum())
    ours, truth = redrawn(results, size), drawn(icon.svg, size)
    away = np.linalg.norm(lab_of(ours.reshape(-1, 3) / 1.0) - lab_of(truth.reshape(-1, 3) / 1.0), axis=1)
    placed = results.artwork.scaled(icon.pixels.shape[0] / results.artwork.width_px)
    return {
        "right": float(count == len(icon.colours)),
        "count": count,
        "delta": float(away.mean()),
        "anchors": results.figures.anchors / icon.anchors,
        "regions": visible_regions(redrawn(results, FINE * icon.pixels.shape[0])) / icon.regions,
        "sides": sides_drawn(icon.sides, placed) * len(icon.sides),
        "stray": _stray(ours, truth),
    }


def _stray(ours: np.ndarray, truth: np.ndarray) -> float:
    """How thick the thickest wrongly coloured place is, in px of the drawing."""
    wrong = (np.abs(ours.astype(int) - truth).max(axis=2) > 60).astype(np.uint8)
    away = cv2.distanceTransform(np.pad(wrong, 1), cv2.DIST_L2, 5)
    return float(2.0 * away.max() / SEEN_AT)


def table(every: list[Icon], ways: list[str], pictures: Path | None) -> None:
    """Print the means of all marks, a line for each way they were spoilt."""
    print("| | inks right | ΔE76 | anchors | straight sides | regions | largest stray px | seconds |")
    print("|---|---|---|---|---|---|---|---|")
    for way in ways:
        rows = []
        for k, icon in enumerate(every):
            data = WAYS[way](icon, np.random.default_rng((7, k)))
            results = traced(data)
            rows.append((figures(icon, results), icon, data, results))
        mean = {name: float(np.mean([row[0][name] for row in rows])) for name in rows[0][0]}
        sides = sum(row[0]["sides"] for row in rows) / max(sum(len(icon.sides) for icon in every), 1)
        seconds = np.mean([sum(row[3].seconds.values()) for row in rows])
        print(
            f"| {way} | {mean['right']:.0%} | {mean['delta']:.2f} | {mean['anchors']:.2f} | {sides:.0%} "
            f"| {mean['regions']:.2f} | {max(row[0]['stray'] for row in rows):.1f} | {seconds:.2f} |",
            flush=True,
        )
        for found, icon, data, results in rows:
            told = f"{icon.name}: {found['count']:.0f} inks of {len(icon.colours)}, ΔE {found['delta']:.2f}"
            told += f", anchors {found['anchors']:.2f}, regions {found['regions']:.2f}, stray {found['stray']:.1f}"
            told += f", {results.nature.kind}"
            print("  ", told, file=sys.stderr, flush=True)
            if pictures is not None:
                size = SEEN_AT * icon.pixels.shape[0]
                seen = Image.fromarray(opened(data)).resize((size, size), Image.Resampling.NEAREST)
                side = [drawn(icon.svg, size), np.asarray(seen), redrawn(results, size)]
                Image.fromarray(np.hstack(side)).save(pictures / f"{way.replace(' ', '-')}-{icon.name}.png")


def main() -> None:
    """Measure what is asked for."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("ways", nargs="*", help=", ".join(WAYS))
    parser.add_argument("--tuning", action="store_true")
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--packages", type=Path)
    parser.add_argument("--count", type=int, default=16)
    parser.add_argument("--pictures", type=Path)
    asked = parser.parse_args()
    ways = asked.ways or list(WAYS)
    if asked.packages is None:
        table(marks(asked.tuning, asked.seed), ways, asked.pictures)
    else:
        for name in ICON_SETS[asked.tuning]:
            folder = next(p for p in asked.packages.glob(f"iconify-json-{name}-*") if p.is_dir())
            table(list(icons(folder, asked.count, 160, seed=23)), ways, asked.pictures)


if __name__ == "__main__":
    main()
