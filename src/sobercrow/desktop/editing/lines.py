"""The edits of lines as data."""

from __future__ import annotations

from sobercrow.core.artwork import anchors, corners, cutting, lines, thinning
from sobercrow.core.artwork.choice import Choice, Edited
from sobercrow.core.artwork.easing import Ease, ease_stretch
from sobercrow.core.artwork.lines import Way
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.artwork.stretches import needed_stretch
from sobercrow.core.geometry.contour import AnchorKind
from sobercrow.core.settings import mm_to_px
from sobercrow.desktop.editing.edit import Dials, Edit, Work


def _eased(artwork: Artwork, choice: Choice, _dials: Dials) -> Edited:
    return Edited(ease_stretch(artwork, needed_stretch(artwork, choice.anchors), Ease()).artwork, Choice())


def _kind(kind: AnchorKind) -> Work:
    return lambda artwork, choice, _dials: anchors.set_kind(artwork, choice.anchors, kind)


def _align(way: Way) -> Work:
    return lambda artwork, choice, dials: lines.align(artwork, choice, way, dials.by)


def _join(how: cutting.Bridge) -> Work:
    return lambda artwork, choice, _dials: cutting.join(artwork, choice.anchors, how)


LINE_EDITS: tuple[Edit, ...] = (
    Edit(
        "make-corner",
        "Corner",
        "Each handle goes its own way.",
        _kind(AnchorKind.CORNER),
        keys=("Shift+C",),
        starts_group=True,
        name="Make corner",
        least_anchors=1,
    ),
    Edit(
        "make-smooth",
        "Smooth",
        "Both handles lie on one line.",
        _kind(AnchorKind.SMOOTH),
        keys=("Shift+S",),
        name="Make smooth",
        least_anchors=1,
    ),
    Edit(
        "make-even",
        "Even",
        "Both handles lie on one line, equally long.",
        _kind(AnchorKind.EVEN),
        keys=("Shift+E",),
        name="Make even",
        least_anchors=1,
    ),
    Edit(
        "sharpen",
        "Sharpen",
        "The chosen anchors become one corner, where their sides meet.",
        lambda artwork, choice, _dials: corners.sharpen(artwork, choice),
        keys=("Shift+V",),
        starts_group=True,
        least_anchors=1,
    ),
    Edit(
        "round",
        "Round",
        "Chosen corners become arcs of the radius beside.",
        lambda artwork, choice, dials: corners.round_corners(artwork, choice, mm_to_px(dials.radius_mm, artwork.dpi)),
        keys=("Shift+U",),
        least_anchors=1,
    ),
    Edit(
        "straight",
        "Straight",
        "The stretch becomes one line, level or upright if it nearly is.",
        lambda artwork, choice, _dials: lines.straighten(artwork, choice),
        least_anchors=2,
        keys=("Shift+L",),
        starts_group=True,
        name="Make straight",
    ),
    Edit(
        "arc",
        "Arc",
        "The stretch becomes one circular arc, tangent to its neighbours if it nearly is.",
        lambda artwork, choice, _dials: lines.make_arc(artwork, choice),
        least_anchors=2,
        keys=("Shift+A",),
        name="Make arc",
    ),
    Edit(
        "calm",
        "Calm",
        "The whole stretch is eased once.",
        _eased,
        least_anchors=2,
        keys=("Shift+Q",),
        name="Ease stretch",
    ),
    Edit(
        "align-level",
        "Level row",
        "Chosen anchors are moved into one level row.",
        _align(Way.LEVEL),
        least_anchors=2,
        starts_group=True,
        name="Align level",
    ),
    Edit(
        "align-upright",
        "Upright row",
        "Chosen anchors are moved into one upright row.",
        _align(Way.UPRIGHT),
        least_anchors=2,
        name="Align upright",
    ),
    Edit(
        "space-evenly",
        "Space evenly",
        "The anchors of the stretch come to lie evenly along it.",
        lambda artwork, choice, _dials: lines.space_evenly(artwork, choice),
        least_anchors=3,
    ),
    Edit(
        "cut-here",
        "Cut here",
        "The contour is cut at the chosen anchor.",
        lambda artwork, choice, _dials: cutting.cut_at(artwork, next(iter(choice.anchors))),
        starts_group=True,
        name="Cut",
        least_anchors=1,
    ),
    Edit(
        "join-straight",
        "Join",
        "Two chosen open ends are joined by a line.",
        _join(cutting.Bridge.STRAIGHT),
        least_anchors=2,
        keys=("Shift+J",),
        name="Join ends",
    ),
    Edit(
        "join-smooth",
        "Join smoothly",
        "Two chosen open ends are led on into each other.",
        _join(cutting.Bridge.SMOOTH),
        least_anchors=2,
        name="Join ends smoothly",
    ),
    Edit(
        "close-contour",
        "Close",
        "Open contours that are chosen are closed by a line.",
        lambda artwork, choice, _dials: cutting.close(artwork, choice),
        name="Close contour",
        least_anchors=1,
    ),
    Edit(
        "reverse",
        "Reverse",
        "Chosen contours run the other way.",
        lambda artwork, choice, _dials: cutting.reverse(artwork, choice),
        name="Reverse contour",
        least_anchors=1,
    ),
    Edit(
        "take-out",
        "Take out",
        "A chosen hole becomes a shape of its own.",
        lambda artwork, choice, _dials: cutting.take_out(artwork, choice),
        name="Take out hole",
        least_anchors=1,
    ),
)
"""In the order of the menu."""


def thin(artwork: Artwork, choice: Choice, dials: Dials) -> Edited:
    """Thin out within the tolerance of the dials."""
    return thinning.thin_out(artwork, choice, dials.tolerance_px)


def thin_at_extremes(artwork: Artwork, choice: Choice, dials: Dials) -> Edited:
    """The same with anchors at tops and bottoms."""
    return thinning.thin_out(artwork, choice, dials.tolerance_px, at_extremes=True)


def join_crowded(artwork: Artwork, choice: Choice, dials: Dials) -> Edited:
    """Leave one of each anchors that crowd each other."""
    return thinning.join_crowded(artwork, choice, dials.apart_px)


WIDE_EDITS: tuple[Edit, ...] = (
    Edit(
        "thin-out",
        "Thin out",
        "The fewest anchors that hold the line: of the stretch, the chosen shapes, or everything.",
        thin,
        keys=("Shift+T",),
        with_ribbon=True,
        starts_group=True,
    ),
    Edit(
        "tops-bottoms",
        "At tops and bottoms",
        "Anchors where the line is level or upright, and as few others as hold it.",
        thin_at_extremes,
        with_ribbon=True,
        name="Anchors at tops and bottoms",
    ),
    Edit(
        "join-crowded",
        "Join crowded",
        "One anchor is left of those that are nearer than the distance.",
        join_crowded,
        with_ribbon=True,
    ),
)
"""Edits that take everything if nothing is chosen."""
