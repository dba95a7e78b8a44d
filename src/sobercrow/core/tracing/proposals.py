"""Other ways to draw contours, proposed and kept where the tones of the picture agree."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import TypeVar

import numpy as np

from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import Ellipse, Related, Relation
from sobercrow.core.settings import Tracing
from sobercrow.core.tracing.rings import Flags
from sobercrow.core.tracing.settling import Found, Settling
from sobercrow.core.tracing.tidy import crosses_itself, is_crowded
from sobercrow.core.tracing.true_shapes import TrueShape, is_refused, size_of

MAY_COST, MAY_COST_PX2 = 1.08, 0.02
"""So much more may the picture differ from what is regular, as a factor and in px² of ink."""
ANCHOR_PX2 = 0.03
"""What an anchor is worth, in px² of ink."""
MOST_PX2 = 0.6
"""Of a long contour in a picture full of noise a share would hide a place that strays."""

Part = TypeVar("Part")
Place = tuple[int, int]
"""An ink and a ring of it."""
Proposed = tuple[TrueShape, dict[Place, Contour]]
"""Something regular, and the contours drawn so."""


@dataclass(frozen=True, slots=True, eq=False)
class Proposal:
    """Contours in place of others, all or none of them; what is told of it, if anything is."""

    contours: dict[Place, Contour]
    told: TrueShape | None = None


def with_all(found: Found, proposals: Sequence[Proposal]) -> Found:
    """Return contours with all that was proposed in their place."""
    made = [list(contours) for contours in found]
    for proposal in proposals:
        for (ink, k), contour in proposal.contours.items():
            made[ink][k] = contour
    return made


def _places(found: Found, proposals: Sequence[Proposal]) -> list[Flags]:
    """Which contours something was proposed for."""
    which = [np.zeros(len(contours), dtype=np.bool_) for contours in found]
    for proposal in proposals:
        for ink, k in proposal.contours:
            which[ink][k] = True
    return which


def as_it_is(contour: Contour) -> Contour:
    """Return the same contour."""
    return contour


def settled(
    found: Found, proposals: list[Proposal], tones: Settling, finish: Callable[[Contour], Contour] = as_it_is
) -> list[Proposal]:
    """Return proposals moved to where the picture has them; `finish` makes regular again what comes of it."""
    if not proposals:
        return []
    moved = tones.settled(with_all(found, proposals), _places(found, proposals))
    return [replace(p, contours={(ink, k): finish(moved[ink][k]) for ink, k in p.contours}) for p in proposals]


def _is_sound(contour: Contour, before: Contour) -> bool:
    return not is_crowded(contour) and (not crosses_itself(contour) or crosses_itself(before))


def _compared(found: Found, proposals: Sequence[Proposal], tones: Settling) -> Iterator[tuple[Proposal, float, float]]:
    """Yield sound proposals with what the picture differs by from what they would replace, and from them."""
    sound = [p for p in proposals if all(_is_sound(c, found[ink][k]) for (ink, k), c in p.contours.items())]
    if not sound:
        return
    now, then = tones.costs(found, [found, with_all(found, sound)], _places(found, sound))
    for proposal in sound:
        before, after = (sum(float(costs[ink][k]) for ink, k in proposal.contours) for costs in (now, then))
        if math.isfinite(before):
            yield proposal, before, after


def agreed(
    found: Found,
    proposals: list[Proposal],
    tones: Settling,
    may_cost: float,
    may_cost_px2: float,
    worth_px2: float = 0.0,
) -> list[Proposal]:
    """Return those the picture differs from hardly more than from what they would replace.

    So much more it may, as a factor, up to `MOST_PX2`, in px² of ink for each contour, and for each anchor they have
    less. None begins to cross itself or has anchors crowded together.
    """
    kept = []
    for proposal, before, after in _compared(found, proposals, tones):
        less = -_more_anchors(found, proposal)
        may = may_cost_px2 * len(proposal.contours) + worth_px2 * max(0, less)
        if after - before <= min((may_cost - 1.0) * before, MOST_PX2) + may:
            kept.append(proposal)
    return kept


def _more_anchors(found: Found, proposal: Proposal) -> int:
    """By how many more anchors contours are drawn than what they would replace."""
    return sum(len(contour) - len(found[ink][k]) for (ink, k), contour in proposal.contours.items())


def all_or_singly(
    found: Found,
    parts: Mapping[Place, Sequence[Part]],
    draw: Callable[[Contour, Sequence[Part]], Contour | None],
    judge: Callable[[Found, list[Proposal]], Found],
    most: int,
) -> Found:
    """Return contours with some of their parts drawn otherwise where `judge` takes them over.

    All parts of a contour are proposed at once; where that is not taken, the first `most` one by one, until one is.
    """
    left = [place for place, mine in parts.items() if mine]
    for attempt in range(1 + most):
        proposals = []
        for ink, k in left:
            mine = parts[ink, k]
            made = draw(found[ink][k], mine if attempt == 0 else mine[attempt - 1 : attempt])
            proposals += [Proposal({(ink, k): made})] if made is not None else []
        before, found = found, judge(found, proposals)
        left = [(i, k) for i, k in left if found[i][k] is before[i][k] and len(parts[i, k]) > max(attempt, 1)]
    return found


def bettered(
    found: Found, proposals: list[Proposal], tones: Settling, worth_px2: float, may_cost_px2: float = 0.0
) -> Found:
    """Return contours with those in place of which the picture is told better.

    By as much, in px² of ink, as their more anchors are worth; or hardly worse, with fewer. Each contour may cost so
    much besides.
    """
    kept = []
    for proposal, before, after in _compared(found, [p for p in proposals if p.contours], tones):
        if before - after + may_cost_px2 * len(proposal.contours) > worth_px2 * _more_anchors(found, proposal):
            kept.append(proposal)
    return with_all(found, kept) if kept else found


def taken_over(
    found: Found,
    proposed: Iterable[Proposed],
    tones: Settling,
    settings: Tracing,
    known: Sequence[TrueShape],
    finish: Callable[[Contour], Contour] | None = None,
) -> tuple[Found, list[TrueShape]]:
    """Return contours made regular where the picture agrees, and what is told of it, refused or not.

    What is refused is not drawn, and what is `known` already not told again. With `finish` they are moved to where the
    picture has them first.
    """
    told_of = [(one.form.x, one.form.y, size_of(one.form)) for one in known]
    judged = [(shape.judged(settings), contours) for shape, contours in proposed]
    proposals = [Proposal(contours, shape) for shape, contours in judged if not is_refused(shape.form, told_of)]
    if finish is not None:
        proposals = settled(found, proposals, tones, finish)
    kept = agreed(found, proposals, tones, MAY_COST, MAY_COST_PX2, ANCHOR_PX2)
    told = [proposal.told for proposal in kept if proposal.told is not None]
    return with_all(found, [p for p in kept if not (p.told is not None and p.told.refused)]), told


def free(found: Found) -> Iterator[tuple[Place, Contour]]:
    """Yield all contours that are no true shapes."""
    for ink, contours in enumerate(found):
        for k, contour in enumerate(contours):
            if contour.form is None:
                yield (ink, k), contour


def circles_in(found: Found) -> list[tuple[Place, Ellipse]]:
    """Return all contours that are circles, and these."""
    return [
        ((ink, k), contour.form)
        for ink, contours in enumerate(found)
        for k, contour in enumerate(contours)
        if isinstance(contour.form, Ellipse) and contour.form.is_circle
    ]


def related(relation: Relation, contours: Sequence[Contour], count: int) -> Related:
    """Return what so many sides or shapes have in common, with the box around their contours."""
    boxes = np.array([(*c.anchors.min(axis=0), *c.anchors.max(axis=0)) for c in contours])
    (left, top), (right, bottom) = boxes[:, :2].min(axis=0), boxes[:, 2:].max(axis=0)
    return Related(
        float(left + right) / 2.0, float(top + bottom) / 2.0, 0.5 * float(right - left + bottom - top), relation, count
    )
