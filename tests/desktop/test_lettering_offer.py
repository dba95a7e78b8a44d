"""Small lettering of a low-quality mark: offered in the picture check, set anew by one click, undone by one undo."""

from __future__ import annotations

from PySide6.QtCore import Qt

from sobercrow.core.artwork.tree import lettered_group
from sobercrow.core.lettering.typefaces import LIBRARY
from sobercrow.demo.make import PICTURES
from sobercrow.desktop.lettering_offer import LetteringOffer
from sobercrow.desktop.steps import Step


def test_lettering_of_a_small_badge_is_set_anew(qtbot, empty_window, monkeypatch) -> None:
    window = empty_window
    monkeypatch.setattr(LetteringOffer, "looks", True)
    window.typefaces.files = lambda: [LIBRARY / "texgyreadventor-bold.otf", LIBRARY / "lobster.otf"]
    window.files.open_path(PICTURES / "badge-200.jpg")
    qtbot.waitUntil(lambda: window.offer.found is not None, timeout=120_000)
    assert window.offer.found.match.text == "FEN & FETLOCK KITES"
    assert window.offer.found.match.face.name == "TeX Gyre Adventor Bold"
    window.go_to(Step.CLEAN_UP)
    traced = window.document.artwork
    made = window.clean_panel.check.set_anew
    assert made is not None
    qtbot.mouseClick(made, Qt.MouseButton.LeftButton)
    artwork = window.document.artwork
    assert lettered_group(artwork, window.document.choice.shapes) is not None
    assert len(artwork.shapes) == len(traced.shapes)  # a shape for each letter
    assert window.offer.found is None
    window.document.undo()
    assert window.document.artwork is traced
