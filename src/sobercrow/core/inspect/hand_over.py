"""The check before handing over: what stands in the way, each kind with its count and its places."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

from sobercrow.core.artwork.model import Artwork
from sobercrow.core.handover.purpose import CheckSettings, Purpose
from sobercrow.core.inspect import faults
from sobercrow.core.inspect.looked import Looked, Spot

Find = Callable[[Looked], Iterable[Spot]]


@dataclass(frozen=True, slots=True)
class Kind:
    """A kind of finding: what one and several are called, what it means, where it counts, and how it is found."""

    id: str
    one: str
    many: str
    help: str
    purposes: frozenset[Purpose]
    find: Find


@dataclass(frozen=True, slots=True)
class Finding:
    """All places of one kind."""

    kind: Kind
    spots: tuple[Spot, ...]

    @property
    def text(self) -> str:
        """What is told of it: how many there are of what."""
        count = len(self.spots)
        return f"{count} {self.kind.one if count == 1 else self.kind.many}"


def check(artwork: Artwork, settings: CheckSettings = CheckSettings()) -> list[Finding]:  # noqa: B008
    """Return what stands in the way of handing laid artwork over for a purpose, in the order of `KINDS`."""
    looked = Looked(artwork, settings)
    found = (Finding(kind, tuple(kind.find(looked))) for kind in KINDS if settings.purpose in kind.purposes)
    return [finding for finding in found if finding.spots]


EVERY = frozenset(Purpose)
BLADE = frozenset({Purpose.CUT, Purpose.ENGRAVE})
MADE = EVERY - {Purpose.WEB}
"""Purposes at whose end something is made, rather than shown."""
KINDS: Sequence[Kind] = (
    Kind("open", "open contour", "open contours", "Filled, but its ends do not meet.", EVERY, faults.find_open),
    Kind(
        "doubled",
        "doubled line",
        "doubled lines",
        "Two lines of one ink in one place; a blade would cut twice.",
        EVERY,
        faults.find_doubled,
    ),
    Kind(
        "crossings",
        "crossing",
        "crossings",
        "A contour crosses itself, or for a blade another of its ink.",
        EVERY,
        faults.find_crossings,
    ),
    Kind("narrow", "part too narrow", "parts too narrow", "Narrower than the finest.", MADE, faults.find_narrow_parts),
    Kind("gaps", "gap too narrow", "gaps too narrow", "Paper narrower than the finest.", MADE, faults.find_narrow_gaps),
    Kind("stragglers", "straggler", "stragglers", "Too small to be wanted.", EVERY, faults.find_stragglers),
    Kind("hidden", "hidden shape", "hidden shapes", "Wholly beneath others.", EVERY, faults.find_hidden),
    Kind(
        "paper",
        "shape in the paper's colour",
        "shapes in the paper's colour",
        "Not seen on paper.",
        MADE,
        faults.find_paper_coloured,
    ),
    Kind(
        "strokes",
        "stroke",
        "strokes",
        "A line with a width; a blade would follow its middle.",
        frozenset({Purpose.CUT}),
        faults.find_strokes,
    ),
    Kind("shaded", "gradient", "gradients", "No single ink gives it.", BLADE | {Purpose.PLATES}, faults.find_shaded),
    Kind(
        "inks",
        "ink too many",
        "inks too many",
        "More inks than there are plates.",
        frozenset({Purpose.PLATES}),
        faults.find_too_many_inks,
    ),
    Kind(
        "ink-load",
        "ink with too much of all four",
        "inks with too much of all four",
        "More printing ink in one place than the press can lay.",
        frozenset({Purpose.PRINT, Purpose.PLATES}),
        faults.find_too_much_ink,
    ),
    Kind(
        "outside",
        "shape outside the page",
        "shapes outside the page",
        "It reaches over the page's edge.",
        EVERY,
        faults.find_outside,
    ),
    Kind(
        "anchors",
        "contour with needless anchors",
        "contours with needless anchors",
        "The same line with fewer anchors.",
        EVERY,
        faults.find_needless,
    ),
)
