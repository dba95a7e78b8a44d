"""Correct: what a sketch means is pointed at, and said otherwise by hand."""

from __future__ import annotations

from collections.abc import Iterable
from functools import partial

import numpy as np
from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen

from sobercrow.core.arrays import F64
from sobercrow.core.artwork import hit
from sobercrow.core.errors import SettingError
from sobercrow.core.geometry.contour import Contour
from sobercrow.core.geometry.forms import Ellipse
from sobercrow.core.results import Results
from sobercrow.core.settings import PATH_VERDICTS, PLACE_VERDICTS, Correction, Point, TouchForm, Verdict
from sobercrow.core.sketch.bands import strokes_along
from sobercrow.core.sketch.by_hand import has_strokes
from sobercrow.core.sketch.trace import strays_of
from sobercrow.core.strokes.working_forms import Freehand, StraightLine
from sobercrow.desktop import tokens
from sobercrow.desktop.scene import Scene
from sobercrow.desktop.steps import Step
from sobercrow.desktop.still import Still
from sobercrow.desktop.theme import palette
from sobercrow.desktop.tool import Board, Drag, Pointer, is_far, panned, waited
from sobercrow.desktop.tools.marks import paint_nib
from sobercrow.desktop.tools.sketching import Manner, Sketching

REACH_PX = 9.0
"""Strokes are meant up to so far from the pointer, on screen."""
BAND_PX, BAND_ALPHA = 15.0, 80


class Correct(Sketching):
    """Shows which strokes make up the line that is pointed at; once a verdict is taken up, says it of what is drawn.

    Without one a drag moves the view. Tells of corrections in pixels of the picture brought in.
    """

    id, title, step, menu = "correct", "Correct", Step.TRACE, "Artwork"
    help = "Point at a line to see its strokes; choose what to say of them in the panel."
    listed = False
    corrected = Signal(object)

    def __init__(self) -> None:
        """Start with nothing to be said."""
        super().__init__()
        self.verdict: Verdict | None = None
        self.marked: frozenset[Verdict] = frozenset({Verdict.WORKING, Verdict.SHADING})
        """The classes marked on the canvas."""
        self._results: Results | None = None
        self._marks: dict[Verdict, QPainterPath] = {}
        self._pointed: int | None = None
        self._band: QPainterPath | None = None
        self._board: Board | None = None
        self._still = Still()

    def prepare(self, board: Board) -> None:
        """Take note of another sketch."""
        scene = board.scene()
        results = scene.presentation.results if scene is not None else None
        self._board = board
        if results is not self._results:
            self._results, self._pointed, self._band, self._marks = results, None, None, {}
            if results is not None and results.sketch is not None:
                board.ask(partial(_marks, results), partial(self._take_marks, results))

    def _take_marks(self, results: Results, marks: dict[Verdict, QPainterPath]) -> None:
        if results is self._results and self._board is not None:
            self._marks = marks
            self._board.update()

    @property
    def follows(self) -> bool:
        """The band follows the pointer."""
        return self._results is not None and self._results.sketch is not None

    def press(self, board: Board, start: Pointer) -> Drag:
        """Say what is to be said; else move the view."""
        if self.verdict is None or not self.follows:
            yield from panned(board, start)
            return
        if self.verdict in PLACE_VERDICTS:
            end = yield from waited(start)
            self._say(board, ((end.x, end.y),))
            return
        width = 2.0 if self.verdict in PATH_VERDICTS else 2.0 * REACH_PX
        colour = QColor(palette().mark)
        manner = Manner(TouchForm.FREEHAND, width / board.camera.zoom, colour.name())
        points = yield from self.draw(board, start, manner)
        far = any(is_far(start.at, QPointF(*_on_screen(board, point))) for point in points)
        self._say(board, points if far else points[:1])

    def _say(self, board: Board, points: tuple[Point, ...]) -> None:
        scene = board.scene()
        results = self._results
        if scene is None or self.verdict is None or not points or results is None or results.sketch is None:
            return
        scale, reach = results.sketch_scale, REACH_PX / board.camera.zoom
        if not has_strokes(results.sketch, np.array(points, dtype=np.float64) / scale, 2.0 * reach / scale):
            board.refuse("There is no stroke of the sketch here.")
            return
        places = scene.place.to_source(np.array(points, dtype=np.float64))
        try:
            made = Correction(self.verdict, tuple((float(x), float(y)) for x, y in places))
            width = reach / scene.place.scale_at(made.middle)
            self.corrected.emit(Correction(made.verdict, made.points, min(max(width, 0.5), 2000.0)))
        except SettingError as fault:
            board.refuse(str(fault))

    def paint(self, painter: QPainter, scene: Scene, at: QPointF | None) -> None:
        """Paint the strokes of the line pointed at, working lines and shading, and what is being drawn."""
        if self._results is None or self._results.sketch is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._paint_classes(painter, scene)
        if at is not None and self.sketch is None:
            self._point_at(scene, at)
            if self._band is not None:
                _stroke(painter, scene, self._band, _pen(palette().mark, BAND_PX, BAND_ALPHA))
            if self.verdict is not None:
                paint_nib(painter, at, REACH_PX)
        super().paint(painter, scene, at)

    def _paint_classes(self, painter: QPainter, scene: Scene) -> None:
        key = (self._marks, *(verdict.value for verdict in self.marked), palette().warning_mark)
        self._still.paint(painter, scene, key, self._draw_classes)

    def _draw_classes(self, painter: QPainter, scene: Scene) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for verdict, style in ((Verdict.SHADING, Qt.PenStyle.SolidLine), (Verdict.WORKING, Qt.PenStyle.DashDotLine)):
            if verdict in self.marked and verdict in self._marks:
                pen = _pen(palette().warning_mark, 1.2, 170)
                pen.setStyle(style)
                _stroke(painter, scene, self._marks[verdict], pen)

    def _point_at(self, scene: Scene, at: QPointF) -> None:
        """Work out which strokes belong to the line at a place of the screen."""
        results = self._results
        assert results is not None
        assert results.sketch is not None
        x, y = scene.camera.to_picture(at.x(), at.y(), scene.width, scene.height)
        found = hit.curve_at(scene.artwork, x, y, tokens.HIT_PX / scene.camera.zoom)
        pointed = found.shape if found is not None else None
        if pointed == self._pointed or not self._marks:
            return
        self._pointed, self._band = pointed, None
        if found is not None and self._board is not None:
            contour = scene.artwork.shapes[found.shape].contours[found.contour]
            self._board.ask(partial(_band, results, contour), partial(self._take_band, results, found.shape))

    def _take_band(self, results: Results, shape: int, band: QPainterPath) -> None:
        if results is self._results and shape == self._pointed and self._board is not None:
            self._band = band
            self._board.update()

    def cursor(self, board: Board, at: QPointF) -> Qt.CursorShape | None:
        """Return a cross once there is something to say."""
        return Qt.CursorShape.CrossCursor if self.verdict is not None and self.follows else None


def _on_screen(board: Board, point: Point) -> Point:
    scene = board.scene()
    assert scene is not None
    at = scene.on_screen(*point)
    return at.x(), at.y()


def _pen(colour: str, width: float, alpha: int) -> QPen:
    """A pen as wide on screen at any zoom."""
    ink = QColor(colour)
    ink.setAlpha(alpha)
    pen = QPen(ink, width, c=Qt.PenCapStyle.RoundCap, j=Qt.PenJoinStyle.RoundJoin)
    pen.setCosmetic(True)
    return pen


def _stroke(painter: QPainter, scene: Scene, path: QPainterPath, pen: QPen) -> None:
    painter.save()
    scene.to_picture(painter)
    painter.strokePath(path, pen)
    painter.restore()


def _path(runs: Iterable[F64], scale: float) -> QPainterPath:
    """Lines (n, 2) as a path, larger by a factor."""
    path = QPainterPath()
    for run in runs:
        places = (run * scale).tolist()
        path.moveTo(*places[0])
        for place in places[1:]:
            path.lineTo(*place)
    return path


def _marks(results: Results) -> dict[Verdict, QPainterPath]:
    """What shading and working lines are marked by. Runs in the background."""
    assert results.sketch is not None
    shading = (run[::3] for run in results.sketch.shading.runs())
    return {Verdict.SHADING: _path(shading, results.sketch_scale), Verdict.WORKING: _forms(results)}


def _band(results: Results, contour: Contour) -> QPainterPath:
    """The strokes of a line. Runs in the background."""
    assert results.sketch is not None
    strays = strays_of(results.sketch, results.settings.tracing, results.separation.dpi)
    line = contour.sampled(1.0) / results.sketch_scale
    return _path(strokes_along(results.sketch, line, strays), results.sketch_scale)


def _forms(results: Results) -> QPainterPath:
    """The working lines of a sketch."""
    assert results.sketch is not None
    path, scale = QPainterPath(), results.sketch_scale
    for form in results.sketch.forms:
        match form:
            case Ellipse():
                ring = Contour.of_form(form).sampled(1.0 / scale)
                path.addPath(_path([np.concatenate([ring, ring[:1]])], scale))
            case StraightLine():
                (x0, y0), (x1, y1) = form.end(form.first), form.end(form.last)
                path.addPath(_path([np.array([[x0, y0], [x1, y1]])], scale))
            case Freehand(points):
                path.addPath(_path([points], scale))
    return path
