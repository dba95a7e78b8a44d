"""Contours: closed or open runs of anchors with handles."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from enum import IntEnum
from typing import Self

import numpy as np

from sobercrow.core.arrays import F64, U8, cumulated, frozen
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry.forms import Ellipse, Form
from sobercrow.core.stopping import go_on


class AnchorKind(IntEnum):
    """How the handles of an anchor hang together."""

    CORNER = 0
    """Each handle goes its own way."""
    SMOOTH = 1
    """Both handles lie on one line."""
    EVEN = 2
    """Both handles lie on one line and are equally long."""


LAST_KIND = int(AnchorKind.EVEN)
NO_WAY_PX = 1e-6
"""A handle or a neighbour nearer than this gives no direction."""
NO_TURN_COS = 0.9998
"""Where an outline turns by less than 1.1° its sides run on into each other."""


@dataclass(frozen=True, slots=True, eq=False)
class Contour:
    """Anchors with handles, joined by cubics.

    Attributes
    ----------
    points : (n, 3, 2) float64, read-only
        Handle in, anchor, handle out; a handle on its anchor is none.
    kinds : (n,) uint8, read-only
        Values of `AnchorKind`.
    closed : bool
    form : Form or None
        The true shape the anchors draw, as long as it is one.
    """

    points: F64
    kinds: U8
    closed: bool = True
    form: Form | None = None
    _box: tuple[float, float, float, float] | None = field(default=None, init=False, repr=False)

    def __post_init__(self) -> None:
        """Copy to read-only arrays; raise ValueError for wrong shapes or values that are not finite."""
        points = np.asarray(self.points, dtype=np.float64)
        kinds = np.asarray(self.kinds, dtype=np.uint8)
        if points.ndim != 3 or points.shape[1:] != (3, 2) or kinds.shape != (len(points),) or len(points) == 0:
            raise ValueError("a contour needs points (n, 3, 2) and kinds (n,), n at least 1")
        if not np.isfinite(points).all() or kinds.max() > LAST_KIND:
            raise ValueError("a contour's points must be finite and its kinds known")
        object.__setattr__(self, "points", frozen(points))
        object.__setattr__(self, "kinds", frozen(kinds))

    def __len__(self) -> int:
        """Return the number of anchors."""
        return len(self.points)

    def __eq__(self, other: object) -> bool:
        """Tell whether the other is a contour of the same values."""
        return (
            isinstance(other, Contour)
            and self.closed == other.closed
            and self.form == other.form
            and np.array_equal(self.points, other.points)
            and np.array_equal(self.kinds, other.kinds)
        )

    def __hash__(self) -> int:
        """Hash by value."""
        return hash((self.points.tobytes(), self.kinds.tobytes(), self.closed))

    @property
    def anchors(self) -> F64:
        """The anchors alone, (n, 2)."""
        return self.points[:, 1]

    def curves(self) -> F64:
        """Return the cubics from anchor to anchor, (m, 4, 2); m is n for closed contours, else n − 1."""
        points = self.points
        every = np.empty((len(points), 4, 2))
        every[:, 0], every[:, 1] = points[:, 1], points[:, 2]
        every[:-1, 2], every[:-1, 3] = points[1:, 0], points[1:, 1]
        every[-1, 2], every[-1, 3] = points[0, 0], points[0, 1]
        return every if self.closed else every[:-1]

    def area(self) -> float:
        """Return the signed area in px²: positive where the path runs clockwise on screen."""
        return float(bezier.areas(self.curves()).sum())

    def bounds(self) -> tuple[float, float, float, float]:
        """Return left, top, right, bottom; worked out once."""
        if self._box is None:
            if len(self) == 1 and not self.closed:
                x, y = (float(v) for v in self.anchors[0])
                box = x, y, x, y
            else:
                box = bezier.bounds(self.curves())
            object.__setattr__(self, "_box", box)
            return box
        return self._box

    def sampled(self, spacing_px: float) -> F64:
        """Return points on the contour, (k, 2), about `spacing_px` apart or nearer."""
        go_on()  # whatever looks at many contours asks for their points
        curves = self.curves()
        if not len(curves):
            return self.anchors.copy()
        points, _ = bezier.spaced(curves, spacing_px)
        return points if self.closed else np.vstack([points, curves[-1, 3]])

    def reversed(self) -> Contour:
        """Return the contour run through the other way."""
        return self.known(self.points[::-1, ::-1].copy(), self.kinds[::-1].copy(), self.closed, self.form)

    def filled(self) -> Contour:
        """Return the contour as it is filled: an open one closed by a line from its end to its start."""
        if self.closed:
            return self
        points, kinds = self.points.copy(), self.kinds.copy()
        points[0, 0], points[-1, 2] = points[0, 1], points[-1, 1]
        kinds[[0, -1]] = AnchorKind.CORNER
        return self.known(points, kinds)

    @classmethod
    def of_form(cls, form: Form) -> Self:
        """Make the one that draws an ellipse or a rectangle."""
        points = form.anchors()
        smooth = isinstance(form, Ellipse) or form.radius > 0.0
        kinds = np.full(len(points), AnchorKind.SMOOTH if smooth else AnchorKind.CORNER, dtype=np.uint8)
        return cls(points, kinds, True, form)

    def scaled(self, factor: float) -> Contour:
        """Return the contour with all coordinates multiplied."""
        form = None if self.form is None else self.form.scaled(factor)
        return Contour(self.points * factor, self.kinds, self.closed, form)

    def moved(self, dx: float, dy: float) -> Contour:
        """Return the contour shifted."""
        form = None if self.form is None else self.form.moved(dx, dy)
        moved = self._with_points(self.points + np.array((dx, dy)), form)
        if self._box is not None:
            left, top, right, bottom = self._box
            object.__setattr__(moved, "_box", (left + dx, top + dy, right + dx, bottom + dy))
        return moved

    def _with_points(self, points: F64, form: Form | None) -> Self:
        """The same with other points."""
        return self.known(points, self.kinds, self.closed, form)

    @classmethod
    def known(cls, points: F64, kinds: U8, closed: bool = True, form: Form | None = None) -> Self:
        """Make one of arrays that are known to be right and that nobody else changes; they become read-only."""
        points.setflags(write=False)
        kinds.setflags(write=False)
        made = object.__new__(cls)
        for name, value in (("points", points), ("kinds", kinds), ("closed", closed), ("form", form), ("_box", None)):
            object.__setattr__(made, name, value)
        return made


def directions(contour: Contour) -> tuple[F64, F64]:
    """Return the unit directions into and out of every anchor, (n, 2) each; nought where there is none.

    At the ends of an open contour the one that is missing is that of the other side.
    """
    points = contour.points
    after, before = np.roll(points, -1, axis=0), np.roll(points, 1, axis=0)
    here = points[:, 1]
    into = first_way(here - points[:, 0], here - before[:, 2], here - before[:, 1])
    out = first_way(points[:, 2] - here, after[:, 0] - here, after[:, 1] - here)
    if not contour.closed:
        into[0], out[-1] = out[0], into[-1]
    return into, out


def first_way(*ways: F64) -> F64:
    """In each row the first of some vectors that is no point, as a unit vector."""
    found = np.zeros_like(ways[0])
    open_yet = np.ones(len(found), dtype=np.bool_)
    for way in ways:
        size = np.hypot(way[:, 0], way[:, 1])
        taken = open_yet & (size > NO_WAY_PX)
        found[taken] = way[taken] / size[taken, None]
        open_yet &= ~taken
    return found


def joint_kinds(into: F64, out: F64) -> U8:
    """Return the kinds of anchors by the unit directions (n, 2) into and out of them: smooth where they run on."""
    smooth = (into * out).sum(axis=1) > NO_TURN_COS
    return np.where(smooth, int(AnchorKind.SMOOTH), int(AnchorKind.CORNER)).astype(np.uint8)


def work_out_bounds(contours: Iterable[Contour]) -> None:
    """Work out the bounds of many contours in one go; each then has its own ready."""
    left = [contour for contour in contours if contour._box is None and (len(contour) > 1 or contour.closed)]
    if not left:
        return
    curves = [contour.curves() for contour in left]
    starts = cumulated([len(own) for own in curves])[:-1]
    boxes = bezier.boxes(np.concatenate(curves))
    lows, highs = np.minimum.reduceat(boxes[:, :2], starts), np.maximum.reduceat(boxes[:, 2:], starts)
    for contour, low, high in zip(left, lows.tolist(), highs.tolist(), strict=True):
        object.__setattr__(contour, "_box", (*low, *high))
