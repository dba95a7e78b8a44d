"""Colours: sRGB, linear light, L*a*b*, the difference people see, and names."""

from __future__ import annotations

import math

import numpy as np

from sobercrow.core.arrays import F64
from sobercrow.core.inks._colour_kernels import differences
from sobercrow.core.stopping import go_on

SRGB_TO_XYZ = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]])
"""IEC 61966-2-1, linear light to XYZ under D65."""
WHITE = np.array([0.95047, 1.0, 1.08883])


def linear_light(values: F64) -> F64:
    """Return sRGB values 0–255 as linear light 0–1 (IEC 61966-2-1)."""
    share = np.asarray(values, dtype=np.float64) / 255.0
    return np.where(share <= 0.04045, share / 12.92, ((share + 0.055) / 1.055) ** 2.4)


def srgb_values(light: F64) -> F64:
    """Return linear light 0–1 as sRGB values 0–255."""
    light = np.asarray(light, dtype=np.float64)
    curved = 1.055 * np.maximum(light, 0.0) ** (1 / 2.4) - 0.055
    return 255.0 * np.where(light <= 0.0031308, light * 12.92, curved)


def lab_of(rgb: F64) -> F64:
    """Return sRGB colours (..., 3) 0–255 as CIE 1976 L*a*b* under D65."""
    xyz = linear_light(rgb) @ SRGB_TO_XYZ.T / WHITE
    f = np.where(xyz > (6 / 29) ** 3, np.cbrt(xyz), xyz / (3 * (6 / 29) ** 2) + 4 / 29)
    return np.stack([116 * f[..., 1] - 16, 500 * (f[..., 0] - f[..., 1]), 200 * (f[..., 1] - f[..., 2])], axis=-1)


def rgb_of_lab(lab: F64) -> F64:
    """Return L*a*b* colours (..., 3) as sRGB values, clipped to 0–255."""
    fy = (lab[..., 0] + 16) / 116
    f = np.stack([fy + lab[..., 1] / 500, fy, fy - lab[..., 2] / 200], axis=-1)
    xyz = np.where(f > 6 / 29, f**3, 3 * (6 / 29) ** 2 * (f - 4 / 29)) * WHITE
    return np.clip(srgb_values(xyz @ np.linalg.inv(SRGB_TO_XYZ).T), 0.0, 255.0)


def ciede2000(first: F64, second: F64) -> float:
    """Return how different people see two L*a*b* colours: CIEDE2000, weights 1."""
    return float(pairwise_ciede2000(np.atleast_2d(first), np.atleast_2d(second))[0, 0])


def pairwise_ciede2000(first: F64, second: F64) -> F64:
    """Return the CIEDE2000 difference of every L*a*b* colour of (n, 3) to every one of (m, 3), (n, m)."""
    go_on()
    out = np.empty((len(first), len(second)))
    differences(np.ascontiguousarray(first, np.float64), np.ascontiguousarray(second, np.float64), out)
    return out


def rgb_of_hex(colour: str) -> tuple[int, int, int]:
    """Return "#rrggbb" as three values 0–255."""
    r, g, b = bytes.fromhex(colour[1:])
    return r, g, b


def shares_of_hex(colour: str) -> tuple[float, float, float]:
    """Return "#rrggbb" as three shares 0–1."""
    r, g, b = rgb_of_hex(colour)
    return r / 255.0, g / 255.0, b / 255.0


def hex_of_rgb(rgb: F64) -> str:
    """Return three values 0–255 as "#rrggbb"."""
    r, g, b = (int(v) for v in np.clip(np.rint(rgb), 0, 255))
    return f"#{r:02x}{g:02x}{b:02x}"


HUES = (
    (20.0, "pink"),
    (48.0, "red"),
    (72.0, "orange"),
    (105.0, "yellow"),
    (122.0, "lime"),
    (170.0, "green"),
    (225.0, "turquoise"),
    (295.0, "blue"),
    (325.0, "violet"),
    (352.0, "magenta"),
    (360.0, "pink"),
)
"""Names of hues up to an angle in degrees in L*a*b*, by eye."""


def name_of(rgb: F64) -> str:
    """Return a plain name for a colour, such as "dark red"."""
    lightness, a, b = lab_of(np.asarray(rgb, dtype=np.float64))
    chroma = math.hypot(a, b)
    if chroma < 9.0 or (lightness < 18.0 and chroma < 16.0):
        steps = ((20.0, "black"), (42.0, "dark grey"), (68.0, "grey"), (92.0, "pale grey"), (101.0, "white"))
        return next(name for most, name in steps if lightness <= most)
    angle = math.degrees(math.atan2(b, a)) % 360.0
    hue = next(name for most, name in HUES if angle <= most)
    if hue in ("orange", "yellow") and lightness < 55.0:
        hue = "brown" if lightness < 48.0 or hue == "orange" else "olive"
    if hue == "red" and lightness > 72.0:
        hue = "pink"
    dark, pale = (28.0, 62.0) if hue in ("blue", "violet", "brown") else (38.0, 76.0)
    if hue in ("yellow", "lime"):
        dark, pale = 60.0, 94.0
    if chroma < 30.0 and lightness > 45.0:
        return f"greyish {hue}" if lightness < 76.0 else f"pale {hue}"
    return f"dark {hue}" if lightness < dark else f"pale {hue}" if lightness > pale and chroma < 55.0 else hue
