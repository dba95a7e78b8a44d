"""Numbers as text, with no idle zeros."""

from __future__ import annotations

from collections.abc import Sequence

DECIMALS = 3
"""At least; more where a px is so large that places would move, see `svg.STAY_MM`."""


def number(value: float, decimals: int = DECIMALS) -> str:
    """Return a number with at most so many decimals, one at least, and no idle zeros."""
    return numbers([value], decimals)[0]


def numbers(values: Sequence[float], decimals: int) -> list[str]:
    """Return the same for many numbers, in one go."""
    if not values:
        return []
    text = "\n".join([f"%.{decimals}f"] * len(values)) % tuple(values)
    made = [one.rstrip("0").rstrip(".") for one in text.split("\n")]
    return ["0" if one == "-0" else one for one in made] if "-0" in made else made
