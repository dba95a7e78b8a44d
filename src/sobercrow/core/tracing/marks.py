"""What is regular among the marks of a picture: proposed by how it was traced, kept where its tones agree.

Small round spots are circles; sides that hardly bend are straight, and share their directions, level and upright ones
first, with right angles between them; circles with about one middle have one; circles of about one size are alike, and
so are copies of any other part. A
proposal is drawn beside what it would replace, and kept if the picture differs from it no more than the noise there
allows. Everything kept is told, and can be refused.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from functools import partial

import numpy as np

from sobercrow.core.arrays import F64, following
from sobercrow.core.geometry._nearest_kernels import nearest_segments
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import Ellipse, Related, Relation, ellipse_of_moments
from sobercrow.core.geometry.polygon import how_far_to_meet
from sobercrow.core.settings import Tracing
from sobercrow.core.tracing.fitting import Fitter
from sobercrow.core.tracing.proposals import Place, Proposal, agreed, as_it_is, settled, with_all
from sobercrow.core.tracing.regular import align, is_line, without_needless
from sobercrow.core.tracing.repeats import repeated
from sobercrow.core.tracing.rings import Flags
from sobercrow.core.tracing.settling import Found, Settling
from sobercrow.core.tracing.sides import with_sides
from sobercrow.core.tracing.true_shapes import TrueShape, as_contour, is_refused, size_of

MAY_COST, MAY_COST_PX2 = 1.08, 0.02
"""So much more may the picture differ from a proposal, as a factor and in px² of ink."""
ROUNDNESS, NEARLY_ROUND, LEAST_RADIUS_PX, LARGEST_ROUND_PX = 0.86, 1.18, 2.0, 40.0
"""Area over that of a circle of the same perimeter, and length over width, of what may be a circle; its radius."""
LEAST_SIDE_PX, MOST_BOW_PX, MOST_BOW, MOST_TURN = 8.0, 0.5, 0.03, math.radians(16)
"""A side at least so long may be straight if it is off its chord by no more than this, in px and as a share."""
SHARED_RAD, LONG_SIDE_PX = math.radians(1.6), 12.0
"""Long sides no further apart in direction, or in a right angle to each other, share it."""
LEVEL_RAD = math.radians(0.3)
"""A shared direction that is nearer to level or upright than this is exactly so."""
LEAST_SINE = 0.1
"""Of the angle between lines that meet in a corner."""
ONE_MIDDLE_PX, ONE_MIDDLE = 0.5, 0.01
"""Circles whose middles are no further apart, in px and as a share of the larger radius more, have one."""
ALIKE_PX, ALIKE = 0.3, 0.05
APART_PX = 3.0
"""How far copies are from what they replace is told up to this."""
MORE_ANCHORS = 1.8
"""So many times as many anchors, and two, may a contour have for its straight sides."""

Proposed = tuple[TrueShape, dict[Place, Contour]]


def with_regular_marks(
    found: Found,
    lines: Sequence[Sequence[F64]],
    fitters: Sequence[Fitter],
    tones: Settling,
    settings: Tracing,
    known: Sequence[TrueShape],
) -> tuple[Found, list[TrueShape]]:
    """Return contours made regular where the picture agrees, and what was found so, refused or not.

    `lines` are the borders they were fitted to, `fitters` how, ink by ink; `known` is what was found already.
    """
    told: list[TrueShape] = []
    if not settings.true_shapes or not tones.has_tones:
        return found, told

    told_of = [(one.form.x, one.form.y, size_of(one.form)) for one in known]

    proposers: tuple[tuple[Callable[[Found], Iterator[Proposed]], Callable[[Contour], Contour] | None], ...] = (
        (_rounds, _as_circle),
        (partial(_sides_of_borders, lines=lines, fitters=fitters), as_it_is),
        (_sides, as_it_is),
        (_directions, None),
        (_middles, None),
        (_sizes, None),
        (partial(_repeats, tones=tones), None),
    )
    for propose, finish in proposers:  # what is moved to where the picture has it, and made regular again after that
        judged = [(shape.judged(settings), contours) for shape, contours in propose(found)]
        proposals = [Proposal(contours, shape) for shape, contours in judged if not is_refused(shape.form, told_of)]
        if finish is not None:
            proposals = settled(found, proposals, tones, finish)
        kept = agreed(found, proposals, tones, MAY_COST, MAY_COST_PX2)
        told.extend(proposal.told for proposal in kept if proposal.told is not None)
        found = with_all(found, [p for p in kept if not (p.told is not None and p.told.refused)])
    return found, told


def _free(found: Found) -> Iterator[tuple[Place, Contour]]:
    """All contours that are no true shapes."""
    for ink, contours in enumerate(found):
        for k, contour in enumerate(contours):
            if contour.form is None:
                yield (ink, k), contour


def _circles(found: Found) -> list[tuple[Place, Ellipse]]:
    return [
        ((ink, k), contour.form)
        for ink, contours in enumerate(found)
        for k, contour in enumerate(contours)
        if isinstance(contour.form, Ellipse) and contour.form.is_circle
    ]


def _as_circle(contour: Contour) -> Contour:
    """The circle of the area and the middle of a contour."""
    about = ellipse_of_moments(contour.sampled(0.25))
    radius = math.sqrt(about.rx * about.ry)
    return as_contour(Ellipse(about.x, about.y, radius, radius), contour)


def _rounds(found: Found) -> Iterator[Proposed]:
    """Small round contours as circles."""
    for place, contour in _free(found):
        points = contour.sampled(0.25)
        legs = np.diff(np.concatenate([points, points[:1]]), axis=0)
        perimeter = float(np.hypot(legs[:, 0], legs[:, 1]).sum())
        if 4.0 * math.pi * abs(contour.area()) < ROUNDNESS * perimeter**2:
            continue
        about = ellipse_of_moments(points)
        if about.rx > NEARLY_ROUND * about.ry or not LEAST_RADIUS_PX <= about.ry <= LARGEST_ROUND_PX:
            continue
        made = _as_circle(contour)
        assert isinstance(made.form, Ellipse)
        off = np.abs(np.hypot(points[:, 0] - made.form.x, points[:, 1] - made.form.y) - made.form.rx)
        yield TrueShape(made.form, float(off.max())), {place: made}


def _sides_of_borders(found: Found, lines: Sequence[Sequence[F64]], fitters: Sequence[Fitter]) -> Iterator[Proposed]:
    """Contours with the straight sides their borders have."""
    for (ink, k), contour in _free(found):
        made = with_sides(lines[ink][k], fitters[ink], contour)
        if made is not None and len(made[0]) <= MORE_ANCHORS * len(contour) + 2:
            yield TrueShape(_related(Relation.STRAIGHT, [contour], made[1]), 0.0), {(ink, k): made[0]}


def _sides(found: Found) -> Iterator[Proposed]:
    """Contours with sides that hardly bend, these straight."""
    for place, contour in _free(found):
        made, count, off = _straight(contour)
        if count == 0:
            continue
        yield TrueShape(_related(Relation.STRAIGHT, [contour], count), off), {place: made}


def _straight(contour: Contour) -> tuple[Contour, int, float]:
    """A contour with its nearly straight sides straight, how many, and how far they were off at most."""
    points, kinds = contour.points.copy(), contour.kinds.copy()
    count, furthest = 0, 0.0
    for i in range(len(points)):
        j = (i + 1) % len(points)
        chord = points[j, 1] - points[i, 1]
        length = float(np.hypot(*chord))
        if length < LEAST_SIDE_PX or is_line(points, i, j):
            continue
        across = np.array((-chord[1], chord[0])) / length
        bows = [abs(float((handle - points[i, 1]) @ across)) for handle in (points[i, 2], points[j, 0])]
        bow = 0.75 * max(bows)
        ways = points[i, 2] - points[i, 1], points[j, 1] - points[j, 0]
        turns = [math.atan2(abs(way @ across), way @ chord / length) for way in ways]
        if bow > min(MOST_BOW_PX, MOST_BOW * length) or sum(turns) > MOST_TURN:
            continue
        points[i, 2], points[j, 0] = points[i, 1], points[j, 1]
        count, furthest = count + 1, max(furthest, bow)
    align(points, kinds, True)
    made = without_needless(Contour(points, kinds), MOST_TURN, MOST_BOW_PX)
    if len(made) < len(contour):
        count = max(count, 1)
    return made, count, furthest


def _lines(contour: Contour) -> Iterator[tuple[int, F64]]:
    """The straight sides of a contour that are long enough to have a direction: from which anchor, and their way."""
    for i in range(len(contour)):
        j = (i + 1) % len(contour)
        way = contour.points[j, 1] - contour.points[i, 1]
        if is_line(contour.points, i, j) and np.hypot(*way) >= LONG_SIDE_PX:
            yield i, way


def _directions(found: Found) -> Iterator[Proposed]:
    """Contours whose long straight sides take the directions shared by many."""
    angles, weights = [], []
    for _, contour in _free(found):
        for _, way in _lines(contour):
            angles.append(math.atan2(way[1], way[0]) % (math.pi / 2.0))
            weights.append(float(np.hypot(*way)))
    shared = _shared(np.array(angles), np.array(weights))
    for place, contour in _free(found):
        turned = {}
        for i, way in _lines(contour):
            angle = math.atan2(way[1], way[0])
            off = [(math.remainder(direction - angle, math.pi / 2.0)) for direction in shared]
            nearest = min(off, key=abs, default=math.inf)
            if 1e-9 < abs(nearest) <= SHARED_RAD:
                turned[i] = angle + nearest
        if turned:
            made = _turned(contour, turned)
            off_px = float(np.abs(made.anchors - contour.anchors).max())
            told = _related(Relation.DIRECTIONS, [contour], len(turned))
            yield TrueShape(told, off_px), {place: made}


def _shared(angles: F64, weights: F64) -> list[float]:
    """Directions, modulo a right angle, that several sides have, the heaviest crowds first; nearly level is level."""
    shared: list[float] = []
    free = np.ones(len(angles), dtype=np.bool_)

    def off(direction: float) -> F64:
        return np.remainder(angles - direction + math.pi / 4.0, math.pi / 2.0) - math.pi / 4.0

    def near(direction: float) -> Flags:
        return np.abs(off(direction)) <= SHARED_RAD

    while free.any():
        crowds = [float(weights[free & near(angle)].sum()) for angle in angles[free].tolist()]
        middle = angles[free][int(np.argmax(crowds))]
        mine = free & near(middle)
        if mine.sum() >= 2:
            mean = float(middle + np.average(off(middle)[mine], weights=weights[mine]))
            shared.append(mean if abs(math.remainder(mean, math.pi / 2.0)) > LEVEL_RAD else 0.0)
        free &= ~near(middle)
    return shared


def _turned(contour: Contour, angles: dict[int, float]) -> Contour:
    """A contour with some of its lines (by the anchor they begin at) turned about their middles to other angles.

    Anchors between two lines go where these meet; at the end of one alone they go onto it, with their handles.
    """
    points, n = contour.points.copy(), len(contour)
    before = contour.points[:, 1]
    lines: dict[int, tuple[F64, F64]] = {}
    for i in range(n):
        j = (i + 1) % n
        if is_line(contour.points, i, j):
            way = before[j] - before[i]
            angle = angles.get(i, math.atan2(way[1], way[0]))
            lines[i] = 0.5 * (before[i] + before[j]), np.array((math.cos(angle), math.sin(angle)))
    for i in range(n):
        into, out = lines.get((i - 1) % n), lines.get(i)
        if (i not in angles and (i - 1) % n not in angles) or (into is None and out is None):
            continue
        far = how_far_to_meet(*into, *out, LEAST_SINE) if into is not None and out is not None else None
        new = into[0] + into[1] * far[0] if into is not None and far is not None else None
        if new is None or np.hypot(*(new - before[i])) > 1.0:
            middle, way = out if out is not None else into  # type: ignore[misc]
            new = middle + way * ((before[i] - middle) @ way)
        points[i] += new - before[i]
    kinds = contour.kinds.copy()
    align(points, kinds, True)
    return Contour(points, kinds)


def _middles(found: Found) -> Iterator[Proposed]:
    """Circles with about one middle."""
    circles = sorted(_circles(found), key=lambda one: -one[1].rx)
    for group in _groups(circles, lambda a, b: math.hypot(a.x - b.x, a.y - b.y) <= ONE_MIDDLE_PX + ONE_MIDDLE * a.rx):
        weights = [form.rx for _, form in group]
        x, y = (float(np.average([getattr(form, axis) for _, form in group], weights=weights)) for axis in "xy")
        off = max(math.hypot(form.x - x, form.y - y) for _, form in group)
        yield _of_circles(found, Relation.MIDDLE, [(p, replace(form, x=x, y=y)) for p, form in group], off)


def _sizes(found: Found) -> Iterator[Proposed]:
    """Circles of one ink that are about alike."""
    for ink in range(len(found)):
        circles = sorted((c for c in _circles(found) if c[0][0] == ink), key=lambda one: -one[1].rx)
        for group in _groups(circles, lambda a, b: a.rx - b.rx <= ALIKE_PX + ALIKE * a.rx):
            radius = float(np.mean([form.rx for _, form in group]))
            off = max(abs(form.rx - radius) for _, form in group)
            yield _of_circles(found, Relation.ALIKE, [(p, replace(f, rx=radius, ry=radius)) for p, f in group], off)


def _repeats(found: Found, tones: Settling) -> Iterator[Proposed]:
    """Parts that are repeated, alike."""
    for copies in repeated(found, tones):
        off = max(_apart(made, found[ink][k]) for (ink, k), made in copies.items())
        yield TrueShape(_related(Relation.REPEATED, list(copies.values()), len(copies)), off), copies


def _apart(one: Contour, other: Contour) -> float:
    """How far the first is from the second at most, in px."""
    line = other.sampled(0.25)
    return float(nearest_segments(one.sampled(0.25), line, following(line), APART_PX)[0].clip(max=APART_PX).max())


def _groups(
    circles: list[tuple[Place, Ellipse]], belong: Callable[[Ellipse, Ellipse], bool]
) -> Iterator[list[tuple[Place, Ellipse]]]:
    """Circles that belong to the first of them; only groups of several."""
    left = circles
    while left:
        first = left[0][1]
        group = [one for one in left if belong(first, one[1])]
        left = [one for one in left if not belong(first, one[1])]
        if len(group) > 1:
            yield group


def _of_circles(found: Found, relation: Relation, circles: list[tuple[Place, Ellipse]], off: float) -> Proposed:
    made = {place: as_contour(form, found[place[0]][place[1]]) for place, form in circles}
    return TrueShape(_related(relation, list(made.values()), len(made)), off), made


def _related(relation: Relation, contours: list[Contour], count: int) -> Related:
    boxes = np.array([(*c.anchors.min(axis=0), *c.anchors.max(axis=0)) for c in contours])
    (left, top), (right, bottom) = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
    return Related(
        float(left + right) / 2.0, float(top + bottom) / 2.0, 0.5 * float(right - left + bottom - top), relation, count
    )
