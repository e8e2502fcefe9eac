"""What every job gets: its parameters, a fenced transaction, progress, the log, and the wish to stop."""

from __future__ import annotations

import json
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from typing import Any

from grandferry.core.plan import Plan
from grandferry.core.side import Side
from grandferry.store import crossings, jobs, secrets
from grandferry.store.db import connection


class Stopped(Exception):
    """A person asked for the job to stop; what is done so far stays."""


class Context:
    """One job being worked on. ``counters`` are shown as progress: ``done`` of ``all``, and others by name."""

    EVERY = 0.25  # seconds between two progress lines at the least

    def __init__(self, number: int, lease: int, crossing: int, kind: str, params: dict[str, Any]):
        self.number = number
        self.lease = lease
        self.crossing = crossing
        self.kind = kind
        self.params = params
        self.counters: dict[str, Any] = {}
        self._noted = 0.0
        self._fenced = threading.Event()
        self._wish = ""
        self._ended = threading.Event()
        self._beating = threading.Thread(target=self._beat, name="heartbeat", daemon=True)
        self._living = threading.Thread(target=self._alive, name="sign of life", daemon=True)

    def _beat(self) -> None:
        while not self._ended.wait(2.0):
            try:
                with connection():
                    self._wish = jobs.beat(self.number, self.lease)
            except jobs.Fenced:
                self._fenced.set()
                return
            except Exception:  # a locked database now and then must not end the heartbeat
                continue

    def _alive(self) -> None:
        while True:
            with suppress(OSError):  # a long transaction holds back heartbeats, and is no reason to start anew
                jobs.sign_of_life().touch()
            if self._ended.wait(2.0):
                return

    def __enter__(self) -> Context:
        self._wish = jobs.beat(self.number, self.lease)
        self._beating.start()
        self._living.start()
        return self

    def __exit__(self, *_: object) -> None:
        self._ended.set()
        self._beating.join()
        self._living.join()

    @property
    def side(self) -> Side:
        """The side of the crossing that the job works on."""
        return Side(self.crossing, self.params.get("side", "old"))

    @property
    def plan(self) -> Plan:
        return crossings.load_plan(self.crossing)

    @contextmanager
    def writing(self) -> Iterator[None]:
        """An immediate transaction that fails when another worker holds the job."""
        with jobs.fenced(self.number, self.lease):
            yield

    def progress(self, force: bool = False, **counters: Any) -> None:
        """Show counters (at most four times a second). Raises Stopped or Fenced when the job must end."""
        self.counters.update(counters)
        self.heed()
        moment = time.monotonic()
        if force or moment - self._noted >= self.EVERY:
            self._noted = moment
            jobs.note_progress(self.number, self.lease, self.counters)

    @property
    def paused(self) -> bool:
        """Whether a person asked for a pause that is not over."""
        return self._wish == "pause"

    def heed(self) -> None:
        if self._fenced.is_set():
            raise jobs.Fenced(f"Job {self.number} was taken up by another worker.")
        if self._wish == "stop":
            raise Stopped

    def log(self, text: str, kind: str = "log", **data: Any) -> None:
        with self.writing():
            jobs.add_event(self.crossing, self.number, kind, text, data)


def access_of(crossing: int) -> Callable[[str], dict[str, str]]:
    """A function from a host (with its port) to the headers that give access to it."""
    known = secrets.secrets(crossing)
    return lambda host: secrets.access_headers(known, host)


def job_params(text: str) -> dict[str, Any]:
    return dict(json.loads(text or "{}"))
