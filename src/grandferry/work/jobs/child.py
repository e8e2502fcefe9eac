"""A child process that works on pages: what it is given and gives back goes over a socket of its own.

A message is its length (eight bytes, little-endian) and a pickle: (the function as a pickle, or None for the one it was
given last; tasks) one way, a result or an exception for each task the other.
"""

from __future__ import annotations

import gc
import pickle
import resource
import signal
import socket
import struct
from collections.abc import Callable
from typing import Any, BinaryIO

LENGTH = struct.Struct("<Q")
BUFFER = 1_000_000
MEMORY_CAP = 3_000_000_000  # bytes of address space a child may take
TASK_SECONDS = 30.0  # for one message, by whoever asked
ALONE_SECONDS = TASK_SECONDS + 5  # … and by the child itself, in case that one is no more
COLLECT_EVERY = 64  # pages
COLLECT_ALL_EVERY = 4096


class PageGarbage:
    """Page trees are large and full of circles, so the collector runs between pages, not within them
    (measured: it halves the time of reading a page). Use as a context; call after each page."""

    def __init__(self) -> None:
        self._pages = 0

    def __enter__(self) -> PageGarbage:
        gc.freeze()  # what was imported is no garbage and need not be looked at again
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


def attempt(function: Callable[[Any], Any], task: Any) -> Any:
    """The result of a function, or what it raised in its place (told by its text, where it cannot be handed over)."""
    try:
        return function(task)
    except Exception as problem:
        try:
            pickle.loads(pickle.dumps(problem))
        except Exception:
            return RuntimeError(f"{type(problem).__name__}: {problem}")
        return problem


def serve(theirs: socket.socket) -> None:
    """A child's whole life: do what it is given until the other end is gone. Stuck in a page, the kernel ends it,
    which needs no help of the interpreter (SIGALRM)."""
    signal.signal(signal.SIGALRM, signal.SIG_DFL)
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY_CAP, MEMORY_CAP))
    theirs.setblocking(True)
    function: Callable[[Any], Any] = _nothing
    with PageGarbage() as collect, theirs, theirs.makefile("rb", BUFFER) as given:
        while (work := received(given)) is not None:
            wanted, tasks = pickle.loads(work)
            if wanted is not None:
                function = pickle.loads(wanted)
            signal.setitimer(signal.ITIMER_REAL, ALONE_SECONDS)
            made = pickle.dumps([attempt(function, task) for task in tasks], 5)
            signal.setitimer(signal.ITIMER_REAL, 0)
            try:
                theirs.sendall(LENGTH.pack(len(made)) + made)
            except OSError:  # the other end went away in the meantime
                return
            collect(len(tasks))


def received(given: BinaryIO) -> bytes | None:
    """The next work handed over; None once the other end is gone, however it went (closed, killed, reset)."""
    try:
        lengths = given.read(LENGTH.size)
        if len(lengths) < LENGTH.size:
            return None
        length = LENGTH.unpack(lengths)[0]
        work = given.read(length)
    except OSError:
        return None
    return work if len(work) == length else None


def _nothing(_: Any) -> None:
    return None
