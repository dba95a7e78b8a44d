"""Printing colours: what is typed comes out on the plates, by Ghostscript's separations; and the profile keeps to the
measurements it was made of."""

from __future__ import annotations

import io
import re
import shutil
import subprocess
from dataclasses import replace
from pathlib import Path

import numpy as np
import pikepdf
import pytest
from PIL import Image, ImageCms

from sobercrow.core.artwork.model import Artwork, Layer, Shape
from sobercrow.core.artwork.paint import Gradient, Spread, Stop, Stroke
from sobercrow.core.errors import ExportError
from sobercrow.core.formats.hand_over import PLAIN, hand_over_of, plain_hand_over
from sobercrow.core.formats.pdf import PdfSettings, pdf_bytes
from sobercrow.core.formats.sets import Part, part_files
from sobercrow.core.geometry.affine import Affine
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.handover.plates import PlateSettings
from sobercrow.core.handover.printing import OWN_PROFILE, Printing, PrintInk, print_ink, read_profile
from sobercrow.core.handover.purpose import CheckSettings, Purpose
from sobercrow.core.inspect.hand_over import check

RED, GREEN, BLACK = "#a33e2e", "#3e8e5a", "#000000"
PRINTING = Printing(
    (print_ink(RED, "0 82 90 12.5"), print_ink(GREEN, "Kite green, 70 0 60 0"), print_ink(BLACK, "0 0 0 100"))
)


def three_boxes() -> Artwork:
    """Red at the left, green in the middle, black lying over the right half of the green."""
    spans = ((0, 100, RED), (100, 300, GREEN), (200, 300, BLACK))
    return Artwork((Layer("All", tuple(box(*span) for span in spans)),), 300.0, 100.0, 72.0)


def box(left: float, right: float, colour: str | Gradient) -> Shape:
    at = np.array([(left, 0.0), (right, 0.0), (right, 100.0), (left, 100.0)])
    return Shape((Contour(np.repeat(at[:, None], 3, axis=1), np.zeros(4, np.uint8)),), colour)


def separations(pdf: bytes, folder: Path) -> dict[str, np.ndarray]:
    """What Ghostscript draws for each ink, in per cent."""
    (folder / "it.pdf").write_bytes(pdf)
    command = [
        "gs",
        "-q",
        "-dNOPAUSE",
        "-dBATCH",
        "-dSAFER",
        "-sDEVICE=tiffsep",
        "-r72",
        f"-o{folder}/it.tif",
        "it.pdf",
    ]
    subprocess.run(command, check=True, cwd=folder, capture_output=True)
    made = {}
    for path in folder.glob("it(*).tif"):
        made[path.stem[3:-1]] = 100.0 - np.asarray(Image.open(path), dtype=float) / 2.55
    return made


@pytest.mark.skipif(shutil.which("gs") is None, reason="needs Ghostscript")
@pytest.mark.parametrize("over", [False, True])
def test_inks_come_out_to_the_per_cent_typed(tmp_path: Path, over: bool) -> None:
    printing = replace(PRINTING, overprint_black=over)
    plates = separations(pdf_bytes(three_boxes(), PdfSettings(printing=printing)), tmp_path)
    names = ["Cyan", "Magenta", "Yellow", "Black", "Kite green"]
    assert set(plates) == set(names)
    height, width = plates["Cyan"].shape
    rows, thirds = slice(height // 4, 3 * height // 4), (1, 3, 5)
    told = [[np.median(plates[name][rows, width * k // 6]) for name in names] for k in thirds]
    wanted = [[0, 82, 90, 12.5, 0], [0, 0, 0, 0, 100], [0, 0, 0, 100, 100 if over else 0]]
    assert told == pytest.approx(np.array(wanted), abs=0.4)  # eight bits a plate are steps of 0.39 %


def test_black_strokes_are_printed_over_and_the_fill_they_go_around_is_not() -> None:
    pen = replace(box(0, 100, RED), stroke=Stroke(BLACK, 4.0))
    artwork = Artwork((Layer("All", (pen, box(100, 300, BLACK), box(200, 300, RED))),), 300.0, 100.0, 72.0)
    printing = replace(PRINTING, overprint_black=True)
    with pikepdf.open(io.BytesIO(pdf_bytes(artwork, PdfSettings(printing=printing)))) as pdf:
        states = pdf.pages[0].Resources.ExtGState
        used = re.findall(r"/(O\d) gs", pdf.pages[0].Contents.read_bytes().decode())
        told = [(bool(states[f"/{name}"].op), bool(states[f"/{name}"].OP)) for name in used]
    assert told == [(False, True), (True, True), (False, True)]


def test_a_press_file_says_what_the_standard_asks_for() -> None:
    """ISO 15930-7 (PDF/X-4), clauses 6.1 to 6.9, for files without pictures and type (from memory)."""
    with pikepdf.open(io.BytesIO(pdf_bytes(three_boxes(), PdfSettings(title="Kites", printing=PRINTING)))) as pdf:
        assert pdf.pdf_version == "1.6"
        assert not pdf.check_pdf_syntax()
        (intent,) = pdf.Root.OutputIntents
        assert (str(intent.S), str(intent.OutputConditionIdentifier)) == ("/GTS_PDFX", "FOGRA39")
        assert bytes(intent.DestOutputProfile.read_bytes()) == OWN_PROFILE.read_bytes()
        page = pdf.pages[0]
        assert list(page.TrimBox) == list(page.MediaBox)
        assert len(pdf.trailer.ID) == 2
        assert str(pdf.docinfo["/Trapped"]) == "/False"
        with pdf.open_metadata() as told:
            assert told["pdfxid:GTS_PDFXVersion"] == "PDF/X-4"
            assert told["dc:title"] == pdf.docinfo["/Title"] == "Kites"
            assert all(told[f"xmp:{key}Date"] for key in ("Create", "Modify", "Metadata"))
        content = page.Contents.read_bytes().decode()
        assert " rg" not in content
        assert page.Resources.ColorSpace.S0[1] == "/Kite green"


def test_plates_in_black_are_of_black_alone_and_gradients_of_four_inks() -> None:
    files = part_files(
        three_boxes(), Part("p", "pdf", PdfSettings(printing=PRINTING), plates=PlateSettings(in_black=True))
    )
    with pikepdf.open(io.BytesIO(files[0][1])) as pdf:
        for page in pdf.pages:
            assert set(re.findall(r"(\S+ \S+ \S+ \S+) [kK]\b", page.Contents.read_bytes().decode())) == {"0 0 0 1"}
    run = Gradient(Spread.LINEAR, (Stop(0.0, RED), Stop(1.0, GREEN)), Affine(300.0, 0.0, 0.0, 300.0, 0.0, 0.0))
    shaded = Artwork((Layer("All", (box(0, 300, run),)),), 300.0, 100.0, 72.0)
    with pikepdf.open(io.BytesIO(pdf_bytes(shaded, PdfSettings(printing=PRINTING)))) as pdf:
        shading = pdf.pages[0].Resources.Pattern.P0.Shading
        assert shading.ColorSpace == "/DeviceCMYK"
        assert [float(v) for v in shading.Function.C1] == pytest.approx([0.7, 0.0, 0.6, 0.0])


@pytest.mark.parametrize(
    ("text", "ink"),
    [
        ("0 82 90 12", PrintInk(RED, (0, 82, 90, 12))),
        ("C0 M82.5 Y90 K12 %", PrintInk(RED, (0, 82.5, 90, 12))),
        ("Kite red", PrintInk(RED, None, "Kite red")),
        ("Red 485, 0/82/90/12", PrintInk(RED, (0, 82, 90, 12), "Red 485")),
        ("Red 485", PrintInk(RED, None, "Red 485")),
        ("", PrintInk(RED)),
    ],
)
def test_printing_colours_are_read_as_they_are_typed_and_told_so_again(text: str, ink: PrintInk) -> None:
    assert print_ink(RED, text) == ink
    assert print_ink(RED, ink.text) == ink


@pytest.mark.parametrize("text", ["0 82 90", "0 82 90 101", "12", "x" * 70])
def test_what_is_no_printing_colour_is_refused(text: str) -> None:
    with pytest.raises(ExportError):
        print_ink(RED, text)


@pytest.mark.parametrize(
    ("cmyk", "lab"),
    [
        ((0, 0, 0, 0), (95, 0, -2)),
        ((100, 0, 0, 0), (55, -37, -50)),
        ((0, 100, 0, 0), (48, 74, -3)),
        ((0, 0, 100, 0), (89, -5, 93)),
        ((0, 0, 0, 100), (16, 0, 0)),
    ],
)
def test_the_profile_gives_the_solids_of_the_standard(cmyk: tuple[int, ...], lab: tuple[float, ...]) -> None:
    """Solids of paper types 1 and 2 on white backing, ISO 12647-2:2004/Amd 1:2007, table 2 (from memory)."""
    target = ImageCms.createProfile("LAB")
    flags, absolute = ImageCms.Flags.NONE, ImageCms.Intent.ABSOLUTE_COLORIMETRIC
    transform = ImageCms.buildTransform(str(OWN_PROFILE), target, "CMYK", "LAB", absolute, flags)
    image = Image.new("CMYK", (1, 1), tuple(round(2.55 * value) for value in cmyk))
    lightness, a, b = np.asarray(ImageCms.applyTransform(image, transform), dtype=np.int16)[0, 0]
    told = np.array([lightness / 2.55, a - 256 if a > 127 else a, b - 256 if b > 127 else b])
    assert np.linalg.norm(told - lab) < 4.0


def test_colours_go_through_the_profile_and_back_to_what_was_seen() -> None:
    """Within the gamut of coated paper a round trip through littleCMS moves a colour by little."""
    colours = [RED, GREEN, "#c8a04b", "#8fb9aa", "#777777", "#ffffff"]
    profile = read_profile("")
    printed = np.array(profile.convert(colours))
    assert printed.sum(axis=1).max() <= 330.0
    image = Image.fromarray(np.round(printed[None] * 2.55).astype(np.uint8), "CMYK")
    intent, flags = ImageCms.Intent.RELATIVE_COLORIMETRIC, ImageCms.Flags.BLACKPOINTCOMPENSATION
    back = ImageCms.buildTransform(str(OWN_PROFILE), ImageCms.createProfile("sRGB"), "CMYK", "RGB", intent, flags)
    seen = np.asarray(ImageCms.applyTransform(image, back), dtype=int)[0]
    meant = np.array([list(bytes.fromhex(colour[1:])) for colour in colours])
    assert np.abs(seen - meant).max() <= 12


def test_profiles_that_are_none_are_refused_by_name(tmp_path: Path) -> None:
    screen = tmp_path / "screen.icc"
    screen.write_bytes(ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes())
    damaged = tmp_path / "damaged.icc"
    damaged.write_bytes(OWN_PROFILE.read_bytes()[:500])
    for path in (screen, damaged, tmp_path / "gone.icc"):
        with pytest.raises(ExportError, match=path.name):
            read_profile(str(path))


def test_too_much_ink_is_found_and_what_was_set_is_kept_with_a_project() -> None:
    heavy = PRINTING.with_ink(print_ink(RED, "90 90 90 80"))
    one = replace(PLAIN, printing=heavy, check=CheckSettings(Purpose.PRINT, most_ink=340.0))
    found = check(three_boxes(), one.checked_for())
    (spot,) = next(finding.spots for finding in found if finding.kind.id == "ink-load")
    assert spot.choice.shapes == {0}
    assert not [f for f in check(three_boxes(), replace(one.checked_for(), most_ink=350.0)) if f.kind.id == "ink-load"]
    assert hand_over_of(plain_hand_over(one)) == one
