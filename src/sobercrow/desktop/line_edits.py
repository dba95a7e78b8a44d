"""The edits of lines as data: menus, keys and the buttons of the panel are made from this table."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from sobercrow.core.artwork import anchors, corners, cutting, lines, thinning
from sobercrow.core.artwork.choice import Choice, Edited
from sobercrow.core.artwork.easing import Ease, ease_stretch
from sobercrow.core.artwork.lines import By, Way
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.artwork.stretches import needed_stretch
from sobercrow.core.geometry.contour import AnchorKind
from sobercrow.core.settings import MM_PER_INCH, Meaning, setting


@dataclass(frozen=True, slots=True)
class LineDials:
    """The numbers that edits of lines go by, as the panel has them."""

    radius_mm: float = setting(1.0, Meaning("Radius", "Of rounded corners.", 0.05, 50.0, "mm", 0.1, 2))
    tolerance_px: float = setting(
        0.25, Meaning("Tolerance", "How far the thinned line may lie from the present one.", 0.02, 5.0, "px", 0.01, 2)
    )
    apart_px: float = setting(1.0, Meaning("Crowded", "Anchors nearer than this are one.", 0.1, 20.0, "px", 0.1, 1))
    by: By = By.MEAN


Work = Callable[[Artwork, Choice, LineDials], Artwork | Edited]


@dataclass(frozen=True, slots=True)
class LineEdit:
    """One edit: what it is called, what it does, and how many anchors it needs."""

    id: str
    title: str
    help: str
    work: Work
    least_anchors: int = 1
    keys: tuple[str, ...] = ()
    starts_group: bool = False
    name: str = ""
    """What undo calls it, if not by its title."""

    def fits(self, choice: Choice) -> bool:
        """Tell whether there is enough chosen for it."""
        return len(choice.anchors) >= self.least_anchors


def _eased(artwork: Artwork, choice: Choice, _dials: LineDials) -> Edited:
    return Edited(ease_stretch(artwork, needed_stretch(artwork, choice.anchors), Ease()).artwork, Choice())


def _kind(kind: AnchorKind) -> Work:
    return lambda artwork, choice, _dials: anchors.set_kind(artwork, choice.anchors, kind)


def _align(way: Way) -> Work:
    return lambda artwork, choice, dials: lines.align(artwork, choice, way, dials.by)


def _join(how: cutting.Bridge) -> Work:
    return lambda artwork, choice, _dials: cutting.join(artwork, choice.anchors, how)


EDITS: tuple[LineEdit, ...] = (
    LineEdit(
        "make-corner",
        "Corner",
        "Each handle goes its own way.",
        _kind(AnchorKind.CORNER),
        keys=("Shift+C",),
        starts_group=True,
        name="Make corner",
    ),
    LineEdit(
        "make-smooth",
        "Smooth",
        "Both handles lie on one line.",
        _kind(AnchorKind.SMOOTH),
        keys=("Shift+S",),
        name="Make smooth",
    ),
    LineEdit(
        "make-even",
        "Even",
        "Both handles lie on one line, equally long.",
        _kind(AnchorKind.EVEN),
        keys=("Shift+E",),
        name="Make even",
    ),
    LineEdit(
        "sharpen",
        "Sharpen",
        "The chosen anchors become one corner, where their sides meet.",
        lambda artwork, choice, _dials: corners.sharpen(artwork, choice),
        keys=("Shift+V",),
        starts_group=True,
    ),
    LineEdit(
        "round",
        "Round",
        "Chosen corners become arcs of the radius beside.",
        lambda artwork, choice, dials: corners.round_corners(
            artwork, choice, dials.radius_mm * artwork.dpi / MM_PER_INCH
        ),
        keys=("Shift+U",),
    ),
    LineEdit(
        "straight",
        "Straight",
        "The stretch becomes one line, level or upright if it nearly is.",
        lambda artwork, choice, _dials: lines.straighten(artwork, choice),
        2,
        ("Shift+L",),
        starts_group=True,
        name="Make straight",
    ),
    LineEdit(
        "arc",
        "Arc",
        "The stretch becomes one circular arc, tangent to its neighbours if it nearly is.",
        lambda artwork, choice, _dials: lines.make_arc(artwork, choice),
        2,
        ("Shift+A",),
        name="Make arc",
    ),
    LineEdit("calm", "Calm", "The whole stretch is eased once.", _eased, 2, ("Shift+Q",), name="Ease stretch"),
    LineEdit(
        "align-level",
        "Level row",
        "Chosen anchors are moved into one level row.",
        _align(Way.LEVEL),
        2,
        starts_group=True,
        name="Align level",
    ),
    LineEdit(
        "align-upright",
        "Upright row",
        "Chosen anchors are moved into one upright row.",
        _align(Way.UPRIGHT),
        2,
        name="Align upright",
    ),
    LineEdit(
        "space-evenly",
        "Space evenly",
        "The anchors of the stretch come to lie evenly along it.",
        lambda artwork, choice, _dials: lines.space_evenly(artwork, choice),
        3,
    ),
    LineEdit(
        "cut-here",
        "Cut here",
        "The contour is cut at the chosen anchor.",
        lambda artwork, choice, _dials: cutting.cut_at(artwork, next(iter(choice.anchors))),
        starts_group=True,
        name="Cut",
    ),
    LineEdit(
        "join-straight",
        "Join",
        "Two chosen open ends are joined by a line.",
        _join(cutting.Bridge.STRAIGHT),
        2,
        ("Shift+J",),
        name="Join ends",
    ),
    LineEdit(
        "join-smooth",
        "Join smoothly",
        "Two chosen open ends are led on into each other.",
        _join(cutting.Bridge.SMOOTH),
        2,
        name="Join ends smoothly",
    ),
    LineEdit(
        "close-contour",
        "Close",
        "Open contours that are chosen are closed by a line.",
        lambda artwork, choice, _dials: cutting.close(artwork, choice),
        name="Close contour",
    ),
    LineEdit(
        "reverse",
        "Reverse",
        "Chosen contours run the other way.",
        lambda artwork, choice, _dials: cutting.reverse(artwork, choice),
        name="Reverse contour",
    ),
    LineEdit(
        "take-out",
        "Take out",
        "A chosen hole becomes a shape of its own.",
        lambda artwork, choice, _dials: cutting.take_out(artwork, choice),
        name="Take out hole",
    ),
)
"""In the order of the menu."""


def thin(artwork: Artwork, choice: Choice, dials: LineDials) -> Edited:
    """Thin out within the tolerance of the dials."""
    return thinning.thin_out(artwork, choice, dials.tolerance_px)


def thin_at_extremes(artwork: Artwork, choice: Choice, dials: LineDials) -> Edited:
    """The same with anchors at tops and bottoms."""
    return thinning.thin_out(artwork, choice, dials.tolerance_px, at_extremes=True)


def join_crowded(artwork: Artwork, choice: Choice, dials: LineDials) -> Edited:
    """Leave one of each anchors that crowd each other."""
    return thinning.join_crowded(artwork, choice, dials.apart_px)


WIDE_EDITS: tuple[LineEdit, ...] = (
    LineEdit(
        "thin-out",
        "Thin out",
        "The fewest anchors that hold the line: of the stretch, the chosen shapes, or everything.",
        thin,
        0,
        ("Shift+T",),
        starts_group=True,
    ),
    LineEdit(
        "tops-bottoms",
        "At tops and bottoms",
        "Anchors where the line is level or upright, and as few others as hold it.",
        thin_at_extremes,
        0,
        name="Anchors at tops and bottoms",
    ),
    LineEdit(
        "join-crowded",
        "Join crowded",
        "One anchor is left of those that are nearer than the distance.",
        join_crowded,
        0,
    ),
)
"""Edits that take everything if nothing is chosen."""
