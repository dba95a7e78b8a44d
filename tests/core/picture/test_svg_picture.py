"""Pictures that SVGs hold (W3C, SVG 2, section 12.3: the image element, RFC 2397: data URLs)."""

from __future__ import annotations

import base64
import io

import numpy as np
import pytest
from PIL import Image

from drawings import disc
from sobercrow.core.errors import PictureError
from sobercrow.core.picture.pages import picture_of
from sobercrow.core.picture.svg_picture import embedded_picture, has_picture_alone

HEAD = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="40" height="40">'


def png(size: int) -> bytes:
    memory = io.BytesIO()
    Image.fromarray(disc(size, 0.5 * size, 0.5 * size, 0.3 * size)).save(memory, "PNG", dpi=(200, 200))
    return memory.getvalue()


def image(data: bytes, attribute: str = "href", kind: str = "png", every: int = 76) -> str:
    text = base64.b64encode(data).decode()
    text = "\n".join(text[k : k + every] for k in range(0, len(text), every))
    return f'<image width="40" height="40" {attribute}="data:image/{kind};base64,{text}"/>'


@pytest.mark.parametrize("attribute", ["href", "xlink:href"])
def test_the_largest_picture_is_brought_in_as_if_it_had_come_alone(attribute: str) -> None:
    svg = f"{HEAD}<defs/>{image(png(24), attribute)}<g>{image(png(96), attribute)}</g></svg>".encode()
    picture, data = embedded_picture(svg, "kite.svg")
    assert (data, picture.name, picture.dpi) == (png(96), "kite.png", pytest.approx(200, abs=0.1))
    assert np.array_equal(picture_of(svg, "kite.svg").pixels, picture.pixels)


@pytest.mark.parametrize(
    ("body", "alone"),
    [
        (image(png(24)), True),
        (f'<defs><clipPath><rect width="4" height="4"/></clipPath></defs>{image(png(24))}', True),
        (f'{image(png(24))}<path d="M0 0L4 4"/>', False),
        ('<path d="M0 0L4 4"/>', False),
        ("<image", False),
    ],
)
def test_a_picture_alone_is_told_from_drawings(body: str, alone: bool) -> None:
    assert has_picture_alone(f"{HEAD}{body}</svg>".encode()) is alone


@pytest.mark.parametrize(
    ("body", "words"),
    [
        ('<path d="M0 0L4 4"/>', "holds no picture"),
        ('<image href="file:///etc/passwd"/>', "holds no picture"),
        ('<image href="https://example.org/a.png"/>', "holds no picture"),
        (image(b"no picture at all"), "not a picture"),
        (image(png(96)[:200]), "breaks off"),
        ("<image", "damaged"),
    ],
)
def test_what_holds_none_is_refused_in_one_sentence_and_no_link_is_followed(body: str, words: str) -> None:
    with pytest.raises(PictureError, match=words):
        embedded_picture(f"{HEAD}{body}</svg>".encode(), "kite.svg")


def test_entities_are_not_unfolded() -> None:
    bomb = f'<!DOCTYPE svg [<!ENTITY a "{"x" * 1000}">]>{HEAD}&a;{image(png(24))}</svg>'
    with pytest.raises(PictureError):
        embedded_picture(bomb.encode(), "kite.svg")
