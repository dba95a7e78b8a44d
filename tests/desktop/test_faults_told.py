"""Faults of the program itself: told in the gauge, with a report to be saved; later work goes on."""

from __future__ import annotations

import sys
from dataclasses import replace
from pathlib import Path

from PIL import Image
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from drawings import disc
from sobercrow.core.tracing import budget
from sobercrow.demo.tour import wait_until_done
from sobercrow.desktop.faults import Faults
from sobercrow.desktop.steps import Step


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


def test_what_is_mostly_grain_is_told_of_and_traced_anyway_by_the_button_beside_it(window, qtbot, monkeypatch) -> None:
    document, before = window.document, window.document.artwork
    monkeypatch.setattr(budget, "MOST_POINTS", 10)
    settings = document.state.settings
    calmer = replace(settings, tracing=replace(settings.tracing, detail=11.0))
    document.change_settings("Set detail", calmer)
    qtbot.waitUntil(window.gauge.offered.isVisible)
    assert "it is mostly grain" in window.gauge.message.text()
    assert (window.gauge.offered.text(), document.artwork) == ("Trace it anyway", before)
    QTest.mouseClick(window.gauge.offered, Qt.MouseButton.LeftButton)
    wait_until_done(window)
    assert document.state.settings.tracing.anyway
    assert document.artwork != before
    window.go_to(Step.TRACE)
    window.panels[Step.TRACE].fine.head.click()
    assert window.panels[Step.TRACE].anyway.isVisible()
    document.undo()
    assert not document.state.settings.tracing.anyway
