"""Artwork as plain values for JSON, and back."""

from __future__ import annotations

from dataclasses import asdict, replace
from typing import Any

import numpy as np

from sobercrow.core.artwork.handwork import Handwork
from sobercrow.core.artwork.lettered import Lettered
from sobercrow.core.artwork.model import Artwork, Group, Item, Layer, Pouring, Shape, stroked
from sobercrow.core.artwork.paint import Fill, Gradient, Spread, Stop, Stroke
from sobercrow.core.artwork.pouring import GAP_MM, OVERLAP_MM, POURED
from sobercrow.core.artwork.proofs import Proof
from sobercrow.core.geometry.affine import Affine
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import Ellipse, Form, Rectangle
from sobercrow.core.geometry.offset import Ends, Joins
from sobercrow.core.outside import DPI_RANGE, LEAST_SIDE_PX, MOST_SPAN_PX, coordinates, number, whole
from sobercrow.core.settings import Settings, mm_to_px

FORMS: dict[str, type[Ellipse] | type[Rectangle]] = {"ellipse": Ellipse, "rectangle": Rectangle}


def plain_artwork(artwork: Artwork) -> dict[str, Any]:
    """Return artwork as plain values."""
    return {
        "width_px": artwork.width_px,
        "height_px": artwork.height_px,
        "dpi": artwork.dpi,
        "layers": list(map(_plain_layer, artwork.layers)),
    }


def artwork_of(plain: dict[str, Any]) -> Artwork:
    """Rebuild artwork; raises KeyError, TypeError or ValueError for what is none, or lies out of all bounds."""
    dpi = number(plain["dpi"], *DPI_RANGE)
    layers = tuple(_knowing_pours(_layer_of(layer), layer, dpi) for layer in plain["layers"])
    width_px, height_px = (number(plain[side], LEAST_SIDE_PX, MOST_SPAN_PX) for side in ("width_px", "height_px"))
    return Artwork(layers, width_px, height_px, dpi)


def _knowing_pours(layer: Layer, plain: dict[str, Any], dpi: float) -> Layer:
    """Until version 6 layers of pours were known by their name, and how they were poured was not kept."""
    if layer.name != POURED or "poured" in plain:
        return layer
    return replace(layer, poured=Pouring(mm_to_px(GAP_MM, dpi), mm_to_px(OVERLAP_MM, dpi)))


def plain_handwork(handwork: Handwork) -> dict[str, Any]:
    """Return handwork as plain values."""
    return {
        "layers": list(map(_plain_layer, handwork.layers)),
        "gone": list(map(_plain_shape, handwork.gone)),
        "followed": list(map(_plain_shape, handwork.followed)),
    }


def handwork_from(plain: dict[str, Any]) -> Handwork:
    """Rebuild handwork; raises KeyError, TypeError or ValueError for what is none."""
    gone = tuple(map(_shape_of, plain["gone"]))
    if "kept" not in plain:
        return Handwork(tuple(map(_layer_of, plain["layers"])), gone, tuple(map(_shape_of, plain["followed"])))
    # until version 6 shapes were kept one by one, with the names of their layers
    kept = [(str(part["layer"]), _shape_of(part["shape"])) for part in plain["kept"]]
    states = {str(name): (bool(seen), bool(locked)) for name, seen, locked in plain.get("layers", ())}
    names = dict.fromkeys((*states, *(name for name, _ in kept)))
    layers = (
        Layer(name, tuple(shape for own, shape in kept if own == name), *states.get(name, (True, False)))
        for name in names
    )
    return Handwork(tuple(layers), gone)


def plain_proof(proof: Proof) -> dict[str, Any]:
    """Return a proof as plain values."""
    return {
        "name": proof.name,
        "settings": asdict(proof.settings),
        "refined": proof.refined and plain_artwork(proof.refined),
        "handwork": proof.handwork and plain_handwork(proof.handwork),
        "artwork": plain_artwork(proof.artwork),
        "deviation_mean_px": proof.deviation_mean_px,
        "deviation_max_px": proof.deviation_max_px,
    }


def proof_of(plain: dict[str, Any]) -> Proof:
    """Rebuild a proof; raises KeyError, TypeError or ValueError for what is none."""
    return Proof(
        str(plain["name"]),
        Settings.from_plain(plain["settings"]),
        artwork_of(plain["refined"]) if plain["refined"] else None,
        handwork_from(plain["handwork"]) if plain["handwork"] else None,
        artwork_of(plain["artwork"]),
        number(plain["deviation_mean_px"]),
        number(plain["deviation_max_px"]),
    )


def _plain_layer(layer: Layer) -> dict[str, Any]:
    plain: dict[str, Any] = {"name": layer.name, "seen": layer.seen, "locked": layer.locked, "poured": None}
    if layer.poured is not None:
        gap_px, overlap_px, opened = layer.poured.gap_px, layer.poured.overlap_px, sorted(layer.poured.opened)
        plain["poured"] = {"gap_px": gap_px, "overlap_px": overlap_px, "opened": opened}
    return {**plain, "items": list(map(_plain_item, layer.items))}


def _layer_of(plain: dict[str, Any]) -> Layer:
    # until version 5 layers held shapes alone
    items = plain["items"] if "items" in plain else plain["shapes"]
    seen, locked = bool(plain.get("seen", True)), bool(plain.get("locked", False))
    return Layer(str(plain["name"]), tuple(map(_item_of, items)), seen, locked, _pouring_of(plain.get("poured")))


def _pouring_of(plain: dict[str, Any] | None) -> Pouring | None:
    if plain is None:
        return None
    opened = frozenset((number(x), number(y)) for x, y in plain["opened"])
    return Pouring(number(plain["gap_px"]), number(plain["overlap_px"]), opened)


def _plain_item(item: Item) -> dict[str, Any]:
    if isinstance(item, Group):
        plain = {"group": item.name, "items": [_plain_item(one) for one in item.items]}
        return plain if item.lettered is None else {**plain, "lettered": asdict(item.lettered)}
    return _plain_shape(item)


def _item_of(plain: dict[str, Any]) -> Item:
    if "items" in plain:
        return Group(tuple(map(_item_of, plain["items"])), str(plain["group"]), _lettered_of(plain.get("lettered")))
    return _shape_of(plain)


def _lettered_of(plain: dict[str, Any] | None) -> Lettered | None:
    if plain is None:
        return None
    axes = tuple((str(tag), number(value)) for tag, value in plain["axes"])
    glyphs = tuple((str(letter), number(x), number(y), number(turn)) for letter, x, y, turn in plain["glyphs"])
    line = tuple(map(number, plain["line"]))
    path, face = str(plain["path"]), whole(plain["number"], 0, 65_535)
    form = number(plain.get("stretch", 1.0)), number(plain.get("lean_deg", 0.0)), number(plain.get("bolder_px", 0.0))
    return Lettered(str(plain["text"]), path, face, axes, number(plain["size_px"]), line, glyphs, *form)


def _plain_shape(shape: Shape) -> dict[str, Any]:
    plain: dict[str, Any] = {"contours": [_plain_contour(contour) for contour in shape.contours]}
    plain["fill"] = asdict(shape.fill) if isinstance(shape.fill, Gradient) else shape.fill
    return plain if shape.stroke is None else {**plain, "stroke": asdict(shape.stroke)}


def _shape_of(plain: dict[str, Any]) -> Shape:
    contours, fill = tuple(map(_contour_of, plain["contours"])), plain["fill"]
    if plain.get("stroke_px") is not None:  # until version 5 a shape was filled or stroked, in one colour
        return stroked(contours, str(fill), number(plain["stroke_px"]))
    return Shape(contours, _fill_of(fill), _stroke_of(plain.get("stroke")))


def _fill_of(plain: Any) -> Fill:
    if not isinstance(plain, dict):
        return None if plain is None else str(plain)
    stops = tuple(Stop(number(stop["at"]), str(stop["colour"])) for stop in plain["stops"])
    way = Affine(**{name: number(value) for name, value in plain["way"].items()})
    return Gradient(Spread(plain["spread"]), stops, way)


def _stroke_of(plain: dict[str, Any] | None) -> Stroke | None:
    if plain is None:
        return None
    return Stroke(str(plain["colour"]), number(plain["width_px"]), Ends(plain["ends"]), Joins(plain["joins"]))


def _plain_contour(contour: Contour) -> dict[str, Any]:
    plain = {"points": contour.points.tolist(), "kinds": contour.kinds.tolist(), "closed": contour.closed}
    if contour.form is not None:
        kind = next(name for name, form in FORMS.items() if isinstance(contour.form, form))
        plain["form"] = {"kind": kind, **asdict(contour.form)}
    return plain


def _contour_of(plain: dict[str, Any]) -> Contour:
    points, kinds = coordinates(plain["points"]), np.array(plain["kinds"], dtype=np.uint8)
    made = Contour(points, kinds, bool(plain["closed"]), _form_of(plain.get("form")))
    if len(made) < 2 and not made.closed:
        raise ValueError("an open contour has two anchors at least")
    return made


def _form_of(plain: dict[str, Any] | None) -> Form | None:
    if plain is None:
        return None
    return FORMS[plain["kind"]](**{name: number(value) for name, value in plain.items() if name != "kind"})
