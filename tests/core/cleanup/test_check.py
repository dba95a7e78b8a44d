from __future__ import annotations

import numpy as np
import pytest

from cleanup_scenes import drawn_sheet, on_dim_paper, photographed, through_jpeg, turned
from drawings import lettering, picture
from sobercrow.core.cleanup.check import Fault, Finding, is_mended, mend, what_was_done
from sobercrow.core.job import Job
from sobercrow.core.picture.decode import read_picture
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import BringIn, CleanUp, PictureKind, Settings
from sobercrow.demo.make import PICTURES


def page() -> np.ndarray:
    return np.vstack([np.pad(lettering("Kites for every wind", 60)[:, :700], ((0, 0), (0, 0)))] * 4)


def found(source: Picture, settings: Settings | None = None) -> dict[Fault, Finding]:
    return {f.fault: f for f in Job(source).check(settings or Settings())}


SPOILT = {
    Fault.LIGHT: (lambda: Picture(on_dim_paper(page(), 4), 300.0), r"falls off by \d+ %", "Even out"),
    Fault.TURN: (lambda: picture(turned(page(), 1.8)), r"^Turned by 1\.[789]°\.$", "Straighten"),
    Fault.SIZE: (lambda: picture(lettering("Fen", 60)), r"^Only \d+ px across\.$", r"Enlarge \d ×"),
    Fault.DIRT: (lambda: picture(through_jpeg(np.repeat(page()[..., None], 3, 2), 15)[..., 0]), "dirt along", "Smooth"),
    Fault.CONTRAST: (lambda: picture((page() // 4 + 150).astype(np.uint8)), "63 levels apart", "Stretch tones"),
    Fault.SLANT: (lambda: Picture(photographed(drawn_sheet(3, 1.4), 8)[0], 300.0), "at a slant", "Undo slant"),
    Fault.RESOLUTION: (lambda: Picture(picture(page()).pixels, 300.0, False), "300 dpi is assumed", "Set true size"),
}


@pytest.mark.parametrize("fault", SPOILT)
def test_what_stands_in_the_way_is_said_and_mended_by_its_action(fault: Fault) -> None:
    make, sentence, action = SPOILT[fault]
    source = make()
    scanned = Settings(clean_up=CleanUp(PictureKind.SCAN))
    finding = found(source, scanned)[fault]
    if fault in (Fault.DIRT, Fault.CONTRAST):
        assert fault not in found(source)  # there is no grain: it is a digital graphic, which is left as it is
    import re

    assert re.search(sentence, finding.sentence)
    assert re.search(action, finding.action)
    untouched = Settings(clean_up=CleanUp(PictureKind.SCAN, off=("light", "smooth", "levels")))
    assert not is_mended(untouched, finding)
    if fault is Fault.RESOLUTION:
        assert is_mended(Settings(BringIn(200.0)), finding)
        return
    mended = mend(untouched, finding, source)
    if fault in (Fault.TURN, Fault.SLANT):
        assert fault not in found(source, mended)
    else:
        assert is_mended(mended, finding)


def test_a_clean_page_has_nothing_in_the_way() -> None:
    assert found(picture(page())) == {}


@pytest.mark.parametrize(
    ("name", "faults"),
    [
        ("badge-photo.jpg", {Fault.SLANT, Fault.RESOLUTION}),
        ("badge-200.jpg", {Fault.SIZE, Fault.RESOLUTION}),
        ("brush-lettering.jpg", {Fault.LIGHT, Fault.RESOLUTION}),
        ("pen-lettering.png", {Fault.LINES}),
        ("pencil-sketch.png", {Fault.LINES}),
        ("tints.png", set()),
        ("kite-drawing.png", set()),
    ],
)
def test_the_demo_pictures_show_what_was_done_to_them(name: str, faults: set[Fault]) -> None:
    assert set(found(read_picture(PICTURES / name))) == faults


def test_a_report_says_what_was_done() -> None:
    source = Picture(on_dim_paper(page(), 4), 300.0)
    settings = CleanUp(quarter_turns=1, angle_deg=1.5, enlarge=2)
    done = what_was_done(settings, Job(source).run(Settings(clean_up=settings)).sheet)
    assert done[:2] == ["turned", "straightened by 1.50°"]
    assert any("fell off by" in d for d in done)
    assert done[-1] == "enlarged 2 ×"
