"""Parts whose middles or axes of symmetry nearly lie on one line, moved onto it where the tones agree."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from typing import NamedTuple

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import Ellipse, Mirror, Rectangle, Relation
from sobercrow.core.settings import Tracing
from sobercrow.core.tracing.parallels import crowds
from sobercrow.core.tracing.proposals import Place, Proposed, related, taken_over
from sobercrow.core.tracing.settling import Found, Settling
from sobercrow.core.tracing.true_shapes import TrueShape

NEAR_PX = 0.25
"""Middles no further from a line may lie on it."""
SAME_DEG = 0.01
ON_PX = 1e-9

Symmetric = Sequence[tuple[tuple[Mirror, ...], list[int]]]
"""Axes, and which contours of an ink are symmetric about them."""


class _Part(NamedTuple):
    """Contours that move together, a place on all their axes, the axes' directions (none: any), and their size."""

    places: tuple[Place, ...]
    middle: F64
    angles_deg: tuple[float, ...] | None
    size: float

    def has_axis(self, angle_deg: float) -> bool:
        """Whether it has an axis in a direction."""
        if self.angles_deg is None:
            return True
        return any(abs(math.remainder(angle - angle_deg, 180.0)) <= SAME_DEG for angle in self.angles_deg)


def with_shared_axes(
    found: Found, symmetric: Sequence[Symmetric], tones: Settling, settings: Tracing, known: Sequence[TrueShape]
) -> tuple[Found, list[TrueShape]]:
    """Return contours with the axes they share, and all that is regular, told of this as well.

    `symmetric` has the axes of every ink; `known` is what was found already, its axes go with their contours. Level
    and upright axes first, then others that something is symmetric about.
    """
    told = list(known)
    if not settings.true_shapes or not tones.has_tones:
        return found, told
    first = found
    parts = [*_true_shapes(found), *_symmetric_parts(found, symmetric)]
    angles = {round(angle % 90.0, 3) for part in parts for angle in part.angles_deg or ()}
    for base in sorted(angles | {0.0}):
        before = found
        for angle in (base, base + 90.0):  # moving across one of these changes nothing about the other
            found, more = taken_over(found, _on_axes(found, parts, angle), tones, settings, known)
            told.extend(more)
        parts = [part for part in parts if all(found[ink][k] is before[ink][k] for ink, k in part.places)]
    moved = {
        (axes[0].x, axes[0].y): found[ink][k].anchors[0] - first[ink][k].anchors[0]
        for ink, groups in enumerate(symmetric)
        for axes, (k, *_) in groups
    }
    return found, [_gone_along(shape, moved) for shape in told]


def _gone_along(shape: TrueShape, moved: Mapping[tuple[float, float], F64]) -> TrueShape:
    """An axis of symmetry where its contours are now."""
    form = shape.form
    if not isinstance(form, Mirror) or (form.x, form.y) not in moved:
        return shape
    dx, dy = moved[form.x, form.y].tolist()
    return replace(shape, form=replace(form, x=form.x + dx, y=form.y + dy))


def _on_axes(found: Found, parts: Sequence[_Part], angle_deg: float) -> Iterator[Proposed]:
    """Parts nearly on a line of a direction, moved onto it."""
    some = [part for part in parts if part.has_axis(angle_deg)]
    across = Mirror(0.0, 0.0, 0.0, angle_deg).across()
    places = np.array([part.middle @ across for part in some])
    for crowd, mean in crowds(places, np.array([part.size for part in some]), NEAR_PX):
        shifts = {k: (mean - places[k]) * across for k in crowd.tolist()}
        if max(float(np.hypot(*shift)) for shift in shifts.values()) <= ON_PX:
            continue
        made: dict[Place, Contour] = {}
        for k, shift in shifts.items():
            for ink, ring in some[k].places:
                made[ink, ring] = found[ink][ring].moved(*shift.tolist())
        told = related(Relation.AXIS, list(made.values()), len(crowd))
        yield TrueShape(told, float(np.abs(places[crowd] - mean).max())), made


def _true_shapes(found: Found) -> Iterator[_Part]:
    """Circles, ellipses and rectangles; those about one middle move together."""
    about: dict[tuple[float, float], list[tuple[Place, Ellipse | Rectangle]]] = {}
    for ink, contours in enumerate(found):
        for k, contour in enumerate(contours):
            if contour.form is not None:
                about.setdefault((contour.form.x, contour.form.y), []).append(((ink, k), contour.form))
    for (x, y), forms in about.items():
        own = [form.angle_deg for _, form in forms if not (isinstance(form, Ellipse) and form.is_circle)]
        angles = tuple(angle + turn for angle in own for turn in (0.0, 90.0)) if own else None
        size = max(form.rx + form.ry if isinstance(form, Ellipse) else form.width + form.height for _, form in forms)
        yield _Part(tuple(place for place, _ in forms), np.array((x, y)), angles, size)


def _symmetric_parts(found: Found, symmetric: Sequence[Symmetric]) -> Iterator[_Part]:
    for ink, groups in enumerate(symmetric):
        for axes, which in groups:
            free = tuple((ink, k) for k in which if found[ink][k].form is None)
            if free:
                middle = np.array((axes[0].x, axes[0].y))
                yield _Part(free, middle, tuple(axis.angle_deg for axis in axes), axes[0].length)
