"""How well rough sketches become the lines they mean: `python bench/sketches.py [--measured] [--seeds N]`.

Drawings to tune on, or with `--measured` those to measure on; each rough, and very rough with shading and working lines
on grey paper. Distances are in spreads, by how much single strokes stray from the line meant.
"""

from __future__ import annotations

import argparse
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))

import cv2
import numpy as np
from scipy.spatial import cKDTree

from sketch_scenes import MEASURED, TUNED, Hand, Line, Sketch, dense, sketched
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.settings import Tracing
from sobercrow.core.sketch.one_line import meant_lines, usual_tolerance
from sobercrow.core.sketch.reading import SketchReading, read_sketch
from sobercrow.core.sketch.trace import contours_of

OF_NO_LINE, COVERED = 2.5, 2.0
HANDS: dict[str, Callable[[int], Hand]] = {
    "rough": lambda seed: Hand(2.0 + (seed * 0.7) % 2.6),
    "very rough": lambda seed: Hand(
        3.5 + (seed * 0.9) % 2.5, grey=205.0 + (seed * 17) % 30, grain=0.4, hatched=True, working=True
    ),
}


class Score(NamedTuple):
    """How one sketch was read."""

    off: float
    lines: float
    covered: float
    no_line: float
    corners: float
    needless: float
    """Corners for each line where none was meant."""
    closed: float
    holds: float
    """Share of closed shapes from which poured colour does not run out, whatever lines bound them."""
    anchors: float
    seconds: float
    strays: float
    told: float
    """Share of the length of working lines and shading that was told to be so."""
    lost: float
    """Share of the drawing's own that was told to be one of these."""


def classes(sketch: Sketch, reading: SketchReading) -> tuple[float, float]:
    """Shares of what is no line that was told to be none, and of the drawing's own that was, too."""
    taken = [one.points * reading.reduction for one in (reading.working, reading.shading) if len(one)]
    if not taken:
        return (0.0 if sketch.shading or sketch.working else 1.0), 0.0
    tree, own = cKDTree(np.vstack(taken)), np.vstack([line.points for line in sketch.lines])
    apart = [*sketch.shading, *sketch.working]
    others = np.vstack(apart) if apart else np.zeros((0, 2))
    # where one crosses the drawing's lines nobody can tell
    clear = cKDTree(own).query(others)[0] > 3.0 * sketch.spread if len(others) else np.zeros(0, dtype=bool)
    alone = cKDTree(others).query(own)[0] > 3.0 * sketch.spread if len(others) else np.ones(len(own), dtype=bool)
    told = float((tree.query(others[clear])[0] < 4.0).mean()) if clear.any() else 1.0
    return told, float((tree.query(own[alone])[0] < sketch.spread).mean())


def score(sketch: Sketch, made: list[Contour], seconds: float, strays: float, reading: SketchReading) -> Score:
    """Compare lines with those meant."""
    spread = sketch.spread
    meant = cKDTree(np.vstack([line.points for line in sketch.lines]))
    runs = [dense(_whole(contour)) for contour in made if len(contour) > 1]
    every = np.vstack(runs) if runs else np.zeros((1, 2))
    away = meant.query(every)[0] / spread
    tree = cKDTree(every)
    total = sum(len(line.points) for line in sketch.lines)
    covered = sum(float((tree.query(line.points)[0] < COVERED * spread).sum()) for line in sketch.lines) / total
    near = away[away < OF_NO_LINE]
    corners = np.vstack([line.corners for line in sketch.lines])
    sharp = [contour.anchors[contour.kinds == AnchorKind.CORNER] for contour in made]
    sharp += [contour.anchors[[0, -1]] for contour in made if not contour.closed]
    places = np.vstack(sharp) if sharp else np.full((1, 2), 1e9)
    found = float((cKDTree(places).query(corners)[0] < 1.5 * spread).mean()) if len(corners) else 1.0
    ends = [line.points[[0, -1]] for line in sketch.lines if not line.closed]
    meant_sharp = cKDTree(np.vstack([corners, *ends])) if len(corners) or ends else None
    inner = [_inner_corners(contour) for contour in made]
    within = np.vstack(inner)
    needless = int((meant_sharp.query(within)[0] > 3.0 * spread).sum()) if meant_sharp and len(within) else len(within)
    rings = [line for line in sketch.lines if line.closed]
    closed = [_is_closed(line, made, spread) for line in rings]
    holds = [_holds(line, runs, spread) for line in rings]
    return Score(
        float(near.mean()) if len(near) else 9.9, len(runs) / len(sketch.lines), covered,
        float((away >= OF_NO_LINE).mean()), found, needless / len(sketch.lines),
        float(np.mean(closed)) if rings else 1.0,
        float(np.mean(holds)) if rings else 1.0,
        sum(map(len, made)) / sum(_anchors_of(line) for line in sketch.lines), seconds, strays / spread,
        *classes(sketch, reading),
    )  # fmt: skip


def _anchors_of(line: Line) -> int:
    """About how many anchors a line meant asks for: its corners and ends, and one for every quarter turn between."""
    way = np.gradient(line.points, axis=0)
    angle = np.unwrap(np.arctan2(way[:, 1], way[:, 0]))
    turn = np.abs(np.diff(angle))
    return len(line.corners) + (0 if line.closed else 2) + max(0, round(float(turn[turn < 0.3].sum()) / 1.57))


def _is_closed(line: Line, made: list[Contour], spread: float) -> bool:
    closed = [contour.sampled(1.0) for contour in made if contour.closed]
    return any((cKDTree(points).query(line.points)[0] < 2.5 * spread).mean() > 0.9 for points in closed)


def _inner_corners(contour: Contour) -> np.ndarray:
    """The corners of a contour, but for its ends."""
    sharp = contour.kinds == AnchorKind.CORNER
    return contour.anchors[sharp] if contour.closed else contour.anchors[1:-1][sharp[1:-1]]


def _whole(contour: Contour) -> np.ndarray:
    """Points along a contour, back to the first if it is closed."""
    points = contour.sampled(1.0)
    return np.vstack([points, points[:1]]) if contour.closed else points


def _holds(line: Line, runs: list[np.ndarray], spread: float) -> bool:
    """Whether colour poured anywhere well inside a ring stays in it."""
    scale, wide = 2.0, round(2.0 * 2.5 * spread) | 1
    size = tuple((np.ceil(np.vstack([line.points, *runs]).max(axis=0) + 10.0 * spread) * scale).astype(int).tolist())
    drawn = np.zeros(size[::-1], np.uint8)
    for run in runs:
        cv2.polylines(drawn, [np.rint(run * scale).astype(np.int32)], False, 1, 1, cv2.LINE_8)
    ring = np.zeros_like(drawn)
    cv2.fillPoly(ring, [np.rint(line.points * scale).astype(np.int32)], 1)
    kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * wide + 1, 2 * wide + 1))
    inside, beyond = cv2.erode(ring, kernel) > 0, cv2.dilate(ring, kernel) == 0
    _, parts = cv2.connectedComponents(1 - drawn, connectivity=4)
    return not np.isin(parts[inside & (drawn == 0)], np.unique(parts[beyond & (drawn == 0)])).any()


def picture(sketch: Sketch, made: list[Contour]) -> np.ndarray:
    """Return the sketch with what was made of it beside."""
    left = cv2.cvtColor(sketch.grey, cv2.COLOR_GRAY2BGR)
    right = np.full_like(left, 255)
    random = np.random.default_rng(1)
    for line in sketch.lines:
        cv2.polylines(
            right, [np.rint(line.points * 16).astype(np.int32)], line.closed, (210, 210, 210), 1, cv2.LINE_AA, 4
        )
    for contour in made:
        colour = tuple(int(v) for v in random.integers(0, 190, 3))
        points = [np.rint(contour.sampled(1.0) * 16).astype(np.int32)]
        cv2.polylines(right, points, contour.closed, colour, 2, cv2.LINE_AA, 4)
        for at, kind in zip(contour.anchors, contour.kinds, strict=True):
            place = tuple(int(v) for v in np.rint(at * 16))
            if kind == AnchorKind.CORNER:
                cv2.rectangle(right, tuple(int(v - 3) for v in at), tuple(int(v + 3) for v in at), colour, -1)
            else:
                cv2.circle(right, place, 3 * 16, colour, -1, cv2.LINE_AA, 4)
    return np.hstack([left, right])


def main() -> None:
    """Draw, read, and tell."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--measured", action="store_true", help="the drawings nothing was tuned on")
    parser.add_argument("--seeds", type=int, default=1)
    parser.add_argument("--first", type=int, default=1, help="the first seed")
    parser.add_argument("--only", action="append")
    parser.add_argument("--given", action="store_true", help="give the spread instead of having it found")
    parser.add_argument("--keep", type=Path, help="a folder for pictures")
    options = parser.parse_args()
    drawings = MEASURED if options.measured else TUNED
    for name, hand in HANDS.items():
        rows: list[tuple[str, Score]] = []
        for number, (drawing, lines) in enumerate(drawings.items()):
            if options.only and drawing not in options.only:
                continue
            for seed in range(options.first, options.first + options.seeds):
                sketch = sketched(lines(), hand(seed * 3 + number), 100 * seed + number)
                start = time.perf_counter()
                reading = read_sketch(sketch.grey)
                strays = sketch.spread if options.given else reading.strays_px
                tolerance = usual_tolerance(strays, reading.width_px)
                made, _ = contours_of(meant_lines(reading, strays), strays, tolerance, Tracing(), 1.0)
                rows.append((drawing, score(sketch, made, time.perf_counter() - start, strays, reading)))
                if options.keep is not None:
                    options.keep.mkdir(parents=True, exist_ok=True)
                    place = options.keep / f"{name.replace(' ', '-')}-{drawing}-{seed}.png"
                    cv2.imwrite(str(place), picture(sketch, made))
        print(f"\n| {name} | " + " | ".join(Score._fields) + " |\n|" + "---|" * (len(Score._fields) + 1))
        for drawing, one in rows:
            print(f"| {drawing} | " + " | ".join(f"{v:.2f}" for v in one) + " |")
        means = np.mean([one for _, one in rows], axis=0)
        print("| **mean** | " + " | ".join(f"{v:.3f}" for v in means) + " |")
        right = np.mean([2 / 3 <= one.strays <= 4 / 3 for _, one in rows])
        print(f"spread found within a third: {right:.0%}")
    sys.stdout.flush()


if __name__ == "__main__":
    main()
