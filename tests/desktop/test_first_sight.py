"""The first result of a picture: what was decided of it is told, can be had otherwise, and is the same everywhere."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest
from click.testing import CliRunner
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel

from sobercrow.core.first_sight import HOLE_PX2, SPECK_PX2
from sobercrow.core.formats.svg import write_svg
from sobercrow.core.inks.separation import OneInk, SeveralInks
from sobercrow.core.inspect.decisions import Decided
from sobercrow.core.settings import PictureKind
from sobercrow.demo.make import PICTURES
from sobercrow.demo.tour import wait_until_done
from sobercrow.desktop.steps import Step
from sobercrow.trace_options import trace


@pytest.mark.parametrize(
    ("name", "recipe"),
    [
        ("badge-200.jpg", "Flat mark"),
        ("swing-sign.jpg", "Flat mark"),
        ("pen-lettering.png", "Pen lettering"),
        ("brush-lettering.jpg", "Brush lettering"),
        ("pencil-sketch.png", "Pencil sketch"),
        ("sign-sketch.png", "Pencil sketch"),
    ],
)
def test_the_suiting_recipe_is_taken_and_the_command_line_gives_the_same(
    opened, name: str, recipe: str, tmp_path: Path
) -> None:
    window = opened(PICTURES / name)
    assert window.document.presentation.suits.name == recipe
    suits, digital = window.document.presentation.suits.tracing, recipe == "Flat mark"
    wanted = (
        replace(suits, speck_px2=SPECK_PX2, hole_px2=HOLE_PX2) if digital else suits
    )  # counters of small letters stay
    assert window.document.state.settings.tracing == wanted
    ran = CliRunner().invoke(trace, [str(PICTURES / name), "-o", str(tmp_path / "line.svg")])
    assert ran.exit_code == 0, ran.output
    write_svg(window.document.artwork, tmp_path / "window.svg")
    assert (tmp_path / "line.svg").read_bytes() == (tmp_path / "window.svg").read_bytes()


def test_what_was_decided_is_told_and_its_alternative_is_a_click_away(opened) -> None:
    window = opened(PICTURES / "badge-200.jpg")
    window.go_to(Step.BRING_IN)
    check, document = window.bring_in_panel.check, window.document

    def told() -> str:
        return " ".join(one.text() for one in check.findChildren(QLabel) if one.isVisibleTo(check))

    def otherwise(what: Decided) -> None:
        QTest.mouseClick(check.otherwise[what], Qt.MouseButton.LeftButton)
        wait_until_done(window)

    assert "Was compressed hard as a JPEG; undone." in told()
    otherwise(Decided.COMPRESSION)
    assert "A digital graphic, compressed: colours are kept as they are." in told()
    kept = document.presentation.results.cleaned.pixels
    assert (kept == document.source.pixels).all()
    otherwise(Decided.COMPRESSION)
    assert document.state.settings.clean_up.compression is None
    assert "A digital graphic: colours are kept as they are." in told()
    assert (document.presentation.results.cleaned.pixels != kept).any()
    otherwise(Decided.KIND)
    assert document.state.settings.clean_up.kind is PictureKind.SCAN
    assert "A scan of paper" in told()
    assert (document.presentation.results.cleaned.pixels != kept).any()
    otherwise(Decided.KIND)
    assert document.state.settings.clean_up.kind is None
    assert isinstance(document.presentation.results.separation, SeveralInks)
    otherwise(Decided.INKS)
    assert isinstance(document.presentation.results.separation, OneInk)
    assert "One dark ink" in told()
    otherwise(Decided.INKS)
    assert isinstance(document.presentation.results.separation, SeveralInks)
    document.undo()
    document.undo()
    wait_until_done(window)
    assert "Several inks: 4 colours" in told()


def test_what_was_made_larger_is_traced_at_its_own_size_and_keeps_its_millimetres(opened) -> None:
    window = opened(PICTURES / "swing-sign.jpg")
    window.go_to(Step.CLEAN_UP)
    panel, document = window.clean_panel, window.document
    panel.folds[panel.restore].head.setChecked(True)
    boxes = panel.restore.boxes
    assert [name for name in boxes if boxes[name].isVisibleTo(panel)] == ["compression", "own_size"]

    def size() -> tuple[float, float, float]:
        artwork = document.artwork
        return artwork.width_px, artwork.width_px / artwork.dpi, artwork.anchor_count

    own = size()
    assert own[0] == 180
    assert "Was made about 3 times as large; traced at its own 180 × 150 px." in " ".join(
        one.text() for one in panel.check.findChildren(QLabel)
    )
    boxes["own_size"].click()
    wait_until_done(window)
    assert size()[0] == 540
    assert size()[1] == pytest.approx(own[1])
    assert size()[2] > own[2]
    document.undo()
    wait_until_done(window)
    assert size() == own
    assert boxes["own_size"].isChecked()


def test_a_photographed_sheet_is_laid_flat_and_lies_again_as_photographed(opened, tmp_path: Path) -> None:
    window = opened(PICTURES / "badge-photo.jpg")
    document = window.document
    flat = document.artwork
    assert flat.height_px < document.source.height
    ran = CliRunner().invoke(trace, [str(PICTURES / "badge-photo.jpg"), "-o", str(tmp_path / "line.svg")])
    assert ran.exit_code == 0, ran.output
    write_svg(flat, tmp_path / "window.svg")
    assert (tmp_path / "line.svg").read_bytes() == (tmp_path / "window.svg").read_bytes()
    window.go_to(Step.BRING_IN)
    QTest.mouseClick(window.bring_in_panel.check.otherwise[Decided.SHEET], Qt.MouseButton.LeftButton)
    wait_until_done(window)
    assert document.artwork.height_px == document.source.height
