from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import pytest
from lxml import etree
from PIL import Image

from drawings import lettering


def run(*arguments: object) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "sobercrow", *map(str, arguments)],
        capture_output=True,
        text=True,
        timeout=240,
        check=False,
    )


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
}


@pytest.mark.parametrize("case", BAD)
def test_errors_are_one_sentence_and_leave_no_file(scan: Path, tmp_path: Path, case: str) -> None:
    (tmp_path / "notes.png").write_text("no picture at all")
    arguments, words = BAD[case]
    out = tmp_path / "out.svg"
    done = run("trace", tmp_path / arguments[0], *arguments[1:], "-o", out)
    assert done.returncode == 2
    assert words in done.stderr
    assert done.stderr.count("\n") == 1
    assert "Traceback" not in done.stderr
    assert not out.exists()


def test_a_file_that_is_there_is_only_replaced_when_told_to(scan: Path, tmp_path: Path) -> None:
    out = tmp_path / "out.svg"
    out.write_text("mine")
    assert run("trace", scan, "-o", out).returncode == 2
    assert out.read_text() == "mine"
    assert run("trace", scan, "-o", out, "--force").returncode == 0
    assert out.read_text() != "mine"
