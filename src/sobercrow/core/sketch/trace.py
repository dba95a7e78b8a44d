"""The trace step for rough sketches: strokes of one width along the lines meant, working lines and shading apart."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from sobercrow.core.arrays import F64, U8
from sobercrow.core.artwork.model import Artwork, Layer, Shape, stroked
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.geometry.fewest import fewest_cubics
from sobercrow.core.geometry.forms import Ellipse
from sobercrow.core.geometry.polygon import polygon_area
from sobercrow.core.inks.separation import OneInk, Separation
from sobercrow.core.parallel import on_cores
from sobercrow.core.settings import Tracing, Treatment, mm_to_px
from sobercrow.core.sketch.ends import Drawn
from sobercrow.core.sketch.meeting import ends_on_curves
from sobercrow.core.sketch.one_line import KeptLines, contour_of, meant_lines, usual_tolerance
from sobercrow.core.sketch.pressed import widths_along
from sobercrow.core.sketch.reading import SketchReading
from sobercrow.core.sketch.said import Said
from sobercrow.core.sketch.symmetry import mirrored
from sobercrow.core.sketch.true_forms import form_of
from sobercrow.core.strokes.strokes import Strokes
from sobercrow.core.strokes.working_forms import Freehand
from sobercrow.core.tracing.borders import Borders
from sobercrow.core.tracing.fitting import Fitter
from sobercrow.core.tracing.outlines import MOVED_BLUR_PX, Trace, swelling_shape
from sobercrow.core.tracing.true_shapes import TrueShape, as_contour

USUAL_TOLERANCE_PX = Tracing(38.0).effective_tolerance_px
"""What the usual detail asks for in other drawings; in a sketch it stands for what its strokes ask for."""
LEAST_STRAYS_PX = 0.3
SHADING_TOLERANCE_PX = 0.5
WORKING_NAME, SHADING_NAME = "Working lines", "Shading"
WORKING_WIDTH = 0.5
"""Working lines and shading are so much thinner than the drawing's own."""
EDGE_PX = 0.5


def tones_of(separation: Separation) -> U8:
    """Return the tones (h, w) a sketch is read in: those of the picture if it has one ink, else of the ink drawn."""
    if isinstance(separation, OneInk):
        return separation.grey
    return separation.field_of(_ink_of(separation)).grey


def _ink_of(separation: Separation) -> int:
    """The ink a sketch is in: of several the uppermost."""
    return separation.drawn[-1] if separation.drawn else 0


def trace_sketch(
    separation: Separation,
    reading: SketchReading,
    settings: Tracing,
    said: Sequence[Said] = (),
    kept: KeptLines | None = None,
) -> Trace:
    """Draw each line a sketch means once, as a stroke; lines are ordered from top to bottom, then left to right.

    `said` is what was said by hand of lines and joints; that of strokes is in the reading. Parts whose lines are
    `kept` are not worked out again.
    Working lines and shading are left out, have a layer of their own, or are drawn with the rest. What the artwork is
    measured by are the edges of strokes along the lines that were found, before curves were fitted.
    """
    strays = strays_of(reading, settings, separation.dpi)
    calm = settings.effective_tolerance_px / USUAL_TOLERANCE_PX
    tolerance = usual_tolerance(strays, reading.width_px) * calm
    lines = meant_lines(reading, strays, said, settings.keep_apart, kept)
    contours, forms = contours_of(lines, strays, tolerance, settings, reading.reduction)
    ink = separation.inks[_ink_of(separation)]
    width = reading.width_px * reading.reduction
    if settings.follow_pen:
        drawn = _in_order(_swelling(reading, contours, strays, ink.colour, settings))
    else:
        drawn = _in_order(_shapes(contours, ink.colour, width, reading.reduction))
    layers = []
    for name, how, strokes in (
        (SHADING_NAME, settings.shading, _shading_contours(reading.shading)),
        (WORKING_NAME, settings.working_lines, _working_contours(reading)),
    ):
        made = _in_order(_shapes(strokes, ink.colour, WORKING_WIDTH * width, reading.reduction))
        if how is Treatment.LAYER and made:
            layers.append(Layer(name, made))
        elif how is Treatment.DRAW:
            drawn = (*drawn, *made)
    layers.append(Layer(ink.name, drawn))
    height, wide = separation.own.shape
    artwork = Artwork(tuple(layers), float(wide), float(height), separation.dpi)
    edges = [outline * reading.reduction for line in lines for outline in _edges(line, reading.width_px)]
    return Trace(artwork, Borders(edges, np.array([polygon_area(edge) for edge in edges]), EDGE_PX), forms)


def strays_of(reading: SketchReading, settings: Tracing, dpi: float) -> float:
    """Return how far strokes of one line stray in pixels a sketch was read at: as set, else as it says."""
    if settings.strays_mm is None:
        return reading.strays_px
    return max(mm_to_px(settings.strays_mm, dpi) / reading.reduction, LEAST_STRAYS_PX)


def _shapes(contours: list[Contour], colour: str, width_px: float, scale: float) -> list[Shape]:
    return [stroked((contour.scaled(scale),), colour, max(width_px, 0.1)) for contour in contours]


def contours_of(
    lines: list[Drawn], strays: float, tolerance: float, settings: Tracing, scale: float
) -> tuple[list[Contour], tuple[TrueShape, ...]]:
    """Return lines as contours, and the true shapes among them in pixels of the sheet, larger by a factor."""
    contours = on_cores(lines, lambda line: contour_of(line, strays, tolerance, settings.true_shapes))
    if not settings.true_shapes:
        return ends_on_curves(contours, strays), ()
    told: list[TrueShape] = []
    for k, line in enumerate(lines):
        form = form_of(line, strays)
        both = mirrored(line, strays, tolerance) if form is None else None
        found = both.found if both is not None else form
        if found is None:
            continue
        judged = found.scaled(scale).judged(settings)
        told.append(judged)
        if not judged.refused:
            exact = as_contour(judged.scaled(1.0 / scale).form, contours[k])
            contours[k] = both.contour if both is not None else exact
    return ends_on_curves(contours, strays), tuple(told)


def _swelling(
    reading: SketchReading, contours: list[Contour], strays: float, colour: str, settings: Tracing
) -> list[Shape]:
    """Lines as shapes that swell where they were pressed."""
    fitter, scale = Fitter.of(settings, MOVED_BLUR_PX), reading.reduction
    widths = widths_along(reading, contours, strays)
    return [
        swelling_shape(points * scale, own * scale, contour.closed, fitter, colour)
        for contour, (points, own) in zip(contours, widths, strict=True)
    ]


def _in_order(shapes: list[Shape]) -> tuple[Shape, ...]:
    return tuple(sorted(shapes, key=lambda shape: (shape.bounds()[1], shape.bounds()[0])))


def _shading_contours(shading: Strokes) -> list[Contour]:
    """Strokes of shading as they were drawn, calm."""
    return [_open(fewest_cubics(run, SHADING_TOLERANCE_PX)) for run in shading.runs() if len(run) > 3]


def _working_contours(reading: SketchReading) -> list[Contour]:
    """Working lines exactly straight from end to end, or round, or as they were drawn."""
    made = []
    for form in reading.forms:
        if isinstance(form, Ellipse):
            made.append(Contour.of_form(form))
        elif isinstance(form, Freehand):
            made.append(_open(fewest_cubics(form.points, SHADING_TOLERANCE_PX)))
        else:
            made.append(_open(np.repeat(np.array([form.end(form.first), form.end(form.last)])[:, None], 3, axis=1)))
    return made


def _open(anchors: F64) -> Contour:
    """An open contour, smooth between its ends."""
    kinds = np.full(len(anchors), AnchorKind.SMOOTH, dtype=np.uint8)
    kinds[[0, -1]] = AnchorKind.CORNER
    return Contour(anchors, kinds, closed=False)


def _edges(line: Drawn, width: float) -> list[F64]:
    """The outlines of a stroke along a line."""
    points = np.concatenate([line.points, line.points[:1]]) if line.closed else line.points
    area = shapely.LineString(points).buffer(0.5 * width, quad_segs=4)
    return [
        shapely.get_coordinates(ring)[:-1]
        for part in shapely.get_parts(area)
        for ring in (part.exterior, *part.interiors)
    ]
