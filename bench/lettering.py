"""How surely set lettering is found again: `python bench/lettering.py --fonts FOLDER`.

Words of 4 to 12 letters in open typefaces, such as unpacked Debian packages of fonts, at 40, 80 and 160 px per em:
clean, blurred 0.8 px and JPEG 40, and as photos of paper in falling light turned by 2°; straight, and on arcs
of 60–300°. The library searched holds all of them. `--tuning` takes other faces. Faces whose outlines agree within 1 %
of the em on the word's letters count as one.
"""

from __future__ import annotations

import argparse
import math
import random
import time
import zlib
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np
from PIL import Image, ImageDraw, ImageFont

from cleanup_scenes import on_dim_paper
from distances import both_ways
from first_sight import first_result
from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.errors import SoberCrowError
from sobercrow.core.geometry._nearest_kernels import nearest_segments
from sobercrow.core.lettering.area import lettering_in_area, set_in_area
from sobercrow.core.lettering.baseline import Arc
from sobercrow.core.lettering.glyphs import glyphs_of
from sobercrow.core.lettering.index import Index, read_index
from sobercrow.core.lettering.laying import outlines_of
from sobercrow.core.lettering.letters import lettering_in
from sobercrow.core.lettering.matches import Match
from sobercrow.core.lettering.matching import match
from sobercrow.core.lettering.setting import set_anew
from sobercrow.core.lettering.typefaces import Face, all_files
from sobercrow.core.picture.picture import Picture
from words import spoil

WORDS = (
    "Kite",
    "Harbour",
    "meadowlark",
    "Windvane",
    "Quayside",
    "JUNIPER",
    "Fieldmouse",
    "gazetteer",
    "Blackthorn",
    "rope",
)
TUNED_ON = ("Kestrel", "paperkite", "hexagon", "QUARTZ", "Yellowhammer")
SIZES_PX = (40, 80, 160)
FINER = 4
MARGIN_EM = 0.8
TWIN_EM = 0.01


@dataclass(frozen=True, slots=True, eq=False)
class Scene:
    """A word in a face: the picture, its size, and the arc it stands on, if it does."""

    face: Face
    text: str
    size: int
    grey: np.ndarray
    arc: tuple[float, float, float] | None
    outlines: list[np.ndarray]


def scene(face: Face, text: str, size: int, sweep_deg: float | None) -> Scene | None:
    """Set a word straight or along an arc of so many degrees; None if the face cannot be drawn."""
    glyphs = glyphs_of(face)
    if not all(glyphs.has(character) and glyphs.contours(character) for character in text):
        return None
    advances = [glyphs.advance(character) * size for character in text]
    total, margin = sum(advances), MARGIN_EM * size
    if not total:
        return None
    font = ImageFont.truetype(face.path, size * FINER, face.number, layout_engine=ImageFont.Layout.BASIC)
    side = 3 * size * FINER
    radius = total / math.radians(sweep_deg) if sweep_deg else None
    if radius is None:
        width, height = total + 2 * margin, 1.6 * size + 2 * margin
    else:
        width = height = 2 * (radius + size) + 2 * margin
    sheet = np.zeros((math.ceil(height) * FINER, math.ceil(width) * FINER), dtype=np.uint8)
    along = 0.0
    outlines: list[np.ndarray] = []
    middle = (width / 2, height / 2)
    for character, advance in zip(text, advances, strict=True):
        drawn = Image.new("L", (side, side))
        ImageDraw.Draw(drawn).text((side / 2, side / 2), character, font=font, fill=255, anchor="ls")
        if radius is None:
            x, y, turn = margin + along, margin + 1.1 * size, 0.0
        else:
            angle = -math.pi / 2 + (along + advance / 2 - total / 2) / radius
            x, y = middle[0] + radius * math.cos(angle), middle[1] + radius * math.sin(angle)
            turn = angle + math.pi / 2
            x, y = x - advance / 2 * math.cos(turn), y - advance / 2 * math.sin(turn)
        c, s = math.cos(turn), math.sin(turn)
        there = np.array([[c, -s, x * FINER], [s, c, y * FINER]])
        there[:, 2] -= there[:, :2] @ (side / 2, side / 2)
        there[:, 2] += there[:, :2] @ (0.5, 0.5) - 0.5
        shape = (sheet.shape[1], sheet.shape[0])
        sheet = np.maximum(sheet, cv2.warpAffine(np.asarray(drawn), there, shape, flags=cv2.INTER_CUBIC))
        if radius is None:
            outlines += [contour.scaled(size).moved(x, y).curves() for contour in glyphs.contours(character)]
        along += advance
    grey = 255 - cv2.resize(sheet, None, fx=1 / FINER, fy=1 / FINER, interpolation=cv2.INTER_AREA)
    return Scene(face, text, size, grey, (*middle, radius) if radius is not None else None, outlines)


def treated(grey: np.ndarray, treatment: str, seed: int) -> np.ndarray:
    """Return a picture clean, compressed, or as a photo."""
    if treatment == "clean":
        return np.repeat(grey[..., None], 3, axis=2)
    if treatment == "JPEG":
        return np.repeat(spoil(grey, 0.8, 40)[..., None], 3, axis=2)
    height, width = grey.shape
    turn = cv2.getRotationMatrix2D((width / 2, height / 2), 2.0, 1.0)
    return on_dim_paper(cv2.warpAffine(grey, turn, (width, height), flags=cv2.INTER_CUBIC, borderValue=255), seed)


def are_twins(one: Face, other: Face, text: str) -> bool:
    """Tell whether the outlines of two faces agree on some letters, brought to one height of the whole word."""
    if one == other:
        return True
    try:
        outlines = [[outlines_of(face, character) for character in text] for face in (one, other)]
    except SoberCrowError:
        return False
    highs = [np.concatenate([glyph.starts for glyph in own])[:, 1] for own in outlines]
    ratio = np.ptp(highs[0]) / max(np.ptp(highs[1]), 1e-6)
    for glyph, twin in zip(*outlines, strict=True):
        a, b, c = glyph.starts, glyph.ends, twin.starts * ratio
        shift = 0.5 * (a.min(axis=0) + a.max(axis=0) - c.min(axis=0) - c.max(axis=0))
        if nearest_segments(c + shift, a, b, 0.2)[0].clip(max=0.2).mean() > TWIN_EM:
            return False
    return True


def is_same(face: Face, one: str, other: str) -> bool:
    """Tell whether two characters are the same, or look the same in a face."""
    if one == other:
        return True
    a, b = outlines_of(face, one).starts, outlines_of(face, other).starts
    return len(a) == len(b) and bool(np.abs(a - b).max() < 1e-3)


def has_letters(face: Face) -> bool:
    """Tell whether a face has letters, not pictures of keys or tokens: a ring for an o, and one stroke for an l."""
    glyphs = glyphs_of(face)
    return [len(glyphs.contours(character)) for character in "ol"] == [2, 1]


def faces_for(index: Index, count: int, tuning: bool) -> list[Face]:
    """Return faces drawn at random, of other families for tuning than for measuring."""
    drawn = [
        face for face in index.faces if (zlib.crc32(face.family.encode()) % 3 == 0) is tuning and has_letters(face)
    ]
    random.Random(11).shuffle(drawn)
    return drawn[: 2 * count]


def look(made: Scene, treatment: str, seed: int, index: Index) -> tuple[list[Match], float]:
    """Match one scene; what was found and how long the search took."""
    pixels = treated(made.grey, treatment, seed)
    artwork = first_result(np.ascontiguousarray(pixels)).artwork
    began = time.perf_counter()
    found = match([artwork.shapes[k] for k in sorted(lettering_in(artwork))], index)
    return found, time.perf_counter() - began


def set_table(index: Index, count: int, tuning: bool) -> None:
    """Print how far outlines set anew, and traced ones, are off the true ones: mean of both ways, straight words.

    Once from the traced letters, and once from the area of the picture they are in.
    """
    print("| | from | set anew, mean px | traced | set ÷ traced | right face |")
    print("|---|---|---|---|---|---|")
    words = TUNED_ON if tuning else WORDS
    for size, treatment in ((80, "clean"), (80, "JPEG"), (24, "JPEG")):
        rows: dict[str, list[tuple[float, ...]]] = {"traced letters": [], "an area": []}
        for k, face in enumerate(faces_for(index, count, tuning)[:count]):
            made = scene(face, words[k % len(words)], size, None)
            if made is None:
                continue
            grey = np.ascontiguousarray(treated(made.grey, treatment, k))
            artwork = first_result(grey).artwork
            plain = _off(artwork, made)
            for start, own in rows.items():
                try:
                    found, fresh = _set_from(start, artwork, grey, index)
                except SoberCrowError:
                    continue
                off = _off(fresh, made)
                own.append((off, plain, off / plain, are_twins(face, found.face, made.text)))
        for start, own in rows.items():
            mean, middle = np.mean(own, axis=0), np.median(np.array(own), axis=0)
            figures = f"{mean[0]:.3f} ({middle[0]:.3f} in the median) | {mean[1]:.3f} | {middle[2]:.2f} | {mean[3]:.0%}"
            print(f"| {size} px, {treatment} | {start} | {figures} |")


def _set_from(start: str, artwork: Artwork, grey: np.ndarray, index: Index) -> tuple[Match, Artwork]:
    """Set the word anew from traced letters, or from the picture's middle part."""
    if start == "an area":
        height, width = grey.shape[:2]
        pixels = grey if grey.ndim == 3 else np.repeat(grey[..., None], 3, axis=2)
        picture, box = Picture(pixels, 300.0), (2.0, 2.0, width - 2.0, height - 2.0)
        found = match(lettering_in_area(picture, box), index)[0]
        return found, set_in_area(artwork, box, found, 0.0, "#000000").artwork
    chosen = lettering_in(artwork)
    found = match([artwork.shapes[n] for n in sorted(chosen)], index)[0]
    return found, set_anew(artwork, Choice(shapes=chosen), found).artwork


def _off(artwork: Artwork, made: Scene) -> float:
    return float(both_ways([c.curves() for s in artwork.shapes for c in s.contours], made.outlines).mean())


def main() -> None:
    """Measure and print the table."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--fonts", type=Path, required=True)
    parser.add_argument("--cache", type=Path)
    parser.add_argument("--count", type=int, default=80)
    parser.add_argument("--tuning", action="store_true")
    parser.add_argument("--set", action="store_true", help="measure outlines set anew instead")
    parser.add_argument("--misses", action="store_true")
    asked = parser.parse_args()
    began = time.perf_counter()
    files = all_files([asked.fonts])
    index = read_index(files, asked.cache)
    print(f"{len(index.faces)} faces of {len(files)} files, index read in {time.perf_counter() - began:.1f} s")
    if asked.set:
        set_table(index, asked.count, asked.tuning)
        return
    words = TUNED_ON if asked.tuning else WORDS
    print("| | first | among five | letters right | radius off | middle off | deviation px | search s |")
    print("|---|---|---|---|---|---|---|---|")
    for treatment in ("clean", "JPEG", "photo"):
        rows: list[tuple[float, ...]] = []
        arcs: list[tuple[float, float]] = []
        for k, face in enumerate(faces_for(index, asked.count, asked.tuning)):
            sweep = None if k % 2 == 0 else random.Random(k).uniform(60.0, 300.0)
            made = scene(face, words[k % len(words)], SIZES_PX[k // 2 % 3], sweep)
            if made is None:
                continue
            try:
                found, seconds = look(made, treatment, 100 + k, index)
            except SoberCrowError as error:
                found, seconds = [], 0.0
                if asked.misses:
                    print("   ", treatment, face.name, made.text, made.size, error)
            twins = [are_twins(made.face, one.face, made.text) for one in found[:5]]
            text = "".join(found[0].text.split()) if found else ""
            right = (
                np.mean([a == b for a, b in zip(text, made.text, strict=False)]) if len(text) == len(made.text) else 0
            )
            rows.append(
                (bool(twins[:1] == [True]), any(twins), right, found[0].deviation_px if found else 9.0, seconds)
            )
            if made.arc is not None and found and treatment != "photo":
                base = found[0].baseline
                if isinstance(base, Arc):
                    x, y, radius = made.arc
                    arcs.append((abs(base.radius_px / radius - 1), math.hypot(base.x - x, base.y - y) / radius))
                else:
                    arcs.append((1.0, 1.0))
            if asked.misses and found and (twins[:1] != [True] or text != made.text):
                arc = f"{sweep:.0f}°" if sweep else "straight"
                off = found[0].deviation_px
                print(
                    f"    {treatment} {face.name} {made.text} {made.size} {arc}:",
                    found[0].face.name,
                    text,
                    f"{off:.2f}",
                )
            if len(rows) == asked.count:
                break
        first, five, right, off, seconds = np.mean(rows, axis=0)
        off = np.median([row[3] for row in rows])
        bent = [f"{np.mean(np.array(arcs)[:, n] < 0.01):.0%} within 1 %" if arcs else "–" for n in range(2)]
        shares = " | ".join(f"{share:.1%}" for share in (first, five, right))
        print(f"| {treatment} | {shares} | {bent[0]} | {bent[1]} | {off:.3f} | {seconds:.2f} |")


if __name__ == "__main__":
    main()
