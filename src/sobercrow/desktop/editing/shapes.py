"""The edits of shapes as data."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

from sobercrow.core.artwork import arranging, combining, cutting, joining, mirroring, placing, tree, truing
from sobercrow.core.artwork.arranging import Edge
from sobercrow.core.artwork.choice import Choice, Edited
from sobercrow.core.artwork.mirroring import Axis, Side
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.artwork.tree import Order
from sobercrow.core.errors import EditError
from sobercrow.core.geometry.affine import Affine
from sobercrow.core.geometry.combine import Progress
from sobercrow.core.settings import mm_to_px
from sobercrow.desktop.editing.edit import Dials, Edit, Through, Work

MANY = 100
"""With so many anchors combining and mirroring are worked out in the background."""


def _axis(artwork: Artwork, choice: Choice, dials: Dials) -> Axis:
    if dials.axis_through is Through.LAID:
        if dials.axis is None:
            raise EditError("Lay an axis on the drawing first: take up Lay axis, and click or pull.")
        return dials.axis
    if dials.axis_through is Through.PAGE:
        return Axis(0.5 * artwork.width_px, 0.5 * artwork.height_px, 90.0 if dials.axis_upright else 0.0)
    return mirroring.axis_of(artwork, choice, dials.axis_upright)


def _flipped(angle_deg: float) -> Work:
    def work(artwork: Artwork, choice: Choice, _dials: Dials) -> Artwork:
        axis = mirroring.axis_of(
            artwork, Choice(choice.shapes, choice.anchors if len(choice.anchors) > 2 else frozenset())
        )
        return placing.place(artwork, choice, Affine.mirrored(angle_deg, (axis.x, axis.y)))

    return work


def _plain(edit: Callable[[Artwork, Choice], Artwork | Edited]) -> Work:
    """An edit that goes by no dials."""
    return lambda artwork, choice, _dials: edit(artwork, choice)


@dataclass(frozen=True, slots=True)
class _Reporting:
    """Likewise, of an edit that tells how far it is."""

    edit: Callable[..., Artwork | Edited]

    def __call__(
        self, artwork: Artwork, choice: Choice, _dials: Dials, progress: Progress | None = None
    ) -> Artwork | Edited:
        return self.edit(artwork, choice, progress=progress)


def _half(keep: Side) -> Work:
    return lambda artwork, choice, dials: mirroring.half_from_half(artwork, choice, _axis(artwork, choice, dials), keep)


def _aligned(edge: Edge) -> Work:
    return lambda artwork, choice, dials: arranging.align_shapes(artwork, choice, edge, dials.to, choice.first)


def _spread(across: bool, by: arranging.Spread) -> Work:
    return lambda artwork, choice, _dials: arranging.spread_shapes(artwork, choice, across, by)


def _ordered(order: Order) -> Work:
    return lambda artwork, choice, _dials: tree.reorder(artwork, choice, order)


def _duplicated(artwork: Artwork, choice: Choice, dials: Dials) -> Edited:
    aside = mm_to_px(dials.aside_mm, artwork.dpi)
    return arranging.duplicate(artwork, choice, aside, aside)


def _rows(artwork: Artwork, choice: Choice, dials: Dials) -> Edited:
    gap = mm_to_px(dials.gap_mm, artwork.dpi)
    return arranging.in_rows(artwork, choice, round(dials.columns), round(dials.rows), (gap, gap))


def _around(artwork: Artwork, choice: Choice, dials: Dials) -> Edited:
    middle = 0.5 * artwork.width_px, 0.5 * artwork.height_px
    return arranging.around(artwork, choice, round(dials.copies), middle)


def _rows_of(
    menu: str, least: int, *rows: tuple[str, str, str, str, Work] | tuple[str, str, str, str, Work, str]
) -> tuple[Edit, ...]:
    """Edits given in short: id, title, name, help, work, and a key if there is one."""
    return tuple(
        Edit(
            row[0],
            row[1],
            row[3],
            row[4],
            least_shapes=least,
            keys=row[5:],
            starts_group=n == 0,
            name=row[2],
            menu=menu,
            reports=isinstance(row[4], _Reporting),
        )
        for n, row in enumerate(rows)
    )


def _slow(slow_from: int, *arguments: Any) -> tuple[Edit, ...]:
    """The same for edits that take long with so many anchors."""
    return tuple(replace(edit, slow_from=slow_from) for edit in _rows_of(*arguments))


FLIPS = _rows_of(
    "Shape",
    0,
    (
        "mirror-across",
        "Mirror across",
        "",
        "Left and right of what is chosen are exchanged.",
        _flipped(90.0),
        "Shift+H",
    ),
    ("mirror-down", "Mirror down", "", "Top and bottom of what is chosen are exchanged.", _flipped(0.0)),
)

COMBINING = _slow(
    MANY,
    "Shape",
    2,
    (
        "join",
        "Join",
        "Join shapes",
        "One shape of all, with the paint of the uppermost.",
        _Reporting(combining.join_shapes),
        "Ctrl+U",
    ),
    (
        "subtract",
        "Subtract",
        "Subtract shapes",
        "The others are taken away from the lowest.",
        _plain(combining.subtract_shapes),
    ),
    (
        "intersect",
        "Intersect",
        "Intersect shapes",
        "What all have in common stays.",
        _plain(combining.intersect_shapes),
    ),
    (
        "leave-out",
        "Leave out",
        "Leave out the common part",
        "What they have in common goes.",
        _plain(combining.exclude_shapes),
    ),
    ("divide", "Divide", "Divide shapes", "Parted along all edges.", _plain(combining.divide_shapes)),
    ("put-in", "Put in", "Put in as a hole", "The upper of two becomes a hole of the lower.", _plain(cutting.put_in)),
)

WHOLE = _slow(
    0,
    "Shape",
    0,
    (
        "solid",
        "Solid",
        "Make solid",
        "One silhouette without holes: of what is chosen, or of everything.",
        _Reporting(combining.solid),
    ),
    (
        "trim",
        "Trim",
        "Trim what is hidden",
        "What lies hidden beneath other shapes goes: of what is chosen, or of everything.",
        _Reporting(combining.trim),
    ),
    (
        "join-colours",
        "Join by colour",
        "",
        "In each layer shapes of one colour that touch become one.",
        _Reporting(lambda artwork, _choice, progress: joining.join_by_colour(artwork, progress=progress)),
    ),
    (
        "backing",
        "Backing",
        "Lay a backing",
        "One shape of everything, grown, beneath it in a layer of its own.",
        lambda artwork, _choice, dials: combining.backing(artwork, dials.backing),
    ),
)

MIRRORING = _slow(
    MANY,
    "Shape",
    1,
    (
        "turn-over",
        "Turn over",
        "Turn over in the axis",
        "What is chosen is mirrored in the axis.",
        lambda artwork, choice, dials: mirroring.turn_over(artwork, choice, _axis(artwork, choice, dials)),
    ),
    (
        "copy-over",
        "Copy over",
        "Copy over the axis",
        "A mirrored copy is laid beside.",
        lambda artwork, choice, dials: mirroring.copy_over(artwork, choice, _axis(artwork, choice, dials)),
    ),
    (
        "join-over",
        "Join over",
        "Join over the axis",
        "A mirrored copy becomes one with what it meets at the axis, without a seam.",
        lambda artwork, choice, dials: mirroring.copy_over(artwork, choice, _axis(artwork, choice, dials), join=True),
    ),
    (
        "keep-left",
        "Keep left, below",
        "Half from left half",
        "The left half, or the lower one, is mirrored for the other.",
        _half(Side.LEFT),
    ),
    (
        "keep-right",
        "Keep right, above",
        "Half from right half",
        "The right half, or the upper one, is mirrored for the other.",
        _half(Side.RIGHT),
    ),
)

ALIGNING = _rows_of(
    "Shape",
    1,
    ("align-left", "Left", "Align left", "Their left edges in line.", _aligned(Edge.LEFT)),
    ("align-centre", "Centre", "Align centres", "Their middles one above the other.", _aligned(Edge.CENTRE)),
    ("align-right", "Right", "Align right", "Their right edges in line.", _aligned(Edge.RIGHT)),
    ("align-top", "Top", "Align top", "Their top edges level.", _aligned(Edge.TOP)),
    ("align-middle", "Middle", "Align middles", "Their middles level.", _aligned(Edge.MIDDLE)),
    ("align-bottom", "Bottom", "Align bottom", "Their bottom edges level.", _aligned(Edge.BOTTOM)),
)

SPREADING = _rows_of(
    "Shape",
    3,
    (
        "gaps-across",
        "Gaps across",
        "Spread gaps across",
        "Equal gaps side by side.",
        _spread(True, arranging.Spread.GAPS),
    ),
    (
        "gaps-down",
        "Gaps down",
        "Spread gaps down",
        "Equal gaps one above the other.",
        _spread(False, arranging.Spread.GAPS),
    ),
    (
        "centres-across",
        "Centres across",
        "Spread centres across",
        "Equal ways from centre to centre.",
        _spread(True, arranging.Spread.CENTRES),
    ),
    (
        "centres-down",
        "Centres down",
        "Spread centres down",
        "Likewise, one above the other.",
        _spread(False, arranging.Spread.CENTRES),
    ),
)

ORDERING = _rows_of(
    "Shape",
    1,
    (
        "to-top",
        "To the top",
        "Bring to the top",
        "Above all others of their layer.",
        _ordered(Order.TOP),
        "Ctrl+Shift+]",
    ),
    ("up", "Up", "Bring up", "Past the next one above.", _ordered(Order.UP), "Ctrl+]"),
    ("down", "Down", "Send down", "Past the next one below.", _ordered(Order.DOWN), "Ctrl+["),
    (
        "to-bottom",
        "To the bottom",
        "Send to the bottom",
        "Below all others of their layer.",
        _ordered(Order.BOTTOM),
        "Ctrl+Shift+[",
    ),
    ("group", "Group", "", "Chosen together from now on.", _plain(tree.group), "Ctrl+G"),
    ("ungroup", "Ungroup", "", "The outermost group is taken apart.", _plain(tree.ungroup), "Ctrl+Shift+G"),
    ("own-layer", "Own layer", "Bring into a new layer", "Into a new layer above all.", _plain(tree.to_layer)),
)

REPEATING = _rows_of(
    "Shape",
    1,
    ("duplicate", "Duplicate", "", "A copy a little aside.", _duplicated, "Ctrl+D"),
    ("in-rows", "Columns and rows", "Repeat in columns and rows", "As many as said, with gaps between.", _rows),
    ("around", "Around", "Repeat around a middle", "Evenly around the middle of the page.", _around),
    (
        "outline-strokes",
        "Strokes to shapes",
        "",
        "What strokes ink becomes filled shapes.",
        _plain(combining.strokes_to_shapes),
    ),
)

TRUING = _slow(
    0,
    "Shape",
    1,
    (
        "make-true",
        "Nearest true shapes",
        "Make true",
        "Each becomes the true shape it is nearest to.",
        _plain(truing.make_true),
    ),
    ("same-size", "Same size", "Bring to one size", "All as large as they are in the mean.", _plain(truing.same_size)),
)

SHAPE_EDITS: tuple[Edit, ...] = (
    *FLIPS,
    *MIRRORING,
    *COMBINING,
    *WHOLE,
    *ALIGNING,
    *SPREADING,
    *ORDERING,
    *REPEATING,
    *TRUING,
)
"""In the order of the menu."""
