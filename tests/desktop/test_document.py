"""The document's history, selection and requests, without a window around it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from drawings import lettering, picture
from sobercrow.core.artwork import anchors, edits
from sobercrow.core.artwork.choice import AnchorRef, Choice
from sobercrow.core.errors import ProjectError
from sobercrow.core.geometry.contour import AnchorKind
from sobercrow.core.settings import BringIn, Inks, Tracing
from sobercrow.demo.make import PICTURES
from sobercrow.demo.tour import pause
from sobercrow.desktop.document import Document


def settle(document: Document) -> None:
    pause(0.02)
    for _ in range(3000):
        if document.is_complete:
            return
        pause(0.01)
    raise TimeoutError


@pytest.fixture
def document(qapp) -> Iterator[Document]:
    made = Document()
    made.open_picture(picture(lettering("Spar")), (PICTURES / "tints.png").read_bytes())
    settle(made)
    yield made
    made.close()


def random_edit(document: Document, random: np.random.Generator) -> None:
    """One edit of a kind the tools make, drawn by lot."""
    artwork = document.artwork
    shape = int(random.integers(len(artwork.shapes)))
    count = len(artwork.shapes[shape].contours[0])
    ref = AnchorRef(shape, 0, int(random.integers(count)))
    kind = random.integers(6)
    if kind == 0:
        document.edit("Move anchor", anchors.move_anchors, [ref], *random.normal(0, 3, 2))
    elif kind == 1:
        document.edit("Make smooth", anchors.set_kind, [ref], AnchorKind(int(random.integers(3))))
    elif kind == 2 and count > 4:
        document.edit("Delete anchors", anchors.delete_anchors, [ref], bool(random.integers(2)))
    elif kind == 3:
        edited, _ = anchors.add_anchor(artwork, shape, 0, ref.anchor, float(random.uniform(0.1, 0.9)))
        document.refine("Add anchor", edited)
    elif kind == 4:
        document.edit("Fill shapes", edits.fill_shapes, {shape}, f"#{random.integers(1 << 24):06x}")
    else:
        document.edit("Move shapes", edits.move_shapes, {shape}, *random.normal(0, 9, 2))


@pytest.mark.parametrize("seed", range(4))
def test_undoing_everything_and_redoing_it_comes_back_to_the_same_artwork(document: Document, seed: int) -> None:
    random = np.random.default_rng(seed)
    first, stages = document.artwork, []
    for _ in range(25):
        random_edit(document, random)
        stages.append(document.artwork)
    names = []
    while document.undo_name:
        names.append(document.undo_name)
        document.undo()
    assert document.artwork == first
    for stage, name in zip(stages[-len(names) :], reversed(names), strict=True):
        assert document.redo_name == name
        document.redo()
        assert document.artwork == stage
    assert document.redo_name is None


def test_a_new_change_leaves_nothing_to_redo(document: Document) -> None:
    document.edit("Move shapes", edits.move_shapes, {0}, 1, 1)
    document.undo()
    document.edit("Fill shapes", edits.fill_shapes, {0}, "#123456")
    assert document.redo_name is None
    assert document.undo_name == "Fill shapes"


def test_changes_in_quick_succession_are_one(document: Document) -> None:
    before = document.state.settings
    for threshold in (100, 110, 120):
        document.change_settings("Move threshold", replace(before, inks=Inks(threshold=threshold)), merge="threshold")
    document.change_settings("Set detail", replace(document.state.settings, tracing=Tracing(20)), merge="detail")
    document.undo()
    assert document.state.settings.inks.threshold == 120
    document.undo()
    assert document.state.settings == before


def test_a_setting_set_to_what_it_was_is_no_change(document: Document) -> None:
    document.change_settings("Set detail", replace(document.state.settings))
    assert document.undo_name is None


def test_an_edit_that_does_not_apply_is_told_and_changes_nothing(document: Document) -> None:
    told: list[str] = []
    document.failed.connect(told.append)
    artwork = document.artwork
    document.edit("Delete shapes", edits.delete_shapes, {99})
    assert told == ["A chosen shape is no longer there; choose again."]
    assert document.artwork is artwork
    assert document.undo_name is None


def test_what_is_chosen_and_gone_is_chosen_no_longer(document: Document) -> None:
    last = len(document.artwork.shapes) - 1
    document.choose(Choice(shapes=frozenset({0, last})))
    document.refine("Fewer shapes", edits.delete_shapes(document.artwork, {last}).artwork)
    assert document.choice.shapes == {0}
    furthest = AnchorRef(0, 0, len(document.artwork.shapes[0].contours[0]) - 1)
    document.choose(Choice(anchors=frozenset({furthest})))
    document.refine("Fewer anchors", anchors.delete_anchors(document.artwork, [AnchorRef(0, 0, 0)]).artwork)
    assert document.choice.anchors == frozenset()


def test_what_was_chosen_is_chosen_again_after_undo_and_redo(document: Document) -> None:
    document.choose(Choice(shapes=frozenset({1, 2})))
    document.edit("Delete shapes", edits.delete_shapes, document.choice.shapes)
    assert not document.choice
    document.undo()
    assert document.choice.shapes == {1, 2}
    document.choose(Choice(shapes=frozenset({0})))
    document.redo()
    assert not document.choice


def test_a_new_resolution_keeps_handwork(document: Document) -> None:
    document.edit("Delete shapes", edits.delete_shapes, {0})
    shapes = document.artwork.shapes
    document.change_settings("Set resolution", replace(document.state.settings, bring_in=BringIn(600)))
    settle(document)
    assert document.artwork.shapes == shapes
    assert document.artwork.dpi == 600


def test_stopping_keeps_what_is_shown(document: Document) -> None:
    shown = document.presentation
    document.change_settings("Set detail", replace(document.state.settings, tracing=Tracing(5)))
    document.stop()
    pause(0.2)
    assert document.presentation is shown
    assert not document.requests.busy


def test_a_setting_that_does_not_fit_is_told_and_undo_mends_it(document: Document) -> None:
    from sobercrow.core.settings import CleanUp, Crop

    told: list[str] = []
    document.failed.connect(told.append)
    artwork = document.artwork
    document.change_settings("Crop", replace(document.state.settings, clean_up=CleanUp(crop=Crop(0, 0, 9000, 9000))))
    for _ in range(100):
        pause(0.01)
        if told:
            break
    assert "beyond the picture" in told[0]
    assert document.artwork is artwork
    document.undo()
    settle(document)
    assert document.artwork == artwork


def test_saving_says_what_is_saved(document: Document, tmp_path: Path) -> None:
    document.edit("Delete shapes", edits.delete_shapes, {0})
    assert document.is_changed
    document.save_project(tmp_path / "a.sobercrow")
    assert not document.is_changed
    document.undo()
    assert document.is_changed
    document.redo()
    assert not document.is_changed
    with pytest.raises(ProjectError):
        document.save_project(tmp_path / "gone" / "a.sobercrow")
    assert document.path == tmp_path / "a.sobercrow"
