"""Contours made exactly symmetric about an axis."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F64, preceding
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.geometry.forms import Ellipse, Mirror
from sobercrow.core.tracing.fitting import Fitter
from sobercrow.core.tracing.regular import align, in_line, is_line

LEAST_POINTS = 8
CORNER_PX, LEVEL_PX = 2.0, 4.0
"""A corner within the former of where the border crosses the axis lies there; else the border is level there, and read
within the latter."""
LEAST_OFF_PX = 1e-6
PAIR_PX = 2.0
"""An anchor nearer than this to another's mirror image is its counterpart."""


def symmetric_contours(contour: Contour, border: F64, axis: Mirror, fitter: Fitter) -> list[Contour]:
    """Return what a closed contour may become that is symmetric about an axis, run through the same way.

    Where every anchor has its counterpart, the mean of the contour and its mirror image; and half of the border (n, 2),
    which is symmetric, fitted anew, with its mirror image.
    """
    own = Contour(axis.seen(contour.points), contour.kinds)
    if own.anchors[:, 0].sum() < 0.0:  # the same half is fitted however the picture is turned or mirrored
        axis = replace(axis, angle_deg=axis.angle_deg + 180.0)
        own = Contour(axis.seen(contour.points), contour.kinds)
    made = [_mean(own, _image(own)), _refitted(axis.seen(border), own, fitter)]
    return [Contour(axis.back(c.points), c.kinds) for c in made if c is not None]


def evened(contour: Contour, axes: Sequence[Mirror]) -> Contour | None:
    """Return the mean of a closed contour and its mirror images, or None if its anchors have no counterparts.

    A circle remains one, its middle moved onto the axes.
    """
    for axis in axes:
        if isinstance(contour.form, Ellipse) and contour.form.is_circle:
            middle = np.array((contour.form.x, contour.form.y))
            contour = contour.moved(*(axis.back(axis.seen(middle) * (0.0, 1.0)) - middle).tolist())
            continue
        own = Contour(axis.seen(contour.points), contour.kinds)
        mean = _mean(own, _image(own))
        if mean is None:
            return None
        contour = Contour(axis.back(mean.points), mean.kinds)
    return contour


def _image(contour: Contour) -> Contour:
    """The mirror image about the upright axis through nought, run through the same way round."""
    return Contour(contour.points[::-1, ::-1] * (-1.0, 1.0), contour.kinds[::-1])


def _mean(own: Contour, image: Contour) -> Contour | None:
    """The mean of a contour and its mirror image, anchor for anchor; None if they do not pair."""
    begin = int(np.hypot(*(image.anchors - own.anchors[0]).T).argmin())
    points, kinds = np.roll(image.points, -begin, axis=0), np.roll(image.kinds, -begin)
    apart = np.hypot(*(points[:, 1] - own.anchors).T)
    if apart.max() > PAIR_PX or (kinds != own.kinds).any() or (_bare(points) != _bare(own.points)).any():
        return None
    mean = 0.5 * (own.points + points)
    in_line(mean, kinds)
    align(mean, kinds, True)
    return Contour(mean, kinds)


def _bare(points: F64) -> NDArray[np.bool_]:
    """Whether each anchor is without its handle in, and out."""
    return np.asarray((points[:, ::2] == points[:, 1:2]).all(axis=2))


def _refitted(border: F64, contour: Contour, fitter: Fitter) -> Contour | None:
    """Fit the half of a symmetric border (n, 2) right of the upright axis; with its mirror image it is the whole.

    At the axis the curve is level, or has a corner if the contour has one there. None if there is no such half.
    """
    is_right = border[:, 0] > 0.0
    first = np.flatnonzero(is_right & ~preceding(is_right))
    if len(first) != 1 or is_right.sum() < LEAST_POINTS:
        return None
    border = np.roll(border, -first[0], axis=0)
    count = int(is_right.sum())
    half = border[:count]
    start, start_smooth = _crossing(half, border[-1], contour)
    end, end_smooth = _crossing(half[::-1], border[count], contour)
    off_axis = half[half[:, 0] > LEAST_OFF_PX]
    ends = np.array([(1.0, 0.0, float(start_smooth)), (-1.0, 0.0, float(end_smooth))])
    fitted = fitter.open(np.concatenate([start[None], off_axis, end[None]]), ends)
    whole = with_image(fitted, start_smooth, end_smooth)
    return whole if whole.area() * contour.area() > 0.0 else whole.reversed()


def _crossing(inward: F64, beyond: F64, contour: Contour) -> tuple[F64, bool]:
    """Where a border crosses the axis, and whether smoothly.

    `inward` are its points from there on, (n, 2), and `beyond` is the one on the other side.
    """
    share = inward[0, 0] / (inward[0, 0] - beyond[0])
    place = np.array((0.0, inward[0, 1] + share * (beyond[1] - inward[0, 1])))
    corners = contour.anchors[contour.kinds == AnchorKind.CORNER]
    away = np.hypot(*(corners - place).T)
    if len(corners) and away.min() <= CORNER_PX:
        return np.array((0.0, corners[away.argmin(), 1])), False
    beside = inward[: max(int(np.argmax(np.hypot(*(inward - place).T) > LEVEL_PX)), 3)]
    return np.array((0.0, np.polynomial.polynomial.polyfit(beside[:, 0] ** 2, beside[:, 1], 1)[0])), True


def with_image(half: Contour, start_smooth: bool, end_smooth: bool) -> Contour:
    """Return half a contour from the upright axis through nought back to it, and its mirror image.

    Lines that cross the axis have no anchor there.
    """
    points, kinds = half.points.copy(), half.kinds.copy()
    flip = np.array((-1.0, 1.0))
    points[0, 0], points[-1, 2] = points[0, 2] * flip, points[-1, 0] * flip
    kinds[0] = AnchorKind.SMOOTH if start_smooth else AnchorKind.CORNER
    kinds[-1] = AnchorKind.SMOOTH if end_smooth else AnchorKind.CORNER
    first = int(start_smooth and is_line(points, 0, 1))
    last = len(points) - int(end_smooth and is_line(points, -2, -1))
    inner = slice(1, len(points) - 1)
    image = points[inner][::-1, ::-1] * flip
    return Contour(np.concatenate([points[first:last], image]), np.concatenate([kinds[first:last], kinds[inner][::-1]]))
