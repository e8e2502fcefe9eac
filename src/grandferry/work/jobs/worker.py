"""The worker process: takes jobs up one after the other until told to end.

Started by the supervisor, with ``--data DIR``. It waits until the workspace has no other worker: two that write into
one crossing would not know of each other's rows.
"""

from __future__ import annotations

import argparse
import fcntl
import gc
import importlib
import os
import signal
import sqlite3
import sys
import threading
import time
import traceback
from collections.abc import Callable
from typing import Any

import peewee

from grandferry.core.errors import FerryError
from grandferry.core.jobs import JOBS, Finding
from grandferry.core.side import SIDES, Side
from grandferry.store import jobs
from grandferry.store.db import fault
from grandferry.store.schema import Job
from grandferry.store.workspace import close_workspace, open_workspace
from grandferry.work.jobs import children
from grandferry.work.jobs.context import Context, Stopped, job_params

FINISH_TRIES = 30
FINISH_PAUSE = 2.0  # seconds


def runner(kind: str) -> Callable[[Context], dict[str, Any]]:
    """The function that does a kind of job; its module is imported when the first one comes, so that a worker is there
    at once. Raises KeyError for a kind that nobody knows."""
    module = importlib.import_module(f"grandferry.work.{JOBS[kind].room}")
    return module.run  # type: ignore[no-any-return]


def work_on(job: Job) -> None:
    """Run one claimed job to its end; its outcome is written, whatever happens."""
    number, lease = job.id, job.lease
    try:
        with Context(number, lease, job.crossing_id, job.kind, job_params(job.params)) as context:
            result = runner(job.kind)(context)
            jobs.finish(number, lease, "done", result)
    except Stopped:
        jobs.finish(number, lease, "stopped", error="stopped by a person")
    except jobs.Fenced:
        return
    except FerryError as problem:
        _failed(number, lease, str(problem))
    except KeyboardInterrupt:
        raise
    except (sqlite3.Error, peewee.DatabaseError, OSError) as problem:
        traceback.print_exc()
        _failed(number, lease, fault(problem))
    except Exception as problem:
        traceback.print_exc()
        _failed(number, lease, f"{job.kind} failed: {type(problem).__name__}: {problem}")


def _lay_ready(crossing: int) -> None:
    """Leave on disk what the lists of a large crossing need. Without it they are slower, and nothing else is lost."""
    try:
        from grandferry.store.lists import windows  # a worker is there sooner without it

        for name in SIDES:
            windows.prepare(Side(crossing, name))
    except Exception:
        traceback.print_exc()


def _failed(number: int, lease: int, error: str) -> None:
    for attempt in range(FINISH_TRIES):
        try:
            jobs.finish(number, lease, "failed", error=error)
            return
        except jobs.Fenced:
            return
        except (sqlite3.Error, peewee.DatabaseError):
            if attempt + 1 == FINISH_TRIES:
                raise
            time.sleep(FINISH_PAUSE)  # of a full disk nothing can be noted, until there is room


def main() -> int:
    parser = argparse.ArgumentParser(prog="grandferry.work.jobs.worker")
    parser.add_argument("--data", required=True)
    parser.add_argument("--parent", type=int, default=0, help="end when this process is gone")
    parser.add_argument("--anew", action="store_true", help="what an ended program left undone is not gone on with")
    args = parser.parse_args()
    signal.signal(signal.SIGTERM, lambda *_: sys.exit(0))
    if args.parent:
        threading.Thread(target=_watch, args=(args.parent,), daemon=True).start()
    children.prepare()
    gc.freeze()
    gc.set_threshold(50_000, 20, 20)  # long runs of small records; full collections are rare and cheap this way
    try:
        open_workspace(args.data, mapped=False)
    except FerryError as problem:
        print(problem, file=sys.stderr)
        return 2
    try:
        descriptor = os.open(jobs.worker_lock(), os.O_RDWR | os.O_CREAT, 0o600)
        _take_over(descriptor, args.anew)
        while True:
            job = jobs.claim()
            if job is None:
                time.sleep(0.03)
                continue
            work_on(job)
            if Finding.ADDRESSES in JOBS[job.kind].changes:
                _lay_ready(job.crossing_id)
    except KeyboardInterrupt:
        return 0
    finally:
        close_workspace()


def _take_over(descriptor: int, anew: bool) -> None:
    """Wait until this is the workspace's only worker, and see to what the last one left."""
    left = jobs.begun() if anew else []
    fcntl.lockf(descriptor, fcntl.LOCK_EX)  # of this process alone: its children do not hold it, its end lets it go
    jobs.end_left(left)
    jobs.release()


def _watch(parent: int) -> None:
    while os.getppid() == parent:
        time.sleep(0.1)
    os._exit(0)
