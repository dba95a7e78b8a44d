"""Curves judged by the file: what they draw, compressed the same way, has to come to this very file.

Artwork is drawn as a picture, and that led to the nearest one whose coefficients lie within the quantisation intervals
of the file (the projection of Bredies & Holler 2012, "A total variation-based JPEG decompression model"). What it lacks
to be that picture is all that counts: what the file cannot tell apart differs by nothing.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Self

import cv2
import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.cleanup.evidence import Evidence, Judgement
from sobercrow.core.history.planes import rgb_of
from sobercrow.core.inks.separation import SeveralInks
from sobercrow.core.picture.picture import in_colours
from sobercrow.core.tracing import layered
from sobercrow.core.tracing.band import Band
from sobercrow.core.tracing.rendering import blur_of
from sobercrow.core.tracing.rings import Flags, Rings
from sobercrow.core.tracing.settling import Found, Latest, Settling

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

    judged: Latest[_Judged] = field(default_factory=Latest, repr=False)
    """What was drawn last, and what the file tells of it."""

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
            return float((evidence.judged(pile.shown(blur_of(edge_px))).lacking[evidence.inside] ** 2).sum())

        edge_px = min(EDGES_PX, key=contradiction)
        return cls(exact, tones.fields, [edge_px] * len(tones.fields), tones.corner_rad, tones.between)

    def settled(self, found: Found, which: Sequence[Flags] | None = None) -> Found:
        """Return contours, or only those in `which`, moved until, drawn, they give a picture the file allows."""
        which = which if which is not None else [np.ones(len(contours), dtype=np.bool_) for contours in found]
        for _ in range(ROUNDS):
            judged = self._judged(found)
            inside = self._evidence.inside
            wanted = in_colours(rgb_of(judged.told.planes[inside] + LED_ON * judged.told.lacking[inside]))
            found = layered.settled_in(judged.pile.towards(wanted), found, self.corner_rad, self.between, which)
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
            lacking = self._judged(way).told.lacking[self._evidence.inside]
            costs = []
            for (chosen, band), contours in zip(near, base, strict=True):
                cost = np.zeros(len(contours))
                if band is not None:
                    seen = INK * (lacking[:, band.rows, band.columns] ** 2).sum(axis=0)
                    cost[chosen] = np.bincount(band.owner, weights=seen, minlength=len(chosen))
                costs.append(cost)
            made.append(costs)
        return made

    @property
    def _evidence(self) -> Evidence:
        assert isinstance(self.separation, SeveralInks)
        assert self.separation.evidence is not None
        return self.separation.evidence

    def _judged(self, found: Found) -> _Judged:
        """What curves draw, and what it lacks to be a picture the file allows; only what was moved is drawn anew."""
        blur = blur_of(self.edges_px[0]) if self.edges_px else 0.0

        def anew() -> _Judged:
            pile = self._drawn(found)
            return _Judged(pile, self._evidence.judged(pile.shown(blur)))

        return self.judged.made_of(found, anew, lambda before, last: last.changed(before, found, self._evidence, blur))


@dataclass(frozen=True, slots=True, eq=False)
class _Judged:
    """The pile contours are drawn in, and what the file tells of it."""

    pile: layered.Pile
    told: Judgement

    def changed(self, before: Found, after: Found, evidence: Evidence, blur_px: float) -> _Judged:
        """Return the same for other contours."""
        pile, near = self.pile, np.zeros((evidence.height, evidence.width), dtype=np.uint8)
        for number, contours in enumerate(after):
            pile, band = pile.redrawn(number, before[number], contours)
            if band is not None:
                near[band.rows, band.columns] = 1
        if pile is self.pile:
            return self
        reach = layered.blur_reach(blur_px)
        blurred = cv2.dilate(near, np.ones((2 * reach + 1, 2 * reach + 1), dtype=np.uint8))
        boxes = evidence.boxes_around(blurred > 0)
        return _Judged(pile, evidence.judged_again(self.told, boxes, lambda box: pile.shown(blur_px, box)))
