"""Coloured pencil is told apart by its hue and left out; what lies over it stays."""

import numpy as np
import pytest

from sketch_scenes import MEASURED, Hand, sketched
from sobercrow.core.arrays import F64, U8
from sobercrow.core.cleanup.clean import clean
from sobercrow.core.cleanup.pencils import pencil_at, without_pencils
from sobercrow.core.errors import SettingError
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import CleanUp
from sobercrow.core.sketch.one_line import meant_lines
from sobercrow.core.sketch.reading import read_sketch

PAPER = np.array([246.0, 243.0, 236.0])


def density(grey: U8) -> F64:
    """How much light a pencil drawing takes away, (h, w)."""
    return np.clip(-np.log(np.maximum(grey, 5.0) / np.median(grey)), 0.0, None)


def drawn(colour: tuple[int, int, int], seed: int) -> tuple[U8, F64, F64]:
    """A drawing in graphite over a rougher one in coloured pencil; densities add up (Beer & Lambert)."""
    graphite = density(sketched(MEASURED["fish"](), Hand(2.5), seed).grey)
    beneath = density(sketched(MEASURED["fish"](), Hand(6.0), seed + 50).grey)
    height, width = np.minimum(graphite.shape, beneath.shape)
    graphite, beneath = graphite[:height, :width], beneath[:height, :width]
    light = graphite[..., None] - beneath[..., None] * np.log(np.array(colour) / 255.0)
    noise = np.random.default_rng(seed).normal(0.0, 2.0, light.shape)
    return np.clip(PAPER * np.exp(-light) + noise, 0, 255).astype(np.uint8), graphite, beneath


@pytest.mark.parametrize(("colour", "seed"), [((52, 110, 190), 1), ((220, 80, 70), 2), ((60, 150, 80), 3)])
def test_graphite_stays_and_coloured_pencil_goes(colour: tuple[int, int, int], seed: int) -> None:
    pixels, graphite, beneath = drawn(colour, seed)
    rows, columns = np.nonzero((beneath > 0.5) & (graphite < 0.02))
    at = len(rows) // 2
    left = without_pencils(pixels, [pencil_at(pixels, float(columns[at]), float(rows[at]))])
    tones = density(left.mean(axis=2).astype(np.uint8))
    assert tones[(beneath > 0.5) & (graphite < 0.02)].mean() < 0.04
    bare = graphite > 0.4
    assert tones[bare].mean() == pytest.approx(graphite[bare].mean(), rel=0.12)


def test_two_pencils_are_left_out_together_and_the_sketch_reads_as_if_they_were_not_there() -> None:
    pixels, graphite, beneath = drawn((52, 110, 190), 4)
    _, _, other = drawn((220, 80, 70), 9)
    both = np.clip(pixels * np.exp(other[..., None] * np.log(np.array((220, 80, 70)) / 255.0)), 0, 255).astype(np.uint8)
    colours = []
    for own, rest in ((beneath, other), (other, beneath)):
        rows, columns = np.nonzero((own > 0.5) & (np.maximum(graphite, rest) < 0.02))
        colours.append(pencil_at(both, float(columns[7]), float(rows[7])))
    cleaned = clean(Picture(both, 200.0, "two"), CleanUp(pencils=tuple(colours), light=0.0)).pixels
    alone = np.clip(PAPER.mean() * np.exp(-graphite), 0, 255).astype(np.uint8)
    readings = [read_sketch(grey) for grey in (cleaned[..., 1], alone)]
    counts = [len(meant_lines(reading, reading.strays_px)) for reading in readings]
    assert abs(counts[0] - counts[1]) <= 1


def test_what_is_no_coloured_pencil_is_said_in_a_sentence() -> None:
    grey = np.dstack([sketched(MEASURED["star"](), Hand(2.5), 1).grey] * 3)
    with pytest.raises(SettingError, match="no coloured pencil here"):
        pencil_at(grey, 430.0, 120.0)
    with pytest.raises(SettingError, match="no colours"):
        pencil_at(grey[..., 0], 1.0, 1.0)
    with pytest.raises(SettingError, match="told from grey"):
        without_pencils(grey, ["#777777"])
    with pytest.raises(SettingError, match="like #5b8fc2, not “blue”"):
        CleanUp(pencils=("blue",))
