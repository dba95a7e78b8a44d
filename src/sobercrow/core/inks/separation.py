"""The inks step: which pixel is ink, and how strongly."""

from __future__ import annotations

from dataclasses import dataclass

from sobercrow.core.arrays import F64, U8
from sobercrow.core.picture.picture import Picture
from sobercrow.core.picture.tones import histogram, otsu, usual_tones
from sobercrow.core.settings import Inks


@dataclass(frozen=True, slots=True, eq=False)
class Separation:
    """One ink on paper.

    Attributes
    ----------
    grey : (height, width) uint8
        Tones of the cleaned picture; ink is dark.
    threshold : int
        Tones up to this are ink.
    neutral : int
        The threshold at which the traced border lies on the drawn edge: Otsu's choice. Another
        threshold moves the border by as much as it moves the iso-line.
    ink_level, paper_level : float
        Full tone of the ink and usual tone of the paper.
    tones : (256,) float64
        How many pixels have each tone.
    dpi : float
    """

    grey: U8
    threshold: int
    neutral: int
    ink_level: float
    paper_level: float
    tones: F64
    dpi: float

    @property
    def coverage(self) -> float:
        """Share of the pixels that are ink, 0–1."""
        return float(self.tones[: self.threshold + 1].sum() / self.tones.sum())


def separate(cleaned: Picture, settings: Inks) -> Separation:
    """Part a cleaned picture into one ink and paper."""
    grey = cleaned.grey()
    counts = histogram(grey)
    neutral = otsu(counts)
    threshold = neutral if settings.threshold is None else settings.threshold
    ink_level, paper_level = usual_tones(counts, neutral)
    grey.setflags(write=False)
    return Separation(grey, threshold, neutral, float(ink_level), float(paper_level), counts, cleaned.dpi)
