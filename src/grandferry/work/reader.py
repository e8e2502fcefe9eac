"""Answers read in child processes, several at a time; one that ends its child or takes too long costs only itself."""

from __future__ import annotations

import asyncio

from grandferry.core.address import Scope
from grandferry.net.fetch import Fetched
from grandferry.store import bodies

from .pool import PAGE_SECONDS, PagePool
from .reading import Reading, Task, read_answers

MOST = 12  # pages handed to a child at once
MOST_BYTES = 1_500_000


class Reader:
    """Hands answers to the children of a pool. While all are busy, what comes in waits and goes together."""

    def __init__(self, scope: Scope):
        self._scope = scope
        self._pool = PagePool()
        self._waiting: list[tuple[Task, asyncio.Future[Reading]]] = []
        self._busy = 0
        self._running: set[asyncio.Task[None]] = set()

    async def warm(self) -> None:
        """Wait until the children are there."""
        await asyncio.gather(*(asyncio.wrap_future(child) for child in self._pool.warm()))

    def start(self) -> None:
        """Start the children, without waiting for them."""
        self._pool.warm()

    def close(self) -> None:
        self._pool.close()

    async def read(self, got: Fetched) -> Reading:
        """What is read from one answer; never raises for what the page is."""
        future: asyncio.Future[Reading] = asyncio.get_running_loop().create_future()
        self._waiting.append(((got.url, got.header("content-type"), got.body, got.digest), future))
        self._hand_over()
        return await future

    def _hand_over(self) -> None:
        while self._waiting and self._busy < self._pool.size:
            batch: list[tuple[Task, asyncio.Future[Reading]]] = []
            size = 0
            while self._waiting and len(batch) < MOST and (not batch or size < MOST_BYTES):
                batch.append(self._waiting.pop(0))
                size += len(batch[-1][0][2])
            self._busy += 1
            running = asyncio.create_task(self._one(batch))
            self._running.add(running)
            running.add_done_callback(self._running.discard)

    async def _one(self, batch: list[tuple[Task, asyncio.Future[Reading]]]) -> None:
        tasks = [task for task, _ in batch]
        try:
            readings = await self._together(tasks)
            for (task, future), reading in zip(batch, readings, strict=True):
                if not future.done():
                    future.set_result(reading if isinstance(reading, Reading) else unread(task, reading))
        finally:
            self._busy -= 1
            self._hand_over()

    async def _together(self, tasks: list[Task]) -> list[Reading | str]:
        """Readings of these tasks; when their child dies or hangs, each is read again by itself."""
        future = self._pool.submit(read_answers, tasks, self._scope)
        try:
            return await asyncio.wait_for(asyncio.wrap_future(future), PAGE_SECONDS)
        except TimeoutError:
            self._pool.renew()
            if len(tasks) == 1:
                return [f"Reading the page took more than {PAGE_SECONDS:g} seconds."]  # not again
        except asyncio.CancelledError:
            current = asyncio.current_task()
            if current is not None and current.cancelling():
                raise  # the survey ends; otherwise the pool was renewed because of another page
        except Exception as problem:
            if type(problem).__name__ == "BrokenProcessPool":
                self._pool.renew()
            else:
                return [f"The page cannot be read: {problem}."] * len(tasks)
        if len(tasks) == 1:
            return [await self._alone(tasks[0])]
        return [(await self._together([task]))[0] for task in tasks]

    async def _alone(self, task: Task) -> Reading | str:
        pool = PagePool(1)
        try:
            future = pool.submit(read_answers, [task], self._scope)
            readings = await asyncio.wait_for(asyncio.wrap_future(future), PAGE_SECONDS)
            return readings[0]
        except TimeoutError:
            return f"Reading the page took more than {PAGE_SECONDS:g} seconds."
        except Exception as problem:
            return f"Reading the page ended its process ({type(problem).__name__})."
        finally:
            pool.close()


def unread(task: Task, fault: str) -> Reading:
    """The reading of a page that could not be read: kept as captured, with the reason."""
    _, content_type, body, digest = task
    packed, data = bodies.pack(body, content_type.partition(";")[0].strip().lower())
    return Reading("page", digest, packed, data, fault=fault)
