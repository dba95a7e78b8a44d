"""Small lettering of a picture that was set in a typeface we have: found, so that it can be set anew."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from sobercrow.core.artwork.choice import Choice, Edited
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.errors import LetteringError
from sobercrow.core.lettering.index import Index
from sobercrow.core.lettering.letters import lettering_in
from sobercrow.core.lettering.matches import Match, is_same
from sobercrow.core.lettering.matching import match
from sobercrow.core.lettering.setting import set_anew

LARGEST_PX, LEAST_LETTERS = 60.0, 4
"""Letters no taller than this, of which there are so many, are worth it: larger ones are traced as they are."""


@dataclass(frozen=True, slots=True)
class SameLettering:
    """Lettering of an artwork, the shapes it is made of, and the typeface that is the same."""

    choice: Choice
    match: Match

    @property
    def sentence(self) -> str:
        """What is told of it."""
        off = f"{self.match.deviation_px:.2f} px"
        return f"“{self.match.text}” is set in {self.match.face.name}, within {off} of the letters traced."

    def set_in(self, artwork: Artwork) -> Edited:
        """Return the artwork with this lettering set anew.

        Raises
        ------
        EditError, LetteringError
            If it is not there any more, or the typeface cannot be read.
        """
        return set_anew(artwork, self.choice, self.match)


def small_lettering(artwork: Artwork) -> Choice | None:
    """Return what is most likely lettering, if it is so small that setting it anew is worth a look."""
    try:
        letters = lettering_in(artwork)
    except LetteringError:
        return None
    tall = [max(float(np.ptp(c.anchors[:, 1])) for c in artwork.shapes[k].contours) for k in letters]
    is_worth_it = len(letters) >= LEAST_LETTERS and float(np.median(tall)) <= LARGEST_PX
    return Choice(shapes=letters) if is_worth_it else None


def same_lettering(
    artwork: Artwork, letters: Choice, index: Index, progress: Callable[[float], None] | None = None
) -> SameLettering | None:
    """Return lettering of an artwork with the typeface it was set in; None if none is told to be the same.

    `progress` is told the share done and may raise.
    """
    try:
        found = match([artwork.shapes[k] for k in sorted(letters.shapes)], index, progress=progress)
    except LetteringError:
        return None
    return SameLettering(letters, found[0]) if found and is_same(found[0]) else None
