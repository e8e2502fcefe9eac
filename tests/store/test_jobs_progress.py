"""A job whose worker dies again and again goes on while it gets further, and ends when it does not."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

import pytest

from grandferry.store import jobs

Tries = Callable[[Iterator[dict[str, Any]]], int]


@pytest.fixture
def tries(cross: Callable[..., int]) -> Tries:
    """How often a job is taken up whose tries each show one of these counters, and end with their worker."""

    def run(shown: Iterator[dict[str, Any]]) -> int:
        number = jobs.add_job("sort", cross({"old": {"start": "http://old.test/"}}))
        taken = 0
        while (job := jobs.claim()) is not None and taken < 60:
            assert job.id == number
            taken += 1
            jobs.note_progress(number, job.lease, {"done": 0, "all": 100})  # its first step, as every time
            jobs.note_progress(number, job.lease, next(shown))
            jobs.release()
        assert taken == 60 or "no further than before" in jobs.job(number).error
        return taken

    return run


def test_first_steps_alone_are_no_progress(tries: Tries) -> None:
    assert tries({"done": 40, "all": 100} for _ in range(99)) == jobs.IDLE_TRIES + 1


def test_what_is_left_becomes_less(tries: Tries) -> None:
    assert tries({"done": 1, "all": 100 - n} for n in range(99)) == 60, "each try does one of what is left"


def test_a_survey_that_finds_more_and_more_gets_further(tries: Tries) -> None:
    assert tries({"done": 2, "all": 100 + 9 * n, "waiting": 90 + 8 * n} for n in range(99)) == 60


def test_a_survey_that_only_finds_more_gets_no_further(tries: Tries) -> None:
    assert tries({"done": 2, "all": 100 + n, "waiting": 90 + n} for n in range(99)) < 60


def test_each_stage_of_a_round_counts_by_itself(tries: Tries) -> None:
    stages = [{"done": n, "all": 8, "stage": stage} for stage in ("sort", "lift", "refit") for n in range(1, 9)]
    assert tries(iter(stages + [stages[-1]] * 60)) == len(stages) + jobs.IDLE_TRIES
