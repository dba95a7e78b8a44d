"""A figure measured, with what is wanted beside it."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Figure:
    """A figure, the less the better; times are seconds, ratios are to something else in the same run."""

    name: str
    value: float
    wanted: float
    unit: str = "s"

    @property
    def is_reached(self) -> bool:
        """Whether it is what is wanted."""
        return self.value <= self.wanted


def table(figures: list[Figure]) -> str:
    """Return a table of figures, those not reached marked."""
    rows = ["| figure | measured | wanted | |", "|---|---|---|---|"]
    for one in figures:
        mark = "" if one.is_reached else "**not reached**"
        rows.append(f"| {one.name} | {one.value:.3g} {one.unit} | {one.wanted:g} {one.unit} | {mark} |")
    return "\n".join(rows)
