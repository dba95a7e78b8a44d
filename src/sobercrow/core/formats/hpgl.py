"""Plotter files: HP-GL (Hewlett-Packard, HP-GL reference), in steps of 0.025 mm, y up from the lower left."""

from __future__ import annotations

import re
from dataclasses import dataclass, field

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.artwork.model import Artwork
from sobercrow.core.errors import ExportError
from sobercrow.core.geometry.combine import Progress
from sobercrow.core.geometry.polygon import along_of
from sobercrow.core.handover.route import Line, Route, route
from sobercrow.core.settings import Checked, Meaning, px_to_mm, setting

STEP_MM = 0.025
"""A plotter unit."""
FLAT_MM = 0.005
FURTHEST = 2**23
"""The largest coordinate a plotter takes, in steps."""


@dataclass(frozen=True, slots=True)
class HpglSettings(Checked):
    """How a plotter file is made."""

    overcut_mm: float = setting(
        0.5,
        Meaning(
            "Overcut", "Closed contours run on past their start, so that no bridge is left.", 0.0, 10.0, "mm", 0.1, 2
        ),
    )
    is_sorted: bool = field(
        default=True, metadata={"label": "Shortest way", "help": "Inner contours first either way; else as they lie."}
    )


def planned(artwork: Artwork, settings: HpglSettings, progress: Progress | None = None) -> Route:
    """Return the way a plotter takes over laid artwork."""
    return route(artwork, FLAT_MM, settings.is_sorted, progress)


def hpgl_bytes(artwork: Artwork, settings: HpglSettings = HpglSettings(), progress: Progress | None = None) -> bytes:
    """Return laid artwork as a plotter file: a pen for each ink, the tool up at the end.

    Raises `ExportError` as `hpgl_of` does.
    """
    return hpgl_of(artwork, planned(artwork, settings, progress), settings)


def hpgl_of(artwork: Artwork, way: Route, settings: HpglSettings) -> bytes:
    """Return a planned way over laid artwork as a plotter file.

    Raises
    ------
    ExportError
        If something is not on the page, where a plotter cannot go.
    """
    height = px_to_mm(artwork.height_px, artwork.dpi)
    parts = ["IN;PA;"]
    for pen, one in enumerate(way.passes, start=1):
        parts.append(f"SP{pen};")
        for line in one.lines:
            steps = _steps(_with_overcut(line, settings.overcut_mm), height)
            if steps.min() < 0 or steps.max() > FURTHEST:
                raise ExportError(
                    "Something lies outside the page, where a plotter cannot go; move it or choose a page."
                )
            first, *rest = (f"{x},{y}" for x, y in steps.tolist())
            parts.append(f"PU{first};PD{','.join(rest or [first])};PU;")
    parts.append("SP0;")
    return "\n".join(parts).encode("ascii") + b"\n"


def _with_overcut(line: Line, overcut_mm: float) -> F64:
    """The points of a line; a closed one led back to its start and on by the overcut."""
    if not line.closed:
        return line.points
    ring = np.vstack([line.points, line.points[:1]])
    along = along_of(ring)
    beyond = min(overcut_mm, float(along[-1]))
    if beyond <= 0.0:
        return ring
    within = ring[(along > 0.0) & (along < beyond)]
    end = [np.interp(beyond, along, ring[:, k]) for k in range(2)]
    return np.vstack([ring, within, end])


def _steps(points: F64, height_mm: float) -> np.ndarray:
    """Points in mm, y down, as whole steps, y up; no step twice in a row."""
    steps = np.rint(np.column_stack([points[:, 0], height_mm - points[:, 1]]) / STEP_MM).astype(np.int64)
    kept = np.ones(len(steps), dtype=bool)
    kept[1:] = (np.diff(steps, axis=0) != 0).any(axis=1)
    return steps[kept]


@dataclass(frozen=True, slots=True, eq=False)
class PlotLine:
    """A line as a plotter file has it: its pen, and its points (n, 2) in mm, y up."""

    pen: int
    points: F64


def parse_hpgl(data: bytes) -> list[PlotLine]:
    """Return the lines a plotter file draws by SP, PU, PD and PA; raise `ExportError` for other commands."""
    pen, here, drawing, made = 0, (0.0, 0.0), False, list[PlotLine]()
    points: list[tuple[float, float]] = []
    for command, numbers in re.findall(r"([A-Z]{2})([^;A-Z]*);?", data.decode("ascii", errors="replace")):
        values = [float(v) * STEP_MM for v in re.findall(r"-?\d+(?:\.\d+)?", numbers)]
        if command in ("PU", "PD", "PA"):
            drawing = drawing if command == "PA" else command == "PD"
            places = list(zip(values[::2], values[1::2], strict=False))
            if drawing:
                points = points or [here]
                points += places
            elif len(points) > 1:
                made.append(PlotLine(pen, np.array(points)))
            points = points if drawing else []
            here = places[-1] if places else here
        elif command == "SP":
            pen = round(values[0] / STEP_MM) if values else 0
        elif command != "IN":
            raise ExportError(f"A plotter file has a command this does not know: {command}.")
    return made
