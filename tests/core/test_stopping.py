"""Work is stopped at any moment, on all threads, and too much of it is told of before it is done."""

import threading
import time

import numpy as np
import pytest

from sobercrow.core.errors import BudgetError, Cancelled
from sobercrow.core.job import Job
from sobercrow.core.parallel import core_count, on_cores
from sobercrow.core.picture.picture import Picture
from sobercrow.core.settings import CleanUp, PictureKind, Settings, Tracing
from sobercrow.core.stopping import go_on, stoppable
from sobercrow.core.tracing import budget


def test_stops_reach_all_threads_and_end_with_the_work_they_were_for() -> None:
    asked = threading.Event()
    begun = []

    def work(part: int) -> int:
        begun.append(part)
        if len(begun) == core_count() + 1:
            asked.set()
        go_on()
        return part

    with pytest.raises(Cancelled), stoppable(asked.is_set):
        on_cores(range(1000), work)
    assert len(begun) <= 2 * core_count() + 1
    go_on()
    assert on_cores(range(40), lambda part: part * part) == [k * k for k in range(40)]


def test_the_first_fault_ends_the_rest_and_work_inside_of_work_never_waits_for_a_thread() -> None:
    done = []

    def work(part: int) -> None:
        if part == 3:
            raise ValueError("three")
        time.sleep(0.001)
        done.append(part)

    with pytest.raises(ValueError, match="three"):
        on_cores(range(500), work)
    assert len(done) < 100
    nested = on_cores(range(8), lambda _: sum(on_cores(range(8), lambda k: sum(on_cores(range(4), lambda j: j * k)))))
    assert nested == [168] * 8


def noise(side: int) -> Picture:
    grey = np.random.default_rng(2).integers(0, 256, (side, side, 1), dtype=np.uint8)
    return Picture(np.repeat(grey, 3, axis=2), 300.0)


@pytest.mark.parametrize("limit", ["MOST_POINTS", "MOST_PLACES"])
def test_what_is_mostly_grain_is_told_of_and_traced_if_that_is_asked_for(limit: str, monkeypatch) -> None:
    monkeypatch.setattr(budget, limit, 3000)
    plain = CleanUp(kind=PictureKind.DIGITAL)
    job = Job(noise(160))
    with pytest.raises(BudgetError, match="mostly grain"):
        job.run(Settings(clean_up=plain))
    assert job.run(Settings(clean_up=plain, tracing=Tracing(anyway=True))).artwork.anchor_count > 1000


@pytest.mark.parametrize("share", [0.02, 0.3, 0.7])
def test_a_job_can_be_stopped_wherever_it_is(share: float) -> None:
    picture, calls = noise(200), []
    with stoppable(lambda: bool(calls.append(0))):
        Job(picture).run(Settings())
    left = [round(share * len(calls))]

    def asked() -> bool:
        left[0] -= 1
        return left[0] < 0

    job = Job(picture)
    with pytest.raises(Cancelled), stoppable(asked):
        job.run(Settings())
    again = job.run(Settings())  # nothing half done is kept
    assert again.artwork == Job(picture).run(Settings()).artwork
