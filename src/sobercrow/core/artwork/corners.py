"""Corners: rounded or cut-off ones made sharp where their sides meet, sharp ones made round."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterable

import numpy as np

from sobercrow.core.arrays import F64, U8
from sobercrow.core.artwork.choice import AnchorRef, Choice, Edited
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.artwork.stretches import Stretch, change_contour, contour_of
from sobercrow.core.errors import EditError
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry.arcs import Arc, arc_contour, arm_of
from sobercrow.core.geometry.contour import AnchorKind, Contour, directions
from sobercrow.core.geometry.fit import fit_cubic
from sobercrow.core.geometry.polygon import along_of, how_far_to_meet

READ_PX = 12.0
"""The sides of a corner are read over so much of them beyond the rounding, or less where they are shorter."""
FURTHEST = 6.0
"""A tip further off than so many times the length of the rounding is none; sides are parallel then."""
LEAST_TURN_DEG = 12.0
SAME_PLACE_PX = 1e-6
LEAST_RADIUS_PX = 0.05


def sharpen(artwork: Artwork, choice: Choice) -> Edited:
    """Make every run of chosen anchors one corner, where the sides beyond them meet.

    Raises
    ------
    EditError
        If nothing is chosen, or the sides of a run do not meet near it.
    """
    runs = _runs(artwork, choice.anchors)
    if not runs:
        raise EditError("Choose the anchors of a rounded or cut-off corner first, or run along it.")
    chosen: set[AnchorRef] = set()
    for run in sorted(runs, key=lambda one: (one.shape, one.contour, one.first), reverse=True):
        contour, corner = _sharpened(contour_of(artwork, run), run.first, run.pieces)
        artwork = change_contour(artwork, run.shape, run.contour, contour)
        lost = run.pieces
        chosen = {
            ref._replace(anchor=ref.anchor - lost)
            if (ref.shape, ref.contour) == (run.shape, run.contour) and ref.anchor > run.first
            else ref
            for ref in chosen
        }
        chosen.add(AnchorRef(run.shape, run.contour, corner))
    return Edited(artwork, Choice(anchors=frozenset(chosen)))


def _runs(artwork: Artwork, refs: Collection[AnchorRef]) -> list[Stretch]:
    """The runs of anchors in a row among some."""
    by_contour: dict[tuple[int, int], set[int]] = {}
    for ref in refs:
        by_contour.setdefault((ref.shape, ref.contour), set()).add(ref.anchor)
    runs = []
    for (s, c), places in by_contour.items():
        contour = artwork.shapes[s].contours[c]
        count = len(contour)
        starts = [k for k in sorted(places) if not ((k - 1) % count in places and (k > 0 or contour.closed))]
        for start in starts or [min(places)]:
            pieces = 0
            while (start + pieces + 1) % count in places and pieces + 1 < count:
                if not contour.closed and start + pieces + 1 >= count:
                    break
                pieces += 1
            runs.append(Stretch(s, c, start, pieces))
    return runs


def _sharpened(contour: Contour, first: int, pieces: int) -> tuple[Contour, int]:
    """One corner in place of the anchors of a run, and where it is."""
    count = len(contour)
    last = (first + pieces) % count
    if not contour.closed and (first == 0 or last == count - 1):
        raise EditError("The end of an open line has no second side; choose a corner within it.")
    if count - pieces - 1 < 1 or pieces >= count - 1:
        raise EditError("There must be sides beyond the corner; choose fewer anchors.")
    before, after = (first - 1) % count, (last + 1) % count
    curves = contour.curves()
    # each side is the piece that leads to the rounding: its far part, led on
    left, right = curves[before], curves[last]
    rounding = float(bezier.lengths(curves[[(first + k) % count for k in range(pieces)]]).sum()) if pieces else 0.0
    sides = _side_path(contour, before, forth=False), _side_path(contour, last, forth=True)
    tip = _meeting(*sides, max(rounding, 1.0))
    arriving, leaving = _led_to(left, tip), _led_to(right[::-1], tip)[::-1]
    points, kinds = contour.points.copy(), contour.kinds.copy()
    points[before, 2], points[after, 0] = arriving[1], leaving[2]
    corner = np.array([arriving[2], tip, leaving[1]])
    kept = [k for k in range(count) if k not in {(first + j) % count for j in range(pieces + 1)}]
    at = sum(k < first for k in kept) if first + pieces < count else len(kept)
    made = np.insert(points[kept], at, corner, axis=0)
    kind = np.insert(_uneven(kinds, (before, after))[kept], at, int(AnchorKind.CORNER))
    return Contour(made, kind, contour.closed), at


def _uneven(kinds: U8, places: Iterable[int]) -> U8:
    """Kinds of anchors of which a handle was changed: even ones are smooth."""
    kinds = kinds.copy()
    for k in places:
        kinds[k] = min(kinds[k], AnchorKind.SMOOTH)
    return kinds


def _is_line(curve: F64) -> bool:
    return bool(np.hypot(*(curve[1] - curve[0])) < SAME_PLACE_PX and np.hypot(*(curve[3] - curve[2])) < SAME_PLACE_PX)


def _side_path(contour: Contour, piece: int, forth: bool) -> F64:
    """Points of the side that ends with a piece, or begins with it, from the rounding on to the next corner."""
    curves, count = contour.curves(), len(contour)
    points: list[F64] = []
    long = 0.0
    k = piece
    for _ in range(len(curves)):
        size = float(bezier.lengths(curves[k : k + 1])[0])
        t = np.linspace(0.0, 1.0, max(8, int(4 * size)) + 1)
        drawn = bezier.evaluate(curves[k], t if forth else t[::-1])
        points.append(drawn if not points else drawn[1:])
        long += size
        anchor = (k + 1) % count if forth else k
        k = k + 1 if forth else k - 1
        if contour.closed:
            k %= len(curves)
        if long >= READ_PX or contour.kinds[anchor] == AnchorKind.CORNER or not 0 <= k < len(curves) or k == piece:
            break
    path = np.concatenate(points)
    along = along_of(path)
    return path[along <= READ_PX]


def _side(path: F64) -> tuple[F64, F64, float]:
    """Where a side ends at the rounding, in which direction it leads there, and how it bends, one over its radius.

    A parabola is fitted to it, by least squares; a bend that makes less than a hundredth of a pixel is none.
    """
    way = path[0] - path[-1]
    u = way / max(float(np.hypot(*way)), 1e-12)
    across = np.array((-u[1], u[0]))
    x, y = (path - path[0]) @ u, (path - path[0]) @ across
    bends = len(path) > 6 and float(np.ptp(x)) > 2.0
    c, b, a = np.polynomial.polynomial.polyfit(x, y, 2) if bends else (*np.polynomial.polynomial.polyfit(x, y, 1), 0.0)
    if abs(a) * float(np.ptp(x)) ** 2 < 0.01:
        (c, b), a = np.polynomial.polynomial.polyfit(x, y, 1), 0.0
    tangent = u + b * across
    size = float(np.hypot(*tangent))
    return path[0] + c * across, tangent / size, float(2.0 * a / size**3)


def _meeting(left: F64, right: F64, rounding_px: float) -> F64:
    """Where two sides, given from the rounding outwards, meet, each led on as a circle of its own bend."""
    (p, u, bend), (q, w, other) = _side(left), _side(right)
    turn = math.degrees(math.acos(float(np.clip(-(u @ w), -1.0, 1.0))))
    far = how_far_to_meet(p, u, q, w)
    if turn < LEAST_TURN_DEG or far is None:
        raise EditError("These sides do not meet: they are parallel. Choose the anchors of one corner.")
    s, t = far
    for _ in range(8):  # from where the tangents meet to where the circles do, by Newton's method
        a, ua = _on_circle(p, u, bend, s)
        b, wb = _on_circle(q, w, other, t)
        gap = b - a
        det = ua[0] * -wb[1] + ua[1] * wb[0]
        if abs(det) < 1e-9:
            break
        ds = (gap[0] * -wb[1] + gap[1] * wb[0]) / det
        dt = (ua[0] * gap[1] - ua[1] * gap[0]) / det
        s, t = s + float(ds), t + float(dt)
        if max(abs(ds), abs(dt)) < 1e-10:
            break
    reach = FURTHEST * rounding_px + 2.0
    if not (np.isfinite([s, t]).all() and -reach < s < reach and -reach < t < reach):
        raise EditError("These sides do not meet near here. Choose the anchors of one corner, and no more.")
    return np.asarray(0.5 * (_on_circle(p, u, bend, s)[0] + _on_circle(q, w, other, t)[0]))


def _on_circle(p: F64, u: F64, bend: float, s: float) -> tuple[F64, F64]:
    """The place so far along a circle that begins at p in direction u, and the direction there."""
    angle = bend * s
    across = np.array((-u[1], u[0]))
    if abs(angle) < 1e-9:
        return p + s * u + 0.5 * bend * s * s * across, u
    x, y = math.sin(angle) / bend, (1.0 - math.cos(angle)) / bend
    return p + x * u + y * across, math.cos(angle) * u + math.sin(angle) * across


def _led_to(curve: F64, tip: F64) -> F64:
    """A side led on to the tip of its corner, or cut short there, still along itself."""
    if _is_line(curve):
        return np.array([curve[0], curve[0], tip, tip])
    p, u = curve[3], _end_way(curve)
    beyond = float((tip - p) @ u)
    if beyond < 0.0:
        near = bezier.nearest(curve[None], (float(tip[0]), float(tip[1])))
        drawn = bezier.evaluate(bezier.split(curve, max(near[1], 0.05))[0], np.linspace(0, 1, 24))
        drawn[-1] = tip
    else:
        ahead = [p + share * (tip - p) for share in np.linspace(0.0, 1.0, 9)[1:]]
        drawn = np.concatenate([bezier.evaluate(curve, np.linspace(0, 1, 24)), ahead])
        drawn[-1] = tip
    out = curve[1] - curve[0] if np.hypot(*(curve[1] - curve[0])) > SAME_PLACE_PX else None
    return fit_cubic(drawn, out, None)


def round_corners(artwork: Artwork, choice: Choice, radius_px: float) -> Edited:
    """Make chosen corners circular arcs of a radius, tangent to their sides; less where a side is too short for it.

    Raises
    ------
    EditError
        If no corner is chosen, or the radius is none.
    """
    if not radius_px >= LEAST_RADIUS_PX:
        raise EditError("Round by a radius greater than nothing.")
    wanted: dict[tuple[int, int], list[int]] = {}
    for ref in choice.anchors:
        contour = artwork.shapes[ref.shape].contours[ref.contour]
        is_end = not contour.closed and ref.anchor in (0, len(contour) - 1)
        if contour.kinds[ref.anchor] == AnchorKind.CORNER and not is_end:
            wanted.setdefault((ref.shape, ref.contour), []).append(ref.anchor)
    if not wanted:
        raise EditError("Choose corners first; what is smooth already cannot be rounded.")
    refs: set[AnchorRef] = set()
    for (s, c), places in wanted.items():
        contour, arcs = _rounded(artwork.shapes[s].contours[c], sorted(places), radius_px)
        artwork = change_contour(artwork, s, c, contour)
        refs.update(AnchorRef(s, c, k) for k in arcs)
    return Edited(artwork, Choice(anchors=frozenset(refs)))


def _rounded(contour: Contour, places: list[int], radius_px: float) -> tuple[Contour, list[int]]:
    """Corners of a contour made arcs, and where the anchors of those are."""
    count, curves = len(contour), contour.curves().copy()
    into, out = directions(contour)
    cut: set[int] = set()
    shares: dict[int, list[float]] = {k: [0.0, 1.0] for k in range(len(curves))}
    chosen = set(places)
    for k in places:
        turn = math.acos(float(np.clip(into[k] @ out[k], -1.0, 1.0)))
        before, after = (k - 1) % count, k
        halves = [0.5 if (k - 1) % count in chosen else 1.0, 0.5 if (k + 1) % count in chosen else 1.0]
        sizes = bezier.lengths(curves[[before, after]]) * halves
        back = min(radius_px * math.tan(0.5 * turn), 0.98 * float(sizes.min()))
        cut.add(k)
        shares[before][1] = _share_at(curves[before], back, from_end=True)
        shares[after][0] = _share_at(curves[after], back, from_end=False)
    for k, (low, high) in shares.items():
        if low > 0.0 or high < 1.0:
            line = _is_line(curves[k])
            part = bezier.split(curves[k], high)[0] if high < 1.0 else curves[k]
            part = bezier.split(part, low / high)[1] if low > 0.0 else part
            curves[k] = np.array([part[0], part[0], part[3], part[3]]) if line else part
    points: list[F64] = []
    kinds: list[int] = []
    arcs: list[int] = []
    for k in range(count):
        arriving = curves[k - 1] if (k > 0 or contour.closed) else None
        leaving = curves[k] if k < len(curves) else None
        if k in cut and arriving is not None and leaving is not None:
            bent = _bent(arriving[3], _end_way(arriving), leaving[0], _start_way(leaving))
            bent[0, 0], bent[-1, 2] = arriving[2], leaving[1]
            arcs += range(len(points), len(points) + len(bent))
            points += list(bent)
            kinds += [int(AnchorKind.SMOOTH)] * len(bent)
            continue
        here = contour.points[k].copy()
        if arriving is not None:
            here[0] = arriving[2]
        if leaving is not None:
            here[2] = leaving[1]
        points.append(here)
        kinds.append(min(int(contour.kinds[k]), int(AnchorKind.SMOOTH)))
    return Contour(np.array(points), np.array(kinds, dtype=np.uint8), contour.closed), arcs


def _share_at(curve: F64, length_px: float, from_end: bool) -> float:
    """The parameter at which so much of a curve is left before its end, or passed from its start."""
    steps = np.linspace(0.0, 1.0, 65)
    along = along_of(bezier.evaluate(curve, steps))
    whole = float(bezier.lengths(curve[None])[0])
    wanted = whole - length_px if from_end else length_px
    t = float(np.interp(wanted * along[-1] / whole, along, steps))
    for _ in range(4):  # to the last digit, by Newton's method
        speed = float(np.hypot(*bezier.derivative(curve, np.array([t]))[0]))
        if not 0.0 < t < 1.0 or speed < 1e-9:
            break
        t = min(max(t - (float(bezier.lengths(bezier.split(curve, t)[0][None])[0]) - wanted) / speed, 0.0), 1.0)
    return t


def _end_way(curve: F64) -> F64:
    way = curve[3] - (curve[2] if np.hypot(*(curve[3] - curve[2])) > SAME_PLACE_PX else curve[0])
    return np.asarray(way / max(float(np.hypot(*way)), 1e-12))


def _start_way(curve: F64) -> F64:
    way = (curve[1] if np.hypot(*(curve[1] - curve[0])) > SAME_PLACE_PX else curve[3]) - curve[0]
    return np.asarray(way / max(float(np.hypot(*way)), 1e-12))


def _bent(start: F64, leaving: F64, end: F64, arriving: F64) -> F64:
    """The anchors of a circular arc that leaves one place in a direction for another, (n, 3, 2).

    Where both ways do not lie evenly to the chord, as with curved sides, the last handle lies along the arriving one.
    """
    chord = end - start
    turn = math.atan2(leaving[0] * arriving[1] - leaving[1] * arriving[0], float(leaving @ arriving))
    length = float(np.hypot(*chord))
    if abs(turn) < 1e-6:
        arm = length / 3.0
        return np.array([[start, start, start + arm * leaving], [end - arm * arriving, end, end]])
    radius = length / (2.0 * math.sin(0.5 * abs(turn)))
    across = np.array((-chord[1], chord[0])) / length
    middle = 0.5 * (start + end) + math.copysign(radius * math.cos(0.5 * turn), turn) * across
    points = arc_contour(start, end, Arc(middle, radius, turn)).points.copy()
    arm = arm_of(abs(turn) / (len(points) - 1), radius)
    points[0, 2], points[-1, 0] = start + arm * leaving, end - arm * arriving
    return points
