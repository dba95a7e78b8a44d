"""Work shared out among the cores."""

from __future__ import annotations

import threading
import time

import pytest

from sobercrow.core import parallel
from sobercrow.core.parallel import in_parts, in_strips, on_cores


@pytest.fixture(params=[1, 2, 4])
def cores(request, monkeypatch) -> int:
    """So many cores, whatever the machine has."""
    monkeypatch.setattr(parallel, "core_count", lambda: request.param)
    return int(request.param)


def test_results_come_in_the_order_of_the_parts_and_the_caller_is_told_of_each(cores: int) -> None:
    told: list[int] = []
    assert on_cores(range(9), lambda k: k * k, told.append) == [k * k for k in range(9)]
    assert told == sorted(told)
    assert cores > 1 or told == list(range(1, 10))


def test_one_part_is_done_by_the_caller_alone(cores: int) -> None:
    assert on_cores([0], lambda _k: threading.current_thread()) == [threading.current_thread()], cores
    assert on_cores([], lambda k: k) == []


def test_what_is_raised_ends_the_rest_and_is_raised_here(cores: int) -> None:
    begun: list[int] = []

    def work(k: int) -> None:
        begun.append(k)
        if k == 3:
            raise ValueError("three")
        time.sleep(0.001)

    with pytest.raises(ValueError, match="three"):
        on_cores(range(1000), work)
    assert 3 in begun
    assert len(begun) < 500
    assert cores > 1 or begun == [0, 1, 2, 3]


def test_strips_and_parts_cover_every_row_once(cores: int) -> None:
    for rows in (0, 1, 299, 300, 5000):
        seen: list[tuple[int, int]] = []
        in_strips(rows, lambda first, last, seen=seen: seen.append((first, last)))
        assert [row for first, last in sorted(seen) for row in range(first, last)] == list(range(rows)), cores
    parts: list[tuple[int, int]] = []
    in_parts([0, 2, 5], lambda first, last: parts.append((first, last)))
    assert sorted(parts) == [(0, 2), (2, 5)]
