"""Faults of the program itself: told in the gauge, with a report to be saved; later work goes on."""

from __future__ import annotations

import sys
from pathlib import Path

from PIL import Image
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from drawings import disc
from sobercrow.desktop.faults import Faults


def test_a_fault_of_the_worker_is_told_and_its_report_saved(opened, qtbot, tmp_path: Path, monkeypatch) -> None:
    picture = tmp_path / "disc.png"
    Image.fromarray(disc(96, 48.0, 48.0, 30.0)).save(picture)
    window = opened(picture)
    before = window.document.artwork

    def fail(*_: object) -> None:
        raise IndexError("never to be shown")

    window.document.requests.worker.submit(fail)
    qtbot.waitUntil(window.gauge.offered.isVisible)
    assert window.gauge.message.text().startswith("Something went wrong within Sober Crow (IndexError)")
    assert window.document.artwork is before
    chosen = tmp_path / "report.txt"
    monkeypatch.setattr(window.files, "_ask_name", lambda _title, _suffix: chosen)
    QTest.mouseClick(window.gauge.offered, Qt.MouseButton.LeftButton)
    report = chosen.read_text()
    assert "in fail" in report
    assert "never to be shown" not in report
    assert not window.gauge.offered.isVisible()


def test_what_nothing_catches_on_the_windows_thread_is_taken(monkeypatch) -> None:
    monkeypatch.setattr(sys, "excepthook", sys.excepthook)
    faults, told = Faults(lambda: "Crop"), []
    faults.happened.connect(told.append)
    faults.install()
    try:
        raise ZeroDivisionError
    except ZeroDivisionError as fault:
        sys.excepthook(type(fault), fault, fault.__traceback__)
    assert told == ["Something went wrong within Sober Crow (ZeroDivisionError); your work is as it was before."]
    assert "Last: Crop" in faults.report
