"""Lettering set anew in a typeface: every glyph where the picture has it, or as the typeface spaces it, or between."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from sobercrow.core.artwork.choice import Choice, Edited
from sobercrow.core.artwork.edits import checked_shapes, in_place
from sobercrow.core.artwork.lettered import Lettered
from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.artwork.placing import placed_contour
from sobercrow.core.artwork.tree import group, lettered_group, ungroup
from sobercrow.core.errors import EditError, LetteringError
from sobercrow.core.geometry.affine import Affine
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.winding import wound
from sobercrow.core.lettering.baseline import Drawn, is_line
from sobercrow.core.lettering.glyphs import glyphs_of
from sobercrow.core.lettering.matches import Match, PlacedGlyph
from sobercrow.core.lettering.typefaces import Face
from sobercrow.core.lettering.weight import bolder


def spaced(match: Match) -> list[PlacedGlyph]:
    """Return the glyphs of a match as its typeface spaces them, kerned, along its base line.

    What HarfBuzz makes of the text, at the size of the match, each glyph turned by its middle; as a whole it lies where
    the picture has it.

    Raises
    ------
    LetteringError
        If the typeface cannot be read.
    """
    advances = glyphs_of(match.face).advances(match.text)
    starts = np.cumsum(advances) - advances
    kept = [k for k, character in enumerate(match.text) if not character.isspace()]
    if len(kept) != len(match.letters):
        raise LetteringError("The text has another number of letters than the lettering.")
    half = 0.5 * advances[kept] * match.advance_px
    wanted = starts[kept] * match.advance_px + half
    middles = np.array([glyph.along(by) for glyph, by in zip(match.letters, half.tolist(), strict=True)])
    along = match.baseline.seen(middles)[:, 0]
    shift = float(np.median(along - wanted))
    made = []
    for glyph, at, by in zip(match.letters, wanted.tolist(), half.tolist(), strict=True):
        x, y, turn = match.baseline.at(at + shift)
        x, y = replace(glyph, x=x, y=y, turn_deg=turn).along(-by)
        made.append(replace(glyph, x=x, y=y, turn_deg=turn))
    return made


def placed(match: Match, own_spacing: float) -> list[PlacedGlyph]:
    """Return a match's glyphs between the picture's places (0) and the typeface's own spacing (1).

    Raises
    ------
    LetteringError
        If the typeface cannot be read.
    """
    if own_spacing <= 0.0:
        return list(match.letters)
    made = []
    for here, there in zip(match.letters, spaced(match), strict=True):
        turn = here.turn_deg + own_spacing * math.remainder(there.turn_deg - here.turn_deg, 360.0)
        x = here.x + own_spacing * (there.x - here.x)
        y = here.y + own_spacing * (there.y - here.y)
        made.append(replace(here, x=x, y=y, turn_deg=turn))
    return made


def glyph_contours(match: Match, own_spacing: float) -> list[tuple[Contour, ...]]:
    """Return the contours of a match's letters, letter by letter.

    Raises
    ------
    LetteringError
        If the typeface cannot be read.
    """
    made = []
    for glyph in placed(match, own_spacing):
        there = Affine.scaled(match.advance_px, match.size_px, (0.0, 0.0)).then(
            Affine.leaned(match.lean_deg, (0.0, 0.0))
        )
        there = there.then(Affine.turned(glyph.turn_deg, (0.0, 0.0))).then(Affine.moved(glyph.x, glyph.y))
        plain = [placed_contour(contour, there) for contour in _outline(match.face, glyph.character)]
        made.append(bolder(plain, match.bolder_px))
    return made


def _outline(face: Face, character: str) -> Sequence[Contour]:
    """A glyph's contours as the even-odd rule fills them, outer ones as those of shapes run."""
    contours = glyphs_of(face).contours(character)
    (contours,) = wound([contours])
    if sum(contour.area() for contour in contours) < 0.0:
        contours = tuple(contour.reversed() for contour in contours)
    return contours


def set_anew(artwork: Artwork, choice: Choice, match: Match, own_spacing: float = 0.0) -> Edited:
    """Replace chosen shapes by lettering set anew: one group of letters, named by its text and typeface.

    Letters that were set before make way as the group they are. A line they stand on stays.

    `own_spacing` is how much of the typeface's own spacing it takes, 0–1; at 0 letters stay where the picture has them.

    Raises
    ------
    EditError
        If nothing is chosen.
    LetteringError
        If the typeface cannot be read.
    """
    chosen = checked_shapes(artwork, choice.shapes)
    if isinstance(match.baseline, Drawn):
        chosen = frozenset(k for k in chosen if not is_line(artwork.shapes[k]))
    if not chosen:
        raise EditError("Choose the letters that are to be set anew.")
    if lettered_group(artwork, chosen) is not None:
        artwork = ungroup(artwork, Choice(shapes=chosen)).artwork
    like = artwork.shapes[max(chosen)]
    paint = like.fill if like.fill is not None else like.colour
    fresh = [Shape(contours, paint) for contours in glyph_contours(match, own_spacing)]
    made = in_place(artwork, chosen, max(chosen), fresh)
    return as_group(made, match, own_spacing)


def as_group(made: Edited, match: Match, own_spacing: float) -> Edited:
    """Return letters that were set and are chosen as one group, which knows how they were set; one alone as it is."""
    if len(made.choice.shapes) < 2:
        return made
    return group(*made[:2], f"{match.text} · {match.face.name}", kept(match, own_spacing))


def kept(match: Match, own_spacing: float) -> Lettered:
    """Return what is kept of a match that is set.

    Raises
    ------
    LetteringError
        If the typeface cannot be read.
    """
    glyphs = tuple((one.character, one.x, one.y, one.turn_deg) for one in placed(match, own_spacing))
    face, line = match.face, match.baseline.numbers
    form = match.stretch, match.lean_deg, match.bolder_px
    return Lettered(match.text, face.path, face.number, face.axes, match.size_px, line, glyphs, *form)
