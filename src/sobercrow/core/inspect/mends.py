"""What mends a finding: for every kind that has it, one edit of those Refine has."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from sobercrow.core.artwork import combining, cutting, edits, joining, thinning
from sobercrow.core.artwork.choice import Choice, Edited
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.errors import EditError
from sobercrow.core.inspect.looked import Spot

THIN_PX = 0.05
Mend = Callable[[Artwork, Sequence[Spot]], Edited]


@dataclass(frozen=True, slots=True)
class Action:
    """What it is called, what it does, and how."""

    title: str
    help: str
    mend: Mend


def _shapes(spots: Sequence[Spot]) -> frozenset[int]:
    return frozenset(k for spot in spots for k in spot.choice.shapes)


def _plainly(made: Edited) -> Edited:
    """With nothing chosen after it."""
    return Edited(made.artwork, Choice(), made.told)


def _close(artwork: Artwork, spots: Sequence[Spot]) -> Edited:
    ends = frozenset(ref for spot in spots for ref in spot.choice.anchors)
    return _plainly(cutting.close(artwork, Choice(anchors=ends)))


def _delete(artwork: Artwork, spots: Sequence[Spot]) -> Edited:
    return _plainly(edits.delete_shapes(artwork, _shapes(spots)))


def _join(artwork: Artwork, _spots: Sequence[Spot]) -> Edited:
    return _plainly(joining.join_by_colour(artwork))


def _join_or_delete(artwork: Artwork, spots: Sequence[Spot]) -> Edited:
    """Shapes that touch are joined; where they are in layers of their own, the upper one of two goes."""
    try:
        return _join(artwork, spots)
    except EditError:
        return _delete(artwork, spots)


def _outline(artwork: Artwork, spots: Sequence[Spot]) -> Edited:
    return _plainly(combining.strokes_to_shapes(artwork, Choice(shapes=_shapes(spots))))


def _thin(artwork: Artwork, spots: Sequence[Spot]) -> Edited:
    shapes = frozenset(ref.shape for spot in spots for ref in spot.choice.anchors)
    return _plainly(thinning.thin_out(artwork, Choice(shapes=shapes), THIN_PX))


ACTIONS: Mapping[str, Action] = {
    "open": Action("Close", "Closes all of them by a line.", _close),
    "doubled": Action(
        "Join", "Joins shapes of one colour that touch; else the upper one of two goes.", _join_or_delete
    ),
    "crossings": Action("Join", "Joins shapes of one colour that lie over each other.", _join),
    "stragglers": Action("Delete", "Takes all of them away.", _delete),
    "hidden": Action("Delete", "Takes all of them away.", _delete),
    "paper": Action("Delete", "Takes all of them away.", _delete),
    "strokes": Action("To shapes", "Makes them filled shapes as wide as they are.", _outline),
    "anchors": Action("Thin out", "The same line with the fewest anchors.", _thin),
}
