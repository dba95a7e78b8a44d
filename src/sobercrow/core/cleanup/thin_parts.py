"""One ink for every thin part of a picture drawn in flat colours: a letter, a line, a dot."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import cv2
import numpy as np

from sobercrow.core.arrays import F32, F64, I64
from sobercrow.core.cleanup.flat_picture import NEARLY_PURE, Flags, FlatColours, nearest

MOST_DEPTH_PX = 3.6
"""What is nowhere deeper than this is thin."""
MOST_SHARE = 0.06
"""And no larger than this share of the picture."""
REACH_PX = 4
"""So far around a part the colours it was drawn in have been smeared."""
MIXED_SHARE, HELD = 0.04, 0.03
"""An ink is in a part if it holds more than this share of it; so much less like the others may it be, as a cosine."""
BEYOND_TONES = 60.0
"""An ink is unlikely if luma, which keeps its resolution, goes beyond its own: if so far, it is none."""
MOST_PARTS = 4000
RIM_REACH_PX, RIM_DEPTH_PX = 2, 1.4
SOFT = 6.0
"""Pixels further than this from every ink, in tones, are mixtures."""
BOTH_SIDES = 0.2
"""A rim touches either of two inks along such a share of its outline;"""
FLECK_PX, BY_A_FLECK = 8, 0.08
"""a fleck of so many pixels, which may lie where more inks meet, the second along so much of it."""


@dataclass(frozen=True, slots=True, eq=False)
class ThinPart:
    """A thin part: where it is, in rows and columns of the picture, and the one ink it may have on its ground."""

    rows: slice
    columns: slice
    inside: Flags
    ground: int
    ink: int


def find_mixed_parts(drawn: F32, seen: F32, colours: FlatColours) -> list[ThinPart]:
    """Return the thin parts of a picture (n, h, w) that are not drawn in the one ink they point to, with that.

    `seen` is the picture as it was decoded. Compression smears colours, but keeps their sum: what a part and its
    surroundings differ from the ground, added up, points to its ink.
    """
    _, own = nearest(drawn, colours.all)
    parts: list[ThinPart] = []
    for ground in range(len(colours.places)):
        for rows, columns, inside in _shallow(own != ground, REACH_PX, MOST_DEPTH_PX, 5, MOST_SHARE):
            ink = _one_ink(own[rows, columns], seen[:, rows, columns], inside, ground, colours.all)
            if ink is not None:
                parts.append(ThinPart(rows, columns, inside, ground, ink))
    return parts


def find_rims(drawn: F32, colours: FlatColours) -> list[ThinPart]:
    """Return the thin parts of a third ink that lie along a border of two others, each to be a mixture of those."""
    near, own = nearest(drawn, colours.all)
    none = len(colours.all)
    own[near > SOFT] = none  # a mixture of two inks may be the nearest to a third
    parts: list[ThinPart] = []
    for ink in range(none):
        for rows, columns, inside in _shallow(own == ink, RIM_REACH_PX, RIM_DEPTH_PX, 3):
            around = (cv2.dilate(inside.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0) & ~inside
            around &= (own[rows, columns] != none) & (own[rows, columns] != ink)
            touched = np.bincount(own[rows, columns][around], minlength=none) / max(around.sum(), 1)
            first, second = (int(n) for n in np.argsort(-touched, kind="stable")[:2])
            if touched[second] >= (BOTH_SIDES if inside.sum() > FLECK_PX else BY_A_FLECK):
                parts.append(ThinPart(rows, columns, inside, first, second))
    return parts


def _shallow(
    mask: Flags, reach_px: int, most_depth_px: float, neighbours: int, most_share: float = 1.0
) -> Iterator[tuple[slice, slice, Flags]]:
    """Yield parts of a mask (h, w) that are nowhere deep: rows and columns with a margin, and where in them they are.

    None if there are too many. Depths are measured over so many `neighbours`; a part is no larger than a share of all.
    """
    filled = mask.astype(np.uint8)
    count, region, stats, _ = cv2.connectedComponentsWithStats(filled, connectivity=8)
    if count > MOST_PARTS:
        return
    depth = cv2.distanceTransform(filled, cv2.DIST_L2, neighbours)
    for k in range(1, count):
        x, y, width, height, size = (int(v) for v in stats[k])
        if size > most_share * mask.size:
            continue
        rows = slice(max(y - reach_px, 0), y + height + reach_px)
        columns = slice(max(x - reach_px, 0), x + width + reach_px)
        inside = region[rows, columns] == k
        if depth[rows, columns][inside].max() <= most_depth_px:
            yield rows, columns, inside


def _one_ink(own: I64, seen: F32, inside: Flags, ground: int, colours: F64) -> int | None:
    """The ink a part points to; None if it is drawn in that one already."""
    held = np.bincount(own[inside], minlength=len(colours)) / inside.sum()
    around = cv2.dilate(inside.astype(np.uint8), np.ones((2 * REACH_PX + 1,) * 2, np.uint8)) > 0
    mine = around & (inside | (own == ground))
    total = (seen[:, mine].T - colours[ground]).sum(axis=0)
    ways = colours - colours[ground]
    alike = (ways @ total) / np.maximum(np.linalg.norm(ways, axis=1) * np.linalg.norm(total), 1e-9)
    alike[ground] = -np.inf
    alike[held > MIXED_SHARE] += HELD
    shares = (seen[0, inside][:, None] - colours[ground, 0]) / np.where(np.abs(ways[:, 0]) < 1.0, np.inf, ways[:, 0])
    beyond = (shares - 1.0) * np.abs(ways[:, 0]) / BEYOND_TONES
    alike -= (np.clip(beyond, 0.0, None) ** 2).mean(axis=0)
    ink = int(alike.argmax())
    return None if held[ink] >= 1.0 - MIXED_SHARE else ink


def in_one_ink(drawn: F32, seen: F32, part: ThinPart, colours: F64) -> F32:
    """Return a part's pixels (n, rows, columns) as mixtures of its ground with its one ink.

    How much of it there is in a pixel follows from the luma that was `seen` there, or the chroma if they hardly differ
    in luma.
    """
    picture = drawn[:, part.rows, part.columns].copy()
    ground = colours[part.ground].astype(np.float32)[:, None]
    way = colours[part.ink].astype(np.float32)[:, None] - ground
    told = way if abs(float(way[0, 0])) < 0.5 * float(np.linalg.norm(way)) else way * np.eye(len(way), 1)
    there = seen[:, part.rows, part.columns][:, part.inside]
    share = np.clip(((there - ground) * told).sum(axis=0) / (told**2).sum(), 0.0, 1.0)
    share = np.where(share > 1.0 - NEARLY_PURE, 1.0, np.where(share < NEARLY_PURE, 0.0, share))
    picture[:, part.inside] = ground + share * way
    return picture
