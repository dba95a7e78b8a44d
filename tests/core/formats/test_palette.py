from __future__ import annotations

from pathlib import Path

import pytest

from sobercrow.core.errors import PaletteError
from sobercrow.core.formats.palette import read_palette, write_palette
from sobercrow.core.settings import Ink, Role

INKS = (Ink("#ffffff", "Sheet", Role.PAPER), Ink("#a33e2e", "Rust", members=("#a33e2e", "#b04a3a"), locked=True))


def test_inks_come_back_whole_from_json_and_with_colour_and_name_from_a_list(tmp_path: Path) -> None:
    write_palette(INKS, tmp_path / "a.json")
    assert read_palette(tmp_path / "a.json") == INKS
    write_palette(INKS, tmp_path / "a.txt")
    assert [(i.colour, i.name) for i in read_palette(tmp_path / "a.txt")] == [("#ffffff", "Sheet"), ("#a33e2e", "Rust")]


def test_a_plain_list_is_read_with_or_without_marks_and_names(tmp_path: Path) -> None:
    (tmp_path / "a.hex").write_text("// kite inks\n\nA33E2E\n#fff, Paper\n; end\n")
    assert [(i.colour, i.name) for i in read_palette(tmp_path / "a.hex")] == [("#a33e2e", ""), ("#ffffff", "Paper")]


@pytest.mark.parametrize(
    ("content", "sentence"),
    [
        (b"#ffffff\nrust\n", "Line 2 of “p.txt” is no colour: “rust”"),
        (b"#ffffff\n#FFF\n", "Line 2 of “p.txt” has the colour #ffffff for the second time"),
        (b"\n", "has no colours"),
        (b"\xff\xfe\x00", "is no text"),
        (b'{"format": "other"}', "not a list of inks"),
        (b"".join(b"#0000%02x\n" % k for k in range(40)), "has 40 colours"),
    ],
)
def test_a_palette_that_cannot_be_read_is_told_with_its_line(tmp_path: Path, content: bytes, sentence: str) -> None:
    (tmp_path / "p.txt").write_bytes(content)
    with pytest.raises(PaletteError, match=sentence):
        read_palette(tmp_path / "p.txt")
    with pytest.raises(PaletteError, match="was not found"):
        read_palette(tmp_path / "gone.txt")
