"""What was said of a sketch by hand, done: strokes are of another class, lines are two or one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F64
from sobercrow.core.geometry.forms import fit_circle
from sobercrow.core.geometry.polygon import line_through
from sobercrow.core.geometry.smooth import Beyond, smoothed
from sobercrow.core.settings import STROKE_VERDICTS, Verdict
from sobercrow.core.sketch.lifted import Traced
from sobercrow.core.sketch.parts import labels_of
from sobercrow.core.sketch.reading import SketchReading
from sobercrow.core.sketch.refit import Reach, drawn_to_strokes
from sobercrow.core.sketch.said import Said, reach_of
from sobercrow.core.strokes.strokes import Strokes, evenly_spaced, together, tree_of, ways_along
from sobercrow.core.strokes.working_forms import Freehand, StraightLine, WorkingForm, is_on

LINE, WORKING, SHADING = 0, 1, 2
CLASSES = {Verdict.LINE: LINE, Verdict.WORKING: WORKING, Verdict.SHADING: SHADING}
MOST_OF = 0.6
"""A stroke of which more than so much lies beneath a path is meant as a whole."""
SURE = 1.0
"""How much strokes count that were said to be lines, however faint they are."""
LEFT = 0.3
"""A working line is one while so much of it is left."""
EXACT = 0.8
"""What was said to be a working line is exactly straight or round if it strays from that by so many stroke widths."""
PATCH_GAP = 8.0
"""Shading is of one patch if no wider gap parts it, in stroke widths."""
BETWEEN = 3.0
"""Strokes up to so many spreads to both sides of a path are parted by it."""
ALIKE_COS = 0.8
CALM = 2.0
"""The hand's own path is smoothed over so many spreads before it is drawn to the strokes."""
LEAST_POINTS = 8
CLOSED_GAP, CLOSED_LENGTH = 2.5, 10.0
"""A path that comes back to its start within so many spreads is a ring, if it is so many long."""
CUT_BACK = {Verdict.CORNER: 1.2, Verdict.ROUND: 0.8, Verdict.APART: 1.0}
"""A line that is cut for a joint ends so many spreads before it."""


def corrected(reading: SketchReading, said: Sequence[Said]) -> SketchReading:
    """Return a reading in which strokes are of the classes they were said to be."""
    verdicts = [one for one in said if one.verdict in STROKE_VERDICTS]
    if not verdicts:
        return reading
    every = together(reading.strokes, reading.working, reading.shading)
    before = np.repeat([LINE, WORKING, SHADING], [len(reading.strokes), len(reading.working), len(reading.shading)])
    now = before.copy()
    said_lines = np.zeros(len(every), dtype=np.bool_)
    new: list[WorkingForm] = []
    for one in verdicts:
        meant = _meant(reading, every, now, one)
        moved = meant & (now != CLASSES[one.verdict])
        now[meant] = CLASSES[one.verdict]
        said_lines[meant] = one.verdict is Verdict.LINE
        if one.verdict is Verdict.WORKING and moved.sum() >= LEAST_POINTS:
            new.append(_form_of(every.only(moved), one, reading.width_px))
    forms = [form for form in (*reading.forms, *new) if _is_left(form, every, before, now, reading.width_px)]
    shading = every.only(now == SHADING)
    weights = np.concatenate([reading.weights, np.zeros(len(every) - len(reading.weights))])
    return replace(
        reading,
        strokes=every.only(now == LINE),
        weights=np.where(said_lines, SURE, weights)[now == LINE],
        working=every.only(now == WORKING),
        shading=shading,
        forms=tuple(forms),
        patches=_patches(shading, reading.width_px),
    )


def has_strokes(reading: SketchReading, points: F64, reach_px: float) -> bool:
    """Tell whether any stroke of a sketch lies within reach of places (n, 2), px of the reading."""
    every = np.concatenate([reading.strokes.points, reading.working.points, reading.shading.points])
    return bool(len(every)) and bool(np.isfinite(tree_of(points).query(every, distance_upper_bound=reach_px)[0]).any())


def _meant(reading: SketchReading, every: Strokes, now: NDArray[np.int64], one: Said) -> NDArray[np.bool_]:
    """The stroke points beneath a path; at a single place the whole stroke, or the whole working line."""
    if not len(every):
        return np.zeros(0, dtype=np.bool_)
    if len(one.points) > 1:
        away, _ = tree_of(evenly_spaced(one.points, 1.0)).query(every.points, distance_upper_bound=one.width_px)
        beneath = np.isfinite(away)
        share = np.bincount(every.stroke, beneath) / np.bincount(every.stroke)
        return np.asarray(beneath | (share > MOST_OF)[every.stroke])
    away = np.hypot(*(every.points - one.place).T)
    nearest = int(away.argmin())
    if away[nearest] > one.width_px:
        return np.zeros(len(every), dtype=np.bool_)
    meant = every.stroke == every.stroke[nearest]
    if now[nearest] == WORKING:
        for form in reading.forms:
            on = (now == WORKING) & is_on(every, form, reading.width_px)
            if on[nearest]:
                meant |= on
    return np.asarray(meant)


def _form_of(strokes: Strokes, one: Said, width: float) -> WorkingForm:
    """What working line was meant: straight or round if the strokes are, else as they run."""
    points = strokes.points
    middle, way = line_through(points, points[-1] - points[0])
    off = points - middle
    if np.abs(off[:, 1] * way[0] - off[:, 0] * way[1]).mean() < EXACT * width:
        at = off @ way
        (x, y), (dx, dy) = middle.tolist(), way.tolist()
        return StraightLine(x, y, dx, dy, float(at.min()), float(at.max()))
    circle, _ = fit_circle(points)
    if np.abs(np.hypot(points[:, 0] - circle.x, points[:, 1] - circle.y) - circle.rx).mean() < EXACT * width:
        return circle
    if len(one.points) == 1:
        return Freehand(points)
    path = Traced(evenly_spaced(one.points, 1.0), False)
    lines = drawn_to_strokes([path], strokes, np.ones(len(strokes)), max(one.width_px, width))
    return Freehand(lines[0].points if lines else path.points)


def _is_left(
    form: WorkingForm, every: Strokes, before: NDArray[np.int64], now: NDArray[np.int64], width: float
) -> bool:
    """Whether enough of the strokes of a working line are still that."""
    on = is_on(every, form, width) & ((before == WORKING) | (now == WORKING))
    return bool(on.any()) and float((now[on] == WORKING).mean()) > LEFT


def _patches(shading: Strokes, width: float) -> int:
    """How many patches strokes of shading make."""
    if not len(shading):
        return 0
    return int(labels_of(shading.points, PATCH_GAP * width).max())


def lines_by_hand(
    strokes: Strokes, weights: F64, said: Sequence[Said], spread: float
) -> tuple[list[Traced], NDArray[np.bool_]]:
    """Return the lines that were said to be two or one, and which stroke points (n,) they account for."""
    used = np.zeros(len(strokes), dtype=np.bool_)
    made: list[Traced] = []
    for one in said:
        if one.verdict is Verdict.TWO:
            near, left = _beside(strokes, one, BETWEEN * spread, spread)
            parts, own = [near & left, near & ~left], spread
        elif one.verdict is Verdict.ONE:
            near, _ = _beside(strokes, one, one.width_px, spread)
            parts, own = [near], max(one.width_px / Reach().window, spread)
        else:
            continue
        path, closed = _path_of(one, spread)
        for part in parts:
            free = part & ~used
            if free.sum() < LEAST_POINTS:
                continue
            made += drawn_to_strokes(
                [Traced(path, closed)], strokes.only(free), weights[free], own, Reach(window=BETWEEN)
            )
            used |= free
    return made, used


def _path_of(one: Said, spread: float) -> tuple[F64, bool]:
    """The path that was drawn, calm, and whether it is a ring."""
    path = evenly_spaced(one.points, 1.0)
    gap = float(np.hypot(*(path[-1] - path[0])))
    closed = gap < CLOSED_GAP * spread and len(path) > CLOSED_LENGTH * spread
    over = min(CALM * spread, len(path) / 8.0)
    return smoothed(path, over, Beyond.ROUND if closed else Beyond.LAST), closed


def _beside(strokes: Strokes, one: Said, reach: float, spread: float) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Which stroke points run with a path within reach of it, and which lie at its left."""
    path, closed = _path_of(one, spread)
    ways = ways_along(path, 3.0, closed)
    away, row = tree_of(path).query(strokes.points, distance_upper_bound=reach)
    near = np.isfinite(away)
    row = np.where(near, row, 0)
    off = strokes.points - path[row]
    c, s = np.cos(ways[row]), np.sin(ways[row])
    along, across = off[:, 0] * c + off[:, 1] * s, off[:, 1] * c - off[:, 0] * s
    alike = np.abs(np.cos(strokes.ways - ways[row])) > ALIKE_COS
    return near & alike & (np.abs(along) < 1.5), across < 0.0


def cut_at_joints(lines: Sequence[Traced], joints: Sequence[Said], spread: float) -> list[Traced]:
    """Return lines that end where they were said to meet or to be apart; lines that run on there are cut."""
    made = list(lines)
    for one in joints:
        reach = reach_of(one, spread)
        open_ends = [line.points[[0, -1]] for line in made if not line.closed]
        ends = any((np.hypot(*(pair - one.place).T) < reach).any() for pair in open_ends)
        if ends or not made:
            continue
        nearest = [float(np.hypot(*(line.points - one.place).T).min()) for line in made]
        k = int(np.argmin(nearest))
        if nearest[k] < reach:
            made[k : k + 1] = _cut(made[k], one.place, round(CUT_BACK[one.verdict] * spread))
    return made


def _cut(line: Traced, place: F64, back: int) -> list[Traced]:
    """The parts of a line cut at a place, each ending some points before it."""
    row = int(np.hypot(*(line.points - place).T).argmin())
    if line.closed:
        points = np.roll(line.points, -row, axis=0)
        return [Traced(points[back : len(points) - back], False)] if len(points) > 2 * back + 2 else [line]
    parts = line.points[: row - back], line.points[row + back :]
    return [Traced(part, False) for part in parts if len(part) > 2]
