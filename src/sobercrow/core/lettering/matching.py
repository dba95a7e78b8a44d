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

import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F32, F64, following
from sobercrow.core.artwork.model import Shape
from sobercrow.core.errors import LetteringError
from sobercrow.core.geometry._nearest_kernels import nearest_segments
from sobercrow.core.lettering.baseline import Baseline, proposed, through
from sobercrow.core.lettering.glyphs import glyphs_of
from sobercrow.core.lettering.index import PROPOSED, Index
from sobercrow.core.lettering.letters import Letter, letters_on, middles_of, words_of
from sobercrow.core.lettering.typefaces import Face

CANDIDATES, LOOKED_AT, TRIED_AGAIN = 6, 32, 8
"""Characters a letter may be in each face; faces compared by outlines, and once more on the base line found."""
ASPECT, SIZE, STANDING, CAP = 0.12, 1.0, 1.2, 0.25
"""What differences of proportion, height and standing weigh against those of covered fields; at most, a letter."""
SPACING_EM, POINTS = 0.012, 150
"""Points on glyphs, and at most so many on a letter."""
ROUNDS, REACH_EM, APART_EM = 10, 0.35, 8.0
STRAY_PX, STRAY_EM = 0.5, 0.012
TURN_RAD, TURN_EM = 0.02, 0.004
"""A letter may be turned by about so much against the base line, where that makes about such a difference."""
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
    """A face, what its letters would be, the size, how far the base line lies below, and what it costs."""

    face: int
    characters: str
    size_px: float
    below_px: float
    cost: float


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
    best: tuple[float, Baseline, list[Letter], list[_Coarse]] | None = None
    for one in [baseline] if baseline is not None else proposed(*middles_of(shapes), arcs):
        letters = letters_on(shapes, one)
        if wanted is not None and len(wanted) != len(letters):
            continue
        found = _coarse(letters, index, wanted)
        if found and (best is None or found[0].cost < best[0]):
            best = found[0].cost, one, letters, found
        tell(0.1)
    if best is None:
        count = len(letters_on(shapes, proposed(*middles_of(shapes), arcs)[0]))
        if wanted is not None:
            raise LetteringError(f"The text has {len(wanted)} letters, the lettering {count}; they have to be as many.")
        raise LetteringError("None of the typefaces has these letters.")
    _, base, _, found = best
    low = found[0].below_px
    base, found = base.lowered(low), [replace(one, below_px=one.below_px - low) for one in found[:LOOKED_AT]]
    made = _fitted(letters_on(shapes, base), base, index, found, lambda share: tell(0.2 + 0.6 * share))
    if not made:
        raise LetteringError("None of the typefaces can be laid on these letters.")
    base = through(np.array([(g.x, g.y) for g in made[0].letters]), base)
    again = {one.face: one for one in made[:TRIED_AGAIN]}
    places = [_again(index, one) for one in again.values()]
    letters = letters_on(shapes, base)
    made = _fitted(letters, base, index, places, lambda share: tell(0.8 + 0.2 * share)) or made
    seen = {one.face for one in made}
    return made + [replace(one, baseline=base) for one in again.values() if one.face not in seen]


def _again(index: Index, one: Match) -> _Coarse:
    """What a match says for a closer look."""
    return _Coarse(index.faces.index(one.face), "".join(one.text.split()), one.size_px, 0.0, 0.0)


# coarsely


def _coarse(letters: Sequence[Letter], index: Index, text: str | None) -> list[_Coarse]:
    """All faces that have the letters, the likeliest first."""
    rows = np.flatnonzero(np.isin(index.codes, [ord(c) for c in (PROPOSED if text is None else set(text))]))
    face_of = np.searchsorted(index.starts, rows, side="right") - 1
    usable, own = np.unique(face_of, return_inverse=True)
    if not len(rows) or not letters:
        return []
    apart = _apart(letters, index, rows)
    if text is not None:
        for k, character in enumerate(text):
            apart[k, index.codes[rows] != ord(character)] = np.inf
    counts = np.bincount(own)
    place = np.arange(len(rows)) - np.repeat(np.cumsum(counts) - counts, counts)
    table = np.full((len(letters), len(usable), int(counts.max())), np.inf, dtype=np.float32)
    table[:, own, place] = apart
    first = np.cumsum(counts) - counts
    few = min(CANDIDATES, table.shape[2])
    chosen = np.argpartition(table, few - 1, axis=2)[:, :, :few]
    costs = np.take_along_axis(table, chosen, axis=2)
    glyph = rows[np.minimum(first[None, :, None] + chosen, len(rows) - 1)]
    boxes = index.boxes[glyph]
    cost, size, below, pick = _sized(letters, costs, boxes)
    order = np.argsort(cost, kind="stable")
    found = []
    for f in order.tolist():
        if not math.isfinite(cost[f]):
            break
        characters = "".join(chr(index.codes[glyph[k, f, pick[k, f]]]) for k in range(len(letters)))
        found.append(_Coarse(int(usable[f]), characters, float(size[f]), float(below[f]), float(cost[f])))
    return found


def _apart(letters: Sequence[Letter], index: Index, rows: NDArray[np.int64]) -> F32:
    """How unlike letters are to glyphs, by fields and proportions: (letters, glyphs)."""
    own = np.array([letter.fields() for letter in letters], dtype=np.float32) / 255.0
    theirs = index.fields[rows].astype(np.float32) / np.float32(255.0)
    squares = (own**2).sum(axis=1)[:, None] + (theirs**2).sum(axis=1)[None, :] - 2.0 * own @ theirs.T
    boxes = np.array([letter.box for letter in letters], dtype=np.float32)
    aspect = _aspect(boxes)[:, None] - _aspect(index.boxes[rows])[None, :]
    return np.asarray(np.maximum(squares, 0.0) / own.shape[1] + ASPECT * aspect**2, dtype=np.float32)


def _aspect(boxes: F32) -> F32:
    wide, high = boxes[:, 2] - boxes[:, 0], boxes[:, 3] - boxes[:, 1]
    room = 0.05 * np.maximum(wide, high)
    return np.asarray(np.log((wide + room) / (high + room)))


def _sized(
    letters: Sequence[Letter], costs: F32, boxes: F32
) -> tuple[F32, F32, F32, NDArray[np.int64]]:
    """The best size of each face: what it costs, the size, how far the base line is below, and which characters."""
    count, faces, few = costs.shape
    high = np.array([letter.box[3] - letter.box[1] for letter in letters], dtype=np.float32)
    foot = np.array([letter.box[3] for letter in letters], dtype=np.float32)
    theirs, bottoms = np.maximum(boxes[..., 3] - boxes[..., 1], 1e-3), boxes[..., 3]
    best = np.full(faces, np.inf, dtype=np.float32)
    size, below = np.ones(faces, dtype=np.float32), np.zeros(faces, dtype=np.float32)
    pick = np.zeros((count, faces), dtype=np.int64)
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
            chosen = every.argmin(axis=2)
            least = np.take_along_axis(every, chosen[..., None], axis=2)[..., 0]
            total = np.where(np.isfinite(least), np.minimum(least, CAP), np.inf).mean(axis=0)
            better = total < best
            best, size, below = (
                np.where(better, now, before)
                for now, before in ((total, best), (scale, size), (low, below))
            )
            pick = np.where(better[None, :], chosen, pick)
    return best, size, below, pick


# by outlines


def _fitted(
    letters: Sequence[Letter],
    baseline: Baseline,
    index: Index,
    found: Sequence[_Coarse],
    progress: Progress,
) -> list[Match]:
    """Lay faces on the letters; the nearest first."""
    lines = [_line_of(letter) for letter in letters]
    made = []
    for n, one in enumerate(found):
        progress(n / len(found))
        if len(one.characters) != len(letters):
            continue
        try:
            laid = _laid(letters, lines, index.faces[one.face], one.characters, one.size_px, one.below_px)
        except LetteringError:
            continue
        if laid is not None:
            made.append(_match(index.faces[one.face], one.characters, letters, baseline, *laid))
    made.sort(key=lambda match: match.deviation_px)
    return made


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
    letters: Sequence[Letter], lines: Sequence[list[F64]], face: Face, characters: str, size: float, below: float
) -> tuple[float, F64, F64] | None:
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
    for _ in range(ROUNDS):
        seen = _in_em(points, own, places, log_size)
        step = _step(seen, own, shift, starts, ends, places, math.exp(log_size))
        if step is None:
            return None
        places += step[0]
        log_size += step[1]
        if np.abs(step[0][:, :2]).max() < 0.002 and abs(step[1]) < 1e-5:
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
    seen: F64, own: NDArray[np.int64], shift: F64, starts: F64, ends: F64, places: F64, size: float
) -> tuple[F64, float] | None:
    """One step of Gauss-Newton: changes of places and turns, and of the logarithm of the size."""
    count = len(places)
    away, nearest = nearest_segments(np.ascontiguousarray(seen + shift[own]), starts, ends, REACH_EM)
    near = nearest >= 0
    if near.sum() < 3 * count:
        return None
    q, mine, segment = seen[near], own[near], nearest[near]
    way = ends[segment] - starts[segment]
    way /= np.maximum(np.hypot(way[:, 0], way[:, 1]), 1e-9)[:, None]
    normal = np.stack([-way[:, 1], way[:, 0]], axis=1)
    off = (normal * (q + shift[mine] - starts[segment])).sum(axis=1)
    stray = max(STRAY_PX / size, STRAY_EM)
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
    normal_matrix = np.zeros((3 * count + 1, 3 * count + 1))
    right = np.zeros(3 * count + 1)
    for k in range(count):
        of = mine == k
        if of.sum() < 3:
            return None
        a, w, e = rows[of], weight[of], off[of]
        at = [3 * k, 3 * k + 1, 3 * k + 2, 3 * count]
        normal_matrix[np.ix_(at, at)] += (a * w[:, None]).T @ a
        right[at] -= (a * w[:, None]).T @ e
        stiff = w.sum() * (TURN_EM / TURN_RAD) ** 2
        normal_matrix[3 * k + 2, 3 * k + 2] += stiff
        right[3 * k + 2] -= stiff * places[k, 2]
    normal_matrix[np.diag_indices_from(normal_matrix)] += 1e-9
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
        placed.append(
            PlacedGlyph(character, float(x), float(y), turned, float(away), bool(away <= UNSURE * usual))
        )
    words = words_of(letters)
    text = " ".join("".join(characters[k] for k in word) for word in words)
    return Match(face, text, size, tuple(placed), baseline, float(off.mean()))
