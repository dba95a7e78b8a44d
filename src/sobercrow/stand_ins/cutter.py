"""A simulated cutter: takes plotter files as a real one does, and tells where its blade is."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator

import numpy as np
import shapely

from sobercrow.core.arrays import F64
from sobercrow.core.errors import ExportError
from sobercrow.core.formats.hpgl import PlotLine, parse_hpgl
from sobercrow.core.handover.cutter import Blade, CutReport, Watch

CUT_MM_S, TRAVEL_MM_S = 120.0, 400.0
STEP_S = 0.03
"""So often it tells where the blade is, in its own time."""
SLACK_MM = 0.03


class SimulatedCutter:
    """Cuts on a bed of 600 × 900 mm; takes the shape of `Cutter`."""

    name = "Simulated cutter"
    bed_mm = (600.0, 900.0)

    def __init__(self, wait: Callable[[float], None] = time.sleep, hurry: float = 4.0) -> None:
        """Make one that goes so many times as fast as a real one; `wait` is how the blade takes its time."""
        self._wait, self._hurry = wait, hurry

    def cut(self, data: bytes, watch: Watch) -> CutReport:
        """Cut a plotter file, see `Cutter`."""
        lines = parse_hpgl(data)
        if not lines:
            raise ExportError("The plotter file draws nothing.")
        every = np.concatenate([line.points for line in lines])
        width, height = every.max(axis=0)
        if every.min() < -SLACK_MM or width > self.bed_mm[0] + SLACK_MM or height > self.bed_mm[1] + SLACK_MM:
            bed = f"{self.bed_mm[0]:.0f} × {self.bed_mm[1]:.0f} mm"
            raise ExportError(
                f"{width:.0f} × {height:.0f} mm is larger than the bed of {bed}; hand over a smaller size."
            )
        moves = list(_moves(lines))
        whole = sum(seconds for *_, seconds in moves)
        spent = cut = travel = 0.0
        for start, end, is_down, line, seconds in moves:
            length = float(np.hypot(*(end - start)))
            cut, travel = (cut + length, travel) if is_down else (cut, travel + length)
            for share in np.linspace(0.0, 1.0, max(2, int(seconds / STEP_S / self._hurry) + 2))[1:]:
                x, y = (start + share * (end - start)).tolist()
                now = spent + float(share) * seconds
                watch(Blade(x, y, is_down, line, now / whole, now))
            spent += seconds
            self._wait(seconds / self._hurry)
        return CutReport(len(lines), cut, travel, spent, fallen(lines))


def _moves(lines: list[PlotLine]) -> Iterator[tuple[F64, F64, bool, int, float]]:
    """Start, end, whether the blade is down, the line, and the seconds each move takes."""
    here = np.zeros(2)
    for n, line in enumerate(lines):
        first = line.points[0]
        yield here, first, False, n, float(np.hypot(*(first - here))) / TRAVEL_MM_S
        for start, end in zip(line.points[:-1], line.points[1:], strict=True):
            yield start, end, True, n, float(np.hypot(*(end - start))) / CUT_MM_S
        here = line.points[-1]


def fallen(lines: list[PlotLine]) -> tuple[int, ...]:
    """Return which lines lie in a piece that had been cut out all around before them; every pen has its own sheet."""
    rings = [
        shapely.Polygon(line.points) if len(line.points) > 3 and _comes_round(line.points) else None for line in lines
    ]
    paths = [shapely.LineString(line.points) for line in lines]
    found = []
    for k, path in enumerate(paths):
        own = [ring for ring, line in zip(rings[:k], lines[:k], strict=True) if line.pen == lines[k].pen]
        if any(ring is not None and shapely.covers(shapely.make_valid(ring), path) for ring in own):
            found.append(k)
    return tuple(found)


def _comes_round(points: F64) -> bool:
    """Whether a line comes back to its start, overcut or not."""
    return bool((np.hypot(*(points[2:] - points[0]).T) <= SLACK_MM).any())
