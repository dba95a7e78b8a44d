"""Other ways to draw contours, proposed and kept where the tones of the picture agree."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from sobercrow.core.geometry.contour import Contour
from sobercrow.core.tracing.rings import Flags
from sobercrow.core.tracing.settling import Found, Settling
from sobercrow.core.tracing.tidy import crosses_itself, is_crowded
from sobercrow.core.tracing.true_shapes import TrueShape

MOST_PX2 = 0.6
"""Of a long contour in a picture full of noise a share would hide a place that strays."""

Place = tuple[int, int]
"""An ink and a ring of it."""


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


def agreed(
    found: Found, proposals: list[Proposal], tones: Settling, may_cost: float, may_cost_px2: float
) -> list[Proposal]:
    """Return those the picture differs from hardly more than from what they would replace.

    So much more it may, as a factor, up to `MOST_PX2`, and in px² of ink for each contour. None begins to cross itself
    or has anchors crowded together.
    """
    proposals = [p for p in proposals if all(_is_sound(c, found[ink][k]) for (ink, k), c in p.contours.items())]
    if not proposals:
        return []
    now, then = tones.costs(found, [found, with_all(found, proposals)], _places(found, proposals))
    kept = []
    for proposal in proposals:
        places = list(proposal.contours)
        before, after = (sum(float(costs[ink][k]) for ink, k in places) for costs in (now, then))
        if not math.isfinite(before):
            continue
        if after - before <= min((may_cost - 1.0) * before, MOST_PX2) + may_cost_px2 * len(places):
            kept.append(proposal)
    return kept
