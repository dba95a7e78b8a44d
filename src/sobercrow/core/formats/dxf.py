"""Artwork as DXF for CAM programs: a layer for each ink, circles and arcs as such, nothing doubled."""

from __future__ import annotations

import io
import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry.arcs import WHOLE, Arc, arc_of, arcs_of
from sobercrow.core.geometry.biarcs import biarcs
from sobercrow.core.geometry.combine import Progress
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import Ellipse
from sobercrow.core.handover.inks import PaintedInk, as_drawn, inks_of
from sobercrow.core.inks.colour import rgb_of_hex
from sobercrow.core.settings import Checked, Meaning, mm_to_px, px_to_mm, setting

SAME_MM = 1e-3
"""Contours of one layer that lie within this of each other are written once."""
WHOLE_TURN = 1e-6


class Release(StrEnum):
    """Of the format; older ones are read by more machines."""

    R12 = "R12"
    R2000 = "R2000"
    R2010 = "R2010"
    R2018 = "R2018"


class DxfUnit(StrEnum):
    """What a drawing unit is; it is stated in the file."""

    MM = "mm"
    CM = "cm"
    INCH = "in"


class Curves(StrEnum):
    """What free curves become."""

    ARCS = "arcs"
    SPLINES = "splines"


UNITS = {DxfUnit.MM: (4, 1.0, 1), DxfUnit.CM: (5, 0.1, 1), DxfUnit.INCH: (1, 1.0 / 25.4, 0)}
"""$INSUNITS, units in a mm, $MEASUREMENT (ASME/ANSI or ISO), as the DXF reference has them."""


@dataclass(frozen=True, slots=True)
class DxfSettings(Checked):
    """How artwork is written as DXF."""

    release: Release = field(
        default=Release.R2000,
        metadata={"label": "Release", "help": "R12 is read by the oldest machines; it has no splines."},
    )
    unit: DxfUnit = field(default=DxfUnit.MM, metadata={"label": "Unit", "help": "Stated in the file, too."})
    curves: Curves = field(
        default=Curves.ARCS,
        metadata={"label": "Curves as", "help": "Lines and arcs, each contour closed; or splines, exactly as drawn."},
    )
    tolerance_mm: float = setting(
        0.01, Meaning("Tolerance", "How far lines and arcs may run from the curve.", 0.001, 1.0, "mm", 0.005, 3)
    )


def dxf_bytes(artwork: Artwork, settings: DxfSettings = DxfSettings(), progress: Progress | None = None) -> bytes:
    """Return laid artwork as DXF: y up from the page's lower edge, strokes as their centre lines."""
    import ezdxf  # brought in when a drawing is first wanted

    document = ezdxf.new(settings.release.value, setup=False)  # type: ignore[attr-defined]
    code, per_mm, measurement = UNITS[settings.unit]
    document.units = code
    document.header["$MEASUREMENT"] = measurement
    scale = px_to_mm(1.0, artwork.dpi) * per_mm
    height = artwork.height_px

    def to_unit(points: F64) -> F64:
        return np.stack([points[..., 0] * scale, (height - points[..., 1]) * scale], axis=-1)

    plain = settings.release is Release.R12
    inks, same = inks_of(artwork), mm_to_px(SAME_MM, artwork.dpi)
    splines = settings.curves is Curves.SPLINES and not plain
    arcs = {} if splines else _arcs_of(inks, mm_to_px(settings.tolerance_mm, artwork.dpi))
    writer = _Writer(document.modelspace(), to_unit, scale, arcs, splines, plain)
    corners = to_unit(np.array([[0.0, height], [artwork.width_px, 0.0]]))
    document.header["$EXTMIN"], document.header["$EXTMAX"] = ((*corner, 0.0) for corner in corners.tolist())
    for n, ink in enumerate(inks):
        layer = _layer(document, ink.name, ink.colour, plain)
        once: set[frozenset[tuple[int, ...]]] = set()
        for coat in ink.coats:
            if progress is not None:
                progress(n / len(inks))
            for contour in coat.shape.contours:
                key = _key(contour, same)
                if key not in once:
                    once.add(key)
                    writer.contour(as_drawn(coat.shape, contour), layer)
    text = io.StringIO()
    document.write(text)
    # a comment, as R12 has no other way to state its unit
    stated = f"999\nunits: {settings.unit.value}\n{text.getvalue()}"
    return stated.encode(document.output_encoding, errors="dxfreplace")


def _layer(document: Any, name: str, colour: str, plain: bool) -> str:
    """Add a layer in an ink's colour; return its name, as DXF allows it."""
    from ezdxf import colors

    allowed = re.sub(r'[<>/\\":;?*|=`,\'#]+', "-", name).strip("- ") or "Ink"
    if plain:
        allowed = re.sub(r"[^A-Z0-9$_-]", "_", allowed.upper())[:31]
    free, count = allowed, 1
    while free in document.layers:
        count += 1
        free = f"{allowed[:28]}-{count}"
    rgb = rgb_of_hex(colour)
    nearest = min(range(1, 256), key=lambda k: sum((a - b) ** 2 for a, b in zip(colors.aci2rgb(k), rgb, strict=True)))
    layer = document.layers.add(free, color=nearest)
    if not plain and document.dxfversion >= "AC1018":
        layer.rgb = rgb
    return free


def _key(contour: Contour, same_px: float) -> frozenset[tuple[int, ...]]:
    """What a contour is known by, wherever it begins and whichever way it runs."""
    curves = np.rint(contour.curves() / same_px).astype(np.int64).reshape(-1, 8).tolist()
    return frozenset(min(tuple(c), (*c[6:8], *c[4:6], *c[2:4], *c[0:2])) for c in curves)


Piece = tuple[F64, F64, float]
"""Start, end, bulge of a line or an arc, y down."""
Arcs = Mapping[bytes, list[tuple[F64, float]]]
"""By the bytes of a cubic where its arcs begin, and their bulges."""


def _arcs_of(inks: Sequence[PaintedInk], tolerance_px: float) -> Arcs:
    """Make arcs of all free curves at once."""
    drawn = [as_drawn(coat.shape, c).curves() for ink in inks for coat in ink.coats for c in coat.shape.contours]
    cubics = np.unique(np.concatenate([*drawn, np.zeros((0, 4, 2))]).reshape(-1, 8), axis=0).reshape(-1, 4, 2)
    return {cubic.tobytes(): parts for cubic, parts in zip(cubics, biarcs(cubics, tolerance_px), strict=True)}


@dataclass(frozen=True, slots=True)
class _Writer:
    """Writes contours into a drawing."""

    space: Any
    to_unit: Callable[[F64], F64]
    scale: float
    arcs: Arcs
    splines: bool
    plain: bool

    def contour(self, contour: Contour, layer: str) -> None:
        """Write a contour as a circle, an ellipse, a polyline of lines and arcs, or with splines among them."""
        attributes = {"layer": layer}
        if self._whole(contour, attributes):
            return
        pieces = list(_pieces(contour))
        if not self.splines or all(not isinstance(piece, list) for piece in pieces):
            self._polyline([part for piece in pieces for part in self._plainly(piece)], contour.closed, attributes)
            return
        run: list[Piece] = []
        for piece in pieces:
            if not isinstance(piece, list):
                run.append(piece)
                continue
            self._polyline(run, False, attributes)
            run = []
            self._spline(np.array(piece), contour.closed and len(pieces) == 1, attributes)
        self._polyline(run, False, attributes)

    def _whole(self, contour: Contour, attributes: dict[str, str]) -> bool:
        """Write what is a circle or an ellipse; tell whether it was."""
        form = contour.form
        circle = (form.x, form.y, form.rx) if isinstance(form, Ellipse) and form.is_circle else _circle(contour)
        if circle is not None:
            self.space.add_circle(self._point(circle[:2]), circle[2] * self.scale, dxfattribs=attributes)
            return True
        if not isinstance(form, Ellipse) or self.plain:
            return False
        longer = max(form.rx, form.ry)
        angle = np.radians(form.angle_deg + (90.0 if form.ry > form.rx else 0.0))
        axis = (longer * self.scale * np.cos(angle), -longer * self.scale * np.sin(angle))
        ratio = min(form.rx, form.ry) / longer
        self.space.add_ellipse(self._point((form.x, form.y)), axis, ratio, dxfattribs=attributes)
        return True

    def _point(self, place: Sequence[float] | F64) -> tuple[float, float]:
        x, y = self.to_unit(np.asarray(place, dtype=np.float64)).tolist()
        return x, y

    def _plainly(self, piece: Piece | list[F64]) -> Iterator[Piece]:
        """Lines and arcs for a run of free curves."""
        if not isinstance(piece, list):
            yield piece
            return
        for cubic in piece:
            parts = self.arcs[cubic.tobytes()]
            ends = [*(start for start, _ in parts[1:]), cubic[3]]
            yield from ((start, end, bulge) for (start, bulge), end in zip(parts, ends, strict=True))

    def _polyline(self, parts: list[Piece], closed: bool, attributes: dict[str, str]) -> None:
        if not parts:
            return
        starts, ends = np.array([part[0] for part in parts]), np.array([part[1] for part in parts])
        bulges = np.array([part[2] for part in parts])
        kept = (bulges != 0.0) | (np.hypot(*(ends - starts).T) > 1e-9)
        if not kept.any():
            return
        # with y up, what turned clockwise turns the other way
        places = np.column_stack([self.to_unit(starts[kept]), -bulges[kept]]).tolist()
        if not closed:
            places.append((*self._point(ends[kept][-1]), 0.0))
        if self.plain:
            self.space.add_polyline2d(places, format="xyb", close=closed, dxfattribs=attributes)
        else:
            self.space.add_lwpolyline(places, format="xyb", close=closed, dxfattribs=attributes)

    def _spline(self, curves: F64, closed: bool, attributes: dict[str, str]) -> None:
        """A chain of cubics as one B-spline of the third degree, its knots threefold where they meet: exactly they."""
        controls = np.concatenate([curves[0, :1], curves[:, 1:].reshape(-1, 2)])
        knots = [0.0] * 4 + [float(k) for k in range(1, len(curves)) for _ in range(3)] + [float(len(curves))] * 4
        points = [(x, y, 0.0) for x, y in self.to_unit(controls).tolist()]
        made = self.space.add_open_spline(points, degree=3, knots=knots, dxfattribs=attributes)
        made.closed = closed


def _circle(contour: Contour) -> tuple[float, float, float] | None:
    """Middle and radius of a contour of arcs that are one whole circle."""
    curves = contour.curves()
    if not contour.closed or not len(curves) or arc_of(curves[0]) is None:
        return None
    arcs = [arc for _, arc in arcs_of(curves, 0.75 * WHOLE)]
    first = arcs[0]
    if first is None or abs(abs(sum(arc.turn if arc else 0.0 for arc in arcs)) - WHOLE) > WHOLE_TURN:
        return None
    same = WHOLE_TURN * first.radius
    if not all(
        arc is not None and abs(arc.radius - first.radius) < same and np.hypot(*(arc.middle - first.middle)) < same
        for arc in arcs
    ):
        return None
    x, y = first.middle.tolist()
    return x, y, first.radius


def _pieces(contour: Contour) -> Iterator[Piece | list[F64]]:
    """The lines and arcs of a contour, and the runs of free curves between them."""
    curves = contour.curves()
    is_line = bezier.are_lines(curves).tolist()
    run: list[F64] = []
    done = 0
    for count, arc in arcs_of(curves, 0.75 * WHOLE):
        first, last, straight = curves[done], curves[done + count - 1], is_line[done]
        done += count
        if arc is None and not straight:
            run.append(first)
            continue
        if run:
            yield run
            run = []
        yield first[0], last[3], _bulge_of(arc)
    if run:
        yield run


def _bulge_of(arc: Arc | None) -> float:
    return 0.0 if arc is None else float(np.tan(0.25 * arc.turn))
