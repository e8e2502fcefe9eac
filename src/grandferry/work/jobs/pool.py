"""CPU-heavy page work in child processes. A child that dies or takes too long costs its page, not the run."""

from __future__ import annotations

import gc
import multiprocessing
import multiprocessing.forkserver
import os
import resource
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Future, ProcessPoolExecutor, TimeoutError
from concurrent.futures.process import BrokenProcessPool
from multiprocessing.context import ForkServerContext
from typing import Any

MEMORY_CAP = 3_000_000_000  # bytes of address space a child may take
PAGE_SECONDS = 30.0
COLLECT_EVERY = 64  # pages
COLLECT_ALL_EVERY = 4096
_SMALL = 40  # fewer pages than this are done without children


def begin_child() -> None:
    """A child's first act: its limits, and no collector in the middle of a page."""
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_CAP, MEMORY_CAP))
    gc.freeze()  # what was imported is no garbage and need not be looked at again
    gc.disable()


class PageGarbage:
    """Page trees are large and full of circles, so the collector runs between pages, not within them
    (measured: it halves the time of reading a page). Use as a context; call after each page."""

    def __init__(self) -> None:
        self._pages = 0

    def __enter__(self) -> PageGarbage:
        gc.freeze()
        gc.disable()
        return self

    def __exit__(self, *_: object) -> None:
        gc.enable()

    def __call__(self, pages: int = 1) -> None:
        before = self._pages
        self._pages += pages
        if self._pages // COLLECT_ALL_EVERY > before // COLLECT_ALL_EVERY:
            gc.collect()
        elif self._pages // COLLECT_EVERY > before // COLLECT_EVERY:
            gc.collect(0)  # the pages; what is remembered longer need not be looked at each time


page_done = PageGarbage()


def _task(function: Callable[..., Any], *args: Any) -> Any:
    try:
        return function(*args)
    finally:
        page_done()


def workers() -> int:
    return max(1, min(8, os.cpu_count() or 1))


def context() -> ForkServerContext:
    made = multiprocessing.get_context("forkserver")  # its imports are made once, a fresh child is cheap
    made.set_forkserver_preload(["grandferry.work.jobs.child"])
    return made


def prepare() -> None:
    """Start the process that children are forked from, which takes its imports a moment: before the first job comes."""
    context()
    multiprocessing.forkserver.ensure_running()


class PagePool:
    """``run`` gives each task's result in order of the tasks, or an Exception in its place."""

    def __init__(self, size: int | None = None):
        self.size = size or workers()
        self._pool: ProcessPoolExecutor | None = None

    def _open(self) -> ProcessPoolExecutor:
        if self._pool is None:
            self._pool = ProcessPoolExecutor(self.size, mp_context=context(), initializer=begin_child)
        return self._pool

    def submit(self, function: Callable[..., Any], *args: Any) -> Future[Any]:
        try:
            return self._open().submit(_task, function, *args)
        except BrokenProcessPool:
            self.renew()
            return self._open().submit(_task, function, *args)

    def renew(self) -> None:
        """End all children at once and begin with fresh ones."""
        pool, self._pool = self._pool, None
        if pool is not None:
            for process in list((pool._processes or {}).values()):
                process.kill()
            pool.shutdown(wait=False, cancel_futures=True)

    close = renew

    def run(self, function: Callable[[Any], Any], tasks: Sequence[Any]) -> Iterator[Any]:
        if len(tasks) < _SMALL:
            for task in tasks:
                yield _alone(function, task)
            return
        ahead = self.size * 3
        pending: list[tuple[Any, Future[Any]]] = []
        queue = iter(tasks)
        while True:
            while len(pending) < ahead:
                task = next(queue, None)
                if task is None:
                    break
                pending.append((task, self.submit(function, task)))
            if not pending:
                return
            task, future = pending.pop(0)
            try:
                result = future.result(timeout=PAGE_SECONDS)
            except (BrokenProcessPool, TimeoutError):
                # one of those in flight is to blame: each gets a child for itself
                again = [task, *(t for t, _ in pending)]
                pending = []
                self.renew()
                for single in again:
                    yield self._by_itself(function, single)
                continue
            except Exception as problem:  # what the function itself raised
                result = problem
            yield result

    def _by_itself(self, function: Callable[[Any], Any], task: Any) -> Any:
        try:
            return self.submit(function, task).result(timeout=PAGE_SECONDS)
        except BrokenProcessPool:
            self.renew()
            return MemoryError("reading the page ended its process")
        except TimeoutError:
            self.renew()
            return TimeoutError(f"reading the page took more than {PAGE_SECONDS:g} seconds")
        except Exception as problem:
            return problem


def _alone(function: Callable[[Any], Any], task: Any) -> Any:
    try:
        return function(task)
    except Exception as problem:
        return problem
