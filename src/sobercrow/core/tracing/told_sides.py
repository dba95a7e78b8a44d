"""Sides and corners too small for the border to show them, where the tones of the picture tell of them.

The border of a letter a few pixels tall is rounded everywhere by the pixels, and the fewest anchors within a tolerance
run in waves through its serifs. Drawn with the sides and corners its border hints at and moved to where the picture has
them, it gives back the tones so much better that they are worth their anchors (minimum description length, Rissanen
1978).
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.inks.separation import SeveralInks
from sobercrow.core.tracing.fitting import Fitter, in_order
from sobercrow.core.tracing.proposals import ANCHOR_PX2, Proposal, bettered, free, settled
from sobercrow.core.tracing.settling import Found, Settling
from sobercrow.core.tracing.sides import SHORT, SHORTEST, Reading, as_polygon, with_sides

USUAL_PX = 0.335
"""Anchors are worth the usual at that tolerance; else as its square: a calm trace stays calm."""
POLYGONS_PX = (0.55, 0.35, 0.8)
"""How far polygons may be off the border."""
LEAST_COST_PX2 = 0.12
"""A contour that differs by less is as good as it gets."""
SETTLED = 0.7
"""Such a share of its anchors is left of a contour moved to where the picture has it, at least: one that would not be
worth so many more, though it came to the picture exactly, is not proposed."""
Draw = Callable[[F64, Fitter, Contour], Contour | None]


def with_told_sides(found: Found, lines: Sequence[Sequence[F64]], fitters: Sequence[Fitter], tones: Settling) -> Found:
    """Return contours with the sides and corners the picture tells of.

    `lines` are the borders they were fitted to, `fitters` how, ink by ink.
    """
    if not isinstance(tones.separation, SeveralInks):
        return found  # one ink was fitted to borders its tones tell closely
    worth = ANCHOR_PX2 * (max(fitter.tolerance for fitter in fitters) / USUAL_PX) ** 2
    everything = [np.ones(len(contours), dtype=np.bool_) for contours in found]
    costs = tones.costs(found, [found], everything)[0]
    places = [(ink, k) for (ink, k), _ in free(found) if LEAST_COST_PX2 < costs[ink][k] < np.inf]
    polygons = (partial(_cornered, off) for off in POLYGONS_PX)
    ways: tuple[Draw, ...] = (partial(_sided, SHORT), *polygons, partial(_sided, SHORTEST))
    for draw in ways:
        proposals = []
        for ink, k in places:
            made = draw(lines[ink][k], fitters[ink], found[ink][k])
            if made is not None and SETTLED * worth * (len(made) - len(found[ink][k])) < costs[ink][k]:
                proposals.append(Proposal({(ink, k): made}))
        found = bettered(found, settled(found, proposals, tones), tones, worth)
    return found


def _sided(reading: Reading, line: F64, fitter: Fitter, like: Contour) -> Contour | None:
    made = with_sides(line, fitter, like, reading)
    return None if made is None else made[0]


def _cornered(off_px: float, line: F64, fitter: Fitter, like: Contour) -> Contour | None:
    return as_polygon(in_order(line), off_px, like)
