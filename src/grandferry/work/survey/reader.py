"""Answers read in child processes, several at a time; one that ends its child or takes too long costs only itself."""

from __future__ import annotations

import asyncio
import contextlib
import pickle
import socket
from collections import deque
from multiprocessing.context import ForkServerProcess

from grandferry.core.address import Scope
from grandferry.net.fetch import Fetched
from grandferry.store import bodies
from grandferry.work.jobs.child import BUFFER, LENGTH, serve
from grandferry.work.jobs.pool import PAGE_SECONDS, context, workers
from grandferry.work.survey.reading import Reading, Task

MOST = 12  # pages handed to a child at once
MOST_BYTES = 1_500_000
AHEAD = 3  # batches that a child has, so that it never waits for the next one

Waiting = tuple[Task, "asyncio.Future[Reading]"]


class _Ended(Exception):
    """The child is gone (``slow``: ended by us, since it took too long). ``begun``: it had begun with this batch."""

    def __init__(self, begun: bool, slow: bool):
        super().__init__()
        self.begun = begun
        self.slow = slow


class _Child:
    """A process that reads answers, asked over a socket of its own; batches are answered in the order they were
    asked."""

    def __init__(self, scope: Scope):
        self._scope = scope
        self.asked = 0  # batches that it has and has not yet answered
        self._turn = asyncio.Lock()
        self._process: ForkServerProcess | None = None
        self._in: asyncio.StreamReader | None = None
        self._out: asyncio.StreamWriter | None = None
        self._ended: _Ended | None = None

    async def _start(self) -> None:
        ours, theirs = socket.socketpair()
        ours.setsockopt(socket.SOL_SOCKET, socket.SO_SNDBUF, BUFFER)
        theirs.setsockopt(socket.SOL_SOCKET, socket.SO_SNDBUF, BUFFER)
        process = context().Process(target=serve, args=(theirs, self._scope), daemon=True)
        self._in, self._out = await asyncio.open_connection(sock=ours, limit=BUFFER)
        self._out.transport.set_write_buffer_limits(high=BUFFER * 64)
        await asyncio.to_thread(process.start)  # which waits for the process that children are forked from
        theirs.close()
        self._process = process

    async def read(self, tasks: list[Task]) -> list[Reading | str]:
        """The readings of some answers, a sentence in the place of one that cannot be read. Raises _Ended."""
        if self._process is None:
            async with self._turn:
                if self._process is None:
                    await self._start()
        process = self._process
        assert self._in is not None and self._out is not None
        asked = pickle.dumps(tasks, 5)
        self._out.write(LENGTH.pack(len(asked)))
        self._out.write(asked)
        async with self._turn:
            if self._process is not process or process is None:
                raise _Ended(begun=False, slow=False)
            try:
                async with asyncio.timeout(PAGE_SECONDS):
                    (length,) = LENGTH.unpack(await self._in.readexactly(LENGTH.size))
                    made: list[Reading | str] = pickle.loads(await self._in.readexactly(length))
                    return made
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


class Reader:
    """Hands answers to children. While all are busy, what comes in waits and goes together."""

    def __init__(self, scope: Scope):
        self._scope = scope
        self._children = [_Child(scope) for _ in range(workers())]
        self._waiting: deque[Waiting] = deque()
        self._some = asyncio.Event()
        self._pumps: list[asyncio.Task[None]] = []

    async def warm(self) -> None:
        """Wait until the children are there."""
        await asyncio.gather(*(child.read([]) for child in self._children))

    def start(self) -> None:
        """Start the children, without waiting for them."""
        self._pumps = [asyncio.create_task(self._pump(child)) for _ in range(AHEAD) for child in self._children]

    def close(self) -> None:
        for pump in self._pumps:
            pump.cancel()
        for child in self._children:
            child.close()

    async def read(self, got: Fetched) -> Reading:
        """What is read from one answer; never raises for what the page is."""
        future: asyncio.Future[Reading] = asyncio.get_running_loop().create_future()
        self._waiting.append(((got.url, got.header("content-type"), got.body, got.hashed), future))
        self._some.set()
        return await future

    async def _pump(self, child: _Child) -> None:
        """Give a child one batch after the other. Each child has several pumps: while one waits for its answer, the
        other has given the next."""
        with contextlib.suppress(Exception):  # whatever it is, the first batch says it
            await child.read([])
        while True:
            # a child that has something to do is given full batches only
            while not self._waiting or (child.asked and len(self._waiting) < MOST):
                self._some.clear()
                await self._some.wait()
            batch = self._batch()
            child.asked += 1
            try:
                readings = await self._together(child, [task for task, _ in batch])
            except Exception as problem:
                readings = [f"The page cannot be read: {type(problem).__name__}: {problem}."] * len(batch)
            finally:
                child.asked -= 1
                self._some.set()
            for (task, future), reading in zip(batch, readings, strict=True):
                if not future.done():
                    future.set_result(reading if isinstance(reading, Reading) else unread(task, reading))

    def _batch(self) -> list[Waiting]:
        batch = [self._waiting.popleft()]
        size = len(batch[0][0][2])
        while self._waiting and len(batch) < MOST and size < MOST_BYTES:
            batch.append(self._waiting.popleft())
            size += len(batch[-1][0][2])
        return batch

    async def _together(self, child: _Child, tasks: list[Task]) -> list[Reading | str]:
        """Readings of these tasks; when their child dies or hangs over them, each is read again by itself."""
        while True:
            try:
                return await child.read(tasks)
            except _Ended as ended:
                if not ended.begun:
                    continue  # it was another batch that ended the child
                if len(tasks) == 1:
                    return [_fault(ended)]
            return [await self._alone(task) for task in tasks]

    async def _alone(self, task: Task) -> Reading | str:
        child = _Child(self._scope)
        try:
            return (await child.read([task]))[0]
        except _Ended as ended:
            return _fault(ended)
        finally:
            child.close()


def _fault(ended: _Ended) -> str:
    if ended.slow:
        return f"Reading the page took more than {PAGE_SECONDS:g} seconds."
    return "Reading the page ended its process."


def unread(task: Task, fault: str) -> Reading:
    """The reading of a page that could not be read: kept as captured, with the reason."""
    _, content_type, body, digest = task
    packed, data = bodies.pack(body, content_type.partition(";")[0].strip().lower())
    return Reading("page", digest or bodies.digest(body), packed, data, fault=fault)
