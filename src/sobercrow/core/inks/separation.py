"""The inks step: which pixel is which ink, and how strongly."""

from __future__ import annotations

import dataclasses
from dataclasses import dataclass, replace
from typing import Self

import cv2
import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F32, F64, U8
from sobercrow.core.cleanup._tone_kernels import is_grey
from sobercrow.core.cleanup.evidence import Evidence
from sobercrow.core.cleanup.sheet import SheetMap
from sobercrow.core.errors import SettingError
from sobercrow.core.inks._label_kernels import ink_tones, run_beneath, settle_seconds
from sobercrow.core.inks.colour import hex_of_rgb, lab_of, name_of, pairwise_ciede2000, rgb_of_hex
from sobercrow.core.inks.labels import Labels, part
from sobercrow.core.inks.mixing import is_mixed_in_light
from sobercrow.core.inks.palette import Colours, read_colours
from sobercrow.core.inks.regions import inner_regions, small_regions, surroundings
from sobercrow.core.inks.slivers import dissolve_slivers
from sobercrow.core.inks.tone import limited_tones, local_tones
from sobercrow.core.inks.touch_ups import OneLayer, SeveralLayer, replay
from sobercrow.core.parallel import in_strips
from sobercrow.core.picture.picture import Picture
from sobercrow.core.picture.tones import histogram, otsu, usual_tones
from sobercrow.core.settings import AUTO, NONE, Ink, InkKind, Inks, Mixing, Role, mm_to_px

MOST_MEMBERS = 64
PAPER_AT_EDGE = 0.35
"""An ink that holds this share of the picture's edge is taken for the paper."""
PALE = 80.0
"""Lightness, L*, from which on the ground of a digital graphic counts as paper."""
DRAWN_NEUTRAL = 16.0
"""An only ink of less chroma than this is drawn in black, by its tone."""


@dataclass(frozen=True, slots=True, eq=False)
class InkField:
    """The tones at which one ink is traced; ink is dark.

    Attributes
    ----------
    grey : (h, w) uint8
    iso : float
        Tones below this are ink.
    neutral : float
        The tone at which the traced border lies on the drawn edge. Another `iso` moves the border as far as it
        moves the iso-line.
    ink_level, paper_level : float
        Full tone of the ink and usual tone of the rest.
    """

    grey: U8
    iso: float
    neutral: float
    ink_level: float
    paper_level: float


@dataclass(frozen=True, slots=True, eq=False)
class OneInk:
    """One ink on paper, told apart by tone.

    Attributes
    ----------
    inks : two Ink
        The ink and the paper.
    field : InkField
        The tones it is traced at, touch-ups done.
    grey : (h, w) uint8
        Tones of the cleaned picture.
    threshold, neutral : int
        The threshold in force, and Otsu's choice.
    tones : (256,) float64
        How many pixels have each tone.
    dpi : float
    """

    inks: tuple[Ink, ...]
    field: InkField
    grey: U8
    threshold: int
    neutral: int
    tones: F64
    dpi: float
    kind: InkKind = InkKind.ONE
    _own: U8 | None = dataclasses.field(default=None, init=False, repr=False)
    _coverage: F64 | None = dataclasses.field(default=None, init=False, repr=False)

    @property
    def own(self) -> U8:
        """The ink of every pixel, (h, w): 0 ink, 1 paper; worked out once."""
        if self._own is None:
            object.__setattr__(self, "_own", (self.field.grey >= self.field.iso).view(np.uint8))
        assert self._own is not None
        return self._own

    @property
    def coverage(self) -> F64:
        """Shares of the pixels that are ink and paper, 0–1; worked out once."""
        if self._coverage is None:
            paper = float(self.own.mean())
            object.__setattr__(self, "_coverage", np.array([1.0 - paper, paper]))
        assert self._coverage is not None
        return self._coverage

    @property
    def drawn(self) -> tuple[int, ...]:
        """The inks to be traced, lowest first."""
        return (0,)

    def field_of(self, ink: int, overlap_px: float = 0.0) -> InkField:
        """Return the tones an ink is traced at; there is none above it."""
        return self.field

    def judged_by(self, evidence: Evidence | None) -> Self:
        """Return the same: the tones of one ink say all there is to say."""
        return self


@dataclass(frozen=True, slots=True, eq=False)
class SeveralInks:
    """Several inks, soft edges unmixed.

    Attributes
    ----------
    inks : tuple of Ink
        Those in force, with names and roles.
    labels : Labels
        Whose each pixel is.
    colours : Colours
        What the inks were chosen from.
    proposed : int
        How many inks are proposed.
    linear : bool
        Whether edges were unmixed in linear light.
    dpi : float
    pixels : (h, w, 3) uint8
        The picture that was parted.
    given : (h, w) bool
        Where labels were given by something else than the pixels' colours: touched up, or too small to stay.
    order : tuple of str
        Colours of inks that lie upon the others, the lowest first.
    evidence : Evidence or None
        What the file tells of the picture before it was compressed, if nothing but the file tells what it was.
    """

    inks: tuple[Ink, ...]
    labels: Labels
    colours: Colours
    linear: bool
    coverage: F64
    dpi: float
    pixels: U8
    given: NDArray[np.bool_]
    kind: InkKind = InkKind.SEVERAL
    order: tuple[str, ...] = ()
    evidence: Evidence | None = None

    @property
    def own(self) -> U8:
        """The ink of every pixel, (h, w)."""
        return self.labels.own

    @property
    def drawn(self) -> tuple[int, ...]:
        """The inks to be traced, lowest first: in the order given, beneath them the one that covers most lowest."""
        traced = [k for k, ink in enumerate(self.inks) if ink.role is Role.INK and self.coverage[k] > 0]
        place = {colour: k for k, colour in enumerate(self.order)}
        return tuple(sorted(traced, key=lambda k: (place.get(self.inks[k].colour, -1), -self.coverage[k], k)))

    def judged_by(self, evidence: Evidence | None) -> Self:
        """Return it with what the file tells, if its inks are the colours the picture has."""
        plain = self.kind is InkKind.SEVERAL and all(len(ink.members) == 1 for ink in self.inks)
        return replace(self, evidence=evidence) if plain else self

    def field_of(self, ink: int, overlap_px: float = 0.0) -> InkField:
        """Return the tones an ink is traced at; it runs on so far beneath the inks drawn above it.

        Beneath what they cover wholly within it, it has no hole at all.
        """
        own, second, share = self.labels.own, self.labels.second, self.labels.share
        out: U8 = np.empty_like(own)
        in_strips(len(own), lambda a, b: ink_tones(own, second, share, ink, a, b, out))
        above = self.drawn[self.drawn.index(ink) + 1 :] if ink in self.drawn else ()
        if overlap_px > 0 and above:
            upper = np.zeros(256, dtype=np.uint8)
            upper[list(above)] = 1
            away: F32 = np.asarray(cv2.distanceTransform((own != ink).astype(np.uint8), cv2.DIST_L2, 5), np.float32)
            in_strips(len(own), lambda a, b: run_beneath(own, second, share, upper, away, overlap_px, a, b, out))
            out[_covered_holes(own, ink, upper)] = 0
        return InkField(out, 127.5, 127.5, 0.0, 255.0)


def _covered_holes(own: U8, ink: int, upper: U8) -> NDArray[np.bool_]:
    """Where an ink has holes in which there is nothing but inks drawn above it, (h, w)."""
    count, hole = cv2.connectedComponents((own != ink).astype(np.uint8), connectivity=8)
    keeps = np.zeros(count, dtype=bool)
    keeps[0] = True  # the ink itself
    keeps[np.unique(hole[upper[own] == 0])] = True
    for side in (hole[0], hole[-1], hole[:, 0], hole[:, -1]):
        keeps[np.unique(side)] = True
    return np.asarray(~keeps[hole])


Separation = OneInk | SeveralInks


def separate(
    cleaned: Picture,
    settings: Inks,
    place: SheetMap | None = None,
    colours: Colours | None = None,
    reduction: float = 1.0,
    one_ink: bool | None = None,
) -> Separation:
    """Part a cleaned picture into inks.

    Parameters
    ----------
    place
        Leads from pixels of the picture brought in, where touch-ups are kept, to those of the cleaned picture; None
        where they are the same.
    colours
        What `read_colours` found in the picture or a larger version of it; read anew if None.
    reduction
        How much smaller than at full scale the picture is: sizes of specks are meant at full scale.
    one_ink
        Whether the picture looks like one dark ink on paper: taken where the settings leave it open. If None, a
        picture without colours does.

    Raises
    ------
    SettingError
        If more inks are asked for than there are colours.
    """
    place = place if place is not None else SheetMap(np.eye(3), cleaned.width, cleaned.height, exact=True)
    grey = cleaned.grey()
    one_ink = is_grey(cleaned.pixels) if one_ink is None else one_ink
    if not needs_colours(settings, one_ink):
        return _one_ink(grey, cleaned, settings, place, reduction)
    if settings.kind is InkKind.GREYS:
        cleaned = cleaned.in_grey()
    colours = colours if colours is not None else read_colours(cleaned.pixels)
    if settings.kind is None and not settings.palette and settings.count is None and _is_one_ink(colours):
        return _one_ink(grey, cleaned, settings, place, reduction)
    return _several_inks(cleaned, settings, place, colours, reduction)


def needs_colours(settings: Inks, one_ink: bool) -> bool:
    """Tell whether the colours of a picture have to be read for these settings."""
    if settings.kind is None:
        several = bool(settings.palette) or settings.count is not None
        return several or (settings.threshold is None and not one_ink)
    return settings.kind is not InkKind.ONE


def _is_one_ink(colours: Colours) -> bool:
    """Tell whether there is hardly any colour: dark and neutral on paper."""
    if len(colours.proposed) > 2:
        return False
    lab = lab_of(colours.proposed)
    darkest = lab[int(lab[:, 0].argmin())]
    return bool(np.hypot(darkest[1], darkest[2]) < DRAWN_NEUTRAL)


def _one_ink(grey: U8, cleaned: Picture, settings: Inks, place: SheetMap, reduction: float) -> OneInk:
    counts = histogram(grey)
    neutral = otsu(counts)
    threshold = neutral if settings.threshold is None else settings.threshold
    ink_level, paper_level = (float(v) for v in usual_tones(counts, neutral))
    grey.setflags(write=False)
    if settings.local:
        window = max(3, 2 * round(0.5 * mm_to_px(settings.window_mm, cleaned.dpi)) + 1)
        field = InkField(local_tones(grey, window, settings.contrast / 100.0), 127.5, 127.5, 0.0, 255.0)
    elif settings.limited:
        field = InkField(limited_tones(grey, settings.dark_limit, settings.light_limit), 127.5, 127.5, 0.0, 255.0)
    else:
        field = InkField(grey, threshold + 0.5, neutral + 0.5, ink_level, paper_level)
    inks = (Ink("#000000", "Ink"), Ink("#ffffff", "Paper", Role.PAPER))
    if settings.touch_ups or settings.speck_px2 or settings.hole_px2:
        layer = OneLayer(field.grey.copy(), field.iso, field.ink_level, field.paper_level)
        replay(layer, settings.touch_ups, inks, place, cleaned.pixels)
        for chosen, least, inside in ((0, settings.speck_px2, False), (1, settings.hole_px2, True)):
            mask = small_regions(layer.own, [chosen], least / reduction**2, inside).mask
            if mask.any():
                layer.give(mask, surroundings(layer.own, mask))
        field = replace(field, grey=layer.grey)
    return OneInk(inks, field, grey, threshold, neutral, counts, cleaned.dpi)


def _several_inks(cleaned: Picture, settings: Inks, place: SheetMap, colours: Colours, reduction: float) -> SeveralInks:
    inks = _inks_in_force(settings, colours)
    owner = np.concatenate([np.full(len(ink.members), k) for k, ink in enumerate(inks)]).astype(np.uint8)
    members = np.array([rgb_of_hex(m) for ink in inks for m in ink.members], dtype=np.float64)
    if len(members) > MOST_MEMBERS:
        raise SettingError(f"There can be {MOST_MEMBERS} colours in all inks together, not {len(members)}; merge less.")
    linear = settings.mixing is Mixing.LINEAR
    labels = part(cleaned.pixels, members, owner, linear, colours.noise, colours.shaded)
    if (
        settings.mixing is Mixing.AUTO
        and not colours.shaded
        and is_mixed_in_light(cleaned.pixels, labels.own, _colours_of(inks), colours.dirt)
    ):
        linear = True
        labels = part(cleaned.pixels, members, owner, linear, colours.noise)
    inks = _with_paper(inks, settings, labels.own, colours.digital)
    by_colour = labels.own.copy()
    layer = SeveralLayer(labels.own, labels.second, labels.share)
    if colours.digital:
        layer.touched = dissolve_slivers(cleaned.pixels, labels, _colours_of(inks))
    replay(layer, settings.touch_ups, inks, place, cleaned.pixels)
    paper = next((k for k, ink in enumerate(inks) if ink.role is Role.PAPER), None)
    scale = reduction**-2
    specks = small_regions(layer.own, [k for k in range(len(inks)) if k != paper], settings.speck_px2 * scale)
    holes = small_regions(layer.own, [] if paper is None else [paper], settings.hole_px2 * scale, inside_only=True)
    mask = specks.mask | holes.mask
    if mask.any():
        layer.give(mask, surroundings(layer.own, mask))
    given = layer.own != by_colour
    if settings.paper_at_edge and paper is not None:
        inks = _with_inner_paper(inks, paper, layer)
    if layer.touched:
        settle_seconds(layer.own, layer.second, layer.share)
    coverage = np.bincount(layer.own.ravel(), minlength=len(inks)) / layer.own.size
    parted = Labels(layer.own, layer.second, layer.share)
    kind = InkKind.GREYS if settings.kind is InkKind.GREYS else InkKind.SEVERAL
    return SeveralInks(inks, parted, colours, linear, coverage, cleaned.dpi, cleaned.pixels, given, kind)


def _colours_of(inks: tuple[Ink, ...]) -> F64:
    return np.array([rgb_of_hex(ink.members[0]) for ink in inks], dtype=np.float64)


def _inks_in_force(settings: Inks, colours: Colours) -> tuple[Ink, ...]:
    """The inks given, and those found in the picture to make up the count."""
    if settings.kind is InkKind.GREYS:
        return grey_steps(settings.count or 4, colours)
    given = settings.palette
    if given and settings.count is None:
        return _named(given)
    fixed = np.array([rgb_of_hex(ink.members[0]) for ink in given], dtype=np.float64).reshape(-1, 3)
    found = colours.inks(settings.count, fixed if len(given) else None)[len(given) :]
    return _named((*given, *(Ink(hex_of_rgb(rgb)) for rgb in found)))


def grey_steps(count: int, colours: Colours) -> tuple[Ink, ...]:
    """Return so many evenly spaced greys, from the darkest to the lightest that fills a flat place."""
    tones = np.sort(colours.cells.mean(axis=1))
    steps = np.linspace(tones[0], tones[-1], count)
    if tones[-1] - tones[0] < count - 1:
        raise SettingError(f"The picture has too few tones for {count} steps of grey; ask for fewer.")
    return tuple(Ink(hex_of_rgb(np.full(3, tone)), f"Grey {k + 1}") for k, tone in enumerate(steps))


def _named(inks: tuple[Ink, ...]) -> tuple[Ink, ...]:
    """Give inks without a name one by their colour, each a different one."""
    taken = {ink.name for ink in inks if ink.name}
    named = []
    for ink in inks:
        if not ink.name:
            plain = name_of(np.array(rgb_of_hex(ink.colour), dtype=np.float64)).capitalize()
            name = next(n for n in (plain, *(f"{plain} {k}" for k in range(2, 99))) if n not in taken)
            taken.add(name)
            ink = replace(ink, name=name)
        named.append(ink)
    return tuple(named)


def _with_paper(inks: tuple[Ink, ...], settings: Inks, own: U8, digital: bool) -> tuple[Ink, ...]:
    """Give one ink the role of the paper, unless one has it or none is to have it.

    What a digital graphic lies on is its paper if it is pale; else it is a colour of its own.
    """
    if settings.paper == NONE or any(ink.role is Role.PAPER for ink in inks):
        return inks
    if settings.paper == AUTO:
        sides = np.concatenate([own[:2].ravel(), own[-2:].ravel(), own[:, :2].ravel(), own[:, -2:].ravel()])
        shares = np.bincount(sides, minlength=len(inks)) / len(sides)
        paper = int(shares.argmax())
        if shares[paper] < PAPER_AT_EDGE or inks[paper].role is not Role.INK:
            return inks
        if digital and lab_of(_colours_of((inks[paper],)))[0, 0] < PALE:
            return inks
    else:
        paper = nearest_ink(settings.paper, inks)
    return tuple(replace(ink, role=Role.PAPER) if k == paper else ink for k, ink in enumerate(inks))


def nearest_ink(colour: str, inks: tuple[Ink, ...]) -> int:
    """Return which ink is most like a colour, by any of its members."""
    owner = [k for k, ink in enumerate(inks) for _ in (ink.colour, *ink.members)]
    colours = np.array([rgb_of_hex(c) for ink in inks for c in (ink.colour, *ink.members)], dtype=np.float64)
    wanted = np.array([rgb_of_hex(colour)], dtype=np.float64)
    return owner[int(pairwise_ciede2000(lab_of(wanted), lab_of(colours))[0].argmin())]


def _with_inner_paper(inks: tuple[Ink, ...], paper: int, layer: SeveralLayer) -> tuple[Ink, ...]:
    """Make an ink of the paper where it does not reach the picture's edge."""
    inner = inner_regions(layer.own, paper)
    if not inner.any():
        return inks
    new = len(inks)
    layer.own[inner] = new
    near = cv2.dilate(inner.astype(np.uint8), np.ones((5, 5), np.uint8)) > 0
    layer.second[(layer.second == paper) & near & ((layer.own != paper) | inner)] = new
    layer.touched = True
    inside = replace(inks[paper], name=f"{inks[paper].name} inside", role=Role.INK)
    return (*inks, inside)
