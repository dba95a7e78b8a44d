"""Artwork as plain values for JSON, and back."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

import numpy as np

from sobercrow.core.artwork.handwork import Handwork
from sobercrow.core.artwork.model import Artwork, Layer, Shape
from sobercrow.core.artwork.proofs import Proof
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import Ellipse, Form, Rectangle
from sobercrow.core.settings import Settings

FORMS: dict[str, type[Ellipse] | type[Rectangle]] = {"ellipse": Ellipse, "rectangle": Rectangle}


def plain_artwork(artwork: Artwork) -> dict[str, Any]:
    """Return artwork as plain values."""
    return {
        "width_px": artwork.width_px,
        "height_px": artwork.height_px,
        "dpi": artwork.dpi,
        "layers": [
            {"name": layer.name, "shapes": [_plain_shape(shape) for shape in layer.shapes]} for layer in artwork.layers
        ],
    }


def artwork_of(plain: dict[str, Any]) -> Artwork:
    """Rebuild artwork; raises KeyError, TypeError or ValueError for what is none."""
    layers = tuple(Layer(str(layer["name"]), tuple(map(_shape_of, layer["shapes"]))) for layer in plain["layers"])
    return Artwork(layers, float(plain["width_px"]), float(plain["height_px"]), float(plain["dpi"]))


def plain_handwork(handwork: Handwork) -> dict[str, Any]:
    """Return handwork as plain values."""
    return {
        "kept": [{"layer": name, "shape": _plain_shape(shape)} for name, shape in handwork.kept],
        "gone": [_plain_shape(shape) for shape in handwork.gone],
    }


def handwork_from(plain: dict[str, Any]) -> Handwork:
    """Rebuild handwork; raises KeyError, TypeError or ValueError for what is none."""
    kept = tuple((str(part["layer"]), _shape_of(part["shape"])) for part in plain["kept"])
    return Handwork(kept, tuple(map(_shape_of, plain["gone"])))


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
        float(plain["deviation_mean_px"]),
        float(plain["deviation_max_px"]),
    )


def _plain_shape(shape: Shape) -> dict[str, Any]:
    plain = {"fill": shape.fill, "contours": [_plain_contour(contour) for contour in shape.contours]}
    return plain if shape.stroke_px is None else {**plain, "stroke_px": shape.stroke_px}


def _shape_of(plain: dict[str, Any]) -> Shape:
    stroke = plain.get("stroke_px")
    contours = tuple(map(_contour_of, plain["contours"]))
    return Shape(contours, str(plain["fill"]), None if stroke is None else float(stroke))


def _plain_contour(contour: Contour) -> dict[str, Any]:
    plain = {"points": contour.points.tolist(), "kinds": contour.kinds.tolist(), "closed": contour.closed}
    if contour.form is not None:
        kind = next(name for name, form in FORMS.items() if isinstance(contour.form, form))
        plain["form"] = {"kind": kind, **asdict(contour.form)}
    return plain


def _contour_of(plain: dict[str, Any]) -> Contour:
    points, kinds = np.array(plain["points"], dtype=np.float64), np.array(plain["kinds"], dtype=np.uint8)
    return Contour(points, kinds, bool(plain["closed"]), _form_of(plain.get("form")))


def _form_of(plain: dict[str, Any] | None) -> Form | None:
    if plain is None:
        return None
    return FORMS[plain["kind"]](**{name: float(value) for name, value in plain.items() if name != "kind"})
