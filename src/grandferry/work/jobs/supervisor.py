"""Keeps one worker process alive: watches that it runs and that its heartbeat goes on.

The worker takes its imports a moment, so it is started before this process has made its own: the store is imported by
the thread that watches, once the workspace is open.
"""

from __future__ import annotations

import contextlib
import os
import subprocess
import sys
import threading
import time
from pathlib import Path
from types import TracebackType

QUICK = 5.0  # seconds: a worker that ends by itself before could not start
STARTS = 4  # … so many times in a row, and it is not started again before a further job is asked for
CANNOT = "The worker cannot start: it ended {} times at once. What it said stands where the program was started."


class Supervisor:
    """Start with ``with Supervisor(folder):``; a worker that ends or falls silent is replaced within 10 seconds, one
    that cannot start is told. With ``anew``, jobs left by a program that has ended are ended: who asks for one thing is
    not to wait for another."""

    def __init__(self, folder: Path, anew: bool = False):
        self._folder = folder.resolve()
        self._anew = anew
        self._worker: subprocess.Popen[bytes] | None = None
        self._ended = threading.Event()
        self._thread = threading.Thread(target=self._watch, name="supervisor", daemon=True)
        self._began = 0.0
        self._quick = 0
        self.restarts = 0

    @property
    def pid(self) -> int:
        return self._worker.pid if self._worker else 0

    def _start(self, anew: bool = False) -> None:
        self._began = time.monotonic()
        self._worker = subprocess.Popen(
            # not as a module: children of the worker would import all of it again before their first page
            [
                sys.executable,
                "-P",  # nothing of the folder it starts in is on its path, nor on that of its children
                "-c",
                "import sys; from grandferry.work.jobs.worker import main; sys.exit(main())",
                "--data",
                str(self._folder),
                "--parent",
                str(os.getpid()),
                *(["--anew"] if anew else []),
            ],
            stdin=subprocess.DEVNULL,
            cwd=self._folder,
            # pages are read by processes; threads would only wait
            env=os.environ | {"OPENBLAS_NUM_THREADS": "1", "PYTHONSAFEPATH": "1"},
        )

    def _watch(self) -> None:
        from grandferry.store import jobs
        from grandferry.store.db import connection, is_open

        while not self._ended.wait(0.2):
            if not is_open():
                continue
            assert self._worker is not None
            ended = self._worker.poll() is not None
            if not ended and self._silent():
                self._worker.kill()
                self._worker.wait()
                ended = True
            if ended and not self._ended.is_set():
                by_itself = (self._worker.returncode or 0) > 0 and time.monotonic() - self._began < QUICK
                self._quick = self._quick + 1 if by_itself else 0
                if self._quick >= STARTS:
                    self._tell_and_wait()
                    if self._ended.is_set():
                        return
                self.restarts += 1
                with contextlib.suppress(Exception), connection():  # a database that is locked just now
                    jobs.add_event(None, None, "worker", "The worker ended and was started again; its job goes on.")
                time.sleep(min(0.1 * self.restarts, 2.0))
                self._start()

    def _tell_and_wait(self) -> None:
        """Fail what waits for a worker that cannot start, and wait until somebody asks for something again."""
        from grandferry.store import jobs
        from grandferry.store.db import connection

        told = CANNOT.format(self._quick)
        print(told, file=sys.stderr)
        failed = False
        while not self._ended.wait(0.2):
            with contextlib.suppress(Exception), connection():  # a database that is locked is asked again
                if not failed:
                    jobs.fail_all(told)
                    failed = True
                elif jobs.posts().queued:  # one try more
                    self._quick = STARTS - 1
                    return

    def _silent(self) -> bool:
        """Whether nothing was heard of the worker for too long. One that has just begun has as long to take up what the
        last one left, whose silence is not its own."""
        from grandferry.store import jobs
        from grandferry.store.db import connection

        with connection():
            last = jobs.posts().heartbeat
        if not last or time.monotonic() - self._began <= jobs.STALE:
            return False
        with contextlib.suppress(OSError):
            last = max(last, jobs.sign_of_life().stat().st_mtime)
        return time.time() - last > jobs.STALE

    def __enter__(self) -> Supervisor:
        self._start(self._anew)
        self._thread.start()
        return self

    def __exit__(
        self, kind: type[BaseException] | None, value: BaseException | None, trace: TracebackType | None
    ) -> None:
        self._ended.set()
        self._thread.join()
        if self._worker is not None and self._worker.poll() is None:
            self._worker.terminate()
            try:
                self._worker.wait(5)
            except subprocess.TimeoutExpired:
                self._worker.kill()
                self._worker.wait()
