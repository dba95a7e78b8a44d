"""Commands that choose: more or fewer anchors, shapes alike, small ones, those inside and beneath others."""

from __future__ import annotations

from collections.abc import Callable, Collection
from functools import partial
from typing import TYPE_CHECKING

from sobercrow.core.artwork import alike, choosing, thinning
from sobercrow.core.artwork.alike import Alike
from sobercrow.core.artwork.choice import AnchorRef, Choice
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.errors import LetteringError
from sobercrow.core.geometry.contour import AnchorKind
from sobercrow.core.lettering.letters import lettering_in
from sobercrow.desktop.commands import Command
from sobercrow.desktop.steps import Step

if TYPE_CHECKING:
    from sobercrow.desktop.window import MainWindow

SMALL_PX2 = 40.0
MENU = "Choose"

Anchors = Callable[[Artwork, frozenset[AnchorRef]], frozenset[AnchorRef]]
Shapes = Callable[[Artwork, Collection[int]], frozenset[int]]
Row = tuple[str, str, tuple[str, ...], str, Callable[..., frozenset[AnchorRef]], Callable[[], bool]]


def choosing_commands(window: MainWindow, has_result: Callable[[], bool]) -> tuple[Command, ...]:
    """Return all commands that choose."""
    document = window.document

    def chosen() -> bool:
        return bool(document.choice)

    return (
        Command(
            "choose-all", "Choose all", MENU, ("Ctrl+A",), "All shapes, or all anchors.", window.choose_all, has_result
        ),
        Command("choose-none", "Choose nothing", MENU, ("Esc",), "Let go of what is chosen.", document.choose, chosen),
        *_of_shapes(window, has_result),
        *_of_anchors(window, has_result),
    )


SHAPES: tuple[tuple[str, str, tuple[str, ...], str, Shapes, bool], ...] = (
    ("alike-colour", "Same colour", ("Shift+Y",), "As those chosen.", partial(alike.alike, by=Alike.COLOUR), True),
    ("alike-size", "About the same size", (), "As those chosen.", partial(alike.alike, by=Alike.SIZE), True),
    (
        "alike-form",
        "Same form",
        ("Shift+F",),
        "However turned, scaled or mirrored.",
        partial(alike.alike, by=Alike.FORM),
        True,
    ),
    ("alike-layer", "Same layer", (), "As those chosen.", partial(alike.alike, by=Alike.LAYER), True),
    ("inside", "Inside", (), "What lies wholly within those chosen.", alike.inside, True),
    ("beneath", "Beneath", (), "What lies beneath those chosen.", alike.beneath, True),
    (
        "small",
        f"Under {SMALL_PX2:g} px²",
        (),
        "Shapes smaller than that.",
        lambda artwork, _chosen: alike.smaller_than(artwork, SMALL_PX2),
        False,
    ),
    (
        "at-edge",
        "At the edge",
        (),
        "What touches the edge of the drawing.",
        lambda one, _chosen: alike.at_the_edge(one),
        False,
    ),
    (
        "lettering",
        "The lettering",
        (),
        "Shapes of one ink and about one height.",
        lambda one, _chosen: lettering_in(one),
        False,
    ),
    ("open-ones", "Open ones", (), "Shapes with an open contour.", lambda one, _chosen: alike.open_ones(one), False),
    ("invert", "All others", ("Ctrl+I",), "What is not chosen.", alike.inverted, False),
)
"""Id, title, keys, help, what finds them, and whether something must be chosen first."""


def _of_shapes(window: MainWindow, has_result: Callable[[], bool]) -> tuple[Command, ...]:
    document = window.document

    def choose(found: Shapes) -> None:
        artwork = document.artwork
        if artwork is not None:
            try:
                shapes = found(artwork, document.choice.shapes)
            except LetteringError as fault:
                document.failed.emit(str(fault))
                return
            if not shapes:
                document.failed.emit("There are no such shapes.")
                return
            if window.tool != "choose":
                window.use_tool("choose")
            document.choose(Choice(shapes=shapes))

    def chosen() -> bool:
        return bool(document.choice.shapes)

    return tuple(
        Command(
            id_, title, MENU, keys, help_, partial(choose, found), chosen if needs else has_result, starts_group=n == 0
        )
        for n, (id_, title, keys, help_, found, needs) in enumerate(SHAPES)
    )


def _of_anchors(window: MainWindow, has_result: Callable[[], bool]) -> tuple[Command, ...]:
    document, refine = window.document, window.refine_panel

    def choose(found: Anchors) -> None:
        if document.artwork is not None:
            document.choose(Choice(anchors=found(document.artwork, document.choice.anchors)))

    def chosen() -> bool:
        return bool(document.choice.anchors)

    def crowded_ones(artwork: Artwork, _refs: frozenset[AnchorRef]) -> frozenset[AnchorRef]:
        groups = thinning.crowded(artwork, document.choice, refine.dials.values.apart_px)
        return frozenset(ref for group in groups for ref in group)

    def in_hand() -> bool:
        return window.step is Step.REFINE and window.tool == "anchors" and has_result()

    back = partial(choosing.next_anchor, step=-1)
    rows: tuple[Row, ...] = (
        ("grow", "More of the line", (".",), "Adds the next anchor at both ends.", choosing.grown, chosen),
        ("shrink", "Less of the line", (",",), "Leaves the last anchor at both ends.", choosing.shrunk, chosen),
        ("whole-contour", "Whole contour", (), "All anchors of it.", choosing.whole_contours, chosen),
        ("next-anchor", "Next anchor", ("Tab",), "The one that follows on the contour.", choosing.next_anchor, in_hand),
        ("last-anchor", "Anchor before", ("Shift+Tab",), "The one before on the contour.", back, in_hand),
        ("only-corners", "Corners", (), "Only corners, of what is chosen or of all.", _of(AnchorKind.CORNER), in_hand),
        ("only-smooth", "Smooth ones", (), "Only smooth anchors, likewise.", _of(AnchorKind.SMOOTH), in_hand),
        ("only-crowded", "Crowded ones", (), "Those nearer to the next than the distance.", crowded_ones, in_hand),
    )
    return tuple(
        Command(id_, title, MENU, keys, help_, partial(choose, found), enabled, starts_group=id_ == "grow")
        for id_, title, keys, help_, found, enabled in rows
    )


def _of(kind: AnchorKind) -> Anchors:
    return lambda artwork, refs: choosing.of_kind(artwork, refs, kind)
