"""Small shapes beneath others go, what is seen of or was drawn there stays."""

from __future__ import annotations

from drawings import circle
from sobercrow.core.artwork.model import Layer, Shape
from sobercrow.core.tracing.hidden import without_hidden


def layer(name: str, *radii: tuple[float, float]) -> Layer:
    """Discs at 100, by how far right they are and how large."""
    return Layer(name, tuple(Shape((circle(x, 100.0, r),), "#000000") for x, r in radii))


def test_only_what_is_small_and_wholly_covered_goes() -> None:
    lower = layer("lower", (60.0, 3.0), (90.0, 3.0), (100.0, 20.0), (139.0, 3.0))
    ring = Shape((circle(100.0, 100.0, 40.0), circle(100.0, 100.0, 30.0)), "#ffffff")
    upper = Layer("upper", (ring, *layer("", (100.0, 25.0)).items))
    made = without_hidden([lower, upper])
    assert made[1] is upper
    assert made[0].items == (lower.items[0], lower.items[2], lower.items[3])  # half out, large, half out
    assert without_hidden([upper, layer("above", (300.0, 5.0))])[0] is upper
