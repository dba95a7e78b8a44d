"""Repeated letters alike: copies of known glyphs, each drawn otherwise, come out nearer to the glyph, and the same."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from drawings import distance, set_word
from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.model import Artwork, Layer, Shape
from sobercrow.core.errors import EditError
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.lettering.alike import letters_alike, repeated_in
from sobercrow.core.lettering.matches import Match, PlacedGlyph
from sobercrow.core.lettering.posture import standing_of
from sobercrow.core.lettering.typefaces import LIBRARY, faces_of

TEXT = "unhnun"


def drawn_by_hand(shape: Shape, seed: int) -> Shape:
    """The shape with its anchors and handles off by half a pixel, each by its own amount."""
    random = np.random.default_rng(seed)
    contours = []
    for contour in shape.contours:
        off = random.normal(0.0, 0.5, (len(contour), 1, 2))
        contours.append(Contour(contour.points + off, contour.kinds, True))
    return replace(shape, contours=tuple(contours))


def matched(artwork: Artwork, text: str) -> Match:
    letters = tuple(PlacedGlyph(character, 0.0, 0.0, 0.0, 0.0) for character in text)
    face = faces_of(LIBRARY / "Cantarell-Regular.otf")[0].face
    return Match(face, text, 90.0, letters, standing_of(artwork.shapes).line, 1.0)


def test_the_mean_of_all_copies_is_nearer_to_the_glyph_than_they_were_and_all_are_the_same() -> None:
    true = set_word(TEXT, [12.0] * 6, [0.0] * 6, [0.0] * 6)
    drawn = Artwork((Layer("Ink", tuple(drawn_by_hand(s, k) for k, s in enumerate(true.shapes))),), 900.0, 400.0, 300.0)
    match = matched(drawn, TEXT)
    assert repeated_in(match) == ["n", "u"]
    made = letters_alike(drawn, Choice(shapes=frozenset(range(6))), match)
    assert made.told == "Alike now: 3 n, 2 u."
    assert made.artwork.shapes[2] == drawn.shapes[2]  # h is alone
    assert made.artwork.anchor_count == drawn.anchor_count

    places = [k for k, character in enumerate(TEXT) if character == "n"]
    first = made.artwork.shapes[places[0]].contours[0]
    for k in places[1:]:
        other = made.artwork.shapes[k].contours[0]
        shift = (other.anchors - first.anchors).mean(axis=0)
        assert np.abs(other.points - first.points - shift).max() < 1e-9

    def off(artwork: Artwork) -> float:
        """How far the copies of n are from the glyph, moved onto it, at most, in the mean."""
        every = []
        for k in places:
            one, glyph = artwork.shapes[k].contours[0], true.shapes[k].contours[0]
            shift = glyph.anchors.mean(axis=0) - one.anchors.mean(axis=0)
            every.append(distance(one.moved(*shift.tolist()), glyph))
        return float(np.mean(every))

    assert off(made.artwork) < 0.75 * off(drawn)


def test_what_is_read_alike_but_is_not_stays_as_it_is() -> None:
    drawn = set_word("non", [12.0] * 3, [0.0] * 3, [0.0] * 3)
    every = Choice(shapes=frozenset(range(3)))
    with pytest.raises(EditError, match="No letter occurs again"):
        letters_alike(drawn, every, matched(drawn, "ooh"))
    with pytest.raises(EditError, match="joined or parted"):
        letters_alike(drawn, every, matched(drawn, "nono"))
