"""The border graph: its properties on made-up label maps, and several inks traced flush."""

from __future__ import annotations

import io
from dataclasses import replace

import cv2
import numpy as np
import pathops
import pytest
import resvg_py
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image
from shapely.geometry import Polygon

from ink_scenes import flat_scene
from sobercrow.core.artwork.model import Artwork, Layer, Shape
from sobercrow.core.formats.svg import svg_bytes
from sobercrow.core.geometry.contour import AnchorKind, Contour
from sobercrow.core.inks.colour import rgb_of_hex
from sobercrow.core.inks.labels import Labels
from sobercrow.core.inks.palette import read_colours
from sobercrow.core.inks.separation import SeveralInks, separate
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import Ink, InkKind, Inks, Meet, Role, Tracing
from sobercrow.core.tracing._graph_kernels import count_borders, follow_graph
from sobercrow.core.tracing.graph import border_graph, regions
from sobercrow.core.tracing.outlines import trace

FLUSH = Tracing(meet=Meet.FLUSH, speck_px2=0.0)


def label_map(seed: int, count: int = 4) -> np.ndarray:
    random = np.random.default_rng(seed)
    shape = random.integers(2, 9, 2)
    return random.integers(0, count, shape).astype(np.uint8)


def followed(labels: np.ndarray):
    framed = np.pad(labels, 1)
    return follow_graph(framed, np.full_like(framed, 255), *count_borders(framed))


def separation_of(labels: np.ndarray, paper: int | None = 0) -> SeveralInks:
    """A separation of pure pixels; label 0 is the paper unless there is none."""
    count = int(labels.max()) + 1
    inks = tuple(
        Ink(f"#{40 * k:02x}{255 - 30 * k:02x}80", f"Ink {k}", Role.PAPER if k == paper else Role.INK)
        for k in range(count)
    )
    coverage = np.bincount(labels.ravel(), minlength=count) / labels.size
    colours = read_colours(np.zeros((4, 4, 3), np.uint8))
    palette = np.array([rgb_of_hex(ink.colour) for ink in inks], dtype=np.uint8)
    pure = Labels(labels, labels.copy(), np.full_like(labels, 255))
    return SeveralInks(inks, pure, colours, False, coverage, 300.0, palette[labels], np.zeros(labels.shape, bool))


@settings(max_examples=60, deadline=None)
@given(st.integers(0, 10**6))
def test_chains_cover_every_border_once_with_the_greater_label_at_the_right(seed: int) -> None:
    labels = label_map(seed)
    crossings, starts, sides, ends, nodes = followed(labels)
    framed = np.pad(labels, 1)
    step = np.array([(0, 1), (1, 0), (0, -1), (-1, 0)])
    there = crossings[:, :2] + step[crossings[:, 2]]
    mine = framed[crossings[:, 0] + 1, crossings[:, 1] + 1]
    other = framed[there[:, 0] + 1, there[:, 1] + 1]
    assert (mine > other).all()
    chain = np.repeat(np.arange(len(starts) - 1), np.diff(starts))
    assert np.array_equal(np.column_stack([mine, other]), sides[chain])
    across = np.sort(np.stack([crossings[:, :2], there], axis=1).sum(axis=1), axis=0)
    level = np.argwhere(framed[:, 1:] != framed[:, :-1]) * 2 + (0, 1) - 2
    upright = np.argwhere(framed[1:] != framed[:-1]) * 2 + (1, 0) - 2
    expected = np.sort(np.concatenate([level, upright]), axis=0)
    assert np.array_equal(across, expected)
    assert (np.bincount(ends[ends >= 0], minlength=len(nodes)) >= 2).all()


@settings(max_examples=40, deadline=None)
@given(st.integers(0, 10**6), st.booleans())
def test_regions_are_closed_and_their_areas_add_up(seed: int, paper: bool) -> None:
    labels = np.kron(label_map(seed), np.ones((6, 6), np.uint8))
    separation = separation_of(labels, 0 if paper else None)
    graph = border_graph(separation)
    straight = [
        Contour(np.repeat(line[:, None], 3, axis=1), np.zeros(len(line), np.uint8), graph.ends[k, 0] < 0)
        for k, line in enumerate(graph.chains)
    ]
    total = 0.0
    for label in range(1, len(separation.drawn) + 1):
        borders, contours = regions(graph, straight, label)
        assert all(c.closed for c in contours)
        area = sum(c.area() for c in contours)
        assert area == pytest.approx(borders.areas_px2.sum(), abs=1e-6)
        share = separation.coverage[separation.drawn[label - 1]] * labels.size
        assert area == pytest.approx(share, abs=0.12 * share + 12)
        total += area
    drawn = (labels > 0).sum() if paper else labels.size
    if not paper:
        assert total == pytest.approx(drawn, rel=1e-9)


def scene_artwork(seed: int, blur: float = 0.0, quality: int | None = None) -> tuple[Artwork, SeveralInks]:
    scene = flat_scene(seed, 5, 192)
    found = separate(Picture(scene.rendered(blur, quality), 300.0), Inks(InkKind.SEVERAL, paper="none"))
    assert isinstance(found, SeveralInks)
    return trace(found, FLUSH).artwork, found


def polygon_of(shape: Shape) -> shapely.Geometry:
    outer, *holes = (c.sampled(0.02) for c in shape.contours)
    return Polygon(outer, holes)


@pytest.mark.parametrize("seed", [301, 302, 303])
def test_neighbours_share_the_border_coordinate_for_coordinate(seed: int) -> None:
    artwork, _ = scene_artwork(seed)
    pieces: dict[bytes, int] = {}
    for shape in artwork.shapes:
        for contour in shape.contours:
            for curve in contour.curves():
                forth, back = np.round(curve, 9), np.round(curve[::-1], 9)
                pieces[min((forth + 0.0).tobytes(), (back + 0.0).tobytes())] = (
                    pieces.get(min((forth + 0.0).tobytes(), (back + 0.0).tobytes()), 0) + 1
                )
    edge = artwork.width_px
    alone = [np.frombuffer(key).reshape(4, 2) for key, count in pieces.items() if count == 1]
    for curve in alone:  # only the picture's own edge belongs to one shape
        assert any((np.abs(curve[:, axis] - side) < 1e-6).all() for axis in (0, 1) for side in (0.0, edge))
    assert max(pieces.values()) == 2
    total = sum(c.area() for shape in artwork.shapes for c in shape.contours)
    assert total == pytest.approx(artwork.width_px * artwork.height_px, rel=1e-6)


def test_shapely_and_pathops_find_neither_gap_nor_overlap() -> None:
    artwork, _ = scene_artwork(305)
    whole = shapely.union_all([polygon_of(s).buffer(0) for s in artwork.shapes])
    assert whole.area == pytest.approx(192 * 192, rel=2e-4)
    assert sum(polygon_of(s).buffer(0).area for s in artwork.shapes) == pytest.approx(192 * 192, rel=2e-4)
    path = pathops.Path()
    for shape in artwork.shapes:
        for contour in shape.contours:
            pen = path.getPen()
            curves = contour.curves()
            pen.moveTo(tuple(curves[0, 0]))
            for curve in curves:
                pen.curveTo(*(tuple(p) for p in curve[1:]))
            pen.closePath()
    path.simplify(fix_winding=True)
    assert abs(path.area) == pytest.approx(192 * 192, rel=2e-3)


@pytest.mark.parametrize("quality", [None, 40])
def test_rendered_by_resvg_flush_artwork_is_the_picture_without_page_between(quality: int | None) -> None:
    artwork, found = scene_artwork(310, 0.8 if quality else 0.0, quality)
    svg = svg_bytes(artwork).decode().replace("<svg ", '<svg shape-rendering="crispEdges" ', 1)
    data = resvg_py.svg_to_bytes(svg_string=svg, background="#ff00ff", dpi=8 * 300.0)

    pixels = np.asarray(Image.open(io.BytesIO(bytes(data))).convert("RGB"))
    page = (pixels == (255, 0, 255)).all(axis=2)
    assert page[8:-8, 8:-8].mean() < 1e-5
    colours = np.array([[int(ink.colour[k : k + 2], 16) for k in (1, 3, 5)] for ink in found.inks])
    drawn = colours[found.own]
    middle = pixels[4::8, 4::8][: drawn.shape[0], : drawn.shape[1]]
    assert (np.abs(middle.astype(int) - drawn).max(axis=2) < 3).mean() > 0.97


def test_a_border_runs_smoothly_through_a_junction_it_passes() -> None:
    y, x = np.mgrid[:240, :240] / 2.0 + 0.25
    labels = np.where(np.hypot(x - 60, y - 60) < 40, 1, 0)
    labels = np.where((x < 60) & (labels == 0), 2, labels).astype(np.uint8)
    pixels = np.array([(255, 255, 255), (30, 30, 30), (190, 60, 40)], float)[labels]
    pixels = cv2.resize(pixels, (120, 120), interpolation=cv2.INTER_AREA).astype(np.uint8)
    found = separate(Picture(pixels, 300.0), Inks(InkKind.SEVERAL, paper="none"))
    artwork = trace(found, FLUSH).artwork
    dark = min((s for s in artwork.shapes), key=lambda s: int(s.fill[1:3], 16))
    (contour,) = dark.contours
    assert (contour.kinds != AnchorKind.CORNER).all()
    points = contour.sampled(0.2)
    assert np.abs(np.hypot(*(points - 60).T) - 40).max() < 0.15
    assert len(contour) <= 8


def test_a_picture_turned_or_mirrored_gives_the_graph_turned_or_mirrored() -> None:
    labels = np.kron(label_map(77), np.ones((8, 8), np.uint8))
    labels[10:30, 12:14] = 1
    plain = border_graph(separation_of(labels))
    mirrored = border_graph(separation_of(np.ascontiguousarray(labels[:, ::-1])))
    turned = border_graph(separation_of(np.ascontiguousarray(np.rot90(labels))))
    width = labels.shape[1]
    for other, back in (
        (mirrored, lambda p: np.column_stack([width - p[:, 0], p[:, 1]])),
        (turned, lambda p: np.column_stack([width - p[:, 1], p[:, 0]])),
    ):
        here = np.sort(np.concatenate(plain.chains).round(6), axis=0)
        there = np.sort(back(np.concatenate(other.chains)).round(6), axis=0)
        assert np.allclose(here, there, atol=1e-5)


def test_lower_inks_run_on_beneath_upper_ones_by_the_overlap() -> None:
    pixels = np.full((80, 120, 3), 255, np.uint8)
    pixels[10:70, 10:110] = (190, 60, 40)
    pixels[10:70, 70:110] = (30, 60, 160)
    found = separate(Picture(pixels, 300.0), Inks(InkKind.SEVERAL))
    for overlap in (1.0, 4.0):
        artwork = trace(found, Tracing(overlap_px=overlap)).artwork
        lower, upper = artwork.layers
        assert upper.shapes[0].bounds() == pytest.approx((70, 10, 110, 70), abs=0.1)
        assert lower.shapes[0].bounds() == pytest.approx((10, 10, 70 + overlap, 70), abs=0.3)
    red = found.inks[found.drawn[0]].colour
    lower, upper = trace(found, Tracing(overlap_px=4.0, order=(red,))).artwork.layers
    assert upper.shapes[0].bounds() == pytest.approx((10, 10, 70, 70), abs=0.1)
    assert lower.shapes[0].bounds() == pytest.approx((66, 10, 110, 70), abs=0.3)


def test_layers_of_flush_inks_are_those_of_the_separation() -> None:
    artwork, found = scene_artwork(320)
    assert [layer.name for layer in artwork.layers] == [found.inks[k].name for k in found.drawn]
    assert all(isinstance(layer, Layer) and layer.shapes for layer in artwork.layers)


@pytest.mark.parametrize("seed", [310])
def test_flush_artwork_shows_the_very_edges_of_underlaid_artwork(seed: int) -> None:
    """Of both kinds, drawn by resvg without soft edges, eight times as large."""
    _, found = scene_artwork(seed, 0.8, 50)
    seen = []
    for meet in Meet:
        svg = svg_bytes(trace(found, replace(FLUSH, meet=meet)).artwork).decode()
        data = resvg_py.svg_to_bytes(
            svg_string=svg.replace("<svg ", '<svg shape-rendering="crispEdges" ', 1), dpi=8 * 300.0
        )
        seen.append(np.asarray(Image.open(io.BytesIO(bytes(data))).convert("RGB")).astype(int))
    assert (np.abs(seen[0] - seen[1]).max(axis=2) > 0).mean() < 0.002
