"""How drawn letters stand: their slant, their feet on the base line, the gaps between them; and letters brought alike.

Everything is moved by a share of how far it is from the usual, the median, or from what was asked for.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations, pairwise

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.choice import Choice, Edited
from sobercrow.core.artwork.edits import change_shapes
from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.artwork.placing import placed_shape
from sobercrow.core.errors import LetteringError
from sobercrow.core.geometry.affine import Affine
from sobercrow.core.lettering.baseline import Straight, proposed
from sobercrow.core.lettering.letters import Letter, letters_on, middles_of, shapes_of
from sobercrow.core.lettering.strokes import MIDDLE, NEAR_DEG, Stroke, Strokes, Way

STEM_LENGTH, STEM_BOW = 2.5, 0.15
"""A stem is so many times as long as wide, and bends by less than such a share of its width."""
DESCENDS = 0.13
"""What reaches further below the base line, as a share of the usual height, does not stand on it."""
FLAT_PX, FLAT = 0.008, 0.25
"""A foot is flat if so much of the letter's width is within such a share of its height above its lowest place."""
WORD_GAP = 2.0
"""A gap so many times as wide as usual parts words."""
ROWS, DEEP = 40, 0.25
"""A gap is read in so many rows; what is deeper than its narrowest row by such a share of the usual height counts as
that."""
X_HEIGHT_SHARE = 30.0
"""So many per cent of letters are no higher than the x-height, or all are as high."""
ODD, LEAST_ODD = 2.5, 0.02
"""A value so many times as far from the usual as is usual, and by such a share of what all are measured by, is odd."""


@dataclass(frozen=True, slots=True, eq=False)
class Reading:
    """Something measured at several places.

    Attributes
    ----------
    values : (n,) float64
        Degrees for slants, else px.
    places : (n, 2) float64
    usual, unit : float
        The median, and what a deviation is small against: an x-height, a width.
    """

    values: F64
    places: F64
    usual: float
    unit: float

    @property
    def spread(self) -> float:
        """How far values are from the usual, root mean square."""
        return math.sqrt(float(((self.values - self.usual) ** 2).mean())) if len(self.values) else 0.0

    def odd(self) -> list[int]:
        """Return which values are odd ones out, the furthest first."""
        off = np.abs(self.values - self.usual)
        usual = float(np.median(off)) if len(off) else 0.0
        return [k for k in self.furthest() if off[k] > max(ODD * usual, LEAST_ODD * self.unit)]

    def furthest(self) -> list[int]:
        """Return all values by number, those furthest from the usual first."""
        order: list[int] = np.argsort(-np.abs(self.values - self.usual), kind="stable").tolist()
        return order


def reading(values: Sequence[float], places: Sequence[F64], unit: float | None = None) -> Reading:
    """Return values with their median."""
    usual = float(np.median(values)) if len(values) else 0.0
    own = np.array(values, dtype=np.float64)
    return Reading(own, np.array(places, dtype=np.float64).reshape(-1, 2), usual, usual if unit is None else unit)


def widths_of(strokes: Strokes, way: Way) -> Reading:
    """Return how wide the strokes are that run one way, each where its middle is."""
    some = strokes.of(way)
    return reading([stroke.width_px for stroke in some], [stroke.middle for stroke in some])


def stems_of(strokes: Strokes) -> list[Stroke]:
    """Return the downstrokes that are long and straight: what a slant is read from."""
    return [
        stroke
        for stroke in strokes.of(Way.DOWN)
        if stroke.length_px >= STEM_LENGTH * stroke.width_px
        and _lean(stroke)[1] <= STEM_BOW * stroke.width_px
        and abs(math.remainder(_lean(stroke)[0] - strokes.slant_deg, 180.0)) <= NEAR_DEG
    ]


def slants_of(strokes: Strokes) -> Reading:
    """Return how stems lean, in degrees: 90 upright, less to the right."""
    stems = stems_of(strokes)
    return reading([_lean(stem)[0] for stem in stems], [stem.middle for stem in stems], 90.0)


def _lean(stroke: Stroke) -> tuple[float, float]:
    """In degrees how the middle of a stroke leans, and how far it is off a line at most."""
    first, last = (round(share * (len(stroke.line) - 1)) for share in MIDDLE)
    line = stroke.line[first : last + 1]
    middle = line.mean(axis=0)
    _, _, ways = np.linalg.svd(line - middle, full_matrices=False)
    across = np.array([-ways[0, 1], ways[0, 0]])
    angle = math.degrees(math.atan2(-ways[0, 1], ways[0, 0])) % 180.0
    return angle, float(np.abs((line - middle) @ across).max())


@dataclass(frozen=True, slots=True, eq=False)
class Standing:
    """Letters of one line, which shapes each is made of, and the straight line they stand on, by their feet."""

    letters: tuple[Letter, ...]
    shapes: tuple[tuple[int, ...], ...]
    line: Straight
    usual_px: float
    x_height_px: float

    def feet(self) -> tuple[list[int], Reading]:
        """Return which letters stand on the base line, and how far below it each is.

        Round feet reach a little below flat ones: either is compared with its own kind.
        """
        return self._ends(1.0, 0.0)

    def tops(self) -> Reading:
        """Return how far above the x-height the letters reach that end there, round ones compared with their kind."""
        return self._ends(-1.0, self.x_height_px)[1]

    def _ends(self, down: float, line_px: float) -> tuple[list[int], Reading]:
        """Which letters end at a line so far from the base line, down or (−1) up, and how far beyond it each goes."""
        seen = [down * self._seen(letter) for letter in self.letters]
        beyond = np.array([float(own[:, 1].max()) - line_px for own in seen])
        there = [k for k in range(len(beyond)) if abs(beyond[k]) <= DESCENDS * self.usual_px]
        flat = np.array([_is_flat(seen[k], self.usual_px) for k in there], dtype=np.bool_)
        values = beyond[there]
        for kind in (flat, ~flat):
            if kind.any():
                values[kind] -= np.median(values[kind])
        side = 3 if down > 0.0 else 1
        places = [self.letters[k].placed(np.array([0.0, self.letters[k].box[side]])) for k in there]
        return there, reading(values.tolist(), places, self.usual_px)

    def gaps(self) -> Reading:
        """Return how far letters are apart within words, in the mean over their height."""
        gaps = self.every_gap()
        within = np.flatnonzero(~np.isnan(gaps))
        middles = [
            0.5 * (one.placed(_side(one, 2)) + other.placed(_side(other, 0)))
            for one, other in ((self.letters[k], self.letters[k + 1]) for k in within.tolist())
        ]
        return reading(gaps[within].tolist(), middles, self.usual_px)

    def every_gap(self) -> F64:
        """Return the gap after every letter but the last, nan where a word ends."""
        gaps = np.array([self._gap(one, other) for one, other in pairwise(self.letters)])
        usual = float(np.median(gaps))
        limit = usual + (WORD_GAP - 1.0) * max(abs(usual), 0.2 * self.usual_px)
        return np.where(gaps <= limit, gaps, np.nan)

    def _seen(self, letter: Letter) -> F64:
        return _seen_on(self.line, letter)

    def _gap(self, one: Letter, other: Letter) -> float:
        """The mean of the gap over the rows between base line and x-height that both reach; deep bays count less."""
        a, b = self._seen(one), self._seen(other)
        top, bottom = max(a[:, 1].min(), b[:, 1].min(), -self.x_height_px), min(a[:, 1].max(), b[:, 1].max(), 0.0)
        if bottom - top < 0.1 * self.usual_px:
            return float(b[:, 0].min() - a[:, 0].max())
        rows = np.linspace(top, bottom, ROWS + 1)
        right, left = np.full(ROWS + 2, -np.inf), np.full(ROWS + 2, np.inf)
        np.maximum.at(right, np.searchsorted(rows, a[:, 1]), a[:, 0])
        np.minimum.at(left, np.searchsorted(rows, b[:, 1]), b[:, 0])
        right, left = right[1:-1], left[1:-1]
        apart = (left - right)[np.isfinite(left - right)]
        return float(np.minimum(apart, apart.min() + DEEP * self.usual_px).mean()) if len(apart) else 0.0


def _seen_on(line: Straight, letter: Letter) -> F64:
    """Places of a letter's outline as along a line and below it."""
    return line.seen(np.concatenate([contour.sampled(0.5) for contour in letter.contours]))


def _side(letter: Letter, side: int) -> F64:
    """The middle of the left (0) or right (2) side of a letter's box."""
    return np.array([letter.box[side], 0.5 * (letter.box[1] + letter.box[3])])


def standing_of(shapes: Sequence[Shape]) -> Standing:
    """Return how the letters of one straight line stand.

    Raises
    ------
    LetteringError
        If there are fewer than two letters, or they run along an arc.
    """
    middles, height = middles_of(shapes)
    found = proposed(middles, height)[0]
    if not isinstance(found, Straight):
        raise LetteringError("This lettering runs along an arc; feet and gaps are read on straight lines.")
    letters = letters_on(shapes, found)
    if len(letters) < 2:
        raise LetteringError("Choose two letters or more; how they stand is read from one to the next.")
    seen = [_seen_on(found, letter) for letter in letters]
    usual = float(np.median([np.ptp(own[:, 1]) for own in seen]))
    line = _through_feet(found, seen, usual)
    owned = tuple(shapes_of(letters, shapes))
    bodies = [max(letter.contours, key=lambda contour: abs(contour.area())) for letter in letters]
    tops = [-float(line.seen(body.sampled(0.5))[:, 1].min()) for body in bodies]
    return Standing(tuple(letters), owned, line, usual, float(np.percentile(tops, X_HEIGHT_SHARE)))


def _is_flat(seen: F64, usual: float) -> bool:
    """Whether the foot of a letter, seen along the line, is flat."""
    low = seen[:, 1] >= seen[:, 1].max() - FLAT_PX * usual
    return bool(np.ptp(seen[low, 0]) >= FLAT * np.ptp(seen[:, 0]))


def _through_feet(line: Straight, seen: Sequence[F64], usual: float) -> Straight:
    """The line moved and turned to where most feet stand; those that descend are left out.

    Its slope is the median of all pairs of feet of one kind (Sen 1968, "Estimates of the regression coefficient
    based on Kendall's tau").
    """
    feet = np.array([(0.5 * (own[:, 0].min() + own[:, 0].max()), own[:, 1].max()) for own in seen])
    flat = np.array([_is_flat(own, usual) for own in seen])
    near = np.abs(feet[:, 1] - np.median(feet[:, 1])) <= DESCENDS * usual
    near |= ~near.any()  # two that stand far from each other have no usual place between them
    slopes = [
        (feet[b, 1] - feet[a, 1]) / (feet[b, 0] - feet[a, 0])
        for a, b in combinations(np.flatnonzero(near).tolist(), 2)
        if flat[a] == flat[b] and abs(feet[b, 0] - feet[a, 0]) > 0.2 * usual
    ]
    slope = float(np.median(slopes)) if slopes else 0.0
    kind = near & (flat if (near & flat).any() else near)
    x, y, _ = line.lowered(float(np.median((feet[:, 1] - slope * feet[:, 0])[kind]))).at(0.0)
    return Straight(x, y, line.angle_deg + math.degrees(math.atan(slope)))


def slant_alike(artwork: Artwork, shapes: Collection[int], strokes: Strokes, percent: float) -> Edited:
    """Return artwork with letters leaned, about their feet, towards the usual slant; `strokes` are those of the shapes.

    Letters without a stem stay as they are.

    Raises
    ------
    LetteringError
        If no letter has a stem.
    """
    which = sorted(shapes)
    slants = slants_of(strokes)
    if not len(slants.values):
        raise LetteringError("No stems are found here; a slant is read from long straight downstrokes.")
    goal = 1.0 / math.tan(math.radians(slants.usual))
    stems = stems_of(strokes)
    maps: dict[int, Affine] = {}
    for own in _letters_or_shapes([artwork.shapes[k] for k in which]):
        mine = [stem for stem in stems if stem.shape in own]
        if not mine:
            continue
        lengths = [stem.length_px for stem in mine]
        now = float(np.average([1.0 / math.tan(math.radians(_lean(stem)[0])) for stem in mine], weights=lengths))
        foot = max(artwork.shapes[which[k]].bounds()[3] for k in own)
        lean = math.degrees(math.atan(0.01 * percent * (goal - now)))
        maps |= {which[k]: Affine.leaned(lean, (0.0, foot)) for k in own}
    return _mapped(artwork, which, maps)


def _letters_or_shapes(shapes: Sequence[Shape]) -> Sequence[Sequence[int]]:
    try:
        return standing_of(shapes).shapes
    except LetteringError:
        return [[k] for k in range(len(shapes))]


def on_baseline(artwork: Artwork, shapes: Collection[int], percent: float) -> Edited:
    """Return artwork with letters moved towards the base line most of them stand on.

    Raises
    ------
    LetteringError
        See `standing_of`.
    """
    which = sorted(shapes)
    standing = standing_of([artwork.shapes[k] for k in which])
    letters, feet = standing.feet()
    turn = math.radians(standing.line.angle_deg)
    maps: dict[int, Affine] = {}
    for letter, off in zip(letters, feet.values.tolist(), strict=True):
        up = 0.01 * percent * off
        way = Affine.moved(up * math.sin(turn), -up * math.cos(turn))
        maps |= {which[k]: way for k in standing.shapes[letter]}
    return _mapped(artwork, which, maps)


def evenly_spaced(artwork: Artwork, shapes: Collection[int], percent: float) -> Edited:
    """Return artwork with letters moved along their line towards one gap; gaps between words stay as they are.

    The middle of all stays where it is.

    Raises
    ------
    LetteringError
        See `standing_of`.
    """
    which = sorted(shapes)
    standing = standing_of([artwork.shapes[k] for k in which])
    off = 0.01 * percent * np.nan_to_num(standing.gaps().usual - standing.every_gap())
    shifts = np.concatenate([[0.0], np.cumsum(off)])
    shifts -= 0.5 * (shifts[0] + shifts[-1])
    turn = math.radians(standing.line.angle_deg)
    maps: dict[int, Affine] = {}
    for own, by in zip(standing.shapes, shifts.tolist(), strict=True):
        way = Affine.moved(by * math.cos(turn), by * math.sin(turn))
        maps |= {which[k]: way for k in own}
    return _mapped(artwork, which, maps)


def _mapped(artwork: Artwork, which: Sequence[int], maps: Mapping[int, Affine]) -> Edited:
    made = change_shapes(artwork, lambda k, shape: placed_shape(shape, maps[k]) if k in maps else shape)
    return Edited(made, Choice(shapes=frozenset(which)))
