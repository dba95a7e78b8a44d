"""The parts of the window by themselves."""

from __future__ import annotations

import threading

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QColor, QImage, QPainter
from PySide6.QtTest import QTest

from drawings import lettering, picture
from sobercrow.core.artwork.hit import union_box
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.errors import PictureError
from sobercrow.core.settings import Meaning
from sobercrow.core.stopping import go_on
from sobercrow.demo.tour import wait_until_done
from sobercrow.desktop.camera import Camera
from sobercrow.desktop.controls import NumberField
from sobercrow.desktop.faults import Faults
from sobercrow.desktop.histogram import Histogram, Mark
from sobercrow.desktop.paths import shape_path
from sobercrow.desktop.presentation import Pyramid, artwork_thumbnail, grey_image, ink_image, rgb_image
from sobercrow.desktop.steps import Step, key_figure
from sobercrow.desktop.theme import ASSETS, icon
from sobercrow.desktop.tokens import DARK, LIGHT, MOST_ZOOM
from sobercrow.desktop.tools.crop import crop_grips
from sobercrow.desktop.worker import Worker

POINTS = st.floats(-1e4, 1e4)


@given(POINTS, POINTS, st.floats(0.05, 60), st.floats(0, 800), st.floats(0, 600))
def test_camera_goes_from_screen_to_picture_and_back(x: float, y: float, zoom: float, sx: float, sy: float) -> None:
    camera = Camera(x, y, zoom)
    assert camera.to_screen(*camera.to_picture(sx, sy, 800, 600), 800, 600) == pytest.approx((sx, sy), abs=1e-6)


@given(st.floats(0.1, 10), st.floats(0, 800), st.floats(0, 600))
def test_zooming_keeps_the_place_under_the_pointer(factor: float, sx: float, sy: float) -> None:
    before = Camera(50, 60, 2.0)
    after = before.zoomed(factor, sx, sy, 800, 600)
    assert after.to_picture(sx, sy, 800, 600) == pytest.approx(before.to_picture(sx, sy, 800, 600))
    assert before.zoomed(1e9, sx, sy, 800, 600).zoom == MOST_ZOOM


def test_panning_moves_the_picture_with_the_pointer() -> None:
    camera = Camera(10, 20, 4.0)
    assert camera.panned(8, -4).to_screen(10, 20, 800, 600) == (408, 296)


@pytest.mark.parametrize("box", [(0, 0, 100, 100), (10, -5, 2000, 40), (3, 3, 3.01, 900)])
def test_fitting_shows_the_whole_box(box: tuple[float, float, float, float]) -> None:
    camera = Camera.fitting(box, 800, 600)
    left, top = camera.to_screen(box[0], box[1], 800, 600)
    right, bottom = camera.to_screen(box[2], box[3], 800, 600)
    assert left >= 0
    assert top >= 0
    assert right <= 800
    assert bottom <= 600


METER = Meaning("Weight", "Makes the line thicker.", 0, 5, "px", 0.1, 2)


@pytest.fixture
def field(qtbot) -> NumberField:
    made = NumberField(METER)
    qtbot.addWidget(made)
    made.resize(280, 80)
    made.show()
    return made


def test_a_number_is_typed_dragged_stepped_and_reset(field: NumberField, qtbot) -> None:
    seen: list[float] = []
    field.changed.connect(seen.append)
    field.box.selectAll()
    QTest.keyClicks(field.box, "2.5")
    QTest.keyClick(field.box, Qt.Key.Key_Return)
    assert seen == [2.5]
    QTest.mouseClick(
        field.slide, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(field.slide.width() - 7, 8)
    )
    assert seen[-1] == 5.0
    QTest.keyClick(field.slide, Qt.Key.Key_Left)
    assert seen[-1] == pytest.approx(4.9)
    field.show_value(4.9, automatic=False)
    with qtbot.waitSignal(field.reset):
        QTest.mouseClick(field.back, Qt.MouseButton.LeftButton)


def test_showing_a_value_tells_nobody_and_has_its_unit(field: NumberField) -> None:
    seen: list[float] = []
    field.changed.connect(seen.append)
    field.show_value(1.25, automatic=True, note="0.1 mm.")
    assert seen == []
    assert field.box.text() == "1.25 px"
    assert field.box.lineEdit().width() > 40  # there is room for the text
    assert field.slide.share == pytest.approx(0.25)
    assert not field.back.isEnabled()
    assert field.note.text() == "0.1 mm."


def test_marks_of_a_histogram_follow_the_nearest_pointer_and_the_keys(qtbot) -> None:
    histogram = Histogram("Tones")
    qtbot.addWidget(histogram)
    histogram.resize(272, 116)
    histogram.show()
    seen: list[tuple[str, float]] = []
    histogram.dragged.connect(lambda name, tone: seen.append((name, tone)))
    histogram.show_tones(np.ones(256), [Mark("black", 20, "#000000"), Mark("white", 230, "#ffffff")])
    QTest.mouseClick(histogram, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, QPoint(8 + 200, 40))
    assert seen == [("white", pytest.approx(199, abs=1.5))]
    QTest.keyClick(histogram, Qt.Key.Key_Right)
    assert seen[-1] == ("white", 231)


def test_the_newest_request_wins_and_older_ones_are_told(qtbot) -> None:
    worker = Worker()
    started, told = threading.Event(), []

    def slow(give, _report) -> None:
        started.set()
        try:
            while True:
                go_on()
        finally:
            told.append("overtaken")
            give("old")

    got: list[object] = []
    worker.produced.connect(lambda _number, result: got.append(result))
    worker.submit(slow)
    assert started.wait(5)
    with qtbot.waitSignal(worker.produced, timeout=5000):
        worker.submit(lambda give, _report: give("new"))
    assert (told, got) == (["overtaken"], ["new"])
    worker.close()


@pytest.mark.parametrize(
    ("fault", "words"),
    [(PictureError("It is torn."), "It is torn."), (MemoryError(), "not enough memory"), (KeyError("x"), "KeyError")],
)
def test_faults_in_the_worker_become_sentences_and_it_goes_on(qtbot, fault: Exception, words: str) -> None:
    worker, faults = Worker(), Faults(lambda: "")
    worker.broke.connect(faults.take)
    is_ours = isinstance(fault, PictureError)

    def fail(*_: object) -> None:
        raise fault

    with qtbot.waitSignal(worker.failed if is_ours else faults.happened, timeout=5000) as caught:
        worker.submit(fail)
    assert words in caught.args[-1]
    with qtbot.waitSignal(worker.produced, timeout=5000):
        worker.submit(lambda give, _report: give(1))
    worker.close()


def test_images_show_the_pixels_they_were_made_of(qapp) -> None:
    pixels = np.random.default_rng(2).integers(0, 256, (7, 5, 3), dtype=np.uint8)
    image = rgb_image(pixels)
    colour = image.pixelColor(3, 4)
    assert (colour.red(), colour.green(), colour.blue()) == tuple(pixels[4, 3])
    tones = grey_image(pixels[..., 0])
    ink = ink_image(tones, 100)
    for y, x in np.ndindex(7, 5):
        assert tones.pixelColor(x, y).red() == pixels[y, x, 0]
        assert ink.pixelColor(x, y).red() == (0 if pixels[y, x, 0] <= 100 else 255)


def test_a_pyramid_gives_the_level_that_is_just_large_enough(qapp) -> None:
    pyramid = Pyramid(np.full((1600, 2000, 3), 77, np.uint8))
    assert [level.width() for level in pyramid.levels] == [2000, 1000, 500]
    assert pyramid.at(1.0).width() == 2000
    assert pyramid.at(0.5).width() == 1000
    assert pyramid.at(0.3).width() == 1000
    assert pyramid.at(0.01).width() == 500


def test_paths_fill_what_the_picture_shows(artwork: Artwork, qapp) -> None:
    image = QImage(int(artwork.width_px), int(artwork.height_px), QImage.Format.Format_RGB32)
    image.fill(QColor("white"))
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for shape in artwork.shapes:
        painter.fillPath(shape_path(shape), QColor(shape.fill))
    painter.end()
    shown = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.width(), 4)[..., 0]
    assert np.abs(shown.astype(float) - lettering("Rope")).mean() < 1.0


@pytest.mark.parametrize("outline", [True, False])
def test_thumbnails_fit_their_cards(artwork: Artwork, outline: bool, qapp) -> None:
    image = artwork_thumbnail(artwork, outline)
    assert image.width() <= 220
    assert image.height() <= 132
    assert image.width() / image.height() == pytest.approx(artwork.width_px / artwork.height_px, rel=0.03)


def test_every_icon_is_there_and_follows_the_theme(qapp) -> None:
    names = sorted(p.stem for p in (ASSETS / "icons").glob("*.svg"))
    assert {"choose", "anchors", "seam", "peek"} <= set(names)
    for name in names:
        image = icon(name).pixmap(40, 40).toImage()
        assert any(image.pixelColor(x, y).alpha() > 100 for x in range(40) for y in range(40))


def _luminance(colour: str) -> float:
    channels = [int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5)]
    linear = [c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4 for c in channels]
    return float(np.dot(linear, (0.2126, 0.7152, 0.0722)))


@pytest.mark.parametrize("theme", [LIGHT, DARK])
def test_text_stands_out_from_what_it_stands_on(theme) -> None:
    # contrast as in WCAG 2.1, success criterion 1.4.3: at least 4.5 : 1
    pairs = [
        (theme.text, theme.panel),
        (theme.text, theme.rail),
        (theme.text, theme.field),
        (theme.muted, theme.panel),
        (theme.muted, theme.rail),
        (theme.on_accent, theme.accent),
        (theme.text, theme.accent_soft),
        (theme.rust, theme.panel),
    ]
    for front, back in pairs:
        high, low = sorted((_luminance(front), _luminance(back)), reverse=True)
        assert (high + 0.05) / (low + 0.05) >= 4.5, (front, back)


@pytest.mark.parametrize("theme", [LIGHT, DARK])
def test_marks_stand_out_from_what_they_lie_on(theme) -> None:
    # contrast as in WCAG 2.2, success criterion 1.4.11: at least 3 : 1
    grounds = {
        "accent": (theme.panel, theme.rail, theme.field, theme.accent_soft),
        "muted": (theme.panel, theme.rail, theme.field),
        "mark": (theme.page, theme.desk),
        "warning_mark": (theme.page, theme.desk),
    }
    for name, backs in grounds.items():
        for back in backs:
            high, low = sorted((_luminance(getattr(theme, name)), _luminance(back)), reverse=True)
            assert (high + 0.05) / (low + 0.05) >= 3.0, (name, back)


def test_grips_lie_on_the_edges_they_move(qapp) -> None:
    from PySide6.QtCore import QRectF

    kept = QRectF(10, 20, 300, 200)
    grips = crop_grips(kept)
    assert grips["left"].x1() == grips["left"].x2() == kept.left()
    assert grips["bottom"].y1() == grips["bottom"].y2() == kept.bottom()


def test_the_box_around_shapes_holds_them_all(artwork: Artwork) -> None:
    box = union_box(artwork.shapes)
    bounds = np.array([s.bounds() for s in artwork.shapes])
    assert box == pytest.approx((*bounds[:, :2].min(axis=0), *bounds[:, 2:].max(axis=0)))
    assert union_box(()) is None


def test_cards_have_a_key_figure_each(window) -> None:
    figures = {step: key_figure(step, window.document) for step in Step}
    assert figures[Step.BRING_IN] == "300 dpi · 152 × 54 mm"
    assert figures[Step.TRACE] == f"{window.document.artwork.anchor_count} anchors"
    assert figures[Step.HAND_OVER] == "SVG · 152 × 54 mm"
    assert all(len(figure) < 26 for figure in figures.values())


def test_every_control_is_named_for_screen_readers_and_reached_by_keys(window) -> None:
    from PySide6.QtWidgets import QAbstractButton, QAbstractSpinBox, QLineEdit

    for step in Step:
        window.go_to(step)
        body = window.panels[step].column
        parts = body.findChildren(QAbstractButton) + body.findChildren(QAbstractSpinBox)
        parts += [p for p in body.findChildren(QLineEdit) if not isinstance(p.parent(), QAbstractSpinBox)]
        assert parts
        for part in parts:
            assert part.accessibleName(), part
            assert part.toolTip() or isinstance(part, QLineEdit)
            assert part.focusPolicy() & Qt.FocusPolicy.TabFocus


def test_a_pasted_picture_counts_as_brought_in(empty_window) -> None:
    empty_window.document.open_picture(picture(lettering("Fen")), b"kept bytes")
    wait_until_done(empty_window)
    assert empty_window.document.source.name == "test.png"
    assert not empty_window.document.is_changed


def test_a_part_of_a_panel_folds_away_and_keeps_its_heading(qtbot) -> None:
    from PySide6.QtWidgets import QLabel

    from sobercrow.desktop.controls import Fold

    fold = Fold("Sheet", QLabel("inside"), open_=True)
    qtbot.addWidget(fold)
    fold.show()
    assert fold.body.isVisible()
    QTest.mouseClick(fold.head, Qt.MouseButton.LeftButton)
    assert not fold.body.isVisible()
    assert fold.head.text() == "Sheet"
    QTest.keyClick(fold.head, Qt.Key.Key_Space)
    assert fold.body.isVisible()


def test_without_devices_nothing_offers_to_scan(qtbot, tmp_path) -> None:
    from PySide6.QtCore import QSettings

    from sobercrow.desktop.window import MainWindow

    window = MainWindow(QSettings(str(tmp_path / "p.ini"), QSettings.Format.IniFormat))
    window.show()
    assert not {"scan", "photo"} & set(window.menus.actions)
    assert not window.start.scanner.isVisible()
    assert not window.start.camera.isVisible()
    window.end_work()
    window.hide()
    window.deleteLater()


def test_the_magnifier_shows_the_place_under_the_pointer_four_times_larger(window) -> None:
    from PySide6.QtCore import QPointF

    from sobercrow.desktop.canvas.overlays import MAGNIFIED, paint_magnifier

    canvas = window.canvas
    seen = []
    for zoom in (0.5, 3.0):
        canvas.set_camera(Camera(400, 250, zoom))
        seen.clear()
        image = QImage(canvas.size(), QImage.Format.Format_RGB32)
        painter = QPainter(image)
        at = QPointF(300.0, 200.0)
        scene = canvas.scene()
        paint_magnifier(painter, scene, at, lambda _painter, shown: seen.append(shown.camera))
        painter.end()
        under = canvas.camera.to_picture(at.x(), at.y(), canvas.width(), canvas.height())
        x, y = seen[0].to_screen(*under, canvas.width(), canvas.height())
        assert seen[0].zoom == zoom * MAGNIFIED
        assert 20 < np.hypot(x - at.x(), y - at.y()) < 160  # beside the pointer, not over it
        assert 0 <= x <= canvas.width()
        assert 0 <= y <= canvas.height()


def test_a_step_tells_what_it_took(window) -> None:
    from sobercrow.desktop.steps import cost, stage_cost

    for step in (Step.CLEAN_UP, Step.INKS, Step.TRACE):
        assert cost(step, window.document).startswith("Took ")
    assert cost(Step.BRING_IN, window.document) == ""
    assert stage_cost("Light", window.document).endswith(" ms.")
    assert stage_cost("Gravity", window.document) == ""
