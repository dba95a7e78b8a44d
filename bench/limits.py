"""Pictures that ask for much: time, peak memory, what came of them, and how soon work stops: `python bench/limits.py`.

Every picture is traced in a process of its own as `sober-crow trace` would. With `--stops N` work is begun N times a
picture and stopped at a random moment; the time until it has ended is told, and where it was at the latest ends.
"""

from __future__ import annotations

import argparse
import statistics
import subprocess
import sys
import threading
import time
import traceback
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

import cv2
import numpy as np
from PIL import Image, ImageDraw, ImageFont

from sobercrow.core.errors import BudgetError, Cancelled, SoberCrowError
from sobercrow.core.first_sight import first_settings
from sobercrow.core.job import Job
from sobercrow.core.picture.picture import Picture
from sobercrow.core.stopping import stoppable
from words import MEASURED_FACES

RATIO = 3 / 4


def lettering(megapixels: float, grain: float = 12.0, seed: int = 1) -> np.ndarray:
    """A page of grainy lettering: the same drawing at every size, its grain as fine as its pixels."""
    width, height = _size(megapixels)
    sheet = Image.new("L", (width, height), 235)
    pen = ImageDraw.Draw(sheet)
    font = ImageFont.truetype(str(MEASURED_FACES["serif"]), width // 9)
    for n, line in enumerate(["kite & line", "fold paper", "wind spar", "bridle sail", "reel knot"]):
        pen.text((width // 14, height * (n + 0.4) / 5.6), line, font=font, fill=30)
    grey = cv2.GaussianBlur(np.asarray(sheet, dtype=np.float32), (0, 0), 0.7)
    noise = np.random.default_rng(seed).standard_normal(grey.shape, dtype=np.float32)
    return _tones(grey + grain * cv2.GaussianBlur(noise, (0, 0), 0.6) * 1.6)


def halftone(megapixels: float) -> np.ndarray:
    """A soft picture printed in dots 6 px apart."""
    width, height = _size(megapixels)
    y, x = np.mgrid[:height, :width].astype(np.float32)
    tone = 0.5 + 0.4 * np.sin(x / width * 7) * np.cos(y / height * 5)
    dots = 0.5 + 0.25 * (np.cos((x + y) * np.pi / 4.2) + np.cos((x - y) * np.pi / 4.2))
    return np.where(dots < tone, 255, 0).astype(np.uint8)


def dither(megapixels: float) -> np.ndarray:
    """A soft picture in two tones by error diffusion."""
    width, height = _size(megapixels)
    y, x = np.mgrid[:height, :width].astype(np.float32)
    tone = 127 + 110 * np.sin(x / width * 7) * np.cos(y / height * 5)
    return np.asarray(Image.fromarray(_tones(tone)).convert("1").convert("L"))


def stipple(megapixels: float) -> np.ndarray:
    """Dots of a pen, thick where it is dark."""
    width, height = _size(megapixels)
    random = np.random.default_rng(3)
    sheet = np.full((height, width), 245, np.uint8)
    places = random.uniform(0, 1, (width * height // 60, 2))
    kept = random.uniform(0, 1, len(places)) < 0.5 + 0.5 * np.sin(places[:, 0] * 9) * np.cos(places[:, 1] * 7)
    for px, py in places[kept]:
        cv2.circle(sheet, (int(px * width), int(py * height)), int(random.integers(1, 3)), 30, -1, cv2.LINE_AA)
    return sheet


def noise(megapixels: float) -> np.ndarray:
    """Grey noise."""
    width, height = _size(megapixels)
    return np.random.default_rng(4).integers(0, 256, (height, width), dtype=np.uint8)


def colour_noise(megapixels: float) -> np.ndarray:
    """Noise in colour."""
    width, height = _size(megapixels)
    return np.random.default_rng(4).integers(0, 256, (height, width, 3), dtype=np.uint8)


def photograph(megapixels: float) -> np.ndarray:
    """What a photograph is like: soft shapes in many colours, at all sizes, and a little grain."""
    width, height = _size(megapixels)
    random = np.random.default_rng(5)
    made = np.zeros((height, width, 3), np.float32)
    for level in range(2, 9):
        coarse = random.standard_normal((max(3, height >> (10 - level)), max(3, width >> (10 - level)), 3))
        made += cv2.resize(coarse.astype(np.float32), (width, height), interpolation=cv2.INTER_CUBIC) * 2.0**-level
    return _tones(128 + 260 * made + 4 * random.standard_normal(made.shape, dtype=np.float32))


PICTURES: dict[str, Callable[[float], np.ndarray]] = {
    one.__name__: one for one in (lettering, halftone, dither, stipple, noise, colour_noise, photograph)
}
USUAL = [*(("lettering", size) for size in (12, 24, 50, 100)), *((name, 4) for name in PICTURES if name != "lettering")]


def _size(megapixels: float) -> tuple[int, int]:
    height = round((megapixels * 1e6 / RATIO) ** 0.5)
    return round(height * RATIO), height


def _tones(values: np.ndarray) -> np.ndarray:
    return np.clip(np.rint(values), 0, 255).astype(np.uint8)


def _memory(key: str) -> int:
    """How many bytes this process takes up now (VmRSS), or took at most (VmHWM); see proc(5)."""
    lines = Path("/proc/self/status").read_text().splitlines()
    return 1024 * next(int(line.split()[1]) for line in lines if line.startswith(key))


def _peak_of_now_on() -> int:
    """Forget what was taken up until now; return what is."""
    Path("/proc/self/clear_refs").write_text("5")
    return _memory("VmRSS")


def picture_of(name: str, megapixels: float) -> Picture:
    """Return one of the pictures in memory."""
    pixels = PICTURES[name](megapixels)
    return Picture(np.repeat(pixels[..., None], 3, axis=2) if pixels.ndim == 2 else pixels, 300.0)


def trace_one(name: str, megapixels: float) -> None:
    """Trace one and print its row."""
    picture = picture_of(name, megapixels)
    before = _peak_of_now_on()
    start = time.perf_counter()
    try:
        job = Job(picture)
        results = job.run(first_settings(job))
        shapes = results.artwork.shapes
        decided = f"{results.settings.tracing.effective_speck_px2:.0f} px²"
        made = f"{len(shapes)} shapes, {sum(s.anchor_count for s in shapes)} anchors, specks {decided}"
    except SoberCrowError as fault:
        made = str(fault)
    seconds = time.perf_counter() - start
    peak = _memory("VmHWM")
    per_pixel = (peak - before) / (picture.width * picture.height)
    print(f"| {name} {megapixels:g} MP | {seconds:.1f} | {peak / 1e9:.2f} | {per_pixel:.0f} | {made} |", flush=True)


def stop_one(name: str, megapixels: float, times: int, within_s: float) -> None:
    """Stop the tracing of one at random moments, and print how long that took."""
    random = np.random.default_rng(7)
    picture = picture_of(name, megapixels)
    waits: list[tuple[float, str]] = []
    for _ in range(times):
        asked = threading.Event()

        def work(asked: threading.Event = asked) -> None:
            with suppress(Cancelled, BudgetError):
                job = Job(picture)
                with stoppable(asked.is_set):
                    job.run(first_settings(job))

        thread = threading.Thread(target=work)
        thread.start()
        thread.join(float(random.uniform(0.0, within_s)))
        asked.set()
        start = time.perf_counter()
        thread.join(0.3)
        where = ""
        if thread.is_alive():
            frames = traceback.extract_stack(sys._current_frames()[thread.ident or 0])
            where = " < ".join(f"{f.name}:{f.lineno}" for f in reversed(frames[-5:]))
        thread.join()
        waits.append((time.perf_counter() - start, where))
    seconds = [wait for wait, _ in waits]
    print(
        f"| {name} {megapixels:g} MP | {statistics.median(seconds):.3f} | {max(seconds):.2f} |"
        f" {sum(wait > 0.5 for wait in seconds)} of {times} |",
        flush=True,
    )
    for wait, where in sorted(waits, reverse=True)[:6]:
        if where:
            print(f"    {wait:.2f} s: {where}", flush=True)


def main() -> None:
    """Make each picture, and print a row."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--picture", action="append", choices=sorted(PICTURES))
    parser.add_argument("--megapixels", type=float)
    parser.add_argument("--stops", type=int, default=0)
    parser.add_argument("--within", type=float, default=8.0, help="seconds")
    parser.add_argument("--here", action="store_true", help="in this process")
    options = parser.parse_args()
    rows = [(name, options.megapixels or 4.0) for name in options.picture or ()] or USUAL
    if options.here:
        for name, size in rows:
            if options.stops:
                stop_one(name, size, options.stops, options.within)
            else:
                trace_one(name, size)
        return
    last = "stopped late" if options.stops else "bytes a pixel | what came of it"
    print(f"| picture | {'median s | longest s' if options.stops else 's | peak GB'} | {last} |")
    for name, size in rows:
        more = ["--stops", str(options.stops), "--within", str(options.within)] if options.stops else []
        subprocess.run(
            [sys.executable, __file__, "--here", "--picture", name, "--megapixels", str(size), *more], check=False
        )


if __name__ == "__main__":
    main()
