"""Compiled loops that look for the picture of least total variation among all a JPEG file may stand for."""

from __future__ import annotations

import cython
from cython.cimports.libc.math import sqrtf
from cython.cimports.sobercrow.core.cleanup._decompress_kernels import WIDEST

from sobercrow.core.arrays import F32, I64


def _transform(block: F32, across: F32, down: F32) -> None:
    """Multiply a block of 8 × 8 values by one matrix from the left and by another from the right, in place."""
    rows = cython.declare(cython.float[64])
    for i in range(8):
        for j in range(8):
            rows[8 * i + j] = 0.0
        for k in range(8):
            for j in range(8):
                rows[8 * i + j] += across[8 * i + k] * block[8 * k + j]
    for i in range(8):
        for j in range(8):
            block[8 * i + j] = 0.0
        for k in range(8):
            for j in range(8):
                block[8 * i + j] += rows[8 * i + k] * down[8 * k + j]


def _project_block(
    plane: F32, stride: int, tall: int, wide: int, low: F32, high: F32, basis: F32, back: F32
) -> None:
    """Move a block to the nearest values whose coefficients lie within their intervals.

    Each of its samples is the mean of `tall` × `wide` pixels, which all move as it does.
    """
    block = cython.declare(cython.float[64])
    share = cython.cast(cython.float, 1.0 / (tall * wide))
    for i in range(8):
        for j in range(8):
            total = cython.declare(cython.float, 0.0)
            for y in range(tall):
                for x in range(wide):
                    total += plane[(i * tall + y) * stride + j * wide + x]
            block[8 * i + j] = total * share
    _transform(block, basis, back)
    moved = cython.declare(cython.float, 0.0)
    for k in range(64):
        off = cython.declare(cython.float, min(max(block[k], low[k]), high[k]) - block[k])
        block[k] = off
        moved += off * off
    if moved == 0.0:
        return
    _transform(block, back, basis)
    for i in range(8):
        for j in range(8):
            for y in range(tall):
                for x in range(wide):
                    plane[(i * tall + y) * stride + j * wide + x] += block[8 * i + j]


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
    led: F32, dual: F32, calm: F32, weights: F32, count: int, height: int, width: int, top: int, left: int,
    bottom: int, right: int, step: float,
) -> None:  # fmt: skip
    """One step of the dual variables over a part of the picture: each at most as long as `calm` says there."""
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
            most = cython.declare(cython.float, calm[at + x])
            squares[x] = most / max(most, sqrtf(squares[x]))
        for c in range(2 * count):
            for x in range(many):
                dual[c * size + at + x] *= squares[x]


def _lower(
    plane: F32, led: F32, down: F32, across: F32, target: F32, width: int, top: int, left: int, bottom: int, right: int,
    rise: float, towards: float,
) -> None:  # fmt: skip
    """One step of a plane over a part of the picture, written to `led`: along the duals' divergence, and to a target."""
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
    picture: F32, led: F32, dual: F32, calm: F32, pull: F32, pull_weight: float, weights: F32, low: F32, high: F32,
    first: I64, across: I64, every: I64, units: I64, tall: int, wide: int, step: float, rounds: int, basis: F32,
    back: F32,
) -> None:  # fmt: skip
    """Run so many rounds of the primal-dual method (Chambolle & Pock 2011, "A first-order primal-dual algorithm").

    `picture`, `led` (n, h, w) and `dual` (2 n, h, w) are changed. `units` (m, 2) are the rows and columns, in units of
    `tall` × `wide` pixels, of what may change; plane k has its blocks from `first[k]` on, `across[k]` in a row, a
    sample of it stands for `every[k]` pixels.
    """
    count, height, width = picture.shape[0], picture.shape[1], picture.shape[2]
    size = height * width
    u, v, p = cython.address(picture[0, 0, 0]), cython.address(led[0, 0, 0]), cython.address(dual[0, 0, 0])
    target, longest = cython.address(pull[0, 0, 0]), cython.address(calm[0, 0])
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
                    fy, fx = every[c, 0], every[c, 1]
                    for row in range(top // (8 * fy), (top + tall) // (8 * fy)):
                        for column in range(left // (8 * fx), (left + wide) // (8 * fx)):
                            block = first[c] + row * across[c] + column
                            _project_block(
                                v + at + 8 * row * fy * width + 8 * column * fx, width, fy, fx,
                                cython.address(low[block, 0]), cython.address(high[block, 0]),
                                cython.address(basis[0, 0]), cython.address(back[0, 0]),
                            )  # fmt: skip
                    _lead(u + at, v + at, width, top, left, top + tall, left + wide)
