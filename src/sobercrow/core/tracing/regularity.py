"""What is regular about traced contours: true shapes and mirror symmetry, found and drawn as such."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace
from typing import Self

import numpy as np

from sobercrow.core.arrays import F64, following
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry._nearest_kernels import nearest_segments
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import Mirror
from sobercrow.core.settings import Tracing
from sobercrow.core.tracing.fitting import Fitter
from sobercrow.core.tracing.mirrors import find_mirror, symmetric_about, symmetric_border
from sobercrow.core.tracing.symmetric import evened, symmetric_contours
from sobercrow.core.tracing.true_shapes import TrueShape, as_contour, find_form

FLAT_PX = 0.002
ANYWHERE_PX = 1e4
WORSE, WORSE_PX, MORE_ANCHORS = 1.1, 0.02, 2
"""How much further from the border a symmetric contour may run in the mean than the one it replaces, and how many more
anchors it may have: its curves are joined on the axis."""


_Box = tuple[float, float, float, float]


@dataclass(slots=True, eq=False)
class _Group:
    """A symmetric border by its box, those within it that share its axis, and their contours made symmetric."""

    box: _Box
    found: TrueShape
    contours: dict[int, Contour] = field(default_factory=dict)

    @property
    def axes(self) -> tuple[Mirror, ...]:
        """The axis, or both."""
        return _axes(self.found)

    def shared_by(self, line: F64, box: _Box, tolerance: float) -> TrueShape | None:
        """Return what was found with one more border, within, that is symmetric about the same axis; else None."""
        left, top, right, bottom = self.box
        if not (box[0] > left and box[1] > top and box[2] < right and box[3] < bottom) or len(self.axes) > 1:
            return None
        deviation = symmetric_about(line, self.axes[0], tolerance)
        return None if deviation is None else replace(self.found, deviation_px=max(deviation, self.found.deviation_px))


@dataclass(frozen=True, slots=True, eq=False)
class Regularity:
    """The true shapes among contours, by their place in the list, and the symmetric ones.

    `grain_px` is how many pixels what was one pixel of the drawing takes up.
    """

    shapes: dict[int, TrueShape]
    groups: list[_Group]
    settings: Tracing
    grain_px: float

    @classmethod
    def find(
        cls,
        lines: Sequence[F64],
        contours: Sequence[Contour],
        settings: Tracing,
        fitter: Fitter,
        grain_px: float,
        between: Callable[[], object],
    ) -> Self:
        """Look for it in borders (n, 2), the closed ones, and the contours fitted to them.

        True shapes first; of what is left the longest borders come first, and what lies within a symmetric one shares
        its axis if it can. A symmetric contour that would lie worse on its border is none. `between` is called now and
        then; it may raise to stop the work.
        """
        found = cls({}, [], settings, fitter.grain_px)
        if not settings.true_shapes:
            return found
        free = []
        for k in (k for k, contour in enumerate(contours) if contour.closed):
            between()
            shape = find_form(lines[k], settings.effective_tolerance_px, grain_px)
            if shape is None:
                free.append(k)
            else:
                found.shapes[k] = shape.judged(settings)
        grain, plain = fitter.grain_px, replace(fitter, grain_px=1.0)
        for k in sorted(free, key=lambda k: -len(lines[k])):
            between()
            seen = np.ascontiguousarray(lines[k][:: round(grain)] / grain)
            _place(k, seen, contours[k].scaled(1.0 / grain), found.groups, plain)
        return found

    @property
    def forms(self) -> list[TrueShape]:
        """All that was found, also what is refused."""
        return [*self.shapes.values(), *map(self._judged, self.groups)]

    def _judged(self, group: _Group) -> TrueShape:
        return group.found.scaled(self.grain_px).judged(self.settings)

    def drawn(self, contours: Sequence[Contour]) -> list[Contour]:
        """Return the contours as the true shapes they are, and exactly symmetric; what is refused stays as it is."""
        made = list(contours)
        for k, shape in self.shapes.items():
            made[k] = made[k] if shape.refused else as_contour(shape.form, made[k])
        for group in self.groups:
            if not self._judged(group).refused:
                for k, contour in group.contours.items():
                    made[k] = contour.scaled(self.grain_px)
        return made

    def restored(self, contours: Sequence[Contour]) -> list[Contour]:
        """Return contours that were drawn so, then moved a little, as true shapes and exactly symmetric again."""
        made = self.drawn(contours)
        for axes, which in self.symmetric():
            for k in which:
                made[k] = evened(contours[k], axes) or made[k]
        return made

    def evened(self, contours: Sequence[Contour], before: Sequence[Contour]) -> list[Contour]:
        """Return contours that came of exactly symmetric ones exactly so again; else as they were before."""
        made = list(contours)
        for axes, which in self.symmetric():
            for k in which:
                made[k] = made[k] if made[k] is before[k] else evened(made[k], axes) or before[k]
        return made

    def symmetric(self) -> list[tuple[tuple[Mirror, ...], list[int]]]:
        """Return the axes of contours drawn symmetric, and which ones each has."""
        return [
            (tuple(axis.scaled(self.grain_px) for axis in group.axes), list(group.contours))
            for group in self.groups
            if not self._judged(group).refused
        ]

    def is_free(self, k: int) -> bool:
        """Return whether a contour is none of the true shapes drawn."""
        return k not in self.shapes or self.shapes[k].refused


def _axes(found: TrueShape) -> tuple[Mirror, ...]:
    axis = found.form
    assert isinstance(axis, Mirror)
    return (axis, axis.upright()) if axis.twofold else (axis,)


def _place(k: int, line: F64, contour: Contour, groups: list[_Group], fitter: Fitter) -> None:
    """Find the group a border belongs to, which may be a new one, if its contour can be made symmetric."""
    box: _Box = (*line.min(axis=0).tolist(), *line.max(axis=0).tolist())
    for group in groups:
        shared = group.shared_by(line, box, fitter.tolerance)
        better = None if shared is None else _symmetric(line, contour, shared, fitter)
        if shared is not None and better is not None:
            group.found, group.contours[k] = shared, better
            return
    found = find_mirror(line, fitter.tolerance)
    for attempt in () if found is None else _attempts(found):
        better = _symmetric(line, contour, attempt, fitter)
        if better is not None:
            groups.append(_Group(box, attempt, {k: better}))
            return


def _attempts(found: TrueShape) -> list[TrueShape]:
    """What was found, and if it has two axes, the first alone."""
    axis = found.form
    assert isinstance(axis, Mirror)
    return [found, *([replace(found, form=replace(axis, twofold=False))] if axis.twofold else [])]


def _symmetric(line: F64, contour: Contour, found: TrueShape, fitter: Fitter) -> Contour | None:
    """The contour of a border made symmetric, with as few anchors as can be; None if it would be worse."""
    for axis in _axes(found):
        allowed = WORSE * _mean_distance(line, contour) + WORSE_PX
        line = symmetric_border(line, axis)
        made = [(len(c), _mean_distance(line, c), c) for c in symmetric_contours(contour, line, axis, fitter)]
        made = [one for one in made if one[0] <= len(contour) + MORE_ANCHORS and one[1] <= allowed]
        if not made:
            return None
        contour = min(made, key=lambda one: one[:2])[2]
    return evened(contour, _axes(found))  # one half fitted anew may have lost the other symmetry


def _mean_distance(line: F64, contour: Contour) -> float:
    """How far the points of a border are from a contour in the mean."""
    edge, _ = bezier.chorded(contour.curves(), FLAT_PX)
    return float(nearest_segments(line, edge, following(edge), ANYWHERE_PX)[0].mean())
