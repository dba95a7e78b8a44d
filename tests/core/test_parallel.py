from __future__ import annotations

import pytest

from sobercrow.core import parallel


@pytest.mark.parametrize("rows", [1, parallel.SMALL_ROWS - 1, parallel.SMALL_ROWS, 1001])
def test_strips_cover_all_rows_once(rows: int, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(parallel, "core_count", lambda: 3)
    strips: list[tuple[int, int]] = []
    parallel.in_strips(rows, lambda first, last: strips.append((first, last)))
    assert sorted(row for first, last in strips for row in range(first, last)) == list(range(rows))
    assert len(strips) == (1 if rows < parallel.SMALL_ROWS else 3)  # few rows are not worth another thread


@pytest.mark.parametrize("faulty", [0, 10])
def test_a_fault_in_any_part_is_raised(faulty: int) -> None:
    def work(first: int, _last: int) -> None:
        if first == faulty:
            raise ValueError("in one part")

    with pytest.raises(ValueError, match="in one part"):
        parallel.in_parts([0, 10, 20], work)


def test_work_inside_of_work_never_waits_for_a_thread() -> None:
    done: list[int] = []

    def deep(levels: int, first: int) -> None:
        if levels:
            parallel.in_parts([0, 1, 2, 3], lambda inner, _last: deep(levels - 1, inner))
        else:
            done.append(first)

    deep(4, 0)
    assert len(done) == 3**4
