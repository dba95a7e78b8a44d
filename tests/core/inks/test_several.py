from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.cluster.vq import kmeans2

from ink_scenes import Scene, flat_scene
from sobercrow.core.inks import edits
from sobercrow.core.inks.colour import lab_of, pairwise_ciede2000, rgb_of_hex
from sobercrow.core.inks.error import colour_error
from sobercrow.core.inks.palette import lloyd, read_colours
from sobercrow.core.inks.separation import OneInk, SeveralInks, separate
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import Ink, InkForm, InkKind, Inks, InkTool, InkTouchUp, Mixing, Role, SettingError

WHITE, RUST, BLUE, BLACK = "#ffffff", "#a33e2e", "#2e5ba3", "#101010"
SEVERAL = Inks(InkKind.SEVERAL)


def blocks(noise: float = 0.0) -> Picture:
    """White with a rust block that has a blue spot in it, a black line with a gap, and a small black spot."""
    pixels = np.full((90, 120, 3), 255, np.uint8)
    pixels[15:75, 10:60] = rgb_of_hex(RUST)
    pixels[30:38, 30:38] = rgb_of_hex(BLUE)
    pixels[40:44, 66:114] = rgb_of_hex(BLACK)
    pixels[40:44, 86:92] = 255
    pixels[70:73, 100:103] = rgb_of_hex(BLACK)
    if noise:
        pixels = np.clip(pixels + np.random.default_rng(3).normal(0, noise, pixels.shape), 0, 255).astype(np.uint8)
    return Picture(pixels, 300.0)


def parted(given: Inks = SEVERAL, picture: Picture | None = None) -> SeveralInks:
    found = separate(picture or blocks(), given)
    assert isinstance(found, SeveralInks)
    return found


def ink(found: SeveralInks, colour: str) -> int:
    return next(k for k, i in enumerate(found.inks) if i.colour == colour)


@pytest.mark.parametrize("seed", [0, 2, 3, 5])
def test_a_dirty_flat_picture_is_parted_into_the_inks_it_was_drawn_in(seed: int) -> None:
    scene: Scene = flat_scene(7000 + seed, 2 + seed % 7, 160)
    picture = Picture(scene.rendered(0.8, 40), 300.0)
    found = parted(SEVERAL, picture)
    drawn = np.array([rgb_of_hex(i.colour) for i in found.inks], dtype=float)
    away = pairwise_ciede2000(lab_of(scene.colours), lab_of(drawn))
    assert len(found.inks) == len(scene.colours)
    assert np.median(away.min(axis=1)) < 2.0
    mine = away.argmin(axis=1)[scene.truth()]
    assert (found.own == mine)[scene.border_distance() > 1.5].mean() > 0.995


def test_soft_edges_between_black_and_white_make_no_grey_ink() -> None:
    pixels = np.full((80, 160, 3), 255, np.uint8)
    pixels[:, :60] = 0
    pixels[:, 110:] = 128  # a grey there is, elsewhere
    soft = cv2.GaussianBlur(pixels, (0, 0), 1.2)
    found = parted(Inks(InkKind.SEVERAL, paper="none"), Picture(soft, 300.0))
    assert len(found.inks) == 3
    assert len(np.unique(found.own[40, 40:80])) == 2  # black meets white without grey between


@given(st.integers(0, 10**6), st.integers(2, 6))
@settings(max_examples=8, deadline=None)
def test_labels_are_a_partition(seed: int, count: int) -> None:
    random = np.random.default_rng(seed)
    small = random.integers(0, 256, (6, 8, 3)).astype(np.uint8)
    found = parted(Inks(InkKind.SEVERAL, count=count), Picture(cv2.resize(small, (48, 36)), 300.0))
    assert len(found.inks) == count
    assert found.own.max() < count
    assert found.coverage.sum() == pytest.approx(1.0)
    assert (found.labels.second < count).all()
    assert (found.labels.share >= 128).all()
    assert (found.labels.share[found.labels.second == found.own] == 255).all()


def test_clusters_are_scipys_on_well_parted_colours() -> None:
    random = np.random.default_rng(8)
    truth = np.array([(20.0, 0, 0), (60.0, 50, 30), (80.0, -40, 40), (50.0, 10, -50)])
    points = np.concatenate([c + random.normal(0, 2, (200, 3)) for c in truth])
    start = truth + 5.0
    theirs, _ = kmeans2(points, start, minit="matrix", iter=30)
    assert np.allclose(lloyd(points, np.ones(len(points)), start, rounds=30), theirs, atol=0.05)


def test_an_edge_mixed_in_linear_light_is_unmixed_there() -> None:
    scene = flat_scene(31, 2, 256)
    scene = replace(scene, colours=np.array([(255.0, 255, 255), (10, 10, 40)]))
    for linear in (False, True):
        found = parted(SEVERAL, Picture(scene.rendered(0.8, None, linear), 300.0))
        assert found.linear is linear
    assert not parted(Inks(InkKind.SEVERAL, mixing=Mixing.SRGB), Picture(scene.rendered(0.8, None, True), 300.0)).linear


def test_paper_is_the_ink_at_the_edge_or_the_one_that_is_named_or_none() -> None:
    for named, expected in (("auto", WHITE), ("none", None), (RUST, RUST)):
        roles = {i.colour: i.role for i in parted(Inks(InkKind.SEVERAL, paper=named)).inks}
        assert [c for c, r in roles.items() if r is Role.PAPER] == ([expected] if expected else [])


def test_paper_only_at_the_edge_leaves_enclosed_paper_to_be_traced() -> None:
    picture = blocks()
    pixels = picture.pixels.copy()
    pixels[50:60, 30:45] = 255
    found = parted(Inks(InkKind.SEVERAL, paper_at_edge=True), picture.with_pixels(pixels))
    assert found.inks[-1].name == "White inside"
    assert (found.own[52:58, 32:43] == len(found.inks) - 1).all()
    assert len(found.drawn) == 4


def test_the_count_asked_for_keeps_locked_inks() -> None:
    found = parted()
    inks = edits.locked(found.inks, ink(found, BLUE), True)
    fewer = parted(Inks(InkKind.SEVERAL).with_count(3, inks))
    assert len(fewer.inks) == 3
    assert BLUE in [i.colour for i in fewer.inks]


def test_merged_inks_are_one_and_undoing_it_brings_them_back() -> None:
    found = parted()
    rust, blue = ink(found, RUST), ink(found, BLUE)
    joined = parted(SEVERAL.with_found(edits.merged(found.inks, rust, [blue])))
    assert len(joined.inks) == len(found.inks) - 1
    assert joined.own[34, 34] == joined.own[60, 20] == ink(joined, RUST)
    assert set(np.unique(joined.labels.second[28:40, 28:40])) == {ink(joined, RUST)}  # no seam is left
    again = parted(SEVERAL.with_found(found.inks))
    assert np.array_equal(again.own, found.own)


@pytest.mark.parametrize(
    ("edit", "sentence"),
    [
        (lambda inks: edits.merged(inks, 1, [1]), "cannot be merged with itself"),
        (lambda inks: edits.merged(inks, 1, []), "at least two inks"),
        (lambda inks: edits.removed(inks, range(len(inks))), "At least one ink has to stay"),
        (lambda inks: edits.added(inks, inks[0].colour), "belongs to"),
        (lambda inks: edits.renamed(inks, 0, inks[1].name), "Another ink"),
        (lambda inks: edits.recoloured(inks, 0, "rust"), "like #a33e2e"),
    ],
)
def test_edits_that_make_no_sense_are_refused_in_a_sentence(edit, sentence: str) -> None:
    with pytest.raises(SettingError, match=sentence):
        edit(parted().inks)


def test_edits_change_what_they_name_and_nothing_else() -> None:
    inks = parted().inks
    assert edits.recoloured(inks, 1, "#00FF00")[1].members == inks[1].members
    papered = edits.with_role(inks, 2, Role.PAPER)
    assert [i.role for i in papered].count(Role.PAPER) == 1
    assert edits.renamed(inks, 1, " Sail ")[1].name == "Sail"
    assert edits.removed(inks, [0]) == inks[1:]
    assert edits.added(inks, "#00ff00")[:-1] == inks


def test_more_inks_than_colours_and_a_picture_of_one_colour() -> None:
    with pytest.raises(SettingError, match="no more than 4 colours"):
        separate(blocks(), Inks(InkKind.SEVERAL, count=9))
    even = Picture(np.full((30, 40, 3), (200, 30, 30), np.uint8), 300.0)
    found = parted(SEVERAL, even)
    assert [i.role for i in found.inks] == [Role.PAPER]
    assert found.drawn == ()
    with pytest.raises(SettingError, match="too few tones"):
        separate(even, Inks(InkKind.GREYS, count=3))


def test_greys_are_evenly_spaced() -> None:
    ramp = np.repeat(np.linspace(0, 255, 256).astype(np.uint8)[None, :, None], 40, axis=0).repeat(3, axis=2)
    found = parted(Inks(InkKind.GREYS, count=4), Picture(ramp, 300.0))
    tones = [rgb_of_hex(i.colour)[0] for i in found.inks]
    assert np.ptp(np.diff(tones)) <= 1
    assert found.kind is InkKind.GREYS
    borders = np.flatnonzero(np.diff(found.own[20].astype(int)))
    assert np.allclose(np.diff(borders), 85, atol=3)


@pytest.mark.parametrize(("tint", "kind"), [((40, 40, 44), OneInk), ((180, 60, 40), SeveralInks)])
def test_a_drawing_in_black_is_one_ink_and_one_in_a_colour_keeps_it(tint, kind: type) -> None:
    pixels = np.full((60, 60, 3), (255, 255, 250), np.uint8)
    pixels[20:40, 20:40] = tint
    assert isinstance(separate(Picture(pixels, 300.0), Inks()), kind)


def touched(*touch_ups: InkTouchUp, **more: float) -> SeveralInks:
    return parted(Inks(InkKind.SEVERAL, touch_ups=touch_ups, **more))


def test_a_spot_takes_on_what_is_around_it() -> None:
    found = touched(InkTouchUp(InkTool.SPOT, InkForm.PLACE, ((34.0, 34.0),)))
    assert (found.own[16:74, 11:59] == ink(found, RUST)).all()
    paper = touched(InkTouchUp(InkTool.SPOT, InkForm.PLACE, ((5.0, 5.0),)))
    assert np.array_equal(paper.own, parted().own)  # the sheet is no spot


def test_in_a_ring_only_the_inks_allowed_stay() -> None:
    ring = ((25.0, 25.0), (45.0, 25.0), (45.0, 45.0), (25.0, 45.0))
    found = touched(InkTouchUp(InkTool.RING, InkForm.POLYGON, ring, (RUST, BLACK)))
    assert not (found.own == ink(found, BLUE)).any()
    assert set(np.unique(found.own[27:43, 27:43])) <= {ink(found, RUST), ink(found, BLACK)}


def test_a_bridge_closes_a_gap_as_wide_as_the_line() -> None:
    found = touched(InkTouchUp(InkTool.BRIDGE, InkForm.LINE, ((85.0, 42.0), (93.0, 42.0))))
    assert (found.own[40:44, 67:113] == ink(found, BLACK)).all()
    assert (found.own[38, 86:92] == ink(found, WHITE)).all()
    assert (found.own[46, 86:92] == ink(found, WHITE)).all()


def test_strokes_boxes_and_pours_lay_an_ink() -> None:
    box = ((70.0, 10.0), (80.0, 10.0), (80.0, 20.0), (70.0, 20.0))
    found = touched(
        InkTouchUp(InkTool.NIB, InkForm.BOX, box, (BLUE,)),
        InkTouchUp(InkTool.POUR, InkForm.PLACE, ((101.0, 71.0),), (RUST,)),
        InkTouchUp(InkTool.NIB, InkForm.FREEHAND, ((70.0, 30.0), (100.0, 30.0)), (), 4.0, shown=False),
    )
    assert (found.own == ink(found, BLUE))[10:20, 70:80].all()
    assert (found.own[70:73, 100:103] == ink(found, RUST)).all()
    assert found.own[42, 70] == ink(found, BLACK)
    everywhere = touched(InkTouchUp(InkTool.POUR, InkForm.PLACE, ((101.0, 71.0),), (RUST,), everywhere=True))
    assert not (everywhere.own == ink(everywhere, BLACK)).any()


@pytest.mark.parametrize("tool", list(InkTool))
def test_a_touch_up_beyond_the_picture_changes_nothing(tool: InkTool) -> None:
    beyond = ((-300.0, -90.0), (-290.0, -90.0), (-290.0, -80.0))[: 2 if tool is InkTool.BRIDGE else 3]
    assert np.array_equal(touched(InkTouchUp(tool, InkForm.FREEHAND, beyond, (RUST,))).own, parted().own)


def test_specks_and_holes_under_a_size_go_to_what_is_around_them() -> None:
    found = touched(speck_px2=10.0)
    assert found.own[71, 101] == ink(found, WHITE)
    assert found.own[34, 34] == ink(found, BLUE)
    pixels = blocks().pixels.copy()
    pixels[50:53, 20:23] = 255
    holed = Inks(InkKind.SEVERAL, hole_px2=10.0)
    assert (parted(holed, Picture(pixels, 300.0)).own[50:53, 20:23] == ink(found, RUST)).all()


def test_touch_ups_on_one_ink_change_what_is_traced() -> None:
    picture = Picture(np.repeat(cv2.cvtColor(blocks().pixels, cv2.COLOR_RGB2GRAY)[..., None], 3, axis=2), 300.0)
    gap = InkTouchUp(InkTool.BRIDGE, InkForm.LINE, ((85.0, 42.0), (93.0, 42.0)))
    found = separate(picture, Inks(touch_ups=(gap,), speck_px2=12.0))
    assert isinstance(found, OneInk)
    assert (found.own[41:43, 67:113] == 0).all()
    assert (found.own[70:73, 100:103] == 1).all()


def test_colour_error_is_nothing_where_the_ink_is_the_colour() -> None:
    found = parted()
    error = colour_error(blocks().pixels, found.own, found.inks)
    assert error.max() < 5.0  # colours are compared in steps of eight values
    wrong = tuple(replace(i, colour="#00ff00") if i.colour == RUST else i for i in found.inks)
    assert colour_error(blocks().pixels, found.own, wrong)[60, 20] > 40


def test_the_error_curve_falls_to_the_proposed_count_and_hardly_beyond() -> None:
    colours = read_colours(blocks(6.0).pixels)
    assert len(colours.proposed) == 4
    assert (np.diff(colours.errors) < 0.01).all()
    assert colours.errors[0] > 10 > 3 > colours.errors[3]
    assert colours.errors[3] - colours.errors[-1] < 2.0


def test_a_ring_without_inks_and_a_palette_too_long_are_refused() -> None:
    with pytest.raises(SettingError, match="at least one ink"):
        InkTouchUp(InkTool.RING, InkForm.POLYGON, ((0.0, 0.0), (1.0, 0.0), (0.0, 1.0)))
    with pytest.raises(SettingError, match="32 inks at most"):
        Inks(palette=tuple(Ink(f"#0000{k:02x}") for k in range(33)))
    with pytest.raises(SettingError, match="must not lie below"):
        Inks(limited=True, dark_limit=200, light_limit=100)
