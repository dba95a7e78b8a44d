from __future__ import annotations

import pytest

from sobercrow.core.artwork.edits import change_shapes
from sobercrow.core.artwork.model import Artwork, Shape


def test_scaled_artwork_keeps_its_true_size(artwork: Artwork) -> None:
    double = artwork.scaled(2.0)
    assert double.width_px / double.dpi == artwork.width_px / artwork.dpi
    assert double.anchor_count == artwork.anchor_count
    for large, small in zip(double.shapes, artwork.shapes, strict=True):
        assert large.bounds() == pytest.approx([2 * v for v in small.bounds()])


def test_counts_add_up_over_layers_shapes_and_contours(artwork: Artwork) -> None:
    assert artwork.anchor_count == sum(len(c) for s in artwork.shapes for c in s.contours)
    assert 0 < artwork.corner_count < artwork.anchor_count
    assert change_shapes(artwork, lambda _index, _shape: None).anchor_count == 0


def test_a_shape_without_contours_is_refused() -> None:
    with pytest.raises(ValueError, match="at least one contour"):
        Shape(())
