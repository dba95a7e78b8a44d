"""The cutter stand-in: how far, how long, what falls out, what it refuses."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from planted import box, disc
from sobercrow.core.artwork.model import Artwork, Layer, Shape
from sobercrow.core.errors import Cancelled, ExportError
from sobercrow.core.formats.hpgl import HpglSettings, hpgl_bytes
from sobercrow.core.handover.cutter import Blade
from sobercrow.stand_ins.cutter import SimulatedCutter


def plotted(*shapes: Shape, side: float = 1200.0, **how: Any) -> bytes:
    return hpgl_bytes(Artwork((Layer("Black", shapes),), side, side, 300.0), HpglSettings(**how))


def test_the_cutter_goes_along_every_line_and_tells_how_far_and_how_long() -> None:
    seen: list[Blade] = []
    report = SimulatedCutter(wait=lambda _: None).cut(
        plotted(box(300, 300, 200, 100, "#000000"), overcut_mm=0.0), seen.append
    )
    around, way = 600 * 25.4 / 300, float(np.hypot(200 * 25.4 / 300, (1200 - 350) * 25.4 / 300))
    assert (report.lines, report.cut_mm) == (1, pytest.approx(around, abs=0.1))
    assert report.travel_mm <= way + 1.0
    assert [blade.is_down for blade in seen] == sorted(blade.is_down for blade in seen)
    assert seen[-1].share == pytest.approx(1.0)
    assert report.seconds == pytest.approx(report.cut_mm / 120 + report.travel_mm / 400)


def test_what_is_cut_out_before_its_inside_falls_and_is_told() -> None:
    outer, inner = box(300, 300, 300, 300, "#000000"), disc(300, 300, 50, "#000000")
    cutter = SimulatedCutter(wait=lambda _: None)
    good = plotted(outer, inner)
    assert cutter.cut(good, lambda _: None).fallen == ()
    assert cutter.cut(_reordered(good), lambda _: None).fallen == (1,)


def _reordered(data: bytes) -> bytes:
    """The lines of a plotter file in the opposite order."""
    lines = [line for line in data.decode().replace("\n", "").split("PU;") if "PD" in line]
    strokes = [line[line.index("PU") :] for line in lines]
    return ("IN;PA;SP1;" + "PU;".join(reversed(strokes)) + "PU;SP0;").encode()


def test_the_cutter_refuses_what_is_larger_than_its_bed_and_can_be_stopped() -> None:
    cutter = SimulatedCutter(wait=lambda _: None)
    with pytest.raises(ExportError, match="larger than the bed"):
        cutter.cut(plotted(box(4000, 4000, 7500, 300, "#000000"), side=8000.0), lambda _: None)

    def stop(blade: Blade) -> None:
        if blade.share > 0.5:
            raise Cancelled("Stopped.")

    with pytest.raises(Cancelled):
        cutter.cut(plotted(box(300, 300, 200, 100, "#000000")), stop)
