"""How much work a trace may be before it is asked for in so many words: pictures of grain have borders without end."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from sobercrow.core.arrays import F64, U8
from sobercrow.core.errors import BudgetError

MOST_POINTS = 1_000_000
"""Borders of so many points are fitted within a minute on two cores, whatever they are of."""
MOST_PLACES = 12_000_000
"""So many places along the rows where inks meet are followed: a gigabyte of them."""
STRIPS = 16


def afford_places(own: U8) -> None:
    """Raise `BudgetError` if inks, (h, w), meet in too many places, before they are followed."""
    places = sum(int(np.count_nonzero(rows[:, 1:] != rows[:, :-1])) for rows in np.array_split(own, STRIPS))
    if places > MOST_PLACES:
        raise _too_much(f"{places // 1_000_000} million places where inks meet")


def afford_fitting(lines: Sequence[F64]) -> None:
    """Raise `BudgetError` if borders, (n, 2) each, have too many points, before curves are fitted to them."""
    if sum(map(len, lines)) > MOST_POINTS:
        raise _too_much(f"{len(lines):,} borders")


def _too_much(what: str) -> BudgetError:
    return BudgetError(
        f"This picture has {what}: it is mostly grain. Smooth it, raise the speck size, or trace it anyway."
    )
