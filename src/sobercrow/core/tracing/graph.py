"""The border graph of several inks: every border once, shared by the two regions it parts."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from sobercrow.core.arrays import F64, I64, U8, cumulated
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.polygon import polygon_area
from sobercrow.core.inks._label_kernels import ink_tones, settle_seconds
from sobercrow.core.inks.regions import small_regions, surroundings
from sobercrow.core.inks.separation import SeveralInks
from sobercrow.core.parallel import in_strips
from sobercrow.core.tracing._border_kernels import locate_points
from sobercrow.core.tracing._graph_kernels import count_borders, follow_graph, place_junctions
from sobercrow.core.tracing.borders import Borders, edge_blur
from sobercrow.core.tracing.fitting import Border, Fitter, Progress, fit_all

MIDDLE = 127.5
CLEAR_PX = 1.2
"""A border's points nearer than this to a junction are pulled off by the third ink there."""
FEW_POINTS = 5
"""A chain of fewer is a line from junction to junction."""


@dataclass(frozen=True, slots=True, eq=False)
class Graph:
    """Borders between inks, each once.

    Attributes
    ----------
    chains : list of (n, 2) float64
        Points x, y in picture pixels, in order; those of a chain between junctions begin and end at them.
    labels : (m, 2) int64
        Which ink lies at the right and the left hand of each chain (y down): k + 1 for the k-th drawn, 0 for none.
    ends : (m, 2) int64
        The junctions each comes from and goes to; −1 for closed ones.
    directions : (m, 2, 3) float64
        The way it runs at both ends, and 1 where it runs on smoothly in another chain.
    blur_px : float
        Width of the picture's edges, as a standard deviation.
    """

    chains: list[F64]
    labels: I64
    ends: I64
    directions: F64
    blur_px: float


def border_graph(separation: SeveralInks, speck_px2: float = 0.0, hole_px2: float = 0.0) -> Graph:
    """Return the border graph of the drawn inks of a separation.

    What is not drawn counts as one, together with what is beyond the picture. Spots smaller than `speck_px2` and holes
    smaller than `hole_px2` fall to what is around them.
    """
    own, second, share = _relabelled(separation, speck_px2, hole_px2)
    height, width = own.shape
    framed, weight = np.pad(own, 1), np.pad(share, 1, constant_values=255)
    crossings, starts, labels, ends, nodes = follow_graph(framed, weight, *count_borders(framed))
    lines: list[F64] = [np.empty((0, 2))] * len(labels)
    blurs: list[float] = []
    for ink in np.unique(labels[:, 0]):
        tones = np.empty_like(own)
        in_strips(height, lambda a, b, i=int(ink), t=tones: ink_tones(own, second, share, i, a, b, t))  # type: ignore[misc]
        mine = np.flatnonzero(labels[:, 0] == ink)
        room = np.empty((int((starts[mine + 1] - starts[mine]).max()), 2))
        for k in mine:
            stretch = crossings[starts[k] : starts[k + 1]]
            kept = locate_points(tones, stretch, MIDDLE, MIDDLE, 0.0, 255.0, room)
            lines[k] = room[:kept].copy()
        blurs.append(edge_blur(tones, np.concatenate([crossings[starts[k] : starts[k + 1]] for k in mine]), 255.0))
    flat: F64 = np.concatenate([*lines, np.empty((0, 2))])
    first = cumulated([len(line) for line in lines])
    places, away = np.empty((len(nodes), 2)), np.empty((len(labels), 2, 2))
    smooth = np.empty((len(labels), 2), dtype=np.uint8)
    place_junctions(flat, first, ends, nodes, height, width, places, away, smooth)
    directions = np.concatenate([away * np.array([1.0, -1.0])[:, None], smooth[..., None]], axis=2)
    chains = [_between(lines[k], places[a], places[b]) if a >= 0 else lines[k] for k, (a, b) in enumerate(ends)]
    return Graph(chains, labels, ends, directions, float(np.median(blurs)) if blurs else 0.45)


def _relabelled(separation: SeveralInks, speck_px2: float, hole_px2: float) -> tuple[U8, U8, U8]:
    """Own and second label of every pixel, 0 for what is not drawn, and the share; small regions are gone."""
    place = np.zeros(256, dtype=np.uint8)
    place[list(separation.drawn)] = np.arange(1, len(separation.drawn) + 1)
    own, second, share = place[separation.own], place[separation.labels.second], separation.labels.share.copy()
    share[own == second] = 255
    spots = small_regions(own, list(range(1, len(separation.drawn) + 1)), speck_px2).mask
    mask = spots | small_regions(own, [0], hole_px2, inside_only=True).mask
    if mask.any():
        own[mask] = second[mask] = surroundings(own, mask)
        share[mask] = 255
        settle_seconds(own, second, share)
    return own, second, share


def _between(line: F64, start: F64, end: F64) -> F64:
    """A border's points from junction to junction, without those the junctions pull off."""
    far = (np.hypot(*(line - start).T) > CLEAR_PX) & (np.hypot(*(line - end).T) > CLEAR_PX)
    return np.concatenate([start[None], line[far], end[None]])


def fit_graph(graph: Graph, fitter: Fitter, progress: Progress | None = None) -> list[Contour]:
    """Return a contour for each chain, open between junctions."""

    fits: list[Contour | None] = []
    curved = []
    for line, ends, (start, _) in zip(graph.chains, graph.directions, graph.ends.tolist(), strict=True):
        closed = start < 0
        if closed and len(line) <= 3:
            fits.append(_polygon(line, closed=True))
        elif not closed and (len(line) < FEW_POINTS or on_one_edge(line)):
            fits.append(_polygon(line[[0, -1]], closed=False))
        else:
            fits.append(None)
            curved.append(Border(fitter, line, None if closed else ends))
    made = iter(fit_all(curved, progress))
    return [next(made) if fit is None else fit for fit in fits]


def on_one_edge(line: F64) -> bool:
    """Tell whether a border runs along one edge of the picture: all its points lie level or upright."""
    return bool((np.ptp(line, axis=0) == 0.0).any())


def _polygon(line: F64, closed: bool) -> Contour:
    return Contour(np.repeat(line[:, None], 3, axis=1), np.zeros(len(line), dtype=np.uint8), closed)


def regions(graph: Graph, fits: list[Contour], label: int) -> tuple[Borders, list[Contour]]:
    """Return the closed borders of a label, ink at the right hand, and their contours, made of the fitted chains.

    A region of which nothing is left, thinner than its borders are rough, is left out.
    """
    right, left_of = graph.labels[:, 0].tolist(), graph.labels[:, 1].tolist()
    ends = graph.ends.tolist()
    ways = [(k, True) for k in range(len(right)) if right[k] == label]
    ways += [(k, False) for k in range(len(right)) if left_of[k] == label]
    next_at = {ends[k][0 if forth else 1]: (k, forth) for k, forth in ways}
    lines, contours = [], []
    left = dict.fromkeys(ways)
    while left:
        start = next(iter(left))
        run = [start]
        del left[start]
        while ends[run[-1][0]][0] >= 0:
            k, forth = run[-1]
            ahead = next_at[ends[k][1 if forth else 0]]
            if ahead == start:
                break
            run.append(ahead)
            del left[ahead]
        contour = _joined([fits[k] if forth else fits[k].reversed() for k, forth in run])
        if not _is_fold(contour):
            lines.append(np.concatenate([_directed(graph.chains[k], forth, len(run) > 1) for k, forth in run]))
            contours.append(contour)
    areas = np.array([polygon_area(line) for line in lines], dtype=np.float64)
    return Borders(lines, areas, graph.blur_px), contours


def _is_fold(contour: Contour) -> bool:
    """Tell whether a contour is a line there and back: a sliver both sides of which were fitted by the same line."""
    return len(contour) == 2 and bool((contour.points == contour.points[:, 1:2]).all())


def _directed(line: F64, forth: bool, one_of_several: bool) -> F64:
    line = line if forth else line[::-1]
    return line[:-1] if one_of_several else line


def _joined(parts: list[Contour]) -> Contour:
    """One closed contour of open ones, each of which ends where the next begins."""
    if parts[0].closed:
        return parts[0]
    points, kinds = [], []
    for before, part in pairwise([parts[-1], *parts]):
        run, kind = part.points[:-1].copy(), part.kinds[:-1].copy()
        run[0, 0] = before.points[-1, 0]
        kind[0] = 1 if before.kinds[-1] and part.kinds[0] else 0  # smooth, or a corner
        points.append(run)
        kinds.append(kind)
    return Contour.known(np.concatenate(points), np.concatenate(kinds))
