"""Which typeface lettering was set in: all are compared coarsely, the likeliest by their outlines.

See `likeness` and `laying`. The base line goes through the feet that come of it, letters are read by their outlines,
and those that can be laid on none are tried as two that touch.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.model import Shape
from sobercrow.core.errors import LetteringError
from sobercrow.core.lettering.baseline import Baseline, proposed, through
from sobercrow.core.lettering.glyphs import glyphs_of
from sobercrow.core.lettering.index import Index
from sobercrow.core.lettering.laying import Laid, LetterLines, laid_on, outlines_of
from sobercrow.core.lettering.letters import Letter, letters_of, letters_on, middles_of, parted
from sobercrow.core.lettering.likeness import Coarse, GlyphTable, alike_faces, how_unlike, whole
from sobercrow.core.lettering.matches import Match, PlacedGlyph, is_same
from sobercrow.core.lettering.shaping import shaped
from sobercrow.core.lettering.typefaces import Face
from sobercrow.core.parallel import on_cores

LOOKED_AT, TRIED_AGAIN = 20, 6
"""Faces compared by outlines, and once more on the base line found."""
FEW_POINTS = 60
"""Points of a letter that are enough to tell which faces are worth a closer look."""
FIRST_LOOK = 4
"""So many faces are laid first, and shown before all are."""
LEAST_FEET = 4
"""A base line goes through so many letters at least."""
SURE_COST = 0.012
"""Lettering that is so like a face on one base line is tried on no other."""
LARGEST_EM = 5.0
"""Lettering whose em is larger, in heights of its letters, would be all dots and dashes."""
READ_AGAIN, READ_AS = 3, 5
"""Of so many faces it is looked closer what their letters may be, among so many characters each."""
ODD_EM, ODD_PX = 0.015, 0.5
"""A letter that far off, whichever is more, can be laid on no glyph."""
TOUCHING, HALF_AS = 0.4, 4
"""Two letters that touch are laid so much nearer than both as one; each is tried as so many characters."""
RARE, RARER = 1.2, 1.5
"""So much nearer have signs to be, and accented letters, before they are read instead of plain letters."""
ALIKE, ALIKE_PX, ALIKE_EM = 1.15, 0.03, 0.0006
"""Characters whose outlines are about as near are told apart by their neighbours."""
SPACE = 0.6
"""A gap is a space if it is wider than this share of the face's own."""
UNSURE = 2.2
"""A letter that is so many times further off than usual is marked."""

Progress = Callable[[float], None]


def match(
    shapes: Sequence[Shape],
    index: Index,
    text: str | None = None,
    arcs: bool = True,
    progress: Progress | None = None,
    baseline: Baseline | None = None,
    early: Callable[[list[Match]], None] | None = None,
    first: Face | None = None,
) -> list[Match]:
    """Return faces a line of lettering may have been set in, the nearest first.

    `shapes` are its letters, `text` what they are known to be; spaces in it do not count. The base line is proposed
    from them, an arc only with `arcs`, unless it is given: then letters stand on that one. `progress` is told the
    share done and may raise. `early` is handed the likeliest faces once they are laid, before all are; `first` is one
    that is laid with those, such as that of the line before.

    Raises
    ------
    LetteringError
        If there are no letters, no typefaces, or the text has another number of letters.
    """
    if not index.faces:
        raise LetteringError("There are no typefaces to compare with; add a folder of them.")
    tell = progress if progress is not None else lambda _share: None
    wanted = "".join(text.split()) if text else None
    glyphs = GlyphTable.of(index, wanted)
    best: tuple[float, Baseline, list[Letter], list[Coarse]] | None = None
    bases = [baseline] if baseline is not None else proposed(*middles_of(shapes), arcs)
    for one in bases:
        letters, unlike = whole(letters_on(shapes, one), glyphs, one, wanted)
        if wanted is not None and len(wanted) != len(letters):
            continue
        found = alike_faces(letters, unlike, glyphs, wanted)
        # where shapes fall together on a base line they do not stand on, few of them are alike by chance
        cost = found[0].cost * len(shapes) / len(letters) if found else math.inf
        if found and (best is None or cost < best[0]):
            best = cost, one, letters, found
        if best is not None and best[0] < SURE_COST:
            break
        tell(0.1)
    if best is None:
        count = len(letters_on(shapes, bases[0]))
        if wanted is not None:
            raise LetteringError(f"The text has {len(wanted)} letters, the lettering {count}; they have to be as many.")
        raise LetteringError("None of the typefaces has these letters.")
    _, base, letters, found = best
    search = _Search(index, baseline is not None, tell, early, first)
    every, letters = search.run(letters, base, found, wanted is None)
    more = _touching(letters, every[0], index, glyphs) if wanted is None else None
    if more is not None:
        found = alike_faces(more, how_unlike(more, glyphs), glyphs, None)
        again, halves = replace(search, early=None).run(more, every[0].baseline, found, True)
        if again[0].deviation_px < every[0].deviation_px:
            every, letters = again, halves
    return _as_the_picture_says(every, letters)


def _as_the_picture_says(every: list[Match], letters: Sequence[Letter]) -> list[Match]:
    """Matches with the nearest stretched and leaned, if that is nearer and it is not the same as it is."""
    return every if is_same(every[0]) else [shaped(every[0], letters), *every[1:]]


@dataclass(frozen=True, slots=True)
class _Search:
    """How faces are laid on letters: whether the base line is known, and who is told."""

    index: Index
    is_known: bool
    tell: Progress
    early: Callable[[list[Match]], None] | None
    first: Face | None

    def run(
        self, letters: Sequence[Letter], base: Baseline, found: Sequence[Coarse], reads_again: bool
    ) -> tuple[list[Match], list[Letter]]:
        """Return the faces found laid on letters, on a base line through their feet; and these as they stand on it."""
        low = 0.0 if self.is_known else found[0].below_px
        base = base.lowered(low) if low else base
        known = [one for one in found[LOOKED_AT:] if self.index.faces[one.face] == self.first]
        found = [replace(one, below_px=one.below_px - low) for one in (*found[:LOOKED_AT], *known)]
        found.sort(key=lambda one: self.index.faces[one.face] != self.first)
        parts = [letter.contours for letter in letters]
        stood = letters_of(parts, base)
        lines = LetterLines.of(stood, FEW_POINTS)
        made = self._fitted(stood, lines, base, found[:FIRST_LOOK], lambda _share: self.tell(0.2))
        if self.early is not None and made:
            self.early(made)
        rest = self._fitted(stood, lines, base, found[FIRST_LOOK:], lambda share: self.tell(0.2 + 0.6 * share))
        made = sorted([*made, *rest], key=lambda one: one.deviation_px)
        if not made:
            raise LetteringError("None of the typefaces can be laid on these letters.")
        base = self._through(made[0], base)
        again = {one.face: one for one in made[:TRIED_AGAIN]}
        others = {self.index.faces[one.face]: one.others for one in found}
        places = [_again(self.index, one, others[one.face]) for one in again.values()]
        stood = letters_of(parts, base)
        lines = LetterLines.of(stood)
        closer = self._fitted(stood, lines, base, places, lambda share: self.tell(0.8 + 0.1 * share), reads_again)
        closer = closer or made
        if closer[0].deviation_px <= made[0].deviation_px:
            base = self._through(closer[0], base)
        seen = {one.face for one in closer}
        every = sorted(closer + [one for one in made if one.face not in seen], key=lambda one: one.deviation_px)
        return [replace(one, baseline=base) for one in every], letters_of(parts, base)

    def _through(self, one: Match, base: Baseline) -> Baseline:
        return base if self.is_known else through(_feet(one), base)

    def _fitted(
        self,
        letters: Sequence[Letter],
        lines: LetterLines,
        baseline: Baseline,
        found: Sequence[Coarse],
        progress: Progress,
        reads_again: bool = False,
    ) -> list[Match]:
        """Lay faces on the letters; the nearest first. With `reads_again` it is tried what else letters may be."""
        largest = LARGEST_EM * float(np.median([letter.box[3] - letter.box[1] for letter in letters]))

        def fit(n: int) -> Match | None:
            one = found[n]
            face, characters = self.index.faces[one.face], one.characters
            if len(characters) != len(letters):
                return None
            try:
                laid = laid_on(lines, face, characters, one.size_px, one.below_px)
            except LetteringError:
                return None
            if laid is None or laid[0] > largest:
                return None
            if reads_again and n < READ_AGAIN:
                characters, laid = _read(lines, face, one, laid)
            return _match(face, characters, letters, baseline, *laid)

        made = on_cores(range(len(found)), fit, lambda done: progress(done / len(found)))
        return sorted((one for one in made if one is not None), key=lambda one: one.deviation_px)


def _touching(letters: Sequence[Letter], one: Match, index: Index, glyphs: GlyphTable) -> list[Letter] | None:
    """Letters with those parted that are no glyph of a face, but two that touch; None if there are none."""
    own = glyphs.of_face(index.faces.index(one.face))
    made: list[Letter] = []
    for letter, glyph in zip(letters, one.letters, strict=True):
        limit = TOUCHING * glyph.deviation_px
        best = [letter]
        if glyph.deviation_px > max(ODD_EM * one.size_px, ODD_PX):
            for at in letter.necks():
                halves = parted(letter, at, one.baseline)
                off = max(_nearest(half, one, own) for half in halves) if halves is not None else math.inf
                if halves is not None and off < limit:
                    limit, best = off, list(halves)
        made += best
    return made if len(made) > len(letters) else None


def _nearest(letter: Letter, one: Match, own: GlyphTable) -> float:
    """How far a letter is off the likeliest glyphs of a face, at the size of a match."""
    likeliest = np.argsort(how_unlike([letter], own)[0])[:HALF_AS]
    off, line = math.inf, LetterLines.of([letter])
    for code in own.codes[likeliest].tolist():
        found = laid_on(line, one.face, chr(code), one.size_px, 0.0, True)
        off = min(off, float(found[2][0])) if found is not None else off
    return off


def _feet(one: Match) -> F64:
    """Where on the base line the middles of a match's letters stand, (n, 2); those that lie badly left out."""
    sure = [glyph for glyph in one.letters if glyph.sure]
    feet = []
    for glyph in sure if len(sure) >= LEAST_FEET else one.letters:
        by = one.advance_px * float(outlines_of(one.face, glyph.character).middles()[0])
        feet.append(glyph.along(by))
    return np.array(feet)


def _again(index: Index, one: Match, others: tuple[str, ...]) -> Coarse:
    """What a match says for a closer look."""
    return Coarse(index.faces.index(one.face), "".join(one.text.split()), one.size_px, 0.0, 0.0, others)


def _read(lines: LetterLines, face: Face, one: Coarse, laid: Laid) -> tuple[str, Laid]:
    """What letters are in a face by their outlines: of all they may be that which is nearest, at the size found."""
    size, _, off = laid
    off_of = [{character: float(away)} for character, away in zip(one.characters, off, strict=True)]
    for n in range(min(max(map(len, one.others), default=0), READ_AS)):
        tried = "".join(likely[min(n, len(likely) - 1)] for likely in one.others)
        found = laid_on(lines, face, tried, size, 0.0, True)
        for k, character in enumerate(tried if found is not None else ""):
            away = float(found[2][k])  # type: ignore[index]
            off_of[k][character] = min(away, off_of[k].get(character, math.inf))
    slack = max(ALIKE_PX, ALIKE_EM * size)
    characters = ""
    for k, found_off in enumerate(off_of):
        every = {character: away * _rarity(character) for character, away in found_off.items()}
        nearest = min(every.values())
        if nearest > max(ODD_EM * size, ODD_PX):  # none of them can be laid on it: what it covers tells more
            characters += one.characters[k]
            continue
        like = [character for character, away in every.items() if away <= ALIKE * nearest + slack]
        characters += like[0] if len(like) == 1 else _by_neighbours(one.characters, k, like)
    if characters == one.characters:
        return characters, laid
    again = laid_on(lines, face, characters, size, 0.0)
    if again is None or again[2].mean() > laid[2].mean() + slack:
        return one.characters, laid
    return characters, again


def _rarity(character: str) -> float:
    """How much nearer a character has to be than a plain letter."""
    if character.isascii():
        return 1.0 if character.isalnum() else RARE
    return RARER


def _by_neighbours(text: str, place: int, like: Sequence[str]) -> str:
    """Which of several characters whose outlines are alike stands at a place: letters before signs, plain ones before
    accented ones, capitals among capitals."""
    rest = [
        character for k, character in enumerate(text) if k != place and character.isalpha() and character not in "Il"
    ]
    capitals = sum(character.isupper() for character in rest) > 0.5 * len(rest) if rest else False

    def unlikely(character: str) -> tuple[bool, bool, bool]:
        fits = character.isupper() == (capitals or (place == 0 and character != "I"))
        return not character.isalpha(), not character.isascii(), not fits

    return min(like, key=unlikely)


def _match(
    face: Face, characters: str, letters: Sequence[Letter], baseline: Baseline, size: float, places: F64, off: F64
) -> Match:
    usual = max(float(np.median(off)), 0.004 * size)
    placed = []
    for letter, character, (dx, dy, turn), away in zip(letters, characters, places, off, strict=True):
        x, y = letter.placed(np.array((dx, dy))).tolist()
        turned = letter.turn_deg + math.degrees(turn)
        placed.append(PlacedGlyph(character, x, y, turned, float(away), bool(away <= UNSURE * usual)))
    return Match(face, _spelt(face, placed, size), size, tuple(placed), baseline, float(off.mean()))


def _spelt(face: Face, placed: Sequence[PlacedGlyph], size: float) -> str:
    """The characters, with spaces where the next letter stands as much further off as the face's space is wide."""
    glyphs = glyphs_of(face)
    room = SPACE * (glyphs.advance(" ") if glyphs.has(" ") else 0.25)
    text = placed[0].character
    for before, here in pairwise(placed):
        gap = math.hypot(here.x - before.x, here.y - before.y) / size - glyphs.advance(before.character)
        text += f" {here.character}" if gap > room else here.character
    return text
