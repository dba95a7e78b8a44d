"""The faults that stand in the way of handing artwork over, a function for each kind."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np
import shapely
from numpy.typing import NDArray

from sobercrow.core.arrays import F64, I64, cumulated
from sobercrow.core.artwork.choice import AnchorRef, Choice
from sobercrow.core.artwork.hit import box_holds, boxes_meet
from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry._near_kernels import near_pairs
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.geometry.crossings import own_crossings
from sobercrow.core.handover.inks import is_shaded
from sobercrow.core.handover.page import outside
from sobercrow.core.handover.purpose import Purpose
from sobercrow.core.inspect.looked import DOUBLED_MM, Looked, Spot
from sobercrow.core.settings import px_to_mm

LEAST_RUN_MM = 1.0
"""Lines that lie in one place for less are not told, unless one of them is hardly longer."""
NEEDLESS_MM, NEEDLESS_SHARE, LEAST_NEEDLESS = 0.003, 0.4, 2
"""An anchor is needless if one curve in place of two lies no further off; contours are told with so many of them."""
TIP, SPIKE = 6.0, 40.0
"""Sides meet at a tip if along their contour they come so near to each other, in widths of the tool; else it is a
spike."""
ABOUT_NARROWEST = 1.02
"""A part too narrow is told of in the middle of where it is hardly wider than at its narrowest."""
ALL_BUT = 0.002
"""A shape is hidden if no more of it than such a share is seen."""


def _shape_spot(artwork: Artwork, k: int) -> Spot:
    left, top, right, bottom = artwork.shapes[k].bounds()
    return Spot(0.5 * (left + right), 0.5 * (top + bottom), Choice(shapes=frozenset({k})))


def find_open(looked: Looked) -> Iterable[Spot]:
    """Filled contours whose ends do not meet."""
    for coat in looked.coats:
        for c, contour in enumerate(coat.shape.contours):
            if coat.shape.fill is not None and not contour.closed:
                x, y = contour.anchors[-1].tolist()
                ends = frozenset({AnchorRef(coat.place, c, 0), AnchorRef(coat.place, c, len(contour) - 1)})
                yield Spot(x, y, Choice(anchors=ends))


def find_doubled(looked: Looked) -> Iterable[Spot]:
    """Lines of one ink that lie in one place; the upper shape is chosen."""
    points, same = looked.points, looked.px(DOUBLED_MM)
    pairs = points.doubled(looked.pairs, same)
    edges = np.sort(points.edge[pairs], axis=1)
    keys, which = np.unique(edges, axis=0, return_inverse=True)
    for n, (one, other) in enumerate(keys.tolist()):
        own = pairs[which.ravel() == n]
        both = own.ravel()
        run = min(len(np.unique(both[points.edge[both] == edge])) for edge in (one, other)) * points.spacing
        shorter = min(points.length[one], points.length[other])
        if run >= min(looked.px(LEAST_RUN_MM), 0.7 * shorter):
            x, y = points.places[own[len(own) // 2, 0]].tolist()
            upper = max(points.edges[one].shape, points.edges[other].shape)
            yield Spot(x, y, Choice(shapes=frozenset({upper})), line=points.places[np.unique(both)])


def find_crossings(looked: Looked) -> Iterable[Spot]:
    """Contours that cross themselves, for a blade also each other."""
    for edge, place in zip(looked.edges, own_crossings([edge.outline for edge in looked.edges]), strict=True):
        if place[0] >= 0.0:
            x, y = edge.outline.anchors[int(place[0])].tolist()
            yield Spot(x, y, Choice(shapes=frozenset({edge.shape})))
    if looked.settings.purpose in (Purpose.CUT, Purpose.ENGRAVE):
        yield from _crossing_each_other(looked)


def _crossing_each_other(looked: Looked) -> Iterable[Spot]:
    """Filled contours of one ink that cross: a blade would cut through both."""
    near = {k for pair in looked.meeting for k in pair}
    near |= {k for k in looked.filled if k not in near and _boxes_overlap(looked.artwork.shapes[k])}
    for n in range(len(looked.inks)):
        edges = [e for e in looked.edges if e.ink == n and e.shape in near and e.is_filled and len(e.outline) > 1]
        if len(edges) < 2:
            continue
        rings = [shapely.LineString(_ring(edge.outline, looked.px(0.1))) for edge in edges]
        one, other = shapely.STRtree(rings).query(rings, predicate="crosses")
        told: set[tuple[int, int]] = set()
        for a, b in zip(one.tolist(), other.tolist(), strict=True):
            pair = (min(edges[a].shape, edges[b].shape), max(edges[a].shape, edges[b].shape))
            if a < b and pair not in told:
                told.add(pair)
                at = shapely.get_coordinates(shapely.intersection(rings[a], rings[b]))[0].tolist()
                yield Spot(at[0], at[1], Choice(shapes=frozenset(pair)))


def find_narrow_parts(looked: Looked) -> Iterable[Spot]:
    """Ink narrower than the finest tool."""
    return _narrow(looked, True)


def find_narrow_gaps(looked: Looked) -> Iterable[Spot]:
    """Paper between ink narrower than the finest tool."""
    return _narrow(looked, False)


def _boxes_overlap(shape: Shape) -> bool:
    """Whether boxes of two contours overlap without one being in the other."""
    boxes = [contour.bounds() for contour in shape.contours]
    return any(
        boxes_meet(a, b) and not (box_holds(a, b) or box_holds(b, a)) for k, a in enumerate(boxes) for b in boxes[:k]
    )


def _ring(contour: Contour, spacing_px: float) -> F64:
    line = contour.sampled(spacing_px)
    return np.vstack([line, line[:1]])


def _narrow(looked: Looked, parts: bool) -> Iterable[Spot]:
    points, tool = looked.points, looked.px(looked.settings.tool_mm)
    pairs, straight, is_ink = looked.facing
    found = pairs[is_ink] if parts else pairs[~is_ink & (straight >= looked.px(DOUBLED_MM))]
    found = _in_sight(looked, found, parts)
    if not len(found):
        return
    found = found[np.lexsort((found[:, 1], found[:, 0]))]  # along the edges, so that lines across are even
    middles = 0.5 * (points.places[found[:, 0]] + points.places[found[:, 1]])
    shapes = points.shape[points.edge[found]]
    order, firsts = _clusters(middles, max(1.5 * tool, 3.0 * points.spacing), shapes[:, 0] if parts else None)
    found, middles, shapes = found[order], middles[order], shapes[order]
    across = np.hypot(*(points.places[found[:, 0]] - points.places[found[:, 1]]).T)
    told = ~_are_tips(points.along_between(found), across, firsts, tool) & (np.diff(firsts) >= 2)
    least = np.minimum.reduceat(across, firsts[:-1])
    places = _middles_of_narrowest(middles, across, least, firsts)
    for n in np.flatnonzero(told).tolist():
        first, last = firsts[n : n + 2].tolist()
        x, y = places[n].tolist()
        line = points.places[found[first : last : max(1, (last - first) // 40)]]
        choice = Choice(shapes=frozenset(shapes[first:last].ravel().tolist()))
        yield Spot(x, y, choice, px_to_mm(float(least[n]), looked.artwork.dpi), line)


def _middles_of_narrowest(middles: F64, across: F64, least: F64, firsts: I64) -> F64:
    """Of each cluster the place in the middle of where it is about narrowest, (clusters, 2)."""
    cluster = np.repeat(np.arange(len(least)), np.diff(firsts))
    is_least = across <= ABOUT_NARROWEST * least[cluster]
    counts = np.add.reduceat(is_least, firsts[:-1], dtype=np.int64)
    mean = np.add.reduceat(middles * is_least[:, None], firsts[:-1]) / counts[:, None]
    away = np.where(is_least, np.hypot(*(middles - mean[cluster]).T), np.inf)
    return np.asarray(middles[np.lexsort((away, cluster))[firsts[:-1]]], dtype=np.float64)


def _are_tips(about: F64, across: F64, firsts: I64, tool: float) -> NDArray[np.bool_]:
    """Whether two sides meet at a tip: there every corner is narrower than any tool. Long spikes are told."""
    low, high = ([of.reduceat(values, firsts[:-1]) for values in (about, across)] for of in (np.minimum, np.maximum))
    meets = (low[0] < TIP * tool) & (high[0] < SPIKE * tool)
    return np.asarray(meets & (high[1] > 0.8 * tool) & (low[1] < 0.6 * high[1]))


def _in_sight(looked: Looked, pairs: I64, parts: bool) -> I64:
    """Leave out what lies between edges that other shapes of the ink cover, or that another ink fills."""
    points = looked.points
    if not len(pairs):
        return pairs
    shapes = set(np.unique(points.shape[points.edge[pairs]]).tolist())
    over = sorted({k for pair in looked.meeting for k in pair if shapes & set(pair)})
    if not over:
        return pairs
    middles = shapely.points(0.5 * (points.places[pairs[:, 0]] + points.places[pairs[:, 1]]))
    # this way round the areas, which may have many corners, are prepared
    cover, which = shapely.STRtree(middles).query([looked.area(k) for k in over], predicate="contains")
    shape, colour = np.array(over)[cover], [looked.artwork.shapes[k].colour for k in range(len(looked.artwork.shapes))]
    own = points.shape[points.edge[pairs[which]]]
    covered = np.zeros(len(pairs), dtype=bool)
    for n, k, (a, b) in zip(which.tolist(), shape.tolist(), own.tolist(), strict=True):
        if parts and k not in (a, b) and (colour[k] == colour[a] or k > max(a, b)):
            covered[n] = True
        if not parts and (k > max(a, b) or colour[k] == colour[a]):
            covered[n] = True
    kept: I64 = pairs[~covered]
    return kept


def _clusters(places: F64, near: float, kinds: I64 | None) -> tuple[I64, I64]:
    """Places in such an order that those which hang together, of one kind each, follow each other; and where each of
    these clusters begins, (clusters + 1,)."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import connected_components

    # one place for each small cell stands for all in it
    cells = np.floor(places / (0.5 * near)).astype(np.int64)
    keys = cells if kinds is None else np.column_stack([cells, kinds])
    _, first, cell_of = np.unique(keys, axis=0, return_index=True, return_inverse=True)
    some, apart = places[first], np.arange(len(first))
    kind = np.zeros(len(first), dtype=np.int64) if kinds is None else kinds[first]
    pairs = near_pairs(some, kind, apart, np.zeros(len(first)), np.full(len(first), np.inf), near, 0.0)
    graph = coo_matrix((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(len(first), len(first)))
    _, labels = connected_components(graph, directed=False)
    own = labels[cell_of.ravel()]
    order = np.argsort(own, kind="stable")
    return order, np.concatenate([[0], np.flatnonzero(np.diff(own[order])) + 1, [len(order)]])


def find_stragglers(looked: Looked) -> Iterable[Spot]:
    """Filled shapes smaller than wanted."""
    least = looked.px(1.0) ** 2 * looked.settings.least_mm2
    for k in looked.seen:
        shape = looked.artwork.shapes[k]
        left, top, right, bottom = shape.bounds()
        if shape.is_filled and (right - left) * (bottom - top) < 4.0 * least and _area(shape) < least:
            yield _shape_spot(looked.artwork, k)


def _area(shape: Shape) -> float:
    return abs(sum(contour.area() for contour in shape.contours))


def find_hidden(looked: Looked) -> Iterable[Spot]:
    """Shapes wholly beneath others."""
    above: dict[int, list[int]] = {}
    for lower, upper in looked.meeting:
        above.setdefault(lower, []).append(upper)
    for k, covers in above.items():
        own = looked.area(k)
        room = sum(looked.area(j).area for j in covers)
        if own.area > 0.0 and room >= (1.0 - ALL_BUT) * own.area:
            cover = shapely.union_all([looked.area(j) for j in covers])
            if own.difference(cover).area <= ALL_BUT * own.area:
                yield _shape_spot(looked.artwork, k)


def find_paper_coloured(looked: Looked) -> Iterable[Spot]:
    """Shapes in the colour of the paper."""
    for k in dict.fromkeys(
        c.place for c in looked.coats if c.shape.colour == looked.settings.paper and not is_shaded(c)
    ):
        yield _shape_spot(looked.artwork, k)


def find_strokes(looked: Looked) -> Iterable[Spot]:
    """Lines with a width."""
    for k in looked.seen:
        if looked.artwork.shapes[k].stroke is not None:
            yield _shape_spot(looked.artwork, k)


def find_shaded(looked: Looked) -> Iterable[Spot]:
    """Gradients."""
    for coat in looked.coats:
        if is_shaded(coat):
            yield _shape_spot(looked.artwork, coat.place)


def find_too_many_inks(looked: Looked) -> Iterable[Spot]:
    """Inks for which there is no plate: those of the fewest shapes."""
    for ink in sorted(looked.inks, key=lambda ink: len(ink.coats))[
        : max(0, len(looked.inks) - int(looked.settings.plates))
    ]:
        spot = _shape_spot(looked.artwork, ink.coats[0].place)
        yield Spot(spot.x, spot.y, Choice(shapes=frozenset(coat.place for coat in ink.coats)))


def find_too_much_ink(looked: Looked) -> Iterable[Spot]:
    """Inks whose four printing inks together are more than the press can lay."""
    printing = looked.settings.printing
    if printing is None:
        return
    totals = {colour: sum(cmyk) for colour, cmyk in printing.cmyk_of(ink.colour for ink in looked.inks).items()}
    for ink in looked.inks:
        if totals[ink.colour] > looked.settings.most_ink:
            spot = _shape_spot(looked.artwork, ink.coats[0].place)
            yield Spot(spot.x, spot.y, Choice(shapes=frozenset(coat.place for coat in ink.coats)))


def find_outside(looked: Looked) -> Iterable[Spot]:
    """Shapes that reach over the edge of the page."""
    for k in outside(looked.artwork):
        yield _shape_spot(looked.artwork, k)


def find_needless(looked: Looked) -> Iterable[Spot]:
    """Contours with anchors that one curve in place of two would do without."""
    edges = [edge for edge in looked.edges if edge.outline.form is None]
    found = needless_anchors([edge.outline for edge in edges], looked.px(NEEDLESS_MM))
    for edge, which in zip(edges, found, strict=True):
        if len(which) >= max(LEAST_NEEDLESS, NEEDLESS_SHARE * len(edge.outline)):
            x, y = edge.outline.anchors[which[0]].tolist()
            refs = frozenset(AnchorRef(edge.shape, edge.contour, k) for k in which.tolist())
            yield Spot(x, y, Choice(anchors=refs))


def needless_anchors(contours: Sequence[Contour], tolerance_px: float) -> list[I64]:
    """Return for each contour the anchors in whose place one curve instead of two is no further off than a tolerance.

    The curve that de Casteljau's construction would split there is put together again from the outer handles.
    """
    before, after, anchors, owner = _pieces_at_anchors(contours)
    if not len(owner):
        return [np.zeros(0, dtype=np.int64) for _ in contours]
    into, out = before[:, 3] - before[:, 2], after[:, 1] - after[:, 0]
    chords = [np.linalg.norm(c[:, 3] - c[:, 0], axis=1) for c in (before, after)]
    arms = [np.linalg.norm(v, axis=1) for v in (into, out)]
    # of straight pieces without handles the chords tell the share
    plain = (arms[0] < 1e-9) | (arms[1] < 1e-9)
    share = np.where(plain, chords[0] / (chords[0] + chords[1] + 1e-12), arms[0] / (arms[0] + arms[1] + 1e-12))
    share = np.clip(share, 0.02, 0.98)[:, None]
    first = before[:, 0] + (before[:, 1] - before[:, 0]) / share
    second = after[:, 3] + (after[:, 2] - after[:, 3]) / (1.0 - share)
    straight = plain & (np.linalg.norm(before[:, 1] - before[:, 0], axis=1) < 1e-9)
    first[straight], second[straight] = before[straight, 0], after[straight, 3]
    whole = np.stack([before[:, 0], first, second, after[:, 3]], axis=1)
    worst = np.zeros(len(whole))
    for u in (0.25, 0.5, 0.75, 1.0):
        for part, t in ((before, share * u), (after, share + (1.0 - share) * (1.0 - u))):
            here = np.full((len(part), 1), u if part is before else 1.0 - u)
            worst = np.maximum(worst, _off_line(whole, t, bezier.on_curves(part, here)))
    kinds = np.concatenate([contour.kinds for contour in contours])
    firsts = cumulated([len(contour) for contour in contours])[owner]
    kept = (worst <= tolerance_px) & ((kinds[firsts + anchors] != int(AnchorKind.CORNER)) | straight)
    ends = np.searchsorted(owner[kept], np.arange(1, len(contours)))
    return np.split(anchors[kept], ends)


def _pieces_at_anchors(contours: Sequence[Contour]) -> tuple[F64, F64, I64, I64]:
    """The curves before and after every anchor that has both, the anchor, and the contour it is of."""
    before, after, anchors, owner = [], [], [], []
    for k, contour in enumerate(contours):
        curves = contour.curves()
        if contour.closed and len(curves) > 2:
            before.append(np.roll(curves, 1, axis=0))
            after.append(curves)
            anchors.append(np.arange(len(curves)))
        elif len(curves) > 1:
            before.append(curves[:-1])
            after.append(curves[1:])
            anchors.append(np.arange(1, len(curves)))
        else:
            continue
        owner.append(np.full(len(anchors[-1]), k))
    if not before:
        return np.zeros((0, 4, 2)), np.zeros((0, 4, 2)), np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64)
    return np.concatenate(before), np.concatenate(after), np.concatenate(anchors), np.concatenate(owner)


def _off_line(curves: F64, t: F64, places: F64) -> F64:
    """How far places are from curves near parameters, across the way the curves run there."""
    away, way = places - bezier.on_curves(curves, t), bezier.along_curves(curves, t)
    size = np.hypot(way[:, 0], way[:, 1])
    across = np.abs(away[:, 0] * way[:, 1] - away[:, 1] * way[:, 0]) / np.maximum(size, 1e-12)
    return np.where(size > 1e-9, across, np.hypot(away[:, 0], away[:, 1]))
