"""Artwork without faults, and faults planted in it, for the check before handing over."""

from __future__ import annotations

import contextlib
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from drawings import artwork_of, contour_of, glyph_contours
from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.model import Artwork, Layer, Shape, stroked
from sobercrow.core.artwork.paint import Gradient, Spread, Stop
from sobercrow.core.artwork.thinning import thin_out
from sobercrow.core.errors import EditError
from sobercrow.core.geometry.affine import Affine
from sobercrow.core.geometry.bezier import split
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import Ellipse, Rectangle
from sobercrow.core.settings import mm_to_px

DPI, CELL_MM, ROWS = 300.0, 22.0, 4
INKS = (("Black", "#23262b"), ("Red", "#a33e2e"), ("Blue", "#1d4f79"))


def px(mm: float) -> float:
    return mm_to_px(mm, DPI)


def box(x: float, y: float, width: float, height: float, fill: str) -> Shape:
    form = Rectangle(x, y, width, height)
    return Shape((Contour(form.anchors(), np.zeros(4, np.uint8), form=form),), fill)


def disc(x: float, y: float, radius: float, fill: str) -> Shape:
    form = Ellipse(x, y, radius, radius)
    return Shape((Contour(form.anchors(), np.ones(4, np.uint8), form=form),), fill)


def polygon(points: np.ndarray, fill: str, closed: bool = True) -> Shape:
    return Shape((Contour(np.repeat(points[:, None], 3, axis=1), np.zeros(len(points), np.uint8), closed),), fill)


def clean(random: np.random.Generator) -> list[Shape]:
    """A figure in every cell but the last rows: letters, discs, boxes and stars, with nothing narrow about them."""
    made = []
    for cell in range(ROWS * ROWS - 5):
        x, y = middle(cell)
        colour = INKS[int(random.integers(len(INKS)))][1]
        kind, size = int(random.integers(4)), px(float(random.uniform(9, 15)))
        if kind == 0:
            face = ("DejaVu Sans", "DejaVu Serif")[int(random.integers(2))]
            character = str(random.choice(list("BDEGHOPRSUebdopu03689")))
            contours = glyph_contours(character, size, face)
            left, top = np.min([c.bounds()[:2] for c in contours], axis=0)
            right, bottom = np.max([c.bounds()[2:] for c in contours], axis=0)
            shift = x - (left + right) / 2, y - (top + bottom) / 2
            letter = artwork_of(Shape(tuple(c.moved(*shift) for c in contours), colour))
            # typefaces made of quadratics have more anchors than cubics need
            with contextlib.suppress(EditError):
                letter = thin_out(letter, Choice(), 0.1).artwork
            made += letter.shapes
        elif kind == 1:
            made.append(disc(x, y, size / 2, colour))
        elif kind == 2:
            made.append(box(x, y, size, size * float(random.uniform(0.3, 1.0)), colour))
        else:
            count = int(random.integers(3, 8))
            angles = 2 * np.pi * (np.arange(2 * count) / (2 * count)) + random.uniform(0, 6)
            radii = np.where(np.arange(2 * count) % 2, 0.28, 0.5) * size
            made.append(polygon(np.column_stack([x + radii * np.cos(angles), y + radii * np.sin(angles)]), colour))
    return made


def middle(cell: int) -> tuple[float, float]:
    return px(CELL_MM * (cell % ROWS + 0.5)), px(CELL_MM * (cell // ROWS + 0.5))


@dataclass(frozen=True)
class Planted:
    """A fault that was planted: its kind, and where."""

    kind: str
    x: float
    y: float


Plant = Callable[[np.random.Generator, float, float, str], list[Shape]]


def _open(random, x, y, colour):
    return [polygon(np.array([(x - 60, y - 60), (x + 60, y - 60), (x + 60, y + 60), (x - 40, y + 70)]), colour, False)]


def _doubled(random, x, y, colour):
    shift = px(float(random.uniform(0, 0.03)))
    if random.integers(2):
        first = box(x, y, 120, 90, colour)
        return [first, replace(first, contours=tuple(c.moved(shift, 0.0) for c in first.contours))]
    # two that share a side, as if cut apart
    return [box(x - 40, y, 80, 90, colour), box(x + 40 + shift, y, 80, 90, colour)]


def _crossings(random, x, y, colour):
    return [polygon(np.array([(x - 60, y - 60), (x + 60, y + 60), (x + 60, y - 60), (x - 60, y + 60)]), colour)]


def _narrow(random, x, y, colour):
    neck, length = px(float(random.uniform(0.12, 0.26))) / 2, px(float(random.uniform(0.8, 6.0))) / 2
    corners = [(-70, -50), (-length, -50), (-length, -neck), (length, -neck), (length, -50), (70, -50)]
    outline = np.array([*corners, *((a, -b) for a, b in reversed(corners))], float)
    turn = random.uniform(0, np.pi)
    way = np.array([(np.cos(turn), np.sin(turn)), (-np.sin(turn), np.cos(turn))])
    return [polygon(outline @ way + (x, y), colour)]


def _gaps(random, x, y, colour):
    gap = px(float(random.uniform(0.12, 0.26)))
    return [box(x - 40 - gap / 2, y, 80, 90, colour), box(x + 40 + gap / 2, y + 10, 80, 60, colour)]


def _stragglers(random, x, y, colour):
    return [disc(x, y, px(float(random.uniform(0.08, 0.15))), colour)]


def _hidden(random, x, y, colour):
    lower = INKS[[c for _, c in INKS].index(colour) - 1][1]
    return [disc(x, y, 30.0, lower), box(x, y, 120, 110, colour)]


def _paper(random, x, y, colour):
    return [disc(x, y, 40.0, "#ffffff")]


def _strokes(random, x, y, colour):
    line = Contour(
        np.repeat(np.array([[x - 60, y], [x, y + 30], [x + 60, y]], float)[:, None], 3, axis=1),
        np.zeros(3, np.uint8),
        False,
    )
    return [stroked((line,), colour, px(0.8))]


def _shaded(random, x, y, colour):
    stops = (Stop(0.0, colour), Stop(1.0, "#f2d096"))
    return [
        replace(
            disc(x, y, 50.0, colour), fill=Gradient(Spread.LINEAR, stops, Affine(100.0, 0.0, 0.0, 100.0, x - 50, y))
        )
    ]


def _outside(random, x, y, colour):
    return [disc(px(CELL_MM * ROWS), y, 60.0, colour)]


def _anchors(random, x, y, colour):
    (contour, *_) = glyph_contours("S", 200.0, "DejaVu Serif")
    left, top, right, bottom = contour.bounds()
    contour = contour.moved(x - (left + right) / 2, y - (top + bottom) / 2)
    curves = [part for curve in contour.curves() for part in split(curve, float(random.uniform(0.3, 0.7)))]
    return [Shape((contour_of(np.array(curves)),), colour)]


PLANTS: dict[str, Plant] = {
    "open": _open,
    "doubled": _doubled,
    "crossings": _crossings,
    "narrow": _narrow,
    "gaps": _gaps,
    "stragglers": _stragglers,
    "hidden": _hidden,
    "paper": _paper,
    "strokes": _strokes,
    "shaded": _shaded,
    "outside": _outside,
    "anchors": _anchors,
}


def planted(seed: int) -> tuple[Artwork, list[Planted]]:
    """Artwork with up to five faults of different kinds, each in a cell of its own."""
    random = np.random.default_rng(seed)
    shapes, faults = clean(random), []
    names = random.permutation(list(PLANTS))[: int(random.integers(0, 6))]
    for cell, name in enumerate(names, start=ROWS * ROWS - 5):
        x, y = middle(cell)
        shapes += PLANTS[str(name)](random, x, y, INKS[int(random.integers(len(INKS)))][1])
        faults.append(Planted(str(name), px(CELL_MM * ROWS) if name == "outside" else x, y))
    layers = [Layer(name, tuple(s for s in shapes if s.colour == colour)) for name, colour in INKS]
    layers.append(Layer("Rest", tuple(s for s in shapes if s.colour not in dict(INKS).values())))
    if "hidden" in names:  # it is hidden by what lies above, whatever their layers
        layers = [Layer("All", tuple(shapes))]
    side = px(CELL_MM * ROWS)
    return Artwork(tuple(layer for layer in layers if layer.items), side, side, DPI), faults
