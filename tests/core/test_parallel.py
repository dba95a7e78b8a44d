from __future__ import annotations

import threading

import pytest

from sobercrow.core import parallel


@pytest.mark.parametrize("rows", [1, parallel.SMALL_ROWS - 1, parallel.SMALL_ROWS, 1001])
def test_strips_cover_all_rows_once(rows: int, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(parallel, "core_count", lambda: 3)
    seen, threads = [], set()

    def work(first: int, last: int) -> None:
        seen.extend(range(first, last))
        threads.add(threading.current_thread().name)

    parallel.in_strips(rows, work)
    assert sorted(seen) == list(range(rows))
    own = threading.current_thread().name
    assert (own in threads) == (rows < parallel.SMALL_ROWS)  # few rows are not worth another thread


def test_a_fault_in_one_part_is_raised() -> None:
    def work(first: int, _last: int) -> None:
        if first == 10:
            raise ValueError("in the second part")

    with pytest.raises(ValueError, match="second part"):
        parallel.in_parts([0, 10, 20], work)
