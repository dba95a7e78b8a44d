"""Flat colour icons of an openly licensed set, and what is true of them: what bench/first_sight.py measures on.

A set is an unpacked npm package with an `icons.json` of SVG bodies, such as @iconify-json/twemoji (CC BY 4.0) or
@iconify-json/fxemoji (Apache 2.0).
"""

from __future__ import annotations

import io
import json
import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np
import resvg_py
from PIL import Image

from sobercrow.core.artwork.choice import Edited
from sobercrow.core.artwork.combining import trim
from sobercrow.core.artwork.joining import join_by_colour
from sobercrow.core.artwork.model import Artwork, Layer
from sobercrow.core.errors import EditError
from sobercrow.core.formats.svg_in import parse_svg

FINE = 8
LEAST_SHARE = 0.002
"""A colour that holds less of the picture is none to be found."""
LEAST_PX2 = 6.0
"""A visible region smaller than this is none to be counted."""
MOST_COLOURS = 9
PALE = 200
"""A ground no channel of which is darker is paper, which is left out of artwork."""
LEAST_SIDE_PX, BESIDE_PX, SEEN = 12.0, 0.6, 12
"""A side is seen if the colours so far on either side of it are the same all along, and differ by this in a channel."""


@dataclass(frozen=True, slots=True, eq=False)
class Icon:
    """An icon on white: as a picture, finely, and in figures."""

    name: str
    svg: str
    pixels: np.ndarray
    colours: np.ndarray
    regions: int
    anchors: int
    sides: np.ndarray
    """Straight sides that are seen, (n, 2, 2), at least `LEAST_SIDE_PX` long."""


def icons(folder: Path, count: int, size: int, seed: int) -> Iterator[Icon]:
    """Draw so many icons of a set at random, each size × size px; only flat ones of several colours count."""
    kept = json.loads((folder / "icons.json").read_text())
    names = sorted(kept["icons"])
    random = np.random.default_rng(seed)
    random.shuffle(names)
    made = 0
    for name in names:
        one = kept["icons"][name]
        body = one["body"]
        if re.search(r"gradient|opacity|filter|mask|clip|<use|image", body, re.IGNORECASE):
            continue
        width, height = (one.get(side, kept.get(side, 16)) for side in ("width", "height"))
        icon = icon_of(name, body, width, size) if width == height else None
        if icon is not None:
            made += 1
            yield icon
        if made == count:
            return


def drawn(svg: str, size: int, paper: str = "#ffffff") -> np.ndarray:
    """Return an SVG of one picture's size drawn by resvg on paper, (size, size, 3) uint8.

    It is made `size` wide and high before, as sizes in mm are drawn after rounding them to whole pixels of the screen.
    """
    svg = re.sub(r'(<svg[^>]*?)width="[^"]*" height="[^"]*"', rf'\1width="{size}" height="{size}"', svg, count=1)
    data = resvg_py.svg_to_bytes(svg_string=svg, width=size, height=size, background=paper, dpi=96)
    return np.asarray(Image.open(io.BytesIO(bytes(data))).convert("RGB"))


def icon_of(name: str, body: str, side: float, size: int) -> Icon | None:
    """Draw what an SVG holds in a square of so many units, `size` px wide; None if it is no flat picture of colours."""
    svg = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{size}" height="{size}" viewBox="0 0 {side} {side}">'
        f"{body}</svg>"
    )
    fine = drawn(svg, FINE * size)
    values, labels, flat = flat_labels(fine)
    if not 3 <= flat.sum() <= MOST_COLOURS or np.isin(labels, np.nonzero(flat)[0]).mean() < 0.97:
        return None
    regions = visible_regions(fine)
    placed = parse_svg(svg.encode(), name, 96.0)
    artwork = Artwork((Layer("All", placed.items),), float(size), float(size), 96.0)
    joined = _edited(join_by_colour, artwork)
    anchors = min(artwork.anchor_count, joined.anchor_count, _edited(trim, joined).anchor_count)
    colours = np.stack([values[flat] >> 16, values[flat] >> 8 & 255, values[flat] & 255], axis=1)
    sides = [side for side in straight_sides(artwork, LEAST_SIDE_PX) if _is_seen(side, fine)]
    return Icon(name, svg, drawn(svg, size), colours, regions, anchors, np.array(sides).reshape(-1, 2, 2))


def flat_labels(fine: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Return the colours of a fine picture as numbers, which each pixel has, and which of them fill flat places."""
    keys = fine.astype(np.int64) @ np.array([65536, 256, 1])
    values, own, counts = np.unique(keys.ravel(), return_inverse=True, return_counts=True)
    return values, own.reshape(keys.shape), counts >= LEAST_SHARE * keys.size


def visible_regions(fine: np.ndarray) -> int:
    """Return how many regions are seen in a picture drawn `FINE` times as large; a pale ground is none."""
    _, labels, flat = flat_labels(fine)
    ground = int(labels[0, 0]) if fine[0, 0].min() >= PALE else -1
    regions = 0
    for k in np.nonzero(flat)[0]:
        found, _, stats, _ = cv2.connectedComponentsWithStats((labels == k).astype(np.uint8), connectivity=8)
        large = stats[1:found, cv2.CC_STAT_AREA] >= LEAST_PX2 * FINE * FINE
        if k == ground:  # what lies around is no shape
            edge = np.unique(_connected(labels == k)[[0, -1], :])
            large[[e - 1 for e in edge if e > 0]] = False
        regions += int(large.sum())
    return regions


def straight_sides(artwork: Artwork, least_px: float) -> list[np.ndarray]:
    """Return the straight sides of all shapes that are at least so long, (2, 2) each."""
    sides = []
    for contour in (contour for shape in artwork.shapes for contour in shape.contours):
        for curve in contour.curves():
            legs = np.diff(curve, axis=0)
            way = curve[3] - curve[0]
            long = np.hypot(*way)
            if long >= least_px and np.abs(legs[:, 0] * way[1] - legs[:, 1] * way[0]).max() < 1e-3 * long:
                sides.append(curve[[0, 3]])
    return sides


def _is_seen(side: np.ndarray, fine: np.ndarray) -> bool:
    way = (side[1] - side[0]) / np.hypot(*(side[1] - side[0]))
    across = np.array((-way[1], way[0])) * BESIDE_PX
    on = side[0] + np.linspace(0.1, 0.9, 9)[:, None] * (side[1] - side[0])
    places = (np.stack([on + across, on - across]) * FINE).astype(int)
    if (places < 0).any() or (places >= fine.shape[0]).any():
        return False
    one, other = fine[places[..., 1], places[..., 0]].astype(int)
    apart = (np.abs(one - other).max(axis=1) > SEEN).all()
    return bool(apart and np.ptp(one, axis=0).max() <= SEEN and np.ptp(other, axis=0).max() <= SEEN)


def sides_drawn(sides: np.ndarray, artwork: Artwork) -> float:
    """Return the share of true sides that artwork draws as one line, within 1 px for seven tenths of them at least."""
    ours = straight_sides(artwork, 0.5 * LEAST_SIDE_PX)
    found = 0
    for a, b in sides:
        way = (b - a) / np.hypot(*(b - a))
        for side in ours:
            off = side - a
            along, across = off @ way, np.abs(off[:, 0] * way[1] - off[:, 1] * way[0])
            covered = min(along.max(), np.hypot(*(b - a))) - max(along.min(), 0.0)
            if across.max() < 1.0 and covered >= 0.7 * np.hypot(*(b - a)):
                found += 1
                break
    return found / len(sides) if len(sides) else 1.0


def _connected(mask: np.ndarray) -> np.ndarray:
    return np.asarray(cv2.connectedComponents(mask.astype(np.uint8), connectivity=8)[1])


def _edited(edit: Callable[[Artwork], Edited], artwork: Artwork) -> Artwork:
    """Return edited artwork, or the same where the edit finds nothing to do."""
    try:
        return edit(artwork).artwork
    except EditError:
        return artwork
