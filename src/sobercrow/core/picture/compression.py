"""How a picture is compressed as a JPEG: its tables, its sampling, its coefficients."""

from __future__ import annotations

from dataclasses import dataclass, field
from tempfile import NamedTemporaryFile
from typing import Self

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from sobercrow.core.arrays import I64
from sobercrow.core.errors import PictureError

I16 = NDArray[np.int16]

LUMA_TABLE = np.array(
    [
        [16, 11, 10, 16, 24, 40, 51, 61],
        [12, 12, 14, 19, 26, 58, 60, 55],
        [14, 13, 16, 24, 40, 57, 69, 56],
        [14, 17, 22, 29, 51, 87, 80, 62],
        [18, 22, 37, 56, 68, 109, 103, 77],
        [24, 35, 55, 64, 81, 104, 113, 92],
        [49, 64, 78, 87, 103, 121, 120, 101],
        [72, 92, 95, 98, 112, 100, 103, 99],
    ]
)
"""Table K.1 of ITU-T T.81 (1992): steps of the luma."""
CHROMA_TABLE = np.full((8, 8), 99)
"""Table K.2 of ITU-T T.81 (1992): steps of both chroma components."""
CHROMA_TABLE[:4, :4] = [[17, 18, 24, 47], [18, 21, 26, 66], [24, 26, 56, 99], [47, 66, 99, 99]]
LARGEST_STEP = 65535
MOST_EVERY = 4


@dataclass(frozen=True, slots=True, eq=False)
class Component:
    """One component of a JPEG.

    Attributes
    ----------
    table : (8, 8) int64
        The quantisation steps, lowest frequency first.
    every : (int, int)
        How many pixels of the picture one of its samples stands for, down and across.
    """

    table: I64
    every: tuple[int, int]


@dataclass(frozen=True, slots=True, eq=False)
class Compression:
    """What a picture was last compressed with.

    Attributes
    ----------
    components : tuple of Component
        One, its luma, or three: Y, Cb, Cr as of JFIF (ITU-T T.871, 2011).
    offset : (int, int)
        How many rows and columns of the picture lie before its first whole block.
    file : bytes or None
        The JPEG file whose pixels the picture has; None where it has been something else since.
    guessed : bool
        The tables are not known: they say how far off coefficients may be, wherever they lie.
    """

    components: tuple[Component, ...]
    offset: tuple[int, int] = (0, 0)
    file: bytes | None = field(default=None, repr=False)
    guessed: bool = False

    @property
    def quality(self) -> int:
        """The quality, 1–100, on the scale of the Independent JPEG Group, at which the luma's table would come out."""
        scale = 100.0 * float(np.mean(self.components[0].table / LUMA_TABLE))
        quality = 5000.0 / scale if scale > 100.0 else 100.0 - 0.5 * scale
        return int(np.clip(round(quality), 1, 100))

    @classmethod
    def of_file(cls, image: Image.Image, data: bytes) -> Self | None:
        """Read the tables of an opened JPEG file; None if its pixels are not Y or Y, Cb, Cr as of JFIF.

        Raises
        ------
        PictureError
            If tables or sampling are no such as ITU-T T.81 has.
        """
        tables = getattr(image, "quantization", None)
        layers = getattr(image, "layer", None)
        if not tables or not layers or image.mode not in ("L", "RGB") or len(layers) not in (1, 3):
            return None
        if image.info.get("adobe_transform", 1) != 1:
            return None
        down, across = max(layer[2] for layer in layers), max(layer[1] for layer in layers)
        components = []
        for _, h, v, number in layers:
            steps = np.array(tables.get(number, ()), dtype=np.int64)
            if steps.shape != (64,) or steps.min() < 1 or steps.max() > LARGEST_STEP:
                raise PictureError("The tables of this JPEG are damaged; export the picture again.")
            if min(h, v) < 1 or down % v or across % h or max(down // v, across // h) > MOST_EVERY:
                return None
            components.append(Component(steps.reshape(8, 8), (down // v, across // h)))
        return cls(tuple(components), file=data)

    @classmethod
    def guess(cls, table: I64, components: int) -> Self:
        """Return a compression of which no more is known than that coefficients may be off by half of a table."""
        return cls((Component(table, (1, 1)),) * components, guessed=True)

    def coefficients(self) -> tuple[I16, ...] | None:
        """Return the quantised coefficients of each component from the file, (blocks down, across, 8, 8); None without.

        Raises
        ------
        PictureError
            If they cannot be read.
        """
        if self.file is None:
            return None
        import jpeglib  # most pictures need none of them

        with NamedTemporaryFile(suffix=".jpg") as kept:
            kept.write(self.file)
            kept.flush()
            try:
                read = jpeglib.read_dct(kept.name)
                planes = (read.Y, read.Cb, read.Cr)[: len(self.components)]
            except (OSError, ValueError, IndexError, TypeError) as fault:
                raise PictureError("The JPEG breaks off or is damaged; copy or export it again.") from fault
        if any(plane is None for plane in planes):
            return None
        return tuple(np.array(plane, dtype=np.int16) for plane in planes)


def standard_table(table: I64, quality: float) -> I64:
    """Return a table of ITU-T T.81 scaled to a quality, 1–100, as the Independent JPEG Group's library does."""
    scale = 5000.0 / quality if quality < 50 else 200.0 - 2.0 * quality
    return np.clip((table * int(scale) + 50) // 100, 1, 255).astype(np.int64)


def with_density(file: bytes, dpi: int) -> bytes:
    """Return a JPEG file that states a resolution, its picture untouched (JFIF, ITU-T T.871, 10.1)."""
    rest = file[2:]
    if rest[:2] == b"\xff\xe0":
        rest = rest[2 + int.from_bytes(rest[2:4], "big") :]
    header = b"JFIF\x00\x01\x02\x01" + 2 * dpi.to_bytes(2, "big") + b"\x00\x00"
    return file[:2] + b"\xff\xe0" + (len(header) + 2).to_bytes(2, "big") + header + rest
