"""A function over many pages, for jobs that go one batch after the other: the children, asked from ordinary code."""

from __future__ import annotations

import asyncio
import threading
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Future
from typing import Any

from .child import attempt
from .children import AHEAD, MOST, Children, workers

_SMALL = 40  # fewer pages than this are done without children


class PagePool:
    """``run`` gives each task's result in order of the tasks, or an Exception in its place."""

    def __init__(self, size: int | None = None):
        self.size = size or workers()
        self._loop: asyncio.AbstractEventLoop | None = None
        self._children: dict[Callable[[Any], Any], Children] = {}

    def _of(self, function: Callable[[Any], Any]) -> tuple[asyncio.AbstractEventLoop, Children]:
        if self._loop is None:
            self._loop = asyncio.new_event_loop()
            threading.Thread(target=self._loop.run_forever, name="children", daemon=True).start()
        if function not in self._children:
            for other in self._children.values():  # a job's functions come one after the other
                asyncio.run_coroutine_threadsafe(other.ended(), self._loop).result()
            self._children = {function: Children(function, self.size)}
            self._loop.call_soon_threadsafe(self._children[function].start)
        return self._loop, self._children[function]

    def run(self, function: Callable[[Any], Any], tasks: Sequence[Any]) -> Iterator[Any]:
        if len(tasks) < _SMALL:
            for task in tasks:
                yield attempt(function, task)
            return
        loop, children = self._of(function)
        ahead = self.size * AHEAD * MOST
        pending: deque[Future[Any]] = deque()
        for task in tasks:
            pending.append(asyncio.run_coroutine_threadsafe(children.ask(task), loop))
            if len(pending) >= ahead:
                yield pending.popleft().result()
        while pending:
            yield pending.popleft().result()

    def close(self) -> None:
        loop, self._loop = self._loop, None
        if loop is None:
            return
        for children in self._children.values():
            asyncio.run_coroutine_threadsafe(children.ended(), loop).result()
        self._children = {}
        loop.call_soon_threadsafe(loop.stop)
