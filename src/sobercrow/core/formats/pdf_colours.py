"""The colours of a PDF's page: as on screen, or as a press prints them (ISO 32000-1, 8.6)."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Protocol

from pikepdf import Array, Dictionary, Name

from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.artwork.paint import Gradient
from sobercrow.core.formats.numbers import number
from sobercrow.core.handover.printing import BLACK_ALONE, Printing
from sobercrow.core.inks.colour import shares_of_hex


class Device(Protocol):
    """The colours of a device: its space, the values of a colour in it, and the operators that set them."""

    space: Name
    operators: tuple[str, str]
    none: tuple[float, ...]

    def values(self, colour: str) -> tuple[float, ...]:
        """Return the values of a colour, from 0 to 1."""


class Screen:
    """Colours as on screen (sRGB values)."""

    space, operators = Name.DeviceRGB, ("rg", "RG")
    none: tuple[float, ...] = (1.0, 1.0, 1.0)

    def values(self, colour: str) -> tuple[float, ...]:
        """Return red, green and blue."""
        return tuple(shares_of_hex(colour))


class Press:
    """Colours in shares of cyan, magenta, yellow and black."""

    space, operators = Name.DeviceCMYK, ("k", "K")
    none: tuple[float, ...] = (0.0, 0.0, 0.0, 0.0)

    def __init__(self, printing: Printing, colours: Iterable[str]) -> None:
        """Look up all colours that will be asked for."""
        self.per_cent = printing.cmyk_of(colours)

    def values(self, colour: str) -> tuple[float, ...]:
        """Return the shares of the four inks."""
        return tuple(value / 100.0 for value in self.per_cent[colour])


class Colours:
    """What colours are set by on a page, and the resources this needs."""

    def __init__(self, device: Device, spots: Mapping[str, str], over: frozenset[str] = frozenset()) -> None:
        """Take a device, the names of spot colours, and the colours that are printed over what lies beneath."""
        self.device = device
        self._spots, self._over = spots, over
        self._spaces: dict[str, str] = {}
        self._states: dict[tuple[bool, bool], str] = {}
        self._state = (False, False)

    def set(self, colour: str, stroking: bool) -> str:
        """Return the operators that set a colour for filling or stroking, and whether it is printed over others."""
        return f"{self._overprint(colour, stroking)}{self._set(colour, stroking)}"

    def _set(self, colour: str, stroking: bool) -> str:
        if colour in self._spots:
            name = self._spaces.setdefault(colour, f"S{len(self._spaces)}")
            return f"/{name} {'CS' if stroking else 'cs'} 1 {'SCN' if stroking else 'scn'}"
        values = " ".join(number(v, 6) for v in self.device.values(colour))
        return f"{values} {self.device.operators[stroking]}"

    def _overprint(self, colour: str | None, stroking: bool) -> str:
        """The state in which a colour is printed over what lies beneath or in its place, where it changes; fills and
        strokes each have their own."""
        over = colour in self._over
        state = (self._state[0], over) if stroking else (over, self._state[1])
        if state == self._state:
            return ""
        self._state = state
        return f"/{self._states.setdefault(state, f'O{len(self._states)}')} gs "

    def gradient(self) -> str:
        """Return the state in which gradients are painted: in the place of what lies beneath."""
        return self._overprint(None, stroking=False)

    def add_to(self, resources: Dictionary) -> None:
        """Add what the operators name: colour spaces, and states of overprinting (8.6.7)."""
        if self._spaces:
            resources.ColorSpace = Dictionary({f"/{n}": self._spot(c) for c, n in self._spaces.items()})
        if self._states:
            resources.ExtGState = Dictionary({f"/{name}": _state(*state) for state, name in self._states.items()})

    def _spot(self, colour: str) -> Array:
        """A colour by its name, and what it is shown as where there is no such ink (8.6.6.4)."""
        full = list(self.device.values(colour))
        tint = Dictionary(FunctionType=2, Domain=[0, 1], C0=list(self.device.none), C1=full, N=1)
        return Array([Name.Separation, Name(f"/{_name(self._spots[colour])}"), self.device.space, tint])


def _state(fill_over: bool, stroke_over: bool) -> Dictionary:
    """Whether fills and strokes are printed over what lies beneath; inks of which there is none leave it (OPM 1)."""
    return Dictionary(Type=Name.ExtGState, OP=stroke_over, op=fill_over, OPM=1)


def press_colours(printing: Printing, artwork: Artwork, names: Mapping[str, str]) -> Colours:
    """Return the colours of artwork as a press prints them: spot colours by the names given, and by those it was said
    they are printed in; `ExportError` for a profile that is none."""
    every = [colour for shape in artwork.shapes for colour in _painted_in(shape)]
    press = Press(printing, every)
    spots = {colour: printing.ink_of(colour).spot or names.get(colour, "") for colour in every}
    over = {c for c, cmyk in press.per_cent.items() if cmyk == BLACK_ALONE} if printing.overprint_black else set()
    return Colours(press, {colour: name for colour, name in spots.items() if name}, frozenset(over))


def _painted_in(shape: Shape) -> list[str]:
    """All colours a shape is painted in."""
    fill = shape.fill
    made = [stop.colour for stop in fill.stops] if isinstance(fill, Gradient) else [fill] if fill is not None else []
    return made if shape.stroke is None else [*made, shape.stroke.colour]


def _name(ink: str) -> str:
    """An ink's name, and none of those with a meaning of their own (All, None)."""
    return f"{ink} ink" if ink in ("All", "None") else ink
