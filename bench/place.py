"""Placing SVG files and saving them again, rendered by resvg before and after: python place.py FOLDER [count]."""

from __future__ import annotations

import io
import sys
from pathlib import Path

import numpy as np
import resvg_py
from PIL import Image

from sobercrow.core.artwork.model import Artwork, Layer
from sobercrow.core.formats.svg import svg_bytes
from sobercrow.core.formats.svg_in import read_svg

SIZE = 256


def rendered(data: str) -> np.ndarray:
    """An SVG on white, so many pixels wide."""
    made = bytes(resvg_py.svg_to_bytes(svg_string=data, background="#ffffff", width=SIZE, height=SIZE, dpi=96.0))
    return np.asarray(Image.open(io.BytesIO(made)).convert("RGB"), float)


def main(folder: Path, count: int) -> None:
    """Print how far renderings differ."""
    files = sorted(folder.rglob("*.svg"))
    random = np.random.default_rng(5)
    off = []
    for k in random.permutation(len(files))[:count]:
        placed = read_svg(files[k], 300.0)
        artwork = Artwork((Layer("Placed", placed.items),), placed.width_px, placed.height_px, 300.0)
        off.append(
            (
                float(np.abs(rendered(files[k].read_text()) - rendered(svg_bytes(artwork).decode())).mean()),
                files[k].name,
            )
        )
    off.sort(reverse=True)
    print(
        f"{len(off)} files: mean difference {np.mean([o for o, _ in off]):.3f} of 255, "
        f"largest {off[0][0]:.2f} ({off[0][1]})"
    )


if __name__ == "__main__":
    main(Path(sys.argv[1]), int(sys.argv[2]) if len(sys.argv) > 2 else 200)
