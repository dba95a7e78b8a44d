from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from lxml import etree

from sobercrow.core.job import Job
from sobercrow.core.picture.decode import read_picture
from sobercrow.core.settings import Settings
from sobercrow.demo import make, tour

NAMES = sorted(p.name for p in make.PICTURES.iterdir())


def test_there_are_nine_pictures_of_modest_size() -> None:
    assert len(NAMES) == 9
    assert all((make.PICTURES / name).stat().st_size < 1_500_000 for name in NAMES)


@pytest.mark.parametrize("name", NAMES)
def test_every_demo_picture_becomes_artwork_close_to_its_drawing(name: str) -> None:
    results = Job(read_picture(make.PICTURES / name)).run(Settings())
    assert results.artwork.shapes
    judged_by_file = name == "badge-200.jpg"  # its borders are those of a picture that was made
    assert results.figures.deviation_mean_px < (0.25 if judged_by_file else 0.2)


@pytest.mark.skipif(
    not make.RING_FACE.exists() or not make.BRUSH_FACE.exists(), reason="the typefaces are not installed"
)
def test_the_script_makes_the_committed_pictures_again(tmp_path: Path) -> None:
    make.main(tmp_path)
    for name in NAMES:
        made, kept = read_picture(tmp_path / name).pixels, read_picture(make.PICTURES / name).pixels
        assert np.abs(made.astype(int) - kept).mean() < 1.0


def test_the_tour_leaves_artwork_and_a_picture_of_the_window(tmp_path: Path, qapp, capsys) -> None:
    tour.main(tmp_path)
    root = etree.parse(tmp_path / "pen-lettering.svg").getroot()
    assert root.get("width") == "152.4mm"
    assert (tmp_path / "window.png").stat().st_size > 10_000
    assert str(tmp_path / "pen-lettering.svg") in capsys.readouterr().out
