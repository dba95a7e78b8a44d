"""Strokes of about one width, equally wide: between straight sides that face each other, and between circles.

The sides of all strokes of a width are moved together, by the least that makes them equal (least squares under
constraints: Björck 1996, "Numerical Methods for Least Squares Problems", ch. 5); what was equal before stays so.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import replace
from typing import NamedTuple

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import Ellipse, Rectangle, Relation
from sobercrow.core.tracing.parallels import crowds, relaid, side_at, sides_of
from sobercrow.core.tracing.proposals import Place, Proposed, circles_in, related
from sobercrow.core.tracing.settling import Found
from sobercrow.core.tracing.true_shapes import TrueShape, as_contour

LEAST_PX = 5.0
"""Sides of strokes are so long."""
LEAST_WIDTH_PX = 1.0
PARALLEL = math.cos(math.radians(0.05))
FACING, WIDEST = 0.6, 1.02
"""So much of the shorter side lies opposite the other, and a stroke is no wider than that is long, as a factor."""
HIDDEN = 0.1
"""So much of a side opposite may lie behind a nearer one."""
ABOUT_PX, ABOUT = 0.2, 0.015
"""Widths no further from one of them are about the same, in px and as a share of it more."""
EQUAL_PX = 1e-6
ROUND = -1
"""The number of the only side of a circle; its way outward is 1 along its radius, or −1 if it is a hole, and that."""


class _Edge(NamedTuple):
    """One side of strokes: where, which side of the contour there, a place on it, the way outward, and how long."""

    place: Place
    side: int
    middle: F64
    out: F64
    length: float


class _Stroke(NamedTuple):
    """Two sides, by number, what is between them, and how long it is."""

    one: int
    other: int
    width: float
    length: float


class _Tie(NamedTuple):
    """What the offset of one edge, and that of another by its sign, are together."""

    one: int
    other: int
    sign: float
    by: float


def equal_strokes(found: Found) -> Iterator[Proposed]:
    """Propose the contours of strokes of about one width, ink by ink, with these equal; no contour twice."""
    for ink in range(len(found)):
        edges = [*_straight_edges(found, ink), *_round_edges(found, ink)]
        strokes = [*_between_straight(edges), *_rings(edges)]
        if len(strokes) < 2:
            continue
        widths, lengths = (np.array([stroke[k] for stroke in strokes]) for k in (2, 3))
        held = [*_equal_already(strokes), *_alike(edges)]
        taken: set[Place] = set()
        for crowd, mean in crowds(widths, lengths, ABOUT_PX + ABOUT * float(np.median(widths))):
            wanted = [_Tie(strokes[k].one, strokes[k].other, 1.0, mean - widths[k]) for k in crowd.tolist()]
            offsets = _offsets(edges, wanted, held)
            places = {edges[k].place for k in offsets}
            if not places or places & taken:
                continue
            taken |= places
            made = {
                place: _with_offsets(
                    found[ink][place[1]], [(edges[k], off) for k, off in offsets.items() if edges[k].place == place]
                )
                for place in places
            }
            told = related(Relation.STROKES, list(made.values()), len(crowd))
            yield TrueShape(told, max(map(abs, offsets.values()))), made


def _straight_edges(found: Found, ink: int) -> Iterator[_Edge]:
    for k, contour in enumerate(found[ink]):
        inward = math.copysign(1.0, contour.area())
        if isinstance(contour.form, Rectangle):
            form = contour.form
            turn = math.radians(form.angle_deg)
            axis = np.array((math.cos(turn), math.sin(turn)))
            for side, (way, reach, length) in enumerate(
                (
                    (axis, form.width, form.height),
                    (-axis, form.width, form.height),
                    (np.array((-axis[1], axis[0])), form.height, form.width),
                    (np.array((axis[1], -axis[0])), form.height, form.width),
                )
            ):
                middle = np.array((form.x, form.y)) + 0.5 * reach * way
                if length - 2.0 * form.radius >= LEAST_PX:
                    yield _Edge((ink, k), side, middle, inward * way, length - 2.0 * form.radius)
        elif contour.form is None:
            for i, along in sides_of(contour, LEAST_PX):
                middle, way = side_at(contour, i)
                yield _Edge((ink, k), i, middle, np.array((way[1], -way[0])), float(np.hypot(*along)))


def _round_edges(found: Found, ink: int) -> Iterator[_Edge]:
    for place, form in circles_in(found):
        if place[0] == ink:
            outward = math.copysign(1.0, found[ink][place[1]].area())
            yield _Edge(place, ROUND, np.array((form.x, form.y)), np.array((outward, form.rx)), math.tau * form.rx)


def _between_straight(edges: Sequence[_Edge]) -> Iterator[_Stroke]:
    """Sides with ink between them that face each other, nothing nearer."""
    which = [k for k, edge in enumerate(edges) if edge.side != ROUND]
    if len(which) < 2:
        return
    middles, outs = (np.array([edges[k][at] for k in which]) for at in (2, 3))
    half = 0.5 * np.array([edges[k].length for k in which])
    away = middles[None] - middles[:, None]
    width = -(away * outs[:, None]).sum(axis=2)
    along = away[..., 1] * outs[:, None, 0] - away[..., 0] * outs[:, None, 1]
    begins, ends = np.maximum(-half[:, None], along - half), np.minimum(half[:, None], along + half)
    facing = ends - begins
    is_stroke = (outs @ outs.T <= -PARALLEL) & (facing >= FACING * 2.0 * np.minimum(half[:, None], half))
    is_stroke &= (width >= LEAST_WIDTH_PX) & (width <= WIDEST * facing)
    for a in range(len(which)):  # what another side hides is none
        nearer: list[int] = []
        for b in sorted(np.flatnonzero(is_stroke[a]).tolist(), key=lambda b: float(width[a, b])):
            hidden = max((min(ends[a, b], ends[a, c]) - max(begins[a, b], begins[a, c]) for c in nearer), default=0.0)
            is_stroke[a, b] = hidden <= HIDDEN * facing[a, b]
            nearer.append(b)
    for a, b in np.argwhere(is_stroke & is_stroke.T & np.triu(np.ones_like(is_stroke), 1)).tolist():
        yield _Stroke(which[a], which[b], float(0.5 * (width[a, b] + width[b, a])), float(facing[a, b]))


def _rings(edges: Sequence[_Edge]) -> Iterator[_Stroke]:
    """Circles of ink with the largest one that is cut out of them about the same middle."""
    circles = [k for k, edge in enumerate(edges) if edge.side == ROUND]
    for a in (k for k in circles if edges[k].out[0] > 0.0):
        inner = [
            b
            for b in circles
            if edges[b].out[0] < 0.0
            and np.array_equal(edges[a].middle, edges[b].middle)
            and edges[b].length < edges[a].length
        ]
        if inner:
            b = max(inner, key=lambda b: edges[b].length)
            yield _Stroke(a, b, float(edges[a].out[1] - edges[b].out[1]), edges[a].length)


def _equal_already(strokes: Sequence[_Stroke]) -> Iterator[_Tie]:
    order = sorted(strokes, key=lambda stroke: stroke.width)
    twins = {k for k in range(1, len(order)) if order[k].width - order[k - 1].width <= EQUAL_PX}
    for k in sorted(twins | {k - 1 for k in twins}):
        yield _Tie(order[k].one, order[k].other, 1.0, 0.0)


def _alike(edges: Sequence[_Edge]) -> Iterator[_Tie]:
    """Circles of one size stay so."""
    first: dict[tuple[float, float], int] = {}
    for k, edge in enumerate(edges):
        if edge.side == ROUND and first.setdefault((float(edge.out[0]), float(edge.out[1])), k) != k:
            yield _Tie(first[float(edge.out[0]), float(edge.out[1])], k, -1.0, 0.0)


def _offsets(edges: Sequence[_Edge], wanted: Sequence[_Tie], held: Sequence[_Tie]) -> dict[int, float]:
    """How far outward edges go, those that do, so that all ties hold; nowhere if they cannot all hold."""
    from scipy.sparse import coo_array  # SciPy comes in when it is first needed
    from scipy.sparse.csgraph import connected_components

    pairs = {(tie.one, tie.other) for tie in wanted}
    held = [tie for tie in held if (tie.one, tie.other) not in pairs]
    links = np.array([(tie.one, tie.other) for tie in (*wanted, *held)])
    net = coo_array((np.ones(len(links)), links.T), shape=(len(edges), len(edges)))
    own = connected_components(net, directed=False)[1]
    touched = {own[tie.one] for tie in wanted}
    ties = [tie for tie in (*wanted, *held) if own[tie.one] in touched]
    which = sorted({k for tie in ties for k in (tie.one, tie.other)})
    rows = np.zeros((len(ties), len(which)))
    for row, tie in zip(rows, ties, strict=True):
        row[which.index(tie.one)], row[which.index(tie.other)] = 1.0, tie.sign
    by = np.array([tie.by for tie in ties])
    eased = rows / np.array([edges[k].length for k in which])
    offsets = eased.T @ np.linalg.lstsq(eased @ rows.T, by, rcond=1e-9)[0]
    if np.abs(rows @ offsets - by).max() > EQUAL_PX:
        return {}
    return {k: off for k, off in zip(which, offsets.tolist(), strict=True) if abs(off) > EQUAL_PX}


def _with_offsets(contour: Contour, offsets: Sequence[tuple[_Edge, float]]) -> Contour:
    """A contour with some of its sides shifted outward."""
    form, inward = contour.form, math.copysign(1.0, contour.area())
    if isinstance(form, Ellipse):
        radius = form.rx + inward * offsets[0][1]
        return as_contour(replace(form, rx=radius, ry=radius), contour)
    if isinstance(form, Rectangle):
        shift, grown = np.zeros(2), [0.0, 0.0]
        for edge, off in offsets:
            shift += 0.5 * off * edge.out
            grown[edge.side // 2] += inward * off
        width, height = form.width + grown[0], form.height + grown[1]
        return as_contour(replace(form.moved(*shift.tolist()), width=width, height=height), contour)
    laid = {edge.side: (edge.middle + off * edge.out, side_at(contour, edge.side)[1]) for edge, off in offsets}
    return relaid(contour, laid)
