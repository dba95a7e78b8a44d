"""Which inks there are: found among the flat colours of a picture, proved by parting it with them."""

from __future__ import annotations

from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F32, F64, U8, U64, frozen
from sobercrow.core.cleanup.flat_picture import CLEAN, SNAPPED, FlatColours, Strokes, with_strokes
from sobercrow.core.errors import SettingError
from sobercrow.core.history.planes import luma_chroma_of, rgb_of
from sobercrow.core.inks._colour_kernels import count_flat, crowd_weights, nearest_centres
from sobercrow.core.inks._label_kernels import inner_sums
from sobercrow.core.inks._mixture_kernels import unexplained
from sobercrow.core.inks.colour import lab_of, pairwise_ciede2000, rgb_of_lab
from sobercrow.core.inks.flat import flat_colours
from sobercrow.core.inks.labels import nearest_members, noise_of
from sobercrow.core.inks.mixer import Mixer
from sobercrow.core.parallel import in_strips

WORKING_PIXELS = 100_000
"""Inks are proved on a picture of at most so many pixels."""
MOST_PROPOSED = 16
LONGEST_CURVE = 12
MOST_CELLS = 2048
COMMON_SHARE = 0.004
DIRT_WEIGHT = 9.0
STRANGERS = 800
SUPPORT = 0.12
"""So many pixels of like colour, as a share of the least an ink holds, make a colour worth trying."""
CROWD = 8.0
"""Colours this near to one, in L*a*b*, are of its like."""
MOST_SOUGHT = 4
"""So often colours left unexplained are looked for."""
PLENTY = 1500
"""Of an ink with more pixels than this every ninth is enough to judge it by."""
LEAST_SHARE = 0.002
"""An ink holds at least this share of the picture."""
NEAREST_TINTS, FURTHEST_TINTS = 4.0, 11.0
"""Colours nearer than this, in ΔE00, are one ink: in a clean picture, and in the dirtiest."""
FURTHEST_FLAT_TINTS = 6.5
"""The same in a compressed digital graphic, whose dirt lies beside edges."""


@dataclass(frozen=True, slots=True, eq=False)
class Colours:
    """The flat colours of a picture and the inks proposed for it.

    Attributes
    ----------
    cells : (n, 3) float64
        Colours that occur in flat areas, sRGB values.
    weights : (n,) float64
        How many pixels have them.
    proposed : (m, 3) float64
        The inks proposed, the one with most pixels first.
    holdings : (m,) float64
        How many pixels they hold.
    noise : float
        How much flat colour wavers, as a standard deviation in sRGB values.
    dirt : float
        How far flat colours stray from the common ones, in ΔE00; nothing in a clean picture.
    errors : (k,) float64
        The mean ΔE00 of flat colours to the nearest of 1, 2, 3 … inks.
    digital : bool
        They are those of a digital graphic.
    shaded : bool
        Tones run into each other: there is no count that is right.
    """

    cells: F64
    weights: F64
    proposed: F64
    holdings: F64
    noise: float
    dirt: float
    shaded: bool
    errors: F64
    digital: bool = False

    def inks(self, count: int | None, given: F64 | None = None, rounds: int = 12) -> F64:
        """Return so many inks, those given among them and first; None takes as many as are proposed.

        `rounds` bounds how long k-means, where it is needed, goes on.

        Raises
        ------
        SettingError
            If the picture has fewer colours.
        """
        fixed = np.empty((0, 3)) if given is None else given
        if count is not None and count <= len(fixed):
            return fixed
        if count is None or (count <= len(self.proposed) and not self.shaded):
            return _joined(fixed, self._proposed_beside(fixed), self.holdings, count)
        if count == len(self.proposed) and not len(fixed):
            return self.proposed
        return self._clusters(count, fixed, rounds)

    def _proposed_beside(self, fixed: F64) -> F64:
        if not len(fixed):
            return self.proposed
        away = pairwise_ciede2000(lab_of(self.proposed), lab_of(fixed)).min(axis=1)
        return np.asarray(self.proposed[away > NEAREST_TINTS])

    def _clusters(self, count: int, fixed: F64, rounds: int) -> F64:
        """k-means in L*a*b* (Lloyd 1982), started from the proposed inks and the colours worst served by them."""
        lab, held = lab_of(self.cells), len(fixed)
        start = fixed if self.shaded else np.concatenate([fixed, self._proposed_beside(fixed)])[:count]
        if not len(start):
            start = self.cells[[int(self.weights.argmax())]]
        centres = lab_of(start)
        while len(centres) < count:
            away = pairwise_ciede2000(lab, centres).min(axis=1)
            if away.max() < 1.0:
                raise SettingError(
                    f"The picture has no more than {len(centres)} colours that can be told apart; ask for fewer inks."
                )
            centres = np.concatenate([centres, lab[[int((away**2 * self.weights).argmax())]]])
        centres = lloyd(lab, self.weights, centres, held, rounds)
        return np.concatenate([fixed, rgb_of_lab(centres[held:])])

    def curve(self) -> F64:
        """Work out `errors`, as long as there are colours."""
        lab, errors = lab_of(self.cells), []
        for count in range(1, max(LONGEST_CURVE, min(len(self.proposed) + 3, MOST_PROPOSED)) + 1):
            try:
                inks = self.inks(count, rounds=3)
            except SettingError:
                break
            away = pairwise_ciede2000(lab, lab_of(inks)).min(axis=1)
            errors.append(float(np.average(away, weights=self.weights)))
        return np.array(errors)


def lloyd(points: F64, weights: F64, centres: F64, held: int = 0, rounds: int = 12) -> F64:
    """Return the centres (k, 3) of weighted points (n, 3) after rounds of k-means; the first `held` stay in place."""
    own = np.empty(len(points), dtype=np.int64)
    for _ in range(rounds):
        nearest_centres(points, centres, own)
        total = np.bincount(own, weights, len(centres))
        moved = np.stack([np.bincount(own, weights * points[:, k], len(centres)) for k in range(3)], axis=1)
        new = np.where(total[:, None] > 0, moved / np.maximum(total, 1e-9)[:, None], centres)
        new[:held] = centres[:held]
        if np.abs(new - centres).max() < 0.05:
            return new
        centres = new
    return centres


def _joined(fixed: F64, found: F64, holdings: F64, count: int | None) -> F64:
    """Inks given and found; of those found the ones least missed join others until there are so many."""
    weights = list(holdings[: len(found)])
    kept = list(found)
    while count is not None and len(fixed) + len(kept) > max(count, 1):
        everything = lab_of(np.array([*fixed, *kept]))
        away = pairwise_ciede2000(everything, everything)
        np.fill_diagonal(away, np.inf)
        missed = away.min(axis=1)[len(fixed) :] * np.array(weights) ** 0.3
        least = int(missed.argmin())
        del kept[least], weights[least]
    return np.array([*fixed, *kept]).reshape(-1, 3)


def read_colours(pixels: U8, digital: bool = False, compressed: bool = False, restored: bool = False) -> Colours:
    """Find the flat colours of a picture (h, w, 3) and propose inks for it.

    Those of a clean digital graphic are inks as they are, however like another. Else, and beside them, peaks among
    the flat colours are candidates. The picture is parted with them, its soft edges unmixed; colours left
    unexplained become candidates too, and candidates that then hold hardly anything of their own are dropped. One that
    was `restored` from its compression has been drawn in flat colours and mixtures of two of them.
    """
    noise = noise_of(pixels)
    cells, weights = _flat_cells(pixels, int(max(6, 2 * noise)))
    lab = lab_of(cells)
    dirt = _dirt(lab, weights)
    apart = min(max(NEAREST_TINTS, 2.0 + DIRT_WEIGHT * dirt), FURTHEST_TINTS)
    if digital and compressed:
        apart = min(apart, FURTHEST_FLAT_TINTS)
    peaks = _peaks(lab, weights, apart)
    small = _reduced(pixels)
    sure = flat_colours(small if compressed else pixels, compressed) if digital else None
    if sure is not None and len(sure) and not compressed:
        sure = _with_stroke_colours(sure, small, SNAPPED if restored else CLEAN)
    inks, holdings = _proved(small, cells[peaks], noise, apart, dirt, sure)
    away = pairwise_ciede2000(lab, lab_of(inks)).min(axis=1)
    shaded = bool(np.average(away, weights=weights) > 4.0)
    held = frozen(cells), frozen(weights), frozen(inks), frozen(holdings)
    found = Colours(*held, noise, dirt, shaded, np.zeros(0), digital)
    return replace(found, errors=frozen(found.curve()))


def _with_stroke_colours(sure: F64, pixels: U8, known_by: Strokes) -> F64:
    """Colours (n, 3) of flat places, and those that only strokes too thin to be flat anywhere have."""
    places = luma_chroma_of(np.rint(sure).astype(np.uint8)[None])[:, 0].T
    picture = luma_chroma_of(pixels).astype(np.float32)
    strokes = with_strokes(FlatColours(places, np.empty((0, 3))), picture, known_by).strokes
    if not len(strokes):
        return sure
    return np.concatenate([sure, rgb_of(strokes.T[:, None])[0].astype(np.float64)])


def _dirt(lab: F64, weights: F64) -> float:
    """How far flat colours stray from the common ones, in ΔE00, root mean square: nothing in a clean picture."""
    common = weights >= COMMON_SHARE * weights.sum()
    if not common.any():
        return 1.0
    away = pairwise_ciede2000(lab, lab[common]).min(axis=1)
    return float(np.sqrt(np.average(np.minimum(away, FURTHEST_TINTS) ** 2, weights=weights)))


def _reduced(pixels: U8) -> U8:
    factor = int(np.ceil((pixels.shape[0] * pixels.shape[1] / WORKING_PIXELS) ** 0.5))
    if factor <= 1:
        return pixels
    size = max(1, pixels.shape[1] // factor), max(1, pixels.shape[0] // factor)
    return np.asarray(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA), dtype=np.uint8)


def _flat_cells(pixels: U8, limit: int) -> tuple[F64, F64]:
    """The mean colours of cells that occur in flat areas and how often; the commonest only."""
    height = pixels.shape[0]
    halves: list[F64] = []

    def work(first: int, last: int) -> None:
        sums = np.zeros((32768, 4))
        count_flat(pixels, limit, first, last, sums)
        halves.append(sums)

    in_strips(height, work)
    total: F64 = np.sum(halves, axis=0)
    if total[:, 3].sum() == 0:  # no flat place at all: every pixel counts
        flat = pixels.reshape(-1, 3).astype(np.float64)
        cell = (flat.astype(np.int64) >> 3) @ np.array([1024, 32, 1])
        total = np.stack(
            [*(np.bincount(cell, flat[:, k], 32768) for k in range(3)), np.bincount(cell, minlength=32768)], 1
        )
    used = np.argsort(-total[:, 3], kind="stable")[:MOST_CELLS]
    used = used[total[used, 3] > 0]
    return total[used, :3] / total[used, 3:], total[used, 3]


def _peaks(lab: F64, weights: F64, apart: float) -> list[int]:
    """Cells that are denser than all others within `apart` (ΔE00), densest first."""
    density = np.empty(len(lab))
    crowd_weights(lab, weights, 4.0, density)
    order = np.lexsort((np.arange(len(lab)), -density))
    chosen: list[int] = []
    covered = np.zeros(len(lab), dtype=bool)
    for index in order:
        if covered[index]:
            continue
        chosen.append(int(index))
        covered |= pairwise_ciede2000(lab[[index]], lab)[0] <= apart
        if len(chosen) == 3 * MOST_PROPOSED:
            break
    return chosen


@dataclass(frozen=True, slots=True, eq=False)
class _Trial:
    """A picture parted with candidates: what each holds, its mean colour, and how much it would be missed.

    Missed is an ink by as much as its inner pixels would be unlike anything else, times the share of inner ones: soft
    edges and ringing lie in thin seams and are close to a mixture of what they part.
    """

    inks: F64
    holdings: F64
    missed: F64
    near: U64
    own: U8


def _tried(pixels: U8, inks: F64, noise: float) -> _Trial:
    mixer = Mixer.of(inks, linear=False)
    if len(inks) == 1:
        own, near = np.zeros(pixels.shape[:2], np.uint8), np.ones(pixels.shape[:2], np.uint64)
    else:
        own, near, _sure = nearest_members(pixels, mixer, inks, noise, sweeps=1)
    sums, inner = np.zeros((len(inks), 4)), np.zeros_like(own)
    inner_sums(pixels, own, sums, inner)
    holdings = np.bincount(own.ravel(), minlength=len(inks)).astype(np.float64)
    clear = sums[:, 3:] >= 4
    means = np.where(clear, sums[:, :3] / np.maximum(sums[:, 3:], 1), inks)
    missed = np.full(len(inks), np.inf)
    if len(inks) > 1:
        asked = inner & ((holdings < PLENTY)[own] | _every_ninth(own.shape)).astype(np.uint8)
        away = _unlike(pixels, near, own, asked, mixer, without_own=True)
        for k in range(len(inks)):
            mine = away[(own == k) & (asked > 0)]
            missed[k] = float(np.median(mine)) * sums[k, 3] / max(holdings[k], 1.0) if len(mine) else 0.0
    return _Trial(means, holdings, missed, near, own)


def _every_ninth(shape: tuple[int, ...]) -> NDArray[np.bool_]:
    mask = np.zeros(shape, dtype=bool)
    mask[::3, ::3] = True
    return mask


def _unlike(pixels: U8, near: U64, own: U8, asked: U8, mixer: Mixer, without_own: bool) -> F32:
    away: F32 = np.zeros(own.shape, dtype=np.float32)
    in_strips(len(own), lambda a, b: unexplained(pixels, near, own, asked, mixer, without_own, a, b, away))
    return away


def _proved(
    pixels: U8, candidates: F64, noise: float, apart: float, dirt: float, sure: F64 | None = None
) -> tuple[F64, F64]:
    """Drop the candidates that would not be missed, the least first; add what is left unexplained.

    Those that are sure come first, and stay as they are.
    """
    inks, held = candidates[: MOST_PROPOSED + 8], 0
    if sure is not None and len(sure):
        held = min(len(sure), MOST_PROPOSED)
        beside = pairwise_ciede2000(lab_of(inks), lab_of(sure)).min(axis=1) > apart
        inks = np.concatenate([sure[:held], inks[beside]])
    least = max(5.0, LEAST_SHARE * pixels.shape[0] * pixels.shape[1])
    wanted = 2.0 + 4.0 * min(dirt, 1.0)
    sought = 0
    while True:
        trial = _tried(pixels, inks, noise)
        trial.inks[:held] = inks[:held]
        weak = (trial.holdings < least) | (trial.missed < 0.4 * wanted)
        weak |= _doubles(trial, apart)
        weak[:held] = False
        if weak.all():
            weak[int(trial.holdings.argmax())] = False
        if not weak.any() and trial.missed[held:].min(initial=np.inf) < wanted:
            several = max(1, len(inks) // 8)  # of many at once, or it takes too long
            least_missed = np.argsort(trial.missed)[:several]
            least_missed = least_missed[least_missed >= held]
            weak[least_missed[trial.missed[least_missed] < wanted]] = True
        if weak.any():
            inks = trial.inks[~weak]
            continue
        strange = None
        if sought < MOST_SOUGHT and len(inks) < MOST_PROPOSED:
            sought += 1
            strange = _strange_colour(pixels, trial, noise, least, apart)
        if strange is None:
            order = np.argsort(-trial.holdings, kind="stable")[:MOST_PROPOSED]
            return trial.inks[order], trial.holdings[order]
        inks = np.concatenate([trial.inks, strange])


def _doubles(trial: _Trial, apart: float) -> NDArray[np.bool_]:
    """Inks that have come so close to one that holds more that they are the same."""
    away = pairwise_ciede2000(lab_of(trial.inks), lab_of(trial.inks))
    more = trial.holdings[None] > trial.holdings[:, None]
    more |= (trial.holdings[None] == trial.holdings[:, None]) & (
        np.arange(len(away))[None] < np.arange(len(away))[:, None]
    )
    return np.asarray(((away < 0.8 * apart) & more).any(axis=1))


def _strange_colour(pixels: U8, trial: _Trial, noise: float, least: float, apart: float) -> F64 | None:
    """The colour most strange among pixels that no mixture explains, (1, 3), or None if there are too few.

    Colours count by the square of how unlike anything they are: a thin stroke's full colour rather than its soft edge.
    """
    limit = max(4.0 * noise, 14.0)
    plainly = np.abs(pixels - trial.inks[trial.own]).max(axis=2)
    asked = (plainly > 0.5 * limit).astype(np.uint8)
    away = _unlike(pixels, trial.near, trial.own, asked, Mixer.of(trial.inks, linear=False), without_own=False)
    rows, columns = np.nonzero(away > limit)
    every = max(1, len(rows) // STRANGERS)
    strange = lab_of(pixels[rows[::every], columns[::every]].astype(np.float64))
    weight = away[rows[::every], columns[::every]].astype(np.float64) ** 2
    if len(strange):
        new = pairwise_ciede2000(strange, lab_of(trial.inks)).min(axis=1) > apart
        strange, weight = strange[new], weight[new]
    if len(strange) * every < 0.3 * least:
        return None
    support = np.empty(len(strange))
    crowd_weights(strange, np.ones(len(strange)), CROWD, support)
    support *= every
    if support.max() < SUPPORT * least:
        return None
    best = int(np.argmax(np.where(support >= SUPPORT * least, weight, 0.0)))
    crowd = np.linalg.norm(strange - strange[best], axis=1) <= CROWD
    return rgb_of_lab(np.average(strange[crowd], axis=0, weights=weight[crowd]))[None]
