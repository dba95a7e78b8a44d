"""The colours of a press: what each ink of artwork is printed in, by per cent, by name, or through a profile."""

from __future__ import annotations

import io
import re
from collections.abc import Iterable
from dataclasses import dataclass, field
from functools import lru_cache
from pathlib import Path

import numpy as np

from sobercrow.core.errors import ExportError
from sobercrow.core.outside import reading
from sobercrow.core.picture.decode import read_bytes

Cmyk = tuple[float, float, float, float]
"""Cyan, magenta, yellow and black, each from 0 to 100 %."""

OWN_PROFILE = Path(__file__).parent / "profiles" / "coated-fogra39.icc"
OWN_CONDITION = "FOGRA39"
"""What the profile that comes along stands for, as the registry of the ICC has it: offset on coated paper."""
OWN_LIMIT = 330.0
"""The most ink, in per cent, that the profile that comes along lays in one place."""
MOST_PROFILE_BYTES = 20 << 20
MOST_NAME = 60
BLACK_ALONE: Cmyk = (0.0, 0.0, 0.0, 100.0)
_NUMBER = r"(?:\d+(?:\.\d*)?|\.\d+)"
_CMYK = re.compile(rf"(?:^|[\s,;:(])[CMYK]?\s*({_NUMBER})" + rf"[\s,;/%]+[CMYK]?\s*({_NUMBER})" * 3 + r"\s*%?\)?$")


@dataclass(frozen=True, slots=True)
class PrintInk:
    """What a colour of artwork is printed in: per cent of the four inks, a spot colour of that name, or both, the
    per cent then being what stands for it on screens and presses without it."""

    colour: str
    cmyk: Cmyk | None = None
    spot: str = ""

    @property
    def text(self) -> str:
        """What one types for it; see `print_ink`."""
        numbers = "" if self.cmyk is None else " ".join(f"{value:g}" for value in self.cmyk)
        return ", ".join(part for part in (self.spot, numbers) if part)


@dataclass(frozen=True, slots=True)
class Printing:
    """How artwork is printed in four colours and spot colours.

    `profile` names the file of a CMYK profile, nothing that which comes along. With `overprint_black`, black alone is
    printed over what lies beneath rather than in its place.
    """

    inks: tuple[PrintInk, ...] = ()
    profile: str = ""
    overprint_black: bool = field(
        default=False,
        metadata={
            "label": "Overprint black",
            "help": "Black alone (0 0 0 100) is printed over what lies beneath, so that nothing shows between.",
        },
    )

    def ink_of(self, colour: str) -> PrintInk:
        """Return what a colour is printed in, as far as it was said."""
        return next((ink for ink in self.inks if ink.colour == colour), PrintInk(colour))

    def with_ink(self, ink: PrintInk) -> Printing:
        """Return it with an ink in place of what was said of its colour."""
        others = tuple(one for one in self.inks if one.colour != ink.colour)
        inks = others if ink.cmyk is None and not ink.spot else (*others, ink)
        return Printing(inks, self.profile, self.overprint_black)

    def cmyk_of(self, colours: Iterable[str]) -> dict[str, Cmyk]:
        """Return the per cent of colours: as it was said, else through the profile; `ExportError` as `read_profile`."""
        wanted = list(dict.fromkeys(colours))
        said = {colour: self.ink_of(colour).cmyk for colour in wanted}
        others = [colour for colour, cmyk in said.items() if cmyk is None]
        through = dict(zip(others, read_profile(self.profile).convert(others), strict=True)) if others else {}
        return {colour: said[colour] or through[colour] for colour in wanted}


def print_ink(colour: str, text: str) -> PrintInk:
    """Read what a colour is printed in: four numbers from 0 to 100, a name, or a name and four numbers.

    Raises
    ------
    ExportError
        For numbers beyond 100 %, and for names that are too long.
    """
    text = text.strip()
    found = _CMYK.search(text)
    name = (text[: found.start()] if found else text).strip(" ,;:(")
    if found is None and re.fullmatch(r"[\d\s.,;/%-]+", text):
        raise ExportError(f"“{text}” is no printing colour; type four numbers from 0 to 100, or a name.")
    if len(name) > MOST_NAME:
        raise ExportError(f"The name of a spot colour has at most {MOST_NAME} letters.")
    if found is None:
        return PrintInk(colour, None, name)
    numbers = [float(number) for number in found.groups()]
    if max(numbers) > 100.0:
        raise ExportError(f"Printing colours go from 0 to 100 % each, not {max(numbers):g}.")
    return PrintInk(colour, (numbers[0], numbers[1], numbers[2], numbers[3]), name)


def plain_printing(one: Printing) -> dict[str, object]:
    """Return it as plain values."""
    inks = {ink.colour: ink.text for ink in one.inks}
    return {"inks": inks, "profile": one.profile, "overprint_black": one.overprint_black}


def printing_of(plain: dict[str, object]) -> Printing:
    """Rebuild it; raises KeyError, TypeError, ValueError or an error of ours for what is none."""
    inks = plain["inks"]
    if not isinstance(inks, dict):
        raise TypeError("inks by their colours were expected")
    read = tuple(print_ink(str(colour), str(text)) for colour, text in inks.items())
    return Printing(read, str(plain["profile"]), bool(plain["overprint_black"]))


@dataclass(frozen=True, slots=True, eq=False)
class PressProfile:
    """A CMYK profile: its bytes, its name, and the condition it stands for as the registry of the ICC calls it."""

    data: bytes
    name: str
    condition: str

    def convert(self, colours: Iterable[str]) -> list[Cmyk]:
        """Return sRGB colours in per cent of the four inks: relative to paper, black kept apart from what is darker
        than it (ISO 15076-1, relative colorimetric intent with black point compensation)."""
        from PIL import Image, ImageCms  # wanted for this alone

        rows = [tuple(bytes.fromhex(colour[1:])) for colour in colours]
        if not rows:
            return []
        target = ImageCms.ImageCmsProfile(io.BytesIO(self.data))
        transform = ImageCms.buildTransform(
            ImageCms.createProfile("sRGB"),
            target,
            "RGB",
            "CMYK",
            ImageCms.Intent.RELATIVE_COLORIMETRIC,
            ImageCms.Flags.BLACKPOINTCOMPENSATION,
        )
        image = Image.fromarray(np.array([rows], dtype=np.uint8))
        made = np.asarray(ImageCms.applyTransform(image, transform), dtype=np.float64)[0] / 2.55
        return [(row[0], row[1], row[2], row[3]) for row in np.round(made, 1).tolist()]


@lru_cache(maxsize=4)
def read_profile(name: str) -> PressProfile:
    """Return the CMYK profile of a file, or for no name that which comes along.

    Raises
    ------
    ExportError
        If there is no such file, or it is no profile for printing in four colours.
    """
    from PIL import ImageCms  # wanted for this alone

    path = Path(name) if name else OWN_PROFILE
    data = read_bytes(path, ExportError, "a colour profile")
    with reading(ExportError, f"“{path.name}” is no CMYK profile; choose an ICC file for printing in four colours."):
        if len(data) > MOST_PROFILE_BYTES:
            raise ValueError("too large")
        profile = ImageCms.ImageCmsProfile(io.BytesIO(data)).profile
        if profile.xcolor_space.strip() != "CMYK" or profile.device_class != "prtr":
            raise ValueError("another kind")
        read = PressProfile(data, str(profile.profile_description or path.stem), "" if name else OWN_CONDITION)
        read.convert(["#808080"])
    return read
