"""Artwork as pixels: PNG, JPEG and WebP, every pixel covered exactly as far as shapes cover it."""

from __future__ import annotations

import io
import math
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any

import numpy as np
from PIL import Image, PngImagePlugin

from sobercrow.core.arrays import F32, F64, U8, cumulated
from sobercrow.core.artwork.model import Artwork, Shape
from sobercrow.core.artwork.paint import Fill, Gradient, Spread, checked_colour
from sobercrow.core.errors import ExportError
from sobercrow.core.formats._laying_kernels import covers, lay_colour, to_bytes
from sobercrow.core.geometry.combine import Progress
from sobercrow.core.inks.colour import shares_of_hex
from sobercrow.core.settings import Checked, Meaning, setting
from sobercrow.core.tracing._render_kernels import draw

BAND_ROWS = 256
"""So many rows are drawn at once."""
MOST_PIXELS = 200_000_000
EDGE_PX = 0.25
"""Strokes are drawn as lines of points so far apart, in px of the result."""
LIMITS = {"JPEG": 65_500, "WEBP": 16_383}
"""Pixels a side that a format can hold (JPEG: ITU-T T.81 less a margin of its common reader; WebP: its container)."""
NOTHING = "none"


class Measure(StrEnum):
    """What the number of pixels goes by."""

    PIXELS = "pixels"
    DPI = "dpi"


@dataclass(frozen=True, slots=True)
class RasterSettings(Checked):
    """How many pixels, and what lies behind: `none` or a colour."""

    by: Measure = field(
        default=Measure.PIXELS, metadata={"label": "Size by", "help": "Pixels on the longer side, or dpi at true size."}
    )
    pixels: float = setting(
        3000.0, Meaning("Longer side", "How many pixels the longer side of the page has.", 8, 30_000, "px", 100)
    )
    dpi: float = setting(300.0, Meaning("Resolution", "At the true size of the page.", 10, 4800, "dpi", 50))
    background: str = field(default=NOTHING, metadata={"label": "Behind", "help": "Nothing, or a colour as #rrggbb."})

    def __post_init__(self) -> None:
        """Raise `SettingError` for a number outside its range, `ExportError` for a background that is none."""
        Checked.__post_init__(self)
        if self.background != NOTHING:
            try:
                checked_colour(self.background)
            except ValueError as fault:
                raise ExportError(
                    f"What lies behind must be none or a colour as #rrggbb, not “{self.background}”."
                ) from fault

    def size_px(self, artwork: Artwork) -> tuple[int, int]:
        """Return width and height in pixels of a page; raise `ExportError` for more than can be made."""
        longer = max(artwork.width_px, artwork.height_px)
        ratio = self.pixels / longer if self.by is Measure.PIXELS else self.dpi / artwork.dpi
        width, height = (max(1, round(side * ratio)) for side in (artwork.width_px, artwork.height_px))
        if width * height > MOST_PIXELS:
            raise ExportError(f"{width} × {height} pixels are more than can be made; choose a smaller size.")
        return width, height


@dataclass(frozen=True, slots=True)
class LossySettings(RasterSettings):
    """Likewise, of a format that gives up detail for size."""

    background: str = field(default="#ffffff", metadata={"label": "Behind", "help": "Nothing, or a colour as #rrggbb."})
    quality: float = setting(
        90.0, Meaning("Quality", "More keeps more, in a larger file; look at the result at 400 %.", 10, 100, "", 5)
    )


def drawn(artwork: Artwork, size: tuple[int, int], background: str = NOTHING, progress: Progress | None = None) -> U8:
    """Return laid artwork as pixels (h, w, 4), colours not multiplied by alpha, in sRGB values.

    Shapes are laid over each other as SVG 2 does, each pixel covered by the area of a shape in it, exactly (after
    Levien 2016). Rows are drawn in bands, so that little besides the pixels is held.
    """
    width, height = size
    across, down = width / artwork.width_px, height / artwork.height_px
    painted = _painted(artwork, across, down)
    out = np.empty((height, width, 4), dtype=np.uint8)
    for top in range(0, height, BAND_ROWS):
        if progress is not None:
            progress(0.8 * top / height)
        rows = min(BAND_ROWS, height - top)
        band = np.zeros((rows, width, 4), dtype=np.float32)
        if background != NOTHING:
            band[:] = (*shares_of_hex(background), 1.0)
        for one in painted:
            one.lay_over(band, top)
        to_bytes(band, out[top : top + rows])
    return out


@dataclass(frozen=True, slots=True, eq=False)
class _Painted:
    """Rings of cubics (m, 8) in pixels of the result, filled."""

    controls: F64
    starts: Any
    fill: Fill
    to_pixels: tuple[float, float]
    is_even_odd: bool

    def lay_over(self, band: F32, top: int) -> None:
        """Lay it over a band of rows whose first is `top`."""
        rows, width = band.shape[:2]
        xs, ys = self.controls[:, ::2], self.controls[:, 1::2]
        first, last = max(math.floor(ys.min()) - top, 0), min(math.ceil(ys.max()) - top, rows)
        left, right = max(math.floor(xs.min()), 0), min(math.ceil(xs.max()) + 1, width)
        if first >= last or left >= right:
            return
        shape = (last - first, right - left)
        place = np.arange(shape[0] * shape[1], dtype=np.int32).reshape(shape)
        steps = np.zeros(place.size)
        which = np.ones(len(self.starts) - 1, dtype=np.uint8)
        draw(0, len(which), self.controls, self.starts, which, 1.0, place, top + first, left, steps)
        steps = steps.reshape(shape)
        if not isinstance(self.fill, Gradient):
            lay_colour(band, first, left, steps, self.is_even_odd, *shares_of_hex(self.fill or "#000000"))
            return
        cover = np.empty(shape, dtype=np.float32)
        covers(steps, self.is_even_odd, cover)
        part = band[first:last, left:right]
        part *= (1.0 - cover)[..., None]
        part[..., 3] += cover
        part[..., :3] += cover[..., None] * self._colours(self.fill, left, top + first, shape)

    def _colours(self, fill: Gradient, left: int, top: int, shape: tuple[int, int]) -> F32:
        """A gradient's colours at the middles of pixels."""
        way, (across, down) = fill.way, self.to_pixels
        x = (left + np.arange(shape[1]) + 0.5) / across - way.e
        y = ((top + np.arange(shape[0]) + 0.5) / down - way.f)[:, None]
        u = (way.d * x - way.c * y) / way.area_ratio
        if fill.spread is Spread.RADIAL:
            u = np.hypot(u, (way.a * y - way.b * x) / way.area_ratio)
        places = [stop.at for stop in fill.stops]
        colours = np.array([shares_of_hex(stop.colour) for stop in fill.stops])
        return np.stack([np.interp(u, places, colours[:, k]) for k in range(3)], axis=-1).astype(np.float32)


def _painted(artwork: Artwork, across: float, down: float) -> list[_Painted]:
    """All fills and strokes that are seen, lowest first, in pixels of the result."""
    made, unseen, scale = [], artwork.out_of_sight, np.tile((across, down), 4)

    def add(rings: list[F64], fill: Fill, is_even_odd: bool) -> None:
        rings = [ring for ring in rings if len(ring)]
        if rings:
            starts = cumulated([len(ring) for ring in rings])
            controls = np.concatenate(rings).reshape(-1, 8) * scale
            made.append(_Painted(controls, starts, fill, (across, down), is_even_odd))

    for k, shape in enumerate(artwork.shapes):
        if k in unseen:
            continue
        if shape.fill is not None:
            add([_ring(contour.curves()) for contour in shape.contours], shape.fill, True)
        if shape.stroke is not None:
            line = Shape(shape.contours, None, shape.stroke)
            edges = line.edges(EDGE_PX / max(across, down))
            add([_chords(edge) for edge in edges], shape.stroke.colour, False)
    return made


def _ring(curves: F64) -> F64:
    """Curves closed by a line, as filling does."""
    if not len(curves) or np.array_equal(curves[-1, 3], curves[0, 0]):
        return curves
    return np.concatenate([curves, _line(curves[-1, 3], curves[0, 0])[None]])


def _line(start: F64, end: F64) -> F64:
    return np.array([start, start + (end - start) / 3.0, end - (end - start) / 3.0, end])


def _chords(line: F64) -> F64:
    """The sides of a closed line as straight cubics."""
    after = np.roll(line, -1, axis=0)
    third = (after - line) / 3.0
    return np.stack([line, line + third, after - third, after], axis=1)


class _Stoppable(io.BytesIO):
    """Takes what an encoder writes, and can be stopped meanwhile."""

    def __init__(self, progress: Progress | None) -> None:
        super().__init__()
        self._progress = progress

    def write(self, data: Any) -> int:
        if self._progress is not None:
            self._progress(0.9)
        return super().write(data)


def _encoded(artwork: Artwork, settings: RasterSettings, kind: str, progress: Progress | None, **how: Any) -> bytes:
    size = settings.size_px(artwork)
    if max(size) > LIMITS.get(kind, max(size)):
        raise ExportError(f"{kind.title()} holds {LIMITS[kind]} pixels a side at most, not {max(size)}; choose fewer.")
    pixels = drawn(artwork, size, settings.background, progress)
    image = Image.frombuffer("RGBA", size, pixels, "raw", "RGBA", 0, 1)
    if settings.background != NOTHING:
        image = image.convert("RGB")
    dpi = size[0] / artwork.width_px * artwork.dpi, size[1] / artwork.height_px * artwork.dpi
    into = _Stoppable(progress)
    if kind == "PNG":
        about = PngImagePlugin.PngInfo()
        about.add(b"sRGB", b"\0")  # W3C, PNG: the rendering intent, perceptual
        image.save(into, "PNG", dpi=dpi, pnginfo=about, **how)
    else:
        from PIL import ImageCms  # wanted for this alone

        exif = Image.Exif()
        exif[282], exif[283], exif[296] = dpi[0], dpi[1], 2  # Exif 2.3: resolutions, per inch
        profile = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
        stated = {"dpi": (round(dpi[0]), round(dpi[1]))} if kind == "JPEG" else {}
        image.save(into, kind, exif=exif, icc_profile=profile, **stated, **how)
    return into.getvalue()


def png_bytes(artwork: Artwork, settings: RasterSettings, progress: Progress | None = None) -> bytes:
    """Return laid artwork as PNG with its resolution, in sRGB; raise `ExportError` for more pixels than can be made."""
    return _encoded(artwork, settings, "PNG", progress, compress_level=6)


def jpeg_bytes(artwork: Artwork, settings: LossySettings, progress: Progress | None = None) -> bytes:
    """Return laid artwork as JPEG, on white where nothing else is said, as JPEG knows no transparency."""
    if settings.background == NOTHING:
        settings = LossySettings(settings.by, settings.pixels, settings.dpi, "#ffffff", settings.quality)
    return _encoded(artwork, settings, "JPEG", progress, quality=round(settings.quality), subsampling=0, optimize=True)


def webp_bytes(artwork: Artwork, settings: LossySettings, progress: Progress | None = None) -> bytes:
    """Return laid artwork as WebP; at a quality of 100 without loss."""
    how = {"lossless": True} if settings.quality >= 100.0 else {"quality": round(settings.quality), "exact": False}
    return _encoded(artwork, settings, "WEBP", progress, method=4, **how)


def estimated(artwork: Artwork, settings: RasterSettings, write: Any) -> int:
    """Return about how large a file comes to be, from two smaller ones: it grows by a power of the side."""
    width, height = settings.size_px(artwork)
    longer = max(width, height)
    if longer <= 1600:
        return len(write(artwork, settings))
    sizes = []
    for side in (750, 1500):
        smaller = {name: getattr(settings, name) for name in settings.__dataclass_fields__}
        sizes.append(len(write(artwork, type(settings)(**{**smaller, "by": Measure.PIXELS, "pixels": float(side)}))))
    power = math.log2(sizes[1] / sizes[0])
    return int(sizes[1] * (longer / 1500.0) ** power)
