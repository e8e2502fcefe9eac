"""Page work in child processes, several tasks at a time; one that ends its child or takes too long costs only
itself."""

from __future__ import annotations

import asyncio
import contextlib
import multiprocessing
import multiprocessing.forkserver
import os
import pickle
import socket
from collections import deque
from collections.abc import Callable
from multiprocessing.context import ForkServerContext, ForkServerProcess
from typing import Any

from .child import BUFFER, LENGTH, TASK_SECONDS, serve

START_SECONDS = 60.0  # for a child to be there, which is no page's fault
MOST = 12  # tasks handed to a child at once
MOST_BYTES = 1_500_000
AHEAD = 3  # messages that a child has, so that it never waits for the next one
# what a child imports takes its time, and is made once, in the process that children are forked from
PRELOADED = ["grandferry.work.jobs.child", "grandferry.work.survey.reading"]

Waiting = tuple[Any, int, "asyncio.Future[Any]"]


class TaskEnded(Exception):
    """A task that ended its child, or was ended since it took too long."""


class _Ended(Exception):
    """The child is gone (``slow``: ended by us, since it took too long). ``begun``: it had begun with these tasks."""

    def __init__(self, begun: bool, slow: bool):
        super().__init__()
        self.begun = begun
        self.slow = slow


def workers() -> int:
    return max(1, min(8, os.cpu_count() or 1))


def _context() -> ForkServerContext:
    made = multiprocessing.get_context("forkserver")
    made.set_forkserver_preload(PRELOADED)
    return made


def prepare() -> None:
    """Start the process that children are forked from, which takes its imports a moment: before the first job comes."""
    _context()
    multiprocessing.forkserver.ensure_running()


class _Child:
    """A process that is asked over a socket; messages are answered in the order they were sent."""

    def __init__(self, function: bytes):
        self._function = function
        self.asked = 0  # messages that it has and has not yet answered
        self._turn = asyncio.Lock()
        self._process: ForkServerProcess | None = None
        self._in: asyncio.StreamReader | None = None
        self._out: asyncio.StreamWriter | None = None

    async def _start(self) -> None:
        ours, theirs = socket.socketpair()
        ours.setsockopt(socket.SOL_SOCKET, socket.SO_SNDBUF, BUFFER)
        theirs.setsockopt(socket.SOL_SOCKET, socket.SO_SNDBUF, BUFFER)
        process = _context().Process(target=serve, args=(theirs,), daemon=True)
        self._in, self._out = await asyncio.open_connection(sock=ours, limit=BUFFER)
        self._out.transport.set_write_buffer_limits(high=BUFFER * 64)
        await asyncio.to_thread(process.start)  # which waits for the process that children are forked from
        theirs.close()
        try:
            self._send((self._function, []))
            await self._answer(START_SECONDS)
        except (TimeoutError, OSError, EOFError):
            process.kill()
            self._out.transport.abort()
            raise TaskEnded("No process could be started to read the page in.") from None
        self._process = process

    def _send(self, message: tuple[bytes | None, list[Any]]) -> None:
        assert self._out is not None
        made = pickle.dumps(message, 5)
        self._out.write(LENGTH.pack(len(made)))
        self._out.write(made)

    async def _answer(self, seconds: float) -> list[Any]:
        assert self._in is not None
        async with asyncio.timeout(seconds):
            (length,) = LENGTH.unpack(await self._in.readexactly(LENGTH.size))
            made: list[Any] = pickle.loads(await self._in.readexactly(length))
            return made

    async def ready(self) -> None:
        """Wait until the process is there and knows its function. Raises TaskEnded."""
        if self._process is None:
            async with self._turn:
                if self._process is None:
                    await self._start()

    async def ask(self, tasks: list[Any]) -> list[Any]:
        """The results of some tasks, an exception in the place of one that raised it. Raises _Ended and TaskEnded."""
        await self.ready()
        process = self._process
        self._send((None, tasks))
        async with self._turn:
            if self._process is not process or process is None:
                raise _Ended(begun=False, slow=False)
            try:
                return await self._answer(TASK_SECONDS)
            except TimeoutError:
                self.close()
                raise _Ended(begun=True, slow=True) from None
            except (OSError, EOFError):
                self.close()
                raise _Ended(begun=True, slow=False) from None

    def close(self) -> None:
        if self._process is not None:
            self._process.kill()
            self._process = None
        if self._out is not None:
            self._out.transport.abort()


class Children:
    """Hands tasks of one function to children. While all are busy, what comes in waits and goes together."""

    def __init__(self, function: Callable[[Any], Any], size: int | None = None):
        self._function = pickle.dumps(function, 5)
        self._children = [_Child(self._function) for _ in range(size or workers())]
        self._waiting: deque[Waiting] = deque()
        self._some = asyncio.Event()
        self._pumps: list[asyncio.Task[None]] = []

    async def warm(self) -> None:
        """Wait until the children are there."""
        await asyncio.gather(*(child.ready() for child in self._children))

    def start(self) -> None:
        """Start the children, without waiting for them."""
        self._pumps = [asyncio.create_task(self._pump(child)) for _ in range(AHEAD) for child in self._children]

    def close(self) -> None:
        for pump in self._pumps:
            pump.cancel()
        for child in self._children:
            child.close()

    async def ended(self) -> None:
        """Close, and wait until nothing of it goes on."""
        self.close()
        await asyncio.gather(*self._pumps, return_exceptions=True)

    def queue(self, task: Any, weight: int = 0) -> asyncio.Future[Any]:
        """What will be the result of one task: an exception in its place when it raised one, or TaskEnded. ``weight``:
        its bytes, so that a message does not become too large."""
        future: asyncio.Future[Any] = asyncio.get_running_loop().create_future()
        self._waiting.append((task, weight, future))
        self._some.set()
        return future

    async def ask(self, task: Any) -> Any:
        """The result of one task, as that of ``queue``."""
        return await self.queue(task)

    async def _pump(self, child: _Child) -> None:
        """Give a child one message after the other. Each child has several pumps: while one waits for its answer, the
        other has given the next."""
        with contextlib.suppress(Exception):  # whatever it is, the first message says it
            await child.ready()
        while True:
            # a child that has something to do is given full messages only
            while not self._waiting or (child.asked and len(self._waiting) < MOST):
                self._some.clear()
                await self._some.wait()
            batch = self._batch()
            child.asked += 1
            try:
                results = await self._together(child, [task for task, _, _ in batch])
            except Exception as problem:
                results = [problem] * len(batch)
            finally:
                child.asked -= 1
                self._some.set()
            for (_, _, future), result in zip(batch, results, strict=True):
                if not future.done():
                    future.set_result(result)

    def _batch(self) -> list[Waiting]:
        batch = [self._waiting.popleft()]
        size = batch[0][1]
        while self._waiting and len(batch) < MOST and size < MOST_BYTES:
            batch.append(self._waiting.popleft())
            size += batch[-1][1]
        return batch

    async def _together(self, child: _Child, tasks: list[Any]) -> list[Any]:
        """Results of these tasks; when their child dies or hangs over them, each is done again by itself."""
        while True:
            try:
                return await child.ask(tasks)
            except _Ended as ended:
                if not ended.begun:
                    continue  # it was another message that ended the child
                if len(tasks) == 1:
                    return [_fault(ended)]
            return [await self._alone(task) for task in tasks]

    async def _alone(self, task: Any) -> Any:
        child = _Child(self._function)
        try:
            return (await child.ask([task]))[0]
        except _Ended as ended:
            return _fault(ended)
        finally:
            child.close()


def _fault(ended: _Ended) -> TaskEnded:
    if ended.slow:
        return TaskEnded(f"Reading the page took more than {TASK_SECONDS:g} seconds.")
    return TaskEnded("Reading the page ended its process.")
