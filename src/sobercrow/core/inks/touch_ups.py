"""Touch-ups on the inks, replayed whenever they are parted anew."""

from __future__ import annotations

from typing import Protocol

import cv2
import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F32, F64, U8
from sobercrow.core.cleanup.sheet import SheetMap
from sobercrow.core.cleanup.touch_ups import coverage_of
from sobercrow.core.inks.colour import lab_of, pairwise_ciede2000, rgb_of_hex
from sobercrow.core.inks.regions import Mask, region_at, surroundings
from sobercrow.core.settings import Ink, InkForm, InkTool, InkTouchUp, Role

LARGEST_SPOT = 0.25
"""A region that holds more of the picture than this is no spot."""
END_REACH_PX = 4
"""How far from the end of a bridge its stroke may begin."""


class Layer(Protocol):
    """Labels that can be touched up."""

    @property
    def own(self) -> U8:
        """The ink of every pixel, (h, w)."""
        ...

    def lay(self, place: tuple[slice, slice], cover: F32, ink: int) -> None:
        """Cover a part with an ink, 0–1 by area."""
        ...

    def give(self, mask: Mask, inks: U8) -> None:
        """Give the pixels of a mask to inks, one for each."""
        ...


class OneLayer:
    """The tones of one ink; painting with ink and paper changes them."""

    def __init__(self, grey: U8, iso: float, ink_level: float, paper_level: float) -> None:
        """Take tones that may be changed."""
        self.grey, self.iso = grey, iso
        self._levels = np.array([ink_level, paper_level])

    @property
    def own(self) -> U8:
        """0 ink, 1 paper."""
        return (self.grey >= self.iso).astype(np.uint8)

    def lay(self, place: tuple[slice, slice], cover: F32, ink: int) -> None:
        """Cover a part with ink or paper."""
        part = self.grey[place].astype(np.float64)
        self.grey[place] = np.rint(part + cover * (self._levels[ink] - part)).astype(np.uint8)

    def give(self, mask: Mask, inks: U8) -> None:
        """Give pixels to ink or paper."""
        self.grey[mask] = self._levels[inks].astype(np.uint8)


class SeveralLayer:
    """Labels of several inks with the shares of soft edges."""

    def __init__(self, own: U8, second: U8, share: U8) -> None:
        """Take labels that may be changed."""
        self.own, self.second, self.share = own, second, share
        self.touched = False

    def lay(self, place: tuple[slice, slice], cover: F32, ink: int) -> None:
        """Cover a part with an ink; where it covers half a pixel or more the pixel is that ink's."""
        own, second, share = self.own[place], self.second[place], self.share[place]
        mine = cover >= 0.5
        rim = (cover > 0.0) & ~mine & (own != ink)
        second[mine] = np.where(own[mine] == ink, second[mine], own[mine])
        share[mine] = np.where(own[mine] == ink, share[mine], np.maximum(128, np.rint(255 * cover[mine])))
        share[mine & (cover >= 1.0)] = 255
        own[mine] = ink
        second[rim] = ink
        share[rim] = np.rint(255 * (1.0 - cover[rim]))
        self.touched = True

    def give(self, mask: Mask, inks: U8) -> None:
        """Give pixels to inks, purely."""
        self.own[mask] = inks
        self.second[mask] = inks
        self.share[mask] = 255
        self.touched = True


def replay(layer: Layer, touch_ups: tuple[InkTouchUp, ...], inks: tuple[Ink, ...], place: SheetMap, pixels: U8) -> None:
    """Do the touch-ups that are shown, one after the other."""
    for touch_up in touch_ups:
        if not touch_up.shown:
            continue
        points = place.to_sheet(np.array(touch_up.points, dtype=np.float64))
        wanted = [_ink_like(colour, inks) for colour in touch_up.inks] or [_paper_of(inks)]
        if touch_up.tool is InkTool.NIB:
            filled = touch_up.form in (InkForm.BOX, InkForm.POLYGON)
            width = touch_up.width_px * place.scale_at(touch_up.middle)
            _stroke(layer, points, width, filled, wanted[0])
        elif touch_up.tool is InkTool.BRIDGE:
            _bridge(layer, points, wanted[0] if touch_up.inks else None, inks)
        elif touch_up.tool is InkTool.RING:
            _ring(layer, points, wanted, inks, pixels)
        else:
            _at_place(layer, touch_up, points[0], wanted[0])


def _ink_like(colour: str, inks: tuple[Ink, ...]) -> int:
    own = np.array([rgb_of_hex(ink.colour) for ink in inks], dtype=np.float64)
    wanted = np.array([rgb_of_hex(colour)], dtype=np.float64)
    return int(pairwise_ciede2000(lab_of(wanted), lab_of(own))[0].argmin())


def _paper_of(inks: tuple[Ink, ...]) -> int:
    """The paper, or the lightest ink where there is none."""
    lightness = lab_of(np.array([rgb_of_hex(ink.colour) for ink in inks], dtype=np.float64))[:, 0]
    return next((k for k, ink in enumerate(inks) if ink.role is Role.PAPER), int(lightness.argmax()))


def _stroke(layer: Layer, points: F64, width: float, filled: bool, ink: int) -> None:
    height, wide = layer.own.shape
    found = coverage_of(points, 0.5 * width, filled, height, wide)
    if found is not None:
        layer.lay(found.place, found.cover, ink)


def _at_place(layer: Layer, touch_up: InkTouchUp, point: F64, ink: int) -> None:
    """Pour an ink into the region at a place, or give the region to what is around it."""
    own = layer.own
    row, column = int(np.floor(point[1])), int(np.floor(point[0]))
    if not (0 <= row < own.shape[0] and 0 <= column < own.shape[1]):
        return  # the place lies outside the crop
    everywhere = touch_up.everywhere and touch_up.tool is InkTool.POUR
    mask = own == own[row, column] if everywhere else region_at(own, row, column)
    if touch_up.tool is InkTool.POUR:
        layer.give(mask, np.full(int(mask.sum()), ink, dtype=np.uint8))
    elif mask.mean() <= LARGEST_SPOT:
        layer.give(mask, surroundings(own, mask))


def inks_inside(own: U8, points: F64) -> list[tuple[int, float]]:
    """Return the inks within a ring (n, 2) in pixels of labels (h, w), each with its share there, the largest first."""
    counts = np.bincount(own[_inside(own.shape, points)])
    return [(int(k), float(counts[k] / counts.sum())) for k in np.argsort(-counts, kind="stable") if counts[k]]


def _inside(shape: tuple[int, ...], points: F64) -> Mask:
    inside = np.zeros(shape, dtype=np.uint8)
    cv2.fillPoly(inside, [np.rint(points * 16 - 8).astype(np.int32).reshape(-1, 1, 2)], 1, cv2.LINE_8, 4)
    return np.asarray(inside > 0)


def _ring(layer: Layer, points: F64, allowed: list[int], inks: tuple[Ink, ...], pixels: U8) -> None:
    """Give what is within a ring and not one of the inks allowed to the one of them most like its colour."""
    own = layer.own
    mask = _inside(own.shape, points) & ~np.isin(own, allowed)
    if not mask.any():
        return
    colours = np.array([rgb_of_hex(inks[k].members[0]) for k in allowed], dtype=np.float64)
    away = np.linalg.norm(lab_of(pixels[mask].astype(np.float64))[:, None] - lab_of(colours)[None], axis=2)
    layer.give(mask, np.array(allowed, dtype=np.uint8)[away.argmin(axis=1)])


def _bridge(layer: Layer, points: F64, ink: int | None, inks: tuple[Ink, ...]) -> None:
    """Draw a stroke from end to end, as wide as the strokes it joins."""
    own = layer.own
    if ink is None:
        paper = _paper_of(inks)
        near = [own[part] for part in (_around(own, p) for p in points)]
        seen = np.concatenate([labels[labels != paper] for labels in near])
        if not len(seen):
            return
        ink = int(np.bincount(seen).argmax())
    widths = [_stroke_width(own == ink, point) for point in points]
    found = [width for width in widths if width > 0]
    if found:
        _stroke(layer, points, min(found), False, ink)


def _around(own: U8, point: F64, reach: int = END_REACH_PX) -> tuple[slice, slice]:
    row, column = int(np.floor(point[1])), int(np.floor(point[0]))
    return slice(max(row - reach, 0), max(row + reach + 1, 0)), slice(
        max(column - reach, 0), max(column + reach + 1, 0)
    )


def _stroke_width(mask: NDArray[np.bool_], point: F64) -> float:
    """The width of the stroke near a place: twice the furthest any of its pixels there lies from its border; nought if
    there is none, as beyond the picture.
    """
    near = mask[_around(mask.view(np.uint8), point, 4 * END_REACH_PX)]
    if not near.any():
        return 0.0
    part = np.pad(near.astype(np.uint8), 1, mode="edge")
    depth = cv2.distanceTransform(part, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    return float(max(2.0 * depth.max() - 1.0, 1.0))
