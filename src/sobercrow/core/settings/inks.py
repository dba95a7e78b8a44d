"""The settings of the inks step: how inks are found, the inks given, and the touch-ups replayed on them."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Any, Self

from sobercrow.core.errors import SettingError
from sobercrow.core.outside import number
from sobercrow.core.settings.meaning import HEX_COLOUR, Checked, Meaning, Placed, Point, setting

MOST_INKS = 32
AUTO, NONE = "auto", "none"


class InkKind(StrEnum):
    """How ink is told from paper: one ink by its tone, several by their colours, or even steps of grey."""

    ONE = "one"
    SEVERAL = "several"
    GREYS = "greys"


class Role(StrEnum):
    """What becomes of an ink: traced, taken for the paper, or left out."""

    INK = "ink"
    PAPER = "paper"
    LEFT_OUT = "left out"


class Mixing(StrEnum):
    """Where the colours of soft edges were mixed: mostly sRGB values in drawings, linear light in lenses."""

    AUTO = "auto"
    SRGB = "sRGB values"
    LINEAR = "linear light"


def checked_colour(text: str) -> str:
    """Return a colour as "#rrggbb" in lower case; raise `SettingError` for what is none."""
    colour = text.strip().lower()
    colour = colour if colour.startswith("#") else f"#{colour}"
    if re.fullmatch("#[0-9a-f]{3}", colour):
        colour = "#" + "".join(2 * c for c in colour[1:])
    if not HEX_COLOUR.fullmatch(colour):
        raise SettingError(f"A colour must be like #a33e2e, not “{text.strip()}”.")
    return colour


@dataclass(frozen=True, slots=True)
class Ink(Checked):
    """One colour to be traced.

    `members` are the colours of the picture that belong to it; merging joins them. `colour` is what it is drawn
    with. A `locked` ink stays when the colour count changes.
    """

    colour: str
    name: str = ""
    role: Role = Role.INK
    locked: bool = False
    members: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        """Take the colour for the only member where none is given; raise `SettingError` for what is no colour."""
        Checked.__post_init__(self)
        for text in (self.colour, *self.members):
            if not HEX_COLOUR.fullmatch(text):
                raise SettingError(f"A colour must be like #a33e2e, not “{text}”.")
        if not self.members:
            object.__setattr__(self, "members", (self.colour,))

    @classmethod
    def from_plain(cls, plain: dict[str, Any]) -> Self:
        """Rebuild from `dataclasses.asdict`."""
        return cls(**{**plain, "role": Role(plain["role"]), "members": tuple(plain["members"])})


class InkTool(StrEnum):
    """What a touch-up on the inks does."""

    NIB = "nib"
    POUR = "pour"
    SPOT = "spot"
    RING = "ring"
    BRIDGE = "bridge"


class InkForm(StrEnum):
    """How it is drawn; spots and pours are places, bridges lines, rings polygons."""

    FREEHAND = "freehand"
    LINE = "line"
    BOX = "box"
    POLYGON = "polygon"
    PLACE = "place"


@dataclass(frozen=True, slots=True)
class InkTouchUp(Placed):
    """One touch-up on the inks, replayed whenever they are parted anew.

    `points` and `width_px` are in pixels of the picture as brought in. `inks` are colours: the ink laid, or for a ring
    those that may be in it; whatever the inks are by then, the ones most like them are taken. Empty is the paper.
    """

    tool: InkTool
    form: InkForm
    points: tuple[Point, ...]
    inks: tuple[str, ...] = ()
    width_px: float = setting(6.0, Meaning("Width", "How wide the stroke is.", 0.5, 2000, "px", 0.5, 1))
    everywhere: bool = False
    shown: bool = True

    def __post_init__(self) -> None:
        """Raise `SettingError` for a touch-up without points, a ring without inks, or what is no colour."""
        Checked.__post_init__(self)
        if not self.points:
            raise SettingError("A touch-up needs at least one point.")
        if self.tool is InkTool.RING and (len(self.points) < 3 or not self.inks):
            raise SettingError("A ring needs three points and at least one ink that may be in it.")
        if self.tool is InkTool.BRIDGE and len(self.points) != 2:
            raise SettingError("A bridge needs two ends.")
        for text in self.inks:
            if not HEX_COLOUR.fullmatch(text):
                raise SettingError(f"A colour must be like #a33e2e, not “{text}”.")

    @classmethod
    def from_plain(cls, plain: dict[str, Any]) -> Self:
        """Rebuild from `dataclasses.asdict`."""
        points = tuple((number(x), number(y)) for x, y in plain["points"])
        made = {"tool": InkTool(plain["tool"]), "form": InkForm(plain["form"]), "points": points}
        return cls(**{**plain, **made, "inks": tuple(plain["inks"])})


@dataclass(frozen=True, slots=True)
class Inks(Checked):
    """Settings of the third step. What is None is chosen from the picture.

    Of one ink: a tone counts as ink up to `threshold`; or compared with its surroundings (`window_mm`, `contrast`)
    where `local` is set; or from `dark_limit` to `light_limit` where `limited` is.
    Of several: `palette` gives inks, `count` how many there are in all; those missing are found in the picture.
    `paper` is auto, none or a colour, and holds while no ink of the palette has that role.
    """

    kind: InkKind | None = None
    threshold: int | None = setting(
        None, Meaning("Threshold", "Tones up to here count as ink; higher makes the drawing heavier.", 0, 255)
    )
    local: bool = False
    window_mm: float = setting(
        5.0,
        Meaning(
            "Window", "How far around a place its surroundings reach; wider than any stroke.", 0.2, 200, "mm", 0.1, 1
        ),
    )
    contrast: float = setting(
        20.0,
        Meaning(
            "Contrast wanted", "How much darker than its surroundings ink is; less catches fainter strokes.", 1, 80, "%"
        ),
    )
    limited: bool = False
    dark_limit: int = setting(0, Meaning("Dark limit", "Tones darker than this are not taken.", 0, 255))
    light_limit: int = setting(245, Meaning("Light limit", "Tones lighter than this are not taken.", 0, 255))
    count: int | None = setting(None, Meaning("Inks", "How many colours in all, the paper among them.", 2, MOST_INKS))
    palette: tuple[Ink, ...] = ()
    paper: str = AUTO
    paper_at_edge: bool = False
    mixing: Mixing = Mixing.AUTO
    speck_px2: float = setting(
        0.0,
        Meaning("Specks", "Spots of ink smaller than this are given to what is around them.", 0, 10000, "px²", 1, 0),
    )
    hole_px2: float = setting(
        0.0, Meaning("Holes", "Holes smaller than this are filled by what is around them.", 0, 10000, "px²", 1, 0)
    )
    touch_ups: tuple[InkTouchUp, ...] = ()

    def __post_init__(self) -> None:
        """Raise `SettingError` for a setting outside its range or limits that cross."""
        Checked.__post_init__(self)
        if self.limited and self.light_limit < self.dark_limit:
            raise SettingError(
                f"The light limit ({self.light_limit}) must not lie below the dark limit ({self.dark_limit})."
            )
        if self.paper not in (AUTO, NONE) and not HEX_COLOUR.fullmatch(self.paper):
            raise SettingError(f"Paper must be auto, none or a colour like #ffffff, not “{self.paper}”.")
        if len(self.palette) > MOST_INKS:
            raise SettingError(f"There can be {MOST_INKS} inks at most, not {len(self.palette)}.")

    def with_found(self, inks: tuple[Ink, ...]) -> Self:
        """Return the settings with exactly these inks."""
        return replace(self, kind=InkKind.SEVERAL, palette=inks, count=None, paper=NONE)

    def with_count(self, count: int | None, present: tuple[Ink, ...] = ()) -> Self:
        """Return the settings with so many inks, or as many as proposed; the locked ones of those present stay."""
        locked = tuple(ink for ink in present if ink.locked)
        given = any(ink.role is Role.PAPER for ink in locked)
        kind = self.kind if self.kind is InkKind.GREYS else InkKind.SEVERAL
        return replace(self, kind=kind, palette=locked, count=count, paper=self.paper if given else AUTO)

    @classmethod
    def from_plain(cls, plain: dict[str, Any]) -> Self:
        """Rebuild from `dataclasses.asdict`."""
        made = dict(plain)
        if made.get("kind") is not None:
            made["kind"] = InkKind(made["kind"])
        made["mixing"] = Mixing(made.get("mixing", Mixing.AUTO))
        made["palette"] = tuple(Ink.from_plain(i) for i in made.get("palette", ()))
        made["touch_ups"] = tuple(InkTouchUp.from_plain(t) for t in made.get("touch_ups", ()))
        return cls(**made)
