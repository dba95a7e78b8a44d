"""A picture on its way to artwork: runs the steps that are stale and keeps their results."""

from __future__ import annotations

import math
import threading
import time
from collections import OrderedDict
from collections.abc import Callable, Hashable
from dataclasses import replace
from functools import partial
from typing import Any

import numpy as np

from sobercrow.core.artwork.model import Artwork
from sobercrow.core.cleanup.check import Finding, check_picture
from sobercrow.core.cleanup.clean import STAGES, Frame, Sheet, source_pixels
from sobercrow.core.cleanup.evidence import Evidence
from sobercrow.core.cleanup.nature import Nature
from sobercrow.core.cleanup.restore import draws_flat, own_size, read_original_nature, restored
from sobercrow.core.cleanup.sheet import SheetMap, sheet_map
from sobercrow.core.history.history import History, read_history
from sobercrow.core.inks.palette import Colours, read_colours
from sobercrow.core.inks.separation import Separation, needs_colours, separate
from sobercrow.core.inspect.deviation import Deviation, deviation
from sobercrow.core.picture.picture import Picture, in_colours
from sobercrow.core.results import Cleaning, Results
from sobercrow.core.settings import NEUTRAL, RESTORING, CleanUp, InkKind, Levels, PictureKind, Settings, TraceKind
from sobercrow.core.sketch.by_hand import corrected
from sobercrow.core.sketch.one_line import KeptLines
from sobercrow.core.sketch.reading import SketchReading, read_sketch
from sobercrow.core.sketch.said import Said, said_of
from sobercrow.core.sketch.trace import tones_of, trace_sketch
from sobercrow.core.stopping import go_on
from sobercrow.core.tracing.outlines import Trace, trace

KEPT_RESULTS = 4
"""Results kept per step: enough to go back and forth between a few tries."""
KEPT_SHEETS = 2
"""Sheets kept per stage of clean-up: they are as large as the picture."""
DRAFT_STEP = 1.25
WORTH_A_DRAFT = 1.25
"""A draft less than this much smaller than the full result is not worth a second computation."""

WORTH_TELLING_S = 0.1
"""If a trace took less than that, its beginning is not worth being told of early."""

Progress = Callable[[str, float], None]
"""Called with the step's name and the share of it done, 0-1."""


class Job:
    """Runs the steps on one source picture; may be called from any thread.

    Results are kept by the settings that made them, so going back to an earlier try costs nothing.
    """

    def __init__(self, source: Picture) -> None:
        """Take the picture; nothing is computed yet."""
        self.source = source
        self._kept: dict[str, OrderedDict[Hashable, Any]] = {}
        self._seconds: dict[str, float] = {}
        self._lines = KeptLines()
        self._lock = threading.Lock()

    def run(
        self,
        settings: Settings,
        draft_pixels: int | None = None,
        progress: Progress | None = None,
        early: Callable[[Results], None] | None = None,
    ) -> Results:
        """Return the results for these settings.

        Parameters
        ----------
        draft_pixels
            If given, a picture with more pixels is reduced to about that many first, for a quick look.
        progress
            Told of pieces of work.
        early
            Handed the results as they stand when curves are fitted, if what is left to do may take long.

        Raises
        ------
        Cancelled
            If an end was asked for; see `stopping`.
        SettingError
            If the settings do not fit the picture.
        """

        def tell(step: str, share: float) -> None:
            go_on()
            if progress is not None:
                progress(step, share)

        tell("Bring in", 0.0)
        clean_up = settings.clean_up.in_force()
        dpi = self._dpi(settings)
        cleaning = self._clean(clean_up, draft_pixels, tell)
        sheet, whole, reduction = cleaning.sheet, cleaning.place, cleaning.reduction
        tell("Inks", 0.0)
        inks_key = (cleaning.key, settings.inks)
        cleaned, separation = self._parted(settings, cleaning, dpi)
        tell("Trace", 0.0)
        tracing = settings.tracing.on_enlarged(clean_up.enlarge).reduced(reduction)
        trace_key = (inks_key, settings.tracing)
        grain = clean_up.enlarge / reduction

        def results(traced: Trace, away: Deviation, is_draft: bool) -> Results:
            larger = whole.width / traced.artwork.width_px
            with self._lock:
                seconds = dict(self._seconds)
            return Results(
                settings,
                self.nature(),
                sheet,
                whole,
                replace(cleaned, dpi=dpi / reduction),
                separation,
                self._at_full_scale(traced.artwork, whole, dpi),
                traced.borders,
                away.figures(traced.artwork),
                away.scaled(larger),
                tuple(form.scaled(larger) for form in traced.forms),
                self._kept_findings(clean_up),
                reduction,
                is_draft,
                seconds,
                self.history(),
                self.own_scale(clean_up),
                sketch,
            )

        sketch: SketchReading | None = None
        said: tuple[Said, ...] = ()
        if tracing.kind is TraceKind.ONE_LINE:
            read = self._sketch(inks_key, separation)
            said = said_of(settings.tracing.corrections, cleaning.own_place, read.reduction)
            sketch = self._step("corrected", (inks_key, settings.tracing.corrections), lambda: corrected(read, said))

        def tell_early(traced: Trace) -> None:
            if early is not None and self._seconds.get("trace", math.inf) > WORTH_TELLING_S:
                early(results(traced, deviation(traced.artwork, traced.borders), True))

        traced: Trace = self._step(
            "trace",
            trace_key,
            lambda: (
                trace_sketch(
                    separation, sketch, settings.tracing, said, self._lines
                )  # lengths are the strokes' own at any size
                if sketch is not None
                else trace(separation, tracing, partial(tell, "Trace"), grain, tell_early, reduction != 1.0)
            ),
        )
        tell("Measure", 0.0)
        away: Deviation = self._step("measure", trace_key, lambda: deviation(traced.artwork, traced.borders))
        return results(traced, away, reduction != 1.0)

    def parted(self, settings: Settings, draft_pixels: int | None = None) -> tuple[Separation, float]:
        """Return the inks of the picture alone, and by how much smaller it was for them; see `run`."""
        clean_up = settings.clean_up.in_force()
        cleaning = self._clean(clean_up, draft_pixels, lambda _step, _share: None)
        return self._parted(settings, cleaning, self._dpi(settings))[1], cleaning.reduction

    def sketch(self, settings: Settings) -> SketchReading:
        """Return what the cleaned picture holds if it is a sketch; see `read_sketch`."""
        cleaning = self._clean(settings.clean_up.in_force(), None, lambda _step, _share: None)
        separation = self._parted(settings, cleaning, self._dpi(settings))[1]
        return self._sketch((cleaning.key, settings.inks), separation)

    def _sketch(self, key: Hashable, separation: Separation) -> SketchReading:
        reading: SketchReading = self._step("sketch", key, lambda: read_sketch(tones_of(separation)))
        return reading

    def _parted(self, settings: Settings, cleaning: Cleaning, dpi: float) -> tuple[Picture, Separation]:
        """The cleaned picture and its inks."""
        sheet, reduction = cleaning.sheet, cleaning.reduction
        cleaned: Picture = self._step("cleaned", cleaning.key, lambda: sheet.picture(self.source, dpi), KEPT_SHEETS)
        place = cleaning.own_place
        colours = self._colours(settings, cleaned, cleaning)
        one_ink = self.nature().one_ink
        evidence = None if settings.inks.touch_ups else cleaning.evidence
        separation: Separation = self._step(
            "inks",
            (cleaning.key, settings.inks),
            lambda: separate(cleaned, settings.inks, place, colours, reduction, one_ink).judged_by(evidence),
        )
        return cleaned, separation

    def _colours(self, settings: Settings, cleaned: Picture, cleaning: Cleaning) -> Colours | None:
        """The colours of the cleaned picture if they are wanted; a draft takes those of the full one where it can."""
        if not needs_colours(settings.inks, self.nature().one_ink):
            return None
        greys = settings.inks.kind is InkKind.GREYS
        pixels = cleaned.in_grey().pixels if greys else cleaned.pixels
        digital = cleaning.sheet.kind is PictureKind.DIGITAL
        compressed = self.nature().compressed and not cleaning.undone
        work = partial(read_colours, pixels, digital, compressed, cleaning.undone)
        whole = (_key_of(settings.clean_up.in_force(), 1.0, 1.0), greys)
        with self._lock:
            kept: Colours | None = self._kept.get("colours", OrderedDict()).get(whole)
        if kept is not None:
            return kept
        colours: Colours = self._step("colours", (cleaning.key, greys), work)
        return colours

    def history(self) -> History:
        """Return what the picture went through; see `read_history`."""
        work = partial(read_history, source_pixels(self.source), self.source.compression)
        history: History = self._step("history", None, work)
        return history

    def _reduced(self, factor: float) -> Picture:
        source: Picture = self._step("reduce", factor, lambda: self.source.reduced(factor), KEPT_SHEETS)
        return source

    def _restored(
        self, settings: CleanUp, kind: PictureKind, tell: Callable[[str, float], None]
    ) -> tuple[Picture, Evidence | None]:
        """The picture before it was compressed and made larger, and what is known of it for certain."""

        told = partial(tell, "Clean up: as it was")

        def work() -> tuple[Picture, Evidence | None]:
            pixels = source_pixels(self.source)
            made, evidence = restored(pixels, self.history(), settings, kind, self.nature(), told)
            return (self.source if made is pixels else self.source.with_pixels(in_colours(made))), evidence

        found: tuple[Picture, Evidence | None] = self._step("restore", (_restoring(settings), kind), work, KEPT_SHEETS)
        return found

    def own_scale(self, settings: CleanUp) -> tuple[float, float]:
        """Return by how much smaller, across and down, the sheet is made than the picture brought in: 1 or less."""
        settings = settings.in_force()
        width, height = self.source.width, self.source.height
        across, down = own_size(self.history(), settings, settings.kind or self.nature().kind, width, height)
        return across / width, down / height

    def _dpi(self, settings: Settings) -> float:
        """The resolution of the cleaned picture at full scale."""
        across, down = self.own_scale(settings.clean_up)
        dpi = (settings.bring_in.dpi or self.source.dpi) * settings.clean_up.in_force().enlarge
        return float(dpi * (across * down) ** 0.5)

    def nature(self) -> Nature:
        """Return what kind of picture it is; see `read_original_nature`."""

        def work() -> Nature:
            return read_original_nature(source_pixels(self.source), self.history())

        nature: Nature = self._step("nature", None, work)
        return nature

    def clean_draft(self, settings: Settings, draft_pixels: int) -> Sheet:
        """Return the cleaned sheet alone, reduced to about so many pixels."""
        return self._clean(settings.clean_up.in_force(), draft_pixels, lambda _step, _share: None).sheet

    def sheet_before_levels(self, settings: Settings) -> Sheet:
        """Return the sheet at full scale as it is before its tones are stretched."""
        unstretched = replace(settings.clean_up.in_force(), levels=Levels(), enlarge=1, touch_ups=())
        return self._clean(unstretched, None, lambda _step, _share: None).sheet

    def sheet_as_laid(self, settings: Settings) -> Sheet:
        """Return the sheet in its place, at full scale and in its colours, before anything is taken off it."""
        nothing: dict[str, Any] = {field: NEUTRAL[field] for stage in STAGES[1:] for field in stage.fields}
        plain = replace(settings.clean_up.in_force(), **nothing)
        return self._clean(plain, None, lambda _step, _share: None).sheet

    @staticmethod
    def _at_full_scale(artwork: Artwork, whole: SheetMap, dpi: float) -> Artwork:
        if artwork.width_px != whole.width:
            artwork = artwork.scaled(whole.width / artwork.width_px)
        return replace(artwork, width_px=float(whole.width), height_px=float(whole.height), dpi=dpi)

    def _clean(self, settings: CleanUp, draft_pixels: int | None, tell: Callable[[str, float], None]) -> Cleaning:
        """Run the stages that are stale, on a smaller picture for a draft."""
        plane = sheet_map(self.source.width, self.source.height, settings)
        across, down = self.own_scale(settings)
        if (across, down) != (1.0, 1.0):
            plane = plane.resized(plane.width * across, plane.height * down)
        whole = plane.enlarged(settings.enlarge)
        reduction = _reduction(whole, draft_pixels)
        shrink = max(1.0, reduction / settings.enlarge)  # an enlarged picture is rather enlarged less
        kind = settings.kind or self.nature().kind
        if shrink == 1.0:
            ready, (source, evidence) = 0.0, self._restored(settings, kind, tell)
        else:
            ready = _in_steps(shrink / max(across, down))
            source, evidence = self._reduced(ready), None
        out_of = source.width / self.source.width, source.height / self.source.height
        frame = Frame(
            plane.resized(plane.width / shrink, plane.height / shrink, out_of),
            whole.resized(whole.width / reduction, whole.height / reduction),
        )
        started = ready, kind, _restoring(settings)
        sheet: Sheet = self._step("pixels", started, lambda: Sheet(source_pixels(source), kind), KEPT_SHEETS)
        for number, stage in enumerate(STAGES):
            tell(f"Clean up: {stage.name.lower()}", number / len(STAGES))
            key = _key_of(settings, shrink, reduction, number + 1)
            sheet = self._step(stage.name, key, partial(stage.work, sheet, settings, frame), KEPT_SHEETS)
        undone = shrink == 1.0 and draws_flat(self.history(), settings, kind, self.nature())
        if not np.array_equal(sheet.pixels, source_pixels(source)):
            evidence = None
        return Cleaning(sheet, _key_of(settings, shrink, reduction), whole, reduction, undone, evidence)

    def check(self, settings: Settings) -> tuple[Finding, ...]:
        """Look the picture over as turned, straightened and cropped by these settings; see `check_picture`."""
        clean_up = settings.clean_up.in_force()
        kind = clean_up.kind or self.nature().kind

        def work() -> tuple[Finding, ...]:
            plane = sheet_map(self.source.width, self.source.height, clean_up)
            sheet = STAGES[0].work(Sheet(source_pixels(self.source)), clean_up, Frame(plane, plane))
            return check_picture(self.source, sheet.pixels, clean_up, kind)

        go_on()
        findings: tuple[Finding, ...] = self._step("check", _shape_of(clean_up), work)
        return findings

    def _kept_findings(self, clean_up: CleanUp) -> tuple[Finding, ...]:
        with self._lock:
            kept: tuple[Finding, ...] = self._kept.get("check", OrderedDict()).get(_shape_of(clean_up), ())
            return kept

    def _step(self, name: str, key: Hashable, compute: Callable[[], Any], most: int = KEPT_RESULTS) -> Any:
        with self._lock:
            kept = self._kept.setdefault(name, OrderedDict())
            if key in kept:
                kept.move_to_end(key)
                return kept[key]
        go_on()
        start = time.perf_counter()
        result = compute()
        with self._lock:
            self._seconds[name] = time.perf_counter() - start
            kept[key] = result
            while len(kept) > most:
                kept.popitem(last=False)
        return result


def _key_of(settings: CleanUp, shrink: float, reduction: float, stages: int = len(STAGES)) -> Hashable:
    """What the sheet after so many stages depends on."""
    fields = tuple(tuple(getattr(settings, name) for name in stage.fields) for stage in STAGES[:stages])
    return shrink, reduction, settings.kind, _restoring(settings), fields


def _restoring(settings: CleanUp) -> Hashable:
    return tuple(getattr(settings, name) for name in RESTORING)


def _shape_of(clean_up: CleanUp) -> Hashable:
    return clean_up.kind, *(getattr(clean_up, name) for name in STAGES[0].fields)


def _reduction(whole: SheetMap, draft_pixels: int | None) -> float:
    if draft_pixels is None:
        return 1.0
    reduction = (whole.width * whole.height / draft_pixels) ** 0.5
    return float(reduction) if reduction >= WORTH_A_DRAFT else 1.0


def _in_steps(shrink: float) -> float:
    """The reduction of the source for a draft, in few steps, so that it serves many shapes of the sheet."""
    return float(DRAFT_STEP ** math.floor(math.log(shrink, DRAFT_STEP) + 1e-9))
