"""Letters that occur again, drawn alike: the mean of all copies in the place of each.

What is known of a drawing grows with every copy. The copy with the fewest anchors is laid on the others by its middle
and its turn, moved across itself by the median of how far they are from it, and put in every place.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import NamedTuple

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.choice import Choice, Edited
from sobercrow.core.artwork.edits import change_shapes, checked_shapes
from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.artwork.placing import placed_shape
from sobercrow.core.errors import EditError
from sobercrow.core.geometry.affine import Affine
from sobercrow.core.lettering.letters import letters_on, shapes_of
from sobercrow.core.lettering.matches import Match
from sobercrow.core.lettering.samples import Samples
from sobercrow.core.lettering.weight import moved_out, outside

SPACING_PX = 0.5
ROUNDS = 6
ALIKE_EM = 0.03
"""Copies no further from each other, root mean square, in the em of the line, are one letter."""


class _Copy(NamedTuple):
    """A shape that is a letter: its number, what is read, and its turn in degrees."""

    shape: int
    character: str
    turn_deg: float


def letters_alike(artwork: Artwork, choice: Choice, match: Match) -> Edited:
    """Return artwork with the letters alike that a match reads more than once; one shape each, holes with it.

    Raises
    ------
    EditError
        If no letter occurs again, or what occurs again is not alike.
    """
    chosen = sorted(checked_shapes(artwork, choice.shapes))
    copies = _copies(artwork, chosen, match)
    made: dict[int, Shape] = {}
    told: list[str] = []
    for character in sorted({copy.character for copy in copies}):
        own = [copy for copy in copies if copy.character == character]
        alike = _alike(artwork.shapes, own, ALIKE_EM * match.size_px) if len(own) > 1 else {}
        made |= alike
        told += [f"{len(alike)} {character}"] if alike else []
    if not made:
        raise EditError("No letter occurs again here as one shape that is alike.")
    changed = change_shapes(artwork, lambda k, shape: made.get(k, shape))
    return Edited(changed, choice, f"Alike now: {', '.join(told)}.")


def repeated_in(match: Match) -> list[str]:
    """Return which characters a match reads more than once."""
    characters = [letter.character for letter in match.letters]
    return sorted({character for character in characters if characters.count(character) > 1})


def _copies(artwork: Artwork, chosen: Sequence[int], match: Match) -> list[_Copy]:
    """Which shapes are single letters, and what they are; their marks, such as dots, stay with their shapes."""
    shapes = [artwork.shapes[k] for k in chosen]
    letters = letters_on(shapes, match.baseline)
    if len(letters) != len(match.letters):
        raise EditError("These letters are joined or parted; choose letters that are one shape each.")
    return [
        _Copy(chosen[own[0]], glyph.character, glyph.turn_deg)
        for own, glyph in zip(shapes_of(letters, shapes), match.letters, strict=True)
        if len(own) == 1
    ]


def _alike(shapes: Sequence[Shape], copies: Sequence[_Copy], limit: float) -> dict[int, Shape]:
    """The shapes of copies alike, those that are too unlike left out; none if fewer than two are alike."""
    pattern = min(copies, key=lambda copy: (shapes[copy.shape].anchor_count, copy.shape))
    own = shapes[pattern.shape]
    samples = Samples.of(own.contours, SPACING_PX)
    ways: dict[int, Affine] = {}
    off: list[F64] = []
    for copy in copies:
        other = shapes[copy.shape]
        if len(other.contours) != len(own.contours):
            continue
        way, away = _laid(samples, other, copy.turn_deg - pattern.turn_deg)
        if float(np.sqrt((away**2).mean())) <= limit:
            ways[copy.shape] = way
            off.append(away)
    if len(ways) < 2:
        return {}
    mean = replace(own, contours=moved_out(own.contours, samples, np.median(off, axis=0)))
    return {k: placed_shape(mean, way) for k, way in ways.items()}


def _laid(samples: Samples, other: Shape, turn_deg: float) -> tuple[Affine, F64]:
    """How samples of a shape come to lie on another one, turned by so much, and how far that is outside of each."""
    turn = Affine.turned(turn_deg, (0.0, 0.0))
    edges = other.edges(SPACING_PX)
    points, out = turn(samples.points), -turn(samples.normals)
    shift = _middle(np.concatenate(edges)) - _middle(points)
    away = np.zeros(len(points))
    for _ in range(ROUNDS):
        away = outside(points + shift, out, edges)
        step = np.linalg.lstsq(out, away, rcond=None)[0]
        shift = shift + step
        if np.abs(step).max() < 1e-4:
            break
    return turn.then(Affine.moved(*shift.tolist())), away


def _middle(points: F64) -> F64:
    return np.asarray(0.5 * (points.min(axis=0) + points.max(axis=0)))
