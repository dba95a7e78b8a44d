"""Compiled loops that look for the picture of least total variation among all a JPEG file may stand for."""

from __future__ import annotations

import cython
from cython.cimports.libc.math import sqrtf
from cython.cimports.sobercrow.core.cleanup._decompress_kernels import WIDEST

from sobercrow.core.arrays import F32, I64

A1, A2, A3, A4, A5, A6, A7 = (
    0.49039264, 0.46193977, 0.41573481, 0.35355339, 0.27778512, 0.19134172, 0.09754516,
)  # fmt: skip
"""Half the cosines of 1 to 7 sixteenths of half a turn."""


def _forward(x: F32, made: F32) -> None:
    """The DCT of every column of 8 × 8 values, even and odd parts apart (Chen, Smith & Fralick 1977)."""
    for j in range(8):
        s0, d0 = x[j] + x[56 + j], x[j] - x[56 + j]
        s1, d1 = x[8 + j] + x[48 + j], x[8 + j] - x[48 + j]
        s2, d2 = x[16 + j] + x[40 + j], x[16 + j] - x[40 + j]
        s3, d3 = x[24 + j] + x[32 + j], x[24 + j] - x[32 + j]
        made[j] = A4 * ((s0 + s3) + (s1 + s2))
        made[32 + j] = A4 * ((s0 + s3) - (s1 + s2))
        made[16 + j] = A2 * (s0 - s3) + A6 * (s1 - s2)
        made[48 + j] = A6 * (s0 - s3) - A2 * (s1 - s2)
        made[8 + j] = A1 * d0 + A3 * d1 + A5 * d2 + A7 * d3
        made[24 + j] = A3 * d0 - A7 * d1 - A1 * d2 - A5 * d3
        made[40 + j] = A5 * d0 - A1 * d1 + A7 * d2 + A3 * d3
        made[56 + j] = A7 * d0 - A5 * d1 + A3 * d2 - A1 * d3


def _backward(c: F32, made: F32) -> None:
    """Every column of 8 × 8 values of which these are the DCT."""
    for j in range(8):
        e0, e1 = A4 * (c[j] + c[32 + j]), A4 * (c[j] - c[32 + j])
        f0, f1 = A2 * c[16 + j] + A6 * c[48 + j], A6 * c[16 + j] - A2 * c[48 + j]
        s0, s1, s2, s3 = e0 + f0, e1 + f1, e1 - f1, e0 - f0
        o0 = A1 * c[8 + j] + A3 * c[24 + j] + A5 * c[40 + j] + A7 * c[56 + j]
        o1 = A3 * c[8 + j] - A7 * c[24 + j] - A1 * c[40 + j] - A5 * c[56 + j]
        o2 = A5 * c[8 + j] - A1 * c[24 + j] + A7 * c[40 + j] + A3 * c[56 + j]
        o3 = A7 * c[8 + j] - A5 * c[24 + j] + A3 * c[40 + j] - A1 * c[56 + j]
        made[j] = s0 + o0
        made[8 + j] = s1 + o1
        made[16 + j] = s2 + o2
        made[24 + j] = s3 + o3
        made[32 + j] = s3 - o3
        made[40 + j] = s2 - o2
        made[48 + j] = s1 - o1
        made[56 + j] = s0 - o0


def _turn_over(block: F32, made: F32) -> None:
    """Exchange rows and columns of 8 × 8 values."""
    for i in range(8):
        for j in range(8):
            made[8 * i + j] = block[8 * j + i]


def _project_block(plane: F32, stride: int, tall: int, wide: int, low: F32, high: F32) -> None:
    """Move a block to the nearest values whose coefficients lie within their intervals.

    Each of its samples is the mean of `tall` × `wide` pixels, which all move as it does. Coefficients are listed with
    the frequencies across first.
    """
    one, other = cython.declare(cython.float[64]), cython.declare(cython.float[64])
    share = cython.declare(cython.float, 1.0 / (tall * wide))
    if tall == 1 and wide == 1:
        for i in range(8):
            for j in range(8):
                one[8 * i + j] = plane[i * stride + j]
    else:
        for i in range(8):
            for j in range(8):
                total = cython.declare(cython.float, 0.0)
                for y in range(tall):
                    for x in range(wide):
                        total += plane[(i * tall + y) * stride + j * wide + x]
                one[8 * i + j] = total * share
    _forward(one, other)
    _turn_over(other, one)
    _forward(one, other)
    moved = cython.declare(cython.float, 0.0)
    for k in range(64):
        under = cython.declare(cython.float, low[k] - other[k])
        over = cython.declare(cython.float, high[k] - other[k])
        under = under if under > 0.0 else 0.0
        over = over if over < 0.0 else 0.0
        other[k] = under + over
        moved += under - over
    if moved == 0.0:
        return
    _backward(other, one)
    _turn_over(one, other)
    _backward(other, one)
    if tall == 1 and wide == 1:
        for i in range(8):
            for j in range(8):
                plane[i * stride + j] += one[8 * i + j]
        return
    for i in range(8):
        for j in range(8):
            for y in range(tall):
                for x in range(wide):
                    plane[(i * tall + y) * stride + j * wide + x] += one[8 * i + j]


def _project_unit(
    plane: F32, width: int, fy: int, fx: int, top: int, left: int, bottom: int, right: int, low: F32, high: F32,
    first: int, across: int,
) -> None:  # fmt: skip
    """Project the blocks of a part of a plane, a sample of which stands for `fy` × `fx` pixels."""
    for row in range(top // (8 * fy), bottom // (8 * fy)):
        for column in range(left // (8 * fx), right // (8 * fx)):
            block = 64 * (first + row * across + column)
            _project_block(plane + 8 * row * fy * width + 8 * column * fx, width, fy, fx, low + block, high + block)


def project(
    picture: F32, low: F32, high: F32, first: I64, across: I64, every: I64, units: I64, tall: int, wide: int
) -> None:
    """Move some units of a picture (n, h, w) to the nearest values that keep within the intervals; see `relax`."""
    count, height, width = picture.shape[0], picture.shape[1], picture.shape[2]
    planes, lows, highs = cython.address(picture[0, 0, 0]), cython.address(low[0, 0]), cython.address(high[0, 0])
    with cython.nogil:
        for k in range(units.shape[0]):
            top, left = units[k, 0] * tall, units[k, 1] * wide
            for c in range(count):
                _project_unit(
                    planes + c * height * width, width, every[c, 0], every[c, 1], top, left, top + tall, left + wide,
                    lows, highs, first[c], across[c],
                )  # fmt: skip


def _raise_row(
    led: F32, below: F32, down: F32, across: F32, squares: F32, many: int, has_more: bool, step: float
) -> None:
    """One step of a plane's dual variables along a row of so many pixels; adds their squares up.

    `has_more` says that the picture goes on to the right.
    """
    for x in range(many):
        p = cython.declare(cython.float, down[x] + step * (below[x] - led[x]))
        down[x] = p
        squares[x] += p * p
    for x in range(many if has_more else many - 1):
        q = cython.declare(cython.float, across[x] + step * (led[x + 1] - led[x]))
        across[x] = q
        squares[x] += q * q


def _raise_duals(
    led: F32, dual: F32, most: float, weights: F32, count: int, height: int, width: int, top: int, left: int,
    bottom: int, right: int, step: float,
) -> None:  # fmt: skip
    """One step of the dual variables over a part of the picture: each at most so long."""
    size, many = height * width, right - left
    squares = cython.declare(cython.float[WIDEST])
    for y in range(top, bottom):
        at = y * width + left
        for x in range(many):
            squares[x] = 0.0
        for c in range(count):
            row = led + c * size + at
            _raise_row(
                row, row + width if y + 1 < height else row, dual + 2 * c * size + at, dual + (2 * c + 1) * size + at,
                squares, many, right < width, step * weights[c],
            )  # fmt: skip
        for x in range(many):
            squares[x] = most / (sqrtf(squares[x]) if squares[x] > most * most else most)
        for c in range(2 * count):
            for x in range(many):
                dual[c * size + at + x] *= squares[x]


def _lower(
    plane: F32, led: F32, down: F32, across: F32, target: F32, width: int, top: int, left: int, bottom: int, right: int,
    rise: float, towards: float,
) -> None:  # fmt: skip
    """One step of a plane over a part of it, written to `led`: along the divergence of its duals, and to a target."""
    share = cython.declare(cython.float, 1.0 / (1.0 + towards))
    for y in range(top, bottom):
        at = y * width
        for x in range(left, right):
            led[at + x] = down[at + x] + across[at + x]
        if y > 0:
            for x in range(left, right):
                led[at + x] -= down[at + x - width]
        for x in range(max(left, 1), right):
            led[at + x] -= across[at + x - 1]
        for x in range(left, right):
            led[at + x] = (plane[at + x] + rise * led[at + x] + towards * target[at + x]) * share


def _lead(plane: F32, led: F32, width: int, top: int, left: int, bottom: int, right: int) -> None:
    """Take over a part of a plane's next step, and lead on as far again."""
    for y in range(top, bottom):
        for x in range(left, right):
            at = y * width + x
            new = cython.declare(cython.float, led[at])
            led[at] = 2.0 * new - plane[at]
            plane[at] = new


def relax(
    picture: F32, led: F32, dual: F32, longest: float, pull: F32, pull_weight: float, weights: F32, low: F32, high: F32,
    first: I64, across: I64, every: I64, units: I64, tall: int, wide: int, step: float, rounds: int,
) -> None:  # fmt: skip
    """Run so many rounds of the primal-dual method (Chambolle & Pock 2011, "A first-order primal-dual algorithm").

    `picture`, `led` (n, h, w) and `dual` (2 n, h, w) are changed; the dual of no pixel becomes longer than `longest`.
    `units` (m, 2) are the rows and columns, in units of
    `tall` × `wide` pixels, of what may change; plane k has its blocks from `first[k]` on, `across[k]` in a row, a
    sample of it stands for `every[k]` pixels.
    """
    count, height, width = picture.shape[0], picture.shape[1], picture.shape[2]
    size = height * width
    u, v, p = cython.address(picture[0, 0, 0]), cython.address(led[0, 0, 0]), cython.address(dual[0, 0, 0])
    target, lows, highs = cython.address(pull[0, 0, 0]), cython.address(low[0, 0]), cython.address(high[0, 0])
    most = cython.declare(cython.float, 0.0)
    for c in range(count):
        most = max(most, weights[c])
    up = cython.cast(cython.float, 1.0 / (8.0 * most * most * step))
    with cython.nogil:
        for _ in range(rounds):
            for k in range(units.shape[0]):
                top, left = units[k, 0] * tall, units[k, 1] * wide
                _raise_duals(
                    v, p, longest, cython.address(weights[0]), count, height, width, top, left, top + tall,
                    left + wide, up,
                )  # fmt: skip
            for k in range(units.shape[0]):
                top, left = units[k, 0] * tall, units[k, 1] * wide
                for c in range(count):
                    at = c * size
                    _lower(
                        u + at, v + at, p + 2 * at, p + 2 * at + size, target + at, width, top, left, top + tall,
                        left + wide, step * weights[c], step * pull_weight,
                    )  # fmt: skip
                    _project_unit(
                        v + at, width, every[c, 0], every[c, 1], top, left, top + tall, left + wide, lows, highs,
                        first[c], across[c],
                    )  # fmt: skip
                    _lead(u + at, v + at, width, top, left, top + tall, left + wide)
