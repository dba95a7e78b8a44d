"""Path data of SVG as curves (W3C, SVG 2, chapter 9): read up to the first mistake, as the standard asks (9.5.4)."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Sequence
from itertools import chain
from typing import NamedTuple

import numpy as np

from sobercrow.core.arrays import F64, I64, U8
from sobercrow.core.geometry.affine import Affine
from sobercrow.core.geometry.arcs import WIDEST_PIECE, arm_of
from sobercrow.core.geometry.contour import AnchorKind, Contour, first_way, joint_kinds

SAME_PX = 1e-6
COMMAND = re.compile(r"([MmZzLlHhVvCcSsQqTtAa])([^MmZzLlHhVvCcSsQqTtAa]*)")
NUMBER = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")
ARC = re.compile(
    rf"({NUMBER.pattern})[\s,]*({NUMBER.pattern})[\s,]*({NUMBER.pattern})[\s,]*([01])[\s,]*([01])[\s,]*"
    rf"({NUMBER.pattern})[\s,]*({NUMBER.pattern})[\s,]*"
)
MISTAKE = re.compile(r"[^\sMmZzLlHhVvCcSsQqTtAaeE0-9.,+-]|[eE](?![-+]?\d)")


class Run(NamedTuple):
    """A run of cubics: eight numbers each, x and y of start, handles and end."""

    curves: list[float]
    closed: bool


class _Pen:
    """Draws curves; a point is where it stands."""

    def __init__(self) -> None:
        self.runs: list[Run] = []
        self.curves: list[float] = []
        self.x = self.y = self.start_x = self.start_y = 0.0
        self.handle: tuple[str, float, float] = ("", 0.0, 0.0)

    def end(self, closed: bool) -> None:
        if self.curves:
            self.runs.append(Run(self.curves, closed))
            self.curves = []

    def move(self, x: float, y: float) -> None:
        self.end(False)
        self.x, self.y = self.start_x, self.start_y = x, y

    def close(self) -> None:
        self.line(self.start_x, self.start_y)
        self.end(True)
        self.x, self.y = self.start_x, self.start_y

    def line(self, x: float, y: float) -> None:
        if abs(x - self.x) > SAME_PX or abs(y - self.y) > SAME_PX:
            self.curves += (self.x, self.y, self.x, self.y, x, y, x, y)
        self.x, self.y = x, y

    def cubic(self, x1: float, y1: float, x2: float, y2: float, x: float, y: float) -> None:
        self.curves += (self.x, self.y, x1, y1, x2, y2, x, y)
        self.x, self.y, self.handle = x, y, ("c", x2, y2)

    def quadratic(self, x1: float, y1: float, x: float, y: float) -> None:
        near, far = (
            (self.x + (x1 - self.x) / 1.5, self.y + (y1 - self.y) / 1.5),
            (x + (x1 - x) / 1.5, y + (y1 - y) / 1.5),
        )
        self.cubic(*near, *far, x, y)
        self.handle = ("q", x1, y1)

    def mirrored(self, kind: str) -> tuple[float, float]:
        """The handle that goes on from the one before, if that was of the same kind."""
        last, x, y = self.handle
        return (2.0 * self.x - x, 2.0 * self.y - y) if last == kind else (self.x, self.y)

    def arc(self, rx: float, ry: float, lean_deg: float, large: float, sweep: float, x: float, y: float) -> None:
        """An arc by its ends, from its middle (SVG 2, appendix B.2.4 and B.2.5), one cubic a quarter at most."""
        rx, ry = abs(rx), abs(ry)
        if abs(x - self.x) <= SAME_PX and abs(y - self.y) <= SAME_PX:
            return
        if min(rx, ry) < SAME_PX:
            self.line(x, y)
            return
        cos, sin = math.cos(math.radians(lean_deg)), math.sin(math.radians(lean_deg))
        half_x, half_y = 0.5 * (self.x - x), 0.5 * (self.y - y)
        u, v = (cos * half_x + sin * half_y) / rx, (cos * half_y - sin * half_x) / ry
        far = u * u + v * v
        grow = math.sqrt(max(far, 1.0))
        rx, ry, u, v, far = rx * grow, ry * grow, u / grow, v / grow, min(far, 1.0)
        off = math.sqrt(max(1.0 / far - 1.0, 0.0)) * (-1.0 if large == sweep else 1.0)
        middle_u, middle_v = off * v, -off * u
        first = math.atan2(v - middle_v, u - middle_u)
        turn = math.atan2(-v - middle_v, -u - middle_u) - first
        turn = turn % (2.0 * math.pi) if sweep else -(-turn % (2.0 * math.pi))
        centre_x = cos * rx * middle_u - sin * ry * middle_v + 0.5 * (self.x + x)
        centre_y = sin * rx * middle_u + cos * ry * middle_v + 0.5 * (self.y + y)
        count = max(1, math.ceil(abs(turn) / WIDEST_PIECE))
        arm = arm_of(turn / count, 1.0)

        def place(u: float, v: float) -> tuple[float, float]:
            return centre_x + cos * rx * u - sin * ry * v, centre_y + sin * rx * u + cos * ry * v

        for k in range(count):
            a, b = first + turn * k / count, first + turn * (k + 1) / count
            near = place(math.cos(a) - arm * math.sin(a), math.sin(a) + arm * math.cos(a))
            far_end = place(math.cos(b) + arm * math.sin(b), math.sin(b) - arm * math.cos(b))
            end = (x, y) if k == count - 1 else place(math.cos(b), math.sin(b))
            self.curves += (self.x, self.y, *near, *far_end, *end)
            self.x, self.y = end


COUNTS = {"M": 2, "L": 2, "H": 1, "V": 1, "C": 6, "S": 4, "Q": 4, "T": 2, "A": 7}
DRAWN: dict[str, Callable[..., None]] = {
    "M": lambda pen, dx, dy, x, y: pen.move(dx + x, dy + y),
    "L": lambda pen, dx, dy, x, y: pen.line(dx + x, dy + y),
    "H": lambda pen, dx, _dy, x: pen.line(dx + x, pen.y),
    "V": lambda pen, _dx, dy, y: pen.line(pen.x, dy + y),
    "C": lambda pen, dx, dy, a, b, c, d, x, y: pen.cubic(dx + a, dy + b, dx + c, dy + d, dx + x, dy + y),
    "S": lambda pen, dx, dy, c, d, x, y: pen.cubic(*pen.mirrored("c"), dx + c, dy + d, dx + x, dy + y),
    "Q": lambda pen, dx, dy, a, b, x, y: pen.quadratic(dx + a, dy + b, dx + x, dy + y),
    "T": lambda pen, dx, dy, x, y: pen.quadratic(*pen.mirrored("q"), dx + x, dy + y),
    "A": lambda pen, dx, dy, rx, ry, lean, large, sweep, x, y: pen.arc(rx, ry, lean, large, sweep, dx + x, dy + y),
}
"""What each command draws from where its numbers count: the point the pen is at, or the corner of the page."""


def runs_of(data: str) -> list[Run]:
    """Return what path data draws: lines, quadratic curves and arcs as cubics, lines with no handles."""
    mistake = MISTAKE.search(data)
    pen, first = _Pen(), True
    for command, text in COMMAND.findall(data if mistake is None else data[: mistake.start()]):
        if first and command not in "Mm":
            break
        first = False
        kind, relative = command.upper(), command.islower()
        if kind == "Z":
            pen.close()
            pen.handle = ("", 0.0, 0.0)
            continue
        each = COUNTS[kind]
        texts = list(chain.from_iterable(ARC.findall(text))) if kind == "A" else NUMBER.findall(text)
        numbers = list(map(float, texts))
        for values in zip(*[iter(numbers)] * each, strict=False):
            DRAWN[kind](pen, pen.x if relative else 0.0, pen.y if relative else 0.0, *values)
            if kind not in "CSQT":
                pen.handle = ("", 0.0, 0.0)
            kind = "L" if kind == "M" else kind
        if not numbers or len(numbers) % each:
            break
    pen.end(False)
    return pen.runs


def contours_of(runs: Sequence[Run], ways: Sequence[Affine]) -> list[Contour]:
    """Return runs as contours mapped by a way each, anchors smooth where sides run on into each other, else corners.

    All are made in one go. Mirrored ones are turned round, so that holes stay holes.

    Raises
    ------
    ValueError
        If some numbers are none.
    """
    if not runs:
        return []
    pieces = np.array([len(run.curves) // 8 for run in runs])
    closed = np.array([run.closed for run in runs])
    curves = np.array(list(chain.from_iterable(run.curves for run in runs))).reshape(-1, 4, 2)
    placing = np.array([(way.a, way.c, way.b, way.d, way.e, way.f) for way in ways])
    with np.errstate(invalid="ignore", over="ignore"):
        linear, shift = placing[:, :4].reshape(-1, 2, 2), placing[:, 4:]
        curves = np.einsum("nij,nkj->nki", np.repeat(linear, pieces, axis=0), curves)
        curves += np.repeat(shift, pieces, axis=0)[:, None]
    if not np.isfinite(curves).all():
        raise ValueError("a path has numbers that are none")
    # a closed run of one straight piece goes nowhere and comes back: it stays open
    ends = np.cumsum(pieces)
    straight = (curves[ends - pieces, 1] == curves[ends - pieces, 0]).all(axis=1)
    closed &= (pieces > 1) | ~straight
    counts = pieces + ~closed
    last = np.cumsum(counts) - 1
    first = last - counts + 1
    points = np.empty((int(counts.sum()), 3, 2))
    of_piece = np.ones(len(points), dtype=np.bool_)
    of_piece[last[~closed]] = False
    points[of_piece, 1], points[of_piece, 2] = curves[:, 0], curves[:, 1]
    points[last[~closed], 1:] = curves[ends[~closed] - 1, 3][:, None]
    came = np.arange(len(points)) - 1
    came[first] = last
    goes = np.arange(1, len(points) + 1)
    goes[last] = first
    into = np.empty_like(points[:, 0])
    into[goes[of_piece]] = curves[:, 2]
    into[first[~closed]] = points[first[~closed], 1]
    points[:, 0] = into
    kinds = _kinds(points, came, goes)
    kinds[first[~closed]] = kinds[last[~closed]] = int(AnchorKind.CORNER)
    made = [
        Contour.known(points[a:b], kinds[a:b], shut)
        for a, b, shut in zip(first.tolist(), (last + 1).tolist(), closed.tolist(), strict=True)
    ]
    for k in np.flatnonzero((np.linalg.det(linear) < 0.0) & closed).tolist():
        made[k] = made[k].reversed()
    return made


def _kinds(points: F64, came: I64, goes: I64) -> U8:
    """The kinds of anchors by whether their sides run on into each other."""
    here = points[:, 1]
    into = first_way(here - points[:, 0], here - points[came, 2], here - points[came, 1])
    out = first_way(points[:, 2] - here, points[goes, 0] - here, points[goes, 1] - here)
    return joint_kinds(into, out)
