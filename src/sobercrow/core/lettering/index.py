"""What the glyphs of all typefaces look like, kept in a cache: a file is read once, and again only if it changed.

A glyph is known by its box in the em and by how much of each of 16 × 16 fields of that box it covers.
That is coarse: which typefaces are worth a closer look is all it has to tell.
"""

from __future__ import annotations

import contextlib
import hashlib
import json
import os
from collections.abc import Callable, Iterable, Sequence
from dataclasses import asdict, dataclass
from pathlib import Path

import cv2
import numpy as np
from numpy.typing import NDArray

from sobercrow.core.arrays import F32, F64, U8, cumulated
from sobercrow.core.errors import LetteringError
from sobercrow.core.geometry import bezier
from sobercrow.core.lettering.cubics import cubics_of, opened
from sobercrow.core.lettering.typefaces import Face, Found, faces_of
from sobercrow.core.tracing._render_kernels import draw

VERSION = 3
"""Kept files of another one are read anew."""
FIELDS = 16
"""A box has so many fields each way."""
THINNEST_EM = 1e-4
"""Boxes are taken as no thinner than this."""
_LATIN = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789"
_MARKS = "&!?$€%#@+-–—.,:;'()/*"
_ACCENTED = "ÀÁÂÃÄÅÆÇÈÉÊËÌÍÎÏÑÒÓÔÕÖØÙÚÛÜÝßàáâãäåæçèéêëìíîïñòóôõöøùúûüýÿŒœŠšŽžŁłĐđĆćČčĘęĄąŚśŹźŻżŐőŰűŘřĚěŮů"
_GREEK = "ΑΒΓΔΕΖΗΘΙΚΛΜΝΞΟΠΡΣΤΥΦΧΨΩαβγδεζηθικλμνξοπρστυφχψω"
_CYRILLIC = "АБВГДЕЖЗИЙКЛМНОПРСТУФХЦЧШЩЪЫЬЭЮЯабвгдежзийклмнопрстуфхцчшщъыьэюя"
CHARACTERS = _LATIN + _MARKS + _ACCENTED + _GREEK + _CYRILLIC
"""What is kept of a face, as far as it has it."""
PROPOSED = frozenset(_LATIN + "&!?$%-.," + _ACCENTED)
"""What letters are proposed among; others are found where they are typed."""

Progress = Callable[[float], None]


@dataclass(frozen=True, slots=True, eq=False)
class Index:
    """The glyphs of many faces, one after the other.

    Attributes
    ----------
    faces : tuple of Face
    starts : (faces + 1,) int64
        Where each face's glyphs begin.
    codes : (n,) int32
        The character of each glyph.
    fields : (n, 256) uint8
        How much of each field of its box it covers, row by row.
    boxes : (n, 4) float32
        Left, top, right, bottom in shares of the em, y down from the base line.
    refused : tuple of str
        A sentence for every file that could not be read, the first time it is come across.
    """

    faces: tuple[Face, ...]
    starts: NDArray[np.int64]
    codes: NDArray[np.int32]
    fields: U8
    boxes: F32
    refused: tuple[str, ...] = ()

    @classmethod
    def of(cls, parts: Sequence[tuple[Face, NDArray[np.int32], U8, F32]], refused: Iterable[str] = ()) -> Index:
        """Put faces together, of one name the first alone."""
        names: dict[tuple[str, str], int] = {}
        parts = [p for k, p in enumerate(parts) if names.setdefault((p[0].family, p[0].style), k) == k]
        counts = [len(codes) for _, codes, _, _ in parts]
        starts = cumulated(counts)
        codes = np.concatenate([p[1] for p in parts]) if parts else np.zeros(0, dtype=np.int32)
        fields = np.concatenate([p[2] for p in parts]) if parts else np.zeros((0, FIELDS**2), dtype=np.uint8)
        boxes = np.concatenate([p[3] for p in parts]) if parts else np.zeros((0, 4), dtype=np.float32)
        return cls(tuple(p[0] for p in parts), starts, codes, fields, boxes, tuple(refused))


def cache_folder() -> Path:
    """Return where the index is kept: in the user's cache (XDG Base Directory Specification)."""
    base = os.environ.get("XDG_CACHE_HOME") or "~/.cache"
    return Path(base).expanduser() / "sober-crow" / "typefaces"


def read_index(files: Sequence[Path], folder: Path | None = None, progress: Progress | None = None) -> Index:
    """Return the index of typeface files; what is new or changed is read, and kept.

    `progress` is told the share done and may raise `Cancelled`; what was read by then is kept.
    """
    folder = cache_folder() if folder is None else folder
    parts: list[tuple[Face, NDArray[np.int32], U8, F32]] = []
    refused: list[str] = []
    for n, path in enumerate(files):  # threads would wait for the interpreter at every glyph: twice as long in all
        made, sentence = _file(path, folder)
        parts += made
        refused += [sentence] if sentence else []
        if progress is not None:
            progress((n + 1) / len(files))
    return Index.of(parts, refused)


def _file(path: Path, folder: Path) -> tuple[list[tuple[Face, NDArray[np.int32], U8, F32]], str]:
    """The glyphs of a file's faces, from the cache if they are there, and why there are none."""
    try:
        stat = path.stat()
    except OSError:
        return [], f"{path.name} is not there any more."
    key = f"{VERSION} {path.resolve()} {stat.st_size} {stat.st_mtime_ns}"
    kept = folder / f"{hashlib.sha256(key.encode()).hexdigest()[:32]}.npz"
    known = _kept(kept)
    if known is not None:
        return known, ""  # why it was left out has been told
    made, sentence = [], ""
    try:
        for found in faces_of(path):
            made.append((found.face, *_drawn(found)))
    except LetteringError as error:
        made, sentence = [], str(error)
    _keep(kept, made)
    return made, sentence


def _kept(path: Path) -> list[tuple[Face, NDArray[np.int32], U8, F32]] | None:
    try:
        with np.load(path, allow_pickle=False) as kept:
            told = json.loads(str(kept["told"]))
            faces = [Face(**{**f, "axes": tuple((str(t), float(v)) for t, v in f["axes"])}) for f in told["faces"]]
            if not faces:
                return []
            ends = np.cumsum(kept["counts"])[:-1]
            arrays = (np.split(kept[name], ends) for name in ("codes", "fields", "boxes"))
            return list(zip(faces, *arrays, strict=True))
    except Exception:  # not there, or not whole in any of many ways: it is made anew
        return None


def _keep(path: Path, parts: Sequence[tuple[Face, NDArray[np.int32], U8, F32]]) -> None:
    """Keep what was read; a cache that cannot be written is done without."""
    every = Index.of(parts)
    told = json.dumps({"faces": [asdict(face) for face in every.faces]})
    part = path.with_suffix(f".{os.getpid()}.part")
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        with part.open("wb") as stream:
            arrays = {"codes": every.codes, "fields": every.fields, "boxes": every.boxes}
            np.savez_compressed(stream, told=np.array(told), counts=np.diff(every.starts), **arrays)  # type: ignore[arg-type]
        part.replace(path)
    except OSError:
        with contextlib.suppress(OSError):
            part.unlink(missing_ok=True)


def _drawn(found: Found) -> tuple[NDArray[np.int32], U8, F32]:
    """The glyphs of a face: characters, fields and boxes."""
    face = found.face
    codes = [ord(character) for character in CHARACTERS if ord(character) in found.codes]
    try:
        cubics, starts, counts = cubics_of(opened(face), codes)
        if codes and not len(cubics):
            raise ValueError("no outlines")
    except Exception as error:  # HarfBuzz refuses what is damaged in many ways
        raise LetteringError(f"{Path(face.path).name} is damaged; it was left out.") from error
    firsts = starts[cumulated(counts)]
    is_drawn = np.diff(firsts) > 0
    kept, firsts = np.array(codes, dtype=np.int32)[is_drawn], np.append(firsts[:-1][is_drawn], firsts[-1])
    if not len(kept):
        return kept, np.zeros((0, FIELDS**2), dtype=np.uint8), np.zeros((0, 4), dtype=np.float32)
    own = bezier.boxes(cubics)
    low = np.minimum.reduceat(own[:, :2], firsts[:-1])
    high = np.maximum.reduceat(own[:, 2:], firsts[:-1])
    glyph = np.repeat(np.arange(len(kept)), np.diff(firsts))
    fields = (cubics - low[glyph, None]) * (FIELDS / np.maximum(high - low, THINNEST_EM))[glyph, None]
    fields[..., 1] += FIELDS * glyph[:, None]
    return kept, _covered(fields, len(kept)), np.concatenate([low, high], axis=1).astype(np.float32)


def _covered(cubics: F64, count: int) -> U8:
    """How much of each field of so many boxes beneath each other cubics cover, (count, 256)."""
    place = np.arange(count * FIELDS**2, dtype=np.int32).reshape(count * FIELDS, FIELDS)
    steps = np.zeros(place.size)
    which, ends = np.ones(1, dtype=np.uint8), np.array((0, len(cubics)))
    draw(0, 1, np.ascontiguousarray(cubics).reshape(-1, 8), ends, which, 1.0, place, 0, 0, steps)
    cover = steps.reshape(place.shape).cumsum(axis=1).reshape(count, FIELDS**2)
    around = np.sign(cover.sum(axis=1, keepdims=True))  # outlines run this way round or the other
    return np.asarray(np.rint(255.0 * np.clip(around * cover, 0.0, 1.0)), dtype=np.uint8)


def fields_of(tones: U8) -> U8:
    """Return how much of each field of a box is covered, (256,), from how much of each of its pixels (h, w) is."""
    height, width = tones.shape
    if height < FIELDS or width < FIELDS:
        tones = np.repeat(np.repeat(tones, -(-FIELDS // height), axis=0), -(-FIELDS // width), axis=1)
    return np.asarray(cv2.resize(tones, (FIELDS, FIELDS), interpolation=cv2.INTER_AREA).ravel(), dtype=np.uint8)
