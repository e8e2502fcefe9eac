"""Page work in child processes: in order, several at a time; what ends its child or hangs costs only itself."""

from __future__ import annotations

import os
import signal
import socket
import time
from typing import Any

import pytest

from grandferry.core.errors import PlanError
from grandferry.work.jobs import child, children, pool
from grandferry.work.jobs.children import TaskEnded
from grandferry.work.jobs.pool import PagePool


def odd(task: Any) -> Any:
    """Twice a number; words are acts."""
    if task == "end":
        os.kill(os.getpid(), signal.SIGKILL)
    if task == "hang":
        time.sleep(60)
    if task == "raise":
        raise ValueError("no number")
    if task == "unkept":
        raise PlanError("a fault", file="plan.yaml", line=3)
    if task == "memory":
        return len(bytearray(2 * 3_000_000_000))
    return 2 * task


def triple(task: int) -> tuple[int, int]:
    return 3 * task, os.getpid()


def test_results_come_in_order_and_another_function_gets_its_own_children() -> None:
    made = PagePool(2)
    try:
        assert list(made.run(odd, range(500))) == [2 * n for n in range(500)]
        tripled = list(made.run(triple, range(100)))
        assert [value for value, _ in tripled] == [3 * n for n in range(100)]
        assert os.getpid() not in {process for _, process in tripled} and len({p for _, p in tripled}) <= 2
        assert list(made.run(odd, range(50))) == [2 * n for n in range(50)]
    finally:
        made.close()


def test_what_ends_its_child_costs_only_itself(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(children, "TASK_SECONDS", 2.0)
    tasks: list[Any] = [*range(200)]
    for at, act in ((10, "end"), (11, "raise"), (90, "hang"), (91, "end"), (150, "memory"), (199, "unkept")):
        tasks[at] = act
    made = PagePool(2)
    try:
        found = list(made.run(odd, tasks))
        again = list(made.run(odd, range(100)))  # children that took the place of those know what to do
    finally:
        made.close()
    assert again == [2 * n for n in range(100)]
    assert [f for n, f in enumerate(found) if isinstance(tasks[n], int)] == [2 * t for t in tasks if isinstance(t, int)]
    assert isinstance(found[10], TaskEnded) and "ended its process" in str(found[10])
    assert isinstance(found[90], TaskEnded) and "took more than" in str(found[90])
    assert isinstance(found[91], TaskEnded) and isinstance(found[150], MemoryError)
    assert isinstance(found[11], ValueError) and str(found[11]) == "no number"
    assert isinstance(found[199], Exception) and "a fault" in str(found[199])


def test_a_few_pages_need_no_child() -> None:
    made = PagePool()
    assert list(made.run(odd, [1, "raise"]))[0] == 2
    assert made._loop is None and pool._SMALL > 2


@pytest.mark.parametrize("sent", [b"", b"abc", child.LENGTH.pack(1000) + b"half of it"])
@pytest.mark.parametrize("reset", [True, False])
def test_a_child_ends_quietly_however_its_other_end_goes(sent: bytes, reset: bool) -> None:
    ours, theirs = socket.socketpair()
    ours.sendall(sent)
    if reset:  # closed with an answer not read, the connection is reset
        theirs.sendall(b"an answer nobody reads")
    ours.close()
    with theirs, theirs.makefile("rb") as given:
        assert child.received(given) is None
