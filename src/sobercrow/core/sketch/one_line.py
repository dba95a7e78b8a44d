"""From the strokes of a rough sketch to the one line that several of them mean."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable, Sequence
from dataclasses import replace
from itertools import pairwise

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.geometry.fewest import fewest_cubics
from sobercrow.core.geometry.smooth import Beyond, smoothed
from sobercrow.core.parallel import on_cores
from sobercrow.core.sketch.by_hand import lines_by_hand
from sobercrow.core.sketch.ends import Drawn
from sobercrow.core.sketch.joining import joined
from sobercrow.core.sketch.lifted import SHARP, Lens, Traced, lines_through
from sobercrow.core.sketch.parts import Part, parts_of
from sobercrow.core.sketch.reading import SketchReading
from sobercrow.core.sketch.refit import Reach, drawn_to_strokes, is_told, told_once
from sobercrow.core.sketch.rings import find_rings
from sobercrow.core.sketch.said import Said, places_of
from sobercrow.core.sketch.true_forms import straightened
from sobercrow.core.strokes.strokes import evenly_spaced, tree_of, ways_along

CLOSER_LOOKS, WIDER = (1.0, 0.5), 0.75
"""What is left is looked at with shorter bells, then at half the spread: small things are drawn with more care."""
SHORT_REACH = Reach(1.2, 0.8)
LEAST_LEFT = 10
MOST_KEPT = 200
"""Lines of so many parts are kept."""
USUAL_APART, MOST_ACROSS = 50.0, 1.7
"""What is set of lines close together is usually the former; at 0 strokes so many times further from a line are its
own, at 100 only those so many times nearer."""
BESIDE = 1.9
"""A line found at the second look is one if less than half of it is within so many spreads of another."""
LEAST_MORE = 5.0
"""And if it is so many spreads long."""
OF_STRAYS, OF_WIDTH = 0.42, 0.32
"""Curves may run so many spreads from the line that was found, or so many stroke widths."""
ASIDE = 0.9
"""A straight line ends so many spreads at most beside where its known direction leads."""
CALM = 0.5
"""A line is smoothed over so many spreads before curves are fitted, but for its corners."""


class KeptLines:
    """The lines of parts that were worked out before, so that a correction costs what it touches."""

    def __init__(self) -> None:
        """Start with none."""
        self._lines: OrderedDict[Hashable, list[Drawn]] = OrderedDict()
        self._lock = threading.Lock()

    def of(self, key: Hashable, work: Callable[[], list[Drawn]]) -> list[Drawn]:
        """Return the lines kept under a key, else those that come of some work."""
        with self._lock:
            known = self._lines.get(key)
        if known is not None:
            return known
        made = work()
        with self._lock:
            self._lines[key] = made
            while len(self._lines) > MOST_KEPT:
                self._lines.popitem(last=False)
        return made


def meant_lines(
    reading: SketchReading,
    strays_px: float,
    said: Sequence[Said] = (),
    keep_apart: float = USUAL_APART,
    kept: KeptLines | None = None,
) -> list[Drawn]:
    """Return the lines a sketch means, each once, in pixels it was read at; strokes of one stray so far from it.

    `said` is what was said by hand of lines that are two or one, and of joints; `keep_apart`, 0-100, decides about
    lines close together. Parts whose lines are `kept` are not worked out again.
    """
    across = _across(keep_apart)

    def lines_of(part: Part) -> list[Drawn]:
        if kept is None:
            return work(part)
        return kept.of((part.digest(), strays_px, across), lambda: work(part))

    def work(part: Part) -> list[Drawn]:
        return joined(_found(part, strays_px, across), part.strokes.points, strays_px, places_of(part.said))

    parts = parts_of(reading.strokes, reading.weights, strays_px, said)
    return [line for lines in on_cores(parts, lines_of) for line in lines]


def usual_tolerance(strays_px: float, width_px: float) -> float:
    """Return how far curves may run from the lines that were found, px: less than strokes stray or are wide."""
    return max(OF_STRAYS * strays_px, OF_WIDTH * width_px)


def _across(keep_apart: float) -> float:
    """How much further than usual strokes may lie from a line to be of it."""
    return float(MOST_ACROSS ** (1.0 - keep_apart / USUAL_APART))


def _found(part: Part, spread: float, across: float) -> list[Traced]:
    """The lines strokes run along: at the scale of the hand first, then shorter ones in what those leave."""
    lens = replace(Lens(), across=across * Lens().across)
    reach = Reach(across * Reach().window)
    given, on_given = lines_by_hand(part.strokes, part.weights, part.said, spread)
    free, own = part.strokes.only(~on_given), part.weights[~on_given]
    rings, on_rings = find_rings(free, spread)
    strokes, weights = free.only(~on_rings), own[~on_rings]
    lines = drawn_to_strokes(lines_through(strokes, weights, spread, lens), strokes, weights, spread, reach)
    lines = told_once(lines, spread, lens.long, across)
    lines += rings + given
    for closer in CLOSER_LOOKS:
        left = ~is_told(strokes, lines, across * max(closer, WIDER) * spread)
        if left.sum() > LEAST_LEFT:
            rest, own, near = strokes.only(left), weights[left], closer * spread
            more = drawn_to_strokes(lines_through(rest, own, near, SHARP), rest, own, near, SHORT_REACH)
            lines += _beside(told_once(more, near, LEAST_MORE), lines, across * near)
    return lines


def _beside(more: Sequence[Traced], lines: Sequence[Traced], spread: float) -> list[Traced]:
    """Those lines that do not run close to others."""
    if not lines:
        return list(more)
    tree = tree_of(np.concatenate([line.points for line in lines]))
    return [one for one in more if (tree.query(one.points)[0] < BESIDE * spread).mean() <= 0.5]


Ways = tuple[F64 | None, F64 | None]
"""The directions in which an open line leaves its first place and reaches its last, where they are known."""


def contour_of(
    line: Drawn, spread: float, tolerance: float, straight: bool = True, ways: Ways = (None, None)
) -> Contour:
    """Return a line as a contour with few anchors within a tolerance, px; it is smooth but for its corners.

    What is meant to be `straight` is exactly so.
    """
    if line.closed and not line.corners:
        return _ring(line.points, spread, tolerance)
    cuts = list(line.corners)
    points = line.points
    if line.closed:
        points = np.roll(points, -cuts[0], axis=0)
        points = np.concatenate([points, points[:1]])
        cuts = [c - cuts[0] for c in cuts] + [len(line.points)]
    else:
        cuts = [0, *cuts, len(points) - 1]
    runs = [points[a : b + 1] for a, b in pairwise(cuts) if b > a]
    last = len(runs) - 1
    parts = [
        _run(run, spread, tolerance, straight, (ways[0] if k == 0 else None, ways[1] if k == last else None))
        for k, run in enumerate(runs)
    ]
    every = [parts[0]]
    for part in parts[1:]:
        every[-1][-1, 2] = part[0, 2]
        every.append(part[1:])
    sharp = np.cumsum([len(part) - 1 for part in parts])
    anchors = np.concatenate(every)
    kinds = np.full(len(anchors), AnchorKind.SMOOTH, dtype=np.uint8)
    kinds[[0, *sharp.tolist()]] = AnchorKind.CORNER
    return Contour(closed_anchors(anchors), kinds[:-1]) if line.closed else Contour(anchors, kinds, closed=False)


def _ring(points: F64, spread: float, tolerance: float) -> Contour:
    ring = evenly_spaced(np.concatenate([points, points[:1]]), 1.0)[:-1]
    ring = smoothed(ring, min(CALM * spread, len(ring) / 8.0), Beyond.ROUND)
    angle = float(ways_along(ring, max(0.8 * spread, 1.0), closed=True)[0])
    way = np.array([np.cos(angle), np.sin(angle)])
    anchors = closed_anchors(fewest_cubics(np.concatenate([ring, ring[:1]]), tolerance, way, way))
    return Contour(anchors, np.full(len(anchors), AnchorKind.SMOOTH, dtype=np.uint8))


def _leads_on(run: F64, ways: Ways, spread: float) -> bool:
    """Whether a straight line from the first to the last of a run goes the ways it is known to."""
    chord = run[-1] - run[0]
    known = [way for way in ways if way is not None]
    return all(abs(float(chord[0] * way[1] - chord[1] * way[0])) < ASIDE * spread for way in known)


def _run(run: F64, spread: float, tolerance: float, straight: bool, ways: Ways) -> F64:
    even = evenly_spaced(run, 1.0)
    if len(even) < 4 or (straight and _leads_on(even, ways, spread) and straightened(even, spread) is not None):
        return np.repeat(even[[0, -1]][:, None], 3, axis=1)
    soft = smoothed(even, min(CALM * spread, len(even) / 8.0), Beyond.LAST)
    soft[0], soft[-1] = even[0], even[-1]
    return fewest_cubics(soft, tolerance, *ways)


def closed_anchors(anchors: F64) -> F64:
    """Return the anchors (n, 3, 2) of a ring, of those of a line that ends where it begins."""
    made = anchors[:-1].copy()
    made[0, 0] = anchors[-1, 0]
    return made
