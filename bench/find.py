"""How often Find leads to what was meant: `python bench/find.py`.

Sixty commands, tools, settings and recipes, each by its name, by a word of the trade that is not its name (common
practice), and by its name with a slip of the fingers: two letters swapped, one left out or one doubled, at random.
"""

from __future__ import annotations

import argparse
import os
import sys
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
sys.path.insert(0, str(Path(__file__).parent.parent / "tests"))

import numpy as np
from PySide6.QtWidgets import QApplication

from sobercrow.core.lookup import Lookup
from sobercrow.demo.make import PICTURES
from sobercrow.demo.tour import open_window, wait_until_done
from sobercrow.desktop.find.entries import found_in

MEANT = {
    "Open": "import", "Place SVG": "import svg", "Scan": "scanner", "Take a photo": "photograph",
    "Save file": "export", "Undo": "revert", "Nearer": "zoom in", "Fit": "zoom", "Dark theme": "preferences",
    "Chequered page": "transparent", "Turn left": "rotate", "Straighten": "deskew", "Undo slant": "perspective",
    "Mirror": "flip", "Crop to the drawing": "trim edges", "Measure": "ruler", "Nib": "pen", "Scrape": "eraser",
    "Pour": "fill", "Load inks": "palette", "Merge inks": "join inks", "Ring": "lasso", "Choose": "select",
    "Anchors": "nodes", "Ease": "smoothen", "Draw": "pen", "Cut": "knife", "Shade": "gradient",
    "True": "primitive", "Pull a colour": "eyedropper", "Make corner": "cusp", "Round": "fillet",
    "Close contour": "close path", "Join ends": "connect", "Reverse contour": "path direction",
    "Thin out": "simplify", "Join crowded": "merge nodes", "Join shapes": "weld", "Subtract shapes": "minus",
    "Intersect shapes": "intersection", "Leave out the common part": "exclude", "Make solid": "silhouette",
    "Trim what is hidden": "flatten", "Lay a backing": "offset", "Bring to the top": "bring to front",
    "Group": "bundle", "Duplicate": "clone", "Strokes to shapes": "outline strokes", "Match the typeface": "font",
    "Even weights": "kerning", "Keys": "shortcuts", "Resolution": "dpi", "Lift stains": "remove stains",
    "Black point": "levels", "Leave out a pencil": "pencil", "Smooth dirt": "denoise", "Enlarge": "upscale",
    "Cut-out": "vinyl", "Single line": "engrave", "Runs under by": "trapping",
}  # fmt: skip
SHOWN, TYPED_MS = 5, 30.0


def slipped(name: str, random: np.random.Generator) -> str:
    """A name with two letters swapped, one left out or one doubled, in one of its longer words."""
    words = name.lower().split()
    k = max(range(len(words)), key=lambda n: len(words[n]))
    word, at = words[k], int(random.integers(1, max(len(words[k]) - 1, 2)))
    ways = (
        word[:at] + word[at + 1 :],
        word[:at] + word[at] + word[at:],
        word[: at - 1] + word[at] + word[at - 1] + word[at + 1 :],
    )
    words[k] = ways[int(random.integers(3))] if len(word) > 3 else word
    return " ".join(words)


def main() -> None:
    """Open a window, look everything up, and tell."""
    argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter).parse_args()
    QApplication([])
    window = open_window(PICTURES / "pen-lettering.png")
    wait_until_done(window)
    start = time.perf_counter()
    found = found_in(window)
    lookup = Lookup([one.entry for one in found])
    print(f"{len(found)} things, gathered in {1000 * (time.perf_counter() - start):.0f} ms")
    titles = [one.entry.title for one in found]
    random = np.random.default_rng(7)
    asked = {
        "name": list(MEANT),
        "word of the trade": list(MEANT.values()),
        "slip": [slipped(name, random) for name in MEANT],
    }
    print("| by | first | among five | slowest letter |\n|---|---|---|---|")
    for kind, words in asked.items():
        first, near, slowest = 0, 0, 0.0
        for meant, typed in zip(MEANT, words, strict=True):
            for letters in range(1, len(typed) + 1):
                start = time.perf_counter()
                rows = lookup.best(typed[:letters])
                slowest = max(slowest, 1000 * (time.perf_counter() - start))
            told = [titles[k] for k in rows]
            first += told[:1] == [meant]
            near += meant in told[:SHOWN]
            if meant not in told[:SHOWN]:
                print(f"  not found: {typed!r} for {meant}: {told[:SHOWN]}", file=sys.stderr)
        print(f"| {kind} | {first / len(MEANT):.0%} | {near / len(MEANT):.0%} | {slowest:.1f} ms |")
    window.close()


if __name__ == "__main__":
    main()
