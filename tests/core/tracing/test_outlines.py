from __future__ import annotations

import math

import numpy as np
import pytest
from scipy.spatial import cKDTree
from skimage.measure import label

from drawings import disc, lettering, polygon, separation
from sobercrow.core.errors import Cancelled
from sobercrow.core.geometry.contour import AnchorKind
from sobercrow.core.job import Job
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import InkKind, Inks, Meet, Settings, Tracing
from sobercrow.core.tracing.fitting import Border, Fitter, fit_all
from sobercrow.core.tracing.outlines import Trace, fit_borders, trace


@pytest.mark.parametrize(("x", "y", "radius"), [(40.0, 40.0, 30.0), (40.31, 39.77, 21.4), (40.5, 40.2, 8.3)])
def test_a_circle_is_few_smooth_anchors_on_the_circle(x: float, y: float, radius: float) -> None:
    (shape,) = trace(separation(disc(80, x, y, radius)), Tracing()).artwork.shapes
    (contour,) = shape.contours
    points = contour.sampled(0.25)
    off = np.abs(np.hypot(points[:, 0] - x, points[:, 1] - y) - radius)
    assert len(contour) <= 6
    assert (contour.kinds != AnchorKind.CORNER).all()
    assert off.mean() < 0.04
    assert off.max() < 0.15


@pytest.mark.parametrize("turn", [0.0, 11.0, 30.0, 45.0])
def test_a_square_is_four_corners_at_its_corners(turn: float) -> None:
    angles = np.radians(np.array([225, 315, 45, 135]) + turn)
    corners = [(40 + 30 * math.cos(a), 40 + 30 * math.sin(a)) for a in angles]
    (shape,) = trace(separation(polygon(80, corners)), Tracing()).artwork.shapes
    (contour,) = shape.contours
    assert (contour.kinds == AnchorKind.CORNER).all()
    assert len(contour) == 4
    away, _ = cKDTree(contour.anchors).query(corners)
    assert away.max() < 0.12
    curves = contour.curves()
    assert np.array_equal(curves[:, 0], curves[:, 1])  # straight sides carry no handles
    assert np.array_equal(curves[:, 2], curves[:, 3])


@pytest.mark.parametrize("turn", [0.0, 17.0, 41.0])
@pytest.mark.parametrize("width", [3.5, 4.2, 5.5])
@pytest.mark.parametrize("slope", [0.0, 1.2])
def test_both_corners_of_a_short_end_are_found(turn: float, width: float, slope: float) -> None:
    c, s = np.cos(np.radians(turn)), np.sin(np.radians(turn))
    flat = np.array([(-22.0, 0.0), (22.0, 0.0), (22.0 - slope, width), (-22.0 + slope, width)]) - (0.3, 0.4)
    corners = flat @ np.array([(c, s), (-s, c)]) + 32
    (shape,) = trace(
        separation(polygon(64, [tuple(p) for p in corners.tolist()])), Tracing(true_shapes=False)
    ).artwork.shapes
    (contour,) = shape.contours
    found = contour.anchors[contour.kinds == AnchorKind.CORNER]
    assert cKDTree(found).query(corners)[0].max() < 1.0


def test_holes_belong_to_their_shape_and_paper_is_not_traced() -> None:
    grey = lettering("BoOk 8&i")
    artwork = trace(separation(grey), Tracing()).artwork
    letters = label(grey < 128, connectivity=1, return_num=True)[1]
    holes = label(np.pad(grey >= 128, 1, constant_values=True), connectivity=1, return_num=True)[1] - 1
    assert len(artwork.shapes) == letters
    assert sum(len(s.contours) - 1 for s in artwork.shapes) == holes
    for shape in artwork.shapes:
        assert shape.contours[0].area() > 0
        assert all(hole.area() < 0 for hole in shape.contours[1:])


@pytest.mark.parametrize("face", ["DejaVu Sans", "DejaVu Serif", "STIXGeneral", "cmr10"])
def test_letters_keep_to_the_drawn_border_within_the_tolerance(face: str) -> None:
    grey = lettering("Kites 28", 96, face)
    settings = Tracing(tolerance_px=0.3)
    result = trace(separation(grey), settings)
    edge = np.concatenate([c.sampled(0.25) for s in result.artwork.shapes for c in s.contours])
    away = cKDTree(edge).query(np.concatenate(result.borders.lines))[0]
    assert away.mean() < 0.1
    assert np.percentile(away, 98) < 0.3 + 0.35  # at corners the pixel rounds the border, not the curve
    assert result.artwork.anchor_count < 0.1 * sum(map(len, result.borders.lines))


def test_smooth_anchors_have_both_handles_on_one_line() -> None:
    artwork = trace(separation(lettering("Sage")), Tracing()).artwork
    for shape in artwork.shapes:
        for contour in shape.contours:
            for (before, at, after), kind in zip(contour.points, contour.kinds, strict=True):
                back, ahead = at - before, after - at
                if kind == AnchorKind.SMOOTH and np.hypot(*back) > 1e-6 and np.hypot(*ahead) > 1e-6:
                    cosine = back @ ahead / np.hypot(*back) / np.hypot(*ahead)
                    assert cosine > math.cos(math.radians(2.0))


def test_less_detail_means_fewer_anchors_and_no_lost_shapes() -> None:
    found = separation(lettering("Wind and sail"))
    counts = [trace(found, Tracing(detail=d)).artwork.anchor_count for d in (0, 30, 60, 100)]
    assert counts == sorted(counts)
    assert counts[0] < 0.8 * counts[-1]


@pytest.mark.parametrize(
    ("text", "face"), [("Fen&g", "DejaVu Serif"), ("28Sqy", "STIXGeneral"), ("AoH8", "DejaVu Sans")]
)
@pytest.mark.parametrize("quarters", [0, 1, 2, 3])
@pytest.mark.parametrize("mirrored", [False, True])
def test_a_picture_turned_or_mirrored_gives_the_artwork_turned_or_mirrored(
    text: str, face: str, quarters: int, mirrored: bool
) -> None:
    grey = lettering(text, 72, face)
    turned = np.rot90(grey[:, ::-1] if mirrored else grey, quarters)
    anchors = [
        np.concatenate(
            [c.points for s in trace(separation(np.ascontiguousarray(g)), Tracing()).artwork.shapes for c in s.contours]
        )
        for g in (grey, turned)
    ]
    expected = anchors[0].reshape(-1, 2).copy()
    if mirrored:
        expected[:, 0] = grey.shape[1] - expected[:, 0]
    height, width = grey.shape
    for _ in range(quarters):
        expected = np.column_stack([expected[:, 1], width - expected[:, 0]])
        height, width = width, height
    assert len(anchors[0]) == len(anchors[1])
    assert cKDTree(anchors[1].reshape(-1, 2)).query(expected)[0].max() < 1e-4


def test_the_smallest_spots_still_become_closed_contours() -> None:
    grey = np.full((30, 30), 255, np.uint8)
    grey[10:12, 10:12] = 0
    grey[20, 20:24] = 0
    artwork = trace(separation(grey), Tracing(speck_px2=0.0)).artwork
    assert len(artwork.shapes) == 2
    for shape in artwork.shapes:
        assert 2.0 < shape.contours[0].area() < 6.0


def test_paper_alone_gives_no_shapes() -> None:
    assert trace(separation(np.full((20, 20), 240, np.uint8)), Tracing()).artwork.shapes == ()


def test_work_can_be_stopped() -> None:
    def stop(_share: float) -> None:
        raise Cancelled("enough")

    with pytest.raises(Cancelled):
        trace(separation(lettering("Reel")), Tracing(), stop)


def test_the_same_picture_gives_the_same_artwork() -> None:
    found = separation(lettering("Twice"))
    assert trace(found, Tracing()).artwork == trace(found, Tracing()).artwork


def test_contours_come_in_the_order_of_their_borders() -> None:
    result = trace(separation(lettering("Order")), Tracing())
    fitted = fit_borders(result.borders, Fitter.of(Tracing(), result.borders.blur_px))
    for line, contour in zip(result.borders.lines, fitted, strict=True):
        assert np.abs(line.min(axis=0) - contour.sampled(0.25).min(axis=0)).max() < 1.0


def test_no_corner_goes_astray_beside_short_sides() -> None:
    # a thin stroke that meets a wide shape beside its corner, as the string of a kite meets a bow
    grey = polygon(120, [(50.0, 40.0), (100.0, 66.0), (55.0, 100.0)])
    string = polygon(120, [(4.0, 20.0), (56.0, 44.5), (54.0, 51.0), (4.0, 27.0)])
    result = trace(separation(np.minimum(grey, string)), Tracing(detail=90))
    corners = np.concatenate([c.anchors[c.kinds == AnchorKind.CORNER] for c in result.artwork.shapes[0].contours])
    away, _ = cKDTree(np.concatenate(result.borders.lines)).query(corners)
    assert away.max() < 2.2


def round_border(radius: float, count: int, noise: float) -> np.ndarray:
    """Points of a circle around (60, 60), clockwise on screen, off by noise across it."""
    angle = np.linspace(0, 2 * math.pi, count, endpoint=False)
    away = radius + np.random.default_rng(3).normal(0, noise, count)
    return 60.0 + away[:, None] * np.column_stack([np.cos(angle), np.sin(angle)])


def test_rough_borders_between_inks_are_fitted_more_calmly_and_sure_ones_as_ever() -> None:
    plain, mixed = (Fitter.of(Tracing(), 0.5, mixed=mixed) for mixed in (False, True))
    rough, sure = round_border(40.0, 250, 0.5), round_border(40.0, 250, 0.01)
    calm, restless = mixed.closed(rough), plain.closed(rough)
    assert len(calm) < 0.3 * len(restless)
    off = [np.abs(np.hypot(*(c.sampled(0.5) - 60.0).T) - 40.0).mean() for c in (calm, restless)]
    assert off[0] < 0.8 * off[1]
    assert mixed.closed(sure) == plain.closed(sure)


def test_borders_fitted_together_come_out_as_by_themselves() -> None:
    """In any order, with different care, open and closed, and whichever way round a closed one runs."""
    calm, fine = (Fitter.of(Tracing(detail), 0.5, mixed=True) for detail in (20.0, 90.0))
    lines = [round_border(radius, 8 * int(radius), noise) for radius in (3.0, 11.0, 40.0) for noise in (0.05, 0.4)]
    ends = np.array([(0.0, 1.0, 1.0), (0.0, 1.0, 0.0)])
    work = [Border(fitter, line) for line in lines for fitter in (calm, fine)]
    work += [Border(fine, line[: len(line) // 2].copy(), ends) for line in lines]
    together = fit_all(work)
    for border, contour in zip(work, together, strict=True):
        alone = border.fitter.fit([border])[0]
        assert contour == alone
        assert contour.closed == (border.ends is None)
        if border.ends is not None:
            assert np.array_equal(contour.anchors[[0, -1]], border.line[[0, -1]])
        else:
            back = border.fitter.closed(border.line[::-1].copy())
            assert back.area() == pytest.approx(-contour.area(), rel=1e-9)
            assert len(back) == len(contour)


def test_an_early_trace_has_the_same_shapes_before_they_are_made_true() -> None:
    told: list[Trace] = []
    whole = trace(separation(disc(120, 60.2, 59.7, 40.0)), Tracing(), early=told.append)
    assert [bool(t.forms) for t in (*told, whole)] == [False, True]
    early, late = (t.artwork.shapes[0].contours[0] for t in (told[0], whole))
    assert early.form is None
    assert late.form is not None
    assert early.area() == pytest.approx(late.area(), rel=3e-3)


@pytest.mark.parametrize("noise", [0.0, 0.3, 0.8])
@pytest.mark.parametrize("radius", [2.0, 4.0])
def test_a_small_rough_spot_stays_a_spot(noise: float, radius: float) -> None:
    contour = Fitter.of(Tracing(), 0.5, mixed=True).closed(round_border(radius, 26, noise))
    assert len(contour) > 1
    assert contour.area() == pytest.approx(math.pi * radius**2, rel=0.5)


@pytest.mark.parametrize("meet", list(Meet))
def test_a_picture_that_is_paper_alone_has_no_shapes(meet: Meet) -> None:
    blank = Picture(np.full((60, 80, 3), (60, 120, 184), dtype=np.uint8), 96.0)
    settings = Settings(inks=Inks(kind=InkKind.SEVERAL, paper="#3c78b8"), tracing=Tracing(meet=meet))
    assert Job(blank).run(settings).artwork.shapes == ()
