"""Which typeface lettering was set in: all are compared coarsely, the likeliest by their outlines.

Coarsely a letter is what it covers of its box, its box's proportions, and how high it is and stands among the others; a
face is tried at the sizes its own letters suggest. Then outlines are laid on the traced ones: one size for the line, a
place and a slight turn for each letter, by iterated closest points with distances along the normal (Chen & Medioni
1992), strays weighed less. What is left, both ways, is the deviation.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F32, F64, following
from sobercrow.core.artwork.model import Shape
from sobercrow.core.errors import LetteringError
from sobercrow.core.geometry._nearest_kernels import nearest_segments
from sobercrow.core.lettering.baseline import Baseline, proposed, through
from sobercrow.core.lettering.glyphs import glyphs_of
from sobercrow.core.lettering.index import PROPOSED, Index
from sobercrow.core.lettering.letters import Letter, joined, letters_of, letters_on, middles_of, parted
from sobercrow.core.lettering.typefaces import Face

CANDIDATES, LOOKED_AT, TRIED_AGAIN = 6, 20, 6
MOST_LOOKED_AT = 40
"""Characters a letter may be in each face; faces compared by outlines, and once more on the base line found."""
ASPECT, SIZE, STANDING, CAP = 0.12, 1.0, 1.2, 0.25
"""What differences of proportion, height and standing weigh against those of covered fields; at most, a letter."""
PARTED, UNLIKE_ANY, TOGETHER = 0.14, 0.008, 0.5
"""Letters nearer to each other, as a share of their height, may be one in two parts, if one of them is less like any
glyph than this and both together are so much more like one."""
WIDE = 0.7
"""Letters that touch are together wider than this share of their height."""
SURE_COST = 0.012
"""Lettering that is so like a face on one base line is tried on no other."""
SPACING_EM, POINTS = 0.012, 150
"""Points on glyphs, and at most so many on a letter."""
LARGEST_EM = 5.0
"""Lettering whose em is larger, in heights of its letters, would be all dots and dashes."""
ROUNDS, REACH_EM, APART_EM = 10, 0.35, 8.0
FIRST_STRAY_EM, STRAY_PX, STRAY_EM = 0.1, 0.5, 0.012
"""What is further off weighs little: at first, and at last, whichever of the two is more."""
TURN_RAD, TURN_EM = 0.02, 0.004
"""A letter may be turned by about so much against the base line, where that makes about such a difference."""
SAME_PX, SAME_EM, CLOSE_EM = 0.25, 0.0035, 0.01
"""Outlines so near to each other, whichever of two is more, are called the same; and those that are close."""
READ_AGAIN, READ_AS = 3, 5
"""Of so many faces it is looked closer what their letters may be, among so many characters each."""
ODD_EM = 0.015
ALIKE, ALIKE_PX, ALIKE_EM = 1.15, 0.03, 0.0006
"""Characters whose outlines are about as near are told apart by their neighbours."""
SPACE = 0.6
UNSURE = 2.2
"""A letter that is so many times further off than usual is marked, and other characters are tried for it."""

Progress = Callable[[float], None]


@dataclass(frozen=True, slots=True)
class PlacedGlyph:
    """A character where the picture has it: the origin of its glyph, its turn, how far it is off, and whether sure."""

    character: str
    x: float
    y: float
    turn_deg: float
    deviation_px: float
    sure: bool = True


@dataclass(frozen=True, slots=True)
class Match:
    """A face lettering may have been set in, its size in px per em, its letters, the base line they stand on, and how
    far outlines are off each other in the mean."""

    face: Face
    text: str
    size_px: float
    letters: tuple[PlacedGlyph, ...]
    baseline: Baseline
    deviation_px: float


@dataclass(frozen=True, slots=True, eq=False)
class _Coarse:
    """A face, what its letters would be, the size, how far the base line lies below, and what it costs; and for each
    letter all that it may be, the likeliest first."""

    face: int
    characters: str
    size_px: float
    below_px: float
    cost: float
    others: tuple[str, ...] = ()


def match(
    shapes: Sequence[Shape],
    index: Index,
    text: str | None = None,
    arcs: bool = True,
    progress: Progress | None = None,
    baseline: Baseline | None = None,
) -> list[Match]:
    """Return faces a line of lettering may have been set in, the nearest first.

    `shapes` are its letters, `text` what they are known to be; spaces in it do not count. The base line is proposed
    from them if it is not given, an arc only with `arcs`. `progress` is told the share done and may raise.

    Raises
    ------
    LetteringError
        If there are no letters, no typefaces, or the text has another number of letters.
    """
    if not index.faces:
        raise LetteringError("There are no typefaces to compare with; add a folder of them.")
    tell = progress if progress is not None else lambda _share: None
    wanted = "".join(text.split()) if text else None
    glyphs = _Glyphs.of(index, wanted)
    best: tuple[float, Baseline, list[Letter], list[_Coarse]] | None = None
    for one in [baseline] if baseline is not None else proposed(*middles_of(shapes), arcs):
        letters = _whole(letters_on(shapes, one), glyphs, one, wanted)
        if wanted is not None and len(wanted) != len(letters):
            continue
        found = _coarse(letters, glyphs, wanted)
        # where shapes fall together on a base line they do not stand on, few of them are alike by chance
        cost = found[0].cost * len(shapes) / len(letters) if found else math.inf
        if found and (best is None or cost < best[0]):
            best = cost, one, letters, found
        if best is not None and best[0] < SURE_COST:
            break
        tell(0.1)
    if best is None:
        count = len(letters_on(shapes, proposed(*middles_of(shapes), arcs)[0]))
        if wanted is not None:
            raise LetteringError(f"The text has {len(wanted)} letters, the lettering {count}; they have to be as many.")
        raise LetteringError("None of the typefaces has these letters.")
    _, base, letters, found = best
    low = found[0].below_px
    base, found = base.lowered(low), [replace(one, below_px=one.below_px - low) for one in found[:LOOKED_AT]]
    parts = [letter.contours for letter in letters]
    letters = letters_of(parts, base)
    made = _fitted(letters, base, index, found, lambda share: tell(0.2 + 0.6 * share))
    if not made:
        raise LetteringError("None of the typefaces can be laid on these letters.")
    base = through(_feet(made[0]), base)
    again = {one.face: one for one in made[:TRIED_AGAIN]}
    others = {index.faces[one.face]: one.others for one in found}
    places = [_again(index, one, others[one.face]) for one in again.values()]
    letters = letters_of(parts, base)
    closer = _fitted(letters, base, index, places, lambda share: tell(0.8 + 0.1 * share), wanted is None) or made
    if closer[0].deviation_px <= made[0].deviation_px:
        base = through(_feet(closer[0]), base)
    seen = {one.face for one in closer}
    every = closer + [one for one in made if one.face not in seen]
    return [replace(one, baseline=base) for one in sorted(every, key=lambda one: one.deviation_px)]


def _feet(one: Match) -> F64:
    """Where on the base line the middles of a match's letters stand, (n, 2)."""
    feet = []
    for glyph in one.letters:
        line, _ = _outline(one.face, glyph.character)
        by = 0.5 * one.size_px * float(line[:, 0].min() + line[:, 0].max())
        turn = math.radians(glyph.turn_deg)
        feet.append((glyph.x + by * math.cos(turn), glyph.y + by * math.sin(turn)))
    return np.array(feet)


def _again(index: Index, one: Match, others: tuple[str, ...]) -> _Coarse:
    """What a match says for a closer look."""
    return _Coarse(index.faces.index(one.face), "".join(one.text.split()), one.size_px, 0.0, 0.0, others)


# coarsely


@dataclass(frozen=True, slots=True, eq=False)
class _Glyphs:
    """The glyphs of an index that letters may be: by face, their characters, fields 0–1, boxes and proportions."""

    faces: NDArray[np.int64]
    own: NDArray[np.int64]
    codes: NDArray[np.int32]
    fields: F32
    squares: F32
    boxes: F32

    @classmethod
    def of(cls, index: Index, text: str | None) -> _Glyphs:
        wanted = np.isin(index.codes, [ord(c) for c in (PROPOSED if text is None else set(text))])
        rows = np.flatnonzero(wanted)
        faces, own = np.unique(np.searchsorted(index.starts, rows, side="right") - 1, return_inverse=True)
        fields = index.fields[rows].astype(np.float32) / np.float32(255.0)
        squares = np.einsum("ij,ij->i", fields, fields)
        return cls(faces, own, index.codes[rows], fields, squares, index.boxes[rows])


def _whole(letters: list[Letter], glyphs: _Glyphs, baseline: Baseline, text: str | None) -> list[Letter]:
    """Letters with those joined that came in two parts: together they are like a glyph, alone one of them is not."""
    if len(letters) < 2 or not len(glyphs.codes) or len(letters) == len(text or ""):
        return letters
    height = float(np.median([letter.box[3] - letter.box[1] for letter in letters]))
    alone = _apart(letters, glyphs).min(axis=1)
    pairs = [joined(a, b, baseline) for a, b in pairwise(letters)]
    together = _apart(pairs, glyphs).min(axis=1)
    made: list[Letter] = []
    k = 0
    while k < len(letters):
        is_pair = False
        if k + 1 < len(letters):
            gap = (letters[k + 1].along_px + letters[k + 1].box[0]) - (letters[k].along_px + letters[k].box[2])
            worse = max(alone[k], alone[k + 1])
            is_pair = bool(gap < PARTED * height and worse > UNLIKE_ANY and together[k] < TOGETHER * worse)
        if is_pair:
            made.append(pairs[k])
        else:
            made += _touching(letters[k], float(alone[k]), glyphs, baseline)
        k += 2 if is_pair else 1
    return made


def _touching(letter: Letter, alone: float, glyphs: _Glyphs, baseline: Baseline) -> list[Letter]:
    """A letter, or the two that touch in it: each of them is like a glyph, both together are not."""
    if alone < UNLIKE_ANY or letter.box[2] - letter.box[0] < WIDE * (letter.box[3] - letter.box[1]):
        return [letter]
    cuts = [parts for at in letter.necks() if (parts := parted(letter, at, baseline)) is not None]
    costs = [float(_apart(parts, glyphs).min(axis=1).max()) for parts in cuts]
    if not costs or min(costs) > TOGETHER * alone:
        return [letter]
    return list(cuts[int(np.argmin(costs))])


def _coarse(letters: Sequence[Letter], glyphs: _Glyphs, text: str | None) -> list[_Coarse]:
    """All faces that have the letters, the likeliest first."""
    if not len(glyphs.codes) or not letters:
        return []
    apart = _apart(letters, glyphs)
    if text is not None:
        for k, character in enumerate(text):
            apart[k, glyphs.codes != ord(character)] = np.inf
    counts = np.bincount(glyphs.own)
    first = np.cumsum(counts) - counts
    table = np.full((len(letters), len(counts), int(counts.max())), np.inf, dtype=np.float32)
    table[:, glyphs.own, np.arange(len(glyphs.own)) - first[glyphs.own]] = apart
    few = min(CANDIDATES, table.shape[2])
    chosen = np.argpartition(table, few - 1, axis=2)[:, :, :few]
    costs = np.take_along_axis(table, chosen, axis=2)
    glyph = np.minimum(first[None, :, None] + chosen, len(glyphs.codes) - 1)
    cost, size, below, order = _sized(letters, costs, glyphs.boxes[glyph])
    found = []
    for f in np.argsort(cost, kind="stable")[:MOST_LOOKED_AT].tolist():
        if not math.isfinite(cost[f]):
            break
        others = tuple(
            "".join(chr(glyphs.codes[glyph[k, f, n]]) for n in order[k, f].tolist() if math.isfinite(costs[k, f, n]))
            for k in range(len(letters))
        )
        characters = "".join(likely[0] for likely in others)
        found.append(_Coarse(int(glyphs.faces[f]), characters, float(size[f]), float(below[f]), float(cost[f]), others))
    return found


def _apart(letters: Sequence[Letter], glyphs: _Glyphs) -> F32:
    """How unlike letters are to glyphs, by fields and proportions: (letters, glyphs)."""
    own = np.array([letter.fields() for letter in letters], dtype=np.float32) / np.float32(255.0)
    squares = (own**2).sum(axis=1)[:, None] + glyphs.squares[None, :]
    squares -= 2.0 * own @ glyphs.fields.T
    boxes = np.array([letter.box for letter in letters], dtype=np.float32)
    aspect = _aspect(boxes)[:, None] - _aspect(glyphs.boxes)[None, :]
    return np.asarray(np.maximum(squares, 0.0) / own.shape[1] + ASPECT * aspect**2, dtype=np.float32)


def _aspect(boxes: F32) -> F32:
    wide, high = boxes[:, 2] - boxes[:, 0], boxes[:, 3] - boxes[:, 1]
    room = 0.05 * np.maximum(wide, high)
    return np.asarray(np.log((wide + room) / (high + room)))


def _sized(letters: Sequence[Letter], costs: F32, boxes: F32) -> tuple[F32, F32, F32, NDArray[np.int64]]:
    """The best size of each face: what it costs, the size, how far the base line is below, and characters in order."""
    count, faces, _ = costs.shape
    high = np.array([letter.box[3] - letter.box[1] for letter in letters], dtype=np.float32)
    foot = np.array([letter.box[3] for letter in letters], dtype=np.float32)
    theirs, bottoms = np.maximum(boxes[..., 3] - boxes[..., 1], 1e-3), boxes[..., 3]
    best = np.full(faces, np.inf, dtype=np.float32)
    size, below = np.ones(faces, dtype=np.float32), np.zeros(faces, dtype=np.float32)
    logs = np.log(high[:, None, None] / theirs)
    likeliest = np.argsort(costs, axis=2)[:, :, :3]
    for k in range(count):
        for n in range(likeliest.shape[2]):
            which = likeliest[k, :, n][:, None]
            log_size = np.take_along_axis(logs[k], which, axis=1)[:, 0]
            scale = np.exp(log_size)
            low = foot[k] - scale * np.take_along_axis(bottoms[k], which, axis=1)[:, 0]
            stands = (foot[:, None, None] - low[None, :, None]) / scale[None, :, None] - bottoms
            every = costs + SIZE * (logs - log_size[None, :, None]) ** 2 + STANDING * stands**2
            least = every.min(axis=2)
            total = np.where(np.isfinite(least), np.minimum(least, CAP), np.inf).mean(axis=0)
            better = total < best
            best, size, below = (
                np.where(better, now, before) for now, before in ((total, best), (scale, size), (low, below))
            )
    stands = (foot[:, None, None] - below[None, :, None]) / size[None, :, None] - bottoms
    every = costs + SIZE * (logs - np.log(size)[None, :, None]) ** 2 + STANDING * stands**2
    return best, size, below, every.argsort(axis=2)


# by outlines


def _fitted(
    letters: Sequence[Letter],
    baseline: Baseline,
    index: Index,
    found: Sequence[_Coarse],
    progress: Progress,
    reads_again: bool = False,
) -> list[Match]:
    """Lay faces on the letters; the nearest first. With `reads_again` it is tried what else letters may be."""
    lines = [_line_of(letter) for letter in letters]
    largest = LARGEST_EM * float(np.median([letter.box[3] - letter.box[1] for letter in letters]))
    made = []
    for n, one in enumerate(found):
        progress(n / len(found))
        if len(one.characters) != len(letters):
            continue
        try:
            laid = _laid(letters, lines, index.faces[one.face], one.characters, one.size_px, one.below_px)
        except LetteringError:
            continue
        if laid is not None and laid[0] <= largest:
            characters = one.characters
            if reads_again and n < READ_AGAIN:
                characters, laid = _read(letters, lines, index.faces[one.face], one, laid)
            made.append(_match(index.faces[one.face], characters, letters, baseline, *laid))
    made.sort(key=lambda match: match.deviation_px)
    return made


Laid = tuple[float, F64, F64]
"""The size, each letter's place and turn (n, 3), and how far it is off (n,)."""


def _read(
    letters: Sequence[Letter], lines: Sequence[list[F64]], face: Face, one: _Coarse, laid: Laid
) -> tuple[str, Laid]:
    """What letters are in a face by their outlines: of all they may be that which is nearest, at the size found."""
    size, _, off = laid
    off_of = [{character: float(away)} for character, away in zip(one.characters, off, strict=True)]
    for n in range(min(max(map(len, one.others), default=0), READ_AS)):
        tried = "".join(likely[min(n, len(likely) - 1)] for likely in one.others)
        found = _laid(letters, lines, face, tried, size, 0.0, True)
        for k, character in enumerate(tried if found is not None else ""):
            away = float(found[2][k])  # type: ignore[index]
            off_of[k][character] = min(away, off_of[k].get(character, math.inf))
    slack = max(ALIKE_PX, ALIKE_EM * size)
    characters = ""
    for k, every in enumerate(off_of):
        nearest = min(every.values())
        if nearest > ODD_EM * size:  # none of them can be laid on it: what it covers tells more
            characters += one.characters[k]
            continue
        like = [character for character, away in every.items() if away <= ALIKE * nearest + slack]
        characters += like[0] if len(like) == 1 else _by_neighbours(one.characters, k, like)
    if characters == one.characters:
        return characters, laid
    again = _laid(letters, lines, face, characters, size, 0.0)
    if again is None or again[2].mean() > laid[2].mean() + slack:
        return one.characters, laid
    return characters, again


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


def _line_of(letter: Letter) -> list[F64]:
    """A letter's outlines as points, closed, from its foot."""
    long = sum(len(contour.sampled(1.0)) for contour in letter.contours)
    return [letter.own(contour.sampled(max(long / POINTS, 0.35))) for contour in letter.contours]


@lru_cache(maxsize=4096)
def _outline(face: Face, character: str) -> tuple[F64, F64]:
    """Segments along a glyph's outline, in its em."""
    lines = [contour.sampled(SPACING_EM) for contour in glyphs_of(face).contours(character)]
    if not lines:
        raise LetteringError(f"“{character}” is empty in {face.name}.")
    return np.concatenate(lines), np.concatenate([following(line) for line in lines])


def _laid(
    letters: Sequence[Letter],
    lines: Sequence[list[F64]],
    face: Face,
    characters: str,
    size: float,
    below: float,
    holds_size: bool = False,
) -> Laid | None:
    """Lay a face's glyphs on letters: the size, each one's place and turn (n, 3), and how far it is off (n,)."""
    outlines = [_outline(face, character) for character in characters]
    shift = np.zeros((len(letters), 2))
    shift[:, 0] = APART_EM * np.arange(len(letters))
    starts = np.concatenate([a + s for (a, _), s in zip(outlines, shift, strict=True)])
    ends = np.concatenate([b + s for (_, b), s in zip(outlines, shift, strict=True)])
    points = np.concatenate([np.concatenate(line) for line in lines])
    own = np.repeat(np.arange(len(letters)), [sum(map(len, line)) for line in lines])
    middle = np.array([[0.5 * (a[:, 0].min() + a[:, 0].max()), a[:, 1].max()] for a, _ in outlines])
    box = np.array([letter.box for letter in letters])
    places = np.zeros((len(letters), 3))
    places[:, 0] = 0.5 * (box[:, 0] + box[:, 2]) - size * middle[:, 0]
    places[:, 1] = below
    log_size = math.log(size)
    for turn in range(ROUNDS):
        seen = _in_em(points, own, places, log_size)
        stray = max(FIRST_STRAY_EM * 0.5**turn, STRAY_PX * math.exp(-log_size), STRAY_EM)
        step = _step(seen, own, shift, starts, ends, places, math.exp(log_size), stray, holds_size)
        if step is None:
            return None
        places += step[0]
        log_size += 0.0 if holds_size else step[1]
        if turn > 3 and np.abs(step[0][:, :2]).max() < 0.005 and abs(step[1]) < 1e-5:
            break
    seen = _in_em(points, own, places, log_size)
    forth, _ = nearest_segments(np.ascontiguousarray(seen + shift[own]), starts, ends, REACH_EM)
    rings = np.concatenate([np.full(len(ring), k) for k, ring in enumerate(r for line in lines for r in line)])
    after = np.concatenate([seen[rings == k][np.r_[1 : (rings == k).sum(), 0]] for k in range(int(rings[-1]) + 1)])
    theirs = np.repeat(np.arange(len(letters)), [len(a) for a, _ in outlines])
    back, _ = nearest_segments(starts, np.ascontiguousarray(seen + shift[own]), after + shift[own], REACH_EM)
    forth, back = np.minimum(forth, REACH_EM), np.minimum(back, REACH_EM)
    each = 0.5 * (
        np.bincount(own, forth, len(letters)) / np.bincount(own, minlength=len(letters))
        + np.bincount(theirs, back, len(letters)) / np.bincount(theirs, minlength=len(letters))
    )
    size = math.exp(log_size)
    return size, places, each * size


def _in_em(points: F64, own: NDArray[np.int64], places: F64, log_size: float) -> F64:
    """Points of letters as the glyphs laid on them have them."""
    off = (points - places[own, :2]) / math.exp(log_size)
    c, s = np.cos(places[own, 2]), np.sin(places[own, 2])
    return np.stack([off[:, 0] * c + off[:, 1] * s, off[:, 1] * c - off[:, 0] * s], axis=1)


def _step(
    seen: F64,
    own: NDArray[np.int64],
    shift: F64,
    starts: F64,
    ends: F64,
    places: F64,
    size: float,
    stray: float,
    holds_size: bool,
) -> tuple[F64, float] | None:
    """One step of Gauss-Newton: changes of places and turns, and of the logarithm of the size."""
    count = len(places)
    _, nearest = nearest_segments(np.ascontiguousarray(seen + shift[own]), starts, ends, REACH_EM)
    near = nearest >= 0
    if near.sum() < 3 * count:
        return None
    q, mine, segment = seen[near], own[near], nearest[near]
    way = ends[segment] - starts[segment]
    way /= np.maximum(np.hypot(way[:, 0], way[:, 1]), 1e-9)[:, None]
    normal = np.stack([-way[:, 1], way[:, 0]], axis=1)
    off = (normal * (q + shift[mine] - starts[segment])).sum(axis=1)
    weight = 1.0 / (1.0 + (off / stray) ** 2) ** 2
    c, s = np.cos(places[mine, 2]), np.sin(places[mine, 2])
    # how the distance changes with the place, the turn and the size
    rows = np.stack(
        [
            -(normal[:, 0] * c - normal[:, 1] * s) / size,
            -(normal[:, 0] * s + normal[:, 1] * c) / size,
            normal[:, 0] * q[:, 1] - normal[:, 1] * q[:, 0],
            -(normal * q).sum(axis=1),
        ],
        axis=1,
    )
    counts = np.bincount(mine, minlength=count)
    if counts.min() < 3:
        return None
    firsts = np.cumsum(counts) - counts
    weighted = rows * weight[:, None]
    blocks = np.add.reduceat(weighted[:, :, None] * rows[:, None, :], firsts, axis=0)
    sums = np.add.reduceat(weighted * off[:, None], firsts, axis=0)
    stiff = np.add.reduceat(weight, firsts) * (TURN_EM / TURN_RAD) ** 2
    blocks[:, 2, 2] += stiff
    sums[:, 2] += stiff * places[:, 2]
    last = 3 * count
    normal_matrix, right = np.zeros((last + 1, last + 1)), np.zeros(last + 1)
    at = 3 * np.arange(count)[:, None] + np.arange(3)
    normal_matrix[at[:, :, None], at[:, None, :]] = blocks[:, :3, :3]
    normal_matrix[last, :last] = normal_matrix[:last, last] = blocks[:, :3, 3].ravel()
    normal_matrix[last, last] = blocks[:, 3, 3].sum()
    right[:last], right[last] = -sums[:, :3].ravel(), -sums[:, 3].sum()
    normal_matrix[np.diag_indices_from(normal_matrix)] += 1e-9
    if holds_size:
        normal_matrix[last, :last] = normal_matrix[:last, last] = right[last] = 0.0
    found = np.linalg.solve(normal_matrix, right)
    moved = found[:-1].reshape(count, 3)
    return np.clip(moved, [-0.5 * size, -0.5 * size, -0.1], [0.5 * size, 0.5 * size, 0.1]), float(
        np.clip(found[-1], -0.2, 0.2)
    )


def _match(
    face: Face, characters: str, letters: Sequence[Letter], baseline: Baseline, size: float, places: F64, off: F64
) -> Match:
    usual = max(float(np.median(off)), 0.004 * size)
    placed = []
    for letter, character, (dx, dy, turn), away in zip(letters, characters, places, off, strict=True):
        base = math.radians(letter.turn_deg)
        x = letter.foot[0] + dx * math.cos(base) - dy * math.sin(base)
        y = letter.foot[1] + dx * math.sin(base) + dy * math.cos(base)
        turned = letter.turn_deg + math.degrees(turn)
        placed.append(PlacedGlyph(character, float(x), float(y), turned, float(away), bool(away <= UNSURE * usual)))
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


def told_of(one: Match) -> str:
    """Return in words how near a face is to lettering: the same, close but for some letters, or only near."""
    off = f"{one.deviation_px:.2f} px"
    if one.deviation_px <= max(SAME_PX, SAME_EM * one.size_px):
        return f"within {off}: the same"
    limit = 2.0 * float(np.median([glyph.deviation_px for glyph in one.letters]))
    other = sorted({glyph.character for glyph in one.letters if glyph.deviation_px > limit})
    if one.deviation_px <= CLOSE_EM * one.size_px:
        return f"close, {off}: other {' and '.join(other)}" if 0 < len(other) <= 3 else f"close, {off}"
    return f"only near, {off}"
