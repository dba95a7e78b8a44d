"""Every format read by libraries we did not write, the check, the plotter's way, large pictures: python hand_over.py.

Parts by name: python hand_over.py read check way large set
"""

from __future__ import annotations

import io
import resource
import sys
import time
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

import ezdxf
import ezdxf.bbox
import numpy as np
import pypdfium2
import resvg_py
import svgelements
from ezdxf import path as dxf_path
from PIL import Image

from sobercrow.core.artwork.model import Artwork, Layer, Shape
from sobercrow.core.formats.dxf import Curves, DxfSettings, dxf_bytes
from sobercrow.core.formats.hpgl import HpglSettings, hpgl_bytes, parse_hpgl
from sobercrow.core.formats.pdf import pdf_bytes
from sobercrow.core.formats.raster import RasterSettings, drawn, png_bytes
from sobercrow.core.formats.sets import SETS, HandOverSet, set_files
from sobercrow.core.formats.svg import svg_bytes
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.handover import route as routes
from sobercrow.core.handover.page import Page, Sheet, TrueSize, laid
from sobercrow.core.handover.purpose import CheckSettings, Purpose
from sobercrow.core.inspect.hand_over import KINDS, check
from sobercrow.core.job import Job
from sobercrow.core.picture.decode import decode_picture
from sobercrow.core.settings import Settings
from sobercrow.demo.make import PICTURES

sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))
from core.formats.test_hand_over_formats import sample
from drawings import glyph_contours, line_of, off
from figures import Figure
from planted import CELL_MM, planted, px

PAGES = (
    Sheet(),
    Sheet(TrueSize(width_mm=80.0), Page("A5", margin_mm=5.0)),
    Sheet(TrueSize(height_mm=333.0), Page("artwork")),
)
FOLLOW = {("doubled", "hidden"), ("stragglers", "narrow")}


def artworks(count: int) -> list[tuple[str, Artwork]]:
    """The demo pictures traced, seeded sheets of figures, and one of every kind of paint."""
    made = [("every paint", sample())]
    for path in sorted(PICTURES.glob("*.*")):
        picture = decode_picture(path.read_bytes(), path.name)
        made.append((path.name, Job(picture).run(Settings()).artwork))
    return made + [(f"seed {seed}", planted(seed)[0]) for seed in range(7000, 7000 + count)]


def read(count: int = 40) -> None:
    """Read every format of every artwork."""
    worst: dict[str, tuple[float, str]] = {}

    def note(what: str, value: float, name: str) -> None:
        worst[what] = max(worst.get(what, (0.0, "")), (value, name))

    files = 0
    for n, (name, artwork) in enumerate(artworks(count)):
        page = laid(artwork, PAGES[n % len(PAGES)])
        width_mm, height_mm = page.width_px * 25.4 / page.dpi, page.height_px * 25.4 / page.dpi
        dpi = 300.0 if max(width_mm, height_mm) < 300 else 100.0
        size = round(width_mm / 25.4 * dpi), round(height_mm / 25.4 * dpi)
        svg = svg_bytes(page)
        root = svgelements.SVG.parse(io.BytesIO(svg), ppi=25.4)
        note("SVG width off, mm (svgelements)", abs(root.width - width_mm), name)
        data = resvg_py.svg_to_bytes(
            svg_string=svg.decode(), background="#ffffff", width=size[0], height=size[1], dpi=300.0
        )
        wanted = np.array(Image.open(io.BytesIO(bytes(data))).convert("RGB")).astype(int)
        document = pypdfium2.PdfDocument(pdf_bytes(page))
        points = np.array(document.get_page_size(0)) * 25.4 / 72.0
        note("PDF page off, mm", float(np.abs(points - (width_mm, height_mm)).max()), name)
        pixels = np.array(document[0].render(scale=dpi / 72.0).to_pil().convert("RGB")).astype(int)
        h, w = min(pixels.shape[0], wanted.shape[0]), min(pixels.shape[1], wanted.shape[1])
        note("PDF from resvg's, mean of 255", float(np.abs(pixels[:h, :w] - wanted[:h, :w]).mean()), name)
        ours = drawn(page, (wanted.shape[1], wanted.shape[0]), "#ffffff")[..., :3].astype(int)
        note("PNG from resvg's, mean of 255", float(np.abs(ours - wanted).mean()), name)
        image = Image.open(io.BytesIO(png_bytes(page, RasterSettings(pixels=1000.0))))
        note("PNG dpi off", abs(image.info["dpi"][0] - image.size[0] / width_mm * 25.4), name)
        files += 3 + _dxf(page, name, note)
        if min(s.bounds()[0] for s in page.shapes) >= 0 and max(s.bounds()[2] for s in page.shapes) <= page.width_px:
            try:
                lines = parse_hpgl(hpgl_bytes(page, HpglSettings(overcut_mm=0.0)))
            except Exception as fault:
                note("plotter refused", 1.0, f"{name}: {fault}")
                continue
            own = _lines(page)
            note(
                "HP-GL off, mm",
                max(float(np.min([off(line.points, o).max() for o in own])) for line in lines[:60]),
                name,
            )
            files += 1
    print(f"{files} files")
    for what, (value, name) in worst.items():
        print(f"{what:40} {value:.5f}  ({name})")


def _lines(page: Artwork) -> list[np.ndarray]:
    scale, height = 25.4 / page.dpi, page.height_px * 25.4 / page.dpi
    seen = [(c, s) for k, s in enumerate(page.shapes) if k not in page.out_of_sight for c in s.contours]
    # what is filled is closed, whether or not its ends meet
    closed = [c if c.closed or not s.is_filled else Contour(c.points, c.kinds) for c, s in seen]
    return [line_of(c, 0.2) * scale * (1, -1) + (0, height) for c in closed]


def _dxf(page: Artwork, name: str, note) -> int:
    own = np.vstack(_lines(page))
    for curves in Curves:
        drawing = ezdxf.read(io.StringIO(dxf_bytes(page, DxfSettings(curves=curves, tolerance_mm=0.02)).decode()))
        note(f"DXF {curves} audit findings", float(len(drawing.audit().errors)), name)
        box = ezdxf.bbox.extents(drawing.modelspace())
        low, high = own.min(axis=0), own.max(axis=0)
        away = np.abs(np.array([box.extmin.x, box.extmin.y, box.extmax.x, box.extmax.y]) - (*low, *high)).max()
        note(f"DXF {curves} extents off, mm", float(away), name)
        points = [np.array([(v.x, v.y) for v in dxf_path.make_path(e).flattening(0.002)]) for e in drawing.modelspace()]
        for k in np.random.default_rng(0).permutation(len(points))[:12]:
            note(f"DXF {curves} off, mm", float(np.min([off(points[k], line).max() for line in _lines(page)])), name)
    return 2


def checked(count: int = 120) -> None:
    """Faults planted in clean artwork."""
    found, total, false, told, seconds = Counter(), Counter(), Counter(), 0, 0.0
    for seed in range(20_000, 20_000 + count):
        artwork, faults = planted(seed)
        for purpose in (Purpose.CUT, Purpose.PLATES):
            start = time.perf_counter()
            got = [(f.kind.id, s) for f in check(artwork, CheckSettings(purpose)) for s in f.spots]
            seconds += time.perf_counter() - start
            counted = {kind.id for kind in KINDS if purpose in kind.purposes}

            def is_near(fault, spot) -> bool:
                return np.hypot(fault.x - spot.x, fault.y - spot.y) < 0.6 * px(CELL_MM)

            for fault in faults:
                if fault.kind in counted:
                    total[fault.kind] += 1
                    found[fault.kind] += any(kind == fault.kind and is_near(fault, s) for kind, s in got)
            told += len(got)
            for kind, spot in got:
                false[kind] += not any(
                    (f.kind == kind or (f.kind, kind) in FOLLOW) and is_near(f, spot) for f in faults
                )
    print(
        f"found {sum(found.values())} of {sum(total.values())}: {100 * sum(found.values()) / sum(total.values()):.1f} %"
    )
    print("missed", {kind: total[kind] - found[kind] for kind in total if total[kind] > found[kind]})
    print(f"false {sum(false.values())} of {told} told: {100 * sum(false.values()) / told:.1f} %", dict(+false))
    page = many(20_000)
    start = time.perf_counter()
    check(page, CheckSettings(Purpose.CUT))
    print(f"{page.anchor_count} anchors: {time.perf_counter() - start:.2f} s; {seconds / count / 2:.3f} s a sheet")


def many(anchors: int, seed: int = 5) -> Artwork:
    """Letters in rows until there are so many anchors."""
    random = np.random.default_rng(seed)
    glyphs = {ch: glyph_contours(ch, 60.0) for ch in "abdeghkmnpqrstuyABDEGHKMNPRS&38"}
    shapes, count = [], 0
    while count < anchors:
        ch = str(random.choice(list(glyphs)))
        x, y = 70.0 * (len(shapes) % 40), 80.0 * (len(shapes) // 40)
        shapes.append(Shape(tuple(c.moved(x + 20, y + 20) for c in glyphs[ch]), "#23262b"))
        count += shapes[-1].anchor_count
    return Artwork((Layer("Black", tuple(shapes)),), 2900.0, 80.0 * (len(shapes) // 40 + 2), 300.0)


def way() -> None:
    """The way between 700 contours against 20 restarts of a long search from random orders."""
    for seed in (0, 1, 2):
        random = np.random.default_rng(seed)
        shapes, count = [], 0
        while count < 700:
            x, y = random.uniform(0, 4000, 2)
            own = glyph_contours(str(random.choice(list("ABDOP80&egaSIL"))), float(random.uniform(30, 160)))
            shapes.append(Shape(tuple(c.moved(x, y) for c in own), "#000000"))
            count += len(own)
        artwork = Artwork((Layer("Black", tuple(shapes)),), 4200.0, 4200.0, 300.0)
        start = time.perf_counter()
        made = routes.route(artwork, 0.005)
        seconds = time.perf_counter() - start
        nests = routes.Nests.of(made.lines)
        wrong = sum(outer < k for k in range(len(made.lines)) for outer in nests.around(k))
        rest, best = np.array((0.0, 4200 * 25.4 / 300)), np.inf
        for again in range(20):
            best = min(best, _restarted(made.lines, nests, rest, again))
        told = f"{len(made.lines)} contours: {made.travel_mm:.0f} mm of {made.unsorted_mm:.0f}"
        print(f"{told}, {made.travel_mm / best:.3f} × the best of 20, {seconds:.2f} s, {wrong} out of order")


def _restarted(lines, nests, rest, seed: int) -> float:
    random = np.random.default_rng(seed).random(len(lines))
    depth = np.array([len(nests.around(k)) for k in range(len(lines))])
    way = (2 * np.lexsort((random, -depth))).tolist()
    made = list(lines)
    for _ in range(6):
        way = routes._shortened(made, nests, way, rest)
        made = routes._begun_near(made, way, rest)
    way = routes._shortened(made, nests, way, rest)
    return routes.travel_of(
        [made[s >> 1].turned() if s & 1 and not made[s >> 1].closed else made[s >> 1] for s in way], rest
    )


def large() -> None:
    """A picture of 12,000 × 12,000."""
    page = laid(many(20_000), Sheet(page=Page("own", width_mm=300.0, height_mm=300.0)))
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    start = time.perf_counter()
    data = png_bytes(page, RasterSettings(pixels=12_000.0))
    most = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    told = f"12,000 × 12,000: {time.perf_counter() - start:.1f} s, {len(data) / 1e6:.1f} MB"
    print(f"{told}, {most / 1e6:.2f} GB at most ({before / 1e6:.2f} before)")


def sets() -> None:
    """A set of six files for 20,000 anchors."""
    page = many(20_000)
    start = time.perf_counter()
    made = set_files(page, _client_set(), "letters")
    print(f"{len(made)} files for {page.anchor_count} anchors: {time.perf_counter() - start:.1f} s")


def figures() -> Iterator[Figure]:
    """Yield how long the check and a set take."""
    check(many(2000, 6), CheckSettings(Purpose.CUT))
    for name, work, wanted in (
        ("check of 20,000 anchors", lambda page: check(page, CheckSettings(Purpose.CUT)), 0.7),
        ("set of six files for 20,000 anchors", lambda page: set_files(page, _client_set(), "letters"), 3.0),
    ):
        page = many(20_000)
        start = time.perf_counter()
        work(page)
        yield Figure(name, time.perf_counter() - start, wanted)


def _client_set() -> HandOverSet:
    return next(one for one in SETS if one.client_page)


PARTS = {"read": read, "check": checked, "way": way, "large": large, "set": sets}

if __name__ == "__main__":
    for part in sys.argv[1:] or PARTS:
        PARTS[part]()
