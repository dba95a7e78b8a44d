"""The picture that an SVG holds (W3C, SVG 2, the image element): what many send as a vector file is one of pixels."""

from __future__ import annotations

import base64
import re
from pathlib import Path
from xml.etree.ElementTree import Element

from defusedxml.ElementTree import fromstring

from sobercrow.core.errors import PictureError
from sobercrow.core.outside import reading
from sobercrow.core.picture.decode import decode_picture
from sobercrow.core.picture.picture import Picture

SUFFIX = ".svg"
MOST_BYTES = 128 << 20
HREFS = ("href", "{http://www.w3.org/1999/xlink}href")
_EMBEDDED = re.compile(r"\s*data:image/([\w.+-]+);base64,", re.IGNORECASE)
_KINDS = {"jpeg": ".jpg", "jpg": ".jpg", "png": ".png", "webp": ".webp", "gif": ".gif", "bmp": ".bmp", "tiff": ".tif"}


def is_svg(data: bytes) -> bool:
    """Tell whether a file begins as an SVG does."""
    return b"<svg" in data[:4096].lower()


def embedded_picture(data: bytes, name: str) -> tuple[Picture, bytes]:
    """Return the largest picture that an SVG holds within itself, and its file; links out of the SVG are not followed.

    Raises
    ------
    PictureError
        With one sentence if it is no SVG, holds no picture, or holds one that cannot be read.
    """
    if len(data) > MOST_BYTES:
        raise PictureError(f"“{name}” is larger than {MOST_BYTES >> 20} MB; reduce it first.")
    with reading(PictureError, f"“{name}” is damaged and could not be read; copy or export it again."):
        root = fromstring(data, forbid_dtd=False, forbid_entities=True, forbid_external=True)
        files = [made for made in map(_file_of, root.iter()) if made is not None]
    if not files:
        raise PictureError(f"“{name}” holds no picture; place it into an artwork with Place SVG.")
    suffix, content = max(files, key=lambda made: len(made[1]))
    return decode_picture(content, f"{Path(name).stem}{suffix}"), content


def has_picture_alone(data: bytes) -> bool:
    """Tell whether an SVG holds a picture and nothing drawn; False for what is no SVG."""
    drawn = ("path", "rect", "circle", "ellipse", "line", "polyline", "polygon", "text")
    try:
        with reading(PictureError, ""):
            root = fromstring(data[:MOST_BYTES], forbid_dtd=False, forbid_entities=True, forbid_external=True)
            hidden = {id(inner) for one in root.iter() if _kind(one) in ("defs", "clipPath") for inner in one.iter()}
            kinds = {_kind(one) for one in root.iter() if id(one) not in hidden}
    except PictureError:
        return False
    return "image" in kinds and not kinds.intersection(drawn)


def _kind(element: Element) -> str:
    return str(element.tag).rpartition("}")[2]


def _file_of(element: Element) -> tuple[str, bytes] | None:
    """The suffix and the content of a picture embedded in an element; None for any other."""
    if _kind(element) != "image":
        return None
    link = next((element.attrib[name] for name in HREFS if name in element.attrib), "")
    head = _EMBEDDED.match(link)
    if head is None:
        return None
    suffix = _KINDS.get(head[1].lower(), f".{head[1].lower()}")
    return suffix, base64.b64decode(re.sub(r"\s+", "", link[head.end() :]))
