"""What is regular among the marks of a picture: proposed by how it was traced, kept where its tones agree.

Round spots and rings are circles; sides that hardly bend are straight, and share their directions, level and upright
ones first, with right angles between them; circles with about one middle have one; circles of about one size are alike,
so are copies of any other part, and strokes of about one width are equally wide. A proposal is drawn beside what it
would replace, and kept if the picture differs from it no more than the noise there allows. Everything kept is told, and
can be refused.
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
from sobercrow.core.geometry.forms import Ellipse, Rectangle, Relation, ellipse_of_moments
from sobercrow.core.settings import Tracing
from sobercrow.core.tracing.equal_strokes import equal_strokes
from sobercrow.core.tracing.fitting import Fitter
from sobercrow.core.tracing.parallels import sides_of, with_directions
from sobercrow.core.tracing.proposals import Place, Proposed, as_it_is, circles_in, free, related, taken_over
from sobercrow.core.tracing.regular import align, is_line, without_needless
from sobercrow.core.tracing.repeats import repeated
from sobercrow.core.tracing.settling import Found, Settling
from sobercrow.core.tracing.sides import with_sides
from sobercrow.core.tracing.true_shapes import TrueShape, as_contour

ROUNDNESS, NEARLY_ROUND, LEAST_RADIUS_PX, LARGEST_ROUND_PX = 0.86, 1.18, 2.0, 40.0
"""Area over that of a circle of the same perimeter, and length over width, of what may be a circle; its radius."""
LEAST_SIDE_PX, MOST_BOW_PX, MOST_BOW, MOST_TURN = 8.0, 0.5, 0.03, math.radians(16)
"""A side at least so long may be straight if it is off its chord by no more than this, in px and as a share."""
ONE_MIDDLE_PX, ONE_MIDDLE = 0.5, 0.01
"""Circles whose middles are no further apart, in px and as a share of the larger radius more, have one."""
BENEATH_PX = 4.0
"""How far from the edge of a line that lies above the edge beneath it runs at most."""
ALIKE_PX, ALIKE, LIKE_AREA = 0.3, 0.05, 0.3
APART_PX = 3.0
"""How far copies are from what they replace is told up to this."""
MORE_ANCHORS, MOST_ANCHORS = 3, 1.8
"""So many more anchors may a contour have for every straight side it gets; so many times as many, and two, in all."""


def with_round_marks(
    found: Found, tones: Settling, settings: Tracing, known: Sequence[TrueShape]
) -> tuple[Found, list[TrueShape]]:
    """Return contours with round ones as circles where the picture agrees, and these, refused or not.

    `known` is what was found already. Among circles what looked like a square of their size is one of them.
    """
    if not settings.true_shapes or not tones.has_tones:
        return found, []
    refused = [one for one in known if one.refused]
    found, told = taken_over(found, _rounds(found), tones, settings, refused, _as_circle)
    found, more = taken_over(found, _squares_among_rounds(found), tones, settings, [], _as_circle)
    return found, [*told, *more]


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

    proposers: tuple[tuple[Callable[[Found], Iterator[Proposed]], Callable[[Contour], Contour] | None], ...] = (
        (_sides, as_it_is),
        (partial(_sides_of_borders, lines=lines, fitters=fitters), as_it_is),
        (_sides, as_it_is),
        (with_directions, None),
        (_middles, None),
        (_sizes, None),
        (equal_strokes, None),
        (equal_strokes, None),  # a contour takes part in one width at a time
        (partial(_repeats, tones=tones), None),
    )
    for propose, finish in proposers:
        found, more = taken_over(found, propose(found), tones, settings, known, finish)
        told.extend(more)
    return found, told


def _as_circle(contour: Contour) -> Contour:
    """The circle of the area and the middle of a contour."""
    about = ellipse_of_moments(contour.sampled(0.25))
    radius = math.sqrt(about.rx * about.ry)
    return as_contour(Ellipse(about.x, about.y, radius, radius), contour)


def _rounds(found: Found) -> Iterator[Proposed]:
    """Round contours as circles."""
    for place, contour in free(found):
        points = contour.sampled(0.25)
        legs = np.diff(np.concatenate([points, points[:1]]), axis=0)
        perimeter = float(np.hypot(legs[:, 0], legs[:, 1]).sum())
        if 4.0 * math.pi * abs(contour.area()) < ROUNDNESS * perimeter**2:
            continue
        about = ellipse_of_moments(points)
        if about.rx > NEARLY_ROUND * about.ry or about.ry < LEAST_RADIUS_PX:
            continue
        made = _as_circle(contour)
        assert isinstance(made.form, Ellipse)
        off = np.abs(np.hypot(points[:, 0] - made.form.x, points[:, 1] - made.form.y) - made.form.rx)
        yield TrueShape(made.form, float(off.max())), {place: made}


def _squares_among_rounds(found: Found) -> Iterator[Proposed]:
    """Small squares as circles, where the same ink has circles of about their area."""
    areas: dict[int, list[float]] = {}
    for (ink, _), circle in circles_in(found):
        areas.setdefault(ink, []).append(math.pi * circle.rx**2)
    for ink, contours in enumerate(found):
        for k, contour in enumerate(contours):
            area = abs(contour.area())
            if not isinstance(contour.form, Rectangle) or area > math.pi * LARGEST_ROUND_PX**2:
                continue
            if any(abs(area - other) <= LIKE_AREA * other for other in areas.get(ink, [])):
                made = _as_circle(contour)
                assert made.form is not None
                yield TrueShape(made.form, 0.0), {(ink, k): made}


def _sides_of_borders(found: Found, lines: Sequence[Sequence[F64]], fitters: Sequence[Fitter]) -> Iterator[Proposed]:
    """Contours with the straight sides their borders have."""
    for (ink, k), contour in free(found):
        made = with_sides(lines[ink][k], fitters[ink], contour)
        more = 0 if made is None else made[1] - sum(1 for _ in sides_of(contour, LEAST_SIDE_PX))
        n = len(contour)
        if made is not None and more > 0 and len(made[0]) <= min(n + MORE_ANCHORS * more, MOST_ANCHORS * n + 2):
            yield TrueShape(related(Relation.STRAIGHT, [contour], made[1]), 0.0), {(ink, k): made[0]}


def _sides(found: Found) -> Iterator[Proposed]:
    """Contours with sides that hardly bend, these straight."""
    for place, contour in free(found):
        made, count, off = _straight(contour)
        if count == 0:
            continue
        yield TrueShape(related(Relation.STRAIGHT, [contour], count), off), {place: made}


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


def _middles(found: Found) -> Iterator[Proposed]:
    """Circles with about one middle."""
    circles = sorted(circles_in(found), key=lambda one: -one[1].rx)
    for group in _groups(circles, lambda a, b: math.hypot(a.x - b.x, a.y - b.y) <= ONE_MIDDLE_PX + ONE_MIDDLE * a.rx):
        weights = [0.0 if _is_beneath(place, form, group) else form.rx for place, form in group]
        x, y = (float(np.average([getattr(form, axis) for _, form in group], weights=weights)) for axis in "xy")
        off = max(math.hypot(form.x - x, form.y - y) for _, form in group)
        yield _of_circles(found, Relation.MIDDLE, [(p, replace(form, x=x, y=y)) for p, form in group], off)


def _is_beneath(place: Place, circle: Ellipse, others: Sequence[tuple[Place, Ellipse]]) -> bool:
    """Tell whether a circle about the same middle runs above, so near that this one is likely not seen."""
    return any(ink > place[0] and abs(other.rx - circle.rx) <= BENEATH_PX for (ink, _), other in others)


def _sizes(found: Found) -> Iterator[Proposed]:
    """Circles of one ink that are about alike."""
    for ink in range(len(found)):
        circles = sorted((c for c in circles_in(found) if c[0][0] == ink), key=lambda one: -one[1].rx)
        for group in _groups(circles, lambda a, b: a.rx - b.rx <= ALIKE_PX + ALIKE * a.rx):
            radius = float(np.mean([form.rx for _, form in group]))
            off = max(abs(form.rx - radius) for _, form in group)
            yield _of_circles(found, Relation.ALIKE, [(p, replace(f, rx=radius, ry=radius)) for p, f in group], off)


def _repeats(found: Found, tones: Settling) -> Iterator[Proposed]:
    """Parts that are repeated, alike."""
    for copies in repeated(found, tones):
        off = max(_apart(made, found[ink][k]) for (ink, k), made in copies.items())
        yield TrueShape(related(Relation.REPEATED, list(copies.values()), len(copies)), off), copies


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
    return TrueShape(related(relation, list(made.values()), len(made)), off), made
