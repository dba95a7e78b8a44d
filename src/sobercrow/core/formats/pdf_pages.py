"""Pages of a PDF (ISO 32000-1): operators, shadings, layers and spot colours; pikepdf writes the file."""

from __future__ import annotations

import io
from collections.abc import Sequence
from itertools import pairwise
from typing import Any

import pikepdf
from pikepdf import Array, Dictionary, Name

from sobercrow.core.artwork.model import Shape
from sobercrow.core.artwork.paint import Gradient, Spread
from sobercrow.core.errors import ExportError
from sobercrow.core.formats.numbers import number, numbers
from sobercrow.core.formats.pdf import PdfPage, PdfSettings
from sobercrow.core.formats.pdf_colours import Colours, Device, Screen, press_colours
from sobercrow.core.formats.pdf_x import VERSION, make_press_ready
from sobercrow.core.formats.svg import decimals_of
from sobercrow.core.geometry import bezier
from sobercrow.core.geometry.affine import Affine
from sobercrow.core.geometry.combine import Progress
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.offset import MITRE_LIMIT, Ends, Joins
from sobercrow.core.handover.inks import coats_of, named_colours
from sobercrow.core.handover.printing import read_profile

POINTS_PER_INCH = 72.0
LEAST_POINTS, LARGEST_POINTS = 3.0, 14_400.0
"""A page may have no shorter and no longer side (ISO 32000-1, Annex C)."""
ENDS = {Ends.FLAT: 0, Ends.ROUND: 1, Ends.SQUARE: 2}
JOINS = {Joins.MITRE: 0, Joins.ROUND: 1, Joins.BEVEL: 2}


def pages_of(pages: Sequence[PdfPage], settings: PdfSettings, progress: Progress | None = None) -> bytes:
    """Return laid artworks as the pages of one PDF.

    Raises
    ------
    ExportError
        If a page is longer than a PDF may have it.
    """
    pdf = pikepdf.new()
    layers: list[Any] = []
    for k, page in enumerate(pages):
        if progress is not None:
            progress(k / len(pages))
        layers += _Page(pdf, page, settings).layers
    if layers:
        pdf.Root.OCProperties = Dictionary(
            OCGs=Array(layers), D=Dictionary(Order=Array(layers), ON=Array(layers), Name=pikepdf.String("Layers"))
        )
    if settings.author:
        pdf.docinfo["/Author"] = settings.author
    if settings.printing is not None:
        make_press_ready(pdf, read_profile(settings.printing.profile), settings.title, settings.author)
    elif settings.title:
        pdf.docinfo["/Title"] = settings.title
    into = io.BytesIO()
    pdf.save(into, min_version="1.5" if settings.printing is None else VERSION, deterministic_id=True)
    return into.getvalue()


class _Page:
    """One page: what is drawn, as operators of its content, and the resources they name."""

    def __init__(self, pdf: pikepdf.Pdf, page: PdfPage, settings: PdfSettings) -> None:
        artwork = page.artwork
        self._pdf, self._decimals = pdf, decimals_of(artwork.dpi)
        scale = POINTS_PER_INCH / artwork.dpi
        width, height = artwork.width_px * scale, artwork.height_px * scale
        if max(width, height) > LARGEST_POINTS:
            raise ExportError("A PDF holds pages up to 5,080 mm a side; hand over a smaller page, or another format.")
        if min(width, height) < LEAST_POINTS:
            raise ExportError("A PDF holds pages from 1.1 mm a side; hand over a larger page, or another format.")
        self._way = Affine(scale, 0.0, 0.0, -scale, 0.0, height)
        self._patterns: dict[Gradient, str] = {}
        names = page.spots or (named_colours(artwork, coats_of(artwork)) if settings.spots else {})
        printing = settings.printing
        self._colours = Colours(Screen(), names) if printing is None else press_colours(printing, artwork, names)
        self.layers: list[Any] = []
        self._operators = [f"{self._matrix(self._way)} cm", f"{number(MITRE_LIMIT)} M"]
        properties = {}
        for layer in artwork.layers:
            if not layer.seen or not layer.shapes:
                continue
            group = pdf.make_indirect(Dictionary(Type=Name.OCG, Name=pikepdf.String(layer.name)))
            key = f"/L{len(self.layers)}"
            properties[key] = group
            self.layers.append(group)
            self._operators.append(f"/OC {key} BDC")
            for shape in layer.shapes:
                self._draw(shape)
            self._operators.append("EMC")
        resources = Dictionary(Properties=Dictionary(properties))
        if self._patterns:
            resources.Pattern = Dictionary({f"/{n}": self._pattern(g) for g, n in self._patterns.items()})
        self._colours.add_to(resources)
        made = pdf.add_blank_page(page_size=(width, height))
        made.Resources = resources
        made.Contents = pdf.make_stream("\n".join(self._operators).encode())

    @staticmethod
    def _matrix(way: Affine) -> str:
        return " ".join(number(v, 9) for v in (way.a, way.b, way.c, way.d, way.e, way.f))

    def _draw(self, shape: Shape) -> None:
        add = self._operators.append
        if shape.fill is not None:
            add(self._fill(shape))
        if shape.stroke is not None:
            pen = shape.stroke
            add(f"{self._colours.set(pen.colour, stroking=True)} {number(pen.width_px, self._decimals)} w")
            add(f"{ENDS[pen.ends]} J {JOINS[pen.joins]} j")
        for contour in shape.contours:
            self._path(contour)
        add(
            {(True, False): "f*", (False, True): "S", (True, True): "B*"}.get(
                (shape.fill is not None, shape.stroke is not None), "n"
            )
        )

    def _path(self, contour: Contour) -> None:
        add, curves = self._operators.append, contour.curves()
        texts = numbers([*contour.anchors[0].tolist(), *curves[:, 1:].ravel().tolist()], self._decimals)
        add(f"{' '.join(texts[:2])} m")
        for k, is_line in enumerate(bezier.are_lines(curves).tolist()):
            own = texts[2 + 6 * k : 8 + 6 * k]
            add(f"{' '.join(own[4:])} l" if is_line else f"{' '.join(own)} c")
        if contour.closed:
            add("h")

    def _fill(self, shape: Shape) -> str:
        if not isinstance(shape.fill, Gradient):
            return self._colours.set(shape.fill or "#000000", stroking=False)
        name = self._patterns.setdefault(shape.fill, f"P{len(self._patterns)}")
        return f"{self._colours.gradient()}/Pattern cs /{name} scn"

    def _pattern(self, gradient: Gradient) -> Any:
        radial = gradient.spread is Spread.RADIAL
        way = gradient.way.then(self._way)
        shading = Dictionary(
            ShadingType=3 if radial else 2,
            ColorSpace=self._colours.device.space,
            Coords=[0, 0, 0, 0, 0, 1] if radial else [0, 0, 1, 0],
            Extend=[True, True],
            Function=_stops(gradient, self._colours.device),
        )
        return self._pdf.make_indirect(
            Dictionary(PatternType=2, Shading=shading, Matrix=[way.a, way.b, way.c, way.d, way.e, way.f])
        )


def _stops(gradient: Gradient, device: Device) -> Dictionary:
    """The colours between stops, pieces stitched together (7.10.4)."""
    stops = [(stop.at, device.values(stop.colour)) for stop in gradient.stops]
    stops = [(0.0, stops[0][1]), *stops, (1.0, stops[-1][1])]
    pieces = [(a, b, one, other) for (a, one), (b, other) in pairwise(stops) if b > a]
    functions = [
        Dictionary(FunctionType=2, Domain=[0, 1], C0=list(one), C1=list(other), N=1) for _, _, one, other in pieces
    ]
    if len(functions) == 1:
        return functions[0]
    return Dictionary(
        FunctionType=3,
        Domain=[0, 1],
        Functions=Array(functions),
        Bounds=[a for a, _, _, _ in pieces[1:]],
        Encode=[0, 1] * len(pieces),
    )
