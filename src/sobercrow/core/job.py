"""A picture on its way to artwork: runs the steps that are stale and keeps their results."""

from __future__ import annotations

import threading
import time
from collections import OrderedDict
from collections.abc import Callable, Hashable
from dataclasses import dataclass, replace
from typing import Any

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.cleanup.clean import levels_in_force, shape_sheet, stretch_tones
from sobercrow.core.errors import Cancelled
from sobercrow.core.inks.separation import Separation, separate
from sobercrow.core.inspect.deviation import Figures, measure
from sobercrow.core.picture.picture import Picture
from sobercrow.core.picture.tones import histogram
from sobercrow.core.settings import CleanUp, Crop, Levels, Settings, Tracing
from sobercrow.core.tracing.borders import Borders
from sobercrow.core.tracing.outlines import Trace, trace

KEPT_RESULTS = 4
"""Results kept per step: enough to go back and forth between a few tries."""

Progress = Callable[[str, float], None]
"""Called with the step's name and the share of it done, 0-1."""


@dataclass(frozen=True, slots=True, eq=False)
class Results:
    """The results of all steps for one group of settings.

    `sheet_tones` is the histogram before, `levels` what was applied to it. A draft was computed from a
    picture reduced by `reduction`; its artwork is at full scale all the same,
    while `cleaned`, `separation` and `borders` are at the reduced one. `seconds` has the time each step
    took when it was last computed.
    """

    settings: Settings
    sheet_tones: F64
    levels: Levels
    cleaned: Picture
    separation: Separation
    artwork: Artwork
    borders: Borders
    figures: Figures
    reduction: float
    seconds: dict[str, float]


class Job:
    """Runs the steps on one source picture; may be called from any thread.

    Results are kept by the settings that made them, so going back to an earlier try costs nothing.
    """

    def __init__(self, source: Picture) -> None:
        """Take the picture; nothing is computed yet."""
        self.source = source
        self._kept: dict[str, OrderedDict[Hashable, Any]] = {}
        self._seconds: dict[str, float] = {}
        self._lock = threading.Lock()

    def run(
        self,
        settings: Settings,
        draft_pixels: int | None = None,
        progress: Progress | None = None,
        cancelled: Callable[[], bool] | None = None,
    ) -> Results:
        """Return the results for these settings.

        Parameters
        ----------
        draft_pixels
            If given, a picture with more pixels is reduced to about that many first, for a quick look.
        progress, cancelled
            Told of, and asked between, pieces of work.

        Raises
        ------
        Cancelled
            If `cancelled` returned true.
        SettingError
            If the settings do not fit the picture.
        """
        reduction = 1.0
        if draft_pixels is not None:
            reduction = max(1.0, (self.source.width * self.source.height / draft_pixels) ** 0.5)
            if reduction < 1.25:  # not worth a second computation
                reduction = 1.0

        def tell(step: str, share: float) -> None:
            if cancelled is not None and cancelled():
                raise Cancelled("The work was stopped.")
            if progress is not None:
                progress(step, share)

        tell("Bring in", 0.0)
        dpi = settings.bring_in.dpi or self.source.dpi
        source = self._step("reduce", (reduction,), lambda: self.source.reduced(reduction))
        tell("Clean up", 0.0)
        clean_up = _reduced_clean_up(settings.clean_up, reduction, source)
        shape_key = (reduction, clean_up.quarter_turns, clean_up.crop)
        sheet: Picture = self._step("shape", shape_key, lambda: shape_sheet(source, clean_up))
        tones: F64 = self._step("tones", shape_key, lambda: histogram(sheet.grey()))
        levels = levels_in_force(clean_up, tones)
        cleaned: Picture = self._step("levels", (shape_key, levels), lambda: stretch_tones(sheet, levels))
        tell("Inks", 0.0)
        inks_key = (shape_key, levels, settings.inks)
        separation: Separation = self._step("inks", inks_key, lambda: separate(cleaned, settings.inks))
        tell("Trace", 0.0)
        tracing = _reduced_tracing(settings.tracing, reduction)
        trace_key = (*inks_key, settings.tracing)
        traced: Trace = self._step(
            "trace", trace_key, lambda: trace(separation, tracing, lambda share: tell("Trace", share))
        )
        tell("Measure", 0.0)
        figures: Figures = self._step("measure", trace_key, lambda: measure(traced.artwork, traced.borders))
        artwork = traced.artwork if reduction == 1.0 else traced.artwork.scaled(reduction)
        with self._lock:
            seconds = dict(self._seconds)
        return Results(
            settings,
            tones,
            levels,
            replace(cleaned, dpi=dpi / reduction),
            separation,
            replace(artwork, dpi=dpi),
            traced.borders,
            figures,
            reduction,
            seconds,
        )

    def _step(self, name: str, key: Hashable, compute: Callable[[], Any]) -> Any:
        with self._lock:
            kept = self._kept.setdefault(name, OrderedDict())
            if key in kept:
                kept.move_to_end(key)
                return kept[key]
        start = time.perf_counter()
        result = compute()
        with self._lock:
            self._seconds[name] = time.perf_counter() - start
            kept[key] = result
            while len(kept) > KEPT_RESULTS:
                kept.popitem(last=False)
        return result


def _reduced_clean_up(settings: CleanUp, reduction: float, source: Picture) -> CleanUp:
    if reduction == 1.0 or settings.crop is None:
        return settings
    width, height = source.width, source.height
    if settings.quarter_turns % 2:
        width, height = height, width
    crop = settings.crop
    left, top = min(int(crop.left / reduction), width - 1), min(int(crop.top / reduction), height - 1)
    right = min(max(round(crop.right / reduction), left + 1), width)
    bottom = min(max(round(crop.bottom / reduction), top + 1), height)
    return replace(settings, crop=Crop(left, top, right, bottom))


def _reduced_tracing(settings: Tracing, reduction: float) -> Tracing:
    """Tolerance and speck size of a draft, in its larger pixels; never finer than its pixels can show."""
    if reduction == 1.0:
        return settings
    return replace(
        settings,
        tolerance_px=min(max(settings.effective_tolerance_px / reduction, 0.15), 5.0),
        speck_px2=max(settings.effective_speck_px2 / reduction**2, 1.0),
        corner_angle_deg=settings.effective_corner_angle_deg,
    )
