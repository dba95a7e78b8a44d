"""Undoing sharpening: the flat colours a picture was drawn in, and where, so that sharpened it is the one that came."""

from __future__ import annotations

from functools import partial

import numpy as np

from sobercrow.core.arrays import F32, U8
from sobercrow.core.cleanup.flat_picture import CLEAN, FlatColours, read_flat_colours, with_strokes
from sobercrow.core.cleanup.intervals import Progress
from sobercrow.core.history.planes import luma_chroma_of, values_of
from sobercrow.core.history.sharpening import Sharpening, busiest, least

FLAT_STEP = 10.0
"""Steps to neighbours, all channels added up, are smaller than this in a flat place that was nearly led back."""
ROUNDS, LAST_ROUNDS = 3, 6
WORTH = 0.4
"""A colour is one of the picture's own if without it the sharpened picture is so much further off, as a share of the
square of what changes: of flat places that are of it all, of what was cut off where it overshot next to nothing."""
CHANGED = 4.0
TRIES = 4
"""So often colours and the mask are told anew from each other."""

UNEXPLAINED = 0.33
"""If so much of what the mask did is still off, the picture was not drawn in flat colours, or in lines alone."""


def without_sharpening(pixels: U8, rough: Sharpening, flat: bool, progress: Progress = lambda _share: None) -> U8:
    """Return the picture (h, w) or (h, w, 3) before it was sharpened about so much.

    With `flat` it is drawn in few flat colours and mixtures of two that are about, so that sharpened it is the nearest
    to the one that came: where it overshot beyond black and white, that alone tells what was cut off. `progress` is
    told the share done, 0-1, and may raise to stop it.
    """
    seen = pixels.astype(np.float32)
    if flat:
        drawn = _in_flat_colours(seen, rough, progress)
        if drawn is not None:
            return np.asarray(np.clip(np.rint(drawn), 0, 255), dtype=np.uint8)
    return np.asarray(np.rint(rough.undone(seen)), dtype=np.uint8)


def _in_flat_colours(seen: F32, rough: Sharpening, progress: Progress) -> F32 | None:
    """The picture in its flat colours; None if they do not explain it."""
    rows, columns = busiest(luma_chroma_of(seen)[0].astype(np.float32))
    part, mask = np.ascontiguousarray(seen[rows, columns]), rough
    for number in range(TRIES):
        colours = _own_colours(seen, mask)
        progress((number + 0.3) / (TRIES + 1.0))
        if len(colours.all) < 2:
            return None
        told = least(partial(_contradiction, part, colours), mask)
        progress((number + 1.0) / (TRIES + 1.0))
        if told == mask:
            break
        mask = told
    made = _drawn_in(seen, colours, mask, LAST_ROUNDS)
    left, done = float(((seen - mask.applied(made)) ** 2).sum()), float(((seen - made) ** 2).sum())
    return made if left <= UNEXPLAINED * done else None


def _drawn_in(seen: F32, colours: FlatColours, mask: Sharpening, rounds: int, start: F32 | None = None) -> F32:
    """The picture in flat colours and mixtures of them that comes nearest to the one seen once it is sharpened.

    It is led there from `start`, or from the picture with the mask undone.
    """
    made = mask.undone(seen) if start is None else start
    for number in range(rounds):
        if number:
            made = made + (seen - mask.applied(made)) / (1.0 + mask.amount)
        made = values_of(colours.snapped(luma_chroma_of(made).astype(np.float32), wholly=True)).astype(np.float32)
    return made


def _contradiction(seen: F32, colours: FlatColours, mask: Sharpening) -> float:
    return float(((seen - mask.applied(_drawn_in(seen, colours, mask, ROUNDS))) ** 2).sum())


def _own_colours(seen: F32, mask: Sharpening) -> FlatColours:
    """The flat colours of a picture, without those it has from being sharpened."""
    start = mask.undone(seen)
    planes = luma_chroma_of(start).astype(np.float32)
    colours = with_strokes(read_flat_colours(planes, planes, 0.0, FLAT_STEP), planes, CLEAN)
    drawn = _drawn_in(seen, colours, mask, ROUNDS, start)
    off = (seen - mask.applied(drawn)) ** 2
    for number in reversed(range(len(colours.all))):
        if len(colours.all) == 1:
            break
        fewer = colours.without(number)
        redrawn = _drawn_in(seen, fewer, mask, ROUNDS, start)
        further, change = (seen - mask.applied(redrawn)) ** 2, (redrawn - drawn) ** 2
        if float(further.sum() - off.sum()) <= WORTH * float(change[change > CHANGED**2].sum()):
            colours, drawn, off = fewer, redrawn, further
    return colours
