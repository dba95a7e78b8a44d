"""How well strokes of drawn lettering are measured and evened: `python bench/weights.py`.

Words in the script faces of the Hershey fonts (NBS, 1967), their lines made smooth (Chaikin 1974) and swept by a pen:
every part that runs down or up is 30 % thinner or thicker than usual, or anything between, by known amounts. Traced by
default settings, then measured and evened. `--tuning` takes other words and a face the method was tuned on.
"""

from __future__ import annotations

import argparse
import io
from dataclasses import dataclass

import cv2
import numpy as np
import resvg_py
import shapely
from HersheyFonts import HersheyFonts
from PIL import Image
from scipy.spatial import cKDTree

from first_sight import first_result
from sobercrow.core.geometry._nearest_kernels import nearest_segments
from sobercrow.core.lettering.evening import Evening, even_weights, usual_widths
from sobercrow.core.lettering.strokes import Strokes, Way, strokes_of
from sobercrow.core.tracing.tidy import crosses_itself
from words import spoil

WORDS = {False: ("minimum", "wander", "Hazel", "kitchen", "quill"), True: ("nuthatch", "feather")}
FACES = {False: ("scripts", "cursive"), True: ("scriptc",)}
SIZES_PX = (120, 240)
DOWN, UP = 0.055, 0.028
"""How wide strokes are usually, as shares of the size."""
FINER = 4


@dataclass(frozen=True, slots=True, eq=False)
class Part:
    """A part of a pen line that runs one way, and how wide it was drawn."""

    line: np.ndarray
    width: float
    down: bool


def parts_of(face: str, word: str, size: int, seed: int) -> list[Part]:
    """Set a word, and part its lines where they turn from down to up; every part gets a width of its own."""
    random = np.random.default_rng(seed)
    font = HersheyFonts()
    font.load_default_font(face)
    font.normalize_rendering(size)
    made = []
    for stroke in font.strokes_for_text(word):
        line = np.array(stroke, dtype=np.float64) * (1, -1)
        if len(line) < 2:
            continue
        for _ in range(4):  # corners cut
            cut = np.stack([0.75 * line[:-1] + 0.25 * line[1:], 0.25 * line[:-1] + 0.75 * line[1:]], axis=1)
            line = np.concatenate([line[:1], cut.reshape(-1, 2), line[-1:]])
        falls = np.diff(line[:, 1]) > 0.0
        for part in np.split(np.arange(len(line) - 1), np.flatnonzero(np.diff(falls)) + 1):
            down = bool(falls[part[0]])
            width = size * (DOWN if down else UP) * (1.0 + random.uniform(-0.3, 0.3))
            made.append(Part(line[part[0] : part[-1] + 2], width, down))
    return made


def drawn(parts: list[Part], size: int) -> tuple[np.ndarray, np.ndarray]:
    """Draw parts as ink on paper, and return by how much they were moved to lie on it."""
    every = np.concatenate([part.line for part in parts])
    margin = 0.4 * size
    shift = margin - every.min(axis=0)
    width, height = np.ceil(np.ptp(every, axis=0) + 2 * margin).astype(int)
    outlines = [shapely.LineString(part.line + shift).buffer(0.5 * part.width, quad_segs=32).exterior for part in parts]
    paths = "".join(f'<polygon points="{" ".join(f"{x:.3f},{y:.3f}" for x, y in ring.coords)}"/>' for ring in outlines)
    size_of = f'width="{width * FINER}" height="{height * FINER}" viewBox="0 0 {width} {height}"'
    svg = (
        f'<svg xmlns="http://www.w3.org/2000/svg" {size_of}><rect width="100%" height="100%" fill="#fff"/>{paths}</svg>'
    )
    sheet = np.asarray(Image.open(io.BytesIO(bytes(resvg_py.svg_to_bytes(svg_string=svg)))).convert("L"))
    return cv2.resize(sheet, (width, height), interpolation=cv2.INTER_AREA), shift


def true_widths(strokes: Strokes, parts: list[Part], shift: np.ndarray) -> list[tuple[float, float]]:
    """Measured and true width of strokes whose middle lies on one part alone."""
    pairs = []
    for stroke in strokes.strokes:
        away = [cKDTree(part.line + shift).query(stroke.middle)[0] for part in parts]
        near = [k for k, far in enumerate(away) if far < 1.2 * parts[k].width]
        if len(near) == 1 and stroke.way is not Way.LEVEL:
            pairs.append((stroke.width_px, parts[near[0]].width))
    return pairs


def main() -> None:
    """Measure it."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--tuning", action="store_true")
    asked = parser.parse_args()
    print("| | strokes | width off, median | within 2 % | spread kept, down | up | moved elsewhere | new crossings |")
    print("|---|---|---|---|---|---|---|---|")
    for treatment in ("clean", "JPEG"):
        off, kept, moved, crossed, same = [], {Way.DOWN: [], Way.UP: []}, [], 0, True
        for k, (face, word, size) in enumerate(
            (face, word, size) for face in FACES[asked.tuning] for word in WORDS[asked.tuning] for size in SIZES_PX
        ):
            parts = parts_of(face, word, size, 40 + k)
            grey, shift = drawn(parts, size)
            artwork = first_result(grey if treatment == "clean" else spoil(grey)).artwork
            before = strokes_of(artwork.shapes)
            off += [abs(found / true - 1.0) for found, true in true_widths(before, parts, shift)]
            usual = usual_widths(before)
            how = Evening(100.0, {way: usual[way] for way in (Way.DOWN, Way.UP) if way in usual})
            every = range(len(artwork.shapes))
            made = even_weights(artwork, every, how).artwork
            after = strokes_of(made.shapes)
            for way, ratios in kept.items():
                pairs = again(before, after, way)
                if len(pairs) > 2:
                    ratios.append(float(np.std(pairs[:, 1]) / np.std(pairs[:, 0])))
            moved.append(moved_elsewhere(before, after))
            crossed += sum(
                crosses_itself(new) and not crosses_itself(old)
                for one, other in zip(made.shapes, artwork.shapes, strict=True)
                for new, old in zip(one.contours, other.contours, strict=True)
            )
            same &= even_weights(artwork, every, Evening(0.0, usual)).artwork == artwork
        ratios = [f"{np.median(values):.0%} (worst {max(values):.0%})" for values in kept.values()]
        print(
            f"| {treatment} | {len(off)} | {np.median(off):.1%} | {np.mean(np.array(off) <= 0.02):.0%} "
            f"| {' | '.join(ratios)} | {max(moved):.2f} px | {crossed} |" + ("" if same else " moves at 0 %!")
        )


def again(before: Strokes, after: Strokes, way: Way) -> np.ndarray:
    """Return widths before and after of the strokes that run one way and are found again, (n, 2)."""
    pairs = []
    for stroke in before.of(way):
        others = [(float(np.hypot(*(other.line - stroke.middle).T).min()), other.width_px) for other in after.of(way)]
        away, width = min(others, default=(np.inf, 0.0))
        if away < stroke.width_px:
            pairs.append((stroke.width_px, width))
    return np.array(pairs).reshape(-1, 2)


def moved_elsewhere(before: Strokes, after: Strokes) -> float:
    """Return how far places have moved at most that are two widths and more from every evened stroke."""
    furthest = 0.0
    for k, (old, new) in enumerate(zip(before.samples, after.samples, strict=True)):
        evened = [stroke for stroke in before.strokes if stroke.shape == k and stroke.way is not Way.LEVEL]
        if not len(old.points) or not evened:
            continue
        far = np.ones(len(old.points), dtype=bool)
        for stroke in evened:
            far &= cKDTree(old.points[stroke.places]).query(old.points)[0] > 2.0 * stroke.width_px
        if far.any():
            ends = new.points[new.next(np.arange(len(new.points)))]
            away, _ = nearest_segments(np.ascontiguousarray(old.points[far]), new.points, ends, 1e6)
            furthest = max(furthest, float(away.max()))
    return furthest


if __name__ == "__main__":
    main()
