"""Every edit of shapes from its menu, the layer list, True, Shade and Pour, on the real window."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QColor, QDropEvent, QGuiApplication
from PySide6.QtTest import QTest

from drawings import artwork_of
from sobercrow.core.artwork.choice import Choice
from sobercrow.core.artwork.model import Artwork, Layer, Shape, stroked
from sobercrow.core.artwork.paint import Gradient
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import Ellipse, Rectangle
from sobercrow.demo.tour import pause, wait_until_done
from sobercrow.desktop.editing.shapes import SHAPE_EDITS
from sobercrow.desktop.panels.refine.layers import ROW_PX
from sobercrow.desktop.scene import Showing
from sobercrow.desktop.window import MainWindow

LEFT, NO_KEYS, SHIFT = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier


def box(x: float, y: float, width: float, height: float, fill: str = "#000000") -> Shape:
    form = Rectangle(x + width / 2, y + height / 2, width, height)
    return Shape((Contour(form.anchors(), np.zeros(4, np.uint8), form=form),), fill)


def disc(x: float, y: float, radius: float, fill: str = "#000000") -> Shape:
    form = Ellipse(x, y, radius, radius)
    return Shape((Contour(form.anchors(), np.ones(4, np.uint8), form=form),), fill)


def open_line(*points: tuple[float, float]) -> Contour:
    at = np.array(points, float)
    return Contour(np.repeat(at[:, None], 3, axis=1), np.zeros(len(at), np.uint8), closed=False)


@pytest.fixture
def shapes(refining: MainWindow) -> MainWindow:
    """The window with boxes and discs in two layers, the Choose tool in hand."""
    window = refining
    before = window.document.artwork
    low = (box(100, 100, 120, 80, "#1d4f79"), disc(200, 150, 45, "#a33e2e"), box(300, 110, 40, 40, "#1d4f79"))
    high = (
        disc(120, 300, 30, "#a33e2e"),
        disc(165, 300, 30, "#a33e2e"),
        stroked((open_line((300, 300), (380, 320)),), "#23262b", 6.0),
    )
    made = Artwork((Layer("Low", low), Layer("High", high)), before.width_px, before.height_px, before.dpi)
    window.use_tool("choose")
    window.document.refine("Take", made)
    window.show_as(Showing.FILLED)
    wait_until_done(window)
    return window


CASES = {edit.id: {0, 1, 2} for edit in SHAPE_EDITS} | {
    "intersect": {0, 1},
    "put-in": None,
    "ungroup": None,
    "to-bottom": {1, 2},
    "down": {1, 2},
    "to-top": {0, 1},
    "up": {0, 1},
    "centres-down": {0, 1, 3},
    "solid": set(),
    "trim": set(),
    "join-colours": set(),
    "backing": set(),
    "outline-strokes": {5},
}


def test_joining_many_shapes_goes_on_beside_and_can_be_stopped(shapes: MainWindow) -> None:
    document = shapes.document
    rows = tuple(disc(20.0 + 9.0 * (k % 100), 30.0 + 7.0 * (k // 100), 6.0) for k in range(2000))
    start = replace(document.artwork, layers=(Layer("Many", rows),))
    document.refine("Take", start)
    wait_until_done(shapes)
    join = next(edit for edit in SHAPE_EDITS if edit.id == "join")
    for stopped in (True, False):
        document.choose(Choice(shapes=frozenset(range(len(rows)))))
        shapes.refine_panel.runner.run(join)
        assert document.artwork is start, "the window goes on meanwhile"
        if stopped:
            document.stop()
        wait_until_done(shapes)
        assert (document.artwork is start) == stopped
    assert document.undo_name == "Join shapes"
    (joined,) = document.artwork.shapes
    discs = shapely.buffer(shapely.points([[row.contours[0].form.x, row.contours[0].form.y] for row in rows]), 6.0)
    assert abs(sum(c.area() for c in joined.contours)) == pytest.approx(shapely.union_all(discs).area, rel=3e-3)


def test_every_edit_is_one_named_change_and_undone_to_what_was_there(shapes: MainWindow) -> None:
    document = shapes.document
    start = document.artwork
    for edit in (edit for edit in SHAPE_EDITS if CASES[edit.id] is not None):
        document.choose(Choice(shapes=frozenset(CASES[edit.id])))
        choice = document.choice
        action = shapes.menus.actions[edit.id]
        assert action.isEnabled(), edit.id
        action.trigger()
        wait_until_done(shapes)
        assert document.undo_name == edit.named, edit.id
        after = document.artwork
        assert after != start, edit.id
        document.undo()
        assert document.artwork is start, edit.id
        assert document.choice == choice, edit.id
        document.redo()
        assert document.artwork == after, edit.id
        document.undo()
        document.choose(Choice())
        assert action.isEnabled() is (edit.least_shapes == 0), edit.id


def row_at(window: MainWindow, row: int, x: int) -> QPoint:
    return QPoint(x, row * ROW_PX + ROW_PX // 2)


def test_layers_are_hidden_locked_shown_alone_unfolded_renamed_and_moved_in_their_list(shapes: MainWindow) -> None:
    document, part = shapes.document, shapes.refine_panel.layers
    part.refresh()
    port, width = part.list.viewport(), part.list.viewport().width()
    names = lambda: [row.name for row in part.rows.rows]  # noqa: E731
    assert names() == ["High", "Low"]
    QTest.mouseClick(port, LEFT, NO_KEYS, row_at(shapes, 0, width - 32))
    assert [layer.seen for layer in document.artwork.layers] == [True, False]
    at = QPoint(*map(round, shapes.canvas.camera.to_screen(120, 300, shapes.canvas.width(), shapes.canvas.height())))
    assert shapes.canvas.grab().toImage().pixelColor(at).name() == "#ffffff", "what is hidden is not painted"
    assert b"a33e2e" not in document_svg(shapes).replace(b'fill="#a33e2e"', b"", 1)
    document.undo()
    QTest.mouseClick(port, LEFT, NO_KEYS, row_at(shapes, 1, width - 10))
    assert document.undo_name == "Lock layer"
    QTest.mouseClick(
        shapes.canvas,
        LEFT,
        NO_KEYS,
        QPoint(*map(round, shapes.canvas.camera.to_screen(120, 120, shapes.canvas.width(), shapes.canvas.height()))),
    )
    assert not document.choice, "what is locked cannot be chosen"
    document.undo()
    QTest.mouseClick(port, LEFT, Qt.KeyboardModifier.AltModifier, row_at(shapes, 1, width - 32))
    assert [layer.seen for layer in document.artwork.layers] == [True, False]
    document.undo()
    QTest.mouseClick(port, LEFT, NO_KEYS, row_at(shapes, 0, 8))
    assert [names()[0], len(names()), names()[4]] == ["High", 5, "Low"]
    QTest.mouseClick(port, LEFT, NO_KEYS, row_at(shapes, 1, 90))
    assert document.choice.shapes == {5}
    QTest.mouseClick(port, LEFT, SHIFT, row_at(shapes, 2, 90))
    assert document.choice.shapes == {4, 5}
    index = part.rows.index(0, 0)
    assert part.rows.setData(index, "Sky")
    assert document.artwork.layers[1].name == "Sky"
    assert not part.rows.setData(part.rows.index(1, 0), "No layer")
    part.rows.dropMimeData(
        part.rows.mimeData([part.rows.index(0, 0)]),
        Qt.DropAction.MoveAction,
        len(part.rows.rows),
        0,
        part.rows.index(-1, -1),
    )
    assert [layer.name for layer in document.artwork.layers] == ["Sky", "Low"]
    part.add.click()
    assert document.artwork.layers[-1].name == "Layer"
    part.list.setCurrentIndex(part.rows.index(0, 0))
    part.delete.click()
    assert len(document.artwork.layers) == 2


def document_svg(window: MainWindow) -> bytes:
    from sobercrow.core.formats.svg import svg_bytes

    return svg_bytes(window.document.artwork)


def test_clicked_again_the_next_beneath_is_chosen_and_groups_as_one(shapes: MainWindow) -> None:
    document, canvas = shapes.document, shapes.canvas

    def click(x: float, y: float, keys=NO_KEYS, double: bool = False) -> frozenset[int]:
        at = QPoint(*map(round, canvas.camera.to_screen(x, y, canvas.width(), canvas.height())))
        QTest.mouseClick(canvas, LEFT, keys, at)
        if double:
            QTest.mouseDClick(canvas, LEFT, keys, at)
            QTest.mouseRelease(canvas, LEFT, keys, at)
        return document.choice.shapes

    assert click(190, 150) == {1}
    assert click(190, 150) == {0}
    assert click(190, 150) == {1}
    assert click(320, 130, SHIFT) == {1, 2}
    assert document.choice.first == 1
    QTest.keyClick(canvas, "G", Qt.KeyboardModifier.ControlModifier)
    document.choose()
    assert click(320, 130) == {1, 2}
    assert click(320, 130, double=True) == {2}


def test_shapes_are_chosen_by_what_they_are(shapes: MainWindow) -> None:
    cases = {"alike-colour": {1, 3, 4}, "alike-form": {1, 3, 4}, "invert": {0, 2, 3, 4, 5}, "open-ones": {5}}
    for id_, found in cases.items():
        shapes.document.choose(Choice(shapes=frozenset({1})))
        shapes.menus.actions[id_].trigger()
        assert shapes.document.choice.shapes == found, id_
    shapes.document.choose()
    shapes.menus.actions["small"].trigger()
    assert shapes.gauge.message.text() == "There are no such shapes."


def test_paint_is_typed_taken_away_put_along_the_edge_and_changed_everywhere(shapes: MainWindow, monkeypatch) -> None:
    document, part = shapes.document, shapes.refine_panel.shapes
    document.choose(Choice(shapes=frozenset({0})))
    QTest.mouseClick(
        part.swatches, LEFT, NO_KEYS, part.swatches.rect_of(part.swatches.colours.index("#a33e2e")).center().toPoint()
    )
    assert document.artwork.shapes[0].fill == "#a33e2e"
    part.stroke.click()
    part.width.box.setValue(1.5)
    part.joins[list(part.joins)[1]].click()
    stroke = document.artwork.shapes[0].stroke
    assert (stroke.colour, stroke.joins.value) == ("#a33e2e", "mitre")
    assert stroke.width_px == pytest.approx(1.5 * 150 / 25.4)
    part.none.click()
    assert document.artwork.shapes[0].fill is None
    monkeypatch.setattr(part, "_picked", lambda _start, _title: "#123456")
    part.swatches.changed.emit("#1d4f79")
    assert document.artwork.shapes[2].fill == "#123456"
    assert document.undo_name == "Change colour"
    document.choose(Choice(shapes=frozenset({1, 2})))
    part.greys.click()
    for k in (1, 2):
        colour = document.artwork.shapes[k].fill
        assert colour[1:3] == colour[3:5] == colour[5:7]


def test_a_gradient_is_laid_by_a_pull_pulled_anew_and_its_stops_are_coloured(
    shapes: MainWindow, drag, monkeypatch
) -> None:
    document, canvas = shapes.document, shapes.canvas
    shapes.use_tool("shade")
    drag(canvas, (110, 140), (210, 140))
    fill = document.artwork.shapes[0].fill
    assert isinstance(fill, Gradient)
    assert document.undo_name == "Lay gradient"
    assert (fill.way.e, fill.way.f, fill.way.a) == pytest.approx((110, 140, 100), abs=1.0)
    drag(canvas, (210, 140), (210, 175))
    assert document.undo_name == "Pull gradient"
    part = shapes.refine_panel.shapes.stops
    monkeypatch.setattr(part, "_pick", lambda _start, _title: "#00ff00")
    part.recolour(1)
    part.more.click()
    part.turn.click()
    stops = document.artwork.shapes[0].fill.stops
    assert [stop.colour for stop in stops] == ["#00ff00", "#0ea73c", "#1d4f79"]
    assert [stop.at for stop in stops] == [0.0, 0.5, 1.0]
    part.fewer.click()
    assert len(document.artwork.shapes[0].fill.stops) == 2


def test_true_shapes_are_laid_beside_and_taken_by_a_click_or_a_number(shapes: MainWindow) -> None:
    document, canvas = shapes.document, shapes.canvas
    rough = Contour(
        Ellipse(150, 250, 60, 58.0).anchors() + np.random.default_rng(1).normal(0, 0.6, (4, 3, 2)),
        np.zeros(4, np.uint8),
    )
    document.refine("Take", artwork_of(Shape((rough,))))
    wait_until_done(shapes)
    shapes.use_tool("true")
    canvas.fit()
    at = lambda x, y: QPoint(*map(round, canvas.camera.to_screen(x, y, canvas.width(), canvas.height())))  # noqa: E731
    tool = shapes.tools["true"]
    QTest.mouseClick(canvas, LEFT, NO_KEYS, at(150, 250))
    names = [one.name for one in tool.found]
    assert names[0] in ("circle", "ellipse")
    tile = tool._tiles[names.index("circle")].center().toPoint()
    QTest.mouseMove(canvas, tile - QPoint(3, 3))
    QTest.mouseMove(canvas, tile)
    assert canvas.board.preview is not None, (canvas.drag.is_on, tool.found, tool.pointed, canvas.underMouse())
    assert canvas.board.preview.shapes[0].contours[0].form.is_circle
    QTest.mouseClick(canvas, LEFT, NO_KEYS, tile)
    assert document.undo_name == "Make circle"
    assert document.artwork.shapes[0].contours[0].form.rx == pytest.approx(59, abs=1.0)
    document.undo()
    QTest.mouseClick(canvas, LEFT, NO_KEYS, at(150, 250))
    QTest.keyClick(canvas, str(1 + names.index("rectangle" if "rectangle" in names else "square")))
    assert isinstance(document.artwork.shapes[0].contours[0].form, Rectangle)


def test_areas_are_poured_gaps_opened_and_everything_saved_and_opened(refining: MainWindow, tmp_path) -> None:
    window, document, canvas = refining, refining.document, refining.canvas
    walls = [
        open_line((104, 20), (280, 20), (280, 160), (20, 160), (20, 20), (96, 20)),
        open_line((150, 20), (150, 160)),
    ]
    before = document.artwork
    made = Artwork(
        artwork_of(*(stroked((w,), "#23262b", 4.0) for w in walls)).layers,
        before.width_px,
        before.height_px,
        before.dpi,
    )
    document.refine("Take", made)
    wait_until_done(window)
    QTest.keyClick(window, Qt.Key.Key_P)
    assert window.tool == "art-pour"
    tool = window.tools["art-pour"]

    def ready() -> None:
        canvas.update()
        for _ in range(100):
            pause(0.02)
            if (
                tool._ready is not None
                and tool._ready.artwork is document.artwork
                and tool._ready.how == tool.how(document.artwork)
            ):
                return
        raise AssertionError("areas were not found")

    canvas.look_at(150.0, 90.0, 2.0)
    ready()
    assert len(tool._ready.areas) == 2
    at = lambda x, y: QPoint(*map(round, canvas.camera.to_screen(x, y, canvas.width(), canvas.height())))  # noqa: E731
    QTest.mouseClick(canvas, LEFT, NO_KEYS, at(100, 20))  # the bridge
    ready()
    assert len(tool._ready.areas) == 1
    assert "is open" in window.gauge.message.text()
    QTest.mouseClick(canvas, LEFT, NO_KEYS, at(80, 90))
    assert "colour would run out" in window.gauge.message.text()
    QTest.mouseClick(canvas, LEFT, NO_KEYS, at(100, 20))
    ready()
    QTest.mouseClick(canvas, LEFT, NO_KEYS, at(80, 90))
    assert document.undo_name == "Pour"
    wait_until_done(window)
    window.refine_panel.pour.each.click()
    wait_until_done(window)
    assert document.undo_name == "Pour all"
    assert len(document.artwork.layers[0].shapes) == 2
    QTest.mouseClick(canvas, LEFT, NO_KEYS, at(100, 20))
    wait_until_done(window)
    assert document.undo_name == "Pour again", "with the bridge opened only the closed room is poured anew"
    document.undo()
    ready()
    assert not tool.opened, "undone, it is closed again"
    window.refine_panel.pour.close.click()
    wait_until_done(window)
    assert document.undo_name == "Close gaps"
    kept = document.artwork
    document.save_project(tmp_path / "house.sobercrow")
    document.open_path(tmp_path / "house.sobercrow")
    wait_until_done(window)
    assert document.artwork == kept


def test_shapes_are_copied_cut_and_pasted_and_svg_comes_in_from_file_and_clipboard(
    shapes: MainWindow, tmp_path
) -> None:
    document, count = shapes.document, len(shapes.document.artwork.shapes)
    document.choose(Choice(shapes=frozenset({0, 1})))
    shapes.menus.actions["copy-shapes"].trigger()
    svg = QGuiApplication.clipboard().text()
    assert svg.count("<rect") == svg.count("<circle") == 1
    shapes.menus.actions["cut-shapes"].trigger()
    assert (document.undo_name, len(document.artwork.shapes)) == ("Cut shapes", count - 2)
    shapes.menus.actions["paste"].trigger()
    assert (document.undo_name, len(document.artwork.shapes)) == ("Paste shapes", count)
    pasted = [document.artwork.shapes[k] for k in sorted(document.choice.shapes)]
    assert [shape.fill for shape in pasted] == ["#1d4f79", "#a33e2e"]
    QGuiApplication.clipboard().setText('<svg xmlns="http://www.w3.org/2000/svg"><circle r="9"/><text>x</text></svg>')
    shapes.menus.actions["paste"].trigger()
    assert shapes.gauge.message.text() == "Left out, for artwork cannot hold it: 1 text."
    path = tmp_path / "mark.svg"
    path.write_text(svg)
    shapes.files.open_path(path)
    wait_until_done(shapes)
    assert document.undo_name == "Place SVG"
    assert document.artwork.layers[-1].name == "mark"
    kept = document.artwork
    path.write_text("<svg")
    shapes.files.open_path(path)
    wait_until_done(shapes)
    assert "“mark.svg” is damaged" in shapes.gauge.message.text()
    assert document.artwork is kept


def test_pegs_are_set_pulled_and_taken_away(shapes: MainWindow, drag) -> None:
    document, canvas, tool = shapes.document, shapes.canvas, shapes.tools["bend"]
    canvas.fit()
    shapes.use_tool("bend")
    at = lambda x, y: QPoint(*map(round, canvas.camera.to_screen(x, y, canvas.width(), canvas.height())))  # noqa: E731
    for place in ((110, 170), (108, 108)):
        QTest.mouseClick(canvas, LEFT, NO_KEYS, at(*place))
    assert document.choice.shapes == {0}
    assert len(tool.pegs) == 2
    before = document.artwork.shapes[0].contours[0].anchors
    drag(canvas, (108, 108), (80, 90))
    assert document.undo_name == "Bend"
    after = document.artwork.shapes[0].contours[0].anchors
    corner = after[np.hypot(*(after - (72, 82)).T).argmin()]
    assert np.hypot(*(corner - before[0])) > 15, "what is near the pulled peg goes along"
    assert len(tool.pegs) == 2
    QTest.mouseClick(canvas, LEFT, Qt.KeyboardModifier.AltModifier, at(110, 170))
    assert len(tool.pegs) == 1
    QTest.mouseClick(canvas, LEFT, NO_KEYS, at(600, 500))
    assert not tool.pegs


def test_the_page_is_chequered_or_coloured_for_looking_and_white_parts_show(shapes: MainWindow, monkeypatch) -> None:
    canvas = shapes.canvas
    canvas.fit()
    spots = [
        QPoint(*map(round, canvas.camera.to_screen(x, 400.0, canvas.width(), canvas.height())))
        for x in range(500, 560, 2)
    ]

    def seen() -> set[str]:
        image = canvas.grab().toImage()
        return {image.pixelColor(spot).name() for spot in spots}

    assert seen() == {"#ffffff"}
    shapes.menus.actions["page-chequered"].trigger()
    assert len(seen()) == 2
    monkeypatch.setattr("sobercrow.desktop.command_table.QColorDialog.getColor", lambda *_: QColor("#123456"))
    shapes.menus.actions["page-colour"].trigger()
    assert seen() == {"#123456"}
    assert b"123456" not in document_svg(shapes), "it is never handed over"
    shapes.menus.actions["page-paper"].trigger()
    assert seen() == {"#ffffff"}


def test_parts_are_kept_put_in_dropped_on_the_drawing_and_taken_away(shapes: MainWindow) -> None:
    document, part = shapes.document, shapes.refine_panel.parts
    assert part.folder.names() == [], "a folder of the test's own"
    part.group.head.setChecked(True)
    document.choose(Choice(shapes=frozenset({0, 1})))
    for name, words in (("", "needs a short name"), ("a/b", "needs a short name"), ("Kite", "is kept among the parts")):
        part.name.setText(name)
        part.keep.click()
        assert words in shapes.gauge.message.text()
    assert [part.list.item(k).text() for k in range(part.list.count())] == ["Kite"]
    before = document.artwork
    size = np.subtract(*(np.array(f([s.bounds()[k] for s in before.shapes[:2]])) for f, k in ((max, 2), (min, 0))))
    part.put("Kite", (400.0, 300.0))
    assert document.undo_name == "Put in Kite"
    fresh = [document.artwork.shapes[k] for k in sorted(document.choice.shapes)]
    assert [shape.fill for shape in fresh] == ["#1d4f79", "#a33e2e"]
    left, right = min(s.bounds()[0] for s in fresh), max(s.bounds()[2] for s in fresh)
    assert (right - left, (left + right) / 2) == pytest.approx((size, 400.0), abs=0.1)
    data = part.list.mimeData([part.list.item(0)])
    drop = QDropEvent(QPointF(500, 400), Qt.DropAction.CopyAction, data, LEFT, NO_KEYS)
    shapes.dropEvent(drop)
    assert len(document.artwork.shapes) == len(before.shapes) + 4
    part.list.setCurrentRow(0)
    part.remove.click()
    assert part.folder.names() == []
    part.put("Kite")
    assert shapes.gauge.message.property("warning")


def test_a_colour_is_pulled_from_artwork_or_drawing_onto_a_shape(shapes: MainWindow, drag) -> None:
    document, canvas = shapes.document, shapes.canvas
    canvas.fit()
    QTest.keyClick(shapes, Qt.Key.Key_Y)
    assert shapes.tool == "art-sample"
    drag(canvas, (320, 130), (120, 300))
    assert document.artwork.shapes[3].fill == "#1d4f79"
    pixels = document.presentation.results.cleaned.pixels
    drag(canvas, (600, 500), (165, 300), Qt.KeyboardModifier.AltModifier)
    assert document.artwork.shapes[4].fill == "#" + "".join(f"{int(v):02x}" for v in pixels[500, 600])
    drag(canvas, (600, 500), (165, 300))
    assert "There is no colour here" in shapes.gauge.message.text()
