"""How long a page takes, as a ratio to contourpy's bare iso-line in the same run: `python bench/speed.py`.

Also the drafts of the demo pictures, and the frames of the window at 20,000 anchors.
"""

from __future__ import annotations

import os
import resource
import statistics
import time
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path

import contourpy
import numpy as np
from PIL import Image, ImageDraw, ImageFont

from figures import Figure
from sobercrow.core.artwork.model import Artwork, Layer
from sobercrow.core.errors import Cancelled
from sobercrow.core.first_sight import DRAFT_PIXELS, first_settings
from sobercrow.core.inks.separation import separate
from sobercrow.core.job import Job
from sobercrow.core.picture.decode import read_picture
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import Inks, Settings, Tracing
from sobercrow.core.tracing.outlines import trace
from sobercrow.demo.make import PICTURES
from words import MEASURED_FACES

WORDS = [
    "kite",
    "line",
    "fold",
    "paper",
    "wind",
    "spar",
    "bridle",
    "sail",
    "reel",
    "knot",
    "tail",
    "crest",
    "fetlock",
    "fen",
    "heron",
    "sedge",
]


def page() -> np.ndarray:
    """Return a 2480 × 3508 page of text with about 700 letter contours, uint8."""
    random = np.random.default_rng(5)
    sheet = Image.new("L", (2480, 3508), 255)
    pen = ImageDraw.Draw(sheet)
    font = ImageFont.truetype(str(MEASURED_FACES["serif"]), 130)
    for y in range(120, 3320, 235):
        line = ""
        while font.getlength(line) < 1900:
            line += WORDS[random.integers(len(WORDS))] + " "
        pen.text((190, y), line.strip(), font=font, fill=0)
    return np.asarray(sheet)


def best_of(work: Callable[[], object], times: int = 5) -> float:
    """Return the median seconds of a few runs."""
    seconds = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        seconds.append(time.perf_counter() - start)
    return statistics.median(seconds)


def figures() -> Iterator[Figure]:
    """Yield how long the page takes, and what the slowest demo picture takes after a change."""
    bare, ours = page_times()
    yield Figure("page of letters, ÷ contourpy's bare iso-line", ours / bare, 3.0, "×")
    for pixels, wanted in ((DRAFT_PIXELS, 0.06), (None, 0.25)):
        slowest = max((_after_change(file, pixels), file.name) for file in sorted(PICTURES.iterdir()))
        what = "draft" if pixels is not None else "full result"
        yield Figure(f"{what} after a change of detail, slowest demo picture ({slowest[1]})", slowest[0], wanted)


def _after_change(file: Path, pixels: int | None) -> float:
    """Seconds until a change of detail shows on a picture, as it is first set; the median of three."""
    job = Job(read_picture(file))
    settings = first_settings(job)
    job.run(settings, pixels)
    seconds = []
    for k in range(1, 4):
        tried = replace(settings, tracing=replace(settings.tracing, detail=settings.tracing.detail - k))
        told: list[float] = []
        start = time.perf_counter()
        job.run(tried, pixels, early=lambda _, told=told: told.append(time.perf_counter()))
        seconds.append([*(told if pixels is not None else []), time.perf_counter()][0] - start)
    return statistics.median(seconds)


def page_times() -> tuple[float, float]:
    """Seconds that contourpy's bare iso-line takes for the page, and threshold and trace."""
    grey = page()
    picture = Picture(np.repeat(grey[..., None], 3, axis=2), 300.0)
    tones = grey.astype(np.float64)
    trace(separate(picture, Inks()), Tracing())  # warm
    bare = best_of(lambda: contourpy.contour_generator(z=tones, name="serial").lines(127.5))
    return bare, best_of(lambda: trace(separate(picture, Inks()), Tracing()))


def page_table() -> None:
    """Print the page's time and memory."""
    bare, ours = page_times()
    result = trace(separate(Picture(np.repeat(page()[..., None], 3, axis=2), 300.0), Inks()), Tracing())
    contours = sum(len(s.contours) for s in result.artwork.shapes)
    print(f"page of {contours} contours, {result.artwork.anchor_count} anchors")
    print("| bare iso-line (contourpy serial) | threshold + trace | ratio | peak memory |\n|---|---|---|---|")
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(f"| {bare * 1000:.0f} ms | {ours * 1000:.0f} ms | {ours / bare:.1f} × | {peak:.0f} MB |\n")


def draft_table() -> None:
    """Print how long a change takes to show on the demo pictures."""
    print(
        "| demo picture | change of threshold, draft | full | change of detail, draft | full |\n|---|---|---|---|---|"
    )
    for file in sorted(PICTURES.iterdir()):
        source = read_picture(file)
        cells = []
        for change in ("threshold", "detail"):
            for pixels in (DRAFT_PIXELS, None):
                job = Job(source)
                job.run(Settings(), pixels)
                seconds = []
                for k in range(3):
                    tried = (
                        Settings(inks=Inks(threshold=120 + k))
                        if change == "threshold"
                        else Settings(tracing=Tracing(40.0 + k))
                    )
                    early: list[float] = []
                    start = time.perf_counter()
                    job.run(tried, pixels, early=lambda _, told=early: told.append(time.perf_counter()))
                    told = early if pixels is not None else []
                    seconds.append([*told, time.perf_counter()][0] - start)
                cells.append(f"{1000 * statistics.median(seconds):.0f} ms")
        print(f"| {file.name} | " + " | ".join(cells) + " |")


def frame_table() -> None:
    """Print the time of a frame while panning and zooming 20,000 anchors."""
    from PySide6.QtTest import QTest

    from sobercrow.demo.tour import open_window
    from sobercrow.desktop.camera import Camera

    window = open_window(PICTURES / "pen-lettering.png")
    artwork = window.document.artwork
    assert artwork is not None
    shapes = list(artwork.shapes)
    row = 0
    while sum(s.anchor_count for s in shapes) < 20_000:
        row += 1
        shapes += [s.moved(0.0, 45.0 * row) for s in artwork.shapes]
    many = Artwork((Layer("Ink", tuple(shapes)),), artwork.width_px, artwork.height_px, artwork.dpi)
    window.document.presentation = replace(window.document.presentation, artwork=many)
    canvas = window.canvas
    print(f"\n| view, {many.anchor_count} anchors | median frame |\n|---|---|")
    for showing in [b for b, made in window.view_bar.buttons.items() if made.isVisible()]:
        window.show_as(showing)
        seconds = []
        for k in range(40):
            zoom = 0.35 * 1.02**k
            canvas.set_camera(Camera(900 + 2 * k, 1100 + 3 * k, zoom))
            start = time.perf_counter()
            canvas.grab()
            seconds.append(time.perf_counter() - start)
        print(f"| {showing.value} | {1000 * statistics.median(seconds):.1f} ms |")
    QTest.qWait(1)
    window.document.close()


def growth_table() -> None:
    """Print how the time grows with the picture: the page repeated, so that its borders grow with its area."""
    grey = page()[:1000, :1000]
    print("\n| megapixels | threshold + trace | per border of the smallest |\n|---|---|---|")
    first = 0.0
    for times in (1, 2, 4):
        picture = Picture(np.repeat(np.tile(grey, (times, times))[..., None], 3, axis=2), 300.0)
        seconds = best_of(lambda picture=picture: trace(separate(picture, Inks()), Tracing()), 3)
        first = first or seconds
        print(f"| {times**2} | {1000 * seconds:.0f} ms | {seconds / first / times**2:.2f} × |")


def stop_table() -> None:
    """Print how long a stop takes, asked for at several moments of a trace of the page."""
    picture = Picture(np.repeat(page()[..., None], 3, axis=2), 300.0)
    Job(picture).run(Settings())
    waits = []
    for moment in np.arange(0.1, 2.0, 0.1):
        asked = time.perf_counter() + moment
        try:
            Job(picture).run(Settings(), cancelled=lambda asked=asked: time.perf_counter() > asked)
        except Cancelled:
            waits.append(time.perf_counter() - asked)
    print(f"\nstops: {len(waits)}, median {1000 * statistics.median(waits):.0f} ms, longest {1000 * max(waits):.0f} ms")


def large_table() -> None:
    """Print the peak memory of 50 megapixels: the page repeated."""
    grey = np.tile(page(), (2, 3))[:7000, :7150]
    Job(Picture(np.repeat(grey[..., None], 3, axis=2), 300.0)).run(Settings())
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(f"\n{grey.size / 1e6:.0f} megapixels: peak memory {peak:.0f} MB")


if __name__ == "__main__":
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    page_table()
    draft_table()
    frame_table()
    growth_table()
    stop_table()
    large_table()
