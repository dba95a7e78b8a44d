"""The paint of SVG as ours: colours, gradients, what is seen through (W3C, SVG 2, chapters 13 and 14)."""

from __future__ import annotations

import functools
from collections import Counter
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, replace
from xml.etree.ElementTree import Element

from sobercrow.core.artwork.paint import Fill, Gradient, Spread, Stop
from sobercrow.core.formats.svg_shapes import KEPT, colour_of, length_of, transform_of
from sobercrow.core.geometry.affine import Affine

NO_PAINT = ("none", "transparent", "")
MOST_LINKS = 200
"""A gradient may take what it has not from another, and so on so often."""

Frame = Callable[[], tuple[float, float, float, float]]
"""Left, top, right, bottom of what is painted, worked out when it is asked for."""


def kind_of(element: Element) -> str:
    """Return the name of an element without its namespace."""
    return element.tag.rpartition("}")[2] if isinstance(element.tag, str) else ""


def style_of(element: Element) -> dict[str, str]:
    """Return the presentation attributes and the style attribute of an element, which goes before them."""
    found = {key.rpartition("}")[2]: value for key, value in element.attrib.items()}
    for part in found.pop("style", "").split(";"):
        key, colon, value = part.partition(":")
        if colon:
            found[key.strip()] = value.replace("!important", "").strip()
    return {key: value for key, value in found.items() if value.strip() != "inherit"}


@dataclass(frozen=True, slots=True)
class Paints:
    """Reads the paint of shapes: the elements of a file by their ids, and a count of what is left out."""

    ids: dict[str | None, Element]
    left_out: Counter[str]

    def paint(self, text: str, style: dict[str, str], frame: Frame, seen: float = 1.0) -> Fill:
        """Return a fill; one that is seen through is mixed with white, for artwork has no see-through colours."""
        made = self._opaque(text, style, frame)
        if made is None or seen >= 1.0:
            return made
        self.left_out["see-through colour"] += 1
        if seen <= 0.0:
            return None
        if isinstance(made, Gradient):
            return replace(made, stops=tuple(replace(stop, colour=_paler(stop.colour, seen)) for stop in made.stops))
        return _paler(made, seen)

    def _opaque(self, text: str, style: dict[str, str], frame: Frame) -> Fill:
        text = text.strip()
        if text in NO_PAINT:
            return None
        if text.startswith("url("):
            link, _, fallback = text[4:].partition(")")
            gradient = self._gradient(link.strip(" \"'#"), frame, style)
            if gradient is not None:
                return gradient
            self.left_out["pattern"] += 1
            return self._opaque(fallback, style, frame) if fallback.strip() else None
        return colour_of(style.get("color", "black") if text == "currentColor" else text)

    def _gradient(self, name: str, frame: Frame, style: dict[str, str]) -> Fill:
        """A gradient by its id; a plain colour if it has but one stop, None if it is no gradient."""
        chain: list[Element] = []
        element = self.ids.get(name)
        while (
            element is not None and len(chain) < MOST_LINKS and kind_of(element) in ("linearGradient", "radialGradient")
        ):
            chain.append(element)
            link = next((v for k, v in element.attrib.items() if k.rpartition("}")[2] == "href"), "")
            element = self.ids.get(link[1:]) if link.startswith("#") else None
        if not chain:
            return None
        stops = next((found for one in chain if (found := [s for s in one if kind_of(s) == "stop"])), [])
        made = sorted(_stops(stops, style), key=lambda stop: stop.at)
        if not made:
            return None
        if len(made) == 1:
            return made[0].colour

        def given(key: str, usual: str) -> str:
            return next((one.get(key, "") for one in chain if one.get(key) is not None), usual)

        own = transform_of(given("gradientTransform", ""))
        is_box = given("gradientUnits", "objectBoundingBox") != "userSpaceOnUse"
        if is_box:
            left, top, right, bottom = frame()
            own = own.then(Affine(right - left, 0.0, 0.0, bottom - top, left, top))
        if kind_of(chain[0]) == "radialGradient":
            x, y, r = (_share(given(key, "50%")) for key in ("cx", "cy", "r"))
            laid = Affine(r, 0.0, 0.0, r, x, y)
            if any(
                one.get(key) is not None and abs(_share(one.get(key, "")) - at) > 1e-6
                for one in chain
                for key, at in (("fx", x), ("fy", y))
            ):
                self.left_out["gradient's focus"] += 1
            spread = Spread.RADIAL
        else:
            x1, y1, x2, y2 = (
                _share(given(key, usual)) for key, usual in (("x1", "0%"), ("y1", "0%"), ("x2", "100%"), ("y2", "0%"))
            )
            laid = Affine(x2 - x1, y2 - y1, -(y2 - y1), x2 - x1, x1, y1)
            spread = Spread.LINEAR
        way = laid.then(own)
        return Gradient(spread, tuple(made), way) if abs(way.area_ratio) > 1e-12 else made[-1].colour


@functools.lru_cache(KEPT)
def share_within(text: str) -> float:
    """Return a share from 0 to 1; all of it where none can be read."""
    try:
        return min(max(_share(text), 0.0), 1.0)
    except ValueError:
        return 1.0


def _paler(colour: str, share: float) -> str:
    """A colour over white, seen by a share."""
    parts = [round(255 + share * (int(colour[k : k + 2], 16) - 255)) for k in (1, 3, 5)]
    return "#" + "".join(f"{part:02x}" for part in parts)


def _share(text: str) -> float:
    text = text.strip()
    return float(text[:-1]) / 100.0 if text.endswith("%") else length_of(text)


def _stops(elements: Iterable[Element], style: dict[str, str]) -> Iterator[Stop]:
    for element in elements:
        own = style_of(element)
        text = own.get("stop-color", "black")
        colour = colour_of(style.get("color", "black") if text == "currentColor" else text) or "#ffffff"
        yield Stop(min(max(_share(own.get("offset", "0")), 0.0), 1.0), colour)
