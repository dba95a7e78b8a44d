"""The trace step: from a separation to artwork."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial
from itertools import pairwise
from typing import Self

import numpy as np

from sobercrow.core.arrays import F64, cumulated
from sobercrow.core.artwork.model import Artwork, Layer, Shape, stroked
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.offset import evenly, offset_outlines, swept_outlines
from sobercrow.core.geometry.polygon import polygon_area
from sobercrow.core.inks.separation import InkField, OneInk, Separation, SeveralInks
from sobercrow.core.settings import Meet, TraceKind, Tracing
from sobercrow.core.stopping import go_on
from sobercrow.core.tracing._nesting_kernels import enclosing
from sobercrow.core.tracing.borders import Borders, all_borders, find_borders
from sobercrow.core.tracing.budget import afford_fitting, afford_places
from sobercrow.core.tracing.by_file import FileSettling
from sobercrow.core.tracing.centre_lines import Stroke, find_centre_lines
from sobercrow.core.tracing.fitting import Border, Fitter, Progress, fit_all, on_all_cores
from sobercrow.core.tracing.flush import parts_seen
from sobercrow.core.tracing.graph import border_graph, fit_graph, regions
from sobercrow.core.tracing.hidden import without_hidden
from sobercrow.core.tracing.marks import with_regular_marks, with_round_marks
from sobercrow.core.tracing.meeting_points import with_meeting_points
from sobercrow.core.tracing.regular import squared_up, straightened
from sobercrow.core.tracing.regularity import Regularity
from sobercrow.core.tracing.settling import Found, Settling
from sobercrow.core.tracing.shared_axes import with_shared_axes
from sobercrow.core.tracing.straight_runs import with_straight_runs
from sobercrow.core.tracing.tips import with_sharp_tips
from sobercrow.core.tracing.told_sides import with_told_sides
from sobercrow.core.tracing.true_shapes import TrueShape


@dataclass(frozen=True, slots=True, eq=False)
class Trace:
    """Artwork, the drawn borders it was fitted to, and the true shapes found in it."""

    artwork: Artwork
    borders: Borders
    forms: tuple[TrueShape, ...]


Outlines = tuple[Borders, list[Contour]]
FOUND, FITTED, REGULAR, GRAPH = 0.05, 0.5, 0.7, 0.2
"""Shares of all the work done once borders are found, curves fitted to them, and these made regular; and once curves
are fitted to a border graph, where its parts are settled after that."""
MOST_ANCHORS = 1200
"""Several inks are settled on tones, and tips and what is regular among marks are looked for, in artwork with no more
anchors."""
STROKE_BLUR_PX = 0.3
"""Centre lines turn as sharply as the pen did."""
MOVED_SPACING_PX, MOVED_BLUR_PX = 0.5, 0.05
"""Points of outlines made thicker or thinner are that far apart, and their corners are sharp."""


def trace(
    separation: Separation,
    settings: Tracing,
    progress: Progress | None = None,
    grain_px: float = 1.0,
    early: Callable[[Trace], None] | None = None,
    draft: bool = False,
) -> Trace:
    """Fit outlines with the fewest anchors within the tolerance to the inks of a separation, a layer for each.

    `grain_px` is how many pixels what was one pixel of the drawing takes up: more than 1 once it was enlarged. Turns
    finer than that are no part of the drawing. `early` is handed the trace once curves are fitted to the borders,
    before true shapes and symmetry are looked for and curves are settled on tones. A `draft` is left without what is
    regular among its marks, and without its tips led on.

    Every outer contour becomes a shape with the holes in it; paper is never traced. Layers lie in the order of the
    separation. Inks meet flush, sharing each border coordinate for coordinate, or lower ones run on beneath upper ones.
    In a layer shapes are ordered from top to bottom, then left to right, by their bounds' corner.

    Raises
    ------
    BudgetError
        If there is so much to trace that it must be mostly grain, and the settings do not say to trace it anyway.
    Cancelled
        If `progress` raised it.
    """
    tell = progress if progress is not None else lambda _share: None
    if isinstance(separation, SeveralInks):
        separation = replace(separation, order=settings.order)
    if not settings.anyway:
        afford_places(separation.own)
    if settings.kind is TraceKind.CENTRE_LINES:
        return _trace_strokes(separation, settings, tell, grain_px)
    forms: list[TrueShape] = []

    def made(found: list[Outlines]) -> Trace:
        layers = [
            Layer(separation.inks[ink].name, _shapes(borders, contours, separation.inks[ink].colour))
            for ink, (borders, contours) in zip(separation.drawn, found, strict=True)
        ]
        if len(layers) > 1 and sum(len(contour) for _, contours in found for contour in contours) <= MOST_ANCHORS:
            layers = without_hidden(layers)
        return _finished(separation, layers, [borders for borders, _ in found], forms)

    def tell_early(found: Callable[[], list[Outlines]]) -> None:
        if early is not None:
            early(made(found()))

    if isinstance(separation, SeveralInks) and settings.meet is Meet.FLUSH:
        return made(_flush(separation, settings, tell, grain_px, forms, tell_early, draft))
    return made(_each_for_itself(separation, settings, tell, grain_px, forms, tell_early, draft))


def _finished(separation: Separation, layers: list[Layer], found: list[Borders], forms: list[TrueShape]) -> Trace:
    height, width = separation.own.shape
    artwork = Artwork(tuple(layers), float(width), float(height), separation.dpi)
    return Trace(artwork, all_borders(found), tuple(forms))


def _trace_strokes(separation: Separation, settings: Tracing, progress: Progress, grain_px: float) -> Trace:
    """Fit curves to the centre lines of every ink; dots, and areas if they are kept, stay filled."""
    layers, found = [], []
    forms: list[TrueShape] = []
    for number, ink in enumerate(separation.drawn):
        tell = partial(progress, number / len(separation.drawn))
        tell()
        field, colour = separation.field_of(ink), separation.inks[ink].colour
        lines = find_centre_lines(field, settings.effective_speck_px2, settings.keep_areas, settings.follow_pen)
        if not settings.anyway:
            afford_fitting([stroke.points for stroke in lines.strokes])
        fit, blur = (_swelling_stroke, MOVED_BLUR_PX) if settings.follow_pen else (_stroke, STROKE_BLUR_PX)
        draw = partial(fit, lines.strokes, Fitter.of(settings, blur, grain_px), colour)
        strokes = on_all_cores([len(s.points) for s in lines.strokes], draw)
        borders = find_borders(lines.rest, settings.effective_speck_px2, settings.effective_hole_px2)
        fitter = Fitter.of(settings, borders.blur_px, grain_px)
        contours = fit_borders(borders, fitter)
        regular = Regularity.find(borders.lines, contours, settings, fitter, grain_px, tell)
        forms.extend(regular.forms)
        contours = _straightened(regular.drawn(contours), regular, settings)
        layers.append(Layer(separation.inks[ink].name, (*_shapes(borders, contours, colour), *strokes)))
        found.append(find_borders(field, settings.effective_speck_px2, settings.effective_hole_px2))
    progress(1.0)
    return _finished(separation, layers, found, forms)


def _stroke(strokes: list[Stroke], fitter: Fitter, colour: str, k: int) -> Shape:
    """Fit one stroke; its ends may come as they like."""
    stroke = strokes[k]
    points = np.ascontiguousarray(stroke.points)
    contour = fitter.closed(points) if stroke.closed and len(points) > 4 else fitter.open(points, np.zeros((2, 3)))
    return stroked((contour,), colour, max(stroke.width_px, 0.1))


def _swelling_stroke(strokes: list[Stroke], fitter: Fitter, colour: str, k: int) -> Shape:
    """Draw one stroke as a shape as wide as the ink is along it."""
    stroke = strokes[k]
    assert stroke.widths_px is not None
    return swelling_shape(stroke.points, stroke.widths_px, stroke.closed, fitter, colour)


def swelling_shape(points: F64, widths: F64, closed: bool, fitter: Fitter, colour: str) -> Shape:
    """Return the shape that a round pen inks along points (n, 2) with widths (n,), px."""
    outlines = swept_outlines(points, widths, closed)
    return Shape(tuple(fitter.closed(evenly(line, MOVED_SPACING_PX)) for line in outlines), colour)


@dataclass(frozen=True, slots=True, eq=False)
class _Bordered:
    """The borders of one ink and how they are fitted."""

    field: InkField
    borders: Borders
    fitter: Fitter

    @classmethod
    def of(
        cls, separation: Separation, ink: int, settings: Tracing, grain_px: float, between: Callable[[], object]
    ) -> Self:
        """Find the borders of an ink."""
        field = separation.field_of(ink, settings.overlap_px)
        sizes = settings.effective_speck_px2, settings.effective_hole_px2
        borders = find_borders(field, *sizes, between)
        mixed = isinstance(separation, SeveralInks)
        return cls(field, borders, Fitter.of(settings, borders.blur_px, grain_px, mixed))


def _each_for_itself(
    separation: Separation,
    settings: Tracing,
    progress: Progress,
    grain_px: float,
    forms: list[TrueShape],
    tell_early: Callable[[Callable[[], list[Outlines]]], None],
    draft: bool,
) -> list[Outlines]:
    drawn = separation.drawn
    if not drawn:  # all of it is paper
        progress(1.0)
        return []

    def share_of(number: int, begin: float, end: float) -> Progress:
        return lambda share: progress(begin + (end - begin) * (number + share) / len(drawn))

    inks = [
        _Bordered.of(separation, ink, settings, grain_px, partial(share_of(number, 0.0, FOUND), 0.0))
        for number, ink in enumerate(drawn)
    ]
    if not settings.anyway:
        afford_fitting([line for one in inks for line in one.borders.lines])
    fitted = _fitted(inks, lambda share: progress(FOUND + (FITTED - FOUND) * share))
    tell_early(lambda: [(one.borders, contours) for one, contours in zip(inks, fitted, strict=True)])
    told = FITTED if settings.weight_px else REGULAR
    tones = _tones(separation, inks, settings, partial(progress, told))
    exact = grain_px == 1.0
    borders, fitters = [one.borders for one in inks], [one.fitter for one in inks]
    if settings.weight_px:
        fitters = [Fitter.of(settings, MOVED_BLUR_PX, grain_px)] * len(inks)
        heavier = [
            _made_heavier(b, contours, settings, fitter)
            for b, contours, fitter in zip(borders, tones.settled(fitted) if exact else fitted, fitters, strict=True)
        ]
        borders, fitted = [b for b, _ in heavier], [contours for _, contours in heavier]
    regular = [
        Regularity.find(b.lines, contours, settings, fitter, grain_px, partial(share_of(number, FITTED, REGULAR), 0.0))
        for number, (b, contours, fitter) in enumerate(zip(borders, fitted, fitters, strict=True))
    ]
    made = [one.drawn(contours) for one, contours in zip(regular, fitted, strict=True)]
    for one in regular:
        forms.extend(one.forms)
    is_small = sum(len(contour) for contours in made for contour in contours) <= MOST_ANCHORS
    is_moved = exact and not settings.weight_px and (is_small or isinstance(separation, OneInk))
    is_told = is_moved and is_small and not draft
    if is_moved:
        made = [one.restored(contours) for one, contours in zip(regular, tones.settled(made), strict=True)]
        by_file = FileSettling.of(tones, made) if is_small else None
        if by_file is not None:
            tones = by_file
            made = [one.restored(contours) for one, contours in zip(regular, tones.settled(made), strict=True)]
    lines = [b.lines for b in borders]
    if is_told:
        made = _as_told(made, regular, lines, fitters, tones, settings, forms)
    made = [_straightened(contours, one, settings) for contours, one in zip(made, regular, strict=True)]
    if is_told:
        made = with_sharp_tips(with_straight_runs(made, tones, moved=True), tones)
        made = with_meeting_points(made, lines, tones)
        made = with_straight_runs(made, tones, moved=False)
    progress(1.0)
    return list(zip(borders, made, strict=True))


def _as_told(
    made: Found,
    regular: Sequence[Regularity],
    lines: Sequence[Sequence[F64]],
    fitters: Sequence[Fitter],
    tones: Settling,
    settings: Tracing,
    forms: list[TrueShape],
) -> Found:
    """Contours with the sides, tips and regular marks the picture tells of; what is regular is added to the forms."""
    marked, more = with_round_marks(made, tones, settings, forms)
    forms[:] = [one for one in forms if not any(map(one.is_replaced_by, more))] + more
    marked = with_sharp_tips(with_told_sides(marked, lines, fitters, tones), tones)
    marked, more = with_regular_marks(marked, lines, fitters, tones, settings, forms)
    forms.extend(more)
    made = [one.evened(now, before) for one, now, before in zip(regular, marked, made, strict=True)]
    made, forms[:] = with_shared_axes(made, [one.symmetric() for one in regular], tones, settings, forms)
    return made


def _tones(separation: Separation, inks: list[_Bordered], settings: Tracing, between: Callable[[], object]) -> Settling:
    corner_rad = math.radians(settings.effective_corner_angle_deg)
    fields, edges = [one.field for one in inks], [one.borders.blur_px for one in inks]
    return Settling(separation, fields, edges, corner_rad, between)


def _fitted(inks: list[_Bordered], progress: Progress) -> list[list[Contour]]:
    """Contours for the borders of several inks, all of them shared out among the cores together."""
    made = fit_all([Border(one.fitter, line) for one in inks for line in one.borders.lines], progress)
    ends = cumulated([len(one.borders.lines) for one in inks]).tolist()
    return [made[first:last] for first, last in pairwise(ends)]


def _made_heavier(borders: Borders, contours: list[Contour], settings: Tracing, fitter: Fitter) -> Outlines:
    """Grow shapes by the weight, or shrink them, and fit what comes of it."""
    shapes = [shape.contours for shape in _shapes(borders, contours, "#000000")]
    lines = [evenly(line, MOVED_SPACING_PX) for line in offset_outlines(shapes, settings.weight_px)]
    areas = np.array([polygon_area(line) for line in lines], dtype=np.float64)
    least = np.where(areas > 0, settings.effective_speck_px2, settings.effective_hole_px2)
    kept = np.flatnonzero(np.abs(areas) >= np.maximum(least, 0.25))
    moved = Borders([lines[k] for k in kept], areas[kept], MOVED_BLUR_PX)
    return moved, fit_borders(moved, fitter)


def _flush(
    separation: SeveralInks,
    settings: Tracing,
    progress: Progress,
    grain_px: float,
    forms: list[TrueShape],
    tell_early: Callable[[Callable[[], list[Outlines]]], None],
    draft: bool,
) -> list[Outlines]:
    """Trace the border graph; of what is settled on tones, chains are parts of what is seen of underlaid contours."""
    progress(0.0)
    graph = border_graph(separation, settings.effective_speck_px2, settings.effective_hole_px2)
    fitter = Fitter.of(settings, graph.blur_px, grain_px, mixed=True)
    if not settings.anyway:
        afford_fitting(graph.chains)
    fits = fit_graph(graph, fitter, lambda share: progress(GRAPH * share))

    def outlines(fits: list[Contour]) -> list[Outlines]:
        return [regions(graph, fits, label + 1) for label in range(len(separation.drawn))]

    tell_early(lambda: outlines(fits))
    if grain_px == 1.0 and not draft and sum(map(len, fits)) <= MOST_ANCHORS:
        underlaid = replace(settings, weight_px=0.0)
        laid = _each_for_itself(
            separation,
            underlaid,
            lambda share: progress(GRAPH + (1.0 - GRAPH) * share),
            grain_px,
            forms,
            lambda _found: None,
            draft,
        )
        return outlines(parts_seen(graph, fits, [contours for _, contours in laid]))
    regular = Regularity.find(graph.chains, fits, settings, fitter, grain_px, partial(progress, GRAPH))
    forms.extend(regular.forms)
    return outlines(_straightened(regular.drawn(fits), regular, settings))


def _straightened(contours: list[Contour], regular: Regularity, settings: Tracing) -> list[Contour]:
    """Lines made straight and squared up, as the settings say, in all contours but those of true shapes."""
    made = list(contours)
    for k in filter(regular.is_free, range(len(made))):
        if made[k].form is not None:
            continue
        if settings.straighten_deg:
            made[k] = straightened(made[k], settings.straighten_deg, settings.effective_tolerance_px)
        if settings.square_up_deg:
            made[k] = squared_up(made[k], settings.square_up_deg)
    return made


def fit_borders(borders: Borders, fitter: Fitter, progress: Progress | None = None) -> list[Contour]:
    """Return one closed contour for each border, in the same order; both processor cores are used."""
    return fit_all([Border(fitter, line) for line in borders.lines], progress)


def _shapes(borders: Borders, contours: list[Contour], fill: str) -> tuple[Shape, ...]:
    outers = [i for i, area in enumerate(borders.areas_px2) if area > 0]
    holes = [i for i, area in enumerate(borders.areas_px2) if area <= 0]
    parts: dict[int, list[Contour]] = {i: [contours[i]] for i in outers}
    for hole, outer in zip(holes, _owners(borders, outers, holes), strict=True):
        if outer is not None:
            parts[outer].append(contours[hole])
    boxes = _boxes(borders, outers)
    order = np.lexsort((boxes[:, 0], boxes[:, 1]))
    return tuple(Shape(tuple(parts[outers[k]]), fill) for k in order.tolist())


def _boxes(borders: Borders, which: list[int]) -> F64:
    """Left, top, right, bottom of some borders, (n, 4)."""
    boxes = np.empty((len(which), 4))
    for k, i in enumerate(which):
        go_on()
        boxes[k, :2], boxes[k, 2:] = borders.lines[i].min(axis=0), borders.lines[i].max(axis=0)
    return boxes


def _owners(borders: Borders, outers: list[int], holes: list[int]) -> list[int | None]:
    """For each hole the smallest outer border around it."""
    if not holes or not outers:
        return [None] * len(holes)
    smallest_first = sorted(outers, key=lambda i: borders.areas_px2[i])
    lines = [borders.lines[i] for i in smallest_first]
    starts = cumulated([len(line) for line in lines])
    boxes = _boxes(borders, smallest_first)
    probes: F64 = np.array([borders.lines[i][0] for i in holes])
    found = enclosing(np.concatenate(lines), starts, boxes, probes)
    return [smallest_first[k] if k >= 0 else None for k in found]
