"""Centre lines of writing in the Hershey stroke fonts, as a pen would draw it: `python bench/pens.py`.

`--tuning` takes the fonts and words the method was tuned on.
"""

from __future__ import annotations

import io
import sys
import warnings

import numpy as np
import resvg_py
from PIL import Image
from scipy.spatial import cKDTree

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    from HersheyFonts import HersheyFonts

from sobercrow.core.inks.separation import OneInk, separate
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import InkKind, Inks
from sobercrow.core.tracing.centre_lines import find_centre_lines

TUNING = "--tuning" in sys.argv
FONTS = ("futural", "cursive") if TUNING else ("rowmans", "scripts")
WORDS = ("Regatta", "windjump 46") if TUNING else ("Hamburg", "kites & fog", "2593 qxy")
SIZES = (40, 80, 160)
PENS = (2.0, 4.0, 8.0)


def strokes_of(text: str, font: str, height_px: float) -> list[np.ndarray]:
    """The pen's paths of a text, y down, in px, with room around."""
    made = HersheyFonts()
    made.load_default_font(font)
    made.normalize_rendering(height_px)
    strokes = [np.array(stroke, dtype=float) for stroke in made.strokes_for_text(text)]
    strokes = [s for s in strokes if len(s) > 1]
    every = np.concatenate(strokes) * (1, -1)
    low = every.min(axis=0) - 16
    return [s * (1, -1) - low for s in strokes]


def written(strokes: list[np.ndarray], pen: float) -> np.ndarray:
    """The strokes as grey tones, drawn by resvg with a round pen."""
    size = np.ceil(np.concatenate(strokes).max(axis=0) + 16).astype(int)
    paths = "".join(f'<polyline points="{" ".join(f"{x:.3f},{y:.3f}" for x, y in s)}"/>' for s in strokes)
    svg = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{size[0]}" height="{size[1]}">'
        f'<rect width="100%" height="100%" fill="#fff"/><g fill="none" stroke="#000" stroke-width="{pen}" '
        f'stroke-linecap="round" stroke-linejoin="round">{paths}</g></svg>'
    )
    return np.asarray(Image.open(io.BytesIO(bytes(resvg_py.svg_to_bytes(svg_string=svg)))).convert("L"))


def dense(line: np.ndarray) -> np.ndarray:
    """Points a tenth of a pixel apart along a line."""
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    at = np.arange(0.0, along[-1] + 1e-9, 0.1)
    return np.column_stack([np.interp(at, along, line[:, k]) for k in (0, 1)])


def runs(strokes: list[np.ndarray]) -> int:
    """How many strokes there are once those that go on where another ends are one."""
    ends = [tuple(np.round(p, 1)) for s in strokes for p in (s[0], s[-1])]
    names = {p: ends.count(p) for p in ends}
    return len(strokes) - sum(1 for p, n in names.items() if n == 2)


def main() -> None:
    """Print the table."""
    print("px  pen   mean px   99 %   missed   strokes ÷ the font's   ÷ those that go on as one   width off")
    for height in SIZES:
        for pen in PENS:
            if pen > height / 9:
                continue
            away, missed, found_count, known_count, run_count, widths = [], [], 0, 0, 0, []
            for font in FONTS:
                for text in WORDS:
                    strokes = strokes_of(text, font, height)
                    grey = written(strokes, pen)
                    separation = separate(Picture(np.repeat(grey[..., None], 3, axis=2), 300.0), Inks(InkKind.ONE))
                    assert isinstance(separation, OneInk)
                    found = find_centre_lines(separation.field, 2.0, keep_areas=False).strokes
                    truth = np.concatenate([dense(s) for s in strokes])
                    seen = np.concatenate([dense(np.concatenate([s.points, s.points[: int(s.closed)]])) for s in found])
                    away.append(cKDTree(truth).query(seen)[0])
                    missed.append(cKDTree(seen).query(truth)[0])
                    found_count += len(found)
                    known_count += len(strokes)
                    run_count += runs(strokes)
                    widths += [abs(s.width_px - pen) for s in found]
            a, m = np.concatenate(away), np.concatenate(missed)
            print(
                f"{height:3} {pen:3.0f} {a.mean():9.3f} {np.percentile(a, 99):8.2f} {(m > pen).mean():8.2%} "
                f"{found_count / known_count:12.2f} {found_count / run_count:18.2f} {np.mean(widths):20.2f}"
            )


if __name__ == "__main__":
    main()
