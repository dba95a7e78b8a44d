"""How often the first sight of a picture is of the right kind: `python bench/kinds.py [--seed N]`.

Rough sketches are to be drawn as one line; pencil drawn once, pen drawings, lettering and logos are not. Sketches are
those of `bench/sketches.py`, words are set in open typefaces, logos are drawn by its neighbour `logos.py`.
"""

from __future__ import annotations

import argparse
import sys
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))

import cv2
import numpy as np

from marks import marks
from sketch_scenes import MEASURED, TUNED, Hand, sketched
from sketches import HANDS
from sobercrow.core.first_sight import first_settings
from sobercrow.core.job import Job
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import TraceKind
from spoiling import WAYS, opened
from words import MEASURED_FACES, MEASURED_WORDS, render, set_word, spoil

ONCE = Hand(0.4, passes=(1, 1))


def pictures(seed: int) -> Iterator[tuple[str, str, np.ndarray]]:
    """Yield kinds, names and pixels, (h, w) or (h, w, 3)."""
    drawings = list({**TUNED, **MEASURED}.items())
    for number, (name, lines) in enumerate(drawings):
        for hand, make in HANDS.items():
            yield f"{hand} sketch", name, sketched(lines(), make(seed * 3 + number), 1000 * seed + number).grey
        if number % 2 == 0:
            pencil = sketched(lines(), replace(ONCE, grey=235.0), 2000 * seed + number).grey
            yield "pencil drawn once", name, pencil
            yield "pen drawing", name, inked(sketched(lines(), replace(ONCE, grain=0.0), 3000 * seed + number).grey)
    for face, path in MEASURED_FACES.items():
        for word in MEASURED_WORDS[:2]:
            for em in (60.0, 160.0):
                plain = render(set_word(path, word, em))
                yield "lettering", f"{face} {word} {em:.0f}", plain
                yield "lettering", f"{face} {word} {em:.0f} spoilt", spoil(plain)
    for number, icon in enumerate(marks(False, seed)[:6]):
        for way in ("clean", "JPEG 50"):
            yield "logo", f"{icon.name} {way}", opened(WAYS[way](icon, np.random.default_rng((seed, number))))


def inked(grey: np.ndarray) -> np.ndarray:
    """Return a drawing as a pen would have drawn it: dark, about as wide throughout."""
    dark = cv2.dilate((grey < 200).astype(np.uint8), np.ones((2, 2), np.uint8))
    return np.rint(250.0 - 225.0 * cv2.GaussianBlur(dark.astype(np.float32), (0, 0), 0.9)).astype(np.uint8)


def main() -> None:
    """Tell each kind's share that is right, and which pictures are not."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--seed", type=int, default=1)
    seed = parser.parse_args().seed
    right: dict[str, list[bool]] = {}
    for kind, name, pixels in pictures(seed):
        wide = pixels if pixels.ndim == 3 else np.repeat(pixels[..., None], 3, axis=2)
        settings = first_settings(Job(Picture(np.ascontiguousarray(wide), 200.0)))
        is_right = (settings.tracing.kind is TraceKind.ONE_LINE) == kind.endswith(" sketch")
        right.setdefault(kind, []).append(is_right)
        if not is_right:
            print(f"not right: {kind}, {name}", flush=True)
    print("| kind | pictures | right |\n|---|---|---|")
    for kind, found in right.items():
        print(f"| {kind} | {len(found)} | {np.mean(found):.0%} |")
    every = [one for found in right.values() for one in found]
    print(f"| **all** | {len(every)} | {np.mean(every):.1%} |")


if __name__ == "__main__":
    main()
