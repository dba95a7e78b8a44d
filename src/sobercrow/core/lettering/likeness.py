"""Which characters of which faces letters are like: all are compared at once, coarsely.

A letter is what it covers of its box, its box's proportions, and how high it is and stands among the others; a face is
tried at the sizes its own letters suggest.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F32
from sobercrow.core.lettering.baseline import Baseline
from sobercrow.core.lettering.index import PROPOSED, Index
from sobercrow.core.lettering.letters import Letter, joined, parted

CANDIDATES, MOST_FACES = 6, 40
"""Characters a letter may be in each face; faces that are told."""
ASPECT, SIZE, STANDING, CAP = 0.12, 1.0, 1.2, 0.25
"""What differences of proportion, height and standing weigh against those of covered fields; at most, a letter."""
PARTED, UNLIKE_ANY, TOGETHER = 0.14, 0.008, 0.5
"""Letters nearer to each other, as a share of their height, may be one in two parts, if one of them is less like any
glyph than this and both together are so much more like one."""
WIDE = 0.7
"""Letters that touch are together wider than this share of their height."""


@dataclass(frozen=True, slots=True, eq=False)
class Coarse:
    """A face, what its letters would be, the size, how far the base line lies below, and what it costs; and for each
    letter all that it may be, the likeliest first."""

    face: int
    characters: str
    size_px: float
    below_px: float
    cost: float
    others: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, eq=False)
class GlyphTable:
    """The glyphs of an index that letters may be: by face, their characters, fields 0–1, and boxes."""

    faces: NDArray[np.int64]
    own: NDArray[np.int64]
    codes: NDArray[np.int32]
    fields: F32
    squares: F32
    boxes: F32

    @classmethod
    def of(cls, index: Index, text: str | None = None) -> GlyphTable:
        """Take those of a text, or all that letters are proposed among."""
        wanted = np.isin(index.codes, [ord(c) for c in (PROPOSED if text is None else set(text))])
        rows = np.flatnonzero(wanted)
        faces, own = np.unique(np.searchsorted(index.starts, rows, side="right") - 1, return_inverse=True)
        fields = index.fields[rows].astype(np.float32) / np.float32(255.0)
        squares = np.einsum("ij,ij->i", fields, fields)
        return cls(faces, own, index.codes[rows], fields, squares, index.boxes[rows])

    def of_face(self, face: int) -> GlyphTable:
        """Return those of one face, by its number in the index."""
        mine = self.faces[self.own] == face
        own = np.zeros(int(mine.sum()), dtype=np.int64)
        kept = self.codes[mine], self.fields[mine], self.squares[mine], self.boxes[mine]
        return GlyphTable(np.array([face]), own, *kept)


def whole(letters: list[Letter], glyphs: GlyphTable, baseline: Baseline, text: str | None) -> tuple[list[Letter], F32]:
    """Return letters with those joined that came in two parts, and those parted that touch; and how unlike they are.

    Two parts are one letter if together they are like a glyph and alone one of them is not; the other way round for two
    letters that touch. Nothing is changed if there are as many as in the `text`.
    """
    unlike = how_unlike(letters, glyphs)
    if not unlike.size or len(letters) == len(text or ""):
        return letters, unlike
    height = float(np.median([letter.box[3] - letter.box[1] for letter in letters]))
    alone = unlike.min(axis=1)
    pairs = [joined(a, b, baseline) for a, b in pairwise(letters)]
    of_pairs = how_unlike(pairs, glyphs)
    together = of_pairs.min(axis=1)
    cuts = _cuts(letters, alone, glyphs, baseline)
    made: list[Letter] = []
    rows: list[F32] = []
    k = 0
    while k < len(letters):
        is_pair = False
        if k + 1 < len(letters):
            gap = (letters[k + 1].along_px + letters[k + 1].box[0]) - (letters[k].along_px + letters[k].box[2])
            worse = max(alone[k], alone[k + 1])
            is_pair = bool(gap < PARTED * height and worse > UNLIKE_ANY and together[k] < TOGETHER * worse)
        if is_pair:
            made.append(pairs[k])
            rows.append(of_pairs[k : k + 1])
        elif k in cuts:
            made += cuts[k][0]
            rows.append(cuts[k][1])
        else:
            made.append(letters[k])
            rows.append(unlike[k : k + 1])
        k += 2 if is_pair else 1
    return made, np.concatenate(rows)


def _cuts(
    letters: Sequence[Letter], alone: F32, glyphs: GlyphTable, baseline: Baseline
) -> dict[int, tuple[tuple[Letter, Letter], F32]]:
    """Letters that are two that touch, and how unlike these are: each is like a glyph, both together are not."""
    tried = [
        (k, parts)
        for k, letter in enumerate(letters)
        if alone[k] >= UNLIKE_ANY and letter.box[2] - letter.box[0] >= WIDE * (letter.box[3] - letter.box[1])
        for at in letter.necks()
        if (parts := parted(letter, at, baseline)) is not None
    ]
    unlike = how_unlike([part for _, parts in tried for part in parts], glyphs)
    costs = unlike.min(axis=1).reshape(-1, 2).max(axis=1) if tried else np.zeros(0)
    best: dict[int, int] = {}
    for n, (k, _) in enumerate(tried):
        if costs[n] <= TOGETHER * alone[k] and (k not in best or costs[n] < costs[best[k]]):
            best[k] = n
    return {k: (tried[n][1], unlike[2 * n : 2 * n + 2]) for k, n in best.items()}


def alike_faces(letters: Sequence[Letter], apart: F32, glyphs: GlyphTable, text: str | None) -> list[Coarse]:
    """Return the faces that have letters which are so unlike (letters, glyphs) to glyphs, the likeliest first."""
    if not apart.size:
        return []
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
    for f in np.argsort(cost, kind="stable")[:MOST_FACES].tolist():
        if not math.isfinite(cost[f]):
            break
        others = tuple(
            "".join(chr(glyphs.codes[glyph[k, f, n]]) for n in order[k, f].tolist() if math.isfinite(costs[k, f, n]))
            for k in range(len(letters))
        )
        characters = "".join(likely[0] for likely in others)
        found.append(Coarse(int(glyphs.faces[f]), characters, float(size[f]), float(below[f]), float(cost[f]), others))
    return found


def how_unlike(letters: Sequence[Letter], glyphs: GlyphTable) -> F32:
    """Return how unlike letters are to glyphs, by fields and proportions: (letters, glyphs)."""
    if not letters:
        return np.zeros((0, len(glyphs.codes)), dtype=np.float32)
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
