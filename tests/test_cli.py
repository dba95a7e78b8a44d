from __future__ import annotations

import contextlib
import io
import json
import os
import shutil
import subprocess
import sys
from dataclasses import dataclass, replace
from pathlib import Path
from unittest import mock

import cv2
import numpy as np
import pypdfium2
import pytest
import resvg_py
from lxml import etree
from matplotlib import font_manager
from PIL import Image

from drawings import lettering
from sobercrow import __version__, cli
from sobercrow.core.artwork.edits import delete_shapes
from sobercrow.core.formats.hand_over import HandOver
from sobercrow.core.formats.project import Project, read_project, write_project
from sobercrow.core.formats.recipes import RecipeBook, write_recipe
from sobercrow.core.formats.sets import HandOverSet, default_part, write_set
from sobercrow.core.handover.page import Page, Sheet, TrueSize
from sobercrow.core.inks.colour import lab_of, pairwise_ciede2000, rgb_of_hex
from sobercrow.core.job import Job
from sobercrow.core.picture.decode import decode_picture
from sobercrow.core.settings import Settings
from sobercrow.core.settings.recipes import CUT_OUT, PEN_LETTERING
from sobercrow.demo.make import PICTURES


@dataclass
class Done:
    returncode: int
    stderr: str
    stdout: str


def run(*arguments: object) -> Done:
    """Run the command line in this process."""
    told, code = io.StringIO(), 0
    said = io.TextIOWrapper(io.BytesIO(), "utf-8", write_through=True)
    with (
        mock.patch.object(sys, "argv", ["sober-crow", *map(str, arguments)]),
        contextlib.redirect_stderr(told),
        contextlib.redirect_stdout(said),
    ):
        try:
            cli.main()
        except SystemExit as end:
            code = int(end.code or 0)
    return Done(code, told.getvalue(), said.buffer.getvalue().decode())


def test_the_command_runs_by_its_module(scan: Path, tmp_path: Path) -> None:
    command = [sys.executable, "-m", "sobercrow", "trace"]
    done = subprocess.run([*command, scan, "-o", tmp_path / "a.svg"], capture_output=True, timeout=240, check=False)
    assert (done.returncode, done.stdout, done.stderr) == (0, b"", b"")
    failed = subprocess.run([*command, "gone.png", "-o", "b.svg"], capture_output=True, timeout=240, check=False)
    assert (failed.returncode, failed.stderr.count(b"\n")) == (2, 1)


def fresh(*arguments: str, **environment: str) -> subprocess.CompletedProcess[str]:
    """Run the command line in a process of its own, without a display, telling which libraries of numbers came in."""
    code = """
import sys
from sobercrow import __version__, cli
sys.argv[0] = "sober-crow"
try:
    cli.main()
finally:
    print(sorted({"numpy", "PySide6", "cv2"} & set(sys.modules)))
"""
    left = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}
    command = [sys.executable, "-c", code, *arguments]
    return subprocess.run(command, env={**left, **environment}, capture_output=True, text=True, timeout=60, check=False)


@pytest.mark.parametrize(
    ("arguments", "code", "words"),
    [
        (["--help"], 0, "sober-crow trace --help"),
        (["--version"], 0, __version__),
        (["trace", "--help"], 0, "--corner-angle"),
        (["trase", "x.png"], 2, "“trase” is no command"),
        (["--detail"], 2, "no option “--detail”"),
        (["trace", "a.png"], 2, "Missing option"),
        (["match", "--help"], 0, "--own-spacing"),
        (["fonts", "lost"], 2, "is not one of"),
        (["drawing.png"], 2, "There is no display"),
    ],
)
def test_what_needs_no_numbers_is_answered_without_them(arguments: list[str], code: int, words: str) -> None:
    done = fresh(*arguments)
    assert done.returncode == code
    assert words in done.stdout + done.stderr
    assert done.stdout.splitlines()[-1] == "[]"
    assert code == 0 or done.stderr.count("\n") == 1


@pytest.fixture
def scan(tmp_path: Path) -> Path:
    path = tmp_path / "scan.png"
    Image.fromarray(lettering("Spar")).save(path, dpi=(200, 200))
    return path


def test_trace_writes_an_svg_of_true_size_and_a_report(scan: Path, tmp_path: Path) -> None:
    out, report = tmp_path / "out.svg", tmp_path / "out.json"
    done = run("trace", scan, "-o", out, "--report", report, "--detail", 50, "--speck", 4)
    assert (done.returncode, done.stderr) == (0, "")
    figures = json.loads(report.read_text())
    root = etree.parse(out).getroot()
    width = float(root.get("width").removesuffix("mm"))
    assert width == pytest.approx(Image.open(scan).width * 25.4 / 200, rel=2e-3)
    assert figures["shapes"] == len(root.findall(".//{*}path")) == 4
    assert 0 < figures["deviation_mean_px"] < figures["deviation_p99_px"] <= figures["deviation_max_px"]
    assert 0 < figures["corners"] < figures["anchors"]
    assert figures["seconds"]["trace"] > 0


BAD = {
    "no such file": (["gone.png"], "not found"),
    "no picture": (["notes.png"], "not a picture"),
    "threshold": (["scan.png", "--threshold", "300"], "Threshold must lie"),
    "threshold word": (["scan.png", "--threshold", "dark"], "auto or a whole number"),
    "detail": (["scan.png", "--detail", "lots"], "detail"),
    "tolerance": (["scan.png", "--tolerance", "nan"], "Tolerance must lie"),
    "dpi": (["scan.png", "--dpi", "0"], "Resolution must lie"),
    "angle": (["scan.png", "--straighten", "much"], "auto or an angle"),
    "angle beyond": (["scan.png", "--straighten", "60"], "Straighten must lie"),
    "enlarge": (["scan.png", "--enlarge", "9"], "Enlarge must lie"),
    "light": (["scan.png", "--light", "bright"], "light"),
    "inks": (["scan.png", "--inks", "some"], "auto or a whole number from 2 to 32"),
    "one ink": (["scan.png", "--inks", "1"], "must lie between 2 and 32"),
    "inks and palette": (["scan.png", "--inks", "3", "--palette", "inks.txt"], "not both"),
    "threshold and inks": (["scan.png", "--inks", "3", "--threshold", "99"], "A threshold is for one ink"),
    "palette": (["scan.png", "--palette", "notes.png"], "Line 1 of “notes.png”"),
    "no palette": (["scan.png", "--palette", "gone.txt"], "gone.txt"),
    "paper": (["scan.png", "--paper", "white"], "like #a33e2e"),
    "meet": (["scan.png", "--meet", "loosely"], "meet"),
    "weight": (["scan.png", "--weight", "50"], "Weight must lie"),
    "recipe": (["scan.png", "--recipe", "Fog"], "There is no recipe “Fog”"),
    "recipe file": (["scan.png", "--recipe", "gone.recipe"], "gone.recipe"),
    "more inks than colours": (["scan.png", "--inks", "30"], "colours that can be told apart"),
}


@pytest.mark.parametrize("case", BAD)
def test_errors_are_one_sentence_and_leave_no_file(scan: Path, tmp_path: Path, case: str) -> None:
    (tmp_path / "notes.png").write_text("no picture at all")
    arguments, words = BAD[case]
    arguments = [str(tmp_path / a) if a.endswith((".txt", "notes.png")) else a for a in arguments]
    out = tmp_path / "out.svg"
    done = run("trace", tmp_path / arguments[0], *arguments[1:], "-o", out)
    assert done.returncode == 2
    assert words in done.stderr
    assert done.stderr.count("\n") == 1
    assert "Traceback" not in done.stderr
    assert not out.exists()


def test_centre_lines_are_written_as_strokes(scan: Path, tmp_path: Path) -> None:
    assert run("trace", scan, "-o", tmp_path / "a.svg", "--kind", "centre-lines").returncode == 0
    paths = etree.parse(tmp_path / "a.svg").getroot().findall(".//{*}path")
    assert any(path.get("stroke-width") for path in paths)
    options = ["--kind", "centre-lines", "--follow-pen"]
    assert run("trace", scan, "-o", tmp_path / "b.svg", *options).returncode == 0
    paths = etree.parse(tmp_path / "b.svg").getroot().findall(".//{*}path")
    assert paths
    assert not any(path.get("stroke-width") for path in paths)


def test_a_file_that_is_there_is_only_replaced_when_told_to(scan: Path, tmp_path: Path) -> None:
    out = tmp_path / "out.svg"
    out.write_text("mine")
    assert run("trace", scan, "-o", out).returncode == 2
    assert out.read_text() == "mine"
    assert run("trace", scan, "-o", out, "--force").returncode == 0
    assert out.read_text() != "mine"


def photo(path: Path) -> Path:
    """A slanted photo of a sheet that states no resolution."""
    from cleanup_scenes import drawn_sheet, photographed

    Image.fromarray(photographed(drawn_sheet(5, 1.4), 5)[0]).save(path, quality=90)
    return path


def test_what_the_check_finds_is_mended_and_shapes_change_only_when_asked_for(tmp_path: Path) -> None:
    small = tmp_path / "small.png"
    Image.fromarray(lettering("Fen", 48)).save(small, dpi=(100, 100))
    reports = {}
    for name, options in {
        "as found": ["--enlarge", "auto"],
        "left": ["--light", "off"],
        "turned": ["--straighten", 5, "--enlarge", 2],
    }.items():
        report = tmp_path / f"{name}.json"
        done = run("trace", small, "-o", tmp_path / f"{name}.svg", "--report", report, *options)
        assert (done.returncode, done.stderr) == (0, "")
        reports[name] = json.loads(report.read_text())
    assert any(d.startswith("enlarged") for d in reports["as found"]["done"])
    assert not any(d.startswith("enlarged") for d in reports["left"]["done"])
    assert "straightened by 5.00°" in reports["turned"]["done"]
    assert "enlarged 2 ×" in reports["turned"]["done"]
    assert reports["as found"]["width_mm"] == pytest.approx(reports["left"]["width_mm"], rel=1e-3)


def test_a_slant_is_undone_and_a_sheet_straightened_when_asked_for(tmp_path: Path) -> None:
    source, report = photo(tmp_path / "photo.jpg"), tmp_path / "r.json"
    options = ["--slant", "auto", "--straighten", "auto", "--report", report]
    assert run("trace", source, "-o", tmp_path / "a.svg", *options).returncode == 0
    figures = json.loads(report.read_text())
    assert figures["done"][0] == "slant undone"
    assert figures["width_mm"] / figures["height_mm"] == pytest.approx(1.4, rel=0.02)


def test_a_page_of_a_pdf_is_traced_at_its_true_size(tmp_path: Path) -> None:
    from reportlab.pdfgen import canvas

    path = tmp_path / "two.pdf"
    sheet = canvas.Canvas(str(path), pagesize=(288, 144))  # 4 × 2 inches
    for size in (30, 60):
        sheet.circle(144, 72, size, stroke=0, fill=1)
        sheet.showPage()
    sheet.save()
    out, report = tmp_path / "out.svg", tmp_path / "r.json"
    assert run("trace", path, "-o", out, "--pdf-page", 2, "--dpi", 200, "--report", report).returncode == 0
    assert etree.parse(out).getroot().get("width") == "101.6mm"
    failed = run("trace", path, "-o", tmp_path / "no.svg", "--pdf-page", 7)
    assert failed.returncode == 2
    assert "there is no page 7" in failed.stderr


@pytest.fixture
def flag(tmp_path: Path) -> Path:
    """A soft flag of three colours on white, two of them alike."""
    pixels = np.full((120, 200, 3), 255, np.uint8)
    pixels[20:100, 20:180] = rgb_of_hex("#23262b")
    pixels[35:85, 40:100] = rgb_of_hex("#c9a24b")
    pixels[35:85, 100:160] = rgb_of_hex("#a33e2e")
    path = tmp_path / "flag.png"
    Image.fromarray(cv2.GaussianBlur(pixels, (0, 0), 0.8)).save(path, dpi=(100, 100))
    return path


def fills_of(svg: Path) -> set[str]:
    return {element.get("fill") for element in etree.parse(svg).getroot().iter() if element.get("fill")}


def test_inks_are_counted_listed_and_traced_by_themselves(flag: Path, tmp_path: Path) -> None:
    out, report = tmp_path / "flag.svg", tmp_path / "flag.json"
    done = run("trace", flag, "-o", out, "--report", report, "--enlarge", 1)
    assert (done.returncode, done.stderr) == (0, "")
    inks = {ink["colour"]: ink for ink in json.loads(report.read_text())["inks"]}
    assert [ink["role"] for ink in inks.values()].count("paper") == 1
    expected = {"#ffffff": 0.4667, "#23262b": 0.2833, "#c9a24b": 0.125, "#a33e2e": 0.125}
    for colour, share in expected.items():
        found = pairwise_ciede2000(
            lab_of(np.array([rgb_of_hex(c) for c in inks])), lab_of(np.array([rgb_of_hex(colour)]))
        )
        assert found.min() < 2.0
        assert list(inks.values())[int(found.argmin())]["coverage"] == pytest.approx(share, abs=0.01)
    assert len(fills_of(out)) == 3


@pytest.mark.parametrize(
    ("options", "fills"),
    [
        (["--inks", "3"], 2),
        (["--paper", "none"], 4),
        (["--palette", "{}", "--paper", "#c9a24b"], 2),
        (["--threshold", "120"], 1),
        (["--meet", "flush"], 3),
        (["--keep-paper"], 4),
    ],
)
def test_count_palette_and_paper_say_what_is_drawn(flag: Path, tmp_path: Path, options: list[str], fills: int) -> None:
    palette, out = tmp_path / "three.txt", tmp_path / "out.svg"
    palette.write_text("#ffffff Sheet\n#c9a24b Straw\n#23262b Night\n")
    done = run("trace", flag, "-o", out, *(o.format(palette) for o in options))
    assert (done.returncode, done.stderr) == (0, "")
    drawn = fills_of(out)
    assert len(drawn) == fills
    if "--palette" in options:
        assert drawn == {"#ffffff", "#23262b"}


def test_a_recipe_is_applied_and_options_given_go_before_it(flag: Path, tmp_path: Path, monkeypatch) -> None:
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    counts = {}
    write_recipe(replace(CUT_OUT, name="Mine"), tmp_path / "mine.recipe")
    RecipeBook(tmp_path / "sober-crow" / "recipes").keep(replace(PEN_LETTERING, name="House pen"))
    for recipe, more in (
        ("cut-out", []),
        (tmp_path / "mine.recipe", []),
        ("House pen", []),
        ("Cut-out", ["--inks", 3]),
    ):
        out = tmp_path / "out.svg"
        done = run("trace", flag, "-o", out, "--force", "--recipe", recipe, *more)
        assert (done.returncode, done.stderr) == (0, "")
        counts[str(recipe), bool(more)] = len(fills_of(out))
    assert list(counts.values()) == [3, 3, 1, 2]


def test_several_pictures_go_into_a_folder_with_a_table_and_the_rest_is_told(
    scan: Path, flag: Path, tmp_path: Path
) -> None:
    folder, report = tmp_path / "out", tmp_path / "all.json"
    (tmp_path / "notes.png").write_text("no picture at all")
    done = run("trace", scan, tmp_path / "notes.png", flag, "-o", folder, "--report", report)
    assert done.returncode == 2
    assert "1 of 3 pictures could not be traced. notes.png: " in done.stderr
    assert sorted(path.name for path in folder.iterdir()) == ["flag.svg", "scan.svg"]
    figures = json.loads(report.read_text())
    lines = done.stdout.splitlines()
    assert lines[0].split()[:3] == ["picture", "shapes", "anchors"]
    assert [line.split()[:3] for line in lines[1:]] == [
        [name, str(figures[name]["shapes"]), str(figures[name]["anchors"])] for name in ("scan.png", "flag.png")
    ]
    again = run("trace", scan, flag, "-o", folder)
    assert "2 of 2 pictures could not be traced" in again.stderr
    assert run("trace", scan, flag, "-o", folder, "--force").returncode == 0
    (tmp_path / "copy").mkdir()
    twin = tmp_path / "copy" / "scan.jpg"
    Image.open(scan).save(twin)
    assert "are called “scan”" in run("trace", scan, twin, "-o", folder).stderr
    assert "is a file" in run("trace", scan, flag, "-o", tmp_path / "all.svg").stderr


def test_the_report_has_figures_for_each_ink_and_the_true_shapes(flag: Path, tmp_path: Path) -> None:
    report = tmp_path / "r.json"
    options = ["--report", report, "--enlarge", 1, "--overlap", 1]
    assert run("trace", flag, "-o", tmp_path / "a.svg", *options).returncode == 0
    figures = json.loads(report.read_text())
    drawn = [ink for ink in figures["inks"] if ink["role"] == "ink"]
    assert sum(ink["anchors"] for ink in drawn) == figures["anchors"]
    assert sum(ink["shapes"] for ink in drawn) == figures["shapes"]
    assert max(ink["deviation_max_px"] for ink in drawn) == pytest.approx(figures["deviation_max_px"])
    kinds = [form["kind"] for form in figures["true_shapes"]]
    assert kinds.count("rectangle") >= 2
    assert all(form["deviation_px"] < 0.5 for form in figures["true_shapes"])
    free = run("trace", flag, "-o", tmp_path / "b.svg", "--free", *options)
    assert free.returncode == 0
    assert json.loads(report.read_text())["true_shapes"] == []


@pytest.mark.parametrize(
    ("options", "told"),
    [
        (["--mirror", "left", "--kind", "outlines"], {"symmetric": True}),
        (["--mirror", "top"], {"level": True}),
        (["--solid"], {"paths": 1}),
        (["--backing", "1.5"], {"groups": ["Backing"]}),
        (["--trim", "--join-colours"], {}),
    ],
)
def test_artwork_is_finished_as_asked(flag: Path, tmp_path: Path, options: list[str], told: dict) -> None:
    out = tmp_path / "out.svg"
    done = run("trace", flag, "-o", out, "--free", *options)
    assert (done.returncode, done.stderr) == (0, "")
    root = etree.fromstring(out.read_bytes())
    if "paths" in told:
        assert len(root.findall(".//{*}path")) == told["paths"]
    if "groups" in told:
        assert root.findall("{*}g")[0].get("id") == told["groups"][0]
    grey = np.asarray(
        Image.open(
            io.BytesIO(bytes(resvg_py.svg_to_bytes(svg_string=out.read_text(), background="#ffffff", dpi=300.0)))
        ).convert("L"),
        int,
    )
    ys, xs = np.nonzero(grey < 250)
    part = grey[ys.min() : ys.max() + 1, xs.min() : xs.max() + 1]
    for name, other in (("symmetric", part[:, ::-1]), ("level", part[::-1])):
        if name in told:
            assert np.abs(part - other).mean() < 8.0
    refused = run("trace", flag, "-o", tmp_path / "no.svg", "--backing", "5000")
    assert "from 0 to 100 mm" in refused.stderr


def test_one_picture_is_handed_over_in_several_formats_at_its_size(flag: Path, tmp_path: Path) -> None:
    outputs = [
        argument for suffix in ("svg", "pdf", "dxf", "png", "plt") for argument in ("-o", tmp_path / f"a.{suffix}")
    ]
    size = ("--width", 2, "--unit", "in", "--page", "artwork", "--pixels", 400, "--background", "#F2D096")
    done = run("trace", flag, *outputs, *size)
    assert done.returncode == 0, done.stderr
    assert [line.split()[0] for line in done.stdout.splitlines()] == [
        "file",
        *(f"a.{s}" for s in ("svg", "pdf", "dxf", "png", "plt")),
    ]
    assert etree.parse(tmp_path / "a.svg").getroot().get("width") == "50.8mm"
    assert pypdfium2.PdfDocument(tmp_path / "a.pdf").get_page_size(0)[0] == pytest.approx(144.0)
    image = Image.open(tmp_path / "a.png")
    assert (max(image.size), image.mode) == (400, "RGB")
    piped = run("trace", flag, "-o", "-", *size)
    assert piped.stdout.encode() == (tmp_path / "a.svg").read_bytes()


def test_a_check_prints_a_table_and_its_code_and_sets_and_plates_fill_a_folder(flag: Path, tmp_path: Path) -> None:
    found = run("trace", flag, "--check", "plates", "--page", "10x10")
    assert (found.returncode, found.stderr) == (3, "")
    assert "shapes outside the page" in found.stdout
    made = run("trace", flag, "-o", tmp_path / "for-web", "--set", "for the web", "--width", 40)
    assert made.returncode == 0, made.stderr
    assert sorted(p.name for p in (tmp_path / "for-web").iterdir()) == [
        "flag-large.webp",
        "flag-small.png",
        "flag-web.svg",
    ]
    again = run("trace", flag, "-o", tmp_path / "for-web", "--set", "for the web")
    assert "already there" in again.stderr
    plates = run("trace", flag, "-o", tmp_path / "ink.svg", "--plates")
    assert plates.returncode == 0, plates.stderr
    assert len(list(tmp_path.glob("ink-*.svg"))) >= 2


@pytest.mark.parametrize(
    ("options", "words"),
    [
        (("-o", "a.svg", "--page", "A77"), "There is no page"),
        (("-o", "a.svg", "--unit", "ell"), "There is no unit"),
        (("-o", "a.xyz"), "names no format"),
        (("-o", "a.svg", "--set", "for the web"), "goes into a folder"),
        (("-o", "folder", "--set", "nothing"), "There is no hand-over set"),
        (("--check", "pottery"), "There is no purpose"),
        (("-o", "a.png", "--background", "sky"), "must be none or a colour"),
        (("-o", "a.dxf", "--tolerance-mm", "0"), "Tolerance must lie"),
        (("-o", "-", "-o", "a.svg"), "takes one file"),
        (("-o", "x.pdf", "--ink", "Red"), "four numbers or a name"),
        (("-o", "x.pdf", "--ink", "Red=1 2 3 400"), "100 %"),
        (("-o", "x.pdf", "--profile", "/etc/passwd"), "CMYK profile"),
    ],
)
def test_what_cannot_be_handed_over_is_told_before_anything_is_traced(flag: Path, options: tuple, words: str) -> None:
    done = run("trace", flag, *options)
    assert (done.returncode, done.stdout, done.stderr.count("\n")) == (2, "", 1)
    assert words in done.stderr


def test_projects_are_handed_over_with_all_that_was_done_by_hand(scan: Path, tmp_path: Path) -> None:
    picture = decode_picture(scan.read_bytes(), scan.name)
    artwork = Job(picture).run(Settings()).artwork
    refined = delete_shapes(artwork, range(1, len(artwork.shapes))).artwork
    sheet = Sheet(TrueSize(width_mm=30.0), Page("artwork", margin_mm=2.0))
    for name, kept in (("refined", refined), ("traced", None)):
        project = Project(scan.read_bytes(), scan.name, Settings(), kept, hand_over=HandOver(sheet))
        write_project(project, artwork, tmp_path / f"{name}.sobercrow")
    assert read_project(tmp_path / "refined.sobercrow").hand_over == HandOver(sheet)
    done = run("export", tmp_path / "refined.sobercrow", tmp_path / "traced.sobercrow", "-o", tmp_path / "out")
    assert done.returncode == 0, done.stderr
    roots = [etree.parse(tmp_path / "out" / f"{name}.svg").getroot() for name in ("refined", "traced")]
    counts = [len(list(root.iter("{*}path", "{*}circle", "{*}rect", "{*}ellipse", "{*}line"))) for root in roots]
    assert counts == [1, len(artwork.shapes)]
    assert [root.get("width") for root in roots] == ["34mm", "34mm"]


def test_folders_take_one_format_and_standard_output_any(flag: Path, scan: Path, tmp_path: Path) -> None:
    done = run("trace", flag, scan, "-o", tmp_path / "out", "--format", "dxf")
    assert done.returncode == 0, done.stderr
    assert sorted(path.suffix for path in (tmp_path / "out").iterdir()) == [".dxf", ".dxf"]
    with mock.patch.object(sys, "stdout", io.TextIOWrapper(io.BytesIO())) as out:
        trace = ["sober-crow", "trace", str(flag), "-o", "-", "--format", "png", "--pixels", "64"]
        with mock.patch.object(sys, "argv", trace):
            cli.main()
        image = Image.open(io.BytesIO(out.buffer.getvalue()))
    assert max(image.size) == 64
    plates = run("trace", flag, "-o", tmp_path / "plates.pdf", "--plates")
    assert plates.returncode == 0, plates.stderr
    assert len(pypdfium2.PdfDocument(tmp_path / "plates.pdf")) >= 2


def test_a_project_is_checked_and_its_own_set_written(scan: Path, tmp_path: Path) -> None:
    own = HandOverSet("Mine", (default_part("svg"), default_part("pdf")), "{name} {part}")
    project = Project(scan.read_bytes(), scan.name, Settings(), None, hand_over=HandOver(sets=(own,)))
    write_project(project, None, tmp_path / "word.sobercrow")
    write_set(own, tmp_path / "mine.sobercrow-set")
    for name, folder in ((tmp_path / "mine.sobercrow-set", "a"), ("Mine", "b")):
        done = run("export", tmp_path / "word.sobercrow", "-o", tmp_path / folder, "--set", name)
        assert done.returncode == 0, done.stderr
        assert sorted(path.name for path in (tmp_path / folder).iterdir()) == ["word PDF.pdf", "word SVG.svg"]
    fine = run("export", tmp_path / "word.sobercrow", "--check", "web")
    assert fine.returncode in (0, 3)
    assert ("Nothing stands in the way" in fine.stdout) == (fine.returncode == 0)
    (tmp_path / "broken.sobercrow").write_bytes(b"PK")
    broken = run("export", tmp_path / "broken.sobercrow", tmp_path / "word.sobercrow", "-o", tmp_path / "c")
    assert broken.returncode == 2
    assert "1 of 2 projects could not be handed over. broken.sobercrow:" in broken.stderr
    assert (tmp_path / "c" / "word.svg").exists()


def test_lettering_is_matched_set_anew_and_typefaces_are_listed(tmp_path: Path, monkeypatch) -> None:
    """In a folder with one face of Matplotlib's; ours and those installed are there as well."""
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    monkeypatch.setattr("sobercrow.core.lettering.typefaces.installed_files", list)
    fonts, picture, target = tmp_path / "fonts", tmp_path / "word.png", tmp_path / "word.svg"
    fonts.mkdir()
    shutil.copy(font_manager.findfont("DejaVu Serif", fallback_to_default=False), fonts)
    (fonts / "broken.ttf").write_bytes(b"no typeface")
    Image.fromarray(lettering("Spargel")).save(picture, dpi=(200, 200))
    done = run("match", picture, "--fonts", fonts, "--top", 2, "-o", target)
    assert done.returncode == 0
    rows = done.stdout.splitlines()
    assert rows[1].split()[:4] == ["DejaVu", "Serif", "Book", "Spargel"]
    assert "the same" in rows[1]
    assert "broken.ttf" in done.stderr
    root = etree.parse(target).getroot()
    assert len(root.findall(".//{*}path")) == 7
    rows_of = [lettering(word) for word in ("Spargel", "Kragen")]
    wide = max(one.shape[1] for one in rows_of)
    two = [np.pad(one, ((0, 0), (0, wide - one.shape[1])), constant_values=255) for one in rows_of]
    Image.fromarray(np.vstack(two)).save(tmp_path / "two.png", dpi=(200, 200))
    both = run("match", tmp_path / "two.png", "--fonts", fonts, "--top", 1, "-o", tmp_path / "two.svg")
    assert [row.split()[3] for row in both.stdout.splitlines() if "DejaVu Serif" in row] == ["Spargel", "Kragen"]
    assert len(etree.parse(tmp_path / "two.svg").getroot().findall(".//{*}path")) == 13
    wrong = run("match", picture, "--fonts", fonts, "--text", "Spar")
    assert (wrong.returncode, "4 letters, the lettering 7" in wrong.stderr) == (2, True)
    listed = run("fonts", "list", "--fonts", fonts)
    assert "DejaVu Serif Book" in listed.stdout
    assert "18 styles" in run("fonts", "index", "--fonts", fonts).stdout
    assert run("fonts", "list", "--fonts", tmp_path / "nowhere").returncode == 2


def test_a_fault_of_the_program_itself_is_one_sentence_and_exit_code_70(tmp_path: Path) -> None:
    picture = tmp_path / "a.png"
    Image.fromarray(lettering("a")).save(picture)
    arguments = ("trace", picture, "-o", tmp_path / "a.svg")
    with mock.patch.object(Job, "run", side_effect=IndexError("within")):
        done, telling = run(*arguments), run(*arguments, "--debug")
    assert (done.returncode, done.stderr.count("\n")) == (70, 1)
    assert "IndexError" in done.stderr
    assert "--debug" in done.stderr
    assert "Traceback" in telling.stderr
    assert not (tmp_path / "a.svg").exists()


def test_a_coloured_pencil_is_left_out_and_the_report_says_so(tmp_path: Path) -> None:
    sheet = np.full((240, 320, 3), 245, np.uint8)
    sheet[60:66, 30:290] = (110, 160, 215)
    sheet[30:210, 150:156] = 60
    picture, report = tmp_path / "pencils.png", tmp_path / "r.json"
    Image.fromarray(sheet).save(picture, dpi=(200, 200))
    counts = []
    for n, options in enumerate(((), ("--leave-out", "#6EA0D7"))):
        done = run("trace", picture, "-o", tmp_path / f"{n}.svg", "--report", report, "--threshold", 225, *options)
        assert (done.returncode, done.stderr) == (0, "")
        figures = json.loads(report.read_text())
        assert ("coloured pencil left out" in figures["done"]) == bool(options)
        counts.append(figures["anchors"])
    assert counts[0] > 8
    assert counts[1] == 4
    refused = run("trace", picture, "-o", tmp_path / "c.svg", "--leave-out", "blue")
    assert refused.returncode == 2
    assert "like #5b8fc2, not “blue”" in refused.stderr


def test_a_rough_sketch_is_drawn_as_one_line_and_the_report_tells_what_it_held(tmp_path: Path) -> None:
    picture, out, told = PICTURES / "pencil-sketch.png", tmp_path / "bird.svg", tmp_path / "report.json"
    options = ("--shading", "layer", "--working-lines", "draw", "--report", told)
    assert run("trace", picture, "-o", out, *options).returncode == 0
    report = json.loads(told.read_text())
    assert (report["sketch"]["working_lines"], report["sketch"]["patches_of_shading"]) == (5, 1)
    assert 0.2 < report["sketch"]["strays_mm"] < 1.2
    assert sorted(report["sketch"]["strokes_of_lines"])[-1] > 10
    assert sum(report["sketch"]["strokes_of_lines"]) >= report["sketch"]["strokes"]
    assert "Shading" in out.read_text()
    swelling = ("--follow-pen", "--keep-apart", 80)
    assert run("trace", picture, "-o", out, "--force", *swelling).returncode == 0
    assert "stroke-width" not in out.read_text()
    assert run("trace", picture, "-o", out, "--force", "--strays", "0.1", "--report", told).returncode == 0
    assert json.loads(told.read_text())["anchors"] > report["anchors"]
    refused = run("trace", picture, "-o", out, "--force", "--strays", 9)
    assert "Strays must lie between 0.02 and 3 mm" in refused.stderr


def test_pdf_is_written_in_the_colours_of_a_press_and_unknown_inks_are_told(flag: Path, tmp_path: Path) -> None:
    inks = [ink["name"] for ink in _report_of(flag, tmp_path)["inks"] if ink["role"] == "ink"]
    out = tmp_path / "flag.pdf"
    done = run("trace", flag, "-o", out, "--ink", f"{inks[0]}=Flag red, 0 82 90 12")
    assert done.returncode == 0, done.stderr
    data = out.read_bytes()
    assert b"/GTS_PDFX" in data
    assert b"/Flag#20red" in data
    lost = run("trace", flag, "-o", tmp_path / "other.pdf", "--ink", "Nothing=0 82 90 12")
    assert lost.returncode == 2
    assert inks[0] in lost.stderr
    assert not (tmp_path / "other.pdf").exists()


def _report_of(picture: Path, folder: Path) -> dict:
    run("trace", picture, "-o", folder / "it.svg", "--report", folder / "it.json")
    return json.loads((folder / "it.json").read_text())
