"""The tones of a picture as what curves of all its inks are moved by, and judged by."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import partial
from typing import Generic, TypeVar

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.inks.separation import InkField, Separation, SeveralInks
from sobercrow.core.tracing import layered, rendering
from sobercrow.core.tracing.rings import Flags, Rings

Found = list[list[Contour]]
"""Contours of every drawn ink, the lowest first."""
KEPT = 2
"""So many are kept of the latest that were drawn: what is proposed, and what it would replace."""
Made = TypeVar("Made")


class Latest(Generic[Made]):
    """What was made of the contours drawn last, from which that of others is quicker made."""

    def __init__(self) -> None:
        """Begin with nothing."""
        self._kept: list[tuple[Found, Made]] = []

    def __len__(self) -> int:
        """Return of how many contours it is kept."""
        return len(self._kept)

    def made_of(self, found: Found, anew: Callable[[], Made], changed: Callable[[Found, Made], Made]) -> Made:
        """Return what is made of contours: `changed` from what was made of those most like them, else `anew`."""
        if self._kept:
            before, last = min(self._kept, key=lambda kept: _difference(kept[0], found))
            made = changed(before, last)
        else:
            made = anew()
        self._kept[:] = [([list(contours) for contours in found], made), *self._kept[: KEPT - 1]]
        return made


@dataclass(frozen=True, slots=True, eq=False)
class Settling:
    """A separation, the fields its drawn inks were traced at, and how wide the edges of each are, in px.

    `between` is called between pieces of work; it may raise to stop it.
    """

    separation: Separation
    fields: Sequence[InkField]
    edges_px: Sequence[float]
    corner_rad: float
    between: Callable[[], object]
    piles: Latest[layered.Pile] = field(default_factory=Latest, repr=False)
    """Several inks as they were drawn last: what was not moved since need not be drawn again."""

    @property
    def has_tones(self) -> bool:
        """Whether there are tones to go by."""
        return isinstance(self.separation, SeveralInks) or all(map(rendering.has_tones, self.fields))

    def settled(self, found: Found, which: Sequence[Flags] | None = None) -> Found:
        """Return contours, or only those in `which`, moved until, drawn, they give back the picture."""
        if isinstance(self.separation, SeveralInks):
            return layered.settled_in(self.pile(found), found, self.corner_rad, self.between, which)
        return [
            rendering.settled_on_tones(
                contours, field, edge_px, self.corner_rad, self.between, which[k] if which is not None else None
            )
            for k, (contours, field, edge_px) in enumerate(zip(found, self.fields, self.edges_px, strict=True))
        ]

    def pile(self, found: Found) -> layered.Pile:
        """Return several inks as they are drawn over each other."""
        return self.piles.made_of(found, lambda: self._drawn(found), partial(_redrawn, found))

    def _drawn(self, found: Found) -> layered.Pile:
        assert isinstance(self.separation, SeveralInks)
        return layered.Pile.of(self.separation, found, self.fields, self.edges_px)

    def costs(self, base: Found, tried: Sequence[Found], which: Sequence[Flags]) -> list[list[F64]]:
        """Return by how much some rings of every ink differ from the picture, for several ways to draw them.

        Sums of squared differences, 0–1 a pixel, over the pixels near the ring as it is in `base`; all other inks are
        drawn as there. Infinite where tones are another's (see `rendering.UNLIKE`), nought for rings not in `which`.
        """
        several = isinstance(self.separation, SeveralInks)
        pile = self.pile(base) if several else None
        limit = layered.UNLIKE if several else rendering.UNLIKE
        made: list[list[F64]] = [[] for _ in tried]
        for number, contours in enumerate(base):
            self.between()
            for way in made:
                way.append(np.zeros(len(contours)))
            chosen = np.flatnonzero(which[number])
            if not len(chosen):
                continue
            look = (
                partial(pile.seen, number)
                if pile is not None
                else partial(rendering.seen_in, self.fields[number], edge_px=self.edges_px[number])
            )
            _, band, likeness = rendering.seen_among(contours, which[number], look)
            room = np.maximum(np.bincount(band.owner, minlength=len(chosen)), 1)
            everything = np.ones(len(chosen), dtype=np.bool_)
            for way, other in zip(made, tried, strict=True):
                rings = Rings.of([other[number][k] for k in chosen])
                band.draw(rings, everything)
                costs = likeness.costs(band, len(chosen))
                band.draw(rings, everything, -1.0)
                way[number][chosen] = np.where(costs <= limit**2 * room, costs, np.inf)
        return made


def _redrawn(found: Found, before: Found, pile: layered.Pile) -> layered.Pile:
    for number, contours in enumerate(found):
        pile, _ = pile.redrawn(number, before[number], contours)
    return pile


def _difference(before: Found, after: Found) -> int:
    """How many contours are others."""
    pairs = zip(before, after, strict=True)
    return sum(old is not new for inks in pairs for old, new in zip(*inks, strict=True))
