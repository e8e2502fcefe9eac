"""Keeps one worker process alive: watches that it runs and that its heartbeat goes on."""

from __future__ import annotations

import contextlib
import os
import subprocess
import sys
import threading
import time
from pathlib import Path
from types import TracebackType

from grandferry.store import jobs
from grandferry.store.db import connection


class Supervisor:
    """Start with ``with Supervisor(folder):``; a worker that ends or falls silent is replaced within 10 seconds."""

    def __init__(self, folder: Path):
        self._folder = folder.resolve()
        self._worker: subprocess.Popen[bytes] | None = None
        self._ended = threading.Event()
        self._thread = threading.Thread(target=self._watch, name="supervisor", daemon=True)
        self.restarts = 0

    @property
    def pid(self) -> int:
        return self._worker.pid if self._worker else 0

    def _start(self) -> None:
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
            ],
            stdin=subprocess.DEVNULL,
            cwd=self._folder,
            # pages are read by processes; threads would only wait
            env=os.environ | {"OPENBLAS_NUM_THREADS": "1", "PYTHONSAFEPATH": "1"},
        )

    def _watch(self) -> None:
        while not self._ended.wait(0.2):
            assert self._worker is not None
            ended = self._worker.poll() is not None
            if not ended and self._silent():
                self._worker.kill()
                self._worker.wait()
                ended = True
            if ended and not self._ended.is_set():
                self.restarts += 1
                try:
                    with connection():
                        jobs.release()
                        jobs.add_event(None, None, "worker", "The worker ended and was started again; its job goes on.")
                except Exception:  # a database that is locked just now frees the job by its age instead
                    pass
                time.sleep(min(0.1 * self.restarts, 2.0))
                self._start()

    def _silent(self) -> bool:
        with connection():
            last = jobs.posts().heartbeat
        if not last:
            return False
        with contextlib.suppress(OSError):
            last = max(last, jobs.sign_of_life().stat().st_mtime)
        return time.time() - last > jobs.STALE

    def __enter__(self) -> Supervisor:
        self._start()
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
