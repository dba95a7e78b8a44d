"""The settings of the clean-up step, and the touch-ups it replays."""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Any, Self

from sobercrow.core.errors import SettingError
from sobercrow.core.outside import number
from sobercrow.core.settings.meaning import HEX_COLOUR, Checked, Meaning, Placed, Point, setting

Point3 = tuple[float, float, float]

LEAST_SLANT_TURN = 0.02
"""Least sine of the angle at a corner of a slanted sheet: a flatter one lies on a line with its neighbours."""


@dataclass(frozen=True, slots=True)
class Crop(Checked):
    """A part of the straightened sheet, in its pixels: left ≤ x < right, top ≤ y < bottom."""

    left: int
    top: int
    right: int
    bottom: int

    def __post_init__(self) -> None:
        """Raise `SettingError` for a crop with nothing in it."""
        Checked.__post_init__(self)
        if self.right <= self.left or self.bottom <= self.top or self.left < 0 or self.top < 0:
            raise SettingError("The crop leaves nothing of the picture; make it at least one pixel wide and high.")


@dataclass(frozen=True, slots=True)
class Corners:
    """The four corners of a sheet seen at a slant, in pixels of the picture as brought in.

    In the order top left, top right, bottom right, bottom left of the sheet once its slant is undone.
    """

    top_left: Point
    top_right: Point
    bottom_right: Point
    bottom_left: Point

    def __post_init__(self) -> None:
        """Raise `SettingError` where sides cross or corners lie on a line."""
        turns = []
        for k in range(4):
            (ax, ay), (bx, by), (cx, cy) = (self.points[(k + d) % 4] for d in range(3))
            first, second = (bx - ax, by - ay), (cx - bx, cy - by)
            size = (first[0] ** 2 + first[1] ** 2) ** 0.5 * (second[0] ** 2 + second[1] ** 2) ** 0.5
            turns.append((first[0] * second[1] - first[1] * second[0]) / size if size > 0 else 0.0)
        if not all(abs(t) >= LEAST_SLANT_TURN for t in turns):  # also refuses NaN
            raise SettingError("The four corners lie on a line; put them on the corners of the sheet.")
        if not all(t > 0 for t in turns):
            raise SettingError("The sides between the four corners cross; put each corner back on its own side.")

    @property
    def points(self) -> tuple[Point, Point, Point, Point]:
        """The corners in their order."""
        return self.top_left, self.top_right, self.bottom_right, self.bottom_left


@dataclass(frozen=True, slots=True)
class Levels(Checked):
    """Tones pushed to black and to white, and where the middle goes."""

    black: int = setting(0, Meaning("Black point", "Tones up to here become black.", 0, 254))
    midtone: float = setting(
        1.0, Meaning("Midtone", "Above 1 lightens the greys between, below 1 darkens them.", 0.1, 10.0, "", 0.05, 2)
    )
    white: int = setting(255, Meaning("White point", "Tones from here on become white.", 1, 255))

    def __post_init__(self) -> None:
        """Raise `SettingError` where black and white points cross."""
        Checked.__post_init__(self)
        if self.white <= self.black:
            raise SettingError(f"The white point ({self.white}) must lie above the black point ({self.black}).")


@dataclass(frozen=True, slots=True)
class GreyMix(Checked):
    """How much each channel counts when colours become grey, in per cent; only their proportions matter."""

    red: float = setting(30.0, Meaning("Red", "How much red light counts.", -100, 200, "%"))
    green: float = setting(59.0, Meaning("Green", "How much green light counts.", -100, 200, "%"))
    blue: float = setting(11.0, Meaning("Blue", "How much blue light counts.", -100, 200, "%"))

    def __post_init__(self) -> None:
        """Raise `SettingError` where the channels cancel out."""
        Checked.__post_init__(self)
        if self.red + self.green + self.blue < 10.0:
            raise SettingError("Red, green and blue must add up to at least 10 %; raise one of them.")

    @property
    def shares(self) -> Point3:
        """The three shares, adding up to 1."""
        total = self.red + self.green + self.blue
        return self.red / total, self.green / total, self.blue / total


class PictureKind(StrEnum):
    """What kind of picture it is; light, tones and dirt follow from it where they are left to be chosen."""

    DIGITAL = "digital"
    SCAN = "scan"
    PHOTO = "photo"
    SHADED = "shaded"


class TouchTool(StrEnum):
    """What a touch-up does."""

    SCRAPE = "scrape"
    NIB = "nib"
    POUR = "pour"


class TouchForm(StrEnum):
    """How a touch-up is drawn. A pour is a place."""

    FREEHAND = "freehand"
    LINE = "line"
    BOX = "box"
    POLYGON = "polygon"
    PLACE = "place"


INK_COLOUR, PAPER_COLOUR = "ink", "paper"


@dataclass(frozen=True, slots=True)
class TouchUp(Placed):
    """One touch-up, replayed on the cleaned picture whenever it is made.

    `points` and `width_px` are in pixels of the picture as brought in, so that turning, cropping and undoing a
    slant carry it along. `colour` is "#rrggbb", "ink" or "paper": the picture's own. `shares` is how much of the width
    a freehand stroke has at each of its points, as a pen pressed it; none for one of even width.
    """

    tool: TouchTool
    form: TouchForm
    points: tuple[Point, ...]
    width_px: float = setting(6.0, Meaning("Width", "How wide the stroke is.", 0.5, 2000, "px", 0.5, 1))
    colour: str = INK_COLOUR
    tolerance: float = setting(
        24.0, Meaning("Tolerance", "How unlike the place touched a colour may be to be poured over.", 0, 255)
    )
    everywhere: bool = False
    shown: bool = True
    shares: tuple[float, ...] = ()

    def __post_init__(self) -> None:
        """Raise `SettingError` for a touch-up without points or with an unknown colour."""
        Checked.__post_init__(self)
        if not self.points:
            raise SettingError("A touch-up needs at least one point.")
        if self.shares and (len(self.shares) != len(self.points) or not all(0.0 <= s <= 1.0 for s in self.shares)):
            raise SettingError("A touch-up has a share of its width from 0 to 1 for each of its points, or none.")
        if self.colour not in (INK_COLOUR, PAPER_COLOUR) and not HEX_COLOUR.fullmatch(self.colour):
            raise SettingError(f"A touch-up's colour must be ink, paper or like #a33e2e, not “{self.colour}”.")

    @classmethod
    def from_plain(cls, plain: dict[str, Any]) -> Self:
        """Rebuild from `dataclasses.asdict`."""
        rest = {k: v for k, v in plain.items() if k not in ("tool", "form", "points", "shares")}
        points = tuple((number(x), number(y)) for x, y in plain["points"])
        shares = tuple(number(share, 0.0, 1.0) for share in plain.get("shares", ()))
        return cls(TouchTool(plain["tool"]), TouchForm(plain["form"]), points, **rest, shares=shares)


SWITCHES = {
    "compression": ("compression",),
    "own_size": ("own_size",),
    "screen": ("screen",),
    "sharpening": ("sharpening",),
    "turn": ("quarter_turns", "mirrored"),
    "slant": ("slant", "ratio"),
    "angle": ("angle_deg",),
    "crop": ("crop",),
    "light": ("light",),
    "stains": ("stains",),
    "smooth": ("smooth",),
    "guides": ("guides",),
    "pencils": ("pencils",),
    "mix": ("mix",),
    "levels": ("levels",),
    "enlarge": ("enlarge",),
    "touch_ups": ("touch_ups",),
}
"""What can be switched off by itself, and the fields it holds."""


RESTORING = ("compression", "own_size", "screen", "sharpening")
"""What is undone before the sheet is cleaned: what was done to the picture before it was brought in."""


@dataclass(frozen=True, slots=True)
class CleanUp(Checked):
    """Settings of the second step, in the order they are applied. What is None is chosen from the picture.

    `kind` is what the picture is taken for, if it is not to be what it looks like. `compression` says whether it is
    undone, `own_size` whether a picture that was made larger goes back to the size it had, `screen` whether dots of a
    halftone or a dither are averaged, `sharpening` whether it is undone; None leaves that to what kind of picture it
    is. `pencils` are the colours, like #5b8fc2, of coloured pencil that is left out. The slant is undone first, then
    the sheet is turned and mirrored, straightened, cropped. `off` names what is switched off (keys of `SWITCHES`); its
    value is kept and comes back when it is switched on.
    """

    kind: PictureKind | None = None
    compression: bool | None = None
    own_size: bool | None = None
    screen: bool | None = None
    sharpening: bool | None = None
    slant: Corners | None = None
    ratio: float | None = setting(
        None, Meaning("Proportions", "Width ÷ height of the sheet, if you know it.", 0.1, 10, "", 0.01, 3)
    )
    quarter_turns: int = setting(0, Meaning("Quarter turns", "Turns the picture clockwise by 90° each.", 0, 3))
    mirrored: bool = False
    angle_deg: float = setting(
        0.0, Meaning("Straighten", "Turns the sheet until what should be level is level.", -45, 45, "°", 0.1, 2)
    )
    crop: Crop | None = None
    light: float | None = setting(
        None, Meaning("Even out the light", "Brightens the paper where it lies in shade.", 0, 100, "%")
    )
    stains: float = setting(0.0, Meaning("Lift stains", "Lightens blots paler than the ink.", 0, 100, "%"))
    smooth: float | None = setting(
        None, Meaning("Smooth dirt", "Calms compression dirt and paper grain; edges stay.", 0, 100, "%")
    )
    guides: float = setting(
        0.0,
        Meaning(
            "Take out lines", "Removes lines and curves drawn to work by, up to so dark, compared with ink.", 0, 90, "%"
        ),
    )
    pencils: tuple[str, ...] = ()
    mix: GreyMix | None = None
    levels: Levels | None = None
    enlarge: int = setting(1, Meaning("Enlarge", "Makes a small picture larger and keeps its edges keen.", 1, 8, "×"))
    touch_ups: tuple[TouchUp, ...] = ()
    off: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        """Raise `SettingError` for a switch that does not exist, and for pencils that are no colours."""
        Checked.__post_init__(self)
        unknown = set(self.off) - set(SWITCHES)
        if unknown:
            raise SettingError(f"“{min(unknown)}” cannot be switched off; what can is {', '.join(SWITCHES)}.")
        wrong = [colour for colour in self.pencils if not HEX_COLOUR.fullmatch(colour)]
        if wrong:
            raise SettingError(f"A coloured pencil must be a colour like #5b8fc2, not “{wrong[0]}”.")

    def switched(self, name: str, on: bool) -> Self:
        """Return the settings with one part switched on or off."""
        others = {o for o in self.off if o != name}
        return replace(self, off=tuple(sorted(others if on else others | {name})))

    def in_force(self) -> Self:
        """Return the settings with everything switched off at its neutral value, and nothing in `off`."""
        neutral: dict[str, Any] = {f: NEUTRAL[f] for name in self.off for f in SWITCHES[name]}
        return replace(self, **neutral, off=())

    @classmethod
    def from_plain(cls, plain: dict[str, Any]) -> Self:
        """Rebuild from `dataclasses.asdict`."""
        clean = dict(plain)
        if clean.get("kind") is not None:
            clean["kind"] = PictureKind(clean["kind"])
        for name, kind in (("crop", Crop), ("levels", Levels), ("mix", GreyMix)):
            if clean.get(name) is not None:
                clean[name] = kind(**clean[name])
        if clean.get("slant") is not None:
            clean["slant"] = Corners(**{k: (number(v[0]), number(v[1])) for k, v in clean["slant"].items()})
        clean["touch_ups"] = tuple(TouchUp.from_plain(t) for t in clean.get("touch_ups", ()))
        clean["off"] = tuple(clean.get("off", ()))
        clean["pencils"] = tuple(clean.get("pencils", ()))
        return cls(**clean)


NEUTRAL: dict[str, Any] = {
    "compression": False,
    "own_size": False,
    "screen": False,
    "sharpening": False,
    "slant": None,
    "ratio": None,
    "quarter_turns": 0,
    "mirrored": False,
    "angle_deg": 0.0,
    "crop": None,
    "light": 0.0,
    "stains": 0.0,
    "smooth": 0.0,
    "guides": 0.0,
    "pencils": (),
    "mix": None,
    "levels": Levels(),
    "enlarge": 1,
    "touch_ups": (),
}
"""The value at which each field leaves the picture alone."""
