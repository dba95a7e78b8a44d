"""Curves of several inks moved until all of them, laid over each other, give back the picture.

Each ink is drawn with exact coverage over what lies beneath it, those above it over that, and the whole blurred as the
picture was; see `rendering` for how curves move. One ink moves at a time, the uppermost first, with all others where
they are: where an edge is covered it changes nothing and stays; where three inks meet, the upper edge runs through and
the lower one ends beneath it, so that a junction is wherever the two are. Compression keeps colour more coarsely than
lightness (ITU-T T.871, with chroma at half the resolution): it is blurred more and weighed less.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import Self

import cv2
import numpy as np

from sobercrow.core.arrays import F32, I64, U8
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.inks.colour import rgb_of_hex
from sobercrow.core.inks.mixer import Mixer
from sobercrow.core.inks.separation import InkField, SeveralInks
from sobercrow.core.settings import Role
from sobercrow.core.tracing._render_kernels import lay_over, see_around
from sobercrow.core.tracing.band import Band, blur_taps
from sobercrow.core.tracing.rendering import Likeness, blur_of, response_of, settled
from sobercrow.core.tracing.rings import Flags, Rings

TO_LUMA_CHROMA = np.array(
    [[0.299, 0.587, 0.114], [-0.168736, -0.331264, 0.5], [0.5, -0.418688, -0.081312]], dtype=np.float32
)
"""ITU-T T.871."""
CLEAN_CHANNELS = np.array([1.0, 1.0, 1.0], dtype=np.float32)
"""What lightness and the two differences of colour weigh."""
COARSE_CHANNELS = np.array([1.0, 0.5, 0.5], dtype=np.float32)
COARSE_VARIANCE_PX2 = 0.75
"""What halving the resolution of colour, and bringing it back, adds to the squared blur."""
BLUR_REACH = 4.0
"""A blur is cut off at so many standard deviations."""
UNLIKE = 0.15
"""As of one ink; two inks may differ by little more than the noise."""


@dataclass(frozen=True, slots=True, eq=False)
class Pile:
    """Inks over each other, and how much of every pixel each covers.

    `colours` (n, 3) are lightness and two differences of colour, in the space where edges were
    mixed; `covers` n × (h, w) are 0–255.
    """

    separation: SeveralInks
    mixer: Mixer
    colours: F32
    edges_px: Sequence[float]
    covers: list[U8]
    channels: F32
    coarse: bool

    @classmethod
    def of(
        cls,
        separation: SeveralInks,
        found: Sequence[list[Contour]],
        fields: Sequence[InkField],
        edges_px: Sequence[float],
    ) -> Self:
        """Lay inks over each other as they were fitted; away from curves they cover what their fields say.

        `edges_px` are the widths of each ink's edges.
        """
        members = np.array([rgb_of_hex(ink.members[0]) for ink in separation.inks], dtype=np.float64)
        mixer = Mixer.of(members, separation.linear)
        coarse = separation.colours.dirt > 0
        channels = COARSE_CHANNELS if coarse else CLEAN_CHANNELS
        colours = (mixer.mixed @ TO_LUMA_CHROMA.T) * channels
        pile = cls(separation, mixer, colours, edges_px, [255 - field.grey for field in fields], channels, coarse)
        for number, contours in enumerate(found):
            pile, _ = pile.redrawn(number, [None] * len(contours), contours)
        return pile

    def redrawn(
        self, number: int, before: Sequence[Contour | None], after: Sequence[Contour]
    ) -> tuple[Self, Band | None]:
        """Return the pile with an ink's contours as they are `after`, and where it changed, if any contour is another.

        None are ones not drawn `before`.
        """
        changed = [(old, new) for old, new in zip(before, after, strict=True) if old is not new]
        if not changed:
            return self, None
        touched = [contour for pair in changed for contour in pair if contour is not None]
        rings = Rings.of(list(after))
        near = rings if len(touched) == len(after) and changed[0][0] is None else Rings.of(touched)
        band = Band.of(near, self.separation.own.shape, 0)
        band.draw(rings, rings.near(band.top, band.left, *band.place.shape))
        covers = list(self.covers)
        covers[number] = covers[number].copy()
        covers[number][band.rows, band.columns] = _bytes(band.cover())
        return replace(self, covers=covers), band

    def towards(self, pixels: U8) -> Self:
        """Return the same pile with another picture (h, w, 3) to give back."""
        return replace(self, separation=replace(self.separation, pixels=pixels))

    def picture(self, band: Band) -> F32:
        """The picture in a band, (3, n)."""
        pixels = self.mixer.forth[self.separation.pixels.reshape(-1, 3)[self._indices(band)]]
        return np.ascontiguousarray(((pixels @ TO_LUMA_CHROMA.T) * self.channels).T)

    def around(self, number: int, band: Band) -> tuple[F32, F32]:
        """What a band shows without one of the inks, and what it shows more with it, (3, n) each."""
        indices = self._indices(band)
        covers = np.stack([cover.ravel()[indices] for cover in self.covers])
        ground = self._ground()[self.separation.own.ravel()[indices]]
        without, more = np.empty((3, len(indices)), dtype=np.float32), np.empty((3, len(indices)), dtype=np.float32)
        see_around(covers, ground, np.array(self.separation.drawn), number, self.colours, without, more)
        return without, more

    def _indices(self, band: Band) -> I64:
        """Where a band's pixels stand in the picture, row by row."""
        return np.asarray(band.rows.astype(np.int64) * self.separation.own.shape[1] + band.columns)

    def shown(self, blur_px: float, box: tuple[int, int, int, int] | None = None) -> F32:
        """Return the picture they give, (h, w, 3), in sRGB values; `blur_px` is a standard deviation.

        A `box` is the top, left, bottom and right of a part of it.
        """
        height, width = self.separation.own.shape
        top, left, bottom, right = box if box is not None else (0, 0, height, width)
        reach = blur_reach(blur_px)
        above, before = min(reach, top), min(reach, left)
        seen = slice(top - above, bottom + reach), slice(left - before, right + reach)
        made = self.mixer.mixed[self._ground()[self.separation.own[seen]]]
        covers = np.array([cover[seen] for cover in self.covers])
        lay_over(covers, np.array(self.separation.drawn), self.mixer.mixed, made)
        if reach:
            size = 2 * reach + 1, 2 * reach + 1
            made = np.asarray(cv2.GaussianBlur(made, size, blur_px, borderType=cv2.BORDER_REPLICATE), np.float32)
        made = made[above : above + bottom - top, before : before + right - left]
        steps = len(self.mixer.back) - 1
        return np.asarray(self.mixer.back[np.rint(np.clip(made, 0.0, 1.0) * steps).astype(np.int64)])

    def _ground(self) -> U8:
        """The ink seen where nothing is drawn, for every label: its own if it is not drawn, else the paper."""
        inks, drawn = self.separation.inks, self.separation.drawn
        paper = next((k for k, ink in enumerate(inks) if ink.role is Role.PAPER), drawn[0])
        return np.array([paper if k in drawn else k for k in range(len(inks))], dtype=np.uint8)

    def seen(self, number: int, rings: Rings) -> tuple[Band, Likeness]:
        """Return the band of an ink's rings, with nothing drawn in it, and how it is compared with the picture."""
        edge_px = self.edges_px[number]
        widest = math.sqrt(blur_of(edge_px) ** 2 + COARSE_VARIANCE_PX2)
        band = Band.of(rings, self.separation.own.shape, len(blur_taps(widest)) - 1)
        return band, _likeness(self, number, band, edge_px, len(rings.starts) - 1)


def blur_reach(blur_px: float) -> int:
    """Return how many pixels away a blur is still seen."""
    return math.ceil(BLUR_REACH * blur_px)


def _bytes(cover: F32) -> U8:
    return np.asarray(np.rint(255.0 * np.clip(cover, 0.0, 1.0)), dtype=np.uint8)


def _likeness(pile: Pile, number: int, band: Band, edge_px: float, count: int) -> Likeness:
    """How an ink's band is compared with the picture; squares are scaled so that the rings of all inks count alike."""
    blur = blur_of(edge_px)
    coarse = math.sqrt(blur**2 + COARSE_VARIANCE_PX2) if pile.coarse else blur
    kernels = blur_taps(blur), *(2 * [blur_taps(coarse)])
    counts = np.array([len(kernel) for kernel in kernels])
    taps = np.stack([np.pad(kernel, (0, counts.max() - len(kernel))) for kernel in kernels])
    without, more = pile.around(number, band)
    response = response_of(edge_px)
    less = response_of(math.hypot(edge_px, math.sqrt(COARSE_VARIANCE_PX2))) / response if pile.coarse else 1.0
    squares = more**2
    strength = squares[0] + np.float32(less) * (squares[1] + squares[2])
    told = (~pile.separation.given[band.rows, band.columns]).astype(np.float32)
    strength *= told
    total = np.bincount(band.owner, weights=strength, minlength=count)
    usual = np.bincount(band.owner, weights=strength**2, minlength=count) / np.maximum(total, 1e-12)
    scale = (1.0 / np.maximum(usual, 1e-9))[band.owner].astype(np.float32)
    return Likeness(without, more, pile.picture(band), told, scale, taps, counts, response, strength * scale)


def settled_in(
    pile: Pile,
    found: Sequence[list[Contour]],
    corner_rad: float,
    between: Callable[[], object] = lambda: None,
    which: Sequence[Flags] | None = None,
) -> list[list[Contour]]:
    """Move the contours of every drawn ink, the lowest first, until together they give back the picture of a pile.

    They lie in the pile as they are. The rest as `settled_on_tones`.
    """
    moved = list(found)
    for number in reversed(range(len(moved))):
        contours = moved[number]
        mine = which[number] if which is not None else None
        if not contours or (mine is not None and not mine.any()):
            continue
        moved[number] = settled(contours, partial(pile.seen, number), corner_rad, between, UNLIKE, mine)
        pile, _ = pile.redrawn(number, contours, moved[number])  # the inks beneath are seen beside it where it is now
    return moved
