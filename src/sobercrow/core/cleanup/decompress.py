"""Undoing JPEG: of all pictures that would give this very file, the one with the fewest steps in it."""

from __future__ import annotations

import numpy as np

from sobercrow.core.arrays import F32, U8
from sobercrow.core.cleanup.evidence import Evidence
from sobercrow.core.cleanup.flat_picture import FlatColours, compressed_strokes, read_flat_colours, with_strokes
from sobercrow.core.cleanup.intervals import Intervals, Progress
from sobercrow.core.cleanup.thin_parts import ThinPart, find_mixed_parts, find_rims, in_one_ink
from sobercrow.core.history.planes import rgb_of

FIRST, READ, PULLED = 0.35, 0.5, 0.65
"""Shares of the work done once the picture is calm, its colours read, and it was pulled towards them."""
FIRST_ROUNDS, PULLED_ROUNDS = 30, 10
"""More give hardly another picture."""
PULLS = 2
"""So often the picture is pulled towards its flat colours,"""
PROJECTIONS = 5
"""and at the end so often drawn in them and brought back to what the file allows."""
TRIAL_PROJECTIONS = 3
CHANGED = 8.0
MANY, FEW = 900.0, 300.0
"""So much a file has to contradict that a thin part has one ink, and that a rim is none."""
LEAST_EVIDENCE = 800.0
"""By so much, in tones squared for each pixel that changes, a colour brings the picture nearer to what the file allows.

Strokes that were there come to 990 and more, what compression made up to 640 at most.
"""


class _Search:
    """The picture on its way through the rounds; see `undone`."""

    def __init__(self, intervals: Intervals) -> None:
        self.intervals = intervals
        self.start = intervals.middle()
        self.picture = self.start.copy()

    def run(self, rounds: int, progress: Progress, pull: F32 | None = None) -> None:
        """Go on for so many rounds, pulled towards another picture if one is given."""
        self.intervals.calm(self.picture, rounds, progress, pull)

    def flat_colours(self) -> FlatColours:
        """Return the flat colours the picture was drawn in, and those of thin strokes without which the file lies."""
        coarseness = self.intervals.coarseness
        colours = read_flat_colours(self.picture, self.start, coarseness)
        if not len(colours.places):
            return colours
        candidates = with_strokes(colours, self.picture, compressed_strokes(coarseness)).strokes
        if not len(candidates):
            return colours
        drawn, contradiction = self._drawn_in(colours)
        for candidate in candidates:
            more = FlatColours(colours.places, np.concatenate([colours.strokes, candidate[None]]))
            redrawn, left = self._drawn_in(more)
            changed = int((np.abs(redrawn - drawn).max(axis=0) > CHANGED).sum())
            if contradiction - left >= LEAST_EVIDENCE * max(changed, 1):
                colours, drawn, contradiction = more, redrawn, left
        return colours

    def in_fewer_inks(self, drawn: F32, colours: FlatColours, parts: list[ThinPart], contradicted: float) -> F32:
        """Return a picture drawn in flat colours with one ink for each thin part, unless the file contradicts it.

        It does so if it is so much further from what the file allows, in tones squared for each pixel that changes.
        """
        if not parts:
            return drawn
        single = drawn.copy()
        for part in parts:
            single[:, part.rows, part.columns] = in_one_ink(single, self.start, part, colours.all)
        before, after = (((self.intervals.nearest(planes) - planes) ** 2).sum(axis=0) for planes in (drawn, single))
        made = drawn.copy()
        for part in parts:
            place = part.rows, part.columns
            changed = np.abs(single[:, *place] - drawn[:, *place]).max(axis=0) > CHANGED
            more = float((after[place] - before[place])[part.inside].sum())
            if more <= contradicted * max(int(changed.sum()), 1):
                made[:, *place] = in_one_ink(made, self.start, part, colours.all)
        return made

    def _drawn_in(self, colours: FlatColours) -> tuple[F32, float]:
        """The picture drawn in flat colours, and how far it is from what the file allows, in tones squared."""
        drawn = colours.snapped(self.picture, wholly=True)
        for _ in range(TRIAL_PROJECTIONS):
            drawn = colours.snapped(self.intervals.nearest(drawn), wholly=True)
        return drawn, float(((self.intervals.nearest(drawn) - drawn) ** 2).sum())


def undone(intervals: Intervals, height: int, width: int, flat: bool, progress: Progress = lambda _share: None) -> U8:
    """Return the picture (height, width[, 3]) that the intervals stand for; `progress` may raise to stop it.

    It has the least vectorial total variation of all pictures whose coefficients lie within their intervals (Bredies &
    Holler 2012, "A total variation-based JPEG decompression model"). With `flat` it is drawn in few flat colours: it
    is pulled towards them and mixtures of two of them, and becomes them where it is near.
    """
    search = _Search(intervals)
    search.run(FIRST_ROUNDS, lambda share: progress(FIRST * share))
    if not flat:
        return rgb_of(search.picture[:, :height, :width])
    colours = search.flat_colours()
    progress(READ)
    if len(colours.all) < 2:
        return rgb_of(search.picture[:, :height, :width])
    for pulled in range(PULLS):
        search.run(PULLED_ROUNDS, lambda _share: progress(READ), colours.mixed(search.picture))
        progress(READ + (PULLED - READ) * (pulled + 1) / PULLS)
    planes, read, doubt = colours.snapped(search.picture), colours, intervals.flat_doubt
    for number in range(PROJECTIONS):
        progress(PULLED + (1.0 - PULLED) * number / PROJECTIONS)
        allowed = intervals.nearest(planes)
        if not intervals.guessed:
            colours = colours.corrected(planes, allowed, read, doubt)
        planes = colours.snapped(allowed)
    colours = colours.with_white(intervals.coarseness)
    planes = colours.snapped(planes)
    planes = search.in_fewer_inks(planes, colours, find_mixed_parts(planes, search.start, colours), MANY)
    planes = search.in_fewer_inks(planes, colours, find_rims(planes, colours), FEW)
    return rgb_of(planes[:, :height, :width])


def undo_compression(pixels: U8, evidence: Evidence, flat: bool, progress: Progress = lambda _share: None) -> U8:
    """Return the picture (h, w) or (h, w, 3) that was compressed, by what is known of it.

    `flat` says that it is drawn in flat colours; `progress` is told the share done, 0-1, and may raise to stop it.
    """
    height, width = pixels.shape[:2]
    top, left = evidence.top, evidence.left
    made = undone(evidence.intervals, height + top, width + left, flat, progress)[top:, left:]
    return np.repeat(made[..., None], 3, axis=2) if made.ndim < pixels.ndim else made
