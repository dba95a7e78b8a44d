from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from drawings import lettering
from sobercrow.core.cleanup.check import Fault
from sobercrow.core.cleanup.find_sheet import find_sheet
from sobercrow.core.cleanup.slant import proportions
from sobercrow.core.errors import Cancelled, PictureError, SettingError
from sobercrow.core.job import Job
from sobercrow.core.picture.decode import decode_picture
from sobercrow.core.picture.devices import Region, ScanMode, ScanRequest
from sobercrow.core.settings import Settings
from sobercrow.stand_ins.camera import SimulatedCamera
from sobercrow.stand_ins.scanner import MARGIN_MM, SimulatedScanner


@pytest.fixture
def scanner(tmp_path: Path) -> SimulatedScanner:
    """The scanner with a sheet of 60 × 40 mm on it that has a bar of 30 × 10 mm in its middle."""
    path = tmp_path / "bar.png"
    sheet = np.full((400, 600), 240, np.uint8)
    sheet[150:250, 150:450] = 30
    Image.fromarray(sheet).save(path, dpi=(254, 254))
    made = SimulatedScanner(wait=lambda _seconds: None)
    made.lay_file(path)
    return made


@pytest.mark.parametrize("dpi", [75, 150, 300, 600])
def test_a_scan_has_its_true_resolution_and_size(scanner: SimulatedScanner, dpi: int) -> None:
    region = Region(MARGIN_MM, MARGIN_MM, 60.0, 40.0)
    told: list[float] = []
    picture = scanner.scan(ScanRequest(region, dpi), told.append)
    assert picture.dpi == dpi
    assert (picture.width, picture.height) == (round(60 / 25.4 * dpi), round(40 / 25.4 * dpi))
    dark = (picture.grey() < 135).sum()
    assert dark == pytest.approx(30 * 10 * (dpi / 25.4) ** 2, rel=0.03)
    assert told == sorted(told)
    assert (told[0], told[-1]) == (0.0, 1.0)


def test_the_preview_shows_the_whole_bed(scanner: SimulatedScanner) -> None:
    preview = scanner.preview()
    assert preview.width / preview.height == pytest.approx(210 / 297, rel=0.01)
    rows, columns = np.nonzero(preview.grey() < 135)
    assert columns.min() / preview.dpi * 25.4 == pytest.approx(MARGIN_MM + 15, abs=0.6)
    assert rows.min() / preview.dpi * 25.4 == pytest.approx(MARGIN_MM + 15, abs=0.6)


@pytest.mark.parametrize(("mode", "tones"), [(ScanMode.BLACK_AND_WHITE, 2), (ScanMode.GREY, 30)])
def test_modes_tell_apart_what_they_say(scanner: SimulatedScanner, mode: ScanMode, tones: int) -> None:
    pixels = scanner.scan(ScanRequest(None, 75, mode), lambda _share: None).pixels
    assert np.ptp(pixels, axis=2).max() == 0
    assert (len(np.unique(pixels)) == 2) == (tones == 2)


def test_a_scan_can_be_stopped_in_the_middle(scanner: SimulatedScanner) -> None:
    def stop(share: float) -> None:
        if share > 0.4:
            raise Cancelled("The scan was stopped.")

    with pytest.raises(Cancelled):
        scanner.scan(ScanRequest(), stop)
    assert scanner.scan(ScanRequest(dpi=75), lambda _share: None).width > 0


def test_nonsense_is_refused_in_a_sentence(scanner: SimulatedScanner) -> None:
    with pytest.raises(SettingError, match="Resolution must lie between 75 and 600 dpi"):
        ScanRequest(dpi=30)
    with pytest.raises(SettingError, match="empty"):
        Region(0, 0, 0, 10)
    with pytest.raises(PictureError, match="beside the scanner's bed"):
        scanner.scan(ScanRequest(Region(500, 0, 10, 10)), lambda _share: None)


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_the_camera_sees_the_sheet_slanted_and_in_uneven_light(seed: int, tmp_path: Path) -> None:
    path = tmp_path / "word.png"
    word = np.full((500, 700), 250, np.uint8)
    drawn = lettering("Fetlock", 90)
    word[150 : 150 + drawn.shape[0], 120 : 120 + drawn.shape[1]] = drawn
    Image.fromarray(word).save(path)
    camera = SimulatedCamera(seed)
    camera.lay_file(path)
    photo, data = camera.shoot()
    assert np.array_equal(decode_picture(data, "photo").pixels, photo.pixels)
    corners = find_sheet(photo.pixels)
    assert corners is not None
    assert proportions(corners, photo.width, photo.height) == pytest.approx(1.4, rel=0.01)
    faults = {f.fault for f in Job(photo).check(Settings())}
    assert {Fault.SLANT, Fault.RESOLUTION} <= faults
    again, _ = camera.shoot()
    assert not np.array_equal(again.pixels, photo.pixels)
