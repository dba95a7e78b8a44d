"""The last word on where curves lie: drawn with exact coverage, they must give back the picture's own tones.

A border point is read off a few pixels, each of which tells only where along one row or column the tone passes the
middle. The tones around a whole curve know more: at corners, in strokes of a pixel or two, under blur. So the fitted
curves are drawn as a lens and a sensor would see them, and all their anchors and handles are moved until the drawing
differs least from the picture: Gauss-Newton on the squared difference, whose gradient is exact (the tones change only
along the curve, by how far it moves across itself), its second derivatives as for places of the curve that are pulled
each by itself. Like the analysis by synthesis of active contours (Kass, Witkin & Terzopoulos 1988, "Snakes"), but with
the few unknowns of the fitted curves.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Self

import numpy as np

from sobercrow.core.arrays import F32, F64, I64
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.inks.separation import InkField
from sobercrow.core.parallel import in_parts
from sobercrow.core.stopping import go_on
from sobercrow.core.tracing._settle_kernels import difference, redraw, settle
from sobercrow.core.tracing.band import Band, blur_taps
from sobercrow.core.tracing.rings import Flags, Rings
from sobercrow.core.tracing.tidy import crosses_itself, tidied

ROUNDS, ROUNDS_AGAIN = 8, 3
PIXEL_VARIANCE = 1.0 / 6.0
"""What the pixel itself adds to the squared width of an edge read from differences of neighbours, in px²."""
LEAST_BLUR_PX = 0.25
"""Less blur than this is not told from none."""
FIRST_DAMPING = 0.02
WORTHWHILE_PIXELS = 8000
"""So many pixels of a band are worth a core's while."""
NO_CORNER = 0.4
"""A corner that turns by less than this share of the corner angle is none."""
EASED_MAY_COST, EASED_MAY_COST_PX2 = 1.1, 0.02
"""So much more may a ring differ for it, as a factor and in px² of ink."""
UNLIKE = 0.08
"""Where the drawing differs by more than this, root mean square, the ink has tones of its own: nothing is moved."""


@dataclass(frozen=True, slots=True, eq=False)
class Likeness:
    """How what is drawn in a band of n pixels is compared with the picture there, in one channel or in several (c).

    Attributes
    ----------
    without, more : (c, n) float32
        What is shown where nothing is drawn, and how much more where all is; (c, 0) for 0 and 1.
    wanted : (c, n) float32
        What the picture shows.
    told, scale : (n,) float32
        How much of a difference counts, and by which factor its square does; empty if `without` is.
    taps, tap_counts : (c, t) float64, (c,) int64
        Halves of the kernels that blur each channel, and how long each is.
    response : float
        What a pixel's difference changes by, squared and summed, for each px of border that moves by one px.
    strength : (n,) float32
        By which factor that is different at each pixel of the band; empty if it is the same everywhere.
    """

    without: F32
    more: F32
    wanted: F32
    told: F32
    scale: F32
    taps: F64
    tap_counts: I64
    response: float
    strength: F32

    @classmethod
    def of_ink(cls, wanted: F32, taps: F64, response: float) -> Self:
        """Compare with how much of each pixel is ink, (n,)."""
        nothing, none = np.empty((1, 0), dtype=np.float32), np.empty(0, dtype=np.float32)
        return cls(nothing, nothing, wanted[None], none, none, taps[None], np.array([len(taps)]), response, none)

    def room(self) -> F32:
        """Return room for what is computed meanwhile; what covers the band comes first."""
        return np.empty((4 + len(self.wanted), self.wanted.shape[1]), dtype=np.float32)

    def costs(self, band: Band, count: int) -> F64:
        """Return each of `count` rings' sum of squares for what is drawn in a band."""
        costs, room = np.zeros(count), self.room()
        room[0] = band.cover()
        difference(band, self, room, costs)
        return costs


def blur_of(edge_px: float) -> float:
    """Return the blur that makes edges so wide, as a standard deviation in px; 0 if it is not told from none."""
    blur = math.sqrt(max(edge_px**2 - PIXEL_VARIANCE, 0.0))
    return blur if blur >= LEAST_BLUR_PX else 0.0


def response_of(edge_px: float) -> float:
    """Return the response of tones, 0–1, whose edges are so wide."""
    return 1.0 / math.sqrt(1.0 + 4.0 * math.pi * max(edge_px**2 - PIXEL_VARIANCE, 0.0))


def settled_on_tones(
    contours: list[Contour],
    field: InkField,
    edge_px: float,
    corner_rad: float,
    between: Callable[[], object] = lambda: None,
    which: Flags | None = None,
) -> list[Contour]:
    """Move contours, ink on their right, until drawn they give back the tones of a picture; return them in order.

    Corners that then turn by much less than `corner_rad` become smooth, where the tones agree. `edge_px` is the width
    of the picture's edges, as a standard deviation. A contour whose tones are not those of one ink on one paper is
    returned as it is, one that would cross itself too, and all are if the threshold was moved off the edge. `between`
    is called between pieces of work; it may raise to stop it. Of some only those in `which` are moved.
    """
    if not contours or not has_tones(field):
        return contours
    return settled(contours, lambda rings: seen_in(field, rings, edge_px), corner_rad, between, UNLIKE, which)


def has_tones(field: InkField) -> bool:
    """Tell whether an ink has tones curves can be settled on: its threshold was not moved off the edge."""
    return field.iso == field.neutral and field.paper_level > field.ink_level


def seen_in(field: InkField, rings: Rings, edge_px: float) -> tuple[Band, Likeness]:
    """Return the band of some rings, with nothing drawn in it, and how it is compared with an ink's tones."""
    taps = blur_taps(blur_of(edge_px))
    band = Band.of(rings, field.grey.shape, len(taps) - 1)
    tones = field.grey[band.rows, band.columns].astype(np.float32)
    spread = field.paper_level - field.ink_level
    wanted = np.clip((field.paper_level - tones) / spread, 0.0, 1.0).astype(np.float32)
    return band, Likeness.of_ink(wanted, taps, response_of(edge_px))


Look = Callable[[Rings], tuple[Band, Likeness]]
"""Finds the band of some rings, with nothing drawn in it, and how it is compared with the picture."""


def seen_among(contours: Sequence[Contour], which: Flags, look: Look) -> tuple[Rings, Band, Likeness]:
    """Return some of the contours as rings, their band, in which all others are drawn, and what it is compared by."""
    rings = Rings.of([contour for contour, wanted in zip(contours, which, strict=True) if wanted])
    band, likeness = look(rings)
    rest = [contour for contour, wanted in zip(contours, which, strict=True) if not wanted]
    if rest:
        others = Rings.of(rest)
        band.draw(others, others.near(band.top, band.left, *band.place.shape))
    return rings, band, likeness


def settled(
    contours: list[Contour],
    look: Look,
    corner_rad: float,
    between: Callable[[], object],
    unlike: float = UNLIKE,
    which: Flags | None = None,
) -> list[Contour]:
    """Move contours, or some of them, to where they are most like the picture; return all in order.

    Those that differ from it by more than `unlike`, root mean square, are returned as they are. Some of them are ones
    that lay well but for a change: they take fewer rounds.
    """
    rounds = ROUNDS if which is None else ROUNDS_AGAIN
    which = np.ones(len(contours), dtype=np.bool_) if which is None else which
    chosen = np.flatnonzero(which)
    if not len(chosen):
        return contours
    seen = seen_among(contours, which, look)
    moved = list(contours)
    found = _moved([contours[k] for k in chosen], *seen, corner_rad, between, unlike, rounds)
    for k, contour in zip(chosen.tolist(), found, strict=True):
        moved[k] = contour
    return moved


def _moved(
    contours: list[Contour],
    rings: Rings,
    band: Band,
    likeness: Likeness,
    corner_rad: float,
    between: Callable[[], object],
    unlike: float,
    rounds: int,
) -> list[Contour]:
    count = len(contours)
    band.draw(rings, np.ones(count, dtype=np.bool_))
    costs = likeness.costs(band, count)
    alike = costs <= unlike**2 * np.maximum(np.bincount(band.owner, minlength=count), 1)
    steps = band.steps_in_parts()
    lowest = _settle(rings, band, steps, likeness, alike, between, rounds)
    eased, changed = rings.eased(NO_CORNER * corner_rad)
    changed &= alike
    if changed.any():
        redraw(band, rings, eased, changed.view(np.uint8), steps)
    smooth = _settle(eased, band, steps, likeness, changed, between, rounds)
    better = changed & (smooth <= EASED_MAY_COST * lowest + EASED_MAY_COST_PX2)
    moved = list(contours)
    for k in np.flatnonzero(alike).tolist():
        go_on()
        found = tidied((eased if better[k] else rings).contour(k))
        if not crosses_itself(found) or crosses_itself(contours[k]):
            moved[k] = found
    return moved


def _settle(
    rings: Rings, band: Band, steps: F64, likeness: Likeness, which: Flags, between: Callable[[], object], rounds: int
) -> F64:
    """Move some rings, which are drawn in `steps`, to where they differ least; return each one's sum of squares."""
    lowest = np.where(which, np.inf, 0.0)
    if not which.any() or not len(steps):
        return np.zeros(len(which))
    dampings = np.where(which, FIRST_DAMPING, -1.0)
    best, costs, worse = np.empty_like(rings.state), np.empty(len(which)), np.empty(len(which), dtype=np.uint8)
    room = likeness.room()
    between()

    def some(first: int, last: int) -> None:
        settle(first, last, band, rings, likeness, steps, room, costs, dampings, best, lowest, worse, rounds)

    in_parts(_shares(band), some)
    return lowest


def _shares(band: Band) -> list[int]:
    """Where to divide the parts of a band into some that are worth a core's while."""
    count = len(band.parts) - 1
    inner = np.searchsorted(band.parts, np.arange(WORTHWHILE_PIXELS, len(band.rows), WORTHWHILE_PIXELS))
    return sorted({0, *np.minimum(inner, count).tolist(), count})
