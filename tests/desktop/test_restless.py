"""A hundred random things done in the window: nothing fails, no number is none. `bench/restless.py` does thousands."""

from __future__ import annotations

import random
import sys
import warnings

import pytest
from PySide6.QtGui import QDrag
from PySide6.QtWidgets import QColorDialog, QDialog, QFileDialog, QInputDialog, QMenu

from restless import RestlessHand
from sobercrow.desktop.window import MainWindow


@pytest.fixture
def seed(request: pytest.FixtureRequest, monkeypatch) -> int:
    """A fresh seed; what the hand puts in the place of dialogs is put back after it."""
    for kind, names in (
        (QDialog, ["exec"]),
        (QFileDialog, ["exec", "getOpenFileName", "getSaveFileName", "getOpenFileNames", "getExistingDirectory"]),
        (QColorDialog, ["getColor"]),
        (QInputDialog, ["getText"]),
        (QDrag, ["exec"]),
        (QMenu, ["exec"]),
    ):
        for name in names:
            monkeypatch.setattr(kind, name, getattr(kind, name))
    monkeypatch.setattr(sys, "excepthook", sys.excepthook)
    monkeypatch.setattr(warnings, "showwarning", warnings.showwarning)
    chosen = random.SystemRandom().randrange(10**6)
    print(f"seed {chosen}")
    return chosen


def test_a_hundred_random_actions_fail_nowhere(window: MainWindow, seed: int) -> None:
    hand = RestlessHand(window, seed)
    hand.act(100)
    hand._leaving.stop()
    assert hand.faults == [], f"seed {seed}, after {hand.done[-5:]}"
