"""The picture check: what stands in the way of a good trace, in plain words, and the one change that mends it."""

from __future__ import annotations

from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from sobercrow.core.arrays import U8
from sobercrow.core.cleanup import dirt
from sobercrow.core.cleanup.clean import Sheet, ink_and_paper
from sobercrow.core.cleanup.enlarge import suggested_factor
from sobercrow.core.cleanup.find_sheet import find_sheet
from sobercrow.core.cleanup.light import even_out, read_light
from sobercrow.core.cleanup.pale_lines import find_pale_lines, told_lines
from sobercrow.core.cleanup.sheet import reshape
from sobercrow.core.cleanup.straighten import find_turn
from sobercrow.core.geometry.polygon import polygon_area
from sobercrow.core.picture.picture import Picture, grey_of
from sobercrow.core.settings import CleanUp, Corners, Levels, PictureKind, Settings

LEAST_TURN_DEG = 0.25
FAINT_CONTRAST = 100
WORTH_UNSLANTING = 0.01
"""A sheet whose corners are off a rectangle by less than this, relative to its diagonal, has no slant."""
FILLS_PICTURE = 0.97
GUIDE_MARGIN = 15.0


class Fault(StrEnum):
    """What can stand in the way of a good trace."""

    SLANT = "slant"
    LIGHT = "light"
    TURN = "turn"
    SIZE = "size"
    DIRT = "dirt"
    LINES = "lines"
    CONTRAST = "contrast"
    RESOLUTION = "resolution"


@dataclass(frozen=True, slots=True)
class Finding:
    """One line of the check: what is wrong, what its action is called, and the settings that mend it.

    `value` is what the mended setting is set to; None stands for the automatic choice.
    """

    fault: Fault
    sentence: str
    action: str
    value: Corners | float | None = None


def check_picture(
    source: Picture, sheet_pixels: U8, settings: CleanUp, kind: PictureKind = PictureKind.SCAN
) -> tuple[Finding, ...]:
    """Look a picture over.

    Parameters
    ----------
    source
        The picture as brought in; a slanted sheet is looked for in it.
    sheet_pixels
        The sheet, (h, w) or (h, w, 3), turned, straightened and cropped as the settings say, nothing else done to it.
    kind
        What it is taken for: light, dirt and contrast of a digital graphic are as they are meant.
    """
    findings: list[Finding] = []
    if settings.slant is None:
        corners = find_sheet(source.pixels)
        if corners is not None and _is_slanted(corners, source.width, source.height):
            sentence = "The sheet lies in the picture at a slant, with its surroundings."
            findings.append(Finding(Fault.SLANT, sentence, "Undo slant", corners))
    slanted = bool(findings)
    grey = grey_of(sheet_pixels)
    digital = kind is PictureKind.DIGITAL
    light = read_light(grey)
    if light.is_uneven and not digital:
        where = light.darkest_side
        sentence = f"The light falls off by {100 * light.fall_off:.0f} % {where}."
        findings.append(Finding(Fault.LIGHT, sentence, "Even out"))
        grey = even_out(grey, light.gain(1.0))
    turned = find_turn(grey)
    if turned is not None and abs(turned.angle_deg) >= LEAST_TURN_DEG and not slanted:
        total = settings.in_force().angle_deg + turned.angle_deg
        if abs(total) <= 45.0:
            sentence = f"Turned by {abs(turned.angle_deg):.1f}°."
            findings.append(Finding(Fault.TURN, sentence, "Straighten", round(total, 2)))
    factor = suggested_factor(grey.shape[1], grey.shape[0])
    if factor > 1:
        sentence = f"Only {max(grey.shape)} px {'across' if grey.shape[1] >= grey.shape[0] else 'high'}."
        findings.append(Finding(Fault.SIZE, sentence, f"Enlarge {factor} ×", float(factor)))
    findings += [] if digital else _dirt(grey)
    ink, paper = ink_and_paper(grey)
    findings += _lines(grey, ink, paper)
    if paper - ink < FAINT_CONTRAST and not digital:
        sentence = f"Ink and paper are only {paper - ink} levels apart."
        findings.append(Finding(Fault.CONTRAST, sentence, "Stretch tones"))
    if not source.dpi_stated:
        findings.append(Finding(Fault.RESOLUTION, "No resolution is stated; 300 dpi is assumed.", "Set true size"))
    return tuple(findings)


def _is_slanted(corners: Corners, width: int, height: int) -> bool:
    if polygon_area(np.array(corners.points)) > FILLS_PICTURE * width * height:
        return False
    (ax, ay), (bx, by), (cx, cy), (dx, dy) = corners.points
    diagonal = ((cx - ax) ** 2 + (cy - ay) ** 2) ** 0.5
    # in a parallelogram opposite sides are alike; in an upright rectangle its sides are level and upright as well
    off = max(abs(ax - dx), abs(bx - cx), abs(ay - by), abs(dy - cy))
    return bool(off > WORTH_UNSLANTING * diagonal)


def _dirt(grey: U8) -> list[Finding]:
    noise, edges = dirt.noise_level(grey), dirt.edge_noise(grey)
    if not dirt.is_dirty(noise, edges):
        return []
    sentence = "Compression has left dirt along the edges." if edges > 2.0 * noise else "The paper is grainy."
    return [Finding(Fault.DIRT, sentence, "Smooth")]


def _lines(grey: U8, ink: int, paper: int) -> list[Finding]:
    guides = find_pale_lines(grey, paper, ink)
    if not guides:
        return []
    palest = min(90.0, 100.0 * max(g.darkness for g in guides) + GUIDE_MARGIN)
    verb = "are" if len(guides) > 1 else "is"
    told = told_lines(guides)
    sentence = f"{told[0].upper()}{told[1:]} {verb} paler than the ink."
    return [Finding(Fault.LINES, sentence, "Take out", float(round(palest)))]


def mend(settings: Settings, finding: Finding, source: Picture) -> Settings:
    """Return the settings with what a finding names put right."""
    clean = settings.clean_up
    value = finding.value
    if finding.fault is Fault.SLANT:
        clean = reshape(
            clean.switched("slant", True), source.width, source.height, slant=value, ratio=None, angle_deg=0.0
        )
    elif finding.fault is Fault.TURN:
        clean = reshape(clean.switched("angle", True), source.width, source.height, angle_deg=value)
    elif finding.fault is Fault.SIZE:
        assert isinstance(value, float)
        clean = replace(clean.switched("enlarge", True), enlarge=round(value))
    elif finding.fault is Fault.LIGHT:
        clean = replace(clean.switched("light", True), light=None)
    elif finding.fault is Fault.DIRT:
        clean = replace(clean.switched("smooth", True), smooth=None)
    elif finding.fault is Fault.LINES:
        assert isinstance(value, float)
        clean = replace(clean.switched("guides", True), guides=value)
    elif finding.fault is Fault.CONTRAST:
        clean = replace(clean.switched("levels", True), levels=None)
    return replace(settings, clean_up=clean)


def is_mended(settings: Settings, finding: Finding) -> bool:
    """Tell whether the settings already put right what a finding names."""
    clean = settings.clean_up.in_force()
    by_fault = {
        Fault.SLANT: clean.slant is not None,
        Fault.LIGHT: clean.light is None or clean.light >= 50.0,
        Fault.TURN: False,  # once straightened, the sheet is looked over anew
        Fault.SIZE: clean.enlarge > 1,
        Fault.DIRT: clean.smooth is None or clean.smooth > 0.0,
        Fault.LINES: clean.guides > 0.0,
        Fault.CONTRAST: clean.levels is None or clean.levels.white - clean.levels.black < 2 * FAINT_CONTRAST,
        Fault.RESOLUTION: settings.bring_in.dpi is not None,
    }
    return by_fault[finding.fault]


def what_was_done(settings: CleanUp, sheet: Sheet) -> list[str]:
    """Return what clean-up did to a sheet, one plain phrase each, for a report."""
    settings = settings.in_force()
    done = []
    if settings.slant is not None:
        done.append("slant undone")
    if settings.quarter_turns or settings.mirrored:
        done.append("turned" if not settings.mirrored else "mirrored")
    if settings.angle_deg:
        done.append(f"straightened by {settings.angle_deg:.2f}°")
    if settings.pencils:
        done.append("coloured pencil left out")
    if sheet.shade is not None:
        done.append(f"light evened out, it fell off by {100 * sheet.shade.fall_off:.0f} %")
    if settings.stains:
        done.append("stains lifted")
    if sheet.smoothing:
        done.append(f"dirt smoothed by {sheet.smoothing:.0f} %")
    if sheet.guides:
        done.append(f"{told_lines(sheet.guides)} taken out")
    if sheet.levels != Levels():
        done.append(f"tones from {sheet.levels.black} to {sheet.levels.white} stretched")
    if settings.enlarge > 1:
        done.append(f"enlarged {settings.enlarge} ×")
    return done
