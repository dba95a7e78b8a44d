"""Files damaged by rule from a seed, for every reader: values in JSON and XML, chunks, parts of archives, bytes.

Random bytes alone are refused at the door; damage that keeps to a format's structure comes further in (structure-aware
fuzzing, as in Pham et al. 2021, "Smart Greybox Fuzzing").
"""

from __future__ import annotations

import base64
import copy
import io
import json
import random
import re
import struct
import zipfile
import zlib
from collections.abc import Callable
from dataclasses import asdict
from pathlib import Path
from typing import Any

import numpy as np
import pillow_heif
from PIL import Image

from drawings import circle, parted_disc
from sobercrow.core.artwork.model import Artwork, Layer, Shape
from sobercrow.core.formats.hand_over import PLAIN, plain_hand_over
from sobercrow.core.formats.pdf import pdf_bytes
from sobercrow.core.formats.plain import plain_artwork
from sobercrow.core.formats.sets import SETS, plain_set
from sobercrow.core.formats.svg import svg_bytes
from sobercrow.core.handover.printing import OWN_PROFILE
from sobercrow.core.lettering.typefaces import LIBRARY
from sobercrow.core.settings import Settings
from sobercrow.core.settings.recipes import RECIPES

NASTY: tuple[Any, ...] = (
    *(0, -1, 1e999, -1e999, float("nan"), 1e300, 1e9, -1e9, 1e-320, 10**30, 2**31, 2**63),
    *(None, True, "", "x", "\x00", "é" * 300, [], {}, [[]], [[[]]], [None], {"a": 1}, "nan", "1e999"),
)
NUMBERS = ("0", "-1", "1e999", "nan", "1e12", "-1e12", "1e-320", "", "x", "1,", "99999999999999999999", "50%", "3 4 5")


def damaged_json(plain: Any, chance: random.Random) -> str:
    """Return plain values as JSON with one to three of them replaced, gone, doubled or nested."""
    made = copy.deepcopy(plain)
    for _ in range(chance.randint(1, 3)):
        places = list(_places(made))
        if not places:
            break
        holder, key = chance.choice(places)
        way = chance.random()
        if way < 0.7:
            holder[key] = copy.deepcopy(chance.choice(NASTY))  # damage may come to lie in it
        elif way < 0.8:
            del holder[key]
        elif way < 0.9:
            holder[key] = [holder[key]] * chance.choice((2, 300))
        else:
            holder[key] = json.loads("[" * 50 + "]" * 50)
    text = json.dumps(made)
    return text if chance.random() < 0.95 else text.replace("[", "[" * 60_000, 1)


def _places(plain: Any) -> list[tuple[Any, Any]]:
    found: list[tuple[Any, Any]] = []
    inner = plain.items() if isinstance(plain, dict) else enumerate(plain) if isinstance(plain, list) else ()
    for key, value in inner:
        found += [(plain, key), *_places(value)]
    return found


def damaged_bytes(data: bytes, chance: random.Random) -> bytes:
    """Return bytes with some flipped, cut off, doubled or taken from elsewhere."""
    made = bytearray(data)
    for _ in range(chance.choice((1, 1, 3, 20))):
        at, way = chance.randrange(len(made)), chance.random()
        if way < 0.6:
            made[at] = chance.randrange(256)
        elif way < 0.7:
            del made[at:]
        elif way < 0.85:
            made[at : at + chance.choice((1, 4, 100))] = b""
        else:
            begin = chance.randrange(len(made))
            made[at:at] = made[begin : begin + chance.choice((4, 50))]
        if not made:
            return b"\x00"
    return bytes(made)


def damaged_png(data: bytes, chance: random.Random) -> bytes:
    """Return a PNG with values in its chunks changed, chunks gone, doubled or out of order; checksums are right."""
    chunks, at = [], 8
    while at + 12 <= len(data):
        (size,) = struct.unpack(">I", data[at : at + 4])
        chunks.append((data[at + 4 : at + 8], bytearray(data[at + 8 : at + 8 + size])))
        at += 12 + size
    for _ in range(chance.randint(1, 3)):
        k, way = chance.randrange(len(chunks)), chance.random()
        name, body = chunks[k]
        if way < 0.6 and body:
            place = chance.randrange(min(len(body), 16))
            body[place] = chance.choice((0, 1, 127, 255, chance.randrange(256)))
        elif way < 0.75 and len(chunks) > 1:
            del chunks[k]
        elif way < 0.9:
            chunks.insert(chance.randrange(len(chunks) + 1), (name, bytearray(body)))
        else:
            chance.shuffle(chunks)
    parts = [
        struct.pack(">I", len(body)) + name + bytes(body) + struct.pack(">I", zlib.crc32(name + bytes(body)))
        for name, body in chunks
    ]
    return data[:8] + b"".join(parts)


def damaged_svg(text: str, chance: random.Random) -> bytes:
    """Return an SVG with numbers in it replaced, attributes renamed, elements doubled or nested."""
    for _ in range(chance.randint(1, 4)):
        way = chance.random()
        numbers = list(re.finditer(r"-?\d+\.?\d*", text))
        if way < 0.7 and numbers:
            one = chance.choice(numbers)
            text = text[: one.start()] + chance.choice(NUMBERS) + text[one.end() :]
        elif way < 0.85:
            words = list(re.finditer(r"[a-zA-Z]{2,}", text))
            one = chance.choice(words)
            text = text[: one.start()] + chance.choice(words).group() + text[one.end() :]
        else:
            at = text.rfind("<path")
            text = text[:at] + chance.choice(("<g>", "</g>", '<g transform="scale(1e99)">', "&amp;")) + text[at:]
    return text.encode()


def damaged_zip(parts: dict[str, bytes], chance: random.Random) -> bytes:
    """Return an archive with a part damaged, gone or doubled, packed in any way, or with bytes of its own damaged."""
    memory = io.BytesIO()
    how = chance.choice((zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED, zipfile.ZIP_BZIP2, zipfile.ZIP_LZMA))
    chosen = chance.choice(sorted(parts))
    with zipfile.ZipFile(memory, "w", how) as archive:
        for name, data in parts.items():
            if name != chosen:
                archive.writestr(name, data)
            elif chance.random() < 0.85:
                is_json = name.endswith(".json")
                archive.writestr(
                    name, damaged_json(json.loads(data), chance) if is_json else damaged_bytes(data, chance)
                )
    return memory.getvalue() if chance.random() < 0.6 else damaged_bytes(memory.getvalue(), chance)


def _artwork() -> Artwork:
    shapes = (
        Shape((circle(30.0, 30.0, 20.0), circle(30.0, 30.0, 9.0)), "#334455"),
        Shape((circle(50.0, 40.0, 8.0),), "#aa2211"),
    )
    return Artwork((Layer("Ink", shapes),), 96.0, 96.0, 96.0)


def _picture(form: str, **options: Any) -> bytes:
    if form == "HEIF":
        pillow_heif.register_heif_opener()
    memory = io.BytesIO()
    Image.fromarray(parted_disc(SIDE_PX)).save(memory, form, **options)
    return memory.getvalue()


def _project() -> dict[str, bytes]:
    head = {"format": "sobercrow-project", "version": 8, "source": "a.png", "settings": asdict(Settings())}
    head |= {"guides": [{"lies": "level", "at": 3.0, "slant_deg": 90.0}], "hand_over": plain_hand_over(PLAIN)}
    artwork = json.dumps(plain_artwork(_artwork())).encode()
    return {"project.json": json.dumps(head).encode(), "source/picture": _picture("PNG"), "refined.json": artwork}


SIDE_PX = 48
"""Pictures are no larger: what can be read of them is traced."""
SVG = "http://www.w3.org/2000/svg"
PICTURES = ("JPEG", "GIF", "TIFF", "BMP", "WEBP", "AVIF", "HEIF", "JPEG2000", "PPM", "ICO", "TGA")


def makers() -> dict[str, Callable[[random.Random], bytes]]:
    """Return for every kind of file what makes a damaged one of chance, by the kind's name."""
    recipe = {"format": "sobercrow-recipe", "version": 1, **json.loads(json.dumps(asdict(RECIPES[0])))}
    whole_set = {"format": "sobercrow-set", "version": 1, **json.loads(json.dumps(plain_set(SETS[0])))}
    inks = {
        "format": "sobercrow-inks",
        "inks": [{"colour": "#112233", "name": "a", "role": "ink", "locked": False, "members": ["#112233"]}],
    }
    png, parts, svg = _picture("PNG", dpi=(300, 300)), _project(), svg_bytes(_artwork()).decode()
    pdf, face = (
        pdf_bytes(_artwork()),
        min(Path(LIBRARY).glob("*.[ot]tf"), key=lambda path: path.stat().st_size).read_bytes(),
    )
    held = f'<svg xmlns="{SVG}"><image href="data:image/png;base64,{base64.b64encode(png).decode()}"/></svg>'
    profile = OWN_PROFILE.read_bytes()
    memory = io.BytesIO()
    np.savez_compressed(memory, told=np.array('{"faces": []}'), counts=np.zeros(0), codes=np.zeros(3))
    index = memory.getvalue()
    plain: dict[str, bytes] = {form.lower(): _picture(form) for form in PICTURES}
    made: dict[str, Callable[[random.Random], bytes]] = {
        "png": lambda chance: damaged_png(png, chance),
        "project": lambda chance: damaged_zip(parts, chance),
        "recipe": lambda chance: damaged_json(recipe, chance).encode(),
        "set": lambda chance: damaged_json(whole_set, chance).encode(),
        "inks": lambda chance: damaged_json(inks, chance).encode(),
        "svg": lambda chance: damaged_svg(svg, chance),
        "pdf": lambda chance: damaged_bytes(pdf, chance),
        "held": lambda chance: damaged_svg(held, chance),
        "profile": lambda chance: damaged_bytes(profile, chance),
        "typeface": lambda chance: damaged_bytes(face, chance),
        "index": lambda chance: damaged_bytes(index, chance),
    }
    for form, data in plain.items():
        made[form] = lambda chance, data=data: damaged_bytes(data, chance)  # type: ignore[misc]
    return made
