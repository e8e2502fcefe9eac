"""Queueing a job and waiting for its end."""

from __future__ import annotations

import json
import time
from collections.abc import Callable
from typing import Any

from grandferry.core.errors import StageFailed
from grandferry.store import jobs

# (job kind, its counters while it runs)
Watcher = Callable[[str, dict[str, Any]], None]


def run_job(kind: str, crossing: int, params: dict[str, Any], watch: Watcher | None = None) -> dict[str, Any]:
    """Queue a job and wait for its end; a worker must be running. Raises StageFailed."""
    number = jobs.add_job(kind, crossing, params)
    while True:
        found = jobs.job(number)
        if watch is not None:
            watch(kind, json.loads(found.counters))
        if found.state in ("done", "failed", "stopped"):
            break
        time.sleep(0.03)
    if found.state != "done":
        raise StageFailed(found.error or f"{kind} was {found.state}.")
    return dict(json.loads(found.result))
