"""Fewer anchors: the fewest that hold a curve within a tolerance, at new places if need be.

Method: dynamic programming over places on the curve (`geometry/_thin_kernels.py`).
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.anchors import delete_anchors
from sobercrow.core.artwork.choice import AnchorRef, Choice, Edited
from sobercrow.core.artwork.edits import change_shapes
from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.artwork.stretches import Stretch, part_of, stretch_of, with_part
from sobercrow.core.errors import EditError
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.geometry.fewest import Runs

LEAST_TOLERANCE_PX, MOST_TOLERANCE_PX = 0.02, 20.0
TOP = np.array((1e-3, 1.0))


def thin_out(
    artwork: Artwork,
    choice: Choice,
    tolerance_px: float,
    at_extremes: bool = False,
    seen: Collection[int] | None = None,
) -> Edited:
    """Hold the line with the fewest anchors, nowhere further off than the tolerance.

    Of a chosen stretch its ends stay; else the chosen shapes are thinned, or all of them, or only those `seen`. Corners
    stay, and anchors that are chosen without being a stretch. With `at_extremes` there are anchors wherever the line is
    level or upright, and rather where its bend turns than elsewhere.

    Raises
    ------
    EditError
        If the tolerance is none, or nothing can be thinned within it.
    """
    if not LEAST_TOLERANCE_PX <= tolerance_px <= MOST_TOLERANCE_PX:
        raise EditError(f"Thin out within {LEAST_TOLERANCE_PX} to {MOST_TOLERANCE_PX:.0f} px.")
    stretch = stretch_of(artwork, choice.anchors)
    if stretch is not None and stretch.pieces > 1:
        return _thin_stretch(artwork, stretch, tolerance_px, at_extremes)
    held: dict[tuple[int, int], set[int]] = {}
    for ref in choice.anchors:
        held.setdefault((ref.shape, ref.contour), set()).add(ref.anchor)
    wanted = choice.shapes or {s for s, _ in held} or range(len(artwork.shapes))
    plans = {
        (s, c): _Plan.of(contour, held.get((s, c), ()))
        for s in sorted(wanted)
        if seen is None or s in seen
        for c, contour in enumerate(artwork.shapes[s].contours)
        if contour.form is None and len(contour) > 2
    }
    made = dict(zip(plans, _thinned(list(plans.values()), tolerance_px, at_extremes), strict=True))
    if all(made[name][0] is plan.contour for name, plan in plans.items()):
        raise EditError(f"Nothing can be thinned out within {tolerance_px:g} px; a larger tolerance takes more.")
    names = {
        AnchorRef(s, c, made[s, c][1].get(k, k) if (s, c) in made else k) for (s, c), own in held.items() for k in own
    }

    def change(index: int, shape: Shape) -> Shape:
        contours = [made.get((index, c), (contour, {}))[0] for c, contour in enumerate(shape.contours)]
        return shape if all(a is b for a, b in zip(contours, shape.contours, strict=True)) else _like(shape, contours)

    return Edited(change_shapes(artwork, change), Choice(choice.shapes, frozenset(names)))


def _like(shape: Shape, contours: list[Contour]) -> Shape:
    return replace(shape, contours=tuple(contours))


def _thin_stretch(artwork: Artwork, stretch: Stretch, tolerance_px: float, at_extremes: bool) -> Edited:
    contour = artwork.shapes[stretch.shape].contours[stretch.contour]
    if contour.closed and stretch.pieces == len(contour):
        ((made, _),) = _thinned([_Plan.of(contour)], tolerance_px, at_extremes)
        refs = frozenset(AnchorRef(stretch.shape, stretch.contour, k) for k in range(len(made)))
    else:
        part = part_of(contour, stretch.first, stretch.pieces)
        ((thinned, _),) = _thinned([_Plan.of(part)], tolerance_px, at_extremes)
        made, begin = with_part(contour, stretch.first, stretch.pieces, thinned)
        refs = Stretch(stretch.shape, stretch.contour, begin, len(thinned) - 1).refs(len(made))

    def change(index: int, shape: Shape) -> Shape:
        if index != stretch.shape:
            return shape
        return _like(shape, [made if c == stretch.contour else old for c, old in enumerate(shape.contours)])

    return Edited(change_shapes(artwork, change), Choice(anchors=refs))


@dataclass(frozen=True, slots=True, eq=False)
class _Plan:
    """How a contour is taken apart: the anchors that stay, and the parts between them, the first at the first."""

    contour: Contour
    stay: list[int]
    parts: list[Contour]

    @classmethod
    def of(cls, contour: Contour, held: Collection[int] = ()) -> _Plan:
        """Take a contour apart at its corners and the anchors held; a ring without any at its top."""
        count = len(contour)
        stay = sorted({int(k) for k in np.flatnonzero(contour.kinds == AnchorKind.CORNER)} | set(held))
        if not contour.closed:
            stay = sorted({0, *stay, count - 1})
        elif not stay:
            stay = [int(np.argmin(contour.anchors @ TOP))]
        ends = [*stay[1:], *([stay[0] + count] if contour.closed else [])]
        parts = [part_of(contour, first, last - first) for first, last in zip(stay, ends, strict=False)]
        return cls(contour, stay, parts)

    def made(self, runs: Sequence[F64], even_if_more: bool = False) -> tuple[Contour, dict[int, int]]:
        """The contour put together again from its parts thinned, and where the anchors that stayed are now.

        Without `even_if_more` it stays as it is if that takes no more anchors.
        """
        contour, sizes = self.contour, [len(run) - 1 for run in runs]
        count = sum(sizes) + (not contour.closed)
        if (count >= len(contour) and not even_if_more) or count < 2:
            return contour, {k: k for k in self.stay}
        now = dict(zip(self.stay, np.cumsum([0, *sizes]).tolist(), strict=False))
        points = np.concatenate([*(run[:-1] for run in runs), *([] if contour.closed else [runs[-1][-1:]])])
        for k in range(len(runs)):
            if k or contour.closed:
                points[now[self.stay[k]], 0] = runs[k - 1][-1, 0]
        kinds = np.full(len(points), int(AnchorKind.SMOOTH), dtype=np.uint8)
        for old, new in now.items():
            if new < len(points):
                kinds[new] = min(contour.kinds[old], AnchorKind.SMOOTH)
        return Contour(points, kinds, contour.closed), now


def _thinned(plans: Sequence[_Plan], tolerance_px: float, at_extremes: bool) -> list[tuple[Contour, dict[int, int]]]:
    """Thin contours; rings without corners once more from their other side, if that takes fewer anchors."""
    least = 2 if at_extremes else 3
    parts = [part for plan in plans for part in plan.parts if len(part) >= least]
    runs = iter(Runs.of(parts, at_extremes).thinned(tolerance_px) if parts else [])
    first = [
        plan.made([next(runs) if len(part) >= least else part.points for part in plan.parts], at_extremes)
        for plan in plans
    ]
    rings = [k for k, plan in enumerate(plans) if _is_ring(plan) and len(plan.contour) > 3]
    if not rings:
        return first
    again = []
    for k in rings:
        contour = plans[k].contour
        away = np.hypot(*(contour.anchors - contour.anchors[plans[k].stay[0]]).T)
        furthest = int(away.argmax())
        again.append(_Plan(contour, [furthest], [part_of(contour, furthest, len(contour))]))
    other_runs = Runs.of([plan.parts[0] for plan in again], at_extremes).thinned(tolerance_px)
    for k, plan, run in zip(rings, again, other_runs, strict=True):
        other = plan.made([run], at_extremes)
        if len(other[0]) < len(first[k][0]):
            first[k] = other
    return first


def _is_ring(plan: _Plan) -> bool:
    return plan.contour.closed and len(plan.stay) == 1 and plan.contour.kinds[plan.stay[0]] != AnchorKind.CORNER


def join_crowded(artwork: Artwork, choice: Choice, apart_px: float) -> Edited:
    """Leave one anchor of each that lie nearer together than a distance along a contour: a corner if there is one.

    The line keeps its form as far as one curve can. Of a choice only what is chosen counts, else everything.

    Raises
    ------
    EditError
        If none lie so near.
    """
    crowds = crowded(artwork, choice, apart_px)
    gone = {ref for crowd in crowds for ref in crowd if ref != _kept_of(artwork, crowd)}
    if not gone:
        raise EditError(f"No anchors are nearer to the next than {apart_px:g} px.")
    return delete_anchors(artwork, gone)


def crowded(artwork: Artwork, choice: Choice, apart_px: float) -> list[list[AnchorRef]]:
    """Return groups of anchors that follow each other nearer than a distance, of what is chosen or of everything."""
    found = []
    for s, shape in enumerate(artwork.shapes):
        if choice.shapes and s not in choice.shapes:
            continue
        for c, contour in enumerate(shape.contours):
            gaps = np.hypot(*(np.roll(contour.anchors, -1, axis=0) - contour.anchors).T)
            near = gaps < apart_px
            if not contour.closed:
                near[-1] = False
            if not near.any() or near.all():
                continue
            count = len(contour)
            start = int(np.flatnonzero(~near)[0]) + 1
            group = [start % count]
            for k in range(start, start + count):
                if near[k % count]:
                    group.append((k + 1) % count)
                    continue
                if len(group) > 1:
                    found.append([AnchorRef(s, c, at) for at in group])
                group = [(k + 1) % count]
    if choice.anchors:
        found = [[ref for ref in group if ref in choice.anchors] for group in found]
        found = [group for group in found if len(group) > 1]
    return found


def _kept_of(artwork: Artwork, crowd: Sequence[AnchorRef]) -> AnchorRef:
    """The anchor of a crowd that stays: a corner, else the one in the middle; the ends of an open contour first."""
    contour = artwork.shapes[crowd[0].shape].contours[crowd[0].contour]
    ends = () if contour.closed else (0, len(contour) - 1)
    for ref in crowd:
        if ref.anchor in ends:
            return ref
    corners = [ref for ref in crowd if contour.kinds[ref.anchor] == AnchorKind.CORNER]
    group = corners or crowd
    return group[len(group) // 2]
