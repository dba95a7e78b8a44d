"""Edits that take long: one after the other, none lost, and the window goes on meanwhile."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from desk import at, line, stroke
from PySide6.QtTest import QTest

from sobercrow.core.artwork import inking, pouring
from sobercrow.core.artwork.choice import Choice, Edited
from sobercrow.core.artwork.edits import move_shapes
from sobercrow.core.artwork.model import Artwork, Layer, Pouring, Shape, stroked
from sobercrow.core.errors import EditError
from sobercrow.demo.tour import wait_until_done
from sobercrow.desktop.editing.edit import Dials
from sobercrow.desktop.editing.in_turn import Waiting
from sobercrow.desktop.editing.lines import LINE_EDITS, WIDE_EDITS
from sobercrow.desktop.editing.shapes import ALIGNING, SHAPE_EDITS, TRUING
from sobercrow.desktop.scene import Showing
from sobercrow.desktop.window import MainWindow


def scraped_at(x: float) -> Callable[[Artwork], Artwork]:
    """Take an upright stripe away."""
    stripe = [line((x, 0), (x + 4, 0), (x + 4, 600), (x, 600), closed=True)]
    return lambda artwork: inking.scrape_ink(artwork, stripe).artwork


def area_of(artwork: Artwork) -> float:
    return sum(abs(contour.area()) for shape in artwork.shapes for contour in shape.contours)


def bar(artwork: Artwork) -> Artwork:
    """One bar of 200 × 20 px in place of all there is."""
    shape = Shape((line((100, 100), (300, 100), (300, 120), (100, 120), closed=True),))
    return replace(artwork, layers=(Layer("Bar", (shape,)),))


@pytest.fixture
def on_bar(refining: MainWindow) -> MainWindow:
    """The window with a bar as its artwork."""
    document = refining.document
    document.refine("Bar", bar(document.artwork))
    wait_until_done(refining)
    return refining


def test_strokes_made_quickly_are_all_done_each_as_a_change_of_its_own(on_bar) -> None:
    document = on_bar.document
    for x in (120, 160, 200):
        document.edit_beside(f"Scrape at {x}", scraped_at(x), on_any=True)
    assert len(document.artwork.shapes) == 1  # the window waits for none of them
    assert document.undo_name == "Scrape at 200"
    wait_until_done(on_bar)
    assert len(document.artwork.shapes) == 4
    assert area_of(document.artwork) == pytest.approx(20 * (200 - 3 * 4), rel=1e-6)
    for left in (3, 2, 1):
        document.undo()
        assert len(document.artwork.shapes) == left
        wait_until_done(on_bar)


def test_undo_gives_up_the_last_that_waits_and_what_changes_meanwhile_stays(on_bar) -> None:
    document = on_bar.document
    document.edit_beside("First", scraped_at(120), on_any=True)
    document.edit_beside("Second", scraped_at(160), on_any=True)
    document.undo()
    assert document.undo_name == "First"
    document.edit("Move", move_shapes, frozenset({0}), 0.0, 30.0)
    assert document.artwork.shapes[0].bounds()[1] == pytest.approx(130.0)
    wait_until_done(on_bar)
    assert len(document.artwork.shapes) == 2
    assert [shape.bounds()[1] for shape in document.artwork.shapes] == pytest.approx([130.0, 130.0])
    assert document.undo_name == "First"


def test_a_stroke_is_seen_until_the_artwork_has_it_or_it_is_given_up(on_bar, monkeypatch) -> None:
    window, canvas = on_bar, on_bar.canvas
    may_go_on, scrape_ink = threading.Event(), inking.scrape_ink

    def slowly(*arguments: Any) -> Edited:
        may_go_on.wait(20.0)
        return scrape_ink(*arguments)

    monkeypatch.setattr(inking, "scrape_ink", slowly)
    window.use_tool("art-scrape")
    window.refine_panel.options.fields["art-scrape"]["width_mm"].box.setValue(2.0)
    window.show_as(Showing.FILLED)
    canvas.fit()

    def colour_at(x: float, y: float) -> str:
        return canvas.grab().toImage().pixelColor(at(window, x, y)).name()

    def scrape(x: float) -> None:
        stroke(window, np.array([(x, y) for y in (80.0, 95.0, 110.0, 125.0, 140.0)]))
        QTest.mouseMove(canvas, at(window, 20.0, 20.0))

    ink, paper = colour_at(150.0, 110.0), colour_at(150.0, 60.0)
    assert ink != paper
    scrape(150.0)
    scrape(250.0)
    assert len(on_bar.document.artwork.shapes) == 1  # neither is done yet
    assert [colour_at(x, 110.0) for x in (150.0, 200.0, 250.0)] == [paper, ink, paper]
    on_bar.document.undo()
    assert [colour_at(x, 110.0) for x in (150.0, 200.0, 250.0)] == [paper, ink, ink]
    may_go_on.set()
    wait_until_done(window)
    assert len(on_bar.document.artwork.shapes) == 2
    assert [colour_at(x, 110.0) for x in (150.0, 200.0, 250.0)] == [paper, ink, ink]
    on_bar.document.undo()
    assert colour_at(150.0, 110.0) == ink


def test_pours_follow_a_line_though_another_edit_waits_and_is_refused(on_bar) -> None:
    document = on_bar.document
    frame = stroked((line((100, 100), (300, 100), (300, 250), (100, 250), closed=True),), "#23262b", 4.0)
    lines = replace(document.artwork, layers=(Layer("Lines", (frame,)),))
    document.refine("Pour", pouring.pour_all(lines, Pouring(2.0, 1.0)).artwork)
    wait_until_done(on_bar)
    left = document.artwork.layers[0].shapes[0].bounds()[0]

    def refused(_artwork: Artwork) -> Artwork:
        raise EditError("It does not fit.")

    last = len(document.artwork.shapes) - 1
    document.edit_beside(
        "Move the line", lambda artwork: move_shapes(artwork, frozenset({last}), 40.0, 0.0), on_any=True
    )
    document.edit_beside("Refused", refused, on_any=True)
    wait_until_done(on_bar)
    assert document.undo_name == "Move the line"
    assert document.artwork.layers[0].shapes[0].bounds()[0] == pytest.approx(left + 40.0, abs=0.1)


def test_what_fails_is_told_once_and_the_next_goes_on(on_bar) -> None:
    document, told = on_bar.document, []
    document.failed.connect(told.append)

    def refused(_artwork: Artwork) -> Artwork:
        raise EditError("It does not fit.")

    document.edit_beside("Refused", refused)
    document.edit_beside("Scrape", scraped_at(120), on_any=True)
    wait_until_done(on_bar)
    assert told == ["It does not fit."]
    assert len(document.artwork.shapes) == 2

    document.edit_beside("Of this artwork alone", scraped_at(200))
    document.edit("Move", move_shapes, frozenset({0}), 0.0, 30.0)
    wait_until_done(on_bar)
    assert "came too late" in told[-1]
    assert len(document.artwork.shapes) == 2


def test_stop_and_another_picture_leave_nothing_waiting(on_bar) -> None:
    document = on_bar.document
    document.edit_beside("Scrape", scraped_at(120), on_any=True)
    document.stop()
    assert document.undo_name == "Bar"
    wait_until_done(on_bar)
    assert len(document.artwork.shapes) == 1


def test_an_edit_in_turn_goes_by_what_is_chosen_when_its_turn_comes(on_bar) -> None:
    document, seen = on_bar.document, []

    def noting() -> Callable[[Artwork], Artwork]:
        seen.append(document.choice)
        return scraped_at(120 + 40 * len(seen))

    for name in ("One", "Two"):
        document.edit_in_turn(Waiting(name, noting, on_any=True))
    document.choose(Choice(frozenset({0})))
    wait_until_done(on_bar)
    assert seen[0] == Choice()
    assert seen[-1] == Choice(frozenset({0}))
    assert len(document.artwork.shapes) == 3


@pytest.mark.parametrize(
    ("edit", "count"), [(WIDE_EDITS[2], 80), (ALIGNING[0], 80), (TRUING[0], 4)], ids=["line", "align", "true"]
)
def test_much_artwork_is_edited_in_the_background(on_bar, edit, count: int) -> None:
    one = Shape(
        (line((100, 100), (200, 100), (200.2, 100), (300, 100), (300, 120), (150, 120), (100, 120), closed=True),)
    )
    many = replace(
        on_bar.document.artwork, layers=(Layer("Many", tuple(one.moved(0.0, 30.0 * k) for k in range(count))),)
    )
    assert edit.is_slow(many, Choice(frozenset(range(count))))
    assert edit in (*SHAPE_EDITS, *LINE_EDITS, *WIDE_EDITS)
    on_bar.document.refine("Many", many)
    on_bar.document.choose(Choice(frozenset(range(count)), first=0))
    before = on_bar.document.artwork
    on_bar.refine_panel.runner.run(edit)
    assert on_bar.document.artwork is before
    wait_until_done(on_bar)
    wanted = edit.work(before, Choice(frozenset(range(count)), first=0), Dials())
    made = getattr(wanted, "artwork", wanted)
    assert [s.bounds() for s in on_bar.document.artwork.shapes] == [s.bounds() for s in made.shapes]
