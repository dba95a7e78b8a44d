"""How well clean-up works and how long it takes: `python bench/cleanup.py [PART ...]`.

Parts are slant, straighten, light, guides and speed.

Scenes come from fixed seeds (`cleanup_scenes.py`). Faces and words are those of `fidelity.py`; --tuning takes other
faces, words and seeds, on which the methods were tuned.
"""

from __future__ import annotations

import argparse
import statistics
import time
from collections.abc import Callable, Iterator
from dataclasses import replace

import cv2
import numpy as np

from cleanup_scenes import (
    INK_LIMIT,
    drawn_sheet,
    line_drawing,
    on_dim_paper,
    over_guides,
    photographed,
    text_page,
    turned,
)
from distances import both_ways
from sobercrow.core.cleanup.check import Fault, check_picture, mend
from sobercrow.core.cleanup.clean import clean
from sobercrow.core.cleanup.find_sheet import find_sheet
from sobercrow.core.cleanup.slant import proportions
from sobercrow.core.cleanup.straighten import find_turn
from sobercrow.core.job import Job
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import CleanUp, Corners, Levels, Settings, TouchForm, TouchTool, TouchUp
from speed import page
from words import MEASURED_FACES, MEASURED_WORDS, TUNING_FACES, TUNING_WORDS, Word, render, set_word

SIZES_PX = (48, 96, 192)
RATIOS = (2**0.5, 2**-0.5, 1.0, 1.5, 0.75, 1.7)
SCREEN_PIXELS = 840 * 704
"""The canvas of a window of 1280 × 800."""


def words(tuning: bool, size: int) -> Iterator[Word]:
    """Every word in every face."""
    for face in (TUNING_FACES if tuning else MEASURED_FACES).values():
        for text in TUNING_WORDS if tuning else MEASURED_WORDS:
            yield set_word(face, text, size)


def as_picture(pixels: np.ndarray) -> Picture:
    """Return tones or colours as a picture."""
    return Picture(np.repeat(pixels[..., None], 3, axis=2) if pixels.ndim == 2 else pixels, 300.0)


def slant_table(tuning: bool, cases: int = 200) -> None:
    """Corners and proportions of sheets in photos."""
    off, ratios, found = [], [], 0
    for k in range(cases):
        seed = k + (7000 if tuning else 0)
        ratio = RATIOS[k % len(RATIOS)]
        photo, true = photographed(drawn_sheet(seed, ratio), seed)
        corners = find_sheet(photo)
        diagonal = 0.5 * (np.hypot(*(true[2] - true[0])) + np.hypot(*(true[3] - true[1])))
        if corners is None:
            off.append(1.0)
            continue
        quad = np.array(corners.points)
        shift = min(range(4), key=lambda j: np.hypot(*(np.roll(quad, j, axis=0) - true).T).max())
        quad = np.roll(quad, shift, axis=0)
        off.append(np.hypot(*(quad - true).T).max() / diagonal)
        found += off[-1] < 0.02
        as_seen = Corners(*((float(x), float(y)) for x, y in quad))
        ratios.append(abs(proportions(as_seen, photo.shape[1], photo.shape[0]) / ratio - 1.0))
    print("| cases | found | worst corner, median | 95 % | proportions off, median | 95 % | within 1 % |")
    print("|---|---|---|---|---|---|---|")
    share = float((np.array(ratios) < 0.01).mean())
    print(
        f"| {cases} | {found / cases:.1%} | {np.median(off):.3%} | {np.percentile(off, 95):.3%} | "
        f"{np.median(ratios):.2%} | {np.percentile(ratios, 95):.2%} | {share:.1%} |\n"
    )


def straighten_table(tuning: bool, cases: int = 100) -> None:
    """Angles of writing and of drawings."""
    faces = [str(f) for f in (TUNING_FACES if tuning else MEASURED_FACES).values()]
    print("| | cases | median | 95 % | not found |\n|---|---|---|---|---|")
    for kind in ("writing", "drawings"):
        off, missed = [], 0
        for k in range(cases):
            seed = k + (5000 if tuning else 0)
            angle = np.random.default_rng(1000 + seed).uniform(-15, 15)
            flat = text_page(faces[k % len(faces)], seed) if kind == "writing" else line_drawing(seed)
            found = find_turn(turned(flat, angle))
            missed += found is None
            off.append(90.0 if found is None else abs(found.angle_deg + angle))
        print(f"| {kind} | {cases} | {np.median(off):.3f}° | {np.percentile(off, 95):.3f}° | {missed} |")
    print()


def light_table(tuning: bool) -> None:
    """Words on dim, tinted, grained, compressed paper against their outlines, default settings."""
    print(
        "| px per em | mean px | 99 % px | worst mean | worst 99 % | stray | missing |\n|---|---|---|---|---|---|---|"
    )
    seed = 100 if tuning else 0
    for size in SIZES_PX:
        means, tails, stray, missing = [], [], 0, 0
        for word in words(tuning, size):
            seed += 1
            results = Job(Picture(on_dim_paper(render(word), seed), 300.0)).run(Settings())
            contours = [c.curves() for s in results.artwork.shapes for c in s.contours]
            away = both_ways(contours, word.contours)
            means.append(away.mean())
            tails.append(np.percentile(away, 99))
            stray += max(0, len(contours) - len(word.contours))
            missing += max(0, len(word.contours) - len(contours))
        print(
            f"| {size} | {np.mean(means):.3f} | {np.mean(tails):.2f} | {max(means):.3f} | {max(tails):.2f} | "
            f"{stray} | {missing} |"
        )
    print()


def guide_table(tuning: bool) -> None:
    """Pencil lines under lettering: what is gone, what of the ink is lost."""
    print("| px per em | guide pixels gone | least | ink lost | most | same shapes |\n|---|---|---|---|---|---|")
    seed = 300 if tuning else 0
    for size in (96, 192, 300):
        gone, lost, same, count = [], [], 0, 0
        for word in words(tuning, size):
            seed += 1
            scan, guides, ink = over_guides(render(word), seed)
            source = as_picture(scan)
            settings = Settings()
            for finding in check_picture(source, scan, settings.clean_up):
                if finding.fault is Fault.LINES:
                    settings = mend(settings, finding, source)
            with_lines = Job(source).run(settings)
            gone.append(1.0 - float((with_lines.cleaned.grey()[guides] < 240).mean()))
            unstretched = clean(source, replace(settings.clean_up, levels=Levels())).grey()
            lost.append(float((unstretched[ink] > INK_LIMIT).mean()))
            same += sum(len(s.contours) for s in with_lines.artwork.shapes) == len(word.contours)
            count += 1
        print(
            f"| {size} | {np.mean(gone):.2%} | {min(gone):.2%} | {np.mean(lost):.2%} | {max(lost):.2%} | "
            f"{same} of {count} |"
        )
    print()


def median_ms(work: Callable[[], object], times: int = 5) -> float:
    """Return the median of a few runs in milliseconds."""
    seconds = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        seconds.append(time.perf_counter() - start)
    return 1000 * statistics.median(seconds)


def coloured(grey: np.ndarray) -> np.ndarray:
    """Return a page as ink on tinted paper in falling light, with grain, (h, w, 3) uint8."""
    random = np.random.default_rng(3)
    height, width = grey.shape
    light = np.linspace(1.0, 0.6, width)[None, :, None]
    share = grey[..., None] / 255.0
    picture = (share * (246, 240, 226) + (1 - share) * (40, 36, 60)) * light + random.normal(0, 2.0, (height, width, 1))
    return np.clip(np.rint(picture), 0, 255).astype(np.uint8)


def everything(width: int, height: int) -> CleanUp:
    """Return settings with every part of clean-up at work."""
    inset = [(0.01, 0.01), (0.985, 0.004), (0.99, 0.985), (0.004, 0.99)]
    corners = Corners(*((x * width, y * height) for x, y in inset))
    stroke = TouchUp(TouchTool.NIB, TouchForm.LINE, ((200.0, 300.0), (900.0, 320.0)), 8.0)
    return CleanUp(
        slant=corners, angle_deg=0.7, light=100.0, smooth=40.0, guides=45.0, stains=50.0, touch_ups=(stroke,)
    )


def speed_table() -> None:
    """All of clean-up on a page against three filters of OpenCV, and drafts of single settings."""
    grey = page()
    pages = {"grey page": np.repeat(grey[..., None], 3, axis=2), "coloured, dim page": coloured(grey)}
    print("| page | reference | chosen from the picture | ratio | everything on | ratio |\n|---|---|---|---|---|---|")
    for name, pixels in pages.items():
        height, width = pixels.shape[:2]
        target = np.array([(8, 5), (width - 9, 2), (width - 3, height - 7), (4, height - 2)], np.float32)
        flat = np.array([(0, 0), (width, 0), (width, height), (0, height)], np.float32)
        warp = cv2.getPerspectiveTransform(flat, target)

        def reference(pixels: np.ndarray = pixels, warp: np.ndarray = warp) -> None:
            cv2.medianBlur(pixels, 5)
            cv2.blur(pixels, (201, 201))
            cv2.warpPerspective(pixels, warp, (pixels.shape[1], pixels.shape[0]))

        source = Picture(pixels, 300.0)
        full = everything(width, height)
        for settings in (CleanUp(), full):  # warm
            clean(source, settings)
        base = median_ms(reference)
        chosen = median_ms(lambda source=source: clean(source, CleanUp()))
        every = median_ms(lambda source=source, full=full: clean(source, full))
        print(
            f"| {name} | {base:.0f} ms | {chosen:.0f} ms | {chosen / base:.1f} × | {every:.0f} ms | "
            f"{every / base:.1f} × |"
        )
    draft_table(pages["coloured, dim page"])


def draft_table(pixels: np.ndarray) -> None:
    """How long the clean-up draft takes after one setting was changed, at the scale of the screen."""
    height, width = pixels.shape[:2]
    full = everything(width, height)
    changes: dict[str, Callable[[CleanUp, int], CleanUp]] = {
        "slant": lambda s, k: replace(s, slant=replace(full.slant, top_left=(30.0 + k, 30.0))),
        "straighten": lambda s, k: replace(s, angle_deg=1.0 + k / 10),
        "light": lambda s, k: replace(s, light=60.0 + k),
        "stains": lambda s, k: replace(s, stains=20.0 + k),
        "dirt": lambda s, k: replace(s, smooth=50.0 + k),
        "lines": lambda s, k: replace(s, guides=30.0 + k % 20),
        "levels": lambda s, k: replace(s, levels=Levels(20 + k, 1.0, 230)),
        "enlarge": lambda s, k: replace(s, enlarge=2 + k % 4),
        "touch-ups": lambda s, k: replace(s, touch_ups=(replace(full.touch_ups[0], width_px=5.0 + k),)),
    }
    print("\n| change | draft at screen scale | with everything else on |\n|---|---|---|")
    job = Job(Picture(pixels, 300.0))
    count = 0
    for name, change in changes.items():
        cells = []
        for base in (CleanUp(), full):
            seconds = []
            for _ in range(5):
                count += 1
                job.clean_draft(Settings(clean_up=base), SCREEN_PIXELS)
                start = time.perf_counter()
                job.clean_draft(Settings(clean_up=change(base, count)), SCREEN_PIXELS)
                seconds.append(time.perf_counter() - start)
            cells.append(f"{1000 * statistics.median(seconds):.0f} ms")
        print(f"| {name} | " + " | ".join(cells) + " |")
    print()


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("parts", nargs="*", default=[], help="which tables; all by default")
    parser.add_argument("--tuning", action="store_true", help="use what the methods were tuned on")
    chosen_parts = parser.parse_args()
    tables: dict[str, Callable[[], None]] = {
        "slant": lambda: slant_table(chosen_parts.tuning),
        "straighten": lambda: straighten_table(chosen_parts.tuning),
        "light": lambda: light_table(chosen_parts.tuning),
        "guides": lambda: guide_table(chosen_parts.tuning),
        "speed": speed_table,
    }
    for part in chosen_parts.parts or tables:
        tables[part]()
