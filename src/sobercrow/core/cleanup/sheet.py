"""The shape of the sheet: where each pixel of the picture brought in lies once slant, turns and crop are done."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Self

import cv2
import numpy as np

from sobercrow.core.arrays import F32, F64, U8
from sobercrow.core.cleanup.slant import rectified_size
from sobercrow.core.errors import SettingError
from sobercrow.core.picture.picture import coarse
from sobercrow.core.settings import CleanUp, Corners, Crop, Point

SHRINKING = 0.98
"""Below this scale a sheet has fewer pixels than were seen, and the quicker interpolation loses nothing."""
MOST_SHEET_PIXELS = 120_000_000
"""A sheet is never made larger than the largest picture that is opened."""


@dataclass(frozen=True, slots=True, eq=False)
class SheetMap:
    """The way from pixels of the picture brought in to pixels of a sheet, and back.

    Attributes
    ----------
    matrix : (3, 3) float64
        Homography; pixel (row i, column j) covers [j, j + 1] × [i, i + 1] on both sides.
    width, height : int
        Size of the sheet in its pixels.
    exact : bool
        Whether pixels only change places, by turns, mirror and crop, so that none is mixed from others.
    """

    matrix: F64
    width: int
    height: int
    exact: bool

    def to_sheet(self, points: F64) -> F64:
        """Return where points (n, 2) of the picture brought in lie on the sheet."""
        return _through(self.matrix, points)

    def to_source(self, points: F64) -> F64:
        """Return where points (n, 2) of the sheet lie on the picture brought in."""
        return _through(np.asarray(np.linalg.inv(self.matrix), dtype=np.float64), points)

    def scale_at(self, point: Point) -> float:
        """Return how long a pixel of the picture brought in is on the sheet, near a point of the former."""
        x, y = point
        w = self.matrix[2] @ (x, y, 1.0)
        return float(math.sqrt(abs(np.linalg.det(self.matrix) / w**3)))

    def resized(self, width: float, height: float, source_scale: tuple[float, float] = (1.0, 1.0)) -> Self:
        """Return the map to the same sheet of about another size, from the picture with its sides scaled."""
        size = max(1, round(width)), max(1, round(height))
        into = np.diag([size[0] / self.width, size[1] / self.height, 1.0])
        matrix = into @ self.matrix @ np.diag([1 / source_scale[0], 1 / source_scale[1], 1.0])
        # turned and mirrored only, pixels still change places whole
        exact = self.exact and bool(np.allclose(matrix, np.rint(matrix), atol=1e-6))
        return replace(self, matrix=matrix, width=size[0], height=size[1], exact=exact)

    def enlarged(self, factor: float) -> Self:
        """Return the map to the sheet enlarged by a factor."""
        matrix = np.diag([factor, factor, 1.0]) @ self.matrix
        return replace(self, matrix=matrix, width=round(self.width * factor), height=round(self.height * factor))


def _through(matrix: F64, points: F64) -> F64:
    mapped = np.column_stack([points, np.ones(len(points))]) @ matrix.T
    return np.asarray(mapped[:, :2] / mapped[:, 2:])


def sheet_map(width: int, height: int, settings: CleanUp, with_crop: bool = True) -> SheetMap:
    """Return the way of a picture of this size to its sheet, before it is enlarged.

    Raises
    ------
    SettingError
        If the crop lies outside the sheet, or the slant would make it too large.
    """
    settings = settings.in_force()
    matrix = np.eye(3)
    size = (width, height)
    if settings.slant is not None:
        size = rectified_size(settings.slant, width, height, settings.ratio)
        if size[0] * size[1] > MOST_SHEET_PIXELS:
            raise SettingError("The four corners make the sheet too large; put them on the corners of the sheet.")
        matrix = unslanting(settings.slant, size)
    if settings.mirrored:
        matrix = np.array([[-1.0, 0, size[0]], [0, 1, 0], [0, 0, 1]]) @ matrix
    for _ in range(settings.quarter_turns):
        matrix = np.array([[0.0, -1, size[1]], [1, 0, 0], [0, 0, 1]]) @ matrix
        size = size[1], size[0]
    if settings.angle_deg:
        turn, size = _straightening(settings.angle_deg, size)
        matrix = turn @ matrix
    crop = settings.crop
    if crop is not None and with_crop:
        if crop.right > size[0] or crop.bottom > size[1]:
            raise SettingError("The crop reaches beyond the picture; set it again or reset it.")
        matrix = np.array([[1.0, 0, -crop.left], [0, 1, -crop.top], [0, 0, 1]]) @ matrix
        size = crop.right - crop.left, crop.bottom - crop.top
    return SheetMap(matrix, *size, exact=settings.slant is None and not settings.angle_deg)


def unslanting(corners: Corners, size: tuple[int, int]) -> F64:
    """Return the homography that lays four corners on the corners of a sheet of this size."""
    target = _corners_of(*size).astype(np.float32)
    matrix = cv2.getPerspectiveTransform(np.array(corners.points, dtype=np.float32), target)
    return np.asarray(matrix, dtype=np.float64)


def _straightening(angle_deg: float, size: tuple[int, int]) -> tuple[F64, tuple[int, int]]:
    """Turn clockwise about the middle; the sheet grows so that nothing is cut off."""
    sine, cosine = math.sin(math.radians(angle_deg)), math.cos(math.radians(angle_deg))
    width = math.ceil(abs(cosine) * size[0] + abs(sine) * size[1] - 1e-9)
    height = math.ceil(abs(sine) * size[0] + abs(cosine) * size[1] - 1e-9)
    about = np.array([[1.0, 0, -size[0] / 2], [0, 1, -size[1] / 2], [0, 0, 1]])
    turned = np.array([[cosine, -sine, 0], [sine, cosine, 0], [0, 0, 1]])
    back = np.array([[1.0, 0, width / 2], [0, 1, height / 2], [0, 0, 1]])
    return back @ turned @ about, (width, height)


def lay_out(pixels: U8, sheet: SheetMap) -> U8:
    """Return the sheet's pixels, (height, width) or (height, width, 3) like those given.

    Pixels are moved whole where they can be, else mixed by bicubic interpolation, or where the sheet becomes smaller
    everywhere, as for a draft, by bilinear. Beyond the edges of the picture
    the paper goes on, as bright as it is near there.
    """
    if sheet.exact:
        return _moved_whole(pixels, sheet)
    centre = np.array([[1.0, 0, -0.5], [0, 1, -0.5], [0, 0, 1]])  # OpenCV's pixel centres lie at whole numbers
    matrix = centre @ sheet.matrix @ np.linalg.inv(centre)
    size = (sheet.width, sheet.height)
    flags = cv2.INTER_CUBIC if _most_scale(sheet) > SHRINKING else cv2.INTER_LINEAR
    edge = sheet.to_sheet(_corners_of(pixels.shape[1], pixels.shape[0])).astype(np.float32)
    if all(cv2.pointPolygonTest(edge, corner, True) >= -0.5 for corner in _corners_of(*size).tolist()):
        covering = cv2.warpPerspective(pixels, matrix, size, flags=flags, borderMode=cv2.BORDER_REPLICATE)
        return np.asarray(covering, dtype=np.uint8)
    laid = np.empty((sheet.height, sheet.width, *pixels.shape[2:]), dtype=np.uint8)
    _fill_beyond(laid, _paper_patches(pixels, sheet, size), edge)
    cv2.warpPerspective(pixels, matrix, size, dst=laid, flags=flags, borderMode=cv2.BORDER_TRANSPARENT)
    return laid


def _most_scale(sheet: SheetMap) -> float:
    corners = sheet.to_source(_corners_of(sheet.width, sheet.height))
    return max(sheet.scale_at((float(x), float(y))) for x, y in corners)


def _moved_whole(pixels: U8, sheet: SheetMap) -> U8:
    a, b, shift_x = sheet.matrix[0]
    c, d, shift_y = sheet.matrix[1]
    turned = pixels if a else np.swapaxes(pixels, 0, 1)
    if (a or b) < 0:
        turned = turned[:, ::-1]
        shift_x -= turned.shape[1]
    if (d or c) < 0:
        turned = turned[::-1]
        shift_y -= turned.shape[0]
    left, top = round(-shift_x), round(-shift_y)
    return np.ascontiguousarray(turned[top : top + sheet.height, left : left + sheet.width])


def _corners_of(width: float, height: float) -> F64:
    return np.array([(0, 0), (width, 0), (width, height), (0, height)], dtype=np.float64)


BEYOND_CELL_PX = 6
CELLS_A_PATCH = 4
EDGE_PX = 8
"""Within so much of the picture's edge its pixels may be mixed with what lies beyond, or be left out by the warp."""


def _paper_patches(pixels: U8, sheet: SheetMap, size: tuple[int, int]) -> U8:
    """Return the tone of the paper in patches of the whole sheet, (rows, columns) or (rows, columns, 3).

    It is as bright as the brightest in each patch, and carried on to where the picture does not reach.
    """
    small = coarse(pixels, BEYOND_CELL_PX)
    rows, columns = (max(1, round(n / (BEYOND_CELL_PX * CELLS_A_PATCH))) for n in (size[1], size[0]))
    fine = columns * CELLS_A_PATCH, rows * CELLS_A_PATCH
    into = np.diag([fine[0] / size[0], fine[1] / size[1], 1.0])
    out_of = np.diag([BEYOND_CELL_PX if small is not pixels else 1.0] * 2 + [1.0])
    matrix = into @ sheet.matrix @ out_of
    laid = cv2.warpPerspective(small, matrix, fine, flags=cv2.INTER_LINEAR)
    cover = cv2.warpPerspective(np.full(small.shape[:2], 255, np.uint8), matrix, fine, flags=cv2.INTER_LINEAR)
    bright = cv2.dilate(laid, np.ones((5, 5), np.uint8))
    paper = cv2.resize(bright, (columns, rows), interpolation=cv2.INTER_AREA).astype(np.float32)
    share = cv2.resize(cover, (columns, rows), interpolation=cv2.INTER_AREA).astype(np.float32) / 255.0
    weight = (share > 0.9).astype(np.float32) + 1e-6 * (share > 0.1) + 1e-12
    flat = paper.reshape(rows, columns, -1)
    total, filled = np.zeros_like(weight), np.zeros_like(flat)
    for importance, sigma in ((1.0, 1.5), (1e-3, 6.0), (1e-6, 24.0)):  # far patches count only where none is near
        total += importance * cv2.GaussianBlur(weight, (0, 0), sigma)
        mixed = cv2.GaussianBlur(flat * weight[..., None], (0, 0), sigma)
        filled += importance * mixed.reshape(filled.shape)
    return np.rint(np.clip(filled / total[..., None], 0, 255)).astype(np.uint8).reshape(paper.shape)


def _fill_beyond(laid: U8, patches: U8, edge: F32) -> None:
    """Fill in what the picture, whose corners lie at `edge` (4, 2), may not cover: all around the box inside it."""
    height, width = laid.shape[:2]
    left, right = (int(v) for v in np.sort(edge[:, 0])[[1, 2]] + (EDGE_PX, -EDGE_PX))
    top, bottom = (int(v) for v in np.sort(edge[:, 1])[[1, 2]] + (EDGE_PX, -EDGE_PX))
    left, top, right, bottom = max(left, 0), max(top, 0), min(right, width), min(bottom, height)
    box = [(left, top), (right, top), (right, bottom), (left, bottom)]
    if left >= right or top >= bottom or any(cv2.pointPolygonTest(edge, c, False) < 0 for c in box):
        left = top = right = bottom = 0  # too far turned for a box: fill all
    grid = np.array([[patches.shape[1] / width, 0.0], [0.0, patches.shape[0] / height]])
    for x0, y0, x1, y1 in (
        (0, 0, width, top),
        (0, bottom, width, height),
        (0, top, left, bottom),
        (right, top, width, bottom),
    ):
        if x0 < x1 and y0 < y1:
            shift = grid @ (x0 + 0.5, y0 + 0.5) - 0.5
            into = np.column_stack([grid, shift])
            laid[y0:y1, x0:x1] = cv2.warpAffine(
                patches,
                into,
                (x1 - x0, y1 - y0),
                flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP,
                borderMode=cv2.BORDER_REPLICATE,
            )


def turn(settings: CleanUp, width: int, height: int, clockwise: int) -> CleanUp:
    """Return the settings with the sheet turned by quarters; the crop stays on the same part of the drawing."""
    turns, crop, angle = settings.quarter_turns, settings.crop, settings.angle_deg
    before = sheet_map(width, height, settings, with_crop=False)
    size = before.width, before.height
    for _ in range(clockwise % 4):
        if crop is not None:
            crop = Crop(size[1] - crop.bottom, crop.left, size[1] - crop.top, crop.right)
        turns = (turns + 1) % 4
        size = size[1], size[0]
    return replace(settings, quarter_turns=turns, crop=crop, angle_deg=angle)


def mirror(settings: CleanUp, width: int, height: int) -> CleanUp:
    """Return the settings with left and right exchanged on the sheet as it is seen; the crop stays on the drawing."""
    size = sheet_map(width, height, settings, with_crop=False)
    crop = settings.crop
    if crop is not None:
        crop = Crop(size.width - crop.right, crop.top, size.width - crop.left, crop.bottom)
    turns = -settings.quarter_turns % 4  # mirroring after turning is turning the other way after mirroring
    return replace(
        settings, mirrored=not settings.mirrored, quarter_turns=turns, angle_deg=-settings.angle_deg, crop=crop
    )


def reshape(settings: CleanUp, width: int, height: int, **changes: object) -> CleanUp:
    """Return the settings with another slant, angle or switch; the crop stays about the same part of the drawing."""
    changed = replace(settings, crop=None, **changes)  # type: ignore[arg-type]
    crop = settings.crop
    if crop is None:
        return changed
    old, new = sheet_map(width, height, settings, False), sheet_map(width, height, changed, False)
    middle = np.array([[(crop.left + crop.right) / 2, (crop.top + crop.bottom) / 2]])
    place = old.to_source(middle)
    x, y = new.to_sheet(place)[0]
    at = (float(place[0, 0]), float(place[0, 1]))
    grown = new.scale_at(at) / old.scale_at(at)
    half_width, half_height = (crop.right - crop.left) * grown / 2, (crop.bottom - crop.top) * grown / 2
    return replace(changed, crop=crop_within(new, x - half_width, y - half_height, x + half_width, y + half_height))


def crop_within(sheet: SheetMap, left: float, top: float, right: float, bottom: float) -> Crop:
    """Return a crop of whole pixels within an uncropped sheet; raise `SettingError` if nothing of it is left."""
    return Crop(
        max(round(left), 0), max(round(top), 0), min(round(right), sheet.width), min(round(bottom), sheet.height)
    )


def crop_around(
    settings: CleanUp,
    width: int,
    height: int,
    box: tuple[float, float, float, float] | None,
    margin_px: float,
    scale: Point = (1.0, 1.0),
) -> Crop:
    """Return the crop that holds a box of the cleaned picture (left, top, right, bottom) with a margin, in its pixels.

    `scale` is how many pixels of the cleaned picture there are for one of the sheet, across and down.

    Raises
    ------
    SettingError
        If there is no box: nothing is drawn.
    """
    if box is None:
        raise SettingError("There is no drawing to crop to; raise the threshold or crop by a frame.")
    settings = settings.in_force()
    x, y = scale
    left, top = (settings.crop.left, settings.crop.top) if settings.crop is not None else (0, 0)
    whole = sheet_map(width, height, settings, with_crop=False)
    sides = ((box[0] - margin_px) / x, (box[1] - margin_px) / y, (box[2] + margin_px) / x, (box[3] + margin_px) / y)
    return crop_within(whole, left + sides[0], top + sides[1], left + sides[2], top + sides[3])
