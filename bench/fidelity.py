"""How near a trace comes to outlines that are known: `python bench/fidelity.py`.

Words in open typefaces (Debian packages fonts-texgyre, fonts-linuxlibertine, fonts-lobster; with --tuning also
fonts-cantarell, fonts-ebgaramond), rendered by resvg at 48, 96 and 192 px per em, clean and again blurred 0.7 px
and saved as JPEG at quality 35, traced with default settings. Everything is averaged over the words. The type
designer's anchors are the points of the faces' own cubic outlines.
"""

from __future__ import annotations

import argparse
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from scipy.spatial import cKDTree

from distances import both_ways, true_corners, turns
from sobercrow.core.geometry.contour import AnchorKind
from sobercrow.core.job import Job
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import Settings
from words import MEASURED_FACES, MEASURED_WORDS, TUNING_FACES, TUNING_WORDS, Word, render, set_word, spoil

SIZES_PX = (48, 96, 192)
FOUND_WITHIN_PX = 2.0
REAL_TURN_DEG = 30.0


@dataclass(frozen=True, slots=True)
class Score:
    """The figures of one word, or their mean over several."""

    mean_px: float
    p99_px: float
    anchors: float
    found: float
    real: float


def trace_word(word: Word, grey: np.ndarray) -> tuple[Score, Score]:
    """Trace one rendering with default settings; return its score and that of the bare iso-line."""
    results = Job(Picture(np.repeat(grey[..., None], 3, axis=2), 300.0)).run(Settings())
    contours = [c for shape in results.artwork.shapes for c in shape.contours]
    distances = both_ways([c.curves() for c in contours], word.contours)
    corners = np.concatenate([c.anchors[c.kinds == AnchorKind.CORNER] for c in contours])
    found, real = corner_scores(corners, word)
    bare = both_ways([as_curves(line) for line in iso_lines(grey)], word.contours)
    return (
        Score(distances.mean(), np.percentile(distances, 99), results.figures.anchors / word.anchors, found, real),
        Score(bare.mean(), np.percentile(bare, 99), np.nan, np.nan, np.nan),
    )


def corner_scores(corners: np.ndarray, word: Word) -> tuple[float, float]:
    """Return which share of the true corners was found, and which share of the found ones is real."""
    true = np.concatenate([true_corners(c) for c in word.contours])
    found = float((cKDTree(corners).query(true)[0] <= FOUND_WITHIN_PX).mean())
    along = [turns(c) for c in word.contours]
    tree, turn = cKDTree(np.concatenate([p for p, _ in along])), np.concatenate([t for _, t in along])
    near = tree.query_ball_point(corners, FOUND_WITHIN_PX)
    return found, float(np.mean([turn[k].max(initial=0.0) > REAL_TURN_DEG for k in near]))


def iso_lines(grey: np.ndarray) -> list[np.ndarray]:
    """Return the bare iso-lines half way between black and white, by contourpy."""
    import contourpy

    padded = np.pad(grey.astype(np.float64), 1, constant_values=255.0)
    lines = contourpy.contour_generator(z=padded, name="serial").lines(127.5)
    return [line[:-1] - 0.5 for line in lines if len(line) > 8]


def as_curves(line: np.ndarray) -> np.ndarray:
    """Return a closed polyline as cubics."""
    after = np.roll(line, -1, axis=0)
    return np.stack([line, line + (after - line) / 3, line + (after - line) * 2 / 3, after], axis=1)


def mean_of(scores: list[Score]) -> Score:
    """Return the mean of every figure."""
    return Score(*np.mean([[s.mean_px, s.p99_px, s.anchors, s.found, s.real] for s in scores], axis=0))


def row(name: str, score: Score) -> str:
    """Return one line of the table."""
    cells = [f"{score.mean_px:.3f}", f"{score.p99_px:.2f}"]
    cells += (
        ["", "", ""] if np.isnan(score.anchors) else [f"{score.anchors:.2f}", f"{score.found:.1%}", f"{score.real:.1%}"]
    )
    return f"| {name} | " + " | ".join(cells) + " |"


def main(faces: dict[str, Path], words: tuple[str, ...]) -> None:
    """Print the table."""
    print("| | mean px | 99 % px | anchors ÷ the type designer's | true corners found | found corners real |")
    print("|---|---|---|---|---|---|")
    for kind in ("clean", "JPEG"):
        every: list[tuple[Score, Score]] = []
        for size in SIZES_PX:
            here = []
            for face in faces.values():
                for text in words:
                    word = set_word(face, text, size)
                    grey = render(word)
                    here.append(trace_word(word, grey if kind == "clean" else spoil(grey)))
            print(row(f"{kind}, {size} px", mean_of([s for s, _ in here])))
            every += here
        print(row(f"**{kind}, all**", mean_of([s for s, _ in every])))
        print(row(f"{kind}, bare iso-line", mean_of([b for _, b in every])))


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--tuning", action="store_true", help="use the faces the method was tuned on")
    tuning = parser.parse_args().tuning
    main(TUNING_FACES if tuning else MEASURED_FACES, TUNING_WORDS if tuning else MEASURED_WORDS)
