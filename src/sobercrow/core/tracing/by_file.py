"""Curves judged by the file: what they draw, compressed the same way, has to come to this very file.

Artwork is drawn as a picture, and that led to the nearest one whose coefficients lie within the quantisation intervals
of the file (the projection of Bredies & Holler 2012, "A total variation-based JPEG decompression model"). What it lacks
to be that picture is all that counts: what the file cannot tell apart differs by nothing.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Self

import numpy as np

from sobercrow.core.arrays import F32, F64
from sobercrow.core.history.planes import rgb_of
from sobercrow.core.inks.separation import SeveralInks
from sobercrow.core.picture.picture import in_colours
from sobercrow.core.tracing import layered
from sobercrow.core.tracing.band import Band
from sobercrow.core.tracing.rendering import blur_of
from sobercrow.core.tracing.rings import Flags, Rings
from sobercrow.core.tracing.settling import Found, Settling

EDGES_PX = (0.41, 0.55, 0.7, 0.85)
"""Widths edges may have had before the picture was compressed, in px; nothing but the pixels made the first soft."""
ROUNDS, LED_ON = 3, 4.0
"""So often curves are moved towards the nearest picture the file allows, and so many times as far as it is: most of
what they differ by the file leaves open."""
INK = 1e-4
"""What a pixel differs by, in tones squared, in px² of ink."""
REACH_PX = 3


@dataclass(frozen=True, slots=True, eq=False)
class FileSettling(Settling):
    """Settling on what a file allows; `separation` is as if nothing but edges were soft, all equally."""

    @classmethod
    def of(cls, tones: Settling, found: Found) -> Self | None:
        """Return how curves are judged by the file their separation knows; None if it knows none.

        Edges are as wide as the file contradicts what was `found` least.
        """
        separation = tones.separation
        if not isinstance(separation, SeveralInks) or separation.evidence is None:
            return None
        exact = replace(
            separation, colours=replace(separation.colours, dirt=0.0), given=np.zeros_like(separation.given)
        )
        evidence = separation.evidence
        pile = layered.Pile.of(exact, found, tones.fields, tones.edges_px)

        def contradiction(edge_px: float) -> float:
            return float((evidence.nearest(pile.shown(blur_of(edge_px)))[1] ** 2).sum())

        edge_px = min(EDGES_PX, key=contradiction)
        return cls(exact, tones.fields, [edge_px] * len(tones.fields), tones.corner_rad, tones.between)

    def settled(self, found: Found, which: Sequence[Flags] | None = None) -> Found:
        """Return contours, or only those in `which`, moved until, drawn, they give a picture the file allows."""
        which = which if which is not None else [np.ones(len(contours), dtype=np.bool_) for contours in found]
        pile = self._pile(found)
        for _ in range(ROUNDS):
            planes, lacking = self._compared(pile)
            wanted = in_colours(rgb_of(planes + LED_ON * lacking))
            found = layered.settled_in(pile.towards(wanted), found, self.corner_rad, self.between, which)
        return found

    def costs(self, base: Found, tried: Sequence[Found], which: Sequence[Flags]) -> list[list[F64]]:
        """Return by how much some rings of every ink are contradicted by the file, for several ways to draw them.

        In px² of ink over the pixels near the ring as it is in `base`. Each way is drawn as a whole.
        """
        near = []
        for number, contours in enumerate(base):
            chosen = np.flatnonzero(which[number])
            rings = Rings.of([contours[k] for k in chosen]) if len(chosen) else None
            near.append((chosen, None if rings is None else Band.of(rings, self.separation.own.shape, REACH_PX)))
        made = []
        for way in tried:
            self.between()
            _, lacking = self._compared(self._pile(way))
            differs = INK * (lacking**2).sum(axis=0)
            costs = []
            for (chosen, band), contours in zip(near, base, strict=True):
                cost = np.zeros(len(contours))
                if band is not None:
                    seen = differs[band.rows, band.columns]
                    cost[chosen] = np.bincount(band.owner, weights=seen, minlength=len(chosen))
                costs.append(cost)
            made.append(costs)
        return made

    def _pile(self, found: Found) -> layered.Pile:
        assert isinstance(self.separation, SeveralInks)
        return layered.Pile.of(self.separation, found, self.fields, self.edges_px)

    def _compared(self, pile: layered.Pile) -> tuple[F32, F32]:
        """What curves draw, and what it lacks to be a picture the file allows, (n, h, w) each."""
        assert isinstance(self.separation, SeveralInks)
        assert self.separation.evidence is not None
        blur = blur_of(self.edges_px[0]) if self.edges_px else 0.0
        return self.separation.evidence.nearest(pile.shown(blur))
