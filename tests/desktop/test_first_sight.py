"""The first result of a picture: what was decided of it is told, can be had otherwise, and is the same everywhere."""

from __future__ import annotations

from pathlib import Path

import pytest
from click.testing import CliRunner
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel

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
        ("pen-lettering.png", "Pen lettering"),
        ("brush-lettering.jpg", "Brush lettering"),
        ("pencil-sketch.png", "Pencil sketch"),
    ],
)
def test_the_suiting_recipe_is_taken_and_the_command_line_gives_the_same(
    opened, name: str, recipe: str, tmp_path: Path
) -> None:
    window = opened(PICTURES / name)
    assert window.document.presentation.suits.name == recipe
    tracing = window.document.presentation.suits.tracing
    assert window.document.state.settings.tracing == tracing
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

    assert "A digital graphic, compressed: colours are kept as they are." in told()
    kept = document.presentation.results.cleaned.pixels
    assert (kept == document.source.pixels).all()
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
